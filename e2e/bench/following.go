package main

import (
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"time"

	"easymargin/internal/sim"
)

// following measures a shop that is live: everything worked out anew, a feed
// with one row in a hundred changed, how soon lists open while all of it waits in
// the plan, what a rule would do, and how soon stock is at nothing where a
// supplier has none left.
type following struct {
	*shop
	plain *sim.Plain
	dir   string
	read  float64 // what SQLite takes to read a row, ms
	anew  func(outbound string) (time.Duration, error)
}

// whole is the baseline of what looks at all listings: a plain read of as many rows, s.
func (f *following) whole() float64 { return f.read * float64(f.n) / 1000 }

// part is a share of a limit that was set for a million listings.
func (f *following) part(seconds float64) float64 { return seconds * float64(f.n) / 1e6 }

func (f *following) measure() error {
	all, err := f.anew("3.35")
	if err != nil {
		return err
	}
	if err := f.print("live, worked out anew, all change", all.Seconds(), "s", f.whole(), f.part(45)); err != nil {
		return err
	}
	if err := f.lists(); err != nil { // while all of it waits in the plan
		return err
	}
	if _, err := f.anew("2.85"); err != nil {
		return err
	}
	none, err := f.anew("2.85")
	if err != nil {
		return err
	}
	if err := f.print("live, worked out anew, nothing changes", none.Seconds(), "s", f.whole(), f.part(15)); err != nil {
		return err
	}
	if err := f.preview(); err != nil {
		return err
	}
	if err := f.onePercent(); err != nil {
		return err
	}
	return f.safety()
}

// lists times what people open most, in ms.
func (f *following) lists() error {
	for _, x := range []struct{ name, path string }{
		{"today", "/api/v1/today"},
		{"counts", "/api/v1/counts"},
		{"watch", "/api/v1/plans?site=1"},
		{"watch, its lines", "/api/v1/plans/1/lines?limit=200"},
		{"watch, one consequence", "/api/v1/plans/1/lines?limit=200&kind=up"},
		{"watch, all sites", "/api/v1/plans/0/lines?limit=200"},
		{"listings", "/api/v1/listings?limit=200"},
		{"listings, by price", "/api/v1/listings?limit=200&sort=price&desc=true"},
		{"listings, by the supplier's stock", "/api/v1/listings?limit=200&sort=stock"},
		{"listings, by the supplier's stock, down", "/api/v1/listings?limit=200&sort=stock&desc=true"},
		{"listings, words that all have", "/api/v1/listings?limit=200&words=" + url.QueryEscape("enamel mug")},
		{"listings, a number", "/api/v1/listings?limit=200&words=" + sim.Number(77)},
		{"listings, live ones on a site", "/api/v1/listings?limit=200&state=live&site=1"},
	} {
		took, err := f.best(x.path)
		if err != nil {
			return err
		}
		if err := f.print(x.name, took.Seconds()*1000, "ms", f.whole()*1000, 300); err != nil {
			return err
		}
	}
	return nil
}

// best is the shortest of three times that a question takes.
func (f *following) best(path string) (time.Duration, error) {
	least := time.Hour
	for range 3 {
		began := time.Now()
		res, err := http.Get(f.p.URL + path)
		if err != nil {
			return 0, err
		}
		_, err = io.Copy(io.Discard, res.Body)
		if closing := res.Body.Close(); err == nil {
			err = closing
		}
		if err == nil && res.StatusCode != http.StatusOK {
			err = fmt.Errorf("%s: %s", path, res.Status)
		}
		if err != nil {
			return 0, err
		}
		least = min(least, time.Since(began))
	}
	return least, nil
}

