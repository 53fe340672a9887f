package supply

import "fmt"

// Guards are the shares, in percent, above or below which a feed is held:
// section 4's table. The zero value is not useful; start from DefaultGuards.
type Guards struct {
	FewestRows  int64 `json:"fewest_rows"`   // rows, of the last taken full feed
	MostAside   int64 `json:"most_aside"`    // rows set aside, of rows read
	MostMoved   int64 `json:"most_moved"`    // costs moved by more than half, of known rows
	MostToZero  int64 `json:"most_to_zero"`  // products going to no stock, of those in stock
	MissingGone int64 `json:"missing_feeds"` // full feeds a product may be missing from before it is gone
	StaleHours  int64 `json:"stale_hours"`   // hours without a feed, above which its stock counts as unknown
}

// DefaultGuards are section 4's defaults.
var DefaultGuards = Guards{FewestRows: 70, MostAside: 20, MostMoved: 10, MostToZero: 50, MissingGone: 1, StaleHours: 48}

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
	if f.InStock > 0 && f.ToZero*100 > f.InStock*g.MostToZero {
		hold("stock", f.InStock, f.ToZero, "%d of %d products in stock would go to none: over %d %%", f.ToZero, f.InStock, g.MostToZero)
	}
	return out
}

// MovedByHalf tells whether a cost moved by more than half, either way.
func MovedByHalf(before, after int64) bool {
	d := after - before
	if d < 0 {
		d = -d
	}
	return d > before-d // twice the move is more than the cost
}
