// Package squashbox puts parts in a lattice that three handles squash, stretch, bend and twist.
package squashbox

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "squash-box"

// Kind is the squash box.
type Kind struct{}

const (
	upright, across, ahead = "upright", "across", "ahead"
	smooth, linear         = "smooth", "linear"
	before, after          = "before the skin", "after the skin"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Squash box", Stand: mechanism.OnPicks, Hosts: []string{},
		Summary: "A box around parts, with handles at its base, middle and top: it squashes, stretches, bends and twists what is in it.",
		Sketch:  "M20 22L16 4h28l-4 18zM18 13h24",
		Roles: []mechanism.Role{
			{Name: "parts", Title: "Parts", Help: "What is in the box.", Does: mechanism.DrawsFrom, Parts: true, Least: 1},
			mechanism.HandleRole("handles", "Handles", 3, 3),
		},
		Options: parameter.Declared{
			{Key: "axis", Title: "Along", Type: parameter.Choice, Choices: []string{upright, across, ahead}, Default: parameter.OfChoice(upright), Help: "Which way the box stands."},
		},
		Parameters: parameter.Declared{
			{Key: "volume", Title: "Keep volume", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true, Help: "How much wider it grows where it is squashed, and thinner where it is stretched: all of it keeps the volume."},
			{Key: "taper", Title: "Taper", Type: parameter.Number, Min: -0.9, Max: 4, Default: parameter.OfNumber(0), Dial: true, Help: "How much wider the top is than at rest; the base stays."},
			{Key: "points", Title: "Points along it", Type: parameter.Number, Whole: true, Min: 2, Max: 9, Default: parameter.OfNumber(5), Help: "How many sections the lattice has from base to top."},
			{Key: "within", Title: "Between sections", Type: parameter.Choice, Choices: []string{smooth, linear}, Default: parameter.OfChoice(smooth), Help: "How what lies between sections follows them."},
			{Key: "when", Title: "Works", Type: parameter.Choice, Choices: []string{before, after}, Default: parameter.OfChoice(before), Help: "On the part at rest, for the skin to carry, or on the part as its skin has it."},
			mechanism.Influence(),
		},
	}
}

// flat is the share of a box's size under which it counts as having no height.
const flat = 1e-6

// Build implements mechanism.Kind: three handles along the box around the parts.
func (Kind) Build(site *mechanism.Site) error {
	box := site.Box(site.Mechanism.Parts)
	if box.Empty() || !(box.Size() > 0) {
		return errors.New("the parts have no vertices, or all in one place; choose others")
	}
	k := map[string]int{across: 0, upright: 1, ahead: 2}[site.Options.Choice("axis")]
	height := box.Max[k] - box.Min[k]
	if !(height > flat*box.Size()) {
		return fmt.Errorf("the parts are flat that way, and a box of no height squashes nothing; put it another way than %s", site.Options.Choice("axis"))
	}
	way := mgl64.Vec3{}
	way[k] = 1
	turn := geometry.Shortest(geometry.MainAxis, way, mgl64.Vec3{1, 0, 0})
	middle := box.Min.Add(box.Max).Mul(0.5)
	outline := around(box, k, turn)
	space := site.Root()
	for i, name := range []string{"base", "middle", "top"} {
		at := middle
		at[k] = box.Min[k] + height*float64(i)/2
		id := site.Handle(site.Mechanism.Name+"_"+name, space, geometry.Transform{Position: at, Rotation: turn}, rig.Square, outline)
		site.Mechanism.Controls = append(site.Mechanism.Controls, id)
	}
	handles := site.Mechanism.Controls
	halfway := site.Document.Control(handles[1]) // it goes along with both ends, and bends the box when it is taken aside
	halfway.Space, halfway.Spaces = handles[0], []string{handles[2]}
	halfway.Dials = []rig.Dial{{Name: rig.SpaceDial, Max: 1, Default: 0.5}}
	return nil
}

// standOff is how much wider than the box its handles are drawn, and slim the least that they are wide, in shares of its height.
const (
	standOff = 1.12
	slim     = 0.1
)

