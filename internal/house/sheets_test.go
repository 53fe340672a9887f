package house_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image/color"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"easymargin/demo"
	"easymargin/internal/fault"
	"easymargin/internal/sim"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// fold is a shop on Copperfold, which takes listings by filled sheets.
type fold struct {
	*stall
	place  *sim.Marketplace
	server *httptest.Server
	shut   atomic.Int32 // its door turns away what comes after so many more sheets; 0: none
	photos string       // where pictures are
	here   store.Site
}

func newFold(t *testing.T, products int) *fold {
	f := &fold{stall: newStall(t, products, "pictures"), place: demo.Copperfold(nil)}
	f.place.Clock = f.clock
	var err error
	f.place.Sheets, err = demo.CopperfoldSheets()
	require.NoError(t, err)
	f.server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost && strings.HasSuffix(r.URL.Path, "/sheets") && f.shut.Load() > 0 && f.shut.Add(-1) == 0 {
			f.shut.Add(1)
			w.WriteHeader(http.StatusTooManyRequests)
			return
		}
		f.place.ServeHTTP(w, r)
	}))
	t.Cleanup(f.server.Close)
	photo := block(t, 900, 900, color.White)
	photos := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write(photo) }))
	t.Cleanup(photos.Close)
	f.photos = photos.URL
	f.House.Fetch.Allow(strings.TrimPrefix(photos.URL, "http://"))
	sites, err := f.Places.Connect(t.Context(), "Copperfold", f.server.URL)
	require.NoError(t, err)
	nothingAsked(t, f.Store, sites)
	for _, s := range sites {
		if s.Code == "NO" {
			f.here = s
		}
	}
	return f
}

