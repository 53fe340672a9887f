package demo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"golang.org/x/time/rate"

	"easymargin/internal/actor"
	"easymargin/internal/house"
	"easymargin/internal/place/gateway"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/weighing"
	"easymargin/internal/store"
)

// Past makes the shop's sixty days in an empty folder, by living them: the real
// application over the stand-ins, a day after another, with somebody who brings
// in, takes up, sends and decides every morning. It takes a minute or so; say is
// told each day.
func Past(ctx context.Context, dir string, say func(day time.Time)) (err error) {
	ctx = actor.With(ctx, people.Owner)
	p, end, err := beginPast(ctx, dir)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, end()) }()
	if err := p.open(ctx); err != nil {
		return fmt.Errorf("the first day: %w", err)
	}
	for day := range days {
		morning := Begin.AddDate(0, 0, day)
		say(morning)
		if err := p.live(ctx, day, morning); err != nil {
			return fmt.Errorf("%s: %w", morning.Format(time.DateOnly), err)
		}
	}
	say(Start)
	if err := errors.Join(p.watches(ctx), p.Watching.See(ctx, 1<<62)); err != nil {
		return err
	}
	if err := p.idle(ctx, false); err != nil {
		return err
	}
	if err := p.round(ctx, Begin.AddDate(0, 0, days)); err != nil { // what came of it waits for whoever looks
		return err
	}
	if err := p.early(ctx); err != nil {
		return fmt.Errorf("the morning before it starts: %w", err)
	}
	if err := p.round(ctx, broken); err != nil {
		return err
	}
	for _, id := range []int64{p.fernhollow, p.tidewrack} { // from now on by themselves
		if err := p.settle(ctx, id, 15, 48); err != nil {
			return err
		}
	}
	p.world.Clock.Forward(Start.Sub(p.world.Clock.Now()))
	if err := p.weigh(ctx); err != nil {
		return err
	}
	return p.idle(ctx, true)
}

// weigh weighs what two suppliers have on the first site, at today's market.
func (p *past) weigh(ctx context.Context) error {
	site := p.sites["Quaymarket GB"]
	for _, source := range []int64{p.fernhollow, p.tidewrack} {
		if _, err := p.Weighing.Weigh(ctx, site, weighing.ToWeigh{What: "source", SourceID: source}); err != nil {
			return err
		}
		if err := p.idle(ctx, false); err != nil {
			return err
		}
	}
	if _, err := p.Weighing.ReadMarket(ctx, site); err != nil {
		return err
	}
	if _, err := p.Weighing.PutSieve(ctx, weighing.SieveView{
		Name:  "Worth a look",
		Sieve: `[{"column":"profit_lowest","op":"above","values":["2.00"]},{"column":"stock","op":"above","values":["4"]},{"column":"ours","op":"is","values":["no"]}]`,
		Sort:  "return_lowest", Down: true,
	}); err != nil {
		return err
	}
	_, err := p.Weighing.PutLookUp(ctx, "Number register", "https://numbers.example/find?number={number}")
	return err
}

// past is a house on its way to Start.
type past struct {
	*house.House
	world      *sim.World
	fernhollow int64 // the source's id
	tidewrack  int64
	brindle    int64 // 0 before its first sheet
	sites      map[string]int64
	fair       int64 // Gullery Fair's site, once it is there

	back map[int][][2]string // by the day on which their buyers send them back: site and order
}

