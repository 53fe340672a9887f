package house_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/listing"
	"easymargin/internal/fault"
	figures "easymargin/internal/reckon"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/store"
)

func TestAParcelIsProposedFromLikeProducts(t *testing.T) {
	l := newLantern(t, 1)
	d := asks(60)
	d["cooking"]["package"] = map[string]any{"weight": []int{1, 30_000}, "side": 2000}
	l.row.Demands = d
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	_, err := l.bringIn("Brindlewick", "ref,title,cost,stock,weight g\nB-1,Otter flask,6.00,8,300\nB-2,Otter jug,6.00,8,420\nB-3,Otter pot,6.00,8,2000\n")
	require.NoError(t, err)
	l.idle()
	found := l.find("Otter")
	require.Len(t, found, 3)
	for _, f := range found {
		require.NoError(t, l.Sources.ListOn(t.Context(), []int64{f.ID}, []int64{l.here.ID}))
	}
	l.idle()
	var others []int64
	var alone preparing.PreparedView
	for _, r := range l.queue("all") {
		if strings.HasPrefix(r.ProductTitle, "Otter") {
			others = append(others, r.ListingID)
		} else {
			alone = l.one(r.ListingID)
		}
	}
	assert.Empty(t, alone.Proposals, "one like product says nothing")
	require.NoError(t, l.Preparing.SetCategory(t.Context(), others, "cooking"))
	l.idle()
	alone = l.one(alone.ID)
	assert.Contains(t, alone.Proposals, preparing.Proposal{Field: "package.weight", Value: "420", Why: "the middle of 3 there"})
	alone = l.say(alone.ID, "package.weight", "500")
	for _, p := range alone.Proposals {
		assert.NotEqual(t, "package.weight", p.Field, "a person said it")
	}
}

func TestAListingHasASKUOfItsOwnUntilItIsHandedOver(t *testing.T) {
	l := newLantern(t, 2)
	rows := l.queue("all")
	id := rows[0].ListingID
	for words, sku := range map[string]string{"character that can't be": "flask 1", "too long": strings.Repeat("a", 41), "missing": " ", "already": rows[1].SKU} {
		err := l.Preparing.SetSKU(t.Context(), id, sku)
		assert.ErrorContains(t, err, words, sku)
		assert.Equal(t, fault.Invalid, fault.KindOf(err))
	}
	require.NoError(t, l.Preparing.SetSKU(t.Context(), id, "FLASK-1"))
	for _, r := range rows {
		l.say(r.ListingID, "attributes.condition", "New")
	}
	l.idle()
	l.say(id, "attributes.colour", "Moss green")
	l.idle()
	l.sendAll()
	assert.NotNil(t, l.row.Contents("GB")["FLASK-1"], "it goes up under it")
	assert.ErrorContains(t, l.Preparing.SetSKU(t.Context(), id, "FLASK-2"), "knows it by that")
}

// A category that takes leave holds its listings back until leave is given.
func TestACategoryThatTakesLeave(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("all")[0].ListingID
	l.say(id, "attributes.condition", "New")
	l.say(id, "attributes.colour", "Moss green")
	assert.Equal(t, 0, l.one(id).Stops)
	require.NoError(t, l.Preparing.SetCategory(t.Context(), []int64{id}, "fires"))
	l.idle()
	leave := func() string {
		list, err := l.Preparing.Categories(t.Context(), id, "fires", "")
		require.NoError(t, err)
		require.Len(t, list, 1)
		return list[0].Leave
	}
	assert.Equal(t, "needed", leave())
	assert.Equal(t, []string{"category needs leave of the place"}, lacks(l))
	l.sendAll()
	assert.Empty(t, l.row.Contents("GB"), "it waits")
	require.NoError(t, l.Matching.NoteLeave(t.Context(), l.here.ID, "fires", store.LeaveAsked))
	l.idle()
	assert.Equal(t, "asked", leave())
	assert.NotEmpty(t, lacks(l))
	require.NoError(t, l.Matching.NoteLeave(t.Context(), l.here.ID, "fires", store.LeaveGiven))
	l.idle()
	assert.Equal(t, "given", leave())
	assert.Empty(t, lacks(l))
	l.sendAll()
	assert.Len(t, l.row.Contents("GB"), 1)
}

// lacks is what stops the listings that Prepare lists, in words.
func lacks(l *lantern) []string {
	var out []string
	for _, r := range l.queue("") {
		v := l.one(r.ListingID)
		for _, f := range v.Fields {
			if f.Level == "stops" {
				out = append(out, f.Words)
			}
		}
		out = append(out, v.Other...)
	}
	return out
}

// A table of sizes is kept per brand and category and put in by the template.
func TestAKeptTextIsOfItsBrand(t *testing.T) {
	l := described(t)
	rows := l.queue("")
	id := rows[0].ListingID
	l.defaults("", figures.Defaults{Texts: []figures.KeptText{{Name: "Sizes", Text: "for all"}}})
	l.defaults("cooking", figures.Defaults{Blocks: []listing.Block{{Kind: "kept", Text: "sizes"}},
		Texts: []figures.KeptText{{Name: "Sizes", Brand: "Tarnwick", Text: "S|1 l\nL|2 l"}}})
	l.say(id, "brand", "Ottermere")
	assert.Equal(t, "<p>for all</p>", field(l.one(id), "description").Value)
	v := l.say(id, "brand", "tarnwick")
	assert.Equal(t, "<p>S · 1 l</p>\n<p>L · 2 l</p>", field(v, "description").Value)
	assert.Equal(t, []figures.KeptText{{Name: "Sizes", Text: "S|1 l\nL|2 l"}}, v.Texts, "its own alone is offered")
	_, err := l.Preparing.SetDefaults(t.Context(), l.here.ID, "cooking", figures.Defaults{Texts: []figures.KeptText{{Name: "A", Text: "a"}, {Name: "a", Text: "b"}}}, true)
	assert.ErrorContains(t, err, "a name that no other of its brand has")
}
