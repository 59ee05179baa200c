// Package wave is the travelling wave: it bends the curve of a chain sideways before the joints are placed on it.
package wave

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
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
		Kind: Name, Title: "Travelling wave", Stand: mechanism.OnMechanism, Hosts: []string{splinechain.Name},
		Summary: "A wave runs along a chain: a swimming eel, a creeping tail, a fin that ripples.",
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{
				Key: "amplitude", Title: "Amplitude", Type: parameter.Number, Unit: "m", Min: 0, Max: 100, Default: parameter.OfNumber(0.1),
				Help: "How far the wave swings out to each side where its profile is 1.",
			},
			{
				Key: "profile", Title: "Profile", Type: parameter.Profile, Min: 0, Max: 4,
				Default: parameter.OfProfile(parameter.Point{0, 0.1}, parameter.Point{0.3, 0.3}, parameter.Point{1, 1}),
				Help:    "Share of the amplitude along the chain, from the first joint to the last.",
			},
			{
				Key: "wavelength", Title: "Wavelength", Type: parameter.Number, Unit: "m", Min: 0.001, Max: 1000, Default: parameter.OfNumber(1),
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
				Key: "travel", Title: "Per metre", Type: parameter.Number, Unit: "/m", Min: -50, Max: 50, Default: parameter.OfNumber(0),
				Help: "Swings per metre that the root control moves forward, on top of the rate.",
			},
			{
				Key: "plane", Title: "Plane", Type: parameter.Number, Unit: "°", Min: -180, Max: 180, Default: parameter.OfNumber(0),
				Help: "0 swings sideways, 90 along the chain's second axis.",
			},
			{
				Key: "anchor", Title: "Stays at", Type: parameter.Choice, Choices: []string{anchorFirst, anchorLast, anchorNone},
				Default: parameter.OfChoice(anchorFirst), Help: "The end that the wave leaves in its place.",
			},
			{
				Key: "settle", Title: "Settles over", Type: parameter.Number, Min: 0.01, Max: 1, Default: parameter.OfNumber(0.15),
				Help: "Share of the chain over which the wave grows from the end that stays.",
			},
		},
	}
}

// Build implements mechanism.Kind. A wave has no controls of its own.
func (Kind) Build(*mechanism.Site) error { return nil }

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

// wave is a travelling wave prepared for evaluation.
type wave struct {
	curve, root                 int // root is -1 without a root control
	amplitude, wavelength       float64
	rate, phase, travel         float64
	profile                     parameter.Curve
	anchor                      string
	settle                      float64
	sine, cosine                float64 // of the plane
	length, calm                float64 // rest length of the curve; damping of the line's points, made up for
	greville, shares, envelopes []float64
	directions                  []mgl64.Vec3
}

// pointsPerWave is how many curve points a wavelength has at least, and mostParts bounds how finely one piece of the carried
// curve may be cut for it.
const (
	pointsPerWave = 16
	mostParts     = 128
)

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	index, host, ok := b.HostCurve()
	if !ok {
		return nil // the host is off: there is nothing to bend
	}
	w := read(b.Settings)
	w.cosine *= b.Mechanism.Hand() // sideways is the other way round in a mirror
	w.curve, w.root = index, -1
	if root := b.Document.ControlNamed(mechanism.RootName); root != nil {
		w.root, _ = b.Control(root.ID)
	}
	polygon := 0.0
	hostMechanism := b.Document.Mechanism(b.Mechanism.Host)
	for i := 1; i < len(hostMechanism.Joints); i++ {
		polygon += b.Document.Joint(hostMechanism.Joints[i]).Position.Sub(b.Document.Joint(hostMechanism.Joints[i-1]).Position).Len()
	}
	w.length = polygon
	spans := float64(host.Base.Spans())
	host.Require(int(math.Min(mostParts, math.Ceil(pointsPerWave*polygon/(w.wavelength*spans)))))
	task := mechanism.Task{
		Run: w.bend, Calibrate: func(*mechanism.Frame) {},
		Reads:  []mechanism.Resource{{Kind: mechanism.CurveOf, Index: index}, {Kind: mechanism.Clock}},
		Writes: []mechanism.Resource{{Kind: mechanism.CurveOf, Index: index}},
	}
	if w.root >= 0 {
		task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.ChannelsOf, Index: w.root})
	}
	b.Add(task)
	return nil
}

func read(s parameter.Set) *wave {
	sine, cosine := math.Sincos(s.Number("plane") * math.Pi / 180)
	return &wave{
		amplitude: s.Number("amplitude"), wavelength: s.Number("wavelength"), rate: s.Number("rate"),
		phase: s.Number("phase") / 360, travel: s.Number("travel"), profile: s.Curve("profile"),
		anchor: s.Choice("anchor"), settle: s.Number("settle"), sine: sine, cosine: cosine,
	}
}

// bend moves every point of the line sideways by the wave and has the line measured again.
func (w *wave) bend(f *mechanism.Frame) {
	if f.Still || w.amplitude == 0 {
		return
	}
	line := f.Curves[w.curve]
	w.look(line)
	phase := w.phase + w.rate*f.Time
	if w.root >= 0 {
		phase += w.travel * f.Channel(w.root, rig.MoveZ)
	}
	phase -= math.Floor(phase)
	waves := w.length / w.wavelength
	for i, share := range w.shares {
		swing := w.amplitude * w.envelopes[i] * w.calm * math.Sin(2*math.Pi*(waves*share-phase))
		line.Ruler.Line.Points[i] = line.Ruler.Line.Points[i].Add(w.directions[i].Mul(swing))
	}
	line.Again()
}

// look reads the place and the sideways direction of every point of the line as it stands before the wave.
func (w *wave) look(line *mechanism.Curve) {
	ruler := line.Ruler
	if w.shares == nil {
		w.layOut(len(ruler.Line.Points))
		for i := range w.greville {
			w.greville[i] = ruler.Line.Greville(i)
		}
		// A uniform cubic spline damps a wave of its points by (2 + cos θ)/3, θ the angle from point to point.
		theta := 2 * math.Pi * w.length / (w.wavelength * float64(ruler.Line.Spans()))
		w.calm = 3 / (2 + math.Cos(math.Min(theta, math.Pi/2)))
	}
	for i, u := range w.greville {
		_, frame := ruler.FrameAt(u)
		w.shares[i] = ruler.ArcAt(u) / math.Max(ruler.Total(), 1e-300)
		w.envelopes[i] = w.profile.At(w.shares[i]) * w.ease(w.shares[i])
		sideways := frame.Tangent.Cross(frame.Normal)
		w.directions[i] = sideways.Mul(w.cosine).Add(frame.Normal.Mul(w.sine))
	}
}

func (w *wave) layOut(points int) {
	w.greville, w.shares, w.envelopes = make([]float64, points), make([]float64, points), make([]float64, points)
	w.directions = make([]mgl64.Vec3, points)
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
