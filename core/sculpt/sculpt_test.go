package sculpt_test

import (
	"math"
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/morph"
	"myriapod/core/motion"
	"myriapod/core/rig"
	"myriapod/core/sculpt"
)

// studio is a specimen whose part has an empty morph target, whole at rest.
type studio struct {
	document *rig.Document
	memory   edit.Memory
	part     string
	scale    float64 // of everything; 0 for 1
}

func open(t require.TestingT, name, part string, dual float64) studio {
	specimen, err := demo.Find(name)
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	s := studio{document: steps[len(steps)-1].Next, memory: demo.Memory(steps)}
	for _, p := range s.document.Parts {
		if p.Name == part {
			s.part = p.ID
		}
	}
	s.take(t, &edit.AddMorph{Part: s.part, Name: "made"})
	p := s.document.Part(s.part)
	p.Morphs[p.Morph("made")].Value = 1
	if dual > 0 {
		s.take(t, &edit.ChangeSkin{Parts: []string{s.part}, Dual: dual})
	}
	return s
}

func (s *studio) take(t require.TestingT, e edit.Edit) {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: s.memory}
	result, err := edit.Apply(c, s.document, e)
	require.NoError(t, err)
	for hash, data := range c.Blobs {
		s.memory[hash] = data
	}
	s.document = result.Document
}

// posed evaluates a frame of the first clip, and returns where the part stands.
func (s *studio) posed(t require.TestingT, frame float64) (*evaluate.Evaluator, *evaluate.Body, *evaluate.BodyPart) {
	e, body, err := evaluate.Open(s.document, kinds.All(), s.memory)
	require.NoError(t, err)
	e.SetStill(false)
	if s.scale != 0 {
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[s.document.ControlNamed(rig.GlobalName).ID], rig.ScaleDial, s.scale))
	}
	if len(s.document.Clips) > 0 {
		e.SetClip(motion.Prepare(s.document.Clips[0]))
	}
	e.SetFrame(frame)
	e.Evaluate()
	body.Deform(e)
	for i := range body.Parts {
		if body.Parts[i].Part.ID == s.part {
			return e, body, &body.Parts[i]
		}
	}
	require.Fail(t, "no part")
	return nil, nil, nil
}

func vector(list []float32, i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
}

// TestWhatIsSculptedPosedStandsWhereTheHandLeftIt takes hold of posed bodies anywhere, moves what is held, keeps it as an edit, and evaluates the document anew: what was
// held stands where the hand left it, by linear blend and dual quaternions, and with a box after the skin.
func TestWhatIsSculptedPosedStandsWhereTheHandLeftIt(t *testing.T) {
	studios := map[string]studio{
		"linear": open(t, "quillwick", "body", 0), "dual": open(t, "quillwick", "body", 1), "mixed": open(t, "quillwick", "body", 0.5), "boxed": open(t, "sedge", "bulb", 0),
	}
	rapid.Check(t, func(t *rapid.T) {
		s := studios[rapid.SampledFrom([]string{"linear", "dual", "mixed", "boxed"}).Draw(t, "studio")]
		s.scale = rapid.SampledFrom([]float64{0.02, 1, 30}).Draw(t, "scale")
		s.document = s.document.Clone()
		shown := s.document.Part(s.part)
		shown.Morphs = slices.Clone(shown.Morphs)
		shown.Morphs[shown.Morph("made")].Value = rapid.SampledFrom([]float64{1, 0.5, -0.7}).Draw(t, "amount")
		frame := rapid.Float64Range(1, 60).Draw(t, "frame")
		e, body, part := s.posed(t, frame)
		rest := part.Rest.Bounds().Size()
		size := rest * s.scale
		before := append([]float32{}, part.Positions...)
		v := rapid.IntRange(0, part.Rest.VertexCount()-1).Draw(t, "vertex")
		normal := vector(part.Normals, v)
		ray := mesh.Ray{Origin: vector(before, v).Add(normal.Mul(0.05 * size)), Direction: normal.Mul(-1)}
		stroke := sculpt.Stroke{Part: s.part, Morph: "made", Act: morph.Move, Reach: rapid.Float64Range(0.03, 0.2).Draw(t, "reach") * rest, Strength: 1}
		hand, err := sculpt.New(e, body, stroke)
		require.NoError(t, err)
		spot, ok := hand.Take(ray, normal.Mul(-1))
		if !ok {
			t.Skip("the vertex lies under another fold")
		}
		side := mgl64.QuatRotate(rapid.Float64Range(0, 6.28).Draw(t, "turn"), normal).Rotate(acrossOf(normal))
		by := side.Mul(rapid.Float64Range(0.001, 0.03).Draw(t, "by") * size)
		require.NoError(t, hand.Draw(mesh.Ray{Origin: ray.Origin.Add(by), Direction: ray.Direction}))
		vertices, moves := hand.Changed()
		require.NotEmpty(t, vertices)
		s.take(t, &edit.ReshapeMorph{Part: s.part, Morph: "made", Vertices: vertices, By: moves})
		_, _, part = s.posed(t, frame) // what is mixed in by a part of it was moved so much farther
		grip := morph.GripAt(mesh.NewWalk(part.Rest), spot, stroke.Reach)
		short := 0
		for _, vertex := range grip.Vertices {
			if hand.Short(vertex) > 0 {
				short++
			}
		}
		require.LessOrEqual(t, 4*short, len(grip.Vertices), "nearly all comes where the hand wants it, at any size")
		shares := map[int]float64{}
		for i, vertex := range grip.Vertices {
			shares[vertex] = grip.Shares[i]
		}
		for vertex := range part.Rest.VertexCount() {
			want := vector(before, vertex).Add(by.Mul(shares[vertex]))
			if off := want.Sub(vector(part.Positions, vertex)).Len(); off > 2e-5*size {
				require.LessOrEqual(t, off, hand.Short(vertex)+2e-5*size, "what cannot be come to is told")
				require.NotZero(t, hand.Short(vertex))
			}
		}
	})
}

