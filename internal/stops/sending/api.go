package sending

import (
	"context"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SendOutRow is a send-out with its lines counted.
type SendOutRow struct {
	ID        int64      `json:"id"`
	Site      string     `json:"site"`
	State     string     `json:"state" enum:"waiting,sent,done"`
	Words     string     `json:"words" doc:"How it stands, in a sentence"`
	May       bool       `json:"may_end" doc:"Whether it may be tried again or given up: it isn't through, and nothing is being done for it"`
	Perhaps   bool       `json:"perhaps" doc:"It may have been handed over, and nobody told"`
	Batch     string     `json:"batch"`
	Error     string     `json:"error"`
	Sender    string     `json:"sender" doc:"Who let it go"`
	Alone     bool       `json:"alone" doc:"A rule did, by itself"`
	Undoes    *int64     `json:"undoes" doc:"The send-out that it takes back"`
	PlanID    *int64     `json:"plan_id"`
	Lines     int64      `json:"lines"`
	Waiting   int64      `json:"waiting"`
	Confirmed int64      `json:"confirmed"`
	Refused   int64      `json:"refused"`
	GivenUp   int64      `json:"given_up"`
	Unknown   int64      `json:"unknown" doc:"Of which nobody told what became: read back from what is on sale"`
	Withdrawn int64      `json:"withdrawn" doc:"Taken back before they were handed over"`
	Sheets    int64      `json:"sheets" doc:"Filled sheets that it came to"`
	Unloaded  int64      `json:"not_uploaded" doc:"Of them, not taken to their place yet"`
	Paused    bool       `json:"held" doc:"A person holds it back"`
	Goes      *time.Time `json:"goes" doc:"When it goes, where it waits for a time"`
	CreatedAt time.Time  `json:"created"`
	OverdueAt *time.Time `json:"overdue" doc:"From when on you are told that it was never finished"`
	DoneAt    *time.Time `json:"done"`
}

func (st *Stop) show(o store.SendOutRow) SendOutRow {
	return SendOutRow{
		o.ID,
		o.Site,
		o.State,
		st.words(&o),
		st.may(&o),
		o.Perhaps,
		o.Batch,
		o.Error,
		o.Sender,
		o.Alone,
		o.Undoes,
		o.PlanID,
		o.Lines,
		o.Waiting,
		o.Confirmed,
		o.Refused,
		o.GivenUp,
		o.Unknown,
		o.Withdrawn,
		o.Sheets,
		o.Unloaded,
		o.Paused,
		o.AgainAt,
		o.CreatedAt,
		o.OverdueAt,
		o.DoneAt,
	}
}

// words says how a send-out stands.
func (st *Stop) words(o *store.SendOutRow) string {
	switch {
	case o.State == store.SendDone && o.Unknown > 0:
		return fmt.Sprintf(
			"Through. Of %s nobody told what became; it is read back from what is on sale.",
			stops.Plural(o.Unknown, "line", "lines"),
		)
	case o.State == store.SendDone:
		return "Through."
	case o.State == store.SendSent && o.Overdue(st.Now()):
		return fmt.Sprintf(
			"Handed over, and not finished since %s. Ask again, or give it up: what is on sale is read back then.",
			o.SentAt.Format("2 January 15:04"),
		)
	case o.State == store.SendSent && o.Tasks > 0:
		return fmt.Sprintf("%s at the hand desk.", stops.Plural(o.Tasks, "of its lines waits", "of its lines wait"))
	case o.State == store.SendSent && o.Unloaded > 0:
		return fmt.Sprintf("%s made and not uploaded yet: download it, upload it there, and say so. Giving it up leaves its listings as they were before.",
			stops.Plural(o.Unloaded, "filled sheet is", "filled sheets are"))
	case o.State == store.SendSent && o.Sheets > 0:
		return "Uploaded; when the place has a report of it, read that in."
	case o.State == store.SendSent:
		return "Handed over; the marketplace is at work on it."
	case o.Paused && o.Perhaps:
		return "Held. It may have been handed over before it was, and nobody told; giving it up reads back what is on sale."
	case o.Paused:
		return "Held: nothing of it goes until you let it go on. Giving it up leaves its listings as they were before."
	case o.Alive:
		return "On its way."
	case o.AgainAt != nil && o.Tries == 0:
		return fmt.Sprintf("It goes at %s: each line is looked at again then. Giving it up leaves its listings as they were before.",
			o.AgainAt.Format("15:04 on 2 January"))
	case o.AgainAt != nil && o.Perhaps:
		return fmt.Sprintf("It may have been handed over, and nobody told. It is tried again at %s, which does nothing twice; giving it up reads back what is on sale.",
			o.AgainAt.Format("15:04"))
	case o.AgainAt != nil:
		return fmt.Sprintf("It was not handed over. It is tried again at %s; giving it up leaves its listings as they were before.", o.AgainAt.Format("15:04"))
	case o.Perhaps:
		return "It may have been handed over, and nobody told. Trying again does nothing twice; giving it up reads back what is on sale."
	}
	return "It was not handed over. Try again, or give it up: its listings are as they were before then."
}

// UntiedRow is an offer on sale somewhere that is tied to nothing of ours.
type UntiedRow struct {
	ID       int64     `json:"id"`
	Site     string    `json:"site"`
	SKU      string    `json:"sku"`
	EntryRef string    `json:"entry"`
	Price    *int64    `json:"price"`
	Currency string    `json:"currency"`
	Quantity int64     `json:"quantity"`
	SeenAt   time.Time `json:"seen" doc:"When it was read back last"`
	SiteID   int64     `json:"site_id"`
	Title    string    `json:"title"`
	GTIN     string    `json:"gtin"`
}

// SendLineRow is one line of a send-out.
type SendLineRow struct {
	ID        int64  `json:"id"`
	ListingID int64  `json:"listing_id"`
	SKU       string `json:"sku"`
	Title     string `json:"title"`
	Page      string `json:"page"`
	Currency  string `json:"currency"`
	Price     *int64 `json:"price"`
	Quantity  *int64 `json:"quantity"`
	State     string `json:"state" enum:"waiting,sent,confirmed,refused,given up,unknown,withdrawn"`
	Field     string `json:"field"`
	Words     string `json:"words"`
	Later     string `json:"later" doc:"What was said of it after it had been answered otherwise"`
	Picture   string `json:"picture" doc:"Digest of its leading picture; empty where none is kept"`
}

// Wish is what a person lets go, and how.
type Wish struct {
	Listings []int64 `json:"listings,omitempty" maxItems:"100000" doc:"Which; all that may where left out"`
	How
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	st.sheetOperations(api)
	st.deskOperations(api)
	st.attemptOperations(api)
	st.lightOperations(api)
	st.outcomeOperations(api)
	stops.Op(api, stops.Post("/submissions/content", "submit-content", actor.Send, "Send what listings on sale are to say otherwise than they do there; only what differs goes", "prepare", "listings", "sendouts", "runs", "counts"),
		func(ctx context.Context, in *stops.Body[Wish]) (Sent, error) {
			return st.SendWords(ctx, in.Body.Listings, in.Body.How)
		})
	st.differences(api)
	stops.Op(api, stops.Post("/submissions", "create-submission", actor.Send, "Send listings that are ready", "listings", "sendouts", "runs"),
		func(ctx context.Context, in *stops.Body[Wish]) (Sent, error) {
			return st.SendListings(ctx, in.Body.Listings, in.Body.How)
		},
	)
	stops.Op(api, stops.Post("/plans/{id}/submit", "submit-plan", actor.Send, "Send lines of a plan", "plan", "sendouts", "runs"), func(ctx context.Context, in *struct {
		stops.ByID
		Body PlanChoice
	}) (Sent, error) {
		return st.SendPlan(ctx, in.ID, in.Body)
	})
	stops.Op(api, stops.Read("/submissions", "list-submissions", "sendouts", "Send-outs, newest first"),
		func(ctx context.Context, in *stops.Paged) (stops.List[SendOutRow], error) {
			l, err := st.Store.SendOuts(ctx, in.Page())
			return stops.Shown(l, err, st.show)
		},
	)
	stops.Op(api, stops.Read("/submissions/{id}", "get-submission", "sendouts", "One send-out"),
		func(ctx context.Context, in *stops.ByID) (SendOutRow, error) {
			o, err := st.Store.SendOutRowOf(ctx, in.ID)
			return st.show(o), err
		},
	)
	stops.Op(api, stops.Read("/submissions/{id}/lines", "list-submission-lines", "sendouts", "Lines of a send-out"), func(ctx context.Context, in *struct {
		stops.ByID
		stops.Paged
		State string `query:"state"`
	}) (stops.List[SendLineRow], error) {
		l, err := st.Store.SendLines(ctx, in.ID, in.State, in.Page())
		return stops.Shown(l, err, func(r store.SendLineRow) SendLineRow { return SendLineRow(r) })
	})
	stops.Op(api, stops.Post("/submissions/{id}/retry", "retry-submission", actor.Send, "Try a send-out again that nothing is being done for; nothing is sent twice", "sendouts", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.SendAgain(ctx, in.ID)
			return stops.RunOf(r), err
		},
	)
	stops.Op(api, stops.Put("/submissions/{id}/held", "hold-submission", actor.Send, "Hold a send-out back that was not handed over yet, or let it go on", "sendouts", "runs"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				On bool `json:"on"`
			}
		}) (stops.Done, error) {
			if in.Body.On {
				return stops.Said(st.Hold(ctx, in.ID))
			}
			return stops.Said(st.Release(ctx, in.ID))
		})
	stops.Op(api, stops.Post("/submissions/{id}/abandon", "abandon-submission", actor.Send, "Give a send-out up that nothing is being done for", "sendouts", "listings"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.GiveUp(ctx, in.ID))
		},
	)
	stops.Op(api, stops.Read("/submissions/{id}/reversal", "get-submission-reversal", "sendouts", "What taking back a send-out would do, line by line"),
		func(ctx context.Context, in *stops.ByID) (Back, error) { return st.TakeBackLooks(ctx, in.ID) },
	)
	stops.Op(api, stops.Post("/submissions/{id}/revert", "revert-submission", actor.Send, "Take back what a send-out changed: a send-out of its own, by the same guards", "sendouts", "plan", "listings", "runs"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Lines []int64 `json:"lines,omitempty" doc:"Only these, held ones among them; all that may go where left out"`
			}
		}) (Sent, error) {
			return st.TakeBack(ctx, in.ID, in.Body.Lines)
		},
	)
	stops.Op(api, stops.Put("/halt", "set-halt", actor.Send, "Pull the stop that holds everything at once, or lift it", "counts", "plan", "sendouts", "runs"),
		func(ctx context.Context, in *struct {
			Body struct {
				On  bool   `json:"on"`
				Why string `json:"why,omitempty" maxLength:"500"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetHalt(ctx, in.Body.On, in.Body.Why))
		},
	)
	stops.Op(api, stops.Read("/unlinked-offers", "list-unlinked-offers", "listings", "Offers on sale in our name that are tied to nothing here"),
		func(ctx context.Context, in *stops.Paged) (stops.List[UntiedRow], error) {
			l, err := st.Store.Untieds(ctx, in.Page())
			return stops.Shown(l, err, func(r store.UntiedRow) UntiedRow { return UntiedRow(r) })
		},
	)
	stops.Op(api, stops.Post("/sites/{id}/listings/read-back", "read-back-listings", actor.Prepare, "Read back what is on sale on a site", "runs", "listings"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.ReadBack(ctx, in.ID))
		},
	)
}
