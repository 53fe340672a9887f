package house_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/listing"
	"easymargin/internal/fault"
	figures "easymargin/internal/reckon"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/store"
)

func described(t *testing.T) *lantern {
	l := newLantern(t, 2)
	d := asks(60)
	d["cooking"]["description"] = map[string]any{"least": 10, "html": []string{"p", "b", "ul", "li"}}
	l.row.Demands = d
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	return l
}

func (l *lantern) defaults(category string, d figures.Defaults) preparing.Touched {
	t, err := l.Preparing.SetDefaults(l.t.Context(), l.here.ID, category, d, true)
	require.NoError(l.t, err)
	l.idle()
	return t
}

func TestSellingTermsAreSharedAndSayWhomTheyTouch(t *testing.T) {
	l := newLantern(t, 2)
	rows := l.queue("")
	terms := listing.Terms{Condition: "New", HandlingDays: 2, ReturnsDays: 30, Offers: true, LeastOffer: "60%",
		Delivery: []listing.Delivery{{Name: "Post", Charge: "3.95", Least: 2, Most: 4}}}
	touched, err := l.Preparing.SetTerms(t.Context(), l.here.ID, "Usual", terms, true)
	require.NoError(t, err)
	assert.Zero(t, touched.Listings, "no category has them yet")
	asDefault := figures.Defaults{Terms: "Usual"}
	touched, err = l.Preparing.SetDefaults(t.Context(), l.here.ID, "", asDefault, false)
	require.NoError(t, err)
	assert.Equal(t, [2]int{2, 0}, [2]int{touched.Listings, touched.Ready}, "their colour stops them still")
	assert.Equal(t, "missing", field(l.one(rows[0].ListingID), "attributes.condition").Code, "nothing was kept")
	l.say(rows[0].ListingID, "attributes.colour", "Moss green")
	touched = l.defaults("", asDefault)
	assert.Equal(t, [2]int{2, 2}, [2]int{touched.Listings, touched.Ready})
	f := field(l.one(rows[0].ListingID), "attributes.condition")
	assert.Equal(t, [3]string{"New", "terms", "Usual"}, [3]string{f.Value, string(f.From), f.Name})

	// A person's word stands over them, and other terms can hold for one.
	l.say(rows[1].ListingID, "attributes.condition", "Used")
	assert.Equal(t, "Used", field(l.one(rows[1].ListingID), "attributes.condition").Value)
	_, err = l.Preparing.SetTerms(t.Context(), l.here.ID, "Slow", listing.Terms{HandlingDays: 9}, true)
	require.NoError(t, err)
	v := l.say(rows[1].ListingID, figures.TermsField, "Slow")
	assert.True(t, v.TermsOwn)
	assert.Equal(t, "Slow", v.Terms)
	_, err = l.Preparing.Say(t.Context(), rows[1].ListingID, []preparing.FieldSaid{{Field: figures.TermsField, Values: []string{"None such"}}})
	assert.ErrorContains(t, err, `has no selling terms called "None such"`)

	l.sendAll()
	first, second := l.row.Contents("GB")[l.one(rows[0].ListingID).SKU], l.row.Contents("GB")[l.one(rows[1].ListingID).SKU]
	require.NotNil(t, first)
	require.NotNil(t, second)
	assert.Equal(t, float64(2), first.Terms["handling_days"])
	assert.Equal(t, float64(9), second.Terms["handling_days"])
	delivery, ok := first.Terms["delivery"].([]any)
	require.True(t, ok)
	assert.Equal(t, map[string]any{"name": "Post", "charge": "3.95", "least": 2.0, "most": 4.0}, delivery[0])
	lr, err := l.Store.ListingRowOf(t.Context(), rows[0].ListingID)
	require.NoError(t, err)
	assert.Equal(t, unitText(*lr.Floor), first.Terms["lowest_offer"], "60 % of the price is under the floor: the floor it is")

	assert.Equal(t, fault.Conflict, fault.KindOf(l.Preparing.DropTerms(t.Context(), l.here.ID, "Usual")))
	require.NoError(t, l.Preparing.DropTerms(t.Context(), l.here.ID, "Slow"))
	for words, bad := range map[string]listing.Terms{"no lowest one": {LeastOffer: "80%"}, "has no name": {Delivery: []listing.Delivery{{}}}} {
		_, err := l.Preparing.SetTerms(t.Context(), l.here.ID, "Bad", bad, true)
		assert.ErrorContains(t, err, words)
	}
}

