package shop

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/mail"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/tally"
	"easymargin/internal/edge"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// mostUnits is how many of one thing a basket takes, and mostLines how many things.
const (
	mostUnits = 99
	mostLines = 50
)

// basket is what somebody wants. Price is what they saw, so that another is said.
type basket struct {
	token string // of the cookie; "": they have none yet
	Lines []wanted
}

type wanted struct {
	SKU      string `json:"sku"`
	Quantity int64  `json:"quantity"`
	Price    int64  `json:"price"`
}

const cookieName = "basket"

// digest is how a basket's token is kept.
func digest(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// basketOf is the basket of whoever asks.
func (s *server) basketOf(r *http.Request, tx store.Tx) (basket, error) {
	c, err := r.Cookie(cookieName)
	if err != nil || c.Value == "" || len(c.Value) > 100 {
		return basket{}, nil
	}
	b := basket{token: c.Value}
	row, there, err := tx.Basket(digest(c.Value))
	if err != nil || !there {
		return basket{}, err // a token that we didn't give is none: whoever chose it would know it
	}
	b.Lines, err = linesOf(&row)
	return b, err
}

// linesOf are a kept basket's lines, each with as many as a basket may have.
func linesOf(row *store.ShopBasket) ([]wanted, error) {
	var lines []wanted
	if err := json.Unmarshal([]byte(row.Content), &lines); err != nil {
		return nil, fmt.Errorf("a basket: %w", err)
	}
	for i := range lines {
		lines[i].Quantity = min(max(lines[i].Quantity, 1), mostUnits)
	}
	return lines, nil
}

// errUnits says that a form's quantity is none.
var errUnits = fault.New(fault.Invalid, "Write how many as a whole number from 1 to %d, such as 2.", mostUnits)

// units reads how many of a thing a form asks for. Nothing written is one, and
// least is the fewest that may be asked for.
func units(text string, least int64) (int64, error) {
	if text = strings.TrimSpace(text); text == "" {
		return 1, nil
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil || n < least || n > mostUnits {
		return 0, errUnits
	}
	return n, nil
}

// changeBasket puts a thing into the basket, or has as many of one in it as are said.
func (s *server) changeBasket(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<14)
	sku, add := r.PostFormValue("sku"), r.PostFormValue("add") != ""
	least := int64(0) // none takes it out
	if add {
		least = 1
	}
	n, err := units(r.PostFormValue("quantity"), least)
	if err != nil {
		s.showBasket(w, r, http.StatusUnprocessableEntity, err.Error())
		return
	}
	token, err := s.changed(r, sku, n, add)
	if words, mendable := mended(err); mendable {
		s.showBasket(w, r, http.StatusConflict, words)
		return
	}
	if err != nil {
		s.failed(w, err)
		return
	}
	http.SetCookie(w, &http.Cookie{Name: cookieName, Value: token, Path: "/", MaxAge: 30 * 24 * 3600, HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.Secure || edge.TLS(r)})
	http.Redirect(w, r, "/basket", http.StatusSeeOther)
}

// changed keeps the basket with so many of a thing, or so many more, and gives its
// token: a new one where the last was bought.
func (s *server) changed(r *http.Request, sku string, n int64, add bool) (string, error) {
	var token string
	err := s.Store.Do(r.Context(), func(tx store.Tx) error {
		site, err := tx.ShopSite()
		if err != nil {
			return err
		}
		b, err := s.basketOf(r, tx)
		if err != nil {
			return err
		}
		if token = b.token; token == "" {
			token = rand.Text()
		}
		found, err := tx.OnShelf(site.ID, []string{sku})
		if err != nil {
			return err
		}
		row, there := found[sku]
		at := slices.IndexFunc(b.Lines, func(l wanted) bool { return l.SKU == sku })
		if add && at >= 0 {
			n += b.Lines[at].Quantity // both are at most mostUnits
		}
		switch {
		case add && (!there || row.Quantity == 0):
			return fault.New(fault.Conflict, "This is out of stock now; nothing was put into your basket.")
		case there && n > mostUnits:
			return fault.New(fault.Conflict, "A basket takes at most %d of one thing; yours is as it was.", mostUnits)
		case there && n > row.Quantity:
			return fault.New(fault.Conflict, "Only %d are left of this; your basket is as it was.", row.Quantity)
		case n == 0 || !there:
			b.Lines = slices.DeleteFunc(b.Lines, func(l wanted) bool { return l.SKU == sku })
		case at >= 0:
			b.Lines[at].Quantity, b.Lines[at].Price = n, row.Price
		case len(b.Lines) >= mostLines:
			return fault.New(fault.Conflict, "A basket holds %d different things; buy these first.", mostLines)
		default:
			b.Lines = append(b.Lines, wanted{sku, n, row.Price})
		}
		raw, err := json.Marshal(b.Lines)
		if err != nil {
			return err
		}
		return tx.Save(&store.ShopBasket{Token: digest(token), SiteID: site.ID, Content: string(raw), SeenAt: s.Now()})
	})
	return token, err
}

// priced is a basket as it costs now.
type priced struct {
	Lines    []pricedLine
	Goods    int64
	Delivery int64 // of the one parcel that all goes in
	Total    int64
	Tax      int64 // that is in Total
	TaxRate  money.Rate
	Country  string
	Words    string // that say what is to be seen to
	Good     bool   // it can be bought as it is
	Form     address
}

type pricedLine struct {
	card
	SKU      string
	Quantity int64
	Left     int64
	Sum      int64
	Delivery int64
	Note     string
	wrong    bool
}

// price works out what a basket costs now, line by line.
func price(v *seen, b basket) (priced, error) {
	out := priced{Country: v.site.Code, Good: len(b.Lines) > 0}
	skus := make([]string, len(b.Lines))
	for i, l := range b.Lines {
		skus[i] = l.SKU
	}
	rows, err := v.tx.OnShelf(v.site.ID, skus)
	if err != nil {
		return out, err
	}
	posted := map[string]int64{} // units of what goes by the site's postage
	for _, l := range b.Lines {
		row, there := rows[l.SKU]
		if !there {
			out.Lines, out.Good = append(out.Lines, pricedLine{SKU: l.SKU, Quantity: l.Quantity, Note: "It is no longer sold here; take it out.", wrong: true}), false
			continue
		}
		c, err := contentOf(&row)
		if err != nil {
			return out, err
		}
		x := pricedLine{SKU: l.SKU, Quantity: l.Quantity, Left: row.Quantity}
		if own, says := ownDelivery(c, &v.site); says {
			x.Delivery = own
		} else {
			posted[l.SKU] += l.Quantity
		}
		sum, ok := money.Times(row.Price, l.Quantity)
		if x.Sum = sum; !ok || !money.Believed(x.Delivery) {
			return out, fmt.Errorf("%s: a price or a delivery of it is beyond what one can be", row.SKU)
		}
		if x.card, err = cardOf(&row, v.site.Currency); err != nil {
			return out, err
		}
		switch {
		case row.Quantity == 0:
			x.Note, x.wrong = "It is out of stock now; take it out.", true
		case row.Quantity < l.Quantity:
			x.Note, x.wrong = fmt.Sprintf("Only %d are left.", row.Quantity), true
		case row.Price != l.Price:
			x.Note = "Its price was " + shown(l.Price, v.site.Currency) + " when you put it in."
		}
		out.Good = out.Good && !x.wrong
		out.Goods, out.Delivery = out.Goods+x.Sum, max(out.Delivery, x.Delivery)
		out.Lines = append(out.Lines, x)
	}
	if err := out.post(v, posted); err != nil {
		return out, err
	}
	return out, out.comesTo(&v.site, v.now)
}

// post adds what the site's postage asks for what is in the parcel. A parcel that no
// band of it takes can't be bought as it is, and that is said.
func (p *priced) post(v *seen, units map[string]int64) error {
	if len(units) == 0 {
		return nil
	}
	charge, err := reckon.BuyerPays(v.tx, &v.site, units, p.Goods, v.now)
	if reckon.CantBePosted(err) {
		p.Good, p.Words = false, "This is more than one parcel can hold. Take something out, or order it in parts."
		return nil
	}
	p.Delivery = max(p.Delivery, charge)
	return err
}

// comesTo shares what the parcel costs over the lines, and says what tax is in all of it.
func (p *priced) comesTo(site *store.Site, at time.Time) error {
	o := tally.Order{TaxIncluded: true, Delivery: p.Delivery}
	if site.TaxWay == string(pricing.TaxIncluded) {
		rate, err := site.TaxOn(site.Code, at)
		if err != nil {
			return err
		}
		p.TaxRate = money.Rate(rate)
	}
	for _, l := range p.Lines {
		o.Lines = append(o.Lines, tally.Line{Units: max(l.Quantity, 1), Price: l.Price, Rate: p.TaxRate})
	}
	t, err := tally.Of(&o)
	if err != nil {
		return err
	}
	for i := range p.Lines {
		p.Lines[i].Delivery = t.Lines[i].Delivery
	}
	p.Total, p.Tax = t.Total.Paid, t.Total.Tax
	return nil
}

func (s *server) basket(w http.ResponseWriter, r *http.Request) {
	s.showBasket(w, r, http.StatusOK, "")
}

func (s *server) showBasket(w http.ResponseWriter, r *http.Request, status int, words string) {
	s.withBasket(w, r, func(v *seen, p priced) {
		p.Words = cmp.Or(words, p.Words)
		s.show(w, r, v, status, "basket", view{Title: "Your basket", Data: p})
	})
}

func (s *server) withBasket(w http.ResponseWriter, r *http.Request, do func(v *seen, p priced)) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	b, err := s.basketOf(r, v.tx)
	if err != nil {
		s.failed(w, err)
		return
	}
	p, err := price(v, b)
	if err != nil {
		s.failed(w, err)
		return
	}
	do(v, p)
}

