// Package place is what a place to sell is to us: small ports that a place has
// or hasn't. The screens ask whether a place can do a thing, never which it is.
// Package gateway implements all of them over the protocol of docs/gateway.md.
package place

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"easymargin/core/pricing"
	"easymargin/internal/fault"
)

// Place is one place to sell, by what it can do; a port that it hasn't is nil.
type Place struct {
	Name      string
	Directory Directory
	Catalogue Catalogue
	Rivals    Rivals
	Outlet    Outlet
	Wire      Wire
	Pictures  Pictures
	Sheets    Sheets
	Orders    Orders
}

// Errors of every port are *Refusal where the place says no and *Unreachable
// where it can't be asked.

// Directory tells what holds at a place.
type Directory interface {
	// Sites lists the countries.
	Sites(ctx context.Context) ([]Site, error)
	Categories(ctx context.Context, site string) ([]Category, error)
	// Fees lists fee schedules, each with the day it starts.
	Fees(ctx context.Context, site string) ([]FeeSchedule, error)
	// Demands is what a category asks of a listing, in the form of
	// docs/definitions/listing.md, section 1. A place that doesn't tell refuses with 404.
	Demands(ctx context.Context, site, category string) (json.RawMessage, error)
}

// Catalogue is a catalogue that sellers share.
type Catalogue interface {
	// EntriesByNumber looks numbers (GTINs of 14 digits, at most MaxNumbers) up.
	EntriesByNumber(ctx context.Context, site string, gtins []string) ([]Entry, error)
	Entry(ctx context.Context, site, ref string) (Entry, error)
	EntriesByWords(ctx context.Context, site, words string) ([]Entry, error)
}

// Rivals tells what other sellers ask.
type Rivals interface {
	// Offers are what sellers ask on entries (at most MaxNumbers), by ref.
	Offers(ctx context.Context, site string, refs []string) (map[string][]Offer, error)
	// SoldBy is a part of what one seller offers, and where the next begins; ""
	// at the end. A place that doesn't tell refuses with 404.
	SoldBy(ctx context.Context, site, seller, after string) ([]Sold, string, error)
}

// Sold is an entry with what one seller asks for it, minor units of the site's currency.
type Sold struct {
	Entry
	Item     int64 `json:"item"`
	Delivery int64 `json:"delivery"`
}

// Outlet takes what we sell.
type Outlet interface {
	// HandOver gives a batch to the place. The same key never makes a second
	// batch, and a line whose key was done is not done again. Where the error is
	// Perhaps, nobody knows whether it arrived.
	HandOver(ctx context.Context, site, key string, lines []Line) (Batch, error)
	// Follow is how far a batch is, with what is said of each line so far.
	Follow(ctx context.Context, site, id string) (Batch, error)
	// Listings is a part of what we have there, after where the last part ended
	// ("" at the beginning), and where this one ends ("" at the end).
	Listings(ctx context.Context, site, after string) ([]Listing, string, error)
}

// Wire tells what a batch is, byte for byte, as HandOver gives it to the place.
type Wire interface {
	Body(lines []Line) ([]byte, error)
}

// Pictures takes pictures that have no address of their own.
type Pictures interface {
	// Upload gives the place a picture, once for all its sites: lines name it as
	// UploadedPicture(digest) from then on. The same one again changes nothing.
	Upload(ctx context.Context, digest, kind string, content []byte) error
}

// Sheets takes filled sheets by a door of the place.
type Sheets interface {
	// PutSheet gives the place a filled sheet; the same key again makes no second
	// one. It gives the place's name for it. A place without a door refuses with 404.
	PutSheet(ctx context.Context, site, key, name string, content []byte) (string, error)
	// SheetLines is what the place says of the lines of a sheet that it was given.
	SheetLines(ctx context.Context, site, ref string) ([]SheetLine, error)
}

// SheetLine is what a place says of a line of a filled sheet: State is Confirmed,
// Refused, or any other while it is at it. Column is a header of its sheet.
type SheetLine struct {
	SKU    string `json:"sku"`
	State  string `json:"state"`
	Column string `json:"column"`
	Words  string `json:"words"`
}

// UploadedPicture is how a line names a picture that was uploaded: digest is its
// SHA-256, in hex.
func UploadedPicture(digest string) string { return "sha256:" + digest }

// Orders tells what was sold.
type Orders interface {
	// Orders is a part of what was sold, or changed, after where the last part ended
	// ("" at the beginning), and where this one ends.
	Orders(ctx context.Context, site, since string) ([]Order, string, error)
	// Answer tells the place what became of an order's lines. The same key again
	// changes nothing.
	Answer(ctx context.Context, site, order, key string, answers []OrderAnswer) error
}

// MaxNumbers is how many numbers or refs one look-up may ask for.
const MaxNumbers = 100

