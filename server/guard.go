package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log"
	"mime"
	"net"
	"net/http"
	"net/url"
	"runtime/debug"
	"slices"
	"strings"

	"myriapod/core/edit"
	"myriapod/core/formula"
	"myriapod/core/interchange/glb"
	"myriapod/core/skin"
	"myriapod/core/textsize"
	"myriapod/server/wire"
	"myriapod/shelf"
	"myriapod/store"
)

// guard refuses requests that come by a foreign name or from a foreign page, so that no other site can reach a server on loopback
// through its visitor's browser.
func (s *Server) guard(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		protect(w, r)
		if !s.known(r.Host) {
			answerError(w, http.StatusForbidden, wire.Error{Kind: wire.Forbidden, Message: fmt.Sprintf("this server does not answer to the name %q; call it by its own address", r.Host)})
			return
		}
		if origin := r.Header.Get("Origin"); origin != "" {
			from, err := url.Parse(origin)
			if err != nil || from.Host != r.Host {
				answerError(w, http.StatusForbidden, wire.Error{Kind: wire.Forbidden, Message: fmt.Sprintf("requests from %q are refused; use Myriapod's own page", origin)})
				return
			}
		}
		if r.Method != http.MethodGet && r.Method != http.MethodHead {
			if err := sameSite(r); err != nil {
				answerError(w, http.StatusForbidden, wire.Error{Kind: wire.Forbidden, Message: err.Error()})
				return
			}
		}
		if s.enters(w, r) {
			next.ServeHTTP(w, r)
		}
	})
}

// protect has the browser do with an answer no more than the page needs.
func protect(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; worker-src 'self' blob:; "+
		"base-uri 'none'; form-action 'self'; frame-ancestors 'none'; object-src 'none'")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	if strings.HasPrefix(r.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store") // but for what says otherwise below
	}
}

// sameSite refuses a change that another site may have had a browser ask for. A browser names the site in Origin; where it does not, it says in
// Sec-Fetch-Site whose page asks, and a plain form of another site cannot send JSON or a file's bytes.
func sameSite(r *http.Request) error {
	if site := r.Header.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
		return fmt.Errorf("a request from another site (%s) is refused; use Myriapod's own page", site)
	}
	if r.Header.Get("Origin") != "" || r.ContentLength == 0 {
		return nil
	}
	kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type"))
	if err == nil && (kind == "application/x-www-form-urlencoded" || kind == "multipart/form-data" || kind == "text/plain") {
		return fmt.Errorf("a change comes as JSON or as a file's bytes, not as %s", kind)
	}
	return nil
}

// known tells whether a host is loopback or one of the names the server was given.
func (s *Server) known(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	if address := net.ParseIP(name); address != nil && address.IsLoopback() {
		return true
	}
	return name == "localhost" || slices.Contains(s.hosts, name)
}

// recoverer answers a panic with an error that keeps the person's work in view.
func recoverer(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if failure := recover(); failure != nil {
				log.Printf("panic in %s %s: %v\n%s", r.Method, r.URL.Path, failure, debug.Stack())
				answerError(w, http.StatusInternalServerError, wire.Error{Kind: wire.Broken, Message: "something broke in the server; what was kept before is safe. Load the page again."})
			}
		}()
		next.ServeHTTP(w, r)
	})
}

func answer(w http.ResponseWriter, status int, body any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	if err := json.NewEncoder(w).Encode(body); err != nil {
		log.Printf("answer: %v", err)
	}
}

func answerError(w http.ResponseWriter, status int, body wire.Error) { answer(w, status, body) }

func notFound(w http.ResponseWriter, message string) {
	answerError(w, http.StatusNotFound, wire.Error{Kind: wire.Missing, Message: message})
}

func refused(w http.ResponseWriter, err error) {
	told := wire.Error{Kind: wire.Refused, Message: err.Error()}
	var mistake *formula.Error
	if errors.As(err, &mistake) {
		told.At = &mistake.At
	}
	var mendable *edit.MendableError
	if errors.As(err, &mendable) {
		if data, encodeErr := edit.Encode(mendable.Edit); encodeErr == nil {
			told.Mend = &wire.Mend{Title: mendable.Title, Edit: data, Sways: mendable.Sways}
		}
	}
	answerError(w, http.StatusUnprocessableEntity, told)
}

// fail answers an error of the shelf or the store by what it is.
func fail(w http.ResponseWriter, err error) {
	var (
		conflict *shelf.Conflict
		refusal  *shelf.Refusal
		nothing  store.NothingError
		tooLarge *http.MaxBytesError
		form     errForm
	)
	switch {
	case errors.Is(err, skin.ErrStopped), errors.Is(err, glb.ErrStopped):
		answerError(w, 499, wire.Error{Kind: wire.Stopped, Message: err.Error()})
	case errors.As(err, &tooLarge):
		answerError(w, http.StatusRequestEntityTooLarge, wire.Error{Kind: wire.TooLarge, Message: fmt.Sprintf("this is larger than the %d MB that are taken; split it or thin it out", tooLarge.Limit>>20)})
	case errors.Is(err, store.ErrMissing):
		notFound(w, err.Error())
	case errors.Is(err, store.ErrFull):
		answerError(w, http.StatusInsufficientStorage, wire.Error{Kind: wire.Full, Message: store.ErrFull.Error()})
	case errors.Is(err, store.ErrBusy), errors.Is(err, errBusy):
		w.Header().Set("Retry-After", "5")
		answerError(w, http.StatusServiceUnavailable, wire.Error{Kind: wire.Busy, Message: err.Error()})
	case errors.Is(err, store.ErrDisk), errors.Is(err, store.ErrDamaged):
		log.Printf("error: %v", err)
		answerError(w, http.StatusInternalServerError, wire.Error{Kind: wire.Disk, Message: err.Error()})
	case errors.Is(err, shelf.ErrStopped), errors.Is(err, context.Canceled):
		answerError(w, 499, wire.Error{Kind: wire.Stopped, Message: shelf.ErrStopped.Error()})
	case errors.As(err, &conflict):
		answerError(w, http.StatusConflict, wire.Error{Kind: wire.Conflicts, Message: conflict.Error(), Theirs: conflict.Theirs})
	case errors.As(err, &refusal), errors.As(err, &nothing), errors.As(err, &form):
		refused(w, err)
	default:
		log.Printf("error: %v", err)
		answerError(w, http.StatusInternalServerError, wire.Error{Kind: wire.Broken, Message: err.Error()})
	}
}

// read reads a request's body of at most limit bytes.
func read(w http.ResponseWriter, r *http.Request, limit int64) ([]byte, error) {
	return io.ReadAll(http.MaxBytesReader(w, r.Body, limit))
}

// readJSON reads a request's JSON body and answers the error itself when it cannot.
func readJSON(w http.ResponseWriter, r *http.Request, into any) bool {
	data, err := read(w, r, maxEdit)
	if err != nil {
		fail(w, err)
		return false
	}
	if err := textsize.Check(data, mostText); err != nil {
		refused(w, fmt.Errorf("the request is too large: %w", err))
		return false
	}
	if err := json.Unmarshal(data, into); err != nil {
		refused(w, fmt.Errorf("the request is not the JSON that is wanted: %w", err))
		return false
	}
	return true
}
