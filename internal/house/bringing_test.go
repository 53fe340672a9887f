package house_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/supply"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

const messy = "ref;title;cost;stock\nA;Mug;1,50;4\nB;;2,50;1\nC;Pot;ask;2\nD;Peg;-1,00;3\nE;Line;1.234,50;9\n"

func (w *world) asides(feedID int64) []store.SetAside {
	l, err := w.Store.SetAsides(w.t.Context(), feedID, store.Page{})
	require.NoError(w.t, err)
	return l.Rows
}

func (w *world) find(words string) []sources.Find {
	rows, err := w.Sources.Search(w.t.Context(), words)
	require.NoError(w.t, err)
	return rows
}

func TestARowIsMendedInPlace(t *testing.T) {
	w := newWorld(t)
	f, err := w.bringIn("Brindlewick Outdoor", messy)
	require.NoError(t, err)
	assert.Equal(t, [3]int64{5, 2, 3}, [3]int64{f.Rows, f.New, f.SetAside})
	rows := w.asides(f.ID)
	require.Len(t, rows, 3)
	assert.Equal(t, []string{"B", "", "2,50", "1"}, rows[0].Cells)

	_, err = w.Sources.Mend(t.Context(), rows[1].ID, []string{"C", "Pot", "on request", "2"})
	assert.Equal(t, fault.Invalid, fault.KindOf(err))
	assert.ErrorContains(t, err, "cost: the cost can't be read")
	_, err = w.Sources.Mend(t.Context(), rows[1].ID, []string{"C", "Pot"})
	assert.ErrorContains(t, err, "2 cells")
	run, err := w.Sources.Mend(t.Context(), rows[1].ID, []string{"C", "Pot", "1.100", "2"}) // read as the whole column was: eleven hundred
	require.NoError(t, err)
	w.wait(run)
	w.idle()
	pot := w.find("pot")
	require.Len(t, pot, 1)
	assert.Equal(t, int64(110_000), pot[0].Cost)
	assert.NotNil(t, w.asides(f.ID)[1].MendedBy)
	assert.Nil(t, w.asides(f.ID)[0].MendedBy)
	_, err = w.Sources.Mend(t.Context(), rows[1].ID, []string{"C", "Pot", "2,00", "2"})
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	for _, x := range w.find("mug") {
		assert.False(t, x.Gone, "a part makes nothing gone")
	}
}

func TestSetAsideRowsComeBackAsAFile(t *testing.T) {
	w := newWorld(t)
	f, err := w.bringIn("Brindlewick Outdoor", strings.Replace(messy, ";Pot;", ";=HYPERLINK(1);", 1))
	require.NoError(t, err)
	var b bytes.Buffer
	out := csv.NewWriter(&b)
	require.NoError(t, w.Sources.AsideFile(t.Context(), f.ID, out))
	out.Flush()
	lines, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	require.Len(t, lines, 4)
	assert.Equal(t, []string{"ref", "title", "cost", "stock", feed.WhyColumn}, lines[0])
	assert.Equal(t, "'=HYPERLINK(1)", lines[2][1], "no formula in a file we write")
	assert.Contains(t, lines[2][4], "can't be read")
	lines[1][1], lines[2][2], lines[3][2] = "Beaker", "3,00", "1,00"
	var mended bytes.Buffer
	require.NoError(t, csv.NewWriter(&mended).WriteAll(lines))
	part, err := w.Sources.BringIn(t.Context(), &mended, sources.Arriving{Name: "mended.csv", PartOf: &f.ID})
	require.NoError(t, err)
	got := w.take(part.ID, *f.SourceID, false)
	assert.Equal(t, [4]int64{3, 3, 0, 0}, [4]int64{got.Rows, got.New, got.SetAside, got.Gone})
	for _, a := range w.asides(f.ID) {
		assert.Equal(t, part.ID, *a.MendedBy)
	}
	assert.Equal(t, "=HYPERLINK(1)", w.find("hyperlink")[0].Title)
	// The whole file again: the mended rows are set aside once more, and stay as they are.
	again, err := w.Sources.BringIn(t.Context(), strings.NewReader(messy), sources.Arriving{Name: "again", SourceID: f.SourceID})
	require.NoError(t, err)
	whole := w.take(again.ID, *f.SourceID, true)
	assert.Equal(t, [3]int64{2, 3, 0}, [3]int64{whole.Same, whole.SetAside, whole.Gone})
	assert.False(t, w.find("beaker")[0].Gone)
}

