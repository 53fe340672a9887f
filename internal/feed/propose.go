package feed

import (
	"strconv"
	"strings"
)

// proposer looks, where no column is known as the cost, for the one that could
// be it: nothing but amounts, and where a list price is known, below it. It is
// proposed to a person and never taken by itself.
type proposer struct {
	list    int // the column of the list price, −1 where there is none
	columns []couldBe
}

// couldBe is what the values of one column say of its being the cost.
type couldBe struct {
	asked   bool // it is read as nothing else
	amounts int
	money   int // of them, those written as money is: with decimals or a currency
	below   int // of them, those below the list price of their row
	never   bool
}

func newProposer(columns []Column) *proposer {
	p := &proposer{list: -1, columns: make([]couldBe, len(columns))}
	for i, c := range columns {
		switch c.Field {
		case "cost":
			return nil
		case "list_price":
			p.list = i
		case "":
			p.columns[i].asked = c.Name != ""
		}
	}
	return p
}

func (p *proposer) see(r *Record) {
	if p == nil {
		return
	}
	listed, hasList := int64(0), false
	if p.list >= 0 && p.list < len(r.Cells) {
		listed, _, hasList = roughly(r.Cells[p.list])
	}
	for i := range p.columns {
		c := &p.columns[i]
		if !c.asked || c.never || i >= len(r.Cells) || strings.TrimSpace(r.Cells[i]) == "" {
			continue
		}
		v, money, ok := roughly(r.Cells[i])
		if c.never = !ok || v <= 0 || hasList && v >= listed; c.never {
			continue
		}
		c.amounts++
		if money {
			c.money++
		}
		if hasList {
			c.below++
		}
	}
}

// best is the one column that could be the cost; −1 where none or several could.
func (p *proposer) best() int {
	if p == nil {
		return -1
	}
	found := -1
	for i, c := range p.columns {
		if !c.asked || c.never || c.amounts == 0 || c.below == 0 && c.money == 0 {
			continue
		}
		if found >= 0 {
			return -1
		}
		found = i
	}
	return found
}

// roughly is a cell's amount in ten-thousandths, to compare with another of its
// row, and whether it is written as money is.
func roughly(cell string) (v int64, money, ok bool) {
	f, ok := figure(cell)
	if !ok || f.unit != "" && !localSigns[f.unit] || f.negative {
		return 0, false, false
	}
	text, err := f.digits(f.proves)
	if err != nil {
		return 0, false, false
	}
	whole, frac, _ := strings.Cut(text, ".")
	v, err = strconv.ParseInt(whole+(frac + "0000")[:4], 10, 64)
	return v, frac != "" || f.currency != "", err == nil
}
