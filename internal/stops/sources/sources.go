// Package sources is the first stop: suppliers' products come in, from a file,
// an address, a folder, a page or by hand, and are looked at before they are
// taken. It follows docs/definitions/supply.md, sections 1 to 5.
package sources

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"net/mail"
	"strconv"
	"strings"

	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// The runs of this stop.
const (
	runFetch  = "fetch"
	runIntake = "intake"
	runIndex  = "index"
)

// Stop is the use cases of Sources.
type Stop struct {
	stops.Deps
	opened openedFiles
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(runFetch, st.doFetch)
	q.Handle(runIntake, st.doIntake)
	q.Handle(runIndex, st.doIndex)
	q.Handle(stops.RunPictures, st.doPictures)
}

// Resume takes up what was begun and that no run is at any more.
func (st *Stop) Resume(ctx context.Context) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		feeds, err := tx.FeedsWithoutRun(runIntake)
		for i := 0; err == nil && i < len(feeds); i++ {
			err = st.queueIntake(tx, &feeds[i])
		}
		return err
	})
}

// NewSource is what a new source is made of. Amounts are texts in major units
// of Currency.
type NewSource struct {
	Supplier string            `json:"supplier" minLength:"1" maxLength:"120" doc:"Who sells to us"`
	Name     string            `json:"name,omitempty" maxLength:"120" doc:"What to call this way their products reach us; the supplier's name unless said"`
	Address  string            `json:"address,omitempty" maxLength:"2000" doc:"Where to fetch from; empty for files brought in by hand"`
	Currency string            `json:"currency" minLength:"3" maxLength:"3" doc:"ISO 4217"`
	Charge   string            `json:"charge,omitempty" doc:"Delivery they charge for one order"`
	FreeFrom string            `json:"free_from,omitempty" doc:"Order value from which delivery is free"`
	Days     int64             `json:"days,omitempty" minimum:"0" doc:"Working days they take to deliver"`
	Tax      string            `json:"tax,omitempty" enum:"without,got back,kept" doc:"Whether their costs have tax in them: without; with tax that the seller gets back; with tax that stays a cost. Until it and the charge are said, nothing of theirs is priced"`
	TaxRate  string            `json:"tax_rate,omitempty" doc:"At which rate the costs have tax in them, as a percentage"`
	Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where a person chose"`
	Mode     string            `json:"mode,omitempty" enum:"full,update" doc:"full: what it lists is all there is; update: only some rows or columns"`
	Every    int64             `json:"every,omitempty" minimum:"0" doc:"Minutes between two fetches; 0: only when asked"`
	Username string            `json:"username,omitempty"`
	Password string            `json:"password,omitempty" doc:"Kept encrypted"`
}

// source checks what a person wrote and makes its row.
func (st *Stop) source(n NewSource) (store.Source, error) {
	cur := money.Currency(strings.ToUpper(strings.TrimSpace(n.Currency)))
	if !cur.Valid() {
		return store.Source{}, fault.At("currency", "%q is not a currency code such as GBP", n.Currency)
	}
	s := store.Source{
		Name:      n.Name,
		Kind:      "file",
		Mode:      cmp.Or(n.Mode, "full"),
		Address:   n.Address,
		Currency:  string(cur),
		Every:     n.Every,
		LookUp:    true,
		Username:  n.Username,
		CreatedAt: st.Now(),
	}
	switch {
	case n.Address == "":
	case strings.HasPrefix(n.Address, "http://"), strings.HasPrefix(n.Address, "https://"):
		s.Kind = "address"
	case st.IsFolder(n.Address):
		s.Kind = "folder" // which it is, is looked at as it is written
		s.Every = cmp.Or(s.Every, 1)
	default:
		return s, fault.At(
			"address",
			"%q is neither an address such as https://supplier.example/prices.csv nor a folder of this machine that was named, such as /srv/prices",
			n.Address,
		)
	}
	if err := setTax(&s, n.Tax, n.TaxRate); err != nil {
		return s, err
	}
	if len(n.Columns) > 0 {
		text, err := json.Marshal(feed.Settings{Columns: n.Columns})
		if err != nil {
			return s, err
		}
		s.Reading = string(text)
	}
	if n.Password != "" {
		sealed, err := st.Store.Seal(n.Password)
		if err != nil {
			return s, err
		}
		s.Password = sealed
	}
	return s, nil
}

