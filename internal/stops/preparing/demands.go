package preparing

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"easymargin/core/form"
	"easymargin/core/listing"
	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// fresh is how long what was read of a category is taken for what holds.
const fresh = 24 * time.Hour

// DemandView is what a site asks for in one category, as lists show it.
type DemandView struct {
	Category   string    `json:"category" doc:"Ref"`
	Path       string    `json:"path"`
	Origin     string    `json:"origin" enum:"gateway,person,sheet"`
	ReadAt     time.Time `json:"read_at"`
	ChangedAt  time.Time `json:"changed_at" doc:"When it last came out otherwise than before"`
	Changes    []string  `json:"changes" doc:"In what, in words"`
	Attributes int       `json:"attributes"`
	Needed     int       `json:"needed" doc:"Attributes that are needed"`
	Listings   int64     `json:"listings" doc:"Our own there"`
	Needs      string    `json:"needs" doc:"JSON, in the form of docs/listings.md"`
}

// Demands are what a site asks for, category by category.
func (st *Stop) Demands(ctx context.Context, siteID int64) ([]DemandView, error) {
	tx := st.Store.Reading(ctx)
	found, err := tx.Demands(siteID)
	if err != nil {
		return nil, err
	}
	cats, err := tx.CategoriesOf(siteID)
	if err != nil {
		return nil, err
	}
	used, err := tx.OwnCategories(siteID)
	if err != nil {
		return nil, err
	}
	out := []DemandView{}
	for _, c := range paths(cats) {
		d, ok := found[c.Ref]
		if !ok {
			continue
		}
		n, err := reckon.ReadNeeds([]byte(d.Needs))
		if err != nil {
			return nil, err
		}
		x := DemandView{Category: c.Ref, Path: c.Path, Origin: d.Origin, ReadAt: d.ReadAt, ChangedAt: d.ChangedAt, Attributes: len(n.Attributes), Listings: used[c.Ref],
			Needs: d.Needs, Changes: []string{}}
		if err := json.Unmarshal([]byte(d.Changes), &x.Changes); err != nil {
			return nil, err
		}
		for i := range n.Attributes {
			if n.Attributes[i].Need == listing.Needed {
				x.Needed++
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// ReadDemands reads what a site asks for again, in the categories we use.
func (st *Stop) ReadDemands(ctx context.Context, siteID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if st.Places(site.Marketplace).Directory == nil {
			return fault.New(fault.Conflict, "%s has no door by which its demands are read; write them down", site.Marketplace.Name)
		}
		return st.queueDemands(tx, site)
	})
}

// Round has what sites ask for read again once a day, for the categories of our
// own listings. What can't be read is tried again after an hour.
func (st *Stop) Round(ctx context.Context) error {
	if !st.readAt.After(time.Hour, st.Now()) {
		return nil
	}
	sites, err := st.Store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, site := range sites {
		if !reckon.Writes(&site) {
			continue
		}
		if err := st.Store.Do(ctx, func(tx store.Tx) error {
			return stops.First(st.readIfOld(tx, site.ID), tx.DirtyWindows(st.Now(), site.ID))
		}); err != nil {
			return err
		}
	}
	return nil
}

// readIfOld queues a reading where a category of our own listings wasn't read
// within a day.
func (st *Stop) readIfOld(tx store.Tx, siteID int64) error {
	used, err := tx.OwnCategories(siteID)
	if err != nil {
		return err
	}
	known, err := tx.Demands(siteID)
	if err != nil {
		return err
	}
	for category := range used {
		if d, ok := known[category]; ok && (d.Origin != store.DemandRead || st.Now().Sub(d.ReadAt) < fresh) {
			continue
		}
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		return st.queueDemands(tx, site)
	}
	return nil
}

// queueDemands queues a reading where none waits.
func (st *Stop) queueDemands(tx store.Tx, site store.Site) error {
	if st.Places(site.Marketplace).Directory == nil {
		return nil
	}
	return stops.QueueDemands(tx, st.Now(), &site)
}

// doDemands reads the categories of our own listings, one by one: what is read
// is kept, so that one that is cut short goes on.
func (st *Stop) doDemands(ctx context.Context, t *work.Task) error {
	tx := st.Store.Reading(ctx)
	site, err := tx.SiteOf(t.Subject)
	if err != nil {
		return err
	}
	dir := st.Places(site.Marketplace).Directory
	if dir == nil {
		return nil
	}
	read, changed := map[string]bool{}, 0
	for { // a category may be used anew while others are read: nothing else has it read then
		used, err := tx.OwnCategories(site.ID)
		if err != nil {
			return err
		}
		known, err := tx.Demands(site.ID)
		if err != nil {
			return err
		}
		var wanted []string
		for category := range used {
			old, there := known[category]
			if !read[category] && (!there || old.Origin == store.DemandRead && (t.Tries == 0 || st.Now().Sub(old.ReadAt) >= fresh)) {
				wanted = append(wanted, category)
			}
		}
		if len(wanted) == 0 {
			break
		}
		slices.Sort(wanted)
		for _, category := range wanted {
			raw, err := dir.Demands(ctx, site.Code, category)
			if place.Forgotten(err) {
				raw, err = []byte("{}"), nil // nothing is asked for there
			}
			if err != nil {
				return err
			}
			var changes []string
			if err := st.Store.Do(ctx, func(tx store.Tx) (err error) {
				changes, err = st.keep(tx, site, category, raw, store.DemandRead)
				return err
			}); err != nil {
				return err
			}
			if len(changes) > 0 {
				changed++
			}
			read[category] = true
			t.At(int64(len(read)), int64(len(used)))
		}
	}
	t.Note = fmt.Sprintf("%s: %s read, %d came out otherwise than before", site.Name, stops.Plural(int64(len(read)), "category", "categories"), changed)
	return nil
}

// WriteDemand keeps what a person wrote down of a category.
func (st *Stop) WriteDemand(ctx context.Context, siteID int64, category, needs string) error {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		_, err := st.keep(tx, site, category, []byte(needs), store.DemandTyped)
		return err
	})
}

