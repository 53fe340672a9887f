package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
)

var noon = time.Date(2026, 3, 3, 12, 0, 0, 0, time.UTC)

// shopped is a folder with one live listing, a plan for it and a send-out that
// is through: data in which every invariant holds.
func shopped(t *testing.T, dir string) *Store {
	s := opened(t, dir)
	n := func(v int64) *int64 { return &v }
	require.NoError(t, s.Do(t.Context(), func(tx Tx) error {
		for _, row := range []any{
			&Supplier{ID: 1, Name: "Fernhollow", CreatedAt: noon},
			&Source{ID: 1, SupplierID: 1, Name: "Fernhollow", Kind: "file", Mode: "full", Currency: "GBP", TakenAt: &noon, HeardAt: &noon, CreatedAt: noon},
			&Feed{ID: 1, SourceID: n(1), Name: "list.csv", File: "in-1", State: FeedTaken, Rows: 1, New: 1, ReceivedAt: noon, TakenAt: &noon},
			&SupplierProduct{ID: 1, SourceID: 1, Ref: "R1", Title: "Mug", Cost: 400, Currency: "GBP", Stock: 9, StockState: "known", FirstFeedID: n(1)},
			&Product{ID: 1, SKU: "A", Title: "Mug", CreatedAt: noon},
			&SupplyLink{ID: 1, ProductID: 1, SupplierProductID: 1, UnitsBought: 1},
			&Marketplace{ID: 1, Name: "Quaymarket"},
			&Site{ID: 1, MarketplaceID: 1, Code: "gb", Name: "Quaymarket GB", Currency: "GBP", Kind: "catalogue", MaxLines: 10},
			&Listing{ID: 1, SiteID: 1, SKU: "A", ProductID: 1, Units: 1, SupplyLinkID: n(1), State: ListingLive, Currency: "GBP", Price: n(900),
				Floor: n(700), Quantity: 8, ConfirmedPrice: n(850), ConfirmedQuantity: 8, ConfirmedAt: &noon},
			&SendOut{ID: 1, SiteID: 1, Key: "k", Batch: "B1", State: SendDone, CreatedAt: noon, SentAt: &noon, DoneAt: &noon},
		} {
			require.NoError(t, tx.Create(row), "%T", row)
		}
		require.NoError(t, tx.PutPlanLines(noon, 1, []int64{1}, []PlanLine{{ListingID: 1, Kind: "up", FromPrice: n(850), ToPrice: n(900), Currency: "GBP",
			Verdict: "go", State: PlanWaiting, OnSale: 6800, Gain: 40}}))
		return tx.Create(&SendLine{ID: 1, SendOutID: 1, ListingID: 1, Key: "k-1", Price: n(850), State: SendConfirmed, HandedAt: &noon, AnsweredAt: &noon})
	}))
	return s
}

// sold puts an order's line in, to be gone on with: how many, for how much, its
// state, its units, those of what is bought, of what, and whether it is promised.
const sold = `INSERT INTO orders (id, site_id, ref, origin, placed_at, seen_at, currency) VALUES (1, 1, 'O1', 'typed', '2026-03-03', '2026-03-03', 'GBP');
	INSERT INTO order_lines (order_id, ref, sku, title, quantity, price, state, units, units_bought, supplier_product_id, promised) VALUES (1, 'L1', 'A', 'Mug', `