// Make makes a source, and its supplier where there is none of that name. What
// the supplier charges for delivery holds for all its sources of the currency.
func (st *Stop) Make(ctx context.Context, n NewSource) (store.Source, error) {
	return st.make(ctx, n, "")
}

func (st *Stop) make(ctx context.Context, n NewSource, kind string) (store.Source, error) {
	n.Supplier, n.Name, n.Address = strings.TrimSpace(n.Supplier), strings.TrimSpace(n.Name), strings.TrimSpace(n.Address)
	if n.Supplier == "" {
		return store.Source{}, fault.At("supplier", "say which supplier this is")
	}
	n.Name = cmp.Or(n.Name, n.Supplier)
	s, err := st.source(n)
	if err != nil {
		return s, err
	}
	s.Kind = cmp.Or(kind, s.Kind)
	s.LookUp = kind != kindList
	s.CostsUnsaid = s.CostsUnsaid && s.Kind != kindList && s.Kind != store.KindHand // what a person types, costs them that
	terms := store.SupplierTerm{Currency: s.Currency, Days: n.Days}
	if err := delivery(&terms, n.Charge, n.FreeFrom); err != nil {
		return s, err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		if _, there, err := tx.SourceNamed(n.Name); err != nil || there {
			if there {
				return fault.Taken("name", "there is a source called %s already; choose it, or give this one another name", n.Name)
			}
			return err
		}
		sup, err := tx.SupplierNamed(n.Supplier, st.Now())
		if err != nil {
			return err
		}
		s.SupplierID, s.Supplier = sup.ID, sup
		if s.Kind == "folder" {
			if s.Address, err = st.NameFolder(tx, "address", n.Address); err != nil {
				return err
			}
		}
		was, err := tx.TermsOf(sup.ID, s.Currency) // what another source of theirs says besides stays
		if err != nil {
			return err
		}
		known, err := tx.HasTerms(sup.ID, s.Currency)
		if err != nil {
			return err
		}
		s.CostsUnsaid = s.CostsUnsaid || strings.TrimSpace(n.Charge) == "" && !known && s.Kind != kindList && s.Kind != store.KindHand
		if err := tx.Create(&s); err != nil {
			return err
		}
		if n.Charge != "" || n.FreeFrom != "" || n.Days != 0 {
			terms.SupplierID, terms.Mail, terms.Least, terms.Duty = sup.ID, was.Mail, was.Least, was.Duty
			if err := tx.PutTerms(st.Now(), &terms); err != nil {
				return err
			}
		}
		tx.Changed("sources", "counts")
		return tx.Note(st.Now(), "source made", s.Name, s.Address)
	})
	return s, err
}

// The ways that costs can have tax in them.
const (
	taxWithout = "without"
	taxBack    = "got back"
	taxKept    = "kept"
)

// setTax says whether a source's costs have tax in them, and whether it is got back.
func setTax(s *store.Source, way, rate string) error {
	switch way {
	case "":
		s.CostsUnsaid = true
		return nil
	case taxWithout:
		s.CostTax, s.CostTaxBack, s.CostsUnsaid = 0, false, false
		return nil
	}
	if strings.TrimSpace(rate) == "" {
		return fault.At("tax_rate", "say at which rate their costs have tax in them, such as 20%%")
	}
	v, err := stops.Share("tax_rate", rate)
	if err != nil || v <= 0 || v > money.One {
		return fault.At("tax_rate", "%q is not a rate of tax such as 20%%", rate)
	}
	s.CostTax, s.CostTaxBack, s.CostsUnsaid = int64(v), way == taxBack, false
	return nil
}

// taxOf is how a source's tax is written; "" where nobody has said it.
func taxOf(s *store.Source) (way, rate string) {
	switch {
	case s.CostTaxBack:
		return taxBack, money.Rate(s.CostTax).String()
	case s.CostTax > 0:
		return taxKept, money.Rate(s.CostTax).String()
	case s.CostsUnsaid:
		return "", ""
	}
	return taxWithout, ""
}

