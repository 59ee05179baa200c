package step

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
	"myriapod/core/terrain"
)

// wholly is how much of a vertex goes with a foot for it to be of its sole.
const wholly = 0.999

// mostOfSole is how many vertices of a foot are looked at, at most: the lowest.
const mostOfSole = 768

// soleKey says all that the sole of a part is made of.
type soleKey struct{ mesh, weights, joints, feet string }

// found is vertices of a sole, or why there are none.
type found struct {
	places []mgl64.Vec3
	err    error
}

// soleOf is the sole of a limb, in the frame of its target at home: the vertices of what goes wholly with its tip and what hangs on that. A limb of which
// nothing does stands on the place under its tip.
func soleOf(b *mechanism.Bench, host rig.Mechanism, home geometry.Transform, ground *terrain.Ground) (sole []mgl64.Vec3, err error) {
	tip := host.Joints[len(host.Joints)-1]
	feet := b.Document.Under(tip)
	if b.Surfaces != nil && ground != nil {
		for _, binding := range b.Document.Bindings {
			if !slices.ContainsFunc(binding.Joints, func(id string) bool { return slices.Contains(feet, id) }) {
				continue
			}
			of, err := bound(b, binding, feet)
			if err != nil {
				return nil, err
			}
			sole = append(sole, of...)
		}
	}
	if len(sole) == 0 {
		at := b.Document.Joint(tip).Position
		if ground != nil {
			at[1] = math.Min(at[1], ground.Height(at))
		}
		sole = []mgl64.Vec3{at}
	}
	slices.SortStableFunc(sole, func(a, b mgl64.Vec3) int { return cmp.Compare(a[1], b[1]) })
	sole = sole[:min(len(sole), mostOfSole)]
	back := home.Inverse()
	for i := range sole {
		sole[i] = back.Apply(sole[i])
	}
	return sole, nil
}

// bound lists the vertices of a part that go wholly with a foot.
func bound(b *mechanism.Bench, binding rig.Binding, feet []string) ([]mgl64.Vec3, error) {
	part := b.Document.Part(binding.Part)
	key := soleKey{part.Mesh, binding.Weights, strings.Join(binding.Joints, " "), strings.Join(feet, " ")}
	there := mechanism.Prepared(b, key, func() (x found) {
		surface, err := b.Surfaces.Mesh(part.Mesh)
		if err != nil {
			return found{err: err}
		}
		weights, err := b.Surfaces.Weights(binding.Weights, len(binding.Joints))
		if err != nil || weights.VertexCount() != surface.VertexCount() {
			return found{err: err} // weights that do not fit are told where the part is moved
		}
		mine := make([]bool, len(binding.Joints))
		for i, id := range binding.Joints {
			mine[i] = slices.Contains(feet, id)
		}
		for vertex := range surface.VertexCount() {
			if weights.Sum(vertex, mine) >= wholly {
				x.places = append(x.places, surface.Vertex(vertex))
			}
		}
		return x
	})
	return there.places, there.err
}

// lowest is how high over its target, against the upright, a sole is lowest at home.
func lowest(sole []mgl64.Vec3, home geometry.Transform) float64 {
	low := math.Inf(1)
	for _, p := range sole {
		low = math.Min(low, home.Rotation.Rotate(p)[1])
	}
	return low
}
