package prices

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/fetch"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Rate is an exchange rate as screens show it.
type Rate struct {
	From  string `json:"from"`
	To    string `json:"to"`
	Rate  string `json:"rate" doc:"How much To one From is"`
	Day   string `json:"day" doc:"YYYY-MM-DD"`
	Way   string `json:"way" doc:"typed, file, fetched"`
	Stale string `json:"stale" doc:"Why it is too old to be relied on; empty where it isn't"`
}

// Rates lists the exchange rates and the address they are fetched from.
func (st *Stop) Rates(ctx context.Context) ([]Rate, string, error) {
	rows, err := st.Store.Reading(ctx).Rates()
	if err != nil {
		return nil, "", err
	}
	out := []Rate{}
	for _, r := range rows {
		out = append(out, Rate{r.From, r.To, money.FX(r.Rate).String(), r.Day, r.Way, reckon.StaleRate(r.From, r.Day, st.Now())})
	}
	address, err := st.Store.Reading(ctx).Setting(store.RatesAddress)
	return out, address.Value, err
}

// SetRate keeps an exchange rate, with today as its day.
func (st *Stop) SetRate(ctx context.Context, from, to, rate string) error {
	r, err := readRate(from, to, rate)
	if err != nil {
		return err
	}
	r.Day, r.Way = st.Now().Format(reckon.DayForm), "typed"
	return st.putRates(ctx, []store.ExchangeRate{r}, string(r.From)+" to "+string(r.To)+", "+rate)
}

func readRate(from, to, rate string) (store.ExchangeRate, error) {
	f, t := money.Currency(strings.ToUpper(strings.TrimSpace(from))), money.Currency(strings.ToUpper(strings.TrimSpace(to)))
	if !f.Valid() || !t.Valid() || f == t {
		return store.ExchangeRate{}, fault.At("from", "an exchange rate is between two currencies such as EUR and GBP")
	}
	v, err := money.ParseFX(strings.TrimSpace(rate))
	if err != nil {
		return store.ExchangeRate{}, fault.At("rate", "%v; write how much %s one %s is, as in 0.8612", err, t, f)
	}
	return store.ExchangeRate{From: string(f), To: string(t), Rate: int64(v)}, nil
}

func (st *Stop) putRates(ctx context.Context, rates []store.ExchangeRate, said string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return st.putRatesIn(tx, rates, said) })
}

func (st *Stop) putRatesIn(tx store.Tx, rates []store.ExchangeRate, said string) error {
	for i := range rates {
		if err := tx.PutRate(st.Now(), &rates[i]); err != nil {
			return err
		}
	}
	tx.Changed("sites")
	return tx.Note(st.Now(), "exchange rates kept", said, "")
}

// RatesFile keeps the rates of a CSV file with the columns from, to, rate and,
// where there is one, day. A line that can't be read refuses the whole file.
func (st *Stop) RatesFile(ctx context.Context, text string) (int, error) {
	if len(text) > 1<<20 {
		return 0, fault.At("file", "a file of exchange rates has at most 1 MiB")
	}
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
	r.TrimLeadingSpace, r.FieldsPerRecord = true, -1
	head, err := r.Read()
	if err != nil {
		return 0, fault.At("file", "it can't be read as a file of rates: %v", err)
	}
	at := map[string]int{}
	for i, h := range head {
		at[strings.ToLower(strings.TrimSpace(h))] = i
	}
	for _, need := range []string{"from", "to", "rate"} {
		if _, ok := at[need]; !ok {
			return 0, fault.At("file", "line 1: the column %q is missing; the columns are from, to, rate and day", need)
		}
	}
	var rates []store.ExchangeRate
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			return 0, fault.At("file", "%v", err)
		}
		cell := func(name string) string {
			if i, ok := at[name]; ok && i < len(row) {
				return strings.TrimSpace(row[i])
			}
			return ""
		}
		x, err := readRate(cell("from"), cell("to"), cell("rate"))
		if err != nil {
			return 0, fault.At("file", "line %d: %v", line, err)
		}
		if x.Day = cell("day"); x.Day == "" {
			x.Day = st.Now().Format(reckon.DayForm)
		}
		if d, err := time.Parse(reckon.DayForm, x.Day); err != nil || d.After(st.Now()) {
			return 0, fault.At("file", "line %d: %q is not a day up to today, such as 2026-03-02", line, x.Day)
		}
		x.Way = "file"
		rates = append(rates, x)
	}
	if len(rates) == 0 {
		return 0, fault.At("file", "there is no rate in it")
	}
	return len(rates), st.putRates(ctx, rates, stops.Plural(int64(len(rates)), "rate", "rates")+" from a file")
}

