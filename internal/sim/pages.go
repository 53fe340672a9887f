package sim

import (
	"bytes"
	"net/http"
	"time"
)

// Page is one document at an address.
type Page struct {
	Type string // media type
	Name string // file name to save it under; "" to show it
	Body []byte
}

// Pages serves documents by their paths, as a supplier's web shop does.
type Pages map[string]Page

// ServeHTTP serves the document at a path.
func (p Pages) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	page, ok := p[r.URL.Path]
	if !ok {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", page.Type)
	if page.Name != "" {
		w.Header().Set("Content-Disposition", `attachment; filename="`+page.Name+`"`)
	}
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(page.Body))
}
