package store

import (
	"time"

	"easymargin/core/supply"
)

// The models are the tables. docs/data.md draws them, with those that later
// work adds. Amounts are minor units with their currency in the same row.

// Supplier is who sells to us.
type Supplier struct {
	ID        int64
	Name      string `gorm:"uniqueIndex;not null"`
	CreatedAt time.Time
}

// Source is a way a supplier's products reach us.
type Source struct {
	ID         int64
	SupplierID int64 `gorm:"index;not null"`
	Supplier   Supplier
	Name       string   `gorm:"uniqueIndex;not null"`
	Kind       string   `gorm:"not null"` // file, address, folder, page
	Mode       string   `gorm:"not null"` // full, update
	Address    string   // where to fetch from, or the folder to watch
	Currency   string   `gorm:"not null"`
	Reading    string   // JSON of feed.Settings, as a person chose
	Needed     []string `gorm:"serializer:json"` // columns the last feed was read by
	Charge     int64    // delivery, minor units of Currency
	FreeFrom   *int64
	Duty       int64  // millionths, of goods and delivery
	Days       int64  // working days they take to deliver
	Guards     string // JSON of supply.Guards; "" for the defaults
	Every      int64  // minutes between two looks at the address or folder; 0: only when asked
	LookUp     bool   // new products are looked up on every site by themselves
	Username   string
	Password   string // sealed, see store.Seal
	ETag       string
	Modified   string
	LastRows   int64  // rows of the last taken full feed
	LastFeedID *int64 // the feed taken last
	Marks      string // tag of the file with its products' digests, see marks.go
	TriedAt    *time.Time
	TakenAt    *time.Time
	CreatedAt  time.Time
}

// Feed is one delivery of a source. While it is only looked at it may have no source yet.
type Feed struct {
	ID         int64
	SourceID   *int64 `gorm:"index"`
	Source     *Source
	Name       string // file name or address
	File       string // name in the data folder's inbox
	Bytes      int64
	Digest     string // SHA-256 of the file
	State      string `gorm:"index;not null"` // looked, reading, taken, held, failed, discarded, same
	Look       string // JSON of feed.Look
	ReadAs     string // digest of the settings it was read under
	PartOf     *int64 // the feed whose set-aside rows these are, mended
	MendsRow   int    // the row of it that this is, where it is one alone
	Rows       int64
	New        int64
	Changed    int64
	Same       int64
	SetAside   int64
	Gone       int64
	Warnings   int64
	HeldFor    string // JSON of []supply.Hold
	Error      string
	Once       bool // a person let a held feed through
	ReceivedAt time.Time
	TakenAt    *time.Time
}

// States of a feed.
const (
	FeedLooked    = "looked"
	FeedReading   = "reading"
	FeedTaken     = "taken"
	FeedHeld      = "held"
	FeedFailed    = "failed"
	FeedDiscarded = "discarded"
	FeedSame      = "same" // the address had nothing new
)

// SetAside is a row of a feed that was not taken, kept whole so that it can be mended.
type SetAside struct {
	ID       int64
	FeedID   int64 `gorm:"index;not null;constraint:OnDelete:CASCADE"`
	Row      int
	Cells    []string         `gorm:"serializer:json"` // in the order of the feed's columns
	Problems []supply.Problem `gorm:"serializer:json"`
	MendedBy *int64           // the feed that took it, mended
}

// SupplierProduct is one row of a supplier as last taken.
type SupplierProduct struct {
	ID            int64
	SourceID      int64  `gorm:"uniqueIndex:supplier_product_ref,priority:1;not null"`
	Ref           string `gorm:"uniqueIndex:supplier_product_ref,priority:2;not null"`
	RefHash       int64  // supply.RefHash, by which a feed finds its rows
	GTIN          string `gorm:"index"`
	GTINStatus    string
	Brand         string
	Title         string
	Category      string
	Cost          int64
	Currency      string
	Stock         int64
	StockState    string
	UnitsPerItem  int64
	Details       string // JSON: everything else the row says
	Fingerprint   int64
	Gone          bool
	Missing       int64 // accepted full feeds it was missing from, in a row
	FirstFeedID   int64
	ChangedFeedID int64
}

