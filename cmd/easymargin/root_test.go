package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/actor"
	"easymargin/internal/house"
	"easymargin/internal/stops/people"
	"easymargin/internal/store"
)

// run is one call of the program.
func run(t *testing.T, stdin string, args ...string) (string, error) {
	c := root()
	var out bytes.Buffer
	c.SetIn(strings.NewReader(stdin))
	c.SetOut(&out)
	c.SetArgs(args)
	err := c.ExecuteContext(t.Context())
	return out.String(), err
}

func write(t *testing.T, name, text string) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

func TestBadLinesAreAnsweredAndTheRestStillDone(t *testing.T) {
	out, err := run(t, "{\"in\":\"9520000314002\"}\n\nnot json\n{\"in\":5}\n{\"in\":\"n/a\"}\n", "identify")
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 4)
	assert.Contains(t, lines[0], `"gtin":"09520000314002"`)
	assert.Contains(t, lines[1], `"error"`)
	assert.Contains(t, lines[2], `"error"`)
	assert.Contains(t, lines[3], `"placeholder"`)
	out, err = run(
		t,
		"{\"id\":\"a\",\"currency\":\"GBP\",\"cost\":{\"unit\":\"10.00\"},\"aims\":[{\"kind\":\"profit\",\"value\":\"1.00\"}]}\n{\"id\":\"b\",\"currency\":\"GBP\",\"cost\":{\"unit\":\"1.005\"}}\n",
		"quote",
	)
	require.NoError(t, err)
	lines = strings.Split(strings.TrimSpace(out), "\n")
	assert.Contains(t, lines[0], `"price":"11.00"`)
	assert.Contains(t, lines[1], `cost.unit`)
}

func TestALineTooLongIsAnsweredAndTheRestStillDone(t *testing.T) {
	good := `{"id":"b","currency":"GBP","cost":{"unit":"1.00"}}`
	out, err := run(t, strings.Repeat(" ", maxLine+1)+"\n"+good+"\n"+good, "quote")
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 3)
	assert.Equal(t, `{"id":null,"error":"case: a line has at most 16 MiB"}`, lines[0])
	assert.Contains(t, lines[1], `"reason":"market"`)
	assert.Equal(t, lines[1], lines[2], "the last line needs no end")
}

func TestReadTouchesNothingAndFailsPlainly(t *testing.T) {
	file := write(t, "list.csv", "ref,title,cost\nA,Mug,1.50\n")
	out, err := run(t, "", "read", file)
	require.NoError(t, err)
	assert.Equal(t, 2, strings.Count(out, "\n"))
	left, err := os.ReadDir(filepath.Dir(file))
	require.NoError(t, err)
	assert.Len(t, left, 1)
	_, err = run(t, "", "read", write(t, "empty.csv", ""))
	assert.ErrorContains(t, err, "empty")
	_, err = run(t, "", "read", filepath.Join(t.TempDir(), "none.csv"))
	assert.Error(t, err)
}

type taken struct {
	State                    string
	Rows, New, Changed, Same int64
	SetAside                 int64 `json:"set_aside"`
	Gone                     int64
	HeldFor                  []struct{ Guard string } `json:"held_for"`
}

