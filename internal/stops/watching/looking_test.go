package watching

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/store"
)

func TestWhatSetsAWatchOff(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	below, above, moved := store.Watch{Number: "stock", Test: "below", Value: 5}, store.Watch{Number: "stock", Test: "above", Value: 5},
		store.Watch{Number: "cost", Test: "moved", Value: 100_000}
	for name, c := range map[string]struct {
		w    store.Watch
		x    store.Watched
		hit  bool
		kept bool
	}{
		"it holds already at the first look": {below, store.Watched{Value: n(3)}, false, true},
		"it begins to hold":                  {below, store.Watched{Value: n(4), Before: n(5), Known: true}, true, true},
		"the value itself is not below":      {below, store.Watched{Value: n(5), Before: n(6), Known: true}, false, true},
		"nor above":                          {above, store.Watched{Value: n(5), Before: n(4), Known: true}, false, true},
		"above":                              {above, store.Watched{Value: n(6), Before: n(5), Known: true}, true, true},
		"it goes on holding":                 {below, store.Watched{Value: n(3), Before: n(4), Known: true, Held: true}, false, true},
		"nothing is new":                     {below, store.Watched{Value: n(3), Before: n(3), Known: true, Held: true}, false, false},
		"it isn't known any more":            {below, store.Watched{Before: n(3), Known: true, Held: true}, false, true},
		"it moved by a tenth and no more":    {moved, store.Watched{Value: n(1100), Before: n(1000), Known: true}, false, true},
		"it moved by more":                   {moved, store.Watched{Value: n(1101), Before: n(1000), Known: true}, true, true},
		"it fell by more":                    {moved, store.Watched{Value: n(899), Before: n(1000), Known: true}, true, true},
		"it moved again":                     {moved, store.Watched{Value: n(1300), Before: n(1100), Known: true, Held: true}, true, true},
		"it stays where it moved to":         {moved, store.Watched{Value: n(1300), Before: n(1300), Known: true, Held: true}, false, true},
	} {
		got := judge(&c.w, []store.Watched{c.x})
		assert.Equal(t, c.hit, len(got.hits) == 1, name)
		assert.Equal(t, c.kept, len(got.values) == 1, name)
	}
}

func TestNumbersAsPeopleWriteThem(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	for _, c := range []struct {
		name, currency, want string
		v                    *int64
	}{
		{"cost", "GBP", "12.40 GBP", n(1240)},
		{"profit", "JPY", "-30 JPY", n(-30)},
		{"stock", "", "3 units", n(3)},
		{"feed age", "", "49 hours", n(49)},
		{"margin", "", "12.3%", n(123_456)},
		{"rating", "", "4.05", n(405)},
		{"", "GBP", "-2.34 GBP", n(-234)},
		{"cost", "GBP", "", nil},
	} {
		assert.Equal(t, c.want, figure(c.name, c.v, c.currency), c.name)
	}
}

func TestOneMailSaysWhatSetEachWatchOff(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	at := time.Date(2026, 3, 3, 7, 0, 0, 0, time.UTC)
	hit := func(watch, words string) store.WatchHitRow {
		return store.WatchHitRow{WatchHit: store.WatchHit{Words: words, Link: "/watch", At: at, Currency: "GBP", Before: n(1000), After: n(1200)}, Watch: watch, Number: "cost"}
	}
	two := []store.WatchHitRow{hit("Costs", "a mug\nBcc: x"), hit("Costs", "a kettle")}
	text := body(two, true, "http://127.0.0.1:8640/")
	assert.Equal(t, 1, strings.Count(text, "Costs\n"), "a watch is named once")
	assert.Contains(t, text, "07:00  a mug Bcc: x: 12.00 GBP, was 10.00 GBP\n         http://127.0.0.1:8640/watch\n")
	assert.Contains(t, text, "More came at the same time")
	assert.NotContains(t, body(two, false, ""), "http://")
	assert.Equal(t, "Easy Margin: 2 things you watch", subject(two))
	assert.Equal(t, "Easy Margin: Costs", subject(two[:1]))
	require.Equal(t, "saltmarsh.example", domain("Shop <owner@saltmarsh.example>"))
	assert.Empty(t, domain("nobody"))
}