// Find is a supplier product kept without being listed yet, with a note.
type Find struct {
	SupplierProductID int64 `gorm:"primaryKey;autoIncrement:false"`
	Note              string
	KeptAt            time.Time
}

// Picture is one address of a picture and what was found there. The picture
// itself is a file named by its digest, so that the same one is kept once.
type Picture struct {
	ID      int64
	URL     string `gorm:"uniqueIndex;not null"`
	State   string `gorm:"index;not null"` // waiting, kept, failed
	Digest  string `gorm:"index"`          // SHA-256
	Kind    string // png, jpeg, gif, webp
	Width   int64  // pixels
	Height  int64
	Bytes   int64
	Why     string // why it failed, or what speaks against it
	Tries   int64
	TriedAt *time.Time
}

// PictureUse is a supplier product's picture, in its order.
type PictureUse struct {
	SupplierProductID int64 `gorm:"primaryKey;autoIncrement:false"`
	Position          int64 `gorm:"primaryKey;autoIncrement:false"`
	PictureID         int64 `gorm:"index;not null"`
}

// States of a picture.
const (
	PictureWaiting = "waiting"
	PictureKept    = "kept"
	PictureFailed  = "failed"
)

// SearchMark says how far the search index has got.
type SearchMark struct {
	ID        int64
	ProductID int64 // supplier products up to here are in it
	ChangeID  int64 // and changes up to here
}

// SupplierChange is one field that one feed changed; cost and stock history are read from it.
type SupplierChange struct {
	ID                int64
	SupplierProductID int64 `gorm:"index;not null"`
	FeedID            int64 `gorm:"index;not null"`
	Field             string
	Before            string
	After             string
}

// Product is what we sell.
type Product struct {
	ID        int64
	SKU       string `gorm:"uniqueIndex;not null"`
	GTIN      string `gorm:"index"`
	Title     string
	Brand     string
	Picture   string
	FamilyID  *int64 `gorm:"index"` // nil: no variant of anything
	Variant   string // what sets it apart in its family, such as "moss, M"
	CreatedAt time.Time
}

// Family is one product with variants: a supplier's group of rows. Each variant
// is a product of its own, with its own cost, stock and listings.
type Family struct {
	ID       int64
	SourceID int64  `gorm:"uniqueIndex:family_group,priority:1;not null"`
	Group    string `gorm:"column:group_ref;uniqueIndex:family_group,priority:2;not null"`
	Title    string
}

// SupplyLink ties a product to a supplier product.
type SupplyLink struct {
	ID                int64
	ProductID         int64 `gorm:"uniqueIndex:supply_link_pair,priority:1;not null"`
	SupplierProductID int64 `gorm:"uniqueIndex:supply_link_pair,priority:2;index;not null"`
	UnitsBought       int64 // single units in the supplier's item
	UnitsListed       int64 // single units in what we list
	Present           bool  // the link the listings are worked out from
}

// Marketplace is where we sell, reached through its gateway.
type Marketplace struct {
	ID      int64
	Name    string `gorm:"uniqueIndex;not null"`
	Address string `gorm:"not null"` // of the gateway
}

// Site is one country of a marketplace.
type Site struct {
	ID            int64
	MarketplaceID int64 `gorm:"uniqueIndex:site_code,priority:1;not null"`
	Marketplace   Marketplace
	Code          string `gorm:"uniqueIndex:site_code,priority:2;not null"`
	Name          string
	Currency      string
	TaxWay        string
	TaxRate       int64  // millionths
	Charged       int64  // what the buyer pays for delivery
	Outbound      int64  // what we pay to send one
	Handling      int64  // our own work for each unit
	Cushion       int64  // millionths, put on costs in another currency
	Allowances    string // JSON of []pricing.Allowance
	Kind          string // catalogue, own listings, sheet, shop
	Lists         bool   // whether we list there; the others are only known
	MaxLines      int64  // lines of a batch
	LeastPicture  int64  // pixels that the longer side of a picture must have
	Guards        string
	FeesAt        *time.Time
}

// Category is one category of a site.
type Category struct {
	ID     int64
	SiteID int64  `gorm:"uniqueIndex:category_ref,priority:1;not null"`
	Ref    string `gorm:"uniqueIndex:category_ref,priority:2;not null"`
	Parent string
	Name   string
}

