package feed

import (
	"errors"
	"fmt"
	"html"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/microcosm-cc/bluemonday"

	"easymargin/core/ident"
	"easymargin/core/money"
	"easymargin/core/supply"
)

// parser turns records of one file into rows: docs/definitions/supply.md, section 2.
type parser struct {
	look     *Look
	facts    *facts
	settings Settings
	index    [fieldCount]int // field → its column, −1 where there is none
	pictures []int
	others   []int // columns kept as attributes
	today    string

	lastCode     string // the currency cell read last, and what it was read as
	lastCurrency money.Currency
	rowCurrency  money.Currency
}

// The fields that are looked up for every row, by position rather than by name.
const (
	fRef = iota
	fIdentifier
	fTitle
	fCost
	fCurrency
	fStock
	fBrand
	fCategory
	fDescription
	fMPN
	fListPrice
	fLeastAdvertised
	fAvailableFrom
	fUnits
	fLeastOrder
	fWeight
	fLength
	fWidth
	fHeight
	fBox
	fPictures
	fLink
	fCondition
	fGroup
	fColour
	fSize
	fMaterial
	fOrigin
	fCommodity
	fLeadDays
	fieldCount
)

func newParser(l *Look, f *facts, s Settings) *parser {
	p := &parser{settings: s, look: l, facts: f}
	if p.settings.SomeStock == 0 {
		p.settings.SomeStock = 5
	}
	if !s.Now.IsZero() {
		p.today = s.Now.Format(time.DateOnly)
	}
	for i := range p.index {
		p.index[i] = -1
	}
	at := map[string]int{}
	for i, name := range Fields { // in the order of the constants above
		at[name] = i
	}
	for i, c := range l.Columns {
		n, known := at[c.Field]
		switch {
		case c.Field == "pictures":
			p.pictures = append(p.pictures, i)
		case known && p.index[n] < 0:
			p.index[n] = i
		case c.Name == WhyColumn: // our own, in a file of rows that were set aside
		case !known && c.Name != "":
			p.others = append(p.others, i)
		}
	}
	return p
}

// column is the name, in the file, of the column a field is read from.
func (p *parser) column(field string) string {
	for _, c := range p.look.Columns {
		if c.Field == field {
			return c.Name
		}
	}
	return field
}

func (p *parser) cell(r *Record, field int) string {
	if i := p.index[field]; i >= 0 && i < len(r.Cells) {
		return r.Cells[i]
	}
	return ""
}

func (p *parser) text(r *Record, field int) string { return plainText(p.cell(r, field)) }

// problem is one reason for which the row is set aside.
func (p *parser) problem(row *Row, r *Record, field int, reason string) {
	row.Problems = append(row.Problems, supply.Problem{Column: p.column(Fields[field]), Value: clip(p.cell(r, field), 200), Reason: reason})
}

func (p *parser) warn(row *Row, field int, value, words string) {
	row.Warnings = append(row.Warnings, fmt.Sprintf("%s %q %s", p.column(Fields[field]), clip(value, 40), words))
}

// needs tells whether a row must have a field.
func (p *parser) needs(field int) bool {
	switch {
	case p.settings.Update:
		return false
	case p.settings.Loose:
		return p.index[field] >= 0
	}
	return true
}

func (p *parser) row(r *Record) *Row {
	row := &Row{Number: r.Row}
	if r.Broken != "" {
		row.Problems = []supply.Problem{{Value: clip(strings.Join(r.Cells, " "), 200), Reason: r.Broken}}
		return row
	}
	out := &row.Product.Product
	if n := len(p.look.Columns); len(r.Cells) > n {
		if more := (&Record{Cells: r.Cells[n:]}); !more.blank() {
			row.Warnings = append(row.Warnings, fmt.Sprintf("%d cells beyond the header were left out", len(r.Cells)-n))
		}
	}
	if out.Ref = p.text(r, fRef); out.Ref == "" {
		p.problem(row, r, fRef, "the ref is missing")
	}
	if out.Title = p.text(r, fTitle); out.Title == "" && p.needs(fTitle) {
		p.problem(row, r, fTitle, "the title is missing")
	}
	p.rowCurrency = p.currency(r, row)
	p.amounts(r, row, p.rowCurrency)
	p.stock(r, row)
	p.identifier(r, row)
	out.Brand, out.Category, out.MPN = p.text(r, fBrand), p.text(r, fCategory), p.text(r, fMPN)
	out.Group, out.Colour, out.Size = p.text(r, fGroup), p.text(r, fColour), p.text(r, fSize)
	out.Condition, out.Material = p.text(r, fCondition), p.text(r, fMaterial)
	out.Origin, out.CommodityCode = p.text(r, fOrigin), p.text(r, fCommodity)
	out.Description = SafeHTML(p.cell(r, fDescription))
	out.UnitsPerItem = p.count(r, row, fUnits, 1)
	if p.settings.Doubts && out.ListPrice != nil && out.ListPrice.Minor > 0 && out.ListPrice.Minor <= (out.Cost.Minor-1)/max(out.UnitsPerItem, 1) {
		p.problem(row, r, fCost, fmt.Sprintf("the cost is above the list price of the row, %s; mend one of the two, or how many are in one", out.ListPrice))
	}
	out.LeastOrder = p.count(r, row, fLeastOrder, 1)
	if v := p.count(r, row, fLeadDays, 0); v > 0 || strings.HasPrefix(p.text(r, fLeadDays), "0") {
		out.LeadDays = &v
	}
	p.size(r, row)
	if s := strings.TrimSpace(p.cell(r, fLink)); s != "" {
		if isAddress(s) {
			out.Link = s
		} else {
			p.warn(row, fLink, s, "is no address and was left out")
		}
	}
	for _, i := range p.pictures {
		p.picture(r, row, i)
	}
	for _, i := range p.others {
		if i < len(r.Cells) {
			if v := plainText(r.Cells[i]); v != "" {
				out.Attributes = append(out.Attributes, supply.Attribute{Name: p.look.Columns[i].Name, Value: v})
			}
		}
	}
	return row
}

