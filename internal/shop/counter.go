package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// Address is that of the marketplace that is the own shop: it is written straight
// into, and asked nothing over a wire.
const Address = "shop:"

// Open is the own shop as a place to sell: it takes whole listings and says at once
// what became of them.
func Open(name string, s *store.Store, now func() time.Time) place.Place {
	c := &counter{name, s, now}
	return place.Place{Name: name, Directory: c, Outlet: c, Pictures: c, Orders: c}
}

type counter struct {
	name  string
	store *store.Store
	now   func() time.Time
}

// Sites implements place.Directory.
func (c *counter) Sites(ctx context.Context) ([]place.Site, error) {
	site, err := c.store.ShopSite(ctx)
	if err != nil {
		return nil, err
	}
	return []place.Site{{Code: site.Code, Name: site.Name, Currency: site.Currency, TaxWay: site.TaxWay, TaxRate: site.TaxRate, MaxLines: site.MaxLines, Kind: place.KindShop}}, nil
}

// Categories implements place.Directory: those that the seller wrote.
func (c *counter) Categories(ctx context.Context, code string) ([]place.Category, error) {
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(c.name, code)
	if err != nil {
		return nil, err
	}
	all, _, err := tx.ShopCategories(site.ID)
	var out []place.Category
	for _, x := range all {
		out = append(out, place.Category{Ref: x.Ref, Parent: x.Parent, Name: x.Name})
	}
	return out, err
}

// Fees implements place.Directory: what the shop costs is what the seller wrote.
func (c *counter) Fees(context.Context, string) ([]place.FeeSchedule, error) { return nil, nil }

// demands are what the shop asks of a listing, whatever its category.
const demands = `{"title":{"limit":120,"counts":"characters","parts":["brand","series","kind","colour","size"],"first_to_go":["series"]},
 "description":{"limit":8000,"html":["p","b","ul","ol","li","br","i"]},
 "attributes":[{"ref":"colour","kind":"text","need":"helps","limit":40},{"ref":"material","kind":"text","need":"helps","limit":60}],
 "pictures":{"least":1,"most":12,"kinds":["jpeg","png"]}}`

// Demands implements place.Directory.
func (c *counter) Demands(context.Context, string, string) (json.RawMessage, error) {
	return json.RawMessage(demands), nil
}

// Upload implements place.Pictures.
func (c *counter) Upload(ctx context.Context, digest, _ string, content []byte) error {
	return keepPicture(ctx, c.store, digest, content)
}

// HandOver implements place.Outlet: the lines are on the shelves when it returns, all
// of them in one transaction with what was answered, or none.
func (c *counter) HandOver(ctx context.Context, code, key string, lines []place.Line) (place.Batch, error) {
	b := place.Batch{ID: key, State: place.BatchDone}
	err := c.store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteNamed(c.name, code)
		if err != nil {
			return err
		}
		text, done, err := tx.ShopBatch(site.ID, key)
		if err != nil {
			return err
		}
		if done {
			return json.Unmarshal([]byte(text), &b.Lines)
		}
		if b.Lines, err = c.shelve(tx, &site, lines); err != nil {
			return err
		}
		raw, err := json.Marshal(b.Lines)
		if err != nil {
			return err
		}
		return tx.PutShopBatch(site.ID, key, string(raw), c.now())
	})
	if err != nil {
		return b, &place.Unreachable{Name: c.name, Err: err}
	}
	return b, nil
}

// Follow implements place.Outlet: all was said when it was handed over.
func (c *counter) Follow(ctx context.Context, code, id string) (place.Batch, error) {
	b := place.Batch{ID: id, State: place.BatchDone}
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(c.name, code)
	if err != nil {
		return b, err
	}
	text, done, err := tx.ShopBatch(site.ID, id)
	if err != nil || !done {
		return b, errors.Join(err, &place.Refusal{Name: c.name, Status: 404, Words: "no batch " + id + " came here"})
	}
	err = json.Unmarshal([]byte(text), &b.Lines)
	return b, err
}

// shelve puts lines on the shelves. What a line offers is looked at once more here,
// in the transaction that writes it: what was sold in the shop since the line was
// made is not offered again.
func (c *counter) shelve(tx store.Tx, site *store.Site, lines []place.Line) ([]place.Outcome, error) {
	skus := make([]string, len(lines))
	for i := range lines {
		skus[i] = lines[i].SKU
	}
	have, err := tx.OnShelf(site.ID, skus)
	if err != nil {
		return nil, err
	}
	forbids, err := c.forbids(tx, site, skus)
	if err != nil {
		return nil, err
	}
	outcomes := make([]place.Outcome, 0, len(lines))
	changed := map[string]store.ShopListing{}
	for i := range lines {
		l := &lines[i]
		row, there := changed[l.SKU]
		if !there {
			row, there = have[l.SKU]
		}
		out := place.Outcome{Key: l.Key, State: place.Confirmed}
		if out.Words = forbids(l); out.Words != "" {
			out.State, out.Field = place.Refused, "quantity"
		} else if field, words, err := c.put(tx, site, &row, there, l); err != nil {
			return nil, err
		} else if words != "" {
			out.State, out.Field, out.Words = place.Refused, field, words
		} else {
			changed[l.SKU] = row
		}
		outcomes = append(outcomes, out)
	}
	rows := make([]store.ShopListing, 0, len(changed))
	for _, row := range changed {
		rows = append(rows, row)
	}
	slices.SortFunc(rows, func(a, b store.ShopListing) int { return strings.Compare(a.SKU, b.SKU) })
	return outcomes, tx.PutOnShelf(rows)
}