// FetchRates fetches the rates into every site's currency from an address,
// which is kept for the next time: `GET address?to=GBP` answers
// {"to":"GBP","day":"2026-03-03","rates":{"EUR":"0.8612",…}}.
func (st *Stop) FetchRates(ctx context.Context, address string) (int, error) {
	address = strings.TrimSpace(address)
	if stops.WebAddress(address) == "" {
		return 0, fault.At("address", "%q is not an address such as https://rates.example/latest", address)
	}
	sites, err := st.Store.Sites(ctx)
	if err != nil {
		return 0, err
	}
	seen, rates := map[string]bool{}, []store.ExchangeRate{}
	for _, s := range sites {
		if seen[s.Currency] {
			continue
		}
		seen[s.Currency] = true
		list, err := st.fetchRates(ctx, address, s.Currency)
		if err != nil {
			return 0, err
		}
		rates = append(rates, list...)
	}
	return len(rates), st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.PutSetting(store.RatesAddress, address); err != nil {
			return err
		}
		return st.putRatesIn(tx, rates, stops.Plural(int64(len(rates)), "rate", "rates")+" fetched")
	})
}

// MoveRates says where exchange rates are fetched from from now on; "" ends it.
func (st *Stop) MoveRates(ctx context.Context, address string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return tx.PutSetting(store.RatesAddress, address) })
}

func (st *Stop) fetchRates(ctx context.Context, address, to string) ([]store.ExchangeRate, error) {
	sign := "?"
	if strings.Contains(address, "?") {
		sign = "&"
	}
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	var text bytes.Buffer
	if _, err := st.Fetcher.Get(
		ctx,
		fetch.Request{Address: address + sign + "to=" + to},
		&fetch.Limited{To: &text, What: "the answer", Most: 1 << 20},
		nil,
	); err != nil {
		return nil, err
	}
	var in struct {
		To, Day string
		Rates   map[string]string
	}
	wrong := func(format string, args ...any) error {
		return &fault.Error{
			Kind:  fault.Unavailable,
			Field: "address",
			Words: "what came back is not exchange rates: " + fmt.Sprintf(format, args...) + "; those kept are unchanged",
		}
	}
	if err := json.Unmarshal(text.Bytes(), &in); err != nil {
		return nil, wrong("%v", err)
	}
	if in.To != to {
		return nil, wrong("they are into %q, asked was %s", in.To, to)
	}
	if _, err := time.Parse(reckon.DayForm, in.Day); err != nil {
		return nil, wrong("%q is no day", in.Day)
	}
	var out []store.ExchangeRate
	for from, rate := range in.Rates {
		r, err := readRate(from, to, rate)
		if err != nil {
			return nil, wrong("%s: %v", from, err)
		}
		r.Day, r.Way = in.Day, "fetched"
		out = append(out, r)
	}
	return out, nil
}

// ratesRound fetches rates again when those fetched last are of an earlier day.
func (st *Stop) ratesRound(ctx context.Context) error {
	rates, address, err := st.Rates(ctx)
	if err != nil || address == "" {
		return err
	}
	today := st.Now().Format(reckon.DayForm)
	st.mu.Lock()
	tried := st.tried == today
	st.tried = today
	st.mu.Unlock()
	if tried || !slices.ContainsFunc(rates, func(r Rate) bool { return r.Way == "fetched" && r.Day < today }) {
		return nil
	}
	_, err = st.FetchRates(ctx, address)
	return err
}
