// Package preparing is the stop where a listing of our own gets what its
// category asks for before it goes up: its words, figures and pictures, each
// from the first that has one, and never over what a person wrote. It follows
// docs/definitions/listing.md, sections 1 and 2.
package preparing

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"easymargin/core/listing"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/retouch"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Prepare.
type Stop struct {
	stops.Deps
	readAt stops.Pace
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(stops.RunDemands, st.doDemands)
	q.Handle(RunRetouch, st.doRetouch)
}

// SaidField is one thing that can be said of a listing.
type SaidField struct {
	Field   string             `json:"field" doc:"As in docs/definitions/listing.md, section 2, such as attributes.capacity"`
	Value   string             `json:"value" doc:"Several are joined by a bar"`
	Sent    string             `json:"sent" doc:"As the place is given it, where that differs"`
	From    reckon.FromKind    `json:"from" enum:"person,our word,product,supplier,terms,category,template,"`
	Name    string             `json:"name" doc:"The supplier's, who said it, or our word that it stands for"`
	Without string             `json:"without" doc:"What would stand there if a person's word were taken back"`
	Need    string             `json:"need" enum:"needed,helps,does not apply,"`
	Code    string             `json:"code" doc:"What is wrong with it"`
	Level   string             `json:"level" enum:"stops,helps,left out,"`
	Words   string             `json:"words" doc:"What is wrong with it, for people"`
	Asked   *listing.Attribute `json:"asked,omitempty" doc:"What is asked of an attribute"`
	Theirs  *TheirChange       `json:"theirs,omitempty" doc:"What the supplier changed of it since a person said otherwise"`
}

// TitlePart is one part of a title.
type TitlePart struct {
	Name    string `json:"name"`
	Text    string `json:"text"`
	LeftOut bool   `json:"left_out" doc:"Whole or in part, to keep the limit"`
}

// PreparedPicture is one picture as it would go up.
type PreparedPicture struct {
	Original string         `json:"original" doc:"Digest"`
	Recipe   retouch.Recipe `json:"recipe" doc:"What is done to the original"`
	Text     string         `json:"text" doc:"A person's words for what is to be seen on it"`
	Seen     string         `json:"seen" doc:"What is said is to be seen on it"`
	Digest   string         `json:"digest" doc:"Of what goes out, as are the figures"`
	Width    int64          `json:"width"`
	Height   int64          `json:"height"`
	Kind     string         `json:"kind"`
	Bytes    int64          `json:"bytes"`
	Small    bool           `json:"small" doc:"Smaller than the recipe wants, and not enlarged"`
	Words    string         `json:"words" doc:"What is wrong with it"`
}

