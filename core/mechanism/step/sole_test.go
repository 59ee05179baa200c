package step_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// footSize is how large the feet of hoofed legs are.
const footSize = 0.1

// hoof is a random lump around a place, flat nowhere.
func hoof(random *rand.Rand, at mgl64.Vec3) *mesh.Mesh {
	m := &mesh.Mesh{}
	for range 60 {
		away := mgl64.Vec3{random.NormFloat64(), random.NormFloat64(), random.NormFloat64()}.Normalize().Mul(footSize / 2 * (0.7 + 0.3*random.Float64()))
		p := at.Add(mgl64.Vec3{away[0], 0.4 * away[1], 1.4 * away[2]})
		m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
	}
	for i := range uint32(58) {
		m.Triangles = append(m.Triangles, i, i+1, i+2)
	}
	m.ComputeNormals()
	return m
}

// sheet is a ground of random bumps under all the way, with a terrace that rises at once.
func sheet(random *rand.Rand) *mesh.Mesh {
	const count = 26
	m := &mesh.Mesh{}
	for i := range count + 1 {
		for k := range count + 1 {
			rise := 0.06 * random.Float64()
			m.Positions = append(m.Positions, float32(-2+0.3*float64(i)), float32(rise-0.05), float32(-2+0.3*float64(k)))
		}
	}
	at := func(i, k int) uint32 { return uint32(i*(count+1) + k) }
	for i := range count {
		for k := range count {
			m.Triangles = append(m.Triangles, at(i, k), at(i, k+1), at(i+1, k), at(i+1, k), at(i, k+1), at(i+1, k+1))
		}
	}
	low, high := float32(1.93), float32(3.41)
	first := uint32(len(m.Positions) / 3)
	for _, z := range []float32{low, high} {
		for _, x := range []float32{-2, 4} {
			for _, y := range []float32{-0.05, 0.11} {
				m.Positions = append(m.Positions, x, y, z)
			}
		}
	}
	quad := func(a, b, c, d uint32) {
		m.Triangles = append(m.Triangles, first+a, first+b, first+c, first+a, first+c, first+d)
	}
	quad(1, 5, 7, 3) // the top
	quad(0, 1, 3, 2) // and the riser before it
	m.ComputeNormals()
	return m
}

// overSheet is how high the sheet is over a place: found by the row and column of its grid, and the terrace by its sides.
func overSheet(m *mesh.Mesh, p mgl64.Vec3) float64 {
	x, z := (p[0]+2)/0.3, (p[2]+2)/0.3
	first := 2 * (int(x)*26 + int(z))
	height := math.Inf(-1)
	for face := first; face < first+2; face++ {
		a, b, c := m.Corner(face)
		n := b.Sub(a).Cross(c.Sub(a))
		half := x - math.Floor(x) + z - math.Floor(z)
		if face == first && half <= 1 || face > first && half > 1 {
			height = a[1] - (n[0]*(p[0]-a[0])+n[2]*(p[2]-a[2]))/n[1]
		}
	}
	if p[2] >= float64(float32(1.93)) && p[2] <= float64(float32(3.41)) {
		height = math.Max(height, float64(float32(0.11)))
	}
	return height
}

// hoofed is a crawler on such a ground whose ten feet have hooves, opened, with what its hooves are made of.
type hoofed struct {
	*walker
	memory edit.Memory
	hooves [][]mgl64.Vec3 // by foot, in its joint's frame
}

