package evaluate_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// nodding is the creature with a clip that turns its leg, which no mechanism moves.
func nodding(t require.TestingT) *rig.Document {
	d := creature(t)
	d.Clips = append(d.Clips, rig.Clip{ID: "k9", Name: "nod", End: 10, Tracks: []rig.Track{}, JointTracks: []rig.JointTrack{
		{Joint: d.Joints[8].ID, Property: rig.JointTurn, Keys: []rig.JointKey{
			{Frame: 0, Value: rig.Quaternion{0, 0, 0, 1}, Ease: rig.Linear}, {Frame: 10, Value: rig.QuaternionOf(mgl64.QuatRotate(1, mgl64.Vec3{1, 0, 0})), Ease: rig.Linear},
		}},
		{Joint: d.Joints[8].ID, Property: rig.JointMove, Keys: []rig.JointKey{{Frame: 0, Ease: rig.Linear}, {Frame: 10, Value: [4]float64{0, 0.5, 0}, Ease: rig.Linear}}},
		{Joint: d.Joints[9].ID, Property: rig.JointGirth, Keys: []rig.JointKey{{Frame: 0, Value: [4]float64{1, 1, 1}, Ease: rig.Linear}, {Frame: 10, Value: [4]float64{2, 1, 2}, Ease: rig.Linear}}},
		{Joint: d.Joints[0].ID, Property: rig.JointMove, Keys: []rig.JointKey{{Frame: 0, Value: [4]float64{9, 9, 9}, Ease: rig.Linear}}},
	}})
	return d
}

func TestAClipMovesJointsAgainstTheirRest(t *testing.T) {
	d := nodding(t)
	e := open(t, d)
	e.SetClip(motion.Prepare(d.Clips[0]))
	e.SetFrame(10)
	e.Evaluate()
	hip, rest := e.Frame.Joints[8], d.Joints[8].Rest()
	assert.InDelta(t, 0, hip.Position.Sub(rest.Apply(mgl64.Vec3{0, 0.5, 0})).Len(), 1e-12)
	assert.InDelta(t, 1, math.Abs(hip.Rotation.Dot(rest.Rotation.Mul(mgl64.QuatRotate(1, mgl64.Vec3{1, 0, 0})))), 1e-12)
	foot := hip.Then(rest.Inverse().Then(d.Joints[9].Rest()))
	assert.InDelta(t, 0, e.Frame.Joints[9].Position.Sub(foot.Position).Len(), 1e-12, "what hangs on it goes along")
	assert.Equal(t, mgl64.Vec3{2, 1, 2}, e.Frame.Scales[9])
	assert.Equal(t, mgl64.Vec3{1, 1, 1}, e.Frame.Scales[8], "own scale is not inherited")
	assert.InDelta(t, 0, e.Frame.Joints[0].Position.Sub(d.Joints[0].Position).Len(), 1e-9, "a mechanism's joint is the mechanism's")
	e.Zero()
	e.Evaluate()
	for i, joint := range d.Joints {
		assert.InDelta(t, 0, e.Frame.Joints[i].Position.Sub(joint.Position).Len(), 1e-9, "zero is the rest pose")
	}
}

// A mechanism over joints that a clip moves works on top of that: covered at influence 1, as the clip has it at 0, and half way between at one half.
func TestKeyedPosesStandBelowMechanisms(t *testing.T) {
	d := nodding(t)
	plain := open(t, d)
	plain.SetClip(motion.Prepare(d.Clips[0]))
	leg := []string{d.Joints[8].ID, d.Joints[9].ID}
	told := []string{}
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}, Tell: func(note string) { told = append(told, note) }}, d,
		&edit.AddMechanism{Mechanism: "fk-chain", Name: "kick", Joints: leg})
	require.NoError(t, err)
	assert.Equal(t, []string{"nod has keys of 2 of these joints, which now stand below kick: at influence 0 they are all there is, at 1 they are covered."}, told)
	kick := result.Document.Mechanisms[len(result.Document.Mechanisms)-1].ID
	for _, influence := range []float64{0, 0.25, 0.5, 1} {
		over := change(t, result.Document, &edit.SetParameters{Mechanism: kick, Values: parameter.Set{"influence": parameter.OfNumber(influence)}})
		e := open(t, over)
		e.SetClip(motion.Prepare(d.Clips[0]))
		for _, frame := range []float64{10, 3.3, 0} {
			plain.SetFrame(frame)
			plain.Evaluate()
			e.SetFrame(frame)
			e.Evaluate()
			hip, clip, rest := e.Frame.Joints[8], plain.Frame.Joints[8], d.Joints[8].Rest()
			switch influence {
			case 0:
				require.Equal(t, clip, hip)
				require.Equal(t, plain.Frame.Joints[9], e.Frame.Joints[9])
				require.Equal(t, plain.Frame.Scales[9], e.Frame.Scales[9])
			case 1:
				require.InDelta(t, 0, hip.Position.Sub(rest.Position).Len(), 1e-12)
			default:
				turned := func(q mgl64.Quat) float64 { return 2 * math.Asin(rest.Rotation.Conjugate().Mul(q).V.Len()) }
				require.InDelta(t, (1-influence)*turned(clip.Rotation), turned(hip.Rotation), 1e-9)
				require.InDelta(t, 0, hip.Position.Sub(rest.Position).Sub(clip.Position.Sub(rest.Position).Mul(1-influence)).Len(), 1e-12)
			}
		}
	}
}

