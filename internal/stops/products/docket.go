package products

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/ident"
	"easymargin/core/listing"
	"easymargin/core/match"
	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// DocketRow is one aspect of a product as its supplier, we and the market have
// it.
type DocketRow struct {
	Aspect string   `json:"aspect"`
	Supply string   `json:"supply"`
	Ours   string   `json:"ours"`
	Market string   `json:"market"`
	Notes  []string `json:"notes" doc:"What speaks for a look: where the columns disagree, or something moved"`
}

// DocketListing is one of the product's listings.
type DocketListing struct {
	ID       int64  `json:"id"`
	Site     string `json:"site"`
	State    string `json:"state"`
	Own      bool   `json:"own" doc:"We wrote it; else it is on an entry of a catalogue"`
	Price    *int64 `json:"price"`
	Currency string `json:"currency"`
	Profit   *int64 `json:"profit"`
}

// DocketSupplier is one that sells it to us.
type DocketSupplier struct {
	ItemID   int64  `json:"item_id"`
	Supplier string `json:"supplier"`
	Ref      string `json:"ref"`
	Cost     int64  `json:"cost"`
	Currency string `json:"currency"`
	Stock    int64  `json:"stock"`
	State    string `json:"state" doc:"known, unknown, gone"`
	Present  bool   `json:"present" doc:"The listing is worked out from it now"`
	Proposed bool   `json:"proposed" doc:"It is certainly the same, and supplies nothing yet"`
	Landed   *int64 `json:"landed" doc:"What one of the listing costs from it, minor units of the listing's currency; null: it can't be told"`
	Why      string `json:"why" doc:"Why nothing is bought from it now; empty where something is, or where another is cheaper"`
}

// Docket is one product: what the supplier says, what we say, what the market
// says, side by side.
type Docket struct {
	ProductID int64            `json:"product_id"`
	SKU       string           `json:"sku"`
	Title     string           `json:"title"`
	Variant   string           `json:"variant"`
	ListingID int64            `json:"listing_id" doc:"The listing that the columns are about; 0: it is listed nowhere"`
	Site      string           `json:"site"`
	Page      string           `json:"page" doc:"Public page of its entry"`
	Listings  []DocketListing  `json:"listings"`
	Suppliers []DocketSupplier `json:"suppliers"`
	Rows      []DocketRow      `json:"rows"`
	Supply    []string         `json:"supply_pictures" doc:"Digests"`
	Ours      []string         `json:"our_pictures"`
	Market    []string         `json:"market_pictures"`
	Prepared  *[2]int          `json:"prepared,omitempty" doc:"Of a listing of our own: what is needed, done and of how many"`
	Waiting   int64            `json:"waiting" doc:"Changes of it in the plan"`
}

// docket gathers what a docket is made of.
type docket struct {
	now      time.Time
	product  store.Product
	supplies []store.Supplied
	present  *store.Supplied // that the listing is worked out from
	item     supply.Product
	terms    store.SupplierTerm
	before   string // the cost before it moved last
	moved    time.Time
	listing  *store.ListingRow
	row      store.Listing
	site     store.Site
	charged  int64 // what the buyer pays for delivery, minor units
	entry    *store.Entry
	prepared *reckon.Prepared
	out      Docket
}

// Docket opens a product, by the listing given; 0 is its first.
func (st *Stop) Docket(ctx context.Context, productID, listingID int64) (Docket, error) {
	tx := st.Store.Reading(ctx)
	d := &docket{now: st.Now(), out: Docket{ProductID: productID, Listings: []DocketListing{}, Suppliers: []DocketSupplier{}, Rows: []DocketRow{},
		Supply: []string{}, Ours: []string{}, Market: []string{}}}
	if err := d.read(tx, productID, listingID); err != nil {
		return d.out, err
	}
	if err := d.pictures(ctx, st.Store); err != nil {
		return d.out, err
	}
	d.identity()
	d.titles()
	d.attributes()
	d.packs()
	d.sizes()
	d.prices()
	d.stock()
	d.delivery()
	d.evidence()
	return d.out, nil
}

