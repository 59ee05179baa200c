package skin

import (
	"math"

	"myriapod/core/mesh"
)

// lanes is how many right sides are solved at once: enough for the reading of the factor to be shared.
const lanes = 8

type column [lanes]float64

// system is the equations (L + D) w = b of heat that flows over a surface and into what lies below: L the flows of a Laplacian and D what goes into the ground, which is
// above 0 everywhere. It is symmetric and positive definite.
//
// Method: a Cholesky factor, worked out row by row along the elimination tree (Liu 1990, The Role of Elimination Trees in Sparse Factorization; Davis 2006, Direct
// Methods for Sparse Linear Systems, 4.7), in the order of nested dissection. Conjugate gradients were tried: they took ten times as long for tens of joints.
type system struct {
	l     *mesh.Laplacian
	order []int // by row of the factor: the place
	// The factor by columns: column k has 1/diagonal in pivot[k], and rows[start[k]:start[k+1]] below it with their values.
	start  []int
	rows   []int32
	values []float64
	pivot  []float64
	right  []column // scratch
}

func newSystem(l *mesh.Laplacian, ground []float64) *system {
	s := &system{l: l, order: dissected(l), pivot: make([]float64, l.Places), right: make([]column, l.Places)}
	row := make([]int32, l.Places) // by place
	for k, place := range s.order {
		row[place] = int32(k)
	}
	parent := s.tree(row)
	s.lay(row, parent)
	s.factorise(row, parent, ground)
	return s
}

// tree returns the elimination tree: for each row the next that it changes, -1 for none.
func (s *system) tree(row []int32) (parent []int32) {
	count := s.l.Places
	parent = make([]int32, count)
	ancestor := make([]int32, count)
	for k := range count {
		parent[k], ancestor[k] = -1, -1
		for m := s.l.Start[s.order[k]]; m < s.l.Start[s.order[k]+1]; m++ {
			for i := row[s.l.Other[m]]; i != -1 && i < int32(k); {
				next := ancestor[i]
				ancestor[i] = int32(k)
				if next == -1 {
					parent[i] = int32(k)
				}
				i = next
			}
		}
	}
	return parent
}

// reach lists the columns that row k has in the factor, in rising order of the tree: those from found on in stack.
func (s *system) reach(k int, row, parent []int32, mark []int32, stack []int32) (found int) {
	found = len(stack)
	mark[k] = int32(k)
	for m := s.l.Start[s.order[k]]; m < s.l.Start[s.order[k]+1]; m++ {
		i := row[s.l.Other[m]]
		if i > int32(k) {
			continue
		}
		length := 0
		for ; mark[i] != int32(k); i = parent[i] {
			stack[length] = i
			length++
			mark[i] = int32(k)
		}
		for length > 0 {
			length--
			found--
			stack[found] = stack[length]
		}
	}
	return found
}

// lay counts the columns and lays them out.
func (s *system) lay(row, parent []int32) {
	count := s.l.Places
	mark, stack, counts := unmarked(count), make([]int32, count), make([]int, count+1)
	for k := range count {
		for _, i := range stack[s.reach(k, row, parent, mark, stack):] {
			counts[i+1]++
		}
	}
	for k := range count {
		counts[k+1] += counts[k]
	}
	s.start = counts
	s.rows, s.values = make([]int32, counts[count]), make([]float64, counts[count])
}

func unmarked(count int) []int32 {
	mark := make([]int32, count)
	for i := range mark {
		mark[i] = -1
	}
	return mark
}

// factorise works the factor out, row by row.
func (s *system) factorise(row, parent []int32, ground []float64) {
	count := s.l.Places
	mark, stack, x := unmarked(count), make([]int32, count), make([]float64, count)
	filled := append([]int(nil), s.start[:count]...)
	for k := range count {
		place := s.order[k]
		diagonal := ground[place]
		found := s.reach(k, row, parent, mark, stack)
		for m := s.l.Start[place]; m < s.l.Start[place+1]; m++ {
			diagonal += s.l.Flow[m]
			if i := row[s.l.Other[m]]; i < int32(k) {
				x[i] -= s.l.Flow[m]
			}
		}
		whole := diagonal
		for _, i := range stack[found:] {
			value := x[i] * s.pivot[i]
			x[i] = 0
			rows, values := s.rows[s.start[i]:filled[i]], s.values[s.start[i]:filled[i]]
			for m, r := range rows {
				x[r] -= values[m] * value
			}
			diagonal -= value * value
			s.rows[filled[i]], s.values[filled[i]] = int32(k), value
			filled[i]++
		}
		s.pivot[k] = 1 / math.Sqrt(math.Max(diagonal, leastPivot*whole))
	}
}

// leastPivot is how little of a diagonal may be left, of rounding.
const leastPivot = 1e-14

// solve works out w of the right side b.
func (s *system) solve(b, w []column) {
	x := s.right
	for k, place := range s.order {
		x[k] = b[place]
	}
	for k := range x {
		now := &x[k]
		if *now == (column{}) {
			continue // nothing has come this far yet
		}
		for lane := range lanes {
			now[lane] *= s.pivot[k]
		}
		rows, values := s.rows[s.start[k]:s.start[k+1]], s.values[s.start[k]:s.start[k+1]]
		for m, r := range rows {
			other, v := &x[r], values[m]
			for lane := range lanes {
				other[lane] -= v * now[lane]
			}
		}
	}
	for k := len(x) - 1; k >= 0; k-- {
		now := x[k]
		rows, values := s.rows[s.start[k]:s.start[k+1]], s.values[s.start[k]:s.start[k+1]]
		for m, r := range rows {
			other, v := &x[r], values[m]
			for lane := range lanes {
				now[lane] -= v * other[lane]
			}
		}
		for lane := range lanes {
			now[lane] *= s.pivot[k]
		}
		x[k] = now
		w[s.order[k]] = now
	}
}