func TestPosesAllocateNothingAndComeOutTheSame(t *testing.T) {
	d := nodding(t)
	first, second := open(t, d), open(t, d)
	clip := motion.Prepare(d.Clips[0])
	first.SetClip(clip)
	second.SetClip(clip)
	assert.Zero(t, testing.AllocsPerRun(20, func() {
		first.SetFrame(3.3)
		first.Evaluate()
		first.SetFrame(7.1)
		first.Evaluate()
	}))
	rapid.Check(t, func(t *rapid.T) {
		for range 3 { // one goes there by detours
			second.SetFrame(rapid.Float64Range(-5, 20).Draw(t, "detour"))
			second.Evaluate()
		}
		frame := rapid.Float64Range(-5, 20).Draw(t, "frame")
		first.SetFrame(frame)
		second.SetFrame(frame)
		first.Evaluate()
		second.Evaluate()
		assert.Equal(t, first.Frame.Joints, second.Frame.Joints)
		assert.Equal(t, first.Frame.Scales, second.Frame.Scales)
	})
}

func TestMorphTargetsAreMixedIn(t *testing.T) {
	memory := edit.Memory{}
	keep := func(data []byte) string { hash := edit.Hash(data); memory[hash] = data; return hash }
	flat := &mesh.Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Normals: []float32{0, 0, 1, 0, 0, 1, 0, 0, 1}, Triangles: []uint32{0, 1, 2}}
	up := &mesh.Deltas{Positions: []float32{0, 0, 1, 0, 0, 1, 0, 0, 1}}
	aside := &mesh.Deltas{Positions: []float32{2, 0, 0, 2, 0, 0, 2, 0, 0}}
	d := rig.New("x")
	d.Parts = []rig.Part{{ID: "p", Name: "p", Mesh: keep(flat.Encode()), Vertices: 3, Colour: "#808080", Sight: rig.Shown, Morphs: []rig.Morph{
		{Name: "up", Deltas: keep(up.Encode())}, {Name: "aside", Deltas: keep(aside.Encode()), Value: 0.25},
	}}}
	e, body, err := evaluate.Open(d, kinds.All(), memory)
	require.NoError(t, err)
	body.Deform(e)
	assert.Equal(t, []float32{0.5, 0, 0}, body.Parts[0].Positions[:3])
	require.NoError(t, e.SetMorph("p", "up", -2))
	body.Deform(e)
	assert.Equal(t, []float32{0.5, 0, -2}, body.Parts[0].Positions[:3])
	require.ErrorContains(t, e.SetMorph("p", "down", 1), `no morph target "down"`)
	require.ErrorContains(t, e.SetMorph("p", "up", math.NaN()), "p.up: NaN is not within")
	require.ErrorContains(t, e.SetMorph("p", "up", 1e9), "is not within ±100")
	e.Zero()
	body.Deform(e)
	assert.Equal(t, []float32{0.5, 0, 0}, body.Parts[0].Positions[:3])
	assert.Zero(t, testing.AllocsPerRun(10, func() { body.Deform(e) }))

	d.Parts[0].Morphs[0].Deltas = keep((&mesh.Deltas{Positions: make([]float32, 6)}).Encode())
	_, _, err = evaluate.Open(d, kinds.All(), memory)
	require.ErrorContains(t, err, "moves 2 vertices in place of 3")
}
