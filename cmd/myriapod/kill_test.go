package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/server/wire"
)

// serving is the real program, serving a data folder.
type serving struct {
	command *exec.Cmd
	url     string
}

func serve(t *testing.T, program, data string) *serving {
	t.Helper()
	return serveAs(t, program, "serve", data)
}

// serveAs starts the program by a subcommand and waits until it serves.
func serveAs(t *testing.T, program, subcommand, data string) *serving {
	t.Helper()
	command := exec.Command(program, subcommand, "--listen", "127.0.0.1:0", "--data", data)
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

// kills is how often the mixed work is killed: MYRIAPOD_KILLS, or 8.
func kills() int {
	if n, err := strconv.Atoi(os.Getenv("MYRIAPOD_KILLS")); err == nil {
		return n
	}
	return 8
}

// do sends a request and tells whether it was acknowledged; into takes the answer.
func (s *serving) do(method, path, body string, into any) bool {
	request, err := http.NewRequest(method, s.url+path, strings.NewReader(body))
	if err != nil {
		return false
	}
	response, err := http.DefaultClient.Do(request)
	if err != nil {
		return false
	}
	defer response.Body.Close()
	return response.StatusCode < 300 && json.NewDecoder(response.Body).Decode(into) == nil
}

// TestKilledAmidMixedWork kills the server amid making, importing, copying, editing, undoing, deleting and putting back. What was acknowledged is there at
// the next start, and everything that is there is whole.
func TestKilledAmidMixedWork(t *testing.T) {
	program := build(t)
	data := t.TempDir()
	s := serve(t, program, data)
	there, gone, revisions := map[string]bool{}, map[string]bool{}, map[string]int{}
	acknowledged := 0
	const triangle = "o a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
	for range kills() {
		process := s.command.Process
		time.AfterFunc(time.Duration(2000+rand.IntN(150_000))*time.Microsecond, func() { _ = process.Kill() })
		for alive := true; alive; {
			var made wire.Created
			var now wire.Specimen
			ids := slices.Collect(maps.Keys(there))
			if len(ids) == 0 || rand.IntN(4) == 0 {
				path, body := "/api/specimens", `{"name":"x"}`
				if rand.IntN(2) == 0 {
					path, body = "/api/imports?file=a.obj", triangle
				}
				if alive = s.do("POST", path, body, &made); alive {
					there[made.ID], revisions[made.ID] = true, 1
					acknowledged++
				}
				continue
			}
			id := ids[rand.IntN(len(ids))]
			at := "/api/specimens/" + id
			switch rand.IntN(5) {
			case 0:
				if alive = s.do("DELETE", at, "", &struct{}{}); alive {
					delete(there, id)
					gone[id] = true
				} else {
					delete(there, id) // nobody said whether it is
				}
			case 1:
				if alive = s.do("POST", at+"/duplicate", "", &made); alive {
					there[made.ID], revisions[made.ID] = true, 1
				}
			default:
				if alive = s.do("GET", at, "", &now); alive {
					var next int
					if next, alive = s.rename(id, now.Revision, fmt.Sprint("r", rand.IntN(1e9))); alive {
						revisions[id] = max(revisions[id], next)
					}
				}
			}
			if alive {
				acknowledged++
			}
		}
		_ = s.command.Wait()
		s = serve(t, program, data)
		var plates []wire.Plate
		require.True(t, s.do("GET", "/api/specimens", "", &plates))
		listed := map[string]bool{}
		for _, plate := range plates {
			require.Empty(t, plate.Damage)
			listed[plate.ID] = true
		}
		for id := range there {
			require.True(t, listed[id], "%s was acknowledged and is gone", id)
			var history []wire.Entry
			s.read(t, id+"/history", &history)
			require.GreaterOrEqual(t, history[0].Number, revisions[id], "%s has lost an edit", id)
			var now wire.Specimen
			s.read(t, id, &now)
		}
		for id := range gone {
			require.False(t, listed[id], "%s was deleted and is back", id)
		}
	}
	t.Logf("%d acknowledged actions, %d kills: all are there", acknowledged, kills())
}

// TestKilledWhileFilling kills the program while it fills its shelf with the demo specimens. The next start has all of them, whole.
func TestKilledWhileFilling(t *testing.T) {
	program := build(t)
	for k := range max(1, kills()/8) {
		data := t.TempDir()
		command := exec.Command(program, "demo", "--listen", "127.0.0.1:0", "--data", data)
		require.NoError(t, command.Start())
		time.Sleep(time.Duration(rand.IntN(5_000)) * time.Millisecond)
		_ = command.Process.Kill()
		_ = command.Wait()
		s := serveAs(t, program, "demo", data)
		var plates []wire.Plate
		require.True(t, s.do("GET", "/api/specimens", "", &plates))
		require.Len(t, plates, len(demo.Specimens()), "kill %d", k)
		for _, plate := range plates {
			require.Empty(t, plate.Damage)
			require.Greater(t, plate.Revision, 1, plate.Name)
		}
		_ = s.command.Process.Kill()
		_ = s.command.Wait()
	}
}

// TestToldToEndItEnds tells the program to end and looks that it does so in time, with nothing said of work that was cut.
func TestToldToEndItEnds(t *testing.T) {
	s := serve(t, build(t), t.TempDir())
	require.NoError(t, s.command.Process.Signal(syscall.SIGTERM))
	ended := make(chan error, 1)
	go func() { ended <- s.command.Wait() }()
	select {
	case err := <-ended:
		require.NoError(t, err)
	case <-time.After(longestEnd + 5*time.Second):
		t.Fatal("it does not end")
	}
}