// currency is the row's: from its column, else from a sign in the cost, else the source's.
func (p *parser) currency(r *Record, row *Row) money.Currency {
	cell := p.cell(r, fCurrency)
	if cell != "" && cell == p.lastCode {
		return p.lastCurrency
	}
	code := strings.ToUpper(strings.TrimSpace(cell))
	if len(code) > 0 && code[0] >= 0x80 || code == "$" {
		for sign, c := range signs3 {
			if code == string(sign) {
				code = c
			}
		}
	}
	if code == "" {
		if i := p.index[fCost]; i >= 0 && i < len(r.Cells) && !r.number(i) {
			code = signOf(r.Cells[i])
		}
	}
	if code == "" {
		return p.settings.Currency
	}
	if c := money.Currency(code); c.Valid() {
		if cell != "" {
			p.lastCode, p.lastCurrency = strings.Clone(cell), c
		}
		return c
	}
	p.problem(row, r, fCurrency, "this is no currency code such as GBP")
	return ""
}

func (p *parser) amounts(r *Record, row *Row, c money.Currency) {
	out := &row.Product
	out.Cost.Currency = c
	if s := strings.TrimSpace(p.cell(r, fCost)); s == "" {
		if p.needs(fCost) {
			p.problem(row, r, fCost, "the cost is missing")
		}
	} else {
		v, rounded, err := p.amountIn(r, p.index[fCost], c)
		switch {
		case errors.Is(err, errAmount):
			p.problem(row, r, fCost, "the cost can't be read as an amount")
		case err != nil:
			p.problem(row, r, fCost, "the cost "+err.Error())
		case v.Minor < 0:
			p.problem(row, r, fCost, "the cost is below 0")
		case v.Minor == 0:
			p.problem(row, r, fCost, "the cost is 0")
		default:
			if out.Cost = v; rounded {
				p.warn(row, fCost, s, fmt.Sprintf("has more decimals than %s; rounded up", orElse(string(c), "the currency")))
			}
		}
	}
	more := func(field int, into **money.Amount) {
		s := strings.TrimSpace(p.cell(r, field))
		if s == "" {
			return
		}
		v, rounded, err := p.amountIn(r, p.index[field], c)
		if err != nil || v.Minor < 0 {
			p.warn(row, field, s, "can't be read as an amount and was left out")
			return
		}
		if *into = &v; rounded {
			p.warn(row, field, s, "has too many decimals; rounded up")
		}
	}
	more(fListPrice, &out.ListPrice)
	more(fLeastAdvertised, &out.LeastAdvertised)
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

func (p *parser) identifier(r *Record, row *Row) {
	s := p.cell(r, fIdentifier)
	if s == "" {
		return
	}
	n := ident.Read(s)
	if n.Found() {
		row.Product.GTIN, row.Product.GTINStatus = n.GTIN, string(n.Status)
		if n.Why == ident.WhyLeadingZeros {
			row.Product.GTINStatus = string(n.Why)
		}
	}
	if m := n.Message(); m != "" {
		became := "was not read: "
		if n.Found() {
			became = "was repaired: "
		}
		p.warn(row, fIdentifier, s, became+m)
	}
}

var stockWords = func() map[string]supply.Stock {
	m := map[string]supply.Stock{}
	for words, s := range map[string]supply.Stock{
		"outofstock soldout no false n unavailable onorder backorder preorder": {State: supply.StockKnown},
		"low limited few":                 {State: supply.StockKnown, Count: 1},
		"discontinued obsolete endoflife": {State: supply.StockEnded},
		"instock available yes true y":    {State: supply.StockKnown, Count: -1}, // as many as the source says
	} {
		for _, w := range strings.Fields(words) {
			m[w] = s
		}
	}
	return m
}()

// StockWord is a stock word as settings know it: any case, spaces and hyphens ignored.
func StockWord(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) || r == '-' || r == '‐' || r == '‑' {
			return -1
		}
		return unicode.ToLower(r)
	}, s)
}