func TestAnUpdateLeavesTheRestAlone(t *testing.T) {
	w := newWorld(t)
	f, err := w.bringIn("Tidewrack", "ref,title,cost,stock,brand\nA,Mug,1.50,4,Tarnwick\nB,Pot,2.50,1,Skarholt\n")
	require.NoError(t, err)
	s, err := w.Store.SourceOf(t.Context(), *f.SourceID)
	require.NoError(t, err)
	set, err := w.Sources.Settings(t.Context(), s.ID)
	require.NoError(t, err)
	set.Mode = "update"
	require.NoError(t, w.Sources.SetSettings(t.Context(), s.ID, stops.IfMatch{}, set))
	up, err := w.Sources.BringIn(
		t.Context(),
		strings.NewReader("ref,stock\nA,9\nB,\nC,3\n"),
		sources.Arriving{Name: "stock.csv", SourceID: &s.ID},
	)
	require.NoError(t, err)
	got := w.take(up.ID, s.ID, true)
	assert.Equal(t, [5]int64{3, 1, 1, 1, 0}, [5]int64{got.Rows, got.Changed, got.Same, got.SetAside, got.Gone})
	assert.Contains(t, w.asides(got.ID)[0].Problems[0].Reason, "not known yet")
	mug := w.find("mug")[0]
	assert.Equal(t, [3]any{int64(9), int64(150), "Tarnwick"}, [3]any{mug.Stock, mug.Cost, mug.Brand})
	assert.Equal(t, int64(1), w.find("pot")[0].Stock)
}

func TestGoneAndBack(t *testing.T) {
	w := newWorld(t)
	lists := []string{
		"ref,title,cost,stock\nA,Mug,1.50,4\nB,Pot,2.50,3\n",
		"ref,title,cost,stock\nA,Mug,1.50,4\n",
		"ref,title,cost,stock\nA,Mug,1.50,4\nB,Pot,2.75,6\n",
	}
	f, err := w.bringIn("Tidewrack", lists[0])
	require.NoError(t, err)
	next := func(text string) store.Feed {
		x, err := w.Sources.BringIn(t.Context(), strings.NewReader(text), sources.Arriving{Name: "next", SourceID: f.SourceID})
		require.NoError(t, err)
		return w.take(x.ID, *f.SourceID, true)
	}
	assert.Equal(t, int64(1), next(lists[1]).Gone)
	assert.True(t, w.find("pot")[0].Gone)
	assert.Zero(t, next(lists[1]).Gone, "gone once")
	back := next(lists[2])
	assert.Equal(t, [2]int64{1, 1}, [2]int64{back.Changed, back.Same})
	pot := w.find("pot")[0]
	assert.False(t, pot.Gone)
	item, err := w.Sources.SupplierItem(t.Context(), pot.ID)
	require.NoError(t, err)
	var log []string
	for _, h := range item.History {
		log = append(log, h.Field+" "+h.Before+" → "+h.After)
	}
	assert.Equal(t, []string{"listed listed → gone", "cost 2.50 → 2.75", "stock 3 → 6", "listed gone → listed"}, log)
}

func TestMissingColumnsHoldTheFeed(t *testing.T) {
	w := newWorld(t)
	f, err := w.bringIn("Tidewrack", "ref,title,cost,stock\nA,Mug,1.50,4\n")
	require.NoError(t, err)
	x, err := w.Sources.BringIn(
		t.Context(),
		strings.NewReader("ref,title,cost,qty\nA,Mug,1.50,4\n"),
		sources.Arriving{Name: "moved", SourceID: f.SourceID},
	)
	require.NoError(t, err)
	got := w.take(x.ID, *f.SourceID, false)
	assert.Equal(t, store.FeedHeld, got.State)
	assert.Contains(t, got.HeldFor, "no longer has the column stock")
}

