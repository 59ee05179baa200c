package evaluate

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// journeyRate is how many times a frame a journey is measured.
const journeyRate = 4

// journey returns where a clip takes the body: as the root control's keys have it.
func (e *Evaluator) journey(clip *motion.Clip) *mechanism.Journey {
	d := e.Plan.Document
	root := d.ControlNamed(rig.RootName)
	if clip == nil || root == nil || clip.End <= clip.Start {
		return nil
	}
	var tracks []*motion.Track
	var channels []int
	for i := range clip.Tracks {
		if k := clip.Tracks[i].Channel.Index(); clip.Tracks[i].Control == root.ID && k >= 0 {
			tracks, channels = append(tracks, &clip.Tracks[i]), append(channels, k)
		}
	}
	home, control, fps := root.Home(), *root, d.FPS
	body := func(seconds float64) geometry.Transform {
		var values [rig.ChannelCount]float64
		for i, track := range tracks {
			values[channels[i]] = control.Hold(rig.Channels[channels[i]], track.Value(seconds*fps))
		}
		return home.Then(control.Offset(values[:]))
	}
	return mechanism.NewJourney(clip.Start/fps, clip.End/fps, journeyRate*fps, e.girth(), home, body)
}

// girth is half the lesser extent of the joints over the level: a body that turns on the spot walks about on that.
func (e *Evaluator) girth() float64 {
	low, high := mgl64.Vec2{math.Inf(1), math.Inf(1)}, mgl64.Vec2{math.Inf(-1), math.Inf(-1)}
	for _, joint := range e.Plan.Document.Joints {
		for k, axis := range []int{0, 2} {
			low[k], high[k] = math.Min(low[k], joint.Position[axis]), math.Max(high[k], joint.Position[axis])
		}
	}
	if len(e.Plan.Document.Joints) == 0 {
		return 0
	}
	return 0.5 * math.Min(high[0]-low[0], high[1]-low[1])
}