var stockNumber = regexp.MustCompile(`^>?\s*([-−]?[0-9]+|[-−]?[0-9]{1,3}(?:[ ,.'\x{00a0}\x{202f}][0-9]{3})+)(?:[.,]0+)?\s*\+?$`)

// stock reads a stock cell. Without a column there is nothing said.
func (p *parser) stock(r *Record, row *Row) {
	p.available(r, row)
	out := &row.Product
	if p.index[fStock] < 0 {
		return
	}
	s := strings.TrimSpace(p.cell(r, fStock))
	out.Stock = p.stockOf(s, row)
	if s == "" && p.settings.Update {
		out.Stock = supply.Stock{} // an update leaves it as it was
	}
	if out.AvailableFrom > p.today && p.today != "" {
		out.Stock = supply.Stock{State: supply.StockKnown}
	}
}

func (p *parser) stockOf(s string, row *Row) supply.Stock {
	known := func(n int64) supply.Stock {
		if n > money.MostStock {
			p.warn(row, fStock, s, fmt.Sprintf("is more than anybody has; it counts as %d", money.MostStock))
			n = money.MostStock
		}
		return supply.Stock{State: supply.StockKnown, Count: n}
	}
	if n, err := strconv.ParseInt(s, 10, 64); err == nil && n >= 0 && s[0] != '+' {
		return known(n)
	}
	if m := stockNumber.FindStringSubmatch(s); m != nil {
		digits := strings.Map(func(r rune) rune {
			if r >= '0' && r <= '9' {
				return r
			}
			return -1
		}, m[1])
		n, err := strconv.ParseInt(digits, 10, 64)
		if err == nil && isMinus([]rune(m[1])[0]) && n > 0 {
			p.warn(row, fStock, s, "is below nothing and counts as 0")
			n = 0
		}
		if err == nil {
			return known(n)
		}
	}
	word := StockWord(s)
	said, ok := p.settings.StockWords[word]
	if !ok {
		said, ok = stockWords[word]
	}
	if ok {
		if said.Count < 0 {
			said.Count = p.settings.SomeStock
		}
		if said.State == supply.StockKnown {
			return known(said.Count)
		}
		return said
	}
	if s != "" {
		p.warn(row, fStock, s, "is not understood; it counts as unknown and is offered as 0")
	}
	return supply.Stock{State: supply.StockUnknown}
}

var wholeNumber = regexp.MustCompile(`(?i)^([0-9]{1,9})(?:[.,]0+)?\s*(?:days?|d|pcs|pieces|units?|x)?$`)

func (p *parser) count(r *Record, row *Row, field int, least int64) int64 {
	s := p.text(r, field)
	if s == "" {
		return 0
	}
	if m := wholeNumber.FindStringSubmatch(s); m != nil {
		if v, err := strconv.ParseInt(m[1], 10, 64); err == nil && v >= least {
			return v
		}
	}
	p.warn(row, field, s, "is no whole number that makes sense here and was left out")
	return 0
}

func (p *parser) size(r *Record, row *Row) {
	out := &row.Product
	one := func(field int, into *int64, table map[string]*ratio, usual string) {
		s := strings.TrimSpace(p.cell(r, field))
		if s == "" {
			return
		}
		v, err := p.measure(s, r.number(p.index[field]), p.index[field], table, usual)
		if err != nil {
			p.warn(row, field, s, leftOut(err))
			return
		}
		*into = v
	}
	one(fWeight, &out.Weight, weights, p.settings.WeightUnit)
	one(fLength, &out.Length, lengths, p.settings.LengthUnit)
	one(fWidth, &out.Width, lengths, p.settings.LengthUnit)
	one(fHeight, &out.Height, lengths, p.settings.LengthUnit)
	box := strings.TrimSpace(p.cell(r, fBox))
	if box == "" {
		return
	}
	parts, into := boxParts(box), [3]*int64{&out.Length, &out.Width, &out.Height}
	if parts == nil {
		p.warn(row, fBox, box, "is no size such as 120x80x40 mm and was left out")
		return
	}
	var sizes [3]int64
	for i, part := range parts {
		v, err := p.measure(part, false, p.index[fBox], lengths, p.settings.LengthUnit)
		if err != nil {
			p.warn(row, fBox, box, leftOut(err))
			return
		}
		sizes[i] = v
	}
	for i := range into {
		if *into[i] == 0 {
			*into[i] = sizes[i]
		}
	}
}

