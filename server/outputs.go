package server

import (
	"encoding/binary"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// output is one kind of thing that a frame carries to the page: its four letters, and what appends its numbers. docs/live.md describes them.
type output struct {
	tag  string
	list func(s *stage, b []byte) []byte
}

// outputs is all that a frame carries. A new kind of output is one line here, and one reader in the page.
var outputs = []output{
	{"join", (*stage).joints},
	{"ctrl", (*stage).controls},
	{"curv", (*stage).curves},
	{"morf", (*stage).morphs},
	{"dial", (*stage).dials},
	{"idle", (*stage).idle},
	{"drvn", (*stage).driven},
	{"meas", (*stage).measured},
	{"inst", (*stage).instances},
	{"cmpr", (*stage).compareds}, // before the vertices that it mixes
	{"dfrm", (*stage).deformed},
}

// frameMagic begins every frame.
const frameMagic = 0x3246594d // "MYF2"

// goesOn is the flag of a frame that changes by itself, without the page asking for another pose.
const goesOn = 1

// curveSamples is how many points of each curve a frame carries.
const curveSamples = 64

// frame encodes the present state for the page; docs/live.md describes it. The slice is good until the next call.
func (s *stage) frame(seq uint32) []byte {
	flags := uint32(0)
	if s.evaluator.Restless() {
		flags |= goesOn
	}
	b := s.buffer[:0]
	for _, n := range []uint32{frameMagic, seq, uint32(s.sequence), math.Float32bits(float32(s.evaluator.Frame.Time)), flags, uint32(len(outputs))} {
		b = binary.LittleEndian.AppendUint32(b, n)
	}
	for _, o := range outputs {
		b = append(b, o.tag...)
		at := len(b)
		b = o.list(s, append(b, 0, 0, 0, 0))
		binary.LittleEndian.PutUint32(b[at:], uint32(len(b)-at-4)/4)
	}
	s.buffer = b
	return b
}

func (s *stage) joints(b []byte) []byte {
	for i := range s.evaluator.Frame.Joints {
		b = appendMatrix(b, s.evaluator.JointMatrix(i))
	}
	return b
}

// controls carries where each control stands, and what hand or clip say of its channels.
func (s *stage) controls(b []byte) []byte {
	f := s.evaluator.Frame
	for i := range f.Controls {
		b = appendMatrix(b, s.evaluator.ControlAt(i).Matrix(mgl64.Vec3{f.Size, f.Size, f.Size}))
		b = appendFloats(b, f.Inputs[i*rig.ChannelCount:(i+1)*rig.ChannelCount])
	}
	return b
}

// curves carries each curve with the place, in the document's list, of the mechanism whose it is.
func (s *stage) curves(b []byte) []byte {
	e := s.evaluator
	for i, curve := range e.Frame.Curves {
		owner := slices.IndexFunc(e.Plan.Document.Mechanisms, func(m rig.Mechanism) bool { return m.ID == e.Plan.CurveOwner[i] })
		b = appendFloat(b, float64(owner))
		for k := range curveSamples {
			p, _ := curve.Ruler.Line.At(float64(k) / (curveSamples - 1))
			p = e.Frame.Scaled(p)
			b = appendFloats(b, p[:])
		}
	}
	return b
}

func (s *stage) morphs(b []byte) []byte {
	from, to := s.evaluator.Plan.Layout.Morphs()
	return appendFloats(b, s.evaluator.Frame.Values[from:to])
}

func (s *stage) dials(b []byte) []byte {
	from, to := s.evaluator.Plan.Layout.Dials()
	return appendFloats(b, s.evaluator.Frame.Inputs[from:to])
}

func (s *stage) idle(b []byte) []byte {
	for i := range s.evaluator.Frame.Controls {
		idle := 0.0
		if s.evaluator.Idle(i) {
			idle = 1
		}
		b = appendFloat(b, idle)
	}
	return b
}

// driven carries, driver after driver, what has come of the number that it drives.
func (s *stage) driven(b []byte) []byte {
	for _, driver := range s.evaluator.Plan.Document.Drivers {
		b = appendFloat(b, s.valueAt(driver.Drives))
	}
	return b
}

func (s *stage) measured(b []byte) []byte {
	for _, m := range s.evaluator.Plan.Document.Measures {
		b = appendFloat(b, s.valueAt(rig.Address{Of: m.ID, Key: rig.MeasureKey}))
	}
	return b
}

// instances carries, set after set, whose it is, which part is drawn, how often, whether in its place, and where.
func (s *stage) instances(b []byte) []byte {
	d := s.evaluator.Plan.Document
	for set, instances := range s.evaluator.Plan.Instances {
		owner := slices.IndexFunc(d.Mechanisms, func(m rig.Mechanism) bool { return m.ID == instances.Owner })
		part := slices.IndexFunc(d.Parts, func(p rig.Part) bool { return p.ID == instances.Part })
		instead := 0.0
		if instances.Instead {
			instead = 1
		}
		b = appendFloats(b, []float64{float64(owner), float64(part), float64(instances.Count), instead})
		for k := range instances.Count {
			b = appendMatrix(b, s.evaluator.InstanceMatrix(set, k))
		}
	}
	return b
}

// deformed carries the vertices and normals of parts that no skin can say: which part, how many vertices, all places, all normals.
func (s *stage) deformed(b []byte) []byte {
	if s.comparison != nil {
		b = appendVertices(b, s.comparison.place, s.comparison.own)
	}
	if s.body == nil {
		return b
	}
	s.body.DeformMore(s.evaluator)
	for i := range s.body.Parts {
		p := &s.body.Parts[i]
		if p.Deformed() && (s.comparison == nil || s.comparison.place != i) {
			b = appendVertices(b, i, p)
		}
	}
	return b
}

// valueAt reads a number of the present frame; 0 for one that is not there.
func (s *stage) valueAt(a rig.Address) float64 {
	slot, ok := s.evaluator.Plan.Layout.Find(a)
	if !ok {
		return 0
	}
	return s.evaluator.Frame.Values[slot]
}

// appendMatrix appends the upper three rows of a matrix, by column: x axis, y axis, z axis, position.
func appendMatrix(b []byte, m mgl64.Mat4) []byte {
	for column := range 4 {
		b = appendFloats(b, m[4*column:4*column+3])
	}
	return b
}

func appendFloats(b []byte, values []float64) []byte {
	for _, value := range values {
		b = appendFloat(b, value)
	}
	return b
}

func appendFloat(b []byte, value float64) []byte {
	return binary.LittleEndian.AppendUint32(b, math.Float32bits(float32(value)))
}

// sameFindings tells whether two lists are equal.
func sameFindings(a, b []mechanism.Finding) bool { return slices.Equal(a, b) }