func TestColumnsChosenByHandAreKept(t *testing.T) {
	w := newWorld(t)
	text := "code nr,what,dealer,left\nA,Mug,1.50,4\n"
	f, err := w.Sources.BringIn(t.Context(), strings.NewReader("ref,title,dealer,left\nA,Mug,1.50,4\n"), sources.Arriving{Name: "x"})
	require.NoError(t, err)
	c, err := w.Sources.Check(t.Context(), f.ID, nil, nil, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"cost"}, c.Missing)
	c, err = w.Sources.Check(t.Context(), f.ID, nil, map[string]string{"dealer": "cost", "left": "stock"}, 0)
	require.NoError(t, err)
	assert.Equal(t, [3]int64{1, 1, 0}, [3]int64{c.Rows, c.Fine, c.SetAside})
	s, err := w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Brindlewick", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	r, err := w.Sources.Take(t.Context(), f.ID, s.ID, map[string]string{"dealer": "cost", "left": "stock"}, false)
	require.NoError(t, err)
	w.wait(r)
	w.idle()
	again, err := w.Sources.BringIn(
		t.Context(),
		strings.NewReader("ref,title,dealer,left\nA,Mug,1.75,2\n"),
		sources.Arriving{Name: "y", SourceID: &s.ID},
	)
	require.NoError(t, err)
	assert.Equal(t, int64(1), w.take(again.ID, s.ID, false).Changed, "the next file is read the same way")
	unnamed, err := w.Sources.BringIn(t.Context(), strings.NewReader(text), sources.Arriving{Name: "z"})
	require.NoError(t, err, "a person says what its columns are")
	c, err = w.Sources.Check(t.Context(), unnamed.ID, nil, nil, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"ref", "title", "cost"}, c.Missing)
}

func TestSearchFindsByWordsRefsAndNumbers(t *testing.T) {
	w := priced(t)
	_, err := w.bringIn("Tidewrack", "sku,ean,title,price,stock\nTW-1,9520001000003,Clearance thing,1.00,3\n")
	require.NoError(t, err)
	one := w.find("enamel mug moss")
	require.NotEmpty(t, one)
	for _, x := range one {
		assert.Contains(t, strings.ToLower(x.Title), "enamel")
	}
	assert.NotEmpty(t, w.find("enam mu"), "half-typed words are found too")
	assert.Equal(t, "TW-1", w.find("tw-1")[0].Ref)
	assert.NotEmpty(t, one[0].Sites, "what is ours says so")
	same := w.find(one[0].GTIN)
	assert.Equal(t, one[0].ID, same[0].ID)
	assert.Equal(t, same, w.find(one[0].GTIN[1:]), "a number in any form")
	assert.Empty(t, w.find("zeppelin"))
	assert.Empty(t, w.find(`"*' OR 1=1 --`))

	id := w.find("clearance")[0].ID
	require.NoError(t, w.Sources.Keep(t.Context(), id, "ask for more"))
	kept, err := w.Sources.Kept(t.Context())
	require.NoError(t, err)
	require.Len(t, kept, 1)
	assert.Equal(t, "ask for more", kept[0].Note)
	assert.NotNil(t, kept[0].WouldGet, "what one would make")
	require.NoError(t, w.Sources.Forget(t.Context(), id))
	assert.Equal(t, fault.Missing, fault.KindOf(w.Sources.Keep(t.Context(), 999_999, "")))
}

func TestOnlyWhatIsTakenToASiteIsLookedUp(t *testing.T) {
	w := newWorld(t)
	set, err := w.Sources.Settings(t.Context(), w.source.ID)
	require.NoError(t, err)
	set.LookUp = false
	require.NoError(t, w.Sources.SetSettings(t.Context(), w.source.ID, stops.IfMatch{}, set))
	w.fetch()
	assert.Zero(t, w.counts().Products, "finds stay finds")
	found := w.find("enamel mug moss")
	require.NoError(t, w.Sources.ListOn(t.Context(), []int64{found[0].ID, found[1].ID}, []int64{w.site.ID}))
	w.idle()
	c := w.counts()
	assert.Equal(t, int64(2), c.Products+c.MatchSeveral+c.MatchNone)
	assert.Contains(t, w.find(found[0].GTIN)[0].Sites, "Quaymarket GB")
}