// beginPast starts a house and the stand-ins on the first morning.
func beginPast(ctx context.Context, dir string) (*past, func() error, error) {
	world, err := World(sim.NewClock(Begin, 0), true)
	if err != nil {
		return nil, nil, err
	}
	waits := [2]time.Duration{world.Market.FirstWait, world.Market.LineWait}
	world.Market.FirstWait, world.Market.LineWait = 0, 0
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, nil, err
	}
	market, suppliers := httptest.NewServer(world.Markets()), httptest.NewServer(world.Suppliers())
	s, err := store.Open(dir)
	if err == nil {
		err = s.Lock()
	}
	if err != nil {
		market.Close()
		suppliers.Close()
		return nil, nil, err
	}
	p := &past{world: world, sites: map[string]int64{}, back: map[int][][2]string{}}
	p.House = house.New(house.Options{
		Store:      s,
		Now:        world.Clock.Now,
		Allow:      []string{strings.TrimPrefix(market.URL, "http://")},
		Names:      map[string]string{SuppliersHost: strings.TrimPrefix(suppliers.URL, "http://")},
		FirstPause: time.Millisecond,
		Poll:       time.Millisecond,
		Gateway:    gateway.Options{Tries: 2, First: time.Millisecond, Rate: rate.Inf},
	})
	end := func() error {
		p.Close()
		market.Close()
		suppliers.Close()
		world.Market.FirstWait, world.Market.LineWait = waits[0], waits[1]
		kept := world.Keep(filepath.Join(dir, StandIns)) // at the end alone: after every change it would take long
		if kept == nil {
			world.Save()
		}
		return errors.Join(kept, s.Close())
	}
	if err := Shop(ctx, p.House, market.URL); err != nil {
		return nil, nil, errors.Join(err, end())
	}
	if err := p.Start(ctx); err != nil {
		return nil, nil, errors.Join(err, end())
	}
	return p, end, nil
}

// open is the first day: rules, sources as Saltmarsh Kit wants them, the first lists.
func (p *past) open(ctx context.Context) error {
	sites, err := p.Store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, s := range sites {
		p.sites[s.Name] = s.ID
		if sells := strings.HasPrefix(s.Name, "Quaymarket"); sells != s.Lists {
			if err := p.Places.SetLists(ctx, s.ID, sells); err != nil {
				return err
			}
		}
	}
	for _, r := range []prices.NamedRule{
		{
			Name: "Mugs, a penny under",
			Fits: &prices.Fits{Categories: []string{"mugs"}},
			Rule: prices.Rule{
				Aims:   []prices.RuleCondition{{Kind: "margin", Value: "18%"}, {Kind: "profit", Value: "1.50"}},
				Keep:   []prices.RuleCondition{{Kind: "profit", Value: "0.60"}},
				Market: &prices.RuleMarket{Stance: "below", Against: "lowest", By: "0.01"},
			},
		},
		{
			Name: "Dear and heavy",
			Fits: &prices.Fits{CostFrom: "60.00"},
			Rule: prices.Rule{
				Aims:    []prices.RuleCondition{{Kind: "return", Value: "20%"}},
				Keep:    []prices.RuleCondition{{Kind: "profit", Value: "5.00"}},
				Endings: &prices.RuleEndings{Every: "5.00", At: []string{"4.99"}, Way: "nearest"},
			},
		},
	} {
		if _, err := p.Prices.KeepRule(ctx, p.sites["Quaymarket GB"], stops.IfMatch{}, r); err != nil {
			return err
		}
	}
	if err := p.Today.Keep(ctx, stops.IfMatch{}, map[string]int64{"files": 3}); err != nil {
		return err
	}
	for _, x := range []struct {
		name string
		id   *int64
	}{{"Fernhollow Wholesale", &p.fernhollow}, {"Tidewrack Clearance", &p.tidewrack}} {
		s, _, err := p.Store.SourceNamed(ctx, x.name)
		if err != nil {
			return err
		}
		*x.id = s.ID
		if err := p.settle(ctx, s.ID, 0, 48); err != nil {
			return err
		}
		if err := p.fetch(ctx, s.ID); err != nil {
			return err
		}
		f, err := p.Store.Feeds(ctx, s.ID, store.Page{Limit: 1})
		if err != nil {
			return err
		}
		if err := p.take(ctx, f.Rows[0].ID, s.ID, nil); err != nil {
			return err
		}
	}
	return nil
}