// read reads all of it.
func (d *docket) read(tx store.Tx, productID, listingID int64) (err error) {
	if d.product, err = store.GetTx[store.Product](tx, productID); err != nil {
		return err
	}
	d.out.SKU, d.out.Title, d.out.Variant = d.product.SKU, d.product.Title, d.product.Variant
	if d.supplies, err = tx.SuppliesOf(productID); err != nil {
		return err
	}
	listed, err := tx.ListedAs(productID)
	if err != nil {
		return err
	}
	for i := range listed {
		l := &listed[i]
		d.out.Listings = append(d.out.Listings, DocketListing{l.ID, l.Site, l.State, l.EntryRef == "", l.Price, l.Currency, l.Profit})
		if l.ID == listingID || listingID == 0 && i == 0 {
			d.listing = l
		}
	}
	if listingID != 0 && d.listing == nil {
		return fault.New(fault.Missing, "it isn't listed there")
	}
	var link *int64
	if d.listing != nil {
		if d.row, err = store.GetTx[store.Listing](tx, d.listing.ID); err != nil {
			return err
		}
		link = d.row.SupplyLinkID
		if err := d.readListing(tx); err != nil {
			return err
		}
	}
	for i := range d.supplies {
		if s := &d.supplies[i]; d.present == nil && (link == nil || *link == s.LinkID) {
			d.present = s
		}
	}
	for i := range d.supplies {
		s := &d.supplies[i]
		x := DocketSupplier{ItemID: s.ID, Supplier: s.Supplier, Ref: s.Ref, Cost: s.Cost, Currency: s.Currency, Stock: s.Stock, State: s.StockState, Present: s == d.present}
		if s.Gone {
			x.State = "gone"
		}
		d.out.Suppliers = append(d.out.Suppliers, x)
	}
	if err := d.others(tx); err != nil {
		return err
	}
	if d.present == nil {
		return nil
	}
	if d.item, err = d.present.Product(); err != nil {
		return err
	}
	if d.terms, err = tx.TermsOf(d.present.SupplierID, d.present.Currency); err != nil {
		return err
	}
	d.before, d.moved, err = tx.LastCostChange(d.present.ID)
	return err
}

// others says of every supplier what one of the listing costs from it and why nothing is
// bought from it, and which others certainly have it too.
func (d *docket) others(tx store.Tx) error {
	seconds, err := tx.SecondSuppliesOf(d.product.ID)
	if err != nil {
		return err
	}
	for _, s := range seconds {
		d.out.Suppliers = append(d.out.Suppliers, DocketSupplier{ItemID: s.SupplierProductID, Supplier: s.Supplier, Ref: s.Ref, Cost: s.Cost, Currency: s.CostCur,
			Stock: s.Stock, State: s.State, Proposed: true, Landed: s.Landed, Why: s.Why})
	}
	if d.listing == nil || len(d.supplies) < 2 {
		return nil
	}
	book, err := reckon.Open(tx, d.site, d.now)
	if err != nil {
		return err
	}
	rows, err := tx.PricingRowsOf([]int64{d.listing.ID}, d.now)
	if err != nil {
		return err
	}
	for i := range rows {
		at := slices.IndexFunc(d.out.Suppliers, func(x DocketSupplier) bool { return x.ItemID == rows[i].SupplierProductID })
		if at >= 0 {
			d.out.Suppliers[at].Landed, d.out.Suppliers[at].Why = book.LandedFrom(&rows[i])
		}
	}
	return nil
}

