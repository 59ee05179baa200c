package limb

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// limb is a limb prepared for evaluation.
type limb struct {
	joints      []int
	rest        []geometry.Transform
	goal, pole  int // pole is a control, -1 for none
	ground      int // the global control, -1 for none
	tip         string
	hinge       bool
	carrier     mechanism.Resource
	hung        bool
	local       geometry.Transform // of the first joint, against what it hangs on
	carrierRest mgl64.Quat
	targetRest  geometry.Transform
	poleRest    mgl64.Vec3
	groundRest  mgl64.Quat

	soft, stretch, longest, volume, pin mechanism.Number
	least, most                         mechanism.Number // of the bend at rest
	swings                              mechanism.Number // degrees to either side

	short, folded, inLine, against, behind, slides int // findings

	bends    *bends
	unbent   []mgl64.Quat // by bone: undoes how it is turned at rest
	line     mgl64.Vec3   // from root to tip at rest
	side     mgl64.Vec3   // where it bends at rest, at right angles to that
	distance float64      // from root to tip at rest
	roll     float64      // from the pole to there, about the line
	axis     mgl64.Vec3   // of the hinge at rest
	arm      mgl64.Vec3   // the bone of the hinge at rest
	knee     int          // the joint that stands out furthest at rest

	reaching mechanism.Scratch[reaching]
}

// reaching is a limb in one frame.
type reaching struct {
	*limb
	bends  *bends
	swung  mgl64.Quat // how far the hinge has swung
	facing mgl64.Vec3 // where the limb bends
	across mgl64.Vec3 // what it bends about
	about  mgl64.Vec3 // where it stands
	placed []mgl64.Vec3
	turned []mgl64.Quat
	longer []float64
}

func (l *limb) fresh() *reaching {
	n := len(l.rest)
	return &reaching{limb: l, bends: l.bends.fresh(), placed: make([]mgl64.Vec3, n), turned: make([]mgl64.Quat, n), longer: make([]float64, n)}
}

// run places the joints.
func (l *reaching) run(f *mechanism.Frame) {
	carried := mgl64.QuatIdent() // how what it hangs on is turned against rest
	root := l.rest[0]
	if l.hung {
		at := f.At(l.carrier)
		root, carried = at.Then(l.local), at.Rotation.Mul(l.carrierRest.Conjugate())
	}
	tip := f.Goals[l.goal].At.Then(l.targetRest.Inverse()).Then(l.rest[len(l.rest)-1])
	from := l.first()
	l.swung, l.about = mgl64.QuatIdent(), root.Position
	l.placed[0], l.turned[0], l.longer[0] = root.Position, carried, 1
	if l.hinge {
		carried = l.swing(f, root.Position, tip.Position, carried)
		l.turned[0] = carried
		l.placed[1] = root.Position.Add(carried.Rotate(l.arm))
	}
	l.reachFor(f, l.placed[from], tip.Position, carried)
	l.pinKnee(f, from)
	l.write(f, root.Turned, tip)
}

// swing turns the hinge about the body's upright axis to where the tip lies in the limb's plane, and returns how the limb is carried then.
func (l *reaching) swing(f *mechanism.Frame, root, tip mgl64.Vec3, carried mgl64.Quat) mgl64.Quat {
	axis := carried.Rotate(l.axis)
	was := carried.Rotate(l.rest[len(l.rest)-1].Position.Sub(l.rest[0].Position))
	flatten := func(v mgl64.Vec3) mgl64.Vec3 { return v.Sub(axis.Mul(v.Dot(axis))) }
	before, now := flatten(was), flatten(tip.Sub(root))
	size := before.Len()
	if size <= 1e-9*l.bends.reach {
		return carried // it reaches along its axis, about which there is nothing to swing
	}
	ahead := before.Mul(1 / size)
	now = geometry.Beside(now.Mul(1/size), ahead, axis)
	most := l.swings.At(f) * math.Pi / 180
	angle := geometry.SignedAngle(ahead, geometry.Unit(now, ahead), axis)
	f.Findings[l.behind] = most < math.Pi && math.Abs(angle) > geometry.StraightBehind
	l.swung = mgl64.QuatRotate(math.Max(-most, math.Min(most, angle)), axis)
	return l.swung.Mul(carried).Normalize()
}