func TestIntakeWithoutABrowser(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "new", "folder")
	take := func(text string) (taken, error) {
		out, err := run(t, "", "intake", "--data", dir, "--source", "Tidewrack", write(t, "list.csv", text))
		var got taken
		if out != "" {
			require.NoError(t, json.Unmarshal([]byte(out), &got), out)
		}
		return got, err
	}
	rows := "ref,title,cost,currency,stock\n"
	for _, r := range strings.Split("ABCDEFGHIJ", "") {
		rows += r + ",Mug " + r + ",1.50,EUR,4\n"
	}
	got, err := take(rows)
	require.NoError(t, err)
	assert.Equal(t, taken{State: "taken", Rows: 10, New: 10, HeldFor: []struct{ Guard string }{}}, got)
	got, err = take(strings.Replace(rows, "1.50", "1.60", 1))
	require.NoError(t, err)
	assert.Equal(t, [2]int64{1, 9}, [2]int64{got.Changed, got.Same})
	got, err = take(strings.Join(strings.SplitAfter(rows, "\n")[:4], ""))
	assert.ErrorIs(t, err, errHeld)
	assert.Equal(t, [2]string{"held", "rows"}, [2]string{got.State, got.HeldFor[0].Guard})
	got, err = take(strings.ReplaceAll(rows, "1.50,EUR,4", "0.80,EUR,4"))
	assert.ErrorIs(t, err, errHeld, "all costs fell by nearly half")
	assert.Equal(t, "costs together", got.HeldFor[0].Guard)
	shifted := strings.NewReplacer("Mug A", "Cup 1", "Mug B", "Pan 2", "Mug C", "Pot 3", "Mug D", "Lid 4", "Mug E", "Rod 5", "Mug F", "Peg 6", "Mug G", "Mat 7", "Mug H", "Bag 8").Replace(rows)
	got, err = take(shifted)
	assert.ErrorIs(t, err, errHeld, "most refs are another thing")
	assert.Equal(t, "identity", got.HeldFor[0].Guard)
	_, err = take("ref,title,cost,currency\nA,Mug,1.50,GBP\n")
	assert.ErrorIs(t, err, errHeld, "another currency")
	_, err = take("what is this\n")
	assert.Error(t, err)
	_, err = run(t, "", "intake", "--data", dir, "--source", "Nameless", write(t, "x.csv", "ref,title,cost\nA,Mug,1\n"))
	assert.ErrorContains(t, err, "currency")
	_, err = run(t, "", "intake", write(t, "x.csv", "a"))
	assert.ErrorContains(t, err, "--data")
	s, err := store.Open(dir)
	require.NoError(t, err)
	defer s.Close()
	found, err := s.Search(t.Context(), "mug", 50)
	require.NoError(t, err)
	assert.Len(t, found, 10, "what was taken is findable at once")
}

func TestServeAsksForWhatItNeeds(t *testing.T) {
	_, err := run(t, "", "serve")
	assert.ErrorContains(t, err, "--data")
	_, err = run(t, "", "serve", "--data", t.TempDir(), "--addr", "0.0.0.0:0")
	assert.ErrorContains(t, err, "EASYMARGIN_PASSWORD")
	_, err = run(t, "", "serve", "--data", t.TempDir(), "--addr", "nowhere")
	assert.ErrorContains(t, err, "HOST:PORT")
}

// The worked figures of docs/pricing.md hold: each case there is answered as the line after it says.
func TestThePricingPageIsTrue(t *testing.T) {
	page, err := os.ReadFile(filepath.Join("..", "..", "docs", "pricing.md"))
	require.NoError(t, err)
	var asked string
	cases := 0
	for line := range strings.Lines(string(page)) {
		if strings.HasPrefix(line, `{"id"`) {
			asked = line
			continue
		}
		if !strings.HasPrefix(line, "{") {
			continue
		}
		out, err := run(t, asked, "quote")
		require.NoError(t, err)
		var want, got map[string]any
		require.NoError(t, json.Unmarshal([]byte(line), &want))
		require.NoError(t, json.Unmarshal([]byte(out), &got))
		for key, v := range want {
			assert.Equal(t, v, got[key], "%s of %s", key, asked)
		}
		cases++
	}
	assert.GreaterOrEqual(t, cases, 8)
}

func TestPlanCheckBackupAndRestore(t *testing.T) {
	dir, copied := filepath.Join(t.TempDir(), "data"), filepath.Join(t.TempDir(), "copy.db")
	_, err := run(t, "", "intake", "--data", dir, "--source", "Fernhollow", write(t, "list.csv", "ref,title,cost,stock\nA,Mug,£1.50,3\n"))
	require.NoError(t, err)
	lines := filepath.Join(t.TempDir(), "lines.jsonl")
	out, err := run(t, "", "plan", "--data", dir, "--lines", lines, "--send")
	require.NoError(t, err)
	var plan map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &plan))
	for _, key := range []string{"lines", "go", "held", "blocked", "to_zero", "price_up", "price_down", "sent"} {
		assert.Equal(t, float64(0), plan[key], key)
	}
	assert.Contains(t, plan, "seconds")
	assert.FileExists(t, lines)

	out, err = run(t, "", "check", "--data", dir)
	require.NoError(t, err)
	for _, row := range strings.Split(strings.TrimSpace(out), "\n") {
		assert.Contains(t, row, `"ok":true`)
	}
	_, err = run(t, "", "backup", "--data", dir, copied)
	require.NoError(t, err)
	_, err = run(t, "", "backup", "--data", dir, copied)
	assert.ErrorContains(t, err, "overwrites nothing")
	_, err = run(t, "", "restore", "--data", dir, copied)
	assert.ErrorContains(t, err, "--overwrite")
	out, err = run(t, "", "restore", "--data", dir, copied, "--overwrite")
	require.NoError(t, err)
	assert.Contains(t, out, "before-restore")
	_, err = run(t, "", "check", "--data", dir)
	assert.NoError(t, err)
	for _, args := range [][]string{{"plan"}, {"check"}, {"backup", copied}, {"restore", copied}} {
		_, err := run(t, "", args...)
		assert.ErrorContains(t, err, "--data", args[0])
	}
	_, err = run(t, "", "check", "--data", filepath.Join(dir, "none"))
	assert.ErrorContains(t, err, "there is no folder")
}