// readListing reads the listing's site, its entry or what we say of it.
func (d *docket) readListing(tx store.Tx) (err error) {
	d.out.ListingID, d.out.Site, d.out.Page = d.listing.ID, d.listing.Site, d.listing.Page
	if d.site, err = tx.SiteOf(d.row.SiteID); err != nil {
		return err
	}
	if d.charged, err = reckon.DeliveryNow(tx, d.site, d.listing.ID, d.now); err != nil {
		return err
	}
	e, there, err := tx.EntryOf(&d.row)
	if err != nil {
		return err
	}
	if there {
		d.entry = &e
	}
	if d.out.Waiting, err = tx.WaitingOf(d.listing.ID); err != nil || there || !reckon.Writes(&d.site) {
		return err
	}
	asking, err := reckon.OpenAsking(tx, &d.site)
	if err != nil {
		return err
	}
	found, err := tx.Materials([]int64{d.listing.ID})
	if err != nil || found[d.listing.ID] == nil {
		return err
	}
	p, err := asking.Prepare(found[d.listing.ID], &d.row)
	d.prepared, d.out.Prepared = &p, &p.Report.Needed
	return err
}

func (d *docket) pictures(ctx context.Context, s *store.Store) error {
	if d.present != nil {
		kept, err := s.PicturesOf(ctx, d.present.ID)
		if err != nil {
			return err
		}
		for _, p := range kept {
			if p.State == store.PictureKept {
				d.out.Supply = append(d.out.Supply, p.Digest)
			}
		}
	}
	if d.prepared != nil {
		for _, p := range d.prepared.Pictures {
			d.out.Ours = append(d.out.Ours, p.Digest)
		}
	}
	if d.entry != nil && d.entry.Picture != "" {
		at, err := s.PicturesAt(ctx, []string{d.entry.Picture})
		if err != nil {
			return err
		}
		if digest := at[d.entry.Picture]; digest != "" {
			d.out.Market = append(d.out.Market, digest)
		}
	}
	return nil
}

// row adds an aspect.
func (d *docket) add(aspect, supply, ours, market string, notes ...string) {
	d.out.Rows = append(d.out.Rows, DocketRow{aspect, supply, ours, market, append([]string{}, notes...)})
}

// dotted joins what there is of some texts.
func dotted(texts ...string) string {
	return strings.Join(slices.DeleteFunc(texts, func(s string) bool { return s == "" }), " · ")
}

func (d *docket) identity() {
	supply, market := "", ""
	var notes []string
	if d.present != nil {
		supply = dotted(d.present.Ref, ident.Read(d.present.GTIN).Shown)
		if d.present.GTIN != "" && d.product.GTIN != "" && d.present.GTIN != d.product.GTIN {
			notes = append(notes, "another number")
		}
	}
	ours := dotted(d.product.SKU, ident.Read(d.product.GTIN).Shown)
	if d.prepared != nil && d.prepared.Values.Number != "" {
		ours = dotted(d.listing.SKU, d.prepared.Values.Number)
	}
	if d.entry != nil {
		numbers := append([]string{d.entry.GTIN}, d.entry.GTINs...)
		market = "entry " + d.entry.Ref
		switch {
		case d.product.GTIN == "":
		case slices.Contains(numbers, d.product.GTIN):
			market += " · same number"
		case d.entry.GTIN != "":
			market += " · " + ident.Read(d.entry.GTIN).Shown
			notes = append(notes, "another number there")
		}
	} else if d.listing != nil {
		market = "a page of our own"
	}
	d.add("Identity", supply, ours, market, notes...)
}

func (d *docket) titles() {
	supply, ours, market := "", d.product.Title, ""
	var notes []string
	if d.present != nil {
		supply = d.present.Title
	}
	if d.prepared != nil {
		ours = d.prepared.Report.Title
		if t := d.prepared.Asked.Needs.Title; t != nil && t.Limit != nil {
			n := listing.Length(ours, t.Counts)
			ours += fmt.Sprintf("  %d/%d", n, *t.Limit)
			if n > *t.Limit {
				notes = append(notes, "title too long")
			}
		}
	}
	if d.entry != nil {
		market = d.entry.Title
	}
	d.add("Title", supply, ours, market, notes...)
}

