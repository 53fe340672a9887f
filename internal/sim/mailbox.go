package sim

import (
	"io"
	"mime"
	"mime/quotedprintable"
	"net"
	"net/mail"
	"slices"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Letter is a mail that a mailbox got.
type Letter struct {
	ID      string    `json:"id"` // its Message-ID
	From    string    `json:"from"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Body    string    `json:"body"`
	At      time.Time `json:"at"`
}

// Mailbox takes every mail it is given, over SMTP as a real server does, and
// keeps the newest. The same letter twice is one. The zero value is ready.
type Mailbox struct {
	mu      sync.Mutex
	letters []Letter
	full    bool // refuses what comes
}

// mostLetters is how many letters a mailbox keeps; mostBytes how long one may be.
const (
	mostLetters = 200
	mostBytes   = 1 << 20
)

// Serve takes mail at a listener until it is closed.
func (b *Mailbox) Serve(l net.Listener) error {
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{box: b}, nil }))
	s.Domain, s.MaxMessageBytes, s.ReadTimeout, s.WriteTimeout = "localhost", mostBytes, 10*time.Second, 10*time.Second
	return s.Serve(l)
}

// Letters are those that came, the newest first.
func (b *Mailbox) Letters() []Letter {
	b.mu.Lock()
	defer b.mu.Unlock()
	out := slices.Clone(b.letters)
	slices.Reverse(out)
	return out
}

// SetFull has it refuse what comes, or take it again.
func (b *Mailbox) SetFull(full bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.full = full
}

func (b *Mailbox) put(l Letter) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.full {
		return &smtp.SMTPError{Code: 452, EnhancedCode: smtp.EnhancedCode{4, 2, 2}, Message: "this mailbox is full"}
	}
	if slices.ContainsFunc(b.letters, func(x Letter) bool { return x.ID == l.ID && l.ID != "" }) {
		return nil
	}
	b.letters = append(b.letters, l)
	b.letters = b.letters[max(0, len(b.letters)-mostLetters):]
	return nil
}

// session is one letter on its way.
type session struct {
	box      *Mailbox
	from, to string
}

func (s *session) Mail(from string, _ *smtp.MailOptions) error { s.from = from; return nil }
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error   { s.to = to; return nil }
func (s *session) Reset()                                      { s.from, s.to = "", "" }
func (s *session) Logout() error                               { return nil }

func (s *session) Data(r io.Reader) error {
	m, err := mail.ReadMessage(r)
	if err != nil {
		return err
	}
	body, err := io.ReadAll(decoded(m))
	if err != nil {
		return err
	}
	subject, err := new(mime.WordDecoder).DecodeHeader(m.Header.Get("Subject"))
	if err != nil {
		subject = m.Header.Get("Subject")
	}
	at, err := m.Header.Date()
	if err != nil {
		at = time.Time{}
	}
	return s.box.put(Letter{m.Header.Get("Message-ID"), s.from, s.to, subject, string(body), at})
}

// decoded is a letter's text, whichever way it was packed.
func decoded(m *mail.Message) io.Reader {
	if m.Header.Get("Content-Transfer-Encoding") == "quoted-printable" {
		return quotedprintable.NewReader(m.Body)
	}
	return m.Body
}
