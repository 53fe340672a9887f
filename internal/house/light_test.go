package house_test

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// stock is a light file with what most places want in one.
func (s *stall) stock(name, part, target string) sending.LightFile {
	return sending.LightFile{SiteID: s.site.ID, Name: name, Part: part, Target: target, Change: "U", End: "D", Columns: []sending.LightColumn{
		{Header: "Item SKU", From: "sku"}, {Header: "Price", From: "price"}, {Header: "Qty", From: "quantity"}, {Header: "Action", From: "do"}, {Header: "Shop", Value: "Saltmarsh"}}}
}

func (s *stall) keepLight(f sending.LightFile) int64 {
	id, err := s.Sending.KeepLight(asOwner(s.t), 0, stops.IfMatch{}, f)
	require.NoError(s.t, err)
	return id
}

// table reads what a light file says: by SKU, its other cells.
func table(t require.TestingT, raw string) map[string][]string {
	r := csv.NewReader(strings.NewReader(raw))
	rows, err := r.ReadAll()
	require.NoError(t, err)
	require.Equal(t, []string{"Item SKU", "Price", "Qty", "Action", "Shop"}, rows[0])
	out := map[string][]string{}
	for _, row := range rows[1:] {
		out[row[0]] = row[1:]
	}
	return out
}

func (s *stall) download(id int64) map[string][]string {
	_, raw, err := s.Sending.DownloadLight(s.t.Context(), id)
	require.NoError(s.t, err)
	return table(s.t, string(raw))
}

// A light file tells the prices that were confirmed, and never more than can be
// offered at the moment it is made, whatever the plan waits for.
func TestALightFileIsByWhatHoldsNow(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	id := s.keepLight(s.stock("stock.csv", store.LightAll, ""))
	all := s.download(id)
	require.Len(t, all, 3)
	few := s.stock("few.csv", store.LightAll, "")
	few.Only, few.Columns = []string{s.all()[1].SKU, "NOBODY-1"}, few.Columns[:3:3]
	_, raw, err := s.Sending.DownloadLight(t.Context(), s.keepLight(few))
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(string(raw), s.all()[1].SKU))
	assert.Equal(t, 1, strings.Count(strings.TrimSpace(string(raw)), "\n"), "a few columns of a few")
	for _, l := range s.all() {
		assert.Equal(t, []string{unitText(*l.ConfirmedPrice), "8", "U", "Saltmarsh"}, all[l.SKU])
	}
	// One is sold out and one can't be sold at its price any more; nobody let their changes go yet.
	s.bring(func(i int) int64 { return []int64{400, 400, 2000}[i] }, func(i int) int64 { return []int64{9, 0, 9}[i] })
	left := map[string]string{}
	for sku, cells := range s.download(id) {
		left[s.there()[sku].Entry] = cells[1]
	}
	assert.Equal(t, map[string]string{s.entries[0].Ref: "8", s.entries[1].Ref: "0", s.entries[2].Ref: "0"}, left)
	for _, x := range s.there() {
		assert.Equal(t, int64(8), x.Quantity, "the gateway was told nothing")
	}
}

// Of what changed since, only that is in it; what isn't to be sold any more ends.
func TestALightFileOfWhatChanged(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	id := s.keepLight(s.stock("changes.csv", store.LightChanged, ""))
	end := s.keepLight(s.stock("end.csv", store.LightEnd, ""))
	assert.Len(t, s.download(id), 4, "all of it is new at first")
	assert.Empty(t, s.download(id))
	s.deliver(always(400), func(i int) int64 { return []int64{9, 4, 9, 9}[i] })
	assert.Len(t, s.download(id), 1)
	assert.Empty(t, s.download(id))
	var sku string
	for _, l := range s.all() {
		if l.EntryRef == s.entries[2].Ref {
			sku = l.SKU
			require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error { return tx.Unwant(s.clock.Now(), l.ID) }))
		}
	}
	s.idle()
	want := map[string][]string{sku: {unitText(s.sold(s.entries[2].Ref).Price), "0", "D", "Saltmarsh"}}
	assert.Equal(t, want, s.download(id))
	assert.Equal(t, want, s.download(end))
}