func TestEveryInvariantIsMissedWhereItIsBroken(t *testing.T) {
	for name, broken := range map[string]string{
		"references": "UPDATE listings SET supply_link_id = 99",
		"the rows of a taken feed are new, changed, same or set aside":                         "UPDATE feeds SET rows = 2",
		"a supplier product has a reference that its source has once":                          "DROP INDEX IF EXISTS supplier_product_ref; INSERT INTO supplier_products (source_id, ref, ref_hash, title, cost, currency, stock, stock_state, units_per_item, fingerprint) SELECT source_id, ref, 5, title, cost, currency, stock, stock_state, units_per_item, fingerprint FROM supplier_products",
		"what is on sale has a price that was confirmed":                                       "UPDATE listings SET confirmed_price = NULL",
		"what is on sale has a supplier":                                                       "UPDATE listings SET supply_link_id = NULL; DELETE FROM supply_links",
		"nothing that is ready lacks what its category needs":                                  "INSERT INTO listings (id, site_id, sku, product_id, supply_link_id, state, currency) VALUES (2, 1, 'B', 1, 1, 'ready', 'GBP'); INSERT INTO preparations (listing_id, site_id, title, done, needed, helped, helps, stops) VALUES (2, 1, 'B', 0, 1, 0, 0, 1)",
		"no price that was worked out is under its floor":                                      "UPDATE listings SET floor = 901; DELETE FROM plan_lines",
		"no line that may go asks less than the floor":                                         "UPDATE plan_lines SET to_price = 699",
		"no line that may go offers more than was worked out":                                  "UPDATE plan_lines SET to_qty = 9",
		"no more is offered than a supplier has that isn't sold yet":                           sold + "2, 900, 'new', 1, 1, 1, 1)",
		"what is sold and not bought is promised":                                              sold + "1, 900, 'new', 1, 1, 1, 0)",
		"what was sold in the own shop is among the orders, once":                              "INSERT INTO shop_orders (site_id, ref, basket, seq, placed_at, currency, total, buyer, lines) VALUES (1, 'S-1', 'b', 1, '2026-03-03', 'GBP', 900, '', '[]')",
		"a line's fees are what its statements say":                                            sold + "1, 900, 'sent', 1, 1, 1, 0); INSERT INTO fee_rows (site_id, order_line_id, key, kind, amount, at) VALUES (1, 1, 'k', 'fee', 50, '2026-03-03')",
		"somebody who works here may everything":                                               "UPDATE people SET role = 'send'",
		"who doesn't work here any more has no log-in and no token":                            "INSERT INTO people (id, name, role, active) VALUES (2, 'Wren', 'look', 0); INSERT INTO tokens (person_id, name, scope, digest, made_at) VALUES (2, 'nightly', 'look', 'd', '2026-03-03')",
		"a listing waits in one plan, with one line at most for its price":                     "INSERT INTO plan_lines (plan_id, listing_id, kind, to_price, currency, verdict, state) VALUES (1, 1, 'up', 910, 'GBP', 'held', 'waiting')",
		"the sums of plans are those of their lines":                                           "UPDATE plan_sums SET gain = gain + 1",
		"the sums of listings are theirs":                                                      "UPDATE listing_sums SET listings = 2",
		"no more was given back than was paid":                                                 sold + "1, 900, 'sent', 1, 1, 1, 0); UPDATE order_lines SET refunded = 901",
		"the tax that a place told of a line is what its rate gives, to a unit for each piece": sold + "1, 900, 'sent', 1, 1, 1, 0); UPDATE order_lines SET tax = 148, tax_included = 1, tax_rate = 200000",
		"no line of a plan was let go twice":                                                   "UPDATE send_lines SET plan_line_id = 1; INSERT INTO send_lines (send_out_id, listing_id, plan_line_id, key, state, answered_at) VALUES (1, 1, 1, 'k-2', 'refused', '2026-03-03')",
		"nothing is open in a send-out that is through":                                        "UPDATE send_lines SET state = 'sent'",
		"what was handed over is a send-out with a batch":                                      "UPDATE send_outs SET state = 'sent', batch = ''",
		"what is said to be on its way is":                                                     "UPDATE listings SET state = 'sent'",
		"what was answered says when":                                                          "UPDATE send_lines SET answered_at = NULL",
		"the price that is on sale is the one that was confirmed last":                         "UPDATE listings SET confirmed_price = 851",
		"every amount and count is a whole number within its bounds":                           "PRAGMA ignore_check_constraints = ON; UPDATE sites SET charged = 9.2e18",
	} {
		t.Run(name, func(t *testing.T) {
			s := shopped(t, t.TempDir())
			list, err := s.Check(t.Context())
			require.NoError(t, err)
			require.Empty(t, Broken(list))
			require.Len(t, list, len(invariants)+2)
			require.NoError(t, s.write.Exec("PRAGMA foreign_keys = OFF").Error)
			for _, q := range strings.Split(broken, ";") {
				require.NoError(t, s.write.Exec(q).Error)
			}
			list, err = s.Check(t.Context())
			require.NoError(t, err)
			for _, f := range list {
				if f.OK {
					assert.NotEqual(t, name, f.Check)
					continue
				}
				assert.Equal(t, name, f.Check)
				assert.NotEmpty(t, f.Examples)
				assert.NotEmpty(t, f.Mend)
			}
		})
	}
	assert.Len(t, invariants, 26, "each has a case above")
}