func leftOut(err error) string {
	if errors.Is(err, errUnit) {
		return err.Error()
	}
	return err.Error() + " and was left out"
}

func (p *parser) picture(r *Record, row *Row, i int) {
	list, isList := r.Lists[i]
	if !isList {
		if i >= len(r.Cells) || strings.TrimSpace(r.Cells[i]) == "" {
			return
		}
		list = []string{r.Cells[i]}
	}
	for _, s := range list {
		got := addresses(s)
		if got == nil && strings.TrimSpace(s) != "" {
			p.warn(row, fPictures, s, "is no address of a picture and was left out")
		}
		row.Product.Pictures = append(row.Product.Pictures, got...)
	}
}

func isAddress(s string) bool {
	if !strings.HasPrefix(s, "http://") && !strings.HasPrefix(s, "https://") && !strings.HasPrefix(s, "HTTP") {
		return false
	}
	if plainAddress(s) {
		return true
	}
	if strings.ContainsFunc(s, unicode.IsSpace) {
		return false
	}
	u, err := url.Parse(s)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Host != ""
}

// plainAddress tells the usual addresses, which need no closer look: a host
// of letters, digits, dots and dashes, perhaps a port, then a path without
// anything that has to be decoded.
func plainAddress(s string) bool {
	_, rest, _ := strings.Cut(s, "://")
	host, path, _ := strings.Cut(rest, "/")
	host, port, colon := strings.Cut(host, ":")
	if host == "" || colon && (port == "" || !allDigits(port)) {
		return false
	}
	for i := range len(host) {
		if c := host[i]; c != '.' && c != '-' && !(c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z') {
			return false
		}
	}
	for i := range len(path) {
		if c := path[i]; c != '.' && c != '-' && c != '/' && c != '_' && c != ',' &&
			!(c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z') {
			return false
		}
	}
	return true
}

// addresses splits a cell of several addresses, when each part is one.
func addresses(s string) []string {
	s = strings.TrimSpace(s)
	if s == "" {
		return nil
	}
	if strings.Count(s, "://") == 1 && isAddress(s) {
		return []string{s}
	}
	split := func(parts []string) []string {
		var out []string
		for _, part := range parts {
			if part = strings.TrimSpace(part); part == "" {
				continue
			}
			if !isAddress(part) || strings.Count(part, "://") > 1 && !strings.Contains(part, "?") {
				return nil
			}
			out = append(out, part)
		}
		return out
	}
	for _, mark := range []string{"|", ";", ","} {
		if strings.Contains(s, mark) {
			if out := split(strings.Split(s, mark)); out != nil {
				return out
			}
		}
	}
	if out := split(strings.Fields(s)); out != nil {
		return out
	}
	// Marks mixed in one cell.
	return split(strings.FieldsFunc(s, func(r rune) bool { return r == '|' || r == ';' || r == ',' || unicode.IsSpace(r) }))
}

// plainText trims, decodes entities, and takes control characters and line breaks out.
func plainText(s string) string {
	if s == "" {
		return ""
	}
	clean := true
	for i := range len(s) {
		if c := s[i]; c < 0x20 || c == 0x7f || c == '&' || c == 0xc2 { // 0xc2 begins the C1 controls
			clean = false
			break
		}
	}
	if clean {
		return strings.TrimSpace(s)
	}
	if strings.IndexByte(s, '&') >= 0 {
		s = html.UnescapeString(s)
	}
	s = strings.ReplaceAll(s, "\r\n", " ")
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\r' || r == '\t' || r == '\u0085' || r == '\u2028' || r == '\u2029':
			return ' '
		case unicode.IsControl(r):
			return -1
		}
		return r
	}, s))
}

var safe = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "b", "i", "strong", "em", "ul", "ol", "li", "br")
	return p
}()

// SafeHTML decodes and cleans a description: only plain marks stay, script and
// style go with their content.
func SafeHTML(s string) string {
	if s == "" {
		return ""
	}
	plain := true
	for i := range len(s) {
		if c := s[i]; c < 0x20 || c == 0x7f || c == '<' || c == '&' || c == 0xc2 {
			plain = false
			break
		}
	}
	if plain {
		return strings.TrimSpace(s)
	}
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
