// Package demo makes the made-up shop of the demo from a fixed seed: what its
// suppliers send and what its marketplaces list. The same seed gives the same
// bytes, so that tests and pictures repeat.
package demo

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// Seed is the demo's.
const Seed = 8640

var brands = []string{"Tarnwick", "Ottermere", "Fellgrove", "Brackenby", "Skarholt", "Merrowdale"}

var lines = []string{"Trail", "Fell", "Moor", "Shore", "Summit", "Camp"}

// good is a sort of thing: its name, where Quaymarket puts it, what it costs
// in pence, and the ways it comes in.
type good struct {
	name, category string
	cost           int64
	ways           []string
}

var goods = []good{
	{"mug, titanium", "mugs", 980, []string{"300 ml", "450 ml", "600 ml", "750 ml"}},
	{"mug, enamel", "mugs", 310, []string{"moss", "slate", "rust", "sand", "ink"}},
	{"beaker, folding", "mugs", 240, []string{"200 ml", "350 ml"}},
	{"stove, folding, gas", "stoves", 1650, []string{"with lighter", "plain"}},
	{"stove, spirit burner", "stoves", 1190, []string{"brass", "steel"}},
	{"windshield, folding", "stoves", 640, []string{"6 leaf", "8 leaf", "10 leaf"}},
	{"kettle, enamel", "cookware", 1420, []string{"0.8 l", "1.2 l", "1.6 l"}},
	{"cook set, 2 person", "cookware", 2380, []string{"hard anodised", "steel", "titanium"}},
	{"frying pan, folding handle", "cookware", 1240, []string{"18 cm", "20 cm", "24 cm"}},
	{"pot with lid", "cookware", 1130, []string{"0.9 l", "1.4 l", "2 l"}},
	{"spork, long", "cutlery", 290, []string{"titanium", "steel", "wood"}},
	{"cutlery set", "cutlery", 520, []string{"3 piece", "4 piece"}},
	{"chopping board, roll-up", "cutlery", 410, []string{"small", "large"}},
	{"water bottle", "water", 690, []string{"0.5 l", "0.75 l", "1 l"}},
	{"water carrier, folding", "water", 760, []string{"5 l", "10 l"}},
	{"flask, steel", "water", 1390, []string{"0.5 l", "0.75 l", "1 l"}},
	{"tarp, hex", "tarps", 3180, []string{"3 × 3 m, moss", "3 × 4 m, moss", "3 × 3 m, slate"}},
	{"tarp, ridge", "tarps", 2650, []string{"2 × 3 m", "3 × 3 m"}},
	{"ground sheet", "tarps", 1260, []string{"1 person", "2 person"}},
	{"peg set, steel", "pegs", 480, []string{"10 × 18 cm", "10 × 23 cm"}},
	{"peg set, alloy", "pegs", 590, []string{"8 × 16 cm", "10 × 16 cm"}},
	{"guy line, reflective", "pegs", 430, []string{"4 × 3 m", "6 × 4 m"}},
	{"lantern, gas", "light", 2140, []string{"small", "large"}},
	{"lantern mantle", "light", 170, []string{"pack of 3", "pack of 6"}},
	{"head torch", "light", 1480, []string{"200 lm", "350 lm"}},
	{"dry sack", "packs", 670, []string{"8 l, rust", "13 l, rust", "20 l, rust", "35 l, moss"}},
	{"day pack", "packs", 2790, []string{"18 l", "24 l"}},
	{"map case", "finding", 720, []string{"A4", "A5"}},
	{"compass, base plate", "finding", 1080, []string{"small", "large"}},
	{"walking poles, pair", "poles", 2590, []string{"alloy", "carbon"}},
	{"sit mat, foam", "sleep", 380, []string{"moss", "slate"}},
	{"quilt, down", "sleep", 8900, []string{"summer", "three season", "winter"}},
	{"pillow, inflatable", "sleep", 860, []string{"small", "large"}},
	{"blanket, wool", "sleep", 2240, []string{"moss", "slate"}},
	{"gaiters, pair", "walking", 1370, []string{"short", "long"}},
}

