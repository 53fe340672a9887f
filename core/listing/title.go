package listing

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// part is one part of a title: its name and words, as written and as compared.
type part struct {
	name  string
	words []word
}

type word struct {
	text  string
	key   string // without case, accents and outer punctuation
	stays bool   // also where it stood before
}

// Compose makes a title from parts, docs/definitions/listing.md section 2, "The title". It
// says which parts were left out to keep the limit, whole or in part.
func (t *Title) Compose(v *Values, none string) (title string, leftOut []string) {
	parts := t.parts(v, none)
	shown := t.once(parts)
	for !t.fits(shown) && len(shown) > 1 {
		name, ok := t.nextToGo(shown)
		if !ok {
			break
		}
		leftOut = append(leftOut, name)
		parts = slices.DeleteFunc(parts, func(p part) bool { return p.name == name })
		shown = t.once(parts)
	}
	for !t.fits(shown) {
		last := &shown[len(shown)-1]
		if len(shown) == 1 && len(last.words) == 1 {
			break
		}
		if !slices.Contains(leftOut, last.name) {
			leftOut = append(leftOut, last.name)
		}
		if last.words = last.words[:len(last.words)-1]; len(last.words) == 0 {
			shown = shown[:len(shown)-1]
		}
	}
	return join(shown), leftOut
}

// parts are those that aren't empty, in order.
func (t *Title) parts(v *Values, none string) []part {
	var out []part
	for _, name := range t.Parts {
		text := v.Text(name)
		if name == "brand" && none != "" && text != "" && Alike(text) == Alike(none) {
			text = "" // the place's word for none is no part of a title
		}
		p := part{name: name}
		for _, w := range strings.Fields(text) {
			p.words = append(p.words, wordOf(w))
		}
		if p.words != nil {
			out = append(out, p)
		}
	}
	if t.NumbersFirst {
		slices.SortStableFunc(out, func(a, b part) int { return numberless(a) - numberless(b) })
	}
	return out
}

// numberless is 1 for a part without a digit.
func numberless(p part) int {
	if slices.ContainsFunc(p.words, func(w word) bool { return strings.ContainsFunc(w.text, unicode.IsDigit) }) {
		return 0
	}
	return 1
}

func wordOf(text string) word {
	bare := strings.TrimFunc(text, unicode.IsPunct)
	return word{text: text, key: fold(bare), stays: utf8.RuneCountInString(bare) <= 1 || strings.ContainsFunc(text, unicode.IsDigit)}
}

// once leaves out words that stood in an earlier part, and parts that lose all.
func (t *Title) once(parts []part) []part {
	if t.RepeatWords {
		return slices.Clone(parts)
	}
	seen := map[string]bool{}
	var out []part
	for _, p := range parts {
		kept := part{name: p.name}
		for _, w := range p.words {
			if w.stays || !seen[w.key] {
				kept.words = append(kept.words, w)
			}
		}
		for _, w := range p.words {
			seen[w.key] = true
		}
		if kept.words != nil {
			out = append(out, kept)
		}
	}
	return out
}

// nextToGo is the first of those to go that is there.
func (t *Title) nextToGo(shown []part) (string, bool) {
	for _, name := range t.FirstToGo {
		if slices.ContainsFunc(shown, func(p part) bool { return p.name == name }) {
			return name, true
		}
	}
	return "", false
}

func (t *Title) fits(shown []part) bool {
	return len(shown) == 0 || t.Limit == nil || !over(join(shown), t.Counts, t.Limit)
}

func join(shown []part) string {
	var b strings.Builder
	for _, p := range shown {
		for _, w := range p.words {
			if b.Len() > 0 {
				b.WriteByte(' ')
			}
			b.WriteString(w.text)
		}
	}
	return b.String()
}

// named is the value of a name, "" for an attribute's.
func (v *Values) named(name string) string {
	s := ""
	switch name {
	case "sku":
		s = v.SKU
	case "number":
		s = v.Number
	case "brand":
		s = v.Brand
	case "title":
		s = v.Title
	case "description":
		s = v.Description
	case "price":
		s = v.Price
	case "list_price":
		s = v.ListPrice
	case "former":
		s = v.Former
	case "words":
		return strings.Join(Text(v.Words).items(), ", ")
	case "series":
		s = v.Series
	case "model":
		s = v.Model
	case "key_feature":
		s = v.KeyFeature
	case "kind":
		s = v.Kind
	case "pack":
		s = v.Pack
	}
	return clean(s)
}

func (v *Values) attribute(ref string) string { return v.Attributes[ref].joined() }

// Text is the value of a name, else the attribute of that name: a part of a
// title as it is written.
func (v *Values) Text(name string) string {
	if s := v.named(name); s != "" {
		return s
	}
	return v.attribute(name)
}