// fetch has a source's address fetched and waits for what comes of it. In the
// past this is asked for one after the other, so that every past is the same.
func (p *past) fetch(ctx context.Context, id int64) error {
	if _, err := p.Sources.Fetch(ctx, id); err != nil {
		return err
	}
	return p.idle(ctx, false)
}

// settle sets how often a source is looked at, and after how many hours of
// silence its stock counts as unknown. What is new there is looked up only when
// somebody takes it up.
func (p *past) settle(ctx context.Context, id, every, silent int64) error {
	set, err := p.Sources.Settings(ctx, id)
	if err != nil {
		return err
	}
	set.LookUp, set.Every, set.Guards.StaleHours = false, every, silent
	if set.Tax == "" { // a page that was captured says neither
		set.Charge, set.Tax = "0", "without"
	}
	return p.Sources.SetSettings(ctx, id, stops.IfMatch{}, set)
}

func (p *past) take(ctx context.Context, feed, source int64, columns map[string]string) error {
	if _, err := p.Sources.Take(ctx, feed, source, columns, false); err != nil {
		return err
	}
	return p.idle(ctx, false)
}

// live is a day: what moved by itself in the night, what comes by hand, what is
// taken up, and what goes out.
func (p *past) live(ctx context.Context, day int, morning time.Time) error {
	at := p.world.Lists[FernhollowPath]
	at.SetDown(day == 31) // its address answered nothing that morning
	err := p.round(ctx, morning)
	at.SetDown(false)
	if err != nil {
		return err
	}
	p.world.Clock.Forward(70 * time.Minute)
	if morning.Weekday() == time.Monday {
		if err := p.sheet(ctx); err != nil {
			return fmt.Errorf("the sheet of Brindlewick: %w", err)
		}
	}
	if err := p.pages(ctx, day); err != nil {
		return fmt.Errorf("the pages of Corrie & Wether: %w", err)
	}
	if day == 45 {
		if err := p.gullery(ctx); err != nil {
			return err
		}
	}
	if day == 56 {
		if err := p.fillShop(ctx); err != nil {
			return fmt.Errorf("filling the own shop: %w", err)
		}
	}
	if day == 57 {
		if err := p.lantern(ctx); err != nil {
			return fmt.Errorf("listing on Lantern Row: %w", err)
		}
	}
	if day == 58 {
		if err := p.slipway(ctx); err != nil {
			return fmt.Errorf("noting The Slipway Board: %w", err)
		}
	}
	if day > 45 && day%4 == 3 {
		if err := p.typedIn(ctx); err != nil {
			return err
		}
	}
	if err := p.takeUp(ctx, day); err != nil {
		return fmt.Errorf("taking up: %w", err)
	}
	if err := p.serve(ctx); err != nil {
		return fmt.Errorf("serving those who bought: %w", err)
	}
	if begun := time.Date(morning.Year(), morning.Month()-1, 1, 0, 0, 0, 0, time.UTC); morning.Day() == 3 && day > 3 {
		if err := p.statement(ctx, begun); err != nil {
			return fmt.Errorf("the statement of the month before: %w", err)
		}
	}
	p.world.Clock.Forward(25 * time.Minute)
	if err := p.send(ctx, day); err != nil {
		return err
	}
	if day == days-1 { // of the last morning there is only what was bought early
		return nil
	}
	if err := p.sell(ctx, day, morning); err != nil {
		return fmt.Errorf("selling: %w", err)
	}
	return nil
}

// round is what moves by itself at a time of day.
func (p *past) round(ctx context.Context, at time.Time) error {
	p.world.Clock.Forward(at.Sub(p.world.Clock.Now()))
	for _, id := range []int64{p.fernhollow, p.tidewrack} {
		if err := p.fetch(ctx, id); err != nil {
			return err
		}
	}
	for range 2 { // rivals and the day's work, then what came of them
		if err := p.Round(ctx); err != nil {
			return err
		}
		if err := p.idle(ctx, false); err != nil {
			return err
		}
	}
	return nil
}

// ownOnLantern is how many products Saltmarsh Kit has begun to list on Lantern Row.
const ownOnLantern = 40

