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

	soft, stretch, longest, volume, pin mechanism.Driven
	least, most                         mechanism.Driven // of the bend at rest
	swings                              mechanism.Driven // degrees to either side
	short, folded, inLine               int              // findings

	bends    *bends
	unbent   []mgl64.Quat // by bone: undoes how it is turned at rest
	line     mgl64.Vec3   // from root to tip at rest
	side     mgl64.Vec3   // where it bends at rest, at right angles to that
	distance float64      // from root to tip at rest
	roll     float64      // from the pole to there, about the line
	axis     mgl64.Vec3   // of the hinge at rest
	arm      mgl64.Vec3   // the bone of the hinge at rest

	swung  mgl64.Quat   // scratch: how far the hinge has swung
	about  mgl64.Vec3   // scratch: where it stands
	placed []mgl64.Vec3 // scratch
	turned []mgl64.Quat
	longer []float64
}

// Near the pole's own line, as a share of its distance, the pole says less and less which way the limb bends, and on it nothing: the
// body does. nearLine is where that begins to be told of at rest, offLine where the pole says it all.
const (
	nearLine = 1e-3
	offLine  = 0.1
)

// run places the joints.
func (l *limb) run(f *mechanism.Frame) {
	carried := mgl64.QuatIdent() // how what it hangs on is turned against rest
	root := l.rest[0]
	if l.hung {
		at := f.At(l.carrier)
		root, carried = at.Then(l.local), at.Rotation.Mul(l.carrierRest.Conjugate())
	}
	target := f.Goals[l.goal]
	tip := target.Then(l.targetRest.Inverse()).Then(l.rest[len(l.rest)-1])
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
	l.write(f, tip)
}

// swing turns the hinge about the body's upright axis to where the tip lies in the limb's plane, and returns how the limb is carried then.
func (l *limb) swing(f *mechanism.Frame, root, tip mgl64.Vec3, carried mgl64.Quat) mgl64.Quat {
	axis := carried.Rotate(l.axis)
	was := carried.Rotate(l.rest[len(l.rest)-1].Position.Sub(l.rest[0].Position))
	flatten := func(v mgl64.Vec3) mgl64.Vec3 { return v.Sub(axis.Mul(v.Dot(axis))) }
	before, now := flatten(was), flatten(tip.Sub(root))
	if before.Len() <= 1e-9*l.bends.reach || now.Len() <= 1e-9*l.bends.reach {
		return carried // on its axis the hinge stays
	}
	most := l.swings.At(f) * math.Pi / 180
	angle := math.Max(-most, math.Min(most, geometry.SignedAngle(before.Normalize(), now.Normalize(), axis)))
	l.swung = mgl64.QuatRotate(angle, axis)
	return l.swung.Mul(carried).Normalize()
}

// poleAt is where the pole stands for the limb: a hinge swings it along.
func (l *limb) poleAt(f *mechanism.Frame) mgl64.Vec3 {
	return l.about.Add(l.swung.Rotate(f.Controls[l.pole].Position.Sub(l.about)))
}

// reachFor bends the limb and aims it at the tip's place.
func (l *limb) reachFor(f *mechanism.Frame, root, tip mgl64.Vec3, carried mgl64.Quat) {
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
	aim := geometry.FromAxes(line, l.sideAt(f, root, line, carried)).Mul(geometry.FromAxes(now, side).Conjugate()).Normalize()
	from := l.first()
	for i := range b.bones {
		l.turned[from+i] = aim.Mul(b.turns[i]).Mul(l.unbent[i]).Normalize()
		l.placed[from+i+1] = root.Add(aim.Rotate(b.places[i+1]).Mul(longer))
		l.longer[from+i] = longer
	}
	l.turned[len(l.turned)-1], l.longer[len(l.longer)-1] = l.turned[len(l.turned)-2], 1
	length := b.tip().Len() * longer
	f.Findings[l.short] = asked > length*(1+1e-6) && (asked > b.reach*(1+1e-9) || length < wanted*(1-1e-6))
	f.Findings[l.folded] = asked < length*(1-1e-6)
}

// eased is how long the limb becomes for a distance: within its last share ever slower, so that it never snaps straight. At rest, and
// nearer, nothing eases.
func (l *limb) eased(f *mechanism.Frame, asked float64) float64 {
	reach := l.bends.reach
	begin := math.Max((1-l.soft.At(f))*reach, l.distance)
	room := reach - begin
	if asked <= begin || room <= 1e-12*reach {
		return math.Min(asked, reach)
	}
	return begin + room*-math.Expm1(-(asked-begin)/room)
}

