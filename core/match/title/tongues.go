package title

import (
	"math/bits"
	"slices"
)

// tongues tell languages apart by words they know, and by the threes of letters
// of words they don't: words of one language are built alike.
type tongues struct {
	names []string
	words map[string]uint16   // word → a bit for each language that has it
	heard map[string][]string // until learnt
	parts map[[3]byte][]int32 // three letters → how much they speak for each language
}

func newTongues() *tongues {
	return &tongues{words: map[string]uint16{}, heard: map[string][]string{}}
}

func (t *tongues) add(name string, words []string) {
	t.heard[name] = append(t.heard[name], words...)
}

// learn makes the weights of threes of letters from the words that were added.
// A weight is in hundredths of a doubling.
func (t *tongues) learn() {
	t.names = t.names[:0]
	for name := range t.heard {
		t.names = append(t.names, name)
	}
	slices.Sort(t.names)
	t.parts = map[[3]byte][]int32{}
	counts, totals := map[[3]byte][]int32{}, make([]int32, len(t.names))
	for i, name := range t.names {
		for _, w := range t.heard[name] {
			t.words[w] |= 1 << i
			threes(w, func(p [3]byte) {
				if counts[p] == nil {
					counts[p] = make([]int32, len(t.names))
				}
				counts[p][i]++
				totals[i]++
			})
		}
	}
	for p, list := range counts {
		weights := make([]int32, len(list))
		mean := int32(0)
		for i, n := range list {
			// (n + ½) of the language's threes, as a power of two
			weights[i] = log2((2*int64(n) + 1) * 1_000_000 / int64(totals[i]))
			mean += weights[i]
		}
		mean /= int32(len(list))
		for i := range weights {
			weights[i] -= mean
		}
		t.parts[p] = weights
	}
}

// threes gives every three letters of a word, its ends marked.
func threes(w string, give func([3]byte)) {
	a, b := byte('^'), byte(0)
	for i := range len(w) + 1 {
		c := byte('$')
		if i < len(w) {
			c = w[i]
		}
		if b != 0 {
			give([3]byte{a, b, c})
			a = b
		}
		b = c
	}
}

// log2 is a hundred times the binary logarithm of n, roughly.
func log2(n int64) int32 {
	if n < 1 {
		return 0
	}
	whole := int32(0)
	for m := n; m > 1; m /= 2 {
		whole++
	}
	rest := (n*100)>>whole - 100 // linear between powers of two
	return whole*100 + int32(rest)
}

// A word that one language alone knows speaks as loudly as knownWord; one that
// none knows at most as loudly as guessedWord.
const (
	knownWord   = 600
	guessedWord = 400
)

// Apart tells how far two texts are from being in one language, those words
// aside that both have, as names say nothing of a language: what it costs, in
// hundredths of a doubling of likelihood, to take both for the one language
// that suits them best, over taking each for its own.
func (t *Tables) Apart(a, b []string) int32 {
	x, okX := t.tongues.weigh(a, b)
	y, okY := t.tongues.weigh(b, a)
	if !okX || !okY {
		return 0
	}
	n := len(t.tongues.names)
	together := x[0] + y[0]
	for i := range n {
		together = max(together, x[i]+y[i])
	}
	return slices.Max(x[:n]) + slices.Max(y[:n]) - together
}

// weigh is how much some words that others are not among speak for each
// language; false where there are none.
func (t *tongues) weigh(words, others []string) (sum [8]int32, some bool) {
	for _, w := range words {
		if len(w) < 2 || slices.Contains(others, w) {
			continue
		}
		some = true
		if known := t.words[w]; known != 0 {
			n := int32(bits.OnesCount16(known))
			for i := range t.names {
				if known&(1<<i) != 0 {
					sum[i] += knownWord / n
				}
			}
			continue
		}
		var one [8]int32
		threes(w, func(p [3]byte) {
			for i, n := range t.parts[p] {
				one[i] += n
			}
		})
		for i := range t.names {
			sum[i] += min(max(one[i], -guessedWord), guessedWord)
		}
	}
	return sum, some
}
