package e2e_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Selling terms are made, given to all categories and changed: whom that touches
// is said before it is kept. A description's template shows what it makes.
func TestSellingTermsAndATemplate(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	before := len(preparations(t, p, ""))
	require.Greater(t, before, 30)
	s := open(t, p, "/prepare?tab=defaults&site=4")
	s.press("New terms")
	s.write(s.MustElement("input[aria-label='Name of the terms']"), "Usual")
	s.write(s.MustElement("input[aria-label='Condition']"), "New")
	s.sees("[role=status]", "No listing would say anything else")
	s.keys('.') // still in the field: a full stop is a full stop
	s.write(s.MustElement("input[aria-label='Condition']"), "New")
	s.press("Keep them")
	s.sees("nav button", "Usual")
	s.sees("nav button", "Every category").MustClick()
	s.MustElement("section[aria-label='Selling terms'] select").MustSelect("Usual")
	s.sees("[role=status]", `40 listings would say something else; \d+ would lack nothing any more`)
	s.press("Keep it")
	until(t, p, "most lack nothing any more", func([]run) bool { return len(preparations(t, p, "")) < before-20 })

	s.sees("nav button", "Usual").MustClick()
	s.write(s.MustElement("input[aria-label='Condition']"), "Broken")
	s.sees("[role=status]", `would lack something then`)
	s.press("Add a way")
	s.write(s.MustElement("input[aria-label='Delivery 1']"), "Post")
	s.write(s.MustElement("input[aria-label='Charge of delivery 1']"), "about four")
	s.sees("[role=alert]", `"about four" is not an amount in GBP`)
	s.write(s.MustElement("input[aria-label='Charge of delivery 1']"), "3.95")
	s.write(s.MustElement("input[aria-label='Condition']"), "New")
	s.sees("[role=status]", "40 listings would say something else")
	s.press("Keep them")
	s.sees("section", "Shared by all listings")

	s.sees("nav button", "Camping").MustClick()
	s.press("Add a part")
	s.write(s.MustElement("textarea[aria-label='Words of part 1']"), "The {kind} by {brand}.")
	s.sees("section[aria-label='As a buyer reads it']", `The .+ by \w+\.`)
	s.write(s.MustElement("textarea[aria-label='Words of part 1']"), "The {Kind}.")
	s.sees("[role=alert]", "a field stands in braces")
	s.write(s.MustElement("textarea[aria-label='Words of part 1']"), "The {kind} by {brand}.")
	s.press("Keep it")
	s.sees("main", "It holds wherever")
	type said struct{ Buyers string }
	until(t, p, "it is described so", func([]run) bool {
		for _, x := range preparations(t, p, "all") {
			if got := ask[said](t, p, fmt.Sprintf("/api/preparations/%d", x.ID)); len(got.Buyers) > 4 && got.Buyers[:7] == "<p>The " {
				return true
			}
		}
		return false
	})
	assert.NotEmpty(t, preparations(t, p, "ready"))
}
