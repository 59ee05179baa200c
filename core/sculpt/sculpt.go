// Package sculpt has a hand shape a morph target on the body as it is posed. What the hand does is done where the body is seen, and kept at rest: taken back through all that moves the part.
package sculpt

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/morph"
)

// Stroke is what a hand does from where it takes hold to where it lets go.
type Stroke struct {
	Part     string    `json:"part"`
	Morph    string    `json:"morph"`
	Act      morph.Act `json:"act"`
	Reach    float64   `json:"reach"`    // metres over the surface at rest
	Strength float64   `json:"strength"` // of what works again at every place, 0 to 1
	Mirrored bool      `json:"mirrored,omitempty"`
	Picked   []int     `json:"picked,omitempty"` // vertices that it holds wherever it takes hold, with what lies within reach of them
}

// Check tells what is wrong with a stroke.
func (s Stroke) Check() error {
	if err := s.Act.Check(); err != nil {
		return err
	}
	switch {
	case !(s.Reach > 0) || math.IsInf(s.Reach, 1):
		return fmt.Errorf("a hand reaches over more than nothing, not %g", s.Reach)
	case !(s.Strength >= 0 && s.Strength <= 1):
		return fmt.Errorf("the strength of a hand is 0 to 1, not %g", s.Strength)
	}
	return nil
}

// leastAmount is how much of a morph target must be seen for it to be shaped.
const leastAmount = 0.05

// Sculptor is a stroke under way.
type Sculptor struct {
	stroke Stroke
	e      *evaluate.Evaluator
	part   *evaluate.BodyPart
	amount float64 // of the morph target that is shaped, as it is seen
	place  int     // of it among the part's
	walk   *mesh.Walk
	images []mesh.Spot // by vertex, where it is mirrored

	shaped []float32    // the part as its morph targets have it before the skin
	start  []float32    // the same, when the hand took hold
	posed  []float32    // as it was seen when the hand took hold
	slopes [3][]float32 // how that goes with the shaped one, for each axis
	moved  map[int]bool // vertices
	grip   morph.Grip   // of an act that goes with the hand
	at     mgl64.Vec3   // where it took hold
	plane  mgl64.Vec3   // of the hand: at right angles to the view
	still  func(int) mgl64.Vec3
	short  map[int]float64 // by vertex: how far it stands from where the hand wants it, metres
}

// New readies the part of a body for a stroke, in the pose of an evaluator that has been evaluated.
func New(e *evaluate.Evaluator, body *evaluate.Body, stroke Stroke) (*Sculptor, error) {
	if err := stroke.Check(); err != nil {
		return nil, err
	}
	s := &Sculptor{stroke: stroke, e: e, moved: map[int]bool{}, short: map[int]float64{}}
	for i := range body.Parts {
		if body.Parts[i].Part.ID == stroke.Part {
			s.part = &body.Parts[i]
		}
	}
	if s.part == nil {
		return nil, fmt.Errorf("there is no part %q here; it may have been removed meanwhile", stroke.Part)
	}
	if s.place = s.part.Part.Morph(stroke.Morph); s.place < 0 {
		return nil, fmt.Errorf("%s has no morph target %q; it may have been removed meanwhile", s.part.Part.Name, stroke.Morph)
	}
	if s.amount = s.part.Amount(e, s.place); math.Abs(s.amount) < leastAmount {
		return nil, fmt.Errorf("%.2g of %s is seen, and what is not seen cannot be shaped; bring it to 1, or what drives it to where it is 1", s.amount, stroke.Morph)
	}
	rest := s.part.Rest
	for _, v := range stroke.Picked {
		if v < 0 || v >= rest.VertexCount() {
			return nil, fmt.Errorf("there is no vertex %d; the part has %d", v, rest.VertexCount())
		}
	}
	if !(rest.Bounds().Size() > 0) {
		return nil, fmt.Errorf("all vertices of %s stand in one place; there is no shape to be made of them", s.part.Part.Name)
	}
	s.walk = mesh.NewWalk(rest)
	if stroke.Mirrored {
		s.images, _ = s.walk.Images()
	}
	s.shape()
	return s, nil
}

