package edit

import (
	"fmt"
	"math"
	"strconv"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/interchange/model"
	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// NewPart is a part to be added: its surface is kept already.
type NewPart struct {
	Name     string      `json:"name"`
	Mesh     string      `json:"mesh"`
	Vertices int         `json:"vertices"`
	Colour   string      `json:"colour"`
	Joints   []int       `json:"joints,omitempty"`  // of its skin, places in the import's joints
	Weights  string      `json:"weights,omitempty"` // content hash of the table over these
	Morphs   []rig.Morph `json:"morphs,omitempty"`
	Look     *rig.Look   `json:"look,omitempty"`
}

// NewJoint is a joint to be added; Parent is a place in the import's joints, -1 for none.
type NewJoint struct {
	Name     string         `json:"name"`
	Parent   int            `json:"parent"`
	Position mgl64.Vec3     `json:"position"`
	Rotation rig.Quaternion `json:"rotation"`
}

// NewClip is a clip to be added. Its tracks name joints and parts by their places in the import, as decimal numbers.
type NewClip struct {
	Name        string           `json:"name"`
	End         int              `json:"end"`
	JointTracks []rig.JointTrack `json:"jointTracks,omitempty"`
	MorphTracks []rig.MorphTrack `json:"morphTracks,omitempty"`
}

// AddParts adds what an imported file holds: parts, and the joints, skin and clips that come with them. A name that is taken gets a
// number behind it.
type AddParts struct {
	From   string     `json:"from"` // the file's name, for the history
	Parts  []NewPart  `json:"parts"`
	Joints []NewJoint `json:"joints,omitempty"`
	Clips  []NewClip  `json:"clips,omitempty"`
	Notes  []string   `json:"notes,omitempty"` // what the file had that could not be kept as it was
}

// Imported is the name of the binding method of weights that came with a file.
const Imported = "imported"

// Title implements Edit.
func (e *AddParts) Title(*rig.Document) string {
	if len(e.Joints) > 0 {
		return fmt.Sprintf("Import %s (%d parts, %d joints)", e.From, len(e.Parts), len(e.Joints))
	}
	return fmt.Sprintf("Import %s (%d parts)", e.From, len(e.Parts))
}

// Touches implements Edit.
func (e *AddParts) Touches(*rig.Document) []string { return nil }

// Apply implements Edit.
func (e *AddParts) Apply(c *Context, d *rig.Document) error {
	for _, note := range e.Notes {
		c.tell("%s", note)
	}
	names := d.TakenNames()
	joints, err := e.addJoints(c, d, names)
	if err != nil {
		return err
	}
	parts := make([]string, len(e.Parts))
	for i, p := range e.Parts {
		if parts[i], err = p.add(c, d, joints, names); err != nil {
			return fmt.Errorf("part %s: %w", p.Name, err)
		}
	}
	return e.addClips(c, d, joints, parts)
}

func (e *AddParts) addJoints(c *Context, d *rig.Document, names *rig.Names) ([]string, error) {
	ids := make([]string, len(e.Joints))
	for i, j := range e.Joints {
		joint := rig.Joint{ID: d.TakeID("j"), Name: c.free(names, j.Name), Position: j.Position, Rotation: j.Rotation}
		if j.Parent >= i {
			return nil, fmt.Errorf("joint %s hangs on one that comes after it", j.Name)
		}
		if j.Parent >= 0 {
			joint.Parent = ids[j.Parent]
		}
		ids[i] = joint.ID
		d.Joints = append(d.Joints, joint)
	}
	return ids, nil
}

func (p NewPart) add(c *Context, d *rig.Document, joints []string, names *rig.Names) (string, error) {
	surface, err := c.surfaces().Mesh(p.Mesh)
	if err != nil {
		return "", err
	}
	part := rig.Part{
		ID: d.TakeID("p"), Name: c.free(names, p.Name), Mesh: p.Mesh, Vertices: surface.VertexCount(), Colour: p.Colour, Sight: rig.Shown,
		Turned: len(mesh.NewTopology(surface).Turned()), Morphs: p.Morphs, Look: p.Look,
	}
	if err := checkLook(c, p.Look); err != nil {
		return "", err
	}
	d.Parts = append(d.Parts, part)
	if len(p.Joints) == 0 {
		return part.ID, nil
	}
	binding := rig.Binding{ID: d.TakeID("b"), Part: part.ID, Method: Imported, Blend: skin.MostBlend, Weights: p.Weights}
	for _, at := range p.Joints {
		if at < 0 || at >= len(joints) {
			return "", fmt.Errorf("its skin names joint %d of %d", at, len(joints))
		}
		binding.Joints = append(binding.Joints, joints[at])
	}
	d.Bindings = append(d.Bindings, binding)
	return part.ID, nil
}

// checkLook tells of a look whose material or images are not kept.
func checkLook(c *Context, look *rig.Look) error {
	if look == nil {
		return nil
	}
	for _, hash := range append([]string{look.Material}, look.Images...) {
		if _, err := c.surfaces().Blob(hash); err != nil {
			return err
		}
	}
	return nil
}

func (e *AddParts) addClips(c *Context, d *rig.Document, joints, parts []string) error {
	place := func(list []string, at string) (string, error) {
		i, err := strconv.Atoi(at)
		if err != nil || i < 0 || i >= len(list) {
			return "", fmt.Errorf("a clip moves what is not there: %q", at)
		}
		return list[i], nil
	}
	for _, added := range e.Clips {
		clip := rig.Clip{ID: d.TakeID("k"), Name: freeName(c, d, added.Name), End: added.End, Loop: true, Tracks: []rig.Track{}}
		for _, track := range added.JointTracks {
			var err error
			if track.Joint, err = place(joints, track.Joint); err != nil {
				return err
			}
			clip.JointTracks = append(clip.JointTracks, track)
		}
		for _, track := range added.MorphTracks {
			var err error
			if track.Part, err = place(parts, track.Part); err != nil {
				return err
			}
			clip.MorphTracks = append(clip.MorphTracks, track)
		}
		d.Clips = append(d.Clips, clip)
	}
	return nil
}

// AddModel makes the edit that adds a model, and keeps its heavy data in blobs.
func AddModel(from string, m *model.Model, fps float64, blobs map[string][]byte) *AddParts {
	keep := func(data []byte) string {
		hash := Hash(data)
		blobs[hash] = data
		return hash
	}
	add := &AddParts{From: from, Notes: m.Notes}
	for _, j := range m.Joints {
		add.Joints = append(add.Joints, NewJoint{j.Name, j.Parent, j.Rest.Position, rig.QuaternionOf(j.Rest.Rotation)})
	}
	for _, p := range m.Parts {
		part := NewPart{Name: p.Name, Mesh: keep(p.Mesh.Encode()), Vertices: p.Mesh.VertexCount(), Colour: p.Colour}
		if p.Skin != nil {
			part.Joints, part.Weights = p.Skin.Joints, keep(p.Skin.Weights.Encode())
		}
		if p.Look != nil {
			part.Look = &rig.Look{Material: keep(p.Look.Material)}
			for _, image := range p.Look.Images {
				part.Look.Images = append(part.Look.Images, keep(image))
			}
		}
		for _, morph := range p.Morphs {
			part.Morphs = append(part.Morphs, rig.Morph{Name: morph.Name, Deltas: keep(morph.Deltas.Encode()), Value: morph.Value})
		}
		add.Parts = append(add.Parts, part)
	}
	for _, clip := range m.Clips {
		add.Clips = append(add.Clips, newClip(m, clip, fps))
	}
	return add
}

// newClip turns a clip's times from seconds to frames.
func newClip(m *model.Model, clip model.Clip, fps float64) NewClip {
	added := NewClip{Name: clip.Name, End: max(1, int(math.Ceil(clip.Length*fps-1e-6)))}
	for _, t := range clip.Joints {
		track := rig.JointTrack{Joint: strconv.Itoa(t.Joint), Property: t.Property}
		for _, key := range t.Keys {
			key.Frame *= fps
			track.Keys = append(track.Keys, key)
		}
		added.JointTracks = append(added.JointTracks, track)
	}
	for _, t := range clip.Morphs {
		track := rig.MorphTrack{Part: strconv.Itoa(t.Part), Morph: m.Parts[t.Part].Morphs[t.Morph].Name}
		for _, key := range t.Keys {
			key.Frame *= fps
			track.Keys = append(track.Keys, key)
		}
		added.MorphTracks = append(added.MorphTracks, track)
	}
	return added
}