// forbids says of lines why they may not go, as things are in this transaction.
func (c *counter) forbids(tx store.Tx, site *store.Site, skus []string) (func(l *place.Line) string, error) {
	ours, err := tx.ListingsBySKU(site.ID, skus)
	if err != nil {
		return nil, err
	}
	book, err := reckon.Open(tx, *site, c.now())
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, l := range ours {
		ids = append(ids, l.ID)
	}
	slices.Sort(ids)
	figures, err := book.FiguresOf(tx, ids, c.now())
	if err != nil {
		return nil, err
	}
	return func(l *place.Line) string {
		listing, known := ours[l.SKU]
		f := figures[listing.ID]
		switch {
		case !known:
			return "nothing of yours has this SKU"
		case f == nil && (l.Quantity == nil || *l.Quantity > 0):
			return "its product has no supplier any more"
		case f == nil:
			return ""
		}
		return book.Forbids(f, &store.SendLine{Price: l.Price, Quantity: l.Quantity})
	}, nil
}

// put changes what the shop has of a listing by a line; it says what is wrong with it
// where it can't be.
func (c *counter) put(tx store.Tx, site *store.Site, row *store.ShopListing, there bool, l *place.Line) (field, words string, err error) {
	content := &place.Content{}
	if there {
		if err := json.Unmarshal([]byte(row.Content), content); err != nil {
			return "", "", fmt.Errorf("what the shop says of %s: %w", l.SKU, err)
		}
	}
	switch {
	case !there && (l.Do != place.DoCreate || l.Content == nil):
		return "sku", "the shop has no listing " + l.SKU, nil
	case !there && (l.Price == nil || l.Quantity == nil):
		return "price", "a new listing needs a price and a quantity", nil
	case l.Do == place.DoCreate:
		content = l.Content
	case l.Do == place.DoChange:
		if content, err = place.Apply(content, l.Content, l.Cleared); err != nil {
			return "", "", err
		}
	}
	if strings.TrimSpace(content.Title) == "" {
		return "title", "a listing needs a title", nil
	}
	pictures, err := c.pictures(tx, content.Pictures)
	if err != nil {
		return "", "", err
	}
	if len(pictures) < len(content.Pictures) && len(pictures) == 0 {
		return "pictures", "its pictures aren't here yet; it can be sent again once they were fetched", nil
	}
	raw, err := json.Marshal(content)
	if err != nil {
		return "", "", err
	}
	row.SiteID, row.SKU, row.Title, row.Category, row.Family, row.Content, row.ChangedAt = site.ID, l.SKU, content.Title, content.Category, content.Group, string(raw), c.now()
	row.Words = strings.Join(append([]string{content.Title, content.Brand, content.Number, l.SKU}, content.Words...), " ")
	if row.Picture = ""; len(pictures) > 0 {
		row.Picture = pictures[0]
	}
	if l.Price != nil {
		row.Price = *l.Price
	}
	if l.Quantity != nil {
		row.Quantity = *l.Quantity
	}
	return "", "", nil
}

// pictures are those of a content that the shop has, by digest: suppliers' pictures,
// which lines name by their address, are copied, so that buyers never ask a supplier.
func (c *counter) pictures(tx store.Tx, named []string) ([]string, error) {
	var out []string
	for _, p := range named {
		digest, err := digestOf(tx, p)
		if err != nil {
			return nil, err
		}
		if digest != "" && (hasPicture(c.store, digest) || copyPicture(tx.Context(), c.store, digest)) {
			out = append(out, digest)
		}
	}
	return out, nil
}

// digestOf is the picture that a line names, by an address or as it was uploaded; ""
// where it isn't here.
func digestOf(tx store.Tx, named string) (string, error) {
	if digest, uploaded := strings.CutPrefix(named, place.UploadedPicture("")); uploaded {
		return digest, nil
	}
	return tx.PictureAt(named)
}

