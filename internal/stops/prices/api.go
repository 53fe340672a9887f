package prices

import (
	"context"
	"encoding/json"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/stops"
)

// RatesView are the exchange rates, and where they come from.
type RatesView struct {
	Rates   []Rate `json:"rates"`
	Address string `json:"address" doc:"Where they are fetched from every day; empty: they aren't"`
}

// SideBySide is a product's prices on every site.
type SideBySide struct {
	Sites []BenchSite `json:"sites"`
	Home  string      `json:"home" doc:"The currency the profits are compared in"`
}

// OwnRule is a listing's own rule, or none.
type OwnRule struct {
	Rule *Rule `json:"rule,omitempty" doc:"Left out: the site's rules hold again"`
}

// Warned is what is said of a former price that was set.
type Warned struct {
	Warning string `json:"warning" doc:"Why it may not be shown; empty where nothing speaks against it"`
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	st.feeOperations(api)
	st.rateOperations(api)
	st.ruleOperations(api)
	st.benchOperations(api)
	st.listingOperations(api)
}

func (st *Stop) feeOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodGet,
		"/api/sites/{id}/fees",
		"fees",
		"A site's fee schedules: those that held, hold and will",
		func(ctx context.Context, in *stops.ByID) ([]FeeRow, error) {
			return st.Fees(ctx, in.ID)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/fees/read",
		"read-fees",
		"Read a site's fees and categories again",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.RefreshFees(ctx, in.ID))
		},
	)
	stops.Op(
		api,
		http.MethodPut,
		"/api/sites/{id}/fees",
		"set-fees",
		"Keep a schedule of one category from one day on, as docs/fees.md writes it",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body json.RawMessage
		}) (stops.Done, error) {
			return stops.Said(st.SetFees(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/fees/file",
		"take-fees",
		"Keep the schedules of a file, docs/fees.md",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body json.RawMessage
		}) (stops.Counted, error) {
			n, err := st.TakeFees(ctx, in.ID, in.Body)
			return stops.Counted{Count: n}, err
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/fees/drop",
		"drop-fees",
		"Drop a schedule that a person made",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Category string `json:"category"`
				StartsOn string `json:"starts_on"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.DropFees(ctx, in.ID, in.Body.Category, in.Body.StartsOn))
		},
	)
	// The one answer that is a file rather than a value.
	type file struct {
		Type string `header:"Content-Type"`
		Name string `header:"Content-Disposition"`
		Body []byte
	}
	huma.Register(
		api,
		huma.Operation{
			OperationID: "fees-file",
			Method:      http.MethodGet,
			Path:        "/api/sites/{id}/fees/file",
			Summary:     "A site's schedules as a file, docs/fees.md",
		},
		func(ctx context.Context, in *stops.ByID) (*file, error) {
			text, err := st.FeesFile(ctx, in.ID)
			if err != nil {
				return nil, stops.ProblemOf(err)
			}
			return &file{"application/json", `attachment; filename="fees.json"`, text}, nil
		},
	)
}

func (st *Stop) rateOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/rivals/read",
		"read-rivals",
		"Read what others ask on the entries we list on",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.ReadRivals(ctx, in.ID))
		},
	)
	stops.Op(api, http.MethodGet, "/api/rates", "rates", "Exchange rates", func(ctx context.Context, _ *stops.None) (RatesView, error) {
		rates, address, err := st.Rates(ctx)
		return RatesView{rates, address}, err
	})
	stops.Op(api, http.MethodPut, "/api/rates", "set-rate", "Set an exchange rate", func(ctx context.Context, in *stops.Body[struct {
		From string `json:"from"`
		To   string `json:"to"`
		Rate string `json:"rate" doc:"How much To one From is, up to nine decimals"`
	}]) (stops.Done, error) {
		return stops.Said(st.SetRate(ctx, in.Body.From, in.Body.To, in.Body.Rate))
	})
	stops.Op(
		api,
		http.MethodPost,
		"/api/rates/file",
		"rates-file",
		"Keep the rates of a CSV file: from, to, rate, day",
		func(ctx context.Context, in *struct {
			RawBody []byte `contentType:"text/csv"`
		}) (stops.Counted, error) {
			n, err := st.RatesFile(ctx, string(in.RawBody))
			return stops.Counted{Count: n}, err
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/rates/fetch",
		"fetch-rates",
		"Fetch rates from an address, now and every day from now on",
		func(ctx context.Context, in *stops.Body[struct {
			Address string `json:"address" minLength:"1" maxLength:"2000"`
		}]) (stops.Counted, error) {
			n, err := st.FetchRates(ctx, in.Body.Address)
			return stops.Counted{Count: n}, err
		},
	)
}

func (st *Stop) ruleOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodGet,
		"/api/sites/{id}/rules",
		"rules",
		"A site's price rules in the order they are tried",
		func(ctx context.Context, in *stops.ByID) ([]NamedRule, error) {
			return st.Rules(ctx, in.ID)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/rules",
		"keep-rule",
		"Keep a price rule, new or known",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body NamedRule
		}) (stops.Made, error) {
			id, err := st.KeepRule(ctx, in.ID, in.IfMatch, in.Body)
			return stops.Made{ID: id}, err
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/rules/preview",
		"preview-rule",
		"What keeping a price rule would do; nothing is changed",
		func(ctx context.Context, in *struct {
			stops.ByID
			Sample bool `query:"sample" doc:"At once, from some of the listings, where a site has many"`
			Body   NamedRule
		}) (Preview, error) {
			return st.PreviewRule(ctx, in.ID, in.Body, in.Sample)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/rules/replay",
		"replay-rule",
		"What a price rule would have done in the last days, beside what really happened; nothing is changed",
		func(ctx context.Context, in *struct {
			stops.ByID
			Days int `query:"days" default:"60" minimum:"1" maximum:"730"`
			Body NamedRule
		}) (ReplayView, error) {
			return st.Replay(ctx, in.ID, in.Body, in.Days)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/rules/{id}/move",
		"move-rule",
		"Move a rule to another place in the order",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				To int `json:"to" minimum:"0" doc:"Place, from 0"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.MoveRule(ctx, in.ID, in.Body.To))
		},
	)
	stops.Op(
		api,
		http.MethodDelete,
		"/api/rules/{id}",
		"drop-rule",
		"Drop a rule",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.DropRule(ctx, in.ID))
		},
	)
}

