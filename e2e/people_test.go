package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A second person comes to work here: from then on everybody logs in, and each may
// what their role lets them; a program told no says whose word it takes.
func TestTwoWorkHere(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "0")
	s := open(t, p, "/people")
	axe := axeText(t)
	s.sees("p", "You work here alone")
	s.clean(axe, "oneself", "light")
	s.write(s.labelled("^New$"), "tide and marsh")
	s.press("Set it")
	s.sees("[role=status]", "Changed")
	s.MustNavigate(p.URL + "/people?tab=team")
	s.sees("button", "Let somebody work here")
	s.keys('n')
	s.sees("h2", "Somebody new")
	s.clean(axe, "who works here", "dark")
	s.write(s.labelled("^Name$"), "Wren")
	s.write(s.labelled("^Password$"), "salt and sand")
	s.press("Let them work here")
	s.MustElement("#password") // of the page on which one logs in
	s.clean(axe, "logging in", "light")
	s.MustElement("#name").MustInput("Wren")
	s.MustElement("#password").MustInput("tide and marsh")
	s.MustElement("button").MustClick()
	s.says("look at the name")
	s.MustNavigate(p.URL + "/orders/1")
	s.MustElement("#name").MustInput("Wren")
	s.MustElement("#password").MustInput("salt and sand")
	require.NoError(t, s.WaitDOMStable(1500e6, 0)) // a wrong password has the next wait a second
	s.MustElement("button").MustClick()

	// Wren looks: no buyer's name, nothing is bought, and she is told whose word it takes.
	s.sees("[role=tab], h1, h2", "GB-00001")
	assert.NotContains(t, s.MustElement("main").MustText(), "Saltpan Row")
	s.MustNavigate(p.URL + "/orders")
	s.sees("button", "How these 5 are best bought")
	s.keys('.')
	s.sees("button", "Buy 5")
	s.keys('.')
	s.sees("[role=alert]", "This needs the right .*your role, “look”, doesn't have")
	s.MustNavigate(p.URL + "/people?tab=deeds")
	s.sees("td", "person let in")
	s.clean(axe, "who did what", "light")
	assert.NotContains(t, s.MustElement("main").MustText(), "Who works here")
	s.press("Log out")
	s.sees("label", "Password")
}