// Site is one country of a place.
type Site struct {
	Code     string `json:"code"`
	Name     string `json:"name"`
	Currency string `json:"currency"`
	TaxWay   string `json:"tax_way"`
	TaxRate  int64  `json:"tax_rate"` // millionths
	MaxLines int64  `json:"max_lines"`
	Picture  int64  `json:"least_picture"` // pixels that the longer side of a picture must have; 0: any
	NoMarks  bool   `json:"no_marks"`      // captions and marks on pictures are forbidden
	Kind     string `json:"kind"`          // one of the kinds below; "" is a catalogue
}

// Kinds of site.
const (
	KindCatalogue = "catalogue"    // sellers attach offers to shared entries
	KindOwn       = "own listings" // each seller's own listing
	KindSheet     = "sheet"        // a filled sheet per category
	KindHand      = "by hand"      // a form of its own that a person fills in; no gateway and no sheet
	KindShop      = "shop"         // a web shop of our own
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

	NeedsLeave bool `json:"needs_leave,omitempty"` // to sell there takes leave of the place
}

// FeeSchedule is the fees of a category from a day on; Category "" is every other's.
type FeeSchedule struct {
	Category string        `json:"category"`
	StartsOn string        `json:"starts_on"` // YYYY-MM-DD
	Fees     []pricing.Fee `json:"fees"`
	// Warehouse is what the place's own takes to keep and send one unit; nil where it has none.
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
	Units    int64  `json:"units"` // how many it sells as one; 0 where it doesn't say

	GTINs      []string `json:"gtins"` // further numbers
	MPN        string   `json:"mpn"`
	Colour     string   `json:"colour"`
	Size       string   `json:"size"`
	Material   string   `json:"material"`
	Copyable   *bool    `json:"copyable"` // nil: as others are
	NeedsLeave bool     `json:"needs_leave"`
	Rating     *int64   `json:"rating"` // hundredths of a star; nil where it isn't told, as below
	Ratings    *int64   `json:"ratings"`
	Rank       *int64   `json:"rank"` // place among the best sold of its category
}

// Line is one listing's part of a batch. Price and quantity are left as they
// are where nil; a price is in minor units of the site's currency.
type Line struct {
	Key      string `json:"key"`
	SKU      string `json:"sku"`
	Entry    string `json:"entry"`
	Price    *int64 `json:"price,omitempty"`
	Quantity *int64 `json:"quantity,omitempty"`

	// Do is DoCreate where a listing of our own is made there, with its Content, and
	// DoChange where one that is there says something else: Content has only what
	// changed, Cleared the fields that say nothing any more. "" for an offer on an
	// entry, and for changes of price and stock.
	Do      string   `json:"do,omitempty"`
	Content *Content `json:"content,omitempty"`
	Cleared []string `json:"cleared,omitempty"`
}

// What a line does with a listing of our own.
const (
	DoCreate = "create"
	DoChange = "change"
)

// Content is what a listing of our own says. Amounts are in major units of the
// site's currency; each value is written as the place wants it.
type Content struct {
	Category    string            `json:"category,omitempty"`
	Number      string            `json:"number,omitempty"`
	Brand       string            `json:"brand,omitempty"`
	Title       string            `json:"title,omitempty"`
	Description string            `json:"description,omitempty"`
	Attributes  map[string]string `json:"attributes,omitempty"`
	Words       []string          `json:"words,omitempty"`
	Pictures    []string          `json:"pictures,omitempty"`      // addresses or UploadedPicture, the leading one first
	Texts       []string          `json:"picture_texts,omitempty"` // what is to be seen on each, for those who can't see it
	Package     *Packed           `json:"package,omitempty"`
	ListPrice   string            `json:"list_price,omitempty"`
	Former      string            `json:"former,omitempty"`
	Terms       *Terms            `json:"terms,omitempty"`
	Group       string            `json:"group,omitempty"` // joins variants of one thing
	Axes        map[string]string `json:"axes,omitempty"`  // what sets this one apart in its group
}

// Terms are what a seller promises about a listing. Amounts are in major units of
// the site's currency, times in working days.
type Terms struct {
	Delivery     []Delivery `json:"delivery,omitempty"`
	HandlingDays int64      `json:"handling_days,omitempty"`
	From         string     `json:"from,omitempty"`
	Collection   bool       `json:"collection,omitempty"`
	ReturnsDays  int64      `json:"returns_days,omitempty"`
	ReturnsPaid  bool       `json:"returns_paid,omitempty"`
	Warranty     string     `json:"warranty,omitempty"`
	Invoice      bool       `json:"invoice,omitempty"`
	Days         int64      `json:"days,omitempty"` // it stays up so long; 0: until it is ended
	Offers       bool       `json:"offers,omitempty"`
	LowestOffer  string     `json:"lowest_offer,omitempty"` // that is accepted
}

// Delivery is one way in which a buyer can have it delivered.
type Delivery struct {
	Name   string `json:"name"`
	Charge string `json:"charge,omitempty"` // "": free
	Least  int64  `json:"least,omitempty"`
	Most   int64  `json:"most,omitempty"`
}

