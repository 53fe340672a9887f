// Package house puts the stops together over one folder of data: the store, the
// queue of runs, the places, and what is done by itself. The edge, the command
// line, the demo and the tests stand on it.
package house

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/netip"
	"net/url"
	"sync"
	"time"

	"github.com/go-co-op/gocron/v2"

	"easymargin/internal/fetch"
	"easymargin/internal/place"
	"easymargin/internal/place/files"
	"easymargin/internal/place/gateway"
	"easymargin/internal/place/sheets"
	"easymargin/internal/shop"
	"easymargin/internal/stops"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/orders"
	"easymargin/internal/stops/people"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/products"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/today"
	"easymargin/internal/stops/watching"
	"easymargin/internal/stops/weighing"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Options say what a house is made of. Store is needed; the rest has defaults.
type Options struct {
	Store *store.Store
	Now   func() time.Time // the time the application goes by; the demo's is its own
	Clock func() time.Time // the real time
	// Gateway says how patient the clients of marketplaces are.
	Gateway gateway.Options
	// Allow lists host:port pairs that may be fetched from though they are private.
	Allow []string
	// Folders are those that files may be read from and put into, name → path.
	Folders map[string]string
	// Names are hosts that are reached at an address of this machine: stand-ins.
	Names map[string]string
	// FirstPause is how long a supplier's address that failed is left alone, growing from there.
	FirstPause time.Duration
	// Poll is how soon a batch is asked about, growing from there.
	Poll time.Duration
	// Stall is how long an upload may bring nothing before it is given up.
	Stall      time.Duration
	NoPictures bool
	Password   string // the owner's until she keeps one of her own; "": none
	Elsewhere  bool   // reached from other machines: a password is asked for
	Fell       bool   // the program ended by its own doing last time, see package crash
}

func (o *Options) fill() {
	if o.Clock == nil {
		o.Clock = time.Now
	}
	if o.Now == nil {
		o.Now = o.Clock
	}
	if o.FirstPause == 0 {
		o.FirstPause = time.Second
	}
	if o.Poll == 0 {
		o.Poll = 400 * time.Millisecond
	}
	if o.Stall == 0 {
		o.Stall = time.Minute
	}
}

// House is the stops over one folder of data. It is safe for many goroutines.
type House struct {
	Store  *store.Store
	Queue  *work.Queue
	Events *stops.Hub
	Fetch  *fetch.Fetcher
	Now    func() time.Time

	Sources   *sources.Stop
	Matching  *matching.Stop
	Places    *places.Stop
	Weighing  *weighing.Stop
	Prices    *prices.Stop
	Preparing *preparing.Stop
	Sending   *sending.Stop
	Orders    *orders.Stop
	Watching  *watching.Stop
	Products  *products.Stop
	Today     *today.Stop
	People    *people.Stop

	fell bool
	end  context.CancelFunc
	wg   sync.WaitGroup
}

// New makes a house. Nothing is done in the background before Start.
func New(o Options) *House {
	o.fill()
	now := func() time.Time { return o.Now().UTC() } // times are compared as they are kept: in one zone
	h := &House{Store: o.Store, Events: &stops.Hub{}, Fetch: fetch.New(o.Allow), Now: now, fell: o.Fell}
	if o.Store != nil {
		h.Queue = work.New(o.Store, o.Clock, now, func(r store.Run) {
			shown := stops.RunOf(r)
			h.Events.Publish(stops.Event{Run: &shown})
		})
		o.Store.OnCommit(func(c store.Commit) {
			if len(c.Topics) > 0 {
				h.Events.Publish(stops.Event{Topics: c.Topics})
			}
		})
	}
	for host, at := range o.Names {
		h.Fetch.Name(host, at)
	}
	d := stops.Deps{
		Store:      o.Store,
		Queue:      h.Queue,
		Now:        now,
		Places:     clients(o.Gateway, h.Fetch, o.Store, now),
		Fetcher:    h.Fetch,
		FirstPause: o.FirstPause,
		Stall:      o.Stall,
		NoPictures: o.NoPictures,
		Folders:    o.Folders,
	}
	h.Sources, h.Matching, h.Places, h.Prices = sources.New(d), matching.New(d), places.New(d), prices.New(d)
	h.Weighing, h.Preparing = weighing.New(d), preparing.New(d)
	h.Orders = orders.New(d)
	h.Sending, h.Watching, h.Products, h.Today = sending.New(d, o.Poll), watching.New(d), products.New(d), today.New(d)
	h.People = people.New(d, people.Options{Password: o.Password, Elsewhere: o.Elsewhere, Clock: o.Clock})
	if h.Queue != nil {
		for _, s := range h.Stops() {
			if w, ok := s.(interface{ Handle(*work.Queue) }); ok {
				w.Handle(h.Queue)
			}
		}
	}
	return h
}

