package house_test

import (
	"fmt"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/demo"
	"easymargin/internal/fault"
	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// lantern is a stall that lists its products on a place of each seller's own
// listings too.
type lantern struct {
	*stall
	row  *sim.Marketplace
	door *front // before it
	here store.Site
}

// asks is what the place asks for in this test: a title of so many characters,
// a condition, a colour by its own names.
func asks(limit int, more ...map[string]any) map[string]sim.Demands {
	return map[string]sim.Demands{"cooking": {
		"title": map[string]any{"limit": limit, "parts": []string{"brand", "kind", "colour"}, "first_to_go": []string{"colour"}},
		"attributes": append([]map[string]any{
			{"ref": "condition", "kind": "choice", "need": "needed", "values": []string{"New", "Used"}},
			{"ref": "colour", "kind": "choice", "values": []string{"Moss green", "Rust red"}},
		}, more...),
	}}
}

func newLantern(t *testing.T, products int) *lantern {
	l := &lantern{stall: newStall(t, products)}
	l.row = demo.LanternRow(l.clock)
	l.row.Demands = asks(60)
	l.door = &front{next: l.row}
	server := httptest.NewServer(l.door)
	t.Cleanup(server.Close)
	sites, err := l.Places.Connect(t.Context(), "Lantern Row", server.URL)
	require.NoError(t, err)
	nothingAsked(t, l.Store, sites)
	l.here = sites[0]
	l.coloured("moss")
	var ids []int64
	for _, x := range l.all() {
		ids = append(ids, x.ProductID)
	}
	n, err := l.Preparing.Add(t.Context(), l.here.ID, ids, "cooking")
	require.NoError(t, err)
	require.Equal(t, int64(products), n)
	l.idle()
	return l
}

// coloured delivers the supplier's list, each product in a colour.
func (l *lantern) coloured(colour string) { l.colouredAt(colour, "4.00") }

// stocked delivers it with so many of each.
func (l *lantern) stocked(n int) { l.delivered("moss", "4.00", n) }

// colouredAt delivers it at a cost.
func (l *lantern) colouredAt(colour, cost string) { l.delivered(colour, cost, 9) }

func (l *lantern) delivered(colour, cost string, stock int) {
	var b strings.Builder
	b.WriteString("ref,title,brand,ean,cost,stock,colour\n")
	for i, e := range l.entries {
		fmt.Fprintf(&b, "R%03d,%q,%s,%s,%s,%d,%s\n", i, e.Title, e.Brand, e.GTIN, cost, stock, colour)
	}
	f, err := l.Sources.BringIn(l.t.Context(), strings.NewReader(b.String()), sources.Arriving{Name: "list.csv", SourceID: &l.source.ID})
	require.NoError(l.t, err)
	require.Equal(l.t, store.FeedTaken, l.take(f.ID, l.source.ID, true).State)
}

// queue is what Prepare lists of a part.
func (l *lantern) queue(part string) []store.PreparationRow {
	list, err := l.Store.Preparations(l.t.Context(), store.PreparationFilter{Part: part}, store.Page{})
	require.NoError(l.t, err)
	return list.Rows
}

func (l *lantern) say(id int64, field string, values ...string) preparing.PreparedView {
	v, err := l.Preparing.Say(l.t.Context(), id, []preparing.FieldSaid{{Field: field, Values: values}})
	require.NoError(l.t, err)
	l.idle()
	return v
}

func (l *lantern) one(id int64) preparing.PreparedView {
	v, err := l.Preparing.One(l.t.Context(), id, nil)
	require.NoError(l.t, err)
	return v
}

func field(v preparing.PreparedView, name string) preparing.SaidField {
	for _, f := range v.Fields {
		if f.Field == name {
			return f
		}
	}
	return preparing.SaidField{}
}

func TestAListingOfOurOwnGoesUpOnceItLacksNothing(t *testing.T) {
	l := newLantern(t, 2)
	rows := l.queue("")
	require.Len(t, rows, 2)
	assert.Equal(t, store.ListingIncomplete, rows[0].State)
	assert.Equal(t, int64(2), l.counts().Incomplete)
	id := rows[0].ListingID
	v := l.one(id)
	assert.Equal(t, "missing", field(v, "attributes.condition").Code)
	assert.Equal(t, "not one of", field(v, "attributes.colour").Code, "the supplier's word is none of theirs")
	assert.NotNil(t, v.AskedAt)

	sent := l.sendAll()
	for _, o := range sent.SendOuts {
		assert.NotEqual(t, "Lantern Row GB", l.sendOut(o).Site, "nothing that lacks something goes")
	}

	l.say(id, "attributes.condition", "new")
	v = l.say(id, "attributes.colour", "Moss green")
	assert.Equal(t, store.ListingReady, l.one(id).State)
	assert.Zero(t, v.Stops)
	require.Len(t, v.Learnt, 1)
	assert.Contains(t, v.Learnt[0], `colour "moss" is "Moss green"`)

	other := rows[1].ListingID
	c := field(l.one(other), "attributes.colour")
	assert.Equal(t, []any{"Moss green", "our word", "moss"}, []any{c.Value, string(c.From), c.Name}, "the next with that word has it by itself")
	assert.Equal(t, store.ListingIncomplete, l.one(other).State)

	words, err := l.Preparing.Words(t.Context(), l.here.ID)
	require.NoError(t, err)
	require.Len(t, words, 1)
	assert.Equal(t, []string{"moss", "Moss green", "colour"}, []string{words[0].Ours, words[0].Theirs, words[0].Attribute})
	require.NoError(t, l.Preparing.Forget(t.Context(), l.here.ID, "cooking", "colour", "Moss"))
	l.idle()
	assert.Equal(t, "moss", field(l.one(other), "attributes.colour").Value, "and forgotten again")
	assert.Equal(t, "Moss green", field(l.one(id), "attributes.colour").Value, "what was said of one stays")
	assert.Equal(t, fault.Missing, fault.KindOf(l.Preparing.Forget(t.Context(), l.here.ID, "cooking", "colour", "moss")))

	l.sendAll()
	there := l.row.Contents("GB")
	require.Len(t, there, 1)
	got := there[v.SKU]
	require.NotNil(t, got)
	assert.Equal(t, map[string]string{"condition": "New", "colour": "Moss green"}, got.Attributes, "as the place writes them")
	assert.Equal(t, v.Title, got.Title)
	assert.Equal(t, "cooking", got.Category)
	assert.Equal(t, store.ListingLive, l.one(id).State)
	err = l.Preparing.SetCategory(t.Context(), []int64{id}, "camping")
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "the category of what is on sale stays")
	require.NoError(t, l.Preparing.SetCategory(t.Context(), []int64{other}, "camping"))
}

