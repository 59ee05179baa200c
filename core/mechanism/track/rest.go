package track

import (
	"encoding/binary"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/belt"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// rested is a track as it lies at rest.
type rested struct {
	plane  *plane
	link   geometry.Transform // how the link lies, undone
	phase  float64
	aside  float64      // how far the links lie beside the wheels' plane
	atRest []mgl64.Vec2 // the pins
	err    error
}

// restOf works out how a track lies at rest, or takes it over from the plan before.
func restOf(b *mechanism.Bench, m *rig.Mechanism, axle mgl64.Vec3) (rested, error) {
	p, err := planeOf(b.Document, m, axle)
	if err != nil {
		return rested{}, err
	}
	there := mechanism.Prepared(b, restKey(b.Document, m, p), func() (r rested) {
		r.plane = p
		if r.err = p.fit(m); r.err != nil {
			return r
		}
		l := lying{frame: p.frame}
		if len(m.Parts) > 0 {
			surface, err := surfaceOf(b, *m)
			if err != nil {
				r.err = err
				return r
			}
			l = p.lies(surface)
		}
		r.err = r.settle(l)
		return r
	})
	return there, there.err
}

// restKey says all that a track at rest is made of.
func restKey(d *rig.Document, m *rig.Mechanism, p *plane) string {
	key := []byte("track " + m.Name)
	add := func(numbers ...float64) {
		for _, n := range numbers {
			key = binary.LittleEndian.AppendUint64(key, math.Float64bits(n))
		}
	}
	q := p.frame.Rotation
	add(p.frame.Position[0], p.frame.Position[1], p.frame.Position[2], q.W, q.V[0], q.V[1], q.V[2], p.belt.Pitch, m.Parameters["links"].Number)
	for i, w := range p.wheels {
		add(float64(p.order[i]), w.At[0], w.At[1], w.Radius)
		if w.Outside {
			key = append(key, 1)
		}
	}
	if p.belt.Hang.All {
		key = append(key, 1)
	}
	for _, id := range m.Parts {
		if part := d.Part(id); part != nil {
			key = append(key, part.Mesh...)
		}
	}
	return string(key)
}

// slides is how often a link is slid along to where one is modelled, at most, and level how near that is come to, as a share of the pitch.
const (
	slides = 20
	level  = 1e-12
)

// settle finds the phase in which a link lies where it is modelled, where that is on the track, and how it lies against that.
func (t *rested) settle(l lying) error {
	p := t.plane
	laid := belt.NewLaid(p.belt, len(p.wheels))
	if !laid.Lay(p.belt, p.wheels, 0) {
		return belt.ErrNoWay
	}
	own := p.frame.Inverse().Then(l.frame)
	at, best, which := flat(own.Position), math.Inf(1), 0
	for range slides { // the nearest link is slid along until its middle is beside the one that is modelled
		laid.Lay(p.belt, p.wheels, t.phase)
		nearest, ahead := math.Inf(1), 0.0
		for i, pin := range laid.Pins {
			next := laid.Pins[(i+1)%len(laid.Pins)]
			if away := at.Sub(pin.Add(next).Mul(0.5)); away.Len() < nearest {
				nearest, which, ahead = away.Len(), i, away.Dot(next.Sub(pin))/next.Sub(pin).LenSqr()
			}
		}
		if best = nearest; math.Abs(ahead) < level {
			break
		}
		t.phase += ahead
		t.phase -= math.Floor(t.phase)
	}
	if best >= p.belt.Pitch {
		t.phase, which = 0, 0
	}
	laid.Lay(p.belt, p.wheels, t.phase)
	t.atRest = append([]mgl64.Vec2{}, laid.Pins[which:]...)
	t.atRest = append(t.atRest, laid.Pins[:which]...)
	t.phase += float64(which)
	place := between(t.atRest[0], t.atRest[1], own.Position[2])
	if math.Abs(own.Position[2]) < l.high[2] {
		t.aside = own.Position[2] // else it is modelled at another track, and goes here over the middle of the wheels
	}
	if best >= p.belt.Pitch {
		t.link = p.frame.Then(own).Inverse()
	} else {
		t.link = p.frame.Then(place).Inverse()
	}
	return nil
}
