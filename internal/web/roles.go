package web

import (
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
)

// needs says which role each operation of the API takes. A reading that isn't
// here takes Look; a write that isn't here takes the owner, so that one nobody
// thought of is not everybody's.
var needs = map[string]actor.Role{
	// Buyers' names and addresses, and who works here.
	"GET /api/mails":                       actor.Send,
	"GET /api/demo/letters":                actor.Send,
	"GET /api/purchases/{id}/order.{kind}": actor.Send,
	"GET /api/people":                      actor.Owner,
	"GET /api/bookmark":                    actor.Prepare, // whoever has it hands pages in
	"PUT /api/me/password":                 actor.Look,
	"POST /api/me/code":                    actor.Look,
	"PUT /api/me/code":                     actor.Look,
	"POST /api/me/code/drop":               actor.Look,
	"DELETE /api/me/log-ins/{id}":          actor.Look,
	"POST /api/me/tokens":                  actor.Look,
	"DELETE /api/me/tokens/{id}":           actor.Look,
	"POST /api/people":                     actor.Owner,
	"PUT /api/people/{id}":                 actor.Owner,
	"POST /api/people/{id}/end-all":        actor.Owner,
	"POST /api/marketplaces":               actor.Owner,
	"POST /api/places":                     actor.Owner,
	"PUT /api/sites/{id}/lists":            actor.Owner,
	"PUT /api/sites/{id}/following":        actor.Owner,
	"PUT /api/rules/{id}/following":        actor.Owner,
	"PUT /api/shop":                        actor.Owner,
	"POST /api/sites/{id}/shop-picture":    actor.Owner,
	"PUT /api/mail":                        actor.Owner,
	"PUT /api/keeping":                     actor.Owner,
	"POST /api/books/{month}/close":        actor.Owner,
	"PUT /api/light-files/{id}":            actor.Owner, // with where it goes, and a password
	"POST /api/light-files":                actor.Owner,
	"DELETE /api/light-files/{id}":         actor.Owner,

	// Asks only: nothing is kept.
	"POST /api/bench":                            actor.Look,
	"POST /api/bench/sites":                      actor.Look,
	"POST /api/what-if":                          actor.Look,
	"POST /api/sites/{id}/what-if":               actor.Look,
	"POST /api/sites/{id}/rules/preview":         actor.Look,
	"POST /api/sites/{id}/rules/replay":          actor.Look,
	"POST /api/listings/{id}/rule/preview":       actor.Look,
	"POST /api/sites/{id}/following/try":         actor.Look,
	"POST /api/feeds/{id}/check":                 actor.Look,
	"POST /api/preparations/{id}/check":          actor.Look,
	"POST /api/preparations/{id}/describe/check": actor.Look,
	"POST /api/preparations/say/check":           actor.Look,
	"POST /api/preparations/sheet/check":         actor.Look,
	"POST /api/sites/{id}/defaults/check":        actor.Look,
	"POST /api/sites/{id}/selling-terms/check":   actor.Look,
	"POST /api/order-lines/split":                actor.Look,

	// What touches a place, a supplier or a buyer, or says what came of that.
	"POST /api/plans/{id}/send":               actor.Send,
	"POST /api/send-outs":                     actor.Send,
	"POST /api/send-outs/words":               actor.Send,
	"POST /api/send-outs/{id}/again":          actor.Send,
	"POST /api/send-outs/{id}/back":           actor.Send,
	"POST /api/send-outs/{id}/give-up":        actor.Send,
	"PUT /api/send-outs/{id}/held":            actor.Send,
	"POST /api/differences/decide":            actor.Send,
	"POST /api/word-differences/settle":       actor.Send,
	"PUT /api/listings/{id}/sold":             actor.Send,
	"POST /api/preparations/shown":            actor.Send, // takes off sale, and back
	"PUT /api/listings/{id}/warehouse":        actor.Send,
	"POST /api/light-files/{id}/give":         actor.Send,
	"POST /api/sheet-files/{id}/uploaded":     actor.Send,
	"POST /api/sheet-files/{id}/not-uploaded": actor.Send,
	"POST /api/sheet-files/{id}/taken":        actor.Send,
	"POST /api/sites/{id}/reports/take":       actor.Send,
	"POST /api/tasks/done":                    actor.Send,
	"POST /api/orders":                        actor.Send,
	"POST /api/sites/{id}/order-reports/take": actor.Send,
	"POST /api/sites/{id}/statements/take":    actor.Send,
	"POST /api/sites/{id}/statements":         actor.Prepare,
	"POST /api/order-lines/buy":               actor.Send,
	"POST /api/order-lines/sent":              actor.Send,
	"POST /api/order-lines/cancel":            actor.Send,
	"POST /api/order-lines/settle":            actor.Send,
	"POST /api/order-lines/{id}/refund":       actor.Send,
	"PUT /api/order-lines/{id}/real":          actor.Send,
	"POST /api/purchases/{id}/mail":           actor.Send,
	"POST /api/purchases/{id}/arrived":        actor.Send,
	"PUT /api/halt":                           actor.Send,
	"POST /api/untied/tie":                    actor.Send,

	// Everything else that is prepared: written down here, sent by somebody who may.
	"POST /api/bookmark":                       actor.Prepare,
	"POST /api/demo/forward":                   actor.Prepare,
	"POST /api/feeds":                          actor.Prepare,
	"POST /api/feeds/{id}/discard":             actor.Prepare,
	"POST /api/feeds/{id}/take":                actor.Prepare,
	"POST /api/finds/list":                     actor.Prepare,
	"DELETE /api/finds/{id}":                   actor.Prepare,
	"PUT /api/finds/{id}":                      actor.Prepare,
	"POST /api/listings/reprice":               actor.Prepare,
	"PUT /api/listings/{id}/former":            actor.Prepare,
	"PUT /api/listings/{id}/rule":              actor.Prepare,
	"POST /api/matches/decide":                 actor.Prepare,
	"POST /api/matches/{id}/decide":            actor.Prepare,
	"DELETE /api/matches/{id}/number":          actor.Prepare,
	"POST /api/matches/{id}/number":            actor.Prepare,
	"POST /api/matches/{id}/take-back":         actor.Prepare,
	"POST /api/matches/{id}/units":             actor.Prepare,
	"POST /api/pages":                          actor.Prepare,
	"POST /api/pages/handed-in":                actor.Prepare,
	"POST /api/pictures":                       actor.Prepare,
	"POST /api/pictures/from-address":          actor.Prepare,
	"PUT /api/place-files/{id}/columns":        actor.Prepare,
	"POST /api/place-files/{id}/take":          actor.Prepare,
	"POST /api/pool":                           actor.Prepare,
	"POST /api/preparations/adopt":             actor.Prepare,
	"POST /api/preparations/category":          actor.Prepare,
	"POST /api/preparations/pictures":          actor.Prepare,
	"POST /api/preparations/say":               actor.Prepare,
	"POST /api/preparations/sheet":             actor.Prepare,
	"POST /api/preparations/unlist":            actor.Prepare,
	"POST /api/preparations/{id}":              actor.Prepare,
	"DELETE /api/preparations/{id}/pictures":   actor.Prepare,
	"PUT /api/preparations/{id}/pictures":      actor.Prepare,
	"POST /api/preparations/{id}/sku":          actor.Prepare,
	"POST /api/products":                       actor.Prepare,
	"PUT /api/rates":                           actor.Prepare,
	"POST /api/rates/fetch":                    actor.Prepare,
	"POST /api/rates/file":                     actor.Prepare,
	"POST /api/refusals/mend":                  actor.Prepare,
	"DELETE /api/rules/{id}":                   actor.Prepare,
	"POST /api/rules/{id}/move":                actor.Prepare,
	"POST /api/runs/{id}/stop":                 actor.Prepare,
	"POST /api/runs/{id}/again":                actor.Prepare,
	"POST /api/set-asides/{id}/mend":           actor.Prepare,
	"POST /api/sieves":                         actor.Prepare,
	"DELETE /api/sieves/{id}":                  actor.Prepare,
	"POST /api/sites/{id}/accept-certain":      actor.Prepare,
	"PUT /api/sites/{id}/accepts":              actor.Prepare,
	"POST /api/sites/{id}/ask-weighed":         actor.Prepare,
	"POST /api/sites/{id}/blanks":              actor.Prepare,
	"POST /api/sites/{id}/blanks/keep":         actor.Prepare,
	"POST /api/sites/{id}/brands":              actor.Send,
	"POST /api/sites/{id}/categories":          actor.Prepare,
	"PUT /api/sites/{id}/defaults":             actor.Prepare,
	"PUT /api/sites/{id}/demands":              actor.Prepare,
	"POST /api/sites/{id}/demands/read":        actor.Prepare,
	"PUT /api/sites/{id}/fees":                 actor.Prepare,
	"POST /api/sites/{id}/fees/drop":           actor.Prepare,
	"POST /api/sites/{id}/fees/file":           actor.Prepare,
	"POST /api/sites/{id}/fees/read":           actor.Prepare,
	"POST /api/sites/{id}/files":               actor.Prepare,
	"DELETE /api/sites/{id}/learnt-categories": actor.Prepare,
	"PUT /api/sites/{id}/leave":                actor.Prepare,
	"POST /api/sites/{id}/look-again":          actor.Prepare,
	"POST /api/sites/{id}/market":              actor.Prepare,
	"POST /api/sites/{id}/market-of":           actor.Prepare,
	"POST /api/sites/{id}/mends":               actor.Prepare,
	"POST /api/sites/{id}/mends/take":          actor.Prepare,
	"POST /api/sites/{id}/order-reports":       actor.Prepare,
	"POST /api/sites/{id}/orders/read":         actor.Prepare,
	"POST /api/sites/{id}/own-listings":        actor.Prepare,
	"POST /api/sites/{id}/read-back":           actor.Prepare,
	"POST /api/sites/{id}/reports":             actor.Prepare,
	"POST /api/sites/{id}/rivals/read":         actor.Prepare,
	"POST /api/sites/{id}/rules":               actor.Prepare,
	"DELETE /api/sites/{id}/selling-terms":     actor.Prepare,
	"PUT /api/sites/{id}/selling-terms":        actor.Prepare,
	"POST /api/sites/{id}/take-over":           actor.Prepare,
	"PUT /api/sites/{id}/terms":                actor.Prepare,
	"POST /api/sites/{id}/weigh":               actor.Prepare,
	"DELETE /api/sites/{id}/words":             actor.Prepare,
	"PUT /api/skus":                            actor.Prepare,
	"POST /api/sources":                        actor.Prepare,
	"POST /api/sources/lists":                  actor.Prepare,
	"POST /api/sources/{id}/fetch":             actor.Prepare,
	"PUT /api/sources/{id}/settings":           actor.Prepare,
	"POST /api/watches":                        actor.Prepare,
	"POST /api/watches/seen":                   actor.Prepare,
	"DELETE /api/watches/{id}":                 actor.Prepare,
	"PUT /api/watches/{id}":                    actor.Prepare,
	"POST /api/web-look-ups":                   actor.Prepare,
	"DELETE /api/web-look-ups/{id}":            actor.Prepare,
	"POST /api/weighed/drop":                   actor.Prepare,
	"POST /api/weighed/keep":                   actor.Prepare,
	"POST /api/weighed/undrop":                 actor.Prepare,
}

// allowed lets through what whoever asks may do, and says of the rest who may.
func allowed(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		who, need := actor.Asking(r.Context()), need(r.Method, chi.RouteContext(r.Context()).RoutePattern())
		if who.Role >= need {
			next.ServeHTTP(w, r)
			return
		}
		stops.Refuse(w, http.StatusForbidden, fmt.Sprintf("this takes the role %s, and yours is %s; nothing was changed. The owner says who may what, under People", need, who.Role))
	})
}

// need is the role that an operation takes.
func need(method, pattern string) actor.Role {
	if method == http.MethodHead {
		method = http.MethodGet
	}
	role, listed := needs[method+" "+pattern]
	switch {
	case listed:
		return role
	case method == http.MethodGet:
		return actor.Look
	}
	return actor.Owner
}
