// Package arch holds the test that keeps imports pointing one way, as
// design/architecture.md draws them.
package arch

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
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
	"core/pricing/written": {"core/money", "core/pricing"},
	"core/match":           {"core/ident"},
	"core/supply":          {"core/money"},
	"core/plan":            {"core/money", "core/pricing"},

	"internal/fault":         {}, // what is wrong, in a form that each layer hands on and the edge answers
	"internal/actor":         {}, // who does it, in the context
	"internal/feed":          {"core/*", "internal/fault"},
	"internal/fetch":         {"internal/fault", "internal/feed"},
	"internal/store":         {"core/*", "internal/actor", "internal/fault"},
	"internal/place":         {"core/*", "internal/fault"},
	"internal/place/gateway": {"core/*", "internal/place"},
	"internal/work":          {"internal/actor", "internal/store"},
	"internal/reckon":        {"core/*", "internal/fault", "internal/place", "internal/store", "internal/work"},

	"internal/stops":          belowStops, // what the stops have in common
	"internal/stops/matching": stop,
	"internal/stops/people":   stop,
	"internal/stops/places":   stop,
	"internal/stops/prices":   stop,
	"internal/stops/products": stop,
	"internal/stops/sending":  stop,
	"internal/stops/sources":  stop,
	"internal/stops/today":    stop,
	"internal/stops/watching": stop,

	"internal/house": {
		"internal/fetch",
		"internal/place",
		"internal/place/gateway",
		"internal/stops",
		"internal/stops/*",
		"internal/store",
		"internal/work",
	},
	"internal/web": {"internal/actor", "internal/fault", "internal/stops", "internal/stops/people"}, // no store
	"internal/sim": {"core/money", "core/ident"},

	"demo":              {"internal/house", "internal/sim", "internal/stops", "internal/stops/*"},
	"cmd/easymargin":    {"core/*", "internal/*", "demo"},
	"e2e/browser":       {},
	"e2e/shots":         {"e2e/browser"},
	"e2e/bench":         {"e2e/browser"},
	"e2e/bench/bigfeed": {},
}

var belowStops = []string{
	"core/*",
	"internal/actor",
	"internal/fault",
	"internal/feed",
	"internal/fetch",
	"internal/place",
	"internal/reckon",
	"internal/store",
	"internal/work",
}

// stop is what a stop may import: none of the others.
var stop = append([]string{"internal/stops"}, belowStops...)

const module = "easymargin/"

func TestImportsPointOneWay(t *testing.T) {
	root := filepath.Join("..", "..")
	seen := 0
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() &&
			(d.Name() == "node_modules" || d.Name() == "testdata" || d.Name() == "ui" || strings.HasPrefix(d.Name(), ".") && len(d.Name()) > 2) {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		seen++
		from, err := filepath.Rel(root, filepath.Dir(path))
		require.NoError(t, err)
		from = filepath.ToSlash(from)
		allowed, known := may[from]
		if !assert.True(t, known, "the package %s is not in the drawing; add it to the list here and to the design", from) {
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, spec := range file.Imports {
			to, err := strconv.Unquote(spec.Path.Value)
			require.NoError(t, err)
			ours, isOurs := strings.CutPrefix(to, module)
			switch {
			case isOurs:
				assert.True(t, allows(allowed, ours), "%s imports %s, which it may not", path, ours)
			case strings.HasPrefix(from, "core/"):
				assert.True(
					t,
					!strings.Contains(to, ".") || strings.HasPrefix(to, "golang.org/x/text/"),
					"%s imports %s; core knows only the standard library and x/text",
					path,
					to,
				)
				assert.NotContains(
					t,
					[]string{"os", "net/http", "database/sql", "log", "log/slog", "time"},
					to,
					"%s imports %s; core knows no clock, file or network",
					path,
					to,
				)
			}
		}
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, seen, 40, "the walk has missed the code")
}

func allows(list []string, to string) bool {
	for _, a := range list {
		if prefix, all := strings.CutSuffix(a, "*"); a == to || all && strings.HasPrefix(to, prefix) {
			return true
		}
	}
	return false
}
