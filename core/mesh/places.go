package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/spatial/kdtree"
)

// Places finds the vertices of a surface by where they are.
type Places struct{ tree *kdtree.Tree }

// NewPlaces readies the vertices of a surface to be found.
func NewPlaces(m *Mesh) *Places {
	place := make([]mgl64.Vec3, m.VertexCount())
	for i := range place {
		place[i] = m.Vertex(i)
	}
	return newPlaces(place, func(int) bool { return true })
}

// newPlaces readies those vertices to be found that are wanted.
func newPlaces(place []mgl64.Vec3, wanted func(vertex int) bool) *Places {
	list := placesOf{}
	for v, p := range place {
		if wanted(v) {
			list = append(list, placeOf{p, v})
		}
	}
	return &Places{kdtree.New(list, false)}
}

// Nearest returns the vertex that is nearest to p and how far that is, in metres; -1 where there are none.
func (p *Places) Nearest(to mgl64.Vec3) (vertex int, distance float64) {
	found, square := p.tree.Nearest(placeOf{place: to})
	if found == nil {
		return -1, math.Inf(1)
	}
	return found.(placeOf).vertex, math.Sqrt(square)
}

// Images returns for each vertex of the surface the spot nearest to its mirror image across the middle of the body, x = 0, and how far the farthest image lies off the surface, in metres. A vertex that
// belongs to no face is its own image.
func (w *Walk) Images() (images []Spot, farthest float64) {
	images = make([]Spot, len(w.place))
	for v, p := range w.place {
		image := mgl64.Vec3{-p[0], p[1], p[2]}
		spot, ok := w.NearestOn(image)
		if !ok {
			images[v] = Spot{Face: -1}
			continue
		}
		images[v], farthest = spot, math.Max(farthest, w.Place(spot).Sub(image).Len())
	}
	return images, farthest
}

// Corners returns the vertices that a spot lies between.
func (w *Walk) Corners(s Spot) [3]int {
	c := w.t.mesh.Triangles[3*s.Face : 3*s.Face+3]
	return [3]int{int(c[0]), int(c[1]), int(c[2])}
}

// placeOf is a vertex and where it is, for the tree.
type placeOf struct {
	place  mgl64.Vec3
	vertex int
}

func (s placeOf) Compare(other kdtree.Comparable, d kdtree.Dim) float64 {
	return s.place[d] - other.(placeOf).place[d]
}
func (s placeOf) Dims() int { return 3 }
func (s placeOf) Distance(other kdtree.Comparable) float64 {
	apart := s.place.Sub(other.(placeOf).place)
	return apart.Dot(apart)
}

type placesOf []placeOf

func (s placesOf) Index(i int) kdtree.Comparable         { return s[i] }
func (s placesOf) Len() int                              { return len(s) }
func (s placesOf) Slice(start, end int) kdtree.Interface { return s[start:end] }
func (s placesOf) Pivot(d kdtree.Dim) int                { return plane{s, d}.pivot() }

// plane sorts placesOf along an axis.
type plane struct {
	placesOf
	axis kdtree.Dim
}

func (p plane) Less(i, j int) bool { return p.placesOf[i].place[p.axis] < p.placesOf[j].place[p.axis] }
func (p plane) Swap(i, j int)      { p.placesOf[i], p.placesOf[j] = p.placesOf[j], p.placesOf[i] }
func (p plane) Slice(start, end int) kdtree.SortSlicer {
	return plane{p.placesOf[start:end], p.axis}
}
func (p plane) pivot() int { return kdtree.Partition(p, kdtree.MedianOfMedians(p)) }
