package matching

import (
	"encoding/json"
	"fmt"

	"easymargin/core/match"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

var judge = match.NewJudge()

// weigh judges a supplier product against entries of a site.
func weigh(p *match.Product, entries []*store.Entry, currency string, given map[string]bool) match.Answer {
	list := make([]match.Entry, len(entries))
	for i, e := range entries {
		list[i] = stops.Listed(e, currency, given)
	}
	return judge.Weigh(p, list)
}

// stateOf is the state that a verdict leaves a match in.
func stateOf(v match.Verdict, accepts bool) string {
	switch v {
	case match.Certain:
		if accepts {
			return store.MatchMade
		}
		return store.MatchCertain
	case match.None:
		return store.MatchNone
	case match.NotAllowed:
		return store.MatchBarred
	}
	return store.MatchSeveral
}

func basisOf(p *match.Product) string {
	text, _ := json.Marshal(judge.BasisOf(p)) // texts and a number
	return string(text)
}

// changed says what of a match's basis is another now.
func changed(m *store.Match, p *match.Product) (string, error) {
	if m.Basis == "" {
		return "", nil
	}
	var was match.Basis
	if err := json.Unmarshal([]byte(m.Basis), &was); err != nil {
		return "", fmt.Errorf("basis of match %d: %w", m.ID, err)
	}
	return judge.Changed(was, judge.BasisOf(p)), nil
}

// refsOf are a match's candidates. Those that an earlier version kept had more
// than their refs.
func refsOf(m *store.Match) ([]string, error) {
	if m.Candidates == "" {
		return nil, nil
	}
	var list []json.RawMessage
	if err := json.Unmarshal([]byte(m.Candidates), &list); err != nil {
		return nil, fmt.Errorf("candidates of match %d: %w", m.ID, err)
	}
	out := make([]string, 0, len(list))
	for _, raw := range list {
		var ref string
		if json.Unmarshal(raw, &ref) != nil {
			var old struct{ Ref string }
			if err := json.Unmarshal(raw, &old); err != nil {
				return nil, fmt.Errorf("candidates of match %d: %w", m.ID, err)
			}
			ref = old.Ref
		}
		out = append(out, ref)
	}
	return out, nil
}

func candidatesText(a match.Answer) string {
	refs := make([]string, 0, len(a.Candidates))
	for _, c := range a.Candidates {
		if len(refs) == 12 {
			break
		}
		refs = append(refs, c.Ref)
	}
	text, _ := json.Marshal(refs)
	return string(text)
}

// kept is an entry of a place as the store keeps it.
func (st *Stop) kept(siteID int64, e place.Entry) store.Entry {
	return *stops.EntryRow(siteID, e, st.Now())
}
