package sending

import (
	"fmt"

	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// content is what a listing that isn't there yet says, or why it may not go.
type content struct {
	says *place.Content
	why  string
}

// contents are those of the lines that make listings of our own, looked at once
// more at this moment: by listing.
func (st *Stop) contents(tx store.Tx, site *store.Site, lines []store.OutgoingLine, figures map[int64]*reckon.Figures) (map[int64]content, error) {
	if !reckon.NeedsContent(site) {
		return nil, nil
	}
	var ids []int64
	for i := range lines {
		if f := figures[lines[i].ListingID]; f != nil && f.Link.EntryID == nil && f.Link.ConfirmedPrice == nil {
			ids = append(ids, lines[i].ListingID)
		}
	}
	if ids == nil {
		return nil, nil
	}
	asking, err := reckon.OpenAsking(tx, site)
	if err != nil {
		return nil, err
	}
	materials, err := tx.Materials(ids)
	if err != nil {
		return nil, err
	}
	out := map[int64]content{}
	for _, id := range ids {
		l, m := figures[id].Link.Listing, materials[id]
		if m == nil {
			out[id] = content{why: "its product has no supplier any more"}
			continue
		}
		p, err := asking.Prepare(m, &l)
		if err != nil {
			return nil, err
		}
		if !p.Report.Ready() {
			out[id] = content{why: fmt.Sprintf("it lacks something that %s needs: %s", site.Name, p.FirstWords())}
			continue
		}
		out[id] = content{says: p.Content(m, &l)}
	}
	return out, nil
}