func (d *docket) attributes() {
	supply, ours, market := dotted(d.item.Brand, d.item.Colour, d.item.Size, d.item.Material), dotted(d.product.Brand, d.product.Variant), ""
	var notes []string
	if p := d.prepared; p != nil {
		texts := []string{p.Values.Brand}
		for i := range p.Asked.Needs.Attributes {
			texts = append(texts, strings.ReplaceAll(p.Report.Attributes[p.Asked.Needs.Attributes[i].Ref], "|", ", "))
		}
		ours = dotted(texts...)
		for _, x := range p.Report.Problems {
			if x.Level == listing.Stops && strings.HasPrefix(x.Field, "attributes.") {
				notes = append(notes, reckon.ProblemWords(x))
			}
		}
	}
	if d.entry != nil {
		market = dotted(d.entry.Brand, d.entry.Colour, d.entry.Size, d.entry.Material)
	}
	d.add("Attributes", supply, ours, market, notes[:min(len(notes), 2)]...)
}

func (d *docket) packs() {
	supply, ours, market := "", "", ""
	var notes []string
	if d.present != nil {
		supply = sold(max(d.present.UnitsPerItem, 1))
		if d.present.UnitsBought > max(d.present.UnitsPerItem, 1) {
			supply = sold(d.present.UnitsBought)
		}
	}
	if d.listing != nil {
		ours = sold(d.listing.Units)
		if d.present != nil && d.present.UnitsBought != d.listing.Units && d.present.UnitsBought > 0 {
			notes = append(notes, fmt.Sprintf("cost × %d ÷ %d", d.listing.Units, d.present.UnitsBought))
		}
	}
	if d.entry != nil && d.entry.Units > 0 {
		market = sold(d.entry.Units)
		if d.listing != nil && d.entry.Units != d.listing.Units {
			notes = append(notes, "another pack there")
		}
	}
	d.add("Pack", supply, ours, market, notes...)
}

// sold says how many single units are sold as one.
func sold(n int64) string {
	if n == 1 {
		return "single"
	}
	return "pack of " + strconv.FormatInt(n, 10)
}

func (d *docket) sizes() {
	ours := ""
	if d.prepared != nil && d.prepared.Values.Package != nil {
		k := d.prepared.Values.Package
		ours = measures(k.Length, k.Width, k.Height, k.Weight)
	}
	d.add("Size, weight", measures(d.item.Length, d.item.Width, d.item.Height, d.item.Weight), ours, "")
}

func measures(l, w, h, weight int64) string {
	var parts []string
	if l > 0 && w > 0 && h > 0 {
		parts = append(parts, fmt.Sprintf("%d × %d × %d mm", l, w, h))
	}
	if weight > 0 {
		parts = append(parts, fmt.Sprintf("%d g", weight))
	}
	return dotted(parts...)
}

// lately is how long a move of the cost is said.
const lately = 7 * 24 * time.Hour

func (d *docket) prices() {
	supply, ours, market := "", "no price", ""
	var notes []string
	if d.present != nil {
		cur := money.Currency(d.present.Currency)
		supply = money.Of(d.present.Cost, cur).String() + " " + d.present.Currency
		if was, err := money.Parse(d.before, cur); err == nil && d.now.Sub(d.moved) < lately && was.Minor != d.present.Cost {
			word := "cost up"
			if was.Minor > d.present.Cost {
				word = "cost down"
			}
			supply += fmt.Sprintf(" · %s on %s", was, d.moved.Format("2 January"))
			notes = append(notes, word)
		}
	}
	if d.listing != nil {
		cur := money.Currency(d.listing.Currency)
		if d.listing.Price != nil {
			ours = money.Of(*d.listing.Price, cur).String() + " " + d.listing.Currency
		}
		if d.listing.Why != "" {
			ours = dotted(ours, d.listing.Why)
		}
		if p := d.listing.ConfirmedPrice; p != nil && d.listing.Price != nil && *p != *d.listing.Price {
			notes = append(notes, "there at "+money.Of(*p, cur).String())
		}
		if offers := d.offers(); len(offers) > 0 {
			lowest := offers[0].Item + offers[0].Delivery
			for _, o := range offers {
				lowest = min(lowest, o.Item+o.Delivery)
			}
			market = fmt.Sprintf("lowest %s · %s", money.Of(lowest, cur), stops.Plural(int64(len(offers)), "other seller", "other sellers"))
			for _, o := range offers {
				if o.Lead {
					market += " · leading " + money.Of(o.Item+o.Delivery, cur).String()
				}
			}
		}
	}
	d.add("Cost, price", supply, ours, market, notes...)
}

