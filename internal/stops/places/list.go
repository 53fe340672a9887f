package places

import (
	"context"
	"fmt"
	"time"

	"easymargin/internal/place"
	"easymargin/internal/reckon"
)

// PlaceView is a site as the list of places shows it: what it can do, what is
// known of it, and what is missing before one can sell there.
type PlaceView struct {
	ID         int64      `json:"id" doc:"Of its site"`
	Place      string     `json:"place"`
	Name       string     `json:"name"`
	Code       string     `json:"code"`
	Currency   string     `json:"currency"`
	Kind       string     `json:"kind"`
	Gateway    bool       `json:"gateway" doc:"It is reached by a gateway; else it is known by its files"`
	Lists      bool       `json:"lists"`
	Can        []string   `json:"can" doc:"What can be done there, in words"`
	Missing    []Lack     `json:"missing" doc:"What is missing before one can sell there"`
	Entries    int64      `json:"entries"`
	Categories int64      `json:"categories"`
	Listings   int64      `json:"listings"`
	Live       int64      `json:"live"`
	Untied     int64      `json:"untied"`
	Waiting    int64      `json:"waiting" doc:"Supplier products that wait on Match"`
	ReadAt     *time.Time `json:"read" doc:"When it was read last; null: never"`
	Files      []FileView `json:"files" doc:"The newest first"`
}

// Lack is something that is missing, with where to mend it.
type Lack struct {
	Words string `json:"words"`
	Link  string `json:"link"`
}

// List lists every site of every place.
func (st *Stop) List(ctx context.Context) ([]PlaceView, error) {
	sites, err := st.Store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	states, err := st.Store.PlaceStates(ctx)
	if err != nil {
		return nil, err
	}
	out := []PlaceView{}
	for _, site := range sites {
		s := states[site.ID]
		p := st.Places(site.Marketplace)
		v := PlaceView{
			ID: site.ID, Place: site.Marketplace.Name, Name: site.Name, Code: site.Code, Currency: site.Currency, Kind: site.Kind,
			Gateway: site.Marketplace.Address != "", Lists: site.Lists, Can: []string{}, Missing: []Lack{}, Entries: s.Entries, Categories: s.Categories,
			Listings: s.Listings, Live: s.Live, Untied: s.Untied, Waiting: s.Waiting, ReadAt: s.ReadAt, Files: []FileView{},
		}
		for _, can := range []struct {
			words string
			does  bool
		}{
			{"look entries up", p.Catalogue != nil}, {"tell what others ask", p.Rivals != nil}, {"take what we send", p.Outlet != nil},
			{"tell its categories and what it asks for", p.Directory != nil}, {"say what was sold", p.Orders != nil},
		} {
			if can.does {
				v.Can = append(v.Can, can.words)
			}
		}
		if v.Gateway && v.ReadAt == nil {
			v.ReadAt = site.FeesAt
		}
		lack := func(missing bool, words, link string) {
			if missing {
				v.Missing = append(v.Missing, Lack{words, link})
			}
		}
		own := reckon.NeedsContent(&site)
		lack(s.Schedules == 0, "its fees", "/price?tab=fees")
		lack(site.TermsUnsaid, "what delivery and sending cost", fmt.Sprintf("/price?tab=terms&site=%d", site.ID))
		lack(!v.Gateway && !own && s.Entries == 0, "its catalogue: bring in the file it lets you download", "")
		lack(site.Kind == place.KindCatalogue && !v.Lists, "your word that you sell there", "")
		lack(own && s.Listings == 0, "a listing of yours", fmt.Sprintf("/prepare?tab=add&site=%d", site.ID))
		if site.Kind == place.KindSheet {
			blanks, err := st.Store.Reading(ctx).Blanks(site.ID)
			if err != nil {
				return nil, err
			}
			lack(len(blanks) == 0, "its blank sheet: drop the one it gives sellers", fmt.Sprintf("/prepare?tab=asked&site=%d", site.ID))
		}
		lack(site.Kind != place.KindCatalogue && !own, "a door for such listings: this program has none yet", "")
		lack(s.Waiting > 0 && s.Listings == 0, "decisions on Match", "/match")
		files, err := st.Store.FilesOf(ctx, site.ID, 6)
		if err != nil {
			return nil, err
		}
		for i := range files {
			f, err := viewFile(&files[i])
			if err != nil {
				return nil, err
			}
			v.Files = append(v.Files, f)
		}
		out = append(out, v)
	}
	return out, nil
}
