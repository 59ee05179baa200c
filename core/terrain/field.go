package terrain

import (
	"errors"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Field is a surface seen from above: the height of the highest face that looks up, over each place.
type Field struct {
	low, cell  mgl64.Vec2 // corner and size of the cells, over x and z
	wide, deep int
	first      []int32 // by cell: where its faces begin in list; one more at the end
	list       []int32
	faces      []face
	walls      int
}

// Walls is how many faces stand upright, so that what lies beside them is higher at once.
func (f *Field) Walls() int { return f.walls }

// face is a triangle over the level: its corners as x, z and height, and which way it looks.
type face struct {
	corners [3]mgl64.Vec3
	normal  mgl64.Vec3
}

// ErrNothing tells of a surface of which nothing looks up.
var ErrNothing = errors.New("no face of it looks up, so that nothing can stand on it; turn its faces round, or choose another part")

// steep is the least rise of a face's normal, of a unit, for it to count as looking up.
const steep = 1e-6

// upright is the rise of a normal, of a unit, below which a face counts as a wall.
const upright = 0.05

// roomOf is how many entries of faces in cells there may be for each face.
const roomOf = 8

// NewField lays out a surface. It is an error where nothing of it looks up.
func NewField(m *mesh.Mesh) (*Field, error) {
	f := &Field{}
	high := mgl64.Vec2{math.Inf(-1), math.Inf(-1)}
	f.low = mgl64.Vec2{math.Inf(1), math.Inf(1)}
	for i := range m.FaceCount() {
		a, b, c := m.Corner(i)
		normal := b.Sub(a).Cross(c.Sub(a))
		area := normal.Len()
		if !(area > 0) {
			continue
		}
		normal = normal.Mul(1 / area)
		if math.Abs(normal[1]) < upright {
			f.walls++
		}
		if normal[1] < steep {
			continue
		}
		x := face{normal: normal}
		for k, p := range []mgl64.Vec3{a, b, c} {
			x.corners[k] = mgl64.Vec3{p[0], p[2], p[1]}
			for axis := range 2 {
				f.low[axis], high[axis] = math.Min(f.low[axis], x.corners[k][axis]), math.Max(high[axis], x.corners[k][axis])
			}
		}
		f.faces = append(f.faces, x)
	}
	if len(f.faces) == 0 {
		return nil, ErrNothing
	}
	f.sort(high.Sub(f.low))
	return f, nil
}

// sort puts faces into cells: about one face to a cell, fewer cells where large faces would lie in too many.
func (f *Field) sort(size mgl64.Vec2) {
	longest := math.Max(size[0], size[1])
	for cells := len(f.faces); ; cells /= 4 {
		edge := math.Max(math.Sqrt(size[0]*size[1]/float64(max(1, cells))), longest/float64(max(1, cells)))
		f.wide, f.deep = max(1, int(math.Ceil(size[0]/edge))), max(1, int(math.Ceil(size[1]/edge)))
		f.cell = mgl64.Vec2{math.Max(size[0]/float64(f.wide), math.SmallestNonzeroFloat32), math.Max(size[1]/float64(f.deep), math.SmallestNonzeroFloat32)}
		if cells <= 1 || f.entries() <= roomOf*len(f.faces) {
			break
		}
	}
	f.first = make([]int32, f.wide*f.deep+1)
	f.each(func(cell, _ int) { f.first[cell+1]++ })
	for i := range f.wide * f.deep {
		f.first[i+1] += f.first[i]
	}
	f.list = make([]int32, f.first[len(f.first)-1])
	next := append([]int32{}, f.first...)
	f.each(func(cell, face int) {
		f.list[next[cell]] = int32(face)
		next[cell]++
	})
}

func (f *Field) entries() (count int) {
	for i := range f.faces {
		x0, x1, z0, z1 := f.spanOf(i)
		count += (x1 - x0 + 1) * (z1 - z0 + 1)
	}
	return count
}

func (f *Field) each(visit func(cell, face int)) {
	for i := range f.faces {
		x0, x1, z0, z1 := f.spanOf(i)
		for z := z0; z <= z1; z++ {
			for x := x0; x <= x1; x++ {
				visit(z*f.wide+x, i)
			}
		}
	}
}

// spanOf is the cells that a face may lie in.
func (f *Field) spanOf(i int) (x0, x1, z0, z1 int) {
	c := &f.faces[i].corners
	return f.column(0, math.Min(c[0][0], math.Min(c[1][0], c[2][0]))), f.column(0, math.Max(c[0][0], math.Max(c[1][0], c[2][0]))),
		f.column(1, math.Min(c[0][1], math.Min(c[1][1], c[2][1]))), f.column(1, math.Max(c[0][1], math.Max(c[1][1], c[2][1])))
}

// column is the cell along an axis in which something lies, the nearest for what lies outside.
func (f *Field) column(axis int, at float64) int {
	count := f.wide
	if axis == 1 {
		count = f.deep
	}
	return int(math.Max(0, math.Min(float64(count-1), math.Floor((at-f.low[axis])/f.cell[axis]))))
}

func (f *Field) facesOf(x, z int) []int32 {
	cell := z*f.wide + x
	return f.list[f.first[cell]:f.first[cell+1]]
}

// Height returns the height over a place. there is false where there is no surface: it goes on level from the nearest place that there is.
func (f *Field) Height(x, z float64) (height float64, there bool) {
	height, _, there = f.over(mgl64.Vec2{x, z})
	if !there {
		height, _ = f.nearest(mgl64.Vec2{x, z})
	}
	return height, there
}

// Normal returns which way the surface looks over a place; up where there is none.
func (f *Field) Normal(x, z float64) mgl64.Vec3 {
	if _, face, there := f.over(mgl64.Vec2{x, z}); there {
		return f.faces[face].normal
	}
	return geometry.Up
}

// over finds the highest face over a place.
func (f *Field) over(p mgl64.Vec2) (height float64, face int, there bool) {
	height = math.Inf(-1)
	for _, i := range f.facesOf(f.column(0, p[0]), f.column(1, p[1])) {
		if h, inside := f.faces[i].at(p); inside && h > height {
			height, face, there = h, int(i), true
		}
	}
	return height, face, there
}

// slack is how far outside of a face, as a share of it, a place may lie and be over it: neighbours leave no crack.
const slack = 1e-12

// at is the height of a face over a place, and whether it is over it.
func (x *face) at(p mgl64.Vec2) (height float64, inside bool) {
	a, b, c := x.corners[0], x.corners[1], x.corners[2]
	area := (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0])
	u := ((p[0]-a[0])*(c[1]-a[1]) - (p[1]-a[1])*(c[0]-a[0])) / area
	v := ((b[0]-a[0])*(p[1]-a[1]) - (b[1]-a[1])*(p[0]-a[0])) / area
	return a[2] + u*(b[2]-a[2]) + v*(c[2]-a[2]), u >= -slack && v >= -slack && u+v <= 1+slack
}