func TestWhatAPersonWroteIsNeverWrittenOver(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("")[0].ListingID
	made := l.one(id).Title
	v := l.say(id, "title", "A mug like no other")
	assert.True(t, v.Typed)
	l.say(id, "attributes.colour", "Rust red")
	l.coloured("sand")
	l.idle()
	v = l.one(id)
	assert.Equal(t, "A mug like no other", v.Title)
	c := field(v, "attributes.colour")
	assert.Equal(t, []any{"Rust red", "person", "sand"}, []any{c.Value, string(c.From), c.Without})
	l.say(id, "title")
	v = l.say(id, "attributes.colour")
	assert.False(t, v.Typed)
	assert.NotEqual(t, "A mug like no other", v.Title)
	assert.Equal(t, "supplier", string(field(v, "attributes.colour").From))
	assert.NotEmpty(t, made)
}

func TestWhatCantBeSaidIsRefusedAndNothingIsKept(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("")[0].ListingID
	for _, say := range [][]preparing.FieldSaid{
		{{Field: "title", Values: []string{"Kept"}}, {Field: "list_price", Values: []string{"twelve"}}},
		{{Field: "title", Values: []string{"Kept"}}, {Field: "price", Values: []string{"1.00"}}},
		{{Field: "title", Values: []string{strings.Repeat("x", 20_001)}}},
	} {
		_, err := l.Preparing.Say(t.Context(), id, say)
		assert.Equal(t, fault.Invalid, fault.KindOf(err))
		assert.False(t, l.one(id).Typed)
	}
	entry := l.all()[0]
	for _, x := range l.all() {
		if x.EntryRef != "" {
			entry = x
		}
	}
	_, err := l.Preparing.One(t.Context(), entry.ID, nil)
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "an entry has its words already")
	_, err = l.Preparing.Add(t.Context(), l.site.ID, []int64{1}, "")
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "in a catalogue nothing of our own is listed")
}

