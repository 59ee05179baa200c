package rig

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// The controls that the whole specimen hangs on: GlobalName moves and uniformly scales everything, RootName below it moves the body.
const (
	GlobalName = "global"
	RootName   = "root"
)

// Shape is what a control looks like on the stage.
type Shape string

// The shapes of controls.
const (
	Collar   Shape = "collar"   // the body's cross-section
	Crescent Shape = "crescent" // the half of a collar that lies behind, so that a face or mouth stays free
	Sole     Shape = "sole"     // the body's outline as seen from above, on the ground
	Pennant  Shape = "pennant"  // points where the creature faces
	Hoop     Shape = "hoop"
	Square   Shape = "square"
	Lozenge  Shape = "lozenge"
	Cross    Shape = "cross"
)

// Shapes lists the shapes of controls.
var Shapes = []Shape{Collar, Crescent, Sole, Pennant, Hoop, Square, Lozenge, Cross}

// Control is a handle. Home is its zero, in the world at rest; Space is the control or joint that the home hangs on, or the
// world when empty.
type Control struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Label string `json:"label,omitempty"`
	Space string `json:"space,omitempty"`
	// Spaces are what its home can hang on as well. The dial SpaceDial chooses: 0 for Space, 1 for the first of these, and so on; a
	// value between two mixes them.
	Spaces   []string       `json:"spaces,omitempty"`
	Position mgl64.Vec3     `json:"position"`
	Rotation Quaternion     `json:"rotation"`
	Order    geometry.Order `json:"order"`
	Shape    Shape          `json:"shape"`
	Outline  []mgl64.Vec3   `json:"outline"`          // closed, in the control's own frame, metres
	Colour   string         `json:"colour,omitempty"` // "#rrggbb"; empty for the colour of its side
	// Pivot is what the control turns about, in its own frame, metres; nil for its own place.
	Pivot *mgl64.Vec3 `json:"pivot,omitempty"`
	// Start is where the control stands, as seen from its home, when its channels are zero; nil for at home. At rest it stands at home.
	Start *Placement `json:"start,omitempty"`
	Dials []Dial     `json:"dials,omitempty"`
	// Channels is what the rigger decided about single channels and dials; those left out are free.
	Channels map[Channel]ChannelState `json:"channels,omitempty"`
	// Mirrored tells that the control is a mirrored copy: equal channel values move it as the mirror image of its source.
	Mirrored bool `json:"mirrored,omitempty"`
}

// Placement is a place and an orientation in some frame. Turn is how far that is turned about the main axis, whole turns included, in
// radians.
type Placement struct {
	Position mgl64.Vec3 `json:"position"`
	Rotation Quaternion `json:"rotation"`
	Turn     float64    `json:"turn,omitempty"`
}

// Transform returns p for computing.
func (p Placement) Transform() geometry.Transform {
	return geometry.Transform{Position: p.Position, Rotation: p.Rotation.Quat(), Turned: p.Turn}
}

// Hand is -1 for a mirrored control and 1 for any other.
func (c Control) Hand() float64 { return hand(c.Mirrored) }

// Home returns the control's rest transform in the world.
func (c Control) Home() geometry.Transform {
	return geometry.Transform{Position: c.Position, Rotation: c.Rotation.Quat()}
}

// Offset returns the motion away from its home that a control's channels make, ChannelCount numbers in the order of Channels, brought
// within soft limits. It turns about the pivot, and begins at Start. A mirrored control makes the mirror image of it: the sign of the
// third axis changes.
func (c Control) Offset(channels []float64) geometry.Transform { return c.OffsetInPart(channels, 1) }

// OffsetInPart is as Offset, of which so much counts, 0 to 1. Turns of any size are taken back evenly, since the channels know them.
func (c Control) OffsetInPart(channels []float64, share float64) geometry.Transform {
	var v [ChannelCount]float64
	for k := range v {
		v[k] = share * channels[k]
	}
	if len(c.Channels) > 0 {
		for k, channel := range Channels {
			v[k] = c.Channels[channel].Soften(v[k])
		}
	}
	offset := geometry.Transform{
		Position: mgl64.Vec3{v[0], v[1], v[2]},
		Rotation: c.Order.Rotation(mgl64.Vec3{v[3], v[4], v[5]}),
		Turned:   v[RotateY.Index()],
	}
	if c.Pivot != nil {
		offset.Position = offset.Position.Add(*c.Pivot).Sub(offset.Rotation.Rotate(*c.Pivot))
	}
	if c.Start != nil {
		offset = geometry.Mix(geometry.Identity(), c.Start.Transform(), share).Then(offset)
	}
	return c.imaged(offset)
}

