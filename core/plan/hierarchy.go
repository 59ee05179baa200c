package plan

import (
	"fmt"
	"math"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// addHierarchy adds a task for every control, and for every joint that no mechanism moves: it goes along with its parent, or
// with the root control when it has none.
func addHierarchy(bench *mechanism.Bench) error {
	moved := map[int]string{}
	for _, task := range bench.Tasks {
		for _, resource := range task.Writes {
			if resource.Kind != mechanism.Joint {
				continue
			}
			other, ok := moved[resource.Index]
			if ok && other != task.Subject && !slices.Contains(task.Reads, resource) {
				return fmt.Errorf("%s is moved by %s and by %s; blend the two by a dial, or take it out of one of them",
					bench.Document.Joints[resource.Index].Name, bench.Document.NameOf(other), bench.Document.NameOf(task.Subject))
			}
			moved[resource.Index] = task.Subject
		}
	}
	global := globalOf(bench)
	for i, control := range bench.Document.Controls {
		bench.Tasks = append(bench.Tasks, controlTask(bench, i, control, global))
	}
	if global >= 0 {
		bench.Tasks = append(bench.Tasks, globalTask(bench, global))
	}
	for i, joint := range bench.Document.Joints {
		if _, ok := moved[i]; !ok {
			bench.Tasks = append(bench.Tasks, followTask(bench, i, joint))
		}
	}
	return nil
}

// hold is what a control's home hangs on: one of its spaces, with the home as it was there at rest.
type hold struct {
	carrier mechanism.Resource
	hung    bool
	local   geometry.Transform
}

// handle places a control: its home in the spaces it hangs on, mixed as its dial says, and from there its own motion.
type handle struct {
	control rig.Control
	index   int
	holds   []hold
	slot    int                    // of the dial that chooses the space
	counts  mechanism.Number       // how much of its own motion counts
	global  bool                   // it is the global control, or there is none
	opposed int                    // finding, of a control with several spaces
	writers []mechanism.HomeWriter // what takes its home elsewhere
	along   []mechanism.HomeWriter // what takes it along with its own motion
}

func controlTask(bench *mechanism.Bench, i int, control rig.Control, global int) mechanism.Task {
	h := &handle{control: control, index: i, counts: mechanism.Given(1), global: global < 0 || global == i}
	task := mechanism.Task{
		Subject: control.ID, Run: h.place,
		Reads:  mechanism.ChannelsOf(i),
		Writes: []mechanism.Resource{{Kind: mechanism.Control, Index: i}},
	}
	for _, id := range append([]string{control.Space}, control.Spaces...) {
		carrier, rest, hung := bench.Space(id)
		h.holds = append(h.holds, hold{carrier, hung, rest.Inverse().Then(control.Home())})
		if !hung && !h.global { // it keeps its place in the world whatever size everything else has
			carrier = mechanism.Resource{Kind: mechanism.Control, Index: global}
		}
		if (hung || !h.global) && !slices.Contains(task.Reads, carrier) {
			task.Reads = append(task.Reads, carrier)
		}
	}
	if len(control.Spaces) > 0 {
		slot, reads, _ := bench.ChannelOf(i, rig.SpaceDial)
		h.slot, task.Reads = slot, append(task.Reads, reads)
		h.opposed = bench.FindingOf(control.ID, fmt.Sprintf("The spaces of %s stand half a turn apart; between them it may change the way it turns.", control.Name))
		task.Raises = []int{h.opposed}
	}
	h.writers, h.along = bench.Homes[i], bench.Carriers[i]
	for _, w := range slices.Concat(h.writers, h.along) {
		task.Reads, task.Raises = append(task.Reads, w.Reads...), append(task.Raises, w.Raises...)
		if w.Complete != nil {
			task.Reads = append(task.Reads, w.Complete(bench)...)
		}
	}
	if counts, ok := bench.Counts[i]; ok {
		h.counts = counts.Number
		task.Reads = append(task.Reads, counts.Reads...)
	}
	return task
}

// place brings the control to its home and moves it on from there.
func (h *handle) place(f *mechanism.Frame) {
	home := h.homeIn(f, 0)
	if len(h.holds) > 1 {
		home = h.mixed(f)
	}
	for i := range h.writers {
		home = h.writers[i].Place(f, home)
	}
	if f.AtHome {
		f.Controls[h.index] = home
		return
	}
	offset := h.control.OffsetInPart(f.Values[h.index*rig.ChannelCount:(h.index+1)*rig.ChannelCount], h.counts.At(f))
	if len(h.holds) == 1 && !h.holds[0].hung && !h.global {
		offset.Position = offset.Position.Mul(1 / f.Size) // metres of the world, whatever size everything else has
	}
	at := home.Then(offset)
	for i := range h.along {
		at = h.along[i].Place(f, at)
	}
	f.Controls[h.index] = at
}

func (h *handle) homeIn(f *mechanism.Frame, space int) geometry.Transform {
	hold := &h.holds[space]
	switch {
	case hold.hung:
		return f.At(hold.carrier).Then(hold.local)
	case h.global || f.Size == 1:
		return hold.local
	}
	return geometry.Transform{Position: f.Unscaled(hold.local.Position), Rotation: hold.local.Rotation}
}

// mixed is the home between two neighbouring spaces, or in one of them.
func (h *handle) mixed(f *mechanism.Frame) geometry.Transform {
	dial := math.Max(0, math.Min(float64(len(h.holds)-1), f.Values[h.slot]))
	low := min(int(dial), len(h.holds)-2)
	share := dial - float64(low)
	switch share {
	case 0:
		return h.homeIn(f, low)
	case 1:
		return h.homeIn(f, low+1)
	}
	from, to := h.homeIn(f, low), h.homeIn(f, low+1)
	f.Findings[h.opposed] = geometry.Opposed(from.Rotation, to.Rotation)
	return geometry.Mix(from, to, share)
}

// globalTask reads the size that the global control gives to everything. It goes with the control itself, which all else hangs on.
func globalTask(bench *mechanism.Bench, global int) mechanism.Task {
	control := bench.Document.Controls[global]
	slot, reads, _ := bench.ChannelOf(global, rig.ScaleDial)
	resource := mechanism.Resource{Kind: mechanism.Control, Index: global}
	return mechanism.Task{
		Subject: control.ID,
		Reads:   []mechanism.Resource{reads, resource},
		Writes:  []mechanism.Resource{resource},
		Run: func(f *mechanism.Frame) {
			f.Size, f.Centre = f.Values[slot], f.Controls[global].Position
		},
	}
}

// globalOf returns the index of the control that scales everything, or -1.
func globalOf(bench *mechanism.Bench) int {
	global := bench.Document.ControlNamed(rig.GlobalName)
	if global == nil || global.Dial(rig.ScaleDial) == nil || global.Dial(rig.ScaleDial).Min <= 0 {
		return -1
	}
	index, _ := bench.Control(global.ID)
	return index
}

func followTask(bench *mechanism.Bench, i int, joint rig.Joint) mechanism.Task {
	hanging, reads := bench.HangingOf(i)
	return mechanism.Task{
		Subject: joint.ID, Reads: reads, Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: i}},
		Run: func(f *mechanism.Frame) { f.Joints[i], f.Scales[i] = hanging.In(f) },
	}
}
