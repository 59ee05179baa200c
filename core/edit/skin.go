package edit

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// AlongChain is the name of the binding method that blends along chains.
const AlongChain = "along chain"

// Bind attaches parts to joints with smooth weights: by the balance of heat over the surface, by distance, or along the chain. A part that is bound already is bound anew. Nothing
// moves by it.
type Bind struct {
	Parts  []string `json:"parts"`
	Joints []string `json:"joints"`
	Method string   `json:"method,omitempty"` // how weights are worked out; empty for along the chain
	Blend  float64  `json:"blend,omitempty"`  // along the chain: how far a joint hands over to the next, in bones to each side
	// Alike binds parts that are named alike as well, each to the joints that are named so: with leg_L01 to leg_L01_1 and leg_L01_2 also
	// leg_R07 to leg_R07_1 and leg_R07_2.
	Alike bool `json:"alike,omitempty"`
	// Keep has what was painted since a part was bound stay as it is, as far as the joints are still among those that it is bound to.
	Keep bool `json:"keep,omitempty"`
}

// BindParameters declares what a binding takes, for edits and the interface.
func BindParameters() parameter.Declared {
	return parameter.Declared{
		{
			Key: "method", Title: "Weights by", Type: parameter.Choice, Choices: []string{string(skin.Heat), string(skin.Distance), AlongChain, string(skin.Nearest)},
			Default: parameter.OfChoice(string(skin.Heat)),
			Help:    "Heat spreads over the surface from the joints near it; distance goes through the volume; along a chain each bone hands over to the next; nearest gives every vertex to one joint.",
		},
		{
			Key: "blend", Title: "Blend, in bones", Type: parameter.Number, Min: skin.LeastBlend, Max: skin.MostBlend,
			Default: parameter.OfNumber(skin.MostBlend), Help: "Along a chain: how far a joint hands over to the next, in bones to each side.",
		},
	}
}

// settings are what the edit takes, where something is left out as it was before there was a choice.
func (e *Bind) settings() (method string, blend float64, err error) {
	method, blend = e.Method, e.Blend
	if method == "" {
		method = AlongChain
	}
	if e.Method != "" && blend == 0 {
		blend = skin.MostBlend
	}
	return method, blend, BindParameters().Check(parameter.Set{"method": parameter.OfChoice(method), "blend": parameter.OfNumber(blend)})
}

func (*Bind) builds() {}

// Title implements Edit.
func (e *Bind) Title(d *rig.Document) string {
	if len(e.Parts) == 1 {
		return "Bind " + d.NameOf(e.Parts[0])
	}
	return fmt.Sprintf("Bind %d parts", len(e.Parts))
}

// Touches implements Edit.
func (e *Bind) Touches(d *rig.Document) []string {
	touched := append(slices.Clone(e.Parts), e.Joints...)
	for _, id := range e.Parts {
		if e.Alike && d.Part(id) != nil {
			for _, p := range alike(d, id, e.Joints, e.Parts) {
				touched = append(append(touched, p.part), p.joints...)
			}
		}
	}
	return touched
}

// Apply implements Edit.
func (e *Bind) Apply(c *Context, d *rig.Document) error {
	if len(e.Parts) == 0 {
		return errors.New("no part is chosen; choose the parts to bind")
	}
	method, blend, err := e.settings()
	if err != nil {
		return err
	}
	pairs := []pair{}
	for _, id := range e.Parts {
		if d.Part(id) == nil {
			return missing("part", id)
		}
		pairs = append(pairs, pair{id, e.Joints})
		if e.Alike {
			pairs = append(pairs, alike(d, id, e.Joints, e.Parts)...)
		}
	}
	taken := hungElsewhere(d, pairs)
	made, err := weigh(c, d, pairs, method, blend)
	if err != nil {
		return err
	}
	for i, p := range pairs {
		bound := rig.Binding{Part: p.part, Joints: slices.Clone(p.joints), Method: method, Blend: blend, Made: c.Keep(made[i].Weights.Encode())}
		bound.Weights = bound.Made
		if err := e.follow(c, d, &bound, made[i].Weights); err != nil {
			return err
		}
		d.Bindings = slices.DeleteFunc(d.Bindings, func(b rig.Binding) bool { return b.Part == p.part })
		bound.ID = d.TakeID("b")
		d.Bindings = append(d.Bindings, bound)
		for _, told := range made[i].Told {
			c.tell("%s: %s.", d.NameOf(p.part), told)
		}
	}
	if len(pairs) > len(e.Parts) {
		c.tell("%d parts that are named alike were bound as well.", len(pairs)-len(e.Parts))
	}
	if len(taken) > 0 {
		c.tell("%s hung on other joints before; undo brings that back.", several(taken))
	}
	return nil
}

