package pricing

import (
	"cmp"
	"errors"
	"fmt"
	"regexp"
	"slices"
)

// PostageBand is what one parcel costs to send, or what the buyer pays for it:
// where it goes, what fits into it, from which price on, and the amount. A bound
// of 0 isn't looked at.
type PostageBand struct {
	To       string `json:"to,omitempty"`       // country, ISO 3166-1 alpha-2; "": every country without bands of its own
	Weight   int64  `json:"weight,omitempty"`   // grams, up to and including
	Longest  int64  `json:"longest,omitempty"`  // millimetres, up to and including
	Median   int64  `json:"median,omitempty"`   //
	Shortest int64  `json:"shortest,omitempty"` //
	From     int64  `json:"from,omitempty"`     // the item price from which it holds, minor units
	Amount   int64  `json:"amount"`             // minor units
}

// Postage is bands of postage: those of a parcel's country hold, or else those of
// every other; of these the first, as they stand, that the parcel fits into. It follows
// docs/definitions/money.md, "Postage by weight, size and destination".
type Postage []PostageBand

var (
	country = regexp.MustCompile(`^[A-Z]{2}$`)
	day     = regexp.MustCompile(`^\d{4}-\d{2}-\d{2}$`)
)

// Check says what bands can't mean. The error names the field.
func (p Postage) Check() error {
	type place struct {
		size PostageBand
		from int64
	}
	seen := map[place]bool{}
	first := map[PostageBand]int64{}
	for i, b := range p {
		switch {
		case b.To != "" && !country.MatchString(b.To):
			return fmt.Errorf("[%d].to: %q is no country by its two letters, such as GB", i, b.To)
		case min(b.Weight, b.Longest, b.Median, b.Shortest, b.From, b.Amount) < 0:
			return fmt.Errorf("[%d]: nothing may be below 0", i)
		}
		at := place{b.size(), b.From}
		if seen[at] {
			return fmt.Errorf("[%d]: the band before says another amount for the same parcels", i)
		}
		seen[at] = true
		if least, ok := first[at.size]; !ok || b.From < least {
			first[at.size] = b.From
		}
	}
	for i, b := range p {
		if first[b.size()] != 0 {
			return fmt.Errorf("[%d].from: say what holds for these parcels from a price of 0 on too", i)
		}
	}
	return nil
}

// size is the band without its price: bands of one size differ by that alone.
func (b PostageBand) size() PostageBand {
	b.From, b.Amount = 0, 0
	return b
}

// Looks tells whether some band looks at what a parcel weighs or measures.
func (p Postage) Looks() bool {
	return slices.ContainsFunc(p, func(b PostageBand) bool { return b.Weight > 0 || b.Longest > 0 || b.Median > 0 || b.Shortest > 0 })
}

// ErrNoPostage says that no band takes a parcel, or none is for where it goes.
var ErrNoPostage = errors.New("no band of postage takes the parcel")

// For are the bands by the price of a parcel that goes to a country, rising. The
// error is Missing where a measure that bands look at isn't known, and ErrNoPostage
// where none takes the parcel; nothing is guessed.
func (p Postage) For(to string, parcel Packed) ([]ChargedBand, error) {
	own := slices.ContainsFunc(p, func(b PostageBand) bool { return b.To == to })
	if !own {
		to = ""
	}
	var there Postage
	for _, b := range p {
		if b.To == to {
			there = append(there, b)
		}
	}
	if missing := there.missing(parcel); missing != nil {
		return nil, missing
	}
	first := slices.IndexFunc(there, func(b PostageBand) bool { return b.takes(parcel) })
	if first < 0 {
		return nil, ErrNoPostage
	}
	var out []ChargedBand
	for _, b := range there {
		if b.size() == there[first].size() {
			out = append(out, ChargedBand{From: b.From, Amount: b.Amount})
		}
	}
	slices.SortFunc(out, func(a, b ChargedBand) int { return cmp.Compare(a.From, b.From) })
	return out, nil
}

// missing are the measures that the bands look at and that aren't known.
func (p Postage) missing(parcel Packed) error {
	var out Missing
	if parcel.Weight <= 0 && slices.ContainsFunc(p, func(b PostageBand) bool { return b.Weight > 0 }) {
		out = append(out, "weight")
	}
	sized := slices.ContainsFunc(p, func(b PostageBand) bool { return b.Longest > 0 || b.Median > 0 || b.Shortest > 0 })
	if sized && min(parcel.Sides[0], parcel.Sides[1], parcel.Sides[2]) <= 0 {
		out = append(out, "length, width and height")
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

func (b *PostageBand) takes(parcel Packed) bool {
	s := parcel.Sides
	slices.Sort(s[:])
	within := func(v, most int64) bool { return most == 0 || v <= most }
	return within(parcel.Weight, b.Weight) && within(s[2], b.Longest) && within(s[1], b.Median) && within(s[0], b.Shortest)
}
