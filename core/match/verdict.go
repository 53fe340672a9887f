package match

import "slices"

// wordsAgree tells whether most of the words do.
func (p *pair) wordsAgree() bool { return p.fewest > 0 && p.shared >= 60 }

// wordsAgainst tells whether the words speak against it: both titles are in one
// language and have hardly a word in common, or are perhaps in two and have
// nothing at all in common that languages share.
func (p *pair) wordsAgainst() bool {
	switch {
	case p.foreignFor:
		return true
	case p.fewest == 0:
		return false
	case p.sameTongue:
		return p.shared < 34
	}
	return p.words == 0 && !p.alsoAgrees && !p.codeAgrees && !p.farApart
}

// meets tells whether an entry meets (a) or (b) of matching.md, the verdicts, 1.
func (p *pair) meets() bool {
	if p.contradicted() {
		return false
	}
	if p.brandAgrees && p.codeCounts && !p.wordsAgainst() { // (b)
		return true
	}
	switch p.tie { // (a)
	case whole, caseOf, inCase:
	default:
		return false
	}
	if p.wordsAgainst() && !p.codeAgrees {
		return false
	}
	return p.brandAgrees || p.codeAgrees || p.wordsAgree() || !p.oursSay && !p.theirsSay
}

// certain tells whether it meets them and the units are known.
func (p *pair) certain() bool {
	if !p.meets() || !p.unitsKnown() {
		return false
	}
	if p.tie == caseOf || p.tie == inCase {
		return p.packsSaid
	}
	return true
}

// worth tells whether an entry without contradiction is worth accepting.
func (p *pair) worth() bool {
	switch {
	case p.contradicted():
		return false
	case p.tie == whole, p.tie == caseOf, p.tie == inCase:
		return true
	case p.brandAgrees && p.codeAgrees:
		return !p.wordsAgainst() || p.codeCounts
	case p.otherNumber:
		return false
	case p.tie == guessed, p.tie == inhouse:
		return p.brandAgrees && !p.wordsAgainst() || p.wordsAgree()
	case p.brandAgrees && p.fewest > 0:
		return p.shared >= 60 || p.shared >= 50 && p.alsoAgrees || !p.sameTongue && (p.words > 0 || p.alsoAgrees)
	}
	return p.shared >= 75 && p.words >= 3
}

// near tells whether an entry that isn't worth accepting is worth showing.
func (p *pair) near() bool {
	return p.tie != noTie || p.codeAgrees || p.brandAgrees && (p.words > 0 || p.alsoAgrees) || p.shared >= 60
}

// clearLead is by how much the first must lead the second to be the one.
const clearLead = 5

func decide(pairs []*pair) Answer {
	slices.SortStableFunc(pairs, func(a, b *pair) int {
		if x, y := rank(a), rank(b); x != y {
			return x - y
		}
		return b.score - a.score
	})
	var certain, worth []*pair
	conflict := false
	for _, p := range pairs {
		if p.certain() {
			certain = append(certain, p)
		}
		if p.worth() {
			worth = append(worth, p)
		}
		switch p.tie {
		case whole:
			conflict = conflict || p.contradicted() || p.onePack
		case caseOf, inCase:
			conflict = conflict || p.contradicted()
		}
	}
	out := Answer{Candidates: []Candidate{}}
	var meant *pair
	switch {
	case len(certain) == 1:
		out.Verdict, meant = Certain, certain[0]
		// it comes first, whatever else has a high score
		i := slices.Index(pairs, meant)
		copy(pairs[1:i+1], pairs[:i])
		pairs[0] = meant
	case len(certain) > 1:
		out.Verdict = Unsure
	case conflict:
		out.Verdict = Conflict
	case len(worth) == 0:
		out.Verdict = None
	case len(worth) == 1 || worth[0].score-worth[1].score >= clearLead:
		out.Verdict, meant = Likely, worth[0]
	default:
		out.Verdict = Unsure
	}
	if meant != nil {
		out.Ref, out.Bought, out.Listed = meant.entry.Ref, meant.bought, meant.listed
		if meant.entry.Closed || meant.entry.ByLeave {
			out.Verdict = NotAllowed
		}
	}
	for _, p := range pairs {
		if p == meant || p.worth() || p.near() {
			out.Candidates = append(out.Candidates, p.candidate())
		} else {
			out.Others = append(out.Others, p.candidate())
		}
	}
	return out
}

// rank puts what is worth accepting before what is only near.
func rank(p *pair) int {
	switch {
	case p.worth():
		return 0
	case !p.contradicted():
		return 1
	}
	return 2
}

func (p *pair) candidate() Candidate {
	c := Candidate{Ref: p.entry.Ref, For: p.speaks, Against: append(p.against[:len(p.against):len(p.against)], p.doubts...),
		Rows: p.rows, Bought: p.bought, Listed: p.listed}
	if p.entry.Closed {
		c.Against = append(c.Against, "this entry may not be copied")
	}
	if p.entry.ByLeave {
		c.Against = append(c.Against, "its category needs leave that you don't have")
	}
	if c.For == nil {
		c.For = []string{}
	}
	if c.Against == nil {
		c.Against = []string{}
	}
	return c
}
