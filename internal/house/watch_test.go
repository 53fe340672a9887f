package house_test

import (
	"net"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/watching"
	"easymargin/internal/store"
)

// mailbox is a server that a test's mail goes to.
func (s *stall) mailbox() *sim.Mailbox {
	box := &sim.Mailbox{}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(s.t, err)
	done := make(chan struct{})
	go func() { _ = box.Serve(l); close(done) }()
	s.t.Cleanup(func() { _ = l.Close(); <-done })
	at := l.Addr().(*net.TCPAddr)
	require.NoError(s.t, s.Watching.SetMail(s.t.Context(), stops.IfMatch{}, watching.MailSettings{Host: "127.0.0.1", Port: at.Port, Security: "none",
		From: "app@saltmarsh.example", To: "owner@saltmarsh.example", Link: "http://127.0.0.1:8640/"}))
	return box
}

// watch keeps a watch and has it look for the first time.
func (s *stall) watch(w watching.Watch) int64 {
	s.t.Helper()
	w.Active = true
	id, err := s.Watching.KeepWatch(s.t.Context(), 0, stops.IfMatch{}, w)
	require.NoError(s.t, err)
	s.idle()
	return id
}

func (s *stall) hits(watch int64) []store.WatchHitRow {
	s.later(15 * time.Minute)
	l, err := s.Store.WatchHits(s.t.Context(), watch, store.Page{})
	require.NoError(s.t, err)
	return l.Rows
}

func TestAWatchIsSetOffWhenItBeginsToHold(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), func(i int) int64 { return []int64{9, 9, 2}[i] })
	s.sendAll()
	low := s.watch(watching.Watch{Number: "stock", Test: "below", Value: "4"})
	jump := s.watch(watching.Watch{Number: "cost", Test: "moved", Value: "10%", SiteID: s.site.ID})
	dear := s.watch(watching.Watch{Number: "profit", Test: "below", Value: "-0.01", SiteID: s.site.ID, Once: true})
	assert.Empty(t, s.hits(0), "what holds already sets nothing off")

	s.deliver(func(i int) int64 { return []int64{400, 450, 900}[i] }, func(i int) int64 { return []int64{3, 9, 2}[i] })
	hits := s.hits(low)
	require.Len(t, hits, 1)
	assert.Equal(t, []int64{9, 3}, []int64{*hits[0].Before, *hits[0].After})
	hits = s.hits(jump)
	require.Len(t, hits, 2)
	assert.Equal(t, "GBP", hits[0].Currency)
	require.Len(t, s.hits(dear), 1)

	s.deliver(func(i int) int64 { return []int64{400, 450, 400}[i] }, always(9))
	s.hits(0)
	s.deliver(func(i int) int64 { return []int64{401, 450, 900}[i] }, always(1))
	assert.Len(t, s.hits(low), 4, "three begin to hold, one of them again")
	assert.Len(t, s.hits(dear), 1, "one that tells once is over")
	list, err := s.Watching.Watches(t.Context())
	require.NoError(t, err)
	by := map[int64]watching.Watch{}
	for _, w := range list {
		by[w.ID] = w
	}
	assert.False(t, by[dear].Active)
	assert.Equal(t, int64(3), by[low].Holds)
	assert.Equal(t, "stock of anything we list is below 4 units", by[low].Words)
	assert.Equal(t, "-0.01", by[dear].Value)
	require.NoError(t, s.Watching.See(t.Context(), hits[0].ID+100))
	assert.Zero(t, s.counts().Hits)
}

func TestManyHitsMakeOneMail(t *testing.T) {
	s := newStall(t, 4)
	box := s.mailbox()
	s.deliver(always(400), always(9))
	s.sendAll()
	s.watch(watching.Watch{Name: "Sold out\r\nBcc: someone@else.example", Number: "stock", Test: "below", Value: "1", Mail: true})
	s.deliver(always(400), func(i int) int64 { return []int64{0, 0, 0, 9}[i] })
	s.hits(0)
	s.idle()
	letters := box.Letters()
	require.Len(t, letters, 1)
	assert.Equal(t, "owner@saltmarsh.example", letters[0].To)
	assert.Equal(t, "Easy Margin: 3 things you watch", letters[0].Subject)
	assert.Equal(t, 3, strings.Count(letters[0].Body, "0 units, was 9 units"), letters[0].Body)
	assert.Contains(t, letters[0].Body, "http://127.0.0.1:8640/watch/listings/")

	box.SetFull(true) // what can't be delivered is tried again
	s.deliver(always(400), always(0))
	s.hits(0)
	mails, err := s.Store.LastMails(t.Context(), 1)
	require.NoError(t, err)
	assert.Nil(t, mails[0].SentAt)
	assert.Contains(t, mails[0].Error, "full")
	box.SetFull(false)
	require.NoError(t, s.Watching.SetMail(t.Context(), stops.IfMatch{}, s.mailSettings()))
	s.idle()
	require.Len(t, box.Letters(), 2)
	assert.Equal(t, "Easy Margin: Sold out Bcc: someone@else.example", box.Letters()[0].Subject, "a name makes no head line")
}

func (s *stall) mailSettings() watching.MailSettings {
	m, err := s.Watching.Mail(s.t.Context())
	require.NoError(s.t, err)
	return m
}

