package demo

import "easymargin/internal/sim"

// lanternColours are the colours that Lantern Row knows, by its own names.
var lanternColours = []string{"Moss green", "Slate grey", "Rust red", "Sand", "Ink blue", "Natural", "Black", "White"}

// lanternAsks is what Lantern Row asks of listings: titles of 80 characters, up
// to 20 search words, its own names for colours and conditions.
var lanternAsks = map[string]sim.Demands{
	"cooking": lantern([]map[string]any{
		{"ref": "capacity", "kind": "number", "need": "helps", "unit": "ml", "units": []string{"l"}, "least": "5", "most": "60000", "decimals": 0},
		{"ref": "suits_hob", "kind": "yesno"},
	}),
	"camping": lantern([]map[string]any{
		{"ref": "sleeps", "kind": "number", "need": "helps", "least": "1", "most": "12", "decimals": 0},
	}),
	"outdoor": lantern(nil),
}

func lantern(more []map[string]any) sim.Demands {
	return sim.Demands{
		"title": map[string]any{"limit": 80, "counts": "characters", "parts": []string{"brand", "series", "kind", "capacity", "colour", "pack"},
			"first_to_go": []string{"series", "pack"}, "forbidden": []string{"free delivery", "best price"}},
		"description": map[string]any{"limit": 4000, "html": []string{"p", "b", "ul", "li", "br"}},
		"attributes": append([]map[string]any{
			{"ref": "condition", "kind": "choice", "need": "needed", "values": []string{"New", "New, box opened", "Used"}},
			{"ref": "condition_note", "kind": "text", "need": "needed", "limit": 200,
				"when": []map[string]any{{"field": "condition", "in": []string{"New, box opened", "Used"}}}},
			{"ref": "colour", "kind": "choice", "need": "helps", "values": lanternColours},
			{"ref": "material", "kind": "text", "need": "helps", "limit": 60},
		}, more...),
		"pictures": map[string]any{"least": 1, "most": 12, "side": 500, "kinds": []string{"jpeg", "png"}},
		"words":    map[string]any{"most": 20, "limit": 30},
		"price":    map[string]any{"least": "1.00", "most": "2000.00"},
	}
}

// quaymarketAsks is what Quaymarket asks before it makes a new entry, in every
// category: a number, a title that begins with what has digits, and whether other
// sellers may offer on it.
var quaymarketAsks = map[string]sim.Demands{"": {
	"title": map[string]any{"limit": 120, "counts": "bytes", "parts": []string{"brand", "series", "kind", "colour", "size"}, "first_to_go": []string{"series"},
		"forbidden": []string{"new", "sale", "free delivery"}},
	"description": map[string]any{"least": 40, "limit": 2000},
	"attributes": []map[string]any{
		{"ref": "colour", "kind": "text", "need": "helps", "limit": 40},
		{"ref": "material", "kind": "text", "need": "helps", "limit": 60},
		{"ref": "others_may_sell", "kind": "yesno", "need": "needed"},
		{"ref": "origin", "kind": "text", "need": "helps", "limit": 40},
	},
	"number":   "needed without entry",
	"pictures": map[string]any{"least": 1, "most": 8, "side": 500, "square": true, "kinds": []string{"jpeg", "png"}},
	"package":  map[string]any{"weight": []int{1, 30_000}},
}}
