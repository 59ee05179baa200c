package linkage

import (
	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"
)

// loose tells of a body that can move while the drives are held; nil where none can.
//
// Method: what leaves all pins as they are to first order is the null space of their slopes, by singular values. Of what is in it that is taken which turns the loosest body the most.
func (y *system) loose(p *Plan, s *State, rows, columns int) *Fault {
	m := mat.NewDense(max(rows, 1), columns, nil)
	miss, slopes := make([]float64, rows), make([]float64, rows*columns)
	y.equations(p, s, miss, slopes)
	for i := range rows {
		for k := range columns {
			value := slopes[i*columns+k]
			if k%3 == 0 {
				value /= p.size
			}
			m.Set(i, k, value)
		}
	}
	var svd mat.SVD
	if !svd.Factorize(m, mat.SVDFullV) {
		return &Fault{Err: ErrLoose, Bodies: y.bodies[:1]}
	}
	var v mat.Dense
	svd.VTo(&v)
	values := svd.Values(nil)
	var free []int // columns of v
	for k := range columns {
		if k >= len(values) || values[k] <= 1e-9*values[0] {
			free = append(free, k)
		}
	}
	if len(free) == 0 {
		return nil
	}
	best, most := 0, 0.0
	for i := range y.bodies {
		turn := 0.0
		for _, k := range free {
			turn += v.At(3*i, k) * v.At(3*i, k)
		}
		if turn > most*(1+1e-9) {
			best, most = i, turn
		}
	}
	fault := &Fault{Err: ErrLoose, Bodies: y.bodies[best : best+1], Freedoms: len(free) + len(p.linkage.Drives), Rates: map[int]Rate{}}
	way := func(row int) (sum float64) {
		for _, k := range free {
			if most == 0 { // nothing turns
				sum += v.At(row, k)
			} else {
				sum += v.At(row, k) * v.At(3*best, k)
			}
		}
		return sum
	}
	for i, body := range y.bodies {
		fault.Rates[body] = Rate{Turn: way(3*i) / p.size, Move: mgl64.Vec2{way(3*i + 1), way(3*i + 2)}}
	}
	return fault
}
