package bars

import (
	"errors"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/linkage"
	"myriapod/core/rig"
)

// propose lists the bars that follow a driver: those that are pinned to it, from one to the other, at two places or more each, but for loops that have a freedom of their own.
func propose(d *rig.Document, m *rig.Mechanism, axis mgl64.Vec3) []string {
	driver := d.Joint(m.Joints[0])
	without := slices.Clone(m.Joints[1:]) // those that are chosen already
	for {
		bars := pinned(d, driver, axis, without)
		tried := *m
		tried.Joints = slices.Insert(slices.Clone(m.Joints), 1, bars...)
		_, err := assemble(d, tried, axis)
		var fault *faultError
		if !errors.As(err, &fault) || !errors.Is(fault, linkage.ErrLoose) {
			return bars
		}
		without = append(without, fault.bars...)
	}
}

// pinned lists what hangs on what the driver hangs on, or on something that does, and is held at two places or more by ends that lie on each other's.
func pinned(d *rig.Document, driver *rig.Joint, axis mgl64.Vec3, without []string) []string {
	back := geometry.Transform{Position: driver.Position, Rotation: geometry.FromAxes(axis, driver.Rotation.Quat().Rotate(mgl64.Vec3{0, 0, 1}))}.Inverse()
	flat := func(p mgl64.Vec3) mgl64.Vec2 {
		q := back.Apply(p)
		return mgl64.Vec2{q[2], q[0]}
	}
	p := proposal{ends: map[string][]mgl64.Vec2{}, parents: map[string]string{}, ground: driver.Parent}
	for _, j := range d.Joints {
		p.parents[j.ID] = j.Parent
		p.ends[j.ID] = append(p.ends[j.ID], flat(j.Position))
		if j.Parent != "" {
			p.ends[j.Parent] = append(p.ends[j.Parent], flat(j.Position))
		}
	}
	for _, ends := range p.ends {
		for _, e := range ends {
			p.size = max(p.size, e.Len())
		}
	}
	candidates := slices.DeleteFunc(p.below(d), func(id string) bool { return slices.Contains(without, id) })
	for changed := true; changed; { // a bar that is held at one place alone is none
		candidates, changed = p.prune(candidates, driver.ID)
	}
	return p.joined(candidates, driver.ID)
}

type proposal struct {
	ends    map[string][]mgl64.Vec2 // of each joint: its own place, and those of what hangs on it
	parents map[string]string
	ground  string
	size    float64
}

// below lists what hangs on the ground or on something that does.
func (p *proposal) below(d *rig.Document) (list []string) {
	for _, j := range d.Joints {
		if j.Parent == p.ground || slices.Contains(list, j.Parent) {
			list = append(list, j.ID)
		}
	}
	return list
}

func (p *proposal) near(a, b mgl64.Vec2) bool { return a.Sub(b).Len() <= together*p.size }

// places lists where a bar is pinned: to what it hangs on, and to ends of others.
func (p *proposal) places(bar string, among []string) (list []mgl64.Vec2) {
	add := func(at mgl64.Vec2) {
		if !slices.ContainsFunc(list, func(b mgl64.Vec2) bool { return p.near(at, b) }) {
			list = append(list, at)
		}
	}
	if on := p.parents[bar]; on == p.ground || slices.Contains(among, on) {
		add(p.ends[bar][0])
	}
	for _, end := range p.ends[bar] {
		for _, other := range among {
			hung := p.parents[other] == bar && p.near(p.ends[other][0], end)
			if other != bar && p.parents[bar] != other && (hung || slices.ContainsFunc(p.ends[other], func(b mgl64.Vec2) bool { return p.near(end, b) })) {
				add(end)
			}
		}
	}
	return list
}

// prune takes out what is held at one place alone.
func (p *proposal) prune(list []string, driver string) (left []string, changed bool) {
	for _, bar := range list {
		if bar == driver || len(p.places(bar, list)) > 1 {
			left = append(left, bar)
		}
	}
	return left, len(left) < len(list)
}

// joined lists what is pinned, from one to the other, to the driver.
func (p *proposal) joined(list []string, driver string) (bars []string) {
	seen := []string{driver}
	for i := 0; i < len(seen); i++ {
		for _, other := range list {
			if slices.Contains(seen, other) {
				continue
			}
			meets := slices.ContainsFunc(p.ends[seen[i]], func(a mgl64.Vec2) bool {
				return slices.ContainsFunc(p.ends[other], func(b mgl64.Vec2) bool { return p.near(a, b) })
			})
			if meets {
				seen = append(seen, other)
			}
		}
	}
	for _, bar := range list { // in the order of the document
		if bar != driver && slices.Contains(seen, bar) {
			bars = append(bars, bar)
		}
	}
	return bars
}
