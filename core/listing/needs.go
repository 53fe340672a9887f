// Package listing checks what we say of a product against what a marketplace
// asks for in one category, and makes titles from parts. It follows
// docs/definitions/listing.md, sections 1 and 2: the same code checks in the editor, in
// the grid, before sending and in sheets.
package listing

// Needs is what a site asks for in one category, as docs/definitions/listing.md, section
// 1, writes it in JSON. A part that is nil asks for nothing.
type Needs struct {
	Category    string       `json:"category,omitempty"`
	Title       *Title       `json:"title,omitempty"`
	Description *Description `json:"description,omitempty"`
	Attributes  []Attribute  `json:"attributes,omitempty"`
	Pictures    *Pictures    `json:"pictures,omitempty"`
	Package     *Package     `json:"package,omitempty"`
	Number      string       `json:"number,omitempty"` // Needed, NeededAlone, Helps or ""
	Brand       *Brand       `json:"brand,omitempty"`
	Words       *Words       `json:"words,omitempty"`
	Price       *Price       `json:"price,omitempty"`
	Former      *Former      `json:"former,omitempty"`
}

// How much something is asked for.
const (
	Needed      = "needed"
	NeededAlone = "needed without entry" // needed where no catalogue entry was found
	Helps       = "helps"
)

// How the length of a text is counted, of its NFC form.
const (
	Characters = "characters" // code points
	Bytes      = "bytes"      // of UTF-8
	UTF16      = "utf16"      // units of UTF-16
)

// Title is how a title is made and how long it may be.
type Title struct {
	Limit        *int64   `json:"limit,omitempty"`
	Counts       string   `json:"counts,omitempty"`
	Parts        []string `json:"parts,omitempty"`
	FirstToGo    []string `json:"first_to_go,omitempty"`
	NumbersFirst bool     `json:"numbers_first,omitempty"`
	RepeatWords  bool     `json:"repeat_words,omitempty"`
	Forbidden    []string `json:"forbidden,omitempty"`
}

// Description is how long a description may be, without its tags, and which
// tags it may have; none where HTML is left out.
type Description struct {
	Least  int64    `json:"least,omitempty"`
	Limit  *int64   `json:"limit,omitempty"`
	Counts string   `json:"counts,omitempty"`
	HTML   []string `json:"html,omitempty"`
}

// The kinds of attribute.
const (
	KindText    = "text"
	KindNumber  = "number"
	KindChoice  = "choice"
	KindChoices = "choices"
	KindYesNo   = "yesno"
	KindDate    = "date"
	KindLink    = "link"
)

// Attribute is one thing that a category asks about.
type Attribute struct {
	Ref      string      `json:"ref"`
	Kind     string      `json:"kind"`
	Need     string      `json:"need,omitempty"`     // Needed, Helps or ""
	When     []Condition `json:"when,omitempty"`     // all must hold, else it does not apply
	Unit     string      `json:"unit,omitempty"`     // of a number, as the place wants it
	Units    []string    `json:"units,omitempty"`    // further ones that it may be written in
	Least    string      `json:"least,omitempty"`    // a decimal, in Unit
	Most     string      `json:"most,omitempty"`     // a decimal, in Unit
	Decimals *int64      `json:"decimals,omitempty"` // of a number in Unit
	Limit    *int64      `json:"limit,omitempty"`    // of a text or link
	Counts   string      `json:"counts,omitempty"`
	Values   []string    `json:"values,omitempty"` // of a choice or choices
	AtMost   *int64      `json:"at_most,omitempty"`
}

// Condition is one of three: a field is one of some texts, a field is filled or
// isn't, a catalogue entry was found or wasn't.
type Condition struct {
	Field  string   `json:"field,omitempty"`
	In     []string `json:"in,omitempty"`
	Filled *bool    `json:"filled,omitempty"`
	Entry  *bool    `json:"entry,omitempty"`
}

