package title

import "strings"

// A word that means something here is also known with a slip of the finger in
// it, where it is long enough that no other word is so near.
const leastMended = 7

// remember keeps long words for mend.
func (t *Tables) remember(list []string) {
	for _, text := range list {
		for _, w := range strings.Fields(text) {
			t.known[w] = true
			if len(w) >= leastMended {
				t.long[w] = w
				without(w, func(less string) bool {
					if _, there := t.long[less]; !there {
						t.long[less] = w
					}
					return false
				})
			}
		}
	}
}

// mend puts words right that are a known one with a letter left out, put in or
// swapped with the next.
func (t *Tables) mend(tokens []token) {
	for i := range tokens {
		w := tokens[i].text
		if tokens[i].number || len(w) < leastMended-1 {
			continue
		}
		if t.known[w] || t.tongues.words[w] != 0 {
			continue
		}
		if known, ok := t.long[w]; ok {
			tokens[i].text = known
			continue
		}
		without(w, func(less string) bool {
			known := t.long[less]
			if known == "" || len(known) > len(w) || known != less && !swapped(w, known) {
				return false
			}
			tokens[i].text = known
			return true
		})
	}
}

// without gives a word with each of its letters but the first left out in turn,
// until it is told to stop.
func without(w string, give func(string) bool) {
	for k := 1; k < len(w); k++ {
		if give(w[:k] + w[k+1:]) {
			return
		}
	}
}

// swapped tells whether a word is another with two neighbours swapped.
func swapped(a, b string) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range len(a) - 1 {
		if a[i] != b[i] {
			return a[i] == b[i+1] && a[i+1] == b[i] && a[i+2:] == b[i+2:]
		}
	}
	return false
}