// preview times what a rule would do: the first figures, and all.
func (f *following) preview() error {
	rule := map[string]any{"id": 0, "name": "mugs", "fits": map[string]any{"brands": []string{"Tarnwick"}}, "rule": map[string]any{
		"aims": []any{map[string]any{"kind": "margin", "value": "22%"}}, "keep": []any{}}}
	for _, x := range []struct {
		name, path string
		limit      float64
	}{
		{"a rule's preview, first figures", "?sample=true", 1},
		{"a rule's preview, all", "", max(f.part(5), 1)},
	} {
		began := time.Now()
		if err := f.p.Ask(http.MethodPost, "/api/v1/sites/1/rules/preview"+x.path, rule, nil); err != nil {
			return err
		}
		if err := f.print(x.name, time.Since(began).Seconds(), "s", f.whole(), x.limit); err != nil {
			return err
		}
	}
	return nil
}

// take has a round's list taken, and says when it began and when it was.
func (f *following) take(round int) (began, taken time.Time, err error) {
	file := fmt.Sprintf("%s/list%d.csv", f.dir, round)
	if err := f.feed(file, round); err != nil {
		return began, taken, err
	}
	text, err := os.Open(file)
	if err != nil {
		return began, taken, err
	}
	defer text.Close()
	var feed struct{ ID int64 }
	if err := f.p.Ask(http.MethodPost, "/api/v1/feeds?name=list.csv&source_id=1", io.Reader(text), &feed); err != nil {
		return began, taken, err
	}
	began = time.Now()
	if err := f.p.Ask(http.MethodPost, fmt.Sprintf("/api/v1/feeds/%d/take", feed.ID), map[string]any{"source_id": 1, "once": true}, nil); err != nil {
		return began, taken, err
	}
	for {
		var x struct{ State string }
		if err := f.p.Ask(http.MethodGet, fmt.Sprintf("/api/v1/feeds/%d", feed.ID), nil, &x); err != nil {
			return began, taken, err
		}
		if x.State == "taken" {
			return began, time.Now(), nil
		}
		if x.State != "reading" && x.State != "looked" {
			return began, taken, fmt.Errorf("the feed is %s", x.State)
		}
		<-f.look.C
	}
}

// onePercent times how soon the plan is ready after a feed with one row in a hundred changed.
func (f *following) onePercent() error {
	_, taken, err := f.take(1)
	if err != nil {
		return err
	}
	for {
		var c struct{ Dirty int64 }
		if err := f.p.Ask(http.MethodGet, "/api/v1/counts", nil, &c); err != nil {
			return err
		}
		if c.Dirty == 0 {
			break
		}
		<-f.look.C
	}
	if err := f.print("1 % changed, ready after the feed was taken", time.Since(taken).Seconds(), "s", f.whole(), 3); err != nil {
		return err
	}
	return f.idle()
}

// safety times how soon a marketplace has confirmed nothing where a supplier has
// none left, by itself.
func (f *following) safety() error {
	if err := f.p.Ask(http.MethodPut, "/api/v1/sites/1/policy", map[string]any{"figures": map[string]any{}, "runs": "alone", "at_once": true,
		"most_at_once": 0, "most_a_day": 0, "batch_hours": 6}, nil); err != nil {
		return err
	}
	if err := f.idle(); err != nil {
		return err
	}
	var l struct {
		Rows []struct{ SKU string }
	}
	if err := f.p.Ask(http.MethodGet, "/api/v1/listings?words="+sim.Number(2), nil, &l); err != nil {
		return err
	}
	if len(l.Rows) != 1 {
		return fmt.Errorf("%d listings have the number", len(l.Rows))
	}
	began, _, err := f.take(2)
	if err != nil {
		return err
	}
	for {
		if q, _ := f.plain.Offered(l.Rows[0].SKU); q == 0 {
			break
		}
		if time.Since(began) > 5*time.Minute {
			return fmt.Errorf("stock is not at nothing after 5 minutes")
		}
		<-f.look.C
	}
	return f.print("time to safety: none left to nothing on sale", time.Since(began).Seconds(), "s", f.whole(), 60)
}
