package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"testing"
	"time"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/pick"
	"myriapod/server/wire"
)

// large is Tallow, of 56,000 vertices, with a forked skeleton of 1,000 joints.
func (r *running) large() wire.Specimen {
	r.t.Helper()
	var plates []wire.Plate
	r.ask("GET", "/api/specimens", nil, 200, &plates)
	var s wire.Specimen
	r.ask("GET", "/api/specimens/"+plates[2].ID, nil, 200, &s)
	places := []mgl64.Vec3{}
	for i := range 1000 - len(s.Document.Joints) {
		places = append(places, mgl64.Vec3{0.1 * float64(i%7), 2 + 0.01*float64(i), 0.3})
	}
	e, err := edit.Encode(&edit.LayChain{Positions: places, Pattern: "mast_####", Parent: s.Document.Joints[0].ID})
	require.NoError(r.t, err)
	r.ask("POST", "/api/specimens/"+s.ID+"/edits", wire.EditRequest{On: s.Revision, Edit: e}, 200, &s)
	require.Equal(r.t, 1000, len(s.Document.Joints))
	return s
}

// BenchmarkLarge times what a rigger waits for with 56,000 vertices and 1,000 joints: opening with all its surfaces, a frame, an edit,
// the place under the pointer, and acts on picked elements.
func BenchmarkLarge(b *testing.B) {
	r := start(b)
	s := r.large()
	at := "/api/specimens/" + s.ID
	b.Run("open", func(b *testing.B) {
		for b.Loop() {
			r.ask("GET", at, nil, 200, &s)
			for _, part := range s.Document.Parts {
				response, err := http.Get(r.url + at + "/blobs/" + part.Mesh)
				require.NoError(b, err)
				_, err = io.Copy(io.Discard, response.Body)
				require.NoError(b, err)
				response.Body.Close()
			}
			c := r.dial(s.ID)
			c.send([]byte(`{"type":"pose","seq":1,"time":0}`))
			c.frame()
		}
	})
	b.Run("edit", func(b *testing.B) {
		joint := s.Document.Joints[len(s.Document.Joints)-1]
		for i := 0; b.Loop(); i++ {
			e, err := edit.Encode(&edit.MoveJoint{Joint: joint.ID, Position: mgl64.Vec3{float64(i % 9), 5, 0}})
			require.NoError(b, err)
			r.ask("POST", at+"/edits", wire.EditRequest{On: s.Revision, Edit: e}, 200, &s)
		}
	})
	b.Run("edit answered", func(b *testing.B) { // without the time that this test takes to read the answer
		joint := s.Document.Joints[len(s.Document.Joints)-1]
		for i := 0; b.Loop(); i++ {
			e, err := edit.Encode(&edit.MoveJoint{Joint: joint.ID, Position: mgl64.Vec3{float64(i % 9), 6, 0}})
			require.NoError(b, err)
			body, err := json.Marshal(wire.EditRequest{On: s.Revision, Edit: e})
			require.NoError(b, err)
			s.Revision++
			response, err := http.Post(r.url+at+"/edits", "application/json", bytes.NewReader(body))
			require.NoError(b, err)
			_, err = io.Copy(io.Discard, response.Body)
			require.NoError(b, err)
			response.Body.Close()
			require.Equal(b, 200, response.StatusCode)
		}
	})
	b.Run("pointer", func(b *testing.B) {
		c := r.dial(s.ID)
		for i := 0; b.Loop(); i++ {
			c.send([]byte(fmt.Sprintf(`{"type":"centre","seq":%d,"origin":[3,0.6,%g],"direction":[-1,0,0]}`, i+1, 2.4-float64(i%40)/10)))
			c.tell("centre")
		}
	})
	b.Run("grow", func(b *testing.B) {
		request := wire.ElementsRequest{Act: pick.Grow, Elements: pick.Elements{Kind: pick.Faces, Of: map[string][]int{s.Document.Parts[0].ID: {1, 2, 3}}}}
		began := time.Now()
		r.ask("POST", at+"/elements", request, 200, nil)
		first := time.Since(began)
		for b.Loop() {
			r.ask("POST", at+"/elements", request, 200, nil)
		}
		b.ReportMetric(float64(first.Milliseconds()), "ms-first")
	})
}
