package web

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/money"
	"easymargin/internal/app"
	"easymargin/internal/store"
)

type siteView struct {
	ID          int64      `json:"id"`
	Name        string     `json:"name"`
	Marketplace string     `json:"marketplace"`
	Address     string     `json:"address"`
	Currency    string     `json:"currency"`
	Kind        string     `json:"kind" doc:"catalogue, own listings, sheet, shop"`
	Lists       bool       `json:"lists" doc:"Whether we list there"`
	TaxWay      string     `json:"tax_way"`
	TaxRate     string     `json:"tax_rate"`
	Charged     int64      `json:"charged" doc:"What the buyer pays for delivery"`
	Outbound    int64      `json:"outbound" doc:"What sending one costs us"`
	Handling    int64      `json:"handling" doc:"Our own work for each unit"`
	Cushion     string     `json:"cushion"`
	Allowances  string     `json:"allowances" doc:"JSON, rates in millionths"`
	FeesAt      *time.Time `json:"fees_read"`
}

func viewSite(x store.Site) siteView {
	return siteView{x.ID, x.Name, x.Marketplace.Name, x.Marketplace.Address, x.Currency, x.Kind, x.Lists, x.TaxWay, money.Rate(x.TaxRate).String(), x.Charged, x.Outbound, x.Handling,
		money.Rate(x.Cushion).String(), x.Allowances, x.FeesAt}
}

func viewSites(list []store.Site, err error) ([]siteView, error) {
	out := []siteView{}
	for _, x := range list {
		out = append(out, viewSite(x))
	}
	return out, err
}

type ratesView struct {
	Rates   []app.Rate `json:"rates"`
	Address string     `json:"address" doc:"Where they are fetched from every day; empty: they aren't"`
}

type made struct {
	ID int64 `json:"id"`
}

type counted struct {
	Count int `json:"count"`
}

