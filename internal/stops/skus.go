package stops

import (
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

// CheckSKUPattern says what is wrong with a pattern.
func CheckSKUPattern(p string) error {
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

// SKUWords is what a SKU is made of.
type SKUWords struct {
	Supplier, Brand, Variant, Ref string
	Number                        int64
}

// RenderSKU makes a SKU of a pattern.
func RenderSKU(pattern string, w SKUWords) string {
	out := skuPart.ReplaceAllStringFunc(pattern, func(part string) string {
		m := skuPart.FindStringSubmatch(part)
		n, _ := strconv.Atoi(m[2])
		switch m[1] {
		case "number":
			return fmt.Sprintf("%0*d", max(n, 1), w.Number)
		case "supplier":
			return initials(w.Supplier, n, "XX")
		case "brand":
			return initials(w.Brand, n, "XX")
		case "variant":
			return initials(w.Variant, n, "")
		}
		return initials(w.Ref, n, "")
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
	SKUPatternSetting = "sku_pattern"
	numberSetting     = "sku_number" // the last running number given
)

// SKUs gives SKUs in a transaction: by the pattern, each with the next running
// number, none that was ever given.
func SKUs(tx store.Tx) (func(p *store.SupplierProduct, brand, variant string) (string, error), error) {
	pattern, last, err := SKUState(tx)
	if err != nil {
		return nil, err
	}
	suppliers := map[int64]string{}
	return func(p *store.SupplierProduct, brand, variant string) (string, error) {
		w := SKUWords{Brand: brand, Variant: variant}
		if p != nil {
			w.Ref = p.Ref
			if strings.Contains(pattern, "{supplier") {
				name, known := suppliers[p.SourceID]
				if !known {
					if name, err = tx.SupplierName(p.SourceID); err != nil {
						return "", err
					}
					suppliers[p.SourceID] = name
				}
				w.Supplier = name
			}
		}
		for {
			last++
			w.Number = last
			sku := RenderSKU(pattern, w)
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

// SKUState is the pattern and the last running number.
func SKUState(tx store.Tx) (string, int64, error) {
	p, err := tx.Setting(SKUPatternSetting)
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