// delivery reads what delivery costs, as texts; an empty one is nothing, or never free.
func delivery(t *store.SupplierTerm, charge, freeFrom string) (err error) {
	cur := money.Currency(t.Currency)
	if t.Charge, err = stops.Amount("charge", cmp.Or(charge, money.Of(0, cur).String()), cur); err != nil {
		return err
	}
	if t.FreeFrom = nil; strings.TrimSpace(freeFrom) != "" {
		v, err := stops.Amount("free_from", freeFrom, cur)
		if err != nil {
			return err
		}
		t.FreeFrom = &v
	}
	return nil
}

// SourceSettings are what a person sets of a source. Amounts are texts in major
// units of its currency. What delivery costs is the supplier's, and the same
// for all its sources of that currency.
type SourceSettings struct {
	Version    int64             `json:"version,omitempty" doc:"Of what is set; for If-Match"`
	Mode       string            `json:"mode" enum:"full,update"`
	Every      int64             `json:"every" minimum:"0" maximum:"10080" doc:"Minutes between two looks; 0: only when asked"`
	LookUp     bool              `json:"look_up" doc:"Look new products up on every site by themselves"`
	Charge     string            `json:"charge" doc:"Delivery the supplier charges for one order"`
	Least      string            `json:"least,omitempty" doc:"The least that one purchase may be; empty: any"`
	OrdersTo   string            `json:"orders_to,omitempty" maxLength:"320" doc:"Mail address that the supplier takes orders at"`
	FreeFrom   string            `json:"free_from" doc:"Order value from which delivery is free; empty: never"`
	Tax        string            `json:"tax,omitempty" enum:"without,got back,kept" doc:"Whether their costs have tax in them, as create-source takes it; empty: nobody has said"`
	TaxRate    string            `json:"tax_rate,omitempty" doc:"At which rate, as a percentage"`
	Duty       string            `json:"duty,omitempty" doc:"Percentage of goods and delivery; empty: none"`
	Days       int64             `json:"days" minimum:"0" maximum:"365"`
	SomeStock  int64             `json:"some_stock" minimum:"1" maximum:"100000" doc:"What 'in stock' without a number means"`
	StockWords map[string]string `json:"stock_words" doc:"Their own words for stock: word to a number, 'some' or 'ended'"`
	Words      map[string]string `json:"words" doc:"Their own column names: name to field"`
	Decimal    string            `json:"decimal" enum:",comma,point" doc:"Decimal sign where a column's values don't prove one"`
	WeightUnit string            `json:"weight_unit" enum:",g,kg,oz,lb"`
	LengthUnit string            `json:"length_unit" enum:",mm,cm,m,in,ft"`
	Guards     supply.Guards     `json:"guards"`
	Username   string            `json:"username" maxLength:"200"`
	Password   string            `json:"password" maxLength:"500" doc:"Empty leaves the kept one as it is; kept encrypted, never shown"`
}

// Edition implements stops.Edited.
func (s SourceSettings) Edition() int64 { return s.Version }

// Settings are a source's settings as they are.
func (st *Stop) Settings(ctx context.Context, sourceID int64) (SourceSettings, error) {
	s, err := st.Store.SourceOf(ctx, sourceID)
	if err != nil {
		return SourceSettings{}, err
	}
	terms, err := st.Store.Reading(ctx).TermsOf(s.SupplierID, s.Currency)
	if err != nil {
		return SourceSettings{}, err
	}
	return st.settings(&s, terms)
}