// Listings implements place.Outlet.
func (c *counter) Listings(ctx context.Context, code, after string) ([]place.Listing, string, error) {
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(c.name, code)
	if err != nil {
		return nil, "", err
	}
	rows, err := tx.ShelfAfter(site.ID, after, 500)
	if err != nil || len(rows) == 0 {
		return nil, "", err
	}
	out := make([]place.Listing, len(rows))
	for i, r := range rows {
		out[i] = place.Listing{SKU: r.SKU, Price: r.Price, Quantity: r.Quantity, Content: &place.Content{}}
		if err := json.Unmarshal([]byte(r.Content), out[i].Content); err != nil {
			return nil, "", fmt.Errorf("what the shop says of %s: %w", r.SKU, err)
		}
	}
	return out, rows[len(rows)-1].SKU, nil
}

// soldLine is a line of an order as the shop keeps it.
type soldLine struct {
	place.OrderLine
	Carrier  string     `json:"carrier,omitempty"`
	Tracking string     `json:"tracking,omitempty"`
	Told     []string   `json:"told,omitempty"`     // keys of what was said of it
	TaxRate  money.Rate `json:"tax_rate,omitempty"` // that is in its price; 0: none
}

// orderOf is an order of the shop as places tell them.
func orderOf(row *store.ShopOrder) (place.Order, []soldLine, error) {
	o := place.Order{Ref: row.Ref, Placed: row.PlacedAt, Currency: row.Currency}
	var lines []soldLine
	err := json.Unmarshal([]byte(row.Lines), &lines)
	if err == nil && row.Buyer != "" {
		err = json.Unmarshal([]byte(row.Buyer), &o.Buyer)
	}
	if err != nil {
		return o, nil, fmt.Errorf("the shop's order %s: %w", row.Ref, err)
	}
	for _, l := range lines {
		line := l.OrderLine
		if line.State != place.OrderCancelled && line.State != place.OrderReturned {
			line.State = ""
		}
		o.Lines = append(o.Lines, line)
	}
	return o, lines, nil
}

// Orders implements place.Orders.
func (c *counter) Orders(ctx context.Context, code, since string) ([]place.Order, string, error) {
	seq, _ := strconv.ParseInt(since, 10, 64)
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(c.name, code)
	if err != nil {
		return nil, "", err
	}
	rows, err := tx.ShopOrdersSince(site.ID, seq, 100)
	if err != nil || len(rows) == 0 {
		return nil, since, err
	}
	var out []place.Order
	for i := range rows {
		o, _, err := orderOf(&rows[i])
		if err != nil {
			return nil, "", err
		}
		out = append(out, o)
	}
	return out, strconv.FormatInt(rows[len(rows)-1].Seq, 10), nil
}

// Answer implements place.Orders: the buyer's page says it, and a mail does.
func (c *counter) Answer(ctx context.Context, code, ref, key string, answers []place.OrderAnswer) error {
	return c.store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteNamed(c.name, code)
		if err != nil {
			return err
		}
		row, there, err := tx.ShopOrderNamed(site.ID, ref)
		if err != nil || !there {
			return errors.Join(err, &place.Refusal{Name: c.name, Status: 404, Words: "there is no order " + ref})
		}
		o, lines, err := orderOf(&row)
		if err != nil {
			return err
		}
		var said []string
		for _, a := range answers {
			i := slices.IndexFunc(lines, func(l soldLine) bool { return l.Ref == a.Line })
			if i < 0 {
				return &place.Refusal{Name: c.name, Status: 422, Words: "order " + ref + " has no line " + a.Line}
			}
			if words := lines[i].answer(key, &a, row.Currency); words != "" {
				said = append(said, words)
			}
		}
		if len(said) == 0 {
			return nil
		}
		raw, err := json.Marshal(lines)
		if err != nil {
			return err
		}
		row.Lines = string(raw)
		if err := tx.PutShopOrder(&row); err != nil {
			return err
		}
		return mailBuyer(tx, c.now(), &o, "Your order "+ref, strings.Join(said, "\n"))
	})
}

// answer has a line be what is said of it, and tells what the buyer is told; "" where
// it was said before.
func (l *soldLine) answer(key string, a *place.OrderAnswer, currency string) string {
	key += "/" + a.Line + "/" + a.Do
	if slices.Contains(l.Told, key) {
		return ""
	}
	l.Told = append(l.Told, key)
	what := fmt.Sprintf("%d × %s", l.Quantity, place.OneLine(l.Title))
	switch a.Do {
	case place.OrderSent:
		l.State, l.Carrier, l.Tracking = place.OrderSent, a.Carrier, a.Tracking
		what += " is on its way"
		if by := strings.TrimSpace(place.OneLine(a.Carrier + " " + a.Tracking)); by != "" {
			what += ": " + by
		}
	case place.OrderCancelled:
		l.State = place.OrderCancelled
		what += " can't be had after all; its money comes back"
	case place.OrderRefunded:
		l.Refunded += a.Amount
		what += ": " + shown(a.Amount, currency) + " comes back to you"
	}
	return what + "."
}