// prices are where we sell, what is taken there and how currencies are changed.
func (s *server) prices(api huma.API) {
	op(api, http.MethodGet, "/api/sites", "sites", "Where we sell", func(ctx context.Context, _ *none) ([]siteView, error) {
		return viewSites(s.app.Store.Sites(ctx))
	})
	op(api, http.MethodPost, "/api/marketplaces", "connect", "Connect a marketplace by the address of its gateway", func(ctx context.Context, in *body[struct {
		Name    string `json:"name" minLength:"1" maxLength:"120"`
		Address string `json:"address" minLength:"1" maxLength:"2000"`
	}]) ([]siteView, error) {
		return viewSites(s.app.Connect(ctx, in.Body.Name, in.Body.Address))
	})
	op(api, http.MethodPut, "/api/sites/{id}/terms", "set-terms", "Set what delivery costs the buyer, what sending costs us, and what is put on costs and by of prices", func(ctx context.Context, in *struct {
		ByID
		Body app.SiteTerms
	}) (done, error) {
		return said(s.app.SetTerms(ctx, in.ID, in.Body))
	})
	op(api, http.MethodPut, "/api/sites/{id}/lists", "set-lists", "Say whether we list on a site", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Lists bool `json:"lists"`
		}
	}) (done, error) {
		return said(s.app.SetLists(ctx, in.ID, in.Body.Lists))
	})
	op(api, http.MethodGet, "/api/sites/{id}/categories", "categories", "A site's categories", func(ctx context.Context, in *ByID) ([]app.Category, error) {
		return s.app.Categories(ctx, in.ID)
	})
	op(api, http.MethodGet, "/api/sites/{id}/fees", "fees", "A site's fee schedules: those that held, hold and will", func(ctx context.Context, in *ByID) ([]app.FeeRow, error) {
		return s.app.Fees(ctx, in.ID)
	})
	op(api, http.MethodPost, "/api/sites/{id}/fees/read", "read-fees", "Read a site's fees and categories again", func(ctx context.Context, in *ByID) (done, error) {
		return said(s.app.RefreshFees(ctx, in.ID))
	})
	op(api, http.MethodPut, "/api/sites/{id}/fees", "set-fees", "Keep a schedule of one category from one day on, as docs/fees.md writes it", func(ctx context.Context, in *struct {
		ByID
		Body json.RawMessage
	}) (done, error) {
		return said(s.app.SetFees(ctx, in.ID, in.Body))
	})
	op(api, http.MethodPost, "/api/sites/{id}/fees/file", "take-fees", "Keep the schedules of a file, docs/fees.md", func(ctx context.Context, in *struct {
		ByID
		Body json.RawMessage
	}) (counted, error) {
		n, err := s.app.TakeFees(ctx, in.ID, in.Body)
		return counted{n}, err
	})
	op(api, http.MethodPost, "/api/sites/{id}/fees/drop", "drop-fees", "Drop a schedule that a person made", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Category string `json:"category"`
			StartsOn string `json:"starts_on"`
		}
	}) (done, error) {
		return said(s.app.DropFees(ctx, in.ID, in.Body.Category, in.Body.StartsOn))
	})
	op(api, http.MethodPost, "/api/sites/{id}/rivals/read", "read-rivals", "Read what others ask on the entries we list on", func(ctx context.Context, in *ByID) (done, error) {
		return said(s.app.ReadRivals(ctx, in.ID))
	})
	op(api, http.MethodGet, "/api/rates", "rates", "Exchange rates", func(ctx context.Context, _ *none) (ratesView, error) {
		rates, address, err := s.app.Rates(ctx)
		return ratesView{rates, address}, err
	})
	op(api, http.MethodPut, "/api/rates", "set-rate", "Set an exchange rate", func(ctx context.Context, in *body[struct {
		From string `json:"from"`
		To   string `json:"to"`
		Rate string `json:"rate" doc:"How much To one From is, up to nine decimals"`
	}]) (done, error) {
		return said(s.app.SetRate(ctx, in.Body.From, in.Body.To, in.Body.Rate))
	})
	op(api, http.MethodPost, "/api/rates/file", "rates-file", "Keep the rates of a CSV file: from, to, rate, day", func(ctx context.Context, in *struct {
		RawBody []byte `contentType:"text/csv"`
	}) (counted, error) {
		n, err := s.app.RatesFile(ctx, string(in.RawBody))
		return counted{n}, err
	})
	op(api, http.MethodPost, "/api/rates/fetch", "fetch-rates", "Fetch rates from an address, now and every day from now on", func(ctx context.Context, in *body[struct {
		Address string `json:"address" minLength:"1" maxLength:"2000"`
	}]) (counted, error) {
		n, err := s.app.FetchRates(ctx, in.Body.Address)
		return counted{n}, err
	})
	fileOf(s, api)
}

// fileOf is the one answer that is a file rather than a value.
func fileOf(s *server, api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "fees-file", Method: http.MethodGet, Path: "/api/sites/{id}/fees/file", Summary: "A site's schedules as a file, docs/fees.md"},
		func(ctx context.Context, in *ByID) (*struct {
			Type string `header:"Content-Type"`
			Name string `header:"Content-Disposition"`
			Body []byte
		}, error) {
			text, err := s.app.FeesFile(ctx, in.ID)
			if err != nil {
				return nil, toProblem(err)
			}
			return &struct {
				Type string `header:"Content-Type"`
				Name string `header:"Content-Disposition"`
				Body []byte
			}{"application/json", `attachment; filename="fees.json"`, text}, nil
		})
}

