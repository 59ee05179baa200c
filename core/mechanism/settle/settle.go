// Package settle has a body rise and lean with what its feet stand on, by shares.
package settle

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ground"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "settle"

// Kind is the body that settles on its feet.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	share := func(key, title string, standard float64, help string) parameter.Declaration {
		return parameter.Declaration{Key: key, Title: title, Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(standard), Dial: true, Help: help}
	}
	return mechanism.Declaration{
		Kind: Name, Title: "Settle", Stand: mechanism.OnPicks, Whole: true, Hosts: []string{},
		Summary: "The body rises and leans with what its feet stand on, by shares: uphill it looks up, and where one side stands higher it leans.",
		Sketch:  "M8 12L48 4M14 11v9M26 8v9M40 5v10M6 21l48-7",
		Roles: []mechanism.Role{
			{Name: "body", Title: "Body", Help: "The control that rises and leans, with all that hangs on it. None for the body as a whole.", Does: mechanism.Moves, Controls: true, Most: 1},
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			share("rise", "Rises", 1, "How much of what its feet stand higher, on the whole, the body rises."),
			share("pitch", "Leans ahead and back", 1, "How much of the fall from its hind feet to its fore feet the body leans."),
			share("roll", "Leans aside", 0.5, "How much of the fall from one side to the other the body leans."),
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.03 }

// Build implements mechanism.Kind: it needs no controls.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	if len(m.Homes) == 0 {
		m.Homes = []string{site.Root()}
	}
	for _, other := range d.Mechanisms {
		if other.Kind == Name && len(other.Homes) > 0 && other.Homes[0] == m.Homes[0] {
			return fmt.Errorf("%s settles already by %s; change that, or choose another control", d.NameOf(m.Homes[0]), other.Name)
		}
	}
	return nil
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	if len(b.Mechanism.Homes) != 1 {
		return fmt.Errorf("what settles is one control, not %d; build it anew", len(b.Mechanism.Homes))
	}
	control, ok := b.Control(b.Mechanism.Homes[0])
	if !ok {
		return fmt.Errorf("there is no control %q", b.Mechanism.Homes[0])
	}
	s := &settling{rest: b.Document.Controls[control].Position}
	w := mechanism.HomeWriter{Place: s.place, Complete: s.complete, Reads: []mechanism.Resource{{Kind: mechanism.Clock}, {Kind: mechanism.Ahead}}}
	for _, number := range []struct {
		key string
		to  *mechanism.Number
	}{{"rise", &s.rise}, {"pitch", &s.pitch}, {"roll", &s.roll}} {
		value, reads := b.Number(number.key)
		*number.to = value
		w.Reads = append(w.Reads, reads...)
	}
	influence, reads := b.InfluenceOf()
	s.influence = influence
	carried, more := ground.Carried(b)
	s.carried = carried
	w.Reads = append(append(w.Reads, reads...), more...)
	b.Carry(control, w)
	return nil
}

// settling is a body that settles, made ready.
type settling struct {
	rest                         mgl64.Vec3
	rise, pitch, roll, influence mechanism.Number
	carried                      func(*mechanism.Frame) geometry.Transform
	fit                          []mgl64.Vec3 // by foot: how much of its rise counts for the body's, and for the fall along x and z
}

// complete lays out the plane through the feet once all of them are known.
func (s *settling) complete(b *mechanism.Bench) []mechanism.Resource {
	feet := make([]mgl64.Vec3, len(b.Footfalls))
	for i, standing := range b.Footfalls {
		feet[i] = standing.At
	}
	s.fit = planeThrough(feet, s.rest)
	return b.FootfallsOf()
}

// inLine is how narrow feet stand one way, as a share of how wide they stand the other, for no fall that way to be told.
const inLine = 1e-3

// planeThrough returns, for each foot, what its rise adds to the height, at a place, of the plane that fits all best, and to its fall along x and z. Feet that
// stand in one line tell no fall across it.
//
// Method: least squares over the centred places, the normal equations by the eigenvectors of their matrix.
func planeThrough(feet []mgl64.Vec3, at mgl64.Vec3) []mgl64.Vec3 {
	if len(feet) == 0 {
		return nil
	}
	share := 1 / float64(len(feet))
	middle := mgl64.Vec2{}
	for _, p := range feet {
		middle = middle.Add(mgl64.Vec2{p[0], p[2]}.Mul(share))
	}
	spread := mat.NewSymDense(2, nil)
	for _, p := range feet {
		away := mgl64.Vec2{p[0], p[2]}.Sub(middle)
		spread.SymRankOne(spread, 1, mat.NewVecDense(2, away[:]))
	}
	var eigen mat.EigenSym
	eigen.Factorize(spread, true)
	var ways mat.Dense
	eigen.VectorsTo(&ways)
	wide := eigen.Values(nil) // in rising order
	inverse := mgl64.Mat2{}
	for k, value := range wide {
		if value > inLine*inLine*wide[1] {
			way := mgl64.Vec2{ways.At(0, k), ways.At(1, k)}
			inverse = inverse.Add(way.OuterProd2(way).Mul(1 / value))
		}
	}
	fit := make([]mgl64.Vec3, len(feet))
	for i, p := range feet {
		fall := inverse.Mul2x1(mgl64.Vec2{p[0], p[2]}.Sub(middle))
		fit[i] = mgl64.Vec3{share + fall.Dot(mgl64.Vec2{at[0], at[2]}.Sub(middle)), fall[0], fall[1]}
	}
	return fit
}

// place takes the body up and leans it, about where the clip has it over the ground.
func (s *settling) place(f *mechanism.Frame, at geometry.Transform) geometry.Transform {
	share := s.influence.At(f)
	if f.Still || share == 0 || len(s.fit) == 0 {
		return at
	}
	var sum mgl64.Vec3
	for i, fit := range s.fit {
		sum = sum.Add(fit.Mul(f.Footfalls[i].Rise))
	}
	body := geometry.Identity()
	if f.Journey != nil {
		body = f.Journey.Body(f.Time)
	}
	pivot := body.Apply(s.rest)
	heading := mgl64.QuatRotate(mechanism.Heading(body.Rotation), geometry.Up)
	up := mgl64.Vec3{-s.roll.At(f) * share * sum[1], 1, -s.pitch.At(f) * share * sum[2]}.Normalize()
	lean := heading.Mul(geometry.Shortest(geometry.Up, up, mgl64.Vec3{1, 0, 0})).Mul(heading.Conjugate()).Normalize()
	motion := geometry.Transform{Position: pivot.Sub(lean.Rotate(pivot)), Rotation: lean}
	motion.Position[1] += s.rise.At(f) * share * sum[0]
	carried := s.carried(f)
	turned := at.Turned
	at = carried.Then(motion).Then(carried.Inverse()).Then(at)
	at.Turned = turned
	return at
}
