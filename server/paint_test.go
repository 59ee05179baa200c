package server_test

import (
	"io"
	"net/http"
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/skin"
	"myriapod/server/wire"
)

// TestDabsAreWhatTheStrokeKeeps paints over the live channel, on the body as it is posed, and keeps the stroke as an edit: the vertices have what the dabs told.
func TestDabsAreWhatTheStrokeKeeps(t *testing.T) {
	r := start(t)
	s := r.quillwick()
	c := r.dial(s.ID)
	c.send(wire.Ask{Type: "pose", Seq: 1, Clip: s.Document.Clips[0].ID, Time: 1})
	c.frame()
	stroke := edit.PaintWeights{Part: idOf(s, "body"), Joint: idOf(s, "spine_10"), Brush: skin.Brush{Stroke: skin.More, Reach: 0.15, Strength: 0.4}, Mirrored: true}
	last := map[int][]float32{}
	for i := range 5 {
		c.send(wire.Ask{Type: "paint", Seq: uint32(i + 2), Paint: &stroke, Begin: i == 0, Origin: mgl64.Vec3{3, 0.35, 0.3 - 0.03*float64(i)}, Direction: mgl64.Vec3{-1, 0, 0}})
		painted := c.tell("painted").Painted
		require.NotNil(t, painted.Spot)
		require.NotEmpty(t, painted.Vertices)
		stroke.Dabs = append(stroke.Dabs, *painted.Spot)
		for k, v := range painted.Vertices {
			last[v] = painted.Values[4*k : 4*k+4]
		}
	}
	var kept wire.Specimen
	e, err := edit.Encode(&stroke)
	require.NoError(t, err)
	r.ask("POST", "/api/specimens/"+s.ID+"/edits", wire.EditRequest{On: s.Revision, Edit: e}, 200, &kept)
	binding := kept.Document.BindingOf(stroke.Part)
	response, err := http.Get(r.url + "/api/specimens/" + s.ID + "/blobs/" + binding.Weights)
	require.NoError(t, err)
	defer response.Body.Close()
	data, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	w, err := skin.DecodeWeights(data, len(binding.Joints)) // whole, though it is kept in blocks
	require.NoError(t, err)
	for v, values := range last {
		assert.Equal(t, values, w.Values[4*v:4*v+4])
	}

	c.send(wire.Ask{Type: "weigh", Seq: 19, Weigh: stroke.Part, Origin: mgl64.Vec3{3, 0.35, 0.3}, Direction: mgl64.Vec3{-1, 0, 0}})
	weighed := c.tell("weighed").Weighed
	require.NotNil(t, weighed)
	for k, joint := range weighed.Joints {
		assert.InDelta(t, w.Of(weighed.Vertex, slices.Index(binding.Joints, joint)), float64(weighed.Values[k]), 1e-6)
	}
	c.send(wire.Ask{Type: "weigh", Seq: 19, Weigh: stroke.Part, Origin: mgl64.Vec3{3, 9, 0.3}, Direction: mgl64.Vec3{-1, 0, 0}})
	assert.Nil(t, c.tell("weighed").Weighed, "beside the body")

	c.send(wire.Ask{Type: "paint", Seq: 20, Paint: &stroke, Begin: true, Origin: mgl64.Vec3{3, 9, 0}, Direction: mgl64.Vec3{-1, 0, 0}})
	assert.Nil(t, c.tell("painted").Painted.Spot, "beside the body nothing is painted")
	stroke.Locked = []string{stroke.Joint}
	c.send(wire.Ask{Type: "paint", Seq: 21, Paint: &stroke, Begin: true, Origin: mgl64.Vec3{3, 0.35, 0.3}, Direction: mgl64.Vec3{-1, 0, 0}})
	assert.Contains(t, c.tell("error").Message, "is locked and keeps its weights")
}