// nearest is the height of the surface where it is nearest to a place outside of it, over the level. Cells are looked through in growing squares.
func (f *Field) nearest(p mgl64.Vec2) (height, away float64) {
	height, away = 0, math.Inf(1)
	x, z := f.column(0, p[0]), f.column(1, p[1])
	outside := mgl64.Vec2{ // how far it lies outside of all cells
		math.Max(0, math.Max(f.low[0]-p[0], p[0]-f.low[0]-f.cell[0]*float64(f.wide))), math.Max(0, math.Max(f.low[1]-p[1], p[1]-f.low[1]-f.cell[1]*float64(f.deep))),
	}.Len()
	edge := math.Min(f.cell[0], f.cell[1])
	for ring := 0; ring <= max(f.wide, f.deep); ring++ {
		if math.Max(outside, edge*float64(ring-1)) > away { // no nearer one is left
			break
		}
		for k := z - ring; k <= z+ring; k++ {
			for i := x - ring; i <= x+ring; i++ {
				if i < 0 || k < 0 || i >= f.wide || k >= f.deep || max(i-x, x-i, k-z, z-k) != ring {
					continue
				}
				for _, at := range f.facesOf(i, k) {
					if h, d := f.faces[at].nearest(p); d < away || d == away && h > height {
						height, away = h, d
					}
				}
			}
		}
	}
	return height, away
}

// nearest is the height of the rim of a face where it is nearest to a place.
func (x *face) nearest(p mgl64.Vec2) (height, away float64) {
	away = math.Inf(1)
	for k := range 3 {
		a, b := x.corners[k], x.corners[(k+1)%3]
		way := mgl64.Vec2{b[0] - a[0], b[1] - a[1]}
		share := 0.0
		if length := way.LenSqr(); length > 0 {
			share = math.Max(0, math.Min(1, mgl64.Vec2{p[0] - a[0], p[1] - a[1]}.Dot(way)/length))
		}
		if d := math.Hypot(a[0]+share*way[0]-p[0], a[1]+share*way[1]-p[1]); d < away {
			height, away = a[2]+share*(b[2]-a[2]), d
		}
	}
	return height, away
}

// Highest returns how high the surface comes over the straight way from one place to another; no height at all where there is none.
func (f *Field) Highest(from, to mgl64.Vec2) float64 {
	highest := math.Inf(-1)
	x0, x1 := f.column(0, math.Min(from[0], to[0])), f.column(0, math.Max(from[0], to[0]))
	z0, z1 := f.column(1, math.Min(from[1], to[1])), f.column(1, math.Max(from[1], to[1]))
	for z := z0; z <= z1; z++ {
		for x := x0; x <= x1; x++ {
			for _, i := range f.facesOf(x, z) {
				highest = math.Max(highest, f.faces[i].highest(from, to))
			}
		}
	}
	return highest
}

// highest is the height of a face over the part of a way that runs over it. A face is flat, so that is at one of the ends of the part.
func (x *face) highest(from, to mgl64.Vec2) float64 {
	begin, end, ok := x.clip(from, to)
	if !ok {
		return math.Inf(-1)
	}
	way := to.Sub(from)
	first, _ := x.at(from.Add(way.Mul(begin)))
	last, _ := x.at(from.Add(way.Mul(end)))
	return math.Max(first, last)
}

// clip is the part of a way that runs over a face, as shares of it.
//
// Method: Cyrus and Beck 1978, Generalized two- and three-dimensional clipping.
func (x *face) clip(from, to mgl64.Vec2) (begin, end float64, ok bool) {
	begin, end = 0, 1
	way := to.Sub(from)
	a, b, c := x.corners[0], x.corners[1], x.corners[2]
	hand := math.Copysign(1, (b[0]-a[0])*(c[1]-a[1])-(b[1]-a[1])*(c[0]-a[0]))
	for k := range 3 {
		p, q := x.corners[k], x.corners[(k+1)%3]
		inward := mgl64.Vec2{-(q[1] - p[1]), q[0] - p[0]}.Mul(hand)
		gain, there := inward.Dot(way), inward.Dot(mgl64.Vec2{from[0] - p[0], from[1] - p[1]})
		switch {
		case gain > 0:
			begin = math.Max(begin, -there/gain)
		case gain < 0:
			end = math.Min(end, -there/gain)
		case there < 0:
			return 0, 0, false
		}
	}
	return begin, end, begin <= end
}
