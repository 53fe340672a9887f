package matching

import (
	"context"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// SKUs are made by a pattern of the seller's: letters, digits and strokes as
// they stand, and parts in braces with how many characters they have at most.
const firstPattern = "{brand:2}-{number:5}"

// skuPart is one part of a pattern: {brand:2}.
var skuPart = regexp.MustCompile(`\{([a-z]+)(?::([0-9]{1,2}))?\}`)

// mostSKU is the most characters that a SKU has.
const mostSKU = 40

// checkPattern says what is wrong with a pattern.
func checkPattern(p string) error {
	rest := skuPart.ReplaceAllString(p, "")
	numbered := false
	for _, m := range skuPart.FindAllStringSubmatch(p, -1) {
		switch m[1] {
		case "number":
			numbered = true
		case "brand", "supplier", "variant", "ref":
		default:
			return fault.At("pattern", "{%s} is none of {supplier}, {brand}, {number}, {variant} and {ref}", m[1])
		}
	}
	switch {
	case len(p) > 80:
		return fault.At("pattern", "at most 80 characters")
	case !numbered:
		return fault.At("pattern", "it needs {number}, so that no two SKUs are the same")
	case strings.Trim(rest, "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_./") != "":
		return fault.At("pattern", "beside its parts it may have letters, digits, - _ . and /")
	}
	return nil
}

// skuWords is what a SKU is made of.
type skuWords struct {
	supplier, brand, variant, ref string
	number                        int64
}

// render makes a SKU of a pattern.
func render(pattern string, w skuWords) string {
	out := skuPart.ReplaceAllStringFunc(pattern, func(part string) string {
		m := skuPart.FindStringSubmatch(part)
		n, _ := strconv.Atoi(m[2])
		switch m[1] {
		case "number":
			return fmt.Sprintf("%0*d", max(n, 1), w.number)
		case "supplier":
			return initials(w.supplier, n, "XX")
		case "brand":
			return initials(w.brand, n, "XX")
		case "variant":
			return initials(w.variant, n, "")
		}
		return initials(w.ref, n, "")
	})
	if len(out) > mostSKU {
		out = out[len(out)-mostSKU:] // the number is most often last
	}
	return strings.Trim(out, "-_./")
}

// initials are the first letters and digits of a text, capital; short of n
// letters it is filled.
func initials(s string, n int, fill string) string {
	if n == 0 {
		n = 8
	}
	out := strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, strings.ToUpper(s))
	if fill != "" && len(out) < 2 {
		out += fill
	}
	return out[:min(n, len(out))]
}

// Settings of SKUs.
const (
	patternSetting = "sku_pattern"
	numberSetting  = "sku_number" // the last running number given
)

// skus gives SKUs in a transaction: by the pattern, each with the next running
// number, none that was ever given.
func (st *Stop) skus(tx store.Tx) (func(p *store.SupplierProduct, brand, variant string) (string, error), error) {
	pattern, last, err := skuState(tx)
	if err != nil {
		return nil, err
	}
	suppliers := map[int64]string{}
	return func(p *store.SupplierProduct, brand, variant string) (string, error) {
		w := skuWords{brand: brand, variant: variant}
		if p != nil {
			w.ref = p.Ref
			if strings.Contains(pattern, "{supplier") {
				name, known := suppliers[p.SourceID]
				if !known {
					if name, err = tx.SupplierName(p.SourceID); err != nil {
						return "", err
					}
					suppliers[p.SourceID] = name
				}
				w.supplier = name
			}
		}
		for {
			last++
			w.number = last
			sku := render(pattern, w)
			given, err := tx.GiveSKU(sku)
			if err != nil {
				return "", err
			}
			if given {
				return sku, tx.PutSetting(numberSetting, strconv.FormatInt(last, 10))
			}
		}
	}, nil
}

// skuState is the pattern and the last running number.
func skuState(tx store.Tx) (string, int64, error) {
	p, err := tx.Setting(patternSetting)
	if err != nil {
		return "", 0, err
	}
	n, err := tx.Setting(numberSetting)
	if err != nil {
		return "", 0, err
	}
	last, _ := strconv.ParseInt(n.Value, 10, 64)
	if n.Value == "" {
		if last, err = tx.LastProduct(); err != nil {
			return "", 0, err
		}
	}
	if p.Value == "" {
		return firstPattern, last, nil
	}
	return p.Value, last, nil
}

// SKUPattern is how SKUs are made, with what the next would be for real rows.
type SKUPattern struct {
	Pattern string      `json:"pattern"`
	Shown   []SKUSample `json:"shown" doc:"What the next supplier products would get"`
}

// SKUSample is what one row would get.
type SKUSample struct {
	Ref   string `json:"ref"`
	Title string `json:"title"`
	SKU   string `json:"sku"`
}

// TrySKUs shows what a pattern would make of real rows; "" is the one in use.
func (st *Stop) TrySKUs(ctx context.Context, pattern string) (SKUPattern, error) {
	tx := st.Store.Reading(ctx)
	now, last, err := skuState(tx)
	if err != nil {
		return SKUPattern{}, err
	}
	if pattern == "" {
		pattern = now
	}
	if err := checkPattern(pattern); err != nil {
		return SKUPattern{}, err
	}
	rows, err := tx.SampleItems(6)
	if err != nil {
		return SKUPattern{}, err
	}
	out := SKUPattern{pattern, []SKUSample{}}
	for _, r := range rows {
		said, err := r.Product()
		if err != nil {
			return out, err
		}
		supplier, err := tx.SupplierName(r.SourceID)
		if err != nil {
			return out, err
		}
		last++
		w := skuWords{supplier: supplier, brand: r.Brand, variant: said.Colour + said.Size, ref: r.Ref, number: last}
		out.Shown = append(out.Shown, SKUSample{r.Ref, r.Title, render(pattern, w)})
	}
	return out, nil
}

// SetSKUs sets the pattern. SKUs that were given stay.
func (st *Stop) SetSKUs(ctx context.Context, pattern string) error {
	if err := checkPattern(pattern); err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.PutSetting(patternSetting, pattern); err != nil {
			return err
		}
		return tx.Note(st.Now(), "SKU pattern set", pattern, "")
	})
}
