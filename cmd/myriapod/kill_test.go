package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os/exec"
	"path/filepath"
	"regexp"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/server/wire"
)

// serving is the real program, serving a data folder.
type serving struct {
	command *exec.Cmd
	url     string
}

func serve(t *testing.T, program, data string) *serving {
	t.Helper()
	command := exec.Command(program, "serve", "--listen", "127.0.0.1:0", "--data", data)
	out, err := command.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, command.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	t.Cleanup(func() { _ = command.Process.Kill(); _ = command.Wait() })
	return &serving{command, regexp.MustCompile(`http://[^ ]+`).FindString(line)}
}

// rename sends one edit and tells whether it was acknowledged.
func (s *serving) rename(id string, on int, name string) (revision int, acknowledged bool) {
	body := fmt.Sprintf(`{"on":%d,"edit":{"kind":"change-specimen","name":%q}}`, on, name)
	response, err := http.Post(s.url+"/api/specimens/"+id+"/edits", "application/json", bytes.NewBufferString(body))
	if err != nil {
		return on, false
	}
	defer response.Body.Close()
	var after wire.Specimen
	if json.NewDecoder(response.Body).Decode(&after) != nil || response.StatusCode != http.StatusOK {
		return on, false
	}
	return after.Revision, true
}

func (s *serving) read(t *testing.T, path string, into any) {
	t.Helper()
	response, err := http.Get(s.url + "/api/specimens/" + path)
	require.NoError(t, err)
	defer response.Body.Close()
	require.Equal(t, http.StatusOK, response.StatusCode)
	require.NoError(t, json.NewDecoder(response.Body).Decode(into))
}

// TestKilledWhileEditing kills the server with SIGKILL at random moments during 200 edits, and looks each time whether every
// acknowledged edit is there.
func TestKilledWhileEditing(t *testing.T) {
	program := build(t)
	data := t.TempDir()
	s := serve(t, program, data)
	response, err := http.Post(s.url+"/api/specimens", "application/json", bytes.NewBufferString(`{"name":"0"}`))
	require.NoError(t, err)
	var made wire.Created
	require.NoError(t, json.NewDecoder(response.Body).Decode(&made))
	_ = response.Body.Close()

	acknowledged := map[string]bool{}
	kills := 0
	for attempt := 1; len(acknowledged) < 200; kills++ {
		var now wire.Specimen
		s.read(t, made.ID, &now)
		var dying atomic.Bool
		time.AfterFunc(time.Duration(2000+rand.IntN(120_000))*time.Microsecond, func() {
			dying.Store(true)
			_ = s.command.Process.Kill() // SIGKILL
		})
		for revision := now.Revision; ; attempt++ {
			name := fmt.Sprintf("edit %d", attempt)
			next, ok := s.rename(made.ID, revision, name)
			if !ok {
				require.True(t, dying.Load(), "an edit failed while the server lived")
				attempt++
				break
			}
			acknowledged["Name the specimen "+name] = true
			revision = next
		}
		_ = s.command.Wait()
		s = serve(t, program, data)
		var history []wire.Entry
		s.read(t, made.ID+"/history", &history)
		found := map[string]bool{}
		for _, entry := range history {
			found[entry.Title] = true
		}
		for title := range acknowledged {
			require.True(t, found[title], "%q was acknowledged and is gone", title)
		}
	}
	assert.Positive(t, kills)
	t.Logf("%d acknowledged edits, %d kills: every edit is there", len(acknowledged), kills)
}

// build builds the program.
func build(t *testing.T) string {
	t.Helper()
	program := filepath.Join(t.TempDir(), "myriapod")
	out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput()
	require.NoError(t, err, string(out))
	return program
}