// poleAt is where the pole stands for the limb: a hinge swings it along.
func (l *reaching) poleAt(f *mechanism.Frame) mgl64.Vec3 {
	return l.about.Add(l.swung.Rotate(f.Controls[l.pole].Position.Sub(l.about)))
}

// reachFor bends the limb and aims it at the tip's place.
func (l *reaching) reachFor(f *mechanism.Frame, root, tip mgl64.Vec3, carried mgl64.Quat) {
	b := l.bends
	away := tip.Sub(root)
	asked := away.Len()
	line := geometry.Unit(away, carried.Rotate(l.line))
	if asked <= 1e-12*b.reach {
		line = carried.Rotate(l.line)
	}
	wanted := l.eased(f, asked)
	longer := l.stretched(f, asked, wanted)
	by := b.to(wanted)
	if b.rest > 0 {
		by = math.Max(b.rest*l.least.At(f), math.Min(b.rest*l.most.At(f), by))
	}
	side := b.side(by) // leaves another bend where there is none to be read
	b.bend(by)
	now := geometry.Unit(b.tip(), geometry.MainAxis)
	l.facing = l.sideAt(f, root, line, carried)
	l.across = line.Cross(l.facing)
	aim := geometry.FromAxes(line, l.facing).Mul(geometry.FromAxes(now, side).Conjugate()).Normalize()
	from := l.first()
	for i := range b.bones {
		l.turned[from+i] = aim.Mul(b.turns[i]).Mul(l.unbent[i]).Normalize()
		l.placed[from+i+1] = root.Add(aim.Rotate(b.places[i+1]).Mul(longer))
		l.longer[from+i] = longer
	}
	l.turned[len(l.turned)-1], l.longer[len(l.longer)-1] = l.turned[len(l.turned)-2], 1
	length := b.tip().Len() * longer
	f.Findings[l.short] = asked > length*(1+1e-6) && (asked > b.reach*(1+1e-9) || length < wanted*(1-1e-6))
	f.Findings[l.folded] = wanted < b.tip().Len()*(1-1e-6)
	f.Findings[l.slides] = f.Goals[l.goal].Stands && math.Abs(asked-length) > slip*b.reach
}

// slip is how far the tip may be off its target, as a share of the reach, before a foot that stands slides.
const slip = 1e-9

// leastSoft is the share of the reach within which the limb eases at least: a limb that came to be straight at full speed would have its knee go
// infinitely fast.
const leastSoft = 1e-4

// eased is how long the limb becomes for a distance: within its last share ever slower, so that it never snaps straight. At rest, and
// nearer, nothing eases. A limb that is about straight at rest comes out of that ever faster instead, until it is as long as asked.
func (l *reaching) eased(f *mechanism.Frame, asked float64) float64 {
	reach := l.bends.reach
	soft := math.Max(l.soft.At(f), leastSoft) * reach
	if room := reach - l.distance; room < leastSoft*reach {
		x := (l.distance - asked) / soft
		switch {
		case x >= 1:
			return asked
		case x >= 0:
			return l.distance - soft*x*x*(2-x)
		}
		return l.distance + room*-math.Expm1(x)
	}
	begin := math.Max(reach-soft, l.distance)
	if asked <= begin {
		return asked
	}
	room := reach - begin
	return begin + room*-math.Expm1(-(asked-begin)/room)
}

// stretched is how many times its length the limb becomes, to come to the target in spite of its reach and of easing.
func (l *reaching) stretched(f *mechanism.Frame, asked, wanted float64) float64 {
	stretch := l.stretch.At(f)
	if stretch == 0 || wanted <= 0 || asked <= wanted {
		return 1
	}
	return math.Min(l.longest.At(f), 1+stretch*(asked/wanted-1))
}