// keep writes what a category asks for, and says in what it changed.
func (st *Stop) keep(tx store.Tx, site store.Site, category string, raw []byte, origin string) ([]string, error) {
	var n listing.Needs
	read := form.Into
	if origin == store.DemandRead {
		read = lenient // a place may know more than we do
	}
	err := read("needs", raw, &n)
	if err == nil {
		_, err = n.Ready(money.Currency(site.Currency))
	}
	if err != nil {
		kind := fault.Invalid
		if origin == store.DemandRead {
			kind = fault.Unavailable
		}
		return nil, fault.New(kind, "what %s asks for in %q can't be read: %v", site.Name, category, err)
	}
	text, err := json.Marshal(n)
	if err != nil {
		return nil, err
	}
	known, err := tx.Demands(site.ID)
	if err != nil {
		return nil, err
	}
	now := st.Now()
	d := store.Demand{SiteID: site.ID, Category: category, Needs: string(text), Origin: origin, ReadAt: now, ChangedAt: now, Changes: "[]"}
	var changes []string
	if old, there := known[category]; there {
		before, err := reckon.ReadNeeds([]byte(old.Needs))
		if err != nil {
			return nil, err
		}
		if changes = Compare(before, &n); len(changes) == 0 {
			d.ChangedAt, d.Changes = old.ChangedAt, old.Changes
		} else if raw, err := json.Marshal(changes); err != nil {
			return nil, err
		} else {
			d.Changes = string(raw)
		}
	}
	tx.Changed("prepare", "listings", "counts")
	return changes, tx.PutDemand(now, &d)
}

func lenient(_ string, raw []byte, v any) error { return json.Unmarshal(raw, v) }

// Compare says in words what a category asks for otherwise than before: what is
// new, gone, needed now, and which values are no longer taken.
func Compare(before, now *listing.Needs) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	name := func(ref string) string { return strings.ReplaceAll(ref, "_", " ") }
	old := map[string]*listing.Attribute{}
	for i := range before.Attributes {
		old[before.Attributes[i].Ref] = &before.Attributes[i]
	}
	for i := range now.Attributes {
		a := &now.Attributes[i]
		b := old[a.Ref]
		delete(old, a.Ref)
		switch {
		case b == nil && a.Need == listing.Needed:
			say("%s is new, and needed", name(a.Ref))
			continue
		case b == nil:
			say("%s is new", name(a.Ref))
			continue
		case b.Need != listing.Needed && a.Need == listing.Needed:
			say("%s is needed now", name(a.Ref))
		case b.Need == listing.Needed && a.Need != listing.Needed:
			say("%s is no longer needed", name(a.Ref))
		}
		if b.Kind != a.Kind {
			say("%s is a %s now, and was a %s", name(a.Ref), a.Kind, b.Kind)
		}
		var gone, more []string
		for _, v := range b.Values {
			if !slices.Contains(a.Values, v) && a.Values != nil {
				gone = append(gone, v)
			}
		}
		for _, v := range a.Values {
			if !slices.Contains(b.Values, v) {
				more = append(more, v)
			}
		}
		if len(gone) > 0 {
			say("%s no longer takes %s", name(a.Ref), few(gone))
		}
		if len(more) > 0 && b.Values != nil {
			say("%s takes %s too", name(a.Ref), few(more))
		} else if len(more) > 0 {
			say("%s is one of %d values now", name(a.Ref), len(more))
		}
		if narrower(b.Limit, a.Limit) {
			say("%s has at most %d now", name(a.Ref), *a.Limit)
		}
	}
	for i := range before.Attributes {
		if ref := before.Attributes[i].Ref; old[ref] != nil {
			say("%s is no longer asked for", name(ref))
		}
	}
	if b, a := before.Title, now.Title; b != nil && a != nil && narrower(b.Limit, a.Limit) {
		say("a title has at most %d now", *a.Limit)
	}
	if b, a := before.Pictures, now.Pictures; a != nil && (b == nil || a.Least > b.Least) && a.Least > 0 {
		say("at least %s are needed now", stops.Plural(a.Least, "picture", "pictures"))
	}
	if before.Number != now.Number && now.Number != "" && now.Number != listing.Helps {
		say("a number is needed now")
	}
	if before.Brand == nil && now.Brand != nil {
		say("a brand must be on its register now")
	}
	return out
}

func narrower(before, now *int64) bool { return now != nil && (before == nil || *now < *before) }

// few are the first of some texts.
func few(all []string) string {
	if len(all) > 4 {
		return strings.Join(all[:4], ", ") + fmt.Sprintf(" and %d more", len(all)-4)
	}
	return strings.Join(all, ", ")
}