// FeeSchedule is the fees of a category from a day on; Category "" is every other's.
type FeeSchedule struct {
	ID        int64
	SiteID    int64  `gorm:"uniqueIndex:fee_schedule_start,priority:1;not null"`
	Category  string `gorm:"uniqueIndex:fee_schedule_start,priority:2"`
	StartsOn  string `gorm:"uniqueIndex:fee_schedule_start,priority:3"` // YYYY-MM-DD
	Fees      string // JSON of []pricing.Fee
	Warehouse string // JSON of pricing.Warehouse; "" where it has none of its own
	ByHand    bool   // typed or from a file: reading the gateway's again leaves it
}

// Entry is a product page of a marketplace's catalogue, as last seen.
type Entry struct {
	ID       int64
	SiteID   int64  `gorm:"uniqueIndex:entry_ref,priority:1;not null"`
	Ref      string `gorm:"uniqueIndex:entry_ref,priority:2;not null"`
	GTIN     string `gorm:"index"`
	Title    string
	Brand    string
	Category string
	Picture  string
	Page     string // its public address
	Units    int64
	Offers   string // JSON of []market.Offer, as last read
	OffersAt *time.Time
	SeenAt   time.Time
}

// Match is the decision which entry a supplier product is, on one site.
type Match struct {
	ID                int64
	SupplierProductID int64  `gorm:"uniqueIndex:match_pair,priority:1;not null"`
	SiteID            int64  `gorm:"uniqueIndex:match_pair,priority:2;index:match_state,priority:1;not null"`
	State             string `gorm:"index:match_state,priority:2;not null"` // matched, several, none, new entry, later
	EntryID           *int64
	Candidates        string // JSON of []match.Candidate
	DecidedBy         string // lookup, person
	DecidedAt         time.Time
}

// States of a match beyond core/match's.
const (
	MatchNewEntry = "new entry"
	MatchLater    = "later"
	MatchAsked    = "asked" // to be looked up, on a person's word
)

// Listing is our product on one site.
type Listing struct {
	ID                int64
	ProductID         int64 `gorm:"uniqueIndex:listing_pair,priority:1;not null"`
	SiteID            int64 `gorm:"uniqueIndex:listing_pair,priority:2;index:listing_state,priority:1;not null"`
	EntryID           int64
	State             string `gorm:"index:listing_state,priority:2;not null"`
	Unwanted          bool   // the seller chose not to sell it on this site
	Currency          string
	Price             *int64 // what should be asked
	Quantity          int64  // what should be offered
	Landed            *int64
	Fees              *int64 // all fees, their tax and the allowances, of Price
	Tax               *int64
	Outbound          *int64 // sending one, less what the buyer pays for it
	Profit            *int64
	Floor             *int64
	BreakEven         *int64
	Bound             string
	RuleID            *int64 `gorm:"index"` // the rule that holds
	OwnRule           string // JSON of app.Rule, in place of the list's
	FixedPrice        *int64 // by hand; stays until released
	Former            *int64 // shown crossed out
	Warehouse         bool   // kept and sent by the marketplace's warehouse
	Why               string // why there is no price, or none is offered
	ConfirmedPrice    *int64
	ConfirmedQuantity int64
	ConfirmedCost     *int64 // supplier's cost when the price was last confirmed
	ConfirmedCostCur  string
	ConfirmedAt       *time.Time
	Words             string // the marketplace's, of a refusal
	WordsField        string
}

// States of a listing, design/product.md.
const (
	ListingUnpriced = "unpriced"
	ListingReady    = "ready"
	ListingSent     = "sent"
	ListingLive     = "live"
	ListingRefused  = "refused"
	ListingPaused   = "paused" // priced, and nothing to offer
)

// PriceRule is what a seller wants of prices. The first that fits holds.
type PriceRule struct {
	ID        int64
	SiteID    int64 `gorm:"index;not null"`
	Position  int64
	Name      string
	Fits      string // JSON of app.Fits; "" in the last, which holds for all the rest
	Wish      string // JSON of app.Rule
	UpdatedAt time.Time
}

