package web

import (
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"
	"strings"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/edge"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
)

// Where one logs in and out.
const (
	logInPath  = "/log-in"
	logOutPath = "/log-out"
)

// cookieName is the cookie of a log-in, deviceName that of a browser that logged in
// before: it lets nobody in, and is counted by itself when it guesses wrong.
const (
	cookieName = "easymargin"
	deviceName = "easymargin-device"
)

// who says in the context who asks, and sends those to the log-in page whom
// nobody knows. Where one person works here, at this machine, whoever asks is them.
func (s *server) who(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		known, err := s.known(r)
		switch {
		case err != nil:
			s.wrong(w, err)
		case known.May == 0 && (strings.HasPrefix(r.URL.Path, "/api/") || r.URL.Path == metricsPath):
			stops.Refuse(w, http.StatusUnauthorized, "log in first, at "+logInPath)
		case known.May == 0 && !strings.HasPrefix(r.URL.Path, "/assets/"):
			http.Redirect(w, r, logInPath+"?to="+template.URLQueryEscaper(r.URL.RequestURI()), http.StatusSeeOther)
		default:
			next.ServeHTTP(w, r.WithContext(actor.Enter(r.Context(), known)))
		}
	})
}

// errScheme answers who says who they are in a way that isn't known here.
var errScheme = fault.New(fault.Held, "say who you are by one header: Authorization: Bearer and a token, or Basic and name and password")

// known is who asks: by a token (RFC 6750), by the session's cookie, or, for
// scripts, by name and password as HTTP's Basic scheme has it (RFC 7617). The zero
// value where nobody knows. Who came with a token is nobody else, in whatever way it
// was sent: not the one person who works here, nor whoever a cookie stands for.
func (s *server) known(r *http.Request) (actor.Who, error) {
	said := r.Header.Values("Authorization")
	if len(said) > 1 {
		return actor.Who{}, errScheme
	}
	name, password, basic := r.BasicAuth()
	scheme, token, _ := strings.Cut(strings.TrimSpace(strings.Join(said, "")), " ")
	switch {
	case basic && people.IsToken(password):
		token = password
	case basic && people.IsToken(name):
		token = name
	case basic || scheme == "":
		token = ""
	case !strings.EqualFold(scheme, "Bearer"): // a scheme's case doesn't matter (RFC 9110, 11.1)
		return actor.Who{}, errScheme
	}
	if scheme != "" && !basic || token != "" {
		if who, ok := s.People.ByToken(r.Context(), strings.TrimSpace(token)); ok {
			return who, nil
		}
		return actor.Who{}, fault.New(fault.Held, "this token isn't known, or it has ended; make another under People")
	}
	if who, ok := s.People.Alone(r.Context()); ok {
		return who, nil
	}
	if c, err := r.Cookie(cookieName); err == nil {
		if who, ok := s.People.ByCookie(r.Context(), c.Value); ok {
			return who, nil
		}
	}
	if basic {
		who, err := s.People.Check(r.Context(), people.Try{From: edge.Client(r), Name: name, Password: password})
		if errors.Is(err, people.ErrCode) {
			err = fault.New(fault.Held, "a code is asked for beside this password: have scripts use a token")
		}
		return who, err
	}
	return actor.Who{}, nil
}

// wrong answers a password that wasn't right, or came too soon after one.
func (s *server) wrong(w http.ResponseWriter, err error) {
	var wait *people.Wait
	if errors.As(err, &wait) {
		w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.For.Seconds()))))
		stops.Refuse(w, http.StatusTooManyRequests, err.Error())
		return
	}
	if fault.KindOf(err) == "" {
		stops.Problem(w, err)
		return
	}
	stops.Refuse(w, http.StatusUnauthorized, err.Error())
}

