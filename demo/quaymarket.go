package demo

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"easymargin/internal/sim"
)

// Start is the demo's Tuesday morning.
var Start = time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC)

const catalogueSize = 3000

// Quaymarket is the marketplace with a shared catalogue, its GB site.
func Quaymarket(clock *sim.Clock) *sim.Marketplace {
	m := &sim.Marketplace{
		Clock:  clock,
		Name:   "Quaymarket",
		Seller: "Saltmarsh Kit",
		Sites: []sim.Site{
			{Code: "GB", Name: "Quaymarket GB", Currency: "GBP", TaxWay: "included", TaxRate: 200_000, MaxLines: 2000, Picture: 500},
			{
				Code:     "IE",
				Name:     "Quaymarket IE",
				Currency: "EUR",
				TaxWay:   "included",
				TaxRate:  230_000,
				MaxLines: 2000,
				Picture:  500,
				Dearer:   124,
			},
			{
				Code:     "DE",
				Name:     "Quaymarket DE",
				Currency: "EUR",
				TaxWay:   "included",
				TaxRate:  190_000,
				MaxLines: 2000,
				Picture:  500,
				Dearer:   117,
			},
		},
		FirstWait: 20 * time.Second,
		LineWait:  50 * time.Millisecond,
		Charges:   map[string]int64{"IE": 350, "DE": 390}, // as the shop's own terms say
		Demands:   quaymarketAsks,
	}
	category := func(ref, parent, name string) {
		m.Categories = append(m.Categories, sim.Category{Ref: ref, Parent: parent, Name: name})
	}
	category("kitchen", "", "Camp kitchen")
	category("mugs", "kitchen", "Mugs and cups")
	category("stoves", "kitchen", "Stoves")
	category("cookware", "kitchen", "Pots and pans")
	category("cutlery", "kitchen", "Cutlery and boards")
	category("water", "kitchen", "Water")
	category("shelter", "", "Shelter and sleep")
	category("tarps", "shelter", "Tarps and sheets")
	category("pegs", "shelter", "Pegs and lines")
	category("sleep", "shelter", "Mats, quilts, pillows")
	category("walking", "", "Hill walking")
	category("packs", "walking", "Packs and sacks")
	category("poles", "walking", "Poles")
	category("finding", "walking", "Maps and compasses")
	category("light", "", "Light")
	schedule := func(category, from string, fees ...map[string]any) {
		m.Schedules = append(m.Schedules, sim.FeeSchedule{Category: category, StartsOn: from, Fees: fees, Warehouse: warehouse(category)})
	}
	commission := func(rate int, more map[string]any) map[string]any {
		f := map[string]any{"name": "commission", "of": "total", "rate": rate, "least": 30}
		for k, v := range more {
			f[k] = v
		}
		return f
	}
	order := map[string]any{"name": "order fee", "of": "item", "fixed": 20}
	schedule("", "2025-01-01", commission(150_000, nil), order)
	schedule("kitchen", "2025-01-01", commission(130_000, nil), order)
	schedule("stoves", "2025-01-01", commission(110_000, map[string]any{"least": 50}), order)
	schedule("shelter", "2025-01-01", map[string]any{"name": "commission", "of": "total", "banding": "slices", "least": 30,
		"bands": []map[string]any{{"to": 10_000, "rate": 150_000}, {"rate": 80_000}}}, order)
	schedule("light", "2025-01-01", commission(80_000, nil), order)
	schedule("light", "2026-04-01", commission(95_000, nil), order)

	r := rand.New(rand.NewPCG(Seed, 3))
	shops := []string{"Cairn & Co", "The Peg Box", "Lowfell Stores", "Harbour Loft", "Bright Ridge", "Old Tannery Outdoor"}
	for _, it := range items(catalogueSize) {
		if it.n >= caseNumber && it.n < unlisted { // Fernhollow has them, Quaymarket has not
			continue
		}
		e := &sim.Entry{Ref: fmt.Sprintf("Q7-%05d", 40000+it.n*3), GTIN: "0" + it.gtin, Title: it.entryTitle(), Brand: it.brand,
			Category: it.category, Picture: "/pic/" + it.category + "-" + it.ref() + ".png", Units: it.singles()}
		if it.pack > 1 { // nothing is said there: only Fernhollow tells that it sells six as one
			e.Units = 0
		}
		e.Page = "/e/" + e.Ref
		e.Leave = it.n >= doubled && it.n < needsLeave
		odd(e, &it)
		lead := int64(0)
		for k := range r.IntN(6) {
			item := it.cost * (150 + r.Int64N(90)) / 100
			o := sim.Offer{Seller: shops[(it.n+k)%len(shops)], Item: item - item%100 + 99, Delivery: []int64{0, 0, 299, 395}[r.IntN(4)]}
			if lead == 0 || o.Item+o.Delivery < lead {
				lead = o.Item + o.Delivery
			}
			e.Offers = append(e.Offers, o)
		}
		for i := range e.Offers {
			if e.Offers[i].Item+e.Offers[i].Delivery == lead {
				e.Offers[i].Lead = true
				break
			}
		}
		m.Entries = append(m.Entries, e)
		if it.n >= unlisted && it.n < doubled { // two entries with one number: a person has to look
			twin := *e
			twin.Ref += "B"
			twin.Page = "/e/" + twin.Ref
			twin.Title = it.entryTitle() + " twin pack"
			twin.Units = 2
			m.Entries = append(m.Entries, &twin)
		}
	}
	return m
}

