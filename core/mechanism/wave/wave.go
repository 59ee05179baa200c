// Package wave is the travelling wave: it bends the curve of a chain sideways before the joints are placed on it.
package wave

import (
	"math"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/ribbonchain"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "travelling-wave"

// Kind is the travelling wave.
type Kind struct{}

const (
	anchorFirst = "first joint"
	anchorLast  = "last joint"
	anchorNone  = "none"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Travelling wave", Waves: true, Stand: mechanism.OnMechanism, Roles: []mechanism.Role{}, Hosts: []string{splinechain.Name, ribbonchain.Name, fkchain.Name},
		Sketch:  "M3 12q5-10 10 0t10 0t10 0t10 0t10 0M50 6l6 6l-6 6",
		Summary: "A wave runs along a chain: a swimming eel, a creeping tail, a fin that ripples.",
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{
				Key: "amplitude", Title: "Amplitude", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0.1), Dial: true,
				Help: "How far the wave swings out to each side where its profile is 1.",
			},
			{
				Key: "profile", Title: "Profile", Type: parameter.Profile, Min: 0, Max: 4,
				Default: parameter.OfProfile(parameter.Point{0, 0.1}, parameter.Point{0.3, 0.3}, parameter.Point{1, 1}),
				Help:    "Share of the amplitude along the chain, from the first joint to the last.",
			},
			{
				Key: "wavelength", Title: "Wavelength", Type: parameter.Number, Unit: "m", Min: 1e-6, Max: 1e5, Default: parameter.OfNumber(1),
				Help: "Length of chain from crest to crest.",
			},
			{
				Key: "rate", Title: "Rate", Type: parameter.Number, Unit: "/s", Min: -50, Max: 50, Default: parameter.OfNumber(0.75),
				Help: "Swings per second; below zero the wave runs towards the first joint. A change keeps the phase.",
			},
			{
				Key: "phase", Title: "Phase", Type: parameter.Number, Unit: "°", Min: -1e9, Max: 1e9, Default: parameter.OfNumber(0),
				Help: "Where in its swing the wave begins.",
			},
			{
				Key: "travel", Title: "Swings for each metre it goes", Type: parameter.Number, Unit: "/m", Min: -50, Max: 50, Default: parameter.OfNumber(0),
				Help: "Swings per metre that the root control moves forward, on top of the rate.",
			},
			{
				Key: "plane", Title: "Plane", Type: parameter.Number, Unit: "°", Min: -180, Max: 180, Default: parameter.OfNumber(0), Dial: true,
				Help: "0 swings sideways, 90 along the chain's second axis.",
			},
			{
				Key: "anchor", Title: "Stays at", Type: parameter.Choice, Choices: []string{anchorFirst, anchorLast, anchorNone},
				Default: parameter.OfChoice(anchorFirst), Help: "The end that the wave leaves in its place.",
			},
			{
				Key: "settle", Title: "Grows from its anchor over", Type: parameter.Number, Min: 0.01, Max: 1, Default: parameter.OfNumber(0.15),
				Help: "Share of the chain over which the wave grows from the end that stays.",
			},
			mechanism.Influence(),
		},
	}
}

// Build implements mechanism.Kind. A wave has no controls of its own. It is as long as its chain, and swings out by a tenth of that.
func (Kind) Build(site *mechanism.Site) error {
	if length := site.Document.LengthOf(site.Document.Mechanism(site.Mechanism.Host).Joints); length > 0 {
		site.Mechanism.Parameters["wavelength"] = parameter.OfNumber(length)
		site.Mechanism.Parameters["amplitude"] = parameter.OfNumber(0.1 * length)
	}
	return nil
}

// Adjust implements mechanism.Adjuster: a change of rate moves the phase so that the wave stands, at the moment of the
// change, where it stood before.
func (Kind) Adjust(present, changes parameter.Set, time float64) parameter.Set {
	rate, changed := changes["rate"]
	if _, given := changes["phase"]; given || !changed {
		return changes
	}
	adjusted := parameter.Set{}
	for key, value := range changes {
		adjusted[key] = value
	}
	kept := present.Number("phase") + 360*time*(present.Number("rate")-rate.Number)
	adjusted["phase"] = parameter.OfNumber(math.Remainder(kept, 360))
	return adjusted
}

// wave is a travelling wave prepared for evaluation, on a curve or on joints.
type wave struct {
	root                 int // the control whose travel drives it; -1 for none
	influence, amplitude mechanism.Number
	plane                mechanism.Number // degrees
	hand                 float64          // sideways is the other way round in a mirror
	wavelength           float64
	rate, phase, travel  float64
	profile              parameter.Curve
	anchor               string
	settle               float64
	length               float64 // of the chain at rest
	curve                int
	rippling             mechanism.Scratch[rippling] // of a curve
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	host := b.Document.Mechanism(b.Mechanism.Host)
	if !host.On {
		return nil // there is nothing to bend
	}
	w, reads := read(b)
	w.length = b.Document.LengthOf(host.Joints)
	if root := b.Document.ControlNamed(mechanism.RootName); root != nil {
		w.root, _ = b.Control(root.ID)
		reads = append(reads, mechanism.ChannelsOf(w.root)[rig.MoveZ.Index()])
	}
	reads = append(reads, mechanism.Resource{Kind: mechanism.Clock})
	if index, line, ok := b.HostCurve(); ok {
		w.onCurve(b, index, line, reads)
		return nil
	}
	return w.onJoints(b, host.Joints, reads)
}

func read(b *mechanism.Bench) (*wave, []mechanism.Resource) {
	s := b.Settings
	w := &wave{
		root: -1, hand: b.Mechanism.Hand(), wavelength: s.Number("wavelength"), rate: s.Number("rate"),
		phase: s.Number("phase") / 360, travel: s.Number("travel"), profile: s.Curve("profile"),
		anchor: s.Choice("anchor"), settle: s.Number("settle"),
	}
	var reads, more []mechanism.Resource
	w.influence, reads = b.InfluenceOf()
	w.amplitude, more = b.Number("amplitude")
	reads = append(reads, more...)
	w.plane, more = b.Number("plane")
	return w, append(reads, more...)
}

// still tells whether the wave moves nothing in a frame.
func (w *wave) still(f *mechanism.Frame) bool {
	return f.Still || w.amplitude.At(f) == 0 || w.influence.At(f) == 0
}

// crest is where the wave stands in a frame, in waves.
func (w *wave) crest(f *mechanism.Frame) float64 {
	phase := w.phase + w.rate*f.Time
	if w.root >= 0 {
		phase += w.travel * f.Channel(w.root, rig.MoveZ)
	}
	return phase - math.Floor(phase)
}

// swing is how far the wave goes out at a share of the chain's length, in metres.
func (w *wave) swing(f *mechanism.Frame, share, crest float64) float64 {
	return w.influence.At(f) * w.amplitude.At(f) * math.Sin(2*math.Pi*(w.length/w.wavelength*share-crest))
}

// ease is 0 at the end that stays and grows to 1.
func (w *wave) ease(share float64) float64 {
	switch w.anchor {
	case anchorFirst:
		return geometry.Smoothstep(share / w.settle)
	case anchorLast:
		return geometry.Smoothstep((1 - share) / w.settle)
	}
	return 1
}
