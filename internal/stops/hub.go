package stops

import "sync"

// Hub passes events to everyone who listens. A listener that falls behind
// misses events rather than holding the others up; screens read again anyway.
type Hub struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
}

// Listen gives a channel of events and a function that ends it.
func (h *Hub) Listen() (<-chan Event, func()) {
	c := make(chan Event, 256)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.listeners == nil {
		h.listeners = map[chan Event]bool{}
	}
	h.listeners[c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.listeners, c)
	}
}

// Publish tells all who listen.
func (h *Hub) Publish(e Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners {
		select {
		case c <- e:
		default:
		}
	}
}
