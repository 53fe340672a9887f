package preparing

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"runtime"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/fetch"
	"easymargin/internal/reckon"
	"easymargin/internal/retouch"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// RunRetouch is the run that does the same to the pictures of many listings.
const RunRetouch = "retouch"

// mostPictures is the most pictures that a listing may have.
const mostPictures = 50

// PictureChoice is one picture that a person chooses for a listing.
type PictureChoice struct {
	Original string         `json:"original" doc:"Digest"`
	Recipe   retouch.Recipe `json:"recipe" doc:"What is done to it; nothing: it goes out as it is"`
	Text     string         `json:"text,omitempty" maxLength:"300" doc:"What is to be seen on it, for those who can't see it; left out: proposed from the title"`
}

// OriginalPicture is one that can be chosen.
type OriginalPicture struct {
	Digest string `json:"digest"`
	Width  int64  `json:"width"`
	Height int64  `json:"height"`
	Kind   string `json:"kind"`
	Bytes  int64  `json:"bytes"`
}

// PictureDesk is what the pictures of a listing can be chosen from, and what its
// site wants of them.
type PictureDesk struct {
	Others  []OriginalPicture `json:"others" doc:"All that its product may be shown by"`
	Least   int64             `json:"least"`
	Most    int64             `json:"most" doc:"0: any number"`
	Side    int64             `json:"side" doc:"Pixels that the longer side must have"`
	Square  bool              `json:"square"`
	Kinds   []string          `json:"kinds"`
	NoMarks bool              `json:"no_marks" doc:"Captions and marks are forbidden"`
}

func originalOf(p *store.Picture) OriginalPicture {
	return OriginalPicture{p.Digest, p.Width, p.Height, p.Kind, p.Bytes}
}

// Pictures is what the pictures of a listing can be chosen from.
func (st *Stop) Pictures(ctx context.Context, id int64) (PictureDesk, error) {
	tx := st.Store.Reading(ctx)
	x, err := load(tx, id)
	if err != nil {
		return PictureDesk{}, err
	}
	out := PictureDesk{Others: []OriginalPicture{}, Kinds: []string{}, NoMarks: x.site.NoMarks}
	asked, err := x.asking.For(x.listing.Category)
	if err != nil {
		return out, err
	}
	if n := asked.Needs.Pictures; n != nil {
		out.Least, out.Side, out.Square, out.Kinds = n.Least, n.Side, n.Square, append(out.Kinds, n.Kinds...)
		if n.Most != nil {
			out.Most = *n.Most
		}
	}
	all, err := tx.PicturesFor(x.listing.ProductID)
	seen := map[string]bool{}
	for i := range all {
		if !seen[all[i].Digest] {
			seen[all[i].Digest] = true
			out.Others = append(out.Others, originalOf(&all[i]))
		}
	}
	return out, err
}

// AddPicture keeps a picture that a person brought.
func (st *Stop) AddPicture(ctx context.Context, content []byte) (OriginalPicture, error) {
	p, err := retouch.Read(ctx, content)
	if err != nil {
		return OriginalPicture{}, fault.New(fault.Invalid, "%v", err)
	}
	row, err := st.KeepPicture(ctx, p, false)
	return originalOf(&row), err
}

// FetchPicture keeps a picture from an address, and the address with it: places
// that take pictures by their address are given that.
func (st *Stop) FetchPicture(ctx context.Context, address string) (OriginalPicture, error) {
	var b bytes.Buffer
	w := &fetch.Limited{To: &b, What: "the picture", Most: retouch.MostBytes}
	if _, err := st.Fetcher.Get(ctx, fetch.Request{Address: address}, w, nil); err != nil {
		return OriginalPicture{}, fault.At("address", "%v", err)
	}
	out, err := st.AddPicture(ctx, b.Bytes())
	if err != nil {
		return out, err
	}
	return out, st.Store.Do(ctx, func(tx store.Tx) error { return tx.PutPictureAddress(address, out.Digest) })
}

