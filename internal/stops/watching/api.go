package watching

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SentMail is a mail that was sent, or waits.
type SentMail struct {
	ID      int64      `json:"id"`
	To      string     `json:"to"`
	Subject string     `json:"subject"`
	Made    time.Time  `json:"made"`
	Sent    *time.Time `json:"sent"`
	Refused *time.Time `json:"refused" doc:"It isn't tried again"`
	Tries   int64      `json:"tries"`
	Error   string     `json:"error"`
}

func (st *Stop) watchOperations(api huma.API) {
	stops.Op(api, stops.Read("/watches", "list-watches", "watches", "Watches, the ready-made first, with how they stand"),
		func(ctx context.Context, _ *stops.None) ([]Watch, error) { return st.Watches(ctx) })
	stops.Op(api, stops.Post("/watches", "create-watch", actor.Prepare, "Watch a number", "watches"),
		func(ctx context.Context, in *stops.Body[Watch]) (stops.Made, error) {
			id, err := st.KeepWatch(ctx, 0, stops.IfMatch{}, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Put("/watches/{id}", "update-watch", actor.Prepare, "Change a watch; of a ready-made one only how it tells", "watches"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body Watch
		}) (stops.Made, error) {
			id, err := st.KeepWatch(ctx, in.ID, in.IfMatch, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Delete("/watches/{id}", "delete-watch", actor.Prepare, "Drop a watch", "watches"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.DropWatch(ctx, in.ID))
		})
	stops.Op(api, stops.Read("/watch-hits", "list-watch-hits", "watches", "What set watches off, newest first"),
		func(ctx context.Context, in *struct {
			stops.Paged
			Watch int64 `query:"watch" doc:"Only this one's"`
		}) (stops.List[Hit], error) {
			l, err := st.Store.WatchHits(ctx, in.Watch, in.Page())
			return stops.Shown(l, err, func(r store.WatchHitRow) Hit { return shownHit(r) })
		})
	stops.Op(api, stops.Post("/watch-hits/mark-seen", "mark-watch-hits-seen", actor.Prepare, "What set watches off was seen, up to a hit", "watches"),
		func(ctx context.Context, in *struct {
			Body struct {
				UpTo int64 `json:"up_to"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.See(ctx, in.Body.UpTo))
		})
	stops.OpEdited(api, stops.Read("/mail-settings", "get-mail-settings", "mail", "How mail is sent"),
		func(ctx context.Context, _ *stops.None) (MailSettings, error) { return st.Mail(ctx) })
	stops.Op(api, stops.Put("/mail-settings", "update-mail-settings", actor.Settings, "Set how mail is sent", "mail"),
		func(ctx context.Context, in *struct {
			stops.IfMatch
			Body MailSettings
		}) (stops.Done, error) {
			return stops.Said(st.SetMail(ctx, in.IfMatch, in.Body))
		})
	stops.Op(api, stops.Read("/mails", "list-mails", "mail", "The newest mails, with what became of them").For(actor.Buyers),
		func(ctx context.Context, _ *stops.None) ([]SentMail, error) {
			list, err := st.Store.LastMails(ctx, 20)
			out := []SentMail{}
			for _, m := range list {
				out = append(out, SentMail{m.ID, m.Recipient, m.Subject, m.MadeAt, m.SentAt, m.RefusedAt, m.Tries, m.Error})
			}
			return out, err
		})
}
