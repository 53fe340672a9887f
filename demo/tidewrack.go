package demo

import (
	"encoding/json"
	"math/rand/v2"
)

// tidewrackRows is about how many things Tidewrack Clearance has at a time.
const tidewrackRows = 150

// Tidewrack is what Tidewrack Clearance serves, one list after another: things
// that others have too, at clearance prices, that come and go between two looks.
func Tidewrack() [][]byte {
	all := items(catalogueSize)[900 : 900+tidewrackRows*4/3]
	r := rand.New(rand.NewPCG(Seed, 5))
	var out [][]byte
	for range 4 {
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
		for i, it := range all {
			if r.IntN(4) == 0 {
				continue
			}
			stock := any(r.Int64N(9))
			if i%29 == 3 {
				stock = "low"
			}
			list = append(
				list,
				good{
					"TW-" + it.ref()[3:],
					it.gtin,
					it.title(),
					it.brand,
					json.Number(pence(it.cost * (55 + r.Int64N(50)) / 100)),
					"GBP",
					stock,
					[]string{},
					it.grams(),
					120 + it.cost%400,
					90 + it.cost%130,
					20 + it.cost%90,
				},
			)
		}
		text, err := json.MarshalIndent(
			map[string]any{"shop": map[string]string{"name": "Tidewrack Clearance"}, "clearance": list},
			"",
			" ",
		)
		if err != nil {
			panic(err) // plain values
		}
		out = append(out, text)
	}
	return out
}