// shape reads how the part stands, and how that goes with its shape before the skin, by differences: all vertices at once, since none hangs on another.
func (s *Sculptor) shape() {
	mixed := &mesh.Mesh{Positions: append([]float32{}, s.part.Rest.Positions...)}
	for k, deltas := range s.part.Morphs {
		plain := mesh.Deltas{Positions: deltas.Positions}
		plain.Mix(float32(s.part.Amount(s.e, k)), mixed)
	}
	s.shaped = mixed.Positions
	s.start = append([]float32{}, s.shaped...)
	s.posed = append([]float32{}, s.seen()...)
	without := append([]float32{}, s.shaped...)
	for i, by := range s.part.Morphs[s.place].Positions {
		without[i] -= float32(s.amount) * by
	}
	s.part.Through(s.e, without)
	still := append([]float32{}, s.part.Positions...)
	s.still = func(v int) mgl64.Vec3 { return vector(still, v) }
	s.differ()
}

// nudge is how far vertices are moved to see what comes of it, as a share of the part's size. It is large beside the rounding of single precision.
const nudge = 1e-2

func (s *Sculptor) differ() {
	by := float32(nudge * s.part.Rest.Bounds().Size())
	base := append([]float32{}, s.seen()...)
	for axis := range 3 {
		nudged := append([]float32{}, s.shaped...)
		for i := axis; i < len(nudged); i += 3 {
			nudged[i] += by
		}
		s.part.Through(s.e, nudged)
		s.slopes[axis] = make([]float32, len(base))
		for i := range base {
			s.slopes[axis][i] = (s.part.Positions[i] - base[i]) / by
		}
	}
}

// seen is the part as it stands with the present shape.
func (s *Sculptor) seen() []float32 {
	s.part.Through(s.e, s.shaped)
	return s.part.Positions
}

// Take puts the hand on the part under a ray, seen along facing. ok is false where there is nothing of it.
func (s *Sculptor) Take(ray mesh.Ray, facing mgl64.Vec3) (spot mesh.Spot, ok bool) {
	s.plane = geometry.Unit(facing, geometry.Up)
	spot, ok = (&mesh.Mesh{Positions: s.posed, Triangles: s.part.Rest.Triangles}).Strike(ray)
	if !ok {
		return spot, false
	}
	s.at = s.placeOf(spot)
	if len(s.stroke.Picked) > 0 {
		s.grip = morph.GripOf(s.walk, s.stroke.Picked, s.stroke.Reach)
	} else {
		s.grip = morph.GripAt(s.walk, spot, s.stroke.Reach)
	}
	return spot, true
}

func (s *Sculptor) placeOf(spot mesh.Spot) (p mgl64.Vec3) {
	for k, share := range spot.Shares {
		p = p.Add(vector(s.posed, int(s.part.Rest.Triangles[3*spot.Face+k])).Mul(share))
	}
	return p
}

// Draw brings the hand to where a ray crosses its plane: what it holds goes along.
func (s *Sculptor) Draw(ray mesh.Ray) error {
	if !s.stroke.Act.Holds() {
		return errors.New("this works at every place that the hand comes to; touch it there")
	}
	across := ray.Direction.Dot(s.plane)
	if math.Abs(across) < 1e-9 {
		return nil
	}
	by := ray.Origin.Add(ray.Direction.Mul(s.at.Sub(ray.Origin).Dot(s.plane) / across)).Sub(s.at)
	right := geometry.Across(s.plane.Cross(geometry.Up), s.plane)
	aside := by.Dot(right) / s.reached()
	copy(s.shaped, s.start)
	s.do(s.grip, morph.Hand{At: s.middle(), By: by, Facing: s.plane, Angle: -aside, Factor: math.Exp(math.Max(-mostScale, math.Min(mostScale, aside)))}, s.posed)
	return nil
}

// reached is how far the hand reaches where the body is seen, in metres.
func (s *Sculptor) reached() float64 { return s.stroke.Reach * s.e.Frame.Size }

// mostScale is the logarithm of how much a hand makes something larger or smaller at most.
const mostScale = 3

