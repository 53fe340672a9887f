package demo

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"strconv"

	"easymargin/internal/sim"
)

// fernhollowRows is how many products Fernhollow has, before its slips.
const fernhollowRows = 1194

// Fernhollow is what Fernhollow Wholesale sends, one list after another:
//
//	0  the first, with four rows that can't be taken
//	1  some costs up and some down, some out of stock, some gone, four new
//	2  broken off after a third: to be held
//	3  whole again
func Fernhollow() [][]byte {
	all := items(fernhollowRows + 4)
	first, later := all[:fernhollowRows], all[fernhollowRows:]
	return [][]byte{
		fernhollowList(first, nil, true),
		fernhollowList(first, later, false),
		fernhollowList(first[:400], nil, false),
		fernhollowList(first, later, false),
	}
}

// oddities are the few products whose number makes matching a decision.
const (
	noNumber   = 3 // the first so many have none
	caseNumber = 6 // up to here: the number of a case of six
	unlisted   = 9 // up to here: Quaymarket hasn't got them
	doubled    = 13
	needsLeave = 16 // up to here Quaymarket refuses what is sent
	closed     = 17 // up to here its entries may not be copied
	byLeave    = 18 // up to here selling needs leave, and it says so
	nearMiss   = 19 // up to here its entry has the number and is another size
	accessory  = 20 // up to here it has the number and is a cover for the thing
	mayMove    = 20 // from here on the second list changes things
)

// fernhollowList is one list: the first with its slips, or a later one in which
// things have moved.
func fernhollowList(first, later []item, slips bool) []byte {
	r := rand.New(rand.NewPCG(Seed, 2))
	var list []item
	for i, it := range first {
		if !slips {
			switch k := r.IntN(1000); {
			case i < mayMove:
			case k < 45:
				it.cost += it.cost * (3 + r.Int64N(12)) / 100
			case k < 70:
				it.cost -= it.cost * (2 + r.Int64N(8)) / 100
			case k < 72:
				it.cost += it.cost * 34 / 100
			case k < 92:
				it.stock = 0
			case k < 97:
				continue // gone
			case k < 200:
				it.stock = max(0, it.stock+r.Int64N(15)-8)
			}
		}
		list = append(list, it)
	}
	return fernhollowFile(append(list, later...), slips)
}

// fernhollowFile is the file of a list, with four rows that can't be taken among
// its first rows where they are wanted.
func fernhollowFile(list []item, slips bool) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	put := func(cells ...string) { _ = w.Write(cells) }
	put("Item code", "Barcode", "Product name", "Brand", "Category", "Trade price", "Stock", "Pack qty", "RRP", "Image", "Long description")
	for i, it := range list {
		put(fernhollowRow(it)...)
		if !slips {
			continue
		}
		switch i {
		case 211:
			put("FW-90001", gtin13(990_001), "Ottermere Fell kettle, enamel, 2 l", "Ottermere", "cookware", "", "12", "1", "29.95", "", "")
		case 480:
			twice := list[37]
			put(twice.ref(), twice.gtin, twice.title(), twice.brand, twice.category, pence(twice.cost+50), "4", "1", "19.95", "", "")
		case 733:
			put("FW-90002", gtin13(990_002), "", "Tarnwick", "pegs", "4.10", "30", "1", "9.95", "", "")
		case 1012:
			put("FW-90003", gtin13(990_003), "Skarholt Moor head torch, 200 lm", "Skarholt", "light", "0.00", "8", "1", "24.95", "", "")
		}
	}
	w.Flush()
	return b.Bytes()
}

func fernhollowRow(it item) []string {
	number := it.gtin
	switch {
	case it.n < noNumber:
		number = ""
	case it.n < caseNumber:
		body := "1" + it.gtin[:12]
		number = body + checkDigit(body)
	}
	return []string{
		it.ref(),
		number,
		it.title(),
		it.brand,
		it.category,
		pence(it.cost * it.pack),
		strconv.FormatInt(it.stock, 10),
		strconv.FormatInt(it.pack*it.singles(), 10),
		pence(it.usual * 23 / 10),
		sim.OwnHost + "/pic/" + it.category + "-" + it.ref() + ".png",
		fmt.Sprintf("<p>%s %s by %s. Packs small, mends easily.</p>", it.good.name, it.way, it.brand),
	}
}
