package server

import (
	"context"
	"errors"
	"sync"
	"time"
)

// Bounds of what is uploaded at once. Whoever comes beyond them waits for a turn, and is sent away when that takes too long.
const (
	maxUploads     = 3
	maxUploadBytes = 512 << 20
	longestWait    = 20 * time.Second
)

var errBusy = errors.New("other files are being read; wait a moment and bring this one again")

// uploads counts what is being read.
type uploads struct {
	mutex        sync.Mutex
	count, bytes int
	freed        chan struct{} // closed and made anew whenever one is done
}

func newUploads() *uploads { return &uploads{freed: make(chan struct{})} }

// take waits for room for so many bytes and returns what gives it back.
func (u *uploads) take(ctx context.Context, bytes int) (giveBack func(), err error) {
	ctx, cancel := context.WithTimeout(ctx, longestWait)
	defer cancel()
	for {
		u.mutex.Lock()
		if u.count < maxUploads && (u.count == 0 || u.bytes+bytes <= maxUploadBytes) {
			u.count, u.bytes = u.count+1, u.bytes+bytes
			u.mutex.Unlock()
			return func() { u.free(bytes) }, nil
		}
		freed := u.freed
		u.mutex.Unlock()
		select {
		case <-freed:
		case <-ctx.Done():
			return nil, errBusy
		}
	}
}

func (u *uploads) free(bytes int) {
	u.mutex.Lock()
	defer u.mutex.Unlock()
	u.count, u.bytes = u.count-1, u.bytes-bytes
	close(u.freed)
	u.freed = make(chan struct{})
}
