package watching

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

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
	stops.Op(api, http.MethodGet, "/api/watches", "watches", "Watches, the ready-made first, with how they stand",
		func(ctx context.Context, _ *stops.None) ([]Watch, error) { return st.Watches(ctx) })
	stops.Op(api, http.MethodPost, "/api/watches", "make-watch", "Watch a number",
		func(ctx context.Context, in *stops.Body[Watch]) (stops.Made, error) {
			id, err := st.KeepWatch(ctx, 0, stops.IfMatch{}, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, http.MethodPut, "/api/watches/{id}", "keep-watch", "Change a watch; of a ready-made one only how it tells",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body Watch
		}) (stops.Made, error) {
			id, err := st.KeepWatch(ctx, in.ID, in.IfMatch, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, http.MethodDelete, "/api/watches/{id}", "drop-watch", "Drop a watch",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.DropWatch(ctx, in.ID))
		})
	stops.Op(api, http.MethodGet, "/api/watches/hits", "watch-hits", "What set watches off, newest first",
		func(ctx context.Context, in *struct {
			stops.Paged
			Watch int64 `query:"watch" doc:"Only this one's"`
		}) (stops.List[Hit], error) {
			l, err := st.Store.WatchHits(ctx, in.Watch, in.Page())
			return stops.Shown(l, err, func(r store.WatchHitRow) Hit { return shownHit(r) })
		})
	stops.Op(api, http.MethodPost, "/api/watches/seen", "see-hits", "What set watches off was seen, up to a hit",
		func(ctx context.Context, in *stops.Body[struct {
			UpTo int64 `json:"up_to"`
		}]) (stops.Done, error) {
			return stops.Said(st.See(ctx, in.Body.UpTo))
		})
	stops.OpEdited(api, "/api/mail", "mail", "How mail is sent",
		func(ctx context.Context, _ *stops.None) (MailSettings, error) { return st.Mail(ctx) })
	stops.Op(api, http.MethodPut, "/api/mail", "set-mail", "Set how mail is sent",
		func(ctx context.Context, in *struct {
			stops.IfMatch
			Body MailSettings
		}) (stops.Done, error) {
			return stops.Said(st.SetMail(ctx, in.IfMatch, in.Body))
		})
	stops.Op(api, http.MethodGet, "/api/mails", "mails", "The newest mails, with what became of them",
		func(ctx context.Context, _ *stops.None) ([]SentMail, error) {
			list, err := st.Store.LastMails(ctx, 20)
			out := []SentMail{}
			for _, m := range list {
				out = append(out, SentMail{m.ID, m.Recipient, m.Subject, m.MadeAt, m.SentAt, m.RefusedAt, m.Tries, m.Error})
			}
			return out, err
		})
}