// What goes out has the tags that the place takes, and nothing in them.
func TestADescriptionGoesOutSafe(t *testing.T) {
	l := newLantern(t, 1)
	l.row.Demands["cooking"]["description"] = map[string]any{"html": []string{"p", "b"}}
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	id := l.queue("")[0].ListingID
	l.say(id, "attributes.condition", "New")
	l.say(id, "attributes.colour", "Moss green")
	v := l.say(id, "description", `<p onclick="alert(1)">A <b style="x">good</b> mug</p><script>alert(1)</script>`)
	assert.Equal(t, "tags", field(v, "description").Code)
	v = l.say(id, "description", `<p onclick="alert(1)">A <b style="x">good</b> mug</p>`)
	assert.Equal(t, `<p>A <b>good</b> mug</p>`, v.Buyers)
	assert.True(t, v.Markup)
	l.sendAll()
	assert.Equal(t, `<p>A <b>good</b> mug</p>`, l.row.Contents("GB")[v.SKU].Description)
}

func TestTheSameOfManyIsSeenBeforeItIsKept(t *testing.T) {
	l := newLantern(t, 3)
	var ids []int64
	for _, r := range l.queue("") {
		ids = append(ids, r.ListingID)
	}
	say := []preparing.FieldSaid{{Field: "attributes.condition", Values: []string{"Used"}}, {Field: "attributes.colour", Values: []string{"rust RED"}}}
	seen, err := l.Preparing.SayAll(t.Context(), ids, say, false)
	require.NoError(t, err)
	require.Len(t, seen, 3)
	assert.Equal(t, []int{2, 0}, []int{seen[0].Before, seen[0].After})
	assert.Len(t, l.queue(""), 3, "nothing was kept")
	_, err = l.Preparing.SayAll(t.Context(), ids, say, true)
	require.NoError(t, err)
	l.idle()
	assert.Empty(t, l.queue(""))
	assert.Len(t, l.queue(store.PartReady), 3)
}

func TestDemandsThatChangeTouchWhatIsListed(t *testing.T) {
	l := newLantern(t, 2)
	rows := l.queue("")
	for _, r := range rows {
		l.say(r.ListingID, "attributes.condition", "New")
		l.say(r.ListingID, "attributes.colour", "Moss green")
	}
	l.sendAll()
	live := rows[0].ListingID
	require.Equal(t, store.ListingLive, l.one(live).State)

	l.row.Demands = asks(10, map[string]any{"ref": "origin", "kind": "text", "need": "needed"})
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	asked, err := l.Preparing.Demands(t.Context(), l.here.ID)
	require.NoError(t, err)
	require.Len(t, asked, 1)
	assert.Equal(t, []string{"origin is new, and needed", "a title has at most 10 now"}, asked[0].Changes)
	assert.Len(t, l.queue(""), 2, "what is on sale and lacks it now is shown")
	assert.Equal(t, store.ListingLive, l.one(live).State, "and stays on sale")

	l.row.Demands = asks(60)
	require.NoError(t, l.Round(t.Context()))
	l.idle()
	assert.Len(t, l.queue(""), 2, "it was read a moment ago")
	l.clock.Forward(25 * time.Hour)
	require.NoError(t, l.Round(t.Context()))
	l.idle()
	asked, err = l.Preparing.Demands(t.Context(), l.here.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"origin is no longer asked for"}, asked[0].Changes, "it is read again every day")

	l.row.Demands = map[string]sim.Demands{"cooking": {"attributes": []map[string]any{{"ref": "x", "kind": "no such kind"}}}}
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	again, err := l.Preparing.Demands(t.Context(), l.here.ID)
	require.NoError(t, err)
	assert.Equal(t, asked[0].Needs, again[0].Needs, "what can't be read changes nothing")

	require.Error(t, l.Preparing.WriteDemand(t.Context(), l.here.ID, "cooking", `{"titel":{}}`))
	require.NoError(t, l.Preparing.WriteDemand(t.Context(), l.here.ID, "cooking", `{}`))
	l.idle()
	assert.Empty(t, l.queue(""), "what a person wrote down holds")
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	assert.Empty(t, l.queue(""), "and is not read over")
}

