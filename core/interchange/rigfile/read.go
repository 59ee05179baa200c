package rigfile

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/interchange/model"
	kinds "myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/plan"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Read reads a rig file and returns its document and heavy data. What the file leaves out is filled in: IDs are the names,
// orientations aim at the first child, mechanisms with options and no controls are built, bindings without weights are
// computed. The outcome can be planned, or there is an error that names the place.
func Read(data []byte, registry kinds.Registry) (document *rig.Document, memory edit.Memory, err error) {
	err = model.Guard(func() (err error) {
		document, memory, err = read(data, registry)
		return err
	})
	return document, memory, err
}

func read(data []byte, registry kinds.Registry) (*rig.Document, edit.Memory, error) {
	f, err := decode(data)
	if err != nil {
		return nil, nil, err
	}
	r := &reader{file: f, document: rig.New(f.Name), memory: edit.Memory{}, registry: registry}
	for _, step := range []func() error{r.parts, r.joints, r.controls, r.repeats, r.check, r.mechanisms, r.measures, r.drivers, r.bindings, r.clips, r.groups, r.check} {
		if err := step(); err != nil {
			return nil, nil, err
		}
	}
	if _, err := plan.Build(r.document, registry, r.memory); err != nil {
		return nil, nil, err
	}
	return r.document, r.memory, nil
}

func (r *reader) check() error {
	r.document.TidyNames()
	return edit.Validate(r.document)
}

// change makes the document what an edit makes of it.
func (r *reader) change(e edit.Edit) error {
	next, err := edit.Change(&edit.Context{Kinds: r.registry, Surfaces: r.memory, Blobs: r.memory}, r.document, e)
	if err == nil {
		r.document = next
	}
	return err
}

func (r *reader) groups() error {
	for _, g := range r.file.Groups {
		made := rig.Group(g)
		made.ID = r.id(g.ID, "group_"+g.Name)
		made.Members = append([]string{}, g.Members...)
		if made.Sight == "" {
			made.Sight = rig.Shown
		}
		r.document.Groups = append(r.document.Groups, made)
	}
	return nil
}

func (r *reader) repeats() error {
	for i, x := range r.file.Repeats {
		made := rig.Repeat{
			ID: r.id(x.ID, x.Name), Name: x.Name, Rule: x.Rule, Sources: x.Sources, Direction: mgl64.Vec3{1, 0, 0}, Count: x.Count,
			Stations: append([]string{}, x.Stations...), Replace: x.Replace, Pattern: x.Pattern, Differences: []rig.Difference{}, Stand: x.Stand, Ground: x.Ground, Draws: x.Draws,
		}
		if x.Rule == rig.Ring {
			made.Direction = mgl64.Vec3{0, 1, 0}
		}
		if x.Point != nil {
			made.Point = *x.Point
		}
		if x.Direction != nil {
			made.Direction = *x.Direction
		}
		for _, d := range x.Differences {
			made.Differences = append(made.Differences, inUnits(d, math.Pi/180))
		}
		if err := made.Check(fmt.Sprintf("repeats[%d]", i)); err != nil {
			return err
		}
		r.document.Repeats = append(r.document.Repeats, made)
	}
	return nil
}

type reader struct {
	file     *file
	document *rig.Document
	memory   edit.Memory
	registry kinds.Registry
}

// id gives a thing without an ID its name, and keeps fresh IDs clear of the numbers in use.
func (r *reader) id(id, name string) string {
	if id == "" {
		id = name
	}
	digits := id[len(strings.TrimRight(id, "0123456789")):]
	if n, err := strconv.Atoi(digits); err == nil && n >= r.document.NextID && n < 1<<40 {
		r.document.NextID = n + 1
	}
	return id
}

func (r *reader) parts() error {
	if r.file.FPS != nil {
		r.document.FPS = *r.file.FPS
	}
	for i, p := range r.file.Parts {
		surface, err := p.surface()
		if err != nil {
			return fmt.Errorf("parts[%d]: %w", i, err)
		}
		part := rig.Part{
			ID: r.id(p.ID, p.Name), Name: p.Name, Mesh: r.keep(surface.Encode()), Vertices: surface.VertexCount(),
			Colour: p.Colour, Sight: p.Sight, Locked: p.Locked, Turned: len(mesh.NewTopology(surface).Turned()),
		}
		for k, m := range p.Morphs {
			deltas, err := mesh.DecodeDeltas((&mesh.Deltas{Positions: flat(m.Deltas), Normals: flat(m.Normals)}).Encode(), surface.VertexCount())
			if err != nil {
				return fmt.Errorf("parts[%d].morphs[%d]: %w", i, k, err)
			}
			part.Morphs = append(part.Morphs, rig.Morph{Name: m.Name, Deltas: r.keep(deltas.Encode()), Value: m.Value})
		}
		if p.Look != nil {
			part.Look = &rig.Look{Material: r.keep(compact(p.Look.Material))}
			for _, image := range p.Look.Images {
				part.Look.Images = append(part.Look.Images, r.keep(image))
			}
		}
		if part.Colour == "" {
			part.Colour = model.Palette[i%len(model.Palette)]
		}
		if part.Sight == "" {
			part.Sight = rig.Shown
		}
		r.document.Parts = append(r.document.Parts, part)
	}
	return nil
}

