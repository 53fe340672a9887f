package web

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/app"
)

var statuses = map[app.Kind]int{app.Invalid: http.StatusUnprocessableEntity, app.Missing: http.StatusNotFound, app.Conflict: http.StatusConflict,
	app.Held: http.StatusConflict, app.Unavailable: http.StatusBadGateway}

// statusOf is the status and the words of an error. Our own mistakes are
// logged, and people are told only that it was one.
func statusOf(err error) (int, string) {
	if errors.Is(err, context.Canceled) {
		return 499, "the request was given up"
	}
	status, ok := statuses[app.KindOf(err)]
	if !ok {
		slog.Error("request failed", "error", err)
		return http.StatusInternalServerError, "this went wrong for a reason of our own making; nothing was changed. The log has more."
	}
	return status, err.Error()
}

// toProblem is an error as huma answers it: problem+json, RFC 9457.
func toProblem(err error) error {
	if err == nil {
		return nil
	}
	status, words := statusOf(err)
	var e *app.Error
	if errors.As(err, &e) && e.Field != "" {
		return huma.NewError(status, words, &huma.ErrorDetail{Location: "body." + e.Field, Message: words})
	}
	return huma.NewError(status, words)
}

func problem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(huma.ErrorModel{Title: http.StatusText(status), Status: status, Detail: detail})
}
