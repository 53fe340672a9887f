package watching

import (
	"cmp"
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/mail"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// MailSettings say how mail is sent: any server that speaks SMTP.
type MailSettings struct {
	Version  int64  `json:"version" readOnly:"true" doc:"For If-Match"`
	Host     string `json:"host" maxLength:"253" doc:"Empty: no mail is sent"`
	Port     int    `json:"port" minimum:"1" maximum:"65535"`
	Security string `json:"security" enum:"tls,starttls,none"`
	Username string `json:"username,omitempty" maxLength:"320"`
	Password string `json:"password,omitempty" maxLength:"320" writeOnly:"true" doc:"Left out, the one kept stays"`
	Known    bool   `json:"known" readOnly:"true" doc:"Whether a password is kept"`
	From     string `json:"from" maxLength:"320"`
	To       string `json:"to" maxLength:"320"`
	Link     string `json:"link,omitempty" maxLength:"500" doc:"Address of this application, for links in mails"`
}

// Edition implements stops.Edited.
func (m MailSettings) Edition() int64 { return m.Version }

// store.MailSetting is the setting of how mail is sent, JSON; the password sealed.

// mailPause is how long after a mail the next one waits at least: many things at
// once make one mail.
const mailPause = 5 * time.Minute

// mostTold is how many things one mail tells of.
const mostTold = 200

// Mail is how mail is sent.
func (st *Stop) Mail(ctx context.Context) (MailSettings, error) {
	m, err := mailOf(st.Store.Reading(ctx))
	m.Known, m.Password = m.Password != "", ""
	return m, err
}

func mailOf(tx store.Tx) (MailSettings, error) {
	m := MailSettings{Port: 587, Security: "starttls"}
	set, err := tx.Setting(store.MailSetting)
	if err != nil {
		return m, err
	}
	if set.Value != "" {
		err = json.Unmarshal([]byte(set.Value), &m)
	}
	m.Version = set.Version
	return m, err
}

// SetMail sets how mail is sent.
func (st *Stop) SetMail(ctx context.Context, edit stops.IfMatch, in MailSettings) error {
	for field, address := range map[string]string{"from": in.From, "to": in.To} {
		if _, err := mail.ParseAddress(address); in.Host != "" && err != nil {
			return fault.At(field, "%q is no mail address", address)
		}
	}
	if strings.ContainsAny(in.Host, " /:") {
		return fault.At("host", "%q is no name of a server; its port has a field of its own", in.Host)
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		known, err := mailOf(tx)
		if err != nil {
			return err
		}
		shown := known
		shown.Known, shown.Password = known.Password != "", ""
		if err := edit.Check(known.Version, "how mail is sent", shown); err != nil {
			return err
		}
		sealed := known.Password
		if in.Password != "" {
			if sealed, err = st.Store.Seal(in.Password); err != nil {
				return err
			}
		}
		in.Password, in.Known = sealed, false
		text, err := json.Marshal(in)
		if err != nil {
			return err
		}
		tx.Changed("mail")
		return stops.First(tx.PutSetting(store.MailSetting, string(text)), queueMail(tx, st.Now()), tx.Note(st.Now(), "mail set", in.Host, in.To))
	})
}

func queueMail(tx store.Tx, now time.Time) error {
	return tx.Queue(&store.Run{Kind: store.RunMail, Lane: store.RunMail, Title: "Sending mail", Once: true, CreatedAt: now})
}

// tell makes one mail of all that set watches off and that no mail tells of yet,
// unless the last one was made a moment ago.
func (st *Stop) tell(tx store.Tx) error {
	set, err := mailOf(tx)
	if err != nil || set.Host == "" {
		return err
	}
	last, there, err := tx.LastMail()
	if err != nil || there && st.Now().Sub(last) < mailPause && st.Now().After(last) {
		return err
	}
	hits, err := tx.UnmailedHits(mostTold + 1)
	if err != nil || len(hits) == 0 {
		return err
	}
	more := len(hits) > mostTold
	hits = hits[:min(len(hits), mostTold)]
	m := store.Mail{Recipient: set.To, MadeAt: st.Now(), Subject: subject(hits), Body: body(hits, more, set.Link)}
	if err := tx.Create(&m); err != nil {
		return err
	}
	ids := make([]int64, len(hits))
	for i := range hits {
		ids[i] = hits[i].ID
	}
	return stops.First(tx.TellBy(ids, m.ID), queueMail(tx, st.Now()))
}

