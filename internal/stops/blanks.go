package stops

import (
	"encoding/json"
	"strings"

	"easymargin/internal/blank"
	"easymargin/internal/store"
)

// BlankFields are what columns of a site's blanks are filled with, by their headers
// without case.
func BlankFields(tx store.Tx, siteID int64) (map[string]blank.Filled, error) {
	out := map[string]blank.Filled{}
	list, err := tx.Blanks(siteID)
	for _, b := range list {
		var l blank.Layout
		if err := json.Unmarshal([]byte(b.Layout), &l); err != nil {
			return out, err
		}
		for _, c := range l.Columns {
			out[strings.ToLower(strings.TrimSpace(c.Header))] = c
		}
	}
	return out, err
}
