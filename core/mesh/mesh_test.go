package mesh_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// box is a closed box around centre.
func box(centre, half mgl64.Vec3) *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range 8 {
		for k := range 3 {
			sign := float64(2*(i>>k&1) - 1)
			m.Positions = append(m.Positions, float32(centre[k]+sign*half[k]))
		}
	}
	m.Triangles = []uint32{0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5}
	m.ComputeNormals()
	return m
}

func TestTheCentreIsTheMiddleOfTheVolume(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-5, 5)
		centre := mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")}
		half := mgl64.Vec3{rapid.Float64Range(0.1, 2).Draw(t, "w"), 0.5, 0.7}
		inside := rapid.Float64Range(-0.4, 0.4)
		aim := centre.Add(mgl64.Vec3{0, inside.Draw(t, "dy"), inside.Draw(t, "dz")})
		found, ok := mesh.VolumeCentre(mesh.Ray{Origin: aim.Sub(mgl64.Vec3{20, 0, 0}), Direction: mgl64.Vec3{1, 0, 0}}, []*mesh.Mesh{box(centre, half)})
		require.True(t, ok)
		assert.InDelta(t, centre[0], found[0], 1e-5)
		assert.InDelta(t, aim[1], found[1], 1e-9)
	})
}

func TestAThinThingOnABodyDoesNotDrawTheCentreAway(t *testing.T) {
	body, fin := box(mgl64.Vec3{}, mgl64.Vec3{1, 1, 1}), box(mgl64.Vec3{0, 1.2, 0}, mgl64.Vec3{0.1, 0.4, 0.1})
	behind := box(mgl64.Vec3{0, -9, 0}, mgl64.Vec3{3, 3, 3})
	down := mesh.Ray{Origin: mgl64.Vec3{0.02, 9, 0.03}, Direction: mgl64.Vec3{0, -1, 0}}
	centre, ok := mesh.VolumeCentre(down, []*mesh.Mesh{fin, behind, body})
	require.True(t, ok)
	assert.InDelta(t, 0, centre[1], 1e-6, "the body's middle; what lies apart behind it does not count")
	_, ok = mesh.VolumeCentre(mesh.Ray{Origin: mgl64.Vec3{50, 0, 0}, Direction: mgl64.Vec3{0, 1, 0}}, []*mesh.Mesh{body})
	assert.False(t, ok)
}

func TestASectionFitsTheBody(t *testing.T) {
	outline := mesh.Section([]*mesh.Mesh{box(mgl64.Vec3{}, mgl64.Vec3{1, 3, 0.5})}, geometry.Identity(), 40, 0.1)
	require.Len(t, outline, 40)
	for _, p := range outline {
		assert.Zero(t, p[1])
		outside := math.Max(math.Abs(p[0])/1, math.Abs(p[2])/0.5)
		assert.GreaterOrEqual(t, outside, 1.0, "it stands off the body")
		assert.LessOrEqual(t, outside, 1.35, "and not far")
	}
	assert.Nil(t, mesh.Section(nil, geometry.Identity(), 40, 0.1))
}

func TestStorageGivesTheSameMeshAndRefusesDamage(t *testing.T) {
	m := box(mgl64.Vec3{1, 2, 3}, mgl64.Vec3{1, 1, 1})
	data := m.Encode()
	back, err := mesh.Decode(data)
	require.NoError(t, err)
	assert.Equal(t, m.Positions, back.Positions)
	assert.Equal(t, data, back.Encode())
	for _, damaged := range [][]byte{nil, data[:10], data[:len(data)-1], append([]byte("XXXX"), data[4:]...)} {
		_, err := mesh.Decode(damaged)
		assert.Error(t, err)
	}
	m.Triangles[0] = 99
	_, err = mesh.Decode(m.Encode())
	require.ErrorContains(t, err, "points at vertex 99 of 8")
}

func TestNormalsPointOutward(t *testing.T) {
	m := box(mgl64.Vec3{}, mgl64.Vec3{1, 1, 1})
	for i := range m.VertexCount() {
		n := mgl64.Vec3{float64(m.Normals[3*i]), float64(m.Normals[3*i+1]), float64(m.Normals[3*i+2])}
		assert.InDelta(t, 1, n.Dot(m.Vertex(i).Normalize()), 1e-6)
	}
}
