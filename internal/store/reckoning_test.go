package store

import (
	"math"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A page of a long list is found by the id it begins after: were it found by
// what all of the list have, every page would go through the whole of it.
func TestAPageOfALongListIsFoundByItsID(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	plan := func(query string, args ...any) string {
		var steps []struct{ Detail string }
		require.NoError(t, s.read.Raw("EXPLAIN QUERY PLAN "+query, args...).Scan(&steps).Error)
		text := ""
		for _, x := range steps {
			text += x.Detail + "\n"
		}
		return text
	}
	now := time.Now()
	all := Asked{Results: true, Offers: true, Sizes: true, DayAgo: now}
	for name, c := range map[string]struct {
		plan, table string
		sorted      bool // it is put in order page by page
	}{
		"some listings":     {plan(all.query(someOf), now, listOf([]int64{1, 2})), "listings", true},
		"range of listings": {plan(Asked{}.query(rangeOfSite), 1, 100, 200), "listings", false},
		"rivals":            {plan(listedEntriesPage, 1, 100, now, 200), "l", false},
		"to be matched":     {plan(unmatchedPage, 1, 100, 200), "sp", false},
		"pictures":          {plan(unpicturedPage, 100, 200), "sp", false},
	} {
		found := regexp.MustCompile("SEARCH " + c.table + ` USING INTEGER PRIMARY KEY \(rowid[>=]\?`)
		assert.Regexp(t, found, c.plan, name)
		assert.NotRegexp(t, `SCAN (listings|entries|products|supplier_products|supply_links|matches|[ekpmu]|sp)\b|AUTOMATIC`, c.plan, name)
		if !c.sorted {
			assert.NotContains(t, c.plan, "TEMP B-TREE FOR ORDER BY", "%s:\n%s", name, c.plan)
		}
	}
	for _, f := range []ListingFilter{{States: []string{"live"}}, {SiteID: 1}, {Words: "mug", SiteID: 1, States: []string{"live"}}} {
		for sort, index := range map[string]string{"title": "products_by_title", "price": "listings_by_price", "landed": "listings_by_landed", "quantity": "listings_by_quantity"} {
			q := f.query(Page{Sort: sort})
			text := plan("SELECT l.id FROM "+q.from+" ORDER BY "+q.sorts[sort]+" LIMIT 200", q.args...)
			assert.Contains(t, text, index, "%+v is walked in its order", f)
			assert.NotContains(t, text, "_state", "%+v by %s:\n%s", f, sort, text)
		}
	}
	few := ListingFilter{States: []string{"refused"}}.query(Page{})
	assert.Contains(
		t,
		plan("SELECT l.id FROM "+few.few, few.args...),
		"listings_by_state (state=?)",
		"few are found by what they have in common",
	)
	assert.Contains(
		t,
		plan("SELECT * FROM listings WHERE site_id = ? AND entry_id = ? LIMIT 1", 1, 1),
		"listing_entry (entry_id=? AND site_id=?)",
	)
}

// What SQLite writes as an array is read back as it was, whatever the text.
func TestRowsAsArraysReadBack(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	text := rapid.OneOf(
		rapid.String(),
		rapid.SampledFrom(
			[]string{"", `"`, `\`, `\"`, "null", "a,b]", "line\nbreak\ttab", "\x00\x1f\x7f", "½ kg", "\u2028", "😀", `{"a":"\\"}`, "=1+1"},
		),
	)
	rapid.Check(t, func(t *rapid.T) {
		a, b, flag := rapid.Int64().Draw(t, "a"), rapid.Int64().Draw(t, "b"), rapid.Bool().Draw(t, "flag")
		one, two, there := text.Draw(t, "one"), text.Draw(t, "two"), rapid.Bool().Draw(t, "there")
		var may *int64
		if there {
			may = &b
		}
		var line string
		require.NoError(t, s.read.Raw(asArray("?, ?, ?, ?, ?, ?"), a, one, may, flag, two, math.MinInt64).Row().Scan(&line))
		var gotA, least int64
		gotMay, gotFlag, gotOne, gotTwo := new(int64), !flag, "x", "x"
		require.NoError(t, fromArray(line, []any{&gotA, &gotOne, &gotMay, &gotFlag, &gotTwo, &least}), line)
		assert.Equal(t, []any{a, one, may, flag, two, int64(math.MinInt64)}, []any{gotA, gotOne, gotMay, gotFlag, gotTwo, least}, line)
	})
}

func TestRowsThatAreNotWhatWasAskedFor(t *testing.T) {
	for text, words := range map[string]string{
		``:                         "value 1 of 2 is not there",
		`[`:                        "value 1 of 2 is not there",
		`[1`:                       "without an end",
		`[1]`:                      "value 2 of 2 is not there",
		`["a","b"]`:                "a text for *int64",
		`[1,2]`:                    "2 for *string",
		`[null,"b"]`:               "null",
		`[1.5,"b"]`:                "1.5",
		`[1,"b`:                    "a text without an end",
		`[1,"b\"]`:                 "a text without an end",
		`[1,"b",3]`:                "more than 2 values",
		`[1,"\q"]`:                 "invalid character",
		`[9223372036854775808,""]`: "out of range",
	} {
		var n int64
		var s string
		err := fromArray(text, []any{&n, &s})
		if assert.Error(t, err, text) {
			assert.True(t, strings.Contains(err.Error(), words), "%s: %v", text, err)
		}
	}
}
