package wave

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
)

// pointsPerWave is how many curve points a wavelength has at least, and mostParts bounds how finely one piece of the carried
// curve may be cut for it.
const (
	pointsPerWave = 16
	mostParts     = 128
)

// onCurve lays the wave on the curve of its host, before the joints are placed on it.
func (w *wave) onCurve(b *mechanism.Bench, index int, line *mechanism.Curve, reads []mechanism.Resource) {
	w.curve = index
	spans := float64(line.Base.Spans())
	line.Require(int(math.Min(mostParts, math.Ceil(pointsPerWave*w.length/(w.wavelength*spans)))))
	w.rippling = mechanism.ScratchOf(b, func() *rippling { return w.fresh(line) })
	resource := mechanism.Resource{Kind: mechanism.CurveOf, Index: index}
	b.AddWhole(mechanism.Task{
		Run: func(f *mechanism.Frame) { w.rippling.In(f).bend(f) }, Calibrate: func(*mechanism.Frame) {},
		Reads: append(reads, resource), Writes: []mechanism.Resource{resource},
	})
}

// rippling is a wave on a curve in one frame.
type rippling struct {
	*wave
	calm              float64   // damping of the line's points, made up for
	greville          []float64 // by point of the line
	shares, envelopes []float64
	directions        []mgl64.Vec3
}

// fresh lays the wave out on the line as it is when all requirements of it are known.
func (w *wave) fresh(line *mechanism.Curve) *rippling {
	points := line.Ruler.Line.Points
	r := &rippling{
		wave: w, greville: make([]float64, len(points)), shares: make([]float64, len(points)), envelopes: make([]float64, len(points)),
		directions: make([]mgl64.Vec3, len(points)),
	}
	for i := range r.greville {
		r.greville[i] = line.Ruler.Line.Greville(i)
	}
	// A uniform cubic spline damps a wave of its points by (2 + cos θ)/3, θ the angle from point to point.
	theta := 2 * math.Pi * w.length / (w.wavelength * float64(line.Ruler.Line.Spans()))
	r.calm = 3 / (2 + math.Cos(math.Min(theta, math.Pi/2)))
	return r
}

// bend moves every point of the line sideways by the wave and has the line measured again.
func (w *rippling) bend(f *mechanism.Frame) {
	if w.still(f) {
		return
	}
	line := f.Curves[w.curve]
	w.look(f, line)
	crest := w.crest(f)
	for i, share := range w.shares {
		swing := w.envelopes[i] * w.calm * w.swing(f, share, crest)
		line.Ruler.Line.Points[i] = line.Ruler.Line.Points[i].Add(w.directions[i].Mul(swing))
	}
	line.Again()
}

// look reads the place and the sideways direction of every point of the line as it stands before the wave.
func (w *rippling) look(f *mechanism.Frame, line *mechanism.Curve) {
	ruler := line.Ruler
	sine, cosine := math.Sincos(w.plane.At(f) * math.Pi / 180)
	for i, u := range w.greville {
		_, frame := ruler.FrameAt(u)
		w.shares[i] = ruler.ArcAt(u) / math.Max(ruler.Total(), 1e-300)
		w.envelopes[i] = w.profile.At(w.shares[i]) * w.ease(w.shares[i])
		sideways := frame.Tangent.Cross(frame.Normal)
		w.directions[i] = sideways.Mul(cosine * w.hand).Add(frame.Normal.Mul(sine))
	}
}