func vectorOf(v [3]float32) mgl64.Vec3 {
	return mgl64.Vec3{float64(v[0]), float64(v[1]), float64(v[2])}
}

func acrossOf(n mgl64.Vec3) mgl64.Vec3 {
	if math.Abs(n[0]) < 0.9 {
		return n.Cross(mgl64.Vec3{1, 0, 0}).Normalize()
	}
	return n.Cross(mgl64.Vec3{0, 1, 0}).Normalize()
}

// TestEveryActOnBothSides strokes the eel at rest with every act, mirrored: the sides go alike, all is finite, and what works again goes on from where it was.
func TestEveryActOnBothSides(t *testing.T) {
	s := open(t, "quillwick", "body", 0)
	e, body, part := s.posed(t, 1)
	e.SetClip(nil)
	e.Zero()
	e.SetStill(true)
	e.Evaluate()
	body.Deform(e)
	walk := mesh.NewWalk(part.Rest)
	images, _ := walk.Images()
	v := 0
	for i := range part.Rest.VertexCount() { // off the middle
		if part.Rest.Vertex(i)[0] > part.Rest.Vertex(v)[0] {
			v = i
		}
	}
	normal := vector(part.Normals, v)
	size := part.Rest.Bounds().Size()
	at := mesh.Ray{Origin: vector(part.Positions, v).Add(normal.Mul(0.1 * size)), Direction: normal.Mul(-1)}
	for _, act := range morph.Acts {
		hand, err := sculpt.New(e, body, sculpt.Stroke{Part: s.part, Morph: "made", Act: act, Reach: 0.05 * size, Strength: 1, Mirrored: true})
		require.NoError(t, err)
		_, ok := hand.Take(at, at.Direction)
		require.True(t, ok)
		if act.Holds() {
			require.NoError(t, hand.Draw(mesh.Ray{Origin: at.Origin.Add(acrossOf(normal).Mul(0.02 * size)), Direction: at.Direction}))
			_, err = hand.Touch(at)
			require.ErrorContains(t, err, "draw it")
		} else {
			for range 2 {
				touched, err := hand.Touch(at)
				require.NoError(t, err)
				require.True(t, touched)
			}
			require.ErrorContains(t, hand.Draw(at), "touch it")
			touched, err := hand.Touch(mesh.Ray{Origin: at.Origin, Direction: normal})
			require.NoError(t, err)
			require.False(t, touched, "there is nothing behind the hand")
		}
		vertices, by := hand.Changed()
		to := map[int][3]float32{}
		for i, vertex := range vertices {
			to[vertex] = by[i]
		}
		if act != morph.Restore { // of what has no shape yet
			require.NotEmpty(t, vertices, act)
		}
		most := 0.0
		for _, move := range to {
			most = math.Max(most, vectorOf(move).Len())
		}
		for vertex, move := range to {
			other := mgl64.Vec3{}
			for k, corner := range walk.Corners(images[vertex]) {
				other = other.Add(vectorOf(to[corner]).Mul(images[vertex].Shares[k]))
			}
			assert.InDelta(t, 0, mgl64.Vec3{-other[0], other[1], other[2]}.Sub(vectorOf(move)).Len(), 0.1*most, "%s: both sides go alike, but for what lies between vertices", act)
		}
	}
}

