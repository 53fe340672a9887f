package preparing

import (
	"context"
	"encoding/json"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// RefusedAlike are listings that a place refused with the same words.
type RefusedAlike struct {
	SiteID   int64    `json:"site_id"`
	Site     string   `json:"site"`
	Field    string   `json:"field" doc:"What it is about; empty: the place didn't say"`
	Words    string   `json:"words"`
	Listings []int64  `json:"listings"`
	Mendable bool     `json:"mendable" doc:"The field is ours to say, in all of them"`
	Before   []string `json:"before" doc:"What mended others that were refused so; empty: nothing is known"`
}

// Refusals are what places refused, alike ones together, the commonest first.
func (st *Stop) Refusals(ctx context.Context) ([]RefusedAlike, error) {
	rows, err := st.Store.Refusals(ctx)
	out := []RefusedAlike{}
	for _, r := range rows {
		x := RefusedAlike{SiteID: r.SiteID, Site: r.Site, Field: r.Field, Words: r.Words, Mendable: r.Own == r.Count && reckon.Sayable(r.Field), Before: []string{}}
		if err := json.Unmarshal([]byte(r.Listings), &x.Listings); err != nil {
			return out, err
		}
		if r.Mended != "" {
			if err := json.Unmarshal([]byte(r.Mended), &x.Before); err != nil {
				return out, err
			}
		}
		out = append(out, x)
	}
	return out, err
}

// Mending is the same mend for all that a place refused with some words.
type Mending struct {
	SiteID int64    `json:"site_id"`
	Field  string   `json:"field" maxLength:"200" doc:"Of the refusal"`
	Words  string   `json:"words" maxLength:"1000" doc:"Of the refusal"`
	Say    string   `json:"say,omitempty" maxLength:"200" doc:"The field that is said; left out: that of the refusal"`
	Values []string `json:"values" minItems:"1" maxItems:"100"`
}

// Mend says the same of all listings that a place refused with some words, and
// remembers it for the next that are. They aren't sent by it.
func (st *Stop) Mend(ctx context.Context, in Mending) ([]Outcome, error) {
	all, err := st.Refusals(ctx)
	if err != nil {
		return nil, err
	}
	for _, r := range all {
		if r.SiteID != in.SiteID || r.Field != in.Field || r.Words != in.Words {
			continue
		}
		field := r.Field
		if in.Say != "" {
			field = in.Say
		}
		if !reckon.Sayable(field) {
			return nil, fault.At("say", "%q is nothing that can be said of a listing; open them one by one", field)
		}
		out, err := st.SayAll(ctx, r.Listings, []FieldSaid{{Field: field, Values: in.Values}}, true)
		if err != nil || field != r.Field {
			return out, err
		}
		said, err := json.Marshal(in.Values)
		if err != nil {
			return out, err
		}
		return out, st.Store.Do(ctx, func(tx store.Tx) error {
			return tx.PutMend(in.SiteID, in.Field, in.Words, string(said), actor.Of(ctx), st.Now())
		})
	}
	return nil, fault.New(fault.Conflict, "nothing is refused with these words any more")
}

// refusalOperations are those about what places refused.
func (st *Stop) refusalOperations(api huma.API) {
	stops.Op(api, stops.Read("/refusals", "list-refusals", "listings", "What places refused, alike ones together, with what mended such before"),
		func(ctx context.Context, _ *stops.None) ([]RefusedAlike, error) { return st.Refusals(ctx) })
	stops.Op(api, stops.Post("/refusals/mend", "mend-refusals", actor.Prepare, "Say the same of all that a place refused with some words, and remember it", "prepare", "listings", "counts"),
		func(ctx context.Context, in *stops.Body[Mending]) ([]Outcome, error) { return st.Mend(ctx, in.Body) })
}
