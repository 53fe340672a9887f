package store

import (
	"time"

	"easymargin/core/supply"
)

// The models are the rows of migrations/; docs/data.md draws them. Amounts are
// minor units with their currency in the same row or its site.

// Supplier is who sells to us.
type Supplier struct {
	ID        int64
	Name      string
	CreatedAt time.Time
}

// SupplierTerm is what a supplier asks for delivering, in one currency.
type SupplierTerm struct {
	SupplierID int64  `gorm:"primaryKey;autoIncrement:false"`
	Currency   string `gorm:"primaryKey"`
	Charge     int64  // for one order
	FreeFrom   *int64 // order value from which delivery is free; nil: never
	Duty       int64  // millionths, of goods and delivery
	Days       int64  // working days they take
	Least      int64  // that one purchase may be: less is topped up
	Mail       string // where orders are sent
}

// Source is a way a supplier's products reach us.
type Source struct {
	ID         int64
	SupplierID int64
	Supplier   Supplier
	Name       string
	Kind       string // file, address, folder, page
	Mode       string // full, update
	Address    string // where to fetch from, or the folder to watch
	Currency   string
	Reading    string   // JSON of feed.Settings, as a person chose
	Needed     []string `gorm:"serializer:list"` // columns the last feed was read by
	Guards     string   // JSON of supply.Guards; "" for the defaults
	Every      int64    // minutes between two looks at the address or folder; 0: only when asked
	LookUp     bool     // new products are looked up on every site by themselves
	Username   string
	Password   string // sealed, see store.Seal
	ETag       string
	Modified   string
	LastRows   int64  // rows of the last taken full feed
	LastFeedID *int64 // the feed taken last
	Marks      string // tag of the file with its products' digests, see marks.go
	Stale      bool   // its listings were worked out as of a source gone silent
	Rhythm     int64  // the usual seconds between two feeds; 0: too few came to tell
	Quiet      bool   // its silence was told, and its stock still counts
	// CostTax is the tax that is in its costs and their delivery, millionths; 0: none.
	CostTax     int64
	CostTaxBack bool  // the seller gets that tax back
	CostsUnsaid bool  // nobody has said yet what delivery they charge and whether there is tax in their costs
	Version     int64 `gorm:"default:1"`
	TriedAt     *time.Time
	TakenAt     *time.Time
	HeardAt     *time.Time // when a feed was taken, or its address had nothing new
	CreatedAt   time.Time
}

// Feed is one delivery of a source. While it is only looked at it may have no source yet.
type Feed struct {
	ID         int64
	SourceID   *int64
	Source     *Source
	Name       string // file name or address
	File       string // name in the data folder's inbox; "" once it is tidied away
	Bytes      int64
	Digest     string // SHA-256 of the file
	State      string // looked, reading, taken, held, failed, discarded, same
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
	FeedID   int64
	Row      int
	Cells    []string         `gorm:"serializer:list"` // in the order of the feed's columns
	Problems []supply.Problem `gorm:"serializer:list"`
	MendedBy *int64           // the feed that took it, mended
}

// SupplierProduct is one row of a supplier as last taken.
type SupplierProduct struct {
	ID            int64
	SourceID      int64
	Ref           string
	RefHash       int64 // supply.RefHash, by which a feed finds its rows
	GTIN          string
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
	Missing       int64  // accepted full feeds it was missing from, in a row
	FirstFeedID   *int64 // nil only where a row was made otherwise
	ChangedFeedID *int64
}

