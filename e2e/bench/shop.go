package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"time"

	"easymargin/e2e/browser"
	"easymargin/internal/sim"
)

// shop measures a whole shop end to end: so many supplier products are matched
// by number, priced, priced anew, sent and confirmed, with a plain gateway that
// confirms at once. The baselines are SQLite's own insert, and read, of as many
// rows in the same run.
type shop struct {
	n    int
	p    *browser.Program
	over []string
	live map[int64]runRow // as last seen under way
	runs map[int64]runRow // that are over
	told map[int64]bool
	look *time.Ticker
}

// figure is one line of what was measured, as JSON.
type figure struct {
	Figure   string  `json:"figure"`
	Value    float64 `json:"value"`
	Unit     string  `json:"unit"`
	Baseline float64 `json:"baseline"`
	Ratio    float64 `json:"ratio"`
	Limit    float64 `json:"limit"`
}

// say prints what a step took for each line, beside what SQLite takes for one.
func (s *shop) say(name string, took time.Duration, baseline, limit float64) error {
	return s.print(name, took.Seconds()*1000/float64(s.n), "ms a line", baseline, limit)
}

// print prints a figure, and keeps it in mind where it is over its limit.
func (s *shop) print(name string, v float64, unit string, baseline, limit float64) error {
	rounded := func(v float64) float64 { return float64(int64(v*1e6+0.5)) / 1e6 }
	f := figure{name, rounded(v), unit, rounded(baseline), 0, limit}
	if baseline > 0 {
		f.Ratio = rounded(v / baseline)
	}
	if v > limit {
		s.over = append(s.over, fmt.Sprintf("%s: %.4g %s, limit %.4g", name, v, unit, limit))
	}
	return json.NewEncoder(os.Stdout).Encode(f)
}

// feed writes the supplier's list: in round r, one row in a hundred has another
// cost, and the first of those has none left.
func (s *shop) feed(file string, round int) error {
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	w := bufio.NewWriter(f)
	_, _ = w.WriteString("ref,ean,title,brand,cost,stock\n")
	for i := range s.n {
		n := sim.Number(i)
		cost, stock := 300+(i%37)*100+i%100, 5+i%40
		if round > 0 && i%100 == round {
			cost += 10
			if i == round {
				stock = 0
			}
		}
		_, _ = fmt.Fprintf(w, "R%07d,%s,%s,Tarnwick,%d.%02d,%d\n", i, n, sim.PlainTitle(n), cost/100, cost%100, stock)
	}
	return errors.Join(w.Flush(), f.Close())
}

// baseline is how long SQLite takes for one row of such a list: to insert it, and to read it.
func (s *shop) baseline(dir string) (insert, read float64, err error) {
	const rows = 200_000
	script := fmt.Sprintf(`.timer on
CREATE TABLE l(id INTEGER PRIMARY KEY, site INT, sku TEXT UNIQUE, title TEXT, state TEXT, price INT, cost INT, profit INT);
CREATE INDEX l_state ON l(site, state); CREATE INDEX l_price ON l(price);
INSERT INTO l WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d)
	SELECT i, 1, printf('SK-%%07d', i), 'Enamel mug ' || i, 'ready', i %% 9973, i %% 7919, i %% 977 FROM n;
SELECT sum(price + cost + profit + length(title) + length(sku)) FROM l;
`, rows)
	cmd := exec.Command("sqlite3", dir+"/baseline.db")
	cmd.Stdin = strings.NewReader(script)
	out, err := cmd.CombinedOutput()
	if err != nil {
		return 0, 0, fmt.Errorf("sqlite3: %w: %s", err, out)
	}
	var times []float64
	for line := range strings.Lines(string(out)) {
		if after, ok := strings.CutPrefix(line, "Run Time: real "); ok {
			v, err := strconv.ParseFloat(strings.Fields(after)[0], 64)
			if err != nil {
				return 0, 0, err
			}
			times = append(times, v)
		}
	}
	if len(times) < 2 {
		return 0, 0, fmt.Errorf("sqlite3 told no times: %s", out)
	}
	ms := func(v float64) float64 { return max(v, 1e-4) * 1000 / rows }
	return ms(times[len(times)-2]), ms(times[len(times)-1]), nil
}

type runRow struct {
	ID             int64
	Kind, State    string
	Error          string
	Started, Ended *time.Time
}

// idle waits until nothing is going on. The runs it saw end are kept.
func (s *shop) idle() error {
	for {
		var runs []runRow
		if err := s.p.Ask(http.MethodGet, "/api/v1/runs", nil, &runs); err != nil {
			return err
		}
		busy, listed := false, map[int64]bool{}
		for _, r := range runs {
			if r.Started != nil && r.Ended == nil {
				listed[r.ID], s.live[r.ID] = true, r
			}
			if r.State == "failed" {
				return fmt.Errorf("%s: %s", r.Kind, r.Error)
			}
			busy = busy || r.State == "queued" || r.State == "running"
			if r.Started != nil && r.Ended != nil {
				s.runs[r.ID] = r
			}
		}
		// A long run leaves the list as soon as it ends, behind many short ones.
		for id, r := range s.live {
			if _, over := s.runs[id]; !over && !listed[id] {
				now := time.Now()
				r.Ended = &now
				s.runs[id] = r
			}
		}
		if !busy {
			return nil
		}
		<-s.look.C
	}
}

