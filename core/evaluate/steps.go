package evaluate

import (
	"math"
	"reflect"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// StepRate is how many steps steppers make in a second.
const StepRate = 120

// steps works out what steppers remember along a clip, step by step from its first frame less its pre-roll. A second evaluator on the same plan makes
// the steps, of the tasks that steppers stand on alone; the frame that is shown takes memory mixed of the two steps around its time. So what is shown hangs
// on document, clip and time, and not on the way there.
type steps struct {
	past       *Evaluator
	needed     []bool // by task
	held       []Held // all along
	begin, end float64
	at         int // the step that past stands at, -1 for none
	low, high  []float64
	stride     int         // steps from checkpoint to checkpoint
	kept       [][]float64 // the memory at the steps 0, stride, 2·stride, ...
}

// mostKept bounds the numbers that checkpoints hold; beyond it every other one goes, and they are laid twice as far apart.
const mostKept = 4 << 20

// firstStride is how far apart checkpoints are laid at first, in steps.
const firstStride = StepRate / 2

// newSteps returns what steps along a clip; nil for none.
func newSteps(e *Evaluator, clip *motion.Clip) *steps {
	fps := e.Plan.Document.FPS
	s := &steps{
		past: New(e.Plan), needed: steppedOn(e), at: -1, stride: firstStride,
		low: make([]float64, len(e.Frame.Memory)), high: make([]float64, len(e.Frame.Memory)),
	}
	if clip != nil {
		s.begin, s.end = clip.Start/fps-clip.PreRoll, clip.End/fps
	}
	s.held = e.held
	copy(s.past.Frame.Ways, e.Frame.Ways)
	copy(s.past.Frame.Totals, e.Frame.Totals)
	copy(s.past.Frame.Rolls, e.Frame.Rolls)
	copy(s.past.Frame.Held, e.Frame.Held)
	s.past.follow(clip, e.Frame.Journey)
	return s
}

// steppedOn marks the tasks that steppers, and what they read late, hang on, themselves included.
func steppedOn(e *Evaluator) []bool {
	var wanted []mechanism.Resource
	for _, task := range e.Plan.Steppers {
		wanted = append(wanted, e.Plan.Tasks[task].Writes...)
	}
	for _, late := range e.Plan.Lates {
		wanted = append(wanted, mechanism.Resource{Kind: mechanism.ValueOf, Index: late.Read})
	}
	needed := make([]bool, len(e.Plan.Tasks))
	for _, task := range e.Plan.Upstream(wanted...) {
		needed[task] = true
	}
	return needed
}

// step has past make one step at a time, with what hands hold.
func (s *steps) step(seconds float64, held []Held, fresh bool) {
	s.past.PoseAt(seconds, held)
	s.advance(fresh)
}

// advance makes a step where past stands.
func (s *steps) advance(fresh bool) {
	p := s.past
	if fresh {
		clear(p.Frame.Memory)
		for _, late := range p.Plan.Lates {
			p.Frame.Memory[late.At] = p.Plan.Resting[late.Read]
		}
	}
	p.Frame.Step, p.Frame.Fresh = 1.0/StepRate, fresh
	for _, task := range p.Plan.Steppers {
		p.touch(task)
	}
	p.run(s.needed)
	for _, late := range p.Plan.Lates {
		p.Frame.Memory[late.At] = p.Frame.Values[late.Read]
	}
}

// seek has past stand at a step of the clip.
func (s *steps) seek(to int) {
	if point := min(to/s.stride, len(s.kept)-1); point >= 0 && (s.at > to || s.at < point*s.stride) {
		copy(s.past.Frame.Memory, s.kept[point])
		s.at = point * s.stride
	}
	if s.at > to {
		s.at = -1
	}
	for s.at < to {
		s.at++
		s.step(s.begin+float64(s.at)/StepRate, s.held, s.at == 0)
		s.keep()
	}
}

// keep lays a checkpoint where one is due.
func (s *steps) keep() {
	if s.at%s.stride != 0 || s.at/s.stride != len(s.kept) {
		return
	}
	s.kept = append(s.kept, slices.Clone(s.past.Frame.Memory))
	if len(s.kept)*len(s.low) <= mostKept || len(s.kept) < 4 {
		return
	}
	for i := 1; 2*i < len(s.kept); i++ {
		s.kept[i] = s.kept[2*i]
	}
	s.kept, s.stride = s.kept[:(len(s.kept)+1)/2], 2*s.stride
}

// memoryAt writes the memory at a time: mixed of the steps before and after it. Before the first step and after the clip nothing goes on; without a clip
// everything has come to rest on what it reads, which is what the inputs say.
func (s *steps) memoryAt(seconds float64, inputs, memory []float64) {
	if s.end <= s.begin {
		s.past.PoseAt(seconds, s.held)
		for slot, value := range inputs {
			s.past.set(slot, value)
		}
		s.advance(true)
		copy(memory, s.past.Frame.Memory)
		return
	}
	along := (math.Max(s.begin, math.Min(s.end, seconds)) - s.begin) * StepRate
	step := math.Floor(along)
	s.seek(int(step))
	copy(memory, s.past.Frame.Memory)
	if share := along - step; share > 0 {
		copy(s.low, memory)
		s.seek(int(step) + 1)
		mix(memory, s.low, s.past.Frame.Memory, share)
	}
}

func mix(into, low, high []float64, share float64) {
	for i := range into {
		into[i] = low[i] + share*(high[i]-low[i])
	}
}

// remember brings the memory of the shown frame to its time, where steppers have any.
func (e *Evaluator) remember() {
	if e.hand == nil && e.forgot {
		e.recall(e.Frame.Inputs)
	}
}

// recall works out the memory at the present time. Without a clip it is that of a stand in which the inputs have been for ever.
func (e *Evaluator) recall(inputs []float64) {
	if len(e.Plan.Steppers) == 0 {
		return
	}
	e.forgot = false
	if e.steps == nil {
		e.steps = newSteps(e, e.clip)
	}
	e.steps.memoryAt(e.Frame.Time, inputs, e.Frame.Memory)
	e.touchSteppers()
}

// Hold has hands hold values all along the clip, over what it says, as far as what has memory is concerned; what is shown at a time PoseAt says. So a
// pose is sampled in which a rigger holds something.
func (e *Evaluator) Hold(held []Held) {
	if !slices.Equal(e.held, held) {
		e.held, e.steps, e.forgot = slices.Clone(held), nil, true
	}
}

func (e *Evaluator) touchSteppers() {
	for _, task := range e.Plan.Steppers {
		e.touch(task)
	}
}

// Remembered tells how many bytes the checkpoints of steppers take, and how many seconds they lie apart.
func (e *Evaluator) Remembered() (bytes int, apart float64) {
	if e.steps == nil {
		return 0, 0
	}
	return 8 * len(e.steps.kept) * len(e.Frame.Memory), float64(e.steps.stride) / StepRate
}

// Inherit takes over what steppers remember along the clip from an evaluator of the same document before an edit of its keys: all that comes before the
// first effect of the edit. Of any other edit nothing is taken over.
func (e *Evaluator) Inherit(old *Evaluator) {
	if old == nil || old.steps == nil || e.clip == nil || old.clip == nil || len(e.Plan.Steppers) == 0 || !sameButClips(e.Plan.Document, old.Plan.Document) {
		return
	}
	fresh := newSteps(e, e.clip)
	for i, needed := range fresh.needed {
		if needed && slices.ContainsFunc(e.Plan.Tasks[i].Reads, func(r mechanism.Resource) bool { return r.Kind == mechanism.Ahead || r.Kind == mechanism.TotalOf }) {
			return // what looks ahead may change anywhere
		}
	}
	was := old.steps
	if was.begin != fresh.begin {
		return
	}
	until := motion.DifferFrom(e.clip, old.clip) / e.Plan.Document.FPS
	count := 0
	for count < len(was.kept) && was.begin+float64(count*was.stride)/StepRate <= until {
		count++
	}
	fresh.kept, fresh.stride = slices.Clone(was.kept[:count]), was.stride
	e.steps = fresh
}

// sameButClips tells whether two documents are the same but for what their clips say.
func sameButClips(a, b *rig.Document) bool {
	x, y := *a, *b
	x.Clips, y.Clips, x.NextID, y.NextID = nil, nil, 0, 0
	return reflect.DeepEqual(x, y)
}
