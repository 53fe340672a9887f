package e2e_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Search opens a product's docket; its three columns stand side by side, its
// listings and everything of it are a key away.
func TestSearchOpensTheDocket(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	s := open(t, p, "/")
	s.sees("h1", "Tuesday")
	s.keys('/')
	s.MustWait(`() => document.activeElement?.id === "search"`)
	require.NoError(t, s.InsertText("Merrowdale Summit Steel flask 0.75"))
	s.sees("h1 ~ *", "found for")
	s.sees("[role=grid] [role=row]", "Merrowdale Summit Steel flask")
	s.keys(input.Enter)
	s.sees("h1", "Merrowdale Summit Steel flask 0.75 l")
	s.sees("table th", "Fernhollow Wholesale")
	s.sees("table th", "Quaymarket GB")
	s.sees("table tr", "entry Q7-40066 · same number")
	s.sees("summary", "line by line").MustClick()
	s.sees("[data-testid=lines]", "left for you")

	// The mark is moved by keys, and what it leaves is asked of the core.
	s.MustElement("[role=slider]").MustFocus()
	before := *s.MustElement("[role=slider]").MustAttribute("aria-valuenow")
	s.keys(input.ArrowLeft)
	s.sees("[role=status]", "would be left")
	assert.NotEqual(t, before, *s.MustElement("[role=slider]").MustAttribute("aria-valuenow"))
	s.press("As it is")
	s.MustEval("() => document.activeElement.blur()")
	s.keys(input.ArrowRight)
	s.sees("button[aria-pressed=true]", "Quaymarket IE")
	s.sees("table th", "Quaymarket IE")
	s.keys('h')
	s.sees("h1", "Merrowdale Summit Steel flask")
}
