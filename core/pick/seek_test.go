package pick_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/mesh"
	"myriapod/core/pick"
	"myriapod/core/rig"
)

// box is a cube of an edge around a place.
func box(at mgl64.Vec3, size float32) *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range 8 {
		for axis := range 3 {
			side := -size / 2
			if i>>axis&1 == 1 {
				side = size / 2
			}
			m.Positions = append(m.Positions, float32(at[axis])+side)
		}
	}
	m.Triangles = []uint32{0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5}
	m.ComputeNormals()
	return m
}

func TestEverySnapLeadsToItsPlace(t *testing.T) {
	parts := []*mesh.Mesh{box(mgl64.Vec3{0, 1, 0}, 0.4), box(mgl64.Vec3{0, 1, -2}, 0.6)}
	joints := []rig.Joint{{ID: "near", Position: mgl64.Vec3{0.02, 1.05, 0.5}}, {ID: "far", Position: mgl64.Vec3{0.3, 1, 0}}}
	aim := pick.Aim{
		Ray:  mesh.Ray{Origin: mgl64.Vec3{0.07, 1.04, 5}, Direction: mgl64.Vec3{0, 0, -2}},
		From: mgl64.Vec3{0, 1, 0.33}, Facing: mgl64.Vec3{0, 0, -1}, Step: 0.25,
	}
	for snap, want := range map[pick.Snap]mgl64.Vec3{
		"":          {0.07, 1.04, 0},
		pick.Volume: {0.07, 1.04, 0},
		pick.Vertex: {0.2, 1.2, 0.2},
		pick.Joint:  {0.02, 1.05, 0.5},
		pick.Centre: {0, 1, 0},
		pick.Grid:   {0, 1, 0.25},
		pick.Free:   {0.07, 1.04, 0.33},
	} {
		aim.Snap = snap
		place, ok := pick.Seek(aim, joints, parts)
		require.True(t, ok, snap)
		assert.InDelta(t, 0, place.Sub(want).Len(), 1e-6, "%s leads to %v", snap, place)
	}
	aim.Snap, aim.Lock, aim.LockAt = pick.Free, "x", 0.5
	place, _ := pick.Seek(aim, joints, parts)
	assert.Equal(t, 0.5, place[0], "a locked coordinate stays")
	aim.Snap, aim.Except = pick.Joint, []string{"near"}
	_, ok := pick.Seek(aim, joints, parts)
	assert.False(t, ok, "what is moved is not snapped to")
	aim.Snap, aim.Ray.Direction = pick.Ground, mgl64.Vec3{0, -1, -1}
	place, ok = pick.Seek(aim, joints, parts)
	require.True(t, ok)
	assert.InDelta(t, 0, place[1], 1e-12)
	aim.Ray.Direction = mgl64.Vec3{0, 1, 0}
	_, ok = pick.Seek(aim, joints, parts)
	assert.False(t, ok, "the ground is not above")
	aim.Ray.Direction = mgl64.Vec3{math.NaN(), 0, 0}
	_, ok = pick.Seek(aim, joints, parts)
	assert.False(t, ok)
}
