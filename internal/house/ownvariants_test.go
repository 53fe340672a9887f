package house_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops/prices"
)

// Variants go up joined by one group, each with what sets it apart; their prices
// are changed by a rate, never under a floor.
func TestVariantsGoUpInOneGroup(t *testing.T) {
	l := newLantern(t, 1)
	_, err := l.bringIn("Brindlewick", "ref,title,brand,cost,stock,group,colour,size\nV-1,Otter flask,Ottermere,6.00,8,G,moss,M\nV-2,Otter flask,Ottermere,7.00,3,G,rust,M\nV-3,Otter flask,Ottermere,7.00,0,G,rust,L\n")
	require.NoError(t, err)
	l.idle()
	var items []int64
	for _, f := range l.find("otter flask") {
		items = append(items, f.ID)
	}
	require.Len(t, items, 3)
	require.NoError(t, l.Sources.ListOn(t.Context(), items[:2], []int64{l.here.ID}))
	l.idle()
	own := map[string]int64{}
	for _, r := range l.queue("all") {
		if v := l.one(r.ListingID); v.Product == "Otter flask" {
			require.NoError(t, l.Preparing.SetCategory(t.Context(), []int64{v.ID}, "cooking"))
			l.idle()
			l.say(v.ID, "attributes.condition", "New")
			own[field(l.one(v.ID), "attributes.colour").Value] = v.ID
		}
	}
	require.Len(t, own, 2)
	l.say(own["moss"], "attributes.colour", "Moss green")
	l.say(own["rust"], "attributes.colour", "Rust red")
	g, err := l.Preparing.Variants(t.Context(), own["moss"])
	require.NoError(t, err)
	require.NotEmpty(t, g.Group)
	require.Len(t, g.Rows, 2, "the third is no product of ours")
	assert.Equal(t, "attributes.colour", g.Axes[0].Field)
	assert.ElementsMatch(t, []string{"Moss green", "Rust red"}, []string{g.Rows[0].Values[0], g.Rows[1].Values[0]})
	assert.Equal(t, int64(8), map[string]int64{g.Rows[0].Values[0]: g.Rows[0].Stock, g.Rows[1].Values[0]: g.Rows[1].Stock}["Moss green"])

	before := *g.Rows[0].Price
	moves, err := l.Prices.Reprice(t.Context(), prices.Repricing{Listings: []int64{own["moss"], own["rust"]}, By: "+10%", Keep: true})
	require.NoError(t, err)
	require.Len(t, moves, 2)
	l.idle()
	g, err = l.Preparing.Variants(t.Context(), own["moss"])
	require.NoError(t, err)
	assert.Greater(t, *g.Rows[0].Price, before)
	assert.True(t, g.Rows[0].Fixed)

	l.sendAll()
	a, b := l.row.Contents("GB")[l.one(own["moss"]).SKU], l.row.Contents("GB")[l.one(own["rust"]).SKU]
	require.NotNil(t, a)
	require.NotNil(t, b)
	assert.Equal(t, a.Group, b.Group)
	assert.Equal(t, g.Group, a.Group)
	assert.Equal(t, "Moss green", a.Axes["colour"])
	assert.Equal(t, "Rust red", b.Axes["colour"])
}