func TestAPageIsCapturedAndKnownAgain(t *testing.T) {
	w := newWorld(t)
	page := `<!doctype html><html><head><script type="application/ld+json">{"@type":"Product","name":"Stove","sku":"CW-1","offers":{"price":"%s","priceCurrency":"USD","availability":"InStock"}}</script></head></html>`
	price := "64.50"
	shop := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		assert.Empty(t, r.URL.Query().Get("utm_source"))
		_, _ = fmt.Fprintf(rw, page, price)
	}))
	defer shop.Close()
	_, err := w.Sources.Capture(t.Context(), "Corrie & Wether", shop.URL+"/stove")
	assert.ErrorContains(t, err, "private network", "a page is no way inward")

	for address, want := range map[string]string{"HTTPS://Shop.example/a?utm_source=x&b=2&a=1#top": "https://shop.example/a?a=1&b=2", "https://shop.example": "https://shop.example/", "https://u:p@shop.example/x?gclid=9&ref=mail": "https://shop.example/x"} {
		got, err := sources.PageAddress(address)
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	_, err = sources.PageAddress("javascript:alert(1)")
	assert.Error(t, err)

	w.House.Fetch.Allow(strings.TrimPrefix(shop.URL, "http://"))
	first, err := w.Sources.Capture(t.Context(), "Corrie & Wether", shop.URL+"/stove?utm_source=mail")
	require.NoError(t, err)
	assert.Equal(t, int64(1), w.take(first.ID, *first.SourceID, true).New)
	price = "70.00"
	second, err := w.Sources.Capture(t.Context(), "Corrie & Wether", shop.URL+"/stove#reviews")
	require.NoError(t, err)
	assert.Equal(t, *first.SourceID, *second.SourceID, "one source for all of a supplier's pages")
	taken := w.take(second.ID, *second.SourceID, true)
	assert.Equal(t, [3]int64{0, 1, 0}, [3]int64{taken.New, taken.Changed, taken.Gone}, "the same product, dearer")
	found := w.find("CW-1")
	require.Len(t, found, 1)
	assert.Equal(t, int64(7000), found[0].Cost)
}

