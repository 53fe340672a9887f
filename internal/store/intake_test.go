package store_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/store"
)

var at = time.Date(2026, 3, 3, 9, 0, 0, 0, time.UTC)

func open(t interface {
	require.TestingT
	Cleanup(func())
}, dir string) *store.Store {
	s, err := store.Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// ctxOf is the context of every test here: none of them is given up.
var ctxOf = context.Background()

// put keeps rows.
func put(t require.TestingT, s *store.Store, rows ...any) {
	require.NoError(t, s.Do(ctxOf, func(tx store.Tx) error {
		for _, row := range rows {
			if err := tx.Create(row); err != nil {
				return err
			}
		}
		return nil
	}))
}

// supplier is one source with nothing in it.
type supplier struct {
	*store.Store
	t      require.TestingT
	source store.Source
}

func newSupplier(t require.TestingT, s *store.Store, mode string) *supplier {
	x := &supplier{Store: s, t: t}
	who := store.Supplier{Name: fmt.Sprint("Tidewrack ", time.Now().UnixNano()), CreatedAt: at}
	put(t, s, &who)
	x.source = store.Source{SupplierID: who.ID, Name: who.Name, Kind: "file", Mode: mode, Currency: "GBP", LookUp: true, CreatedAt: at}
	put(t, s, &x.source)
	return x
}

// take takes rows as one feed.
func (x *supplier) take(rows []supply.Product, missingGone int64) supply.Figures {
	f := store.Feed{SourceID: &x.source.ID, Name: "feed", State: store.FeedReading, ReceivedAt: at}
	put(x.t, x.Store, &f)
	in, err := x.BeginIntake(ctxOf, f, x.source, int64(len(rows)))
	require.NoError(x.t, err)
	defer func() { _ = in.Rollback() }() // where something below fails
	for i := range rows {
		item := supply.Digested(rows[i])
		require.NoError(x.t, in.Put(i+2, &item, func() []string { return nil }))
	}
	fig, err := in.Finish(missingGone)
	require.NoError(x.t, err)
	f.State, f.TakenAt = store.FeedTaken, &at
	x.source.LastRows, x.source.TakenAt, x.source.LastFeedID = fig.Rows, &at, &f.ID
	require.NoError(x.t, in.Commit(ctxOf, at, f, x.source, func(store.Tx) error { return nil }))
	x.source, err = store.Get[store.Source](ctxOf, x.Store, x.source.ID)
	require.NoError(x.t, err)
	return fig
}

func product(ref string, cost, stock int64, title string) supply.Product {
	return supply.Product{
		Ref:        ref,
		Title:      title,
		Cost:       money.Of(cost, "GBP"),
		Stock:      supply.Stock{State: supply.StockKnown, Count: stock},
		Pictures:   []string{"https://x.example/" + ref},
		Attributes: []supply.Attribute{{Name: "Finish \"A\"", Value: "moss\tü"}},
	}
}

// kept reads every product of the source back, by ref.
func (x *supplier) kept() map[string]store.SupplierProduct {
	var list []store.SupplierProduct
	require.NoError(x.t, x.DB().Where("source_id = ?", x.source.ID).Find(&list).Error)
	out := map[string]store.SupplierProduct{}
	for _, p := range list {
		out[p.Ref] = p
	}
	return out
}

// Feeds of any kind in any order end as a simple model says: the counts, what
// is kept, what is gone, and that the history leads from one to the next.
func TestIntakeAgainstAModel(t *testing.T) {
	dir := t.TempDir()
	s := open(t, filepath.Join(dir, "data"))
	rapid.Check(t, func(t *rapid.T) {
		x := newSupplier(t, s, "full")
		missingGone := rapid.Int64Range(1, 2).Draw(t, "missing feeds")
		type item struct {
			p       supply.Product
			gone    bool
			missing int64
		}
		model := map[string]*item{}
		for range rapid.IntRange(1, 5).Draw(t, "feeds") {
			var rows []supply.Product
			want := supply.Figures{LastRows: x.source.LastRows}
			listed := map[string]bool{}
			for _, it := range model {
				if !it.gone && it.p.Stock.Some() {
					want.InStock++
				}
			}
			for n := range rapid.IntRange(0, 12).Draw(t, "refs") {
				if !rapid.Bool().Draw(t, "listed") {
					continue
				}
				ref := fmt.Sprintf("R%02d", n)
				p := product(
					ref,
					rapid.Int64Range(1, 3).Draw(t, "cost")*100,
					rapid.Int64Range(0, 2).Draw(t, "stock"),
					rapid.SampledFrom([]string{"Mug", "Pot"}).Draw(t, "title"),
				)
				rows, listed[ref] = append(rows, p), true
				want.Rows++
				it := model[ref]
				if it == nil {
					want.New++
					model[ref] = &item{p: p}
					continue
				}
				want.Known++
				if it.p.Fingerprint() == p.Fingerprint() && !it.gone {
					want.Same++
				} else {
					want.Changed++
					want.Compare(&it.p, &p) // its own test says what it counts
					if it.p.Stock.Some() && !it.gone && !p.Stock.Some() {
						want.ToZero++
					}
				}
				*it = item{p: p}
			}
			if len(rows) > 0 {
				for ref, it := range model {
					if !listed[ref] && !it.gone {
						if it.missing++; it.missing >= missingGone {
							it.gone = true
							want.Gone++
							if it.p.Stock.Some() {
								want.ToZero++
							}
						}
					}
				}
			}
			require.Equal(t, want, x.take(rows, missingGone))
			kept := x.kept()
			require.Len(t, kept, len(model))
			for ref, it := range model {
				row := kept[ref]
				got, err := row.Product()
				require.NoError(t, err)
				require.Equal(t, it.p, got)
				require.Equal(t, it.gone, row.Gone, ref)
				require.Equal(t, it.p.Fingerprint(), row.Fingerprint)
				_, history, err := x.History(ctxOf, row.ID)
				require.NoError(t, err)
				last := map[string]string{}
				for _, h := range history {
					if was, ok := last[h.Field]; ok {
						require.Equal(t, was, h.Before, "the history of %s has no gap", h.Field)
					}
					last[h.Field] = h.After
				}
				if v, ok := last["cost"]; ok {
					require.Equal(t, got.Cost.String(), v)
				}
			}
		}
	})
}

// A feed that is rolled back leaves nothing.
func TestARolledBackIntakeLeavesNothing(t *testing.T) {
	x := newSupplier(t, open(t, t.TempDir()), "full")
	x.take([]supply.Product{product("A", 100, 1, "Mug"), product("B", 100, 1, "Pot")}, 1)
	before := x.kept()
	f := store.Feed{SourceID: &x.source.ID, Name: "x", State: store.FeedReading, ReceivedAt: at}
	put(t, x.Store, &f)
	in, err := x.BeginIntake(ctxOf, f, x.source, 1)
	require.NoError(t, err)
	p := supply.Digested(product("A", 900, 0, "Other"))
	require.NoError(t, in.Put(2, &p, func() []string { return nil }))
	require.NoError(t, in.SetAside(3, "", []string{"x"}, []supply.Problem{{Reason: "the ref is missing"}}))
	_, err = in.Finish(1)
	require.NoError(t, err)
	require.NoError(t, in.Rollback())
	assert.Equal(t, before, x.kept())
	l, err := x.SetAsides(ctxOf, f.ID, store.Page{})
	require.NoError(t, err)
	assert.Zero(t, l.Total)
}

// The bulk path: an index made anew, and the file of marks, which is used while
// it fits and done without when it is broken, old or gone.
func TestABigFeedAndItsMarks(t *testing.T) {
	dir := t.TempDir()
	x := newSupplier(t, open(t, dir), "full")
	const n = 60_000
	rows := func(change int) []supply.Product {
		out := make([]supply.Product, n)
		for i := range out {
			out[i] = product(fmt.Sprintf("BF-%06d", i), int64(100+i%900), int64(i%7), "Peg")
			if i < change {
				out[i].Cost.Minor += 3
			}
		}
		return out
	}
	assert.Equal(t, int64(n), x.take(rows(0), 1).New)
	require.NotEmpty(t, x.source.Marks)
	files := func() []string {
		list, err := filepath.Glob(filepath.Join(dir, "marks-*"))
		require.NoError(t, err)
		return list
	}
	require.Len(t, files(), 1)
	assert.Equal(t, int64(10), x.take(rows(10), 1).Changed)
	require.Len(t, files(), 1, "the old marks are gone")
	for name, harm := range map[string]func(path string) error{
		"cut off": func(path string) error { return os.Truncate(path, 25*1000) },
		"a bit flipped": func(path string) error {
			b, err := os.ReadFile(path)
			require.NoError(t, err)
			b[1234] ^= 1
			return os.WriteFile(path, b, 0o600)
		},
		"gone": os.Remove,
	} {
		require.NoError(t, harm(files()[0]))
		fig := x.take(rows(10), 1)
		assert.Equal(t, [3]int64{n, 0, 0}, [3]int64{fig.Same, fig.Changed, fig.New}, name)
	}
	assert.Equal(t, int64(n-1000), x.take(rows(10)[:1000], 1).Gone)
	found, err := x.Search(ctxOf, "BF-000042", 10)
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.False(t, found[0].Gone)
}

func TestTheIndexFollowsTheData(t *testing.T) {
	x := newSupplier(t, open(t, t.TempDir()), "full")
	hits := func(words string) int {
		require.NoError(t, x.IndexSearch(ctxOf, func(int64) {}))
		found, err := x.Search(ctxOf, words, 50)
		require.NoError(t, err)
		return len(found)
	}
	x.take([]supply.Product{product("A", 100, 1, "Crème brûlée mug"), product("B", 100, 1, "Double-wall mug, 450 ml")}, 1)
	assert.Equal(t, 2, hits("mug"))
	assert.Equal(t, 1, hits("creme"), "accents don't matter")
	assert.Equal(t, 1, hits("double wall"))
	assert.Equal(t, 1, hits("mug 450"))
	x.take([]supply.Product{product("A", 100, 1, "Kettle"), product("B", 100, 9, "Double-wall mug, 450 ml")}, 1)
	assert.Equal(t, 0, hits("brulee"))
	assert.Equal(t, 1, hits("kettle"))
	assert.Equal(t, 1, hits("mug"))
}

// Any list is read to its end part by part, each row once, in any order.
func TestPagingReachesEveryRowOnce(t *testing.T) {
	x := newSupplier(t, open(t, t.TempDir()), "full")
	f := store.Feed{SourceID: &x.source.ID, Name: "x", State: store.FeedTaken, ReceivedAt: at}
	put(t, x.Store, &f)
	for i := range 97 {
		row := store.SetAside{FeedID: f.ID, Row: i % 10, Cells: []string{"ü"}, Problems: []supply.Problem{{Reason: "x"}}}
		put(t, x.Store, &row)
	}
	for _, desc := range []bool{false, true} {
		seen, last, cursor := map[int64]bool{}, -1, ""
		for {
			l, err := x.SetAsides(ctxOf, f.ID, store.Page{Limit: 7, Cursor: cursor, Sort: "row", Desc: desc})
			require.NoError(t, err)
			assert.Equal(t, int64(97), l.Total)
			for _, r := range l.Rows {
				assert.False(t, seen[r.ID])
				seen[r.ID] = true
				if last >= 0 && desc {
					assert.LessOrEqual(t, r.Row, last)
				} else if last >= 0 {
					assert.GreaterOrEqual(t, r.Row, last)
				}
				last = r.Row
				assert.Equal(t, "x", r.Problems[0].Reason)
			}
			if cursor = l.Next; cursor == "" {
				break
			}
		}
		assert.Len(t, seen, 97)
	}
	_, err := x.SetAsides(ctxOf, f.ID, store.Page{Cursor: "no cursor"})
	assert.ErrorIs(t, err, store.ErrCursor)
	_, err = x.SetAsides(ctxOf, f.ID, store.Page{Sort: "1; DROP TABLE feeds"})
	assert.ErrorIs(t, err, store.ErrCursor)
}

func TestPasswordsAreSealed(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	a, err := s.Seal("hunter2")
	require.NoError(t, err)
	b, err := s.Seal("hunter2")
	require.NoError(t, err)
	assert.NotEqual(t, a, b, "no two alike")
	plain, err := s.Unseal(a)
	require.NoError(t, err)
	assert.Equal(t, "hunter2", plain)
	_, err = s.Unseal(a[:len(a)-6] + "AAAAAA")
	assert.ErrorContains(t, err, "type it in again")
	info, err := os.Stat(filepath.Join(dir, "secret.key"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	require.NoError(t, os.Remove(filepath.Join(dir, "secret.key")))
	_, err = s.Unseal(a)
	assert.Error(t, err, "another key opens nothing")
}

// The data opens again as it was left, and an old folder is brought up to date.
func TestTheDataOutliveTheProgram(t *testing.T) {
	dir := t.TempDir()
	first := open(t, dir)
	x := newSupplier(t, first, "update")
	x.take([]supply.Product{product("A", 100, 1, "Mug")}, 1)
	require.NoError(t, first.Close())
	x.Store = open(t, dir)
	assert.Len(t, x.kept(), 1)
	fig := x.take(
		[]supply.Product{
			{Ref: "A", Stock: supply.Stock{State: supply.StockKnown, Count: 8}, Cost: money.Of(0, "GBP")},
			{Ref: "B", Cost: money.Of(0, "GBP")},
		},
		1,
	)
	assert.Equal(t, [3]int64{1, 1, 0}, [3]int64{fig.Changed, fig.SetAside, fig.Gone})
	got := x.kept()["A"]
	assert.Equal(t, [3]any{int64(8), int64(100), "Mug"}, [3]any{got.Stock, got.Cost, got.Title})
}
