package weighing

import (
	"context"
	"errors"
	"net/url"
	"slices"
	"strings"

	"easymargin/core/money"
	"easymargin/core/sieve"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// sifted makes a question ready: its sieve is read for the site's currency.
func (st *Stop) sifted(ctx context.Context, in Asked) (store.Sifted, error) {
	out := store.Sifted{SiteID: in.SiteID, Dropped: in.Dropped}
	site, err := st.Store.SiteOf(ctx, in.SiteID)
	if err != nil {
		return out, err
	}
	out.Tests, err = readSieve(in.Sieve, money.Currency(site.Currency))
	return out, err
}

func readSieve(text string, cur money.Currency) (sieve.Tests, error) {
	s, err := sieve.Read(text)
	if err != nil {
		return nil, fault.At("sieve", "%v", err)
	}
	tests, err := s.Ready(store.WeighColumns, cur)
	if err != nil {
		return nil, fault.At("sieve", "%v", err)
	}
	return tests, nil
}

// List is the candidates that go through a sieve.
func (st *Stop) List(ctx context.Context, in Asked, p store.Page) (store.List[store.SiftedRow], error) {
	q, err := st.sifted(ctx, in)
	if err != nil {
		return store.List[store.SiftedRow]{}, err
	}
	return st.Store.Sift(ctx, q, p)
}

// Count counts them.
func (st *Stop) Count(ctx context.Context, in Asked) (int64, error) {
	q, err := st.sifted(ctx, in)
	if err != nil {
		return 0, err
	}
	return st.Store.CountSifted(ctx, q)
}

// Open is a candidate with what others ask, and the same entry's other suppliers.
func (st *Stop) Open(ctx context.Context, id int64) (Opened, error) {
	var out Opened
	row, err := st.Store.SiftedOne(ctx, id)
	if err != nil {
		return out, err
	}
	out.Candidate, out.Same, out.Offers, out.Moved, out.Sold = candidateOf(row), []Candidate{}, []place.Offer{}, []MarketPoint{}, []SoldOn{}
	if row.EntryID != nil {
		e, err := store.Get[store.Entry](ctx, st.Store, *row.EntryID)
		if err != nil {
			return out, err
		}
		if offers := reckon.ReadOffers(e.Offers); offers != nil {
			out.Offers = offers
		}
		points, err := st.Store.MarketPoints(ctx, e.ID)
		if err != nil {
			return out, err
		}
		for _, p := range points {
			out.Moved = append(out.Moved, MarketPoint{p.At, p.Lowest, p.Leading, p.Sellers})
		}
		same, err := st.Store.SameElsewhere(ctx, row.SiteID, e.ID)
		if err != nil {
			return out, err
		}
		for _, r := range same {
			out.Same = append(out.Same, candidateOf(r))
		}
	}
	sold, err := st.Store.SoldOf(ctx, row.SupplierProductID, st.Now().AddDate(0, 0, -store.SoldDays))
	if err != nil {
		return out, err
	}
	for _, x := range sold {
		out.Sold = append(out.Sold, SoldOn(x))
	}
	made := strings.NewReplacer("{words}", url.QueryEscape(row.Title), "{number}", url.QueryEscape(row.GTIN))
	out.LookUps, err = st.lookUps(ctx, made.Replace)
	return out, err
}

func columns() []ColumnView {
	var out []ColumnView
	for _, c := range store.WeighColumns {
		v := ColumnView{Name: c.Name, Kind: string(c.Kind), Follows: c.Follows}
		for _, o := range c.Ops() {
			v.Ops = append(v.Ops, string(o))
		}
		out = append(out, v)
	}
	return out
}

// Sieves are the named ones.
func (st *Stop) Sieves(ctx context.Context) ([]SieveView, error) {
	out := []SieveView{}
	list, err := st.Store.Sieves(ctx)
	for _, x := range list {
		s, err := sieve.Read(x.Text)
		if err != nil {
			return out, err
		}
		out = append(out, SieveView{x.ID, x.Name, x.Text, x.Sort, x.Down, x.Columns, s.FactsOnly(store.WeighColumns) == ""})
	}
	return out, err
}

// PutSieve keeps a sieve under a name.
func (st *Stop) PutSieve(ctx context.Context, v SieveView) (int64, error) {
	name := strings.TrimSpace(v.Name)
	if name == "" {
		return 0, fault.At("name", "give the sieve a name")
	}
	if _, err := readSieve(v.Sieve, ""); err != nil { // amounts are read again for the site it is used on
		return 0, err
	}
	row := store.Sieve{Name: name, Text: v.Sieve, Sort: v.Sort, Down: v.Down, Columns: v.Columns}
	for _, c := range v.Columns {
		if !slices.ContainsFunc(store.WeighColumns, func(x sieve.Column) bool { return x.Name == c }) {
			return 0, fault.At("columns", "there is no column %q", c)
		}
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		if err := st.usable(tx, name, v.Sieve); err != nil {
			return err
		}
		tx.Changed("sieves")
		return tx.PutSieve(&row)
	})
	return row.ID, err
}

