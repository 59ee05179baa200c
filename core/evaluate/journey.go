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
	home, control, fps := root.Home(), *root, d.FPS
	channels := e.rootChannels(clip, control)
	body := func(seconds float64) geometry.Transform {
		values := channels(seconds)
		return home.Then(control.Offset(values[:]))
	}
	return mechanism.NewJourney(clip.Start/fps, clip.End/fps, journeyRate*fps, e.girth(), home, body)
}

// rootChannels returns the channels of the root control as a function of time: as its keys have them, and what drives it.
func (e *Evaluator) rootChannels(clip *motion.Clip, root rig.Control) func(seconds float64) [rig.ChannelCount]float64 {
	if tasks := e.Plan.BodyTasks(); len(tasks) > 0 {
		return e.drivenRoot(clip, root, tasks)
	}
	fps := e.Plan.Document.FPS
	var tracks []*motion.Track
	var channels []int
	for i := range clip.Tracks {
		if k := clip.Tracks[i].Channel.Index(); clip.Tracks[i].Control == root.ID && k >= 0 {
			tracks, channels = append(tracks, &clip.Tracks[i]), append(channels, k)
		}
	}
	return func(seconds float64) (values [rig.ChannelCount]float64) {
		for i, track := range tracks {
			values[channels[i]] = root.Within(rig.Channels[channels[i]], track.Value(seconds*fps))
		}
		return values
	}
}

// drivenRoot works the root's channels out at other times than that of the frame.
func (e *Evaluator) drivenRoot(clip *motion.Clip, root rig.Control, tasks []int) func(seconds float64) [rig.ChannelCount]float64 {
	ahead, control := e.elsewhen(clip, tasks), e.Plan.ControlIndex[root.ID]
	return func(seconds float64) [rig.ChannelCount]float64 { return ahead(seconds).channelsOf(control) }
}

// elsewhen returns the frame of an evaluator of its own at other times, in which only some tasks are up to date, with what hands hold all along.
func (e *Evaluator) elsewhen(clip *motion.Clip, tasks []int, held ...Held) func(seconds float64) *Evaluator {
	return e.elsewhenOn(clip, nil, tasks, held...)
}

// elsewhenOn is as elsewhen, where the clip takes the body on a journey that is known.
func (e *Evaluator) elsewhenOn(clip *motion.Clip, journey *mechanism.Journey, tasks []int, held ...Held) func(seconds float64) *Evaluator {
	other := New(e.Plan)
	copy(other.Frame.Totals, e.Frame.Totals)
	copy(other.Frame.Rolls, e.Frame.Rolls)
	copy(other.Frame.Held, e.Frame.Held)
	other.follow(clip, journey)
	needed := make([]bool, len(e.Plan.Tasks))
	for _, task := range tasks {
		needed[task] = true
	}
	return func(seconds float64) *Evaluator {
		other.PoseAt(seconds, held)
		other.run(needed)
		return other
	}
}

// ways measures the controls that are measured along a clip.
func (e *Evaluator) ways(clip *motion.Clip) {
	fps := e.Plan.Document.FPS
	for i, control := range e.Plan.Ways {
		e.Frame.Ways[i] = nil
		if clip == nil || clip.End <= clip.Start {
			continue
		}
		at := e.elsewhen(clip, e.Plan.Upstream(mechanism.Resource{Kind: mechanism.Control, Index: control}))
		e.Frame.Ways[i] = mechanism.NewWay(clip.Start/fps, clip.End/fps, journeyRate*fps, func(seconds float64) mgl64.Vec3 {
			return at(seconds).Frame.Controls[control].Position
		})
	}
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
