package evaluate

import (
	"slices"

	"myriapod/core/formula"
	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// totals takes the rates together that something turns by: along a clip, or for a while at rest where there is none.
func (e *Evaluator) totals(clip *motion.Clip) {
	e.totalled, e.turnedBy = true, nil
	for i := range e.Plan.Totals {
		e.Frame.Totals[i] = e.total(clip, i, nil)
	}
}

// total takes one rate together, with what hands hold all along.
func (e *Evaluator) total(clip *motion.Clip, i int, held []Held) *formula.Total {
	begin, start, end := 0.0, 0.0, float64(bareSeconds)
	if clip != nil {
		fps := e.Plan.Document.FPS
		start, end = clip.Start/fps, clip.End/fps
		begin = start - clip.PreRoll
	}
	total := e.Plan.Totals[i]
	tasks := e.Plan.Upstream(total.Reads...)
	at := e.elsewhen(clip, tasks, held...)
	knots := append([]float64{begin, start, end}, e.knots(clip, total, tasks)...)
	slices.Sort(knots)
	return formula.NewTotal(knots, start, func(seconds float64) float64 { return total.Rate(at(seconds).Frame) })
}

// TurnBy has what turns by a rate go on from where it is at the present time as hands hold the rates, and back as the clip has it when they hold nothing.
func (e *Evaluator) TurnBy(held []Held) {
	if len(e.Plan.Totals) == 0 || slices.Equal(held, e.turnedBy) {
		return
	}
	if len(held) == 0 || !e.totalled {
		e.totals(e.clip)
		e.touchClocked()
	}
	for i, total := range e.Plan.Totals {
		if !e.hangsOn(total, held) && !e.hangsOn(total, e.turnedBy) {
			continue
		}
		before := e.Frame.Totals[i].At(e.Frame.Time)
		now := e.total(e.clip, i, held)
		now.Shift(before - now.At(e.Frame.Time))
		e.Frame.Totals[i] = now
		e.touchClocked()
	}
	e.turnedBy = slices.Clone(held)
}

// hangsOn tells whether a rate hangs on something that is held.
func (e *Evaluator) hangsOn(total mechanism.Total, held []Held) bool {
	if len(held) == 0 {
		return false
	}
	reads := slices.Clone(total.Reads)
	for _, task := range e.Plan.Upstream(total.Reads...) {
		reads = append(append(reads, e.Plan.Tasks[task].Reads...), e.Plan.Tasks[task].Writes...)
	}
	return slices.ContainsFunc(held, func(h Held) bool {
		return slices.Contains(reads, mechanism.Resource{Kind: mechanism.ValueOf, Index: h.Slot})
	})
}

// Turned returns how far each turn of drivers has come by a time of the clip, in seconds, phases apart.
func (e *Evaluator) Turned(seconds float64) map[mechanism.Turn]float64 {
	e.Evaluate()
	turned := map[mechanism.Turn]float64{}
	for i, total := range e.Plan.Totals {
		for _, turn := range total.For {
			turned[turn] = e.Frame.Totals[i].At(seconds)
		}
	}
	return turned
}

// knots lists the times in seconds at which a clip has keys of what a rate hangs on: there it may jump or have a corner.
func (e *Evaluator) knots(clip *motion.Clip, total mechanism.Total, tasks []int) (knots []float64) {
	if clip == nil {
		return nil
	}
	reads := slices.Clone(total.Reads)
	for _, task := range tasks {
		reads = append(reads, e.Plan.Tasks[task].Reads...)
	}
	values, poses := map[int]bool{}, false
	for _, r := range reads {
		if r.Kind == mechanism.ValueOf {
			values[r.Index] = true
		}
		poses = poses || r.Kind == mechanism.PoseOf
	}
	for _, task := range tasks { // what is driven hangs on its own keys as well
		for _, r := range e.Plan.Tasks[task].Writes {
			values[r.Index] = values[r.Index] || r.Kind == mechanism.ValueOf
		}
	}
	add := func(frames []float64) {
		for _, frame := range frames {
			knots = append(knots, frame/e.Plan.Document.FPS)
		}
	}
	for _, track := range clip.Tracks {
		if slot := e.find(rig.Address{Of: track.Control, Key: string(track.Channel)}); values[slot] {
			add(track.Frames())
		}
	}
	for _, track := range clip.Morphs {
		if values[e.find(rig.Address{Of: track.Part, Key: track.Morph})] {
			add(track.Frames())
		}
	}
	for _, track := range clip.Joints {
		if poses {
			add(track.Frames())
		}
	}
	return knots
}
