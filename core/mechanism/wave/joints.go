package wave

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// onJoints lays the wave on the joints of a host that has no curve, after it has placed them: each goes sideways by the wave, the bones
// turn by the least turn that takes them there, and keep their lengths.
func (w *wave) onJoints(b *mechanism.Bench, ids []string, reads []mechanism.Resource) error {
	j := &joints{wave: w, shares: make([]float64, len(ids)), envelopes: make([]float64, len(ids))}
	j.places = mechanism.ScratchOf(b, func() *[]mgl64.Vec3 { places := make([]mgl64.Vec3, len(ids)); return &places })
	task := mechanism.Task{Run: j.bend, Calibrate: func(*mechanism.Frame) {}, Reads: reads}
	run := 0.0
	for i, id := range ids {
		index, _ := b.Joint(id)
		j.joints = append(j.joints, index)
		if i > 0 {
			run += b.Rest(index).Position.Sub(b.Rest(j.joints[i-1]).Position).Len()
		}
		j.shares[i] = run / math.Max(w.length, 1e-300)
		j.envelopes[i] = w.profile.At(j.shares[i]) * w.ease(j.shares[i])
		resource := mechanism.Resource{Kind: mechanism.Joint, Index: index}
		task.Reads, task.Writes = append(task.Reads, resource), append(task.Writes, resource)
	}
	b.AddWhole(task)
	return nil
}

type joints struct {
	*wave
	joints            []int
	shares, envelopes []float64                       // by joint
	places            mechanism.Scratch[[]mgl64.Vec3] // where the wave would have each joint, bones stretched
}

func (j *joints) bend(f *mechanism.Frame) {
	if j.still(f) {
		return
	}
	sine, cosine := math.Sincos(j.plane.At(f) * math.Pi / 180)
	crest := j.crest(f)
	places := *j.places.In(f)
	for i, joint := range j.joints {
		at := f.Joints[joint]
		sideways := at.Rotation.Rotate(mgl64.Vec3{cosine * j.hand, 0, sine})
		places[i] = at.Position.Add(sideways.Mul(j.envelopes[i] * j.swing(f, j.shares[i], crest)))
	}
	carried := mgl64.QuatIdent() // the turn of the bone before, for the last joint, which has no bone of its own
	at := places[0]
	for i, joint := range j.joints {
		next := at
		if i+1 < len(j.joints) {
			bone := f.Joints[j.joints[i+1]].Position.Sub(f.Joints[joint].Position)
			direction := geometry.Unit(bone, geometry.MainAxis)
			to := geometry.Unit(places[i+1].Sub(at), direction)
			carried = geometry.Shortest(direction, to, geometry.Across(f.Joints[joint].Rotation.Rotate(geometry.SecondAxis), direction))
			next = at.Add(to.Mul(bone.Len()))
		}
		f.Joints[joint] = geometry.Transform{Position: at, Rotation: carried.Mul(f.Joints[joint].Rotation).Normalize()}
		at = next
	}
}
