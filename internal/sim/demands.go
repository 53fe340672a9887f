package sim

import (
	"fmt"
	"net/http"
	"strings"
	"unicode/utf8"
)

// Demands is what a category asks of a listing, as the gateway tells it.
type Demands map[string]any

// Content is what a listing of a seller's own says.
type Content struct {
	Category    string            `json:"category"`
	Number      string            `json:"number,omitempty"`
	Brand       string            `json:"brand,omitempty"`
	Title       string            `json:"title"`
	Description string            `json:"description,omitempty"`
	Attributes  map[string]string `json:"attributes,omitempty"`
	Words       []string          `json:"words,omitempty"`
	Pictures    []string          `json:"pictures,omitempty"`
	Package     map[string]int64  `json:"package,omitempty"`
	ListPrice   string            `json:"list_price,omitempty"`
	Former      string            `json:"former,omitempty"`
}

// demands answers with what a category asks for, or its parent does.
func (m *Marketplace) demands(w http.ResponseWriter, r *http.Request) {
	for at := r.PathValue("category"); ; {
		if d, ok := m.Demands[at]; ok {
			answer(w, map[string]any{"demands": d})
			return
		}
		if at == "" {
			break
		}
		parent := ""
		for _, c := range m.Categories {
			if c.Ref == at {
				parent = c.Parent
			}
		}
		at = parent
	}
	problem(w, http.StatusNotFound, "nothing is asked for in category "+r.PathValue("category"))
}

// lacks looks at a listing of a seller's own as it comes, by rough rules of its
// own: "" where it can be taken.
func (m *Marketplace) lacks(have *own, l *line) (field, words string) {
	c := l.Content
	switch {
	case have != nil:
		return "", ""
	case l.Do != "create" || c == nil:
		return "sku", "You have no listing " + l.SKU + "."
	case l.Price == nil || l.Quantity == nil:
		return "price", "A new listing needs a price and a quantity."
	case strings.TrimSpace(c.Title) == "":
		return "title", "A listing needs a title."
	}
	d := m.Demands[c.Category]
	if t, ok := d["title"].(map[string]any); ok {
		if limit, ok := t["limit"].(int); ok && utf8.RuneCountInString(c.Title) > limit {
			return "title", fmt.Sprintf("The title has more than %d characters.", limit)
		}
	}
	attributes, _ := d["attributes"].([]map[string]any)
	for _, a := range attributes {
		ref, _ := a["ref"].(string)
		if a["need"] == "needed" && a["when"] == nil && c.Attributes[ref] == "" {
			return "attributes." + ref, "Say its " + strings.ReplaceAll(ref, "_", " ") + "."
		}
	}
	if p, ok := d["pictures"].(map[string]any); ok {
		if least, _ := p["least"].(int); len(c.Pictures) < least {
			return "pictures", fmt.Sprintf("At least %d pictures, please.", least)
		}
	}
	return "", ""
}

// Contents are the seller's own listings on a site, by SKU.
func (m *Marketplace) Contents(site string) map[string]*Content {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	out := map[string]*Content{}
	for sku, o := range m.own[site] {
		if o.Content != nil {
			out[sku] = o.Content
		}
	}
	return out
}
