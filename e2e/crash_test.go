package e2e_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

type counts struct {
	Rows       int64 `json:"supplier_products"`
	Ready      int64 `json:"ready"`
	OrdersBuy  int64 `json:"orders_buy"`
	Live       int64 `json:"live"`
	Sent       int64 `json:"sent"`
	Refused    int64 `json:"refused"`
	PlanLines  int64 `json:"plan_lines"`
	FeedsWait  int64 `json:"feeds_waiting"`
	FeedsFail  int64 `json:"feeds_failed"`
	SendsStuck int64 `json:"sends_stuck"`
}

type run struct {
	ID      int64  `json:"id"`
	Kind    string `json:"kind"`
	State   string `json:"state"`
	Done    int64  `json:"done"`
	Total   int64  `json:"total"`
	Error   string `json:"error"`
	Subject int64  `json:"subject"`
}

// program starts the built binary and ends it with the test.
func program(t *testing.T, args ...string) *browser.Program {
	t.Helper()
	port, err := browser.FreePorts()
	require.NoError(t, err)
	p, err := browser.Start(fmt.Sprintf("127.0.0.1:%d", port), append(args, "--pictures=false")...)
	require.NoError(t, err)
	t.Cleanup(func() { _ = p.Kill() })
	return p
}

func ask[T any](t *testing.T, p *browser.Program, path string) T {
	var out T
	require.NoError(t, p.Ask(http.MethodGet, path, nil, &out))
	return out
}

// until follows the program's events and asks again after each, until a
// condition on its runs holds.
func until(t *testing.T, p *browser.Program, what string, holds func(runs []run) bool) {
	res, err := http.Get(p.URL + "/api/v1/events")
	require.NoError(t, err)
	defer res.Body.Close()
	buf := make([]byte, 1<<16)
	for range 100_000 {
		if holds(ask[[]run](t, p, "/api/v1/runs")) {
			return
		}
		if _, err := res.Body.Read(buf); err != nil { // the program beats every 20 s
			require.NoError(t, err, "the events ended while waiting for %s", what)
		}
	}
	t.Fatalf("%s never came", what)
}

func idle(runs []run) bool {
	for _, r := range runs {
		if r.State == "queued" || r.State == "running" {
			return false
		}
	}
	return len(runs) > 0
}

func under(kind string, done int64) func([]run) bool {
	return func(runs []run) bool {
		for _, r := range runs {
			if r.Kind == kind && (r.State == "running" && r.Done >= done || r.State == "done") {
				return true
			}
		}
		return false
	}
}

type feed struct {
	ID       int64  `json:"id"`
	State    string `json:"state"`
	Rows     int64  `json:"rows"`
	New      int64  `json:"new"`
	SourceID int64  `json:"source_id"`
}

// Killed with SIGKILL in the middle of an intake, the data is as before or as after.
func TestAnIntakeSurvivesBeingKilled(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	const rows = 60_000
	var b strings.Builder
	b.WriteString("ref,title,cost,stock\n")
	for i := range rows {
		fmt.Fprintf(&b, "KR-%06d,\"Peg set, steel, %d\",%d.%02d,%d\n", i, i, 1+i%90, i%100, i%40)
	}
	p := program(t, "serve", "--data", dir)
	var f feed
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/feeds?name=pegs.csv", strings.NewReader(b.String()), &f))
	var source struct{ ID int64 }
	require.NoError(
		t,
		p.Ask(http.MethodPost, "/api/v1/sources", map[string]any{"supplier": "Tidewrack Clearance", "currency": "GBP", "charge": "0", "tax": "without"}, &source),
	)
	require.NoError(t, p.Ask(http.MethodPost, fmt.Sprintf("/api/v1/feeds/%d/take", f.ID), map[string]any{"source_id": source.ID}, nil))
	for kill := range 3 {
		until(t, p, "an intake under way", under("intake", int64(1+kill*15_000)))
		require.NoError(t, p.Kill())
		p = program(t, "serve", "--data", dir)
		n := ask[counts](t, p, "/api/v1/counts").Rows
		assert.Contains(t, []int64{0, rows}, n, "the data is as before or as after")
	}
	until(t, p, "the end of the intake", idle)
	assert.Equal(t, int64(rows), ask[counts](t, p, "/api/v1/counts").Rows)
	got := ask[feed](t, p, fmt.Sprintf("/api/v1/feeds/%d", f.ID))
	assert.Equal(t, [3]any{"taken", int64(rows), int64(rows)}, [3]any{got.State, got.Rows, got.New})
}

