package supply

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"easymargin/core/money"
)

// Guards are the shares, in percent, above or below which a feed is held:
// section 4's table. The zero value is not useful; start from DefaultGuards.
type Guards struct {
	FewestRows   int64 `json:"fewest_rows"`             // rows, of the last taken full feed
	MostAside    int64 `json:"most_aside"`              // rows set aside, of rows read
	MostMoved    int64 `json:"most_moved"`              // costs moved by more than half, of known rows
	MostToZero   int64 `json:"most_to_zero"`            // products going to no stock, of those in stock
	MostOther    int64 `json:"most_other,omitempty"`    // rows that are another thing than before, of known rows; 0: 10
	MostJumped   int64 `json:"most_jumped,omitempty"`   // stocks that jumped, of known rows; 0: 60
	MostTogether int64 `json:"most_together,omitempty"` // costs that moved by more than 30 % the same way, of known rows; 0: 50
	MissingGone  int64 `json:"missing_feeds"`           // full feeds a product may be missing from before it is gone
	StaleHours   int64 `json:"stale_hours,omitempty"`   // hours without a feed, above which its stock counts as unknown; 0: by how it comes, see Coming
}

// DefaultGuards are section 4's defaults.
var DefaultGuards = Guards{FewestRows: 70, MostAside: 20, MostMoved: 10, MostToZero: 50, MostOther: 10, MostJumped: 60, MostTogether: 50, MissingGone: 1}

// Figures are what a feed, read to its end, comes to.
type Figures struct {
	Rows      int64 `json:"rows"`
	New       int64 `json:"new"`
	Changed   int64 `json:"changed"`
	Same      int64 `json:"same"`
	SetAside  int64 `json:"set_aside"`
	Gone      int64 `json:"gone"`
	LastRows  int64 `json:"last_rows"`  // rows of the last taken full feed; 0 where there is none
	Known     int64 `json:"known"`      // rows that were known before
	Moved     int64 `json:"moved"`      // of those, costs that moved by more than half
	InStock   int64 `json:"in_stock"`   // products in stock before
	ToZero    int64 `json:"to_zero"`    // of those, going to none
	Other     int64 `json:"other"`      // of the known, those that are another thing: number, brand, words or count
	Jumped    int64 `json:"jumped"`     // of the known, those whose stock jumped
	Dearer    int64 `json:"dearer"`     // of the known, those whose cost rose by more than 30 %
	Cheaper   int64 `json:"cheaper"`    // and fell by as much
	OtherCurr int64 `json:"other_curr"` // rows in a currency other than the source's
}

// Hold is one reason a feed waits for a person.
type Hold struct {
	Guard  string `json:"guard"`
	Before int64  `json:"before"`
	After  int64  `json:"after"`
	Words  string `json:"words"`
}

// Check lists why a feed must be held; nothing where it may be taken. A full
// feed says so, since only then do fewer rows mean something.
func (g Guards) Check(f Figures, full bool) []Hold {
	var out []Hold
	hold := func(guard string, before, after int64, format string, args ...any) {
		out = append(out, Hold{guard, before, after, fmt.Sprintf(format, args...)})
	}
	if f.Rows == 0 {
		hold("no rows", f.LastRows, 0, "the feed has no rows")
		return out
	}
	if f.OtherCurr > 0 {
		hold("currency", 0, f.OtherCurr, "%d rows are in another currency than this source", f.OtherCurr)
	}
	if full && f.LastRows > 0 && f.Rows*100 < f.LastRows*g.FewestRows {
		hold("rows", f.LastRows, f.Rows, "%d rows, where the last feed had %d: under %d %%", f.Rows, f.LastRows, g.FewestRows)
	}
	if f.SetAside*100 > f.Rows*g.MostAside {
		hold("set aside", f.Rows, f.SetAside, "%d of %d rows would be set aside: over %d %%", f.SetAside, f.Rows, g.MostAside)
	}
	if f.Known > 0 && f.Moved*100 > f.Known*g.MostMoved {
		hold("costs", f.Known, f.Moved, "%d of %d known costs moved by more than half: over %d %%", f.Moved, f.Known, g.MostMoved)
	}
	if f.Other >= atLeast && f.Other*100 > f.Known*g.MostOther {
		hold("identity", f.Known, f.Other, "%d of %d known rows are another thing than before, by their number, brand, title or count: over %d %%. Did a column shift?", f.Other, f.Known, g.MostOther)
	}
	if f.Jumped >= atLeast && f.Jumped*100 > f.Known*g.MostJumped {
		hold("stock jumps", f.Known, f.Jumped, "%d of %d known stocks jumped to a third or to three times what they were: over %d %%. Did a column shift?", f.Jumped, f.Known, g.MostJumped)
	}
	if n := max(f.Dearer, f.Cheaper); n >= atLeast && n*100 > f.Known*g.MostTogether {
		way := "rose"
		if f.Cheaper == n {
			way = "fell"
		}
		hold("costs together", f.Known, n, "%d of %d known costs %s by more than 30 %%: over %d %% at once", n, f.Known, way, g.MostTogether)
	}
	if f.InStock > 0 && f.ToZero*100 > f.InStock*g.MostToZero {
		hold("stock", f.InStock, f.ToZero, "%d of %d products in stock would go to none: over %d %%", f.ToZero, f.InStock, g.MostToZero)
	}
	return out
}

// atLeast is how many rows a guard of what many rows do at once needs: a few that
// change together are chance.
const atLeast = 8

// Compare counts what a known row says otherwise than before.
func (f *Figures) Compare(before, after *Product) {
	if OtherThing(before, after) {
		f.Other++
	}
	if a, b := before.Stock, after.Stock; a.State == StockKnown && b.State == StockKnown && Jumped(a.Count, b.Count) {
		f.Jumped++
	}
	if before.Cost.Currency != after.Cost.Currency {
		return
	}
	if MovedByHalf(before.Cost.Minor, after.Cost.Minor) {
		f.Moved++
	}
	if before.Cost.Minor <= 0 {
		return
	}
	switch share, ok := money.MulDiv(after.Cost.Minor, 100, before.Cost.Minor); {
	case !ok || share > 130:
		f.Dearer++
	case share < 70:
		f.Cheaper++
	}
}

// OtherThing tells whether a row of a ref that is known is of another thing than
// before: another number, brand or count in it, or a title without a word in common.
// What one of both doesn't say, says nothing.
func OtherThing(before, after *Product) bool {
	differ := func(a, b string) bool { return a != "" && b != "" && !strings.EqualFold(a, b) }
	if differ(before.GTIN, after.GTIN) || differ(before.Brand, after.Brand) ||
		before.UnitsPerItem > 0 && after.UnitsPerItem > 0 && before.UnitsPerItem != after.UnitsPerItem {
		return true
	}
	words := func(title string) []string {
		return strings.FieldsFunc(strings.ToLower(title), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	}
	was, is := words(before.Title), words(after.Title)
	return len(was) > 0 && len(is) > 0 && !slices.ContainsFunc(is, func(w string) bool { return slices.Contains(was, w) })
}

// Jumped tells whether a stock went to a third or less of what it was, or to three
// times it or more, by ten pieces at least; going to nothing has a guard of its own.
func Jumped(before, after int64) bool {
	low, high := min(before, after), max(before, after)
	return after > 0 && high-low >= 10 && low <= high/3
}

// MovedByHalf tells whether a cost moved by more than half, either way.
func MovedByHalf(before, after int64) bool {
	d := after - before
	if d < 0 {
		d = -d
	}
	return d > before-d // twice the move is more than the cost
}
