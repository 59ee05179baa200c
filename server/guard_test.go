package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/server"
	"myriapod/server/wire"
	"myriapod/store"
)

// send sends a request with headers of its own and returns the answer.
func (r *running) send(method, path, body string, headers map[string]string) *http.Response {
	r.t.Helper()
	request, err := http.NewRequest(method, r.url+path, strings.NewReader(body))
	require.NoError(r.t, err)
	for name, value := range headers {
		request.Header.Set(name, value)
	}
	response, err := http.DefaultClient.Do(request)
	require.NoError(r.t, err)
	r.t.Cleanup(func() { _ = response.Body.Close() })
	return response
}

func TestEveryAnswerProtectsItself(t *testing.T) {
	r := start(t)
	for _, path := range []string{"/", "/api/specimens", "/api/nothing", "/api/specimens/x", "/assets/none.js"} {
		h := r.send("GET", path, "", nil).Header
		policy := h.Get("Content-Security-Policy")
		for _, part := range []string{"base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'", "default-src 'self'"} {
			assert.Contains(t, policy, part, path)
		}
		assert.Equal(t, "nosniff", h.Get("X-Content-Type-Options"), path)
		assert.Equal(t, "no-referrer", h.Get("Referrer-Policy"), path)
		assert.Equal(t, "same-origin", h.Get("Cross-Origin-Resource-Policy"), path)
		if strings.HasPrefix(path, "/api") {
			assert.Equal(t, "no-store", h.Get("Cache-Control"), path)
		}
	}
}

// What another site can have a visitor's browser send changes nothing.
func TestChangesFromOtherSitesAreRefused(t *testing.T) {
	r := start(t)
	id := r.quillwick().ID
	for _, headers := range []map[string]string{
		{"Sec-Fetch-Site": "cross-site", "Content-Type": "application/json"},
		{"Sec-Fetch-Site": "same-site", "Content-Type": "application/json"},
		{"Content-Type": "text/plain"},
		{"Content-Type": "application/x-www-form-urlencoded"},
		{"Content-Type": "multipart/form-data; boundary=x"},
		{"Origin": "http://elsewhere.example", "Content-Type": "application/json"},
		{"Host": "elsewhere.example"},
	} {
		response := r.send("POST", "/api/specimens", `{"name":"x"}`, headers)
		if headers["Host"] == "" {
			assert.Equal(t, http.StatusForbidden, response.StatusCode, "%v", headers)
		}
	}
	assert.Equal(t, http.StatusForbidden, r.send("DELETE", "/api/specimens/"+id, "", map[string]string{"Sec-Fetch-Site": "cross-site"}).StatusCode)
	assert.Equal(t, http.StatusForbidden, r.send("POST", "/api/specimens/"+id+"/undo", "", map[string]string{"Sec-Fetch-Site": "cross-site"}).StatusCode)
	assert.Equal(t, http.StatusCreated, r.send("POST", "/api/specimens", `{"name":"x"}`, map[string]string{"Sec-Fetch-Site": "same-origin", "Content-Type": "application/json"}).StatusCode)
	assert.Equal(t, http.StatusCreated, r.send("POST", "/api/specimens", `{"name":"y"}`, nil).StatusCode, "the command line says neither")
}

// A server that other machines reach is entered by its link alone.
func TestBeyondLoopbackNobodyComesInWithoutTheKey(t *testing.T) {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	application := server.New(s, fstest.MapFS{"index.html": {Data: []byte("the page")}})
	application.Protect(server.NewKey())
	listener := httptest.NewServer(application.Handler())
	t.Cleanup(func() { listener.Close(); _ = s.Close() })
	r := &running{t, listener.URL, application}
	link := application.EntryPath()
	require.Greater(t, len(link), len("/enter?key=")+20)
	for _, path := range []string{"/", "/api/specimens", "/enter", "/enter?key=", "/enter?key=x", "/api/specimens/x/live", "/api" + link} {
		assert.Equal(t, http.StatusForbidden, r.send("GET", path, "", nil).StatusCode, path)
	}
	assert.Equal(t, http.StatusForbidden, r.send("GET", "/api/specimens", "", map[string]string{"Cookie": "myriapod-key=x"}).StatusCode)
	typed := r.send("GET", "/", "", map[string]string{"Accept": "text/html,*/*"})
	assert.Equal(t, http.StatusForbidden, typed.StatusCode)
	assert.Contains(t, typed.Header.Get("Content-Type"), "text/plain", "a person reads a sentence")
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := &http.Client{Jar: jar}
	for _, path := range []string{link, "/api/specimens", "/"} {
		response, err := client.Get(r.url + path)
		require.NoError(t, err)
		_ = response.Body.Close()
		assert.Equal(t, http.StatusOK, response.StatusCode, path)
	}
}

