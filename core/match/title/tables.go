package title

import (
	"bufio"
	"embed"
	"fmt"
	"io"
	"io/fs"
	"path"
	"strconv"
	"strings"
)

//go:embed tables
var files embed.FS

// Tables are the words that a title is read by. They are data: a file each in
// tables/, of lines "name: word, word, …"; Default is those, and Extend adds a
// person's own.
type Tables struct {
	colours, telling, conditions, sizes phrases
	shade, sizeWord, system             set
	spelled                             set
	sameSystem                          map[string]string
	units                               map[string][]unit
	unitNames                           phrases
	packOf, packAfter, packBefore       phrases
	packFixed, several                  phrases
	link, parts, alwaysParts, sets      set
	times                               set
	numbers                             map[string]int64
	stop                                set
	noise, accessory, legal             phrases
	prefixes                            []prefixed
	tongues                             *tongues
	known                               set               // words that mean something
	long                                map[string]string // long words by themselves and with a letter left out
}

// unit is what a figure's unit means.
type unit struct {
	kind     string
	num, den int64 // of the kind's base
	rough    bool  // another system's: equal within two per cent
	glued    bool  // only where no space is between
}

type set map[string]bool

// prefixed is a word that may go on, as ersatz* does.
type prefixed struct{ start, name string }

// phrases are phrases by their first word, the longest first.
type phrases map[string][]phrase

type phrase struct {
	words []string // after the first
	name  string
}

func (p phrases) add(text, name string) {
	var words []string
	tokens := lex(text) // mk2 is two tokens
	if strings.HasPrefix(text, "°") {
		tokens = lex("0" + text)[1:] // it is a token after a number only
	}
	for _, t := range tokens {
		words = append(words, t.text)
	}
	if len(words) == 0 { // a sign that means something after a number only
		words = []string{text}
	}
	list := p[words[0]]
	at := len(list)
	for at > 0 && len(list[at-1].words) < len(words)-1 {
		at--
	}
	list = append(list, phrase{})
	copy(list[at+1:], list[at:])
	list[at] = phrase{words[1:], name}
	p[words[0]] = list
}

// at is the longest phrase that begins at a token, and how many tokens it is;
// none is 0. A phrase goes over no break.
func (p phrases) at(tokens []token, i int) (string, int) { return p.find(tokens, i, spaced) }

// find is at over gaps up to a widest.
func (p phrases) find(tokens []token, i int, widest uint8) (string, int) {
	if i >= len(tokens) {
		return "", 0
	}
next:
	for _, ph := range p[tokens[i].text] {
		if i+len(ph.words) >= len(tokens) {
			continue
		}
		for k, w := range ph.words {
			if t := &tokens[i+1+k]; t.text != w || t.gap > widest {
				continue next
			}
		}
		return ph.name, 1 + len(ph.words)
	}
	return "", 0
}

// Default are the tables that come with the program.
func Default() *Tables { return defaults }

var defaults = func() *Tables {
	t := empty()
	err := fs.WalkDir(files, "tables", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		f, err := files.Open(name)
		if err != nil {
			return err
		}
		defer f.Close()
		return t.Extend(strings.TrimPrefix(name, "tables/"), f)
	})
	if err != nil {
		panic(err)
	}
	t.tongues.learn()
	return t
}()

func empty() *Tables {
	return &Tables{
		colours: phrases{}, telling: phrases{}, conditions: phrases{}, sizes: phrases{},
		shade: set{}, sizeWord: set{}, system: set{}, spelled: set{}, sameSystem: map[string]string{},
		units: map[string][]unit{}, unitNames: phrases{},
		packOf: phrases{}, packAfter: phrases{}, packBefore: phrases{}, packFixed: phrases{}, several: phrases{},
		link: set{}, parts: set{}, alwaysParts: set{}, sets: set{}, times: set{}, numbers: map[string]int64{},
		stop: set{}, noise: phrases{}, accessory: phrases{}, legal: phrases{}, tongues: newTongues(),
		known: set{}, long: map[string]string{},
	}
}