// logInForm is a page of its own: it needs no script, and nothing that a
// stranger may not see.
var logInForm = template.Must(
	template.New("log-in").
		Parse(`<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Log in · Easy Margin</title><style>
:root{color-scheme:light dark;--paper:#F6F3EC;--ink:#1D2733;--line:#D9D2C3;--marsh:#2F6B5E;--on:#fff;--rust:#B4532A}
@media(prefers-color-scheme:dark){:root{--paper:#171D24;--ink:#E8E3D8;--line:#3A434D;--marsh:#7FBFAE;--on:#12211D;--rust:#E59A76}}
body{margin:0;min-height:100vh;display:grid;place-items:center;background:var(--paper);color:var(--ink);font:16px/1.5 "Atkinson Hyperlegible Next Variable",system-ui,sans-serif}
main{width:20rem;padding:1.5rem}h1{font-size:1.25rem;margin:0 0 1rem}label{display:block;margin:.75rem 0 .25rem}
input,button{box-sizing:border-box;width:100%;min-height:2.5rem;font:inherit;border-radius:4px;border:1px solid var(--line);padding:0 .75rem;background:transparent;color:inherit}
button{margin-top:.75rem;background:var(--marsh);color:var(--on);border-color:var(--marsh);cursor:pointer}
:focus-visible{outline:2px solid var(--marsh);outline-offset:2px}p[role=alert]{color:var(--rust);margin:.5rem 0 0}</style></head>
<body><main><h1>Easy Margin</h1><form method="post" action="/log-in"><input type="hidden" name="to" value="{{.To}}">
{{if .Named}}<label for="name">Name</label><input id="name" name="name" value="{{.Name}}" autocomplete="username" required{{if not .Name}} autofocus{{end}}>{{end}}
<label for="password">Password</label><input id="password" name="password" type="password" autocomplete="current-password" required{{if or .Name (not .Named)}} autofocus{{end}}{{if .Words}} aria-describedby="why"{{end}}>
{{if .Coded}}<label for="code">Code, if you have one set up</label><input id="code" name="code" inputmode="numeric" autocomplete="one-time-code" maxlength="7">{{end}}
{{if .Words}}<p role="alert" id="why">{{.Words}}</p>{{end}}<button>Log in</button></form></main></body></html>`),
)

func (s *server) logInPage(w http.ResponseWriter, r *http.Request) {
	s.showLogIn(w, r, http.StatusOK, "")
}

// showLogIn shows the page, with what was typed but the password, and with words
// that say why it is shown again.
func (s *server) showLogIn(w http.ResponseWriter, r *http.Request, status int, words string) {
	named, coded, err := s.People.Asks(r.Context())
	if err != nil {
		stops.Problem(w, err)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_ = logInForm.Execute(w, map[string]any{"To": inside(r.FormValue("to")), "Words": words, "Name": r.PostFormValue("name"), "Named": named, "Coded": coded})
}

func (s *server) logIn(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<16)
	to := inside(r.FormValue("to"))
	if _, alone := s.People.Alone(r.Context()); alone {
		http.Redirect(w, r, to, http.StatusSeeOther)
		return
	}
	device := ""
	if c, err := r.Cookie(deviceName); err == nil {
		device = c.Value
	}
	who, err := s.People.Check(r.Context(), people.Try{From: edge.Client(r), Device: device, Name: r.PostFormValue("name"), Password: r.PostFormValue("password"), Code: r.PostFormValue("code")})
	var wait *people.Wait
	switch {
	case errors.As(err, &wait):
		w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.For.Seconds()))))
		s.showLogIn(w, r, http.StatusTooManyRequests,
			fmt.Sprintf("Too many wrong passwords. Wait %d seconds and try again.", int(math.Ceil(wait.For.Seconds()))))
		return
	case errors.Is(err, people.ErrCode):
		s.showLogIn(w, r, http.StatusUnauthorized, "Type the password again, and the six figures that your authenticator shows now.")
		return
	case err != nil && fault.KindOf(err) == "":
		stops.Problem(w, err)
		return
	case err != nil:
		s.showLogIn(w, r, http.StatusUnauthorized, "This is not right: look at the name, the password and the code, and try again.")
		return
	}
	token, device, err := s.People.Enter(r.Context(), who, r.UserAgent(), device)
	if err != nil {
		stops.Problem(w, err)
		return
	}
	http.SetCookie(w, s.cookie(r, cookieName, token, people.SessionMost))
	http.SetCookie(w, s.cookie(r, deviceName, device, people.DeviceMost))
	http.Redirect(w, r, to, http.StatusSeeOther)
}

func (s *server) logOut(w http.ResponseWriter, r *http.Request) {
	if c, err := r.Cookie(cookieName); err == nil {
		if err := s.People.Leave(r.Context(), c.Value); err != nil {
			stops.Problem(w, err)
			return
		}
	}
	http.SetCookie(w, s.cookie(r, cookieName, "", -time.Second))
	http.Redirect(w, r, logInPath, http.StatusSeeOther)
}

func (s *server) cookie(r *http.Request, name, value string, age time.Duration) *http.Cookie {
	return &http.Cookie{
		Name:     name,
		Value:    value,
		Path:     "/",
		MaxAge:   int(age.Seconds()),
		HttpOnly: true,
		SameSite: http.SameSiteStrictMode,
		Secure:   s.Secure || edge.TLS(r),
	}
}