// around is the outline of a handle: the box as seen along its axis, in the handle's frame.
func around(box mesh.Bounds, along int, turn mgl64.Quat) (outline []mgl64.Vec3) {
	half := box.Max.Sub(box.Min).Mul(standOff / 2)
	i, j := (along+1)%3, (along+2)%3
	for _, corner := range [4][2]float64{{1, 1}, {-1, 1}, {-1, -1}, {1, -1}} {
		p := mgl64.Vec3{}
		p[i] = corner[0] * math.Max(half[i], slim*half[along])
		p[j] = corner[1] * math.Max(half[j], slim*half[along])
		outline = append(outline, turn.Conjugate().Rotate(p))
	}
	return outline
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	if len(controls) != 3 {
		return fmt.Errorf("a squash box has three handles, not %d; build it anew", len(controls))
	}
	x := &box{points: int(b.Settings.Number("points")), linear: b.Settings.Choice("within") == linear, after: b.Settings.Choice("when") == after}
	for i, control := range controls {
		x.handles[i], x.rest[i] = control, b.Document.Controls[control].Home()
	}
	along := x.rest[2].Position.Sub(x.rest[0].Position)
	if x.height = along.Len(); !(x.height > 0) {
		return errors.New("its base and its top stand in one place; move one of their homes")
	}
	x.way = along.Mul(1 / x.height)
	x.carrier, x.carried = b.Control(b.Document.Controls[controls[0]].Space)
	if x.carried {
		x.home = b.Document.Controls[x.carrier].Home()
	}
	x.volume, _ = b.Number("volume")
	x.taper, _ = b.Number("taper")
	x.influence, _ = b.InfluenceOf()
	x.sections = mechanism.ScratchOf(b, func() *[]section { return &[]section{} })
	for _, part := range b.Mechanism.Parts {
		when := mechanism.BeforeSkin
		if x.after {
			when = mechanism.AfterSkin
		}
		if err := b.ShapePart(part, when, x.shape); err != nil {
			return err
		}
	}
	return nil
}

// box is a squash box made ready. It works in the space that its handles hang on, as that stands at rest.
type box struct {
	handles [3]int
	rest    [3]geometry.Transform
	way     mgl64.Vec3 // from the base to the top, at rest
	height  float64
	points  int
	linear  bool
	after   bool

	carrier int // the control that carries the handles
	carried bool
	home    geometry.Transform // of that

	volume, taper, influence mechanism.Number
	sections                 mechanism.Scratch[[]section]
}

// rounding is how little a section may be off, in shares of the box's height and in radians, to be where it is at rest: so much comes of reckoning there and back.
const rounding = 1e-12

// section is one section of the lattice: where its middle is, and how it is turned and widened.
type section struct {
	middle mgl64.Vec3
	turn   mgl64.Quat
	wide   float64
}

// mostWide bounds by how much a section is widened, and thinned.
const mostWide = 4

// now works the sections out in a frame.
//
// Method: a free-form deformation (Sederberg, Parry 1986, Free-Form Deformation of Solid Geometric Models), whose sections stand on the parabola through the three handles and turn as
// these do: by their swings, and by their twists with whole turns.
func (x *box) now(f *mechanism.Frame, carried geometry.Transform) []section {
	list := x.sections.In(f)
	if cap(*list) < x.points {
		*list = make([]section, x.points)
	}
	sections := (*list)[:x.points]
	back := carried.Inverse()
	var at [3]mgl64.Vec3
	var swings [3]mgl64.Quat
	var twists [3]float64
	for i, handle := range x.handles {
		now := back.Then(f.Controls[handle])
		motion := now.Rotation.Mul(x.rest[i].Rotation.Inverse()).Normalize()
		at[i], twists[i] = now.Position, now.Turned-x.rest[i].Turned
		swings[i] = motion.Mul(mgl64.QuatRotate(-twists[i], x.way)).Normalize()
	}
	volume, taper := x.volume.At(f), x.taper.At(f)
	for i := range sections {
		u := float64(i) / float64(x.points-1)
		low, middle, high := (2*u-1)*(u-1), 4*u*(1-u), u*(2*u-1)
		pace := at[0].Mul(4*u - 3).Add(at[1].Mul(4 - 8*u)).Add(at[2].Mul(4*u - 1)).Len()
		from, share := 0, 2*u
		if u > 0.5 {
			from, share = 1, 2*u-1
		}
		twist := twists[from] + (twists[from+1]-twists[from])*share
		thin := math.Max(1.0/mostWide/mostWide, pace/x.height)
		sections[i] = section{
			middle: at[0].Mul(low).Add(at[1].Mul(middle)).Add(at[2].Mul(high)),
			turn:   geometry.Slerp(swings[from], swings[from+1], share).Mul(mgl64.QuatRotate(twist, x.way)).Normalize(),
			wide:   math.Min(mostWide, math.Pow(thin, -volume/2)) * (1 + taper*u),
		}
	}
	return sections
}

