package supply

import "math/bits"

// Prints is a table from ref hashes to fingerprints and ids, 24 bytes an entry
// and without pointers, since a feed may have millions of rows. The zero value
// is empty.
type Prints struct {
	slots []print
	n     int
}

type print struct {
	hash, print int64
	id          int64 // never 0 in a slot that is taken
}

// NewPrints makes room for n entries.
func NewPrints(n int) *Prints { return &Prints{slots: make([]print, n+n/3+8)} }

// Len is how many entries there are.
func (p *Prints) Len() int { return p.n }

func (p *Prints) slot(hash int64) int {
	at, _ := bits.Mul64(uint64(hash)*0x9e3779b97f4a7c15, uint64(len(p.slots)))
	for i := int(at); ; i++ {
		if i == len(p.slots) {
			i = 0
		}
		if s := &p.slots[i]; s.id == 0 || s.hash == hash {
			return i
		}
	}
}

// Put adds an entry, or replaces the one of the same hash. The id must not be 0.
func (p *Prints) Put(hash, fingerprint, id int64) {
	if (p.n+1)*8 > len(p.slots)*7 {
		old := p.slots
		p.slots = make([]print, 2*len(old)+16)
		for _, s := range old {
			if s.id != 0 {
				p.slots[p.slot(s.hash)] = s
			}
		}
	}
	s := &p.slots[p.slot(hash)]
	if s.id == 0 {
		p.n++
	}
	*s = print{hash, fingerprint, id}
}

// Get is the entry of a hash; false where there is none.
func (p *Prints) Get(hash int64) (fingerprint, id int64, ok bool) {
	if p.n == 0 {
		return 0, 0, false
	}
	s := &p.slots[p.slot(hash)]
	return s.print, s.id, s.id != 0
}

// Each calls fn for every entry, in no order.
func (p *Prints) Each(fn func(hash, fingerprint, id int64)) {
	for _, s := range p.slots {
		if s.id != 0 {
			fn(s.hash, s.print, s.id)
		}
	}
}