func TestAWatchedFolder(t *testing.T) {
	w := newWorld(t)
	dir := t.TempDir()
	s, err := w.Sources.Make(asOwner(t), sources.NewSource{Supplier: "Folder", Address: dir, Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	put := func(name, text string) {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		old := time.Now().Add(-time.Minute)
		require.NoError(t, os.Chtimes(path, old, old))
	}
	look := func() []store.Feed {
		w.clock.Forward(2 * time.Minute)
		require.NoError(t, w.Sources.Round(t.Context()))
		w.idle()
		l, err := w.Store.Feeds(t.Context(), s.ID, store.Page{})
		require.NoError(t, err)
		return l.Rows
	}
	put("a.csv", "ref,title,cost\nA,Mug,1.50\n")
	put(".hidden", "x")
	first := look()
	require.Len(t, first, 1)
	assert.Equal(t, store.FeedLooked, first[0].State, "the first waits to be seen")
	w.take(first[0].ID, s.ID, false)
	put("b.csv", "ref,title,cost\nA,Mug,1.75\n")
	second := look()
	require.Len(t, second, 2)
	assert.Equal(t, [2]any{store.FeedTaken, int64(1)}, [2]any{second[0].State, second[0].Changed})
	put("c.csv", "nothing of use\n")
	assert.Equal(t, store.FeedFailed, look()[0].State)
	_, err = w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Nowhere", Address: filepath.Join(dir, "no"), Currency: "GBP", Charge: "0", Tax: "without"})
	assert.ErrorContains(t, err, "no folder")
}

// Files are read from folders that were named and from no other: not from whatever
// whoever prepares types, not from the folder of the data, nor through a link.
func TestOnlyFoldersThatWereNamed(t *testing.T) {
	w := newWorld(t)
	preparer := actor.Enter(t.Context(), actor.Who{Name: "Wren", Role: "prepare", May: actor.Look | actor.Prepare})
	data := filepath.Dir(w.Store.File())
	dir, secret := t.TempDir(), t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(secret, "list.csv"), []byte("ref,title,cost\nSECRET,Salary,1.50\n"), 0o600))
	make := func(ctx context.Context, address string) error {
		_, err := w.Sources.Make(ctx, sources.NewSource{Supplier: "From " + address, Address: address, Currency: "GBP", Charge: "0", Tax: "without"})
		return err
	}
	for _, address := range []string{"/etc", secret, data, filepath.Join(data, "inbox"), dir + "/../" + filepath.Base(secret), filepath.Join(dir, "none")} {
		assert.ErrorContains(t, make(preparer, address), "no folder that was named", address)
	}
	leads := filepath.Join(dir, "leads")
	require.NoError(t, os.Symlink(data, leads))
	for _, address := range []string{data, filepath.Join(data, "pictures"), leads, filepath.Join(leads, "inbox")} {
		assert.ErrorContains(t, make(asOwner(t), address), "the folder of the data", address)
	}
	require.NoError(t, make(asOwner(t), dir))
	assert.ErrorContains(t, make(preparer, leads), "no folder that was named", "a link out of one that was")
	in := filepath.Join(dir, "in")
	require.NoError(t, os.Mkdir(in, 0o700))
	require.NoError(t, make(preparer, in), "a folder in one that was named")

	// What leads elsewhere later isn't followed.
	look := func() string {
		w.clock.Forward(2 * time.Minute)
		require.NoError(t, w.Sources.Round(t.Context()))
		w.idle()
		list, err := w.Store.Sources(t.Context())
		require.NoError(t, err)
		words := ""
		for _, s := range list {
			feeds, err := w.Store.Feeds(t.Context(), s.ID, store.Page{})
			require.NoError(t, err)
			for _, f := range feeds.Rows {
				words += f.Name + ": " + f.State + " " + f.Error + "\n"
			}
		}
		return words
	}
	require.NoError(t, os.Symlink(filepath.Join(secret, "list.csv"), filepath.Join(in, "linked.csv")))
	assert.NotContains(t, look(), "linked.csv")
	require.NoError(t, os.RemoveAll(in))
	require.NoError(t, os.Symlink(secret, in))
	assert.Contains(t, look(), "no folder that was named")
	require.NoError(t, os.Remove(in))
	require.NoError(t, os.Symlink(data, in))
	assert.Contains(t, look(), "no folder that was named")
	assert.NotContains(t, look(), "list.csv")
}

// asOwner is a context in which the owner does what is done.
func asOwner(t interface{ Context() context.Context }) context.Context {
	return actor.Enter(t.Context(), actor.Who{Name: "owner", Role: actor.Owner, May: actor.Everything})
}

func TestAddressesArePolledByTheirSchedule(t *testing.T) {
	w := priced(t)
	set, err := w.Sources.Settings(t.Context(), w.source.ID)
	require.NoError(t, err)
	set.Every, set.Username, set.Password = 15, "us", "secret"
	require.NoError(t, w.Sources.SetSettings(t.Context(), w.source.ID, stops.IfMatch{}, set))
	s, err := w.Store.SourceOf(t.Context(), w.source.ID)
	require.NoError(t, err)
	assert.NotContains(t, s.Password, "secret", "kept encrypted")
	plain, err := w.Store.Unseal(s.Password)
	require.NoError(t, err)
	assert.Equal(t, "secret", plain)
	feeds := func() int64 {
		require.NoError(t, w.Sources.Round(t.Context()))
		w.idle()
		l, err := w.Store.Feeds(t.Context(), s.ID, store.Page{})
		require.NoError(t, err)
		return l.Total
	}
	assert.Equal(t, int64(2), feeds(), "never tried since it was set")
	assert.Equal(t, int64(2), feeds(), "not yet again")
	w.clock.Forward(15 * time.Minute)
	assert.Equal(t, int64(3), feeds())
}

