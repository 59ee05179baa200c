package server_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/pick"
	"myriapod/core/rig"
	"myriapod/server"
	"myriapod/server/wire"
	"myriapod/shelf/shelftest"
	"myriapod/store"
)

type running struct {
	t      testing.TB
	url    string
	server *server.Server
}

func start(t testing.TB) *running {
	folder := t.TempDir()
	shelftest.Fill(t, folder)
	s, err := store.Open(folder)
	require.NoError(t, err)
	application := server.New(s, fstest.MapFS{"index.html": {Data: []byte("the page")}})
	listener := httptest.NewServer(application.Handler())
	t.Cleanup(func() {
		listener.CloseClientConnections()
		listener.Close()
		_ = s.Close()
	})
	return &running{t, listener.URL, application}
}

// ask sends a request and decodes the answer, which must have the status.
func (r *running) ask(method, path string, body any, status int, into any) {
	r.t.Helper()
	var reader io.Reader
	switch b := body.(type) {
	case nil:
	case []byte:
		reader = bytes.NewReader(b)
	default:
		data, err := json.Marshal(b)
		require.NoError(r.t, err)
		reader = bytes.NewReader(data)
	}
	request, err := http.NewRequest(method, r.url+path, reader)
	require.NoError(r.t, err)
	response, err := http.DefaultClient.Do(request)
	require.NoError(r.t, err)
	defer response.Body.Close()
	data, err := io.ReadAll(response.Body)
	require.NoError(r.t, err)
	require.Equal(r.t, status, response.StatusCode, string(data))
	if into != nil {
		require.NoError(r.t, json.Unmarshal(data, into), string(data))
	}
}

func (r *running) refused(method, path string, body any, status int, want string) {
	r.t.Helper()
	var told wire.Error
	r.ask(method, path, body, status, &told)
	assert.Contains(r.t, told.Message, want)
}

func (r *running) quillwick() wire.Specimen { return r.specimen("Quillwick") }

func (r *running) specimen(name string) wire.Specimen {
	r.t.Helper()
	var plates []wire.Plate
	r.ask("GET", "/api/specimens", nil, 200, &plates)
	at := slices.IndexFunc(plates, func(p wire.Plate) bool { return p.Name == name })
	var s wire.Specimen
	r.ask("GET", "/api/specimens/"+plates[at].ID, nil, 200, &s)
	return s
}

func TestSpecimensComeGoAndComeBack(t *testing.T) {
	r := start(t)
	var made wire.Created
	r.ask("POST", "/api/specimens", map[string]string{"name": "Heron"}, 201, &made)
	r.ask("POST", "/api/specimens/"+made.ID+"/duplicate", nil, 201, nil)
	var plates []wire.Plate
	r.ask("GET", "/api/specimens", nil, 200, &plates)
	require.Equal(t, len(demo.Specimens())+2, len(plates))
	assert.Equal(t, "Heron, copy", plates[len(plates)-1].Name)
	r.ask("DELETE", "/api/specimens/"+made.ID, nil, 200, nil)
	r.refused("GET", "/api/specimens/"+made.ID, nil, 404, "may have been deleted")
	r.ask("POST", "/api/specimens/"+made.ID+"/restore", nil, 200, nil)
	r.refused("POST", "/api/specimens", map[string]string{"name": ""}, 422, "a name is missing")
	r.ask("POST", "/api/imports?file=square.obj", []byte("v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n"), 201, &made)
	r.refused("POST", "/api/imports?file=bad.obj", []byte("v 0 0 0\nf 1 2 3\n"), 422, "bad.obj: line 2: vertex 2 does not exist")
	r.refused("POST", "/api/imports?file=empty.glb", []byte(" "), 422, "the file is empty")
	r.refused("POST", "/api/imports?file=rig.json", []byte(`{"format":"myriapod-rig","version":4}`), 422, "version: 4 is not known")
}

func TestEditsUndoRedoAndConflicts(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	path := "/api/specimens/" + s.ID
	post := func(on int, edit any, status int, into any) {
		t.Helper()
		r.ask("POST", path+"/edits", map[string]any{"on": on, "edit": edit}, status, into)
	}
	rename := func(name string) map[string]string {
		return map[string]string{"kind": "rename", "id": s.Document.Joints[3].ID, "name": name}
	}
	var after wire.Specimen
	post(s.Revision, rename("hip"), 200, &after)
	assert.Equal(t, "hip", after.Document.Joints[3].Name)
	assert.Equal(t, "Rename spine_04 to hip", after.Undo)
	var conflict wire.Error
	post(s.Revision, rename("other"), 409, &conflict)
	assert.Equal(t, wire.Conflicts, conflict.Kind)
	assert.Equal(t, []string{"Rename spine_04 to hip"}, conflict.Theirs)
	r.refused("POST", path+"/edits", map[string]any{"on": after.Revision, "edit": map[string]string{"kind": "rename", "id": "gone", "name": "x"}}, 422, "there is no thing")
	r.refused("POST", path+"/edits", map[string]any{"on": after.Revision, "edit": map[string]string{"kind": "fly"}}, 422, `no edit of the kind "fly"`)
	r.refused("POST", path+"/edits", []byte("garbage"), 422, "not the JSON")
	r.ask("POST", path+"/undo", nil, 200, &after)
	assert.Equal(t, s.Document, after.Document)
	r.ask("POST", path+"/redo", nil, 200, &after)
	assert.Equal(t, "hip", after.Document.Joints[3].Name)
	r.refused("POST", path+"/redo", nil, 422, "nothing to redo")
	var entries []wire.Entry
	r.ask("GET", path+"/history", nil, 200, &entries)
	assert.True(t, entries[0].Present)
}