// keep keeps heavy data and returns its content hash.
func (r *reader) keep(data []byte) string {
	hash := edit.Hash(data)
	r.memory[hash] = data
	return hash
}

// compact is JSON without the spaces between its words, as it was kept before it was written into the file.
func compact(data []byte) []byte {
	var out bytes.Buffer
	if json.Compact(&out, data) != nil {
		return data
	}
	return out.Bytes()
}

func flat(list [][3]float32) []float32 {
	numbers := make([]float32, 0, 3*len(list))
	for _, v := range list {
		numbers = append(numbers, v[:]...)
	}
	return numbers
}

func (p *part) surface() (*mesh.Mesh, error) {
	m := &mesh.Mesh{}
	m.Positions, m.Normals = flat(p.Vertices), flat(p.Normals)
	for _, t := range p.Triangles {
		m.Triangles = append(m.Triangles, t[:]...)
	}
	for _, c := range p.Colours {
		m.Colours = append(m.Colours, c[:]...)
	}
	for _, c := range p.TexCoords {
		m.TexCoords = append(m.TexCoords, c[:]...)
	}
	if len(p.Normals) == 0 {
		for i, index := range m.Triangles {
			if int(index) >= m.VertexCount() {
				return nil, fmt.Errorf("triangles[%d]: there is no vertex %d; there are %d", i/3, index, m.VertexCount())
			}
		}
		m.ComputeNormals()
	}
	return m, m.Validate()
}

func (r *reader) joints() error {
	children := map[string]mgl64.Vec3{}
	for _, j := range r.file.Joints {
		if _, ok := children[j.Parent]; !ok && j.Parent != "" {
			children[j.Parent] = j.Position
		}
	}
	for _, j := range r.file.Joints {
		id := r.id(j.ID, j.Name)
		joint := rig.Joint{ID: id, Name: j.Name, Label: j.Label, Parent: j.Parent, Position: j.Position, Order: j.Order}
		if j.Rotation != nil {
			joint.Rotation = *j.Rotation
		} else {
			joint.Rotation = r.aimed(joint, children)
		}
		r.document.Joints = append(r.document.Joints, joint)
	}
	return nil
}

// aimed orients a joint whose rotation the file leaves out: its main axis at the first child, or like its parent's without
// children; its second axis as the parent's, carried along.
func (r *reader) aimed(joint rig.Joint, children map[string]mgl64.Vec3) rig.Quaternion {
	before := mgl64.QuatIdent()
	parent := r.document.Joint(joint.Parent)
	if parent != nil {
		before = parent.Rotation.Quat()
	}
	child, has := children[joint.ID]
	if !has {
		return rig.QuaternionOf(before)
	}
	if parent == nil {
		return rig.QuaternionOf(edit.Orient([]mgl64.Vec3{joint.Position, child})[0])
	}
	main := before.Rotate(geometry.MainAxis)
	aim := geometry.Unit(child.Sub(joint.Position), main)
	return rig.QuaternionOf(geometry.Shortest(main, aim, before.Rotate(geometry.SecondAxis)).Mul(before).Normalize())
}

func (r *reader) controls() error {
	for _, c := range r.file.Controls {
		control := rig.Control{
			ID: r.id(c.ID, c.Name), Name: c.Name, Label: c.Label, Space: c.Space, Position: c.Position,
			Rotation: rig.Quaternion{0, 0, 0, 1}, Order: c.Order, Shape: c.Shape, Outline: c.Outline, Channels: channels(c.Channels, unit), Mirrored: c.Mirrored,
			Spaces: c.Spaces, Colour: c.Colour, Pivot: c.Pivot, Start: turned(c.Start, math.Pi/180), Dials: c.Dials,
		}
		if c.Rotation != nil {
			control.Rotation = *c.Rotation
		}
		if control.Order == "" {
			control.Order = "YXZ"
		}
		if control.Shape == "" {
			control.Shape = rig.Collar
		}
		if control.Outline == nil {
			control.Outline = []mgl64.Vec3{}
		}
		r.document.Controls = append(r.document.Controls, control)
	}
	return nil
}

