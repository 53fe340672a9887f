// Command bigfeed writes a big supplier feed as CSV, the same for the same arguments, to measure and test intake.
//
//	go run ./e2e/bench/bigfeed -rows 1000000 -seed 1 -out base.csv
//	go run ./e2e/bench/bigfeed -rows 1000000 -seed 1 -out next.csv -change 5 -drop 1 -add 2
//
// The first call writes a base of N rows. The second writes what the same supplier sends next: of the base's rows, -drop percent
// are missing and -change percent have another cost, another stock or both; -add percent of N are new. Everything else is as in
// the base, to the byte. What must be counted when the file is taken, a base into an empty source and any other after its base, is
// printed as one JSON object, on standard output (on standard error with -out -). Costs move by at most 12 %.
// With any of -change, -drop, -add given, even as 0, the counts are those against the base.
package main

import (
	"bufio"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math"
	"os"
	"strconv"
)

var (
	brands = []string{"Tarnwick", "Ottermere", "Fellgrove", "Brackenby", "Skarholt", "Merrowdale"}
	goods  = []string{
		"folding stove",
		"two-burner stove",
		"double-wall mug",
		"enamel mug",
		"lidded flask",
		"nesting pan set",
		"ridge tarp",
		"ground sheet",
		"peg bag",
		"guy line set",
		"down quilt",
		"summer quilt",
		"foam sit mat",
		"map case",
	}
	colours = []string{"moss", "slate", "rust", "heather", "sand", "ink"}
	ends    = []string{
		"packs flat, dries in an hour and fits a coat pocket",
		"made for two people on wet days in a small camp",
		"quiet in wind, and warm for its weight and size",
		"comes with a stuff sack, a spare strap and a card",
		"made to last, easy to mend and easy to pass on",
		"for the long way round, in any weather we know",
	}
)

// mix turns a seed, a row and a purpose into 64 well-spread bits.
func mix(seed, row, purpose uint64) uint64 {
	z := seed*0x9e3779b97f4a7c15 + row*0xbf58476d1ce4e5b9 + purpose*0x94d049bb133111eb + 0x2545f4914f6cdd1d
	for i := 0; i < 2; i++ {
		z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9
		z = (z ^ (z >> 27)) * 0x94d049bb133111eb
		z ^= z >> 31
	}
	return z
}

func gcd(a, b uint64) uint64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// gtin is a 13-digit number with the example prefix 952; no two rows of a feed share one.
func gtin(dst []byte, seed, row uint64) []byte {
	item := (row*736878703 + mix(seed, 0, 1)%1000000000) % 1000000000
	start := len(dst)
	dst = append(dst, '9', '5', '2')
	for d := uint64(100000000); d > 0; d /= 10 {
		dst = append(dst, byte('0'+item/d%10))
	}
	sum := 0
	for i, c := range dst[start:] {
		if i%2 == 0 {
			sum += int(c - '0')
		} else {
			sum += 3 * int(c-'0')
		}
	}
	return append(dst, byte('0'+(10-sum%10)%10))
}

func digits(dst []byte, n uint64, width int) []byte {
	s := strconv.FormatUint(n, 10)
	for i := len(s); i < width; i++ {
		dst = append(dst, '0')
	}
	return append(dst, s...)
}

func cost(seed, row uint64) uint64  { return 150 + mix(seed, row, 2)%8850 } // minor units
func stock(seed, row uint64) uint64 { return mix(seed, row, 3) % 121 }

func record(dst []byte, seed, row, cost, stock uint64) []byte {
	h := mix(seed, row, 4)
	pick := func(list []string) string {
		s := list[h%uint64(len(list))]
		h /= uint64(len(list))
		return s
	}
	brand, good, colour, end := pick(brands), pick(goods), pick(colours), pick(ends)
	dst = append(dst, "BF-"...)
	dst = digits(dst, row+1, 8)
	dst = append(dst, ',')
	if h%100 >= 3 { // some have none
		dst = gtin(dst, seed, row)
	}
	dst = append(dst, ',', '"')
	dst = append(dst, brand...)
	dst = append(dst, ' ')
	dst = append(dst, good...)
	dst = append(dst, ", "...)
	dst = append(dst, colour...)
	dst = append(dst, '"', ',')
	dst = append(dst, brand...)
	dst = append(dst, ',')
	dst = strconv.AppendUint(dst, cost/100, 10)
	dst = append(dst, '.')
	dst = digits(dst, cost%100, 2)
	dst = append(dst, ",GBP,"...)
	dst = strconv.AppendUint(dst, stock, 10)
	h = mix(seed, row, 5)
	for _, span := range []uint64{2400, 440, 300, 240} { // weight, length, width, height
		dst = append(dst, ',')
		dst = strconv.AppendUint(dst, 20+h%span, 10)
		h /= span
	}
	dst = append(dst, ",http://127.0.0.1:8095/pic/"...)
	dst = digits(dst, row+1, 8)
	dst = append(dst, `.png,"`...)
	if good[0] == 'e' {
		dst = append(dst, "An "...)
	} else {
		dst = append(dst, "A "...)
	}
	dst = append(dst, good...)
	dst = append(dst, " in "...)
	dst = append(dst, colour...)
	dst = append(dst, ", "...)
	dst = append(dst, end...)
	return append(dst, '.', '"', '\n')
}

