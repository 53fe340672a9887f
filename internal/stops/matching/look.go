package matching

import (
	"context"
	"net/url"
	"slices"
	"strings"
	"time"

	"easymargin/core/ident"
	"easymargin/core/match/title"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// answersKeep is how long a place's answer to a look-up is taken for true.
const answersKeep = 7 * 24 * time.Hour

// hits are the entries found for a group, by what was asked: a number of 14
// digits, or "words: …".
type hits struct {
	entries map[string][]place.Entry // fresh from the place
	known   map[string][]string      // refs, where it was asked before and not long ago
	asked   []string                 // what the place was asked now
}

// lookUp asks for the entries of a group's numbers. What was asked within
// answersKeep isn't asked again, and what has no answer by its number is asked
// for by its words.
func (st *Stop) lookUp(ctx context.Context, catalogue place.Catalogue, site store.Site, group []store.SupplierProduct) (*hits, error) {
	h := &hits{map[string][]place.Entry{}, map[string][]string{}, nil}
	numbers := map[string]bool{}
	for i := range group {
		for _, n := range numbersOf(&group[i]) {
			numbers[n] = true
		}
	}
	if err := st.recall(ctx, site, keysOf(numbers), h); err != nil {
		return nil, err
	}
	var ask []string
	for _, n := range keysOf(numbers) {
		if _, known := h.known[n]; !known {
			ask = append(ask, n)
		}
	}
	for part := range slices.Chunk(ask, place.MaxNumbers) { // a case number asks for its item too
		entries, err := catalogue.EntriesByNumber(ctx, site.Code, part)
		if err != nil {
			return nil, err
		}
		for _, e := range entries {
			for _, n := range entryNumbers(&e) {
				if numbers[n] {
					h.entries[n] = append(h.entries[n], e)
				}
			}
		}
		h.asked = append(h.asked, part...)
	}
	return h, st.byWords(ctx, catalogue, site, group, h)
}

// byWords asks by words for those of a group that have nothing by their number.
func (st *Stop) byWords(ctx context.Context, catalogue place.Catalogue, site store.Site, group []store.SupplierProduct, h *hits) error {
	want := map[string]bool{}
	for i := range group {
		if !h.found(&group[i]) {
			want[wordsOf(&group[i])] = true
		}
	}
	if err := st.recall(ctx, site, keysOf(want), h); err != nil {
		return err
	}
	for _, key := range keysOf(want) {
		if _, known := h.known[key]; known {
			continue
		}
		entries, err := catalogue.EntriesByWords(ctx, site.Code, strings.TrimPrefix(key, wordsKey))
		if err != nil {
			return err
		}
		for i := range entries {
			if numbers := entryNumbers(&entries[i]); len(numbers) > 0 {
				entries[i].GTIN = numbers[0]
			}
		}
		h.entries[key] = entries
		h.asked = append(h.asked, key)
	}
	return nil
}

// recall adds what was answered before.
func (st *Stop) recall(ctx context.Context, site store.Site, asked []string, h *hits) error {
	if len(asked) == 0 {
		return nil
	}
	known, err := st.Store.LookedUp(ctx, site.ID, asked, st.Now().Add(-answersKeep))
	for k, refs := range known {
		h.known[k] = refs
	}
	return err
}

// found tells whether anything was found for a product's numbers.
func (h *hits) found(p *store.SupplierProduct) bool {
	for _, n := range numbersOf(p) {
		if len(h.entries[n])+len(h.known[n]) > 0 {
			return true
		}
	}
	return false
}

// keysFor are what was asked for a product.
func (h *hits) keysFor(p *store.SupplierProduct) []string { return append(numbersOf(p), wordsOf(p)) }

const wordsKey = "words: "

// wordsOf is what a product is asked for by words: its brand and title, folded,
// so that what is written otherwise isn't asked again.
func wordsOf(p *store.SupplierProduct) string {
	words := title.Fold(p.Title)
	if b := title.Fold(p.Brand); b != "" && !strings.Contains(words, b) {
		words = b + " " + words
	}
	return wordsKey + clipWords(words, 200)
}

func clipWords(s string, n int) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > n {
		s = string(r[:n])
	}
	return s
}

