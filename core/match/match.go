// Package match brings the controls of a mechanism to where its joints stand as they are wanted: FK to what IK shows, IK to what FK shows,
// old poses to new controls. What is left over is measured and told.
package match

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Left is the greatest distance, turn and change of own scale of any joint from where it was wanted, and how far the model came away from where it was seen.
type Left struct {
	Moves    float64 `json:"moves"`    // metres
	Turns    float64 `json:"turns"`    // radians
	Girth    float64 `json:"girth"`    // of the own scale in any axis; 1 is twice as wide
	Vertices float64 `json:"vertices"` // metres; 0 where no body was looked at
}

// Value is the value that a channel or dial of a control was given, in metres, radians or the dial's unit.
type Value struct {
	Control string      `json:"control"`
	Channel rig.Channel `json:"channel"`
	Value   float64     `json:"value"`
}

// Seen returns how the joints of a mechanism stand in the present frame, in its order.
func Seen(e *evaluate.Evaluator, m rig.Mechanism) []geometry.Transform {
	e.Evaluate()
	seen := make([]geometry.Transform, len(m.Joints))
	for i, id := range m.Joints {
		seen[i] = e.Frame.Joints[e.Plan.JointIndex[id]]
	}
	return seen
}

// Take gives a mechanism charge of its joints by the dials that blend it with others, and brings its controls to where the joints stood
// before: the switch is not seen, but for what is left. Own scales are not sought, and vertices go along with joints: what is left of both is measured. body is
// the evaluator's, or nil.
func Take(e *evaluate.Evaluator, body *evaluate.Body, id string) ([]Value, Left, error) {
	d := e.Plan.Document
	m := d.Mechanism(id)
	if m == nil || len(m.Controls) == 0 || len(m.Joints) == 0 {
		return nil, Left{}, fmt.Errorf("%s has no controls that could be brought to its joints", d.NameOf(id))
	}
	if !m.On {
		return nil, Left{}, fmt.Errorf("%s is off; switch it on first", m.Name)
	}
	want := Seen(e, *m)
	before := look(e, body)
	dials, err := takeCharge(e, *m)
	if err != nil {
		return nil, Left{}, err
	}
	left, err := Solve(e, *m, want)
	if err != nil {
		return nil, Left{}, err
	}
	left.Girth, left.Vertices = before.away(e, body)
	return append(dials, Values(e, m.Controls)...), left, nil
}

// sight is what is seen beside where joints stand: their own scales, and the model's vertices, part after part.
type sight struct {
	scales   []mgl64.Vec3
	vertices [][]float32
}

func look(e *evaluate.Evaluator, body *evaluate.Body) sight {
	e.Evaluate()
	seen := sight{scales: slices.Clone(e.Frame.Scales)}
	if body != nil {
		body.Deform(e)
		for i := range body.Parts {
			seen.vertices = append(seen.vertices, slices.Clone(body.Parts[i].Positions))
		}
	}
	return seen
}

// away tells how far own scales and vertices came from what was seen.
func (s sight) away(e *evaluate.Evaluator, body *evaluate.Body) (girth, vertices float64) {
	now := look(e, body)
	for i := range s.scales {
		for axis := range 3 {
			girth = math.Max(girth, math.Abs(now.scales[i][axis]-s.scales[i][axis]))
		}
	}
	for i := range s.vertices {
		vertices = math.Max(vertices, evaluate.GreatestDistance(s.vertices[i], now.vertices[i]))
	}
	return girth, vertices
}

// takeCharge sets the dials so that the mechanism's influence is whole and that of those which lie over it nothing.
func takeCharge(e *evaluate.Evaluator, m rig.Mechanism) ([]Value, error) {
	d := e.Plan.Document
	at := slices.IndexFunc(d.Mechanisms, func(o rig.Mechanism) bool { return o.ID == m.ID })
	var dials []Value
	for i, other := range d.Mechanisms[at:] {
		wanted := 0.0
		if i == 0 {
			wanted = 1
		} else if !other.On || len(m.Joints) == 0 || !slices.ContainsFunc(other.Joints, func(id string) bool { return slices.Contains(m.Joints, id) }) {
			continue
		}
		if by, linked := d.LinkedTo(rig.Address{Of: other.ID, Key: mechanism.InfluenceKey}); linked && d.Control(by.Of) != nil {
			dial := rig.Channel(by.Key)
			if err := e.SetChannel(e.Plan.ControlIndex[by.Of], dial, wanted); err != nil {
				return nil, err
			}
			dials = append(dials, Value{by.Of, dial, wanted})
		}
		e.Evaluate()
		if share := e.Plan.Influences[at+i].At(e.Frame); math.Abs(share-wanted) > 1e-9 {
			return nil, fmt.Errorf("%s keeps an influence of %.3g and %s needs it at %g; drive it by a dial from 0 to 1", other.Name, share, m.Name, wanted)
		}
	}
	return dials, nil
}

// Values reads the channels of controls as they stand.
func Values(e *evaluate.Evaluator, controls []string) []Value {
	var values []Value
	for _, id := range controls {
		control := e.Plan.ControlIndex[id]
		for _, channel := range e.Plan.Document.Controls[control].AllChannels() {
			values = append(values, Value{id, channel, e.Frame.Inputs[e.Slot(control, channel)]})
		}
	}
	return values
}

// Solve brings the controls of a mechanism to where its joints stand as wanted, as nearly as they can, and tells what is left. It begins
// with each control carried along with the joint that is nearest to it at rest, which for FK is the answer, and with the controls as they
// are; from the better it goes on by least squares. The evaluator is left in the pose that was found.
func Solve(e *evaluate.Evaluator, m rig.Mechanism, want []geometry.Transform) (Left, error) {
	p := newProblem(e, m, want)
	best, cost := p.read(), p.cost()
	for _, turned := range []bool{true, false} {
		if err := p.carry(turned); err != nil {
			return Left{}, err
		}
		if now := p.cost(); now < cost {
			best, cost = p.read(), now
		}
	}
	p.write(best)
	if left := p.left(); left.Moves > exactMoves*p.size || left.Turns > exactTurns {
		p.descend(best)
	}
	return p.left(), nil
}

// What is left counts as nothing from here on: as a share of the chain's length, and in radians.
const (
	exactMoves = 1e-10
	exactTurns = 1e-8
)
