package money_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
)

func TestNumbersAsPeopleTypeThem(t *testing.T) {
	for text, want := range map[string]string{
		"12.40": "12.40", "12,40": "12.40", "0,35": "0.35", ",5": "0.5", ".5": "0.5", "1 234,50": "1234.50", "1\u00a0234,50": "1234.50", "1.234,50": "1234.50",
		"1,234.50": "1234.50", "1'234.50": "1234.50", "1’234’567": "1234567", "1.234.567": "1234567", "1,234,567": "1234567", "−0,35": "-0.35", "- 5": "-5", " 7 ": "7",
		"0,125": "0.125", "0.125": "0.125", "1234,567": "1234.567", "12,5": "12.5", "12,3456": "12.3456", "1 234": "1234",
	} {
		got, err := money.Typed(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "-", "a tenner", "12,5,0", "1,23.4.5", "12.", "1 23", "12 34,5", "1'234 567", "1.234'567", "12,40 €", "1e3", "٣"} {
		_, err := money.Typed(text)
		assert.Error(t, err, text)
	}
	for _, text := range []string{"1,234", "1.234", "12,500"} {
		_, err := money.Typed(text)
		assert.ErrorContains(t, err, "may be", text)
	}
}

// What is written plainly is read as it is, but for what may be thousands.
func TestPlainNumbersStay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`-?(0|[1-9][0-9]{0,8})(\.[0-9]{1,2}|\.[0-9]{4})?`).Draw(t, "text")
		got, err := money.Typed(text)
		require.NoError(t, err)
		assert.Equal(t, text, got)
		comma, err := money.Typed(strings.Replace(text, ".", ",", 1))
		require.NoError(t, err)
		assert.Equal(t, text, comma)
	})
}