// Pictures is how many pictures there must be, and of which make.
type Pictures struct {
	Least  int64    `json:"least,omitempty"`
	Most   *int64   `json:"most,omitempty"`
	Side   int64    `json:"side,omitempty"` // pixels that the longer side must have
	Square bool     `json:"square,omitempty"`
	Kinds  []string `json:"kinds,omitempty"`
	Bytes  int64    `json:"bytes,omitempty"`
}

// Package limits the packed weight, in grams, and sides, in millimetres; 0
// where there is no limit.
type Package struct {
	Weight []int64 `json:"weight,omitempty"` // least and most
	Side   int64   `json:"side,omitempty"`
	Girth  int64   `json:"girth,omitempty"` // the longest side plus twice the two others
}

// Brand is a register of brands, and the place's word for none.
type Brand struct {
	Register []string `json:"register,omitempty"`
	None     string   `json:"none,omitempty"`
}

// Words limits search words: how many, the length of each in characters, and
// the bytes of all joined by spaces.
type Words struct {
	Most  *int64 `json:"most,omitempty"`
	Limit *int64 `json:"limit,omitempty"`
	Bytes *int64 `json:"bytes,omitempty"`
}

// Price bounds the price, in major units of the site's currency.
type Price struct {
	Least       string `json:"least,omitempty"`
	Most        string `json:"most,omitempty"`
	NotOverList bool   `json:"not_over_list,omitempty"`
}

// Former bounds what a former price may say is saved: a rate such as "70%".
type Former struct {
	Most string `json:"most,omitempty"`
}

// Values are what we say of one product on a site. Amounts are in major units
// of the site's currency, as "12.40"; blank texts are none.
type Values struct {
	SKU         string          `json:"sku,omitempty"`
	Number      string          `json:"number,omitempty"`
	Brand       string          `json:"brand,omitempty"`
	Title       string          `json:"title,omitempty"` // typed by hand; else it is made from parts
	Description string          `json:"description,omitempty"`
	Price       string          `json:"price,omitempty"`
	ListPrice   string          `json:"list_price,omitempty"`
	Former      string          `json:"former,omitempty"`
	Words       []string        `json:"words,omitempty"`
	Pictures    []Picture       `json:"pictures,omitempty"`
	Package     *Packed         `json:"package,omitempty"`
	Series      string          `json:"series,omitempty"`
	Model       string          `json:"model,omitempty"`
	KeyFeature  string          `json:"key_feature,omitempty"`
	Kind        string          `json:"kind,omitempty"`
	Pack        string          `json:"pack,omitempty"`
	Attributes  map[string]Text `json:"attributes,omitempty"`
}

// Picture is the make of one picture: its sides in pixels, its kind such as
// jpeg, and its size in bytes.
type Picture struct {
	Width  int64  `json:"width"`
	Height int64  `json:"height"`
	Kind   string `json:"kind"`
	Bytes  int64  `json:"bytes"`
}

// Packed is what a parcel weighs, in grams, and its sides, in millimetres; 0
// where not known.
type Packed struct {
	Weight int64 `json:"weight,omitempty"`
	Length int64 `json:"length,omitempty"`
	Width  int64 `json:"width,omitempty"`
	Height int64 `json:"height,omitempty"`
}

// Levels of a problem.
const (
	Stops   = "stops"    // the listing can't go up
	AHelp   = "helps"    // it would be found better
	LeftOut = "left out" // the value isn't sent
)

// Problem is what is wrong with one field.
type Problem struct {
	Field string `json:"field"`
	Code  string `json:"code"`
	Level string `json:"level"`
}

// Report is what is said of a listing. Needed and Helps count what is done, and
// of how many.
type Report struct {
	Title      string            `json:"title"`
	LeftOut    []string          `json:"left_out"`
	Attributes map[string]string `json:"attributes"` // each valid value as the place writes it
	Problems   []Problem         `json:"problems"`
	Needed     [2]int            `json:"needed"`
	Helps      [2]int            `json:"helps"`
}

// Ready tells whether nothing stops the listing.
func (r *Report) Ready() bool {
	for i := range r.Problems {
		if r.Problems[i].Level == Stops {
			return false
		}
	}
	return true
}
