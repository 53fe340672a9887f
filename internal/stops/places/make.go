package places

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/shop"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// NewPlace is a place that a person makes from nothing: one without a gateway,
// or the own shop.
type NewPlace struct {
	Name       string `json:"name" minLength:"1" maxLength:"120"`
	Country    string `json:"country" doc:"Two letters, ISO 3166-1"`
	Currency   string `json:"currency"`
	TaxWay     string `json:"tax_way" enum:"included,added,none" doc:"Whether what buyers pay has tax in it"`
	TaxRate    string `json:"tax_rate,omitempty" doc:"As a percentage"`
	Commission string `json:"commission,omitempty" doc:"What it takes of every sale, as a percentage of all that the buyer pays"`
	Fixed      string `json:"fixed,omitempty" doc:"And in major units for every sale"`
	Charged    string `json:"charged,omitempty" doc:"What the buyer pays for delivery, in major units"`
	Outbound   string `json:"outbound,omitempty" doc:"What sending one costs us, in major units"`
	ByHand     bool   `json:"by_hand,omitempty" doc:"It takes no files either: a person fills in its form, listing by listing"`
	Shop       bool   `json:"shop,omitempty" doc:"It is a web shop of our own, which this program serves"`
	Categories string `json:"categories,omitempty" maxLength:"100000" doc:"One a line; a parent before an arrow: Kitchen > Mugs"`
}

// asked is what a price needs of a place: nothing is an answer, silence isn't.
func (in *NewPlace) asked() error {
	var silent []*fault.Error
	for _, q := range []struct{ field, said, words string }{
		{"tax_rate", in.TaxRate, "say at which rate what buyers pay has tax, such as 20%; or that it has none"},
		{"commission", in.Commission, "say what it takes of every sale, such as 12.5%; 0 where it takes nothing"},
		{"fixed", in.Fixed, "say what it takes for each sale besides, such as 0.20; 0 where it takes nothing"},
		{"charged", in.Charged, "say what the buyer pays for delivery; 0 where nothing"},
		{"outbound", in.Outbound, "say what sending one costs you; 0 where nothing"},
	} {
		if strings.TrimSpace(q.said) == "" && !(q.field == "tax_rate" && in.TaxWay == "none") {
			silent = append(silent, &fault.Error{Kind: fault.Invalid, Field: q.field, Words: q.words})
		}
	}
	return fault.All(silent)
}

// Make makes a place without a gateway, or the own shop: one site, its fees to begin with, its
// categories and a price rule. All that a price needs must be said, if only that it is nothing.
func (st *Stop) Make(ctx context.Context, in NewPlace) (store.Site, error) {
	name := strings.TrimSpace(in.Name)
	code := strings.ToUpper(strings.TrimSpace(in.Country))
	cur := money.Currency(strings.ToUpper(strings.TrimSpace(in.Currency)))
	switch {
	case name == "":
		return store.Site{}, fault.At("name", "say what the place is called")
	case !stops.Country.MatchString(code):
		return store.Site{}, fault.At("country", "%q is no country by its two letters, such as GB", in.Country)
	case !cur.Valid():
		return store.Site{}, fault.At("currency", "%q is no currency we know, such as GBP", in.Currency)
	}
	if err := in.asked(); err != nil {
		return store.Site{}, err
	}
	rate, err := stops.Share("tax_rate", orZero(in.TaxRate))
	if err != nil || rate < 0 {
		return store.Site{}, fault.At("tax_rate", "%q is not a percentage such as 20%%", in.TaxRate)
	}
	if in.TaxWay == "none" {
		rate = 0
	}
	fees, err := firstFees(in, cur)
	if err != nil {
		return store.Site{}, err
	}
	charged, err := stops.Amount("charged", in.Charged, cur)
	if err != nil {
		return store.Site{}, err
	}
	outbound, err := stops.Amount("outbound", in.Outbound, cur)
	if err != nil {
		return store.Site{}, err
	}
	m := store.Marketplace{Name: name}
	site := store.Site{
		Code: code, Name: name, Currency: string(cur), TaxWay: in.TaxWay, TaxRate: int64(rate), MaxLines: 1, Kind: place.KindCatalogue, Lists: true,
		Accepts: true, Charged: charged, Outbound: outbound,
	}
	switch {
	case in.ByHand && in.Shop:
		return store.Site{}, fault.At("shop", "a shop of our own takes everything by itself: it is not by hand")
	case in.ByHand:
		site.Kind = place.KindHand
	case in.Shop:
		m.Address, site.Kind, site.MaxLines = shop.Address, place.KindShop, 1000
		site.Lists = false // until something is listed there
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		if _, err := tx.ShopSite(); in.Shop && !errors.Is(err, store.ErrMissing) {
			return stops.First(err, fault.Taken("shop", "there is a shop of our own already; it is among the places"))
		}
		if err := tx.Create(&m); err != nil {
			return fault.Taken("name", "there is a place called %s already", name)
		}
		site.MarketplaceID = m.ID
		if err := st.keep(tx, &site, reckon.Fees{Categories: typedCategories(in.Categories)}); err != nil {
			return err
		}
		row, err := reckon.ScheduleRow(pricing.Schedule{StartsOn: "2020-01-01", Fees: fees})
		if err != nil {
			return err
		}
		row.SiteID = site.ID
		if err := tx.PutSchedule(st.Now(), &row); err != nil {
			return err
		}
		tx.Changed("sites", "counts", "places")
		return tx.Note(st.Now(), "place made", name, code+" "+string(cur))
	})
	return site, err
}

