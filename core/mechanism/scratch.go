package mechanism

// Scratch is a task's own memory in a frame: what it works out while it runs, or hands to a later task of its mechanism. It lies in the frame
// and not in the task, so that one plan serves many evaluators at once.
type Scratch[T any] struct{ index int }

// ScratchOf lays scratch on the bench. make makes it for one frame; it may keep what it is given by the task, which is only read then.
func ScratchOf[T any](b *Bench, make func() *T) Scratch[T] {
	b.Scratch = append(b.Scratch, func() any { return make() })
	return Scratch[T]{len(b.Scratch) - 1}
}

// In returns the scratch in a frame.
func (s Scratch[T]) In(f *Frame) *T { return f.scratch[s.index].(*T) }

// Allocate makes the scratch that a bench was asked for.
func (f *Frame) Allocate(makers []func() any) {
	f.scratch = make([]any, len(makers))
	for i, make := range makers {
		f.scratch[i] = make()
	}
}
