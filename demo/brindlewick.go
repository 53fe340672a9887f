package demo

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"

	"github.com/xuri/excelize/v2"
)

// brindlewickFrom is the first of the things that Brindlewick has.
const brindlewickFrom = 700

// brindlewickRef is its number of the i-th.
func brindlewickRef(i int) string { return fmt.Sprintf("BW-%04d", 1000+i*3) }

// odd tells whether Brindlewick's sheet has something else than its number there.
func (it *item) odd() bool {
	switch (it.n - brindlewickFrom) % 41 {
	case 5, 11, 17, 23:
		return it.n >= brindlewickFrom
	}
	return false
}

// brindlewickRows is how many rows Brindlewick's sheet has below its header.
const brindlewickRows = 300

// Brindlewick is the trade list Brindlewick Outdoor sends by hand: a sheet
// after a sheet of greetings, a header further down, decimal commas, numbers
// that a spreadsheet has damaged, variants by colour and size, and a cost
// column under a name nobody else uses.
func Brindlewick() ([]byte, error) {
	return brindlewickSheet(brindlewickItems(), "2026-03-02")
}

// brindlewickItems are things that Fernhollow has too, then some of its own with variants.
func brindlewickItems() []item {
	return items(catalogueSize)[brindlewickFrom : brindlewickFrom+brindlewickRows]
}

func brindlewickSheet(all []item, day string) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Trade list"
	if err := f.SetSheetName("Sheet1", "Welcome"); err != nil {
		return nil, err
	}
	if _, err := f.NewSheet(sheet); err != nil {
		return nil, err
	}
	row := 0
	put := func(name string, cells ...any) error {
		row++
		at, err := excelize.CoordinatesToCellName(1, row)
		if err != nil {
			return err
		}
		return f.SetSheetRow(name, at, &cells)
	}
	if err := put("Welcome", "Brindlewick Outdoor", "prices in EUR without tax"); err != nil {
		return nil, err
	}
	row = 0
	for _, cells := range [][]any{{"Brindlewick Outdoor, trade list"}, {"valid from", day}, {},
		{"Article no.", "EAN", "Product name", "Manufacturer", "Dealer rate", "RRP", "Qty", "Weight (kg)", "Item group", "Colour", "Size"}} {
		if err := put(sheet, cells...); err != nil {
			return nil, err
		}
	}
	r := rand.New(rand.NewPCG(Seed, 4))
	comma := func(cents int64) string { return strings.Replace(pence(cents), ".", ",", 1) + " €" }
	for i, it := range all {
		name, group, colour, size := it.title(), "", "", ""
		if name2, way, ok := strings.Cut(it.way, ", "); ok {
			colour, size = way, name2
		} else if it.good.category == "mugs" || it.good.category == "packs" {
			colour = it.way
		}
		if colour != "" {
			group = fmt.Sprintf("BG-%s-%s", it.brand[:2], strings.ToUpper(it.good.name[:3]))
		}
		number := any(it.gtin)
		switch {
		case i%41 == 5:
			number = it.gtin[:7] + "00000" // rounded away
		case i%41 == 11:
			number = strings.Replace(it.gtin, "952", "952-", 1)
		case i%41 == 17:
			number = it.gtin[:12] + string('0'+(it.gtin[12]-'0'+3)%10) // a wrong check digit
		case i%41 == 23:
			number = nil
		}
		cost := any(comma(it.cost * (104 + r.Int64N(20)) / 100))
		stock := any(it.stock)
		switch {
		case i == 57:
			cost = "on request"
		case i == 133:
			cost = nil
		case i%37 == 9:
			stock = "sold out"
		case i%37 == 20:
			stock = ">50"
		case i%53 == 12:
			stock = "discontinued"
		}
		if i == 201 {
			name = ""
		}
		weight := float64(80+r.IntN(1400)) / 1000
		if err := put(
			sheet,
			brindlewickRef(i),
			number,
			name,
			it.brand,
			cost,
			comma(it.usual*26/10),
			stock,
			weight,
			group,
			colour,
			size,
		); err != nil {
			return nil, err
		}
		if i == 150 {
			row++ // a blank line, as people leave them
		}
	}
	var b bytes.Buffer
	err := f.Write(&b)
	return b.Bytes(), err
}
