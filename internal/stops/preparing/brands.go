package preparing

import (
	"context"
	"slices"
	"strings"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// BrandAsked is a brand that a place was asked to put on its register.
type BrandAsked struct {
	Brand   string    `json:"brand"`
	State   string    `json:"state" enum:"asked,given,refused"`
	Comment string    `json:"comment"`
	Picture string    `json:"picture" doc:"Digest of its logo, or of a picture of it on a thing"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
}

// NewBrand is what is said of a brand that is asked for, or what became of it.
type NewBrand struct {
	Brand   string `json:"brand" minLength:"1" maxLength:"120"`
	State   string `json:"state" enum:"asked,given,refused"`
	Comment string `json:"comment,omitempty" maxLength:"1000"`
	Picture string `json:"picture,omitempty" maxLength:"64"`
}

func brandsAsked(tx store.Tx, siteID int64) ([]BrandAsked, error) {
	rows, err := tx.BrandRequests(siteID)
	out := []BrandAsked{}
	for _, b := range rows {
		out = append(out, BrandAsked{b.Brand, b.State, b.Comment, b.Picture, b.Actor, b.At})
	}
	return out, err
}

// AskBrand notes that a place was asked to put a brand on its register, or what
// became of that. From *given* on, it counts as being there.
func (st *Stop) AskBrand(ctx context.Context, siteID int64, b NewBrand) error {
	b.Brand = strings.TrimSpace(b.Brand)
	if b.Brand == "" {
		return fault.At("brand", "say which brand")
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if b.Picture != "" {
			if _, err := tx.PictureKeptAs(b.Picture); err != nil {
				return err
			}
		}
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.PutBrandRequest(st.Now(), store.BrandRequest{SiteID: site.ID, Brand: b.Brand, State: b.State, Comment: b.Comment, Picture: b.Picture,
			Actor: actor.Of(ctx), At: st.Now()}), tx.Note(st.Now(), "brand "+b.State, site.Name, b.Brand))
	})
}

// mostBrands is how many of a register a search gives.
const mostBrands = 50

// Brands searches a category's register: those that begin with the words first.
func (st *Stop) Brands(ctx context.Context, id int64, words string) ([]string, error) {
	x, err := load(st.Store.Reading(ctx), id)
	if err != nil {
		return nil, err
	}
	asked, err := x.asking.For(x.listing.Category)
	if err != nil {
		return nil, err
	}
	out := []string{}
	b := asked.Needs.Brand
	if b == nil {
		return out, nil
	}
	want := strings.ToLower(strings.TrimSpace(words))
	for _, name := range b.Register {
		if strings.Contains(strings.ToLower(name), want) {
			out = append(out, name)
		}
	}
	slices.SortStableFunc(out, func(a, c string) int {
		first := func(s string) int {
			if strings.HasPrefix(strings.ToLower(s), want) {
				return 0
			}
			return 1
		}
		return first(a) - first(c)
	})
	out = out[:min(len(out), mostBrands)]
	if b.None != "" && (want == "" || strings.Contains(strings.ToLower(b.None), want)) {
		out = append(out, b.None)
	}
	return out, nil
}
