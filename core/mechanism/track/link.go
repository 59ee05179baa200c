package track

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/belt"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Rims of pins and holes are looked for at edges as sharp as a bevel; one counts as across the track whose axis is as near to the axles.
const (
	bevel  = 25 * math.Pi / 180
	acrost = 0.97
)

// lying is how a link lies as it is modelled: a frame with X along the track, Y outwards, Z along the axles, in the middle of the link, and how far it reaches along these on both sides.
type lying struct {
	frame     geometry.Transform
	low, high mgl64.Vec3
}

// lies works out how a link lies: as on the track, where it is on that, or as on the lower run.
func (p *plane) lies(surface *mesh.Mesh) lying {
	box := mesh.EmptyBounds()
	back := p.frame.Inverse()
	for v := range surface.VertexCount() {
		box.Add(back.Apply(surface.Vertex(v)))
	}
	middle, size := box.Min.Add(box.Max).Mul(0.5), box.Max.Sub(box.Min)
	heading := mgl64.Vec2{1, 0}
	if spot, away := p.nearest(flat(middle)); away < 0.6*math.Max(size[0], size[1]) {
		heading = spot.Heading
	}
	l := lying{frame: p.frame.Then(linked(heading, mgl64.Vec3{middle[0], middle[1], middle[2]}))}
	l.low, l.high = mgl64.Vec3{math.Inf(1), math.Inf(1), math.Inf(1)}, mgl64.Vec3{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	own := l.frame.Inverse()
	for v := range surface.VertexCount() {
		at := own.Apply(surface.Vertex(v))
		for axis := range 3 {
			l.low[axis], l.high[axis] = math.Min(l.low[axis], at[axis]), math.Max(l.high[axis], at[axis])
		}
	}
	return l
}

// linked is the frame of a link in the plane: X along a heading, Y to the right of it, which is outwards, Z along the axles.
func linked(heading mgl64.Vec2, at mgl64.Vec3) geometry.Transform {
	return geometry.Transform{Position: at, Rotation: geometry.FromAxes(mgl64.Vec3{heading[1], -heading[0], 0}, mgl64.Vec3{0, 0, -1})}
}

// nearest is the spot of the path without slack that is nearest to a place.
func (p *plane) nearest(to mgl64.Vec2) (best belt.Spot, away float64) {
	const looks = 64
	away = math.Inf(1)
	for i := range p.path.Pieces {
		for k := range looks {
			s := belt.Spot{Piece: i, Along: p.path.Pieces[i].Length * (float64(k) + 0.5) / looks}
			if s.Place, s.Heading = p.path.Pieces[i].At(s.Along); s.Place.Sub(to).Len() < away {
				best, away = s, s.Place.Sub(to).Len()
			}
		}
	}
	return best, away
}

// pinned is where pins or holes across the track lie in a link's frame, the last and the first along it. ok is false where there are none, or but one.
func (l lying) pinned(surface *mesh.Mesh) (first, last mgl64.Vec2, ok bool) {
	circles, _ := surface.Outlines(bevel)
	own := l.frame.Inverse()
	found := false
	for _, c := range circles {
		if math.Abs(own.Rotation.Rotate(c.Axis)[2]) < acrost {
			continue
		}
		at := flat(own.Apply(c.Middle))
		if !found || at[0] < first[0] {
			first = at
		}
		if !found || at[0] > last[0] {
			last = at
		}
		found = true
	}
	return first, last, found && last[0]-first[0] > 0.3*(l.high[0]-l.low[0])
}

// measureLink measures the link: its pitch, by its pins or holes, or as long as it is, and how far pins and sole lie off the rims. What is given stays.
func measureLink(site *mechanism.Site, way mgl64.Vec3) error {
	m := site.Mechanism
	if len(m.Parts) == 0 {
		if m.Parameters["pitch"].Number == 0 {
			m.Parameters["pitch"] = parameter.OfNumber(slices.Min(m.Sizes) / 3)
		}
		return nil
	}
	surface, err := site.Surface(m.Parts[0])
	if err != nil {
		return err
	}
	if surface.VertexCount() == 0 {
		return fmt.Errorf("%s has no vertices; choose another part for the link", site.Document.NameOf(m.Parts[0]))
	}
	p, err := planeOf(site.Document, m, way)
	if err != nil {
		return err
	}
	if !p.path.Lead(p.wheels, p.belt.Hang, 0) {
		return belt.ErrNoWay
	}
	l := p.lies(surface)
	pitch, rim := l.high[0]-l.low[0], (l.high[1]-l.low[1])/2
	if first, last, ok := l.pinned(surface); ok {
		pitch, rim = last[0]-first[0], (first[1]+last[1])/2-l.low[1]
	} else {
		site.Say("No pins or holes are found at the ends of %s: its pitch is taken as long as it is, %.3g m. Give the pitch where links overlap.", site.Document.NameOf(m.Parts[0]), pitch)
	}
	measured := map[string]float64{"pitch": pitch, "rim": math.Max(0, rim), "sole": l.high[1] - l.low[1]}
	for key, value := range measured {
		if m.Parameters[key].Number == 0 {
			m.Parameters[key] = parameter.OfNumber(value)
		}
	}
	return nil
}

// surfaceOf is the surface of a mechanism's link.
func surfaceOf(b *mechanism.Bench, m rig.Mechanism) (*mesh.Mesh, error) {
	part := b.Document.Part(m.Parts[0])
	if part == nil || b.Surfaces == nil {
		return nil, errors.New("the part of its link is not at hand; build it anew with another")
	}
	return b.Surfaces.Mesh(part.Mesh)
}
