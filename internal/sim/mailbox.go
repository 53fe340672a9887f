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
	full    bool           // refuses what comes
	refuses map[string]int // by address, the code it is refused with
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

// Refuse has it refuse letters to an address, for good (550) or for now (450); 0 takes
// them again.
func (b *Mailbox) Refuse(address string, code int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.refuses == nil {
		b.refuses = map[string]int{}
	}
	b.refuses[address] = code
}

func (b *Mailbox) takes(address string) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	if code := b.refuses[address]; code != 0 {
		return &smtp.SMTPError{Code: code, EnhancedCode: smtp.EnhancedCode{code / 100, 1, 1}, Message: "nobody here is called " + address}
	}
	return nil
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
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error   { s.to = to; return s.box.takes(to) }
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