// address is the form of the checkout, with what is wrong with its fields.
type address struct {
	Name, Mail, Street, More, Town, Postcode string
	Wrong                                    map[string]string
}

func (a *address) read(r *http.Request) {
	get := func(name string, most int) string {
		text := place.OneLine(strings.TrimSpace(strings.ToValidUTF8(r.PostFormValue(name), "")))
		if c := []rune(text); len(c) > most {
			text = string(c[:most])
		}
		return text
	}
	a.Name, a.Mail, a.Street, a.More = get("name", 100), get("mail", 200), get("street", 120), get("more", 120)
	a.Town, a.Postcode = get("town", 80), get("postcode", 20)
	a.Wrong = map[string]string{}
	for field, text := range map[string]string{"name": a.Name, "street": a.Street, "town": a.Town, "postcode": a.Postcode} {
		if text == "" {
			a.Wrong[field] = "This is needed for the parcel."
		}
	}
	if m, err := mail.ParseAddress(a.Mail); err != nil || m.Address != a.Mail || !strings.Contains(a.Mail, ".") {
		a.Wrong["mail"] = "Write an address such as name@post.example, for the confirmation."
	}
}

// field is one field of the form.
type field struct {
	Name, Label, Value, Auto, Wrong string
	Optional                        bool
}

