// Package bars moves flat linkages: bars that are pinned to each other in closed loops, of which one is driven and all others follow exactly.
package bars

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "linkage"

// Kind is the linkage. Bars are joints; where two of them are pinned is read off the rest pose: at a bar's own place it is pinned to what it hangs on, and wherever else an end of one lies on an end of another. Ends are
// the places of joints that hang on a bar.
type Kind struct{}

// also is the role of what drives beside the first.
const also = "also"

// Where the axis of the pins comes from, when it is built.
const (
	found    = "found from the pins"
	main     = "the driver's main axis"
	sideways = "the driver's X axis"
	forward  = "the driver's Z axis"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Linkage", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M8 20L16 6L44 4L52 20M6 20h4M50 20h4",
		Summary: "Bars that are pinned to each other in closed loops: one is turned, and all others follow exactly. For parallel arms, four-bars, scissors and walking beams.",
		Roles: []mechanism.Role{
			{Name: "driver", Title: "What drives", Help: "The bar that is turned. It hangs on what stands still.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			{Name: "bars", Title: "What follows", Help: "The other bars. Each is pinned where it hangs, and wherever a joint that hangs on it lies on one of another bar. Where none is chosen, those are taken that are pinned to the driver and to each other.", Does: mechanism.Moves, Joints: true},
			{Name: also, Title: "What drives as well", Help: "More bars that are turned, each by a handle of its own: against what it hangs on.", Does: mechanism.Moves, Joints: true},
			{Name: "slides", Title: "What slides", Help: "Blocks that slide on what they hang on, along their own main axis, and turn with it.", Does: mechanism.Moves, Joints: true},
			{Name: "ram", Title: "Rams that drive it", Help: "The two eyes of a ram: first that on what a driver hangs on, then that on the driver, whose handle gets a dial of how much longer the ram is than at rest; two more for another ram. The first eye may be on something else that moves: then the driver follows that by a rod of that length. None for no ram.", Does: mechanism.LooksAt, Joints: true},
			{Name: "hold", Title: "Where it is held", Help: "A joint on any bar at which the handle of the driver is held: dragged there, it takes the bar along as far as that goes. None for its pin.", Does: mechanism.LooksAt, Joints: true, Most: 1},
			mechanism.HandleRole("handle", "Handle", 1, 0),
		},
		Options: parameter.Declared{{
			Key: "axis", Title: "Pins stand along", Type: parameter.Choice, Choices: []string{found, main, sideways, forward}, Default: parameter.OfChoice(found),
			Help: "The axis about which all bars turn. Found: at right angles to the plane that the pins lie in; bars that lie side by side need it said.",
		}},
		Parameters: parameter.Declared{
			{Key: "gap", Title: "Pins meet within", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "Ends that lie so near to each other are pinned, and keep their gap. 0 for ends that meet."},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.05 }

// Build implements mechanism.Kind: a handle on the pin of each driver, or, for the first, where it is to be held.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	driver := d.Joint(m.Joints[0])
	axis, err := planeOf(site)
	if err != nil {
		return err
	}
	if len(m.Joints)-m.Counts[also]-m.Counts["slides"] == 1 {
		proposed := propose(d, m, axis)
		m.Joints = slices.Insert(m.Joints, 1, proposed...)
		if m.Counts != nil {
			m.Counts["bars"] = len(proposed)
		}
	}
	if len(m.Joints) < 3 {
		return fmt.Errorf("%s is in no closed loop: lay a joint at the end of each bar where it is pinned to another, or choose the bars that follow", driver.Name)
	}
	made, err := assemble(d, *m, axis)
	if err != nil {
		return err
	}
	if mended := made.mend(d); len(mended) > 0 {
		site.Say("%s stood beside where bars are equal by less than a millionth, and stands there now, so that they pass their line smoothly.", strings.Join(mended, " and "))
		if made, err = assemble(d, *m, axis); err != nil {
			return err
		}
	}
	for k := range made.drivers {
		m.Controls = append(m.Controls, made.addHandle(site, k, axis))
	}
	for k := range made.drivers {
		if points := made.plan.ChangePoints(k); len(points)%2 == 1 {
			site.Say("Two turns of %s make one of %s: its bars change sides where they come to lie in one line.", d.NameOf(made.drivers[k]), m.Name)
		}
	}
	return addRams(site, made)
}

// addHandle adds the handle of a driver. Those of drivers on other bars hang on what stands still, and are carried along.
func (a *assembly) addHandle(site *mechanism.Site, k int, axis mgl64.Vec3) string {
	d, m := site.Document, site.Mechanism
	driver := d.Joint(a.drivers[k])
	name, place := m.Name+"_handle", driver.Position
	if k > 0 {
		name = driver.Name + "_handle"
	} else if hold := holdOf(m); hold != "" {
		place = d.Joint(hold).Position
	}
	home := geometry.Transform{Position: place, Rotation: geometry.FromAxes(axis, driver.Rotation.Quat().Rotate(mgl64.Vec3{0, 0, 1}))}
	space := site.Root()
	if first := d.Joint(a.drivers[0]); first.Parent != "" {
		space = first.Parent
	}
	id := site.Handle(name, space, home, rig.Hoop, mechanism.Outline(rig.Hoop, 0.06*site.Size))
	control := d.Control(id)
	control.Channels = map[rig.Channel]rig.ChannelState{}
	for _, channel := range rig.Channels {
		if channel == rig.RotateY {
			continue
		}
		held := k == 0 && holdOf(m) != "" && channel.Index() < 3 // it is dragged by its place, and keeps none
		control.Channels[channel] = rig.ChannelState{Locked: !held, Hidden: held}
	}
	return id
}

// holdOf is the joint at which the handle is held; empty for its pin.
func holdOf(m *rig.Mechanism) string {
	if count := m.Counts["hold"]; count > 0 && len(m.Takes) >= count {
		return m.Takes[len(m.Takes)-1]
	}
	return ""
}

// ramsOf lists the eyes of its rams.
func ramsOf(m *rig.Mechanism) []string {
	return m.Takes[:len(m.Takes)-min(len(m.Takes), m.Counts["hold"])]
}

// planeOf is the axis of the pins that is asked for. Where no bars are chosen yet it is found from the driver and all that hangs where it does.
func planeOf(site *mechanism.Site) (mgl64.Vec3, error) {
	bars := site.Mechanism.Joints
	if len(bars) > 1 {
		return axisOf(site.Options.Choice("axis"), site.Document, bars)
	}
	driver := site.Document.Joint(bars[0])
	near := append([]string{driver.ID}, site.Document.ChildrenOf(driver.ID)...)
	if axis, err := axisOf(site.Options.Choice("axis"), site.Document, near); err == nil {
		return axis, nil
	}
	for _, other := range site.Document.ChildrenOf(driver.Parent) {
		if axis, err := axisOf(site.Options.Choice("axis"), site.Document, append(near, other)); err == nil && other != driver.ID {
			return axis, nil
		}
	}
	return axisOf(site.Options.Choice("axis"), site.Document, near)
}

// flat is how thin the triangle of pins may be that a plane is found from, and ample how thin that of bars' own pins may be for nothing else to be asked, as a share of the square of their size.
const (
	flat  = 1e-6
	ample = 1e-2
)

// axisOf is the axis of the pins: of those that the bars turn about, for other things may hang on bars and stand beside their plane; where these lie in a line, of what hangs on them too.
func axisOf(asked string, d *rig.Document, bars []string) (mgl64.Vec3, error) {
	turn := d.Joint(bars[0]).Rotation.Quat()
	switch asked {
	case main:
		return turn.Rotate(geometry.MainAxis), nil
	case sideways:
		return turn.Rotate(mgl64.Vec3{1, 0, 0}), nil
	case forward:
		return turn.Rotate(mgl64.Vec3{0, 0, 1}), nil
	}
	var own, hung []mgl64.Vec3
	for _, id := range bars {
		own = append(own, d.Joint(id).Position)
		for _, child := range d.ChildrenOf(id) {
			hung = append(hung, d.Joint(child).Position)
		}
	}
	if axis, thin := across(own); thin > ample {
		return axis, nil
	}
	axis, thin := across(append(own, hung...))
	if !(thin > flat) {
		return mgl64.Vec3{}, errors.New("all pins lie in one line, and there is no telling about which axis the bars turn; say which")
	}
	return axis, nil
}

// across is the direction across the largest triangle of places, pointing to the side of the axis that it is nearest to, and how large that is as a share of the square of their size.
func across(places []mgl64.Vec3) (axis mgl64.Vec3, thin float64) {
	var largest mgl64.Vec3
	size := 0.0
	for i, a := range places {
		for k, b := range places[:i] {
			size = math.Max(size, a.Sub(b).LenSqr())
			for _, c := range places[:k] {
				if n := b.Sub(a).Cross(c.Sub(a)); n.LenSqr() > largest.LenSqr()*(1+1e-9) {
					largest = n
				}
			}
		}
	}
	if size == 0 || largest.Len() == 0 {
		return mgl64.Vec3{}, 0
	}
	axis = largest.Normalize()
	main := 0
	for k := range 3 {
		if math.Abs(axis[k]) > math.Abs(axis[main])*(1+1e-6) {
			main = k
		}
	}
	if axis[main] < 0 {
		axis = axis.Mul(-1)
	}
	return axis, largest.Len() / size
}
