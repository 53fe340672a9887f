package app

import (
	"sync"

	"easymargin/internal/work"
)

// Event is something that open screens want to know: a run moved, or lists of
// some topics changed.
type Event struct {
	Run    *work.Run `json:"run,omitempty"`
	Topics []string  `json:"topics,omitempty"`
}

// Hub passes events to everyone who listens. A listener that falls behind
// misses events rather than holding the others up; screens read again anyway.
type Hub struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
}

func newHub() *Hub { return &Hub{listeners: map[chan Event]bool{}} }

// Listen gives a channel of events and a function that ends it.
func (h *Hub) Listen() (<-chan Event, func()) {
	c := make(chan Event, 256)
	h.mu.Lock()
	h.listeners[c] = true
	h.mu.Unlock()
	return c, func() {
		h.mu.Lock()
		delete(h.listeners, c)
		h.mu.Unlock()
	}
}

func (h *Hub) publish(e Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners {
		select {
		case c <- e:
		default:
		}
	}
}