type counts struct {
	File         string `json:"file"`
	Rows         uint64 `json:"rows"`
	New          uint64 `json:"new"`
	Changed      uint64 `json:"changed"`
	Same         uint64 `json:"same"`
	SetAside     uint64 `json:"set_aside"`
	Gone         uint64 `json:"gone"`
	CostChanged  uint64 `json:"cost_changed"`
	StockChanged uint64 `json:"stock_changed"`
	ToZero       uint64 `json:"to_zero"`
	FromZero     uint64 `json:"from_zero"`
	Bytes        uint64 `json:"bytes"`
}

func run() error {
	rows := flag.Uint64("rows", 1000000, "rows of the base")
	seed := flag.Uint64("seed", 1, "seed")
	out := flag.String("out", "", "file to write, - for standard output")
	change := flag.Float64("change", 0, "percent of the base's rows with another cost, stock or both")
	drop := flag.Float64("drop", 0, "percent of the base's rows that are missing")
	add := flag.Float64("add", 0, "percent of the base's number of rows that are new")
	flag.Parse()
	if *out == "" || flag.NArg() > 0 {
		flag.Usage()
		os.Exit(2)
	}
	next := false
	flag.Visit(func(f *flag.Flag) {
		if f.Name == "change" || f.Name == "drop" || f.Name == "add" {
			next = true
		}
	})
	n := *rows
	if n > 90000000 {
		return fmt.Errorf("-rows: at most 90000000")
	}
	part := func(p float64) uint64 { return uint64(math.Round(float64(n) * p / 100)) }
	for name, p := range map[string]float64{"change": *change, "drop": *drop, "add": *add} {
		if !(p >= 0) || p > 1000 {
			return fmt.Errorf("-%s: not a percentage", name)
		}
	}
	dropped, changed, added := part(*drop), part(*change), part(*add)
	if dropped+changed > n {
		return fmt.Errorf("-drop and -change: more than all rows")
	}
	// Which rows: place(row) is a permutation of 0…n-1; the first `dropped` places go, the next `changed` change.
	step := uint64(1)
	if n > 2 {
		step = n*618/1000 + mix(*seed, n, 6)%n/7
		for step %= n; gcd(step, n) != 1; {
			step = (step + 1) % n
		}
	}
	shift := uint64(0)
	if n > 0 {
		shift = mix(*seed, n, 7) % n
	}
	place := func(row uint64) uint64 { return (row*step + shift) % n }

	var w io.Writer = os.Stdout
	report := io.Writer(os.Stderr)
	if *out != "-" {
		f, err := os.Create(*out)
		if err != nil {
			return err
		}
		defer f.Close()
		w, report = f, os.Stdout
	}
	b := bufio.NewWriterSize(w, 1<<20)
	c := counts{File: *out}
	line := []byte("ref,identifier,title,brand,cost,currency,stock,weight_g,length_mm,width_mm,height_mm,image,description\n")
	put := func() error {
		c.Bytes += uint64(len(line))
		_, err := b.Write(line)
		return err
	}
	if err := put(); err != nil {
		return err
	}
	for row := uint64(0); row < n+added; row++ {
		price, left := cost(*seed, row), stock(*seed, row)
		switch {
		case row >= n:
			c.New++
		case place(row) < dropped:
			c.Gone++
			continue
		case place(row) < dropped+changed:
			c.Changed++
			h := mix(*seed, row, 8)
			how := h % 3 // 0 cost, 1 stock, 2 both
			h /= 3
			if how != 1 {
				c.CostChanged++
				by := 1 + price*(h%12)/100 // 1 … 11 % and a unit
				if h/12%2 == 0 && price > by+100 {
					price -= by
				} else {
					price += by
				}
			}
			h /= 24
			if how != 0 {
				c.StockChanged++
				was := left
				left = (left + 1 + h%60) % 121
				if was > 0 && left == 0 {
					c.ToZero++
				}
				if was == 0 {
					c.FromZero++
				}
			}
		case next:
			c.Same++
		default:
			c.New++
		}
		line = record(line[:0], *seed, row, price, left)
		c.Rows++
		if err := put(); err != nil {
			return err
		}
	}
	if err := b.Flush(); err != nil {
		return err
	}
	return json.NewEncoder(report).Encode(c)
}

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "bigfeed:", err)
		os.Exit(1)
	}
}
