package repeat

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// Carried is how what is fixed to a joint is taken to where a copy of that joint stands at rest: turned and moved by Motion, after its X axis is turned round where it is mirrored.
type Carried struct {
	Repeat   string // the last that made the copy
	Base     string // the joint that it is a copy of, which is no copy itself
	Motion   geometry.Transform
	Mirrored bool
}

// CarriedTo returns how what is fixed to a joint is taken to a copy. ok is false for what is no copy, and where a repeat on the way does not draw its copies.
func (x *Expansion) CarriedTo(joint string) (c Carried, ok bool) {
	origin, copied := x.Origins[joint]
	if !copied {
		return c, false
	}
	c.Repeat = origin.Repeat
	place, axes := mgl64.Vec3{}, [3]mgl64.Vec3{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	var way []motion
	for copied {
		if r := x.Source.Repeat(origin.Repeat); r == nil || !r.Draws {
			return c, false
		}
		way = append(way, origin.motion)
		c.Base = origin.Of
		origin, copied = x.Origins[origin.Of]
	}
	for i := len(way) - 1; i >= 0; i-- { // the first copy first
		m := way[i]
		place = m.place(place)
		for k := range axes {
			axes[k] = m.vector(axes[k])
		}
		c.Mirrored = c.Mirrored != m.mirrored
	}
	c.Motion = geometry.Transform{Position: place, Rotation: geometry.FromAxes(axes[1], axes[2])}
	return c, true
}

// fixed lists the parts that are fixed to joints alone, by the joint.
func fixed(d *rig.Document) map[string][]string {
	parts := map[string][]string{}
	for _, b := range d.Bindings {
		if len(b.Joints) == 1 {
			parts[b.Joints[0]] = append(parts[b.Joints[0]], b.Part)
		}
	}
	return parts
}

// Copied is a part that is drawn at copies of the joint that it is fixed to, all of them mirrored or none.
type Copied struct {
	Part   string
	At     []string  // the copies
	Taken  []Carried // to each
	Mirror bool
}

// Copies lists the parts that repeats draw, in the order of the joints.
func (x *Expansion) Copies() (list []Copied) {
	parts := fixed(x.Source)
	type key struct {
		part     string
		mirrored bool
	}
	known := map[key]int{}
	for _, joint := range x.Document.Joints {
		taken, ok := x.CarriedTo(joint.ID)
		if !ok {
			continue
		}
		for _, part := range parts[taken.Base] {
			k := key{part, taken.Mirrored}
			at, there := known[k]
			if !there {
				at = len(list)
				known[k] = at
				list = append(list, Copied{Part: part, Mirror: taken.Mirrored})
			}
			list[at].At, list[at].Taken = append(list[at].At, joint.ID), append(list[at].Taken, taken)
		}
	}
	return list
}
