package house_test

import (
	"archive/zip"
	"bytes"
	"net/http"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2/humatest"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops/places"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// board is a notice board: no gateway, no sheet, a form that a person fills in.
type board struct {
	*stall
	here store.Site
}

func newBoard(t *testing.T, products int) (*board, []int64) {
	b := &board{stall: newStall(t, products)}
	b.deliver(func(int) int64 { return 400 }, func(int) int64 { return 9 })
	var err error
	b.here, err = b.Places.Make(t.Context(), places.NewPlace{Name: "The Slipway Board", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", Commission: "5%",
		ByHand: true, Categories: "Camp kitchen", Fixed: "0", Charged: "0", Outbound: "0"})
	require.NoError(t, err)
	require.NoError(t, b.Preparing.WriteDemand(t.Context(), b.here.ID, "Camp kitchen", `{"title":{"limit":60,"parts":["brand","kind"]},"description":{"least":5},"pictures":{"least":1}}`))
	var products64 []int64
	for _, x := range b.all() {
		products64 = append(products64, x.ProductID)
	}
	_, err = b.Preparing.Add(t.Context(), b.here.ID, products64, "Camp kitchen")
	require.NoError(t, err)
	b.idle()
	var ids []int64
	list, err := b.Store.Preparations(t.Context(), store.PreparationFilter{SiteID: b.here.ID, Part: "all"}, store.Page{})
	require.NoError(t, err)
	one, err := b.Preparing.AddPicture(t.Context(), drawn(t, 700, 700))
	require.NoError(t, err)
	for _, r := range list.Rows {
		ids = append(ids, r.ListingID)
		_, err := b.Preparing.Say(t.Context(), r.ListingID, []preparing.FieldSaid{{Field: "description", Values: []string{"Good for the hill."}}})
		require.NoError(t, err)
		_, err = b.Preparing.Choose(t.Context(), r.ListingID, []preparing.PictureChoice{{Original: one.Digest}})
		require.NoError(t, err)
	}
	b.idle()
	return b, ids
}

func (b *board) tasks() []sending.Task {
	list, err := b.Sending.Tasks(b.t.Context())
	require.NoError(b.t, err)
	return list
}

func (b *board) done(d sending.TaskDone) {
	require.NoError(b.t, b.Sending.Done(b.t.Context(), d))
	b.idle()
}

// What is sent to a place that has neither a gateway nor a sheet becomes tasks:
// new listings first of all, and what takes something off sale before all else.
func TestTheHandDesk(t *testing.T) {
	b, ids := newBoard(t, 2)
	sent, err := b.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	b.idle()
	tasks := b.tasks()
	require.Len(t, tasks, 2)
	assert.Equal(t, "new", tasks[0].Kind)
	names := []string{}
	for _, f := range tasks[0].Fields {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"Title", "Price", "Quantity", "Description", "Brand", "Barcode", "Category"}, names, "in the order of a form")
	counts, err := b.Store.Counts(t.Context(), b.clock.Now())
	require.NoError(t, err)
	assert.Equal(t, int64(2), counts.Tasks)

	// Its pictures come numbered, whatever they were called.
	_, api := humatest.New(t)
	b.Sending.Operations(api)
	w := api.Get("/tasks/" + tasks[0].Key + "/pictures.zip")
	require.Equal(t, http.StatusOK, w.Code)
	z, err := zip.NewReader(bytes.NewReader(w.Body.Bytes()), int64(w.Body.Len()))
	require.NoError(t, err)
	require.Len(t, z.File, 1)
	assert.Equal(t, "01-"+tasks[0].SKU+".png", z.File[0].Name)

	assert.ErrorContains(t, b.Sending.Done(t.Context(), sending.TaskDone{Key: tasks[0].Key, Page: "javascript:alert(1)"}), "no address of a page")
	b.done(sending.TaskDone{Key: tasks[0].Key, Page: "https://slipway.example/n/1"})
	assert.ErrorContains(t, b.Sending.Done(t.Context(), sending.TaskDone{Key: tasks[0].Key}), "done or taken back already")
	b.done(sending.TaskDone{Key: tasks[1].Key, Failed: "The board wants a picture of the bottom."})
	o, err := b.Store.SendOutRowOf(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	assert.Equal(t, [3]any{store.SendDone, int64(1), int64(1)}, [3]any{o.State, o.Confirmed, o.Refused})
	row, err := b.Store.ListingRowOf(t.Context(), tasks[0].ListingID)
	require.NoError(t, err)
	assert.Equal(t, store.ListingLive, row.State)

	// The supplier has none left: what is on the board is to come off it, loudly once it is late.
	b.deliverAnyway(0)
	b.letPlanGo(b.here.ID)
	tasks = b.tasks()
	require.Len(t, tasks, 1)
	assert.Equal(t, [2]string{"take off", "https://slipway.example/n/1"}, [2]string{tasks[0].Kind, tasks[0].Page})
	assert.Equal(t, []sending.TaskField{{Name: "Quantity", Value: "0"}}, tasks[0].Fields)
	assert.False(t, tasks[0].Overdue)
	b.clock.Forward(7 * time.Hour)
	assert.True(t, b.tasks()[0].Overdue)
	b.done(sending.TaskDone{Key: tasks[0].Key})
	row, err = b.Store.ListingRowOf(t.Context(), row.ID)
	require.NoError(t, err)
	assert.Zero(t, row.ConfirmedQuantity)
}

// A task that may not be done any more says so, and giving it up leaves all as it was.
func TestATaskThatGrewOld(t *testing.T) {
	b, ids := newBoard(t, 1)
	sent, err := b.Sending.SendListings(t.Context(), ids, sending.How{})
	require.NoError(t, err)
	b.idle()
	assert.Empty(t, b.tasks()[0].Stale)
	b.deliverAnyway(1)
	assert.Contains(t, b.tasks()[0].Stale, "only 0 can be now")
	require.NoError(t, b.Sending.GiveUp(t.Context(), sent.SendOuts[0]))
	b.idle()
	assert.Empty(t, b.tasks())
	o, err := b.Store.SendOutRowOf(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	assert.Equal(t, [2]int64{1, 0}, [2]int64{o.GivenUp, o.Unknown})
}
