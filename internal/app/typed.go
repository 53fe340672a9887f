package app

import (
	"cmp"
	"strings"

	"easymargin/core/money"
)

// amount reads a text in major units, with words for whoever typed it.
func amount(field, text string, cur money.Currency) (int64, error) {
	text = strings.TrimSpace(text)
	v, err := money.Parse(text, cur)
	if err == nil && v.Minor >= 0 {
		return v.Minor, nil
	}
	if exp, _ := cur.Digits(); exp == 0 && strings.Contains(text, ".") {
		return 0, invalid(field, "%s has no decimals: write %q without them", cur, text)
	}
	return 0, invalid(field, "%q is not an amount in %s such as %s", text, cur, money.Of(1240, cur))
}

// share reads a percentage; the sign may be left out.
func share(field, text string) (money.Rate, error) {
	text = strings.ReplaceAll(strings.TrimSpace(text), " ", "")
	if !strings.HasSuffix(text, "%") {
		text += "%"
	}
	v, err := money.ParseRate(text)
	if err != nil {
		return 0, invalid(field, "%q is not a percentage such as 12.5%%", strings.TrimSuffix(text, "%"))
	}
	return v, nil
}

// termsTyped puts typed selling terms in the place of the site's.
func (b *bench) termsTyped(q BenchAsk) (err error) {
	if q.Charged != "" {
		if b.site.Charged, err = amount("charged", q.Charged, b.currency); err != nil {
			return err
		}
	}
	if q.Outbound != "" {
		if b.site.Outbound, err = amount("outbound", q.Outbound, b.currency); err != nil {
			return err
		}
	}
	return nil
}

// costTyped puts typed costs in the place of the product's.
func (b *bench) costTyped(q BenchCost) (err error) {
	c := &b.cost
	if q.Currency != "" {
		cur := money.Currency(strings.ToUpper(q.Currency))
		if !cur.Valid() {
			return invalid("cost.currency", "%q is not a currency such as EUR", q.Currency)
		}
		if cur != c.Unit.Currency {
			c.Unit, c.Charge, c.FreeFrom = money.Of(0, cur), 0, nil
			c.FX, c.Cushion = b.rates[string(cur)], money.Rate(b.site.Cushion)
			if cur == b.currency {
				c.FX, c.Cushion = 0, 0
			}
		}
	}
	from := c.Unit.Currency
	read := func(field, text string, cur money.Currency, into *int64) {
		if text != "" && err == nil {
			*into, err = amount("cost."+field, text, cur)
		}
	}
	rate := func(field, text string, into *money.Rate) {
		if text != "" && err == nil {
			if *into, err = share("cost."+field, text); err == nil && *into < 0 {
				err = invalid("cost."+field, "must not be below 0")
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
	read("handling", q.Handling, b.currency, &c.Handling)
	rate("duty", q.Duty, &c.Duty)
	rate("cushion", q.Cushion, &c.Cushion)
	if q.FX != "" && from != b.currency && err == nil {
		if c.FX, err = money.ParseFX(strings.TrimSpace(q.FX)); err != nil {
			err = invalid("cost.fx", "%v; write how much %s one %s is", err, b.currency, from)
		}
	}
	c.UnitsBought, c.UnitsListed = cmp.Or(q.UnitsBought, c.UnitsBought, 1), cmp.Or(q.UnitsListed, c.UnitsListed, 1)
	return err
}

// written is the cost as the bench's fields show it.
func (b *bench) written() BenchCost {
	c := b.cost
	out := BenchCost{Unit: c.Unit.String(), Currency: string(c.Unit.Currency), UnitsBought: max(c.UnitsBought, 1), UnitsListed: max(c.UnitsListed, 1),
		Charge: money.Of(c.Charge, c.Unit.Currency).String(), Duty: c.Duty.String(), Cushion: c.Cushion.String(), Handling: b.money(c.Handling)}
	if c.FreeFrom != nil {
		out.FreeFrom = money.Of(*c.FreeFrom, c.Unit.Currency).String()
	}
	if c.FX != 0 {
		out.FX = c.FX.String()
	}
	return out
}
