package repeat

import (
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// numberSources has the drivers of what is repeated know that they are the first.
func (x *Expansion) numberSources(r rig.Repeat, s *subtree) {
	for i := range x.Document.Drivers {
		if driver := &x.Document.Drivers[i]; s.inside[driver.ID] {
			driver.Nth = nth(driver.Nth, r, 0)
		}
	}
}

func (c *copying) measures() {
	for _, source := range c.s.Measures {
		id, difference := c.begin(source.ID)
		m := source
		m.ID, m.Name = id, Named(c.r, source.Name, c.n)
		m.Refer(c.follow)
		if c.motion.mirrored { // a copy answers with equal numbers: about the mirrored axis the other way round
			m.Axis = mgl64.Vec3{m.Axis[0], -m.Axis[1], -m.Axis[2]}
		}
		name(difference, &m.Name, new(string))
		if !difference.Removed {
			c.x.Document.Measures = append(c.x.Document.Measures, m)
		}
	}
}

// nth tells which one a copy is; 0 is the source. A mirror tells of no order.
func nth(within []rig.Nth, r rig.Repeat, n int) []rig.Nth {
	if r.Rule == rig.Mirror {
		return within
	}
	return append(slices.Clone(within), rig.Nth{Index: n, Count: r.Copies() + 1})
}

// drivers copies what drives what was copied. Equal numbers mirror by themselves, so nothing is turned round.
func (c *copying) drivers() {
	for _, source := range c.s.Drivers {
		id, difference := c.begin(source.ID)
		driver := source
		driver.ID = id
		driver.Refer(c.follow)
		driver.Parameters = own(source.Parameters, difference)
		driver.Nth = nth(source.Nth, c.r, c.n)
		if difference.On != nil {
			driver.On = *difference.On
		}
		if !difference.Removed {
			c.x.Document.Drivers = append(c.x.Document.Drivers, driver)
		}
	}
}
