package store

import (
	"context"
	"slices"
	"time"
)

// Away is what happened since a moment.
type Away struct {
	Orders    int64 // lines that were sold
	Feeds     int64 // taken
	Held      int64 // feeds that came, and wait
	Confirmed int64 // changes that places said yes to
	Refused   int64
	Costs     int64 // of suppliers' products that moved
	Gone      int64 // that went to no stock, or are gone
	Hits      int64 // watches that were set off
}

// SinceThen counts what happened since a moment.
func (s *Store) SinceThen(ctx context.Context, since time.Time) (Away, error) {
	var out Away
	err := s.read.WithContext(ctx).Raw(`SELECT
		(SELECT count(*) FROM order_lines x JOIN orders o ON o.id = x.order_id WHERE o.seen_at > @t) AS orders,
		(SELECT count(*) FROM feeds WHERE taken_at > @t) AS feeds,
		(SELECT count(*) FROM feeds WHERE state = 'held' AND received_at > @t) AS held,
		(SELECT count(*) FROM send_lines WHERE state = 'confirmed' AND answered_at > @t) AS confirmed,
		(SELECT count(*) FROM send_lines WHERE state = 'refused' AND answered_at > @t) AS refused,
		(SELECT count(*) FROM supplier_changes c JOIN feeds f ON f.id = c.feed_id WHERE f.taken_at > @t AND c.field = 'cost') AS costs,
		(SELECT count(*) FROM supplier_changes c JOIN feeds f ON f.id = c.feed_id WHERE f.taken_at > @t
			AND (c.field = 'listed' AND c.after = 'gone' OR c.field = 'stock' AND c.after = '0')) AS gone,
		(SELECT count(*) FROM watch_hits WHERE at > @t) AS hits`, map[string]any{"t": since}).Scan(&out).Error
	return out, err
}

// Coming is something that happens by itself at a time.
type Coming struct {
	Kind string // feed, light file, send-out, fees
	Name string
	At   time.Time
}

// Comes is what happens by itself next, the next first.
func (s *Store) Comes(ctx context.Context, now time.Time, most int) ([]Coming, error) {
	var rows []struct {
		Kind, Name string
		At         time.Time
		Every      int64
	}
	err := s.read.WithContext(ctx).Raw(`SELECT 'feed' AS kind, name, tried_at AS at, every FROM sources WHERE every > 0 AND tried_at IS NOT NULL
		UNION ALL SELECT 'light file', name, due_at, 0 FROM light_files WHERE due_at IS NOT NULL
		UNION ALL SELECT 'send-out', s.name, o.again_at, 0 FROM send_outs o JOIN sites s ON s.id = o.site_id WHERE o.state = 'waiting' AND o.again_at > ?`, now).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	var out []Coming
	for _, r := range rows {
		out = append(out, Coming{r.Kind, r.Name, r.At.Add(time.Duration(r.Every) * time.Minute)})
	}
	var fees []struct{ Name, StartsOn string }
	err = s.read.WithContext(ctx).Raw(`SELECT DISTINCT m.name, f.starts_on FROM fee_schedules f JOIN sites s ON s.id = f.site_id JOIN marketplaces m ON m.id = s.marketplace_id WHERE f.starts_on > ? AND f.starts_on <= ?
		AND EXISTS (SELECT 1 FROM listings l WHERE l.site_id = s.id)`, now.Format(time.DateOnly), now.AddDate(0, 0, 45).Format(time.DateOnly)).Scan(&fees).Error
	for _, f := range fees {
		if day, err := time.Parse(time.DateOnly, f.StartsOn); err == nil {
			out = append(out, Coming{"fees", f.Name, day})
		}
	}
	slices.SortFunc(out, func(a, b Coming) int { return a.At.Compare(b.At) })
	return out[:min(len(out), most)], err
}