// Fields are the form's, in the order in which an address is written.
func (a address) Fields() []field {
	return []field{
		{"name", "Name", a.Name, "name", a.Wrong["name"], false}, {"mail", "Mail address", a.Mail, "email", a.Wrong["mail"], false},
		{"street", "Street and number", a.Street, "address-line1", a.Wrong["street"], false}, {"more", "More of the address, if there is any", a.More, "address-line2", "", true},
		{"town", "Town", a.Town, "address-level2", a.Wrong["town"], false}, {"postcode", "Postcode", a.Postcode, "postal-code", a.Wrong["postcode"], false},
	}
}

func (a *address) buyer(country string) place.Buyer {
	b := place.Buyer{Name: a.Name, Mail: a.Mail, Country: country}
	for _, line := range []string{a.Street, a.More, a.Town, a.Postcode} {
		if line != "" {
			b.Address = append(b.Address, line)
		}
	}
	return b
}

func (s *server) checkout(w http.ResponseWriter, r *http.Request) {
	s.withBasket(w, r, func(v *seen, p priced) {
		if !p.Good {
			http.Redirect(w, r, "/basket", http.StatusSeeOther)
			return
		}
		s.show(w, r, v, http.StatusOK, "checkout", view{Title: "Where it goes", Data: p})
	})
}

