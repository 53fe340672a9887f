package feed_test

import (
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"easymargin/internal/feed"
)

// BenchmarkBig reads the file named by BIG_FEED, to profile by.
func BenchmarkBig(b *testing.B) {
	path := os.Getenv("BIG_FEED")
	if path == "" {
		b.Skip("BIG_FEED names no file")
	}
	for b.Loop() {
		began := time.Now()
		f, err := feed.Open(path, feed.Settings{})
		require.NoError(b, err)
		b.ReportMetric(time.Since(began).Seconds(), "s/open")
		n := 0
		require.NoError(b, f.Read(feed.Settings{}, func(*feed.Row) error { n++; return nil }))
		b.ReportMetric(time.Since(began).Seconds(), "s/all")
	}
}
