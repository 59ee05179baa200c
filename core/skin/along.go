package skin

import (
	"errors"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
)

// Bone is one joint's stretch of a chain: from its own place to the next joint's. Next is -1 for the last.
type Bone struct {
	From, To mgl64.Vec3
	Next     int // the joint that follows, as an index into the same list
	Before   int // the joint before, -1 for the first
}

// BindAlong returns smooth weights blended along chains: every vertex is projected on its nearest bone and shared between
// the joints around that place by a smooth bump of half-width blend bones (0.5 to 2; at 1 neighbouring joints hand over across
// the length of a bone). progress is told the share done and may stop the work by returning false.
//
// The bump is a raised cosine over the distance along the chain, a partition of unity after normalisation.
func BindAlong(surface *mesh.Mesh, bones []Bone, blend float64, progress func(float64) bool) (*Weights, error) {
	if len(bones) == 0 {
		return nil, errors.New("there are no joints to bind to; choose at least one")
	}
	weights := NewWeights(surface.VertexCount())
	joints, values := make([]int, 0, 8), make([]float64, 0, 8)
	for vertex := range surface.VertexCount() {
		if vertex%512 == 0 && !progress(float64(vertex)/float64(surface.VertexCount())) {
			return nil, ErrStopped
		}
		bone, along := nearestBone(bones, surface.Vertex(vertex))
		joints, values = shareAlong(bones, bone, along, blend, joints[:0], values[:0])
		weights.Set(vertex, joints, values)
	}
	return weights, nil
}

// ErrStopped tells that the caller stopped the work.
var ErrStopped = errors.New("the binding was stopped; nothing was changed")

// nearestBone returns the bone nearest to p and how far along it, 0 to 1, p projects.
func nearestBone(bones []Bone, p mgl64.Vec3) (bone int, along float64) {
	nearest := math.Inf(1)
	for i, b := range bones {
		axis := b.To.Sub(b.From)
		share := 0.0
		if square := axis.Dot(axis); square > 0 {
			share = math.Min(1, math.Max(0, p.Sub(b.From).Dot(axis)/square))
		}
		if d := p.Sub(b.From.Add(axis.Mul(share))).Len(); d < nearest {
			nearest, bone, along = d, i, share
		}
	}
	return bone, along
}

// shareAlong lists the joints around a place and their bumps. Joint i is centred on the middle of its bone.
func shareAlong(bones []Bone, bone int, along, blend float64, joints []int, values []float64) ([]int, []float64) {
	reach := int(math.Ceil(blend)) + 1
	add := func(i int, distance float64) {
		if distance = math.Abs(distance) / blend; distance < 1 {
			joints = append(joints, i)
			values = append(values, 0.5+0.5*math.Cos(math.Pi*distance))
		}
	}
	add(bone, along-0.5)
	at := bone
	for step := 1; step <= reach && bones[at].Next >= 0; step++ {
		at = bones[at].Next
		add(at, float64(step)+0.5-along)
	}
	at = bone
	for step := 1; step <= reach && bones[at].Before >= 0; step++ {
		at = bones[at].Before
		add(at, float64(step)-0.5+along)
	}
	if len(joints) == 0 {
		joints, values = append(joints, bone), append(values, 1)
	}
	return joints, values
}
