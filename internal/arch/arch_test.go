// Package arch holds the test that keeps imports pointing one way, as
// docs/architecture.md draws them.
package arch

import (
	"flag"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// may says what each package of ours may import of ours, tests aside; a package
// that isn't here may not exist. docs/architecture.md says what each is for.
var may = map[string][]string{
	"core/money":           {},
	"core/ident":           {},
	"core/pricing":         {"core/money"},
	"core/pricing/written": {"core/form", "core/money", "core/pricing"},
	"core/form":            {"core/money"}, // reading JSON that people or programs write, strictly
	"core/match":           {"core/ident", "core/match/title"},
	"core/match/title":     {},
	"core/match/written":   {"core/match", "core/money"},
	"core/sieve":           {"core/money"},
	"core/supply":          {"core/money"},
	"core/listing":         {"core/ident", "core/money"},
	"core/listing/written": {"core/form", "core/listing", "core/money"},
	"core/buying":          {"core/money"},
	"core/buying/written":  {"core/buying", "core/form", "core/money"},
	"core/tally":           {"core/money"},
	"core/tally/written":   {"core/form", "core/money", "core/tally"},
	"core/plan":            {"core/money"},
	"core/plan/written":    {"core/form", "core/money", "core/plan", "core/supply"},

	"internal/fault":         {}, // what is wrong, in a form that each layer hands on and the edge answers
	"internal/edge":          {}, // what both servers have in common where requests come in
	"internal/actor":         {}, // who does it, in the context
	"internal/feed":          {"core/*", "internal/fault"},
	"internal/blank":         {"core/*", "internal/fault", "internal/feed"}, // a place's own sheet: read, recognised, filled
	"internal/fetch":         {"internal/fault", "internal/feed"},
	"internal/store":         {"core/*", "internal/actor", "internal/fault"},
	"internal/place":         {"core/*", "internal/fault"},
	"internal/retouch":       {}, // pictures made of originals by recipes
	"internal/crash":         {}, // how the program ended last time
	"internal/place/gateway": {"core/*", "internal/place"},
	"internal/place/files":   {"internal/place"},
	"internal/place/sheets":  {"core/*", "internal/blank", "internal/place"},
	"internal/work":          {"internal/actor", "internal/fault", "internal/store"},
	"internal/reckon":        {"core/*", "internal/fault", "internal/place", "internal/retouch", "internal/store", "internal/work"},

	"internal/shop": {"core/*", "internal/actor", "internal/edge", "internal/fault", "internal/place", "internal/reckon", "internal/retouch", "internal/store"}, // the own shop

	"internal/stops":           belowStops, // what the stops have in common
	"internal/stops/matching":  stop,
	"internal/stops/people":    stop,
	"internal/stops/places":    stop,
	"internal/stops/preparing": stop,
	"internal/stops/prices":    stop,
	"internal/stops/products":  stop,
	"internal/stops/orders":    stop,
	"internal/stops/sending":   stop,
	"internal/stops/sources":   stop,
	"internal/stops/today":     stop,
	"internal/stops/watching":  stop,
	"internal/stops/weighing":  stop,

	"internal/house": {
		"internal/fault",
		"internal/fetch",
		"internal/place",
		"internal/place/files",
		"internal/place/gateway",
		"internal/place/sheets",
		"internal/shop",
		"internal/blank",
		"core/*",
		"internal/stops",
		"internal/stops/*",
		"internal/store",
		"internal/work",
	},
	"internal/web": {"internal/actor", "internal/edge", "internal/fault", "internal/stops", "internal/stops/people"}, // no store
	"internal/sim": {"core/money", "core/ident"},

	"demo":              {"internal/actor", "internal/house", "internal/shop", "internal/place/gateway", "internal/sim", "internal/stops", "internal/stops/*", "internal/store"},
	"demo/make":         {"demo"},
	"demo/pairs":        {"core/match"},
	"cmd/easymargin":    {"core/*", "internal/*", "demo"},
	"e2e/browser":       {},
	"e2e/shots":         {"e2e/browser"},
	"e2e/bench":         {"e2e/browser", "internal/sim"},
	"e2e/bench/bigfeed": {},
}

var belowStops = []string{
	"core/*",
	"internal/retouch",
	"internal/actor",
	"internal/blank",
	"internal/fault",
	"internal/feed",
	"internal/fetch",
	"internal/place",
	"internal/reckon",
	"internal/shop",
	"internal/store",
	"internal/work",
}

// stop is what a stop may import: none of the others.
var stop = append([]string{"internal/stops"}, belowStops...)

const module = "easymargin/"

var write = flag.Bool("write", false, "draw docs/architecture.md anew")

// imported is one import of a file of ours, tests aside.
type imported struct{ file, from, to string }

// imports reads every import there is.
func imports(t *testing.T) (out []imported) {
	root := filepath.Join("..", "..")
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (slices.Contains([]string{"node_modules", "testdata", "ui"}, d.Name()) || strings.HasPrefix(d.Name(), ".") && len(d.Name()) > 2) {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		from, err := filepath.Rel(root, filepath.Dir(path))
		require.NoError(t, err)
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		out = append(out, imported{path, filepath.ToSlash(from), ""}) // the package is there, whatever it imports
		for _, spec := range file.Imports {
			to, err := strconv.Unquote(spec.Path.Value)
			require.NoError(t, err)
			out = append(out, imported{path, filepath.ToSlash(from), to})
		}
		return nil
	})
	require.NoError(t, err)
	require.Greater(t, len(out), 200, "the walk has missed the code")
	return out
}