// PreparedView is a listing of our own with what its category asks for.
type PreparedView struct {
	ID              int64             `json:"id"`
	Version         int64             `json:"version"`
	SKU             string            `json:"sku"`
	Product         string            `json:"product"`
	Supplier        string            `json:"supplier"`
	SupplierTitle   string            `json:"supplier_title"`
	SiteID          int64             `json:"site_id"`
	Site            string            `json:"site"`
	State           string            `json:"state"`
	Currency        string            `json:"currency"`
	Price           *int64            `json:"price"`
	Profit          *int64            `json:"profit"`
	Why             string            `json:"why" doc:"Why there is no price or nothing to offer"`
	Category        string            `json:"category" doc:"Ref"`
	Categories      []CategoryPath    `json:"categories"`
	Fixed           bool              `json:"fixed" doc:"On sale: its category stays"`
	AskedAt         *time.Time        `json:"asked_at" doc:"When what is asked for was read; none: it never was"`
	Title           string            `json:"title"`
	Typed           bool              `json:"typed" doc:"The title is a person's; else it is made from the parts"`
	Length          int64             `json:"length" doc:"Of the title, in the place's own counting"`
	Limit           *int64            `json:"limit"`
	Counts          string            `json:"counts"`
	Parts           []TitlePart       `json:"parts"`
	PartsOwn        bool              `json:"parts_own" doc:"A person chose them for this listing alone"`
	MoreParts       []string          `json:"more_parts" doc:"That a title could have besides"`
	Fields          []SaidField       `json:"fields"`
	Pictures        []PreparedPicture `json:"pictures"`
	Buyers          string            `json:"buyers" doc:"The description as buyers get it: safe HTML where markup, else plain text"`
	Markup          bool              `json:"markup"`
	Tags            []string          `json:"tags" doc:"That a description may have"`
	Proposed        []string          `json:"proposed" doc:"Search words that might help, from what the supplier says and the category"`
	Other           []string          `json:"other" doc:"What is wrong with the set of pictures, the price and the parcel"`
	Needed          [2]int            `json:"needed" doc:"Done, and of how many"`
	Helps           [2]int            `json:"helps"`
	Stops           int               `json:"stops"`
	PicturesChanged *time.Time        `json:"pictures_changed" doc:"When the supplier changed its pictures, since a person chose others"`
	Shown           ShownHow          `json:"shown" doc:"When it is offered"`
	NewEntry        bool              `json:"new_entry" doc:"It makes a new entry of a shared catalogue"`
	Group           string            `json:"group" doc:"What joins it with its variants there; empty: it has none"`
	Terms           string            `json:"terms" doc:"Name of the selling terms that hold; empty: none"`
	TermsOwn        bool              `json:"terms_own" doc:"A person chose them for this listing alone"`
	AllTerms        []string          `json:"all_terms" doc:"Names of those that the site has"`
	Changed         []string          `json:"changed" doc:"Fields that differ from what is there, where it is on sale"`
	Untold          bool              `json:"untold" doc:"It is on sale, and what it says there isn't known: all of it can be sent"`
	Proposals       []Proposal        `json:"proposals" doc:"Values that might stand in a field"`
	BrandAsked      string            `json:"brand_asked" doc:"What became of asking the place for its brand: asked, given, refused; empty: it wasn't asked"`
	Texts           []reckon.KeptText `json:"texts" doc:"Kept texts that its description could take"`
	Learnt          []string          `json:"learnt" doc:"Our words for the place's values that this taught, in words"`
}

// CategoryPath is one of a site's categories, with the way to it.
type CategoryPath struct {
	Ref  string `json:"ref"`
	Path string `json:"path"`
}

// FieldSaid is what a person says of a field; no values take it back.
type FieldSaid struct {
	Field  string   `json:"field" maxLength:"200"`
	Values []string `json:"values" maxItems:"100"`
}

// mostText is the most characters that one value may have.
const mostText = 20_000

// One is a listing with what its category asks for; say is what it would be with.
func (st *Stop) One(ctx context.Context, id int64, say []FieldSaid) (PreparedView, error) {
	tx := st.Store.Reading(ctx)
	x, err := load(tx, id)
	if err != nil {
		return PreparedView{}, err
	}
	if err := x.say(ctx, st.Now(), say); err != nil {
		return PreparedView{}, err
	}
	p, err := x.asking.Prepare(x.material, &x.listing)
	if err != nil {
		return PreparedView{}, fault.New(fault.Invalid, "%v", err)
	}
	cats, err := tx.CategoriesOf(x.site.ID)
	if err != nil {
		return PreparedView{}, err
	}
	v := x.shown(&p, cats)
	c, err := p.Change(x.material, &x.listing)
	v.Changed, v.Untold = append([]string{}, c.Fields...), v.Fixed && x.material.There == ""
	err = stops.First(err, v.theirs(tx), v.propose(tx, x, &p))
	return v, err
}