// errShort says that something of a basket can't be had any more as it was shown.
var errShort = errors.New("something of the basket was sold meanwhile, or its price changed")

// buy makes an order of the basket: one, however often it is asked for.
func (s *server) buy(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<15)
	var form address
	form.read(r)
	s.withBasket(w, r, func(v *seen, p priced) {
		again := func(words string) {
			p.Form, p.Words = form, words
			s.show(w, r, v, http.StatusUnprocessableEntity, "checkout", view{Title: "Where it goes", Data: p})
		}
		token := ""
		if c, err := r.Cookie(cookieName); err == nil {
			token = c.Value
		}
		if o, bought, err := v.tx.ShopOrderOf(digest(token)); err != nil {
			s.failed(w, err)
			return
		} else if bought { // a doubled click: the order is made
			http.Redirect(w, r, orderLink(o.Ref, token), http.StatusSeeOther)
			return
		}
		total, err := strconv.ParseInt(r.PostFormValue("total"), 10, 64)
		switch {
		case r.PostFormValue("website") != "": // a field that no person sees
			again("This order was filled in by a program, it seems. Leave the field that isn't shown empty.")
			return
		case !p.Good:
			http.Redirect(w, r, "/basket", http.StatusSeeOther)
			return
		case len(form.Wrong) > 0:
			again("Look at what is marked below; nothing was bought yet.")
			return
		case err != nil || total != p.Total:
			again("It comes to " + shown(p.Total, v.site.Currency) + " now. Nothing was bought yet: look at it and order again.")
			return
		}
		ref, err := s.sell(r.Context(), token, p.Total, form)
		switch {
		case errors.Is(err, errShort):
			s.showBasket(w, r, http.StatusConflict, "Something was sold or changed its price while you were here. Nothing was bought yet: look at your basket.")
		case err != nil:
			s.failed(w, err)
		default:
			http.Redirect(w, r, orderLink(ref, token), http.StatusSeeOther)
		}
	})
}

// orderLink is the address of an order made of a basket.
func orderLink(ref, token string) string {
	return "/order/" + url.PathEscape(ref) + "?key=" + url.QueryEscape(orderKey(token))
}

// orderKey is the key of the order made of a basket: from it nobody learns the token
// of the basket, by which its buyer is known.
func orderKey(token string) string { return digest("order of " + token)[:40] }

// sell makes the order in one transaction: what is bought leaves the shelves, is
// promised on every other site, and the basket is gone; or nothing of it happened.
func (s *server) sell(ctx context.Context, token string, total int64, form address) (ref string, err error) {
	err = s.Store.Do(ctx, func(tx store.Tx) error {
		if o, bought, err := tx.ShopOrderOf(digest(token)); err != nil || bought {
			ref = o.Ref
			return err
		}
		site, err := tx.ShopSite()
		if err != nil {
			return err
		}
		row, there, err := tx.Basket(digest(token))
		if err != nil || !there {
			return errors.Join(err, errShort)
		}
		b := basket{token: token}
		if b.Lines, err = linesOf(&row); err != nil {
			return err
		}
		p, err := price(&seen{tx: tx, site: site, now: s.Now()}, b)
		if err != nil {
			return err
		}
		if !p.Good || p.Total != total {
			return errShort
		}
		now := s.Now()
		o := place.Order{Ref: "S-" + rand.Text()[:8], Placed: now, Currency: site.Currency, Buyer: form.buyer(site.Code)}
		var lines []soldLine
		for i, x := range p.Lines {
			if err := tx.TakeOffShelf(site.ID, x.SKU, x.Quantity); err != nil {
				return err
			}
			l := place.OrderLine{Ref: strconv.Itoa(i + 1), SKU: x.SKU, Title: x.Title, Quantity: x.Quantity, Price: x.Price, Delivery: x.Delivery}
			o.Lines, lines = append(o.Lines, l), append(lines, soldLine{OrderLine: l, TaxRate: p.TaxRate})
		}
		buyer, err := json.Marshal(o.Buyer)
		if err != nil {
			return err
		}
		raw, err := json.Marshal(lines)
		if err != nil {
			return err
		}
		ref = o.Ref
		if err := tx.PutShopOrder(&store.ShopOrder{SiteID: site.ID, Ref: ref, Basket: digest(token), Key: digest(orderKey(token)), PlacedAt: now, Currency: site.Currency, Total: p.Total,
			Buyer: string(buyer), Lines: string(raw)}); err != nil {
			return err
		}
		looks, _, err := LooksOf(tx, &site)
		if err != nil {
			return err
		}
		if err := tx.DropBasket(digest(token)); err != nil {
			return err
		}
		if err := mailBuyer(tx, now, &o, looks.Name+": your order "+ref, confirmation(&looks, &o, &p)); err != nil {
			return err
		}
		return s.Sold(tx, &site, []place.Order{o})
	})
	return ref, err
}

