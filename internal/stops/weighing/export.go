package weighing

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/store"
)

// maxSheet is the most rows that go into a workbook, which is made in memory.
const maxSheet = 20_000

// cell is a cell of an exported list: a text, or a figure in plain digits.
type cell struct {
	text   string
	figure bool
}

// exported is what is exported of a candidate, in this order. Amounts are in
// major units of the site's currency, shares are percentages.
var exported = []struct {
	head string
	of   func(r *store.SiftedRow, cur money.Currency) cell
}{
	{"supplier", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.Supplier} }},
	{"ref", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.Ref} }},
	{"number", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.GTIN} }},
	{"title", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.Title} }},
	{"brand", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.Brand} }},
	{"category", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.Category} }},
	{"entry", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.EntryRef} }},
	{"currency", func(_ *store.SiftedRow, cur money.Currency) cell { return cell{text: string(cur)} }},
	{"landed", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.Landed, cur) }},
	{"stock", func(r *store.SiftedRow, _ money.Currency) cell { return count(r.Stock) }},
	{"lowest", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.Lowest, cur) }},
	{"leading", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.Leading, cur) }},
	{"sellers", func(r *store.SiftedRow, _ money.Currency) cell { return count(r.Sellers) }},
	{"rating", func(r *store.SiftedRow, _ money.Currency) cell { return amount(r.Rating, "GBP") }}, // hundredths too
	{"rank", func(r *store.SiftedRow, _ money.Currency) cell { return count(r.Rank) }},
	{"profit at lowest", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.ProfitLowest, cur) }},
	{"margin at lowest, %", func(r *store.SiftedRow, _ money.Currency) cell { return share(r.MarginLowest) }},
	{"return at lowest, %", func(r *store.SiftedRow, _ money.Currency) cell { return share(r.ReturnLowest) }},
	{"profit at leading", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.ProfitLeading, cur) }},
	{"rule's price", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.PriceRule, cur) }},
	{"rule's profit", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.ProfitRule, cur) }},
	{"price for the aim", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.PriceAim, cur) }},
	{"aim above lowest", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.Above, cur) }},
	{"ties up", func(r *store.SiftedRow, cur money.Currency) cell { return amount(r.TiesUp, cur) }},
	{"sold in thirty days", func(r *store.SiftedRow, _ money.Currency) cell { return count(&r.UnitsSold) }},
	{"ours", func(r *store.SiftedRow, _ money.Currency) cell {
		return cell{text: map[bool]string{true: "yes", false: "no"}[r.Ours]}
	}},
	{"dropped for", func(r *store.SiftedRow, _ money.Currency) cell { return cell{text: r.Reason} }},
	{"market read", func(r *store.SiftedRow, _ money.Currency) cell {
		if r.MarketAt == nil {
			return cell{}
		}
		return cell{text: r.MarketAt.Format("2006-01-02 15:04")}
	}},
}

func figure(v *int64, write func(int64) string) cell {
	if v == nil {
		return cell{}
	}
	return cell{write(*v), true}
}

func amount(v *int64, cur money.Currency) cell {
	return figure(v, func(v int64) string { return money.Of(v, cur).String() })
}

func count(v *int64) cell {
	return figure(v, func(v int64) string { return strconv.FormatInt(v, 10) })
}

func share(v *int64) cell {
	return figure(v, func(v int64) string { return strings.TrimSuffix(money.Rate(v).String(), "%") })
}

// each gives all that goes through a sieve to row, in the order asked for.
func (st *Stop) each(ctx context.Context, site store.Site, in Asked, p store.Page, row func([]cell) error) error {
	q, err := st.sifted(ctx, in)
	if err != nil {
		return err
	}
	for {
		l, err := st.Store.Sift(ctx, q, p)
		if err != nil {
			return err
		}
		for i := range l.Rows {
			cells := make([]cell, len(exported))
			for k, x := range exported {
				cells[k] = x.of(&l.Rows[i], money.Currency(site.Currency))
			}
			if err := row(cells); err != nil {
				return err
			}
		}
		if p.Cursor = l.Next; l.Next == "" {
			return nil
		}
	}
}

// Write writes all that goes through a sieve as CSV. No cell is a formula.
func (st *Stop) Write(ctx context.Context, out *csv.Writer, site store.Site, in Asked, p store.Page) error {
	line := make([]string, len(exported))
	for i, x := range exported {
		line[i] = x.head
	}
	if err := out.Write(line); err != nil {
		return err
	}
	err := st.each(ctx, site, in, p, func(cells []cell) error {
		for i, c := range cells {
			if line[i] = c.text; !c.figure { // a figure may begin with a minus
				line[i] = feed.Inert(c.text)
			}
		}
		return out.Write(line)
	})
	out.Flush()
	return errors.Join(err, out.Error())
}

// fitsSheet refuses a workbook that would have too many rows.
func (st *Stop) fitsSheet(ctx context.Context, in Asked) error {
	n, err := st.Count(ctx, in)
	if err == nil && n > maxSheet {
		return fault.At("sieve", "%d go through, and a workbook has at most %d rows; sift further, or download them as CSV", n, maxSheet)
	}
	return err
}

// WriteSheet writes it as a workbook (ISO/IEC 29500), its figures as figures and
// all else as text.
func (st *Stop) WriteSheet(ctx context.Context, w io.Writer, site store.Site, in Asked, p store.Page) error {
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Candidates"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	line := 1
	put := func(cells []cell) error {
		for i, c := range cells {
			at, err := excelize.CoordinatesToCellName(i+1, line)
			if err != nil {
				return err
			}
			if c.figure {
				err = f.SetCellDefault(sheet, at, c.text) // the digits as they are
			} else if c.text != "" {
				err = f.SetCellStr(sheet, at, c.text)
			}
			if err != nil {
				return fmt.Errorf("writing %s of the workbook: %w", at, err)
			}
		}
		line++
		return nil
	}
	heads := make([]cell, len(exported))
	for i, x := range exported {
		heads[i].text = x.head
	}
	if err := put(heads); err != nil {
		return err
	}
	if err := st.each(ctx, site, in, p, put); err != nil {
		return err
	}
	return f.Write(w)
}
