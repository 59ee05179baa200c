// Package ride takes a thing along a chain's curve: at a share of its length or so many metres along it, turned with it or not.
package ride

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "ride"

// Kind is the ride.
type Kind struct{}

// What happens at the ends of the curve.
const (
	stops = "stops"
	round = "goes round"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Ride", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M3 19C15 5 26 5 33 12S50 19 57 9M28 4h8v8h-8z",
		Summary: "Rides along a chain's curve, at a share of its length or so many metres along it: a bead on a string, a car on a rail, a lantern on a tail.",
		Roles: []mechanism.Role{
			{Name: "rider", Title: "What rides", Help: "A joint, or a control whose home rides, with all that hangs on it.", Does: mechanism.Moves, Joints: true, Controls: true, Least: 1, Most: 1},
			{Name: "along", Title: "Along", Help: "A joint of the chain or hose whose curve it rides along, or a handle of a laid curve.", Does: mechanism.LooksAt, Joints: true, Controls: true, Least: 1, Most: 1},
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{Key: "at", Title: "Share of the way", Type: parameter.Number, Min: -8, Max: 8, Default: parameter.OfNumber(0), Dial: true, Help: "Where on the curve, from its beginning (0) to its end (1); built, where it stands. It goes with how long the curve is."},
			{Key: "home", Title: "Stands at rest at", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0), Help: "The share of the way at which it stands at rest, and so how it lies beside the curve; built, the same as above."},
			{Key: "way", Title: "Way along it", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(0), Dial: true, Help: "How many metres farther along the curve, however long that is."},
			{Key: "turn", Title: "Turned along", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true, Help: "How much it turns with the curve; with none it stays turned as what it hangs on."},
			{Key: "ends", Title: "At the ends", Type: parameter.Choice, Choices: []string{stops, round}, Default: parameter.OfChoice(stops), Help: "Whether it stops there, or begins anew at the other end."},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.05 }

// Build implements mechanism.Kind: it needs no controls. Where it stands is the nearest place of the chain.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	for _, host := range d.Mechanisms {
		line := host.Joints
		if slices.Contains(host.Controls, m.Takes[0]) {
			line = host.Controls
		}
		if !slices.Contains(line, m.Takes[0]) || len(line) < 2 {
			continue
		}
		if len(m.Joints) > 0 && onChain(d, m.Joints[0], host.Joints) {
			return fmt.Errorf("%s is of the chain itself; choose something that the chain does not move", d.NameOf(m.Joints[0]))
		}
		m.Parameters = m.Parameters.Clone()
		m.Parameters["at"] = parameter.OfNumber(nearest(placesOf(d, line), placeOf(d, m)))
		m.Parameters["home"] = m.Parameters["at"]
		return nil
	}
	return fmt.Errorf("%s is of no curve; build a spline or ribbon chain through it first, or lay a curve", d.NameOf(m.Takes[0]))
}

// placesOf is where joints or controls stand at rest.
func placesOf(d *rig.Document, line []string) (places []mgl64.Vec3) {
	for _, id := range line {
		if joint := d.Joint(id); joint != nil {
			places = append(places, joint.Position)
		} else {
			places = append(places, d.Control(id).Position)
		}
	}
	return places
}

func onChain(d *rig.Document, id string, chain []string) bool {
	for _, other := range chain {
		if other == id {
			return true
		}
	}
	return false
}

func placeOf(d *rig.Document, m *rig.Mechanism) mgl64.Vec3 {
	if len(m.Homes) > 0 {
		return d.Control(m.Homes[0]).Position
	}
	return d.Joint(m.Joints[0]).Position
}

