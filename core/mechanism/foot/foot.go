// Package foot is the foot at a limb's tip: it rolls over heel, ball, tip and sides on the ground, by dials of the limb's target, while the toes
// stay planted.
package foot

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/limb"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "foot"

// Kind is the foot.
type Kind struct{}

// The dials that a foot gives the target of its limb, in degrees. Roll goes over heel, ball and tip by itself.
const (
	roll rig.Channel = "roll"
	heel rig.Channel = "heel"
	ball rig.Channel = "ball"
	tip  rig.Channel = "tip"
	side rig.Channel = "side"
)

var dials = []rig.Dial{
	{Name: roll, Min: -90, Max: 120, Unit: "°"},
	{Name: heel, Min: -90, Max: 90, Unit: "°"},
	{Name: ball, Min: -90, Max: 90, Unit: "°"},
	{Name: tip, Min: -90, Max: 90, Unit: "°"},
	{Name: side, Min: -90, Max: 90, Unit: "°"},
}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	metres := func(key, title, help string) parameter.Declaration {
		return parameter.Declaration{Key: key, Title: title, Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0.05), Help: help}
	}
	return mechanism.Declaration{
		Kind: Name, Title: "Foot", Stand: mechanism.OnMechanism, Roles: []mechanism.Role{
			{Name: "ball", Title: "Ball", Help: "The joint after the limb's tip, which bends at the ball of the foot.", Does: mechanism.Moves, Joints: true, Most: 1, Made: true},
		}, Hosts: []string{limb.Name},
		Sketch:  "M16 2L22 14L42 20M12 20h34M16 20q4-8 10-4",
		Summary: "Rolls over heel, ball, tip and sides on the ground, by dials on the limb's target. Toes stay planted while the heel lifts.",
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			metres("behind", "Heel behind", "How far behind the ankle the heel stands on the ground."),
			metres("ahead", "Tip ahead", "How far ahead of the ankle the tip of the toes stands on the ground."),
			metres("left", "Left edge", "How far left of the ankle the foot ends."),
			metres("right", "Right edge", "How far right of the ankle the foot ends."),
			metres("drop", "Ankle height", "How high the ankle stands over the ground at rest."),
			{
				Key: "heading", Title: "Heading", Type: parameter.Number, Unit: "°", Min: -180, Max: 180, Default: parameter.OfNumber(0),
				Help: "Where the foot points: from straight ahead, to the left.",
			},
			{
				Key: "bend", Title: "Bend at the ball", Type: parameter.Number, Unit: "°", Min: 0, Max: 90, Default: parameter.OfNumber(40),
				Help: "How far a roll goes over the ball before it goes over the tip.",
			},
			mechanism.Influence(),
		},
	}
}

// Build implements mechanism.Kind: dials on the limb's target, and the sole as it lies on the ground.
func (Kind) Build(site *mechanism.Site) error {
	d := site.Document
	host := d.Mechanism(site.Mechanism.Host)
	for _, m := range d.Mechanisms {
		if m.Kind == Name && m.Host == host.ID {
			return fmt.Errorf("%s has the foot %s already; use that, or remove it first", host.Name, m.Name)
		}
	}
	ankle := d.Joint(host.Joints[len(host.Joints)-1])
	target := d.Control(host.Controls[0])
	for _, dial := range dials {
		there := target.Dial(dial.Name)
		if there == nil {
			target.Dials = append(append([]rig.Dial{}, target.Dials...), dial)
		} else if *there != dial { // the very same was left by a foot before
			return fmt.Errorf("%s has a dial %q already; rename or remove that first", target.Name, dial.Name)
		}
	}
	toes := below(d, ankle.ID)
	if len(toes) > 0 {
		site.Mechanism.Joints = []string{toes[0].ID}
	}
	measure(site, *ankle, toes, target)
	return nil
}

// below lists the joints that go on from the ankle, as long as there is one way.
func below(d *rig.Document, ankle string) (toes []rig.Joint) {
	for at := ankle; ; {
		var children []rig.Joint
		for _, j := range d.Joints {
			if j.Parent == at {
				children = append(children, j)
			}
		}
		if len(children) != 1 || len(toes) > 8 {
			return toes
		}
		toes, at = append(toes, children[0]), children[0].ID
	}
}

// measure writes down how the sole lies under the ankle: from the body's outline on the ground, or from the bones where there is none.
func measure(site *mechanism.Site, ankle rig.Joint, toes []rig.Joint, target *rig.Control) {
	d := site.Document
	heading := 0.0
	size := 0.05 * site.Size
	if shin := d.Joint(ankle.Parent); shin != nil { // a leg without toes stands on a point as thick as its last bone is long
		size = 0.7 * ankle.Position.Sub(shin.Position).Len()
	}
	lowest := ankle.Position[1]
	for _, toe := range toes {
		lowest = math.Min(lowest, toe.Position[1])
	}
	if len(toes) > 0 {
		out := toes[len(toes)-1].Position.Sub(ankle.Position)
		if size = math.Hypot(out[0], out[2]); size > 1e-6*site.Size {
			heading = math.Atan2(out[0], out[2])
		}
	}
	back, ahead, left, right := 0.3*size, size, 0.3*size, 0.3*size
	home := geometry.Transform{Position: ankle.Position, Rotation: mgl64.QuatIdent()}
	if outline := site.Sole(home, 1.5*size); outline != nil {
		sine, cosine := math.Sincos(heading)
		back, ahead, left, right = 0, 0, 0, 0
		for _, p := range outline {
			along, across := p[0]*sine+p[2]*cosine, p[0]*cosine-p[2]*sine
			back, ahead = math.Max(back, -along), math.Max(ahead, along)
			left, right = math.Max(left, across), math.Max(right, -across)
		}
		lowest = ankle.Position[1] + outline[0][1]
		target.Shape, target.Outline = rig.Sole, outline
	}
	for key, value := range map[string]float64{
		"behind": back, "ahead": ahead, "left": left, "right": right, "drop": math.Max(0, ankle.Position[1]-lowest), "heading": heading * 180 / math.Pi,
	} {
		site.Mechanism.Parameters[key] = parameter.OfNumber(value)
	}
}

// Dismantle implements mechanism.Dismantler: the limb's target loses the foot's dials.
func (Kind) Dismantle(d *rig.Document, m rig.Mechanism) {
	host := d.Mechanism(m.Host)
	if host == nil || len(host.Controls) == 0 {
		return
	}
	target := d.Control(host.Controls[0])
	var kept []rig.Dial
	for _, dial := range target.Dials {
		own := false
		for _, mine := range dials {
			own = own || mine.Name == dial.Name
		}
		if !own {
			kept = append(kept, dial)
			continue
		}
		delete(target.Channels, dial.Name)
		d.DropTracks(target.ID, dial.Name)
	}
	target.Dials = kept
}