func TestADescriptionComesFromTheTemplateOfItsCategory(t *testing.T) {
	l := described(t)
	id := l.queue("")[0].ListingID
	assert.Equal(t, "too short", field(l.one(id), "description").Code)
	blocks := []listing.Block{{Kind: "text", Text: "The {kind} by {brand}."}, {Kind: "facts", Text: "Facts"}, {Kind: "supplier", When: "nothing"}}
	shown, err := l.Preparing.Describe(t.Context(), id, blocks, nil)
	require.NoError(t, err)
	assert.Contains(t, shown.Text, "<p>The ")
	assert.True(t, shown.Markup)
	touched := l.defaults("cooking", figures.Defaults{Blocks: blocks})
	assert.Equal(t, 2, touched.Listings)
	f := field(l.one(id), "description")
	assert.Equal(t, "template", string(f.From))
	assert.Contains(t, f.Value, "<li>Colour: ")

	l.say(id, "description", "In my own words, which are longer.")
	f = field(l.one(id), "description")
	assert.Equal(t, "In my own words, which are longer.", f.Value)
	assert.Contains(t, f.Without, "<p>The ", "the template's would stand there")
	_, err = l.Preparing.SetDefaults(t.Context(), l.here.ID, "cooking", figures.Defaults{Blocks: []listing.Block{{Kind: "text", Text: "{Oh"}}}, true)
	assert.ErrorContains(t, err, "part 1 of the description: a field stands in braces")
}

func TestDefaultsOfACategory(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("")[0].ListingID
	l.defaults("", figures.Defaults{Values: map[string]string{"attributes.condition": "Used", "series": "Fell"}})
	l.defaults("cooking", figures.Defaults{Values: map[string]string{"attributes.condition": "New"}})
	f := field(l.one(id), "attributes.condition")
	assert.Equal(t, [2]string{"New", "category"}, [2]string{f.Value, string(f.From)}, "the nearer one")
	_, err := l.Preparing.SetDefaults(t.Context(), l.here.ID, "cooking", figures.Defaults{Values: map[string]string{"sku": "A"}}, true)
	assert.ErrorContains(t, err, "nothing that can be said")
	_, err = l.Preparing.SetDefaults(t.Context(), l.here.ID, "boats", figures.Defaults{}, true)
	assert.ErrorContains(t, err, `no category "boats"`)

	// An attribute is called otherwise by the supplier.
	l.row.Demands = asks(60, map[string]any{"ref": "shade", "kind": "text"})
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	assert.Empty(t, field(l.one(id), "attributes.shade").Value)
	l.defaults("cooking", figures.Defaults{Names: map[string]string{"shade": "colour"}})
	assert.Equal(t, "moss", field(l.one(id), "attributes.shade").Value)
}

