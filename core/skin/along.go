package skin

import (
	"errors"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Bone is one joint's stretch of a chain: from its own place to the next joint's. Next is -1 for the last.
type Bone struct {
	From, To mgl64.Vec3
	Next     int // the joint that follows, as an index into the same list
	Before   int // the joint before, -1 for the first
}

// Blend bounds: how far, in bones to each side, a joint hands over to the next. Up to MostBlend no vertex needs more than four
// joints, so that nothing is cut off and the weights have no step anywhere.
const (
	LeastBlend = 0.1
	MostBlend  = 1.5
)

// BindAlong returns smooth weights blended along chains: every vertex is projected on its nearest bone, and each joint gets the
// share that its own bone has of a smooth bump around that place, blend bones wide to each side. The shares sum to one by
// construction. progress is told the share done and may stop the work by returning false.
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
var ErrStopped = errors.New("it was stopped; nothing was changed")

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

// shareAlong lists the joints around a place and their shares: the bump's integral over each joint's bone. The first bone of a
// chain reaches back without end, the last one forward.
func shareAlong(bones []Bone, bone int, along, blend float64, joints []int, values []float64) ([]int, []float64) {
	below := func(distance float64) float64 { return geometry.Smoothstep((distance/blend + 1) / 2) }
	add := func(i int, from, to float64) {
		low, high := below(from-along), below(to-along)
		if bones[i].Before < 0 {
			low = 0
		}
		if bones[i].Next < 0 {
			high = 1
		}
		if high > low {
			joints, values = append(joints, i), append(values, high-low)
		}
	}
	add(bone, 0, 1)
	at := bone
	for from := 1.0; bones[at].Next >= 0 && from-along < blend; from++ {
		at = bones[at].Next
		add(at, from, from+1)
	}
	at = bone
	for to := 0.0; bones[at].Before >= 0 && along-to < blend; to-- {
		at = bones[at].Before
		add(at, to-1, to)
	}
	return joints, values
}