func TestWhatWasListedByMistakeIsTakenOff(t *testing.T) {
	l := newLantern(t, 2)
	rows := l.queue("")
	live, other := rows[0].ListingID, rows[1].ListingID
	product, err := store.Get[store.Listing](t.Context(), l.Store, live)
	require.NoError(t, err)
	l.say(live, "attributes.condition", "New")
	l.say(live, "attributes.colour", "Moss green")
	l.sendAll()
	require.Equal(t, store.ListingLive, l.one(live).State)
	gone, err := l.Preparing.Unlist(t.Context(), []int64{live, other})
	require.NoError(t, err)
	l.idle()
	assert.Equal(t, int64(1), gone, "one was never there")
	_, err = l.Preparing.One(t.Context(), other, nil)
	assert.ErrorIs(t, err, store.ErrMissing)
	lines := l.planned()
	require.Len(t, lines, 1, "what is on sale goes off by the plan")
	assert.Equal(t, int64(0), *lines[0].ToQty)
	assert.Empty(t, l.queue(""))
	n, err := l.Preparing.Add(t.Context(), l.here.ID, []int64{product.ProductID}, "")
	require.NoError(t, err)
	l.idle()
	assert.Equal(t, int64(1), n, "and is wanted there again")
	assert.Empty(t, l.planned())
}

// What can't be read of one place's demands stops its own listings and nothing else.
func TestDemandsThatCantBeReadHoldNoPriceBack(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("")[0].ListingID
	before := l.one(id).Price
	l.say(id, "attributes.condition", "New")
	l.say(id, "attributes.colour", "Moss green")
	require.Equal(t, store.ListingReady, l.one(id).State)
	require.NoError(t, l.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.PutDemand(l.clock.Now(), &store.Demand{SiteID: l.here.ID, Category: "cooking", Needs: `{"no":"such key"}`, Origin: store.DemandTyped,
			ReadAt: l.clock.Now(), ChangedAt: l.clock.Now(), Changes: "[]"})
	}))
	require.NoError(t, l.Places.SetTerms(t.Context(), l.here.ID, stops.IfMatch{}, stops.SiteTerms{Charged: "0.00", Outbound: "9.00"}))
	l.idle()
	row := l.queue("")[0]
	assert.Equal(t, store.ListingIncomplete, row.State)
	assert.Contains(t, row.Lacks, "is not known here")
	assert.NotEqual(t, *before, *row.Price, "it was priced anew all the same")
}

// What is asked for when a listing is handed over is what counts, not when it was let go.
func TestAListingThatLacksSomethingByThenStaysBehind(t *testing.T) {
	l := newLantern(t, 1)
	id := l.queue("")[0].ListingID
	l.say(id, "attributes.condition", "New")
	l.say(id, "attributes.colour", "Moss green")
	l.House.Close()
	closed := house.New(house.Options{Store: l.Store, Now: l.clock.Now})
	_, err := closed.Sending.SendListings(t.Context(), []int64{id}, sending.How{})
	require.NoError(t, err)
	require.NoError(t, closed.Preparing.WriteDemand(t.Context(), l.here.ID, "cooking", `{"attributes":[{"ref":"origin","kind":"text","need":"needed"}]}`))
	l.restart()
	l.idle()
	assert.Empty(t, l.row.Contents("GB"))
	assert.Equal(t, store.ListingIncomplete, l.one(id).State)
}

// In a sheet, each row is looked at by itself: what can't be read is said in its
// cell, and kept is all or nothing.
func TestASheetIsCheckedRowByRow(t *testing.T) {
	l := newLantern(t, 3)
	d := asks(60)
	d["cooking"]["price"] = map[string]any{"not_over_list": true}
	l.row.Demands = d
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	sheet, err := l.Preparing.Sheet(t.Context(), l.here.ID, "cooking", false)
	require.NoError(t, err)
	require.Len(t, sheet.Rows, 3)
	column := func(field string) int {
		for i, c := range sheet.Columns {
			if c.Field == field {
				return i
			}
		}
		return -1
	}
	assert.Equal(t, "attributes.condition", sheet.Columns[1].Field, "what is needed comes first, after the title")
	say := func(row int, field, value string) preparing.RowSaid {
		return preparing.RowSaid{ID: sheet.Rows[row].ID, Say: []preparing.FieldSaid{{Field: field, Values: []string{value}}}}
	}
	said := []preparing.RowSaid{say(0, "attributes.condition", "new"), say(1, "list_price", "about ten"), say(2, "attributes.colour", "Rust red")}
	got, err := l.Preparing.CheckRows(t.Context(), said)
	require.NoError(t, err)
	assert.Equal(t, sheet.Rows[0].Stops-1, got[0].Stops)
	assert.Equal(t, "about ten", got[1].Values[column("list_price")])
	require.NotEmpty(t, got[1].Wrong)
	last := got[1].Wrong[len(got[1].Wrong)-1]
	assert.Equal(t, column("list_price"), last.Column)
	assert.Contains(t, last.Words, "list_price")

	_, err = l.Preparing.SayRows(t.Context(), said)
	require.ErrorContains(t, err, "list_price")
	assert.Empty(t, field(l.one(sheet.Rows[0].ID), "attributes.condition").Value, "nothing of it is kept")
	got, err = l.Preparing.SayRows(t.Context(), []preparing.RowSaid{said[0], said[2]})
	require.NoError(t, err)
	assert.True(t, got[0].Ours[column("attributes.condition")])
	l.idle()
	assert.Equal(t, "Rust red", field(l.one(sheet.Rows[1].ID), "attributes.colour").Value, "what was chosen in a sheet is learnt as anywhere")
}