// campsite are the words of what isn't for cooking.
var campsite = regexp.MustCompile(`(?i)quilt|tarp|pack|blanket|mat\b|torch|sack|peg|line|pillow|lantern|tent`)

// lantern begins to list on Lantern Row, where each seller writes listings: what
// its categories need besides is still to be said.
func (p *past) lantern(ctx context.Context) error {
	site := p.sites["Lantern Row GB"]
	found, err := p.Store.OwnCandidates(ctx, site, "", store.Page{Limit: 200})
	if err != nil {
		return err
	}
	cooking, camping, n := []int64{}, []int64{}, 0
	for i := 0; i < len(found.Rows) && n < ownOnLantern; i += 3 {
		r := found.Rows[i]
		if r.Stock <= 2 {
			continue
		}
		n++
		if campsite.MatchString(r.Title) {
			camping = append(camping, r.ProductID)
		} else {
			cooking = append(cooking, r.ProductID)
		}
	}
	for i, ids := range [][]int64{cooking, camping} {
		if _, err := p.Preparing.Add(ctx, site, ids, []string{"cooking", "camping"}[i]); err != nil {
			return err
		}
	}
	return p.idle(ctx, false)
}

// sheet brings Brindlewick's sheet of the week in, by hand.
func (p *past) sheet(ctx context.Context) error {
	now := p.Now()
	text, err := brindlewickAt(now)
	if err != nil {
		return err
	}
	in := sources.Arriving{Name: "brindlewick-trade-list-" + now.Format("01-02") + ".xlsx"}
	var columns map[string]string
	if p.brindle == 0 {
		s, err := p.Sources.Make(ctx, sources.NewSource{Supplier: "Brindlewick Outdoor", Currency: "EUR", Tax: "without", Charge: "9.50", FreeFrom: "150.00"})
		if err != nil {
			return err
		}
		if err := p.settle(ctx, s.ID, 0, 24*10); err != nil {
			return err
		}
		p.brindle, columns = s.ID, map[string]string{"Dealer rate": "cost"}
	}
	in.SourceID = &p.brindle
	f, err := p.Sources.BringIn(ctx, bytes.NewReader(text), in)
	if err != nil {
		return err
	}
	return p.take(ctx, f.ID, p.brindle, columns)
}

// pages takes two of Corrie & Wether's pages a week.
func (p *past) pages(ctx context.Context, day int) error {
	if day%7 != 3 {
		return nil
	}
	for _, it := range corrieItems()[day/7*2 : day/7*2+2] {
		f, err := p.Sources.Capture(ctx, "Corrie & Wether", suppliersURL+corriePath(it))
		if err != nil {
			return err
		}
		if err := p.take(ctx, f.ID, *f.SourceID, nil); err != nil {
			return err
		}
		if day == 3 {
			if err := p.settle(ctx, *f.SourceID, 0, 24*90); err != nil {
				return err
			}
		}
		rows, err := p.Sources.Search(ctx, it.gtin)
		if err != nil {
			return err
		}
		if err := p.takeTo(ctx, "Quaymarket GB", rows, *f.SourceID); err != nil {
			return err
		}
	}
	return nil
}

// Up to where Fernhollow's products are taken up on the first day and soon
// after, and up to where they are sold on the other sites too.
const (
	firstPick  = 340
	soldAbroad = 160
)