// stretched is how many times its length the limb becomes, to come to the target in spite of its reach and of easing.
func (l *limb) stretched(f *mechanism.Frame, asked, wanted float64) float64 {
	stretch := l.stretch.At(f)
	if stretch == 0 || wanted <= 0 || asked <= wanted {
		return 1
	}
	return math.Min(l.longest.At(f), 1+stretch*(asked/wanted-1))
}

// sideAt is where the limb is to bend, at right angles to its line: where the pole stands, or, without one and in its own line, as the body
// carries it: the least turn that takes the line from where it is carried to where it is takes the side along.
func (l *limb) sideAt(f *mechanism.Frame, root, line mgl64.Vec3, carried mgl64.Quat) mgl64.Vec3 {
	was, side := carried.Rotate(l.line), carried.Rotate(l.side)
	bodily := geometry.Across(geometry.Shortest(was, line, side).Rotate(side), line)
	f.Findings[l.inLine] = false
	if l.pole < 0 {
		return bodily
	}
	aside := l.poleAt(f).Sub(root)
	across := aside.Sub(line.Mul(aside.Dot(line)))
	share := across.Len() / math.Max(aside.Len(), 1e-300)
	f.Findings[l.inLine] = share < nearLine
	if share < 1e-12 {
		return bodily
	}
	told := mgl64.QuatRotate(l.roll, line).Rotate(across.Normalize())
	if share >= offLine {
		return told
	}
	angle := geometry.SignedAngle(bodily, geometry.Across(told, line), line)
	return mgl64.QuatRotate(angle*geometry.Smoothstep(share/offLine), line).Rotate(bodily)
}

// pinKnee draws the joint that stands out furthest to the pole, as much as asked: the bones before it and those after it turn and
// stretch for it.
func (l *limb) pinKnee(f *mechanism.Frame, from int) {
	pin := l.pin.At(f)
	if pin == 0 || l.pole < 0 {
		return
	}
	root, tip := l.placed[from], l.placed[len(l.placed)-1]
	line := geometry.Unit(tip.Sub(root), l.line)
	knee, furthest := from+1, -1.0
	for i := from + 1; i < len(l.placed)-1; i++ {
		aside := l.placed[i].Sub(root)
		if out := aside.Sub(line.Mul(aside.Dot(line))).Len(); out > furthest {
			knee, furthest = i, out
		}
	}
	was := l.placed[knee]
	to := was.Add(l.poleAt(f).Sub(was).Mul(pin))
	l.redraw(from, knee, stretchOf{root, was}, stretchOf{root, to})
	l.redraw(knee, len(l.placed)-1, stretchOf{was, tip}, stretchOf{to, tip})
}

// stretchOf is where a stretch of the limb begins and ends.
type stretchOf struct{ from, to mgl64.Vec3 }

// redraw takes the bones of a stretch of the limb from where it was to where it is to be: turned by the least turn, and longer alike.
func (l *limb) redraw(first, last int, was, now stretchOf) {
	before, after := was.to.Sub(was.from), now.to.Sub(now.from)
	direction := geometry.Unit(before, l.line)
	turn := geometry.Shortest(direction, geometry.Unit(after, direction), geometry.Across(l.side, direction))
	longer := 1.0
	if length := before.Len(); length > 1e-9*l.bends.reach && length > 0 {
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
func (l *limb) write(f *mechanism.Frame, tip geometry.Transform) {
	last := len(l.joints) - 1
	volume := l.volume.At(f)
	for i, joint := range l.joints {
		f.Joints[joint] = geometry.Transform{Position: l.placed[i], Rotation: l.turned[i].Mul(l.rest[i].Rotation).Normalize()}
		thin := 1.0
		if i < last && l.longer[i] != 1 {
			thin = girth(math.Max(l.longer[i], 1e-3), volume)
		}
		f.Scales[joint] = mgl64.Vec3{thin, 1, thin}
	}
	switch {
	case l.tip == asTarget:
		f.Joints[l.joints[last]].Rotation = tip.Rotation
	case l.tip == asGround && l.ground >= 0:
		f.Joints[l.joints[last]].Rotation = f.Controls[l.ground].Rotation.Mul(l.groundRest.Conjugate()).Mul(l.rest[last].Rotation).Normalize()
	default: // with the last bone
		f.Joints[l.joints[last]].Rotation = l.turned[last-1].Mul(l.rest[last].Rotation).Normalize()
	}
}