func TestImportsPointOneWay(t *testing.T) {
	for _, x := range imports(t) {
		allowed, known := may[x.from]
		if !assert.True(t, known, "the package %s is not in the drawing; add it to the list here and to the design", x.from) {
			continue
		}
		ours, isOurs := strings.CutPrefix(x.to, module)
		switch {
		case isOurs:
			assert.True(t, allows(allowed, ours), "%s imports %s, which it may not", x.file, ours)
		case strings.HasPrefix(x.from, "core/"):
			known := !strings.Contains(x.to, ".") || strings.HasPrefix(x.to, "golang.org/x/text/")
			assert.True(t, known, "%s imports %s; core knows only the standard library and x/text", x.file, x.to)
			world := []string{"os", "net/http", "database/sql", "log", "log/slog", "time"}
			if x.from == "core/form" { // reads times that were written, and asks for none
				world = world[:len(world)-1]
			}
			assert.NotContains(t, world, x.to, "%s imports %s; core knows no clock, file or network", x.file, x.to)
		}
	}
}

func allows(list []string, to string) bool {
	for _, a := range list {
		if prefix, all := strings.CutSuffix(a, "*"); a == to || all && strings.HasPrefix(to, prefix) {
			return true
		}
	}
	return false
}

// The drawing in docs/architecture.md is of the imports that are there.
func TestTheDrawingIsTrue(t *testing.T) {
	// Packages of one job stand in one box.
	box := func(pkg string) string {
		switch {
		case strings.HasPrefix(pkg, "core/"):
			return "core"
		case strings.HasPrefix(pkg, "internal/stops"):
			return "stops"
		}
		return strings.TrimPrefix(pkg, "internal/")
	}
	arrows := map[string]bool{}
	for _, x := range imports(t) {
		ours, isOurs := strings.CutPrefix(x.to, module)
		from, to := box(x.from), box(ours)
		// Who and what is wrong goes through every layer, and the tests' program through none.
		if !isOurs || from == to || to == "actor" || to == "fault" || from == "fault" || strings.HasPrefix(from, "e2e") {
			continue
		}
		arrows["  "+strings.ReplaceAll(from, "/", ".")+" --> "+strings.ReplaceAll(to, "/", ".")] = true
	}
	drawn := "flowchart TD\n" + strings.Join(slices.Sorted(maps.Keys(arrows)), "\n") + "\n"
	file := filepath.Join("..", "..", "docs", "architecture.md")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	before, rest, found := strings.Cut(string(text), "```mermaid\n")
	require.True(t, found)
	was, after, _ := strings.Cut(rest, "```")
	if *write {
		require.NoError(t, os.WriteFile(file, []byte(before+"```mermaid\n"+drawn+"```"+after), 0o644))
		return
	}
	assert.Equal(t, drawn, was, "draw it anew: go test ./internal/arch -write")
}