// clients makes the client of each marketplace once, so that all that is asked
// of one is kept within its one limit.
// One without an address is known by its files alone; the own shop is written into.
func clients(o gateway.Options, f *fetch.Fetcher, s *store.Store, now func() time.Time) func(store.Marketplace) place.Place {
	known, filed := shelf{s}, cabinet{s, now}
	var mu sync.Mutex
	dialled := map[[2]string]place.Place{}
	return func(m store.Marketplace) place.Place {
		if m.Address == "" {
			return sheets.Open(files.Open(m.Name, known), filed)
		}
		if m.Address == shop.Address {
			return shop.Open(m.Name, s, now)
		}
		mu.Lock()
		defer mu.Unlock()
		key := [2]string{m.Name, m.Address}
		p, ok := dialled[key]
		if !ok {
			if at, err := url.Parse(m.Address); err == nil {
				o.Dial = f.DialTyped(fetch.Pair(at))
			}
			p = sheets.Open(gateway.Dial(m.Name, m.Address, o), filed)
			dialled[key] = p
		}
		return p
	}
}

// ShopAt is how the own shop is reached.
type ShopAt struct {
	Hosts   []string       // names it is called by, beside those of this machine
	Proxies []netip.Prefix // whose word is taken for who asks
	Secure  bool           // over TLS
}

// Shop is the pages of the own shop.
func (h *House) Shop(at ShopAt) http.Handler {
	return shop.New(shop.Options{Store: h.Store, Now: h.Now, Sold: h.Orders.TakeSold, Hosts: at.Hosts, Proxies: at.Proxies, Secure: at.Secure})
}

// Stops are all stops, in the order of the work.
func (h *House) Stops() []stops.Stop {
	return []stops.Stop{h.Today, h.Sources, h.Matching, h.Places, h.Weighing, h.Prices, h.Preparing, h.Sending, h.Orders, h.Watching, h.Products, h.People}
}

// Start takes up what a crash cut short, and begins to do what waits: also what
// other programs queue from now on. The store must be locked.
func (h *House) Start(ctx context.Context) error {
	for _, s := range h.Stops() {
		if r, ok := s.(interface {
			Resume(ctx context.Context) error
		}); ok {
			if err := r.Resume(ctx); err != nil {
				return fmt.Errorf("taking up what was begun: %w", err)
			}
		}
	}
	if _, err := h.Store.ChangedElsewhere(ctx); err != nil { // what comes after this is news
		return err
	}
	if err := h.Queue.Start(ctx, h.fell); err != nil {
		return err
	}
	var end context.Context
	end, h.end = context.WithCancel(context.Background())
	h.wg.Go(func() { h.listen(end) })
	return nil
}

// listenEvery is how often it is looked whether another program changed the data.
const listenEvery = 250 * time.Millisecond

// everything is every topic that open screens may show.
var everything = []string{
	"feeds",
	"sources",
	"counts",
	"matches",
	"products",
	"orders",
	"listings",
	"plan",
	"sendouts",
	"sites",
	"rules",
	"finds",
	"keeping",
	"places",
	"pool",
	"weigh",
	"sieves",
	"prepare",
	"people",
}

// listen takes up what other programs queue, such as a command-line intake.
func (h *House) listen(ctx context.Context) {
	t := time.NewTicker(listenEvery)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		changed, err := h.Store.ChangedElsewhere(ctx)
		if err != nil && ctx.Err() == nil {
			slog.Error("looking for what other programs changed", "error", err)
		}
		if changed {
			h.Queue.Wake()
			h.Events.Publish(stops.Event{Topics: everything})
		}
	}
}

// Close stops the runs; they go on at the next start.
func (h *House) Close() {
	if h.end != nil {
		h.end()
	}
	h.wg.Wait()
	if h.Queue != nil {
		h.Queue.Close()
	}
}

// Round does what has come due by the application's own clock: suppliers'
// addresses and folders, rivals, exchange rates, the fees of a new day, what is
// on sale, and what is old.
func (h *House) Round(ctx context.Context) error {
	var errs []error
	for _, s := range h.Stops() {
		if r, ok := s.(interface {
			Round(ctx context.Context) error
		}); ok {
			errs = append(errs, r.Round(ctx))
		}
	}
	return errors.Join(errs...)
}

// Schedule begins doing rounds. It returns what ends it.
func (h *House) Schedule(ctx context.Context) (stop func() error, err error) {
	s, err := gocron.NewScheduler()
	if err != nil {
		return nil, err
	}
	_, err = s.NewJob(gocron.DurationJob(2*time.Second), gocron.NewTask(func() {
		if err := h.Round(ctx); err != nil && ctx.Err() == nil {
			slog.Error("looking at what moves by itself", "error", err)
		}
	}), gocron.WithSingletonMode(gocron.LimitModeReschedule))
	if err != nil {
		return nil, err
	}
	s.Start()
	return s.Shutdown, nil
}
