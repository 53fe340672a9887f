package app

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/feed"
	"easymargin/internal/store"
)

// SourceSettings are what a person sets of a source. Amounts are texts in major
// units of its currency.
type SourceSettings struct {
	Mode       string            `json:"mode" enum:"full,update"`
	Every      int64             `json:"every" minimum:"0" maximum:"10080" doc:"Minutes between two looks; 0: only when asked"`
	LookUp     bool              `json:"look_up" doc:"Look new products up on every site by themselves"`
	Charge     string            `json:"charge" doc:"Delivery they charge for one order"`
	FreeFrom   string            `json:"free_from" doc:"Order value from which delivery is free; empty: never"`
	Duty       string            `json:"duty,omitempty" doc:"Percentage of goods and delivery; empty: none"`
	Days       int64             `json:"days" minimum:"0" maximum:"365"`
	SomeStock  int64             `json:"some_stock" minimum:"1" maximum:"100000" doc:"What 'in stock' without a number means"`
	StockWords map[string]string `json:"stock_words" doc:"Their own words for stock: word to a number, 'some' or 'ended'"`
	Words      map[string]string `json:"words" doc:"Their own column names: name to field"`
	Decimal    string            `json:"decimal" enum:",comma,point" doc:"Decimal sign where a column's values don't prove one"`
	WeightUnit string            `json:"weight_unit" enum:",g,kg,oz,lb"`
	LengthUnit string            `json:"length_unit" enum:",mm,cm,m,in,ft"`
	Guards     supply.Guards     `json:"guards"`
	Username   string            `json:"username" maxLength:"200"`
	Password   string            `json:"password" maxLength:"500" doc:"Empty leaves the kept one as it is; kept encrypted, never shown"`
}

// Settings are a source's settings as they are.
func (a *App) Settings(s *store.Source) (SourceSettings, error) {
	reading, err := a.settingsOf(s)
	if err != nil {
		return SourceSettings{}, err
	}
	cur := money.Currency(s.Currency)
	out := SourceSettings{Mode: s.Mode, Every: s.Every, LookUp: s.LookUp, Charge: money.Of(s.Charge, cur).String(), Duty: money.Rate(s.Duty).String(), Days: s.Days, SomeStock: max(reading.SomeStock, 0),
		StockWords: map[string]string{}, Words: map[string]string{}, WeightUnit: reading.WeightUnit, LengthUnit: reading.LengthUnit, Guards: supply.DefaultGuards, Username: s.Username}
	if s.FreeFrom != nil {
		out.FreeFrom = money.Of(*s.FreeFrom, cur).String()
	}
	if out.SomeStock == 0 {
		out.SomeStock = 5
	}
	switch reading.Decimal {
	case ",":
		out.Decimal = "comma"
	case ".":
		out.Decimal = "point"
	}
	for w, st := range reading.StockWords {
		switch {
		case st.State == supply.StockEnded:
			out.StockWords[w] = "ended"
		case st.Count < 0:
			out.StockWords[w] = "some"
		default:
			out.StockWords[w] = strconv.FormatInt(st.Count, 10)
		}
	}
	for w, f := range reading.Words {
		out.Words[w] = f
	}
	if s.Guards != "" {
		if err := json.Unmarshal([]byte(s.Guards), &out.Guards); err != nil {
			return out, fmt.Errorf("guards of %s: %w", s.Name, err)
		}
	}
	return out, nil
}

// SetSettings keeps a source's settings. The next feed is read by them.
func (a *App) SetSettings(ctx context.Context, sourceID int64, in SourceSettings) error {
	s, err := a.Store.SourceOf(ctx, sourceID)
	if err != nil {
		return err
	}
	cur := money.Currency(s.Currency)
	if s.Charge, err = amount("charge", in.Charge, cur); err != nil {
		return err
	}
	duty, err := share("duty", cmp.Or(in.Duty, "0"))
	if err != nil || duty < 0 {
		return invalid("duty", "%q is not a percentage such as 4.2%%", in.Duty)
	}
	s.Duty = int64(duty)
	s.FreeFrom = nil
	if strings.TrimSpace(in.FreeFrom) != "" {
		v, err := amount("free_from", in.FreeFrom, cur)
		if err != nil {
			return err
		}
		s.FreeFrom = &v
	}
	reading, err := a.settingsOf(&s)
	if err != nil {
		return err
	}
	reading.SomeStock, reading.WeightUnit, reading.LengthUnit = in.SomeStock, in.WeightUnit, in.LengthUnit
	reading.Decimal = map[string]string{"comma": ",", "point": "."}[in.Decimal]
	reading.StockWords, reading.Words = map[string]supply.Stock{}, map[string]string{}
	for word, means := range in.StockWords {
		st := supply.Stock{State: supply.StockKnown}
		switch n, err := strconv.ParseInt(strings.TrimSpace(means), 10, 64); {
		case means == "some":
			st.Count = -1
		case means == "ended":
			st.State = supply.StockEnded
		case err == nil && n >= 0:
			st.Count = n
		default:
			return invalid("stock_words", "%q must mean a number, some or ended, not %q", word, means)
		}
		if w := feed.StockWord(word); w != "" {
			reading.StockWords[w] = st
		}
	}
	for name, field := range in.Words {
		if !feed.IsField(field) {
			return invalid("words", "%q is no field that a column is read as", field)
		}
		reading.Words[feed.ColumnWord(name)] = field
	}
	g := in.Guards
	if g.FewestRows < 0 || g.FewestRows > 100 || g.MostAside < 0 || g.MostAside > 100 || g.MostMoved < 0 || g.MostMoved > 100 || g.MostToZero < 0 || g.MostToZero > 100 || g.MissingGone < 1 {
		return invalid("guards", "shares are from 0 to 100 %%, and a product is missing from at least one feed before it is gone")
	}
	text, err := json.Marshal(reading)
	if err != nil {
		return err
	}
	guards, err := json.Marshal(g)
	if err != nil {
		return err
	}
	change := map[string]any{"mode": in.Mode, "every": in.Every, "look_up": in.LookUp, "charge": s.Charge, "free_from": s.FreeFrom, "duty": s.Duty, "days": in.Days,
		"reading": string(text), "guards": string(guards), "username": in.Username}
	if in.Password != "" {
		if change["password"], err = a.Store.Seal(in.Password); err != nil {
			return err
		}
	}
	if err := a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Source{ID: s.ID}, change) }); err != nil {
		return err
	}
	a.note(ctx, "source set", s.Name, "")
	a.changed("sources")
	sites, err := a.Store.Sites(ctx)
	for _, site := range sites {
		a.price(ctx, site) // delivery is part of the landed cost
	}
	return err
}
