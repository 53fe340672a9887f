package weighing

import (
	"context"
	"errors"
	"net/http"

	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// mostSold is the most of one seller's offers that are read.
const mostSold = 500

// Shop is what one seller offers on a site, to find what could be sourced.
type Shop struct {
	Seller string     `json:"seller"`
	Rows   []SoldView `json:"rows"`
	More   bool       `json:"more" doc:"There is more than was read"`
}

// SoldView is one of a seller's offers, with who supplies it. Amounts are minor
// units of the site's currency.
type SoldView struct {
	Ref      string     `json:"ref"`
	Title    string     `json:"title"`
	Brand    string     `json:"brand"`
	GTIN     string     `json:"gtin"`
	Page     string     `json:"page"`
	Item     int64      `json:"item"`
	Delivery int64      `json:"delivery"`
	Supplied []Supplied `json:"supplied" doc:"Supplier products of the same number"`
}

// Supplied is a supplier product of some number.
type Supplied struct {
	SupplierProductID int64  `json:"supplier_product_id"`
	Supplier          string `json:"supplier"`
	Ref               string `json:"ref"`
	Cost              int64  `json:"cost"`
	Currency          string `json:"currency"`
}

// SoldBy reads what one seller offers on a site, where the place tells.
func (st *Stop) SoldBy(ctx context.Context, siteID int64, seller string) (Shop, error) {
	out := Shop{Seller: seller, Rows: []SoldView{}}
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return out, err
	}
	silent := fault.New(fault.Conflict, "%s doesn't tell what one seller offers", site.Marketplace.Name)
	rivals := st.Places(site.Marketplace).Rivals
	if rivals == nil {
		return out, silent
	}
	var numbers []string
	for after := ""; ; {
		list, next, err := rivals.SoldBy(ctx, site.Code, seller, after)
		var no *place.Refusal
		if errors.As(err, &no) && no.Status == http.StatusNotFound {
			return out, silent
		}
		if err != nil {
			return out, err
		}
		for _, x := range list {
			if len(out.Rows) == mostSold {
				out.More = true
				break
			}
			e := stops.EntryRow(site.ID, x.Entry, st.Now())
			out.Rows = append(out.Rows, SoldView{e.Ref, e.Title, e.Brand, e.GTIN, e.Page, x.Item, x.Delivery, []Supplied{}})
			if e.GTIN != "" {
				numbers = append(numbers, e.GTIN)
			}
		}
		if out.More || next == "" || next == after {
			break
		}
		after = next
	}
	items, err := st.Store.ItemsByNumber(ctx, numbers)
	if err != nil {
		return out, err
	}
	by := map[string][]store.NumberedItem{}
	for _, i := range items {
		by[i.GTIN] = append(by[i.GTIN], i)
	}
	for k := range out.Rows {
		for _, i := range by[out.Rows[k].GTIN] {
			out.Rows[k].Supplied = append(out.Rows[k].Supplied, Supplied{i.ID, i.Supplier, i.Ref, i.Cost, i.Currency})
		}
	}
	return out, nil
}