// numbersOf are the numbers that a product is asked for by.
func numbersOf(p *store.SupplierProduct) []string {
	if p.GTIN == "" {
		return nil
	}
	out := []string{p.GTIN}
	if in := ident.Read(p.GTIN).Inside; in != "" {
		out = append(out, in)
	}
	return out
}

// entryNumbers are an entry's numbers, 14 digits each; its own is put so too.
func entryNumbers(e *place.Entry) []string {
	var out []string
	for _, g := range append([]string{e.GTIN}, e.GTINs...) {
		if n := ident.Read(g); n.Found() && !slices.Contains(out, n.GTIN) {
			out = append(out, n.GTIN)
		}
	}
	if len(out) > 0 && e.GTIN != "" {
		e.GTIN = out[0]
	}
	return out
}

func keysOf(m map[string]bool) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// Find looks entries up by whatever a person has of them: a number of any kind,
// the place's own ref, an address of a page with whatever trails behind it, or
// words.
func (st *Stop) Find(ctx context.Context, site store.Site, text string) ([]store.Entry, error) {
	catalogue, err := st.catalogue(site)
	if err != nil {
		return nil, err
	}
	text = strings.TrimSpace(text)
	var found []place.Entry
	n := ident.Read(text)
	switch {
	case text == "":
		return nil, fault.At("q", "write a number, an entry's own number, the address of its page, or words")
	case n.Found():
		found, err = catalogue.EntriesByNumber(ctx, site.Code, []string{n.GTIN})
	case isAddress(text):
		found, err = byAddress(ctx, catalogue, site.Code, text)
	case !strings.Contains(text, " ") && strings.ContainsAny(text, "0123456789"):
		if found, err = byRef(ctx, catalogue, site.Code, text); err == nil && len(found) == 0 {
			found, err = catalogue.EntriesByWords(ctx, site.Code, text)
		}
	default:
		found, err = catalogue.EntriesByWords(ctx, site.Code, text)
	}
	if err != nil {
		return nil, err
	}
	out := make([]store.Entry, 0, len(found))
	for _, e := range found {
		if numbers := entryNumbers(&e); len(numbers) > 0 {
			e.GTIN = numbers[0]
		}
		out = append(out, st.kept(site.ID, e))
	}
	return out, nil
}

func isAddress(s string) bool {
	return strings.HasPrefix(s, "http://") || strings.HasPrefix(s, "https://")
}

// byRef asks for one entry; that there is none is no error.
func byRef(ctx context.Context, catalogue place.Catalogue, site, ref string) ([]place.Entry, error) {
	e, err := catalogue.Entry(ctx, site, ref)
	if place.Forgotten(err) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return []place.Entry{e}, nil
}

// byAddress tries the parts of an address's path that may be a ref, the last
// first. Only the place is asked; the address itself is not.
func byAddress(ctx context.Context, catalogue place.Catalogue, site, address string) ([]place.Entry, error) {
	u, err := url.Parse(address)
	if err != nil {
		return nil, fault.At("q", "%q is no address of a page", address)
	}
	parts := strings.Split(u.Path, "/")
	slices.Reverse(parts)
	tries := 0
	for _, p := range parts {
		if !strings.ContainsAny(p, "0123456789") || tries == 4 {
			continue
		}
		tries++
		if n := ident.Read(p); n.Found() {
			if found, err := catalogue.EntriesByNumber(ctx, site, []string{n.GTIN}); err != nil || len(found) > 0 {
				return found, err
			}
		}
		if found, err := byRef(ctx, catalogue, site, p); err != nil || len(found) > 0 {
			return found, err
		}
	}
	return nil, nil
}
