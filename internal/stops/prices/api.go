package prices

import (
	"context"
	"encoding/json"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
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
	stops.Op(api, stops.Read("/sites/{id}/fees", "get-fees", "sites", "A site's fee schedules: those that held, hold and will"),
		func(ctx context.Context, in *stops.ByID) ([]FeeRow, error) {
			return st.Fees(ctx, in.ID)
		},
	)
	stops.Op(api, stops.Post("/sites/{id}/fees/read", "read-fees", actor.Prepare, "Read a site's fees and categories again", "sites", "listings"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.RefreshFees(ctx, in.ID))
		},
	)
	stops.Op(api, stops.Put("/sites/{id}/fees", "update-fees", actor.Prepare, "Keep a schedule of one category from one day on, as docs/fees.md writes it", "sites", "listings", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body json.RawMessage
		}) (stops.Done, error) {
			return stops.Said(st.SetFees(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(api, stops.Post("/sites/{id}/fees/upload", "upload-fees", actor.Prepare, "Keep the schedules of a file, docs/fees.md", "sites", "listings", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body json.RawMessage
		}) (stops.Counted, error) {
			n, err := st.TakeFees(ctx, in.ID, in.Body)
			return stops.Counted{Count: n}, err
		},
	)
	stops.Op(api, stops.Post("/sites/{id}/fees/delete", "delete-fees", actor.Prepare, "Drop a schedule that a person made", "sites", "listings"),
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
	stops.Download(api, stops.Read("/sites/{id}/fees/export", "export-fees", "sites", "A site's schedules as a file, docs/fees.md").File("application/json"),
		func(ctx context.Context, in *stops.ByID) (stops.File, error) {
			text, err := st.FeesFile(ctx, in.ID)
			return stops.File{Name: "fees.json", Content: text}, err
		})
}

func (st *Stop) rateOperations(api huma.API) {
	stops.Op(api, stops.Post("/sites/{id}/rivals/read", "read-rivals", actor.Prepare, "Read what others ask on the entries we list on", "listings", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.ReadRivals(ctx, in.ID))
		},
	)
	stops.Op(api, stops.Read("/exchange-rates", "list-exchange-rates", "sites", "Exchange rates"), func(ctx context.Context, _ *stops.None) (RatesView, error) {
		rates, address, err := st.Rates(ctx)
		return RatesView{rates, address}, err
	})
	stops.Op(api, stops.Put("/exchange-rates", "set-exchange-rate", actor.Prepare, "Set an exchange rate", "sites", "listings", "plan"), func(ctx context.Context, in *struct {
		Body struct {
			From string `json:"from"`
			To   string `json:"to"`
			Rate string `json:"rate" doc:"How much To one From is, up to nine decimals"`
		}
	}) (stops.Done, error) {
		return stops.Said(st.SetRate(ctx, in.Body.From, in.Body.To, in.Body.Rate))
	})
	stops.Op(api, stops.Post("/exchange-rates/upload", "upload-exchange-rates", actor.Prepare, "Keep the rates of a CSV file: from, to, rate, day", "sites", "listings", "plan"),
		func(ctx context.Context, in *struct {
			RawBody []byte `contentType:"text/csv"`
		}) (stops.Counted, error) {
			n, err := st.RatesFile(ctx, string(in.RawBody))
			return stops.Counted{Count: n}, err
		},
	)
	stops.Op(api, stops.Post("/exchange-rates/fetch", "fetch-exchange-rates", actor.Prepare, "Fetch rates from an address, now and every day from now on", "sites", "listings", "plan"),
		func(ctx context.Context, in *struct {
			Body struct {
				Address string `json:"address" minLength:"1" maxLength:"2000"`
			}
		}) (stops.Counted, error) {
			n, err := st.FetchRates(ctx, in.Body.Address)
			return stops.Counted{Count: n}, err
		},
	)
}

func (st *Stop) ruleOperations(api huma.API) {
	stops.Op(api, stops.Read("/sites/{id}/rules", "list-rules", "rules", "A site's price rules in the order they are tried"),
		func(ctx context.Context, in *stops.ByID) ([]NamedRule, error) {
			return st.Rules(ctx, in.ID)
		},
	)
	stops.Op(api, stops.Post("/sites/{id}/rules", "save-rule", actor.Prepare, "Keep a price rule, new or known", "rules", "listings", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body NamedRule
		}) (stops.Made, error) {
			id, err := st.KeepRule(ctx, in.ID, in.IfMatch, in.Body)
			return stops.Made{ID: id}, err
		},
	)
	stops.Op(api, stops.Ask("/sites/{id}/rules/preview", "preview-rule", "rules", "What keeping a price rule would do; nothing is changed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Sample bool `query:"sample" doc:"At once, from some of the listings, where a site has many"`
			Body   NamedRule
		}) (Preview, error) {
			return st.PreviewRule(ctx, in.ID, in.Body, in.Sample)
		},
	)
	stops.Op(api, stops.Ask("/sites/{id}/preview", "preview-site", "sites", "What setting a site's terms, tax or currency would do to its prices; nothing is changed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Sample bool `query:"sample" doc:"At once, from some of the listings, where a site has many"`
			Body   SiteChange
		}) (Preview, error) {
			return st.PreviewSite(ctx, in.ID, in.Body, in.Sample)
		},
	)
	stops.Op(api, stops.Ask("/sites/{id}/rules/backtest", "backtest-rule", "rules", "What a price rule would have done in the last days, beside what really happened; nothing is changed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Days int `query:"days" default:"60" minimum:"1" maximum:"730"`
			Body NamedRule
		}) (ReplayView, error) {
			return st.Replay(ctx, in.ID, in.Body, in.Days)
		},
	)
	stops.Op(api, stops.Post("/rules/{id}/move", "move-rule", actor.Prepare, "Move a rule to another place in the order", "rules", "listings"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				To int `json:"to" minimum:"0" doc:"Place, from 0"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.MoveRule(ctx, in.ID, in.Body.To))
		},
	)
	stops.Op(api, stops.Delete("/rules/{id}", "delete-rule", actor.Prepare, "Drop a rule", "rules", "listings", "plan"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.DropRule(ctx, in.ID))
		},
	)
}

func (st *Stop) benchOperations(api huma.API) {
	stops.Op(api, stops.Ask("/sites/{id}/what-if", "try-costs-on-site", "listings", "Ask what other costs, fees or rates would do; nothing is changed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body WhatIf
		}) (WhatIfAnswer, error) {
			return st.AskWhatIf(ctx, in.ID, in.Body)
		},
	)
	stops.Op(api, stops.Ask("/what-if", "try-costs", "listings", "The same of every site we list on"),
		func(ctx context.Context, in *stops.Body[WhatIf]) (WhatIfAll, error) {
			return st.AskWhatIfAll(ctx, in.Body)
		},
	)
	stops.Op(api, stops.Ask("/quotes", "quote-price", "listings", "What is left of a price, for a product of ours or loose figures"),
		func(ctx context.Context, in *stops.Body[BenchAsk]) (BenchAnswer, error) {
			return st.Bench(ctx, in.Body)
		},
	)
	stops.Op(api, stops.Ask("/quotes/by-site", "quote-price-by-site", "listings", "The same product or figures on every site"),
		func(ctx context.Context, in *stops.Body[BenchAsk]) (SideBySide, error) {
			rows, home, err := st.BenchSites(ctx, in.Body)
			return SideBySide{rows, home}, err
		},
	)
}

func (st *Stop) listingOperations(api huma.API) {
	stops.Op(api, stops.Post("/listings/reprice", "reprice-listings", actor.Prepare, "Fix prices by hand, change a set of them, or release them", "listings", "plan", "rules"),
		func(ctx context.Context, in *stops.Body[Repricing]) ([]Move, error) {
			in.Body.Keep = true
			return st.Reprice(ctx, in.Body)
		},
	)
	stops.Op(api, stops.Ask("/listings/reprice/check", "check-repricing", "listings", "What prices fixed by hand would be; nothing is kept"),
		func(ctx context.Context, in *stops.Body[Repricing]) ([]Move, error) { return st.Reprice(ctx, in.Body) },
	)
	stops.Op(api, stops.Put("/listings/{id}/rule", "set-listing-rule", actor.Prepare, "Give a listing a rule of its own, or take it away", "listings", "rules", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body OwnRule
		}) (stops.Done, error) {
			return stops.Said(st.SetOwnRule(ctx, in.ID, in.IfMatch, in.Body.Rule))
		},
	)
	stops.Op(api, stops.Ask("/listings/{id}/rule/preview", "preview-listing-rule", "listings", "The price a listing would have by a rule of its own; nothing is changed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body OwnRule
		}) (Explained, error) {
			return st.PreviewOwnRule(ctx, in.ID, in.Body.Rule)
		},
	)
	stops.Op(api, stops.Put("/listings/{id}/former-price", "set-former-price", actor.Prepare, "Set the former price shown crossed out", "listings"),
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
	stops.Op(api, stops.Put("/listings/{id}/warehouse", "set-listing-warehouse", actor.Send, "Say whether the marketplace's warehouse keeps and sends it", "listings", "plan"),
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
	stops.Op(api, stops.Read("/listings/{id}/price-lines", "get-listing-price-lines", "listings", "A listing's price, opened into its lines"),
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