func onHooves(t require.TestingT, seed uint64, parameters, land parameter.Set, surface *mesh.Mesh) *hoofed {
	random := rand.New(rand.NewPCG(seed, 1))
	d := crawler(t, parameters)
	memory := edit.Memory{}
	apply := func(e edit.Edit) {
		c := &edit.Context{Kinds: kinds.All(), Surfaces: memory, Blobs: memory}
		result, err := edit.Apply(c, d, e)
		require.NoError(t, err)
		d = result.Document
	}
	add := &edit.AddParts{From: "x"}
	keep := func(name string, m *mesh.Mesh) {
		data := m.Encode()
		memory[edit.Hash(data)] = data
		add.Parts = append(add.Parts, edit.NewPart{Name: name, Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#777777"})
	}
	seen := open(t, d)
	var tips []string
	for _, m := range seen.d.Mechanisms {
		if m.Kind == limb.Name {
			tip := m.Joints[len(m.Joints)-1]
			tips = append(tips, tip)
			keep("hoof_"+fmt.Sprint(len(tips)), hoof(random, seen.d.Joint(tip).Position))
		}
	}
	roles := map[string][]string{}
	if surface != nil {
		keep("land", surface)
	}
	apply(add)
	if surface != nil {
		roles["part"] = []string{id(t, d, "land")}
	}
	for i, tip := range tips {
		apply(&edit.Bind{Parts: []string{id(t, d, "hoof_"+fmt.Sprint(i+1))}, Joints: []string{tip}, Method: string(skin.Nearest)})
	}
	apply(&edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: land, Roles: roles})
	apply(&edit.AddMechanism{Mechanism: settle.Name, Name: "settle"})
	e, body, err := evaluate.Open(d, kinds.All(), memory)
	require.NoError(t, err)
	e.SetClip(motion.Prepare(d.Clips[0]))
	h := &hoofed{walker: &walker{Evaluator: e, d: e.Plan.Document}, memory: memory}
	for i, tip := range tips {
		h.feet = append(h.feet, e.Plan.JointIndex[tip])
		back := e.Plan.Document.Joint(tip).Rest().Inverse()
		var places []mgl64.Vec3
		for vertex := range body.Parts[i].Rest.VertexCount() {
			places = append(places, back.Apply(body.Parts[i].Rest.Vertex(vertex)))
		}
		h.hooves = append(h.hooves, places)
	}
	return h
}

// No vertex of a sole comes under the ground at any quarter of a frame, and a foot that stands stays where it is, and touches.
func TestSolesClearTheGround(t *testing.T) {
	land := func(shape string, rise, run float64) parameter.Set {
		return parameter.Set{
			"shape": parameter.OfChoice(shape), "rise": parameter.OfNumber(rise), "run": parameter.OfNumber(run), "begin": parameter.OfNumber(1.3), "count": parameter.OfNumber(5),
			"heading": parameter.OfNumber(12),
		}
	}
	bumps := sheet(rand.New(rand.NewPCG(7, 8)))
	along := func(p mgl64.Vec3, run float64) float64 {
		a := 12 * math.Pi / 180
		return (p[0]*math.Sin(a) + (p[2]-0.025)*math.Cos(a) - 1.3) / run // ahead of the global control
	}
	for name, c := range map[string]struct {
		land    parameter.Set
		surface *mesh.Mesh
		height  func(p mgl64.Vec3) float64
	}{
		"flat":       {land("flat", 0, 1), nil, func(mgl64.Vec3) float64 { return 0 }},
		"slope":      {land("slope", 0.5, 2), nil, func(p mgl64.Vec3) float64 { return 0.5 * math.Max(0, math.Min(1, along(p, 2))) }},
		"steps up":   {land("steps", 0.09, 0.4), nil, func(p mgl64.Vec3) float64 { return 0.09 * math.Max(0, math.Min(5, math.Ceil(along(p, 0.4)))) }},
		"steps down": {land("steps", -0.07, 0.45), nil, func(p mgl64.Vec3) float64 { return -0.07 * math.Max(0, math.Min(5, math.Ceil(along(p, 0.45)))) }},
		"bumps": {parameter.Set{}, bumps, func(p mgl64.Vec3) float64 {
			return overSheet(bumps, p)
		}},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			h := onHooves(t, 3, parameter.Set{"stride": parameter.OfNumber(0.34), "wave": parameter.OfNumber(1.2), "lift": parameter.OfNumber(0.03)}, c.land, c.surface)
			deepest, slip, swings, gap := math.Inf(-1), 0.0, 0, 0.0
			before, stood := make([]mgl64.Vec3, len(h.feet)), make([]bool, len(h.feet))
			for k := range 240*4 + 1 {
				h.at(float64(k) / 4)
				for i, foot := range h.feet {
					sunk := math.Inf(-1)
					for _, p := range h.hooves[i] {
						p = h.Frame.Joints[foot].Apply(p)
						sunk = math.Max(sunk, c.height(p)-p[1])
					}
					deepest = math.Max(deepest, sunk)
					stands := h.Frame.Goals[i].Stands
					if place := h.Frame.Joints[foot].Apply(h.hooves[i][0]); stands && stood[i] {
						slip = math.Max(slip, place.Sub(before[i]).Len())
					}
					if stands {
						gap = math.Max(gap, -sunk)
					} else {
						swings++
					}
					before[i], stood[i] = h.Frame.Joints[foot].Apply(h.hooves[i][0]), stands
				}
				require.Empty(t, h.Findings(), "at %g", float64(k)/4)
			}
			t.Logf("deepest %.2g, slip %.2g, widest gap under a foot that stands %.2g, of the foot", deepest/footSize, slip/footSize, gap/footSize)
			assert.LessOrEqual(t, deepest, 1e-6*footSize)
			assert.LessOrEqual(t, slip, 1e-9*footSize)
			assert.LessOrEqual(t, gap, 1e-6*footSize)
			assert.Greater(t, swings, 1000)
		})
	}
}

// The body goes up with what its feet stand on, leans with the slope, and does neither where its shares are nothing.
func TestTheBodySettles(t *testing.T) {
	slope := parameter.Set{"shape": parameter.OfChoice("slope"), "rise": parameter.OfNumber(3), "run": parameter.OfNumber(12), "begin": parameter.OfNumber(-8)}
	angle := math.Atan2(3, 12)
	for share, want := range map[float64]float64{1: angle, 0: 0} {
		h := onHooves(t, 4, parameter.Set{"stride": parameter.OfNumber(0.34), "wave": parameter.OfNumber(1.2)}, slope, nil)
		for i := range h.d.Mechanisms {
			if m := &h.d.Mechanisms[i]; m.Kind == settle.Name {
				m.Parameters["pitch"], m.Parameters["rise"], m.Parameters["roll"] = parameter.OfNumber(share), parameter.OfNumber(share), parameter.OfNumber(share)
			}
		}
		e, _, err := evaluate.Open(h.d, kinds.All(), h.memory)
		require.NoError(t, err)
		e.SetClip(motion.Prepare(h.d.Clips[0]))
		root := e.Plan.ControlIndex[h.d.ControlNamed(rig.RootName).ID]
		for frame := 10.0; frame < 110; frame += 7 {
			e.SetFrame(frame)
			e.Evaluate()
			at := e.Frame.Controls[root]
			up := at.Rotation.Rotate(mgl64.Vec3{0, 1, 0})
			// Feet stand here and there on their ways, so that the plane through them is the slope's on the whole alone.
			assert.InDelta(t, want, math.Acos(math.Min(1, up[1])), 0.03+0.4*want*0.3, "share %g, frame %g", share, frame)
			if share == 0 {
				assert.InDelta(t, h.d.ControlNamed(rig.RootName).Position[1], at.Position[1], 1e-12)
			}
		}
	}
}