// usable tells whether a sieve can be what a name stands for in the price rules
// that use it. Their sites' prices are worked out anew.
func (st *Stop) usable(tx store.Tx, name, text string) error {
	was, err := tx.SieveNamed(name)
	if err != nil || was.ID == 0 || was.Text == text {
		return err
	}
	rules, err := tx.RulesIn(was.ID)
	for _, r := range rules {
		if err != nil {
			return err
		}
		site, siteErr := tx.SiteOf(r.SiteID)
		if siteErr != nil {
			return siteErr
		}
		if _, err := reckon.RuleSieve(text, money.Currency(site.Currency)); err != nil {
			return fault.At("sieve", "the price rule %s of %s uses it: %v", r.Name, site.Name, err)
		}
		err = tx.DirtySite(st.Now(), r.SiteID)
	}
	return err
}

// ForgetSieve forgets one.
func (st *Stop) ForgetSieve(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sieves")
		rules, err := tx.RulesIn(id)
		if err != nil {
			return err
		}
		if len(rules) > 0 {
			return fault.New(fault.Conflict, "the price rule %s uses it; let that be for something else first", rules[0].Name)
		}
		if there, err := tx.DropSieve(id); err != nil || !there {
			return errors.Join(err, store.ErrMissing)
		}
		return nil
	})
}

// Drop takes candidates off the list, with the reason.
func (st *Stop) Drop(ctx context.Context, items []int64, reason string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("weigh", "counts")
		return tx.DropItems(items, strings.TrimSpace(reason), st.Now(), actor.Of(ctx))
	})
}

// Undrop brings them back.
func (st *Stop) Undrop(ctx context.Context, items []int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("weigh", "counts")
		return tx.Undrop(items)
	})
}

// Keep keeps candidates as finds.
func (st *Stop) Keep(ctx context.Context, items []int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("weigh", "finds")
		return tx.KeepItems(items, st.Now())
	})
}

// PutLookUp keeps a web address that things are looked up at.
func (st *Stop) PutLookUp(ctx context.Context, name, address string) (int64, error) {
	row := store.WebLookUp{Name: strings.TrimSpace(name), Address: strings.TrimSpace(address)}
	u, err := url.Parse(strings.NewReplacer("{words}", "w", "{number}", "1").Replace(row.Address))
	switch {
	case row.Name == "":
		return 0, fault.At("name", "give it a name")
	case err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http":
		return 0, fault.At("address", "it isn't a web address such as https://find.example/?q={words}")
	case !strings.Contains(row.Address, "{words}") && !strings.Contains(row.Address, "{number}"):
		return 0, fault.At("address", "write {words} or {number} where the product's go")
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sieves", "weigh")
		return tx.PutWebLookUp(&row)
	})
	return row.ID, err
}

// ForgetLookUp forgets one.
func (st *Stop) ForgetLookUp(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sieves", "weigh")
		return tx.DropWebLookUp(id)
	})
}

func (st *Stop) lookUps(ctx context.Context, made func(string) string) ([]LookUp, error) {
	out := []LookUp{}
	list, err := st.Store.WebLookUps(ctx)
	for _, x := range list {
		out = append(out, LookUp{x.ID, x.Name, made(x.Address)})
	}
	return out, err
}
