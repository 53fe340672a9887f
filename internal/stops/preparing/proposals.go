package preparing

import (
	"slices"
	"strconv"
	"strings"

	"easymargin/core/ident"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// Proposal is a value that might stand in a field, and why.
type Proposal struct {
	Field string `json:"field"`
	Value string `json:"value"`
	Why   string `json:"why" doc:"In words"`
}

// leastAlike is how many like products it takes to propose a parcel.
const leastAlike = 3

// parcelFields are the figures of a parcel, in the order the store gives them.
var parcelFields = [4]string{"package.weight", "package.length", "package.width", "package.height"}

// propose fills in what might stand in fields that are empty, and what is known
// of the brand.
func (v *PreparedView) propose(tx store.Tx, x *loaded, p *reckon.Prepared) error {
	v.Proposals, v.Texts = []Proposal{}, p.Texts()
	numbers, err := tx.NumbersOf(x.listing.ProductID)
	if err != nil {
		return err
	}
	for _, n := range numbers {
		shown := ident.Read(n.Number)
		if shown.Shown == "" || shown.Shown == p.Values.Number || slices.ContainsFunc(v.Proposals, func(y Proposal) bool { return y.Value == shown.Shown }) {
			continue
		}
		v.Proposals = append(v.Proposals, Proposal{"number", shown.Shown, n.By})
	}
	if p.Asked.Needs.Package != nil {
		if err := v.proposeParcel(tx, x, p); err != nil {
			return err
		}
	}
	asked, err := tx.BrandRequests(x.site.ID)
	for _, b := range asked {
		if strings.EqualFold(b.Brand, p.Values.Brand) {
			v.BrandAsked = b.State
		}
	}
	return err
}

// proposeParcel proposes the middle of what like products weigh and measure:
// those of the category on the site.
func (v *PreparedView) proposeParcel(tx store.Tx, x *loaded, p *reckon.Prepared) error {
	empty := false
	for _, field := range parcelFields {
		empty = empty || p.At(field) == ""
	}
	if !empty || x.listing.Category == "" {
		return nil
	}
	parcels, err := tx.ParcelsIn(x.site.ID, x.listing.Category)
	if err != nil {
		return err
	}
	for i, field := range parcelFields {
		var known []int64
		for _, y := range parcels {
			if y[i] > 0 {
				known = append(known, y[i])
			}
		}
		if len(known) < leastAlike || p.At(field) != "" {
			continue
		}
		slices.Sort(known)
		v.Proposals = append(v.Proposals, Proposal{field, strconv.FormatInt(known[len(known)/2], 10), "the middle of " + strconv.Itoa(len(known)) + " there"})
	}
	return nil
}
