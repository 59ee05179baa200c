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
	at := e.elsewhen(clip, e.Plan.Upstream(total.Reads...), held...)
	knots := append([]float64{begin, start, end}, e.knots(clip, total)...)
	slices.Sort(knots)
	return formula.NewTotal(knots, start, func(seconds float64) float64 { return total.Rate(at(seconds).Frame) })
}

// TurnBy has what turns by a rate go on from where it is at the present time as hands hold the rate, and back as the clip has it when none holds it any more.
func (e *Evaluator) TurnBy(held []Held) {
	if len(e.Plan.Totals) == 0 || slices.Equal(held, e.turnedBy) {
		return
	}
	if !e.totalled {
		e.totals(e.clip)
	}
	for i, total := range e.Plan.Totals {
		values, _ := e.hangsOn(total)
		holds := func(h Held) bool { return values[h.Slot] }
		now, before := slices.ContainsFunc(held, holds), slices.ContainsFunc(e.turnedBy, holds)
		if !now && !before {
			continue
		}
		turned := e.Frame.Totals[i].At(e.Frame.Time)
		e.Frame.Totals[i] = e.total(e.clip, i, held)
		if now {
			e.Frame.Totals[i].Shift(turned - e.Frame.Totals[i].At(e.Frame.Time))
		}
		e.touchClocked()
	}
	e.turnedBy = slices.Clone(held)
}

// hangsOn marks the values that a rate hangs on, by slot, and tells whether how a clip moves joints is among what it hangs on.
func (e *Evaluator) hangsOn(total mechanism.Total) (values map[int]bool, poses bool) {
	all := slices.Clone(total.Reads)
	for _, task := range e.Plan.Upstream(total.Reads...) { // what is driven hangs on its own input as well
		all = append(append(all, e.Plan.Tasks[task].Reads...), e.Plan.Tasks[task].Writes...)
	}
	values = map[int]bool{}
	for _, r := range all {
		if r.Kind == mechanism.ValueOf {
			values[r.Index] = true
		}
		poses = poses || r.Kind == mechanism.PoseOf
	}
	return values, poses
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
func (e *Evaluator) knots(clip *motion.Clip, total mechanism.Total) (knots []float64) {
	if clip == nil {
		return nil
	}
	values, poses := e.hangsOn(total)
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
