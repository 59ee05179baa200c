package mechanism

import (
	"sort"

	"myriapod/core/geometry"
)

// Holding is something that is held by one of several holders, as a number says along the clip, and goes from one to the other where it is.
type Holding struct {
	Whose  string     // the name of the mechanism, which Bench.Holding gives it
	Reads  []Resource // what it hangs on: the number, and the holders
	Choice []Resource // of these, what the number hangs on
	Holder func(f *Frame) int
	At     func(f *Frame, holder int) geometry.Transform // where a holder is
	First  func(holder int) geometry.Transform           // how it lies in a holder that has it from the beginning
}

// Holding has what is held worked out along the clip, and returns its index in Frame.Held, which a task says that it reads as HeldBy.
func (b *Bench) Holding(h Holding) int {
	h.Whose = b.Mechanism.Name
	b.Holdings = append(b.Holdings, h)
	return len(b.Holdings) - 1
}

// Held is who holds something from a time on, and how it lies in that.
type Held struct {
	From   float64 // seconds
	Holder int
	Offset geometry.Transform
}

// HeldAt returns who holds something at a time, of a list that rises in time; the first before it begins.
func HeldAt(list []Held, seconds float64) Held {
	after := sort.Search(len(list), func(i int) bool { return list[i].From > seconds })
	return list[max(0, after-1)]
}
