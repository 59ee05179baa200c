package mechanism

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// Instances is one part drawn so many times, beside the part itself or in its place, each time as it is at rest and taken somewhere.
type Instances struct {
	Owner   string // ID of the mechanism
	Part    string // ID
	Count   int
	Instead bool // the part itself is not drawn
}

// Instance is where a part is drawn: the motion from where it stands at rest, in the world, after it is scaled along its own axes about the
// origin of that motion.
type Instance struct {
	Place geometry.Transform
	Scale mgl64.Vec3
}

// MostInstances bounds how often all parts together are drawn.
const MostInstances = 20_000

// DrawInstances has the present mechanism draw a part so many times, and returns the set's index in Frame.Instances, which a task says that it writes.
func (b *Bench) DrawInstances(part string, count int) (set int, err error) {
	p := b.Document.Part(part)
	if p == nil {
		return 0, fmt.Errorf("there is no part %q to draw; choose another", part)
	}
	there := 0
	for _, other := range b.Instances {
		there += other.Count
	}
	if count < 0 || there+count > MostInstances {
		return 0, fmt.Errorf("%s would be drawn %d times, and %d is the most for all parts together; draw fewer", p.Name, count, MostInstances)
	}
	b.Instances = append(b.Instances, Instances{Owner: b.Mechanism.ID, Part: part, Count: count})
	return len(b.Instances) - 1, nil
}

// DrawInstead is as DrawInstances, where the part itself is not drawn: an instance stands in its place.
func (b *Bench) DrawInstead(part string, count int) (set int, err error) {
	if set, err = b.DrawInstances(part, count); err == nil {
		b.Instances[set].Instead = true
	}
	return set, err
}

// When says where among the stages of a part's surface one works.
type When string

// The stages that a surface passes through: morph targets, what works before the skin, the skin, what works after it.
const (
	BeforeSkin When = "before"
	AfterSkin  When = "after"
)

// Surface is what a stage works on: the part at rest, and its vertices and normals so far, x, y, z after another, in single precision.
type Surface struct {
	Rest               *mesh.Mesh
	Positions, Normals []float32
}

// Stage is something that is done to the vertices of a part. It owes what a task owes, but that it raises nothing: the same surface for the same frame,
// finite, and at rest the surface as it was.
type Stage struct {
	Owner string // ID of the mechanism
	Part  string // ID
	When  When
	Shape func(*Frame, Surface)
}

// ShapePart has the present mechanism work on a part's surface. Of several stages of a part those of mechanisms earlier in the document work first.
func (b *Bench) ShapePart(part string, when When, shape func(*Frame, Surface)) error {
	if b.Document.Part(part) == nil {
		return fmt.Errorf("there is no part %q to shape; choose another", part)
	}
	b.Stages = append(b.Stages, Stage{b.Mechanism.ID, part, when, shape})
	return nil
}

// StagesOf lists the stages of a part.
func StagesOf(stages []Stage, part rig.Part) []Stage {
	return slices.DeleteFunc(slices.Clone(stages), func(s Stage) bool { return s.Part != part.ID })
}

// Undrawn is an instance that is not taken anywhere.
func Undrawn() Instance {
	return Instance{Place: geometry.Identity(), Scale: mgl64.Vec3{1, 1, 1}}
}
