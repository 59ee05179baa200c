package evaluate

import (
	"context"
	"fmt"
	"math"

	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// courseSamples bounds at how many times a course is measured; bareSeconds is how long one is where there is no clip.
const (
	courseSamples = 241
	bareSeconds   = 4
)

// Course is how a number goes along a clip, or for a while at rest where there is none: at even times from the first frame to the last.
type Course struct {
	Start   float64   `json:"start"` // frames
	End     float64   `json:"end"`
	Below   []float64 `json:"below"` // what hand or clip say
	Made    []float64 `json:"made"`  // what drivers, limits and locks make of it
	Least   float64   `json:"least"` // of what is made
	Most    float64   `json:"most"`
	Min     *float64  `json:"min,omitempty"` // its limits
	Max     *float64  `json:"max,omitempty"`
	Loops   bool      `json:"loops"`
	Seam    float64   `json:"seam"`    // of a loop: how far its end lies from its beginning
	Stopped int       `json:"stopped"` // at how many of the times limits or a lock hold it back
}

// CourseOf measures how a number goes along a clip of a planned document; clip may be nil. It ends early, with the error, when ctx does.
func CourseOf(ctx context.Context, e *Evaluator, a rig.Address, clip *rig.Clip) (Course, error) {
	slot, ok := e.Plan.Layout.Find(a)
	if !ok {
		return Course{}, fmt.Errorf("there is no %s to plot", e.Plan.Document.NameOfValue(a))
	}
	c := Course{Below: []float64{}, Made: []float64{}, End: bareSeconds * e.Plan.Document.FPS, Least: math.Inf(1), Most: math.Inf(-1)}
	var prepared *motion.Clip
	if clip != nil {
		prepared = motion.Prepare(*clip)
		c.Start, c.End, c.Loops = float64(clip.Start), float64(clip.End), clip.Loop
	}
	state := e.Plan.Layout.Values[slot].State
	c.Min, c.Max = state.Min, state.Max
	at := e.alone(prepared, mechanism.Resource{Kind: mechanism.ValueOf, Index: slot})
	count := int(math.Min(courseSamples, math.Max(2, c.End-c.Start+1)))
	for i := range count {
		if err := ctx.Err(); err != nil {
			return Course{}, err
		}
		frame := c.Start + (c.End-c.Start)*float64(i)/float64(count-1)
		now := at(frame / e.Plan.Document.FPS)
		value := now.Frame.Values[slot]
		c.Below, c.Made = append(c.Below, now.Frame.Inputs[slot]), append(c.Made, value)
		c.Least, c.Most = math.Min(c.Least, value), math.Max(c.Most, value)
		if layers := now.Plan.Through(now.Frame, slot); len(layers) > 0 && layers[len(layers)-1].Value != value {
			c.Stopped++
		}
	}
	if c.Loops {
		c.Seam = math.Abs(c.Made[count-1] - c.Made[0])
	}
	return c, nil
}

// alone returns an evaluator of its own at other times, in which one thing is up to date: with the tasks alone that it hangs on, where none of them remembers or
// looks ahead.
func (e *Evaluator) alone(clip *motion.Clip, wanted mechanism.Resource) func(seconds float64) *Evaluator {
	tasks := e.Plan.Upstream(wanted)
	for _, i := range tasks {
		whole := e.Plan.Tasks[i].Steps
		for _, r := range e.Plan.Tasks[i].Reads {
			whole = whole || r.Kind == mechanism.Ahead || r.Kind == mechanism.TotalOf
		}
		if !whole {
			continue
		}
		other := New(e.Plan)
		other.SetClip(clip)
		return func(seconds float64) *Evaluator {
			other.SetTime(seconds)
			other.Evaluate()
			return other
		}
	}
	return e.elsewhen(clip, tasks)
}