// offers are what others ask on its entry, as last read.
func (d *docket) offers() []place.Offer {
	var out []place.Offer
	if d.entry == nil || d.entry.Offers == "" || json.Unmarshal([]byte(d.entry.Offers), &out) != nil {
		return nil
	}
	return slices.DeleteFunc(out, func(o place.Offer) bool { return o.Ours })
}

func (d *docket) stock() {
	var there []string
	var notes []string
	for i := range d.supplies {
		s := &d.supplies[i]
		n := strconv.FormatInt(s.Stock, 10)
		if s.Gone {
			n = "gone"
		} else if s.StockState != "known" {
			n = s.StockState
		}
		there = append(there, n+" at "+s.Supplier)
		if s.Doubt != "" {
			notes = append(notes, s.Doubt)
		}
	}
	ours, market := "", ""
	if d.listing != nil {
		ours = fmt.Sprintf("%d offered", d.listing.Quantity)
		market = "nothing confirmed yet"
		if d.listing.ConfirmedAt != nil {
			market = fmt.Sprintf("confirmed %d on %s", d.listing.ConfirmedQuantity, d.listing.ConfirmedAt.Format("2 January, 15:04"))
			if d.listing.ConfirmedQuantity > d.listing.Quantity {
				notes = append(notes, "more on sale than is offered")
			}
		}
	}
	d.add("Stock", strings.Join(there, ", "), ours, market, notes...)
}

func (d *docket) delivery() {
	supply, ours, market := "", "", ""
	if d.present != nil {
		cur := money.Currency(d.present.Currency)
		if d.terms.Charge > 0 {
			supply = money.Of(d.terms.Charge, cur).String() + " an order"
		} else {
			supply = "nothing asked"
		}
		if d.terms.FreeFrom != nil {
			supply += ", free from " + money.Of(*d.terms.FreeFrom, cur).String()
		}
		if d.terms.Days > 0 {
			supply = dotted(supply, stops.Plural(d.terms.Days, "working day", "working days"))
		}
	}
	if d.listing != nil {
		ours = "sent by us"
		if d.row.Warehouse {
			ours = d.site.Marketplace.Name + "'s warehouse"
		}
		if d.charged > 0 {
			ours += ", the buyer pays " + money.Of(d.charged, money.Currency(d.site.Currency)).String()
		}
		for _, o := range d.offers() {
			if o.Lead {
				market = "leading asks nothing for it"
				if o.Delivery > 0 {
					market = "leading asks " + money.Of(o.Delivery, money.Currency(d.site.Currency)).String()
				}
			}
		}
	}
	d.add("Delivery", supply, ours, market)
}

var judge = match.NewJudge()

// mostAgainst is how many things that speak against an entry are said.
const mostAgainst = 3

// evidence says at the title what speaks against the supplier's product and the
// entry being the same thing.
func (d *docket) evidence() {
	if d.entry == nil || d.present == nil {
		return
	}
	ours, err := stops.Bought(&d.present.SupplierProduct)
	if err != nil {
		return
	}
	a := judge.Weigh(&ours, []match.Entry{stops.Listed(d.entry, d.site.Currency, nil)})
	for _, c := range append(a.Candidates, a.Others...) {
		for i := range d.out.Rows {
			if d.out.Rows[i].Aspect == "Title" {
				d.out.Rows[i].Notes = append(d.out.Rows[i].Notes, c.Against[:min(len(c.Against), mostAgainst)]...)
			}
		}
	}
}
