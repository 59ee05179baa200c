package server

import (
	"sync"

	"myriapod/server/wire"
)

// hub carries news about specimens to the live channels that show them.
type hub struct {
	mutex     sync.Mutex
	listeners map[string]map[*listener]bool
}

// listener is one live channel. News that it does not take in time is dropped, but that the specimen changed is never lost: the
// flag stays until it is read.
type listener struct {
	news    chan wire.Tell
	changed chan struct{}
}

func newHub() *hub { return &hub{listeners: map[string]map[*listener]bool{}} }

func (h *hub) listen(specimen string) *listener {
	l := &listener{news: make(chan wire.Tell, 16), changed: make(chan struct{}, 1)}
	h.mutex.Lock()
	defer h.mutex.Unlock()
	if h.listeners[specimen] == nil {
		h.listeners[specimen] = map[*listener]bool{}
	}
	h.listeners[specimen][l] = true
	return l
}

func (h *hub) leave(specimen string, l *listener) {
	h.mutex.Lock()
	defer h.mutex.Unlock()
	delete(h.listeners[specimen], l)
	if len(h.listeners[specimen]) == 0 {
		delete(h.listeners, specimen)
	}
}

func (h *hub) each(specimen string, visit func(*listener)) {
	h.mutex.Lock()
	defer h.mutex.Unlock()
	for l := range h.listeners[specimen] {
		visit(l)
	}
}

// changed tells all who show the specimen that it is not what it was.
func (h *hub) changed(specimen string) {
	h.each(specimen, func(l *listener) {
		select {
		case l.changed <- struct{}{}:
		default: // it is told already
		}
	})
}

// tell passes news on to all who show the specimen.
func (h *hub) tell(specimen string, news wire.Tell) {
	h.each(specimen, func(l *listener) {
		select {
		case l.news <- news:
		default: // a page that is this slow does without
		}
	})
}