func TestSettingsThatMakeNoSenseAreAnsweredAtTheField(t *testing.T) {
	w := newWorld(t)
	good, err := w.Sources.Settings(t.Context(), w.source.ID)
	require.NoError(t, err)
	for field, change := range map[string]func(s *sources.SourceSettings){
		"charge": func(s *sources.SourceSettings) { s.Charge = "12,5,0" }, "free_from": func(s *sources.SourceSettings) { s.FreeFrom = "x" },
		"stock_words": func(s *sources.SourceSettings) { s.StockWords = map[string]string{"soon": "perhaps"} }, "words": func(s *sources.SourceSettings) { s.Words = map[string]string{"x": "price"} },
		"guards": func(s *sources.SourceSettings) { s.Guards.MissingGone = 0 },
	} {
		bad := good
		change(&bad)
		var e *fault.Error
		require.ErrorAs(t, w.Sources.SetSettings(t.Context(), w.source.ID, stops.IfMatch{}, bad), &e, field)
		assert.Equal(t, field, e.Field)
	}
	good.StockWords, good.Words, good.Guards = map[string]string{
		"On the way": "0",
		"plenty":     "some",
	}, map[string]string{
		"Dealer": "cost",
	}, supply.DefaultGuards
	require.NoError(t, w.Sources.SetSettings(t.Context(), w.source.ID, stops.IfMatch{}, good))
}

// Rows of one group become variants; which of them are sold is the seller's
// choice, site by site, and what is live goes through a plan.
func TestVariantsAreSoldByChoice(t *testing.T) {
	w := newWorld(t)
	var text strings.Builder
	text.WriteString("ref,ean,title,cost,stock,group,colour,size\n")
	for i, e := range w.market.Entries[100:103] {
		fmt.Fprintf(&text, "V%d,%s,%q,1.00,40,G1,%s,%d l\n", i, e.GTIN, e.Title, []string{"moss", "rust", "slate"}[i], i+1)
	}
	_, err := w.bringIn("Variants", text.String())
	require.NoError(t, err)
	all, err := w.Store.Listings(t.Context(), store.ListingFilter{}, store.Page{})
	require.NoError(t, err)
	require.Len(t, all.Rows, 3)
	list, err := w.Store.VariantsOf(t.Context(), all.Rows[0].ID)
	require.NoError(t, err)
	require.Len(t, list, 3)
	assert.Equal(t, [3]string{"moss, 1 l", "rust, 2 l", "slate, 3 l"}, [3]string{list[0].Variant, list[1].Variant, list[2].Variant})
	require.NoError(t, w.Products.Sell(t.Context(), list[1].ListingID, false))
	w.idle()
	sent := w.sendAll()
	assert.Equal(t, int64(2), sent.Lines, "the one that isn't wanted stays behind")
	require.NoError(t, w.Products.Sell(t.Context(), list[0].ListingID, false))
	w.idle()
	plan := w.openPlan()
	lines, err := w.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 1)
	assert.Equal(t, "you chose not to sell it on Quaymarket GB", lines.Rows[0].Reasons[0])
}

