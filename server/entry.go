package server

import (
	"crypto/rand"
	"crypto/subtle"
	"net/http"
	"strings"

	"myriapod/server/wire"
)

// entrance is where the link with the key leads.
const entrance = "/enter"

// keyCookie carries the key from then on.
const keyCookie = "myriapod-key"

// NewKey returns a secret that opens a server which is reached from other machines.
func NewKey() string { return rand.Text() }

// Protect has the server answer nobody without the key, from now on. It must be called before the server serves.
func (s *Server) Protect(key string) { s.key = key }

// EntryPath is what follows the address in the link that lets a browser in; nothing for a server that lets everybody in.
func (s *Server) EntryPath() string {
	if s.key == "" {
		return ""
	}
	return entrance + "?key=" + s.key
}

// enters lets a request with the key in, and answers any other. The link with the key leaves it in a cookie, which no script reads and which another
// site can at most open the page with: were it strict, the link would not work from a letter.
func (s *Server) enters(w http.ResponseWriter, r *http.Request) bool {
	if s.key == "" {
		return true
	}
	if r.URL.Path == entrance && s.opens(r.URL.Query().Get("key")) {
		http.SetCookie(w, &http.Cookie{Name: keyCookie, Value: s.key, Path: "/", HttpOnly: true, SameSite: http.SameSiteLaxMode, MaxAge: 365 * 24 * 3600})
		http.Redirect(w, r, "/", http.StatusSeeOther)
		return false
	}
	if cookie, err := r.Cookie(keyCookie); err == nil && s.opens(cookie.Value) {
		return true
	}
	const message = "This server is entered by the link that it printed when it was started; open that."
	if strings.Contains(r.Header.Get("Accept"), "text/html") {
		http.Error(w, message, http.StatusForbidden) // somebody who typed the address reads a sentence
		return false
	}
	answerError(w, http.StatusForbidden, wire.Error{Kind: wire.Forbidden, Message: message})
	return false
}

func (s *Server) opens(key string) bool {
	return subtle.ConstantTimeCompare([]byte(key), []byte(s.key)) == 1
}