// hungElsewhere names the parts that are bound to other joints now.
func hungElsewhere(d *rig.Document, pairs []pair) (names []string) {
	for _, p := range pairs {
		for _, b := range d.Bindings {
			if b.Part == p.part && !slices.Equal(b.Joints, p.joints) {
				names = append(names, d.NameOf(p.part))
			}
		}
	}
	return names
}

// several names the first few of a list.
func several(names []string) string {
	const most = 3
	if len(names) > most+1 {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
	}
	return strings.Join(names, ", ")
}

// pair is a part with the joints that it is to follow.
type pair struct {
	part   string
	joints []string
}

// alike lists the parts that are named like one, with joints that are named as those of that one are; and the part of the other side, with the joints of that.
func alike(d *rig.Document, id string, joints, except []string) (list []pair) {
	ids := map[string]string{}
	for _, j := range d.Joints {
		ids[j.Name] = j.ID
	}
	name := d.Part(id).Name
	for _, part := range d.Parts {
		if slices.Contains(except, part.ID) {
			continue
		}
		named := make([]string, 0, len(joints))
		for _, joint := range joints {
			own := d.NameOf(joint)
			like := strings.Replace(own, name, part.Name, 1)
			if image, _ := rig.OtherSide(name); image == part.Name && like == own {
				like, _ = rig.OtherSide(own)
			}
			if other, ok := ids[like]; ok && like != own {
				named = append(named, other)
			}
		}
		if len(named) == len(joints) {
			list = append(list, pair{part.ID, named})
		}
	}
	return list
}

// weigh works the weights of parts out. Parts that go with the same joints are seen together, as a piece of one may sit on another.
func weigh(c *Context, d *rig.Document, pairs []pair, method string, blend float64) ([]skin.Bound, error) {
	made, done := make([]skin.Bound, len(pairs)), 0
	for i := range pairs {
		if made[i].Weights != nil {
			continue
		}
		var group []int
		for k := i; k < len(pairs); k++ {
			if made[k].Weights == nil && slices.Equal(pairs[k].joints, pairs[i].joints) {
				group = append(group, k)
			}
		}
		surfaces := make([]*mesh.Mesh, len(group))
		for k, at := range group {
			var err error
			if surfaces[k], err = c.surfaces().Mesh(d.Part(pairs[at].part).Mesh); err != nil {
				return nil, err
			}
		}
		progress := func(share float64) bool {
			return c.progress((float64(done) + share*float64(len(group))) / float64(len(pairs)))
		}
		bound, err := weighGroup(d, pairs[i].joints, surfaces, method, blend, progress)
		if err != nil {
			return nil, err
		}
		for k, at := range group {
			made[at] = bound[k]
		}
		done += len(group)
	}
	return made, nil
}

