package title

// Alike tells whether two folded words are the same word, a form of it, a
// shortening of it or a slip of the finger: cup and cups, alu and aluminium,
// friyng and frying.
func Alike(a, b string) bool {
	if a == b {
		return true
	}
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(a) < 3 {
		return false
	}
	common := 0
	for common < len(a) && a[common] == b[common] {
		common++
	}
	switch {
	case common == len(a) && (ending(b[len(a):]) || len(b) >= 8): // cup(s), alu(minium)
		return true
	case common >= 5 && len(b)-common <= 4 && 3*common >= 2*len(a): // polish(ed), polish(ing)
		return true
	case len(a) < 5 || len(b)-len(a) > 2:
		return false
	}
	most := 1
	if len(a) >= 9 {
		most = 2
	}
	return within(a, b, most)
}

// SameWord is Alike without shortenings and stems: forms and slips only.
func SameWord(a, b string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	return a == b || len(a) >= 3 && b[:len(a)] == a && ending(b[len(a):]) || len(a) >= 5 && len(b)-len(a) <= 1 && within(a, b, 1)
}

// ending tells whether some letters are the ending of a form of the same word.
func ending(s string) bool {
	switch s {
	case "s", "es", "e", "n", "en", "er", "i", "x":
		return true
	}
	return false
}

// within tells whether a becomes b by at most most letters changed, left out,
// put in or swapped with the next.
func within(a, b string, most int) bool {
	if len(a) > 40 || len(b) > 40 {
		return false
	}
	var rows [3][42]int8
	before, last, now := &rows[0], &rows[1], &rows[2]
	for j := range len(b) + 1 {
		last[j] = int8(j)
	}
	for i := 1; i <= len(a); i++ {
		now[0] = int8(i)
		least := now[0]
		for j := 1; j <= len(b); j++ {
			cost := int8(1)
			if a[i-1] == b[j-1] {
				cost = 0
			}
			d := min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				d = min(d, before[j-2]+1)
			}
			now[j] = d
			least = min(least, d)
		}
		if int(least) > most {
			return false
		}
		before, last, now = last, now, before
	}
	return int(last[len(b)]) <= most
}
