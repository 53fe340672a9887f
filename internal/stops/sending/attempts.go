package sending

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// keepBody keeps what is about to be handed over, byte for byte, before it is: a
// crash in the middle leaves what may have arrived. What goes by a file or a task
// is kept as that.
func (st *Stop) keepBody(tx store.Tx, o *store.SendOut, site store.Site, h *handing) error {
	wire := st.Places(site.Marketplace).Wire
	if wire == nil || len(h.lines) == 0 || bySheet(&site) {
		return nil
	}
	body, err := wire.Body(h.lines)
	if err != nil {
		return fmt.Errorf("writing a batch: %w", err)
	}
	return tx.PutBody(o.ID, st.Now(), body)
}

// Attempt is a line that was let go for a listing, and what became of it.
type Attempt struct {
	ID        int64      `json:"id" doc:"Of the line"`
	SendOutID int64      `json:"send_out"`
	Does      string     `json:"does" doc:"change: of words and pictures alone"`
	Price     *int64     `json:"price"`
	Quantity  *int64     `json:"quantity"`
	State     string     `json:"state"`
	Field     string     `json:"field"`
	Words     string     `json:"words"`
	Later     string     `json:"later"`
	Sender    string     `json:"sender"`
	Begun     time.Time  `json:"begun"`
	Handed    *time.Time `json:"handed"`
	Answered  *time.Time `json:"answered"`
}

func attemptOf(a store.Attempt) Attempt {
	return Attempt{a.ID, a.SendOutID, a.Does, a.Price, a.Quantity, a.State, a.Field, a.Words, a.Later, a.Sender, a.CreatedAt, a.HandedAt, a.AnsweredAt}
}

// SentBytes is what was handed over of one line at a moment.
type SentBytes struct {
	At   time.Time `json:"at"`
	Text string    `json:"text" doc:"Its part of the batch, byte for byte"`
}

// Sent is what was handed over of a line, each time it was tried, oldest first.
func (st *Stop) SentOf(ctx context.Context, lineID int64) ([]SentBytes, error) {
	a, err := st.Store.AttemptOf(ctx, lineID)
	if err != nil {
		return nil, err
	}
	bodies, err := st.Store.Bodies(ctx, a.SendOutID)
	if err != nil {
		return nil, err
	}
	out := []SentBytes{}
	for _, b := range bodies {
		part, err := partOf(b.Body, a.Key)
		if err != nil {
			return nil, fmt.Errorf("what was handed over at %s: %w", b.At.Format(time.DateTime), err)
		}
		if part != "" {
			out = append(out, SentBytes{b.At, part})
		}
	}
	return out, nil
}

// partOf is the line with a key in a batch, as it stands there; "" where it isn't in it.
func partOf(body []byte, key string) (string, error) {
	var batch struct {
		Lines []json.RawMessage `json:"lines"`
	}
	if err := json.Unmarshal(body, &batch); err != nil {
		return "", err
	}
	for _, raw := range batch.Lines {
		var x struct {
			Key string `json:"key"`
		}
		if err := json.Unmarshal(raw, &x); err != nil {
			return "", err
		}
		if x.Key == key {
			return string(raw), nil
		}
	}
	return "", nil
}

// mostAttempts is how many lines of one listing are told of, the newest.
const mostAttempts = 200

func (st *Stop) attemptOperations(api huma.API) {
	stops.Op(api, stops.Read("/listings/{id}/attempts", "list-listing-attempts", "sendouts", "What was let go for a listing and what became of it, the newest first"),
		func(ctx context.Context, in *stops.ByID) ([]Attempt, error) {
			list, err := st.Store.Attempts(ctx, in.ID, mostAttempts)
			out := make([]Attempt, len(list))
			for i := range list {
				out[i] = attemptOf(list[i])
			}
			return out, err
		})
	stops.Op(api, stops.Read("/submission-lines/{id}/messages", "list-submission-messages", "sendouts", "What was handed over of a line, byte for byte, each time it was tried"),
		func(ctx context.Context, in *stops.ByID) ([]SentBytes, error) { return st.SentOf(ctx, in.ID) })
}