// Below the first a swing is so near to half a turn that it leaves no twist to be told; within the second of half a turn between what
// the channels say and what the twist is, in radians, it cannot be said which way it goes. There the channels alone are believed, and
// the change to that is even.
const (
	openSwing = 0.3
	openTurn  = 0.6
)

// Turned returns how far the channels say that the control is turned about its main axis from its home, in radians, whole turns included.
func (c Control) Turned(channels []float64) float64 {
	told := c.Channels[RotateY].Soften(channels[RotateY.Index()])
	if c.Start != nil {
		told += c.Start.Turn
	}
	return c.Hand() * told
}

// Turn returns how far the channels turn the control about its main axis from its home, in radians, whole turns included: the twist of its
// offset, with as many whole turns as the channel tells of. It does not change when the present place is made the home.
func (c Control) Turn(channels []float64) float64 {
	told := channels[RotateY.Index()]
	rotation := c.Order.Rotation(mgl64.Vec3{channels[3], channels[4], channels[5]})
	if c.Start != nil {
		told += c.Start.Turn
		rotation = c.Start.Rotation.Quat().Mul(rotation)
	}
	more := geometry.Wrap(2*math.Atan2(rotation.V[1], rotation.W) - told)
	sure := geometry.Smoothstep(math.Hypot(rotation.V[1], rotation.W)/openSwing) * geometry.Smoothstep((math.Pi-math.Abs(more))/openTurn)
	return c.Hand() * (told + sure*more)
}

// imaged is an offset as the control makes it: the mirror image where it is a mirrored copy. Twice is once undone.
func (c Control) imaged(offset geometry.Transform) geometry.Transform {
	if c.Mirrored {
		offset.Position[0] = -offset.Position[0]
		offset.Rotation.V[1], offset.Rotation.V[2] = -offset.Rotation.V[1], -offset.Rotation.V[2]
		offset.Turned = -offset.Turned
	}
	return offset
}

// ChannelsFor returns the channels that make an offset, where no soft limit bends them: Offset undone. Of the angles that make the same
// turn it takes those nearest to near, so that whole turns stay.
func (c Control) ChannelsFor(offset geometry.Transform, near [ChannelCount]float64) [ChannelCount]float64 {
	offset = c.imaged(offset)
	if c.Start != nil {
		offset = c.Start.Transform().Inverse().Then(offset)
	}
	if c.Pivot != nil {
		offset.Position = offset.Position.Sub(*c.Pivot).Add(offset.Rotation.Rotate(*c.Pivot))
	}
	angles := c.Order.Angles(offset.Rotation, mgl64.Vec3{near[3], near[4], near[5]})
	return [ChannelCount]float64{offset.Position[0], offset.Position[1], offset.Position[2], angles[0], angles[1], angles[2]}
}

// Dial is an extra slider on a control: a switch, a strength, a rate.
type Dial struct {
	Name    Channel `json:"name"`
	Min     float64 `json:"min"`
	Max     float64 `json:"max"`
	Default float64 `json:"default"` // its value at rest
	Unit    string  `json:"unit,omitempty"`
}

// Dials with a meaning of their own.
const (
	SpaceDial Channel = "space" // of a control with Spaces
	ScaleDial Channel = "scale" // of the global control
)

// DialRef names a dial of a control, as version 1 did.
type DialRef struct {
	Control string  `json:"control"`
	Dial    Channel `json:"dial"`
}

// Dial returns the dial with the name, or nil.
func (c Control) Dial(name Channel) *Dial {
	return find(c.Dials, func(d *Dial) bool { return d.Name == name })
}

