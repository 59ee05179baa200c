package skin

import (
	"math"
	"runtime"
	"sync"

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

// Deform moves positions and normals by linear-blend skinning: out = Σ weight · matrix[joint] · in. palette holds one matrix for
// each joint of the binding. Outputs are flat like the inputs and of the same length; Deform allocates nothing. Large parts
// are split over the cores; the result does not depend on how.
func Deform(weights *Weights, palette []Matrix, positions, normals, outPositions, outNormals []float32) {
	count := weights.VertexCount()
	pieces := min(runtime.GOMAXPROCS(0), count/minPiece+1)
	if pieces == 1 {
		deformRange(weights, palette, positions, normals, outPositions, outNormals, 0, count)
		return
	}
	startWorkers.Do(startPool)
	done := waitGroups.Get().(*sync.WaitGroup)
	done.Add(pieces)
	for piece := range pieces {
		work <- order{weights, palette, positions, normals, outPositions, outNormals, count * piece / pieces, count * (piece + 1) / pieces, done}
	}
	done.Wait()
	waitGroups.Put(done)
}

// minPiece is how many vertices are worth another core.
const minPiece = 4096

type order struct {
	weights                                      *Weights
	palette                                      []Matrix
	positions, normals, outPositions, outNormals []float32
	from, to                                     int
	done                                         *sync.WaitGroup
}

var (
	startWorkers sync.Once
	work         chan order
	waitGroups   = sync.Pool{New: func() any { return new(sync.WaitGroup) }}
)

func startPool() {
	work = make(chan order, 64)
	for range runtime.GOMAXPROCS(0) {
		go func() {
			for o := range work {
				deformRange(o.weights, o.palette, o.positions, o.normals, o.outPositions, o.outNormals, o.from, o.to)
				o.done.Done()
			}
		}()
	}
}

func deformRange(weights *Weights, palette []Matrix, positions, normals, outPositions, outNormals []float32, from, to int) {
	for vertex := from; vertex < to; vertex++ {
		joints := (*[Influences]uint16)(weights.Joints[Influences*vertex:])
		values := (*[Influences]float32)(weights.Values[Influences*vertex:])
		m := blend(palette, joints, values)
		p, n := (*[3]float32)(positions[3*vertex:]), (*[3]float32)(normals[3*vertex:])
		q, o := (*[3]float32)(outPositions[3*vertex:]), (*[3]float32)(outNormals[3*vertex:])
		x, y, z := p[0], p[1], p[2]
		q[0] = m[0]*x + m[1]*y + m[2]*z + m[3]
		q[1] = m[4]*x + m[5]*y + m[6]*z + m[7]
		q[2] = m[8]*x + m[9]*y + m[10]*z + m[11]
		x, y, z = n[0], n[1], n[2]
		nx := m[0]*x + m[1]*y + m[2]*z
		ny := m[4]*x + m[5]*y + m[6]*z
		nz := m[8]*x + m[9]*y + m[10]*z
		length := float32(math.Sqrt(float64(nx*nx + ny*ny + nz*nz)))
		if length < 1e-20 {
			nx, ny, nz, length = x, y, z, 1
		}
		o[0], o[1], o[2] = nx/length, ny/length, nz/length
	}
}

// blend sums the matrices of a vertex; the strongest comes first and the first weight of 0 ends the list.
func blend(palette []Matrix, joints *[Influences]uint16, values *[Influences]float32) (m Matrix) {
	first, weight := &palette[joints[0]], values[0]
	for i := range m {
		m[i] = weight * first[i]
	}
	for k := 1; k < Influences; k++ {
		weight := values[k]
		if weight == 0 {
			break
		}
		matrix := &palette[joints[k]]
		for i := range m {
			m[i] += weight * matrix[i]
		}
	}
	return m
}
