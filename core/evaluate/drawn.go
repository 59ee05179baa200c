package evaluate

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// Drawn is one surface as it is drawn: a part, or one instance of it. Whoever shows, writes or checks a body goes over this one list.
type Drawn struct {
	Name string // of the part; for an instance with its number behind it, over all sets of that part
	Part int    // place in Body.Parts
	Set  int    // of instances; -1 for the part itself
	At   int    // place in the set
}

// Drawn lists all that is drawn: the parts that no instances stand in the place of, then the instances, set after set.
func (b *Body) Drawn() []Drawn { return b.drawn }

// listDrawn lists what is drawn, and refuses instances of what has no faces.
func (b *Body) listDrawn(e *Evaluator) error {
	places := map[string]int{}
	for i := range b.Parts {
		places[b.Parts[i].Part.ID] = i
		if !e.Plan.Replaced(b.Parts[i].Part.ID) {
			b.drawn = append(b.drawn, Drawn{Name: b.Parts[i].Part.Name, Part: i, Set: -1})
		}
	}
	counts := map[int]int{}
	for set, instances := range e.Plan.Instances {
		part := places[instances.Part]
		p := &b.Parts[part]
		if len(p.Rest.Triangles) == 0 {
			return fmt.Errorf("%s draws the part %s, which has no faces; choose one that has some", e.Plan.Document.NameOf(instances.Owner), p.Part.Name)
		}
		for k := range instances.Count {
			counts[part]++
			b.drawn = append(b.drawn, Drawn{Name: fmt.Sprintf("%s_at_%d", p.Part.Name, counts[part]), Part: part, Set: set, At: k})
		}
	}
	return nil
}

// Matrix is what takes the surface that Vertices returns to the world in the present frame.
func (d Drawn) Matrix(e *Evaluator) mgl64.Mat4 {
	if d.Set < 0 {
		return mgl64.Ident4()
	}
	return e.InstanceMatrix(d.Set, d.At)
}

// InstanceMatrix is where an instance is drawn in the world, the size of everything reckoned with.
func (e *Evaluator) InstanceMatrix(set, at int) mgl64.Mat4 {
	f := e.Frame
	instance := &f.Instances[set][at]
	place := geometry.Transform{Position: f.Scaled(instance.Place.Position), Rotation: instance.Place.Rotation}
	return place.Matrix(instance.Scale.Mul(f.Size))
}

// Vertices returns the vertices and normals that are drawn, before Matrix takes them anywhere: a part's as they are deformed, an instance's at rest.
func (d Drawn) Vertices(b *Body) (positions, normals []float32) {
	p := &b.Parts[d.Part]
	if d.Set < 0 {
		return p.Positions, p.Normals
	}
	return p.Rest.Positions, p.Rest.Normals
}

// World writes the vertices as they stand in the world into a list of the same length.
func (d Drawn) World(e *Evaluator, b *Body, into []float32) {
	positions, _ := d.Vertices(b)
	if d.Set < 0 {
		copy(into, positions)
		return
	}
	m := d.Matrix(e)
	for i := 0; i+2 < len(positions); i += 3 {
		at := mgl64.TransformCoordinate(mgl64.Vec3{float64(positions[i]), float64(positions[i+1]), float64(positions[i+2])}, m)
		into[i], into[i+1], into[i+2] = float32(at[0]), float32(at[1]), float32(at[2])
	}
}

// Deformed tells whether a part's vertices are more than joints and morph targets can say, so that they must be handed over as they are.
func (p *BodyPart) Deformed() bool { return len(p.before)+len(p.after) > 0 || p.dual > 0 }

// work has stages work on a surface.
func work(stages []mechanism.Stage, f *mechanism.Frame, s mechanism.Surface) {
	for _, stage := range stages {
		stage.Shape(f, s)
	}
}
