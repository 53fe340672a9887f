package listing

import (
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"easymargin/core/ident"
	"easymargin/core/money"
)

// Checker is what a category asks for, made ready to check many listings. It
// may be used by several goroutines at once.
type Checker struct {
	plain       *Needs
	currency    money.Currency
	needs       []asked
	at          map[string]int // attributes by ref
	register    map[string]bool
	forbidden   []string
	tags        map[string]bool
	kinds       map[string]bool
	least, most *money.Amount
	saving      *money.Rate
}

// check is one listing being checked.
type check struct {
	*Checker
	v     *Values
	entry bool
	Report
}

// Ready makes needs ready. The error names the field.
func (n *Needs) Ready(c money.Currency) (*Checker, error) {
	k := &Checker{plain: n, currency: c, at: map[string]int{}}
	if !c.Valid() {
		return nil, fmt.Errorf("currency: %q is not known", string(c))
	}
	if err := n.sound(); err != nil {
		return nil, err
	}
	for i := range n.Attributes {
		a := &n.Attributes[i]
		field := fmt.Sprintf("needs.attributes[%d] (%s)", i, a.Ref)
		if _, twice := k.at[a.Ref]; twice {
			return nil, fmt.Errorf("%s: the ref stands there twice", field)
		}
		k.at[a.Ref] = i
		r, err := a.ready()
		if err != nil {
			return nil, fmt.Errorf("%s.%w", field, err)
		}
		k.needs = append(k.needs, r)
	}
	for i := range k.needs {
		a := &k.needs[i]
		for n := range a.When {
			to := -1
			if j, ok := k.at[a.When[n].Field]; ok {
				to = j
			}
			a.leads = append(a.leads, to)
		}
	}
	if t := n.Title; t != nil {
		for _, s := range t.Forbidden {
			k.forbidden = append(k.forbidden, spaced(fold(s)))
		}
	}
	if d := n.Description; d != nil {
		k.tags = set(d.HTML, strings.ToLower)
	}
	if p := n.Pictures; p != nil && p.Kinds != nil {
		k.kinds = set(p.Kinds, strings.ToLower)
	}
	if n.Brand != nil && n.Brand.Register != nil {
		k.register = set(n.Brand.Register, Alike)
	}
	return k, k.amounts()
}

func set(texts []string, key func(string) string) map[string]bool {
	out := map[string]bool{}
	for _, s := range texts {
		out[key(s)] = true
	}
	return out
}

// amounts reads the bounds of the prices.
func (k *Checker) amounts() (err error) {
	if p := k.plain.Price; p != nil {
		if k.least, err = amount("needs.price.least", p.Least, k.currency); err != nil {
			return err
		}
		if k.most, err = amount("needs.price.most", p.Most, k.currency); err != nil {
			return err
		}
		if k.least != nil && k.most != nil && k.least.Minor > k.most.Minor {
			return errors.New("needs.price: least is above most")
		}
	}
	if f := k.plain.Former; f != nil && f.Most != "" {
		r, err := money.ParseRate(f.Most)
		if err == nil && r < 0 {
			err = errors.New("must not be below 0")
		}
		if err != nil {
			return fmt.Errorf("needs.former.most: %w", err)
		}
		k.saving = &r
	}
	return nil
}

// amount reads digits[.digits] in major units; nil for a blank.
func amount(field, text string, c money.Currency) (*money.Amount, error) {
	text = clean(text)
	if text == "" {
		return nil, nil
	}
	v, err := money.Parse(text, c)
	if err == nil && text[0] == '-' {
		err = fmt.Errorf("%q is below 0", text)
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", field, err)
	}
	return &v, nil
}