func TestForeignHostsAndOriginsAreRefused(t *testing.T) {
	r := start(t)
	for header, want := range map[string]string{"Host": "does not answer to the name", "Origin": "are refused; use Myriapod's own page"} {
		request, err := http.NewRequest("GET", r.url+"/api/specimens", nil)
		require.NoError(t, err)
		if header == "Host" {
			request.Host = "evil.example"
		} else {
			request.Header.Set(header, "http://evil.example")
		}
		response, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		data, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		_ = response.Body.Close()
		assert.Equal(t, http.StatusForbidden, response.StatusCode)
		assert.Contains(t, string(data), want)
	}
	_, _, err := websocket.Dial(context.Background(), strings.Replace(r.url, "http", "ws", 1)+"/api/specimens/"+r.quillwick().ID+"/live",
		&websocket.DialOptions{HTTPHeader: http.Header{"Origin": {"http://evil.example"}}})
	require.ErrorContains(t, err, "403")
}

func TestTooLargeIsToldWithItsLimit(t *testing.T) {
	r := start(t)
	id := r.quillwick().ID
	r.refused("POST", "/api/specimens/"+id+"/edits", bytes.Repeat([]byte(" "), 17<<20), 413, "larger than the 16 MB")
}

func TestExportsRunAreComparedAndCanBeStopped(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	var job wire.Export
	r.ask("POST", "/api/specimens/"+s.ID+"/exports", wire.ExportRequest{Clip: s.Document.Clips[0].ID}, 202, &job)
	for !job.Done {
		time.Sleep(20 * time.Millisecond)
		r.ask("GET", "/api/exports/"+job.Job, nil, 200, &job)
	}
	require.Empty(t, job.Error)
	assert.Less(t, job.Report.Share, 1e-5)
	assert.Equal(t, "Quillwick.glb", job.Name)
	from, to := 0, 90_000
	r.ask("POST", "/api/specimens/"+s.ID+"/exports", wire.ExportRequest{From: &from, To: &to}, 202, &job)
	r.ask("DELETE", "/api/exports/"+job.Job, nil, 200, &job)
	require.Eventually(t, func() bool { r.ask("GET", "/api/exports/"+job.Job, nil, 200, &job); return job.Done }, 10*time.Second, 20*time.Millisecond)
	assert.Contains(t, job.Error, "stopped")
	r.refused("GET", "/api/exports/"+job.Job+"/file", nil, 404, "no file")
	r.refused("POST", "/api/specimens/"+s.ID+"/exports", wire.ExportRequest{Clip: "gone"}, 422, "choose another")
}

func TestThePageIsServedAtItsAddresses(t *testing.T) {
	r := start(t)
	for _, path := range []string{"/", "/specimen/abc"} {
		response, err := http.Get(r.url + path)
		require.NoError(t, err)
		data, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		_ = response.Body.Close()
		assert.Equal(t, "the page", string(data), path)
	}
	r.refused("GET", "/api/nothing", nil, 404, "nothing at this address")
	response, err := http.Get(r.url + "/api/specimens/" + r.quillwick().ID + "/picture.png")
	require.NoError(t, err)
	defer response.Body.Close()
	assert.Equal(t, "image/png", response.Header.Get("Content-Type"))
}

type channel struct {
	t    testing.TB
	ctx  context.Context
	conn *websocket.Conn
}

func (r *running) dial(id string) *channel {
	r.t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	conn, _, err := websocket.Dial(ctx, strings.Replace(r.url, "http", "ws", 1)+"/api/specimens/"+id+"/live", nil)
	require.NoError(r.t, err)
	conn.SetReadLimit(64 << 20)
	r.t.Cleanup(func() { _ = conn.CloseNow(); cancel() })
	return &channel{r.t, ctx, conn}
}

func (c *channel) send(ask any) {
	c.t.Helper()
	data, ok := ask.([]byte)
	if !ok {
		var err error
		data, err = json.Marshal(ask)
		require.NoError(c.t, err)
	}
	require.NoError(c.t, c.conn.Write(c.ctx, websocket.MessageText, data))
}