func TestABrandThatWasAskedFor(t *testing.T) {
	l := newLantern(t, 1)
	d := asks(60)
	d["cooking"]["brand"] = map[string]any{"register": []string{"Ottermere", "Otterholt", "Brackenby"}, "none": "No brand"}
	l.row.Demands = d
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	id := l.queue("")[0].ListingID
	l.say(id, "brand", "Sedgewick")
	assert.Equal(t, "not on the register", field(l.one(id), "brand").Code)
	found, err := l.Preparing.Brands(t.Context(), id, "otter")
	require.NoError(t, err)
	assert.Equal(t, []string{"Ottermere", "Otterholt"}, found)
	ask := func(state string) {
		require.NoError(t, l.Preparing.AskBrand(t.Context(), l.here.ID, preparing.NewBrand{Brand: "Sedgewick", State: state, Comment: "our own"}))
		l.idle()
	}
	ask(store.BrandAsked)
	assert.Equal(t, "not on the register", field(l.one(id), "brand").Code, "it waits")
	ask(store.BrandGiven)
	assert.Empty(t, field(l.one(id), "brand").Code)
	all, err := l.Preparing.Defaults(t.Context(), l.here.ID)
	require.NoError(t, err)
	require.Len(t, all.Brands, 1)
	assert.Equal(t, store.BrandGiven, all.Brands[0].State)
}

// Where a supplier's category was put once, the next of it goes by itself.
func TestACategoryIsLearntFromWhereThingsArePut(t *testing.T) {
	l := newLantern(t, 1)
	_, err := l.bringIn("Brindlewick", "ref,title,cost,stock,category\nB-1,Otter flask,6.00,8,Flasks & more\nB-2,Otter jug,6.00,8,Flasks & more\n")
	require.NoError(t, err)
	l.idle()
	list := func(words string) preparing.PreparedView {
		f := l.find(words)
		require.Len(t, f, 1)
		require.NoError(t, l.Sources.ListOn(t.Context(), []int64{f[0].ID}, []int64{l.here.ID}))
		l.idle()
		for _, r := range l.queue("all") {
			if v := l.one(r.ListingID); v.Product == f[0].Title {
				return v
			}
		}
		return preparing.PreparedView{}
	}
	first := list("B-1")
	assert.Empty(t, first.Category)
	require.NoError(t, l.Preparing.SetCategory(t.Context(), []int64{first.ID}, "camping"))
	assert.Equal(t, "camping", list("B-2").Category)
	all, err := l.Preparing.Defaults(t.Context(), l.here.ID)
	require.NoError(t, err)
	assert.Equal(t, "Flasks & more", all.Learnt[0].Ours)
}

// A title is made of other parts, in another order: of one, of many after a look
// at each, of all of a category.
func TestATitleIsMadeOfOtherParts(t *testing.T) {
	l := newLantern(t, 3)
	rows := l.queue("")
	before := l.one(rows[0].ListingID)
	l.say(rows[0].ListingID, figures.TitleParts, "colour", "brand")
	v := l.one(rows[0].ListingID)
	assert.Equal(t, "moss "+field(v, "brand").Value, v.Title)
	assert.True(t, v.PartsOwn)
	assert.Contains(t, v.MoreParts, "kind")
	l.say(rows[0].ListingID, figures.TitleParts)
	assert.Equal(t, before.Title, l.one(rows[0].ListingID).Title)

	ids := []int64{rows[0].ListingID, rows[1].ListingID}
	say := []preparing.FieldSaid{{Field: figures.TitleParts, Values: []string{"kind", "brand"}}}
	look, err := l.Preparing.SayAll(t.Context(), ids, say, false)
	require.NoError(t, err)
	assert.NotEqual(t, before.Title, look[0].Title)
	assert.Equal(t, before.Title, l.one(ids[0]).Title, "only looked at")
	_, err = l.Preparing.SayAll(t.Context(), ids, say, true)
	require.NoError(t, err)
	l.idle()
	assert.Equal(t, look[1].Title, l.one(ids[1]).Title)
	l.defaults("cooking", figures.Defaults{Title: []string{"brand"}})
	assert.Equal(t, field(l.one(rows[2].ListingID), "brand").Value, l.one(rows[2].ListingID).Title)
	assert.Equal(t, look[0].Title, l.one(ids[0]).Title, "what a person said of one stands")
	_, err = l.Preparing.Say(t.Context(), ids[0], []preparing.FieldSaid{{Field: figures.TitleParts, Values: []string{"<b>"}}})
	assert.ErrorContains(t, err, "is no part of a title")
}