// original is a kept picture, as it was kept.
func (st *Stop) original(tx store.Tx, digest string) (store.Picture, *retouch.Picture, error) {
	row, err := tx.PictureKeptAs(digest)
	if err != nil {
		return row, nil, err
	}
	content, err := os.ReadFile(st.Store.PictureFile(row.Digest, false))
	if errors.Is(err, os.ErrNotExist) {
		return row, nil, fault.New(fault.Missing, "the file of a picture is gone; its supplier's pictures are fetched again, add others once more")
	}
	if err != nil {
		return row, nil, err
	}
	return row, &retouch.Picture{Content: content, Digest: row.Digest, Kind: row.Kind, Width: int(row.Width), Height: int(row.Height)}, nil
}

// lookSide is the longest side of a picture that is only looked at, in pixels.
const lookSide = 900

// Look is a picture as a recipe makes it, to be looked at; nothing is kept.
func (st *Stop) Look(ctx context.Context, digest string, recipe []byte) (*retouch.Picture, error) {
	var r retouch.Recipe
	if err := json.Unmarshal(recipe, &r); err != nil {
		return nil, fault.At("recipe", "what is to be done can't be read: %v", err)
	}
	if err := r.Valid(); err != nil {
		return nil, fault.At("recipe", "%v", err)
	}
	_, p, err := st.original(st.Store.Reading(ctx), digest)
	if err != nil {
		return nil, err
	}
	out, err := p.Make(ctx, &r, lookSide)
	if err != nil {
		return nil, fault.New(fault.Invalid, "%v", err)
	}
	return out, nil
}

// made makes what goes out of some choices, and keeps it.
func (st *Stop) made(ctx context.Context, site *store.Site, list []PictureChoice) ([]reckon.Chosen, error) {
	if len(list) > mostPictures {
		return nil, fault.At("pictures", "a listing has at most %d pictures", mostPictures)
	}
	out := make([]reckon.Chosen, len(list))
	seen := map[string]bool{}
	work, bound := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i := range list {
		c := &list[i]
		at := fmt.Sprintf("pictures[%d]", i)
		key, err := json.Marshal(c)
		if err != nil {
			return nil, err
		}
		switch err := c.Recipe.Valid(); {
		case err != nil:
			return nil, fault.At(at, "picture %d: %v", i+1, err)
		case c.Recipe.Caption != "" && site.NoMarks:
			return nil, fault.At(at, "%s forbids captions and marks on pictures; take the caption of picture %d away", site.Name, i+1)
		case seen[string(key)]:
			return nil, fault.At(at, "picture %d stands there twice", i+1)
		}
		seen[string(key)] = true
		work.Go(func() error {
			return fault.Caught(func() (err error) {
				out[i], err = st.makeOne(bound, c)
				return err
			})
		})
	}
	return out, work.Wait()
}

func (st *Stop) makeOne(ctx context.Context, c *PictureChoice) (reckon.Chosen, error) {
	if c.Recipe.Nothing() { // then its file isn't needed
		row, err := st.Store.Reading(ctx).PictureKeptAs(c.Original)
		x := reckon.SuppliersPicture(&row)
		x.Text = strings.TrimSpace(c.Text)
		return x, err
	}
	row, p, err := st.original(st.Store.Reading(ctx), c.Original)
	if err != nil {
		return reckon.Chosen{}, err
	}
	x := reckon.SuppliersPicture(&row)
	made, err := p.Make(ctx, &c.Recipe, 0)
	if err != nil {
		return x, fault.New(fault.Invalid, "%v", err)
	}
	kept, err := st.KeepPicture(ctx, made, true)
	x.Recipe, x.Text, x.Small = c.Recipe, strings.TrimSpace(c.Text), made.Small
	x.Digest, x.Kind, x.Width, x.Height, x.Bytes = kept.Digest, kept.Kind, kept.Width, kept.Height, kept.Bytes
	return x, err
}

// Choose keeps a person's choice of pictures for a listing: the first leads. nil
// takes the choice back.
func (st *Stop) Choose(ctx context.Context, id int64, list []PictureChoice) (PreparedView, error) {
	x, err := load(st.Store.Reading(ctx), id)
	if err != nil {
		return PreparedView{}, err
	}
	value := ""
	if list != nil {
		chosen, err := st.made(ctx, x.site, list)
		if err != nil {
			return PreparedView{}, err
		}
		raw, err := json.Marshal(chosen)
		if err != nil {
			return PreparedView{}, err
		}
		value = string(raw)
	}
	if err := st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.Say(st.Now(), []store.Saying{{ListingID: id, Field: reckon.PicturesField, Value: value, Actor: actor.Of(ctx), At: st.Now()}}),
			tx.Note(st.Now(), "pictures chosen", x.listing.SKU+" on "+x.site.Name, stops.Plural(int64(len(list)), "picture", "pictures")))
	}); err != nil {
		return PreparedView{}, err
	}
	return st.One(ctx, id, nil)
}

