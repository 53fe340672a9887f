package web

import (
	"errors"
	"fmt"
	"html/template"
	"math"
	"net"
	"net/http"
	"strconv"
	"strings"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
)

// Where one logs in and out.
const (
	logInPath  = "/log-in"
	logOutPath = "/log-out"
)

const cookieName = "easymargin"

func (s *server) asksPassword() bool { return s.People != nil && s.People.Asked() }

// who says in the context who asks, and sends those to the log-in page whom
// nobody knows. Without a password whoever is at this machine is the owner.
func (s *server) who(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := people.Owner
		if s.asksPassword() {
			known, err := s.known(r)
			if err != nil {
				s.wrong(w, err)
				return
			}
			if known == "" && strings.HasPrefix(r.URL.Path, "/api/") {
				stops.Refuse(w, http.StatusUnauthorized, "log in first, at "+logInPath)
				return
			}
			if known == "" && !strings.HasPrefix(r.URL.Path, "/assets/") {
				http.Redirect(w, r, logInPath+"?to="+template.URLQueryEscaper(r.URL.RequestURI()), http.StatusSeeOther)
				return
			}
			name = known
		}
		next.ServeHTTP(w, r.WithContext(actor.With(r.Context(), name)))
	})
}

// known is who asks: by the session's cookie, or, for scripts, by the password
// as HTTP's Basic scheme has it (RFC 7617). "" where nobody knows.
func (s *server) known(r *http.Request) (string, error) {
	if c, err := r.Cookie(cookieName); err == nil {
		if name, ok := s.People.Who(r.Context(), c.Value); ok {
			return name, nil
		}
	}
	if _, password, ok := r.BasicAuth(); ok {
		if err := s.People.Check(from(r), password); err != nil {
			return "", err
		}
		return people.Owner, nil
	}
	return "", nil
}

// from is where a request comes from, for counting wrong guesses.
func from(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	return host
}

// wrong answers a password that wasn't right, or came too soon after one.
func (s *server) wrong(w http.ResponseWriter, err error) {
	var wait *people.Wait
	if errors.As(err, &wait) {
		w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.For.Seconds()))))
		stops.Refuse(w, http.StatusTooManyRequests, err.Error())
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
main{width:20rem;padding:1.5rem}h1{font-size:1.25rem;margin:0 0 1rem}label{display:block;margin-bottom:.25rem}
input,button{box-sizing:border-box;width:100%;min-height:2.5rem;font:inherit;border-radius:4px;border:1px solid var(--line);padding:0 .75rem;background:transparent;color:inherit}
button{margin-top:.75rem;background:var(--marsh);color:var(--on);border-color:var(--marsh);cursor:pointer}
:focus-visible{outline:2px solid var(--marsh);outline-offset:2px}p[role=alert]{color:var(--rust);margin:.5rem 0 0}</style></head>
<body><main><h1>Easy Margin</h1><form method="post" action="/log-in"><input type="hidden" name="to" value="{{.To}}">
<label for="password">Password</label><input id="password" name="password" type="password" autocomplete="current-password" required autofocus{{if .Words}} aria-describedby="why"{{end}}>
{{if .Words}}<p role="alert" id="why">{{.Words}}</p>{{end}}<button>Log in</button></form></main></body></html>`),
)

func (s *server) logInPage(w http.ResponseWriter, r *http.Request) {
	s.showLogIn(w, http.StatusOK, r.URL.Query().Get("to"), "")
}

func (s *server) showLogIn(w http.ResponseWriter, status int, to, words string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_ = logInForm.Execute(w, map[string]string{"To": inside(to), "Words": words})
}

// inside lets only an address of ours be gone to after logging in.
func inside(to string) string {
	if !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.HasPrefix(to, `/\`) || strings.HasPrefix(to, logInPath) {
		return "/"
	}
	return to
}

func (s *server) logIn(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<16)
	to := inside(r.FormValue("to"))
	if !s.asksPassword() {
		http.Redirect(w, r, to, http.StatusSeeOther)
		return
	}
	if err := s.People.Check(from(r), r.FormValue("password")); err != nil {
		var wait *people.Wait
		status, words := http.StatusUnauthorized, "This is not the password."
		if errors.As(err, &wait) {
			w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.For.Seconds()))))
			status, words = http.StatusTooManyRequests, fmt.Sprintf(
				"Too many wrong passwords. Wait %d seconds and try again.",
				int(math.Ceil(wait.For.Seconds())),
			)
		}
		s.showLogIn(w, status, to, words)
		return
	}
	token, err := s.People.Enter(r.Context(), people.Owner)
	if err != nil {
		stops.Problem(w, err)
		return
	}
	http.SetCookie(w, s.cookie(token, 30*24*3600))
	http.Redirect(w, r, to, http.StatusSeeOther)
}

func (s *server) logOut(w http.ResponseWriter, r *http.Request) {
	if c, err := r.Cookie(cookieName); err == nil && s.People != nil {
		if err := s.People.Leave(r.Context(), c.Value); err != nil {
			stops.Problem(w, err)
			return
		}
	}
	http.SetCookie(w, s.cookie("", -1))
	http.Redirect(w, r, logInPath, http.StatusSeeOther)
}

func (s *server) cookie(token string, age int) *http.Cookie {
	return &http.Cookie{
		Name:     cookieName,
		Value:    token,
		Path:     "/",
		MaxAge:   age,
		HttpOnly: true,
		SameSite: http.SameSiteStrictMode,
		Secure:   s.Secure,
	}
}