// middle is what a hand turns and scales about: the middle of what is picked, or where it took hold.
func (s *Sculptor) middle() mgl64.Vec3 {
	if len(s.stroke.Picked) == 0 {
		return s.at
	}
	sum := mgl64.Vec3{}
	for _, v := range s.stroke.Picked {
		sum = sum.Add(vector(s.posed, v).Mul(1 / float64(len(s.stroke.Picked))))
	}
	return sum
}

// pushed is how far a push at full strength goes at each place that the hand comes to, in reaches.
const pushed = 0.08

// Touch works once on what lies under a ray. It tells whether there was anything.
func (s *Sculptor) Touch(ray mesh.Ray) (bool, error) {
	if s.stroke.Act.Holds() {
		return false, errors.New("this goes with the hand; draw it")
	}
	now := append([]float32{}, s.seen()...)
	spot, ok := (&mesh.Mesh{Positions: now, Triangles: s.part.Rest.Triangles}).Strike(ray)
	if !ok {
		return false, nil
	}
	grip := s.grip
	if len(s.stroke.Picked) == 0 {
		grip = morph.GripAt(s.walk, spot, s.stroke.Reach)
	}
	amount := s.stroke.Strength
	if s.stroke.Act == morph.Push || s.stroke.Act == morph.Pull {
		amount *= pushed * s.reached()
	}
	s.do(grip, morph.Hand{Amount: amount}, now)
	return true, nil
}

// do moves a grip as an act would where it is seen, and takes that back through the skin.
func (s *Sculptor) do(grip morph.Grip, hand morph.Hand, now []float32) {
	form := morph.Shape{Walk: s.walk, Place: func(v int) mgl64.Vec3 { return vector(now, v) }, Still: s.still}
	by := form.Do(s.stroke.Act, grip, hand)
	before := s.shaped
	s.shaped = append([]float32{}, before...)
	s.reach(grip.Vertices, by, now)
	if s.images != nil {
		s.shaped = s.bothSides(grip, before)
	}
	for i := range s.shaped {
		if s.shaped[i] != before[i] {
			s.moved[i/3] = true
		}
	}
}

// bothSides does at rest on the one side what was done on the other.
func (s *Sculptor) bothSides(grip morph.Grip, before []float32) []float32 {
	by := make([]mgl64.Vec3, len(grip.Vertices))
	for i, v := range grip.Vertices {
		by[i] = vector(s.shaped, v).Sub(vector(before, v))
	}
	grip, by = morph.BothSides(s.walk, grip, by, s.images)
	out := append([]float32{}, before...)
	for i, v := range grip.Vertices {
		put(out, v, vector(before, v).Add(by[i]))
	}
	return out
}

// Changed returns the vertices that the stroke has moved so far, and how far it moves each in the morph target, at rest, in single precision.
func (s *Sculptor) Changed() (vertices []int, by [][3]float32) {
	for v := range s.part.Rest.VertexCount() {
		if !s.moved[v] {
			continue
		}
		off := vector(s.shaped, v).Sub(vector(s.start, v)).Mul(1 / s.amount)
		vertices, by = append(vertices, v), append(by, [3]float32{float32(off[0]), float32(off[1]), float32(off[2])})
	}
	return vertices, by
}

// Short is how far a vertex stands from where the hand wants it, in metres: where the skin presses all flat, not every place can be come to.
func (s *Sculptor) Short(vertex int) float64 { return s.short[vertex] }

// Amount is how much of the morph target is seen.
func (s *Sculptor) Amount() float64 { return s.amount }

// Deltas is the morph target as the stroke has it so far, without normals, and its place among the part's.
func (s *Sculptor) Deltas() (d *mesh.Deltas, place int) {
	d = &mesh.Deltas{Positions: append([]float32{}, s.part.Morphs[s.place].Positions...)}
	for i := range d.Positions {
		d.Positions[i] += (s.shaped[i] - s.start[i]) / float32(s.amount)
	}
	return d, s.place
}

func vector(list []float32, i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
}

func put(list []float32, i int, v mgl64.Vec3) {
	for k := range 3 {
		list[3*i+k] = float32(v[k])
	}
}
