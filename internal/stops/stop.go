package stops

import (
	"encoding/json"
	"fmt"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// Halt is the one stop that holds everything at once, pulled.
type Halt struct {
	At  time.Time `json:"at"`
	By  string    `json:"by"`
	Why string    `json:"why,omitempty"`
}

// haltSetting is the setting that says that everything is stopped; "" where it isn't.
const haltSetting = "halt"

// Halted is the stop, where it is pulled; nil where it isn't.
func Halted(tx store.Tx) (*Halt, error) {
	set, err := tx.Setting(haltSetting)
	if err != nil || set.Value == "" {
		return nil, err
	}
	var h Halt
	if err := json.Unmarshal([]byte(set.Value), &h); err != nil {
		return nil, fmt.Errorf("the stop: %w", err)
	}
	return &h, nil
}

// Stopped is an error while everything is stopped: nothing is handed over then.
// A stop that can't be read holds too.
func Stopped(tx store.Tx) error {
	h, err := Halted(tx)
	if err != nil || h == nil {
		return err
	}
	return fault.New(fault.Held, "everything is stopped since %s, by %s: nothing is sent until the stop is lifted", h.At.Format("2 January 15:04"), h.By)
}

// PutHalt pulls the stop, or lifts it where h is nil.
func PutHalt(tx store.Tx, h *Halt) error {
	text := ""
	if h != nil {
		h.By = actor.Of(tx.Context())
		raw, err := json.Marshal(h)
		if err != nil {
			return err
		}
		text = string(raw)
	}
	tx.Changed("halt", "counts")
	return tx.PutSetting(haltSetting, text)
}
