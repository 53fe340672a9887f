package house_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops/products"
)

func rowsOf(d products.Docket) map[string]products.DocketRow {
	out := map[string]products.DocketRow{}
	for _, r := range d.Rows {
		out[r.Aspect] = r
	}
	return out
}

// The three columns say what each side says, and where they disagree.
func TestADocketSetsTheThreeSidesBesideEachOther(t *testing.T) {
	l := newLantern(t, 2)
	l.sendAll()
	list := l.all()
	d, err := l.Products.Docket(t.Context(), list[0].ProductID, 0)
	require.NoError(t, err)
	require.Len(t, d.Listings, 2, "on Quaymarket and on Lantern Row")
	assert.Equal(t, []bool{false, true}, []bool{d.Listings[0].Own, d.Listings[1].Own})
	rows := rowsOf(d)
	assert.Contains(t, rows["Identity"].Supply, "R00")
	assert.Contains(t, rows["Identity"].Market, "same number")
	assert.Equal(t, "4.00 GBP", rows["Cost, price"].Supply)
	assert.Contains(t, rows["Stock"].Supply, "9 at")
	assert.Contains(t, rows["Stock"].Market, "confirmed")
	assert.Empty(t, rows["Title"].Notes)
	assert.Nil(t, d.Prepared)

	own, err := l.Products.Docket(t.Context(), list[0].ProductID, d.Listings[1].ID)
	require.NoError(t, err)
	require.NotNil(t, own.Prepared)
	assert.Contains(t, rowsOf(own)["Title"].Ours, "/60", "as it would go up, with its length")
	assert.Contains(t, rowsOf(own)["Attributes"].Notes, "condition is missing")
	assert.Equal(t, "a page of our own", rowsOf(own)["Identity"].Market)

	// The cost rises: it is said, and the change it makes waits.
	l.colouredAt("moss", "6.50")
	l.idle()
	d, err = l.Products.Docket(t.Context(), list[0].ProductID, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"cost up"}, rowsOf(d)["Cost, price"].Notes[:1])
	assert.Contains(t, rowsOf(d)["Cost, price"].Supply, "6.50 GBP · 4.00 on ")
	assert.Equal(t, int64(2), d.Waiting, "its stock to nothing, and its price up")

	_, err = l.Products.Docket(t.Context(), list[0].ProductID, 999)
	assert.Equal(t, fault.Missing, fault.KindOf(err))
}
