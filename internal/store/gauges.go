package store

import (
	"context"
	"fmt"
	"time"
)

// Gauges are the figures by which a program that watches us sees whether the work goes
// on: no money, no buyers, no names but those of sources.
type Gauges struct {
	Runs    []RunGauge
	Feeds   []FeedGauge
	Waiting int64      // lines let go that wait to be handed over
	Handed  int64      // lines handed over that wait for their answer
	Since   *time.Time // when the oldest of both was let go
	Marked  int64      // listings that wait to be worked out
	Mails   int64      // mails that wait
}

// RunGauge counts the runs of a kind that are in a state.
type RunGauge struct {
	Kind, State string
	N           int64
}

// FeedGauge is when a source was taken last.
type FeedGauge struct {
	Source  string
	TakenAt *time.Time
}

// Gauges reads the figures as they are now.
func (s *Store) Gauges(ctx context.Context) (g Gauges, err error) {
	db := s.read.WithContext(ctx)
	for _, q := range []struct {
		sql  string
		into any
	}{
		{"SELECT kind, state, count(*) AS n FROM runs GROUP BY 1, 2", &g.Runs},
		{"SELECT name AS source, taken_at FROM sources", &g.Feeds},
		{"SELECT count(*) FROM send_lines WHERE state = 'waiting'", &g.Waiting},
		{"SELECT count(*) FROM send_lines WHERE state = 'sent'", &g.Handed},
		{"SELECT count(*) FROM dirties", &g.Marked},
		{"SELECT count(*) FROM mails WHERE sent_at IS NULL AND refused_at IS NULL", &g.Mails},
	} {
		if err := db.Raw(q.sql).Scan(q.into).Error; err != nil {
			return g, fmt.Errorf("reading the figures to watch: %w", err)
		}
	}
	var oldest []SendOut
	err = db.Raw("SELECT o.* FROM send_outs o WHERE EXISTS (SELECT 1 FROM send_lines x WHERE x.send_out_id = o.id AND x.state IN ('waiting', 'sent')) ORDER BY o.id LIMIT 1").Scan(&oldest).Error
	if len(oldest) > 0 {
		g.Since = &oldest[0].CreatedAt
	}
	return g, err
}

// Ready tells whether the data can be read, and written when a write comes.
func (s *Store) Ready(ctx context.Context) error {
	return s.read.WithContext(ctx).Exec("SELECT 1 FROM suppliers LIMIT 1").Error
}
