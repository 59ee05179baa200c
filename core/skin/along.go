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
	Before   int // the joint before, -1 for the first; two first ones may be before each other where they begin at one place
}

// Blend bounds: how far, in bones to each side, a joint hands over to the next. Up to MostBlend no vertex needs more than four
// joints, so that nothing is cut off and the weights have no step anywhere.
const (
	LeastBlend = 0.1
	MostBlend  = 1.5
)

// BindAlong returns smooth weights blended along chains: every vertex is projected on its nearest bone, and on those that are nearly as near by so much less, and each joint gets the
// share that its own bone has of a smooth bump around that place, blend bones wide to each side. So nothing steps across a bend, where one bone takes over from another. progress is told the share done and may stop the work by returning false.
func BindAlong(surface *mesh.Mesh, bones []Bone, blend float64, progress func(float64) bool) (*Weights, error) {
	if len(bones) == 0 {
		return nil, errors.New("there are no joints to bind to; choose at least one")
	}
	t, sums := newTop(surface.VertexCount()), make([]float64, len(bones))
	away, along := make([]float64, len(bones)), make([]float64, len(bones))
	joints, values := make([]int, 0, 8), make([]float64, 0, 8)
	for vertex := range surface.VertexCount() {
		if vertex%512 == 0 && !progress(float64(vertex)/float64(surface.VertexCount())) {
			return nil, ErrStopped
		}
		nearest := fromBones(bones, surface.Vertex(vertex), away, along)
		for bone, d := range away {
			near := nearly(nearest, d)
			if near == 0 {
				continue
			}
			joints, values = shareAlong(bones, bone, along[bone], blend, joints[:0], values[:0])
			for k, joint := range joints {
				sums[joint] += near * values[k]
			}
		}
		for joint, sum := range sums {
			t.offer(vertex, joint, sum)
			sums[joint] = 0
		}
	}
	return t.weights(), nil
}

// nearly is how much counts of what is a distance away, beside the nearest: all of that, and less and less of what is farther.
func nearly(nearest, away float64) float64 {
	if away <= nearest {
		return 1
	}
	return math.Max(0, math.Pow(nearest/away, evenly)-leastShare)
}

// ErrStopped tells that the caller stopped the work.
var ErrStopped = errors.New("it was stopped; nothing was changed")

// fromBones writes how far p is from each bone and how far along it, 0 to 1, p projects, and returns the least distance.
func fromBones(bones []Bone, p mgl64.Vec3, away, along []float64) (nearest float64) {
	nearest = math.Inf(1)
	for i, b := range bones {
		axis := b.To.Sub(b.From)
		along[i] = 0
		if square := axis.Dot(axis); square > 0 {
			along[i] = math.Min(1, math.Max(0, p.Sub(b.From).Dot(axis)/square))
		}
		away[i] = p.Sub(b.From.Add(axis.Mul(along[i]))).Len()
		if extent(b) == 0 { // what has no length takes no share
			away[i] = math.Inf(1)
		}
		nearest = math.Min(nearest, away[i])
	}
	return nearest
}

// shareAlong lists the joints around a place and their shares: the bump's integral over each joint's bone. The bone at either end of
// the line of bones reaches on without end. A bone without length between two others takes no share.
func shareAlong(bones []Bone, bone int, along, blend float64, joints []int, values []float64) ([]int, []float64) {
	below := func(distance float64) float64 {
		switch {
		case distance == math.Inf(-1):
			return 0
		case distance == math.Inf(1):
			return 1
		}
		return geometry.Smoothstep((distance/blend + 1) / 2)
	}
	add := func(i int, from, to float64) {
		if low, high := below(from-along), below(to-along); high > low {
			joints, values = append(joints, i), append(values, high-low)
		}
	}
	ends := [2]float64{0, 1}
	for side, onward := range []float64{-1, 1} {
		if next, _ := onFrom(bones, bone, side); next < 0 {
			ends[side] = math.Inf(int(onward))
		}
	}
	add(bone, ends[0], ends[1])
	for side, onward := range []float64{-1, 1} {
		at, way, offset := bone, side, float64(side)
		for onward*(offset-along) < blend {
			if at, way = onFrom(bones, at, way); at < 0 {
				break
			}
			to := offset + onward*extent(bones[at])
			if next, _ := onFrom(bones, at, way); next < 0 {
				to = math.Inf(int(onward))
			}
			add(at, math.Min(offset, to), math.Max(offset, to))
			offset = to
		}
	}
	return joints, values
}

// extent is how long a bone counts on the line of bones.
func extent(b Bone) float64 {
	if b.Next >= 0 && b.From == b.To {
		return 0
	}
	return 1
}

// onFrom goes on from a bone, by its beginning (0) or its end (1), and returns the bone that follows and the end by which that is left
// again; -1 where the line ends.
func onFrom(bones []Bone, bone, way int) (next, leave int) {
	if way == 1 {
		return bones[bone].Next, 1
	}
	next = bones[bone].Before
	if next >= 0 && bones[next].Before == bone {
		return next, 1 // two lines that begin at one place run on into each other
	}
	return next, 0
}
