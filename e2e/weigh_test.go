package e2e_test

import (
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// choose picks an option of a field by its words.
func (s screen) choose(field, words string) {
	s.MustElement("[aria-label='" + field + "']").MustSelect(words)
}

// The market is read and what is sold weighed at it; a sieve is built, kept, and
// a price rule is made for it.
func TestASieveIsBuiltKeptAndUsed(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	through := func(query string) int64 {
		return ask[struct{ Total int64 }](t, p, "/api/v1/sites/1/candidates?limit=1"+query).Total
	}
	s := open(t, p, "/weigh")
	s.sees("h2, div", "Nothing has been weighed here yet")
	s.press("Weigh")
	s.sees("[role=status]", "go through")
	require.Eventually(t, func() bool { return through("") > 100 }, 30*time.Second, 50*time.Millisecond)
	s.press("Read the market")
	require.Eventually(t, func() bool {
		return through("&sieve=%5B%7B%22column%22%3A%22lowest%22%2C%22op%22%3A%22filled%22%7D%5D") > 100
	}, 30*time.Second, 50*time.Millisecond)
	s.sees("[aria-label=Candidates] [role=row]", `\d\.\d\d`)

	s.keys('f')
	s.choose("Column", "lowest")
	s.choose("Comparison", "above")
	s.MustElement("[aria-label=Value]").MustInput("twenty")
	s.keys(input.Enter)
	s.sees("[role=alert]", "condition 1, lowest: .twenty. is not an amount in GBP")
	s.MustElement("[aria-label^='Take away']").MustClick()
	s.MustWait(`() => !document.querySelector("[role=alert]")`)
	s.keys('f')
	s.choose("Column", "lowest")
	s.MustElement("[aria-label=Value]").MustInput("20")
	s.keys(input.Enter)
	s.sees("[role=group][aria-label=Sieve]", "lowest above 20")
	s.MustElement("[aria-label^='Or, beside']").MustClick()
	s.choose("Column", "sellers")
	s.choose("Comparison", "is")
	s.MustElement("[aria-label=Value]").MustInput("1")
	s.keys(input.Enter)
	s.sees("[role=group][aria-label=Sieve]", "or\nsellers is 1")
	dear := through(`&sieve=%5B%5B%7B%22column%22%3A%22lowest%22%2C%22op%22%3A%22above%22%2C%22values%22%3A%5B%2220%22%5D%7D%2C` +
		`%7B%22column%22%3A%22sellers%22%2C%22op%22%3A%22is%22%2C%22values%22%3A%5B%221%22%5D%7D%5D%5D`)
	ours := through(`&sieve=%5B%5B%7B%22column%22%3A%22lowest%22%2C%22op%22%3A%22above%22%2C%22values%22%3A%5B%2220%22%5D%7D%2C` +
		`%7B%22column%22%3A%22sellers%22%2C%22op%22%3A%22is%22%2C%22values%22%3A%5B%221%22%5D%7D%5D%2C` +
		`%7B%22column%22%3A%22ours%22%2C%22op%22%3A%22is%22%2C%22values%22%3A%5B%22yes%22%5D%7D%5D`)
	require.Positive(t, ours)
	require.Less(t, dear, through(""))
	s.press("Keep this sieve")
	s.MustElement("[aria-label='Name of the sieve']").MustInput("Dear or alone")
	s.keys(input.Enter)
	s.sees("[aria-label='A named sieve'] option:checked", "Dear or alone")
	s.MustReload().MustWaitLoad()
	s.sees("[aria-label='A named sieve'] option:checked", "Dear or alone") // it is in the address

	// A row opens: the lines at the lowest add up to what the list says.
	s.sees("[aria-label=Candidates] [role=row]", `\d\.\d\d`) // they are there again
	s.keys(input.ArrowDown, input.Enter)
	s.sees("aside [data-testid=lines]", "left for you|lost on every sale")
	s.sees("aside table[aria-label='What others ask']", `\d\.\d\d`)
	s.sees("aside table[aria-label='What others ask'] button", `\S`).MustClick()
	s.sees("aside", `\d+ on sale, \d+ with a number that suppliers of ours have`)
	s.keys(input.Escape)
	s.sees("aside [data-testid=lines]", "left for you|lost on every sale")
	s.keys(input.Escape)

	s.MustNavigate(p.URL + "/price?tab=rules").MustWaitLoad()
	s.sees("li", "all that no rule above fits")
	s.keys('.')
	s.MustElement("[aria-label='Name of the rule']").MustInput("In the sieve")
	s.choose("Sieve", "Dear or alone")
	s.press("Keep this rule")
	s.sees("li", "in the sieve Dear or alone")
	until(t, p, "prices", idle)
	var held int64
	for _, r := range ask[[]struct {
		Name     string
		Listings int64
	}](t, p, "/api/v1/sites/1/rules") {
		if r.Name == "In the sieve" {
			held = r.Listings
		}
	}
	assert.Equal(t, ours, held, "it holds what goes through, no more and no less")
	s.quiet()
}

// A pasted list is weighed, one of it dropped with the reason and brought back,
// all by the keyboard.
func TestAPastedList(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	numbers := ask[struct{ Rows []struct{ GTIN string } }](t, p, "/api/v1/listings?limit=3&sort=title").Rows
	require.Len(t, numbers, 3)
	s := open(t, p, "/weigh")
	s.choose("What to weigh", "a list of numbers with costs…")
	s.MustElement("aside [aria-label=Supplier]").MustInput("Skerry Lots")
	s.MustElement("aside [aria-label='The list']").MustInput(numbers[0].GTIN + " 3.00\n" + numbers[1].GTIN + " 4.00 a lot\n" + numbers[2].GTIN + " soon\n")
	s.press("Weigh them")
	s.sees("aside [role=status]", "2 are being weighed")
	s.sees("aside [role=status]", "Mend the 1 that could not be read")
	s.sees("aside [role=status]", "not taken: the cost can.t be read as an amount")
	s.keys(input.Escape)
	s.sees("[role=row]", "Skerry Lots")
	s.MustElement("[aria-label=Candidates]").MustFocus()
	s.keys(input.ArrowDown, input.Space)
	s.sees("button", "Drop 1")
	s.keys('x')
	s.MustElement("[aria-label='Why it is dropped']").MustInput("too dear to post")
	s.keys(input.Enter)
	require.Eventually(t, func() bool {
		return ask[struct{ Total int64 }](t, p, "/api/v1/sites/1/candidates?dropped=true&limit=1").Total == 1
	}, 30*time.Second, 50*time.Millisecond)
	s.MustNavigate(p.URL + "/weigh?tab=dropped").MustWaitLoad()
	s.sees("[role=row]", "too dear to post")
	s.MustElement("[aria-label=Candidates]").MustFocus()
	s.keys(input.ArrowDown, input.Space)
	s.sees("button", "Bring back 1")
	s.keys('x')
	s.sees("div", "Nothing was dropped")
	s.quiet()
}