// ExchangeRate is selling currency per unit of the supplier's, with its day.
type ExchangeRate struct {
	ID   int64
	From string `gorm:"column:from_currency;uniqueIndex:exchange_rate_pair,priority:1"`
	To   string `gorm:"column:to_currency;uniqueIndex:exchange_rate_pair,priority:2"`
	Rate int64  // billionths
	Day  string // YYYY-MM-DD
	Way  string // typed, file, fetched
}

// Setting is one thing set for the whole shop.
type Setting struct {
	Key   string `gorm:"primaryKey"`
	Value string
}

// RatesAddress is the setting that says where exchange rates are fetched from.
const RatesAddress = "rates_address"

// Plan is what should change on one site, worked out at one moment.
type Plan struct {
	ID     int64
	SiteID int64 `gorm:"index;not null"`
	MadeAt time.Time
	Cause  string
	Open   bool `gorm:"index"` // the newest of its site; older ones are overtaken
}

// PlanLine is one change to one listing.
type PlanLine struct {
	ID         int64
	PlanID     int64 `gorm:"index;not null"`
	ListingID  int64 `gorm:"index;not null"`
	Kind       string
	FromPrice  *int64
	ToPrice    *int64
	FromQty    *int64
	ToQty      *int64
	ProfitWas  *int64
	ProfitNew  *int64
	Landed     *int64
	Cost       *int64 // the supplier's, in CostCur
	CostCur    string
	Currency   string
	Reasons    []string `gorm:"serializer:json"`
	Verdict    string
	VerdictWhy string
	State      string `gorm:"index"` // waiting, sent
}

// SendOut is one batch sent to a marketplace.
type SendOut struct {
	ID        int64
	SiteID    int64 `gorm:"index;not null"`
	PlanID    *int64
	Key       string `gorm:"uniqueIndex;not null"` // by which the marketplace knows the batch
	Batch     string // the marketplace's name for it
	State     string `gorm:"index;not null"`
	Tries     int64
	Error     string
	CreatedAt time.Time
	SentAt    *time.Time
	DoneAt    *time.Time
}

// States of a send-out and of its lines.
const (
	SendWaiting   = "waiting"
	SendSent      = "sent"
	SendDone      = "done"
	SendConfirmed = "confirmed"
	SendRefused   = "refused"
	SendGivenUp   = "given up"
)

// SendLine is one listing's part of a send-out.
type SendLine struct {
	ID         int64
	SendOutID  int64 `gorm:"index;not null"`
	ListingID  int64 `gorm:"index;not null"`
	PlanLineID *int64
	Key        string `gorm:"uniqueIndex;not null"` // by which the marketplace knows the line
	Price      *int64
	Quantity   *int64
	Cost       *int64 // the supplier's, that the price was worked out from
	CostCur    string
	State      string `gorm:"index;not null"`
	Words      string
	Field      string
	AnsweredAt *time.Time
}

// Run is work in the background.
type Run struct {
	ID        int64
	Kind      string `gorm:"not null"`
	Title     string
	Subject   int64  // of what Kind says: a feed, a send-out
	State     string `gorm:"index;not null"`
	Done      int64
	Total     int64
	Note      string
	Error     string
	CreatedAt time.Time
	StartedAt *time.Time
	EndedAt   *time.Time
}

// Audit is who did what, when.
type Audit struct {
	ID      int64
	At      time.Time
	What    string
	Subject string
	Detail  string
}

// Answered is the answer already given to a write, by its idempotency key.
type Answered struct {
	Key    string `gorm:"primaryKey"`
	Path   string
	Status int
	Type   string
	Body   []byte
	At     time.Time
}

var tables = []any{&Supplier{}, &Source{}, &Feed{}, &SetAside{}, &SupplierProduct{}, &SupplierChange{}, &Find{}, &SearchMark{}, &Picture{}, &PictureUse{}, &Product{}, &Family{}, &SupplyLink{},
	&Marketplace{}, &Site{}, &Category{}, &FeeSchedule{}, &Entry{}, &Match{}, &Listing{}, &PriceRule{}, &ExchangeRate{}, &Setting{},
	&Plan{}, &PlanLine{}, &SendOut{}, &SendLine{}, &Run{}, &Audit{}, &Answered{}}