// ChannelIndex returns the place of a channel or dial: 0 to ChannelCount-1 for the channels of every control, on from there for its
// dials, -1 for one that it does not have.
func (c Control) ChannelIndex(channel Channel) int {
	if i := channel.Index(); i >= 0 {
		return i
	}
	if i := slices.IndexFunc(c.Dials, func(d Dial) bool { return d.Name == channel }); i >= 0 {
		return ChannelCount + i
	}
	return -1
}

// AllChannels lists the control's channels and the names of its dials.
func (c Control) AllChannels() []Channel {
	all := slices.Clone(Channels)
	for _, dial := range c.Dials {
		all = append(all, dial.Name)
	}
	return all
}

// RestValue returns a channel's value at rest: a dial's default, 0 for the others.
func (c Control) RestValue(channel Channel) float64 {
	if dial := c.Dial(channel); dial != nil {
		return dial.Default
	}
	return 0
}

// State returns what the rigger decided about a channel or dial, the range of a dial included.
func (c Control) State(channel Channel) ChannelState {
	state := c.Channels[channel]
	if dial := c.Dial(channel); dial != nil {
		state.Min, state.Max = &dial.Min, &dial.Max
	}
	return state
}

// Within brings a value of a channel or dial to where it may go.
func (c Control) Within(channel Channel, value float64) float64 {
	return c.State(channel).Within(value, c.RestValue(channel))
}

func (c Control) check(place string) error {
	if err := checkPlace(place+".position", c.Position[:]...); err != nil {
		return err
	}
	if err := checkRotation(place+".rotation", c.Rotation); err != nil {
		return err
	}
	if !c.Order.Valid() {
		return fmt.Errorf("%s.order: is one of %v, not %q", place, geometry.Orders, c.Order)
	}
	if !slices.Contains(Shapes, c.Shape) {
		return fmt.Errorf("%s.shape: is one of %v, not %q", place, Shapes, c.Shape)
	}
	if c.Colour != "" {
		if err := checkColour(place, c.Colour); err != nil {
			return err
		}
	}
	if c.Pivot != nil {
		if err := checkPlace(place+".pivot", c.Pivot[:]...); err != nil {
			return err
		}
	}
	if c.Start != nil {
		if err := checkPlace(place+".start.position", c.Start.Position[:]...); err != nil {
			return err
		}
		if err := checkPlace(place+".start.turn", c.Start.Turn); err != nil {
			return err
		}
		if err := checkRotation(place+".start.rotation", c.Start.Rotation); err != nil {
			return err
		}
	}
	for _, p := range c.Outline {
		if err := checkPlace(place+".outline", p[:]...); err != nil {
			return err
		}
	}
	if err := c.checkDials(place); err != nil {
		return err
	}
	return c.checkChannels(place)
}

func (c Control) checkDials(place string) error {
	for i, dial := range c.Dials {
		at := fmt.Sprintf("%s.dials[%d]", place, i)
		if err := CheckName(string(dial.Name)); err != nil {
			return fmt.Errorf("%s.name: %w", at, err)
		}
		if dial.Name.Index() >= 0 || c.ChannelIndex(dial.Name) != ChannelCount+i {
			return fmt.Errorf("%s.name: there is a channel %q already; give the dial another name", at, dial.Name)
		}
		if err := checkPlace(at, dial.Min, dial.Max, dial.Default); err != nil {
			return err
		}
		if dial.Min >= dial.Max {
			return fmt.Errorf("%s: the lower end %g is not below the upper end %g; change one of them", at, dial.Min, dial.Max)
		}
		if dial.Default < dial.Min || dial.Default > dial.Max {
			return fmt.Errorf("%s: the default %g lies outside its range, %g to %g", at, dial.Default, dial.Min, dial.Max)
		}
	}
	spaces := c.Dial(SpaceDial)
	if len(c.Spaces) > 0 && (spaces == nil || spaces.Min != 0 || spaces.Max != float64(len(c.Spaces))) {
		return fmt.Errorf("%s.dials: a control with %d more spaces has a dial %q from 0 to %d", place, len(c.Spaces), SpaceDial, len(c.Spaces))
	}
	return nil
}
