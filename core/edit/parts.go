package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// partAndSurface finds a part and reads its surface.
func partAndSurface(c *Context, d *rig.Document, id string) (*rig.Part, *mesh.Mesh, error) {
	part := d.Part(id)
	if part == nil {
		return nil, nil, missing("part", id)
	}
	surface, err := c.surfaces().Mesh(part.Mesh)
	return part, surface, err
}

// take gives a part another surface.
func take(c *Context, part *rig.Part, surface *mesh.Mesh) {
	part.Mesh, part.Vertices = c.Keep(surface.Encode()), surface.VertexCount()
	part.Turned = len(mesh.NewTopology(surface).Turned())
}

// follow gives a part made of vertices of another the weights and morph targets that these have.
func follow(c *Context, d *rig.Document, whole *rig.Part, part string, from []int) error {
	binding := d.BindingOf(whole.ID)
	if binding == nil {
		return nil
	}
	weights, err := c.surfaces().Weights(binding.Weights, len(binding.Joints))
	if err != nil {
		return err
	}
	own := *binding
	own.Part, own.Weights, own.Made, own.Last, own.DualBy = part, c.Keep(weights.Subset(from).Encode()), "", nil, ""
	if part == whole.ID {
		*binding = own
		return nil
	}
	own.ID = d.TakeID("b")
	d.Bindings = append(d.Bindings, own)
	return nil
}

// SplitPart makes picked faces of a part a part of their own. Its weights go with it.
type SplitPart struct {
	Part  string `json:"part"`
	Faces []int  `json:"faces"`
	Name  string `json:"name"`
}

// Title implements Edit.
func (e *SplitPart) Title(d *rig.Document) string {
	return fmt.Sprintf("Split %s off %s", e.Name, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *SplitPart) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *SplitPart) Apply(c *Context, d *rig.Document) error {
	part, surface, err := partAndSurface(c, d, e.Part)
	if err != nil {
		return err
	}
	if err := checkFaces(surface, e.Faces); err != nil {
		return err
	}
	others := surface.Others(e.Faces)
	if len(others) == 0 {
		return fmt.Errorf("all faces of %s are picked; pick only those that shall go", part.Name)
	}
	return divide(c, d, part.ID, surface, [][]int{others, e.Faces}, []string{e.Name})
}

func checkFaces(surface *mesh.Mesh, faces []int) error {
	if len(faces) == 0 {
		return errors.New("no face is picked; pick some first")
	}
	for _, face := range faces {
		if face < 0 || face >= surface.FaceCount() {
			return fmt.Errorf("there is no face %d; the part has %d", face, surface.FaceCount())
		}
	}
	return nil
}

// divide leaves a part the first of several sets of faces and makes the others parts of their own.
func divide(c *Context, d *rig.Document, id string, surface *mesh.Mesh, sets [][]int, names []string) error {
	whole := *d.Part(id)
	if len(whole.Morphs) > 0 {
		return fmt.Errorf("%s has morph targets, which cannot be divided; split the model before they are made", whole.Name)
	}
	for i := len(sets) - 1; i >= 0; i-- { // the part itself last, while its weights are whole
		faces := slices.Clone(sets[i])
		slices.Sort(faces)
		piece, from := surface.Subset(slices.Compact(faces))
		part := whole
		if i > 0 {
			part.ID, part.Name = d.TakeID("p"), freeName(c, d, names[i-1])
		}
		take(c, &part, piece)
		if i > 0 {
			at := slices.IndexFunc(d.Parts, func(p rig.Part) bool { return p.ID == id })
			d.Parts = slices.Insert(d.Parts, at+1, part)
		} else {
			*d.Part(id) = part
		}
		if err := follow(c, d, &whole, part.ID, from); err != nil {
			return err
		}
	}
	return nil
}

// SplitPieces makes every loose piece of a part a part of its own. The largest keeps the name; the others are numbered.
type SplitPieces struct {
	Part string `json:"part"`
}

// mostPieces bounds how many parts one part may fall into.
const mostPieces = 500

