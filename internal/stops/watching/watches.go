package watching

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/sieve"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// number is a number that a watch can look at.
type number struct {
	name string
	kind sieve.Kind
	unit string // of counts
}

// numbers are those that a watch can look at, in the order they are offered.
var numbers = []number{
	{"cost", sieve.Amount, ""},
	{"stock", sieve.Count, "units"},
	{"price", sieve.Amount, ""},
	{"lowest", sieve.Amount, ""},
	{"leading", sieve.Amount, ""},
	{"sellers", sieve.Count, "sellers"},
	{"profit", sieve.Amount, ""},
	{"margin", sieve.Share, ""},
	{"rating", sieve.Rating, ""},
	{"return rate", sieve.Share, ""},
	{"feed age", sieve.Count, "hours"},
}

func numberOf(name string) (number, bool) {
	at := slices.IndexFunc(numbers, func(n number) bool { return n.name == name })
	if at < 0 {
		return number{}, false
	}
	return numbers[at], true
}

// readyMade are the watches that are there from the beginning; those that are off
// are for who wants to be told.
var readyMade = []struct {
	ready, name string
	off         bool
}{
	{ready: "loss", name: "On sale at a loss"},
	{ready: "no stock", name: "On sale without stock"},
	{ready: "feed held", name: "A feed is held"},
	{ready: "quiet", name: "A source is late"},
	{ready: "stale", name: "Nothing heard from a source"},
	{ready: "refused", name: "A send-out came back with refusals"},
	{ready: "never live", name: "Taken and never seen there"},
	{ready: "rate", name: "An exchange rate is old"},
	{ready: "pool", name: "Few product numbers are left"},
	{ready: "through", name: "A send-out is through", off: true},
	{ready: "task", name: "A task waits at the hand desk", off: true},
}

// Watch is a condition on a number that somebody wants to be told of, as it is
// written: the value in major units, per cent, stars or counts.
type Watch struct {
	ID         int64      `json:"id" readOnly:"true"`
	Version    int64      `json:"version" readOnly:"true" doc:"For If-Match"`
	Name       string     `json:"name,omitempty" maxLength:"120" doc:"Left out, it is what the watch says"`
	Ready      string     `json:"ready" readOnly:"true" doc:"Which of the ready-made ones it is; empty of one on a number"`
	Number     string     `json:"number,omitempty" enum:"cost,stock,price,lowest,leading,sellers,profit,margin,rating,return rate,feed age"`
	Test       string     `json:"test,omitempty" enum:"below,above,moved" doc:"moved: by more than the value, per cent, from one look to the next"`
	Value      string     `json:"value,omitempty"`
	SiteID     int64      `json:"site_id,omitempty" doc:"Needed where the value is an amount, and with a sieve"`
	ProductID  int64      `json:"product_id,omitempty" doc:"One product; every one where this and the sieve are left out"`
	SieveID    int64      `json:"sieve_id,omitempty" doc:"What goes through a kept sieve on the site"`
	Once       bool       `json:"once" doc:"It ends when it was set off"`
	Mail       bool       `json:"mail"`
	Active     bool       `json:"active"`
	QuietHours int64      `json:"quiet_hours,omitempty" minimum:"0" maximum:"8760" doc:"From now on so long nothing is said"`
	QuietUntil *time.Time `json:"quiet_until" readOnly:"true"`
	Words      string     `json:"words" readOnly:"true" doc:"What it watches, in a sentence"`
	Product    string     `json:"product" readOnly:"true"`
	Holds      int64      `json:"holds" readOnly:"true" doc:"Things it holds for now"`
	Hits       int64      `json:"hits" readOnly:"true"`
	Unseen     int64      `json:"unseen" readOnly:"true"`
	FiredAt    *time.Time `json:"fired" readOnly:"true" doc:"When it was set off last"`
	LookedAt   *time.Time `json:"looked" readOnly:"true"`
}

// Hit is a time that a watch was set off, with the number before and after as
// people write them.
type Hit struct {
	ID        int64      `json:"id"`
	WatchID   int64      `json:"watch_id"`
	Watch     string     `json:"watch"`
	ListingID *int64     `json:"listing_id"`
	Words     string     `json:"words"`
	Link      string     `json:"link"`
	Before    string     `json:"before"`
	After     string     `json:"after"`
	At        time.Time  `json:"at"`
	Mailed    *time.Time `json:"mailed"`
	Seen      bool       `json:"seen"`
	Picture   string     `json:"picture"`
}

func shownHit(r store.WatchHitRow) Hit {
	return Hit{r.ID, r.WatchID, r.Watch, r.ListingID, r.Words, r.Link, figure(r.Number, r.Before, r.Currency), figure(r.Number, r.After, r.Currency), r.At,
		r.Mailed, r.Seen, r.Picture}
}

