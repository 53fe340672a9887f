package sources

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"encoding/json"
	"strconv"
	"strings"

	"easymargin/core/ident"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// ownStock is the supplier of what is typed in and comes from nobody else.
const ownStock = "Own stock"

// NewProduct is a product from nothing, as a person types it in. Amounts are
// texts in major units of Currency.
type NewProduct struct {
	Supplier    string   `json:"supplier,omitempty" maxLength:"120" doc:"Who sells it to us; left out: it is our own stock"`
	Title       string   `json:"title" maxLength:"500"`
	Brand       string   `json:"brand,omitempty" maxLength:"120"`
	Number      string   `json:"number,omitempty" maxLength:"40" doc:"Its barcode"`
	Ref         string   `json:"ref,omitempty" maxLength:"80" doc:"The supplier's; left out: the next of ours"`
	Description string   `json:"description,omitempty" maxLength:"20000"`
	Cost        string   `json:"cost" maxLength:"20"`
	Currency    string   `json:"currency" minLength:"3" maxLength:"3"`
	Stock       int64    `json:"stock" minimum:"0" maximum:"1000000"`
	Weight      int64    `json:"weight,omitempty" minimum:"0" maximum:"1000000" doc:"Grams"`
	Pictures    []string `json:"pictures,omitempty" maxItems:"20" doc:"Digests of pictures that were brought in; the first leads"`
	Sites       []int64  `json:"sites,omitempty" maxItems:"50" doc:"Where it is listed"`
	Category    string   `json:"category,omitempty" doc:"Of the sites where we write the listing; ref"`
}

// MadeProduct is what became of it.
type MadeProduct struct {
	ItemID   int64   `json:"item_id" doc:"The supplier product that it is worked out from"`
	Prepared []int64 `json:"prepared" doc:"Listings of our own that were made of it"`
}

// MakeProduct makes a product from nothing: a row of a supplier's, read and
// checked as any is, with its pictures, and listed where that is wanted. A
// number that is no good is refused; nothing is made then.
func (st *Stop) MakeProduct(ctx context.Context, in NewProduct) (MadeProduct, error) {
	out := MadeProduct{Prepared: []int64{}}
	if strings.TrimSpace(in.Title) == "" {
		return out, fault.At("title", "say what it is")
	}
	if in.Number != "" && !ident.Read(in.Number).Found() {
		return out, fault.At("number", "%s is no product number: %s", stops.Clip(in.Number, 40), "its digits or its check digit are wrong")
	}
	supplier := strings.TrimSpace(in.Supplier)
	if supplier == "" {
		supplier = ownStock
	}
	name := supplier + ", typed in " + strings.ToUpper(in.Currency)
	s, there, err := st.Store.SourceNamed(ctx, name)
	if err == nil && !there {
		s, err = st.make(ctx, NewSource{Supplier: supplier, Name: name, Currency: in.Currency, Mode: "update"}, store.KindHand)
	}
	if err != nil {
		return out, err
	}
	ref := strings.TrimSpace(in.Ref)
	if ref == "" {
		n, err := st.Store.CountItems(ctx, s.ID)
		if err != nil {
			return out, err
		}
		ref = "OWN-" + strconv.FormatInt(n+1, 10)
	}
	if _, known, err := st.Store.Reading(ctx).ItemOf(s.ID, ref); err != nil || known {
		if known {
			err = fault.Taken("ref", "%s has a product %s already; give this one another ref", supplier, ref)
		}
		return out, err
	}
	if err := st.takeRow(ctx, &s, ref, &in); err != nil {
		return out, err
	}
	tx := st.Store.Reading(ctx)
	item, _, err := tx.ItemOf(s.ID, ref)
	if err != nil {
		return out, err
	}
	out.ItemID = item.ID
	out.Prepared, err = tx.OwnListingsOfItem(item.ID)
	return out, err
}

// wish is what is to be done with a typed row once it is taken: it is written
// down with the feed, so that it is done whatever happens in between.
type wish struct {
	Ref      string   `json:"ref"`
	Pictures []string `json:"pictures"`
	Sites    []int64  `json:"sites"`
	Category string   `json:"category"`
}

// fulfil does what was wished for the row of a feed, in the transaction that
// takes it.
func (st *Stop) fulfil(tx store.Tx, f *store.Feed, s *store.Source) error {
	if s.Kind != store.KindHand {
		return nil
	}
	text, there, err := tx.TakeWish(f.ID)
	if err != nil || !there {
		return err
	}
	var w wish
	if err := json.Unmarshal([]byte(text), &w); err != nil {
		return err
	}
	item, known, err := tx.ItemOf(s.ID, w.Ref)
	if err != nil || !known {
		return err // it was set aside
	}
	if err := tx.UseKeptPictures(item.ID, w.Pictures); err != nil {
		return err
	}
	if len(w.Sites) > 0 {
		if err := st.listOn(tx, []int64{item.ID}, w.Sites, w.Category); err != nil {
			return err
		}
	}
	tx.Changed("finds", "counts")
	return tx.Note(st.Now(), "product typed in", item.Title, s.Name)
}

// takeRow takes what a person typed as a feed of one row, so that it is read,
// checked and remembered as all others are.
func (st *Stop) takeRow(ctx context.Context, s *store.Source, ref string, in *NewProduct) error {
	weight := ""
	if in.Weight > 0 {
		weight = strconv.FormatInt(in.Weight, 10)
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.WriteAll([][]string{
		{"ref", "title", "brand", "ean", "cost", "stock", "description", "weight"},
		{ref, strings.TrimSpace(in.Title), strings.TrimSpace(in.Brand), strings.TrimSpace(in.Number), strings.TrimSpace(in.Cost), strconv.FormatInt(in.Stock, 10),
			in.Description, weight},
	}); err != nil {
		return err
	}
	f, err := st.BringIn(ctx, &b, Arriving{Name: "typed in", SourceID: &s.ID})
	if err != nil {
		return err
	}
	text, err := json.Marshal(wish{ref, in.Pictures, in.Sites, in.Category})
	if err != nil {
		return err
	}
	if err := st.Store.Do(ctx, func(tx store.Tx) error { return tx.Create(&store.Wish{FeedID: f.ID, Wish: string(text)}) }); err != nil {
		return err
	}
	if f.State == store.FeedLooked {
		if _, err := st.takeInto(ctx, &f, s, true); err != nil {
			return err
		}
	}
	aside, err := st.Store.SetAsides(ctx, f.ID, store.Page{Limit: 1})
	if err != nil || len(aside.Rows) == 0 {
		return err
	}
	p := aside.Rows[0].Problems[0]
	return fault.At(cmp.Or(map[string]string{"ean": "number"}[p.Column], p.Column), "%s", p.Reason)
}
