package pricing

import (
	"errors"
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"easymargin/core/money"
)

// Packed is a product as it is packed: weight in grams, sides in millimetres,
// in any order. 0 is unknown.
type Packed struct {
	Weight int64    `json:"weight"`
	Sides  [3]int64 `json:"sides"`
}

// Step is one step of a warehouse's fees: what fits into it and what it costs.
// A bound of 0 isn't looked at.
type Step struct {
	Name     string `json:"name"`
	Longest  int64  `json:"longest,omitempty"`  // millimetres, up to and including
	Median   int64  `json:"median,omitempty"`   //
	Shortest int64  `json:"shortest,omitempty"` //
	Girth    int64  `json:"girth,omitempty"`    // millimetres around the two shorter sides, twice their sum
	Weight   int64  `json:"weight,omitempty"`   // grams that are charged for, up to and including
	Fee      int64  `json:"fee"`                // minor units
	Over     int64  `json:"over,omitempty"`     // grams that Fee covers
	HalfKilo int64  `json:"half_kilo,omitempty"`
}

// Warehouse is what a marketplace takes to keep, pack and send one unit.
type Warehouse struct {
	Name    string      `json:"name"`              // of the fee's line
	Divisor int64       `json:"divisor,omitempty"` // cubic millimetres for a gram of volume weight; 0: none is reckoned
	Steps   []Step      `json:"steps"`             // the first that fits holds
	Tax     *money.Rate `json:"tax,omitempty"`
}

// Check finds what a warehouse's fees can't mean. The error names the field.
func (w *Warehouse) Check() error {
	if w.Name == "" {
		return errors.New("name: is missing")
	}
	if w.Divisor < 0 {
		return errors.New("divisor: must not be below 0")
	}
	if len(w.Steps) == 0 {
		return errors.New("steps: needs at least one")
	}
	for i, s := range w.Steps {
		if min(s.Longest, s.Median, s.Shortest, s.Girth, s.Weight, s.Fee, s.Over, s.HalfKilo) < 0 {
			return fmt.Errorf("steps[%d]: nothing may be below 0", i)
		}
	}
	return nil
}

// Missing says which measures of a packed product would be needed.
type Missing []string

func (m Missing) Error() string {
	return "the packed " + strings.Join(m, " and ") + " of the product is not known"
}

// Resolve turns a packed product into the fee for it: the first step whose
// bounds it keeps, with an extra for each half kilo begun past what the step
// covers. Charged is the greater of weight and volume weight, in grams. The
// error is Missing where a measure isn't known; nothing is guessed.
func (w *Warehouse) Resolve(p Packed) (f Fee, step string, charged int64, err error) {
	var missing Missing
	if p.Weight <= 0 {
		missing = append(missing, "weight")
	}
	s := p.Sides
	slices.Sort(s[:])
	if s[0] <= 0 {
		missing = append(missing, "length, width and height")
	}
	if len(missing) > 0 {
		return f, "", 0, missing
	}
	charged = p.Weight
	if w.Divisor > 0 {
		area, fits := bits.Mul64(uint64(s[0]), uint64(s[1]))
		hi, volume := bits.Mul64(fits, uint64(s[2]))
		if area != 0 || hi != 0 || volume > 1<<62 {
			return f, "", 0, errors.New("the packed sides are out of any range")
		}
		charged = max(charged, (int64(volume)+w.Divisor-1)/w.Divisor)
	}
	within := func(v, most int64) bool { return most == 0 || v <= most }
	for _, x := range w.Steps {
		if !within(s[2], x.Longest) || !within(s[1], x.Median) || !within(s[0], x.Shortest) || !within(2*(s[0]+s[1]), x.Girth) ||
			!within(charged, x.Weight) {
			continue
		}
		fee := x.Fee
		if over := charged - x.Over; x.HalfKilo > 0 && over > 0 {
			more, ok := money.MulDiv((over+499)/500, x.HalfKilo, 1)
			sum, fits := money.Add(fee, more)
			if !ok || !fits {
				return f, "", 0, money.ErrRange
			}
			fee = sum
		}
		return Fee{Name: w.Name, Of: OfItem, Fixed: fee, Tax: w.Tax}, x.Name, charged, nil
	}
	return f, "", charged, fmt.Errorf("it is too large for every step of %s", w.Name)
}