func (r *reader) bindings() error {
	for i, b := range r.file.Bindings {
		place := fmt.Sprintf("bindings[%d]", i)
		blend := 1.5
		if b.Blend != nil {
			blend = *b.Blend
		}
		id := r.id(b.ID, "binding_"+b.Part)
		if len(b.Weights) == 0 {
			bind := &edit.Bind{Parts: []string{b.Part}, Joints: b.Joints, Method: b.Method, Blend: blend}
			if err := r.change(bind); err != nil {
				return fmt.Errorf("%s: %w", place, err)
			}
			last := &r.document.Bindings[len(r.document.Bindings)-1]
			last.ID, last.Dual = id, b.Dual
			continue
		}
		weights, err := r.weights(b, b.Weights)
		if err != nil {
			return fmt.Errorf("%s.weights%w", place, err)
		}
		kept := r.keep(weights.Encode())
		made := ""
		if b.AsMade {
			made = kept
		} else if len(b.Made) > 0 {
			before, err := r.weights(b, b.Made)
			if err != nil {
				return fmt.Errorf("%s.made%w", place, err)
			}
			made = r.keep(before.Encode())
		}
		dualBy := ""
		if len(b.DualBy) > 0 {
			data := skin.Shares(b.DualBy).Encode()
			if _, err := skin.DecodeShares(data, weights.VertexCount()); err != nil {
				return fmt.Errorf("%s.dualBy: %w", place, err)
			}
			dualBy = r.keep(data)
		}
		method := b.Method
		if method == "" {
			method = "given"
		}
		r.document.Bindings = append(r.document.Bindings, rig.Binding{
			ID: id, Part: b.Part, Joints: b.Joints, Method: method, Blend: blend, Dual: b.Dual, DualBy: dualBy, Weights: kept, Made: made,
		})
	}
	return nil
}

func (r *reader) weights(b binding, table [][][2]float64) (*skin.Weights, error) {
	part := r.document.Part(b.Part)
	if part == nil {
		return nil, fmt.Errorf(": there is no part %q", b.Part)
	}
	if len(table) != part.Vertices {
		return nil, fmt.Errorf(": %d vertices have weights and %s has %d", len(table), part.Name, part.Vertices)
	}
	weights := skin.NewWeights(part.Vertices)
	for vertex, pairs := range table {
		if len(pairs) == 0 || len(pairs) > skin.Influences {
			return nil, fmt.Errorf("[%d]: a vertex has 1 to %d influences, not %d", vertex, skin.Influences, len(pairs))
		}
		for k, pair := range pairs {
			joint := int(pair[0])
			if joint < 0 || joint >= len(b.Joints) || float64(joint) != pair[0] {
				return nil, fmt.Errorf("[%d][%d]: %g is not the place of a joint in the binding's list", vertex, k, pair[0])
			}
			if !geometry.Finite(pair[1]) || pair[1] < 0 {
				return nil, fmt.Errorf("[%d][%d]: a weight is 0 or more, not %g", vertex, k, pair[1])
			}
			weights.Joints[skin.Influences*vertex+k], weights.Values[skin.Influences*vertex+k] = uint16(joint), float32(pair[1])
		}
	}
	if err := weights.Validate(len(b.Joints)); err != nil {
		return nil, fmt.Errorf(": %w", err)
	}
	return weights, nil
}

func (r *reader) clips() error {
	for _, c := range r.file.Clips {
		clip := rig.Clip{ID: r.id(c.ID, c.Name), Name: c.Name, Start: c.Start, End: c.End, Loop: c.Loop, PreRoll: c.PreRoll, Tracks: []rig.Track{}, JointTracks: c.JointTracks, MorphTracks: c.MorphTracks}
		for i := range clip.JointTracks {
			for k := range clip.JointTracks[i].Keys {
				if key := &clip.JointTracks[i].Keys[k]; key.Ease == "" {
					key.Ease = rig.Linear
				}
			}
		}
		for i := range clip.MorphTracks {
			for k := range clip.MorphTracks[i].Keys {
				if key := &clip.MorphTracks[i].Keys[k]; key.Ease == "" {
					key.Ease = rig.Smooth
				}
			}
		}
		for _, t := range c.Tracks {
			track := rig.Track{Control: t.Control, Channel: t.Channel}
			for _, k := range t.Keys {
				ease := k.Ease
				if ease == "" {
					ease = rig.Smooth
				}
				track.Keys = append(track.Keys, rig.Key{Frame: k.Frame, Value: k.Value * unit(t.Channel), Ease: ease})
			}
			clip.Tracks = append(clip.Tracks, track)
		}
		r.document.Clips = append(r.document.Clips, clip)
	}
	return nil
}
