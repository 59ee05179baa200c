package skin

import (
	"math"
	"runtime"
	"sync"
	"sync/atomic"

	"github.com/go-gl/mathgl/mgl64"
)

// Matrix is the upper three rows of an affine matrix, by row: x, y, z, translation three times.
type Matrix [12]float32

// SetMatrix writes the skinning matrix of a joint: its matrix now times the inverse of its rest transform.
func (m *Matrix) SetMatrix(now, restInverse mgl64.Mat4) {
	whole := now.Mul4(restInverse)
	for row := range 3 {
		for column := range 4 {
			m[4*row+column] = float32(whole[4*column+row])
		}
	}
}

// Surface is a surface to be deformed. Palette holds one matrix for each joint of the binding; Positions and Normals are flat, and
// Out and OutNormals, where the result goes, as long as they.
type Surface struct {
	Weights                             *Weights
	Palette                             []Matrix
	Positions, Normals, Out, OutNormals []float32
	Dual                                Shares // by vertex, of what DeformDual mixes in; nil for all of it
}

// Deform moves positions by linear-blend skinning: out = Σ weight · matrix[joint] · in, and normals by the cofactor matrix of that sum, so that they
// stay upright on a surface that is stretched across: (M·a) × (M·b) = cof(M)·(a × b). It allocates nothing. The surfaces, and
// large ones in pieces, are spread over the cores; the result does not depend on how.
func Deform(surfaces []Surface) {
	whole := 0
	for i := range surfaces {
		whole += surfaces[i].Weights.VertexCount()
	}
	done := batches.Get().(*batch)
	done.widen(surfaces)
	if whole < 2*minPiece || runtime.GOMAXPROCS(0) == 1 {
		for i := range surfaces {
			deformPiece(&surfaces[i], done.wide[i], 0, surfaces[i].Weights.VertexCount())
		}
		batches.Put(done)
		return
	}
	startWorkers.Do(startPool)
	for i := range surfaces {
		count := surfaces[i].Weights.VertexCount()
		pieces := count/minPiece + 1
		done.Add(pieces)
		for piece := range pieces {
			work <- order{&surfaces[i], done.wide[i], count * piece / pieces, count * (piece + 1) / pieces, done}
		}
	}
	done.Wait()
	if failure := done.failure.Load(); failure != nil {
		panic(*failure) // where whoever asked for it can deal with it, and not in a worker, which would end the program
	}
	batches.Put(done)
}

// minPiece is how many vertices are worth another core.
const minPiece = 4096

type order struct {
	surface  *Surface
	wide     []wide
	from, to int
	done     *batch
}

// batch is the pieces of one Deform, and what went wrong in one of them.
type batch struct {
	sync.WaitGroup
	failure atomic.Pointer[any]
	wide    [][]wide // the palettes of the surfaces, as the fast way takes them
	store   []wide
}

// widen readies the palettes of surfaces, in memory that is used again.
func (b *batch) widen(surfaces []Surface) {
	b.wide = b.wide[:0]
	count := 0
	for i := range surfaces {
		count += len(surfaces[i].Palette)
	}
	if canWiden && len(b.store) < count {
		b.store = make([]wide, count)
	}
	at := 0
	for i := range surfaces {
		if !canWiden {
			b.wide = append(b.wide, nil)
			continue
		}
		part := b.store[at : at+len(surfaces[i].Palette)]
		widen(part, surfaces[i].Palette)
		b.wide = append(b.wide, part)
		at += len(part)
	}
}

// deformPiece deforms vertices of a surface in the fastest way that the processor has.
func deformPiece(s *Surface, palette []wide, from, to int) {
	if canWiden {
		deformWide(s, palette, from, to)
	} else {
		deformRange(s, from, to)
	}
}

// work deforms one piece; a panic is kept for whoever waits.
func (o order) work() {
	defer func() {
		if met := recover(); met != nil {
			o.done.failure.Store(&met)
		}
		o.done.Done()
	}()
	deformPiece(o.surface, o.wide, o.from, o.to)
}

var (
	startWorkers sync.Once
	work         chan order
	batches      = sync.Pool{New: func() any { return new(batch) }}
)

func startPool() {
	work = make(chan order, 64)
	for range runtime.GOMAXPROCS(0) {
		go func() {
			for o := range work {
				o.work()
			}
		}()
	}
}

// deformRange is written out number by number: the compiler keeps the twelve sums in registers, which it does not with an array.
func deformRange(s *Surface, from, to int) {
	weights, palette, positions, normals, outPositions, outNormals := s.Weights, s.Palette, s.Positions, s.Normals, s.Out, s.OutNormals
	for vertex := from; vertex < to; vertex++ {
		joints := (*[Influences]uint16)(weights.Joints[Influences*vertex:])
		values := (*[Influences]float32)(weights.Values[Influences*vertex:])
		m, w := &palette[joints[0]], values[0]
		a0, a1, a2, a3 := w*m[0], w*m[1], w*m[2], w*m[3]
		b0, b1, b2, b3 := w*m[4], w*m[5], w*m[6], w*m[7]
		c0, c1, c2, c3 := w*m[8], w*m[9], w*m[10], w*m[11]
		for k := 1; k < Influences; k++ { // the strongest comes first, and the first weight of 0 ends the list
			w = values[k]
			if w == 0 {
				break
			}
			m = &palette[joints[k]]
			a0, a1, a2, a3 = a0+w*m[0], a1+w*m[1], a2+w*m[2], a3+w*m[3]
			b0, b1, b2, b3 = b0+w*m[4], b1+w*m[5], b2+w*m[6], b3+w*m[7]
			c0, c1, c2, c3 = c0+w*m[8], c1+w*m[9], c2+w*m[10], c3+w*m[11]
		}
		p, q := (*[3]float32)(positions[3*vertex:]), (*[3]float32)(outPositions[3*vertex:])
		x, y, z := p[0], p[1], p[2]
		q[0], q[1], q[2] = a0*x+a1*y+a2*z+a3, b0*x+b1*y+b2*z+b3, c0*x+c1*y+c2*z+c3
		n, o := (*[3]float32)(normals[3*vertex:]), (*[3]float32)(outNormals[3*vertex:])
		x, y, z = n[0], n[1], n[2]
		// The cofactor matrix has the cross products of the rows a, b and c for its own; each of them times n is a row times a cross product with n.
		ax, ay, az := a1*z-a2*y, a2*x-a0*z, a0*y-a1*x
		cx, cy, cz := c1*z-c2*y, c2*x-c0*z, c0*y-c1*x
		nx, ny, nz := b0*cx+b1*cy+b2*cz, -(a0*cx + a1*cy + a2*cz), -(b0*ax + b1*ay + b2*az)
		length := float32(math.Sqrt(float64(nx*nx + ny*ny + nz*nz)))
		if !(length > 1e-20) { // pressed flat: there is no telling
			nx, ny, nz, length = x, y, z, 1
		}
		share := 1 / length
		o[0], o[1], o[2] = nx*share, ny*share, nz*share
	}
}