func orZero(s string) string {
	if strings.TrimSpace(s) == "" {
		return "0"
	}
	return s
}

// firstFees are the fees that hold for every category until others are written.
func firstFees(in NewPlace, cur money.Currency) ([]pricing.Fee, error) {
	share, err := stops.Share("commission", orZero(in.Commission))
	if err != nil || share < 0 {
		return nil, fault.At("commission", "%q is not a percentage such as 12.5%%", in.Commission)
	}
	fixed, err := stops.Amount("fixed", orZero(in.Fixed), cur)
	if err != nil {
		return nil, err
	}
	var fees []pricing.Fee
	if share > 0 {
		fees = append(fees, pricing.Fee{Name: "commission", Of: pricing.OfTotal, Rate: share})
	}
	if fixed > 0 {
		fees = append(fees, pricing.Fee{Name: "fixed fee", Of: pricing.OfItem, Fixed: fixed})
	}
	if _, err := pricing.NewTerms(pricing.Spec{Currency: cur, Fees: fees}); err != nil {
		return nil, stops.FieldError(err, "commission")
	}
	return fees, nil
}

// typedCategories are categories as a person writes them, one a line, each under
// those before its arrows.
func typedCategories(text string) []store.Category {
	var out []store.Category
	known := map[string]bool{}
	for line := range strings.Lines(text) {
		parent := ""
		for _, part := range strings.Split(line, ">") {
			name := stops.Clip(strings.TrimSpace(part), 200)
			if name == "" {
				continue
			}
			ref := name
			if parent != "" {
				ref = parent + " > " + name
			}
			if !known[ref] {
				known[ref] = true
				out = append(out, store.Category{Ref: ref, Parent: parent, Name: name})
			}
			parent = ref
		}
	}
	return out
}

// AddCategories adds categories that a person types or brings in as a file.
func (st *Stop) AddCategories(ctx context.Context, siteID int64, text string) (int, error) {
	list := typedCategories(text)
	if len(list) == 0 {
		return 0, fault.At("categories", "write one a line, such as: Kitchen > Mugs")
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		for i := range list {
			list[i].SiteID = site.ID
		}
		if err := tx.AddCategories(list); err != nil {
			return err
		}
		tx.Changed("sites", "places")
		return tx.Note(st.Now(), "categories added", site.Name, "")
	})
	return len(list), err
}

// columnsOf is what a file's columns are read as, as it is kept.
func columnsOf(f *store.PlaceFile) (map[string]string, error) {
	out := map[string]string{}
	if f.Columns == "" {
		return out, nil
	}
	err := json.Unmarshal([]byte(f.Columns), &out)
	return out, err
}
