package orders

import (
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// Beside is a line of what was expected beside what really was, as far as is known.
type Beside struct {
	Name     string `json:"name"`
	Expected int64  `json:"expected"`
	Real     int64  `json:"real"`
	Known    bool   `json:"known" doc:"The real figure is known; else it is the expected one"`

	kind string // as reckon has it
}

// refundKind is the kind of the line of what was given back.
const refundKind = "refund"

// beside lays what really was beside what was expected, line by line: both add up
// to what is left. What was told or typed in takes the place of what was expected.
// Of what was called off only what was spent on it remains; on what was given back no
// tax is owed.
func beside(l *store.OrderLine) ([]Beside, error) {
	if l.Expected == "" {
		return nil, nil
	}
	lines, err := expectedOf(l)
	if err != nil {
		return nil, err
	}
	unrefunded := *l
	unrefunded.Refunded = 0
	tax, kept := comesTo(&unrefunded).Tax, comesTo(l)
	real := map[string]*int64{reckon.KindCost: l.Cost, reckon.KindOutbound: l.Sending, reckon.KindTax: &tax}
	out := []Beside{}
	fees, charged, off := 0, l.Delivery, l.State == store.LineCancelled
	for _, x := range lines {
		b := Beside{Name: x.Name, Expected: x.Amount, Real: x.Amount, kind: x.Kind}
		fee := x.Kind == reckon.KindFee || x.Kind == reckon.KindFeeTax
		switch v := real[x.Kind]; {
		case off && !spent(l, x.Kind):
			b.Real, b.Known = 0, true
		case x.Kind == reckon.KindPrice:
			b.Known = true
		case x.Kind == reckon.KindDelivery: // told with the order
			b.Real, b.Known, charged = charged, true, 0
		case v != nil:
			b.Real, b.Known = -*v, true
		case fee && l.Fees != nil: // told as one: the first stands for all
			if b.Known = true; fees == 0 {
				b.Real = -*l.Fees
			} else {
				b.Real = 0
			}
			fees++
		}
		out = append(out, b)
	}
	if off {
		return out, nil
	}
	if charged > 0 {
		out = append(out, Beside{Name: "delivery charged", Real: charged, Known: true, kind: reckon.KindDelivery})
	}
	if l.Refunded > 0 {
		out = append(out, Beside{Name: "given back", Real: -kept.GivenBack, Known: true, kind: refundKind})
		if back := tax - kept.Tax; back != 0 {
			out = append(out, Beside{Name: "tax on what was given back", Real: back, Known: true, kind: reckon.KindTax})
		}
	}
	return out, nil
}

// spent tells whether something was spent on a line before it was called off: on its
// goods once it was bought, on sending it once it was sent, on fees where its place says so.
func spent(l *store.OrderLine, kind string) bool {
	switch kind {
	case reckon.KindCost:
		return l.BoughtAt != nil
	case reckon.KindOutbound:
		return l.SentAt != nil
	case reckon.KindFee, reckon.KindFeeTax:
		return l.Fees != nil
	}
	return false
}