func TestWhatAClientSaysWrongIsItsOwnFault(t *testing.T) {
	r := start(t)
	at := "/api/specimens/" + r.quillwick().ID
	for _, on := range []string{"x", "-1", "0", "99999999999999999999", "1e3"} {
		r.refused("POST", at+"/undo?on="+on, nil, 422, "is no revision")
		r.refused("DELETE", at+"?on="+on, nil, 422, "is no revision")
	}
	r.refused("POST", at+"/undo?on=7777", nil, 422, "no revision 7777")
	r.refused("POST", at+"/edits", map[string]any{"on": 7777, "edit": map[string]any{"kind": "rename-specimen", "name": "x"}}, 422, "")
	r.refused("POST", at+"/edits", bytes.Repeat([]byte(`{"a":`), 300_000), 422, "too large")
	r.refused("POST", at+"/edits", []byte(`{"on":1,"edit":{"kind":"add-clip","name":"k","start":-9223372036854775807,"end":9223372036854775807}}`), 422, "no frame lies beyond")
	for _, frames := range []string{`{"from":-2147483648,"to":9223372036854775807}`, `{"from":-9223372036854775808,"to":9223372036854775807}`, `{"from":5,"to":1}`, `{"from":0,"to":100000}`} {
		var job wire.Export
		r.ask("POST", at+"/exports", []byte(frames), 202, &job)
		require.Eventually(t, func() bool {
			r.ask("GET", "/api/exports/"+job.Job, nil, 200, &job)
			return job.Done
		}, 20*time.Second, 5*time.Millisecond)
		assert.Contains(t, job.Error, "export", frames)
	}
}

// What was asked for on a state that somebody has changed since is refused, with what came between.
func TestUndoAndDeleteCarryTheirRevision(t *testing.T) {
	r := start(t)
	seen := r.quillwick()
	at := "/api/specimens/" + seen.ID
	var now wire.Specimen
	r.ask("POST", at+"/undo", nil, 200, &now)
	for _, path := range []string{"/undo", "/redo", "/goto"} {
		r.refused("POST", fmt.Sprintf("%s%s?on=%d", at, path, seen.Revision), wire.GoTo{Revision: 1}, 409, "was made on an older state")
	}
	r.refused("DELETE", fmt.Sprintf("%s?on=%d", at, seen.Revision), nil, 409, "was made on an older state")
	r.ask("POST", fmt.Sprintf("%s/redo?on=%d", at, now.Revision), nil, 200, &now)
	assert.Equal(t, seen.Revision, now.Revision)
	r.ask("DELETE", fmt.Sprintf("%s?on=%d", at, now.Revision), nil, 200, nil)
}

// One client does not take all export jobs.
func TestOneClientDoesNotTakeAllExports(t *testing.T) {
	r := start(t)
	at := "/api/specimens/" + r.specimen("Tallow").ID
	refused := 0
	for range 6 {
		response := r.send("POST", at+"/exports", `{"from":0,"to":4000}`, nil)
		if response.StatusCode == http.StatusUnprocessableEntity {
			refused++
			continue
		}
		var job wire.Export
		require.NoError(t, json.NewDecoder(response.Body).Decode(&job))
		defer r.ask("DELETE", "/api/exports/"+job.Job, nil, 200, nil)
	}
	assert.Equal(t, 2, refused)
}
