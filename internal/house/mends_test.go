package house_test

import (
	"encoding/csv"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// refusedTwo is a fold at which Copperfold refused two of eight.
func refusedTwo(t *testing.T) (*fold, []store.SendLineRow) {
	f := newFold(t, 8)
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	sent, err := f.Sending.SendListings(t.Context(), f.ready(), sending.How{})
	require.NoError(t, err)
	f.idle()
	files := f.files()
	require.Equal(t, http.StatusOK, f.upload(files[0].Name, f.content(files[0].ID)))
	f.clock.Forward(49 * time.Hour)
	f.report("1")
	lines, err := f.Store.SendLines(t.Context(), sent.SendOuts[0], "refused", store.Page{})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 2)
	return f, lines.Rows
}

func (f *fold) title(id int64) string {
	x, err := f.Preparing.One(f.t.Context(), id, nil)
	require.NoError(f.t, err)
	return x.Title
}

// A report with its rows mended, in the columns of the place's own blank, is
// dropped back: what is as it was sent, or nothing of ours, changes nothing.
func TestAReportIsMendedAndDroppedBack(t *testing.T) {
	f, refused := refusedTwo(t)
	was := [2]string{f.title(refused[0].ListingID), f.title(refused[1].ListingID)}
	report := "Line,SKU,Status,Message,Title,Price\n" +
		"1," + refused[0].SKU + ",refused,say in the title what it is made of,\"Skarholt mug, titanium\",1.00\n" +
		"2," + refused[1].SKU + ",refused,say in the title what it is made of," + was[1] + ",1.00\n" +
		"3,NOBODY-1,refused,,Whose,1.00\n"
	look, err := f.Preparing.LookMends(t.Context(), f.here.ID, "report.csv", []byte(report))
	require.NoError(t, err)
	require.Len(t, look.Changes, 1)
	assert.Equal(t, [4]string{refused[0].SKU, "title", was[0], "Skarholt mug, titanium"},
		[4]string{look.Changes[0].SKU, look.Changes[0].Field, look.Changes[0].Before, look.Changes[0].After})
	assert.Equal(t, []string{"NOBODY-1"}, look.Strange)
	assert.Contains(t, look.Unused, "Price", "neither prices nor stock are taken from there")
	assert.Equal(t, was[0], f.title(refused[0].ListingID), "looking changes nothing")
	ids, err := f.Preparing.TakeMends(t.Context(), f.here.ID, look.Token)
	require.NoError(t, err)
	assert.Equal(t, []int64{refused[0].ListingID}, ids)
	assert.Equal(t, [2]string{"Skarholt mug, titanium", was[1]}, [2]string{f.title(refused[0].ListingID), f.title(refused[1].ListingID)})
	_, err = f.Preparing.TakeMends(t.Context(), f.here.ID, look.Token)
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "once")
	again, err := f.Preparing.LookMends(t.Context(), f.here.ID, "report.csv", []byte(report))
	require.NoError(t, err)
	assert.Empty(t, again.Changes, "it is said already")
}

// What was refused comes as a file too: a value is mended in it, and it is dropped back.
func TestOurFileOfWhatWasRefusedIsMended(t *testing.T) {
	f, refused := refusedTwo(t)
	_, err := f.Preparing.RefusedFile(t.Context(), f.here.ID, "pdf")
	assert.ErrorContains(t, err, "csv or xlsx")
	raw, err := f.Preparing.RefusedFile(t.Context(), f.here.ID, "csv")
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(raw), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, []string{"SKU", "title", "what they said", "field", "value"}, rows[0])
	words := map[string]string{refused[0].SKU: refused[0].Words, refused[1].SKU: refused[1].Words}
	var b strings.Builder
	w := csv.NewWriter(&b)
	for i, r := range rows {
		if i > 0 {
			assert.Equal(t, words[r[0]], r[2])
			if r[3] == "title" {
				r[4] = "'=Titanium " + r[4]
			}
		}
		require.NoError(t, w.Write(r))
	}
	w.Flush()
	look, err := f.Preparing.LookMends(t.Context(), f.here.ID, "refused.csv", []byte(b.String()))
	require.NoError(t, err)
	require.Len(t, look.Changes, 1, "the other stayed as it was")
	ids, err := f.Preparing.TakeMends(t.Context(), f.here.ID, look.Token)
	require.NoError(t, err)
	require.Len(t, ids, 1)
	assert.True(t, strings.HasPrefix(f.title(ids[0]), "=Titanium "), "the apostrophe that kept it from being a formula isn't part of it")
}

func TestAFileOfMendsThatSaysNothing(t *testing.T) {
	f, _ := refusedTwo(t)
	for text, words := range map[string]string{
		"":                     "empty",
		"Status,Title\nno,x\n": "no column of SKUs",
		"SKU,Status\nA-1,no\n": "no column that says a field",
	} {
		_, err := f.Preparing.LookMends(t.Context(), f.here.ID, "report.csv", []byte(text))
		assert.ErrorContains(t, err, words)
	}
}