// pricing is how prices are found, and what would become of them.
func (s *server) pricing(api huma.API) {
	op(api, http.MethodGet, "/api/sites/{id}/rules", "rules", "A site's price rules in the order they are tried", func(ctx context.Context, in *ByID) ([]app.NamedRule, error) {
		return s.app.Rules(ctx, in.ID)
	})
	op(api, http.MethodPost, "/api/sites/{id}/rules", "keep-rule", "Keep a price rule, new or known", func(ctx context.Context, in *struct {
		ByID
		Body app.NamedRule
	}) (made, error) {
		id, err := s.app.KeepRule(ctx, in.ID, in.Body)
		return made{id}, err
	})
	op(api, http.MethodPost, "/api/sites/{id}/rules/preview", "preview-rule", "What keeping a price rule would do; nothing is changed", func(ctx context.Context, in *struct {
		ByID
		Body app.NamedRule
	}) (app.Preview, error) {
		return s.app.PreviewRule(ctx, in.ID, in.Body)
	})
	op(api, http.MethodPost, "/api/rules/{id}/move", "move-rule", "Move a rule to another place in the order", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			To int `json:"to" minimum:"0" doc:"Place, from 0"`
		}
	}) (done, error) {
		return said(s.app.MoveRule(ctx, in.ID, in.Body.To))
	})
	op(api, http.MethodDelete, "/api/rules/{id}", "drop-rule", "Drop a rule", func(ctx context.Context, in *ByID) (done, error) {
		return said(s.app.DropRule(ctx, in.ID))
	})
	op(api, http.MethodPost, "/api/sites/{id}/what-if", "what-if", "Ask what other costs, fees or rates would do; nothing is changed", func(ctx context.Context, in *struct {
		ByID
		Body app.WhatIf
	}) (app.WhatIfAnswer, error) {
		return s.app.AskWhatIf(ctx, in.ID, in.Body)
	})
	op(api, http.MethodPost, "/api/what-if", "what-if-all", "The same of every site we list on", func(ctx context.Context, in *body[app.WhatIf]) (app.WhatIfAll, error) {
		return s.app.AskWhatIfAll(ctx, in.Body)
	})
	op(api, http.MethodPost, "/api/bench", "bench", "What is left of a price, for a product of ours or loose figures", func(ctx context.Context, in *body[app.BenchAsk]) (app.BenchAnswer, error) {
		return s.app.Bench(ctx, in.Body)
	})
	op(api, http.MethodPost, "/api/bench/sites", "bench-sites", "The same product or figures on every site", func(ctx context.Context, in *body[app.BenchAsk]) (sideBySide, error) {
		rows, home, err := s.app.BenchSites(ctx, in.Body)
		return sideBySide{rows, home}, err
	})
	op(api, http.MethodPost, "/api/listings/reprice", "reprice", "Fix prices by hand, change a set of them, or release them", func(ctx context.Context, in *body[app.Repricing]) ([]app.Move, error) {
		return s.app.Reprice(ctx, in.Body)
	})
	op(api, http.MethodPut, "/api/listings/{id}/rule", "own-rule", "Give a listing a rule of its own, or take it away", func(ctx context.Context, in *struct {
		ByID
		Body ownRule
	}) (done, error) {
		return said(s.app.SetOwnRule(ctx, in.ID, in.Body.Rule))
	})
	op(api, http.MethodPost, "/api/listings/{id}/rule/preview", "preview-own-rule", "The price a listing would have by a rule of its own; nothing is changed", func(ctx context.Context, in *struct {
		ByID
		Body ownRule
	}) (app.Explained, error) {
		return s.app.PreviewOwnRule(ctx, in.ID, in.Body.Rule)
	})
	op(api, http.MethodPut, "/api/listings/{id}/former", "former-price", "Set the former price shown crossed out", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Former string `json:"former" doc:"Empty takes it away"`
		}
	}) (warned, error) {
		warning, err := s.app.SetFormer(ctx, in.ID, in.Body.Former)
		return warned{warning}, err
	})
	op(api, http.MethodPut, "/api/listings/{id}/warehouse", "by-warehouse", "Say whether the marketplace's warehouse keeps and sends it", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Warehouse bool `json:"warehouse"`
		}
	}) (done, error) {
		return said(s.app.SetWarehouse(ctx, in.ID, in.Body.Warehouse))
	})
	op(api, http.MethodGet, "/api/listings/{id}/lines", "listing-lines", "A listing's price, opened into its lines", func(ctx context.Context, in *struct {
		ByID
		Price int64 `query:"price" doc:"Another price to open, minor units; 0 for the one worked out"`
	}) (app.Explained, error) {
		if in.Price != 0 {
			return s.app.Explain(ctx, in.ID, &in.Price)
		}
		return s.app.Explain(ctx, in.ID, nil)
	})
}

type sideBySide struct {
	Sites []app.BenchSite `json:"sites"`
	Home  string          `json:"home" doc:"The currency the profits are compared in"`
}

type ownRule struct {
	Rule *app.Rule `json:"rule,omitempty" doc:"Left out: the site's rules hold again"`
}

type warned struct {
	Warning string `json:"warning" doc:"Why it may not be shown; empty where nothing speaks against it"`
}