// shape moves the vertices of a part with the lattice.
func (x *box) shape(f *mechanism.Frame, s mechanism.Surface) {
	influence := x.influence.At(f)
	if influence == 0 {
		return
	}
	carried := geometry.Identity()
	if x.carried {
		carried = f.Controls[x.carrier].Then(x.home.Inverse())
	}
	sections := x.now(f, carried)
	seen := geometry.Identity() // a part before its skin stands as at rest
	if x.after {
		seen = carried
	}
	back := seen.Inverse()
	for i := 0; i+2 < len(s.Positions); i += 3 {
		p := vector(s.Positions, i)
		if x.after {
			p = f.Unscaled(p)
		}
		at := back.Apply(p)
		moved, slopes := x.at(sections, at)
		if moved == at && slopes == (mgl64.Mat3{1, 0, 0, 0, 1, 0, 0, 0, 1}) {
			continue
		}
		moved = at.Add(moved.Sub(at).Mul(influence))
		to := seen.Apply(moved)
		if x.after {
			to = f.Scaled(to)
		}
		put(s.Positions, i, to)
		if i+2 < len(s.Normals) {
			turned := geometry.Cofactor(slopes).Mul3x1(back.Rotation.Rotate(vector(s.Normals, i)))
			turned = seen.Rotation.Rotate(geometry.Unit(turned, back.Rotation.Rotate(vector(s.Normals, i))))
			put(s.Normals, i, geometry.Unit(vector(s.Normals, i).Mul(1-influence).Add(turned.Mul(influence)), turned))
		}
	}
}

func vector(list []float32, i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[i]), float64(list[i+1]), float64(list[i+2])}
}

func put(list []float32, i int, v mgl64.Vec3) {
	list[i], list[i+1], list[i+2] = float32(v[0]), float32(v[1]), float32(v[2])
}

// at is where the lattice takes a place, and how it turns and stretches what is around it. What lies beyond the ends goes with them.
func (x *box) at(sections []section, p mgl64.Vec3) (to mgl64.Vec3, slopes mgl64.Mat3) {
	off := p.Sub(x.rest[0].Position)
	along := off.Dot(x.way)
	inside := math.Max(0, math.Min(x.height, along))
	lateral := off.Sub(x.way.Mul(along))
	beyond := x.way.Mul(along - inside)
	u := inside / x.height
	step := mgl64.Vec3{} // of the result, along the box
	still := true
	for i := range sections {
		weight, slope := x.weight(i, u)
		if weight == 0 && slope == 0 {
			continue
		}
		s := &sections[i]
		if s.turn.V.Len() < rounding && math.Abs(s.wide-1) < rounding && s.middle.Sub(x.restOf(i)).Len() < rounding*x.height {
			to = to.Add(lateral.Add(beyond).Add(x.restOf(i).Sub(p)).Mul(weight))
			step = step.Add(x.restOf(i).Add(lateral).Mul(slope / x.height))
			slopes = slopes.Add(mgl64.Ident3().Mul(weight))
			continue
		}
		still = false
		turned := s.turn.Rotate(lateral.Mul(s.wide).Add(beyond))
		to = to.Add(s.middle.Add(turned).Sub(p).Mul(weight))
		step = step.Add(s.middle.Add(s.turn.Rotate(lateral.Mul(s.wide))).Mul(slope / x.height))
		slopes = slopes.Add(s.turn.Mat4().Mat3().Mul(s.wide * weight))
	}
	if still {
		return p, mgl64.Ident3()
	}
	if along == inside { // across the box as the sections have it, along it as they follow each other
		lacks := step.Sub(slopes.Mul3x1(x.way))
		for k := range 3 {
			slopes.SetCol(k, slopes.Col(k).Add(lacks.Mul(x.way[k])))
		}
	}
	return p.Add(to), slopes
}

// restOf is where the middle of a section is at rest.
func (x *box) restOf(i int) mgl64.Vec3 {
	return x.rest[0].Position.Add(x.way.Mul(x.height * float64(i) / float64(x.points-1)))
}

// weight is how much of a section counts at a share of the height, and how fast that changes: Bernstein polynomials, or straight between two.
func (x *box) weight(i int, u float64) (weight, slope float64) {
	n := x.points - 1
	if x.linear {
		at := u * float64(n)
		if d := math.Abs(at - float64(i)); d < 1 {
			return 1 - d, math.Copysign(float64(n), float64(i)-at)
		}
		return 0, 0
	}
	return bernstein(n, i, u), float64(n) * (bernstein(n-1, i-1, u) - bernstein(n-1, i, u))
}

func bernstein(n, i int, u float64) float64 {
	if i < 0 || i > n {
		return 0
	}
	value := 1.0
	for k := 1; k <= i; k++ {
		value *= float64(n-i+k) / float64(k) * u
	}
	for range n - i {
		value *= 1 - u
	}
	return value
}
