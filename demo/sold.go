package demo

import (
	"fmt"

	"easymargin/internal/sim"
)

// sold is what was bought on each site before the demo begins: which of those
// there are many of, and how many.
var sold = []struct {
	site     string
	of       int
	quantity int64
}{{"GB", 3, 1}, {"GB", 11, 2}, {"GB", 19, 1}, {"IE", 5, 1}, {"GB", 27, 3}}

// Sell has made-up buyers buy a little, where nobody has bought anything yet.
func Sell(m *sim.Marketplace) error {
	m.Charges = map[string]int64{"IE": 350, "DE": 390} // as the shop's own terms say
	if m.Ordered("GB", "GB-00001").Ref != "" {
		return nil
	}
	for _, x := range sold {
		list := m.Deep(x.site, 10)
		if len(list) == 0 {
			continue
		}
		if _, err := m.Buy(x.site, list[x.of%len(list)], x.quantity); err != nil {
			return fmt.Errorf("selling in the demo: %w", err)
		}
	}
	return nil
}