// frame reads until a frame comes and returns its bytes; tells on the way are gathered.
func (c *channel) frame() (data []byte, tells []wire.Tell) {
	c.t.Helper()
	for {
		kind, data, err := c.conn.Read(c.ctx)
		require.NoError(c.t, err)
		if kind == websocket.MessageBinary {
			return data, tells
		}
		var tell wire.Tell
		require.NoError(c.t, json.Unmarshal(data, &tell))
		tells = append(tells, tell)
	}
}

func (c *channel) tell(kind string) wire.Tell {
	c.t.Helper()
	for {
		_, data, err := c.conn.Read(c.ctx)
		require.NoError(c.t, err)
		var tell wire.Tell
		if json.Unmarshal(data, &tell) == nil && tell.Type == kind {
			return tell
		}
	}
}

func jointPlace(frame []byte, joint int) [3]float64 {
	return [3]float64(section(frame, "join")[12*joint+9:])
}

func TestTheStageFollowsWhatThePageSends(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	c := r.dial(s.ID)
	c.send(wire.Ask{Type: "pose", Seq: 1, Rest: true})
	frame, _ := c.frame()
	assert.Len(t, section(frame, "join"), 12*36)
	for k, n := range jointPlace(frame, 20) {
		assert.InDelta(t, s.Document.Joints[20].Position[k], n, 1e-6, "the rest pose")
	}
	root := s.Document.ControlNamed("root").ID
	c.send(wire.Ask{Type: "pose", Seq: 2, Rest: false, Pull: &wire.Pull{Control: root, To: [3]float64{3, 0, 0}}})
	frame, _ = c.frame()
	assert.Equal(t, uint32(2), binary.LittleEndian.Uint32(frame[4:]))
	assert.InDelta(t, 3-s.Document.ControlNamed("root").Position[0], jointPlace(frame, 0)[0]-s.Document.Joints[0].Position[0], 1e-5, "the pulled root carries the head")
	c.send(map[string]any{"type": "centre", "seq": 9, "origin": [3]float64{0, 5, 0}, "direction": [3]float64{0, -1, 0}})
	told := c.tell("centre")
	require.NotNil(t, told.Centre)
	assert.InDelta(t, 0.34, told.Centre[1], 0.06, "the middle of the body, not of its fins alone")
}

func TestAPageThatTriesParametersSeesThemAndTheyAreNotKept(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	c := r.dial(s.ID)
	wave := idOf(s, "swim")
	c.send(wire.Ask{Type: "pose", Seq: 1, Time: 2})
	before, _ := c.frame()
	c.send([]byte(fmt.Sprintf(`{"type":"pose","seq":2,"time":2,"parameters":{%q:{"rate":3}}}`, wave)))
	after, tells := c.frame()
	require.NotEmpty(t, tells)
	assert.Contains(t, tells[0].Parameters, "phase", "the phase is kept, and the page is told how")
	for joint := range 36 {
		for k, n := range jointPlace(before, joint) {
			assert.InDelta(t, n, jointPlace(after, joint)[k], 1e-5)
		}
	}
	c.send([]byte(fmt.Sprintf(`{"type":"pose","seq":3,"time":2,"parameters":{%q:{"rate":900}}}`, wave)))
	_, tells = c.frame()
	assert.Contains(t, tells[0].Message, "rate lies between -50 and 50")
	assert.Equal(t, s.Document, r.quillwick().Document)
}

func TestGarbageOnTheLiveChannelIsToldAndHarmless(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	c := r.dial(s.ID)
	for _, garbage := range []string{"{", `"x"`, `{"type":"dance"}`, `{"type":"pose","time":"soon"}`, `{"type":"pose","channels":{"a":[{"channel":7}]}}`} {
		c.send([]byte(garbage))
		assert.Contains(t, c.tell("error").Message, "not understood", garbage)
	}
	require.NoError(t, c.conn.Write(c.ctx, websocket.MessageBinary, []byte{1, 2, 3}))
	assert.Contains(t, c.tell("error").Message, "takes JSON text")
	control := s.Document.Controls[0].ID
	c.send([]byte(fmt.Sprintf(`{"type":"pose","seq":5,"time":1e300,"channels":{%q:[{"channel":"moveX","value":1e300},{"channel":"wings","value":1}],"gone":[{"channel":"moveX","value":1}]}}`, control)))
	frame, _ := c.frame()
	for joint := range 36 {
		for _, n := range jointPlace(frame, joint) {
			assert.False(t, math.IsNaN(n) || math.IsInf(n, 0))
		}
	}
	assert.Equal(t, s.Document, r.quillwick().Document)
}