// Extend adds the lines of one more file to a table. name is the table's file
// name, such as "colours.txt"; an error names the line.
func (t *Tables) Extend(name string, r io.Reader) error {
	lines := bufio.NewScanner(r)
	for n := 1; lines.Scan(); n++ {
		line := strings.TrimSpace(lines.Text())
		if line == "" || line[0] == '#' {
			continue
		}
		if path.Dir(name) == "languages" {
			t.tongues.add(strings.TrimSuffix(path.Base(name), ".txt"), strings.Fields(Fold(line)))
			continue
		}
		key, list, ok := strings.Cut(line, ":")
		if !ok {
			return fmt.Errorf("%s line %d: write it as \"name: word, word\"", name, n)
		}
		words := strings.Split(list, ",")
		for i, w := range words {
			words[i] = strings.TrimSpace(Fold(w))
		}
		if err := t.put(name, key, words); err != nil {
			return fmt.Errorf("%s line %d: %w", name, n, err)
		}
	}
	return lines.Err()
}

func (t *Tables) put(file, key string, words []string) error {
	switch file {
	case "packs.txt", "telling.txt", "conditions.txt", "colours.txt", "words.txt":
		if key != "noise" {
			t.remember(words)
		}
	}
	all := func(p phrases, name string) {
		for _, w := range words {
			p.add(w, name)
		}
	}
	some := func(s set) {
		for _, w := range words {
			s[w] = true
		}
	}
	switch file {
	case "colours.txt":
		if key == "shade" {
			some(t.shade)
			return nil
		}
		all(t.colours, key)
	case "telling.txt":
		for _, w := range words {
			if s, ok := strings.CutSuffix(w, "*"); ok {
				t.prefixes = append(t.prefixes, prefixed{s, key})
				w = s
			}
			t.telling.add(w, key)
		}
	case "conditions.txt":
		all(t.conditions, key)
	case "legal.txt":
		all(t.legal, key)
	case "numbers.txt":
		n, err := strconv.ParseInt(key, 10, 64)
		if err != nil {
			return fmt.Errorf("%q is no number", key)
		}
		for _, w := range words {
			t.numbers[w] = n
		}
	case "words.txt":
		switch key {
		case "stop":
			some(t.stop)
		case "noise":
			all(t.noise, key)
		case "for":
			all(t.accessory, key)
		}
	case "sizes.txt":
		switch key {
		case "size":
			some(t.sizeWord)
		case "system":
			some(t.system)
		case "spelled":
			some(t.spelled)
		case "same system":
			for _, w := range words {
				if a, b, ok := strings.Cut(w, " "); ok {
					t.sameSystem[a] = b
				}
			}
		default:
			all(t.sizes, key)
		}
	case "packs.txt":
		switch key {
		case "of":
			all(t.packOf, key)
		case "link":
			some(t.link)
		case "after":
			all(t.packAfter, key)
		case "before":
			all(t.packBefore, key)
		case "several":
			all(t.several, key)
		case "parts":
			some(t.parts)
		case "always parts":
			some(t.alwaysParts)
		case "set":
			some(t.sets)
		case "times":
			some(t.times)
		default:
			if _, err := strconv.Atoi(key); err != nil {
				return fmt.Errorf("%q is none of of, link, after, before, several, parts, always parts, set, times or a number", key)
			}
			all(t.packFixed, key)
		}
	case "units.txt":
		return t.putUnit(key, words)
	default:
		return fmt.Errorf("there is no table of this name")
	}
	return nil
}

// putUnit reads the name of a line of units.txt: kind, how many of its base,
// and how it is written.
func (t *Tables) putUnit(key string, words []string) error {
	f := strings.Fields(key)
	u := unit{num: 1, den: 1}
	at := 0
	for at < len(f) && (f[at][0] < '0' || f[at][0] > '9') {
		at++
	}
	if at == 0 || at == len(f) {
		return fmt.Errorf("%q: write a kind and how many of its base one is", key)
	}
	u.kind = strings.Join(f[:at], " ")
	num, den, frac := strings.Cut(f[at], "/")
	var err error
	if u.num, err = strconv.ParseInt(num, 10, 64); err != nil {
		return err
	}
	if frac {
		if u.den, err = strconv.ParseInt(den, 10, 64); err != nil {
			return err
		}
	}
	for _, w := range f[at+1:] {
		switch w {
		case "rough":
			u.rough = true
		case "glued":
			u.glued = true
		default:
			return fmt.Errorf("%q is neither rough nor glued", w)
		}
	}
	for _, w := range words {
		name := w
		if !u.glued {
			t.unitNames.add(w, name)
		}
		t.units[name] = append(t.units[name], u)
	}
	return nil
}
