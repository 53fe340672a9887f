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
	own     map[string]*own // by SKU
}

// Offered is how many of a SKU are on sale, and at what price, minor units.
func (g *Plain) Offered(sku string) (quantity, price int64) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if x := g.own[sku]; x != nil {
		return x.Quantity, x.Price
	}
	return 0, 0
}

// take puts the lines of a batch on sale.
func (g *Plain) take(lines []line) []map[string]any {
	if g.own == nil {
		g.own = map[string]*own{}
	}
	out := make([]map[string]any, len(lines))
	for i, l := range lines {
		x := g.own[l.SKU]
		if x == nil {
			x = &own{SKU: l.SKU, Entry: l.Entry}
			g.own[l.SKU] = x
		}
		if l.Price != nil {
			x.Price = *l.Price
		}
		if l.Quantity != nil {
			x.Quantity = *l.Quantity
		}
		out[i] = map[string]any{"key": l.Key, "state": "confirmed"}
	}
	return out
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
		var in struct{ Lines []line }
		_ = json.NewDecoder(r.Body).Decode(&in)
		g.mu.Lock()
		lines := g.take(in.Lines)
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
