package shelf

import "sync"

// locks is one lock for each specimen, there as long as somebody holds it or waits for it.
type locks struct {
	mutex sync.Mutex
	held  map[string]*lock
}

type lock struct {
	sync.Mutex
	users int
}

// take waits for the specimen's lock and returns what gives it back.
func (l *locks) take(specimen string) (giveBack func()) {
	l.mutex.Lock()
	if l.held == nil {
		l.held = map[string]*lock{}
	}
	k := l.held[specimen]
	if k == nil {
		k = &lock{}
		l.held[specimen] = k
	}
	k.users++
	l.mutex.Unlock()
	k.Lock()
	return func() {
		k.Unlock()
		l.mutex.Lock()
		defer l.mutex.Unlock()
		if k.users--; k.users == 0 {
			delete(l.held, specimen)
		}
	}
}