// figure is a number as people write it; "" where it isn't known.
func figure(name string, v *int64, currency string) string {
	n, ok := numberOf(name)
	if v == nil {
		return ""
	}
	switch {
	case !ok && currency != "" || n.kind == sieve.Amount:
		return money.Of(*v, money.Currency(currency)).String() + " " + currency
	case n.kind == sieve.Share:
		return money.Rate(*v / 1000 * 1000).String()
	case n.kind == sieve.Rating:
		return fmt.Sprintf("%d.%02d", *v/100, *v%100)
	}
	return strings.TrimSpace(strconv.FormatInt(*v, 10) + " " + n.unit)
}

// words say what a watch watches.
func words(w *store.Watch, of, currency string) string {
	value := figure(w.Number, &w.Value, currency)
	if w.Test == "moved" {
		return fmt.Sprintf("%s of %s moves by more than %s at once", w.Number, of, money.Rate(w.Value))
	}
	return fmt.Sprintf("%s of %s is %s %s", w.Number, of, w.Test, value)
}

// row reads a watch that a person wrote.
func (w Watch) row(site *store.Site) (store.Watch, error) {
	out := store.Watch{Name: strings.TrimSpace(w.Name), Number: w.Number, Test: w.Test, Once: w.Once, Mail: w.Mail, Active: w.Active}
	n, ok := numberOf(w.Number)
	if !ok {
		return out, fault.At("number", "say which number to watch")
	}
	if !slices.Contains([]string{"below", "above", "moved"}, w.Test) {
		return out, fault.At("test", "say whether it is to be below or above the value, or to move by more")
	}
	if w.ProductID != 0 && w.SieveID != 0 {
		return out, fault.At("sieve_id", "a watch is for one product or for a sieve, not for both")
	}
	if w.SieveID != 0 && site == nil {
		return out, fault.At("site_id", "what goes through a sieve is told on one site; say which")
	}
	var err error
	kind := n.kind
	if w.Test == "moved" {
		kind = sieve.Share
	}
	switch kind {
	case sieve.Amount:
		if site == nil {
			return out, fault.At("site_id", "an amount is of one site's currency; say which site")
		}
		out.Value, err = signed(w.Value, money.Currency(site.Currency))
	case sieve.Share:
		var v money.Rate
		v, err = stops.Share("value", w.Value)
		out.Value = int64(v)
	case sieve.Rating:
		out.Value, err = hundredths(w.Value)
	default:
		out.Value, err = strconv.ParseInt(strings.TrimSpace(w.Value), 10, 64)
		if err != nil || out.Value < 0 {
			err = fault.At("value", "%q is no whole number", w.Value)
		}
	}
	return out, err
}

// signed reads an amount that may be below nothing, such as a loss.
func signed(text string, c money.Currency) (int64, error) {
	text = strings.ReplaceAll(strings.TrimSpace(text), "−", "-")
	v, err := money.Parse(text, c)
	if err != nil {
		return 0, fault.At("value", "%q is not an amount in %s such as %s", text, c, money.Of(1240, c))
	}
	return v.Minor, nil
}

// hundredths reads stars such as 4.5.
func hundredths(text string) (int64, error) {
	v, err := money.Parse(strings.TrimSpace(text), "GBP") // two decimals too
	if err != nil || v.Minor < 0 || v.Minor > 500 {
		return 0, fault.At("value", "%q is no rating such as 4.5", text)
	}
	return v.Minor, nil
}

// Watches lists all watches with how they stand.
func (st *Stop) Watches(ctx context.Context) ([]Watch, error) {
	rows, err := st.Store.WatchRows(ctx)
	out := []Watch{}
	for i := range rows {
		out = append(out, shownWatch(&rows[i]))
	}
	return out, err
}

func shownWatch(r *store.WatchRow) Watch {
	w := Watch{ID: r.ID, Version: r.Version, Name: r.Name, Ready: r.Ready, Number: r.Number, Test: r.Test, Once: r.Once, Mail: r.Mail, Active: r.Active,
		QuietUntil: r.QuietUntil, Product: r.Product, Holds: r.Holds, Hits: r.Hits, Unseen: r.Unseen, FiredAt: r.FiredAt, LookedAt: r.LookedAt}
	id := func(v *int64) int64 {
		if v == nil {
			return 0
		}
		return *v
	}
	w.SiteID, w.ProductID, w.SieveID = id(r.SiteID), id(r.ProductID), id(r.SieveID)
	if r.Ready != "" {
		w.Words = readyWords[r.Ready]
		return w
	}
	of := "anything we list"
	switch {
	case r.Product != "":
		of = r.Product
	case r.Sieve != "":
		of = "what goes through the sieve " + r.Sieve
	}
	if r.Site != "" {
		of += " on " + r.Site
	}
	w.Words = words(&r.Watch, of, r.Currency)
	w.Value = strings.TrimSuffix(figure(r.Number, &r.Value, r.Currency), " "+r.Currency)
	if r.Test == "moved" {
		w.Value = money.Rate(r.Value).String()
	} else if n, _ := numberOf(r.Number); n.unit != "" {
		w.Value = strings.TrimSuffix(w.Value, " "+n.unit)
	}
	return w
}

