package demo

import (
	"encoding/json"
	"math/rand/v2"

	"easymargin/internal/sim"
)

// tidewrackRows is about how many things Tidewrack Clearance has at a time.
const tidewrackRows = 150

// tidewrackItems are all that Tidewrack ever has: things that others have too.
func tidewrackItems() []item { return items(catalogueSize)[900 : 900+tidewrackRows*4/3] }

// Tidewrack is what Tidewrack Clearance serves, one list after another: things
// that others have too, at clearance prices, that come and go between two looks.
func Tidewrack() [][]byte {
	all := tidewrackItems()
	r := rand.New(rand.NewPCG(Seed, 5))
	var out [][]byte
	for range 4 {
		var list []item
		for _, it := range all {
			if r.IntN(4) == 0 {
				continue
			}
			it.stock = r.Int64N(9)
			it.cost = it.cost * (55 + r.Int64N(50)) / 100
			list = append(list, it)
		}
		out = append(out, tidewrackList(list))
	}
	return out
}

// tidewrackList is a list of things at the costs and stock they have.
func tidewrackList(all []item) []byte {
	type good struct {
		SKU      string      `json:"sku"`
		EAN      string      `json:"ean"`
		Name     string      `json:"name"`
		Brand    string      `json:"brand"`
		Cost     json.Number `json:"cost"`
		Currency string      `json:"currency"`
		Stock    any         `json:"stock"`
		Images   []string    `json:"images"`
		Weight   int64       `json:"weight_g,omitempty"`
		Length   int64       `json:"length_mm,omitempty"`
		Width    int64       `json:"width_mm,omitempty"`
		Height   int64       `json:"height_mm,omitempty"`
	}
	list := []good{}
	for _, it := range all {
		stock := any(it.stock)
		if it.n%29 == 3 {
			stock = "low"
		}
		list = append(list, good{
			SKU: "TW-" + it.ref()[3:], EAN: it.gtin, Name: it.title(), Brand: it.brand, Cost: json.Number(pence(it.cost)), Currency: "GBP",
			Stock: stock, Images: []string{sim.OwnHost + "/pic/" + it.category + "-" + it.ref() + ".png"}, Weight: it.grams(), Length: 120 + it.usual%400, Width: 90 + it.usual%130, Height: 20 + it.usual%90,
		})
	}
	text, err := json.MarshalIndent(map[string]any{"shop": map[string]string{"name": "Tidewrack Clearance"}, "clearance": list}, "", " ")
	if err != nil {
		panic(err) // plain values
	}
	return text
}