// nearest is the share of the way along places at which that comes nearest to a place.
func nearest(line []mgl64.Vec3, to mgl64.Vec3) (share float64) {
	gone, least := 0.0, math.Inf(1)
	for i := 1; i < len(line); i++ {
		from, bone := line[i-1], line[i].Sub(line[i-1])
		part := 0.0
		if long := bone.LenSqr(); long > 0 {
			part = math.Max(0, math.Min(1, to.Sub(from).Dot(bone)/long))
		}
		if away := to.Sub(from.Add(bone.Mul(part))).Len(); away < least {
			least, share = away, gone+part*bone.Len()
		}
		gone += bone.Len()
	}
	return share / math.Max(gone, math.SmallestNonzeroFloat64)
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	m := b.Mechanism
	if len(m.Joints)+len(m.Homes) != 1 || len(m.Takes) != 1 {
		return fmt.Errorf("one thing rides along one chain, not %d along %d; build it anew", len(m.Joints)+len(m.Homes), len(m.Takes))
	}
	line, ok := b.CurveThrough(m.Takes[0])
	if !ok {
		return fmt.Errorf("%s is of no chain along a curve that is built before this and is on; choose another, or switch that on", b.Document.NameOf(m.Takes[0]))
	}
	r := &rider{curve: line, ends: b.Settings.Choice("ends"), home: b.Settings.Number("home")}
	reads := []mechanism.Resource{{Kind: mechanism.CurveOf, Index: line}}
	for _, number := range []struct {
		key string
		to  *mechanism.Number
	}{{"at", &r.at}, {"way", &r.way}, {"turn", &r.turn}} {
		value, more := b.Number(number.key)
		*number.to = value
		reads = append(reads, more...)
	}
	r.opposed = b.Finding(fmt.Sprintf("%s turns in part with a curve that is half turned round there; it may turn the other way.", m.Name))
	r.sharp = b.Finding(fmt.Sprintf("%s rides through a bend so sharp that it turns at once; open the bend, or lead it another way.", m.Name))
	raises := []int{r.opposed, r.sharp}
	if r.ends == round {
		r.jumps = b.Finding(fmt.Sprintf("%s is at an end of its curve, where it goes round with a jump to the other; lead it back, or have it stop there.", m.Name))
		raises = append(raises, r.jumps)
	}
	if len(m.Homes) > 0 {
		return r.onHome(b, reads, raises)
	}
	joint, _ := b.Joint(m.Joints[0])
	r.rest = b.Rest(joint)
	below, more := b.Below(joint)
	b.Add(mechanism.Task{
		Reads: append(reads, more...), Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: joint}}, Raises: raises,
		Calibrate: func(f *mechanism.Frame) {
			r.keep(f)
			f.Joints[joint], f.Scales[joint] = r.rest, mgl64.Vec3{1, 1, 1}
		},
		Run: func(f *mechanism.Frame) {
			at, girth := below.In(f)
			f.Joints[joint], f.Scales[joint] = r.pose(f, at), girth
		},
	})
	return nil
}

// onHome takes the home of a control along, as much as the influence says.
func (r *rider) onHome(b *mechanism.Bench, reads []mechanism.Resource, raises []int) error {
	control, ok := b.Control(b.Mechanism.Homes[0])
	if !ok {
		return fmt.Errorf("there is no control %q", b.Mechanism.Homes[0])
	}
	r.rest = b.Document.Controls[control].Home()
	influence, more := b.InfluenceOf()
	kept := false // homes are placed once at rest, when the plan is made
	b.CarryHome(control, mechanism.HomeWriter{
		Reads: append(reads, more...), Raises: raises,
		Place: func(f *mechanism.Frame, home geometry.Transform) geometry.Transform {
			if !kept {
				r.keep(f)
				kept = true
				return home
			}
			share := influence.At(f)
			to := r.pose(f, home)
			if share > 0 && share < 1 && geometry.Opposed(home.Rotation, to.Rotation) {
				f.Findings[r.opposed] = true
			}
			return geometry.Mix(home, to, share)
		},
	})
	return nil
}

// rider is what rides, made ready.
type rider struct {
	curve         int
	at, way, turn mechanism.Number
	home          float64 // the share of the way at which it stands at rest
	ends          string
	rest          geometry.Transform
	kept          geometry.Transform // where it stands at rest, as the curve has it there
	jumps         int                // findings
	opposed       int
	sharp         int
}

// keep measures how what rides stands on the curve at rest.
func (r *rider) keep(f *mechanism.Frame) {
	ruler := f.Curves[r.curve].Ruler
	r.kept = frameAt(ruler, ruler.Locate(r.home*ruler.Total())).Inverse().Then(r.rest)
}

func frameAt(ruler *curve.Ruler, u float64) geometry.Transform {
	place, frame := ruler.FrameAt(u)
	return geometry.Transform{Position: place, Rotation: frame.Rotation(0)}
}

// atEnd is how near to an end of the curve what goes round is told of, as a share of the curve.
const atEnd = 1e-3

// on is the frame of the curve where it rides.
func (r *rider) on(f *mechanism.Frame) geometry.Transform {
	ruler := f.Curves[r.curve].Ruler
	total := ruler.Total()
	gone := r.at.At(f)*total + r.way.At(f)
	if r.ends == round && total > 0 {
		turns := gone / total
		into := turns - math.Floor(turns)
		f.Findings[r.jumps] = math.Min(into, 1-into) < atEnd
		gone = into * total
	}
	u := ruler.Locate(math.Max(0, math.Min(total, gone)))
	f.Findings[r.sharp] = ruler.Sharp(u)
	return frameAt(ruler, u)
}

// pose is where it rides, from where it would be.
func (r *rider) pose(f *mechanism.Frame, at geometry.Transform) geometry.Transform {
	to := r.on(f).Then(r.kept)
	turn := r.turn.At(f)
	f.Findings[r.opposed] = turn > 0 && turn < 1 && geometry.Opposed(at.Rotation, to.Rotation)
	to.Rotation = geometry.Slerp(at.Rotation, to.Rotation, turn).Normalize()
	return to
}
