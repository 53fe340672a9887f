package people

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
)

// Me is whoever asks.
type Me struct {
	Name   string   `json:"name"`
	Role   string   `json:"role" doc:"The name of a role"`
	Rights []string `json:"rights" enum:"look,prepare,send,buyers,money,settings,people,account"`
	Asked  bool     `json:"asked" doc:"Whether one logs in here, and can log out"`
	Own    bool     `json:"own" doc:"Whether they have a password of their own"`
	Code   bool     `json:"code" doc:"Whether a one-time code is asked for too"`
	LogIns []LogIn  `json:"log_ins"`
	Tokens []Token  `json:"tokens"`
}

// Me is whoever asks, by what they are known.
func (st *Stop) Me(ctx context.Context) (Me, error) {
	w, tx := actor.Asking(ctx), st.Store.Reading(ctx)
	_, alone := st.Alone(ctx)
	out := Me{Name: w.Name, Role: w.Role, Rights: w.May.Names(), Asked: !alone, LogIns: []LogIn{}, Tokens: []Token{}}
	if w.Script {
		return out, nil
	}
	_, p, err := st.myself(ctx)
	if err != nil {
		return out, err
	}
	out.Own, out.Code = p.Password != "", p.CodeOn
	sessions, err := tx.SessionsOf(p.ID)
	if err != nil {
		return out, err
	}
	for _, x := range sessions {
		out.LogIns = append(out.LogIns, LogIn{x.ID, x.Browser, x.MadeAt, x.SeenAt, x.ID == w.Session})
	}
	tokens, err := tx.TokensOf(p.ID)
	for _, t := range tokens {
		out.Tokens = append(out.Tokens, Token{t.ID, t.Name, t.Scope, t.MadeAt, t.SeenAt, t.EndsAt})
	}
	return out, err
}

// Operations implements stops.Stop. Logging in and out is the edge's.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/me", "get-me", "people", "Who asks, and by what they are known"),
		func(ctx context.Context, _ *stops.None) (Me, error) { return st.Me(ctx) })
	stops.Op(api, stops.Put("/me/password", "change-password", actor.Account, "Change one's own password; one's other log-ins end", "people"),
		func(ctx context.Context, in *struct {
			Body struct {
				Old       string `json:"old,omitempty" maxLength:"1000"`
				New       string `json:"new" maxLength:"1000"`
				EndTokens bool   `json:"end_tokens,omitempty" doc:"One's tokens end too; else they stay"`
			}
		}) (PasswordChanged, error) {
			return st.ChangePassword(ctx, in.Body.Old, in.Body.New, in.Body.EndTokens)
		})
	stops.Op(api, stops.Post("/me/second-factor", "create-second-factor", actor.Account, "A new secret for one-time codes, RFC 6238: nothing asks for them yet", "people"),
		func(ctx context.Context, _ *stops.None) (Code, error) { return st.BeginCode(ctx) })
	stops.Op(api, stops.Put("/me/second-factor", "confirm-second-factor", actor.Account, "Have codes asked for at the log-in, given one that is right", "people"),
		func(ctx context.Context, in *struct {
			Body struct {
				Code string `json:"code" maxLength:"20"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.AskCode(ctx, in.Body.Code))
		})
	stops.Op(api, stops.Post("/me/second-factor/remove", "remove-second-factor", actor.Account, "Have no codes asked for any more, given the password", "people"),
		func(ctx context.Context, in *struct {
			Body struct {
				Password string `json:"password" maxLength:"1000"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.DropCode(ctx, in.Body.Password))
		})
	stops.Op(api, stops.Delete("/me/sessions/{id}", "delete-session", actor.Account, "End one of one's own log-ins", "people"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.EndLogIn(ctx, in.ID))
		})
	stops.Op(api, stops.Post("/me/tokens", "create-token", actor.Account, "Make a token for scripts: the answer is the only time it is shown", "people"),
		func(ctx context.Context, in *stops.Body[TokenText]) (NewToken, error) { return st.Give(ctx, in.Body) })
	stops.Op(api, stops.Delete("/me/tokens/{id}", "delete-token", actor.Account, "End one of one's own tokens", "people"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.EndToken(ctx, in.ID))
		})

	stops.Op(api, stops.Read("/people", "list-people", "people", "Who works or worked here").For(actor.People),
		func(ctx context.Context, _ *stops.None) ([]Person, error) { return st.Team(ctx) })
	stops.Op(api, stops.Post("/people", "create-person", actor.People, "Let somebody work here", "people", "clock"),
		func(ctx context.Context, in *stops.Body[PersonText]) (stops.Made, error) {
			id, err := st.Join(ctx, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Put("/people/{id}", "update-person", actor.People, "Change who somebody is here: name, role, password, whether they still work here", "people", "clock"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body PersonText
		}) (stops.Done, error) {
			return stops.Said(st.Keep(ctx, in.ID, in.IfMatch, in.Body))
		})
	stops.Op(api, stops.Post("/people/{id}/end-sessions", "end-sessions", actor.People, "End every log-in and token of somebody", "people"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.EndAll(ctx, in.ID))
		})

	stops.Op(api, stops.Read("/roles", "list-roles", "people", "The roles, with what each may"),
		func(ctx context.Context, _ *stops.None) ([]Role, error) { return st.Roles(ctx) })
	stops.Op(api, stops.Post("/roles", "create-role", actor.People, "Make a role", "people"),
		func(ctx context.Context, in *stops.Body[RoleText]) (stops.Made, error) {
			id, err := st.KeepRole(ctx, 0, stops.IfMatch{}, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Put("/roles/{id}", "update-role", actor.People, "Change a role: whoever has it may from then on what it says", "people"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body RoleText
		}) (stops.Done, error) {
			_, err := st.KeepRole(ctx, in.ID, in.IfMatch, in.Body)
			return stops.Said(err)
		})
	stops.Op(api, stops.Delete("/roles/{id}", "delete-role", actor.People, "Delete a role that nobody has", "people"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.DropRole(ctx, in.ID))
		})

	stops.Op(api, stops.Read("/audit-entries", "list-audit-entries", "people", "Who did what, the last first"),
		func(ctx context.Context, in *struct {
			stops.Paged
			AuditAsked
		}) (stops.List[Deed], error) {
			return st.Deeds(ctx, in.AuditAsked, in.Paged)
		})
	stops.Op(api, stops.Read("/audit-entries/actors", "list-audit-actors", "people", "Who did something, by name"),
		func(ctx context.Context, _ *stops.None) ([]string, error) {
			names, err := st.Store.Actors(ctx)
			return append([]string{}, names...), err
		})
	stops.Download(api, stops.Read("/audit-entries/export.{format}", "export-audit-entries", "people", "Who did what, as a file"),
		func(ctx context.Context, in *struct {
			AuditAsked
			stops.Format
		}) (stops.File, error) {
			raw, err := st.DeedFile(ctx, in.AuditAsked, in.Format.Format)
			return stops.File{Name: "who-did-what." + in.Format.Format, Content: raw}, err
		})
}
