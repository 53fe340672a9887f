package house_test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// onSale lists products on Lantern Row with all they need, and sends them.
func onSale(t *testing.T, products int) (*lantern, []int64) {
	l := newLantern(t, products)
	d := asks(60)
	d["cooking"]["description"] = map[string]any{"limit": 500}
	l.row.Demands = d
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	var ids []int64
	for _, r := range l.queue("all") {
		l.say(r.ListingID, "attributes.condition", "New")
		l.say(r.ListingID, "attributes.colour", "Moss green")
		l.say(r.ListingID, "description", "A good thing for the hill.")
		ids = append(ids, r.ListingID)
	}
	l.sendAll()
	require.Len(t, l.row.Contents("GB"), products)
	return l, ids
}

func (l *lantern) sendWords(ids []int64) int64 {
	s, err := l.Sending.SendWords(l.t.Context(), ids, sending.How{})
	require.NoError(l.t, err)
	l.idle()
	return s.Lines
}

// What a listing on sale is to say otherwise goes by itself: the fields that
// differ, and neither its price nor its stock.
func TestChangedWordsOfAListingOnSaleAreSent(t *testing.T) {
	l, ids := onSale(t, 2)
	sku := l.one(ids[0]).SKU
	assert.Empty(t, l.queue("unsent"), "they say there what they are to say")
	assert.Zero(t, l.sendWords(nil))
	before := *l.row.Contents("GB")[sku]

	v := l.say(ids[0], "title", "Mug for the hill, by hand")
	assert.Equal(t, []string{"title"}, v.Changed)
	l.say(ids[0], "attributes.colour", "Rust red")
	v = l.say(ids[0], "description", "")
	assert.Equal(t, []string{"attributes.colour", "title", "description"}, v.Changed)
	rows := l.queue("unsent")
	require.Len(t, rows, 1)
	counts, err := l.Store.Counts(t.Context(), l.clock.Now())
	require.NoError(t, err)
	assert.Equal(t, int64(1), counts.Words)

	var got []map[string]any
	l.door.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method == http.MethodPost {
			raw, err := io.ReadAll(r.Body)
			var in struct{ Lines []map[string]any }
			if err == nil && json.Unmarshal(raw, &in) == nil {
				got = append(got, in.Lines...)
			}
			r.Body = io.NopCloser(bytes.NewReader(raw))
		}
		next.ServeHTTP(w, r)
	})
	assert.Equal(t, int64(1), l.sendWords(nil))
	require.Len(t, got, 1)
	assert.Equal(t, "change", got[0]["do"])
	assert.NotContains(t, got[0], "price")
	assert.NotContains(t, got[0], "quantity")
	assert.Equal(t, []any{"description"}, got[0]["cleared"])
	content, ok := got[0]["content"].(map[string]any)
	require.True(t, ok)
	assert.Equal(t, map[string]any{"title": "Mug for the hill, by hand", "attributes": map[string]any{"colour": "Rust red"}}, content, "only what differs")
	now := l.row.Contents("GB")[sku]
	assert.Equal(t, "Mug for the hill, by hand", now.Title)
	assert.Equal(t, map[string]string{"condition": "New", "colour": "Rust red"}, now.Attributes)
	assert.Empty(t, now.Description)
	assert.Equal(t, before.Category, now.Category)
	assert.Empty(t, l.queue("unsent"))
	row, err := l.Store.ListingRowOf(t.Context(), ids[0])
	require.NoError(t, err)
	assert.Equal(t, [2]any{store.ListingLive, *row.Price}, [2]any{row.State, *row.ConfirmedPrice})
	sound(t, l.Store)
}

// While words are on their way, stock that is gone doesn't wait for them.
func TestStockDoesNotWaitForWords(t *testing.T) {
	l, listed := onSale(t, 1)
	l.say(listed[0], "title", "Mug for the hill")
	l.row.SetDown(true)
	assert.Equal(t, int64(1), l.sendWords(nil), "they can't be handed over now")
	l.stocked(0)
	l.idle()
	l.row.SetDown(false)
	l.letPlanGo(l.here.ID)
	row, err := l.Store.ListingRowOf(t.Context(), listed[0])
	require.NoError(t, err)
	assert.Zero(t, row.ConfirmedQuantity)
	assert.Zero(t, l.sendWords(nil), "the same words aren't sent twice at once")
}

// Words that lack what the place needs stay here, and what is there stays.
func TestChangedWordsThatLackSomethingStayHere(t *testing.T) {
	l, ids := onSale(t, 1)
	sku := l.one(ids[0]).SKU
	l.say(ids[0], "title", "A title that is by far longer than the sixty characters that the place takes of one")
	l.sendWords(nil)
	assert.NotContains(t, l.row.Contents("GB")[sku].Title, "by far")
	row, err := l.Store.ListingRowOf(t.Context(), ids[0])
	require.NoError(t, err)
	assert.Equal(t, store.ListingLive, row.State, "it is on sale as it was")
	require.Len(t, l.queue("unsent"), 1)
}

// What a place refused with the same words is mended by the same word in all,
// which is offered for the next.
func TestWhatWasRefusedAlikeIsMendedAlike(t *testing.T) {
	l := newLantern(t, 3)
	rows := l.queue("all")
	for _, r := range rows {
		l.say(r.ListingID, "attributes.condition", "Used")
		l.say(r.ListingID, "attributes.colour", "Moss green")
	}
	l.door.said(http.MethodGet, "/batches/", func(answer map[string]any) {
		list, ok := answer["lines"].([]any)
		if !ok {
			return
		}
		for _, x := range list {
			line := x.(map[string]any)
			line["state"], line["field"], line["words"] = "refused", "attributes.condition", "Nothing used here."
		}
	})
	l.sendAll()
	all, err := l.Preparing.Refusals(t.Context())
	require.NoError(t, err)
	var mine preparing.RefusedAlike
	for _, r := range all {
		if r.SiteID == l.here.ID {
			mine = r
		}
	}
	require.Len(t, mine.Listings, 3)
	assert.Equal(t, [2]any{"Nothing used here.", true}, [2]any{mine.Words, mine.Mendable})
	assert.Empty(t, mine.Before)
	_, err = l.Preparing.Mend(t.Context(), preparing.Mending{SiteID: l.here.ID, Field: mine.Field, Words: "Other words", Values: []string{"New"}})
	assert.ErrorContains(t, err, "nothing is refused with these words")
	out, err := l.Preparing.Mend(t.Context(), preparing.Mending{SiteID: l.here.ID, Field: mine.Field, Words: mine.Words, Values: []string{"New"}})
	require.NoError(t, err)
	assert.Len(t, out, 3)
	l.idle()
	for _, r := range rows {
		assert.Equal(t, "New", field(l.one(r.ListingID), "attributes.condition").Value)
	}
	all, err = l.Preparing.Refusals(t.Context())
	require.NoError(t, err)
	for _, r := range all {
		if r.SiteID == l.here.ID {
			assert.Equal(t, []string{"New"}, r.Before, "what mended others is offered")
		}
	}
}