// Title implements Edit.
func (e *SplitPieces) Title(d *rig.Document) string {
	return "Split " + d.NameOf(e.Part) + " into its loose pieces"
}

// Touches implements Edit.
func (e *SplitPieces) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *SplitPieces) Apply(c *Context, d *rig.Document) error {
	part, surface, err := partAndSurface(c, d, e.Part)
	if err != nil {
		return err
	}
	pieces := mesh.NewTopology(surface).Pieces()
	if len(pieces) < 2 {
		return fmt.Errorf("%s is all one piece", part.Name)
	}
	if len(pieces) > mostPieces {
		return fmt.Errorf("%s has %d loose pieces, more than the %d that are split at once; close its seams or split off picked faces", part.Name, len(pieces), mostPieces)
	}
	slices.SortStableFunc(pieces, func(a, b []int) int { return len(b) - len(a) })
	names := make([]string, len(pieces)-1)
	for i := range names {
		names[i] = rig.UniqueName(fmt.Sprintf("%s_%d", part.Name, i+2), d.HasName)
	}
	return divide(c, d, part.ID, surface, pieces, names)
}

// MergeParts makes several parts one, the first of them. Parts that are bound keep their weights; bound and unbound ones do not merge.
type MergeParts struct {
	Parts []string `json:"parts"`
	Name  string   `json:"name"`
}

// Title implements Edit.
func (e *MergeParts) Title(*rig.Document) string {
	return fmt.Sprintf("Merge %d parts to %s", len(e.Parts), e.Name)
}

// Touches implements Edit.
func (e *MergeParts) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *MergeParts) Apply(c *Context, d *rig.Document) error {
	if len(e.Parts) < 2 {
		return errors.New("one part alone does not merge; choose two or more")
	}
	surfaces := make([]*mesh.Mesh, len(e.Parts))
	bound := 0
	for i, id := range e.Parts {
		part, surface, err := partAndSurface(c, d, id)
		if err != nil {
			return err
		}
		if len(part.Morphs) > 0 {
			return fmt.Errorf("%s has morph targets and cannot be merged", part.Name)
		}
		if slices.Contains(e.Parts[:i], id) {
			return fmt.Errorf("%s is chosen twice", part.Name)
		}
		surfaces[i] = surface
		if d.BindingOf(id) != nil {
			bound++
		}
	}
	if bound > 0 && bound < len(e.Parts) {
		return fmt.Errorf("%d of the %d parts are bound to joints and the others are not; bind or unbind them all first", bound, len(e.Parts))
	}
	if bound > 0 {
		if err := e.mergeWeights(c, d); err != nil {
			return err
		}
	}
	rest := e.Parts[1:]
	d.Parts = slices.DeleteFunc(d.Parts, func(p rig.Part) bool { return slices.Contains(rest, p.ID) })
	d.Bindings = slices.DeleteFunc(d.Bindings, func(b rig.Binding) bool { return slices.Contains(rest, b.Part) })
	first := d.Part(e.Parts[0])
	if e.Name != "" {
		first.Name = e.Name
	}
	take(c, first, mesh.Join(surfaces))
	return nil
}

func (e *MergeParts) mergeWeights(c *Context, d *rig.Document) error {
	var joints []string
	var tables []*skin.Weights
	var places [][]int
	for _, id := range e.Parts {
		binding := d.BindingOf(id)
		weights, err := c.surfaces().Weights(binding.Weights, len(binding.Joints))
		if err != nil {
			return err
		}
		place := make([]int, len(binding.Joints))
		for k, joint := range binding.Joints {
			if place[k] = slices.Index(joints, joint); place[k] < 0 {
				place[k] = len(joints)
				joints = append(joints, joint)
			}
		}
		tables, places = append(tables, weights), append(places, place)
	}
	binding := d.BindingOf(e.Parts[0])
	binding.Joints, binding.Weights, binding.Made, binding.Last, binding.DualBy = joints, c.Keep(skin.JoinWeights(tables, places).Encode()), "", nil, ""
	return nil
}