// Killed in the middle of a send-out, it goes on; nothing is doubled or lost.
func TestASendOutSurvivesBeingKilled(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	demo := func() *browser.Program { return program(t, "demo", "--empty", "--data", dir, "--speed", "60") }
	p := demo()
	var sources []struct{ ID int64 }
	require.NoError(t, p.Ask(http.MethodGet, "/api/v1/sources", nil, &sources))
	require.NoError(t, p.Ask(http.MethodPost, fmt.Sprintf("/api/v1/sources/%d/fetch", sources[0].ID), nil, nil))
	until(t, p, "the list", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/feeds/1/take", map[string]any{"source_id": sources[0].ID}, nil))
	until(t, p, "prices", idle)
	ready := ask[counts](t, p, "/api/v1/counts").Ready
	require.Greater(t, ready, int64(1000))
	var sent struct{ Lines, Reworked int64 }
	for left := ready; left > 0; left -= sent.Lines {
		if left < ready { // after a start all is worked out anew once, and what that is at stays behind
			until(t, p, "what stayed behind", idle)
		}
		require.NoError(t, p.Ask(http.MethodPost, "/api/v1/submissions", map[string]any{}, &sent))
		require.Equal(t, left, sent.Lines+sent.Reworked)
	}
	for _, done := range []int64{0, 1, 400} {
		until(t, p, "a send-out under way", under("send", done))
		require.NoError(t, p.Kill())
		p = demo()
		c := ask[counts](t, p, "/api/v1/counts")
		assert.Equal(t, ready, c.Ready+c.Sent+c.Live+c.Refused, "no listing is lost")
	}
	until(t, p, "the end of the send-out", idle)
	c := ask[counts](t, p, "/api/v1/counts")
	assert.Equal(t, [3]int64{ready - 3, 3, 0}, [3]int64{c.Live, c.Refused, c.Sent})
	var there struct {
		Listings []struct {
			SKU      string `json:"sku"`
			Price    int64  `json:"price"`
			Quantity int64  `json:"quantity"`
		} `json:"listings"`
	}
	res, err := http.Get(p.Market + "/gateway/v1/sites/GB/listings")
	require.NoError(t, err)
	defer res.Body.Close()
	require.NoError(t, json.NewDecoder(res.Body).Decode(&there))
	assert.Len(t, there.Listings, int(ready-3), "what is live here is on sale there, once")
}

// Two feeds of one source at once: the second waits, and both are taken whole.
func TestTwoIntakesOfOneSourceFollowOneAnother(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	const rows = 20_000
	list := func(cost int) string {
		var b strings.Builder
		b.WriteString("ref,title,cost,currency,stock\n")
		for i := range rows {
			fmt.Fprintf(&b, "KR-%06d,Peg set %d,%d.00,GBP,4\n", i, i, cost)
		}
		path := filepath.Join(t.TempDir(), "pegs.csv")
		require.NoError(t, os.WriteFile(path, []byte(b.String()), 0o600))
		return path
	}
	files := []string{list(10), list(11), list(12)}
	intake := func(file string) (out struct {
		State              string
		New, Changed, Same int64
	}) {
		text, err := exec.Command(browser.Binary(), "intake", "--data", dir, "--source", "Tidewrack Clearance", file).Output()
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, &out))
		return out
	}
	intake(files[0])
	done := make(chan int64)
	for _, f := range files[1:] {
		go func() {
			got := intake(f)
			done <- got.New + got.Changed + got.Same
		}()
	}
	assert.Equal(t, [2]int64{rows, rows}, [2]int64{<-done, <-done})
	p := program(t, "serve", "--data", dir)
	assert.Equal(t, int64(rows), ask[counts](t, p, "/api/v1/counts").Rows)
	cost := ask[[]find](t, p, "/api/v1/supplier-products?words=KR-000042")[0].Cost
	assert.Contains(t, []int64{1100, 1200}, cost)
	for _, ref := range []string{"KR-000001", "KR-019999"} {
		assert.Equal(t, cost, ask[[]find](t, p, "/api/v1/supplier-products?words="+ref)[0].Cost, "one of the two, whole")
	}
}

// Killed right after a rule was kept, or in the middle of working prices out:
// the rule is there, and so are its prices after the next start.
func TestARuleThatWasKeptSurvivesBeingKilled(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	demo := func() *browser.Program { return program(t, "demo", "--empty", "--data", dir, "--speed", "60") }
	p := demo()
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sources/1/fetch", nil, nil))
	until(t, p, "the list", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/feeds/1/take", map[string]any{"source_id": 1}, nil))
	until(t, p, "prices", idle)
	type listings struct {
		Rows []struct{ Price, Tax, Profit int64 }
	}
	for i, margin := range []int64{35, 28, 41} {
		require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/rules", map[string]any{
			"id":   1,
			"name": "All the rest",
			"rule": map[string]any{
				"aims": []map[string]string{{"kind": "margin", "value": fmt.Sprintf("%d%%", margin)}},
				"keep": []any{},
			},
		}, nil))
		if i > 0 {
			until(t, p, "prices under way", under("price", 1))
		}
		require.NoError(t, p.Kill())
		p = demo()
		var rules []struct {
			Rule struct{ Aims []struct{ Value string } }
		}
		require.NoError(t, p.Ask(http.MethodGet, "/api/v1/sites/1/rules", nil, &rules))
		require.Len(t, rules, 1)
		assert.Equal(t, fmt.Sprintf("%d%%", margin), rules[0].Rule.Aims[0].Value)
		require.Eventually(t, func() bool {
			for _, l := range ask[listings](t, p, "/api/v1/listings?limit=500").Rows {
				if net := l.Price - l.Tax; l.Profit*100 < margin*net || l.Profit*100 > (margin+2)*net {
					return false
				}
			}
			return idle(ask[[]run](t, p, "/api/v1/runs"))
		}, 30*time.Second, 100*time.Millisecond, "every price is by the rule that was kept")
	}
}