// confirmation is the mail that says what was bought.
func confirmation(l *Looks, o *place.Order, p *priced) string {
	var out strings.Builder
	fmt.Fprintf(&out, "Thank you for your order %s.\n\n", o.Ref)
	for _, x := range o.Lines {
		fmt.Fprintf(&out, "%d × %s  %s\n", x.Quantity, place.OneLine(x.Title), shown(x.Quantity*x.Price, o.Currency))
	}
	fmt.Fprintf(&out, "Delivery  %s\nIn all  %s\n", shown(p.Delivery, o.Currency), shown(p.Total, o.Currency))
	if p.TaxRate > 0 {
		fmt.Fprintf(&out, "Tax in it, at %s  %s\n", p.TaxRate, shown(p.Tax, o.Currency))
	}
	fmt.Fprintf(&out, "\nIt goes to:\n%s\n", o.Buyer.Name)
	for _, line := range append(slices.Clone(o.Buyer.Address), o.Buyer.Country) {
		fmt.Fprintln(&out, line)
	}
	fmt.Fprintf(&out, "\nYou get another mail when it is on its way.\n%s\n", l.Name)
	return out.String()
}

// bought is an order as its buyer sees it.
type bought struct {
	Ref   string
	Order place.Order
	Lines []boughtLine
	Goods int64
	Sent  int64 // delivery
	Total int64
	Back  int64 // given back
	Tax   int64 // in what wasn't
	Rate  money.Rate
}

type boughtLine struct {
	soldLine
	Words string
	Sum   int64
}

// order shows an order to whoever has its key, in the mail or in the cookie.
func (s *server) order(w http.ResponseWriter, r *http.Request) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	ref, err := url.PathUnescape(chi.URLParam(r, "ref"))
	if err != nil {
		ref = ""
	}
	row, there, err := v.tx.ShopOrderNamed(v.site.ID, ref)
	if err != nil {
		s.failed(w, err)
		return
	}
	if !there || digest(r.URL.Query().Get("key")) != row.Key {
		s.missing(w, r, "There is no such order, or this is not its key.")
		return
	}
	o, lines, err := orderOf(&row)
	if err != nil {
		s.failed(w, err)
		return
	}
	out := bought{Ref: ref, Order: o, Total: row.Total}
	for _, l := range lines {
		x := boughtLine{soldLine: l, Words: "It is being got ready.", Sum: l.Quantity * l.Price}
		switch l.State {
		case place.OrderSent:
			x.Words = strings.TrimSpace("On its way. " + l.Carrier + " " + l.Tracking)
		case place.OrderCancelled:
			x.Words = "It can't be had after all; its money comes back."
		}
		if l.Refunded > 0 {
			x.Words += " " + shown(l.Refunded, row.Currency) + " came back to you."
		}
		out.Goods, out.Sent, out.Back = out.Goods+x.Sum, out.Sent+l.Delivery, out.Back+l.Refunded
		out.Tax, out.Rate = out.Tax+tally.TaxIn(max(x.Sum+l.Delivery-l.Refunded, 0), l.TaxRate), max(out.Rate, l.TaxRate)
		out.Lines = append(out.Lines, x)
	}
	w.Header().Set("Cache-Control", "no-store")
	s.show(w, r, v, http.StatusOK, "order", view{Title: "Your order " + ref, Data: out})
}
