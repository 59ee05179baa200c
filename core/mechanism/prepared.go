package mechanism

// Prepared returns what make makes of a key, which says all that it is made of. What a plan before this one made of the same key is taken over, so that
// planning after an edit works out only what the edit touched. It must only be read.
func Prepared[K comparable, T any](b *Bench, key K, make func() T) T {
	if known, ok := b.before[key]; ok {
		b.Prepared[key] = known
		return known.(T)
	}
	made := make()
	b.Prepared[any(key)] = made
	return made
}

// TakeOver has the bench take over what a plan before prepared; nil for nothing.
func (b *Bench) TakeOver(before map[any]any) { b.before = before }
