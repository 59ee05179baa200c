package evaluate

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/motion"
)

// rollRate is how many times a frame what rolls is measured.
const rollRate = 8

// rolls measures how far everything that rolls does so along a clip, which takes the body on a journey. All hubs are looked at in one evaluation of what they hang on alone.
func (e *Evaluator) rolls(clip *motion.Clip, journey *mechanism.Journey) {
	clear(e.Frame.Rolls)
	if len(e.Plan.Rolls) == 0 || clip == nil || clip.End <= clip.Start {
		return
	}
	var reads []mechanism.Resource
	for _, roll := range e.Plan.Rolls {
		reads = append(reads, roll.Reads...)
	}
	at := e.elsewhenOn(clip, journey, e.Plan.Upstream(reads...))
	var known float64
	var frame *mechanism.Frame
	fps := e.Plan.Document.FPS
	hubs := func(seconds float64, i int) (place, ahead mgl64.Vec3) {
		if frame == nil || seconds != known {
			known, frame = seconds, at(seconds).Frame
		}
		return e.Plan.Rolls[i].Hub(frame)
	}
	copy(e.Frame.Rolls, mechanism.NewRolled(clip.Start/fps, clip.End/fps, rollRate*fps, len(e.Plan.Rolls), hubs))
}
