package prices

import (
	"cmp"
	"strings"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
)

// termsTyped puts typed selling terms in the place of the site's.
func (b *bench) termsTyped(q BenchAsk) error {
	for _, x := range []struct {
		field, text string
		flat        func(int64)
	}{{"charged", q.Charged, func(v int64) { b.Flat(&v, nil) }}, {"outbound", q.Outbound, func(v int64) { b.Flat(nil, &v) }}} {
		if x.text == "" {
			continue
		}
		v, err := stops.Amount(x.field, x.text, b.Currency)
		if err != nil {
			return err
		}
		x.flat(v)
	}
	return nil
}

// costTyped puts typed costs in the place of the product's.
func (b *bench) costTyped(q BenchCost) (err error) {
	c := &b.cost
	if q.Currency != "" {
		cur := money.Currency(strings.ToUpper(q.Currency))
		if !cur.Valid() {
			return fault.At("cost.currency", "%q is not a currency such as EUR", q.Currency)
		}
		if cur != c.Unit.Currency {
			c.Unit, c.Charge, c.FreeFrom = money.Of(0, cur), 0, nil
			c.FX, c.Cushion = b.Rates[string(cur)], money.Rate(b.Site.Cushion)
			if cur == b.Currency {
				c.FX, c.Cushion = 0, 0
			}
		}
	}
	from := c.Unit.Currency
	read := func(field, text string, cur money.Currency, into *int64) {
		if text != "" && err == nil {
			*into, err = stops.Amount("cost."+field, text, cur)
		}
	}
	rate := func(field, text string, into *money.Rate) {
		if text != "" && err == nil {
			if *into, err = stops.Share("cost."+field, text); err == nil && *into < 0 {
				err = fault.At("cost."+field, "must not be below 0")
			}
		}
	}
	read("unit", q.Unit, from, &c.Unit.Minor)
	read("charge", q.Charge, from, &c.Charge)
	if q.FreeFrom != "" {
		var v int64
		read("free_from", q.FreeFrom, from, &v)
		c.FreeFrom = &v
	}
	read("handling", q.Handling, b.Currency, &c.Handling)
	rate("duty", q.Duty, &c.Duty)
	rate("cushion", q.Cushion, &c.Cushion)
	if q.FX != "" && from != b.Currency && err == nil {
		if c.FX, err = money.ParseFX(strings.TrimSpace(q.FX)); err != nil {
			err = fault.At("cost.fx", "%v; write how much %s one %s is", err, b.Currency, from)
		}
	}
	c.UnitsBought, c.UnitsListed = cmp.Or(q.UnitsBought, c.UnitsBought, 1), cmp.Or(q.UnitsListed, c.UnitsListed, 1)
	return err
}

// written is the cost as the bench's fields show it.
func (b *bench) written() BenchCost {
	c := b.cost
	out := BenchCost{
		Unit:        c.Unit.String(),
		Currency:    string(c.Unit.Currency),
		UnitsBought: max(c.UnitsBought, 1),
		UnitsListed: max(c.UnitsListed, 1),
		Charge: money.Of(c.Charge, c.Unit.Currency).
			String(),
		Duty:     c.Duty.String(),
		Cushion:  c.Cushion.String(),
		Handling: b.Money(c.Handling),
	}
	if c.FreeFrom != nil {
		out.FreeFrom = money.Of(*c.FreeFrom, c.Unit.Currency).String()
	}
	if c.FX != 0 {
		out.FX = c.FX.String()
	}
	return out
}