// Where a supplier changes what a person said otherwise, that stands beside it
// and is taken only when they say so; never over anything else they wrote.
func TestWhatASupplierChangedStandsBesideOurs(t *testing.T) {
	l := newLantern(t, 2)
	id := l.queue("")[0].ListingID
	l.say(id, "attributes.colour", "Moss green")
	l.say(id, "attributes.condition", "New")
	changed := func() []store.PreparationRow { return l.queue(store.PartChanged) }
	assert.Empty(t, changed())
	l.clock.Forward(time.Hour)
	l.coloured("rust")
	l.idle()
	f := field(l.one(id), "attributes.colour")
	require.NotNil(t, f.Theirs)
	assert.Equal(t, [2]string{"moss", "rust"}, [2]string{f.Theirs.Before, f.Theirs.After})
	assert.Equal(t, "Moss green", f.Value, "what a person wrote stands")
	assert.Nil(t, field(l.one(id), "attributes.condition").Theirs)
	require.Len(t, changed(), 1, "the other follows its supplier")
	n, err := l.Preparing.Adopt(t.Context(), []int64{id})
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	l.idle()
	assert.Equal(t, "rust", field(l.one(id), "attributes.colour").Value)
	assert.Equal(t, "New", field(l.one(id), "attributes.condition").Value, "what they didn't change stays ours")
	assert.Empty(t, changed())
}

// A listing is offered only within its days, and not while it is hidden: what is
// on sale is put to nothing by the plan, and comes back.
func TestAListingIsShownFromADayUntilADay(t *testing.T) {
	l := newLantern(t, 2)
	for _, r := range l.queue("") {
		l.say(r.ListingID, "attributes.condition", "New")
		l.say(r.ListingID, "attributes.colour", "Moss green")
	}
	id := l.queue("all")[0].ListingID
	l.sendAll()
	offered := func() (int64, string) {
		r, err := l.Store.ListingRowOf(t.Context(), id)
		require.NoError(t, err)
		return r.Quantity, r.Why
	}
	show := func(how preparing.ShownHow) {
		require.NoError(t, l.Preparing.Show(t.Context(), []int64{id}, how))
		l.idle()
	}
	n, _ := offered()
	require.Positive(t, n)
	show(preparing.ShownHow{Hidden: true})
	n, why := offered()
	assert.Zero(t, n)
	assert.Equal(t, "you hid it", why)
	d, err := l.Products.Docket(t.Context(), l.productOf(id), id)
	require.NoError(t, err)
	assert.Equal(t, int64(1), d.Waiting, "the plan puts it to nothing")

	day := func(n int) string { return l.clock.Now().AddDate(0, 0, n).Format(time.DateOnly) }
	show(preparing.ShownHow{From: day(1), Until: day(2)})
	n, why = offered()
	assert.Zero(t, n)
	assert.Equal(t, "it is shown from "+day(1)+" on", why)
	round := func(days time.Duration) int64 {
		l.clock.Forward(days * 24 * time.Hour)
		require.NoError(t, l.Preparing.Round(t.Context()))
		l.coloured("moss") // or the supplier's stock is too old to go by
		l.idle()
		n, _ := offered()
		return n
	}
	assert.Positive(t, round(1), "its day has come")
	assert.Positive(t, round(1), "and the last")
	assert.Zero(t, round(1), "and gone")
	show(preparing.ShownHow{})
	n, _ = offered()
	assert.Positive(t, n)
	for words, how := range map[string]preparing.ShownHow{"is not a day": {From: "soon"}, "end before it begins": {From: day(2), Until: day(1)}} {
		assert.ErrorContains(t, l.Preparing.Show(t.Context(), []int64{id}, how), words)
	}
}

func (l *lantern) productOf(listing int64) int64 {
	r, err := l.Store.ListingRowOf(l.t.Context(), listing)
	require.NoError(l.t, err)
	return r.ProductID
}
