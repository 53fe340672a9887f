package house_test

import (
	"image/color"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// What has no entry in a catalogue gets one of its own: asked for on Match,
// completed on Prepare, sent, and from then on an offer like any other.
func TestANewEntryIsCompletedAndTied(t *testing.T) {
	s := newStall(t, 1)
	_, err := s.bringIn("Brindlewick", "ref,title,brand,cost,stock,ean,weight,description\n"+
		"B-1,Zephyrine quill holder,Ottermere,6.00,8,9520009990009,320 g,\"Keeps quills dry in the wettest of weathers, on any belt.\"\n")
	require.NoError(t, err)
	s.idle()
	list, err := s.Store.Matches(t.Context(), []string{store.MatchNone, store.MatchSeveral}, store.Page{Limit: 10})
	require.NoError(t, err)
	require.Len(t, list.Rows, 1)
	id := list.Rows[0].ID
	decide := func(state string) {
		_, err := s.Matching.Decide(t.Context(), id, matching.Decision{State: state})
		require.NoError(t, err)
		s.idle()
	}
	queue := func() []store.PreparationRow {
		l, err := s.Store.Preparations(t.Context(), store.PreparationFilter{Part: "all"}, store.Page{})
		require.NoError(t, err)
		return l.Rows
	}
	decide(store.MatchNewEntry)
	require.Len(t, queue(), 1)
	decide(store.MatchLater)
	assert.Empty(t, queue(), "put off, it is no listing any more")
	decide(store.MatchNewEntry)
	own := queue()[0].ListingID
	view := func() preparing.PreparedView {
		v, err := s.Preparing.One(t.Context(), own, nil)
		require.NoError(t, err)
		return v
	}
	assert.True(t, view().NewEntry)
	assert.Equal(t, store.ListingIncomplete, view().State, "without a category nobody knows what it needs")
	sent, err := s.Sending.SendListings(t.Context(), []int64{own}, sending.How{})
	require.NoError(t, err)
	assert.Empty(t, sent.SendOuts, "so it doesn't go")
	require.NoError(t, s.Preparing.SetCategory(t.Context(), []int64{own}, "mugs"))
	s.idle()
	assert.Equal(t, "missing", field(view(), "attributes.others_may_sell").Code)
	pic, err := s.Preparing.AddPicture(t.Context(), block(t, 600, 600, color.Black))
	require.NoError(t, err)
	_, err = s.Preparing.Choose(t.Context(), own, []preparing.PictureChoice{{Original: pic.Digest}})
	require.NoError(t, err)
	_, err = s.Preparing.Say(t.Context(), own, []preparing.FieldSaid{{Field: "attributes.others_may_sell", Values: []string{"no"}}})
	require.NoError(t, err)
	s.idle()
	v := view()
	require.Zero(t, v.Stops, "%v %v", v.Other, v.Fields)
	require.Equal(t, store.ListingReady, v.State)

	_, err = s.Sending.SendListings(t.Context(), []int64{own}, sending.How{})
	require.NoError(t, err)
	s.idle()
	said := s.market.Contents("GB")[v.SKU]
	require.NotNil(t, said)
	assert.Equal(t, "no", said.Attributes["others_may_sell"])
	row, err := s.Store.ListingRowOf(t.Context(), own)
	require.NoError(t, err)
	assert.Equal(t, store.ListingLive, row.State)
	assert.NotEmpty(t, row.EntryRef, "it is on the entry that was made of it")
	assert.Empty(t, queue(), "there is nothing to prepare any more")
	made, err := s.Store.Matches(t.Context(), []string{store.MatchMade}, store.Page{Limit: 10})
	require.NoError(t, err)
	assert.Contains(t, func() (out []int64) {
		for _, m := range made.Rows {
			out = append(out, m.ID)
		}
		return out
	}(), id, "and its match is made")
	s.settled()
}

// Categories are searched by words or walked, each with what a sale would cost
// there by the same figures as everywhere.
func TestCategoriesWithTheirFees(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("")[0].ListingID
	top, err := l.Preparing.Categories(t.Context(), id, "", "")
	require.NoError(t, err)
	require.NotEmpty(t, top)
	inner := ""
	for _, c := range top {
		if c.Inner {
			inner = c.Ref
		}
	}
	below, err := l.Preparing.Categories(t.Context(), id, "", inner)
	require.NoError(t, err)
	require.NotEmpty(t, below)
	found, err := l.Preparing.Categories(t.Context(), id, "OUTDOOR cook", "")
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, "cooking", found[0].Ref)
	row, err := l.Store.ListingRowOf(t.Context(), id)
	require.NoError(t, err)
	require.NotNil(t, found[0].Fees)
	assert.Equal(t, *row.Profit, *found[0].Left, "in its own category, what the list says is left")
	assert.Equal(t, *row.Fees, *found[0].Fees)
}