// sideAt is where the limb is to bend, at right angles to its line: where the pole stands, or, without one and near its own line, as the body
// has it.
func (l *reaching) sideAt(f *mechanism.Frame, root, line mgl64.Vec3, carried mgl64.Quat) mgl64.Vec3 {
	if l.pole < 0 {
		f.Findings[l.against] = carried.Rotate(l.line).Dot(line) < opposite
		return l.bodily(line, carried)
	}
	aside := l.poleAt(f).Sub(root)
	across := mgl64.Vec3{}
	if distance := aside.Len(); distance > 0 {
		across = aside.Sub(line.Mul(aside.Dot(line))).Mul(1 / distance)
	}
	near := across.Len()
	told := mgl64.QuatRotate(l.roll, line).Rotate(across)
	if near >= 2*geometry.NearAxis {
		return geometry.Across(told.Mul(1/near), line)
	}
	f.Findings[l.inLine] = near < geometry.NearAxis
	bodily := l.bodily(line, carried)
	return geometry.Across(geometry.Unit(geometry.Beside(told, bodily, line), bodily), line)
}

// bodily is where the limb is to bend as the body has it: the least turn that takes the line from where it is carried to where it is takes the
// side along.
func (l *reaching) bodily(line mgl64.Vec3, carried mgl64.Quat) mgl64.Vec3 {
	was, side := carried.Rotate(l.line), carried.Rotate(l.side)
	return geometry.Across(geometry.Shortest(was, line, side).Rotate(side), line)
}

// opposite is the cosine below which two directions count as opposite.
const opposite = -0.9999

// pinKnee draws the joint that stands out furthest at rest to the pole, as much as asked: the bones before it and those after it turn and
// stretch for it.
func (l *reaching) pinKnee(f *mechanism.Frame, from int) {
	pin := l.pin.At(f)
	if pin == 0 || l.pole < 0 {
		return
	}
	root, tip := l.placed[from], l.placed[len(l.placed)-1]
	was := l.placed[l.knee]
	to := was.Add(l.poleAt(f).Sub(was).Mul(pin))
	l.redraw(from, l.knee, stretchOf{root, was}, stretchOf{root, to})
	l.redraw(l.knee, len(l.placed)-1, stretchOf{was, tip}, stretchOf{to, tip})
}

// stretchOf is where a stretch of the limb begins and ends.
type stretchOf struct{ from, to mgl64.Vec3 }

// redraw takes the bones of a stretch of the limb from where it was to where it is to be: turned in the plane that the limb bends in, so that
// they can go right over, and longer alike.
func (l *reaching) redraw(first, last int, was, now stretchOf) {
	before, after := was.to.Sub(was.from), now.to.Sub(now.from)
	direction := geometry.Unit(before, l.facing)
	turn := geometry.FromAxes(geometry.Unit(after, direction), l.across).Mul(geometry.FromAxes(direction, l.across).Conjugate()).Normalize()
	longer := 1.0
	if length := before.Len(); length > 1e-9*l.bends.reach {
		longer = after.Len() / length
	}
	for i := first; i < last; i++ {
		if i > first {
			l.placed[i] = now.from.Add(turn.Rotate(l.placed[i].Sub(was.from)).Mul(longer))
		}
		l.turned[i] = turn.Mul(l.turned[i]).Normalize()
		l.longer[i] *= longer
	}
	l.placed[last] = now.to
}

// write hands the joints over.
func (l *reaching) write(f *mechanism.Frame, turned float64, tip geometry.Transform) {
	last := len(l.joints) - 1
	volume := l.volume.At(f)
	for i, joint := range l.joints {
		f.Joints[joint] = geometry.Transform{Position: l.placed[i], Rotation: l.turned[i].Mul(l.rest[i].Rotation).Normalize(), Turned: turned}
		thin := 1.0
		if i < last && l.longer[i] != 1 {
			thin = girth(math.Max(l.longer[i], 1e-3), volume)
		}
		f.Scales[joint] = mgl64.Vec3{thin, 1, thin}
	}
	switch {
	case l.tip == asTarget:
		f.Joints[l.joints[last]].Rotation, f.Joints[l.joints[last]].Turned = tip.Rotation, tip.Turned
	case l.tip == asGround && l.ground >= 0:
		f.Joints[l.joints[last]].Rotation = f.Controls[l.ground].Rotation.Mul(l.groundRest.Conjugate()).Mul(l.rest[last].Rotation).Normalize()
	default: // with the last bone
		f.Joints[l.joints[last]].Rotation = l.turned[last-1].Mul(l.rest[last].Rotation).Normalize()
	}
}