// Packed is a parcel, in grams and millimetres; what isn't known is left out.
type Packed struct {
	Weight int64 `json:"weight,omitempty"`
	Length int64 `json:"length,omitempty"`
	Width  int64 `json:"width,omitempty"`
	Height int64 `json:"height,omitempty"`
}

// Batch is how far a batch is. Any state but BatchDone is still at work.
type Batch struct {
	ID    string    `json:"id"`
	State string    `json:"state"`
	Lines []Outcome `json:"lines"`
}

// States of a batch that mean something to us.
const (
	// BatchDone is one that nothing more will be said of.
	BatchDone = "done"
	// BatchResting is one of which nothing more is said before somebody does
	// something: it isn't asked about again by itself.
	BatchResting = "resting"
)

// Outcome is what the place says of one line. A state that is neither of the
// two below is none: the line stays open.
type Outcome struct {
	Key   string `json:"key"`
	State string `json:"state"`
	Field string `json:"field"`
	Words string `json:"words"`
}

// States of an outcome.
const (
	Confirmed = "confirmed"
	Refused   = "refused"
)

// Listing is what we have on sale at the place, minor units of the site's currency.
type Listing struct {
	SKU      string `json:"sku"`
	Entry    string `json:"entry"`
	Price    int64  `json:"price"`
	Quantity int64  `json:"quantity"`
	// Content is what a listing of our own says there; nil where the place doesn't tell.
	Content *Content `json:"content"`
}

// Order is what was sold, in minor units of Currency.
type Order struct {
	Ref      string      `json:"ref"`
	Placed   time.Time   `json:"placed_at"`
	Currency string      `json:"currency"`
	Buyer    Buyer       `json:"buyer"`
	Lines    []OrderLine `json:"lines"`
	// Wrong says why the rest of it couldn't be read; "": it could.
	Wrong string `json:"-"`
}

// Buyer is who bought, and where it goes.
type Buyer struct {
	Name    string   `json:"name"`
	Address []string `json:"address"` // as it is written on a parcel
	Country string   `json:"country"` // ISO 3166-1
	Mail    string   `json:"mail,omitempty"`
}

// OrderLine is one listing's part of an order. Amounts are for the whole line but
// for the price; nil where the place doesn't tell.
type OrderLine struct {
	Ref      string `json:"ref"`
	SKU      string `json:"sku"`
	Title    string `json:"title"`
	Quantity int64  `json:"quantity"`
	Price    int64  `json:"price"` // of one
	Delivery int64  `json:"delivery"`
	Tax      *int64 `json:"tax,omitempty"`
	Fees     *int64 `json:"fees,omitempty"`
	State    string `json:"state,omitempty"` // OrderCancelled where the buyer or the place called it off, OrderReturned
	Refunded int64  `json:"refunded,omitempty"`
}

// States of an order's line that a place tells, and what it is told.
const (
	OrderCancelled = "cancelled"
	OrderReturned  = "returned"
	OrderSent      = "sent"
	OrderRefunded  = "refunded"
)

// OrderAnswer is what became of a line of an order.
type OrderAnswer struct {
	Line     string `json:"line"`
	Do       string `json:"do"` // OrderSent, OrderCancelled, OrderRefunded
	Carrier  string `json:"carrier,omitempty"`
	Tracking string `json:"tracking,omitempty"`
	Amount   int64  `json:"amount,omitempty"` // that is given back
}

// Unreachable says that a place can't be asked right now; it may work later.
type Unreachable struct {
	Name    string
	Err     error
	Perhaps bool          // what was asked for may have been done all the same
	After   time.Duration // how long it asked to be left alone; 0: it doesn't say
}

func (e *Unreachable) Error() string {
	if e.Perhaps {
		return fmt.Sprintf("%s gave no answer that tells (%v); it is perhaps changed there", e.Name, e.Err)
	}
	return fmt.Sprintf("%s can't be reached (%v); nothing was changed there, try again in a while", e.Name, e.Err)
}

func (e *Unreachable) Unwrap() error { return e.Err }

// FaultKind implements fault.Kinded.
func (e *Unreachable) FaultKind() fault.Kind { return fault.Unavailable }

// Refusal is a place's no to a whole request. Nothing was changed there by it.
type Refusal struct {
	Name   string
	Status int // HTTP's, where it came that way
	Words  string
}

func (e *Refusal) Error() string { return fmt.Sprintf("%s refused: %s", e.Name, e.Words) }

// FaultKind implements fault.Kinded.
func (e *Refusal) FaultKind() fault.Kind { return fault.Conflict }

// Perhaps tells whether what failed may have been done all the same.
func Perhaps(err error) bool {
	var u *Unreachable
	return errors.As(err, &u) && u.Perhaps
}

// Forgotten tells whether the place knows nothing of what was asked for.
func Forgotten(err error) bool {
	var r *Refusal
	return errors.As(err, &r) && r.Status == 404
}
