package foot

import (
	"errors"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// sole is a foot prepared for evaluation. Its frame lies on the ground under the ankle, its third axis ahead.
type sole struct {
	goal        int
	slots       map[rig.Channel]int
	influence   mechanism.Number
	local       geometry.Transform // of the sole's frame, as the limb's target sees it at rest
	hand        float64            // -1 in a mirror
	bend        float64            // radians
	heel, tip   mgl64.Vec3
	left, right mgl64.Vec3
	ball        mgl64.Vec3
	toed        bool // it has a ball that bends

	ankle, toes int                           // joints
	toesLocal   geometry.Transform            // of the ball, against the ankle
	toesKept    mgl64.Quat                    // how the ball is turned, as the sole has it at rest
	planted     mechanism.Scratch[mgl64.Quat] // how the sole is turned without the bend at its ball, as seen from the goal
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	host := b.Document.Mechanism(b.Mechanism.Host)
	goal, ok := b.GoalOf(b.Mechanism.Host)
	if !ok { // the limb is off
		return nil
	}
	target, ok := b.Control(host.Controls[0])
	if !ok {
		return errors.New("the limb has lost its target; build the limb anew")
	}
	control := b.Document.Controls[target]
	number := b.Settings.Number
	s := &sole{goal: goal, slots: map[rig.Channel]int{}, hand: control.Hand(), bend: number("bend") * math.Pi / 180}
	s.planted = mechanism.ScratchOf(b, func() *mgl64.Quat { q := mgl64.QuatIdent(); return &q })
	var dialReads []mechanism.Resource
	for _, dial := range dials {
		if slot, read, ok := b.ChannelOf(target, dial.Name); ok {
			s.slots[dial.Name] = slot
			dialReads = append(dialReads, read)
		}
	}
	s.ankle, _ = b.Joint(host.Joints[len(host.Joints)-1])
	ankle := b.Rest(s.ankle)
	s.local = geometry.Transform{
		Position: mgl64.Vec3{0, -number("drop"), 0}, Rotation: mgl64.QuatRotate(number("heading")*math.Pi/180*s.hand, geometry.Up),
	}
	s.heel, s.tip = mgl64.Vec3{0, 0, -number("behind")}, mgl64.Vec3{0, 0, number("ahead")}
	s.left, s.right = mgl64.Vec3{number("left") * s.hand, 0, 0}, mgl64.Vec3{-number("right") * s.hand, 0, 0}
	rest := control.Home().Then(s.local)
	influence, reads := b.InfluenceOf()
	s.influence = influence
	goalOf := mechanism.Resource{Kind: mechanism.GoalOf, Index: goal}
	reads = append(append(dialReads, reads...), goalOf)
	b.AddWhole(mechanism.Task{Run: s.roll, Reads: reads, Writes: []mechanism.Resource{goalOf}})
	if len(b.Mechanism.Joints) == 0 {
		return nil
	}
	if s.toes, ok = b.Joint(b.Mechanism.Joints[0]); !ok {
		return errors.New("the foot has lost its ball; build it anew")
	}
	toes := b.Rest(s.toes)
	s.toed, s.ball = true, rest.Inverse().Apply(toes.Position)
	s.toesLocal, s.toesKept = ankle.Inverse().Then(toes), rest.Rotation.Conjugate().Mul(toes.Rotation)
	b.AddWhole(mechanism.Task{
		Run: s.plant, Reads: []mechanism.Resource{{Kind: mechanism.Joint, Index: s.ankle}, goalOf},
		Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: s.toes}},
	})
	return nil
}

// dial reads one of the foot's dials, in radians.
func (s *sole) dial(f *mechanism.Frame, name rig.Channel) float64 {
	slot, ok := s.slots[name]
	if !ok {
		return 0
	}
	return f.Values[slot] * math.Pi / 180 * s.influence.At(f)
}

// about turns about an axis through a place.
func about(place, axis mgl64.Vec3, angle float64) geometry.Transform {
	turn := mgl64.QuatRotate(angle, axis)
	return geometry.Transform{Position: place.Sub(turn.Rotate(place)), Rotation: turn}
}

// roll takes the goal along over heel, tip, sides and ball, one after the other, the ball innermost.
func (s *sole) roll(f *mechanism.Frame) {
	over := s.dial(f, roll)
	overHeel, overBall, overTip := s.dial(f, heel), s.dial(f, ball), s.dial(f, tip)
	switch {
	case over < 0:
		overHeel += over
	case s.toed:
		overBall += math.Min(over, s.bend)
		overTip += math.Max(0, over-s.bend)
	default:
		overTip += over
	}
	lean := s.dial(f, side)
	edge := s.right
	if lean < 0 {
		edge = s.left
	}
	across, ahead := mgl64.Vec3{1, 0, 0}, mgl64.Vec3{0, 0, 1}
	foot := about(s.heel, across, overHeel).Then(about(s.tip, across, overTip)).Then(about(edge, ahead, lean*s.hand))
	goal := &f.Goals[s.goal].At
	ground := goal.Then(s.local)
	flat := ground.Rotation.Mul(foot.Rotation)
	foot = foot.Then(about(s.ball, across, overBall))
	*goal = ground.Then(foot).Then(s.local.Inverse())
	*s.planted.In(f) = goal.Rotation.Conjugate().Mul(flat)
}

// plant keeps the toes as the sole has them, while the ankle turns over the ball. The goal is as others have it after the roll: a gait may have
// taken it elsewhere.
func (s *sole) plant(f *mechanism.Frame) {
	at := f.Joints[s.ankle].Then(s.toesLocal)
	at.Rotation = f.Goals[s.goal].At.Rotation.Mul(*s.planted.In(f)).Mul(s.toesKept).Normalize()
	f.Joints[s.toes] = at
	f.Scales[s.toes] = mgl64.Vec3{1, 1, 1}
}