func TestWhatCannotBeSculptedIsRefused(t *testing.T) {
	s := open(t, "quillwick", "body", 0)
	e, body, _ := s.posed(t, 1)
	right := sculpt.Stroke{Part: s.part, Morph: "made", Act: morph.Move, Reach: 0.1}
	for want, change := range map[string]func(*sculpt.Stroke){
		"no part":              func(w *sculpt.Stroke) { w.Part = "p999" },
		"no morph target":      func(w *sculpt.Stroke) { w.Morph = "unmade" },
		"what is not seen":     func(w *sculpt.Stroke) { w.Morph = "gulp_1" },
		"nothing is done":      func(w *sculpt.Stroke) { w.Act = "knead" },
		"more than nothing":    func(w *sculpt.Stroke) { w.Reach = 0 },
		"strength of a hand":   func(w *sculpt.Stroke) { w.Strength = math.NaN() },
		"there is no vertex -": func(w *sculpt.Stroke) { w.Picked = []int{-1} },
	} {
		wrong := right
		change(&wrong)
		_, err := sculpt.New(e, body, wrong)
		require.ErrorContains(t, err, want)
	}
}

// TestPoorPartsAreSculptedOrRefused takes hold of a triangle, of faces without area and of a point: what has a size is shaped and stays finite, what has none is refused.
func TestPoorPartsAreSculptedOrRefused(t *testing.T) {
	for want, m := range map[string]*mesh.Mesh{
		"":                   {Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Triangles: []uint32{0, 1, 2}},
		"no area":            {Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0, 2, 2, 2}, Triangles: []uint32{0, 1, 2, 0, 1, 1, 0, 0, 0}},
		"stand in one place": {Positions: []float32{1, 1, 1, 1, 1, 1, 1, 1, 1}, Triangles: []uint32{0, 1, 2}},
	} {
		m.ComputeNormals()
		data := m.Encode()
		s := studio{document: rig.New("poor"), memory: edit.Memory{edit.Hash(data): data}}
		s.take(t, &edit.AddParts{From: "x", Parts: []edit.NewPart{{Name: "poor", Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#888888"}}})
		s.part = s.document.Parts[0].ID
		s.take(t, &edit.AddMorph{Part: s.part, Name: "made"})
		s.document.Parts[0].Morphs[0].Value = 1
		e, body, _ := s.posed(t, 1)
		for _, act := range morph.Acts {
			hand, err := sculpt.New(e, body, sculpt.Stroke{Part: s.part, Morph: "made", Act: act, Reach: 0.7, Strength: 1, Mirrored: true})
			if want == "stand in one place" {
				require.ErrorContains(t, err, want)
				continue
			}
			require.NoError(t, err)
			ray := mesh.Ray{Origin: mgl64.Vec3{0.2, 0.3, 1}, Direction: mgl64.Vec3{0, 0, -1}}
			_, ok := hand.Take(ray, ray.Direction)
			require.True(t, ok)
			if act.Holds() {
				require.NoError(t, hand.Draw(mesh.Ray{Origin: mgl64.Vec3{0.4, 0.5, 1}, Direction: ray.Direction}))
			} else {
				_, err = hand.Touch(ray)
				require.NoError(t, err)
			}
			_, by := hand.Changed()
			for _, move := range by {
				assert.False(t, math.IsNaN(vectorOf(move).Len()), "%s %s", want, act)
			}
		}
	}
}
