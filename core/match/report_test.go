package match_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"easymargin/core/match"
	"easymargin/core/match/title"
	"easymargin/demo/pairs"
)

var once sync.Once

// report prints the measures as figures and the confusion by kind, once.
func report(b *testing.B, cases []pairs.Case) {
	once.Do(func() {
		var m measures
		kinds := map[string]map[match.Verdict]int{}
		for i := range cases {
			a := match.Weigh(&cases[i].Product, cases[i].Entries)
			m.add(a, cases[i].Truth)
			k := cases[i].Truth.Kind
			if kinds[k] == nil {
				kinds[k] = map[match.Verdict]int{}
			}
			kinds[k][a.Verdict]++
		}
		fold, n := time.Now(), 0
		for i := range cases {
			for j := range cases[i].Entries {
				title.Fold(cases[i].Product.Title + cases[i].Entries[j].Title)
				n++
			}
		}
		baseline := float64(n) / time.Since(fold).Seconds()
		start := time.Now()
		for i := range cases {
			match.Weigh(&cases[i].Product, cases[i].Entries)
		}
		speed := float64(n) / time.Since(start).Seconds()
		figure := func(name string, value, baseline, limit float64, unit string) {
			b.Logf(`{"figure":"matching: %s","value":%.4f,"unit":%q,"baseline":%.0f,"ratio":%.4f,"limit":%g}`, name, value, unit, baseline, value/baseline, limit)
		}
		figure("pairs a second, one core (baseline: folding both titles)", speed, baseline, 20000, "pairs/s")
		figure("certain ones right in entry and units", float64(m.right)/float64(m.certain), 1, 0.999, "share")
		figure("certain ones called so", float64(m.called)/float64(m.could), 1, 0.97, "share")
		figure("traps called certain", float64(m.trapped), float64(m.traps), 0, "cases")
		figure("true entry first where a person decides", float64(m.first)/float64(m.open), 1, 0.95, "share")
		for _, k := range slices.Sorted(maps.Keys(kinds)) {
			var said []string
			for _, v := range []match.Verdict{match.Certain, match.Likely, match.Unsure, match.None, match.Conflict, match.NotAllowed} {
				said = append(said, fmt.Sprintf("%s %d", v, kinds[k][v]))
			}
			b.Logf("%-60s %s", k, strings.Join(said, ", "))
		}
	})
}
