package sending

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"

	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// content is what a listing that isn't there yet says, or why it may not go.
type content struct {
	does    string // create, change
	says    *place.Content
	cleared []string
	whole   []byte // JSON of all that it says
	why     string
}

// changing is a content of which only what differs from what is there goes.
func changing(p *reckon.Prepared, m *store.Material, l *store.Listing, c content) (content, error) {
	if m.There == "" && l.ConfirmedPrice != nil { // nobody knows what it says there: all of it goes
		c.does = place.DoChange
		return c, nil
	}
	x, err := p.Change(m, l)
	if err != nil {
		return c, err
	}
	c.does, c.says, c.cleared = place.DoChange, x.Content, x.Cleared
	switch {
	case l.ConfirmedPrice == nil:
		c.why = "it isn't on sale there"
	case len(x.Fields) == 0:
		c.why = "it says there what it is to say"
	}
	return c, nil
}

// contents are those of the lines that make listings of our own, looked at once
// more at this moment: by listing.
func (st *Stop) contents(tx store.Tx, site *store.Site, lines []store.OutgoingLine, figures map[int64]*reckon.Figures) (map[int64]content, error) {
	if !reckon.Writes(site) {
		return nil, nil
	}
	var ids []int64
	changes := map[int64]bool{}
	for i := range lines {
		f := figures[lines[i].ListingID]
		if f == nil || f.Link.EntryID != nil {
			continue
		}
		if f.Link.ConfirmedPrice == nil || lines[i].Does == store.DoesChange {
			ids, changes[lines[i].ListingID] = append(ids, lines[i].ListingID), lines[i].Does == store.DoesChange
		}
	}
	if ids == nil {
		return nil, nil
	}
	asking, err := reckon.OpenAsking(tx, site)
	if err != nil {
		return nil, err
	}
	blanks, err := blanksOf(tx, site)
	if err != nil {
		return nil, err
	}
	materials, err := tx.Materials(ids)
	if err != nil {
		return nil, err
	}
	asked := map[int64]*int64{}
	for i := range lines {
		asked[lines[i].ListingID] = lines[i].Price
	}
	out := map[int64]content{}
	for _, id := range ids {
		l, m := figures[id].Link.Listing, materials[id]
		if asked[id] != nil {
			l.Price = asked[id]
		}
		if m == nil {
			out[id] = content{why: "its product has no supplier any more"}
			continue
		}
		if floor, ok := figures[id].Floor(); ok {
			l.Floor = &floor // the lowest offer is never under that of this moment
		}
		p, err := asking.Prepare(m, &l)
		if err != nil {
			return nil, err
		}
		if !p.Report.Ready() {
			out[id] = content{why: fmt.Sprintf("it lacks something that %s needs: %s", site.Name, p.FirstWords())}
			continue
		}
		c := content{does: place.DoCreate, says: p.Content(&l)}
		if c.whole, err = json.Marshal(c.says); err != nil {
			return nil, err
		}
		if changes[id] {
			all := c.says
			if c, err = changing(&p, m, &l, c); err != nil {
				return nil, err
			}
			if site.Kind == place.KindSheet && c.why == "" { // a row of a sheet says all there is to say
				c.says, c.cleared = all, nil
			}
		}
		switch {
		case c.why != "":
		case blanks != nil && !blanks[l.Category]:
			c = content{why: "there is no blank sheet of its category; drop it under Prepare, What they ask"}
		case blanks != nil && len(c.pictures()) > 0:
			c = content{why: "a sheet takes pictures by their address only; choose the supplier's as they are"}
		}
		out[id] = c
	}
	return out, nil
}

// blanksOf are the categories of a site that there is a blank sheet for; nil
// where it takes none.
func blanksOf(tx store.Tx, site *store.Site) (map[string]bool, error) {
	if site.Kind != place.KindSheet {
		return nil, nil
	}
	list, err := tx.Blanks(site.ID)
	out := map[string]bool{}
	for _, b := range list {
		out[b.Category] = true
	}
	return out, err
}

// pictures are those of a listing's content that no address gives, by digest.
func (c *content) pictures() []string {
	var out []string
	if c.says == nil {
		return nil
	}
	for _, p := range c.says.Pictures {
		if digest, ok := strings.CutPrefix(p, place.UploadedPicture("")); ok {
			out = append(out, digest)
		}
	}
	return out
}

// upload gives a marketplace the pictures of a send-out that no address gives,
// each once. They go before its lines are looked at for the last time, which is
// to be as near to the handing over as can be.
func (st *Stop) upload(ctx context.Context, o *store.SendOut, site *store.Site) error {
	if !reckon.Writes(site) || site.Kind == place.KindHand { // a person takes them along
		return nil
	}
	tx := st.Store.Reading(ctx)
	lines, err := tx.Outgoing(o.ID)
	if err != nil {
		return err
	}
	figures, _, err := st.figures(tx, *site, lines)
	if err != nil {
		return err
	}
	contents, err := st.contents(tx, site, lines, figures)
	if err != nil {
		return err
	}
	missing, err := missing(tx, site, contents)
	if err != nil || len(missing) == 0 {
		return err
	}
	to := st.Places(site.Marketplace).Pictures
	if to == nil {
		return &place.Refusal{Name: site.Marketplace.Name, Words: "it takes pictures by their address only; choose the supplier's as they are"}
	}
	for _, digest := range missing {
		p, err := tx.PictureKeptAs(digest)
		if err != nil {
			return err
		}
		content, err := os.ReadFile(st.Store.PictureFile(digest, false))
		if err != nil {
			return fmt.Errorf("reading a picture: %w", err)
		}
		if err := to.Upload(ctx, digest, p.Kind, content); err != nil {
			return notHandedOver(err)
		}
		if err := st.Store.Do(ctx, func(tx store.Tx) error { return tx.PutUpload(site.MarketplaceID, digest, st.Now()) }); err != nil {
			return err
		}
	}
	return nil
}

// missing are the pictures of some contents that their marketplace wasn't given
// yet, by digest.
func missing(tx store.Tx, site *store.Site, contents map[int64]content) ([]string, error) {
	if site.Kind == place.KindHand {
		return nil, nil
	}
	wanted := map[string]bool{}
	for _, c := range contents {
		for _, digest := range c.pictures() {
			wanted[digest] = true
		}
	}
	if len(wanted) == 0 {
		return nil, nil
	}
	digests := slices.Sorted(maps.Keys(wanted))
	there, err := tx.Uploaded(site.MarketplaceID, digests)
	return slices.DeleteFunc(digests, func(d string) bool { return there[d] }), err
}

// notHandedOver is what went wrong with a picture: its batch never went,
// whatever became of the picture.
func notHandedOver(err error) error {
	var u *place.Unreachable
	if errors.As(err, &u) {
		return &place.Unreachable{Name: u.Name, Err: fmt.Errorf("uploading a picture: %w", u.Err), After: u.After}
	}
	return err
}