// weighGroup works the weights of surfaces out that go with the same joints.
func weighGroup(d *rig.Document, joints []string, surfaces []*mesh.Mesh, method string, blend float64, progress func(float64) bool) ([]skin.Bound, error) {
	if method != AlongChain {
		segments, err := segmentsOf(d, joints)
		if err != nil {
			return nil, err
		}
		return skin.BindAll(skin.Method(method), surfaces, segments, len(joints), progress)
	}
	bones, err := bonesOf(d, joints)
	if err != nil {
		return nil, err
	}
	made := make([]skin.Bound, len(surfaces))
	for i, surface := range surfaces {
		made[i].Weights, err = skin.BindAlong(surface, bones, blend, func(share float64) bool { return progress((float64(i) + share) / float64(len(surfaces))) })
		if err != nil {
			return nil, err
		}
	}
	return made, nil
}

// onward is how far the last joint of a chain reaches on, in lengths of the bone before it.
const onward = 0.5

// segmentsOf lists the stretches that joints move the skin around: from each to those that hang on it, and onward from the last ones.
func segmentsOf(d *rig.Document, joints []string) (segments []skin.Segment, err error) {
	if len(joints) == 0 {
		return nil, errors.New("no joint is chosen; choose those that the parts are to follow")
	}
	index, last := make(map[string]int, len(joints)), make([]bool, len(joints))
	for i, id := range joints {
		if d.Joint(id) == nil {
			return nil, missing("joint", id)
		}
		index[id], last[i] = i, true
	}
	for _, id := range joints {
		if parent, ok := index[d.Joint(id).Parent]; ok {
			last[parent] = false
			segments = append(segments, skin.Segment{Joint: parent, From: d.Joint(joints[parent]).Position, To: d.Joint(id).Position})
		}
	}
	for i, id := range joints {
		if at := d.Joint(id); last[i] {
			to := at.Position
			if parent := d.Joint(at.Parent); parent != nil {
				if _, ok := index[parent.ID]; ok {
					to = to.Add(at.Position.Sub(parent.Position).Mul(onward))
				}
			}
			segments = append(segments, skin.Segment{Joint: i, From: at.Position, To: to})
		}
	}
	return segments, nil
}

// bonesOf lists the bones of joints: from each to its first child among them.
func bonesOf(d *rig.Document, joints []string) ([]skin.Bone, error) {
	if len(joints) == 0 {
		return nil, errors.New("no joint is chosen; choose the chain to bind to")
	}
	index := make(map[string]int, len(joints))
	for i, id := range joints {
		if d.Joint(id) == nil {
			return nil, missing("joint", id)
		}
		index[id] = i
	}
	bones := make([]skin.Bone, len(joints))
	for i, id := range joints {
		place := d.Joint(id).Position
		bones[i] = skin.Bone{From: place, To: place, Next: -1, Before: -1}
		if before, ok := index[d.Joint(id).Parent]; ok {
			bones[i].Before = before
		}
	}
	for i := range bones {
		if before := bones[i].Before; before >= 0 && bones[before].Next < 0 {
			bones[before].Next, bones[before].To = i, mgl64.Vec3(bones[i].From)
		}
	}
	for i := range bones { // a chain that begins where the top one begins runs on into it
		if top := bones[i].Before; top >= 0 && bones[top].Before < 0 && bones[top].Next != i && bones[top].From == bones[i].From {
			bones[top].Before = i
		}
	}
	return bones, nil
}

// Unbind takes parts off their joints; they stay where they are at rest.
type Unbind struct {
	Parts []string `json:"parts"`
}

func (*Unbind) builds() {}

// Title implements Edit.
func (e *Unbind) Title(d *rig.Document) string {
	if len(e.Parts) == 1 {
		return "Unbind " + d.NameOf(e.Parts[0])
	}
	return fmt.Sprintf("Unbind %d parts", len(e.Parts))
}

// Touches implements Edit.
func (e *Unbind) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *Unbind) Apply(_ *Context, d *rig.Document) error {
	for _, id := range e.Parts {
		if d.BindingOf(id) == nil {
			return fmt.Errorf("%s is not bound to anything", d.NameOf(id))
		}
	}
	d.Bindings = slices.DeleteFunc(d.Bindings, func(b rig.Binding) bool { return slices.Contains(e.Parts, b.Part) })
	return nil
}