// SupplierChange is one field that one feed changed; cost and stock history are read from it.
type SupplierChange struct {
	ID                int64
	SupplierProductID int64
	FeedID            int64
	Field             string
	Before            string
	After             string
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
	URL     string
	State   string // waiting, kept, failed
	Digest  string // SHA-256
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
	PictureID         int64
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

// Family is one product of ours with variants. Each variant is a product of its
// own, with its own cost, stock and listings.
type Family struct {
	ID    int64
	Title string
}

// FamilyGroup is a supplier's group of rows that are variants of a family.
type FamilyGroup struct {
	SourceID int64  `gorm:"primaryKey;autoIncrement:false"`
	Group    string `gorm:"column:group_ref;primaryKey"`
	FamilyID int64
}

// Product is what we sell.
type Product struct {
	ID        int64
	SKU       string
	GTIN      string
	Title     string
	Brand     string
	Picture   string
	FamilyID  *int64 // nil: no variant of anything
	Variant   string // what sets it apart in its family, such as "moss, M"
	CreatedAt time.Time
}

// SupplyLink ties a product to a supplier product.
type SupplyLink struct {
	ID                int64
	ProductID         int64
	SupplierProductID int64
	UnitsBought       int64  // single units in the supplier's item
	Doubt             string // why nothing may be sold from it just now; "" for none
}

// Marketplace is a place where we sell, reached through its gateway.
type Marketplace struct {
	ID      int64
	Name    string
	Address string // of the gateway; "" where it has none, and is known by its files
}

// PlaceFile is a file that a place without a gateway lets sellers download.
type PlaceFile struct {
	ID         int64
	SiteID     int64
	Kind       string // catalogue, listings
	Name       string
	File       string // in the data folder's inbox; "" once it is tidied away
	Digest     string // SHA-256
	Look       string // JSON of feed.Look
	Columns    string // JSON: column → what it is read as
	State      string // looked, taken, failed
	Rows       int64
	New        int64
	Changed    int64
	Same       int64
	Aside      int64
	Untied     int64
	Error      string
	ReceivedAt time.Time
	TakenAt    *time.Time
}

// Kinds of a place's file, and its states.
const (
	FileCatalogue = "catalogue"
	FileListings  = "listings"
	FileLooked    = "looked"
	FileTaken     = "taken"
	FileFailed    = "failed"
)

// Site is one country of a marketplace.
type Site struct {
	ID            int64
	MarketplaceID int64
	Marketplace   Marketplace
	Code          string
	Name          string
	Currency      string
	TaxWay        string
	TaxRate       int64      // millionths
	Charged       int64      // what the buyer pays for delivery
	Outbound      int64      // what we pay to send one
	TermsUnsaid   bool       // nobody has said either yet
	TaxRates      string     // JSON of pricing.TaxRates; "": TaxRate holds for all
	Postage       string     // JSON of reckon.Postage: bands in the place of either; "": none
	Handling      int64      // our own work for each unit
	Cushion       int64      // millionths, put on costs in another currency
	Allowances    string     // JSON of []pricing.Allowance
	Kind          string     // catalogue, own listings, sheet, shop
	Lists         bool       // whether we list there; the others are only known
	MaxLines      int64      // lines of a batch
	LeastPicture  int64      // pixels that the longer side of a picture must have
	NoMarks       bool       // captions and marks on pictures are forbidden
	BatchHours    int64      `gorm:"default:6"` // after which a person is told that a batch was never finished
	Guards        string     // JSON of reckon.Follow; "" for the defaults
	Runs          string     `gorm:"default:by hand"` // by hand, alone
	ActsFrom      *time.Time // until then it only says what it would send by itself
	QuietFrom     int64      // minute of the day from when prices aren't sent by themselves
	QuietTo       int64      // and until when; the same: no such hours
	MostAtOnce    int64      // more changes than that wait for a person; 0: any number
	MostADay      int64      // so many go by themselves in 24 hours; 0: any number
	Accepts       bool       `gorm:"default:1"` // certain matches are accepted by themselves
	Version       int64      `gorm:"default:1"`
	FeesAt        *time.Time
	OrdersCursor  string     // where reading its orders goes on
	OrdersAt      *time.Time // when they were read last
}

// Category is one category of a site.
type Category struct {
	ID     int64
	SiteID int64
	Ref    string
	Parent string
	Name   string

	NeedsLeave bool // to sell there takes leave of the place
}

// FeeSchedule is the fees of a category from a day on; Category "" is every other's.
type FeeSchedule struct {
	ID        int64
	SiteID    int64
	Category  string
	StartsOn  string // YYYY-MM-DD
	Fees      string // JSON of []pricing.Fee
	Warehouse string // JSON of pricing.Warehouse; "" where it has none of its own
	ByHand    bool   // typed or from a file: reading the gateway's again leaves it
	Version   int64  `gorm:"default:1"`
}

// Entry is a product page of a marketplace's catalogue, as last seen.
type Entry struct {
	ID       int64
	SiteID   int64
	Ref      string
	GTIN     string
	Title    string
	Brand    string
	Category string
	Picture  string
	Page     string // its public address
	Units    int64  // how many it sells as one; 0 where it doesn't say
	Offers   string // JSON of []place.Offer, as last read
	OffersAt *time.Time
	SeenAt   time.Time

	GTINs      []string `gorm:"column:gtins;serializer:list"` // further numbers
	MPN        string   `gorm:"column:mpn"`
	Colour     string
	Size       string
	Material   string
	Closed     bool   // it may not be copied
	NeedsLeave bool   // as the place says; see Leave
	Rating     *int64 // hundredths of a star
	Ratings    *int64
	Rank       *int64 // place among the best sold of its category
}

// Match is the decision which entry a supplier product is, on one site.
type Match struct {
	ID                int64
	SupplierProductID int64
	SiteID            int64
	State             string // one of those below
	EntryID           *int64
	Candidates        string // JSON list of refs, the likeliest first
	DecidedBy         string // lookup, or who decided
	DecidedAt         time.Time
	Verdict           string // core/match's
	UnitsBought       int64  // single units in the supplier's item, as decided; 0 unknown
	UnitsListed       int64  // single units in what the entry sells, as decided; 0 unknown
	Basis             string // JSON of what it was decided on
	Note              string // what changed since, or why it asks
	Recheck           bool   // the supplier's row changed: to be weighed again
}

// States of a match.
const (
	MatchMade     = "matched"
	MatchCertain  = "certain"     // waits to be accepted with the others
	MatchSeveral  = "several"     // a person chooses
	MatchNone     = "none"        // nothing worth accepting was found
	MatchBarred   = "not allowed" // the entry may not be copied, or needs leave
	MatchNewEntry = "new entry"
	MatchLater    = "later"
	MatchAsked    = "asked"    // to be looked up, on a person's word
	MatchToWeigh  = "to weigh" // the same, to be weighed alone
	MatchWeighed  = "weighed"  // looked up for that: nobody has asked to list it, so that it waits on no desk
)

// LookUp is what a place answered when it was asked for a number or for words.
type LookUp struct {
	SiteID   int64    `gorm:"primaryKey;autoIncrement:false"`
	Asked    string   `gorm:"primaryKey"` // 14 digits, or "words: …"
	Refs     []string `gorm:"serializer:list"`
	LookedAt time.Time
}

// Leave is a site's leave to sell in a category.
type Leave struct {
	SiteID   int64  `gorm:"primaryKey;autoIncrement:false"`
	Category string `gorm:"primaryKey"`
	State    string // asked, given
	NotedAt  time.Time
	NotedBy  string
}

// States of a leave.
const (
	LeaveAsked = "asked"
	LeaveGiven = "given"
)

// PoolNumber is a number that the seller bought, to be handed out once.
type PoolNumber struct {
	GTIN    string `gorm:"column:gtin;primaryKey"`
	AddedAt time.Time
	MatchID *int64 // what it was handed out for
	TakenAt *time.Time
}

// Weighing is what a supplier product would make on a site. Amounts are minor
// units of the site's currency, shares millionths; nil is not known.
type Weighing struct {
	ID                int64
	SiteID            int64
	SupplierProductID int64
	MatchID           int64
	EntryID           *int64
	Landed            *int64
	Stock             *int64
	Lowest            *int64 // the lowest total that others ask
	Leading           *int64
	Sellers           *int64
	Rating            *int64 // hundredths of a star
	Rank              *int64
	ProfitLowest      *int64
	MarginLowest      *int64
	ReturnLowest      *int64
	ProfitLeading     *int64
	PriceRule         *int64 // by the rule that would hold
	ProfitRule        *int64
	PriceAim          *int64 // that the rule's aim needs
	Above             *int64 // by how much that is over the lowest
	Weight            *int64 // grams
	TiesUp            *int64 // what must be bought to sell one, minor units
	BestSupplier      bool   // none has it on the same entry for less
	BestSite          bool   // nowhere else is its return higher
	UnitsSold         int64  `gorm:"default:0"` // on the site, of late
	Ours              bool
	Certain           bool // that it is the same thing as the entry
	Dropped           bool
	Brand             string
	Category          string
	Supplier          string
	MarketAt          *time.Time // when what others ask was read
	WeighedAt         time.Time
}

// MarketPoint is what others asked on an entry from a moment on: totals, minor
// units; nil where nobody asked.
type MarketPoint struct {
	ID      int64
	EntryID int64
	At      time.Time
	Lowest  *int64
	Leading *int64
	Sellers int64
}

// Drop is a supplier product that a person doesn't want to see on Weigh again.
type Drop struct {
	SupplierProductID int64 `gorm:"primaryKey;autoIncrement:false"`
	Reason            string
	DroppedAt         time.Time
	DroppedBy         string
}

// Sieve is conditions on facts, named and kept.
type Sieve struct {
	ID      int64
	Name    string
	Text    string // JSON, core/sieve
	Sort    string
	Down    bool
	Columns []string `gorm:"serializer:list"`
	Version int64    `gorm:"default:1"`
}

// WebLookUp is a web address that a seller looks things up at.
type WebLookUp struct {
	ID      int64
	Name    string
	Address string
}

// GivenSKU is a SKU that was given once, and never is again.
type GivenSKU struct {
	SKU string `gorm:"column:sku;primaryKey"`
}

// TableName implements gorm's Tabler.
func (GivenSKU) TableName() string { return "given_skus" }

// Listing is our product on one site, under a SKU of its own there: what is
// wanted, what was worked out, what was confirmed.
type Listing struct {
	ID           int64
	SiteID       int64
	SKU          string
	ProductID    int64
	EntryID      *int64 // nil: a listing of our own
	Category     string // ref
	Units        int64  // single units in what is listed
	SupplyLinkID *int64 // the supplier it is worked out from now
	State        string
	Currency     string
	Version      int64 `gorm:"default:1"` // of what is wanted

	Unwanted   bool   // the seller chose not to sell it on this site
	Hidden     bool   // and this, not to show it just now
	ShownFrom  string // YYYY-MM-DD: nothing is offered before; "": from ever
	ShownUntil string // nothing is offered after that day; "": for ever
	OwnRule    string // JSON of a rule, in place of the list's
	FixedPrice *int64 // by hand; stays until released
	Former     *int64 // shown crossed out
	Warehouse  bool   // kept and sent by the marketplace's warehouse

	Price     *int64 // what should be asked
	Quantity  int64  // what should be offered
	Cost      *int64 // the supplier's, in CostCur, that the price was worked out from
	CostCur   string
	Landed    *int64
	Fees      *int64 // all fees, their tax and the allowances, of Price
	Tax       *int64
	Outbound  *int64 // sending one, less what the buyer pays for it
	Profit    *int64
	Floor     *int64
	BreakEven *int64
	Bound     string
	RuleID    *int64 // the rule that holds
	Why       string // why there is no price, or none is offered

	ConfirmedPrice    *int64
	ConfirmedQuantity int64
	ConfirmedCost     *int64 // the supplier's, that the confirmed price was worked out from
	ConfirmedCostCur  string
	ConfirmedLanded   *int64
	ConfirmedAt       *time.Time
	Words             string // the marketplace's, of a refusal
	WordsField        string

	BackPrice    *int64 // a move to it was taken back: the same again is held
	BackQuantity *int64
	SeenAt       *time.Time // since when it was seen on its site; nil: taken at the most
	Differs      bool       // what was read back isn't what was confirmed, and nobody has decided on it
}

// How what may go is sent.
const (
	ByHand = "by hand"
	Alone  = "alone"
)

// States of a listing; docs/words.md says what each means.
const (
	ListingUnpriced   = "unpriced"
	ListingIncomplete = "incomplete" // one of our own that lacks something its category needs
	ListingReady      = "ready"
	ListingSent       = "sent"
	ListingLive       = "live"
	ListingRefused    = "refused"
	ListingPaused     = "paused"  // priced, and nothing to offer
	ListingUnknown    = "unknown" // sent, and nobody told what became of it
)

// Dirty marks a listing that something changed for since it was worked out.
type Dirty struct {
	ListingID int64 `gorm:"primaryKey;autoIncrement:false"`
	SiteID    int64
	Urgent    bool // its supplier has none left: first of all
}

// PriceRule is what a seller wants of prices. The first that fits holds.
type PriceRule struct {
	ID        int64
	SiteID    int64
	Position  int64
	Name      string
	Fits      string     // JSON of pricing.Fits as written; "" in the last, which holds for all the rest
	Wish      string     // JSON of the rule as written
	SieveID   *int64     // which products must go through it besides
	Follows   string     // JSON of reckon.Follow: what it sets otherwise than its site
	Runs      string     // by hand, alone; "" as its site
	ActsFrom  *time.Time // until then it only says what it would send by itself
	Version   int64      `gorm:"default:1"`
	UpdatedAt time.Time
}

// ExchangeRate is selling currency per unit of the supplier's, with its day.
type ExchangeRate struct {
	ID   int64
	From string `gorm:"column:from_currency"`
	To   string `gorm:"column:to_currency"`
	Rate int64  // billionths
	Day  string // YYYY-MM-DD
	Way  string // typed, file, fetched
}

// Setting is one thing set for the whole shop.
type Setting struct {
	Key     string `gorm:"primaryKey"`
	Value   string
	Version int64 `gorm:"default:1"`
}

// RatesAddress is the setting that says where exchange rates are fetched from.
const RatesAddress = "rates_address"

// PricedDay is the setting that says on which day everything was worked out last.
const PricedDay = "priced_day"

// Plan is what should change on one site.
type Plan struct {
	ID     int64
	SiteID int64
	MadeAt time.Time // when a line of it was last worked out
}

// PlanLine is one change to one listing.
type PlanLine struct {
	ID         int64
	PlanID     int64
	ListingID  int64
	Kind       string
	FromPrice  *int64
	ToPrice    *int64
	FromQty    *int64
	ToQty      *int64
	ProfitWas  *int64
	ProfitNew  *int64
	Cost       *int64 // the supplier's, in CostCur, that it was worked out from
	CostCur    string
	Landed     *int64
	Currency   string
	Reasons    []string `gorm:"serializer:list"`
	Verdict    string
	VerdictWhy string
	State      string // waiting, sent
	Rule       string // the price rule that holds, by name
	Place      int64  // in the order they go out, see PlaceOf
	OnSale     int64  // what is on sale in its listing, at its price
	Gain       int64  // what one sale earns more than without the change
	Rival      bool   // it goes because somebody asks less than we do
}

// States of a plan line.
const (
	PlanWaiting = "waiting"
	PlanSent    = "sent"
)

// SendOut is one batch sent to a marketplace.
type SendOut struct {
	ID        int64
	SiteID    int64
	PlanID    *int64
	Key       string // by which the marketplace knows the batch
	Batch     string // the marketplace's name for it
	State     string // waiting, sent, done
	Urgent    bool   // stock to nothing, and nothing else
	Perhaps   bool   // it may have been handed over, and nobody told
	Tries     int64
	Error     string
	Sender    string     // who let it go
	Alone     bool       // a rule that a person wrote did
	Undoes    *int64     // the send-out that it takes back
	AgainAt   *time.Time // not before; from when on it is tried again by itself
	Paused    bool       // a person holds it back
	CreatedAt time.Time
	SentAt    *time.Time
	OverdueAt *time.Time // from when on a person is told that it was never finished
	DoneAt    *time.Time
}

// States of a send-out and of its lines.
const (
	SendWaiting   = "waiting" // not handed over
	SendSent      = "sent"    // handed over, not answered
	SendDone      = "done"
	SendConfirmed = "confirmed"
	SendRefused   = "refused"
	SendGivenUp   = "given up"
	SendUnknown   = "unknown"   // perhaps handed over, and nobody told what became of it
	SendWithdrawn = "withdrawn" // taken back before it was handed over: a newer change overtook it
)

// SendLine is one listing's part of a send-out.
type SendLine struct {
	ID         int64
	SendOutID  int64
	ListingID  int64
	PlanLineID *int64
	Key        string // by which the marketplace knows the line
	Was        string // the listing's state before
	Price      *int64
	Quantity   *int64
	Cost       *int64 // the supplier's, in CostCur, that the price was worked out from
	CostCur    string
	Landed     *int64
	Quote      string // JSON: the lines of the price as it was handed over
	State      string
	Words      string
	Field      string
	Later      string // what was said of it after it had been answered otherwise
	Does       string // DoesChange: it changes words and pictures, and nothing else
	Content    string // JSON of place.Content, whole, as of the handing over
	HandedAt   *time.Time
	AnsweredAt *time.Time
}

// DoesChange is what a line does that changes the words of a listing on sale.
const DoesChange = "change"

// Reading is a time at which a site's listings are to be read back.
type Reading struct {
	ID     int64
	SiteID int64
	DueAt  time.Time
}

// Untied is an offer that is on sale there and tied to nothing of ours.
type Untied struct {
	SiteID   int64  `gorm:"primaryKey;autoIncrement:false"`
	SKU      string `gorm:"primaryKey"`
	EntryRef string
	Price    *int64
	Quantity int64
	SeenAt   time.Time
	Title    string
	GTIN     string `gorm:"column:gtin"`
	Brand    string
	MPN      string `gorm:"column:mpn"`
}

// Shadow is what a rule in its first week would have sent.
type Shadow struct {
	ID        int64
	SiteID    int64
	ListingID int64
	Rule      string
	Kind      string
	FromPrice *int64
	ToPrice   *int64
	FromQty   *int64
	ToQty     *int64
	Reasons   []string `gorm:"serializer:list"`
	At        time.Time
}

// Difference is a listing that was read back and wasn't what was confirmed.
type Difference struct {
	ID            int64
	SiteID        int64
	ListingID     int64
	Kind          string // changed, ended, never live
	OurPrice      *int64
	OurQuantity   int64
	TheirPrice    *int64
	TheirQuantity int64
	SeenAt        time.Time
	State         string `gorm:"default:open"`
	DecidedAt     *time.Time
	DecidedBy     string
}

// Kinds of a difference, and its states.
const (
	DifferChanged  = "changed"
	DifferEnded    = "ended"
	DifferNever    = "never live" // taken by the place, and never seen there
	DifferOpen     = "open"
	DifferAccepted = "accepted" // theirs holds
	DifferOurs     = "ours"     // ours is sent again, or is there again
)

// Watch is a condition on a number that somebody wants to be told of.
type Watch struct {
	ID         int64
	Name       string
	Ready      string // the name of a ready-made one; "" of one on a number
	Number     string
	Test       string // below, above, moved
	Value      int64  // as the number has it: minor units, millionths, counts, hours
	SiteID     *int64
	ProductID  *int64
	SieveID    *int64
	Once       bool
	Mail       bool
	Active     bool `gorm:"default:1"`
	QuietUntil *time.Time
	LookedAt   *time.Time
	FiredAt    *time.Time
	Version    int64 `gorm:"default:1"`
}

// WatchValue is what a watch saw last of one thing.
type WatchValue struct {
	WatchID int64  `gorm:"primaryKey;autoIncrement:false"`
	Key     string `gorm:"primaryKey"`
	Value   *int64
	Holds   bool
}

// WatchHit is a time that a watch was set off.
type WatchHit struct {
	ID        int64
	WatchID   int64
	ListingID *int64
	Words     string
	Link      string
	Currency  string // of the values, where they are amounts
	Before    *int64
	After     *int64
	At        time.Time
	MailID    *int64
	Seen      bool
}

// Mail is a mail to be sent, or sent.
type Mail struct {
	ID        int64
	Recipient string
	Subject   string
	Body      string
	About     string // what asked for it, see AboutPurchase and AboutShopOrder; "": what is watched
	MadeAt    time.Time
	SentAt    *time.Time
	RefusedAt *time.Time // it was refused, for the reason in Error, and isn't tried again
	Tries     int64
	Error     string
}

// Run is work in the background.
type Run struct {
	ID        int64
	Kind      string
	Lane      string // runs of one lane follow one another
	Title     string
	Subject   int64 // of what Kind says: a feed, a send-out
	State     string
	Urgent    bool // before all others of its lane
	Once      bool // no second one of its kind and subject waits
	Actor     string
	Done      int64
	Total     int64
	Tries     int64
	Falls     int64 // how often the program ended by its own doing while it went on
	Note      string
	Error     string
	Due       int64 // not before, Unix milliseconds; 0: at once
	CreatedAt time.Time
	StartedAt *time.Time
	EndedAt   *time.Time
}

// States of a run.
const (
	RunQueued  = "queued"
	RunRunning = "running"
	RunDone    = "done"
	RunFailed  = "failed"
	RunStopped = "stopped"
	RunAside   = "set aside" // the program fell twice while it went on: it waits for a person
)

// mostFalls is how often the program may fall while a run goes on before it is set aside.
const mostFalls = 2

// Over tells whether nothing more will come of the run.
func (r *Run) Over() bool { return r.State != RunQueued && r.State != RunRunning }

// Audit is who did what, when.
type Audit struct {
	ID      int64
	At      time.Time
	Actor   string
	What    string
	Subject string
	Detail  string
}

// Answer is the answer already given to a write, by who sent it and its
// idempotency key.
type Answer struct {
	Actor  string `gorm:"primaryKey"`
	Key    string `gorm:"primaryKey"`
	Digest string // of the request: method, address, body
	Status int
	Type   string
	Body   []byte
	At     time.Time
}

// Role is a set of rights that the owner gave a name; see actor.Presets for the others.
type Role struct {
	ID      int64
	Version int64 `gorm:"default:1"`
	Name    string
	Rights  []string `gorm:"serializer:json"`
}

// Person is somebody who works here.
type Person struct {
	ID       int64
	Version  int64 `gorm:"default:1"`
	Name     string
	Role     string // its name
	Password string // argon2id; "": none of their own
	Code     string // secret of one-time codes, sealed; "": none
	CodeOn   bool   // asked for at the log-in
	CodeStep int64  // of the last code that was used
	Active   bool   `gorm:"default:true"`
	SeenAt   *time.Time
}

// Token lets scripts in, as somebody and for no more than its scope.
type Token struct {
	ID       int64
	PersonID int64
	Name     string
	Scope    string // the name of a role
	Digest   string // SHA-256 of the token
	MadeAt   time.Time
	SeenAt   *time.Time
	EndsAt   *time.Time // none: never
}

// Session is somebody who has logged in.
type Session struct {
	ID       int64
	Digest   string // SHA-256 of the cookie's token
	PersonID int64
	Browser  string // as it calls itself
	MadeAt   time.Time
	SeenAt   time.Time
}

// SiteFee is what a place's statement says that it kept for no order.
type SiteFee struct {
	ID     int64
	SiteID int64
	Key    string // what the row says, SHA-256, and which of its like it is
	Kind   string // as the place calls it
	Day    string // YYYY-MM-DD
	Amount int64  // minor units of the site's currency; below 0: given back
	At     time.Time
}

// FeeRow is what a place's statement says that it kept of a line of an order.
type FeeRow struct {
	ID          int64
	SiteID      int64
	OrderLineID int64
	Key         string
	Kind        string // as the place calls it
	Amount      int64  // kept, minor units of the order's currency; below 0: given back
	At          time.Time
}

// ShopListing is something on the own shop's shelves.
type ShopListing struct {
	ID        int64
	SiteID    int64
	SKU       string `gorm:"column:sku"`
	Title     string
	Category  string
	Price     int64 // minor units, as the buyer pays it
	Quantity  int64
	Family    string // joins variants; "": none
	Picture   string // digest of the leading one; "": none
	Content   string // JSON of place.Content
	Words     string // what it is found by
	ChangedAt time.Time
}

// ShopBasket is what a visitor of the own shop wants.
type ShopBasket struct {
	Token   string `gorm:"primaryKey"` // SHA-256 of the cookie's
	SiteID  int64
	Content string // JSON
	SeenAt  time.Time
}

// ShopOrder is what was sold in the own shop, as the shop has it.
type ShopOrder struct {
	ID       int64
	SiteID   int64
	Ref      string
	Basket   string
	Key      string // SHA-256 of what opens its page
	Seq      int64
	PlacedAt time.Time
	Currency string
	Total    int64
	Buyer    string // JSON of place.Buyer; "": forgotten
	Lines    string // JSON of shop lines
}

// Device is a browser that somebody logged in with before.
type Device struct {
	Digest   string `gorm:"primaryKey"`
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	SeenAt   time.Time
}

// models are all tables that have one, for the test that compares them with the migrations.
var models = []any{
	&Supplier{},
	&SupplierTerm{},
	&Source{},
	&Feed{},
	&SetAside{},
	&SupplierProduct{},
	&SupplierChange{},
	&Find{},
	&Picture{},
	&PictureUse{},
	&SearchMark{},
	&Family{},
	&FamilyGroup{},
	&Product{},
	&SupplyLink{},
	&Marketplace{},
	&Site{},
	&Category{},
	&FeeSchedule{},
	&Entry{},
	&Match{},
	&LookUp{},
	&PlaceFile{},
	&Leave{},
	&PoolNumber{},
	&GivenSKU{},
	&Weighing{},
	&MarketPoint{},
	&Drop{},
	&Sieve{},
	&WebLookUp{},
	&Listing{},
	&Dirty{},
	&PriceRule{},
	&ExchangeRate{},
	&Setting{},
	&Plan{},
	&PlanLine{},
	&SendOut{},
	&SendLine{},
	&Reading{},
	&Untied{},
	&Shadow{},
	&Difference{},
	&Watch{},
	&WatchValue{},
	&WatchHit{},
	&Mail{},
	&LightFile{},
	&Order{},
	&OrderLine{},
	&Buying{},
	&Run{},
	&Audit{},
	&Answer{},
	&FeeRow{},
	&SiteFee{},
	&SecondSupply{},
	&ShopListing{},
	&ShopBasket{},
	&ShopOrder{},
	&Person{},
	&Token{},
	&Session{},
	&Device{},
}

// Wish is what is to be done with the one row of a feed that a person typed in,
// once it is taken.
type Wish struct {
	FeedID int64  `gorm:"primaryKey;autoIncrement:false"`
	Wish   string // JSON
}

// Order is something that was sold.
type Order struct {
	ID       int64
	Version  int64 `gorm:"default:1"`
	SiteID   int64
	Ref      string // the place's
	Origin   string
	PlacedAt time.Time
	SeenAt   time.Time // when it was read first
	Currency string
	Buyer    string // JSON of place.Buyer; "": forgotten, or never known
	Country  string // ISO 3166-1
}

// Where orders come from.
const (
	OrderGateway = "gateway"
	OrderFile    = "file"
	OrderTyped   = "typed"
	OrderShop    = "shop" // the own one: it is here at once
)

// OrderLine is one listing's part of an order; amounts are minor units of the
// order's currency, for the whole line but for the price.
type OrderLine struct {
	ID                int64
	OrderID           int64
	Ref               string
	SKU               string `gorm:"column:sku"`
	Title             string
	ListingID         *int64 // none: something we don't know
	Quantity          int64
	Price             int64 // of one
	Delivery          int64 // that the buyer paid
	Tax               *int64
	Fees              *int64
	Refunded          int64 // of goods and delivery
	RefundedDelivery  int64 // of it, of delivery
	TaxIncluded       bool  // price and delivery have tax in them
	TaxRate           int64 // money.Rate
	State             string
	Problem           string // why a person must look at it
	Units             int64  `gorm:"default:1"` // single units in one that is listed
	SupplierProductID *int64 // that it is, or is to be, had from
	UnitsBought       int64  `gorm:"default:1"` // single units in an item of that
	Promised          bool   // its units aren't missing from a feed of its supplier yet
	Expected          string // JSON: the lines of its price as they were when it came
	ExpectedCost      *int64 // of its goods, landed
	ExpectedProfit    *int64
	Cost              *int64 // of its goods, as the supplier asked
	Sending           *int64 // what sending it to the buyer cost
	Carrier           string
	Tracking          string
	BoughtAt          *time.Time
	SentAt            *time.Time
	EndedAt           *time.Time
	Told              string // JSON: what the place is to be told and wasn't yet, the first first
}

// States of an order's line.
const (
	LineNew       = "new"
	LineBought    = "bought"
	LineSent      = "sent"
	LineDone      = "done"
	LineCancelled = "cancelled"
	LineReturned  = "returned"
)

// Buying is what was bought of a supplier in one go, in minor units of Currency.
type Buying struct {
	ID         int64
	SupplierID int64
	Ref        string // ours, that the supplier is given
	Currency   string
	Goods      int64
	Delivery   int64
	ToppedUp   int64
	Actor      string
	MadeAt     time.Time
	MailedAt   *time.Time
	ArrivedAt  *time.Time
}

// TableName implements gorm's Tabler.
func (Buying) TableName() string { return "purchases" }