// took is how long the runs of a kind took since the last question.
func (s *shop) took(kind string) time.Duration {
	sum := time.Duration(0)
	for id, r := range s.runs {
		if r.Kind == kind && !s.told[id] {
			sum += r.Ended.Sub(*r.Started)
		}
		s.told[id] = true
	}
	return sum
}

func benchShop(n int) (err error) {
	dir, err := os.MkdirTemp("", "easymargin-shop-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	s := &shop{n: n, live: map[int64]runRow{}, runs: map[int64]runRow{}, told: map[int64]bool{}, look: time.NewTicker(20 * time.Millisecond)}
	insert, read, err := s.baseline(dir)
	if err != nil {
		return err
	}
	if err := s.feed(dir+"/list.csv", 0); err != nil {
		return err
	}
	plain := &sim.Plain{}
	g := httptest.NewServer(plain)
	defer g.Close()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	addr := l.Addr().String()
	_ = l.Close()
	if s.p, err = browser.Start(addr, "serve", "--data", dir+"/data", "--pictures=false"); err != nil {
		return err
	}
	defer func() { _ = s.p.Kill() }()
	ask := func(path string, body any) error {
		method := http.MethodPost
		if after, ok := strings.CutPrefix(path, "PUT "); ok {
			method, path = http.MethodPut, after
		}
		return s.p.Ask(method, path, body, nil)
	}
	if err := ask("/api/v1/marketplaces", map[string]any{"name": "Plain", "address": g.URL}); err != nil {
		return err
	}
	if err := ask("PUT /api/v1/sites/1/listed-on", map[string]any{"lists": true}); err != nil {
		return err
	}
	if err := ask("/api/v1/sources", map[string]any{"supplier": "Big", "currency": "GBP"}); err != nil {
		return err
	}
	if err := s.idle(); err != nil {
		return err
	}
	s.took("")
	f, err := os.Open(dir + "/list.csv")
	if err != nil {
		return err
	}
	defer f.Close()
	if err := s.p.Ask(http.MethodPost, "/api/v1/feeds?name=list.csv&source_id=1", io.Reader(f), nil); err != nil {
		return err
	}
	began := time.Now()
	if err := ask("/api/v1/feeds/1/take", map[string]any{"source_id": 1}); err != nil {
		return err
	}
	if err := s.idle(); err != nil {
		return err
	}
	whole := time.Since(began)
	matching := s.took("match")
	anew := func(outbound string) (time.Duration, error) {
		if err := ask("PUT /api/v1/sites/1/terms", map[string]any{"charged": "0.00", "outbound": outbound}); err != nil {
			return 0, err
		}
		err := s.idle()
		return s.took("price"), err
	}
	// No price keeps a margin of 99 %: after it, every price is a first one again.
	aim := func(margin string) (time.Duration, error) {
		var rules []struct{ ID int64 }
		if err := s.p.Ask(http.MethodGet, "/api/v1/sites/1/rules", nil, &rules); err != nil {
			return 0, err
		}
		err := ask("/api/v1/sites/1/rules", map[string]any{"id": rules[0].ID, "name": "All the rest", "rule": map[string]any{
			"aims": []any{map[string]any{"kind": "margin", "value": margin}}, "keep": []any{}}})
		if err != nil {
			return 0, err
		}
		err = s.idle()
		return s.took("price"), err
	}
	if _, err := aim("99%"); err != nil {
		return err
	}
	pricing, err := aim("18%")
	if err != nil {
		return err
	}
	all, err := anew("2.85")
	if err != nil {
		return err
	}
	none, err := anew("2.85")
	if err != nil {
		return err
	}
	began = time.Now()
	if err := ask("/api/v1/submissions", map[string]any{}); err != nil {
		return err
	}
	if err := s.idle(); err != nil {
		return err
	}
	sending := time.Since(began)
	var c struct{ Live, Ready int64 }
	if err := s.p.Ask(http.MethodGet, "/api/v1/counts", nil, &c); err != nil {
		return err
	}
	if c.Live != int64(n) {
		return fmt.Errorf("%d of %d are live, %d ready", c.Live, n, c.Ready)
	}
	for _, x := range []struct {
		name     string
		took     time.Duration
		baseline float64
		limit    float64
	}{
		{"matching by number", matching, insert, 0.15},
		{"first pricing", pricing, insert, 0.04},
		{"pricing anew, all change", all, insert, 0.04},
		{"pricing anew, nothing changes", none, read, 0.012},
		{"sending and confirming", sending, insert, 0.05},
		{"taken, matched and priced", whole, insert, 0.25},
	} {
		if err := s.say(x.name, x.took, x.baseline, x.limit); err != nil {
			return err
		}
	}
	f2 := following{s, plain, dir, read, anew}
	if err := f2.measure(); err != nil {
		return err
	}
	if len(s.over) > 0 {
		fmt.Println("over their limit: " + strings.Join(s.over, "; "))
	}
	return nil
}