// By itself a light file goes into a folder, whole, with its schema beside it, on
// its schedule: not while everything is stopped.
func TestALightFileGoesIntoAFolder(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	out := t.TempDir()
	f := s.stock("stock.csv", store.LightAll, out)
	f.Every = 60
	s.keepLight(f)
	s.later(15 * time.Minute)
	read := func() map[string][]string {
		raw, err := os.ReadFile(filepath.Join(out, "stock.csv"))
		require.NoError(t, err)
		return table(t, string(raw))
	}
	require.Len(t, read(), 2)
	raw, err := os.ReadFile(filepath.Join(out, "stock.csv.schema.json"))
	require.NoError(t, err)
	var schema struct {
		Fields     []struct{ Name, Type string }
		PrimaryKey string
	}
	require.NoError(t, json.Unmarshal(raw, &schema))
	assert.Equal(t, "Item SKU", schema.PrimaryKey)
	assert.Equal(t, []struct{ Name, Type string }{{"Item SKU", "string"}, {"Price", "number"}, {"Qty", "integer"}, {"Action", "string"}, {"Shop", "string"}}, schema.Fields)
	names, err := os.ReadDir(out)
	require.NoError(t, err)
	assert.Len(t, names, 2, "nothing half-made is left")

	s.deliver(always(400), always(2))
	require.NoError(t, s.Sending.SetHalt(t.Context(), true, "looking"))
	s.later(2 * time.Hour)
	for _, cells := range read() {
		assert.Equal(t, "8", cells[1], "everything is stopped")
	}
	require.NoError(t, s.Sending.SetHalt(t.Context(), false, ""))
	s.later(2 * time.Hour)
	for _, cells := range read() {
		assert.NotEqual(t, "8", cells[1])
	}
}

// taker takes files by PUT.
type taker struct {
	mu     sync.Mutex
	answer int
	got    []string
	auth   [2]string
}

func (p *taker) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	p.mu.Lock()
	defer p.mu.Unlock()
	body, err := io.ReadAll(r.Body)
	if err != nil || r.Method != http.MethodPut {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	p.auth[0], p.auth[1], _ = r.BasicAuth()
	if p.answer == http.StatusOK {
		p.got = append(p.got, string(body))
	}
	http.Error(w, "the shelf is full", p.answer)
}

func (p *taker) set(answer int) (got []string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.answer = answer
	return p.got
}

// By PUT, what couldn't be given is tried again, and what changed isn't lost by it.
func TestALightFileGoesByPut(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	p := &taker{answer: http.StatusOK}
	srv := httptest.NewServer(p)
	t.Cleanup(srv.Close)
	f := s.stock("changes.csv", store.LightChanged, srv.URL+"/in/changes.csv")
	f.Every, f.Username, f.Password = 60, "saltmarsh", "open sesame"
	id := s.keepLight(f)
	s.later(15 * time.Minute)
	list, err := s.Sending.LightFiles(t.Context())
	require.NoError(t, err)
	assert.Contains(t, list[0].Error, "--allow", "an address in this network is left alone until it is allowed")
	s.Fetch.Allow(strings.TrimPrefix(srv.URL, "http://"))
	s.later(15 * time.Minute)
	got := p.set(http.StatusServiceUnavailable)
	require.Len(t, got, 1)
	assert.Len(t, table(t, got[0]), 2)
	assert.Equal(t, [2]string{"saltmarsh", "open sesame"}, p.auth)
	s.deliver(always(400), func(i int) int64 { return []int64{3, 9}[i] })
	s.later(90 * time.Minute)
	list, err = s.Sending.LightFiles(t.Context())
	require.NoError(t, err)
	assert.Contains(t, list[0].Error, "the shelf is full")
	assert.Empty(t, list[0].Password)
	p.set(http.StatusOK)
	s.later(30 * time.Minute)
	got = p.set(http.StatusOK)
	require.Len(t, got, 2)
	assert.Len(t, table(t, got[1]), 1, "what changed, once")
	s.later(3 * time.Hour)
	assert.Len(t, p.set(http.StatusOK), 2, "nothing changed, nothing goes")
	require.NoError(t, s.Sending.DropLight(t.Context(), id))
	s.later(2 * time.Hour)
}

func TestALightFileThatCannotBe(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(400), always(9))
	for field, change := range map[string]func(f *sending.LightFile){
		"name":              func(f *sending.LightFile) { f.Name = "../stock.csv" },
		"target":            func(f *sending.LightFile) { f.Target = "/nowhere/at/all" },
		"columns":           func(f *sending.LightFile) { f.Columns = f.Columns[1:] },
		"columns[1].header": func(f *sending.LightFile) { f.Columns[1].Header = " item sku" },
		"every_minutes":     func(f *sending.LightFile) { f.Every, f.Target = 1, os.TempDir() },
	} {
		f := s.stock("stock.csv", store.LightAll, "")
		change(&f)
		_, err := s.Sending.KeepLight(asOwner(t), 0, stops.IfMatch{}, f)
		var e *fault.Error
		if assert.ErrorAs(t, err, &e, field) {
			assert.Equal(t, field, e.Field)
		}
	}
	f := s.stock("stock.csv", store.LightAll, "")
	f.Every = 60
	_, err := s.Sending.KeepLight(asOwner(t), 0, stops.IfMatch{}, f)
	assert.ErrorContains(t, err, "must go somewhere")
	f.Every = 0
	s.keepLight(f)
	_, err = s.Sending.KeepLight(asOwner(t), 0, stops.IfMatch{}, f)
	assert.ErrorContains(t, err, "already")
}