// readyWords say what the ready-made watches watch.
var readyWords = map[string]string{
	"loss":       "a sale at the price there, at today's cost, would lose money",
	"no stock":   "something is offered that no supplier has",
	"feed held":  "a supplier's feed differs more than you allow and waits for you",
	"quiet":      "nothing was heard from a source for longer than usual; a day later its stock counts as unknown",
	"stale":      "nothing was heard from a source for so long that its stock counts as unknown",
	"refused":    "a marketplace refused lines of a send-out",
	"never live": "a marketplace took a listing and doesn't show it",
	"through":    "all of a send-out was answered",
	"task":       "something is to be changed by hand at a place",
	"rate":       "an exchange rate that costs are changed by is older than a week",
	"pool":       "fewer than ten product numbers of your own are left",
}

// KeepWatch keeps a watch: a new one where id is 0. It looks from now on: what
// holds already doesn't set it off.
func (st *Stop) KeepWatch(ctx context.Context, id int64, edit stops.IfMatch, in Watch) (int64, error) {
	list, err := st.Watches(ctx)
	if err != nil {
		return 0, err
	}
	var shown Watch
	if at := slices.IndexFunc(list, func(w Watch) bool { return w.ID == id }); at >= 0 {
		shown = list[at]
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		known := store.Watch{}
		if id != 0 {
			var err error
			if known, err = store.GetTx[store.Watch](tx, id); err != nil {
				return err
			}
			if err := edit.Check(known.Version, "the watch "+known.Name, shown); err != nil {
				return err
			}
		}
		row, err := st.watchRow(tx, &known, in)
		if err != nil {
			return err
		}
		now := st.Now()
		if in.QuietHours > 0 {
			until := now.Add(time.Duration(in.QuietHours) * time.Hour)
			row.QuietUntil = &until
		}
		if err := tx.Save(&row); err != nil {
			return err
		}
		id = row.ID
		tx.Changed("watches")
		return stops.First(queueWatch(tx, now), tx.Note(now, "watch kept", row.Name, ""))
	})
	return id, err
}

// watchRow is the row of a watch as it is to be kept.
func (st *Stop) watchRow(tx store.Tx, known *store.Watch, in Watch) (store.Watch, error) {
	if known.Ready != "" { // of a ready-made one only how it tells can be changed
		row := *known
		row.Mail, row.Active, row.Once, row.QuietUntil, row.Version = in.Mail, in.Active, in.Once, nil, known.Version+1
		return row, nil
	}
	var site *store.Site
	if in.SiteID != 0 {
		s, err := tx.SiteOf(in.SiteID)
		if err != nil {
			return store.Watch{}, fault.At("site_id", "there is no such site")
		}
		site = &s
	}
	row, err := in.row(site)
	if err != nil {
		return row, err
	}
	row.ID, row.Version, row.FiredAt = known.ID, known.Version+1, known.FiredAt
	ref := func(id int64) *int64 {
		if id == 0 {
			return nil
		}
		return &id
	}
	row.SiteID, row.ProductID, row.SieveID = ref(in.SiteID), ref(in.ProductID), ref(in.SieveID)
	of, currency := "everything we list", ""
	if site != nil {
		currency = site.Currency
	}
	if in.ProductID != 0 {
		p, err := store.GetTx[store.Product](tx, in.ProductID)
		if err != nil {
			return row, fault.At("product_id", "there is no such product")
		}
		of = p.Title
	}
	if in.SieveID != 0 {
		v, err := tx.SieveOf(in.SieveID)
		if err != nil {
			return row, fault.At("sieve_id", "there is no such sieve")
		}
		if of = v.Name; row.Name == "" {
			of = "sieve " + of
		}
	}
	if row.Name == "" {
		row.Name = words(&row, of, currency)
	}
	same := known.ID != 0 && known.Number == row.Number && known.Test == row.Test && known.Value == row.Value && known.Active
	if !same && known.ID != 0 { // another condition begins anew
		if err := tx.ForgetWatchValues(known.ID); err != nil {
			return row, err
		}
	}
	if same {
		row.LookedAt = known.LookedAt
	}
	return row, nil
}

// DropWatch drops a watch; a ready-made one is only put to sleep.
func (st *Stop) DropWatch(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		w, err := store.GetTx[store.Watch](tx, id)
		if err != nil {
			return err
		}
		if w.Ready != "" {
			return fault.New(fault.Conflict, "a ready-made watch stays; put it to sleep instead")
		}
		tx.Changed("watches")
		return stops.First(tx.DropWatch(id), tx.Note(st.Now(), "watch dropped", w.Name, ""))
	})
}

// See marks what set watches off as seen, up to a hit.
func (st *Stop) See(ctx context.Context, upTo int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("watches", "counts")
		return tx.SeeHits(upTo)
	})
}