// A page that is handed in as a person's browser has it is looked at like any
// other: only by the bookmark's token, and nothing is fetched for it.
func TestAPageIsHandedIn(t *testing.T) {
	w := newWorld(t)
	page := `<html><head><script type="application/ld+json">{"@type":"Product","name":"Stove <b>x</b>","sku":"CW-1","offers":{"price":"64.50","priceCurrency":"USD","availability":"InStock"}}</script></head></html>`
	none, err := w.Sources.Bookmarked(t.Context())
	require.NoError(t, err)
	assert.Empty(t, none)
	token, err := w.Sources.Bookmark(t.Context())
	require.NoError(t, err)
	again, err := w.Sources.Bookmarked(t.Context())
	require.NoError(t, err)
	assert.Equal(t, token, again, "the same until another is made")
	for _, wrong := range []string{"", "AAAAAAAAAA", token + "A"} {
		_, err := w.Sources.HandIn(t.Context(), wrong, "", "https://inside.example/stove", []byte(page))
		assert.ErrorContains(t, err, "old one", wrong)
	}
	_, err = w.Sources.HandIn(t.Context(), token, "", "javascript:alert(1)", []byte(page))
	assert.ErrorContains(t, err, "not an address")
	_, err = w.Sources.HandIn(t.Context(), token, "", "https://inside.example/stove", nil)
	assert.ErrorContains(t, err, "without anything in it")
	f, err := w.Sources.HandIn(t.Context(), token, "", "https://www.inside.example/stove?session=secret", []byte(page))
	require.NoError(t, err)
	assert.Equal(t, store.FeedLooked, f.State, "nothing of it is taken before it was looked at")
	assert.Equal(t, "https://www.inside.example/stove", f.Name)
	assert.Equal(t, int64(1), w.take(f.ID, *f.SourceID, true).New)
	found := w.find("CW-1")
	require.Len(t, found, 1)
	assert.Equal(t, [2]any{int64(6450), "inside.example"}, [2]any{found[0].Cost, found[0].Supplier})
	_, err = w.Sources.Bookmark(t.Context())
	require.NoError(t, err)
	_, err = w.Sources.HandIn(t.Context(), token, "", "https://inside.example/stove", []byte(page))
	assert.ErrorContains(t, err, "old one", "another was made")
}

// Names of columns that nobody knows are chosen by a person, and then known wherever they
// stand in the source's next files; another row can be said to have them.
func TestAHeaderThatNobodyKnowsIsChosenByHand(t *testing.T) {
	w := newWorld(t)
	list := func(before, cost string) io.Reader {
		return strings.NewReader(before + "Kenmrk;Wat het is;Onze;Er zijn\nA1;Mug;" + cost + ";4\nA2;Pan;2,50;5\n")
	}
	f, err := w.Sources.BringIn(t.Context(), list("List of spring; 2026\n\n", "1,50"), sources.Arriving{Name: "x"})
	require.NoError(t, err)
	c, err := w.Sources.Check(t.Context(), f.ID, nil, nil, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"ref", "title", "cost"}, c.Missing)
	assert.Equal(t, 3, c.Look.HeaderRow)
	require.Len(t, c.Look.Columns, 4)
	s, err := w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Brindlewick", Currency: "EUR", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	r, err := w.Sources.Take(t.Context(), f.ID, s.ID, map[string]string{"Kenmrk": "ref", "Wat het is": "title", "Onze": "cost", "Er zijn": "stock"}, false)
	require.NoError(t, err)
	w.wait(r)
	w.idle()
	assert.EqualValues(t, 2, w.feed(f.ID).New)
	f, err = w.Sources.BringIn(t.Context(), list("ref; title of this list: summer\n\n\n\n", "1,60"), sources.Arriving{Name: "y", SourceID: &s.ID})
	require.NoError(t, err)
	assert.EqualValues(t, 1, w.take(f.ID, s.ID, false).Changed, "the row with the chosen names goes before one with known ones")
	_, err = w.Sources.BringIn(t.Context(), strings.NewReader("Wat;Hoe;Waar\na;b;c\n"), sources.Arriving{Name: "z", SourceID: &s.ID})
	assert.ErrorContains(t, err, "no header row", "nothing is guessed of a source that is known")

	f, err = w.Sources.BringIn(t.Context(), strings.NewReader("ref,title of what we have\nnr,what,cost,stock\n1,Mug,1.50,4\n"), sources.Arriving{Name: "v"})
	require.NoError(t, err)
	c, err = w.Sources.Check(t.Context(), f.ID, nil, map[string]string{"nr": "ref", "what": "title"}, 2)
	require.NoError(t, err)
	assert.Equal(t, [3]any{2, int64(1), []string{}}, [3]any{c.Look.HeaderRow, c.Fine, c.Missing})
}