func TestADamagedFileIsFoundAndSaysWhatToDo(t *testing.T) {
	dir := t.TempDir()
	s := shopped(t, dir)
	require.NoError(t, s.write.Exec("PRAGMA wal_checkpoint(TRUNCATE)").Error)
	require.NoError(t, s.Close())
	file := filepath.Join(dir, fileName)
	f, err := os.OpenFile(file, os.O_RDWR, 0)
	require.NoError(t, err)
	_, err = f.WriteAt([]byte(strings.Repeat("damage ", 2000)), 40960)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	s, err = Open(dir)
	if err != nil {
		assert.ErrorContains(t, err, "is damaged")
		return
	}
	t.Cleanup(func() { _ = s.Close() })
	list, err := s.Check(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.False(t, list[0].OK)
	assert.Contains(t, list[0].Mend, "easymargin restore")
}

func TestABackupIsACopyOfOneMomentWhileOthersWrite(t *testing.T) {
	dir, file := t.TempDir(), filepath.Join(t.TempDir(), "copy.db")
	s := shopped(t, dir)
	require.NoError(t, os.WriteFile(s.Inbox("in-1"), []byte("ref,title\n"), 0o600))
	sealed, err := s.Seal("secret")
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	written := make(chan error, 1)
	go func() { // two rows that must always agree
		for v := int64(1); ctx.Err() == nil; v++ {
			if err := s.Do(context.WithoutCancel(ctx), func(tx Tx) error {
				return errors.Join(tx.Update(&Listing{ID: 1}, map[string]any{"version": v}), tx.Update(&Site{ID: 1}, map[string]any{"version": v}))
			}); err != nil {
				written <- err
				return
			}
		}
		written <- nil
	}()
	require.NoError(t, s.Backup(t.Context(), file, BackupOptions{WithKey: true}))
	stop()
	require.NoError(t, <-written)
	assert.Equal(t, fault.Conflict, fault.KindOf(s.Backup(t.Context(), file, BackupOptions{WithKey: true})), "a backup overwrites nothing")
	left, err := os.ReadDir(filepath.Dir(file))
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing is left beside it")

	to := filepath.Join(t.TempDir(), "new")
	kept, err := restored(t, to, file, RestoreOptions{})
	require.NoError(t, err)
	assert.Empty(t, kept)
	r := opened(t, to)
	list, err := r.Check(t.Context())
	require.NoError(t, err)
	assert.Empty(t, Broken(list))
	l, err := Get[Listing](t.Context(), r, 1)
	require.NoError(t, err)
	site, err := Get[Site](t.Context(), r, 1)
	require.NoError(t, err)
	assert.Equal(t, l.Version, site.Version)
	text, err := os.ReadFile(r.Inbox("in-1"))
	require.NoError(t, err)
	assert.Equal(t, "ref,title\n", string(text))
	plain, err := r.Unseal(sealed)
	require.NoError(t, err)
	assert.Equal(t, "secret", plain)
}

func TestRestoringOverwritesOnlyWhenTold(t *testing.T) {
	from, file := shopped(t, t.TempDir()), filepath.Join(t.TempDir(), "copy.db")
	require.NoError(t, from.Backup(t.Context(), file, BackupOptions{}))
	dir := t.TempDir()
	s := opened(t, dir)
	require.NoError(t, s.Close())
	before, err := os.ReadFile(filepath.Join(dir, fileName))
	require.NoError(t, err)
	_, err = restored(t, dir, file, RestoreOptions{})
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	assert.ErrorContains(t, err, "--overwrite")
	after, err := os.ReadFile(filepath.Join(dir, fileName))
	require.NoError(t, err)
	assert.Equal(t, before, after)

	served := opened(t, dir)
	require.NoError(t, served.Lock())
	_, err = restored(t, dir, file, RestoreOptions{Overwrite: true})
	assert.ErrorContains(t, err, "stop it first")
	require.NoError(t, served.Close())

	bad := filepath.Join(t.TempDir(), "bad.db")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	copy(text[len(text)/2:], strings.Repeat("damage ", 1000))
	require.NoError(t, os.WriteFile(bad, text, 0o600))
	_, err = restored(t, dir, bad, RestoreOptions{Overwrite: true})
	assert.Error(t, err)
	_, err = restored(t, dir, write(t, "no.db", "no database"), RestoreOptions{Overwrite: true})
	assert.ErrorContains(t, err, "no backup that can be put back")
	_, err = restored(t, dir, filepath.Join(dir, "none.db"), RestoreOptions{Overwrite: true})
	assert.Equal(t, fault.Missing, fault.KindOf(err))
	same, err := os.ReadFile(filepath.Join(dir, fileName))
	require.NoError(t, err)
	assert.Equal(t, before, same, "what can't be put back touches nothing")

	kept, err := restored(t, dir, file, RestoreOptions{Overwrite: true})
	require.NoError(t, err)
	old, err := os.ReadFile(kept)
	require.NoError(t, err)
	assert.Equal(t, before, old, "what was there is kept beside it")
	r := opened(t, dir)
	l, err := Get[Listing](t.Context(), r, 1)
	require.NoError(t, err)
	assert.Equal(t, "A", l.SKU)
	left, err := filepath.Glob(filepath.Join(dir, "restore-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

// restored is where what was there is kept.
func restored(t *testing.T, dir, file string, o RestoreOptions) (string, error) {
	out, err := Restore(t.Context(), dir, file, o)
	return out.Kept, err
}

func write(t *testing.T, name, text string) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}
