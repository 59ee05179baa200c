package bars

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// ExtensionDial is the dial of a handle by which a ram drives the linkage: how much longer it is than at rest, in metres.
const ExtensionDial rig.Channel = "extension"

// extension is how far a ram between what stands still and the driver turns the driver: one side of a triangle whose other two are fixed.
type extension struct {
	slot      int // of the dial
	base, arm float64
	rest      float64 // angle at the driver's pin, signed
	long      float64 // of the ram, at rest
}

// near is how near to stretched or folded a ram's triangle comes, as a share of its sides: there it could push no more.
const near = 1e-3

// extensionOf measures a ram by its eyes: one on what stands still, the other on the driver, both in the plane.
func extensionOf(foot, head mgl64.Vec2) (x extension, err error) {
	x = extension{base: foot.Len(), arm: head.Len(), long: head.Sub(foot).Len()}
	cross, dot := foot[0]*head[1]-foot[1]*head[0], foot.Dot(head)
	if x.rest = math.Atan2(cross, dot); math.Abs(cross) <= near*x.base*x.arm {
		return x, fmt.Errorf("the ram's eyes and the driver's pin lie in one line, so that it could not push; move one of its eyes")
	}
	return x, nil
}

// ends are how much shorter and longer than at rest the ram can be, in metres.
func (x *extension) ends() (least, most float64) {
	return math.Abs(x.base-x.arm)*(1+near) - x.long, (x.base+x.arm)*(1-near) - x.long
}

// turn is how far the driver is turned by so much more length, in radians; held tells that the ram cannot be so long or short.
func (x *extension) turn(longer float64) (angle float64, held bool) {
	least, most := x.ends()
	held = longer < least || longer > most
	long := x.long + math.Max(least, math.Min(most, longer))
	cosine := (x.base*x.base + x.arm*x.arm - long*long) / (2 * x.base * x.arm)
	if longer == 0 {
		return 0, false
	}
	return math.Copysign(math.Acos(math.Max(-1, math.Min(1, cosine))), x.rest) - x.rest, held
}

// addDial gives the handle of a linkage the dial of its ram.
func addDial(site *mechanism.Site, made *assembly, control *rig.Control) error {
	m := site.Mechanism
	if len(m.Takes) == 0 {
		return nil
	}
	x, err := eyes(site.Document, m.Takes, made)
	if err != nil {
		return err
	}
	least, most := x.ends()
	control.Dials = []rig.Dial{{Name: ExtensionDial, Min: least, Max: most, Unit: "m"}}
	return nil
}

// eyes measures a ram by the joints at its eyes.
func eyes(d *rig.Document, ram []string, made *assembly) (extension, error) {
	if len(ram) != 2 {
		return extension{}, fmt.Errorf("a ram that drives has two eyes: one on what stands still, then one on the driver; choose both, or none")
	}
	return extensionOf(made.flatten(d.Joint(ram[0]).Position), made.flatten(d.Joint(ram[1]).Position))
}
