package feed

import (
	"fmt"
	"html"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"github.com/microcosm-cc/bluemonday"

	"easymargin/core/ident"
	"easymargin/core/money"
	"easymargin/core/supply"
)

// parser turns records of one file into rows.
type parser struct {
	look     Look
	settings Settings
	index    map[string]int // field → its (first) column
	pictures []int
	others   []int // columns kept as attributes
}

func newParser(l Look, s Settings) *parser {
	p := &parser{settings: s, index: map[string]int{}}
	if p.settings.SomeStock == 0 {
		p.settings.SomeStock = 5
	}
	p.look = l
	p.look.Columns = append([]Column(nil), l.Columns...)
	for i := range p.look.Columns {
		c := &p.look.Columns[i]
		if field, ok := s.Columns[c.Name]; ok {
			c.Field = field
		}
		switch {
		case c.Field == "pictures":
			p.pictures = append(p.pictures, i)
		case c.Field == "" && c.Name != "":
			p.others = append(p.others, i)
		case c.Field != "":
			if _, ok := p.index[c.Field]; !ok {
				p.index[c.Field] = i
			}
		}
	}
	return p
}

// column is the name, in the file, of the column a field is read from.
func (p *parser) column(field string) string {
	if i, ok := p.index[field]; ok {
		return p.look.Columns[i].Name
	}
	return ""
}

func (p *parser) cell(r Record, field string) string {
	if i, ok := p.index[field]; ok && i < len(r.Cells) {
		return r.Cells[i]
	}
	return ""
}

func (p *parser) row(r Record) *Row {
	row := &Row{Number: r.Row}
	out := &row.Product
	aside := func(field, reason string) {
		row.Problems = append(row.Problems, supply.Problem{Column: p.column(field), Value: clip(p.cell(r, field), 200), Reason: reason})
	}
	warn := func(format string, args ...any) { row.Warnings = append(row.Warnings, fmt.Sprintf(format, args...)) }
	text := func(field string) string { return plainText(p.cell(r, field)) }
	if len(r.Cells) > len(p.look.Columns) {
		warn("%d cells beyond the header were left out", len(r.Cells)-len(p.look.Columns))
	}
	if out.Ref = text("ref"); out.Ref == "" {
		aside("ref", "the ref is missing")
	}
	if out.Title = text("title"); out.Title == "" {
		aside("title", "the title is missing")
	}
	currency, err := p.currency(r)
	if err != nil {
		aside("currency", err.Error())
	} else {
		p.cost(r, row, currency, aside, warn)
	}
	if s := p.cell(r, "list_price"); strings.TrimSpace(s) != "" && currency != "" {
		if v, _, err := amount(s, currency); err == nil {
			out.ListPrice = &v
		} else {
			warn("%s %q was left out: %v", p.column("list_price"), clip(s, 40), err)
		}
	}
	out.Stock = p.stock(r, warn)
	n := ident.Read(p.cell(r, "identifier"))
	if n.Found() {
		out.GTIN, out.GTINStatus = n.GTIN, string(n.Status)
		if n.Why == ident.WhyLeadingZeros {
			out.GTINStatus = string(n.Why)
		}
	}
	if m := n.Message(); m != "" {
		warn("%s: %s", p.column("identifier"), m)
	}
	out.Brand, out.Category, out.MPN = text("brand"), text("category"), text("mpn")
	out.Group, out.Colour, out.Size = text("group"), text("colour"), text("size")
	out.Description = SafeHTML(p.cell(r, "description"))
	if s := text("units_per_item"); s != "" {
		if v, err := strconv.ParseInt(s, 10, 32); err == nil && v > 0 {
			out.UnitsPerItem = v
		} else {
			warn("%s %q is not a whole number above 0 and was left out", p.column("units_per_item"), clip(s, 40))
		}
	}
	if s := strings.TrimSpace(p.cell(r, "link")); isAddress(s) {
		out.Link = s
	}
	for _, i := range p.pictures {
		if i < len(r.Cells) {
			out.Pictures = append(out.Pictures, addresses(r.Cells[i])...)
		}
	}
	for _, i := range p.others {
		if i < len(r.Cells) {
			if v := plainText(r.Cells[i]); v != "" {
				if out.Attributes == nil {
					out.Attributes = map[string]string{}
				}
				out.Attributes[p.look.Columns[i].Name] = v
			}
		}
	}
	return row
}

func (p *parser) currency(r Record) (money.Currency, error) {
	code := strings.ToUpper(strings.TrimSpace(p.cell(r, "currency")))
	if code == "" {
		code = signOf(p.cell(r, "cost"))
	}
	if code == "" {
		code = string(p.settings.Currency)
	}
	if c := money.Currency(code); c.Valid() {
		return c, nil
	}
	if code == "" {
		return "", fmt.Errorf("no currency is given, here or with the source")
	}
	return "", fmt.Errorf("%q is not a currency code such as GBP", clip(code, 20))
}

