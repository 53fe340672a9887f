package people

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
)

// Me is whoever asks.
type Me struct {
	Name   string  `json:"name"`
	Role   string  `json:"role" enum:"look,prepare,send,owner"`
	Asked  bool    `json:"asked" doc:"Whether one logs in here, and can log out"`
	Own    bool    `json:"own" doc:"Whether they have a password of their own"`
	Code   bool    `json:"code" doc:"Whether a one-time code is asked for too"`
	LogIns []LogIn `json:"log_ins"`
	Tokens []Token `json:"tokens"`
}

// Me is whoever asks, by what they are known.
func (st *Stop) Me(ctx context.Context) (Me, error) {
	w, tx := actor.Asking(ctx), st.Store.Reading(ctx)
	_, alone := st.Alone(ctx)
	out := Me{Name: w.Name, Role: w.Role.String(), Asked: !alone, LogIns: []LogIn{}, Tokens: []Token{}}
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
	stops.Op(api, http.MethodGet, "/api/me", "me", "Who asks, and by what they are known",
		func(ctx context.Context, _ *stops.None) (Me, error) { return st.Me(ctx) })
	stops.Op(api, http.MethodPut, "/api/me/password", "change-password", "Change one's own password; one's other log-ins end",
		func(ctx context.Context, in *stops.Body[struct {
			Old       string `json:"old,omitempty" maxLength:"1000"`
			New       string `json:"new" maxLength:"1000"`
			EndTokens bool   `json:"end_tokens,omitempty" doc:"One's tokens end too; else they stay"`
		}]) (PasswordChanged, error) {
			return st.ChangePassword(ctx, in.Body.Old, in.Body.New, in.Body.EndTokens)
		})
	stops.Op(api, http.MethodPost, "/api/me/code", "begin-code", "A new secret for one-time codes, RFC 6238: nothing asks for them yet",
		func(ctx context.Context, _ *stops.None) (Code, error) { return st.BeginCode(ctx) })
	stops.Op(api, http.MethodPut, "/api/me/code", "ask-code", "Have codes asked for at the log-in, given one that is right",
		func(ctx context.Context, in *stops.Body[struct {
			Code string `json:"code" maxLength:"20"`
		}]) (stops.Done, error) {
			return stops.Said(st.AskCode(ctx, in.Body.Code))
		})
	stops.Op(api, http.MethodPost, "/api/me/code/drop", "drop-code", "Have no codes asked for any more, given the password",
		func(ctx context.Context, in *stops.Body[struct {
			Password string `json:"password" maxLength:"1000"`
		}]) (stops.Done, error) {
			return stops.Said(st.DropCode(ctx, in.Body.Password))
		})
	stops.Op(api, http.MethodDelete, "/api/me/log-ins/{id}", "end-log-in", "End one of one's own log-ins",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.EndLogIn(ctx, in.ID))
		})
	stops.Op(api, http.MethodPost, "/api/me/tokens", "make-token", "Make a token for scripts: the answer is the only time it is shown",
		func(ctx context.Context, in *stops.Body[TokenText]) (NewToken, error) { return st.Give(ctx, in.Body) })
	stops.Op(api, http.MethodDelete, "/api/me/tokens/{id}", "end-token", "End one of one's own tokens",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.EndToken(ctx, in.ID))
		})

	stops.Op(api, http.MethodGet, "/api/people", "people", "Who works or worked here",
		func(ctx context.Context, _ *stops.None) ([]Person, error) { return st.Team(ctx) })
	stops.Op(api, http.MethodPost, "/api/people", "let-in", "Let somebody work here",
		func(ctx context.Context, in *stops.Body[PersonText]) (stops.Made, error) {
			id, err := st.Join(ctx, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, http.MethodPut, "/api/people/{id}", "keep-person", "Change who somebody is here: name, role, password, whether they still work here",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body PersonText
		}) (stops.Done, error) {
			return stops.Said(st.Keep(ctx, in.ID, in.IfMatch, in.Body))
		})
	stops.Op(api, http.MethodPost, "/api/people/{id}/end-all", "end-all", "End every log-in and token of somebody",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.EndAll(ctx, in.ID))
		})

	stops.Op(api, http.MethodGet, "/api/audit", "audit", "Who did what, the last first",
		func(ctx context.Context, in *struct {
			stops.Paged
			AuditAsked
		}) (stops.List[Deed], error) {
			return st.Deeds(ctx, in.AuditAsked, in.Paged)
		})
	stops.Op(api, http.MethodGet, "/api/audit/names", "audit-names", "Who did something, by name",
		func(ctx context.Context, _ *stops.None) ([]string, error) {
			names, err := st.Store.Actors(ctx)
			return append([]string{}, names...), err
		})
	file := &huma.Operation{Method: http.MethodGet, Path: "/api/audit/file.{kind}", OperationID: "audit-file", Summary: "Who did what as a file: csv or xlsx",
		Parameters: []*huma.Param{{Name: "kind", In: "path", Required: true, Schema: &huma.Schema{Type: "string", Enum: []any{"csv", "xlsx"}}}},
		Responses:  map[string]*huma.Response{"200": {Description: "The file", Content: map[string]*huma.MediaType{"*/*": {}}}}}
	for _, name := range []string{"who", "words", "from", "to"} {
		file.Parameters = append(file.Parameters, &huma.Param{Name: name, In: "query", Schema: &huma.Schema{Type: "string"}})
	}
	api.OpenAPI().AddOperation(file)
}

// Routes implements stops.Routed.
func (st *Stop) Routes(r chi.Router) { r.Get("/api/audit/file.{kind}", st.deedFile) }
