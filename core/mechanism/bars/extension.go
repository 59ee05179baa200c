package bars

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/linkage"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// ExtensionDial is the dial of a handle by which a ram drives the linkage: how much longer it is than at rest, in metres.
const ExtensionDial rig.Channel = "extension"

// extension is how far a ram between what a driver hangs on and the driver turns that: one side of a triangle whose other two are fixed. Where its foot is on something
// outside of the linkage, the side to that goes as it goes, and the driver follows by a rod.
type extension struct {
	driver    int // its place among those that drive
	slot      int // of the dial
	base, arm float64
	rest      float64 // angle at the driver's pin, signed
	long      float64 // of the ram, at rest

	foot    string // the joint of its foot
	outside bool
	joint   int     // the foot's, on the bench
	head    float64 // which way the head lies from the pin at rest
	aside   float64 // how far the head lies off the plane
	pivot   mgl64.Vec2
}

// near is how near to stretched or folded a ram's triangle comes, as a share of its sides: there it could push no more.
const near = 1e-3

// ramsBetween measures rams by the joints at their eyes, two for each.
func (a *assembly) ramsBetween(d *rig.Document, eyes []string) (list []extension, err error) {
	if len(eyes)%2 != 0 {
		return nil, errors.New("a ram that drives has two eyes: one on what the driver hangs on, then one on the driver; choose both, or none")
	}
	for k := 0; k < len(eyes); k += 2 {
		x, err := a.ramBetween(d, eyes[k], eyes[k+1])
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(list, func(o extension) bool { return o.driver == x.driver }) {
			return nil, fmt.Errorf("%s is driven by two rams, and one of them would have to give way; leave one of them out", d.NameOf(a.drivers[x.driver]))
		}
		list = append(list, x)
	}
	return list, nil
}

func (a *assembly) ramBetween(d *rig.Document, footID, headID string) (x extension, err error) {
	foot, head := d.Joint(footID), d.Joint(headID)
	body, ok := a.bodyOf(headID)
	x = extension{foot: footID, driver: slices.IndexFunc(a.drivers, func(id string) bool { return ok && a.body[id] == body })}
	if x.driver < 0 {
		return x, fmt.Errorf("%s is on no bar that drives; the second eye of a ram is on one", head.Name)
	}
	driver := d.Joint(a.drivers[x.driver])
	on, inside := a.bodyOf(footID)
	if inside && on == body {
		return x, fmt.Errorf("both eyes of the ram, %s and %s, are on %s, which it could not move; put the first on what that hangs on", foot.Name, head.Name, driver.Name)
	}
	if base := a.body[driver.Parent]; inside && on != base {
		return x, fmt.Errorf("%s is on another bar than %s hangs on; the first eye of a ram is on that, or on something outside of the linkage", foot.Name, driver.Name)
	}
	x.outside, x.pivot = !inside, a.flatten(driver.Position)
	if x.outside && a.body[driver.Parent] != linkage.Ground {
		return x, fmt.Errorf("%s follows %s, which is outside of the linkage, and hangs on another bar; only what hangs on what stands still can", driver.Name, foot.Name)
	}
	return x, x.measure(a, *foot, *head)
}

// measure measures the triangle of pin, foot and head at rest.
func (x *extension) measure(a *assembly, foot, head rig.Joint) error {
	f, h := a.flatten(foot.Position).Sub(x.pivot), a.flatten(head.Position).Sub(x.pivot)
	x.base, x.arm, x.long = f.Len(), h.Len(), h.Sub(f).Len()
	x.head = math.Atan2(h[1], h[0])
	if x.outside {
		x.aside = a.plane.Inverse().Apply(head.Position)[1]
		x.long = head.Position.Sub(foot.Position).Len()
	}
	cross, dot := f[0]*h[1]-f[1]*h[0], f.Dot(h)
	if x.rest = math.Atan2(cross, dot); math.Abs(cross) <= near*x.base*x.arm {
		return fmt.Errorf("the ram's eyes, %s and %s, and the driver's pin lie in one line, so that it could not push; move one of its eyes", foot.Name, head.Name)
	}
	return nil
}

// ends are how much shorter and longer than at rest the ram can be, in metres.
func (x *extension) ends() (least, most float64) {
	if x.outside {
		return -x.long, x.long
	}
	return math.Abs(x.base-x.arm)*(1+near) - x.long, (x.base+x.arm)*(1-near) - x.long
}

// turn is how far the driver is turned by so much more length, in radians; held tells that the ram cannot be so long or short.
func (x *extension) turn(longer float64) (angle float64, held bool) {
	least, most := x.ends()
	held = longer < least || longer > most
	long := x.long + math.Max(least, math.Min(most, longer))
	if longer == 0 {
		return 0, false
	}
	return x.angle(x.base, long*long) - x.rest, held
}

// angle is that between foot and head at the pin, by the law of cosines, on the side of the rest pose.
func (x *extension) angle(base, longSquared float64) float64 {
	cosine := (base*base + x.arm*x.arm - longSquared) / (2 * base * x.arm)
	return math.Copysign(math.Acos(math.Max(-1, math.Min(1, cosine))), x.rest)
}

// follow is how far the driver is turned so that its head is as far as the ram is long from a place in the plane's frame, which is the foot's now. held tells that the rod does
// not reach.
func (x *extension) follow(foot mgl64.Vec3, longer float64) (angle float64, held bool) {
	at := mgl64.Vec2{foot[2], foot[0]}.Sub(x.pivot)
	base, long := at.Len(), math.Max(0, x.long+longer)
	beside := foot[1] - x.aside
	left := long*long - beside*beside
	if !(base > 0) {
		return 0, true
	}
	shortest, longest := math.Abs(base-x.arm), base+x.arm
	held = left < shortest*shortest || left > longest*longest
	turned := math.Atan2(at[1], at[0]) + x.angle(base, left) - x.head
	return math.Remainder(turned, 2*math.Pi), held
}

// addRams gives the handles of linkages the dials of their rams. A driver that follows something outside has no handle to be turned by.
func addRams(site *mechanism.Site, made *assembly) error {
	for _, x := range made.rams {
		control := site.Document.Control(site.Mechanism.Controls[x.driver])
		least, most := x.ends()
		control.Dials = []rig.Dial{{Name: ExtensionDial, Min: least, Max: most, Unit: "m"}}
		if x.outside {
			control.Channels[rig.RotateY] = rig.ChannelState{Locked: true}
		}
	}
	return nil
}
