package house

import (
	"context"
	"log/slog"
	"net/http"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// Metrics answers with figures in Prometheus' text format: docs/operating.md names
// them. They are read when they are asked for.
func (h *House) Metrics() http.Handler {
	r := prometheus.NewRegistry()
	r.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), gauges{h})
	return promhttp.HandlerFor(r, promhttp.HandlerOpts{})
}

// gauges collects what the data says.
type gauges struct{ h *House }

var (
	runsGauge    = prometheus.NewDesc("easymargin_runs", "Runs that are kept, by kind and state.", []string{"kind", "state"}, nil)
	feedGauge    = prometheus.NewDesc("easymargin_feed_age_seconds", "Since a source's feed was taken last.", []string{"source"}, nil)
	linesGauge   = prometheus.NewDesc("easymargin_lines", "Lines let go: waiting to be handed over, or handed over and not answered.", []string{"state"}, nil)
	oldestGauge  = prometheus.NewDesc("easymargin_oldest_line_seconds", "Since the oldest of these lines was let go; 0 where there is none.", nil, nil)
	markedGauge  = prometheus.NewDesc("easymargin_listings_marked", "Listings that wait to be worked out.", nil, nil)
	mailsGauge   = prometheus.NewDesc("easymargin_mails_waiting", "Mails that wait to be taken.", nil, nil)
	everyGauge   = []*prometheus.Desc{runsGauge, feedGauge, linesGauge, oldestGauge, markedGauge, mailsGauge}
	gaugeFailure = prometheus.NewDesc("easymargin_data_unreadable", "1 where the figures could not be read.", nil, nil)
)

// Describe implements prometheus.Collector.
func (g gauges) Describe(to chan<- *prometheus.Desc) {
	for _, d := range append(everyGauge, gaugeFailure) {
		to <- d
	}
}

// Collect implements prometheus.Collector.
func (g gauges) Collect(to chan<- prometheus.Metric) {
	put := func(d *prometheus.Desc, v float64, labels ...string) {
		to <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, v, labels...)
	}
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	x, err := g.h.Store.Gauges(ctx)
	if err != nil {
		slog.Error("the figures to watch can't be read", "error", err)
		put(gaugeFailure, 1)
		return
	}
	put(gaugeFailure, 0)
	now := g.h.Now()
	for _, r := range x.Runs {
		put(runsGauge, float64(r.N), r.Kind, r.State)
	}
	seen := map[string]bool{}
	for _, f := range x.Feeds {
		if f.TakenAt != nil && !seen[f.Source] { // a name given twice is one series
			seen[f.Source] = true
			put(feedGauge, now.Sub(*f.TakenAt).Seconds(), f.Source)
		}
	}
	put(linesGauge, float64(x.Waiting), "waiting")
	put(linesGauge, float64(x.Handed), "handed over")
	oldest := 0.0
	if x.Since != nil {
		oldest = now.Sub(*x.Since).Seconds()
	}
	put(oldestGauge, oldest)
	put(markedGauge, float64(x.Marked))
	put(mailsGauge, float64(x.Mails))
}