func (p *parser) cost(r Record, row *Row, c money.Currency, aside func(field, reason string), warn func(string, ...any)) {
	s := p.cell(r, "cost")
	if strings.TrimSpace(s) == "" {
		aside("cost", "the cost is missing")
		return
	}
	v, rounded, err := amount(s, c)
	switch {
	case err != nil:
		aside("cost", err.Error())
	case v.Minor <= 0:
		aside("cost", "the cost must be above 0")
	default:
		row.Product.Cost = v
		if rounded {
			warn("%s %q has more decimals than %s; rounded up", p.column("cost"), clip(s, 40), c)
		}
	}
}

var signs = map[string]string{"£": "GBP", "€": "EUR", "$": "USD"}

// signOf is the currency named by a sign or a code in an amount, or "".
func signOf(s string) string {
	for sign, code := range signs {
		if strings.Contains(s, sign) {
			return code
		}
	}
	letters := strings.ToUpper(strings.TrimFunc(s, func(r rune) bool { return !unicode.IsLetter(r) }))
	if money.Currency(letters).Valid() {
		return letters
	}
	return ""
}

var plainAmount = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?$`)

// amount reads an amount with a decimal point. Decimals beyond the currency's
// are rounded up, which the second result tells.
func amount(s string, c money.Currency) (money.Amount, bool, error) {
	digits := strings.TrimFunc(strings.TrimSpace(s), func(r rune) bool {
		return unicode.IsLetter(r) || unicode.IsSpace(r) || strings.ContainsRune("£€$", r)
	})
	if !plainAmount.MatchString(digits) {
		return money.Amount{}, false, fmt.Errorf("%q can't be read as an amount; write it with a point, as in 12.40", clip(s, 40))
	}
	exp, _ := c.Digits()
	rounded := false
	if whole, frac, ok := strings.Cut(digits, "."); ok {
		frac = strings.TrimRight(frac, "0")
		if len(frac) > exp {
			frac, rounded = frac[:exp], true
		}
		digits = whole
		if frac != "" {
			digits += "." + frac
		}
	}
	v, err := money.Parse(digits, c)
	if err == nil && rounded && v.Minor >= 0 && digits[0] != '-' {
		v, err = v.Add(money.Of(1, c))
	}
	return v, rounded, err
}

var stockWords = map[string]supply.Stock{}

func init() {
	for words, s := range map[string]supply.Stock{
		"outofstock soldout no false n unavailable onorder backorder preorder": {State: supply.StockKnown},
		"low limited few":                 {State: supply.StockKnown, Count: 1},
		"discontinued obsolete endoflife": {State: supply.StockEnded},
		"instock available yes true y":    {State: supply.StockKnown, Count: -1}, // as many as the source says
	} {
		for _, w := range strings.Fields(words) {
			stockWords[w] = s
		}
	}
}

var stockNumber = regexp.MustCompile(`^>?\s*(-?[0-9]+)(?:\.0+)?\s*\+?$`)

// stock reads a stock cell, section 2. Without a column there is nothing said.
func (p *parser) stock(r Record, warn func(string, ...any)) supply.Stock {
	if _, ok := p.index["stock"]; !ok {
		return supply.Stock{}
	}
	s := strings.TrimSpace(p.cell(r, "stock"))
	if m := stockNumber.FindStringSubmatch(s); m != nil {
		n, err := strconv.ParseInt(m[1], 10, 64)
		if err == nil && n < 0 {
			warn("%s %q is below nothing and counts as 0", p.column("stock"), s)
			n = 0
		}
		if err == nil {
			return supply.Stock{State: supply.StockKnown, Count: n}
		}
	}
	word := strings.ToLower(strings.NewReplacer(" ", "", "-", "").Replace(s))
	if known, ok := stockWords[word]; ok {
		if known.Count < 0 {
			known.Count = p.settings.SomeStock
		}
		return known
	}
	if s != "" {
		warn("%s %q is not understood; it counts as unknown and is offered as 0", p.column("stock"), clip(s, 40))
	}
	return supply.Stock{State: supply.StockUnknown}
}

// plainText trims, decodes entities, and takes control characters and line breaks out.
func plainText(s string) string {
	if strings.IndexByte(s, '&') >= 0 {
		s = html.UnescapeString(s)
	}
	s = strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\r' || r == '\t':
			return ' '
		case unicode.IsControl(r):
			return -1
		}
		return r
	}, s)
	return strings.TrimSpace(s)
}

var safe = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "b", "i", "strong", "em", "ul", "ol", "li", "br")
	return p
}()

// SafeHTML decodes and cleans a description: only plain marks stay, script and
// style go with their content.
func SafeHTML(s string) string {
	s = strings.TrimSpace(s)
	if strings.ContainsAny(s, "<&") {
		s = safe.Sanitize(html.UnescapeString(s))
	}
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && r != '\n' && r != '\r' && r != '\t' {
			return -1
		}
		return r
	}, s))
}

func isAddress(s string) bool {
	u, err := url.Parse(s)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Host != ""
}

// addresses splits a cell of several addresses, when each part is one.
func addresses(s string) []string {
	if s = strings.TrimSpace(s); s == "" {
		return nil
	}
	for _, mark := range []string{"|", ";", ",", " "} {
		parts := strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune(mark, r) || unicode.IsSpace(r) })
		fine := len(parts) > 0
		for _, part := range parts {
			fine = fine && isAddress(part)
		}
		if fine {
			return parts
		}
	}
	return nil
}