func subject(hits []store.WatchHitRow) string {
	if len(hits) == 1 {
		return "Easy Margin: " + plain(hits[0].Watch)
	}
	return fmt.Sprintf("Easy Margin: %d things you watch", len(hits))
}

// body is the text of a mail: what set each watch off, in the order it did.
func body(hits []store.WatchHitRow, more bool, link string) string {
	var b strings.Builder
	watch := ""
	for i := range hits {
		h := shownHit(hits[i])
		if h.Watch != watch {
			watch = h.Watch
			fmt.Fprintf(&b, "%s\n", plain(watch))
		}
		fmt.Fprintf(&b, "  %s  %s", h.At.Format("15:04"), plain(h.Words))
		switch {
		case h.Before != "" && h.After != "":
			fmt.Fprintf(&b, ": %s, was %s", h.After, h.Before)
		case h.After != "":
			fmt.Fprintf(&b, ": %s", h.After)
		}
		b.WriteString("\n")
		if link != "" && h.Link != "" {
			fmt.Fprintf(&b, "         %s%s\n", strings.TrimRight(link, "/"), h.Link)
		}
	}
	if more {
		b.WriteString("\nMore came at the same time; the next mail tells of it.\n")
	}
	b.WriteString("\nWhich numbers are watched, and whether by mail, is set under Watch, Watches.\n")
	return b.String()
}

// plain keeps texts from elsewhere to one line.
func plain(s string) string { return strings.Join(strings.Fields(s), " ") }

// mostMails is how many are sent in one go.
const mostMails = 100

// patience is how long a letter is tried that its recipient's server doesn't take for
// now (RFC 5321, 4.5.4.1).
const patience = 5 * 24 * time.Hour

// errRefused says that a letter will never be taken, and why.
type errRefused struct{ error }

// errLater says that this letter isn't taken for now; others may be.
type errLater struct{ error }

// doMail sends what waits. One that its recipient's server refuses ends, with its
// words; one that it doesn't take for now is tried again after growing pauses, and so
// are all where the server can't be reached. Neither holds up those behind it. Each has
// a name of its own, so that one that was sent a moment before a crash is known for the
// same.
func (st *Stop) doMail(ctx context.Context, t *work.Task) error {
	waiting, err := st.Store.WaitingMails(ctx, mostMails)
	if err != nil || len(waiting) == 0 {
		return err
	}
	set, err := mailOf(st.Store.Reading(ctx))
	if err != nil {
		return err
	}
	if set.Host == "" {
		t.Note = "no server for mail is set; what waits goes once one is"
		return nil
	}
	sent, refused, later := int64(0), int64(0), ""
	for i := range waiting {
		m := &waiting[i]
		why := st.post(ctx, &set, m)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		now := st.Now()
		columns := map[string]any{"tries": m.Tries + 1, "error": ""}
		if why != nil {
			columns["error"] = stops.Clip(why.Error(), 500)
		}
		var never errRefused
		var wait errLater
		late := errors.As(why, &wait)
		switch {
		case why == nil:
			columns["sent_at"], sent = &now, sent+1
		case errors.As(why, &never), late && now.Sub(m.MadeAt) > patience:
			columns["refused_at"], refused = &now, refused+1
		default:
			later = why.Error()
		}
		if err := st.Store.Do(ctx, func(tx store.Tx) error {
			tx.Changed("mail", "watches", "orders", "counts")
			return tx.Update(m, columns)
		}); err != nil {
			return err
		}
		if later != "" && !late {
			break // the server can't be reached: nor for those behind it
		}
	}
	t.Note = stops.Plural(sent, "mail sent", "mails sent")
	if refused > 0 {
		t.Note += ", " + stops.Plural(refused, "refused", "refused")
	}
	if sent > 0 || later == "" {
		t.Tries = 0
	}
	if later != "" {
		t.Tries++
		t.Note += fmt.Sprintf("; %s: %s", set.Host, later)
		return work.Again(min(time.Minute<<min(t.Tries, 6), time.Hour))
	}
	if len(waiting) == mostMails { // there may be more
		return work.Again(0)
	}
	return nil
}