// item is one thing of the demo, as everybody knows it.
type item struct {
	n        int
	brand    string
	line     string
	good     good
	way      string
	gtin     string // 13 digits
	usual    int64  // what it costs usually, pence
	cost     int64  // what it costs now
	stock    int64
	pack     int64 // how many Fernhollow sells as one
	category string
}

func (it *item) title() string {
	return fmt.Sprintf("%s %s %s, %s", it.brand, it.line, it.good.name, it.way)
}

// entryTitle says the same as somebody else would.
func (it *item) entryTitle() string {
	name, more, _ := strings.Cut(it.good.name, ", ")
	words := []string{it.brand, it.line}
	if more != "" {
		words = append(words, strings.ToUpper(more[:1])+more[1:])
	}
	return strings.Join(append(words, name, it.way), " ")
}

// mpn is its maker's number.
func (it *item) mpn() string { return fmt.Sprintf("%s%s-%04d", it.brand[:1], it.line[:1], 1000+it.n) }

// inGerman are the names of goods as Quaymarket DE has them.
var inGerman = map[string]string{
	"mug, titanium": "Titanbecher", "mug, enamel": "Emaillebecher", "beaker, folding": "Faltbecher", "kettle, enamel": "Emaillekessel",
	"frying pan, folding handle": "Bratpfanne mit Klappgriff", "pot with lid": "Topf mit Deckel", "water bottle": "Trinkflasche",
	"water carrier, folding": "Faltkanister", "flask, steel": "Thermosflasche Edelstahl", "dry sack": "Packsack wasserdicht",
	"day pack": "Tagesrucksack", "tarp, ridge": "Firstplane", "head torch": "Stirnlampe",
}

// german is its title on the German site; "" where that is the English one.
func (it *item) german() string {
	name := inGerman[it.good.name]
	if name == "" {
		return ""
	}
	return fmt.Sprintf("%s %s %s, %s", it.brand, it.line, name, it.way)
}

// singles is how many single things are in one, as its name says.
func (it *item) singles() int64 {
	n := int64(1)
	_, _ = fmt.Sscanf(it.way, "pack of %d", &n)
	return n
}

func (it *item) ref() string { return fmt.Sprintf("FW-%05d", 20000+it.n*7) }

// items lists the first n of all the things there are.
func items(n int) []item {
	r := rand.New(rand.NewPCG(Seed, 1))
	var out []item
	for _, l := range lines {
		for _, b := range brands {
			for _, g := range goods {
				for _, way := range g.ways {
					out = append(out, item{brand: b, line: l, good: g, way: way, category: g.category})
				}
			}
		}
	}
	r.Shuffle(len(out), func(i, j int) { out[i], out[j] = out[j], out[i] })
	out = out[:n]
	for i := range out {
		it := &out[i]
		it.n = i
		it.gtin = gtin13(100_000 + i*37)
		it.cost = it.good.cost*(85+r.Int64N(40))/100 + r.Int64N(9)
		it.usual = it.cost
		it.stock = r.Int64N(90) + 4
		if r.IntN(12) == 0 && i >= mayMove {
			it.stock = 0
		}
		it.pack = 1
		if it.good.cost < 700 && r.IntN(3) == 0 && i%8 == 0 {
			it.pack = 6
		}
	}
	return out
}

// gtin13 is a number with the example prefix 952.
func gtin13(n int) string {
	body := fmt.Sprintf("952%09d", n)
	return body + checkDigit(body)
}

func checkDigit(body string) string {
	sum := 0
	for i := range body {
		d := int(body[len(body)-1-i] - '0')
		if i%2 == 0 {
			d *= 3
		}
		sum += d
	}
	return fmt.Sprint((10 - sum%10) % 10)
}

func pence(v int64) string { return fmt.Sprintf("%d.%02d", v/100, v%100) }

// grams is what the item weighs packed: dearer things are heavier, more or less.
func (it item) grams() int64 { return 80 + it.usual%1900 + it.usual/20 }
