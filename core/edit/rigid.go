package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Given is the name of the binding method for weights that were set one by one.
const Given = "given"

// BindRigid has whole parts belong to one joint fully, or picked faces of a part that is bound already. Nothing moves by it.
type BindRigid struct {
	Parts []string `json:"parts"`
	Joint string   `json:"joint"`
	Faces []int    `json:"faces,omitempty"` // of the one part; empty for whole parts
	// Alike binds parts that are named alike as well, as in Bind.
	Alike bool `json:"alike,omitempty"`
}

func (*BindRigid) builds() {}

// Title implements Edit.
func (e *BindRigid) Title(d *rig.Document) string {
	what := fmt.Sprintf("%d parts", len(e.Parts))
	if len(e.Parts) == 1 {
		what = d.NameOf(e.Parts[0])
	}
	if len(e.Faces) > 0 {
		what = fmt.Sprintf("%d faces of %s", len(e.Faces), what)
	}
	return fmt.Sprintf("Fix %s to %s", what, d.NameOf(e.Joint))
}

// Touches implements Edit.
func (e *BindRigid) Touches(d *rig.Document) []string { return e.whole().Touches(d) }

// whole is the binding of whole parts: to a chain of one joint.
func (e *BindRigid) whole() *Bind {
	return &Bind{Parts: e.Parts, Joints: []string{e.Joint}, Blend: skin.MostBlend, Alike: e.Alike}
}

// Apply implements Edit.
func (e *BindRigid) Apply(c *Context, d *rig.Document) error {
	if d.Joint(e.Joint) == nil {
		return missing("joint", e.Joint)
	}
	if len(e.Faces) == 0 {
		return e.whole().Apply(c, d)
	}
	if len(e.Parts) != 1 {
		return errors.New("faces are picked on one part at a time; pick those of one part")
	}
	part, surface, err := partAndSurface(c, d, e.Parts[0])
	if err != nil {
		return err
	}
	if err := checkFaces(surface, e.Faces); err != nil {
		return err
	}
	binding := d.BindingOf(part.ID)
	if binding == nil {
		return fmt.Errorf("%s is not bound yet, and its other faces would stay behind; bind it first, or split these faces off", part.Name)
	}
	before, err := c.surfaces().Weights(binding.Weights, len(binding.Joints))
	if err != nil {
		return err
	}
	weights := &skin.Weights{Joints: slices.Clone(before.Joints), Values: slices.Clone(before.Values)}
	joints := slices.Clone(binding.Joints)
	at := slices.Index(joints, e.Joint)
	if at < 0 {
		at, joints = len(joints), append(joints, e.Joint)
	}
	for _, vertex := range verticesOf(surface, e.Faces) {
		weights.Set(vertex, []int{at}, []float64{1})
	}
	binding.Joints, binding.Method, binding.Weights = joints, Given, c.Keep(weights.Encode())
	return nil
}

// verticesOf lists the vertices of faces, with all others that stand where they stand: where a seam doubles a vertex, nothing tears.
func verticesOf(surface *mesh.Mesh, faces []int) (list []int) {
	picked := map[[3]float32]bool{}
	place := func(vertex int) [3]float32 { return [3]float32(surface.Positions[3*vertex : 3*vertex+3]) }
	for _, face := range faces {
		for k := range 3 {
			picked[place(int(surface.Triangles[3*face+k]))] = true
		}
	}
	for vertex := range surface.VertexCount() {
		if picked[place(vertex)] {
			list = append(list, vertex)
		}
	}
	return list
}
