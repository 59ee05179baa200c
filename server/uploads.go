package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"mime/multipart"
	"net/http"
	"strings"
	"sync"
	"time"

	"myriapod/core/interchange/files"
	"myriapod/shelf"
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

// upload reads what is brought when there is room for it: a file, or several as a form whose file names are their paths. giveBack frees the room when
// the work on it is done.
func (s *Server) upload(w http.ResponseWriter, r *http.Request) (brought shelf.Brought, giveBack func(), err error) {
	length := r.ContentLength
	if length < 0 {
		length = maxUpload
	}
	if giveBack, err = s.uploads.take(r.Context(), int(min(length, maxUpload))); err != nil {
		return brought, nil, err
	}
	name := r.URL.Query().Get("file")
	if kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type")); kind == "multipart/form-data" {
		r.Body = http.MaxBytesReader(w, r.Body, maxUpload)
		brought, err = several(r, name)
	} else {
		var data []byte
		data, err = read(w, r, maxUpload)
		brought = shelf.One(name, data)
	}
	if err != nil {
		giveBack()
		return brought, nil, err
	}
	return brought, giveBack, nil
}

// errForm is the refusal of a form that does not hold files.
type errForm struct{ error }

// several reads the files of a form. main is the path of the model among them; empty for what is to be found.
func several(r *http.Request, main string) (brought shelf.Brought, err error) {
	form, err := r.MultipartReader()
	if err != nil {
		return brought, errForm{fmt.Errorf("the files did not come as a form: %w", err)}
	}
	set := files.Set{}
	for {
		part, err := form.NextRawPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return brought, err
		}
		if len(set) >= files.MostFiles {
			return brought, errForm{fmt.Errorf("there are more than %d files; bring only those of the model", files.MostFiles)}
		}
		name := pathOf(part)
		if !fs.ValidPath(name) {
			return brought, errForm{fmt.Errorf("a file has the path %.200q, which leads outside of what was brought", name)}
		}
		if set[name], err = io.ReadAll(part); err != nil {
			return brought, err
		}
	}
	if _, ok := set[main]; !ok {
		main = ""
	}
	return shelf.Brought{Files: set, Main: main}, nil
}

// pathOf is the path that a file of a form was given; the part itself would keep only what follows the last slash.
func pathOf(part *multipart.Part) string {
	_, words, err := mime.ParseMediaType(part.Header.Get("Content-Disposition"))
	if err != nil {
		return ""
	}
	return strings.TrimPrefix(strings.ReplaceAll(words["filename"], `\`, "/"), "./")
}