func (st *Stop) benchOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/what-if",
		"what-if",
		"Ask what other costs, fees or rates would do; nothing is changed",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body WhatIf
		}) (WhatIfAnswer, error) {
			return st.AskWhatIf(ctx, in.ID, in.Body)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/what-if",
		"what-if-all",
		"The same of every site we list on",
		func(ctx context.Context, in *stops.Body[WhatIf]) (WhatIfAll, error) {
			return st.AskWhatIfAll(ctx, in.Body)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/bench",
		"bench",
		"What is left of a price, for a product of ours or loose figures",
		func(ctx context.Context, in *stops.Body[BenchAsk]) (BenchAnswer, error) {
			return st.Bench(ctx, in.Body)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/bench/sites",
		"bench-sites",
		"The same product or figures on every site",
		func(ctx context.Context, in *stops.Body[BenchAsk]) (SideBySide, error) {
			rows, home, err := st.BenchSites(ctx, in.Body)
			return SideBySide{rows, home}, err
		},
	)
}

func (st *Stop) listingOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodPost,
		"/api/listings/reprice",
		"reprice",
		"Fix prices by hand, change a set of them, or release them",
		func(ctx context.Context, in *stops.Body[Repricing]) ([]Move, error) {
			return st.Reprice(ctx, in.Body)
		},
	)
	stops.Op(
		api,
		http.MethodPut,
		"/api/listings/{id}/rule",
		"own-rule",
		"Give a listing a rule of its own, or take it away",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body OwnRule
		}) (stops.Done, error) {
			return stops.Said(st.SetOwnRule(ctx, in.ID, in.IfMatch, in.Body.Rule))
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/listings/{id}/rule/preview",
		"preview-own-rule",
		"The price a listing would have by a rule of its own; nothing is changed",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body OwnRule
		}) (Explained, error) {
			return st.PreviewOwnRule(ctx, in.ID, in.Body.Rule)
		},
	)
	stops.Op(
		api,
		http.MethodPut,
		"/api/listings/{id}/former",
		"former-price",
		"Set the former price shown crossed out",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body struct {
				Former string `json:"former" doc:"Empty takes it away"`
			}
		}) (Warned, error) {
			warning, err := st.SetFormer(ctx, in.ID, in.IfMatch, in.Body.Former)
			return Warned{warning}, err
		},
	)
	stops.Op(
		api,
		http.MethodPut,
		"/api/listings/{id}/warehouse",
		"by-warehouse",
		"Say whether the marketplace's warehouse keeps and sends it",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body struct {
				Warehouse bool `json:"warehouse"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetWarehouse(ctx, in.ID, in.IfMatch, in.Body.Warehouse))
		},
	)
	stops.Op(
		api,
		http.MethodGet,
		"/api/listings/{id}/lines",
		"listing-lines",
		"A listing's price, opened into its lines",
		func(ctx context.Context, in *struct {
			stops.ByID
			Price int64 `query:"price" doc:"Another price to open, minor units; 0 for the one worked out"`
		}) (Explained, error) {
			if in.Price != 0 {
				return st.Explain(ctx, in.ID, &in.Price)
			}
			return st.Explain(ctx, in.ID, nil)
		},
	)
}