// sound looks at what needs no currency: words that are known, bounds that
// leave room.
func (n *Needs) sound() error {
	oneOf := func(field, s string, words ...string) error {
		if s != "" && !slices.Contains(words, s) {
			return fmt.Errorf("needs.%s: %q is none of %s", field, s, strings.Join(words, ", "))
		}
		return nil
	}
	room := func(field string, least int64, most *int64) error {
		switch {
		case least < 0 || most != nil && *most < 0:
			return fmt.Errorf("needs.%s: must not be below 0", field)
		case most != nil && least > *most:
			return fmt.Errorf("needs.%s: least is above most", field)
		}
		return nil
	}
	errs := []error{oneOf("number", n.Number, Needed, NeededAlone, Helps)}
	if t := n.Title; t != nil {
		errs = append(errs, oneOf("title.counts", t.Counts, Characters, Bytes, UTF16), room("title.limit", 0, t.Limit))
	}
	if d := n.Description; d != nil {
		errs = append(errs, oneOf("description.counts", d.Counts, Characters, Bytes, UTF16), room("description.least, limit", d.Least, d.Limit))
	}
	if p := n.Pictures; p != nil {
		errs = append(errs, room("pictures.least, most", p.Least, p.Most), room("pictures.side", p.Side, nil), room("pictures.bytes", p.Bytes, nil))
	}
	if p := n.Package; p != nil {
		errs = append(errs, room("package.side", p.Side, nil), room("package.girth", p.Girth, nil))
		if p.Weight != nil {
			if len(p.Weight) != 2 {
				errs = append(errs, errors.New("needs.package.weight: must be the least and the most"))
			} else {
				errs = append(errs, room("package.weight", p.Weight[0], &p.Weight[1]))
			}
		}
	}
	if w := n.Words; w != nil {
		errs = append(errs, room("words.most", 0, w.Most), room("words.limit", 0, w.Limit), room("words.bytes", 0, w.Bytes))
	}
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// ready makes one attribute ready; the error names its key.
func (a *Attribute) ready() (asked, error) {
	out := asked{Attribute: *a, field: "attributes." + a.Ref}
	switch {
	case a.Ref == "":
		return out, errors.New("ref: is missing")
	case !slices.Contains([]string{KindText, KindNumber, KindChoice, KindChoices, KindYesNo, KindDate, KindLink}, a.Kind):
		return out, fmt.Errorf("kind: %q is no kind", a.Kind)
	case a.Need != "" && a.Need != Needed && a.Need != Helps:
		return out, fmt.Errorf("need: %q is neither %s nor %s", a.Need, Needed, Helps)
	case a.Counts != "" && !slices.Contains([]string{Characters, Bytes, UTF16}, a.Counts):
		return out, fmt.Errorf("counts: %q is no way to count", a.Counts)
	}
	for key, v := range map[string]*int64{"decimals": a.Decimals, "limit": a.Limit, "at_most": a.AtMost} {
		if v != nil && *v < 0 {
			return out, fmt.Errorf("%s: must not be below 0", key)
		}
	}
	var err error
	if out.least, err = bound("least", a.Least); err != nil {
		return out, err
	}
	if out.most, err = bound("most", a.Most); err != nil {
		return out, err
	}
	if out.least != nil && out.most != nil && out.least.Cmp(out.most) > 0 {
		return out, errors.New("least: is above most")
	}
	if a.Values != nil {
		out.allowed = map[string]string{}
		for _, s := range a.Values {
			if _, ok := out.allowed[Alike(s)]; !ok {
				out.allowed[Alike(s)] = s
			}
		}
	}
	for i := range a.When {
		w := &a.When[i]
		if err := w.sound(); err != nil {
			return out, fmt.Errorf("when[%d]: %w", i, err)
		}
		out.in = append(out.in, set(w.In, Alike))
	}
	return out, nil
}

// bound reads -?digits[.digits]; nil for none.
func bound(key, text string) (*big.Rat, error) {
	if text == "" {
		return nil, nil
	}
	digits := strings.TrimPrefix(text, "-")
	whole, frac, point := strings.Cut(digits, ".")
	v, ok := new(big.Rat).SetString(text)
	if !ok || !figures(whole) || point && !figures(frac) {
		return nil, fmt.Errorf("%s: %q is not a number such as 12.5", key, text)
	}
	return v, nil
}

func figures(s string) bool { return s != "" && strings.Trim(s, "0123456789") == "" }

// sound tells whether a condition is one of the three.
func (w *Condition) sound() error {
	switch {
	case w.Entry != nil && w.Field == "" && w.In == nil && w.Filled == nil:
	case w.Entry == nil && w.Field != "" && (w.In == nil) != (w.Filled == nil):
	default:
		return errors.New(`a condition is a field with "in" or "filled", or an "entry"`)
	}
	return nil
}

// Check says what is wrong with a listing, and what it will be. The error names
// an amount that can't be read.
func (c *Checker) Check(v *Values, entry bool) (Report, error) {
	k := check{Checker: c, v: v, entry: entry, Report: Report{LeftOut: []string{}, Attributes: map[string]string{}, Problems: []Problem{}}}
	price, err := amount("values.price", v.Price, c.currency)
	if err != nil {
		return k.Report, err
	}
	list, err := amount("values.list_price", v.ListPrice, c.currency)
	if err != nil {
		return k.Report, err
	}
	former, err := amount("values.former", v.Former, c.currency)
	if err != nil {
		return k.Report, err
	}
	k.sku()
	k.number()
	k.brand()
	k.title()
	k.description()
	for i := range k.needs {
		k.attribute(i)
	}
	k.words()
	k.pictures()
	k.packed()
	k.price(price, list)
	k.former(former, price)
	return k.Report, nil
}

// Applies tells whether the conditions of the needs' i-th attribute hold.
func (c *Checker) Applies(v *Values, entry bool, i int) bool {
	return (&check{Checker: c, v: v, entry: entry}).applies(i)
}

// say notes a problem; "" is none.
func (k *check) say(field, code string) {
	if code != "" {
		k.Problems = append(k.Problems, Problem{field, code, Stops})
	}
}

// count counts something needed, and whether it is done.
func (k *check) count(sum *[2]int, done bool) {
	sum[1]++
	if done {
		sum[0]++
	}
}

func (k *check) sku() {
	if code := CheckSKU(clean(k.v.SKU)); code != "" {
		k.say("sku", code)
	}
}

// CheckSKU is docs/definitions/listing.md's of a SKU: a–z, A–Z, 0–9, "-_./", at most 40.
// It gives the code of what is wrong, "" where nothing is.
func CheckSKU(s string) string {
	odd := func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && !strings.ContainsRune("-_./", r)
	}
	switch {
	case s == "":
		return "missing"
	case strings.ContainsFunc(s, odd):
		return "characters"
	case len(s) > 40:
		return "too long"
	}
	return ""
}

