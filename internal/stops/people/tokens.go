package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// tokenPrefix tells a token from other texts, for whoever finds one lying about.
const tokenPrefix = "em_"

// noToken are the rights that no token has, whatever its scope.
const noToken = actor.Settings | actor.People | actor.Account

// mostTokens is how many tokens a person has at most.
const mostTokens = 50

// IsToken tells whether a text is meant to be a token of ours, whether it holds or not.
func IsToken(text string) bool { return strings.HasPrefix(text, tokenPrefix) }

// Token is one of a person's tokens; the token itself is shown once, when it is made.
type Token struct {
	ID    int64      `json:"id"`
	Name  string     `json:"name"`
	Scope string     `json:"scope" doc:"The name of a role"`
	Made  time.Time  `json:"made"`
	Seen  *time.Time `json:"seen" doc:"When it was used last"`
	Ends  *time.Time `json:"ends" doc:"None: never"`
}

// TokenText is what a token is to be.
type TokenText struct {
	Name  string `json:"name" maxLength:"60"`
	Scope string `json:"scope" maxLength:"60" doc:"The name of a role: the most that it may; never more than you may yourself"`
	Days  int    `json:"days,omitempty" minimum:"0" maximum:"3650" doc:"How long it lasts; 0: until it is ended"`
}

// NewToken is a token as it is shown, once.
type NewToken struct {
	ID    int64  `json:"id"`
	Token string `json:"token" doc:"Sent as Authorization: Bearer, RFC 6750. It is not shown again"`
}

// Give makes a token for scripts of whoever asks.
func (st *Stop) Give(ctx context.Context, in TokenText) (NewToken, error) {
	w, p, err := st.myself(ctx)
	if err != nil {
		return NewToken{}, err
	}
	name, err := nameOf(in.Name)
	if err != nil {
		return NewToken{}, err
	}
	scope, err := roleOf(st.Store.Reading(ctx), in.Scope)
	if err != nil {
		return NewToken{}, fault.At("scope", "%v", err)
	}
	if most := w.May &^ noToken; scope.Rights&^actor.Account&^most != 0 {
		return NewToken{}, fault.At("scope", "the role %s may more than a token of yours may: %s", scope.Name, most)
	}
	now, token := st.Now(), tokenPrefix+rand.Text()
	row := store.Token{PersonID: p.ID, Name: name, Scope: scope.Name, Digest: tokenDigest(token), MadeAt: now}
	if in.Days > 0 {
		ends := now.AddDate(0, 0, in.Days)
		row.EndsAt = &ends
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		all, err := tx.TokensOf(p.ID)
		if err != nil {
			return err
		}
		if len(all) >= mostTokens {
			return fault.New(fault.Conflict, "you have %d tokens already; end one that is no longer used", mostTokens)
		}
		return stops.First(tx.Create(&row), tx.Note(now, "token made", name, in.Scope))
	})
	return NewToken{row.ID, token}, err
}

// EndToken ends one of one's own tokens.
func (st *Stop) EndToken(ctx context.Context, id int64) error {
	w, _, err := st.myself(ctx)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		ended, err := tx.DropToken(w.Person, id)
		if err == nil && !ended {
			return fault.New(fault.Missing, "you have no such token; it may have ended")
		}
		return stops.First(err, tx.Note(st.Now(), "token ended", w.Name, ""))
	})
}

// ByToken is whom a token stands for, and for no more than its scope; false where nobody.
func (st *Stop) ByToken(ctx context.Context, token string) (actor.Who, bool) {
	if !IsToken(token) {
		return actor.Who{}, false
	}
	tx, now := st.Store.Reading(ctx), st.Now()
	t, there, err := tx.TokenOf(tokenDigest(token))
	if err != nil || !there || t.EndsAt != nil && !now.Before(*t.EndsAt) {
		return actor.Who{}, false
	}
	w, ok := st.active(tx, t.PersonID)
	scope, err := roleOf(tx, t.Scope)
	if t.SeenAt == nil || now.Sub(*t.SeenAt) > time.Minute {
		st.seen(ctx, &t, now)
	}
	w.Name, w.Role, w.May, w.Script = w.Name+" ("+t.Name+")", scope.Name, w.May&scope.Rights&^noToken, true
	return w, ok && err == nil
}

// tokenDigest is how a token is kept: it is long and made at random, so that a
// plain digest gives nothing away.
func tokenDigest(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}
