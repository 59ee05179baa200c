// Package laidcurve is a curve laid by clicks, on no joints: a rail, a way, a line that something rides along. A handle stands at each place, and can be hung on anything.
package laidcurve

import (
	"errors"
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/along"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "laid-curve"

// Kind is the laid curve.
type Kind struct{}

// A curve is carried by three places or more; where fewer are laid, one is put between them.
const (
	leastPlaces = 2
	mostPlaces  = 64
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Laid curve", Stand: mechanism.OnPicks, Hosts: []string{}, Laid: true,
		Sketch:     "M4 18C14 4 22 4 30 12S48 20 56 6M4 16v4M30 10v4M56 4v4",
		Summary:    "A curve laid by clicks, on no joints: a rail or a way for something to ride along. A handle stands at each place.",
		Roles:      []mechanism.Role{mechanism.HandleRole("places", "Places", leastPlaces+1, mostPlaces)},
		Options:    parameter.Declared{},
		Parameters: parameter.Declared{mechanism.Influence()},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0 }

// Build implements mechanism.Kind: a handle at each place that is laid.
func (Kind) Build(site *mechanism.Site) error {
	places := site.Places
	switch {
	case len(places) < leastPlaces:
		return fmt.Errorf("a curve goes through %d places or more, and %d are laid; click another", leastPlaces, len(places))
	case len(places) > mostPlaces:
		return fmt.Errorf("a curve goes through %d places at most, and %d are laid; lay fewer", mostPlaces, len(places))
	}
	for i := 1; i < len(places); i++ {
		if !(places[i].Sub(places[i-1]).Len() > 1e-6*site.Size) {
			return errors.New("two places of the curve, one after the other, fall together; lay them apart")
		}
	}
	if len(places) == leastPlaces {
		places = []mgl64.Vec3{places[0], places[0].Add(places[1]).Mul(0.5), places[1]}
	}
	site.Root()
	space := site.Document.ControlNamed(rig.GlobalName).ID
	ruler, err := fitted(places)
	if err != nil {
		return err
	}
	shares := sharesOf(places)
	for i, place := range places {
		_, frame := ruler.FrameAt(ruler.Locate(shares[i] * ruler.Total()))
		home := geometry.Transform{Position: place, Rotation: frame.Rotation(0)}
		site.Mechanism.Controls = append(site.Mechanism.Controls, site.Handle(fmt.Sprintf("%s_%d", site.Mechanism.Name, i+1), space, home, rig.Lozenge, mechanism.Outline(rig.Lozenge, 0.025*site.Size)))
	}
	return nil
}

// pointCount is how many points the curve through so many places has: the ends carry two each.
func pointCount(places int) int { return places + 2 }

func fitted(places []mgl64.Vec3) (*curve.Ruler, error) {
	line, err := curve.Fit(places, pointCount(len(places)))
	if err != nil {
		return nil, err
	}
	ruler := curve.NewRuler(line)
	chord := geometry.Unit(places[1].Sub(places[0]), geometry.MainAxis)
	ruler.Measure(chord, geometry.Up, geometry.Unit(places[len(places)-1].Sub(places[len(places)-2]), geometry.MainAxis))
	return ruler, nil
}

// sharesOf is where the places are along the straight ways between them, as shares of these.
func sharesOf(places []mgl64.Vec3) []float64 {
	shares := make([]float64, len(places))
	for i := 1; i < len(places); i++ {
		shares[i] = shares[i-1] + places[i].Sub(places[i-1]).Len()
	}
	total := shares[len(shares)-1]
	for i := range shares {
		shares[i] /= total
	}
	shares[len(shares)-1] = 1
	return shares
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	if len(controls) <= leastPlaces {
		return fmt.Errorf("a curve goes through %d places or more, not %d; lay it anew", leastPlaces+1, len(controls))
	}
	places := make([]mgl64.Vec3, len(controls))
	for i, control := range controls {
		places[i] = b.Document.Controls[control].Position
		if i > 0 && places[i] == places[i-1] {
			return fmt.Errorf("%s stands where the place before it does; move its home", b.Document.Controls[control].Name)
		}
	}
	ruler, err := fitted(places)
	if err != nil {
		return err
	}
	line, err := along.Tie(b, ruler, controls, sharesOf(places), [2]mechanism.Number{mechanism.Given(1), mechanism.Given(1)})
	if err != nil {
		return err
	}
	made := b.Offer(mechanism.NewCurve(pointCount(len(controls))))
	var reads []mechanism.Resource
	for _, control := range controls {
		reads = append(reads, mechanism.Resource{Kind: mechanism.Control, Index: control})
	}
	room := mechanism.ScratchOf(b, func() *[]mgl64.Vec3 { wanted := line.Wanted(); return &wanted })
	b.AddWhole(mechanism.Task{
		Reads: reads, Writes: []mechanism.Resource{{Kind: mechanism.CurveOf, Index: made}},
		Run: func(f *mechanism.Frame) {
			line.Carry(f, f.Curves[made].Base.Points, *room.In(f))
			f.Curves[made].Carry(line.First(f), f.Controls[controls[0]].Rotation.Rotate(geometry.SecondAxis), line.Last(f))
		},
	})
	return nil
}
