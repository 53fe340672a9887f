package sieve_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/sieve"
)

var columns = []sieve.Column{
	{Name: "landed", Kind: sieve.Amount}, {Name: "profit", Kind: sieve.Amount, Follows: true}, {Name: "margin", Kind: sieve.Share, Follows: true},
	{Name: "sellers", Kind: sieve.Count}, {Name: "rating", Kind: sieve.Rating}, {Name: "title", Kind: sieve.Text}, {Name: "brand", Kind: sieve.Name},
	{Name: "ours", Kind: sieve.Truth},
}

type facts map[string]any

func (f facts) Number(c string) (int64, bool) { n, ok := f[c].(int); return int64(n), ok }
func (f facts) Words(c string) (string, bool) { s, ok := f[c].(string); return s, ok }

func holds(t require.TestingT, text string, f facts) bool {
	s, err := sieve.Read(text)
	require.NoError(t, err, text)
	tests, err := s.Ready(columns, "GBP")
	require.NoError(t, err, text)
	return tests.Holds(f)
}

func TestConditions(t *testing.T) {
	kettle := facts{"landed": 1240, "profit": -35, "margin": 182_000, "sellers": 3, "rating": 450, "title": "Tarnwick Fell kettle, enamel", "brand": "Tarnwick", "ours": 0}
	for text, want := range map[string]bool{
		``:   true,
		`[]`: true,
		`[{"column":"landed","op":"above","values":["12.39"]}]`:                                                                           true,
		`[{"column":"landed","op":"above","values":["12.40"]}]`:                                                                           false,
		`[{"column":"landed","op":"below","values":["12.41"]}]`:                                                                           true,
		`[{"column":"landed","op":"between","values":["20","12.40"]}]`:                                                                    true,
		`[{"column":"profit","op":"below","values":["−0.30"]}]`:                                                                           true,
		`[{"column":"margin","op":"above","values":["18%"]}]`:                                                                             true,
		`[{"column":"margin","op":"above","values":["18.5"]}]`:                                                                            false,
		`[{"column":"rating","op":"above","values":["4.4"]}]`:                                                                             true,
		`[{"column":"rating","op":"above","values":["4.5"]}]`:                                                                             false,
		`[{"column":"sellers","op":"is not","values":["3"]}]`:                                                                             false,
		`[{"column":"title","op":"has words","values":["kett enamel"]}]`:                                                                  true,
		`[{"column":"title","op":"has words","values":["steel"]}]`:                                                                        false,
		`[{"column":"brand","op":"one of","values":["Fellgrove","tarnwick"]}]`:                                                            true,
		`[{"column":"brand","op":"is not","values":["Tarnwick"]}]`:                                                                        false,
		`[{"column":"ours","op":"is","values":["no"]}]`:                                                                                   true,
		`[{"column":"ours","op":"is","values":["yes"]},{"column":"landed","op":"filled"}]`:                                                false,
		`[[{"column":"ours","op":"is","values":["yes"]},{"column":"landed","op":"filled"}]]`:                                              true,
		`[[{"column":"ours","op":"is","values":["yes"]},{"column":"sellers","op":"is","values":["3"]}],{"column":"brand","op":"filled"}]`: true,
	} {
		assert.Equal(t, want, holds(t, text, kettle), text)
	}
}

// What isn't known is blank, never zero: it holds no comparison.
func TestWhatIsntKnown(t *testing.T) {
	for text, want := range map[string]bool{
		`[{"column":"sellers","op":"below","values":["5"]}]`:   false,
		`[{"column":"sellers","op":"above","values":["-1"]}]`:  false,
		`[{"column":"sellers","op":"empty"}]`:                  true,
		`[{"column":"sellers","op":"filled"}]`:                 false,
		`[{"column":"sellers","op":"is not","values":["3"]}]`:  true,
		`[{"column":"brand","op":"is","values":[""]}]`:         false,
		`[{"column":"brand","op":"empty"}]`:                    true,
		`[{"column":"title","op":"has words","values":["a"]}]`: false,
	} {
		assert.Equal(t, want, holds(t, text, facts{}), text)
	}
}

