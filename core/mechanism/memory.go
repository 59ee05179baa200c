package mechanism

// Memory is what a stepper keeps from one step to the next: a stretch of numbers in Frame.Memory, the first of which is what it shows. A stepper is a
// task that says Steps. While Frame.Step is above 0 the task goes on by so many seconds and changes its memory; the frame has Fresh set in the first step of all, where
// it begins at rest on what it reads. Else it only reads what it shows: a frame between two steps has memory mixed of both.
type Memory struct{ at, size int }

// In returns the memory in a frame.
func (m Memory) In(f *Frame) []float64 { return f.Memory[m.at : m.at+m.size] }

func (b *Bench) remember(numbers int) Memory {
	m := Memory{b.Remembered, numbers}
	b.Remembered += numbers
	return m
}

// Late names a value that a driven value reads as it was a step ago, because it hangs on it in turn.
type Late struct{ Driven, Read int } // slots

// ReadLate has a driven value read another as it was a step ago, and returns where that is remembered.
func (b *Bench) ReadLate(l Late) {
	if b.late == nil {
		b.late = map[Late]int{}
	}
	if _, known := b.late[l]; !known {
		b.late[l] = b.remember(1).at
		b.Lates = append(b.Lates, Echo{Late: l, At: b.late[l]})
	}
}

// Echo is a value that is remembered after each step for who reads it late.
type Echo struct {
	Late
	At int // in Frame.Memory
}
