package sim

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Mood is a way in which a marketplace misbehaves when it is handed a batch or
// asked about one. "" is none.
type Mood string

// The moods.
const (
	Slow       Mood = "slow"          // answers after three seconds
	Failing    Mood = "failing"       // 503
	Hanging    Mood = "hanging"       // never answers
	Busy       Mood = "busy"          // 429, asks to wait
	Half       Mood = "half"          // done, and says a word on half of the lines
	Mute       Mood = "mute"          // done, without a word
	Doubled    Mood = "doubled"       // says every outcome twice
	Late       Mood = "late"          // says nothing the first three times
	Backwards  Mood = "out of order"  // the last line first
	Contrary   Mood = "contradicting" // says yes and no of every line
	Strangers  Mood = "strangers"     // says outcomes of lines it never got
	Truncated  Mood = "truncated"     // its answers break off
	Oversized  Mood = "oversized"     // forty megabytes around every answer
	Endless    Mood = "endless"       // its answers never end
	Forgetting Mood = "forgetting"    // knows nothing of a batch afterwards
	Garbled    Mood = "garbled"       // answers with a page for people
)

// Moods are all of them, with what each does.
var Moods = []struct {
	Mood Mood
	Does string
}{
	{Slow, "answers after three seconds"},
	{Failing, "answers that it is broken"},
	{Hanging, "never answers"},
	{Busy, "asks to wait"},
	{Half, "says that it is done, and a word on half of the lines"},
	{Mute, "says that it is done, without a word"},
	{Doubled, "says every outcome twice"},
	{Late, "says nothing the first three times it is asked"},
	{Backwards, "answers the last line first"},
	{Contrary, "says yes and no of every line"},
	{Strangers, "says outcomes of lines it never got"},
	{Truncated, "breaks off in the middle of its answers"},
	{Oversized, "puts forty megabytes around every answer"},
	{Endless, "never comes to the end of an answer"},
	{Forgetting, "knows nothing of a batch afterwards"},
	{Garbled, "answers with a page for people"},
}

// SetMood has the marketplace misbehave from now on; "" has it be well again. One
// that isn't known is an error.
func (m *Marketplace) SetMood(mood Mood) error {
	if mood != "" && !slices.ContainsFunc(Moods, func(x struct {
		Mood Mood
		Does string
	}) bool {
		return x.Mood == mood
	}) {
		return fmt.Errorf("no mood is called %q", mood)
	}
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.mood, m.polled = mood, map[string]int{}
	return nil
}

// Mood is how it misbehaves now.
func (m *Marketplace) Mood() Mood {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.mood
}

// moody answers as the mood has it.
func (m *Marketplace) moody(h http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		m.mu.Lock()
		mood := m.mood
		if m.polled == nil {
			m.polled = map[string]int{}
		}
		m.polled[r.URL.Path]++
		times := m.polled[r.URL.Path]
		m.mu.Unlock()
		switch mood {
		case "":
			h(w, r)
			return
		case Slow:
			pause(r, 3*time.Second)
		case Failing:
			problem(w, http.StatusServiceUnavailable, "we are mending something")
			return
		case Hanging:
			pause(r, time.Hour)
			return
		case Busy:
			w.Header().Set("Retry-After", "1")
			problem(w, http.StatusTooManyRequests, "wait a little")
			return
		case Forgetting:
			if r.Method == http.MethodGet {
				problem(w, http.StatusNotFound, "no such batch")
				return
			}
		}
		rec := httptest.NewRecorder()
		h(rec, r)
		if rec.Code != http.StatusOK {
			w.WriteHeader(rec.Code)
			_, _ = w.Write(rec.Body.Bytes())
			return
		}
		m.misanswer(w, r, mood, times, rec.Body.Bytes())
	}
}

// pause waits so long, or until whoever asked has given up. What was sent is read
// first: before that nobody is seen to leave.
func pause(r *http.Request, d time.Duration) {
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return
	}
	r.Body = io.NopCloser(bytes.NewReader(body))
	select {
	case <-r.Context().Done():
	case <-time.After(d):
	}
}

// misanswer says what would be said otherwise than it should be.
func (m *Marketplace) misanswer(w http.ResponseWriter, r *http.Request, mood Mood, times int, text []byte) {
	switch mood {
	case Truncated:
		w.Header().Set("Content-Length", strconv.Itoa(len(text)))
		_, _ = w.Write(text[:len(text)/2])
		return
	case Oversized:
		_, _ = w.Write(bytes.Repeat([]byte(" "), 40<<20))
		_, _ = w.Write(text)
		return
	case Endless:
		for r.Context().Err() == nil {
			if _, err := w.Write(bytes.Repeat([]byte(" "), 1<<20)); err != nil {
				return
			}
		}
		return
	case Garbled:
		_, _ = w.Write([]byte("<html><h1>Welcome, seller</h1></html>"))
		return
	}
	var said struct {
		ID    string    `json:"id"`
		State string    `json:"state"`
		Lines []outcome `json:"lines"`
	}
	if json.Unmarshal(text, &said) != nil {
		_, _ = w.Write(text)
		return
	}
	switch mood {
	case Half:
		said.State, said.Lines = "done", said.Lines[:len(said.Lines)/2]
	case Mute:
		said.State, said.Lines = "done", []outcome{}
	case Doubled:
		said.Lines = append(said.Lines, said.Lines...)
	case Late:
		if r.Method == http.MethodPost || times <= 3 {
			said.State, said.Lines = "working", []outcome{}
		}
	case Backwards:
		slices.Reverse(said.Lines)
	case Contrary:
		for _, x := range slices.Clone(said.Lines) {
			x.State, x.Words = map[string]string{"confirmed": "refused", "refused": "confirmed"}[x.State], "on second thoughts"
			said.Lines = append(said.Lines, x)
		}
	case Strangers:
		said.Lines = append(said.Lines, outcome{Key: "nobody-1", State: "confirmed"}, outcome{Key: "nobody-2", State: "refused", Words: "not this one"})
	}
	answer(w, said)
}

// moodPage is the page of switches.
var moodPage = template.Must(template.New("moods").Parse(`<!doctype html><meta charset="utf-8"><title>{{.Name}}: how it behaves</title>
<style>body{font:16px/1.5 system-ui;max-width:46rem;margin:2rem auto;padding:0 1rem}button{font:inherit;min-width:11rem;text-align:left}
li{margin:.3rem 0;list-style:none}[aria-pressed=true]{font-weight:700;outline:2px solid}</style>
<h1>{{.Name}}</h1><p>A stand-in. Here it is told to misbehave when it is handed changes, so that one can see what comes of it.</p>
<form method="post"><ul><li><button name="mood" value="" aria-pressed="{{eq .Mood ""}}">well</button> does what it should</li>
{{$now := .Mood}}{{range .Moods}}<li><button name="mood" value="{{.Mood}}" aria-pressed="{{eq .Mood $now}}">{{.Mood}}</button> {{.Does}}</li>
{{end}}</ul></form><p><a href="./">back</a></p>`))

// moods shows the switches, and moves them.
func (m *Marketplace) moods(w http.ResponseWriter, r *http.Request) {
	if r.Method == http.MethodPost {
		if err := m.SetMood(Mood(strings.TrimSpace(r.FormValue("mood")))); err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = moodPage.Execute(w, map[string]any{"Name": m.Name, "Mood": m.Mood(), "Moods": Moods})
}
