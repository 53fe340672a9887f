package demo

import (
	"fmt"
	"time"

	"github.com/xuri/excelize/v2"

	"easymargin/internal/sim"
)

// blankColumn is a column of Copperfold's blank.
type blankColumn struct {
	name, mark, example string
	values              []string
	most                int
}

// copperfoldBlank makes the sheet that Copperfold gives sellers for a category:
// marks above the header, an example below it, lists on a hidden sheet.
func copperfoldBlank(category string, more ...blankColumn) (sim.SheetBlank, error) {
	columns := append([]blankColumn{
		{"SKU", "Required", "EXAMPLE-1", nil, 0},
		{"Title", "Required", "Enamel mug, 350 ml, moss", nil, 60},
		{"Description", "Required", "A mug for the hill.", nil, 1000},
		{"Brand", "Required", "Tarnwick", []string{"Tarnwick", "Ottermere", "Fellgrove", "Brackenby", "Skarholt", "Merrowdale"}, 0},
		{"Barcode", "Optional", "", nil, 14},
		{"Price", "Required", "1200", nil, 0},
		{"Stock", "Required", "4", nil, 0},
		{"Printed price", "Optional", "1500", nil, 0},
		{"Commodity code", "Required", "7323.94", nil, 10},
		{"Origin", "Required", "Norland", []string{"Norland", "Westmark", "Isles of Skerry", "Ostvale"}, 0},
		{"Packer", "Required", "Saltmarsh Kit, Wick", nil, 80},
		{"Picture 1", "Required", "", nil, 0},
		{"Picture 2", "Required", "", nil, 0},
	}, more...)
	f := excelize.NewFile()
	defer f.Close()
	e := &sheetMaker{f: f}
	e.do(f.SetSheetName("Sheet1", "Listings"))
	_, err := f.NewSheet("Values")
	e.do(err)
	e.do(f.SetSheetVisible("Values", false))
	e.put("Listings", "A1", "Copperfold: one line for each thing you sell. Don't change the grey rows.")
	text, err := f.NewStyle(&excelize.Style{NumFmt: 49})
	e.do(err)
	head, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}, Fill: excelize.Fill{Type: "pattern", Color: []string{"D9D9D9"}, Pattern: 1}})
	e.do(err)
	for i, c := range columns {
		col, err := excelize.ColumnNumberToName(i + 1)
		e.do(err)
		e.put("Listings", col+"2", c.mark)
		e.put("Listings", col+"3", c.name)
		e.put("Listings", col+"4", c.example)
		e.do(f.SetCellStyle("Listings", col+"2", col+"3", head))
		e.do(f.SetCellStyle("Listings", col+"4", col+"4", text))
		e.do(f.SetColWidth("Listings", col, col, 18))
		rule := excelize.NewDataValidation(true)
		rule.SetSqref(col + "4:" + col + "5000")
		switch {
		case c.values != nil:
			for n, v := range c.values {
				e.put("Values", fmt.Sprintf("%s%d", col, n+1), v)
			}
			rule.SetSqrefDropList(fmt.Sprintf("Values!$%s$1:$%s$%d", col, col, len(c.values)))
			e.do(f.AddDataValidation("Listings", rule))
		case c.most > 0:
			e.do(rule.SetRange(0, c.most, excelize.DataValidationTypeTextLength, excelize.DataValidationOperatorBetween))
			e.do(f.AddDataValidation("Listings", rule))
		}
	}
	out, err := f.WriteToBuffer()
	e.do(err)
	if e.err != nil {
		return sim.SheetBlank{}, fmt.Errorf("making Copperfold's blank: %w", e.err)
	}
	return sim.SheetBlank{Name: "copperfold-" + category + ".xlsx", Content: out.Bytes()}, nil
}

// sheetMaker keeps the first thing that went wrong.
type sheetMaker struct {
	f   *excelize.File
	err error
}

func (e *sheetMaker) do(err error) {
	if e.err == nil {
		e.err = err
	}
}

func (e *sheetMaker) put(sheet, cell, text string) {
	if text != "" {
		e.do(e.f.SetCellStr(sheet, cell, text))
	}
}

// CopperfoldSheets is how Copperfold takes sheets: a blank for each category that
// it has, and one for changes; its people take two days to look them through.
func CopperfoldSheets() (*sim.Sheets, error) {
	cooking, err := copperfoldBlank("cooking", blankColumn{"Capacity, ml", "Optional", "350", nil, 0}, blankColumn{"Colour", "Optional", "Moss", []string{"Moss", "Slate", "Rust", "Sand"}, 0})
	if err != nil {
		return nil, err
	}
	camping, err := copperfoldBlank("camping", blankColumn{"Sleeps", "Optional", "2", nil, 0}, blankColumn{"Colour", "Optional", "Moss", []string{"Moss", "Slate", "Rust", "Sand"}, 0})
	if err != nil {
		return nil, err
	}
	changes := sim.SheetBlank{Name: "copperfold-price-and-stock.csv", Content: []byte("SKU,Price,Stock\r\n")}
	return &sim.Sheets{Blanks: []sim.SheetBlank{cooking, camping, changes}, Review: 48 * time.Hour, Doors: []string{"JP"}}, nil
}