// blank is one that its seller's page gives.
func (f *fold) blank(name string) []byte {
	res, err := http.Get(f.server.URL + "/seller/blanks/" + name)
	require.NoError(f.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(f.t, err)
	return raw
}

// keep drops a blank and keeps it as it is proposed.
func (f *fold) keep(name, category string, raw []byte) (preparing.BlankLook, preparing.BlankKept) {
	look, err := f.Preparing.LookBlank(f.t.Context(), f.here.ID, name, raw)
	require.NoError(f.t, err)
	s := look.Sheets[0]
	choice := preparing.BlankChoice{Token: look.Token, Name: name, Category: category, Sheet: s.Name, HeaderRow: s.HeaderRow, FirstRow: s.FirstRow}
	for _, c := range s.Columns {
		choice.Columns = append(choice.Columns, preparing.FilledAs{Header: c.Header, Fill: c.Fill})
	}
	kept, err := f.Preparing.KeepBlank(f.t.Context(), f.here.ID, choice)
	require.NoError(f.t, err)
	f.idle()
	return look, kept
}

// upload takes a filled sheet to the seller's page, as a person would.
func (f *fold) upload(name string, content []byte) int {
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	require.NoError(f.t, form.WriteField("site", "NO"))
	w, err := form.CreateFormFile("sheet", name)
	require.NoError(f.t, err)
	_, err = w.Write(content)
	require.NoError(f.t, err)
	require.NoError(f.t, form.Close())
	res, err := http.Post(f.server.URL+"/seller/uploads", form.FormDataContentType(), &body)
	require.NoError(f.t, err)
	require.NoError(f.t, res.Body.Close())
	return res.StatusCode
}

// report reads the report of an upload in, as it is proposed.
func (f *fold) report(id string) sending.ReportTaken {
	res, err := http.Get(f.server.URL + "/seller/uploads/" + id + "/report.csv")
	require.NoError(f.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(f.t, err)
	look, err := f.Sending.LookReport(f.t.Context(), f.here.ID, "report.csv", raw)
	require.NoError(f.t, err)
	choice := sending.ReportChoice{Token: look.Token, Columns: map[string]string{}, States: map[string]string{}}
	for _, c := range look.Columns {
		choice.Columns[c.Name] = c.As
	}
	for _, s := range look.States {
		choice.States[s.Word] = s.Means
	}
	out, err := f.Sending.TakeReport(f.t.Context(), f.here.ID, choice)
	require.NoError(f.t, err)
	f.idle()
	return out
}

// ready lists all products there, in cooking or by turns in the categories given,
// and says what their sheets need.
func (f *fold) ready(categories ...string) []int64 {
	require.NoError(f.t, f.Prices.SetRate(f.t.Context(), "GBP", "NOK", "13.00"))
	f.pictured(func(int) int { return 9 })
	if categories == nil {
		categories = []string{"cooking"}
	}
	products, ids := make([][]int64, len(categories)), []int64(nil)
	for i, x := range f.all() {
		products[i%len(categories)] = append(products[i%len(categories)], x.ProductID)
	}
	for i, category := range categories {
		_, err := f.Preparing.Add(f.t.Context(), f.here.ID, products[i], category)
		require.NoError(f.t, err)
	}
	f.idle()
	list, err := f.Store.Preparations(f.t.Context(), store.PreparationFilter{Part: "all"}, store.Page{Limit: 100})
	require.NoError(f.t, err)
	for _, r := range list.Rows {
		ids = append(ids, r.ListingID)
		_, err := f.Preparing.Say(f.t.Context(), r.ListingID, []preparing.FieldSaid{
			{Field: "brand", Values: []string{"Tarnwick"}}, {Field: "description", Values: []string{"A good thing for the hill."}},
			{Field: "attributes.commodity_code", Values: []string{"7323.94"}}, {Field: "attributes.origin", Values: []string{"norland"}},
			{Field: "attributes.packer", Values: []string{"Saltmarsh Kit, Wick"}}})
		require.NoError(f.t, err)
	}
	f.idle()
	return ids
}

// pictured delivers the supplier's list with two pictures each.
func (f *fold) pictured(stock func(i int) int) {
	var b strings.Builder
	b.WriteString("ref,title,brand,ean,cost,stock,picture,picture 2\n")
	for i, e := range f.entries {
		fmt.Fprintf(&b, "R%03d,%q,%s,%s,4.00,%d,%s/a%d.jpg,%s/b%d.jpg\n", i, e.Title, e.Brand, e.GTIN, stock(i), f.photos, i, f.photos, i)
	}
	file, err := f.Sources.BringIn(f.t.Context(), strings.NewReader(b.String()), sources.Arriving{Name: "list.csv", SourceID: &f.source.ID})
	require.NoError(f.t, err)
	require.Equal(f.t, store.FeedTaken, f.take(file.ID, f.source.ID, true).State)
}

func TestABlankSaysWhatItsCategoryAsksFor(t *testing.T) {
	f := newFold(t, 1)
	look, kept := f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	assert.Equal(t, "cooking", look.Category, "its name says so")
	assert.Equal(t, [2]int{3, 4}, [2]int{look.Sheets[0].HeaderRow, look.Sheets[0].FirstRow})
	assert.Empty(t, kept.Without)
	demands, err := f.Preparing.Demands(t.Context(), f.here.ID)
	require.NoError(t, err)
	require.Len(t, demands, 1)
	assert.Equal(t, "sheet", demands[0].Origin)
	for _, text := range []string{`"limit":60`, `"register":["Tarnwick"`, `"least":2`, `{"ref":"origin","kind":"choice","need":"needed","values":["Norland"`, `"ref":"capacity_ml","kind":"text"`} {
		assert.Contains(t, demands[0].Needs, text)
	}
	require.NoError(t, f.Preparing.ReadDemands(t.Context(), f.here.ID))
	f.idle()
	demands, err = f.Preparing.Demands(t.Context(), f.here.ID)
	require.NoError(t, err)
	assert.Equal(t, "sheet", demands[0].Origin, "a gateway that tells nothing doesn't take it away")

	// A new version of it is compared.
	x, err := excelize.OpenReader(bytes.NewReader(f.blank("copperfold-cooking.xlsx")))
	require.NoError(t, err)
	require.NoError(t, x.SetCellStr("Listings", "P2", "Required"))
	require.NoError(t, x.SetCellStr("Listings", "P3", "Weight, g"))
	require.NoError(t, x.SetCellStr("Values", "J1", "Norland (mainland)"))
	var out bytes.Buffer
	require.NoError(t, x.Write(&out))
	_, kept = f.keep("copperfold-cooking.xlsx", "cooking", out.Bytes())
	assert.Contains(t, strings.Join(kept.Changes, "; "), "origin no longer takes Norland; origin takes Norland (mainland) too")

	_, err = f.Preparing.LookBlank(t.Context(), f.here.ID, "notes.txt", []byte("hello"))
	assert.ErrorContains(t, err, "has no header row")
	_, err = f.Preparing.KeepBlank(t.Context(), f.here.ID, preparing.BlankChoice{Token: "../../easymargin.db", HeaderRow: 1, FirstRow: 2})
	assert.ErrorContains(t, err, "drop it again")
}

// From a blank to what is live: filled, uploaded by hand, looked through by
// people, its report read, what they refused mended and sent again.
func TestASheetGoesUpAndItsReportComesBack(t *testing.T) {
	f := newFold(t, 8)
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	f.keep("copperfold-price-and-stock.csv", "", f.blank("copperfold-price-and-stock.csv"))
	ids := f.ready()
	sent, err := f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	require.Equal(t, int64(len(ids)), sent.Lines)
	f.idle()
	files := f.files()
	require.Len(t, files, 1)
	assert.Equal(t, int64(8), files[0].Rows)
	o, err := f.Store.SendOutRowOf(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	assert.Equal(t, [2]int64{1, 1}, [2]int64{o.Sheets, o.Unloaded})

	content := f.content(files[0].ID)
	x, err := excelize.OpenReader(bytes.NewReader(content))
	require.NoError(t, err)
	origin, err := x.GetCellValue("Listings", "J5")
	require.NoError(t, err)
	assert.Equal(t, "Norland", origin, "as the sheet's list writes it, below the example")
	picture, err := x.GetCellValue("Listings", "M5")
	require.NoError(t, err)
	assert.Contains(t, picture, f.photos+"/b", "by its address")

	require.Equal(t, http.StatusOK, f.upload(files[0].Name, content))
	require.NoError(t, f.Sending.Uploaded(t.Context(), files[0].ID))
	said := f.report("1")
	assert.Equal(t, sending.ReportTaken{Taken: 8, Strange: []string{}}, said, "people are at it")
	assert.Equal(t, "sent", f.state(sent.SendOuts[0]))

	f.clock.Forward(49 * time.Hour)
	said = f.report("1")
	assert.Equal(t, sending.ReportTaken{Confirmed: 6, Refused: 2, Strange: []string{}}, said)
	assert.Equal(t, "done", f.state(sent.SendOuts[0]))
	var refused []store.SendLineRow
	file, err := f.Sending.Outcomes(t.Context(), sent.SendOuts[0], "csv")
	require.NoError(t, err)
	assert.Contains(t, string(file), "line,what was done,SKU,")
	assert.Contains(t, string(file), ",refused,title,say in the title what it is made of,")
	assert.Equal(t, 10, strings.Count(string(file), "\r\n")+1, "a line each, and their heads")
	_, err = f.Sending.Outcomes(t.Context(), sent.SendOuts[0], "pdf")
	assert.ErrorContains(t, err, "csv or xlsx")
	lines, err := f.Store.SendLines(t.Context(), sent.SendOuts[0], "refused", store.Page{})
	require.NoError(t, err)
	refused = lines.Rows
	require.Len(t, refused, 2)
	assert.Equal(t, "title", refused[0].Field, "the field that opens is ours, not the name of their column")
	assert.Equal(t, "say in the title what it is made of", refused[0].Words)

	f.pictured(func(int) int { return 9 }) // the same again: a supplier that is silent for two days sells nothing
	f.idle()

	// Only those go again; then a change of price and stock goes by the light file.
	again, err := f.Sending.SendListings(t.Context(), []int64{refused[0].ListingID, refused[1].ListingID}, sending.How{})
	require.NoError(t, err)
	require.Equal(t, int64(2), again.Lines)
	f.idle()
	files = f.files()
	require.Len(t, files, 1)
	require.Equal(t, http.StatusOK, f.upload(files[0].Name, f.content(files[0].ID)))
	f.clock.Forward(49 * time.Hour)
	assert.Equal(t, sending.ReportTaken{Confirmed: 2, Strange: []string{}}, f.report("2"))
	require.NoError(t, f.Sending.ReadBack(t.Context(), f.here.ID))
	f.idle()
	l, err := f.Store.ListingRowOf(t.Context(), refused[0].ListingID)
	require.NoError(t, err)
	assert.Equal(t, store.ListingLive, l.State)
	assert.Equal(t, *l.Price, *l.ConfirmedPrice)
}

func (f *fold) files() []sending.SheetFile {
	rows, err := f.Store.OpenSheetFiles(f.t.Context())
	require.NoError(f.t, err)
	var out []sending.SheetFile
	for _, r := range rows {
		out = append(out, sending.SheetFile{ID: r.ID, Name: r.Name, Rows: r.Rows})
	}
	return out
}

func (f *fold) content(id int64) []byte {
	x, err := f.Store.SheetFileContent(f.t.Context(), id)
	require.NoError(f.t, err)
	return x.Content
}

func (f *fold) state(sendOut int64) string {
	o, err := f.Store.SendOutRowOf(f.t.Context(), sendOut)
	require.NoError(f.t, err)
	return o.State
}

// A sheet that was made and not taken anywhere is no offer: a supplier that runs
// out meanwhile keeps it from going, and giving it up leaves all as it was.
func TestASheetThatGrewOldStaysHere(t *testing.T) {
	f := newFold(t, 2)
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	ids := f.ready()
	_, err := f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	f.idle()
	files := f.files()
	require.Len(t, files, 1)
	_, err = f.Sending.Fetch(t.Context(), files[0].ID)
	require.NoError(t, err)
	f.pictured(func(i int) int { return 9 * i })
	err = f.Sending.MayGo(t.Context(), files[0].ID)
	assert.ErrorContains(t, err, "1 line of it changed since it was made")
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	var sendOut int64
	rows, err := f.Store.OpenSheetFiles(t.Context())
	require.NoError(t, err)
	sendOut = rows[0].SendOut
	assert.ErrorContains(t, f.Sending.GiveUp(t.Context(), sendOut), "say first", "it may be at the place")
	require.NoError(t, f.Sending.NotUploaded(t.Context(), files[0].ID))
	require.NoError(t, f.Sending.GiveUp(t.Context(), sendOut))
	f.idle()
	o, err := f.Store.SendOutRowOf(t.Context(), sendOut)
	require.NoError(t, err)
	assert.Equal(t, [2]int64{2, 0}, [2]int64{o.GivenUp, o.Unknown})
	assert.Empty(t, f.files())
}

// Where the place has a door for sheets, a filled one goes by it at once, once
// however often it is tried, and what its people say is asked there.
func TestASheetGoesByTheDoor(t *testing.T) {
	f := newFold(t, 5)
	f.place.Sheets.Doors = []string{"NO"}
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	ids := f.ready()
	f.place.SetDown(true)
	sent, err := f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	f.idle()
	o, err := f.Store.SendOutRowOf(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	assert.Equal(t, store.SendWaiting, o.State, "the door can't be reached")
	assert.Empty(t, f.files(), "and nobody is asked to take it there meanwhile")
	f.place.SetDown(false)
	_, err = f.Sending.SendAgain(t.Context(), o.ID)
	require.NoError(t, err)
	f.until("it is there", func() bool { return len(f.files()) == 1 })
	made, err := f.Store.OpenSheetFiles(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "its door", made[0].UploadedBy)
	f.until("they are at it", func() bool {
		rows, err := f.Store.OpenSheetFiles(t.Context())
		require.NoError(t, err)
		return rows[0].Taken == 5
	})
	f.clock.Forward(49 * time.Hour)
	f.until("they have answered", func() bool { return f.state(o.ID) == "done" })
	o, err = f.Store.SendOutRowOf(t.Context(), o.ID)
	require.NoError(t, err)
	assert.Equal(t, [2]int64{4, 1}, [2]int64{o.Confirmed, o.Refused})
	assert.Equal(t, int64(4), f.place.Applied(), "each line once")
	lines, err := f.Store.SendLines(t.Context(), o.ID, "refused", store.Page{})
	require.NoError(t, err)
	assert.Equal(t, "title", lines.Rows[0].Field)
}

// uploads are the SKUs of each sheet that is at the place.
func (f *fold) uploads() [][]string {
	var out [][]string
	for id := 1; ; id++ {
		res, err := http.Get(fmt.Sprintf("%s/gateway/v1/sites/NO/sheets/%d", f.server.URL, id))
		require.NoError(f.t, err)
		var said struct{ Lines []struct{ SKU string } }
		err = json.NewDecoder(res.Body).Decode(&said)
		require.NoError(f.t, errors.Join(err, res.Body.Close()))
		if res.StatusCode != http.StatusOK {
			return out
		}
		var skus []string
		for _, l := range said.Lines {
			skus = append(skus, l.SKU)
		}
		out = append(out, skus)
	}
}

// A sheet that a door turned away isn't the one that goes later: what sold out in
// between isn't in that.
func TestADoorThatWasShutGetsWhatMayGoThen(t *testing.T) {
	f := newFold(t, 2)
	f.place.Sheets.Doors = []string{"NO"}
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	ids := f.ready()
	f.shut.Store(1)
	sent, err := f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	f.idle()
	require.Equal(t, store.SendWaiting, f.state(sent.SendOuts[0]))
	require.Empty(t, f.uploads())
	f.pictured(func(i int) int { return 9 * i })
	f.shut.Store(0)
	_, err = f.Sending.SendAgain(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	f.until("it is there", func() bool { return f.state(sent.SendOuts[0]) == store.SendSent })
	lines, err := f.Store.SendLines(t.Context(), sent.SendOuts[0], "sent", store.Page{})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 1)
	assert.Equal(t, [][]string{{lines.Rows[0].SKU}}, f.uploads())
}

// Turned away between two sheets of a batch, the second goes later and the first
// doesn't go again.
func TestADoorThatShutsBetweenTwoSheets(t *testing.T) {
	f := newFold(t, 2)
	f.place.Sheets.Doors = []string{"NO"}
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	f.keep("copperfold-camping.xlsx", "camping", f.blank("copperfold-camping.xlsx"))
	ids := f.ready("cooking", "camping")
	f.shut.Store(2)
	sent, err := f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	f.idle()
	require.Equal(t, store.SendWaiting, f.state(sent.SendOuts[0]))
	first := f.uploads()
	require.Len(t, first, 1)
	o, err := f.Store.SendOutRowOf(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	assert.True(t, o.Perhaps, "some of it is there")
	f.shut.Store(0)
	_, err = f.Sending.SendAgain(t.Context(), o.ID)
	require.NoError(t, err)
	f.until("both are there", func() bool { return f.state(o.ID) == store.SendSent })
	both := f.uploads()
	require.Len(t, both, 2)
	assert.Equal(t, first[0], both[0])
	assert.NotEqual(t, both[0], both[1])
	f.clock.Forward(49 * time.Hour)
	f.until("they have answered", func() bool { return f.state(o.ID) == "done" })
	o, err = f.Store.SendOutRowOf(t.Context(), o.ID)
	require.NoError(t, err)
	assert.Equal(t, [2]int64{2, 0}, [2]int64{o.Confirmed, o.Unknown})
}

// What a blank can't take is refused at once, in its words; the others go.
func TestALineThatTheSheetCantTake(t *testing.T) {
	f := newFold(t, 2)
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	ids := f.ready()
	_, err := f.Preparing.Say(t.Context(), ids[0], []preparing.FieldSaid{{Field: "attributes.colour", Values: []string{"Moss"}}})
	require.NoError(t, err)
	f.idle()
	list, err := f.Preparing.Blanks(t.Context(), f.here.ID)
	require.NoError(t, err)
	assert.Equal(t, "Cooking outdoors", list[0].Path[len(list[0].Path)-len("Cooking outdoors"):])
	x, err := excelize.OpenReader(bytes.NewReader(f.blank("copperfold-cooking.xlsx")))
	require.NoError(t, err)
	require.NoError(t, x.SetCellStr("Values", "O1", "Green")) // their list has no Moss any more
	var out bytes.Buffer
	require.NoError(t, x.Write(&out))
	// The blank alone is exchanged, as if their list had changed behind our back.
	require.NoError(t, f.Store.Do(t.Context(), func(tx store.Tx) error {
		b, _, err := tx.BlankOf(f.here.ID, "cooking")
		if err != nil {
			return err
		}
		b.Content = out.Bytes()
		return tx.PutBlank(&b)
	}))
	_, err = f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	f.idle()
	files := f.files()
	require.Len(t, files, 1)
	assert.Equal(t, int64(1), files[0].Rows)
	l, err := f.Store.ListingRowOf(t.Context(), ids[0])
	require.NoError(t, err)
	assert.Equal(t, store.ListingRefused, l.State)
	assert.Contains(t, l.Words, `"Moss" is none of the blank's values`)
}

// One blank may be for several categories: their listings go in one file, each
// row with its own.
func TestOneBlankForSeveralCategories(t *testing.T) {
	f := newFold(t, 4)
	look, err := f.Preparing.LookBlank(t.Context(), f.here.ID, "all.csv", []byte("SKU,Category,Title,Price,Quantity\nEX-1,cooking,Enamel mug,9.90,3\n"))
	require.NoError(t, err)
	choice := preparing.BlankChoice{Token: look.Token, Name: "all.csv", Category: "cooking", Also: []string{"camping"}, HeaderRow: 1, FirstRow: 3}
	for header, from := range map[string]string{"SKU": "sku", "Category": "category", "Title": "title", "Price": "price", "Quantity": "quantity"} {
		choice.Columns = append(choice.Columns, preparing.FilledAs{Header: header, Fill: preparing.Filling{From: from}})
	}
	wrong := choice
	wrong.Also = []string{"camping", "sailing"}
	_, err = f.Preparing.KeepBlank(t.Context(), f.here.ID, wrong)
	assert.ErrorContains(t, err, `no category "sailing"`)
	_, err = f.Preparing.KeepBlank(t.Context(), f.here.ID, choice)
	require.NoError(t, err)
	f.idle()
	ids := f.ready("cooking", "camping")
	_, err = f.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	f.idle()
	files := f.files()
	require.Len(t, files, 1, "one file for both")
	assert.Equal(t, int64(4), files[0].Rows)
	text := string(f.content(files[0].ID))
	assert.Equal(t, [2]int{3, 2}, [2]int{strings.Count(text, ",cooking,"), strings.Count(text, ",camping,")}, "each with its own, and the example stays")
}

// Changed words of what is on sale go to a place of sheets as the whole row, with the
// price and the quantity that are there; never with more than there is by then.
func TestChangedWordsGoAsAWholeRow(t *testing.T) {
	f := newFold(t, 2)
	f.keep("copperfold-cooking.xlsx", "cooking", f.blank("copperfold-cooking.xlsx"))
	sent, err := f.Sending.SendListings(t.Context(), f.ready(), sending.How{})
	require.NoError(t, err)
	f.idle()
	file := f.files()[0]
	require.Equal(t, http.StatusOK, f.upload(file.Name, f.content(file.ID)))
	f.clock.Forward(49 * time.Hour)
	f.report("1")
	f.pictured(func(int) int { return 9 })
	lines, err := f.Store.SendLines(t.Context(), sent.SendOuts[0], "confirmed", store.Page{})
	require.NoError(t, err)
	require.NotEmpty(t, lines.Rows)
	one := lines.Rows[0]
	_, err = f.Preparing.Say(t.Context(), one.ListingID, []preparing.FieldSaid{{Field: "title", Values: []string{"Mug for the hill, titanium"}}})
	require.NoError(t, err)
	f.idle()
	words, err := f.Sending.SendWords(t.Context(), []int64{one.ListingID}, sending.How{})
	require.NoError(t, err)
	require.Equal(t, int64(1), words.Lines)
	f.idle()
	file = f.files()[0]
	x, err := excelize.OpenReader(bytes.NewReader(f.content(file.ID)))
	require.NoError(t, err)
	rows, err := x.GetRows("Listings")
	require.NoError(t, err)
	heads, last := rows[2], rows[len(rows)-1]
	got := map[string]string{}
	for i, h := range heads {
		if i < len(last) {
			got[h] = last[i]
		}
	}
	assert.Equal(t, "Mug for the hill, titanium", got["Title"])
	assert.Equal(t, one.SKU, got["SKU"], got)
	assert.NotEmpty(t, got["Origin"], "the whole row")
	before, err := f.Store.ListingRowOf(t.Context(), one.ListingID)
	require.NoError(t, err)

	f.pictured(func(int) int { return 0 }) // sold out before anybody uploads it
	f.idle()
	assert.Error(t, f.Sending.MayGo(t.Context(), file.ID), "what would offer more than there is stays here")
	assert.Positive(t, before.ConfirmedQuantity)
}
