package orders

import (
	"context"
	"encoding/json"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// LineRow is a line of an order. Amounts are minor units of Currency, for the whole
// line but for the price.
type LineRow struct {
	ID        int64      `json:"id"`
	OrderID   int64      `json:"order_id"`
	OrderRef  string     `json:"order"`
	Site      string     `json:"site"`
	PlacedAt  time.Time  `json:"placed"`
	Currency  string     `json:"currency"`
	SKU       string     `json:"sku"`
	Title     string     `json:"title"`
	ListingID *int64     `json:"listing_id"`
	ProductID int64      `json:"product_id"`
	Quantity  int64      `json:"quantity"`
	Price     int64      `json:"price" doc:"Of one"`
	Paid      int64      `json:"paid" doc:"By the buyer, for all of it with its delivery"`
	State     string     `json:"state" enum:"new,bought,sent,done,cancelled,returned"`
	Problem   string     `json:"problem" doc:"Why a person must look at it"`
	Supplier  string     `json:"supplier" doc:"That it is, or is to be, had from"`
	Expected  *int64     `json:"expected" doc:"What was expected to be left of it"`
	Real      *int64     `json:"real" doc:"What is left of it as far as is known"`
	Late      bool       `json:"late"`
	Arrived   bool       `json:"arrived" doc:"What was bought for it is here"`
	Carrier   string     `json:"carrier"`
	Tracking  string     `json:"tracking"`
	Refunded  int64      `json:"refunded"`
	BoughtAt  *time.Time `json:"bought"`
	SentAt    *time.Time `json:"sent"`
	Telling   bool       `json:"telling" doc:"Its place is to be told, and wasn't yet"`
	Picture   string     `json:"picture"`
}

func (st *Stop) row(r store.OrderLineRow) LineRow {
	title := r.Title
	if title == "" || title == r.SKU {
		title = r.OwnTitle
	}
	out := LineRow{r.ID, r.OrderID, r.OrderRef, r.Site, r.PlacedAt, r.Currency, r.SKU, title, r.ListingID, r.ProductID, r.Quantity, r.Price, r.Price*r.Quantity + r.Delivery,
		r.State, r.Problem, r.Supplier, r.ExpectedProfit, nil, false, r.Arrived, r.Carrier, r.Tracking, r.Refunded, r.BoughtAt, r.SentAt, r.Told != "", r.Picture}
	out.Late = (r.State == store.LineNew || r.State == store.LineBought) && st.Now().Sub(r.PlacedAt) > store.LateOrder
	if lines, err := beside(&r.OrderLine); err == nil && len(lines) > 0 {
		sum := int64(0)
		for _, l := range lines {
			sum += l.Real
		}
		out.Real = &sum
	}
	return out
}

// OrderView is an order with its lines, and each line's figures.
type OrderView struct {
	ID       int64        `json:"id"`
	Ref      string       `json:"ref"`
	Site     string       `json:"site"`
	Placed   time.Time    `json:"placed"`
	Currency string       `json:"currency"`
	Origin   string       `json:"origin"`
	Buyer    *place.Buyer `json:"buyer" doc:"None: forgotten, or not for whoever asks"`
	Lines    []LineView   `json:"lines"`

	Paid         int64 `json:"paid" doc:"By the buyer, for all lines that weren't called off, delivery and tax in it"`
	GivenBack    int64 `json:"given_back"`
	Net          int64 `json:"net" doc:"Of what was kept, without its tax"`
	Tax          int64 `json:"tax" doc:"In what was kept"`
	DeliveryLeft int64 `json:"delivery_left" doc:"What can still be given back of what was paid for delivery"`

	Unmailed []Unmailed `json:"unmailed" doc:"Mails to its buyer that weren't taken; none for whom buyers are not shown to"`
}

// Unmailed is a mail to a buyer that their server refused, or didn't take yet.
type Unmailed struct {
	Subject string `json:"subject"`
	Refused bool   `json:"refused" doc:"It isn't tried again"`
	Why     string `json:"why"`
}

// unmailed are the mails to the buyer of an order of the own shop that weren't taken.
func (st *Stop) unmailed(ctx context.Context, o *store.Order) ([]Unmailed, error) {
	out := []Unmailed{}
	if o.Origin != store.OrderShop || !seesBuyers(ctx) {
		return out, nil
	}
	all, err := st.Store.Reading(ctx).MailsAbout(store.AboutShopOrder(o.Ref))
	for _, m := range all {
		if m.SentAt == nil && m.Error != "" {
			out = append(out, Unmailed{m.Subject, m.RefusedAt != nil, m.Error})
		}
	}
	return out, err
}

// LineView is a line with what was expected of it beside what really was.
type LineView struct {
	LineRow
	Beside    []Beside `json:"beside"`
	GoodsLeft int64    `json:"goods_left" doc:"What can still be given back of what was paid for its goods"`
}

// count adds what a line comes to.
func (o *OrderView) count(l *store.OrderLine) {
	if o.DeliveryLeft += deliveryLeft(l); l.State == store.LineCancelled {
		return
	}
	s := comesTo(l)
	o.Paid, o.GivenBack, o.Net, o.Tax = o.Paid+s.Paid, o.GivenBack+s.GivenBack, o.Net+s.Net, o.Tax+s.Tax
}

// One is an order.
func (st *Stop) One(ctx context.Context, id int64) (OrderView, error) {
	o, err := store.Get[store.Order](ctx, st.Store, id)
	if err != nil {
		return OrderView{}, err
	}
	rows, err := st.Store.OrderRows(ctx, id)
	if err != nil {
		return OrderView{}, err
	}
	out := OrderView{ID: o.ID, Ref: o.Ref, Placed: o.PlacedAt, Currency: o.Currency, Origin: o.Origin, Lines: []LineView{}}
	if o.Buyer != "" && seesBuyers(ctx) {
		out.Buyer = &place.Buyer{}
		if err := json.Unmarshal([]byte(o.Buyer), out.Buyer); err != nil {
			return out, err
		}
	}
	if out.Unmailed, err = st.unmailed(ctx, &o); err != nil {
		return out, err
	}
	for _, r := range rows {
		b, err := beside(&r.OrderLine)
		if err != nil {
			return out, err
		}
		out.Site = r.Site
		out.Lines = append(out.Lines, LineView{st.row(r), append([]Beside{}, b...), goodsLeft(&r.OrderLine)})
		out.count(&r.OrderLine)
	}
	return out, nil
}

// seesBuyers tells whether whoever asks sees who bought: those with that right do,
// and programs of ours.
func seesBuyers(ctx context.Context) bool {
	who := actor.Asking(ctx)
	return who.May == 0 || who.May.Has(actor.Buyers)
}

// BuyingView is a purchase from a supplier.
type BuyingView struct {
	ID       int64      `json:"id"`
	Supplier string     `json:"supplier"`
	Ref      string     `json:"ref"`
	Currency string     `json:"currency"`
	Goods    int64      `json:"goods"`
	Delivery int64      `json:"delivery"`
	ToppedUp int64      `json:"topped_up"`
	Lines    int64      `json:"lines"`
	Made     time.Time  `json:"made"`
	By       string     `json:"by"`
	Arrived  *time.Time `json:"arrived"`
	OrdersTo string     `json:"orders_to" doc:"Where its supplier takes orders; empty: nobody said"`
	Mailed   *time.Time `json:"mailed" doc:"When it was mailed to its supplier; none: it wasn't, or waits, or was refused"`
	Mail     string     `json:"mail" enum:",waiting,sent,refused" doc:"What became of the mail; empty: none was asked for"`
	MailWhy  string     `json:"mail_why" doc:"Why it was refused, or wasn't sent yet"`
}

// Shown is a purchase as the API shows it.
func Shown(r store.BuyingRow) BuyingView {
	out := BuyingView{ID: r.ID, Supplier: r.Supplier, Ref: r.Ref, Currency: r.Currency, Goods: r.Goods, Delivery: r.Delivery, ToppedUp: r.ToppedUp, Lines: r.Lines,
		Made: r.MadeAt, By: r.Actor, Arrived: r.ArrivedAt, OrdersTo: r.Mail, MailWhy: r.MailError}
	switch {
	case r.MailedAt == nil:
	case r.MailRefusedAt != nil:
		out.Mail = "refused"
	case r.MailSentAt != nil:
		out.Mail, out.Mailed, out.MailWhy = "sent", r.MailSentAt, ""
	case r.MailMadeAt != nil:
		out.Mail = "waiting"
	default: // its mail is tidied away
		out.Mail, out.Mailed = "sent", r.MailedAt
	}
	return out
}

// Chosen are lines that something is done with.
type Chosen struct {
	Lines []int64 `json:"lines" minItems:"1" maxItems:"1000"`
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/order-lines", "list-order-lines", "orders", "Lines of orders: those to buy, to send, with a problem, or all"),
		func(ctx context.Context, in *struct {
			stops.Paged
			Part     string `query:"part" default:"buy" enum:"buy,send,problems,all"`
			From     string `query:"from" doc:"Placed from this day on, YYYY-MM-DD"`
			To       string `query:"to" doc:"Placed up to this day"`
			Site     int64  `query:"site"`
			Supplier int64  `query:"supplier"`
			Product  int64  `query:"product"`
			Category string `query:"category"`
		}) (stops.List[LineRow], error) {
			if !store.OrderPart(in.Part) {
				return stops.List[LineRow]{}, fault.At("part", "there is no such part")
			}
			var sold *store.SoldPart
			if in.From != "" || in.To != "" {
				p, _, err := st.part(Asked{From: in.From, To: in.To, Site: in.Site, Supplier: in.Supplier, Product: in.Product})
				if err != nil {
					return stops.List[LineRow]{}, err
				}
				p.Category = in.Category
				sold = &p
			}
			l, err := st.Store.OrderLineRows(ctx, in.Part, sold, in.Page())
			return stops.Shown(l, err, st.row)
		})
	stops.Op(api, stops.Read("/orders/{id}", "get-order", "orders", "An order, with what was expected of each line beside what really was"),
		func(ctx context.Context, in *stops.ByID) (OrderView, error) { return st.One(ctx, in.ID) })
	stops.Op(api, stops.Post("/orders", "create-order", actor.Send, "Keep an order that is typed in", "orders", "counts", "listings"),
		func(ctx context.Context, in *stops.Body[TypedOrder]) (stops.Made, error) {
			id, err := st.Type(ctx, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Upload(api, stops.Post("/sites/{id}/order-reports/inspect", "inspect-order-report", actor.Prepare, "What is recognised of an order report: the body is its file. Nothing of it is taken", "orders"), blank.MaxFile, st.LookReport)
	stops.Op(api, stops.Post("/sites/{id}/order-reports", "take-order-report", actor.Send, "Take the orders of a report, all of it or nothing", "orders", "counts", "listings", "runs"), func(ctx context.Context, in *struct {
		stops.ByID
		Body OrderReportChoice
	}) (stops.Counted, error) {
		n, err := st.TakeReport(ctx, in.ID, in.Body)
		return stops.Counted{Count: n}, err
	})
	stops.Upload(api, stops.Post("/sites/{id}/statements/inspect", "inspect-statement", actor.Prepare, "What is recognised of a place's statement of fees: the body is its file. Nothing of it is taken", "orders"), blank.MaxFile, st.LookStatement)
	stops.Op(api, stops.Post("/sites/{id}/statements", "take-statement", actor.Money, "Take what a statement says was kept of each order, all of it or nothing", "orders", "counts", "listings", "runs"), func(ctx context.Context, in *struct {
		stops.ByID
		Body OrderReportChoice
	}) (StatementTaken, error) {
		return st.TakeStatement(ctx, in.ID, in.Body)
	})
	stops.Op(api, stops.Post("/sites/{id}/orders/read", "read-orders", actor.Prepare, "Ask a site for what was sold now", "runs", "orders"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) { return stops.Said(st.Read(ctx, in.ID)) })
	stops.Op(api, stops.Ask("/purchases/split", "split-purchase", "orders", "How lines are best bought, and what choices of one's own cost"),
		func(ctx context.Context, in *stops.Body[Wanted]) (SplitView, error) { return st.Split(ctx, in.Body) })
	stops.Op(api, stops.Post("/purchases", "create-purchases", actor.Money, "Buy lines: a purchase for each supplier", "orders", "counts", "listings"),
		func(ctx context.Context, in *stops.Body[Wanted]) ([]int64, error) { return st.Buy(ctx, in.Body) })
	stops.Op(api, stops.Post("/order-lines/mark-sent", "mark-order-lines-sent", actor.Send, "Lines are on their way; their places are told", "orders", "counts", "runs"),
		func(ctx context.Context, in *struct {
			Body struct {
				Chosen
				Carrier  string `json:"carrier" maxLength:"80"`
				Tracking string `json:"tracking" maxLength:"80"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Sent(ctx, in.Body.Lines, in.Body.Carrier, in.Body.Tracking))
		})
	stops.Op(api, stops.Post("/order-lines/cancel", "cancel-order-lines", actor.Send, "Call lines off; their places are told", "orders", "counts", "listings", "runs"),
		func(ctx context.Context, in *stops.Body[Chosen]) (stops.Done, error) {
			return stops.Said(st.Cancel(ctx, in.Body.Lines))
		})
	stops.Op(api, stops.Post("/order-lines/settle", "settle-order-lines", actor.Send, "Say of lines with a problem that they were seen to", "orders", "counts"),
		func(ctx context.Context, in *stops.Body[Chosen]) (stops.Done, error) {
			return stops.Said(st.Settle(ctx, in.Body.Lines))
		})
	stops.Op(api, stops.Post("/order-lines/{id}/refund", "refund-order-line", actor.Money, "Give money back for a line, or of its order's delivery: never more than is left of what was paid; its place is told", "orders", "counts", "runs"), func(ctx context.Context, in *struct {
		stops.ByID
		Body Refund
	}) (stops.Done, error) {
		return stops.Said(st.Refund(ctx, in.ID, in.Body))
	})
	stops.Op(api, stops.Put("/order-lines/{id}/actual-costs", "set-actual-costs", actor.Money, "What a line really cost; empty leaves it as it is", "orders"), func(ctx context.Context, in *struct {
		stops.ByID
		Body struct {
			Cost    string `json:"cost,omitempty" maxLength:"40"`
			Sending string `json:"sending,omitempty" maxLength:"40"`
			Fees    string `json:"fees,omitempty" maxLength:"40"`
		}
	}) (stops.Done, error) {
		return stops.Said(st.Real(ctx, in.ID, in.Body.Cost, in.Body.Sending, in.Body.Fees))
	})
	stops.Op(api, stops.Read("/earnings", "get-earnings", "orders", "What was earned in a time, by day, month, site, supplier, category or product"),
		func(ctx context.Context, in *Asked) (Earned, error) { return st.Earned(ctx, *in) })
	stops.Op(api, stops.Read("/earnings/losses", "list-losses", "orders", "Lines that lost money, the worst first, each with why"),
		func(ctx context.Context, in *Asked) ([]Loss, error) { return st.Losses(ctx, *in) })
	stops.Op(api, stops.Read("/earnings/unsold-listings", "list-unsold-listings", "orders", "Listings that are on sale and were not sold since a day"),
		func(ctx context.Context, in *struct {
			stops.Paged
			From string `query:"from" doc:"YYYY-MM-DD; thirty days ago where left out"`
		}) (stops.List[Idle], error) {
			l, err := st.Idle(ctx, in.From, in.Page())
			return stops.Shown(l, err, idleOf)
		})
	type ofMonth struct {
		Month string `path:"month" doc:"YYYY-MM"`
	}
	stops.Op(api, stops.Read("/books/{month}", "get-book", "orders", "A month for the accountant, as it is or as it was closed").For(actor.Money),
		func(ctx context.Context, in *ofMonth) (Book, error) { return st.Book(ctx, in.Month) })
	stops.Op(api, stops.Post("/books/{month}/close", "close-book", actor.Money, "Close a month that is over, once, after those before it", "orders"),
		func(ctx context.Context, in *ofMonth) (stops.Done, error) {
			return stops.Said(st.CloseBook(ctx, in.Month))
		})
	stops.Download(api, stops.Read("/books/{month}/export.{format}", "export-book", "orders", "A month for the accountant as a file").For(actor.Money),
		func(ctx context.Context, in *struct {
			Month string `path:"month"`
			stops.Format
		}) (stops.File, error) {
			name, raw, err := st.BookFile(ctx, in.Month, in.Format.Format)
			return stops.File{Name: name, Content: raw}, err
		})
	stops.Op(api, stops.Read("/purchases", "list-purchases", "orders", "What was bought, the newest first"),
		func(ctx context.Context, in *stops.Paged) (stops.List[BuyingView], error) {
			l, err := st.Store.Buyings(ctx, in.Page())
			return stops.Shown(l, err, Shown)
		})
	stops.Op(api, stops.Post("/purchases/{id}/mail", "mail-purchase", actor.Money, "Mail a purchase to its supplier, once", "orders", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.MailOrder(ctx, in.ID))
		})
	stops.Op(api, stops.Post("/purchases/{id}/receive", "receive-purchase", actor.Send, "A purchase has arrived", "orders"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.Arrived(ctx, in.ID))
		})
	stops.Download(api, stops.Read("/purchases/{id}/export.{format}", "export-purchase", "orders", "What a supplier is given of a purchase, with whom it goes to").For(actor.Buyers),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Format
		}) (stops.File, error) {
			name, raw, err := st.SupplierOrder(ctx, in.ID, in.Format.Format)
			return stops.File{Name: name, Content: raw}, err
		})
}