// odd is what makes an entry one that a person should look at, and what it says
// of itself beyond its title.
func odd(e *sim.Entry, it *item) {
	switch {
	case it.n < needsLeave || it.n >= accessory:
	case it.n < closed:
		e.Copyable = new(bool)
	case it.n < byLeave:
		e.NeedsLeave = true
	case it.n < nearMiss:
		at := slices.Index(it.good.ways, it.way)
		e.Title = strings.TrimSuffix(e.Title, it.way) + it.good.ways[(at+1)%len(it.good.ways)]
	default:
		e.Title = "Cover for " + e.Title
	}
	r := rand.New(rand.NewPCG(Seed, uint64(it.n)))
	if it.n%5 != 0 { // the others nobody has judged yet
		e.Rating, e.Ratings = 310+r.Int64N(185), 1+r.Int64N(900)
	}
	if it.n%7 != 0 {
		e.Rank = 1 + r.Int64N(40_000)
	}
	if it.n%3 == 0 {
		e.MPN = it.mpn()
	}
	if de := it.german(); de != "" {
		e.Titles = map[string]string{"DE": de}
	}
}

// Where the suppliers' lists are served.
const (
	FernhollowPath = "/fernhollow/products.csv"
	TidewrackPath  = "/tidewrack/clearance.json"
)

// warehouse is what Quaymarket takes to keep and send a unit, in every category.
func warehouse(category string) map[string]any {
	if category != "" {
		return nil
	}
	step := func(name string, longest, median, shortest, weight, fee, over, half int) map[string]any {
		return map[string]any{
			"name":      name,
			"longest":   longest,
			"median":    median,
			"shortest":  shortest,
			"weight":    weight,
			"fee":       fee,
			"over":      over,
			"half_kilo": half,
		}
	}
	return map[string]any{"name": "warehouse fee", "divisor": 5000, "steps": []map[string]any{
		step("letter", 330, 230, 25, 460, 198, 0, 0),
		step("small parcel", 350, 250, 120, 3900, 304, 1000, 22),
		step("parcel", 610, 460, 460, 15_000, 482, 2000, 31),
		{"name": "large parcel", "longest": 1200, "girth": 2400, "weight": 31_500, "fee": 795, "over": 5000, "half_kilo": 38},
	}}
}

// World is every stand-in of the demo. In a living one suppliers' lists and
// rivals' prices move by the clock, from Begin on; in the other the lists follow
// one another, as a first hour needs them.
func World(clock *sim.Clock, living bool) (*sim.World, error) {
	pages, err := suppliersPages()
	if err != nil {
		return nil, err
	}
	copperfold := Copperfold(clock)
	if copperfold.Sheets, err = CopperfoldSheets(); err != nil {
		return nil, err
	}
	w := &sim.World{
		Clock:  clock,
		Living: living,
		Market: Quaymarket(clock),
		Others: map[string]*sim.Marketplace{LanternPath: LanternRow(clock), CopperfoldPath: copperfold},
		Rates: &sim.Rates{
			Clock: clock,
			Worth: map[string]int64{"GBP": 1_000_000, "EUR": 861_200, "USD": 790_400, "NOK": 73_800, "JPY": 5_240},
		},
		Pages: pages,
		Lists: map[string]*sim.Supplier{
			FernhollowPath: {Clock: clock, Every: 15 * time.Minute, Lists: Fernhollow(), Type: "text/csv; charset=utf-8"},
			TidewrackPath:  {Clock: clock, Every: 15 * time.Minute, Lists: Tidewrack(), Type: "application/json"},
		},
	}
	if living {
		w.Lists[FernhollowPath].Made, w.Lists[TidewrackPath].Made = fernhollowAt, tidewrackAt
		under := entryOf(w.Market, items(fernhollowRows)[theCast().rival].gtin)
		if len(under.Offers) == 0 {
			under.Offers = []sim.Offer{{Seller: "Lowfell Stores", Item: 1899, Lead: true}}
		}
		w.Market.Wander = wander(under.Ref)
	}
	return w, nil
}

// entryOf is the marketplace's entry of a number that it has.
func entryOf(m *sim.Marketplace, gtin string) *sim.Entry {
	i := slices.IndexFunc(m.Entries, func(e *sim.Entry) bool { return e.GTIN == "0"+gtin })
	return m.Entries[i]
}