func (k *check) number() {
	n := ident.Read(k.v.Number)
	need := k.plain.Number
	if need == NeededAlone {
		if need = Needed; k.entry {
			need = ""
		}
	}
	missing, wrong := n.Status == ident.None, false
	if !missing {
		if wrong = !n.Found() || n.Use == ident.Internal; wrong {
			k.say("number", "wrong")
		}
	}
	switch need {
	case Needed:
		if missing {
			k.say("number", "missing")
		}
		k.count(&k.Needed, !missing && !wrong)
	case Helps:
		if missing {
			k.Problems = append(k.Problems, Problem{"number", "missing", AHelp})
		}
		k.count(&k.Helps, !missing && !wrong)
	}
}

func (k *check) brand() {
	if k.register == nil {
		return
	}
	s, code := Alike(k.v.Brand), ""
	switch none := Alike(k.plain.Brand.None); {
	case s == "":
		code = "missing"
	case !k.register[s] && (none == "" || s != none):
		code = "not on the register"
	}
	k.say("brand", code)
	k.count(&k.Needed, code == "")
}

func (k *check) title() {
	t := k.plain.Title
	if strings.TrimSpace(k.v.Title) != "" {
		k.Title = k.v.Title
	} else if t != nil {
		none := ""
		if k.plain.Brand != nil {
			none = k.plain.Brand.None
		}
		title, leftOut := t.Compose(k.v, none)
		if k.Title = title; leftOut != nil {
			k.LeftOut = leftOut
		}
	}
	code := ""
	switch {
	case k.Title == "":
		code = "missing"
	case t != nil && over(k.Title, t.Counts, t.Limit):
		code = "too long"
	case len(k.forbidden) > 0:
		in := spaced(fold(k.Title))
		if slices.ContainsFunc(k.forbidden, func(s string) bool { return phrase(in, s) }) {
			code = "forbidden words"
		}
	}
	k.say("title", code)
	k.count(&k.Needed, code == "")
}

func (k *check) description() {
	d := k.plain.Description
	if d == nil {
		return
	}
	s := clean(k.v.Description)
	all := tags(s)
	n := Length(untagged(s, all), d.Counts)
	switch {
	case n < d.Least:
		k.say("description", "too short")
	case d.Limit != nil && n > *d.Limit:
		k.say("description", "too long")
	case slices.ContainsFunc(all, func(t tag) bool { return !k.tags[t.name] }):
		k.say("description", "tags")
	}
}