func (st *Stop) settings(s *store.Source, terms store.SupplierTerm) (SourceSettings, error) {
	reading, err := st.settingsOf(s)
	if err != nil {
		return SourceSettings{}, err
	}
	guards, err := s.SupplyGuards()
	if err != nil {
		return SourceSettings{}, err
	}
	cur := money.Currency(s.Currency)
	out := SourceSettings{
		Version:  s.Version,
		Mode:     s.Mode,
		Every:    s.Every,
		LookUp:   s.LookUp,
		Charge:   money.Of(terms.Charge, cur).String(),
		OrdersTo: terms.Mail,
		Duty:     money.Rate(terms.Duty).String(),
		Days:     terms.Days,
		SomeStock: cmp.Or(
			max(reading.SomeStock, 0),
			5,
		),
		StockWords: map[string]string{},
		Words:      map[string]string{},
		WeightUnit: reading.WeightUnit,
		LengthUnit: reading.LengthUnit,
		Decimal:    map[string]string{",": "comma", ".": "point"}[reading.Decimal],
		Guards:     guards,
		Username:   s.Username,
	}
	out.Tax, out.TaxRate = taxOf(s)
	if s.CostsUnsaid && terms.Charge == 0 {
		out.Charge = ""
	}
	if terms.Least > 0 {
		out.Least = money.Of(terms.Least, cur).String()
	}
	if terms.FreeFrom != nil {
		out.FreeFrom = money.Of(*terms.FreeFrom, cur).String()
	}
	for w, x := range reading.StockWords {
		switch {
		case x.State == supply.StockEnded:
			out.StockWords[w] = "ended"
		case x.Count < 0:
			out.StockWords[w] = "some"
		default:
			out.StockWords[w] = strconv.FormatInt(x.Count, 10)
		}
	}
	for w, f := range reading.Words {
		out.Words[w] = f
	}
	return out, nil
}

// SetSettings keeps a source's settings. The next feed is read by them; what is
// offered of it is worked out anew.
func (st *Stop) SetSettings(ctx context.Context, sourceID int64, edit stops.IfMatch, in SourceSettings) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		s, err := tx.SourceOf(sourceID)
		if err != nil {
			return err
		}
		was, err := tx.TermsOf(s.SupplierID, s.Currency)
		if err != nil {
			return err
		}
		now, err := st.settings(&s, was)
		if err != nil {
			return err
		}
		if err := edit.Check(s.Version, "the settings of "+s.Name, now); err != nil {
			return err
		}
		if s.CostsUnsaid && strings.TrimSpace(in.Charge) == "" {
			return fault.At("charge", "say what they charge to deliver one order; 0 where nothing")
		}
		terms := store.SupplierTerm{SupplierID: s.SupplierID, Currency: s.Currency, Days: in.Days}
		if err := delivery(&terms, in.Charge, in.FreeFrom); err != nil {
			return err
		}
		duty, err := stops.Share("duty", cmp.Or(in.Duty, "0"))
		if err != nil || duty < 0 {
			return fault.At("duty", "%q is not a percentage such as 4.2%%", in.Duty)
		}
		terms.Duty = int64(duty)
		if terms.Least, err = stops.Amount("least", cmp.Or(strings.TrimSpace(in.Least), money.Of(0, money.Currency(s.Currency)).String()), money.Currency(s.Currency)); err != nil {
			return err
		}
		if terms.Mail, err = ordersTo(ctx, in.OrdersTo, was.Mail); err != nil {
			return err
		}
		change, err := st.change(&s, in)
		if err != nil {
			return err
		}
		if in.Tax != "" { // who doesn't say it leaves it
			if err := setTax(&s, in.Tax, in.TaxRate); err != nil {
				return err
			}
		}
		change["cost_tax"], change["cost_tax_back"], change["costs_unsaid"] = s.CostTax, s.CostTaxBack, s.CostsUnsaid
		change["version"] = s.Version + 1
		if err := tx.Update(&store.Source{ID: s.ID}, change); err != nil {
			return err
		}
		if in.LookUp && !s.LookUp {
			if err := tx.AskWeighedOf(s.ID); err != nil {
				return err
			}
		}
		if err := tx.PutTerms(st.Now(), &terms); err != nil {
			return err
		}
		if err := tx.DirtySource(st.Now(), s.ID); err != nil {
			return err
		}
		tx.Changed("sources")
		return tx.Note(st.Now(), "source set", s.Name, "")
	})
}

