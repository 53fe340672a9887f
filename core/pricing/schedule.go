package pricing

import "sort"

// Schedule is what a category pays from a day on; Category "" is every other's.
type Schedule struct {
	Category  string     `json:"category"`
	StartsOn  string     `json:"starts_on"` // YYYY-MM-DD
	Fees      []Fee      `json:"fees"`
	Warehouse *Warehouse `json:"warehouse,omitempty"`
}

// Schedules are a site's schedules and its tree of categories.
type Schedules struct {
	Parent map[string]string // of a category, by ref; "" at the top
	list   map[string][]Schedule
}

// NewSchedules puts schedules in order.
func NewSchedules(parent map[string]string, all []Schedule) *Schedules {
	s := &Schedules{Parent: parent, list: map[string][]Schedule{}}
	for _, x := range all {
		s.list[x.Category] = append(s.list[x.Category], x)
	}
	for _, l := range s.list {
		sort.SliceStable(l, func(i, j int) bool { return l[i].StartsOn < l[j].StartsOn })
	}
	return s
}

// Line is a category and those above it, lowest first, then "".
func (s *Schedules) Line(category string) []string {
	var out []string
	for at := category; at != "" && len(out) < 20; at = s.Parent[at] { // no deeper than any tree; a ring ends here too
		out = append(out, at)
	}
	return append(out, "")
}

// On is the schedule that a category pays by on a day: the latest of its own
// that has begun, else its parent's. False where there is none.
func (s *Schedules) On(category, day string) (Schedule, bool) {
	for _, at := range s.Line(category) {
		if x, ok := s.own(at, day); ok {
			return x, true
		}
	}
	return Schedule{}, false
}

// WarehouseOn is what the warehouse takes in a category on a day, which may
// stand further up than the fees do; nil where the site has none.
func (s *Schedules) WarehouseOn(category, day string) *Warehouse {
	for _, at := range s.Line(category) {
		if x, ok := s.own(at, day); ok && x.Warehouse != nil {
			return x.Warehouse
		}
	}
	return nil
}

func (s *Schedules) own(category, day string) (Schedule, bool) {
	l := s.list[category]
	i := sort.Search(len(l), func(i int) bool { return l[i].StartsOn > day })
	if i == 0 {
		return Schedule{}, false
	}
	return l[i-1], true
}
