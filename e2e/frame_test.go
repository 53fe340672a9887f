package e2e_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// An address that is no screen says so, lights no stop, and leads back.
func TestNothingIsHere(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/ledger/17")
	s.sees("p, div", "No screen has this address")
	s.sees("span", "/ledger/17")
	assert.Empty(t, s.MustElements("header [aria-current]"), "no stop is lit")
	s.keys('.')
	s.sees("li[aria-current=step]", "Bring in a supplier's products")
	s.sees("header [aria-current]", "Today")
}

// The keys' panel says the keys of the screen it is opened on, and no other's.
func TestTheKeysOfThisScreen(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/price?tab=rules")
	s.sees("li", "All the rest")
	s.keys('?')
	s.sees("dialog", "add a rule")
	s.keys(input.Escape)
	s.MustWait(`() => !document.querySelector("dialog")`)
	s.keys('j', 's')
	s.sees("section", "Fernhollow Wholesale")
	s.keys('?')
	keys := s.sees("dialog", "On this screen").MustText()
	assert.NotContains(t, keys, "add a rule")
	assert.Contains(t, keys, "find a product", "what works everywhere is said too")
}

// A browser lets six connections to one address stay open: seven tabs read, hear
// what changes and write, because one stream serves them all.
func TestSevenTabs(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	first := open(t, p, "/price?tab=rules")
	tabs := []screen{first}
	for range 6 {
		page, err := browser.Page(first.Browser(), p.URL+"/price?tab=rules")
		require.NoError(t, err)
		tabs = append(tabs, screen{page.Timeout(30 * time.Second), t, p})
	}
	for _, s := range tabs {
		s.sees("li", "All the rest")
	}
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/rules", ruleOf("Everybody hears", 0, "18%"), nil))
	for _, s := range tabs {
		s.MustActivate()
		s.sees("li", "Everybody hears")
	}
	last := tabs[6]
	last.keys('.')
	last.sees("form", "For")
	last.write(last.MustElement("[aria-label='Name of the rule']"), "From the seventh")
	last.press("Keep this rule")
	for _, s := range tabs {
		s.MustActivate()
		s.sees("li", "From the seventh")
	}
}

func ruleOf(name string, id int64, margin string) map[string]any {
	return map[string]any{"id": id, "name": name, "fits": map[string]any{"brands": []string{"Tarnwick"}},
		"rule": map[string]any{"aims": []map[string]string{{"kind": "margin", "value": margin}}, "keep": []any{}}}
}

// Two people edit one rule: the second sees both versions, and nothing is
// written over until one of them is chosen.
func TestTwoPeopleEditOneRule(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	var made struct{ ID int64 }
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/rules", ruleOf("Tarnwick", 0, "18%"), &made))
	s := open(t, p, fmt.Sprintf("/price?tab=rules&rule=%d", made.ID))
	s.write(s.MustElement("[aria-label='Figure of aim 1']"), "22%")
	s.sees("aside", "at least 22% margin")
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/rules", ruleOf("Tarnwick, by Ada", made.ID, "30%"), nil))
	s.press("Keep this rule")
	s.sees("[aria-label='Changed by somebody else'] tr", `aims 1 value\s*22%\s*30%`)
	s.sees("[aria-label='Changed by somebody else'] tr", `name\s*Tarnwick\s*Tarnwick, by Ada`)
	rules := func() string {
		return fmt.Sprint(ask[[]struct{ Name, Words string }](t, p, "/api/v1/sites/1/rules"))
	}
	assert.Contains(t, rules(), "at least 30% margin", "theirs is kept until the person chooses")
	s.press("Take theirs")
	require.NoError(t, s.MustElement("[aria-label='Name of the rule']").Wait(rod.Eval(`() => this.value === "Tarnwick, by Ada"`)))
	s.write(s.MustElement("[aria-label='Figure of aim 1']"), "25%")
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/rules", ruleOf("Tarnwick, by Ada", made.ID, "31%"), nil))
	s.press("Keep this rule")
	s.press("Keep mine in its place")
	s.sees("li", "at least 25% margin")
	assert.NotContains(t, rules(), "31%")
}

// Days are written as ISO 8601 has them, and moved by the arrow keys.
func TestDaysAreWrittenYearFirst(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/price?tab=bench")
	day := s.labelled("fees as on")
	assert.Equal(t, "text", day.MustProperty("type").Str(), "the browser's own form of a date is not asked")
	s.write(day, "1.4.2026")
	s.says("14.2026.* is not a day such as 2026-04-01|142026.* is not a day such as 2026-04-01")
	s.write(day, "2026-03-31")
	s.quiet()
	s.keys(input.ArrowUp)
	require.NoError(t, day.Wait(rod.Eval(`() => this.value === "2026-04-01"`)))
}
