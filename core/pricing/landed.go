package pricing

import (
	"fmt"
	"math/big"

	"easymargin/core/money"
)

// Cost is what a supplier asks for one item and what it takes to have one
// listed unit in hand. See docs/definitions/money.md, "Landed cost".
type Cost struct {
	Unit        money.Amount // one supplier item, in the supplier's currency
	UnitsListed int64        // 0 means 1
	UnitsBought int64        // 0 means 1
	Charge      int64        // delivery, minor units of the supplier's currency
	FreeFrom    *int64       // unit price from which delivery is free
	Reclaimed   money.Rate   // tax that is in Unit and Charge and that the seller gets back; 0: none
	Duty        money.Rate
	FX          money.FX // selling currency per unit of the supplier's; 0 where they are the same
	Cushion     money.Rate
	Handling    int64 // minor units of the selling currency
}

// Landed is the landed cost of one listed unit in the selling currency, minor
// units: exact until the one rounding up.
func (c Cost) Landed(selling money.Currency) (int64, error) {
	listed, bought := max(c.UnitsListed, 1), max(c.UnitsBought, 1)
	if c.FX == 0 && c.Unit.Currency != selling {
		return 0, fmt.Errorf("fx: needed from %s to %s", c.Unit.Currency, selling)
	}
	charge := c.Charge
	if c.FreeFrom != nil && reaches(c.Unit.Minor, max(listed, bought), *c.FreeFrom, bought) {
		charge = 0
	}
	if c.FX == 0 && c.Reclaimed == 0 && c.Duty == 0 && c.Cushion == 0 {
		if v, ok := plainLanded(c.Unit.Minor, listed, bought, charge, c.Handling); ok {
			return v, nil
		}
	}
	num := new(big.Int).Mul(big.NewInt(c.Unit.Minor), big.NewInt(listed))
	num.Add(num, new(big.Int).Mul(big.NewInt(charge), big.NewInt(min(listed, bought))))
	den := big.NewInt(bought)
	times := func(r money.Rate) {
		num.Mul(num, new(big.Int).Add(big.NewInt(int64(money.One)), big.NewInt(int64(r))))
		den.Mul(den, big.NewInt(int64(money.One)))
	}
	num.Mul(num, big.NewInt(int64(money.One)))
	den.Mul(den, big.NewInt(int64(money.One+c.Reclaimed)))
	times(c.Duty)
	times(c.Cushion)
	if c.FX != 0 {
		from, _ := c.Unit.Currency.Digits()
		to, _ := selling.Digits()
		num.Mul(num, big.NewInt(int64(c.FX)))
		den.Mul(den, big.NewInt(1_000_000_000))
		num.Mul(num, big.NewInt(pow10(to)))
		den.Mul(den, big.NewInt(pow10(from)))
	}
	q, rem := new(big.Int).QuoRem(num, den, new(big.Int))
	if rem.Sign() > 0 {
		q.Add(q, big.NewInt(1))
	}
	q.Add(q, big.NewInt(c.Handling))
	if !q.IsInt64() {
		return 0, money.ErrRange
	}
	return q.Int64(), nil
}

// CostLine is one step of a landed cost, in words and to two decimals more than
// the currency has: nothing is rounded between, so most steps are no whole
// number of minor units.
type CostLine struct {
	Name   string `json:"name"`
	Amount string `json:"amount"`
}

// Open is how a landed cost comes about, step by step; the last is Landed.
func (c Cost) Open(selling money.Currency) ([]CostLine, error) {
	landed, err := c.Landed(selling)
	if err != nil {
		return nil, err
	}
	from := c.Unit.Currency
	listed, bought := max(c.UnitsListed, 1), max(c.UnitsBought, 1)
	var out []CostLine
	put := func(name string, v *big.Rat, cur money.Currency) {
		exp, _ := cur.Digits()
		text := new(big.Rat).Quo(v, new(big.Rat).SetInt64(pow10(exp))).FloatString(exp + 2)
		if whole := text[:len(text)-2]; text[len(text)-2:] == "00" {
			text = whole
			if exp == 0 {
				text = whole[:len(whole)-1] // and the point
			}
		}
		out = append(out, CostLine{name, text + " " + string(cur)})
	}
	part := func(v int64, a, b int64) *big.Rat { return new(big.Rat).Mul(big.NewRat(v, 1), big.NewRat(a, b)) }
	put("one item of the supplier's", part(c.Unit.Minor, 1, 1), from)
	sum := part(c.Unit.Minor, listed, bought)
	if listed != bought {
		put(fmt.Sprintf("the share that is listed, %d of %d", listed, bought), sum, from)
	}
	if c.Charge > 0 {
		d := part(c.Charge, min(listed, bought), bought)
		name := "its delivery"
		if c.FreeFrom != nil && reaches(c.Unit.Minor, max(listed, bought), *c.FreeFrom, bought) {
			d, name = new(big.Rat), "its delivery, free from "+money.Of(*c.FreeFrom, from).String()
		}
		put(name, d, from)
		sum = new(big.Rat).Add(sum, d)
	}
	if c.Reclaimed > 0 {
		d := new(big.Rat).Mul(sum, big.NewRat(-int64(c.Reclaimed), int64(money.One+c.Reclaimed)))
		put("tax in it that you get back, "+c.Reclaimed.String(), d, from)
		sum = new(big.Rat).Add(sum, d)
	}
	if c.Duty > 0 {
		d := new(big.Rat).Mul(sum, big.NewRat(int64(c.Duty), int64(money.One)))
		put("duty, "+c.Duty.String(), d, from)
		sum = new(big.Rat).Add(sum, d)
	}
	if c.FX != 0 {
		a, _ := from.Digits()
		b, _ := selling.Digits()
		sum = new(big.Rat).Mul(sum, big.NewRat(int64(c.FX), 1_000_000_000))
		sum.Mul(sum, big.NewRat(pow10(b), pow10(a)))
		put("at "+c.FX.String()+" "+string(selling)+" for 1 "+string(from), sum, selling)
	}
	if c.Cushion > 0 {
		d := new(big.Rat).Mul(sum, big.NewRat(int64(c.Cushion), int64(money.One)))
		put("cushion, "+c.Cushion.String(), d, selling)
	}
	if c.Handling > 0 {
		put("handling", part(c.Handling, 1, 1), selling)
	}
	put("landed cost, rounded up", part(landed, 1, 1), selling)
	return out, nil
}

// plainLanded is Landed where nothing is converted; false where it may be out of range.
func plainLanded(unit, listed, bought, charge, handling int64) (int64, bool) {
	const small = 1 << 30
	if unit > small || listed > small || bought > small || charge > small {
		return 0, false
	}
	return money.Add((unit*listed+charge*min(listed, bought)+bought-1)/bought, handling)
}

// reaches tells whether a × b ≥ c × d without overflow.
func reaches(a, b, c, d int64) bool {
	x := new(big.Int).Mul(big.NewInt(a), big.NewInt(b))
	return x.Cmp(new(big.Int).Mul(big.NewInt(c), big.NewInt(d))) >= 0
}

func pow10(n int) int64 {
	v := int64(1)
	for ; n > 0; n-- {
		v *= 10
	}
	return v
}