func TestFollowAnswersALineEach(t *testing.T) {
	out, err := run(t, "{\"id\":\"a\"}\nnot json\n", "follow")
	require.NoError(t, err)
	assert.Equal(t, 2, strings.Count(out, `"error"`))
	assert.Contains(t, out, `{"id":"a","error":"now: is missing"}`)
}

func TestListingAnswersALineEach(t *testing.T) {
	const one = `{"id":"a","currency":"GBP","needs":{"title":{"limit":20}},"values":{"sku":"A","title":"Mug","price":"1.00"}}`
	out, err := run(t, one+"\n"+strings.Replace(one, `"limit":20`, `"limit":2`, 1)+"\nnot json\n"+one+"\n", "listing")
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 4)
	assert.Contains(t, lines[0], `"problems":[],"needed":[2,2]`)
	assert.Contains(t, lines[1], `"code":"too long"`, "what one asks for isn't taken for another's")
	assert.Contains(t, lines[2], `{"id":null,"error":`)
	assert.Equal(t, lines[0], lines[3])
}

// A lost password is given anew from the command line: to whoever is named, or to the
// one person there is; what can't be is said, and then nothing changes.
func TestAPasswordIsGivenAnew(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(dir)
	require.NoError(t, err)
	team := house.New(house.Options{Store: s}).People
	_, err = team.Reset(t.Context(), "", "tide and marsh")
	require.NoError(t, err)
	_, err = team.Join(t.Context(), people.PersonText{Name: "Wren", Role: "look", Active: true, Password: "salt and sand"})
	require.NoError(t, err)
	wren := actor.Who{Person: 2, Name: "Wren", Role: "look", May: actor.Look}
	token, _, err := team.Enter(t.Context(), wren, "a browser", "")
	require.NoError(t, err)
	script, err := team.Give(actor.Enter(t.Context(), wren), people.TokenText{Name: "nightly", Scope: "look"})
	require.NoError(t, err)
	require.NoError(t, s.Close())

	out, err := run(t, "from the shell\n", "password", "--data", dir, "wren")
	require.NoError(t, err)
	assert.Contains(t, out, "Wren has a new password")
	assert.NotContains(t, out, "from the shell")
	for want, args := range map[string][]string{
		`nobody called "Tern" works here`: {"password", "--data", dir, "Tern"},
		"say whose password":              {"password", "--data", dir},
		"8 characters or more":            {"password", "--data", dir, "owner"},
		"there is no folder":              {"password", "--data", dir + "/none"},
	} {
		input := "long enough\n"
		if strings.HasPrefix(want, "8") {
			input = "short\n"
		}
		_, err := run(t, input, args...)
		assert.ErrorContains(t, err, want)
	}

	s, err = store.Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	after := house.New(house.Options{Store: s}).People
	_, known := after.ByCookie(t.Context(), token)
	assert.False(t, known, "her log-in has ended")
	_, known = after.ByToken(t.Context(), script.Token)
	assert.False(t, known, "and her token")
	try := func(name, password string) error {
		_, err := after.Check(t.Context(), people.Try{From: name + password, Name: name, Password: password})
		return err
	}
	assert.NoError(t, try("Wren", "from the shell"))
	assert.NoError(t, try("owner", "tide and marsh"), "hers is as it was")
	assert.Error(t, try("Wren", "salt and sand"))
}