// judged says of an error of handing a letter over whether it is of this letter, and
// whether it may be taken another time.
func judged(err error) error {
	var e *gomail.SendError
	if !errors.As(err, &e) {
		return err
	}
	switch e.Reason {
	case gomail.ErrSMTPRcptTo, gomail.ErrGetRcpts, gomail.ErrSMTPData, gomail.ErrSMTPDataClose, gomail.ErrWriteContent, gomail.ErrNoUnencoded:
		if e.IsTemp() {
			return errLater{err}
		}
		if code := e.ErrorCode(); code >= 500 || code == 0 && e.Reason != gomail.ErrWriteContent && e.Reason != gomail.ErrSMTPDataClose {
			return errRefused{err}
		}
	}
	return err // of the connection, or of who sends: it is tried again when that is mended
}

// post hands one mail to the server.
func (st *Stop) post(ctx context.Context, set *MailSettings, m *store.Mail) error {
	msg := gomail.NewMsg()
	if err := msg.From(set.From); err != nil {
		return err
	}
	if err := msg.To(m.Recipient); err != nil {
		return errRefused{err}
	}
	msg.Subject(m.Subject)
	msg.SetMessageIDWithValue(fmt.Sprintf("%d.%d.easymargin@%s", m.MadeAt.UnixNano(), m.ID, cmp.Or(domain(set.From), "localhost")))
	msg.SetDateWithValue(m.MadeAt)
	msg.SetBodyString(gomail.TypeTextPlain, m.Body)
	options := []gomail.Option{gomail.WithPort(set.Port), gomail.WithTimeout(20 * time.Second), gomail.WithDialContextFunc(st.dial(set))}
	switch set.Security {
	case "tls":
		options = append(options, gomail.WithSSL())
	case "none":
		options = append(options, gomail.WithTLSPolicy(gomail.NoTLS))
	default:
		options = append(options, gomail.WithTLSPolicy(gomail.TLSMandatory))
	}
	if set.Username != "" {
		password, err := st.Store.Unseal(set.Password)
		if err != nil {
			return err
		}
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(set.Username), gomail.WithPassword(password))
	}
	c, err := gomail.NewClient(set.Host, options...)
	if err != nil {
		return err
	}
	if err := c.DialAndSendWithContext(ctx, msg); err != nil && !msg.IsDelivered() {
		return judged(err)
	}
	return nil
}

// dial connects to a mail server, over TLS from the start where that is wanted.
func (st *Stop) dial(set *MailSettings) gomail.DialContextFunc {
	plain := st.Fetcher.DialTyped(net.JoinHostPort(set.Host, strconv.Itoa(set.Port)))
	if set.Security != "tls" {
		return plain
	}
	return func(ctx context.Context, network, address string) (net.Conn, error) {
		conn, err := plain(ctx, network, address)
		if err != nil {
			return nil, err
		}
		over := tls.Client(conn, &tls.Config{ServerName: set.Host, MinVersion: tls.VersionTLS12})
		if err := over.HandshakeContext(ctx); err != nil {
			return nil, errors.Join(err, conn.Close())
		}
		return over, nil
	}
}

func domain(address string) string {
	a, err := mail.ParseAddress(address)
	if err != nil {
		return ""
	}
	_, name, _ := strings.Cut(a.Address, "@")
	return name
}