func TestWhatIsWrongIsSaidByItsPlace(t *testing.T) {
	for text, want := range map[string]string{
		`[{"column":"nothing","op":"is","values":["1"]}]`:                                                   "condition 1, nothing: there is no such column",
		`[{"column":"ours","op":"is","values":["no"]},{"column":"landed","op":"has words","values":["x"]}]`: `condition 2, landed: it can't be asked whether it is "has words"`,
		`[{"column":"landed","op":"above"}]`:                                                                `condition 1, landed: "above" takes one value`,
		`[{"column":"landed","op":"between","values":["1"]}]`:                                               `condition 1, landed: "between" takes 2 values`,
		`[{"column":"landed","op":"above","values":["cheap"]}]`:                                             `condition 1, landed: "cheap" is not an amount in GBP`,
		`[{"column":"margin","op":"above","values":["much"]}]`:                                              `condition 1, margin: "much" is not a percentage`,
		`[{"column":"rating","op":"above","values":["4.55x"]}]`:                                             `condition 1, rating: "4.55x" is not a rating such as 4.5`,
		`[{"column":"sellers","op":"above","values":["2.5"]}]`:                                              `condition 1, sellers: "2.5" is not a whole number`,
		`[{"column":"ours","op":"is","values":["maybe"]}]`:                                                  `condition 1, ours: "maybe" is neither yes nor no`,
		`[{"column":"title","op":"has words","values":["  "]}]`:                                             "condition 1, title: write the words it has",
	} {
		s, err := sieve.Read(text)
		require.NoError(t, err)
		_, err = s.Ready(columns, "GBP")
		assert.EqualError(t, err, want)
	}
	for _, text := range []string{`{}`, `[1]`, `[{"column":5}]`, `nonsense`} {
		_, err := sieve.Read(text)
		assert.Error(t, err, text)
	}
	many := make(sieve.Sieve, 41)
	for i := range many {
		many[i] = sieve.Any{{Column: "ours", Op: sieve.Is, Values: []string{"no"}}}
	}
	_, err := many.Ready(columns, "GBP")
	assert.ErrorContains(t, err, "at most 40")
}

// A rule's sieve may look at facts alone: not at what would follow from itself.
func TestFactsOnly(t *testing.T) {
	s := sieve.Sieve{{{Column: "landed", Op: sieve.Filled}}, {{Column: "brand", Op: sieve.Filled}, {Column: "margin", Op: sieve.Filled}}}
	assert.Equal(t, "margin", s.FactsOnly(columns))
	assert.Empty(t, s[:1].FactsOnly(columns))
}

// More conditions let less through, more of any let more, and a sieve written
// down and read again is the same.
func TestASieveNarrows(t *testing.T) {
	one := rapid.Custom(func(t *rapid.T) sieve.Condition {
		return rapid.SampledFrom([]sieve.Condition{
			{Column: "landed", Op: sieve.Above, Values: []string{"5.00"}}, {Column: "landed", Op: sieve.Below, Values: []string{"9.00"}},
			{Column: "sellers", Op: sieve.Empty}, {Column: "brand", Op: sieve.Is, Values: []string{"A"}}, {Column: "ours", Op: sieve.Is, Values: []string{"yes"}},
		}).Draw(t, "condition")
	})
	rapid.Check(t, func(t *rapid.T) {
		f := facts{}
		if rapid.Bool().Draw(t, "landed known") {
			f["landed"] = rapid.IntRange(0, 1500).Draw(t, "landed")
		}
		if rapid.Bool().Draw(t, "brand known") {
			f["brand"] = rapid.SampledFrom([]string{"A", "B"}).Draw(t, "brand")
		}
		s := sieve.Sieve{rapid.SliceOfN(one, 1, 3).Draw(t, "any")}
		through := func(s sieve.Sieve) bool {
			tests, err := s.Ready(columns, "GBP")
			require.NoError(t, err)
			return tests.Holds(f)
		}
		more := one.Draw(t, "one more")
		if through(append(s[:1:1], sieve.Any{more})) {
			assert.True(t, through(s))
		}
		if through(s) {
			assert.True(t, through(sieve.Sieve{append(s[0][:len(s[0]):len(s[0])], more)}))
		}
		text, err := json.Marshal(s)
		require.NoError(t, err)
		again, err := sieve.Read(string(text))
		require.NoError(t, err)
		assert.Equal(t, s, again)
	})
}

// Without a currency it is only checked, whatever amounts it takes.
func TestASieveOfAnyCurrency(t *testing.T) {
	for text, wrong := range map[string]string{
		`[{"column":"landed","op":"above","values":["12.395"]}]`:  "",
		`[{"column":"landed","op":"above","values":["12.3951"]}]`: `condition 1, landed: "12.3951" is not an amount`,
		`[{"column":"landed","op":"above","values":["dear"]}]`:    `condition 1, landed: "dear" is not an amount`,
	} {
		s, err := sieve.Read(text)
		require.NoError(t, err)
		if _, err = s.Ready(columns, ""); wrong == "" {
			assert.NoError(t, err)
		} else {
			assert.EqualError(t, err, wrong)
		}
	}
}