// kills is how often the program is killed at any moment; make test-long asks for more.
func kills() int {
	if n, err := strconv.Atoi(os.Getenv("EASYMARGIN_KILLS")); err == nil {
		return n
	}
	return 10
}

// heard is killed after so many events have been heard, wherever it is then.
func heard(p *browser.Program, events int) {
	res, err := http.Get(p.URL + "/api/v1/events")
	if err != nil {
		return
	}
	defer res.Body.Close()
	in := bufio.NewReader(res.Body)
	for ; events > 0; events-- {
		if _, err := in.ReadString('\n'); err != nil {
			return
		}
	}
}

// sound asks the program itself whether every invariant of a folder's data holds.
func sound(t *testing.T, dir string) {
	t.Helper()
	out, err := exec.Command(browser.Binary(), "check", "--data", dir).CombinedOutput()
	require.NoError(t, err, "%s", out)
}

// Killed with SIGKILL at any moment of intake, matching, pricing, planning,
// sending and taking back: every invariant holds each time, and in the end what
// is on sale there is known here as it is, once.
func TestKilledAtAnyMoment(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	demo := func() *browser.Program { return program(t, "demo", "--data", dir, "--speed", "60") }
	p := demo()
	chance := rand.New(rand.NewPCG(11, uint64(kills())))
	write := func(method, path string, body any) { _ = p.Ask(method, path, body, nil) } // it may be killed in the middle, or have nothing to do
	newest := func() int64 {
		var l struct{ Rows []struct{ ID int64 } }
		if p.Ask(http.MethodGet, "/api/v1/submissions?limit=1", nil, &l) != nil || len(l.Rows) == 0 {
			return 0
		}
		return l.Rows[0].ID
	}
	for kill := range kills() {
		switch kill % 6 {
		case 0:
			write(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 16})
			write(http.MethodPost, "/api/v1/sources/1/fetch", nil)
		case 1:
			var plan struct{ ID int64 }
			_ = p.Ask(http.MethodGet, "/api/v1/plans?site=1", nil, &plan)
			write(http.MethodPost, fmt.Sprintf("/api/v1/plans/%d/submit", plan.ID), map[string]any{})
		case 2:
			write(http.MethodPost, fmt.Sprintf("/api/v1/submissions/%d/revert", newest()), map[string]any{})
		case 3:
			write(http.MethodPut, "/api/v1/sites/1/policy", map[string]any{"figures": map[string]any{"buffer": kill % 4}, "runs": "alone",
				"at_once": true, "most_at_once": 0, "most_a_day": 0, "batch_hours": 6})
		case 4:
			write(http.MethodPut, "/api/v1/sites/1/terms", map[string]any{"charged": "0.00", "outbound": fmt.Sprintf("2.%02d", 50+kill%50)})
		case 5:
			write(http.MethodPost, "/api/v1/sites/1/listings/read-back", nil)
			write(http.MethodPost, "/api/v1/submissions", map[string]any{})
		}
		heard(p, chance.IntN(30))
		require.NoError(t, p.Kill())
		sound(t, dir)
		p = demo()
	}
	write(http.MethodPost, "/api/v1/sites/1/listings/read-back", nil)
	until(t, p, "rest", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 60}, nil))
	until(t, p, "what was tried again", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/listings/read-back", nil, nil))
	until(t, p, "what is on sale", idle)
	known := map[string][2]int64{}
	for cursor := ""; ; {
		var l struct {
			Rows []struct {
				SKU      string `json:"sku"`
				Site     string `json:"site"`
				Price    *int64 `json:"confirmed_price"`
				Quantity int64  `json:"confirmed_quantity"`
			}
			Next string
		}
		require.NoError(t, p.Ask(http.MethodGet, "/api/v1/listings?limit=500&site=1&cursor="+cursor, nil, &l))
		for _, r := range l.Rows {
			if r.Price != nil {
				known[r.SKU] = [2]int64{*r.Price, r.Quantity}
			}
		}
		if cursor = l.Next; cursor == "" {
			break
		}
	}
	for sku, x := range there(t, p) {
		assert.Equal(t, x, known[sku], sku)
	}
	require.NoError(t, p.Kill())
	sound(t, dir)
}