func TestReadyMadeWatches(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.hits(0)
	s.deliver(func(i int) int64 { return []int64{400, 900, 400, 400}[i] }, func(i int) int64 { return []int64{0, 9, 9, 9}[i] })
	by := map[string][]string{}
	for _, h := range s.hits(0) {
		by[h.Watch] = append(by[h.Watch], h.Words)
	}
	require.Len(t, by["On sale without stock"], 1)
	assert.Contains(t, by["On sale without stock"][0], "no supplier has any")
	require.Len(t, by["On sale at a loss"], 1)
	for _, late := range []string{"A source is late", "Nothing heard from a source"} { // after eight days, and after nine
		s.clock.Forward(map[string]time.Duration{"A source is late": 8*24*time.Hour + time.Minute}[late])
		s.later(24 * time.Hour)
		by = map[string][]string{}
		for _, h := range s.hits(0) {
			by[h.Watch] = append(by[h.Watch], h.Words)
		}
		assert.Len(t, by[late], 1, late)
	}
	list, err := s.Watching.Watches(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 11)
	assert.Equal(t, fault.Conflict, fault.KindOf(s.Watching.DropWatch(t.Context(), list[0].ID)))
	list[0].Active, list[0].QuietHours = false, 2
	_, err = s.Watching.KeepWatch(t.Context(), list[0].ID, stops.IfMatch{}, list[0])
	require.NoError(t, err)
}

func TestAWatchThatCantBeReadSaysWhatToMend(t *testing.T) {
	s := newStall(t, 1)
	for field, w := range map[string]watching.Watch{
		"number":     {Number: "weight", Test: "below", Value: "1"},
		"test":       {Number: "stock", Test: "beside", Value: "1"},
		"value":      {Number: "stock", Test: "below", Value: "few"},
		"site_id":    {Number: "price", Test: "below", Value: "1.00"},
		"sieve_id":   {Number: "stock", Test: "below", Value: "1", SiteID: 1, SieveID: 99},
		"product_id": {Number: "stock", Test: "below", Value: "1", ProductID: 99},
	} {
		_, err := s.Watching.KeepWatch(t.Context(), 0, stops.IfMatch{}, w)
		badField(t, err, field)
	}
	for field, m := range map[string]watching.MailSettings{
		"from": {Host: "mail.example", Port: 25, From: "nobody", To: "a@b.example"},
		"to":   {Host: "mail.example", Port: 25, From: "a@b.example", To: "b.example"},
		"host": {Host: "mail.example:25", Port: 25, From: "a@b.example", To: "a@b.example"},
	} {
		badField(t, s.Watching.SetMail(t.Context(), stops.IfMatch{}, m), field)
	}
}

// Who wants it is told by mail when a send-out is through: not before they asked,
// and not of what a rule sent by itself.
func TestASendOutThatIsThroughIsTold(t *testing.T) {
	s := newStall(t, 3)
	box := s.mailbox()
	require.NoError(t, s.Watching.Resume(t.Context()))
	s.deliver(always(400), always(9))
	s.hits(0)
	list, err := s.Watching.Watches(t.Context())
	require.NoError(t, err)
	through := list[slices.IndexFunc(list, func(w watching.Watch) bool { return w.Ready == "through" })]
	assert.False(t, through.Active, "nobody asked for it")
	through.Active, through.Mail = true, true
	_, err = s.Watching.KeepWatch(t.Context(), through.ID, stops.IfMatch{}, through)
	require.NoError(t, err)
	s.hits(0)
	s.sendAll()
	s.hits(0)
	s.idle()
	letters := box.Letters()
	require.Len(t, letters, 1)
	assert.Contains(t, letters[0].Body, "a send-out to Quaymarket GB is through: 3 of 3 confirmed")
}

// What comes back of what was sold in sixty days can be watched: one of four is 25 %; what
// was called off, and what was sold before, doesn't count.
func TestReturnsAreWatched(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	listings := s.all()
	back := s.watch(watching.Watch{Number: "return rate", Test: "above", Value: "20%"})
	sold := func(ref string, daysAgo int, states ...string) {
		require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
			o := store.Order{SiteID: s.site.ID, Version: 1, Ref: ref, Origin: store.OrderTyped, PlacedAt: s.Now().AddDate(0, 0, -daysAgo), SeenAt: s.Now(), Currency: "GBP"}
			if err := tx.Create(&o); err != nil {
				return err
			}
			for i, state := range states {
				l := store.OrderLine{OrderID: o.ID, Ref: strconv.Itoa(i), SKU: listings[0].SKU, ListingID: &listings[0].ID, Quantity: 1, Price: 999, State: state, Units: 1, UnitsBought: 1}
				if err := tx.Create(&l); err != nil {
					return err
				}
			}
			return nil
		}))
	}
	sold("OLD", 90, "returned", "returned")
	sold("A", 9, "done", "done", "done", "done", "returned", "cancelled")
	assert.Empty(t, s.hits(back), "one of five is 20 %, which isn't above it")
	sold("B", 3, "returned")
	hits := s.hits(back)
	require.Len(t, hits, 1)
	assert.EqualValues(t, 333_333, *hits[0].After, "two of six")
}