// choices are the pictures of a listing as they could be chosen once more.
func choices(p *reckon.Prepared) []PictureChoice {
	out := []PictureChoice{}
	for i := range p.Pictures {
		out = append(out, PictureChoice{p.Pictures[i].Original, p.Pictures[i].Recipe, p.Pictures[i].Text})
	}
	return out
}

// Retouch has the same done to all pictures of many listings: what the recipe
// has is put over what is done to each already. It is a run.
func (st *Stop) Retouch(ctx context.Context, ids []int64, recipe retouch.Recipe) (store.Run, error) {
	var run store.Run
	if err := recipe.Valid(); err != nil {
		return run, fault.At("recipe", "%v", err)
	}
	if recipe.Nothing() {
		return run, fault.At("recipe", "say what is to be done to the pictures")
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		for _, id := range slices.Compact(slices.Sorted(slices.Values(ids))) {
			x, err := load(tx, id)
			if err != nil {
				return err
			}
			if recipe.Caption != "" && x.site.NoMarks {
				return fault.At("recipe", "%s forbids captions and marks on pictures", x.site.Name)
			}
		}
		text, err := json.Marshal(recipe)
		if err != nil {
			return err
		}
		list, err := json.Marshal(ids)
		if err != nil {
			return err
		}
		job := store.PictureJob{Recipe: string(text), Listings: string(list)}
		if err := tx.Create(&job); err != nil {
			return err
		}
		run = store.Run{Kind: RunRetouch, Lane: store.Lane(RunRetouch, 0), Title: "Pictures of " + stops.Plural(int64(len(ids)), "listing", "listings"),
			Subject: job.ID, CreatedAt: st.Now()}
		return tx.Queue(&run)
	})
	return run, err
}

// doRetouch does a picture job, listing by listing, each kept before the next:
// cut short anywhere, it goes on where it was.
func (st *Stop) doRetouch(ctx context.Context, t *work.Task) error {
	job, err := store.Get[store.PictureJob](ctx, st.Store, t.Subject)
	if err != nil {
		return err
	}
	var ids []int64
	if err := json.Unmarshal([]byte(job.Listings), &ids); err != nil {
		return err
	}
	pictures, refused, first := int64(0), int64(0), ""
	for i := job.Done; i < int64(len(ids)); i++ {
		n, err := st.retouchOne(ctx, ids[i], job.Recipe)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if fault.KindOf(err) == fault.Full {
			return err // it goes on here once there is room
		}
		if err != nil {
			if refused++; first == "" {
				first = err.Error()
			}
		}
		pictures += n
		if err := st.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&job, map[string]any{"done": i + 1}) }); err != nil {
			return err
		}
		t.At(i+1, int64(len(ids)))
	}
	t.Note = stops.Plural(pictures, "picture", "pictures") + " made"
	if refused > 0 {
		t.Note += fmt.Sprintf("; %s left as they were: %s", stops.Plural(refused, "listing", "listings"), first)
	}
	return nil
}

func (st *Stop) retouchOne(ctx context.Context, id int64, recipe string) (int64, error) {
	x, err := load(st.Store.Reading(ctx), id)
	if err != nil {
		return 0, err
	}
	p, err := x.asking.Prepare(x.material, &x.listing)
	if err != nil {
		return 0, err
	}
	list := choices(&p)
	for i := range list {
		if err := json.Unmarshal([]byte(recipe), &list[i].Recipe); err != nil {
			return 0, err
		}
	}
	if len(list) == 0 {
		return 0, fault.New(fault.Conflict, "%s has no pictures", x.listing.SKU)
	}
	_, err = st.Choose(ctx, id, list)
	return int64(len(list)), err
}

// lookFor is how long a browser keeps a picture that was looked at: the same
// original and recipe give the same.
const lookFor = 24 * time.Hour