func TestASlowPageGetsTheLastPoseAndTwoPagesStayInStep(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	slow, other := r.dial(s.ID), r.dial(s.ID)
	const poses = 3000
	for i := 1; i <= poses; i++ {
		slow.send(wire.Ask{Type: "pose", Seq: uint32(i), Time: float64(i) / 100})
	}
	frames := 0
	for {
		frame, _ := slow.frame()
		frames++
		if binary.LittleEndian.Uint32(frame[4:]) == poses {
			break
		}
	}
	t.Logf("%d poses sent at once, %d frames came, the last among them", poses, frames)
	r.ask("POST", "/api/specimens/"+s.ID+"/edits", map[string]any{"on": s.Revision, "edit": map[string]any{"kind": "change-specimen", "name": "Two"}}, 200, nil)
	assert.Equal(t, s.Sequence+1, slow.tell("changed").Sequence)
	assert.Equal(t, s.Sequence+1, other.tell("changed").Sequence)
}

func TestElementsArePickedByTheirNeighbourhood(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	body := s.Document.Parts[0]
	at := "/api/specimens/" + s.ID + "/elements"
	ask := func(act pick.Act, kind pick.Kind, list []int) (picked pick.Picked) {
		t.Helper()
		r.ask("POST", at, wire.ElementsRequest{Act: act, Elements: pick.Elements{Kind: kind, Of: map[string][]int{body.ID: list}}}, 200, &picked)
		return picked
	}
	assert.Equal(t, body.Vertices, ask(pick.Piece, pick.Vertices, []int{0}).Count)
	ring := ask(pick.Ring, pick.Edges, []int{1 + 48*60, 2 + 48*60})
	assert.True(t, ring.Closed)
	assert.Equal(t, 48, ring.Count)
	assert.InDelta(t, 0, ring.Centre[0], 0.05)
	whole := wire.ElementsRequest{Act: pick.Window, Elements: pick.Elements{Kind: pick.Faces}, View: []float64{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -0.4, 0, 0, 0, 0, 1}, Window: [4]float64{-1, -1, 1, 1}, Through: true}
	var all, front pick.Picked
	r.ask("POST", at, whole, 200, &all)
	whole.Through = false
	r.ask("POST", at, whole, 200, &front)
	assert.Greater(t, all.Count, front.Count, "what lies behind is left out")
	r.refused("POST", at, wire.ElementsRequest{Act: pick.Grow, Elements: pick.Elements{Kind: pick.Faces, Of: map[string][]int{body.ID: {1 << 30}}}}, 422, "has no element")
	r.refused("POST", at, wire.ElementsRequest{Act: pick.Grow, Elements: pick.Elements{Kind: pick.Faces, Of: map[string][]int{"nobody": {1}}}}, 422, "there is no part")
	r.refused("POST", at, wire.ElementsRequest{Act: "melt", Elements: pick.Elements{Kind: pick.Faces}}, 422, `no act "melt"`)
}

func TestEditsAreForeseenAndStatesGoneTo(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	at := "/api/specimens/" + s.ID
	var preview edit.Preview
	r.ask("POST", at+"/foresee", map[string]any{"edit": map[string]any{"kind": "rename-many", "ids": []string{s.Document.Joints[0].ID}, "search": "spine", "replace": "back"}}, 200, &preview)
	assert.Equal(t, "back_01", preview.Renamed[0].To)
	r.refused("POST", at+"/foresee", map[string]any{"edit": map[string]any{"kind": "rename", "id": s.Document.Joints[0].ID, "name": "spine_02"}}, 422, "is taken")
	of := s.Document.ControlNamed("root").Of(rig.MoveY)
	write := map[string]any{"kind": "write-driver", "driver": "formula", "drives": []rig.Address{of}, "text": "wvae(time)"}
	var wrong wire.Error
	r.ask("POST", at+"/foresee", map[string]any{"edit": write}, 422, &wrong)
	require.NotNil(t, wrong.At, "a mistake is told with its character")
	assert.Equal(t, 0, *wrong.At)
	var course evaluate.Course
	write["text"] = "wave(time / 4)"
	r.ask("POST", at+"/course", map[string]any{"of": of, "edit": write}, 200, &course)
	assert.InDelta(t, 1, course.Most, 1e-3)
	r.refused("POST", at+"/course", map[string]any{"of": map[string]any{"of": "nobody", "key": "x"}}, 422, "to plot")
	r.refused("POST", at+"/course", map[string]any{"of": of, "edit": map[string]any{"kind": "bake"}}, 422, "no edit of the kind")
	var now wire.Specimen
	r.ask("POST", at+"/goto", wire.GoTo{Revision: 2}, 200, &now)
	assert.Empty(t, now.Document.Joints)
	assert.Equal(t, "Lay chain spine", now.Redo)
	r.refused("POST", at+"/goto", wire.GoTo{Revision: 1000}, 422, "no revision 1000")
}