func (k *check) attribute(i int) {
	a := &k.needs[i]
	t := k.v.Attributes[a.Ref]
	empty := t.joined() == "" || a.Kind == KindChoices && t.choices() == nil
	if !k.applies(i) {
		if !empty {
			k.Problems = append(k.Problems, Problem{a.field, "does not apply", LeftOut})
		}
		return
	}
	done := false
	if empty {
		if a.Need != "" {
			level := Stops
			if a.Need == Helps {
				level = AHelp
			}
			k.Problems = append(k.Problems, Problem{a.field, "missing", level})
		}
	} else {
		value, _, code := a.read(t, k.currency)
		if k.say(a.field, code); code == "" {
			k.Attributes[a.Ref], done = value, true
		}
	}
	switch a.Need {
	case Needed:
		k.count(&k.Needed, done)
	case Helps:
		k.count(&k.Helps, done)
	}
}

func (k *check) words() {
	w := k.plain.Words
	if w == nil {
		return
	}
	seen := map[string]bool{}
	var all []string
	for i, s := range k.v.Words {
		if s = clean(s); s == "" {
			continue
		}
		all = append(all, s)
		key := Alike(s)
		switch {
		case over(s, Characters, w.Limit):
			k.say(fmt.Sprintf("words.%d", i+1), "too long")
		case seen[key]:
			k.say(fmt.Sprintf("words.%d", i+1), "twice")
		}
		seen[key] = true
	}
	switch {
	case w.Most != nil && int64(len(all)) > *w.Most:
		k.say("words", "too many")
	case w.Bytes != nil && int64(len(strings.Join(all, " "))) > *w.Bytes:
		k.say("words", "too long")
	}
}

func (k *check) pictures() {
	p := k.plain.Pictures
	if p == nil {
		return
	}
	before := len(k.Problems)
	for i := range k.v.Pictures {
		x := &k.v.Pictures[i]
		code := ""
		switch {
		case k.kinds != nil && !k.kinds[strings.ToLower(clean(x.Kind))]:
			code = "wrong kind"
		case max(x.Width, x.Height) < p.Side:
			code = "too small"
		case p.Square && x.Width != x.Height:
			code = "not square"
		case p.Bytes > 0 && x.Bytes > p.Bytes:
			code = "too heavy"
		}
		k.say(fmt.Sprintf("pictures.%d", i+1), code)
	}
	switch n := int64(len(k.v.Pictures)); {
	case n < p.Least:
		k.say("pictures", "too few")
	case p.Most != nil && n > *p.Most:
		k.say("pictures", "too many")
	}
	if p.Least >= 1 {
		k.count(&k.Needed, len(k.Problems) == before)
	}
}

func (k *check) packed() {
	p := k.plain.Package
	if p == nil {
		return
	}
	var v Packed
	if k.v.Package != nil {
		v = *k.v.Package
	}
	figure := func(name string, v, least, most int64) {
		code := ""
		switch {
		case v == 0:
			code = "missing"
		case v < least:
			code = "too small"
		case most >= 0 && v > most:
			code = "too large"
		}
		k.say("package."+name, code)
		k.count(&k.Needed, code == "")
	}
	if p.Weight != nil {
		figure("weight", v.Weight, p.Weight[0], p.Weight[1])
	}
	if p.Side == 0 && p.Girth == 0 {
		return
	}
	most := p.Side
	if most == 0 {
		most = -1
	}
	figure("length", v.Length, 0, most)
	figure("width", v.Width, 0, most)
	figure("height", v.Height, 0, most)
	if p.Girth > 0 && v.Length > 0 && v.Width > 0 && v.Height > 0 {
		longest := max(v.Length, v.Width, v.Height)
		if longest+2*(v.Length+v.Width+v.Height-longest) > p.Girth {
			k.say("package.girth", "too large")
		}
	}
}

func (k *check) price(price, list *money.Amount) {
	code := ""
	switch p := k.plain.Price; {
	case price == nil:
		code = "missing"
	case k.least != nil && price.Minor < k.least.Minor:
		code = "too small"
	case k.most != nil && price.Minor > k.most.Minor:
		code = "too large"
	case p != nil && p.NotOverList && list != nil && price.Minor > list.Minor:
		code = "over the list price"
	}
	k.say("price", code)
	k.count(&k.Needed, code == "")
}

func (k *check) former(former, price *money.Amount) {
	switch {
	case former == nil || price == nil:
	case former.Minor <= price.Minor:
		k.say("former", "not above the price")
	case k.saving != nil && money.Compare(former.Minor-price.Minor, former.Minor, *k.saving) > 0:
		k.say("former", "too far")
	}
}