// takeUp takes more of the suppliers' products to the sites, from week to week.
func (p *past) takeUp(ctx context.Context, day int) error {
	type pick struct {
		site     string
		source   int64
		ref      string // before the number
		from, to int
	}
	gb, ie, de := "Quaymarket GB", "Quaymarket IE", "Quaymarket DE"
	picks := map[int][]pick{
		0:  {{gb, p.fernhollow, "FW-", mayMove, 170}},
		5:  {{gb, p.fernhollow, "FW-", 170, 250}},
		12: {{gb, p.fernhollow, "FW-", 250, firstPick}},
		16: {{gb, p.brindle, "BW-", brindlewickFrom, brindlewickFrom + 65}},
		21: {{gb, p.tidewrack, "TW-", 900, 935}},
		26: {{ie, p.fernhollow, "FW-", mayMove, soldAbroad}},
		40: {{de, p.fernhollow, "FW-", mayMove, 120}},
		59: {{gb, p.fernhollow, "FW-", caseNumber - 1, accessory}}, // each of them with something to look at
	}[day]
	all := items(fernhollowRows)
	for _, x := range picks {
		var rows []sources.Find
		for _, it := range all[x.from:x.to] {
			ref := x.ref + it.ref()[3:]
			if x.source == p.brindle {
				if it.odd() {
					continue
				}
				ref = brindlewickRef(it.n - brindlewickFrom)
			} else if it.pack > 1 && it.n%60 != 0 {
				continue
			}
			found, err := p.Sources.Search(ctx, ref)
			if err != nil {
				return err
			}
			for _, f := range found {
				if f.Ref == ref {
					rows = append(rows, f)
				}
			}
		}
		if err := p.takeTo(ctx, x.site, rows, x.source); err != nil {
			return err
		}
	}
	return nil
}

func (p *past) takeTo(ctx context.Context, site string, rows []sources.Find, source int64) error {
	var ids []int64
	for _, r := range rows {
		if r.SourceID == source {
			ids = append(ids, r.ID)
		}
	}
	if len(ids) == 0 {
		return fmt.Errorf("nothing of the supplier is here to take to %s", site)
	}
	if err := p.Sources.ListOn(ctx, ids, []int64{p.sites[site]}); err != nil {
		return err
	}
	return p.idle(ctx, false)
}

// send lets go what may go, and now and then what was held, after a look. One
// morning the marketplace was down, and it was sent again an hour later.
func (p *past) send(ctx context.Context, day int) error {
	down := day == 23
	p.world.Market.SetDown(down)
	defer p.world.Market.SetDown(false)
	plans, err := p.Store.OpenPlans(ctx)
	if err != nil {
		return err
	}
	for _, plan := range plans {
		if plan.SiteID == p.fair {
			continue // there it is typed in by hand
		}
		choice := sending.PlanChoice{}
		if day%4 == 3 || day == days-1 {
			lines, err := p.Store.PlanLines(ctx, store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
			if err != nil {
				return err
			}
			for _, l := range lines.Rows {
				if l.Verdict == "held" {
					choice.Held = append(choice.Held, l.ID)
				}
			}
		}
		if _, err := p.Sending.SendPlan(ctx, plan.ID, choice); err != nil {
			return err
		}
	}
	if err := p.idle(ctx, false); err != nil {
		return err
	}
	if _, err := p.Sending.SendListings(ctx, nil, sending.How{}); err != nil {
		return err
	}
	if err := p.idle(ctx, false); err != nil || !down {
		return err
	}
	p.world.Market.SetDown(false)
	p.world.Clock.Forward(time.Hour)
	outs, err := p.Store.SendOuts(ctx, store.Page{Limit: 10})
	if err != nil {
		return err
	}
	for _, o := range outs.Rows {
		if o.State == store.SendWaiting {
			if _, err := p.Sending.SendAgain(ctx, o.ID); err != nil {
				return err
			}
		}
	}
	return p.idle(ctx, false)
}

// idle waits until nothing runs or is about to; pictures only where they matter.
func (p *past) idle(ctx context.Context, pictures bool) error {
	for {
		runs, err := p.Queue.Live(ctx)
		if err != nil {
			return err
		}
		soon := time.Now().Add(10 * time.Second).UnixMilli()
		if !slices.ContainsFunc(runs, func(r store.Run) bool {
			return r.Due < soon && (pictures || r.Kind != stops.RunPictures)
		}) {
			return nil
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(2 * time.Millisecond):
		}
	}
}

// StandIns is the file in the demo's folder that has the stand-ins as they were left.
const StandIns = "standins.json"
