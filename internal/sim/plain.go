package sim

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
)

// Plain is a plain marketplace of one site, for measuring: it has an entry for
// every number it is asked for, and confirms every line at once.
type Plain struct {
	mu      sync.Mutex
	batches [][]map[string]any
}

func (g *Plain) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	path, say := strings.TrimPrefix(r.URL.Path, "/gateway/v1/"), func(v any) { _ = json.NewEncoder(w).Encode(v) }
	switch {
	case path == "sites":
		say(map[string]any{"sites": []any{map[string]any{"code": "GB", "name": "Plain GB", "currency": "GBP", "tax_way": "included",
			"tax_rate": 200_000, "max_lines": 1000, "kind": "catalogue"}}})
	case strings.HasSuffix(path, "/categories"):
		say(map[string]any{"categories": []any{map[string]any{"ref": "all", "parent": "", "name": "All"}}})
	case strings.HasSuffix(path, "/fees"):
		say(map[string]any{"schedules": []any{map[string]any{"category": "", "starts_on": "2020-01-01",
			"fees": []any{map[string]any{"name": "commission", "of": "item", "rate": 120_000, "fixed": 20}}}}})
	case strings.HasSuffix(path, "/entries"):
		var out []any
		for n := range strings.SplitSeq(r.URL.Query().Get("gtin"), ",") {
			out = append(out, map[string]any{"ref": "E" + n, "gtin": n, "title": PlainTitle(n), "brand": "Tarnwick",
				"category": "all", "units": 1})
		}
		say(map[string]any{"entries": out})
	case strings.HasSuffix(path, "/batches"):
		var in struct{ Lines []struct{ Key string } }
		_ = json.NewDecoder(r.Body).Decode(&in)
		lines := make([]map[string]any, len(in.Lines))
		for i, l := range in.Lines {
			lines[i] = map[string]any{"key": l.Key, "state": "confirmed"}
		}
		g.mu.Lock()
		id := strconv.Itoa(len(g.batches))
		g.batches = append(g.batches, lines)
		g.mu.Unlock()
		say(map[string]any{"id": id, "state": "done", "lines": lines})
	case strings.Contains(path, "/batches/"):
		id := path[strings.LastIndex(path, "/")+1:]
		n, _ := strconv.Atoi(id)
		g.mu.Lock()
		lines := g.batches[n]
		g.mu.Unlock()
		say(map[string]any{"id": id, "state": "done", "lines": lines})
	case strings.HasSuffix(path, "/listings"):
		say(map[string]any{"listings": []any{}})
	default:
		say(map[string]any{"entries": []any{}, "orders": []any{}})
	}
}

// PlainTitle is what a plain marketplace calls what has a number.
func PlainTitle(number string) string { return "Enamel mug " + number[7:13] }

// Number is the i-th made-up number, a GTIN-14 of the example prefix, with its check digit.
func Number(i int) string {
	d := fmt.Sprintf("0952%09d", i)
	sum := 0
	for k, c := range d {
		sum += int(c-'0') * (3 - 2*(k%2))
	}
	return d + strconv.Itoa((10-sum%10)%10)
}
