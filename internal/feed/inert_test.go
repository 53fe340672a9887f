package feed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/internal/feed"
)

func TestWhatASpreadsheetMightCalculateIsInert(t *testing.T) {
	for _, cell := range []string{"=1+1", "+1", "-1", "@SUM(A1)", " =1", "\t=1", "\r=1", "\n=1", "\ufeff=1", "\u200b=1", "\u00a0=1", "＝1", "＋1", "－1", "＠x", " \u3000＝1", "\x00=1", "\u0301=1", "'=1"} {
		assert.Equal(t, "'"+cell, feed.Inert(cell), "%q", cell)
	}
	for _, cell := range []string{"", "mug", "a=1", "1-1", "'quoted'", "£-5", "mug\t=1"} {
		assert.Equal(t, cell, feed.Inert(cell), "%q", cell)
	}
	text := rapid.OneOf(rapid.String(), rapid.StringOf(rapid.SampledFrom([]rune("='+-@ \t＝\u200bx"))))
	rapid.Check(t, func(t *rapid.T) {
		cell := text.Draw(t, "cell")
		assert.Equal(t, cell, feed.Plain(feed.Inert(cell)), "what was made inert reads back as it was")
	})
}
