package sim

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"maps"
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
	Texts       []string          `json:"picture_texts,omitempty"`
	Package     map[string]int64  `json:"package,omitempty"`
	ListPrice   string            `json:"list_price,omitempty"`
	Former      string            `json:"former,omitempty"`
	Terms       map[string]any    `json:"terms,omitempty"`
	Group       string            `json:"group,omitempty"`
	Axes        map[string]string `json:"axes,omitempty"`
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
	case l.Do == "change" && have == nil:
		return "sku", "You have no listing " + l.SKU + "."
	case l.Do == "change" && c != nil:
		c = changed(have.Content, l) // it is looked at as it would be
	case have != nil:
		return "", ""
	case l.Do != "create" || c == nil:
		return "sku", "You have no listing " + l.SKU + "."
	case l.Price == nil || l.Quantity == nil:
		return "price", "A new listing needs a price and a quantity."
	case strings.TrimSpace(c.Title) == "":
		return "title", "A listing needs a title."
	}
	d, ok := m.Demands[c.Category]
	if !ok {
		d = m.Demands[""]
	}
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
	for i, p := range c.Pictures {
		if digest, ok := strings.CutPrefix(p, "sha256:"); ok && !m.pictures[digest] {
			return "pictures", fmt.Sprintf("Picture %d is not here; upload it first.", i+1)
		}
	}
	return "", ""
}

// changed is what a listing says with a change: what the change names is said
// now, what it clears no more.
func changed(had *Content, l *line) *Content {
	now := Content{}
	if had != nil {
		now = *had
	}
	attributes := maps.Clone(now.Attributes)
	text, err := json.Marshal(l.Content)
	if err != nil {
		panic(err) // it was read from JSON
	}
	said := map[string]json.RawMessage{}
	if json.Unmarshal(text, &said) == nil {
		delete(said, "attributes")
		for _, name := range []string{"category", "title"} { // which are always written
			if string(said[name]) == `""` {
				delete(said, name)
			}
		}
		if text, err = json.Marshal(said); err == nil {
			_ = json.Unmarshal(text, &now)
		}
	}
	if attributes == nil {
		attributes = map[string]string{}
	}
	maps.Copy(attributes, l.Content.Attributes)
	for _, field := range l.Cleared {
		if ref, ok := strings.CutPrefix(field, "attributes."); ok {
			delete(attributes, ref)
			continue
		}
		empty, err := json.Marshal(map[string]any{field: nil})
		if err == nil {
			_ = json.Unmarshal(empty, &now)
		}
		switch field { // null leaves a text as it is
		case "description":
			now.Description = ""
		case "brand":
			now.Brand = ""
		case "number":
			now.Number = ""
		case "former":
			now.Former = ""
		case "list_price":
			now.ListPrice = ""
		}
	}
	now.Attributes = attributes
	return &now
}

// mostPicture is the most bytes that a picture may have.
const mostPicture = 10 << 20

// receive takes a picture that has no address of its own, by its digest.
func (m *Marketplace) receive(w http.ResponseWriter, r *http.Request) {
	content, err := io.ReadAll(http.MaxBytesReader(w, r.Body, mostPicture))
	if err != nil {
		problem(w, http.StatusRequestEntityTooLarge, fmt.Sprintf("A picture has at most %d MB.", mostPicture>>20))
		return
	}
	sum := sha256.Sum256(content)
	if hex.EncodeToString(sum[:]) != r.PathValue("digest") {
		problem(w, http.StatusBadRequest, "The picture isn't the one of its digest.")
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.pictures[r.PathValue("digest")] = true
	m.tell()
	w.WriteHeader(http.StatusNoContent)
}

// Uploaded counts the pictures that were uploaded.
func (m *Marketplace) Uploaded() int {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	return len(m.pictures)
}

// Rewrite changes what one of the seller's own listings says, as somebody may who
// changes it by the site's own pages.
func (m *Marketplace) Rewrite(site, sku string, change func(*Content)) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if o := m.own[site][sku]; o != nil && o.Content != nil {
		c := *o.Content
		c.Attributes = maps.Clone(c.Attributes)
		change(&c)
		o.Content = &c
	}
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

// catalogue tells whether sellers share entries on a site.
func (m *Marketplace) catalogue(site string) bool {
	for _, s := range m.Sites {
		if s.Code == site {
			return s.Kind == "" || s.Kind == "catalogue"
		}
	}
	return false
}

// newEntry makes an entry of what a seller says of a thing that there is none for.
func (m *Marketplace) newEntry(c *Content) string {
	ref := fmt.Sprintf("N%05d", len(m.byRef)+1)
	m.putEntry(ref, c)
	return ref
}

func (m *Marketplace) putEntry(ref string, c *Content) {
	e := &Entry{Ref: ref, GTIN: c.Number, Title: c.Title, Brand: c.Brand, Category: c.Category, Page: "/e/" + ref, Picture: "/pic/" + c.Category + ".png", Units: 1}
	m.byRef[ref] = e
	if e.GTIN != "" {
		m.byGTIN[e.GTIN] = append(m.byGTIN[e.GTIN], e)
	}
}
