package web

// Needs are the roles that operations take, for the tests.
var (
	Needs = needs
	Need  = need
)
