//go:build !goexperiment.simd || !amd64

package skin

// wide is a matrix as deformWide takes it, where it is built.
type wide struct{}

const canWiden = false

func widen([]wide, []Matrix) {}

func deformWide(s *Surface, _ []wide, from, to int) { deformRange(s, from, to) }
