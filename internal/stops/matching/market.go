package matching

import (
	"encoding/json"

	"easymargin/internal/place"
	"easymargin/internal/store"
)

// market is what others ask on an entry, as last read.
type market struct{ lowest, sellers *int64 }

// market is nil where it was never read.
func (st *Stop) market(e *store.Entry) *market {
	if e.OffersAt == nil {
		return nil
	}
	var offers []place.Offer
	if e.Offers != "" && json.Unmarshal([]byte(e.Offers), &offers) != nil {
		return nil
	}
	m := &market{}
	n := int64(0)
	for _, o := range offers {
		if o.Ours {
			continue
		}
		n++
		if total := o.Item + o.Delivery; m.lowest == nil || total < *m.lowest {
			m.lowest = &total
		}
	}
	m.sellers = &n
	return m
}
