package house_test

import (
	"fmt"
	"image/color"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

func typed() sources.NewProduct {
	return sources.NewProduct{Title: "Tarnwick Fell brass kettle 1.4 l", Brand: "Tarnwick", Cost: "11.20", Currency: "GBP", Stock: 4,
		Description: "Whistles.", Category: "cooking"}
}

func TestAProductFromNothing(t *testing.T) {
	l := newLantern(t, 1)
	pic, err := l.Preparing.AddPicture(t.Context(), block(t, 700, 700, color.Black))
	require.NoError(t, err)
	in := typed()
	in.Pictures, in.Sites = []string{pic.Digest}, []int64{l.here.ID}
	made, err := l.Sources.MakeProduct(t.Context(), in)
	require.NoError(t, err)
	require.Len(t, made.Prepared, 1)
	l.idle()
	v := l.one(made.Prepared[0])
	assert.Equal(t, "Tarnwick Fell brass kettle 1.4 l", v.Title)
	require.Len(t, v.Pictures, 1)
	assert.Equal(t, pic.Digest, v.Pictures[0].Digest)
	assert.NotNil(t, v.Price, "it is priced as all others are")
	l.say(v.ID, "attributes.condition", "New")
	l.sendAll()
	said := l.row.Contents("GB")[v.SKU]
	require.NotNil(t, said)
	assert.Equal(t, []string{"sha256:" + pic.Digest}, said.Pictures)

	again, err := l.Sources.MakeProduct(t.Context(), in)
	require.NoError(t, err, "the next of ours has the next ref")
	assert.NotEqual(t, made.ItemID, again.ItemID)
	l.idle()
	found := l.find("brass kettle")
	require.Len(t, found, 2)
	assert.ElementsMatch(t, []string{"OWN-1", "OWN-2"}, []string{found[0].Ref, found[1].Ref})
}

func TestAProductThatCantBeIsRefusedAndNothingIsMade(t *testing.T) {
	l := newLantern(t, 1)
	before := l.counts()
	for name, c := range map[string]struct {
		change func(*sources.NewProduct)
		words  string
	}{
		"no title":            {func(p *sources.NewProduct) { p.Title = " " }, "say what it is"},
		"a bad number":        {func(p *sources.NewProduct) { p.Number = "9520001424022" }, "is no product number"},
		"a bad cost":          {func(p *sources.NewProduct) { p.Cost = "about ten" }, "the cost can't be read as an amount"},
		"a bad currency":      {func(p *sources.NewProduct) { p.Currency = "GBX" }, "not a currency"},
		"a ref that is there": {func(p *sources.NewProduct) { p.Supplier, p.Ref = "Twice", "X-1" }, "has a product X-1 already"},
	} {
		in := typed()
		in.Sites = []int64{l.here.ID}
		if name == "a ref that is there" {
			first := typed()
			first.Supplier, first.Ref = "Twice", "X-1"
			_, err := l.Sources.MakeProduct(t.Context(), first)
			require.NoError(t, err)
		}
		c.change(&in)
		_, err := l.Sources.MakeProduct(t.Context(), in)
		assert.ErrorContains(t, err, c.words, name)
	}
	l.idle()
	assert.Equal(t, before.Products, l.counts().Products)
}

// What was wished for a typed product is done by whoever takes its row, a server
// after a crash too.
func TestATypedProductIsListedThoughTheServerStoppedInBetween(t *testing.T) {
	l := newLantern(t, 1)
	in := typed()
	_, err := l.Sources.MakeProduct(t.Context(), in) // so that its source is there
	require.NoError(t, err)
	s, _, err := l.Store.SourceNamed(t.Context(), "Own stock, typed in GBP")
	require.NoError(t, err)
	f, err := l.Sources.BringIn(t.Context(), strings.NewReader("ref,title,cost,stock\nOWN-9,Brass kettle,4.00,3\n"), sources.Arriving{Name: "typed in", SourceID: &s.ID})
	require.NoError(t, err)
	require.NoError(t, l.Store.Do(t.Context(), func(tx store.Tx) error {
		wish := store.Wish{FeedID: f.ID, Wish: fmt.Sprintf(`{"ref":"OWN-9","sites":[%d],"category":"cooking"}`, l.here.ID)}
		if err := tx.Create(&wish); err != nil {
			return err
		}
		return tx.UpdateFeed(f.ID, map[string]any{"state": store.FeedReading})
	}))
	require.NoError(t, l.Sources.Resume(t.Context()))
	l.idle()
	found := l.find("OWN-9")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Sites, "Lantern Row GB")
}

// A find is listed in one step where there is a catalogue and where there is none.
func TestAFindIsListedOnSeveralSitesInOneStep(t *testing.T) {
	l := newLantern(t, 2)
	_, err := l.bringIn("Brindlewick", "ref,title,brand,cost,stock,ean\nB-1,Otter flask 0.5 l,Ottermere,6.00,8,\n")
	require.NoError(t, err)
	l.idle()
	find := l.find("otter flask")
	require.Len(t, find, 1)
	require.NoError(t, l.Sources.ListOn(t.Context(), []int64{find[0].ID}, []int64{l.here.ID, l.site.ID}))
	l.idle()
	find = l.find("otter flask")
	assert.Contains(t, find[0].Sites, "Lantern Row GB")
	require.NotNil(t, find[0].ProductID)
	list, err := l.Store.Matches(t.Context(), []string{store.MatchSeveral}, store.Page{Limit: 10})
	require.NoError(t, err)
	require.Len(t, list.Rows, 1, "it has no number: it waits on Match for the catalogue")
	require.NoError(t, l.Sources.ListOn(t.Context(), []int64{find[0].ID}, []int64{l.here.ID}), "twice is once")
	assert.Len(t, l.queue("all"), 3)
}
