// Package market is what a marketplace is to us: an interface, and the client
// of the gateway protocol written down in docs/gateway.md and docs/gateway.yaml.
// Anyone can put a real marketplace behind that protocol.
package market

import (
	"context"
	"errors"
	"fmt"

	"easymargin/core/pricing"
)

// Marketplace is one site of a marketplace. Errors are *Refusal where the
// marketplace says no, *Unreachable where it can't be asked.
type Marketplace interface {
	// Sites lists the countries, with what holds for each.
	Sites(ctx context.Context) ([]Site, error)
	Categories(ctx context.Context, site string) ([]Category, error)
	// Fees lists fee schedules, each with the day it starts.
	Fees(ctx context.Context, site string) ([]FeeSchedule, error)
	// EntriesByNumber looks numbers (GTINs of 14 digits, at most MaxNumbers) up.
	EntriesByNumber(ctx context.Context, site string, gtins []string) ([]Entry, error)
	Entry(ctx context.Context, site, ref string) (Entry, error)
	EntriesByWords(ctx context.Context, site, words string) ([]Entry, error)
	// Offers are what sellers ask on entries (at most MaxNumbers), by ref.
	Offers(ctx context.Context, site string, refs []string) (map[string][]Offer, error)
	// Send hands a batch over. The same key never makes a second batch.
	Send(ctx context.Context, site, key string, lines []Line) (Batch, error)
	// Batch is how far a batch is, with what is said of each line so far.
	Batch(ctx context.Context, site, id string) (Batch, error)
}

// MaxNumbers is how many numbers one look-up may ask for.
const MaxNumbers = 100

// Site is one country of a marketplace.
type Site struct {
	Code     string `json:"code"`
	Name     string `json:"name"`
	Currency string `json:"currency"`
	TaxWay   string `json:"tax_way"`
	TaxRate  int64  `json:"tax_rate"` // millionths
	MaxLines int64  `json:"max_lines"`
	Picture  int64  `json:"least_picture"` // pixels that the longer side of a picture must have; 0: any
	Kind     string `json:"kind"`          // one of the kinds below; "" is a catalogue
}

// Kinds of site.
const (
	Catalogue   = "catalogue"    // sellers attach offers to shared entries
	OwnListings = "own listings" // each seller's own listing
	Sheet       = "sheet"        // a filled sheet per category
	OwnShop     = "shop"         // a web shop of our own
)

// Offer is what one seller asks on an entry, minor units of the site's currency.
type Offer struct {
	Seller   string `json:"seller"`
	Item     int64  `json:"item"`
	Delivery int64  `json:"delivery"`
	Lead     bool   `json:"lead"`
	Ours     bool   `json:"ours"`
}

// Category is a category; Parent is "" for one at the top.
type Category struct {
	Ref    string `json:"ref"`
	Parent string `json:"parent"`
	Name   string `json:"name"`
}

// FeeSchedule is the fees of a category from a day on; Category "" is every other's.
type FeeSchedule struct {
	Category string        `json:"category"`
	StartsOn string        `json:"starts_on"` // YYYY-MM-DD
	Fees     []pricing.Fee `json:"fees"`
	// Warehouse is what the marketplace's own takes to keep and send one unit; nil where it has none.
	Warehouse *pricing.Warehouse `json:"warehouse"`
}

// Entry is a page of the catalogue.
type Entry struct {
	Ref      string `json:"ref"`
	GTIN     string `json:"gtin"`
	Title    string `json:"title"`
	Brand    string `json:"brand"`
	Category string `json:"category"`
	Picture  string `json:"picture"`
	Page     string `json:"page"`
	Units    int64  `json:"units"`
}

// Line is one listing's part of a batch. Price and quantity are left as they
// are where nil; a price is in minor units of the site's currency.
type Line struct {
	Key      string `json:"key"`
	SKU      string `json:"sku"`
	Entry    string `json:"entry"`
	Price    *int64 `json:"price,omitempty"`
	Quantity *int64 `json:"quantity,omitempty"`
}

// Batch is how far a batch is.
type Batch struct {
	ID    string    `json:"id"`
	State string    `json:"state"` // working, done
	Lines []Outcome `json:"lines"`
}

// Outcome is what the marketplace says of one line.
type Outcome struct {
	Key   string `json:"key"`
	State string `json:"state"` // confirmed, refused
	Field string `json:"field"`
	Words string `json:"words"`
}

// Unreachable says that a marketplace can't be asked right now; it may work later.
type Unreachable struct {
	Name string
	Err  error
}

func (e *Unreachable) Error() string {
	return fmt.Sprintf("%s can't be reached (%v); nothing was changed there, try again in a while", e.Name, e.Err)
}

func (e *Unreachable) Unwrap() error { return e.Err }

// Refusal is a marketplace's no to a whole request.
type Refusal struct {
	Name   string
	Status int
	Words  string
}

func (e *Refusal) Error() string { return fmt.Sprintf("%s refused: %s", e.Name, e.Words) }

// MayWorkLater tells whether it is worth asking again.
func MayWorkLater(err error) bool { var u *Unreachable; return errors.As(err, &u) }