// ordersTo reads the address that a supplier takes orders at. Buyers' names and
// addresses go there: only the owner changes it.
func ordersTo(ctx context.Context, text, was string) (string, error) {
	text = strings.TrimSpace(text)
	if text == was {
		return text, nil
	}
	if !actor.Asking(ctx).May.Has(actor.Settings) {
		return "", &fault.Error{Kind: fault.Forbidden, Field: "orders_to", Words: "buyers' names and addresses go to this address, so only the owner changes it; leave it as it was"}
	}
	if text == "" {
		return "", nil
	}
	a, err := mail.ParseAddress(text)
	if err != nil {
		return "", fault.At("orders_to", "%q is no mail address", text)
	}
	return a.Address, nil
}

// change is what settings change of a source's row.
func (st *Stop) change(s *store.Source, in SourceSettings) (map[string]any, error) {
	reading, err := st.settingsOf(s)
	if err != nil {
		return nil, err
	}
	reading.SomeStock, reading.WeightUnit, reading.LengthUnit = in.SomeStock, in.WeightUnit, in.LengthUnit
	reading.Decimal = map[string]string{"comma": ",", "point": "."}[in.Decimal]
	reading.StockWords, reading.Words = map[string]supply.Stock{}, map[string]string{}
	for word, means := range in.StockWords {
		x := supply.Stock{State: supply.StockKnown}
		switch n, err := strconv.ParseInt(strings.TrimSpace(means), 10, 64); {
		case means == "some":
			x.Count = -1
		case means == "ended":
			x.State = supply.StockEnded
		case err == nil && n >= 0:
			x.Count = n
		default:
			return nil, fault.At("stock_words", "%q must mean a number, some or ended, not %q", word, means)
		}
		if w := feed.StockWord(word); w != "" {
			reading.StockWords[w] = x
		}
	}
	for name, field := range in.Words {
		if !feed.IsField(field) {
			return nil, fault.At("words", "%q is no field that a column is read as", field)
		}
		reading.Words[feed.ColumnWord(name)] = field
	}
	g := in.Guards
	for _, x := range []struct {
		share *int64
		usual int64
	}{{&g.MostOther, supply.DefaultGuards.MostOther}, {&g.MostJumped, supply.DefaultGuards.MostJumped}, {&g.MostTogether, supply.DefaultGuards.MostTogether}} {
		if *x.share == 0 {
			*x.share = x.usual
		}
	}
	for _, share := range []int64{g.FewestRows, g.MostAside, g.MostMoved, g.MostToZero, g.MostOther, g.MostJumped, g.MostTogether} {
		if share < 0 || share > 100 {
			return nil, fault.At("guards", "shares are from 0 to 100 %%")
		}
	}
	switch {
	case g.MissingGone < 1:
		return nil, fault.At("guards", "a product is missing from at least one feed before it is gone")
	case g.StaleHours < 0 || g.StaleHours > 24*365:
		return nil, fault.At("guards", "a source is silent for at most a year before its stock counts as unknown; 0 is by how its feeds come")
	}
	text, err := json.Marshal(reading)
	if err != nil {
		return nil, err
	}
	guards, err := json.Marshal(g)
	if err != nil {
		return nil, err
	}
	change := map[string]any{
		"mode":     in.Mode,
		"every":    in.Every,
		"look_up":  in.LookUp,
		"reading":  string(text),
		"guards":   string(guards),
		"username": in.Username,
	}
	if in.Password != "" {
		sealed, err := st.Store.Seal(in.Password)
		if err != nil {
			return nil, err
		}
		change["password"] = sealed
	}
	return change, nil
}

// settingsOf are the settings a source's files are read under.
func (st *Stop) settingsOf(s *store.Source) (feed.Settings, error) {
	out := feed.Settings{}
	if s.Reading != "" {
		if err := json.Unmarshal([]byte(s.Reading), &out); err != nil {
			return out, fmt.Errorf("settings of %s: %w", s.Name, err)
		}
	}
	out.Currency, out.Update, out.Now, out.Doubts = money.Currency(s.Currency), s.Mode == "update", st.Now(), true
	out.Guess = s.TakenAt == nil // later a header that isn't found holds the feed: it isn't guessed anew
	return out, nil
}
