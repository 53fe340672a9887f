package feed

import (
	"embed"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// The names that columns have in the languages of suppliers, a file each of lines
// "field: name, name, …": docs/feeds.md, "What the columns are called".
//
//go:embed headers/*.txt
var headerTongues embed.FS

// tongueOf maps a column name, its words joined, to its field: all of its words, and
// those of them that say something, which names written in full go before.
var tongueOf, tongueOfSaid = func() (all, said map[string]string) {
	all, said = map[string]string{}, map[string]string{}
	files, err := headerTongues.ReadDir("headers")
	if err != nil {
		panic(err) // the files are built in
	}
	for _, f := range files {
		text, err := headerTongues.ReadFile(path.Join("headers", f.Name()))
		if err != nil {
			panic(err)
		}
		for line := range strings.Lines(string(text)) {
			field, names, ok := strings.Cut(line, ":")
			if !ok {
				panic(fmt.Sprintf("%s: %q names no field", f.Name(), line))
			}
			for name := range strings.SplitSeq(names, ",") {
				words := plainWords(name)
				for m, key := range map[*map[string]string]string{&all: strings.Join(words, ""), &said: strings.Join(telling(words), "")} {
					if (*m)[key] == "" {
						(*m)[key] = field
					}
				}
			}
		}
	}
	return all, said
}()

// falseFriends are names in another language that are words of English too: they count
// only beside others of their language.
var falseFriends = strings.Fields("code photo photos art parent composition dimension long symbol index stand mini minimum cond famille gamme brutto netto")

func falseFriend(name string) bool {
	return slices.Contains(falseFriends, strings.Join(plainWords(name), ""))
}

// unsaid are words of a column's name that say nothing of which field it is: articles
// and prepositions, currencies, and what a count is of.
var unsaid = func() map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(`de du des d l la le les el los las il lo gli i do da dos das del della di der die das den dem et und y e en i oraz och og
		in im je pro per por pr par a w na za til till för for pour para voor von van vom aux au
		eur euro euros chf pln zl sek dkk nok kr gbp usd czk
		st stk stck stuck stuks pcs pc szt pz ud uds un uni pce
		tage tagen jours dias giorni dagen dni dagar dage dager tag`) {
		m[w] = true
	}
	return m
}()

// plainLetters are letters that taking accents away leaves as they are.
var plainLetters = strings.NewReplacer("ß", "ss", "ø", "o", "æ", "ae", "œ", "oe", "ł", "l", "đ", "d", "ı", "i", "º", "", "°", "", "’", "'", "²", "2", "³", "3")

// plainWords are the words of a column's name in small letters without accents.
func plainWords(name string) []string {
	folded := strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return r
	}, norm.NFD.String(plainLetters.Replace(strings.ToLower(name))))
	return strings.FieldsFunc(folded, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// telling are the words that aren't unsaid; all of them where none is left.
func telling(all []string) []string {
	var said []string
	for _, w := range all {
		if !unsaid[w] {
			said = append(said, w)
		}
	}
	if said == nil {
		return all
	}
	return said
}

// inTongues is the field that a column's name stands for in one of the languages, with
// the unit that may follow it; "" where it isn't known.
func inTongues(name string) (field, unit string) {
	words := plainWords(name)
	if len(words) == 0 {
		return "", ""
	}
	look := func(words []string) string {
		if f := tongueOf[strings.Join(words, "")]; f != "" {
			return f
		}
		return tongueOfSaid[strings.Join(telling(words), "")]
	}
	if f := look(words); f != "" {
		return f, ""
	}
	last := words[len(words)-1]
	switch f := look(words[:len(words)-1]); {
	case f == "weight" && weights[last] != nil, isLength(f) && lengths[last] != nil:
		return f, last
	case f == "pictures" && isNumber(last):
		return f, ""
	}
	if bare := trailingDigits.ReplaceAllString(last, ""); len(words) == 1 && bare != last && tongueOf[bare] == "pictures" { // bild2
		return "pictures", ""
	}
	return "", ""
}

func isNumber(w string) bool { return strings.Trim(w, "0123456789") == "" }
