package mesh

import (
	"container/heap"
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// ErrNotATube tells that a surface has no single line through its middle.
var ErrNotATube = errors.New("this is not a tube")

// CentreLine returns the line through the middle of a tube: a hose, a wire, an antenna, capped or open at its ends, straight or
// curled. The points stand close together, run from one end to the other and include the ends; radius is the mean radius of its
// sections. Errors wrap ErrNotATube.
//
// Method: the distance along the surface from one end (Dijkstra 1959) orders the tube; the middles of its levels give a first line, as
// in level-set skeletons (Verroust and Lazarus 2000, Extracting skeletal curves from 3D scattered data). Each point then moves to the
// middle of the section across the line there until it stays, and from the outermost the line goes on by small steps to the ends.
// Across a swept circle the middle of a section is exact, however the sweep curls.
func (t *Topology) CentreLine() (line []mgl64.Vec3, radius float64, err error) {
	if pieces := t.Pieces(); len(pieces) != 1 {
		return nil, 0, fmt.Errorf("%w: it has %d loose pieces; pick one of them", ErrNotATube, len(pieces))
	}
	if line, err = t.levels(); err != nil {
		return nil, 0, err
	}
	if line, radius, err = t.settle(line, max(24, len(line))); err != nil {
		return nil, 0, err
	}
	dense := min(maxPoints, int(length(line)/(0.5*radius)))
	if line, radius, err = t.settle(line, max(len(line), dense)); err != nil {
		return nil, 0, err
	}
	line = t.onward(line, radius)
	slices.Reverse(line)
	line = t.onward(line, radius)
	if length(line) < leastSlenderness*radius {
		return nil, 0, fmt.Errorf("%w: it is hardly longer than it is wide; lay a chain by clicking instead", ErrNotATube)
	}
	return line, radius, checkAround(t.mesh, line, radius)
}

const (
	refinements      = 6
	leastSlenderness = 4 // length in radii
	maxPoints        = 1000
	facesPerLevel    = 18
)

func length(line []mgl64.Vec3) (sum float64) {
	for i := 1; i < len(line); i++ {
		sum += line[i].Sub(line[i-1]).Len()
	}
	return sum
}

// settle spreads a line over count points, moves them to the middles of their sections, and leaves off the outermost, where sections may
// be cut by the ends.
func (t *Topology) settle(line []mgl64.Vec3, count int) ([]mgl64.Vec3, float64, error) {
	line = evened(line, count)
	radius := 0.0
	for range refinements {
		var err error
		if radius, err = t.refine(line); err != nil {
			return nil, 0, err
		}
	}
	trim := max(2, min(len(line)/8, int(2*radius/math.Max(length(line)/float64(len(line)-1), 1e-300))))
	if len(line)-2*trim < 4 {
		return nil, 0, fmt.Errorf("%w: it is hardly longer than it is wide; lay a chain by clicking instead", ErrNotATube)
	}
	return slices.Clone(line[trim : len(line)-trim]), radius, nil
}

// checkAround refuses surfaces that reach further from the line than a tube does: branches, plates, closed rings.
func checkAround(m *Mesh, line []mgl64.Vec3, radius float64) error {
	for i := range m.VertexCount() {
		p := m.Vertex(i)
		near := math.Inf(1)
		for _, q := range line {
			near = math.Min(near, q.Sub(p).Len())
		}
		if near > 2.5*radius {
			return fmt.Errorf("%w: part of it lies %.1f radii from its middle, so it branches, bulges or closes on itself; pick only the hose itself", ErrNotATube, near/radius)
		}
	}
	return nil
}

// onward goes on from the end of a line by steps of a fifth of the radius, each corrected to the middle of its section, until the tube
// ends, and then to where its surface ends ahead.
func (t *Topology) onward(line []mgl64.Vec3, radius float64) []mgl64.Vec3 {
	step := radius / 5
	for range 40 * maxPoints {
		next, ok := t.stepOn(line, step, radius)
		if ok {
			line = append(line, next)
			continue
		}
		if step < radius/100 {
			break
		}
		step /= 2
	}
	last := line[len(line)-1]
	ahead := geometry.Unit(last.Sub(line[len(line)-2]), geometry.Up)
	reach, count := 0.0, 0.0
	m := t.mesh
	for i := range m.VertexCount() {
		away := m.Vertex(i).Sub(last)
		along := away.Dot(ahead)
		if along > 0 && along < radius && away.Sub(ahead.Mul(along)).Len() < 1.2*radius {
			reach, count = reach+along, count+1
		}
	}
	if count > 0 && reach/count > radius/100 {
		line = append(line, last.Add(ahead.Mul(reach/count)))
	}
	return line
}

// stepOn finds the next place beyond the end of a line: on the circle through its last points, then in the middle of the section there.
func (t *Topology) stepOn(line []mgl64.Vec3, step, radius float64) (mgl64.Vec3, bool) {
	n := len(line)
	last := line[n-1]
	before := geometry.Unit(line[n-2].Sub(line[n-3]), geometry.Up)
	ahead := geometry.Unit(last.Sub(line[n-2]), before)
	spacing := math.Max(last.Sub(line[n-2]).Len(), 1e-300)
	bend := ahead.Sub(before).Mul(2 / (spacing + math.Max(line[n-2].Sub(line[n-3]).Len(), 1e-300))) // per length
	heading := geometry.Unit(ahead.Add(bend.Mul((spacing+step)/2)), ahead)
	place := last.Add(heading.Mul(step))
	across := geometry.Unit(ahead.Add(bend.Mul(spacing/2+step)), heading)
	loop := t.loopAround(place, across)
	if loop == nil {
		return place, false
	}
	middle := polygonCentre(loop)
	reach := 0.0
	for _, p := range loop {
		reach += p.Sub(middle).Len() / float64(len(loop))
	}
	moved := middle.Sub(last)
	ok := reach > 0.15*radius && middle.Sub(place).Len() < 0.03*step+2e-3*radius && moved.Dot(heading) > 0.3*step
	return middle, ok
}

// fromEnd returns the distance along edges of every welded vertex from one end of the tube, and the greatest of them. The end is the
// place furthest from the place furthest from anywhere.
func (t *Topology) fromEnd() (distances map[int32]float64, far float64) {
	start := t.weld[t.mesh.Triangles[0]]
	for range 2 {
		start, _ = furthest(t.spread(start))
	}
	distances = t.spread(start)
	_, far = furthest(distances)
	return distances, far
}

func furthest(distances map[int32]float64) (at int32, far float64) {
	at = -1
	for v, d := range distances {
		if d > far || d == far && (at < 0 || v < at) {
			at, far = v, d
		}
	}
	return at, far
}

type reached struct {
	at       int32
	distance float64
}
type frontier []reached

func (f frontier) Len() int           { return len(f) }
func (f frontier) Less(i, j int) bool { return f[i].distance < f[j].distance }
func (f frontier) Swap(i, j int)      { f[i], f[j] = f[j], f[i] }
func (f *frontier) Push(x any)        { *f = append(*f, x.(reached)) }
func (f *frontier) Pop() any {
	last := (*f)[len(*f)-1]
	*f = (*f)[:len(*f)-1]
	return last
}

func (t *Topology) spread(start int32) map[int32]float64 {
	distances := map[int32]float64{start: 0}
	front := &frontier{{start, 0}}
	for front.Len() > 0 {
		here := heap.Pop(front).(reached)
		if here.distance > distances[here.at] {
			continue
		}
		t.neighbours(here.at, func(other int32) {
			d := here.distance + t.mesh.Vertex(int(other)).Sub(t.mesh.Vertex(int(here.at))).Len()
			if known, ok := distances[other]; !ok || d < known {
				distances[other] = d
				heap.Push(front, reached{other, d})
			}
		})
	}
	return distances
}

// levels returns the middles of the bands of surface that lie at like distances from one end.
func (t *Topology) levels() ([]mgl64.Vec3, error) {
	count := max(6, min(48, t.mesh.FaceCount()/facesPerLevel)) // a band of fewer faces says little about its middle
	distances, far := t.fromEnd()
	sums := make([]mgl64.Vec3, count)
	weights := make([]float64, count)
	for face := range t.mesh.FaceCount() {
		a, b, c := t.mesh.Corner(face)
		area := b.Sub(a).Cross(c.Sub(a)).Len()
		corners := t.corners(int32(face))
		mean := (distances[corners[0]] + distances[corners[1]] + distances[corners[2]]) / 3
		at := min(count-1, int(mean/math.Max(far, 1e-300)*float64(count)))
		sums[at] = sums[at].Add(a.Add(b).Add(c).Mul(area / 3))
		weights[at] += area
	}
	var line []mgl64.Vec3
	for i := range sums {
		if weights[i] > 0 {
			line = append(line, sums[i].Mul(1/weights[i]))
		}
	}
	if len(line) < 4 {
		return nil, fmt.Errorf("%w: its surface is too coarse to find a line through it; pick a finer one or lay a chain by clicking", ErrNotATube)
	}
	return line, nil
}

// refine moves every inner point of the line to the middle of the section across it, and tells the mean radius.
func (t *Topology) refine(line []mgl64.Vec3) (radius float64, err error) {
	moved := make([]mgl64.Vec3, len(line))
	copy(moved, line)
	count := 0
	for i := 1; i+1 < len(line); i++ {
		tangent := tangentAt(line, i)
		loop := t.loopAround(line[i], tangent)
		if loop == nil {
			if i < len(line)/6 || i >= len(line)-len(line)/6 {
				continue // near an end the plane may leave through it
			}
			return 0, fmt.Errorf("%w: it is not closed around its middle; close its seams, or pick only the hose itself", ErrNotATube)
		}
		moved[i] = polygonCentre(loop)
		mean := 0.0
		for _, p := range loop {
			mean += p.Sub(moved[i]).Len() / float64(len(loop))
		}
		radius += mean
		count++
	}
	if count == 0 {
		return 0, fmt.Errorf("%w: no section across it is closed", ErrNotATube)
	}
	radius /= float64(count)
	for i := range line {
		if moved[i].Sub(line[i]).Len() > 8*radius+1e-9 {
			return 0, fmt.Errorf("%w: it branches or bulges; pick only the hose itself", ErrNotATube)
		}
	}
	copy(line, moved)
	return radius, nil
}

// tangentAt is the direction of a line at an inner point, by a parabola through it and its neighbours.
func tangentAt(line []mgl64.Vec3, i int) mgl64.Vec3 {
	before, after := line[i].Sub(line[i-1]), line[i+1].Sub(line[i])
	a, b := math.Max(before.Len(), 1e-300), math.Max(after.Len(), 1e-300)
	return geometry.Unit(before.Mul(b/a).Add(after.Mul(a/b)), geometry.Unit(after, geometry.Up))
}

// evened spreads count points evenly along a line.
func evened(line []mgl64.Vec3, count int) []mgl64.Vec3 {
	run := make([]float64, len(line))
	for i := 1; i < len(line); i++ {
		run[i] = run[i-1] + line[i].Sub(line[i-1]).Len()
	}
	even := make([]mgl64.Vec3, count)
	at := 0
	for i := range even {
		want := run[len(run)-1] * float64(i) / float64(count-1)
		for at < len(line)-2 && run[at+1] < want {
			at++
		}
		share := 0.0
		if bone := run[at+1] - run[at]; bone > 0 {
			share = (want - run[at]) / bone
		}
		even[i] = line[at].Add(line[at+1].Sub(line[at]).Mul(share))
	}
	return even
}

// TraceTube returns count places at even distances along the middle of a tube, its ends included.
func TraceTube(m *Mesh, count int) ([]mgl64.Vec3, error) {
	t := NewTopology(m)
	line, _, err := t.CentreLine()
	if err != nil {
		return nil, err
	}
	places := evened(line, count)
	for i := 1; i+1 < count; i++ { // between the points of the line its middle is found anew
		tangent := tangentNear(line, places[i])
		if loop := t.loopAround(places[i], tangent); loop != nil {
			places[i] = polygonCentre(loop)
		}
	}
	return places, nil
}

// tangentNear is the direction of a line at its point nearest to a place.
func tangentNear(line []mgl64.Vec3, p mgl64.Vec3) mgl64.Vec3 {
	best, nearest := 1, math.Inf(1)
	for i := 1; i+1 < len(line); i++ {
		if d := line[i].Sub(p).Len(); d < nearest {
			best, nearest = i, d
		}
	}
	return tangentAt(line, best)
}
