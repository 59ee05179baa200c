package skin

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestBothWaysOfDeformingAgree deforms random vertices by random matrices, flat ones among them, eight numbers at once and one by one: both agree, and nothing is written past the range.
func TestBothWaysOfDeformingAgree(t *testing.T) {
	if !canWiden {
		t.Skip("the fast way is not built, or the processor does not have it")
	}
	rapid.Check(t, func(t *rapid.T) {
		count, joints := rapid.IntRange(1, 40).Draw(t, "vertices"), rapid.IntRange(1, 6).Draw(t, "joints")
		number := rapid.Float32Range(-2, 2)
		palette := make([]Matrix, joints)
		flat := rapid.IntRange(-3, joints-1).Draw(t, "flat")
		for i := range palette {
			for k := range palette[i] {
				palette[i][k] = number.Draw(t, "matrix")
				if i == flat && k < 8 {
					palette[i][k] = 0
				}
			}
		}
		w := NewWeights(count)
		s := &Surface{Weights: w, Palette: palette}
		for v := range count {
			of := rapid.IntRange(1, Influences).Draw(t, "influences")
			list, values := []int{}, []float64{}
			for range of {
				list, values = append(list, rapid.IntRange(0, joints-1).Draw(t, "joint")), append(values, rapid.Float64Range(0.01, 1).Draw(t, "weight"))
			}
			w.Set(v, list, values)
			for range 3 {
				s.Positions, s.Normals = append(s.Positions, number.Draw(t, "position")), append(s.Normals, number.Draw(t, "normal"))
			}
		}
		from := rapid.IntRange(0, count-1).Draw(t, "from")
		to := rapid.IntRange(from, count).Draw(t, "to")
		const untouched = 77
		run := func(wideOne bool) (positions, normals []float32) {
			s.Out, s.OutNormals = make([]float32, 3*count), make([]float32, 3*count)
			for i := range s.Out {
				s.Out[i], s.OutNormals[i] = untouched, untouched
			}
			if wideOne {
				columns := make([]wide, joints)
				widen(columns, palette)
				deformWide(s, columns, from, to)
			} else {
				deformRange(s, from, to)
			}
			return s.Out, s.OutNormals
		}
		positions, normals := run(false)
		fast, upright := run(true)
		for i := range positions {
			require.InDelta(t, positions[i], fast[i], 2e-5)
			if i/3 < from || i/3 >= to {
				require.Equal(t, float32(untouched), fast[i])
				require.Equal(t, float32(untouched), upright[i])
			} else if sharp(i/3, s, palette) {
				require.InDelta(t, normals[i], upright[i], 1e-4)
			}
		}
	})
}

// sharp tells whether a normal is far enough from being pressed flat for rounding not to show.
func sharp(vertex int, s *Surface, palette []Matrix) bool {
	var m [12]float64
	for k := Influences * vertex; k < Influences*(vertex+1); k++ {
		for i := range m {
			m[i] += float64(s.Weights.Values[k]) * float64(palette[s.Weights.Joints[k]][i])
		}
	}
	n := s.Normals[3*vertex:]
	x, y, z := float64(n[0]), float64(n[1]), float64(n[2])
	up := [3]float64{
		(m[5]*m[10]-m[6]*m[9])*x + (m[6]*m[8]-m[4]*m[10])*y + (m[4]*m[9]-m[5]*m[8])*z,
		(m[2]*m[9]-m[1]*m[10])*x + (m[0]*m[10]-m[2]*m[8])*y + (m[1]*m[8]-m[0]*m[9])*z,
		(m[1]*m[6]-m[2]*m[5])*x + (m[2]*m[4]-m[0]*m[6])*y + (m[0]*m[5]-m[1]*m[4])*z,
	}
	return up[0]*up[0]+up[1]*up[1]+up[2]*up[2] > 0.05*0.05
}