// row is a saying as it is kept; its value is "" where it takes one back.
func (s *FieldSaid) row(ctx context.Context, now time.Time, listingID int64) (store.Saying, error) {
	row := store.Saying{ListingID: listingID, Field: s.Field, Actor: actor.Of(ctx), At: now}
	var texts []string
	for _, v := range s.Values {
		if strings.TrimSpace(v) != "" {
			texts = append(texts, v)
		}
	}
	if len(texts) == 0 {
		return row, nil
	}
	var value any = texts
	if len(texts) == 1 {
		value = texts[0]
	}
	raw, err := json.Marshal(value)
	row.Value = string(raw)
	return row, err
}

// Say keeps what a person says of a listing, and learns our words for the
// place's values from it.
func (st *Stop) Say(ctx context.Context, id int64, say []FieldSaid) (PreparedView, error) {
	var learnt []string
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		x, err := load(tx, id)
		if err != nil {
			return err
		}
		before, after, rows, err := x.with(ctx, st.Now(), say)
		if err != nil {
			return err
		}
		for i := range say {
			w, err := st.learn(ctx, tx, x, &before, &after, say[i].Field)
			if err != nil {
				return err
			}
			if w != "" {
				learnt = append(learnt, w)
			}
		}
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.Say(st.Now(), rows), tx.Note(st.Now(), "listing prepared", x.listing.SKU+" on "+x.site.Name, fieldsOf(say)))
	})
	if err != nil {
		return PreparedView{}, err
	}
	out, err := st.One(ctx, id, nil)
	out.Learnt = append(out.Learnt, learnt...)
	return out, err
}

func fieldsOf(say []FieldSaid) string {
	var names []string
	for _, s := range say {
		names = append(names, s.Field)
	}
	return strings.Join(names, ", ")
}

// learn keeps what a person chose of the place's values for a word of the
// supplier's that is none of them: the next with that word has it by itself.
func (st *Stop) learn(ctx context.Context, tx store.Tx, x *loaded, before, after *reckon.Prepared, field string) (string, error) {
	ref, attribute := strings.CutPrefix(field, "attributes.")
	from := before.From[field]
	if !attribute || from.Kind != reckon.FromSupplier {
		return "", nil
	}
	wrong := slices.ContainsFunc(before.Report.Problems, func(p listing.Problem) bool { return p.Field == field && p.Code == "not one of" })
	theirs, fits := after.Report.Attributes[ref]
	if !wrong || !fits {
		return "", nil
	}
	ours := strings.Join(before.Values.Attributes[ref], ", ")
	err := tx.Learn(st.Now(), store.ValueWord{SiteID: x.site.ID, Category: x.listing.Category, Attribute: ref, Ours: reckon.Folded(ours), Theirs: theirs,
		Actor: actor.Of(ctx), At: st.Now()})
	return fmt.Sprintf("%s %q is %q there, from now on", strings.ReplaceAll(ref, "_", " "), ours, theirs), err
}

// SetCategory puts listings that aren't on sale into another category of their site.
func (st *Stop) SetCategory(ctx context.Context, ids []int64, category string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		for _, id := range ids {
			x, err := load(tx, id)
			if err != nil {
				return err
			}
			if x.listing.ConfirmedPrice != nil {
				return fault.New(fault.Conflict, "%s is on sale on %s: its category stays as it is", x.listing.SKU, x.site.Name)
			}
			cats, err := tx.CategoriesOf(x.site.ID)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(cats, func(c store.Category) bool { return c.Ref == category }) {
				return fault.At("category", "%s has no category %q", x.site.Name, category)
			}
			if err := stops.First(tx.SetCategory(st.Now(), id, category), st.queueDemands(tx, *x.site)); err != nil {
				return err
			}
			if theirs := strings.TrimSpace(x.material.Item.Category); theirs != "" { // the next of that one goes there by itself
				if err := tx.LearnCategory(x.site.ID, theirs, category, actor.Of(ctx), st.Now()); err != nil {
					return err
				}
			}
		}
		tx.Changed("prepare", "listings", "counts")
		return tx.Note(st.Now(), "category chosen", category, stops.Plural(int64(len(ids)), "listing", "listings"))
	})
}
