package edit

import (
	"fmt"

	"myriapod/core/mesh"
	"myriapod/core/morph"
	"myriapod/core/rig"
)

// ReshapeMorph has a morph target move vertices farther by so much, in metres at rest: what a hand did to it.
type ReshapeMorph struct {
	Part     string       `json:"part"`
	Morph    string       `json:"morph"`
	Vertices []int        `json:"vertices"`
	By       [][3]float32 `json:"by"`
}

// Title implements Edit.
func (e *ReshapeMorph) Title(d *rig.Document) string {
	return fmt.Sprintf("Shape %s of %s", e.Morph, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *ReshapeMorph) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *ReshapeMorph) Apply(c *Context, d *rig.Document) error {
	m, before, err := shapeOf(c, d, e.Part, e.Morph)
	if err != nil {
		return err
	}
	if len(e.Vertices) == 0 || len(e.Vertices) != len(e.By) {
		return fmt.Errorf("%d vertices and %d ways do not make a change of shape; take hold of the part and try again", len(e.Vertices), len(e.By))
	}
	by := append([]float32{}, before...)
	for i, v := range e.Vertices {
		if v < 0 || v >= m.surface.VertexCount() {
			return fmt.Errorf("there is no vertex %d; the part has %d", v, m.surface.VertexCount())
		}
		for k := range 3 {
			by[3*v+k] += e.By[i][k]
		}
	}
	return m.write(e.Morph, by)
}

// MirrorMorph makes of a morph target that of the other side, under a name; one of that name is made anew. Without one it is named after the other side, where the name tells its own.
type MirrorMorph struct {
	Part  string `json:"part"`
	Morph string `json:"morph"`
	Name  string `json:"name,omitempty"`
}

// name is what the mirror image is to be called.
func (e *MirrorMorph) name() string {
	other, sided := rig.OtherSide(e.Morph)
	switch {
	case e.Name != "":
		return e.Name
	case sided:
		return other
	}
	return e.Morph + "_mirrored"
}

// Title implements Edit.
func (e *MirrorMorph) Title(d *rig.Document) string {
	return fmt.Sprintf("Mirror the morph target %s of %s to %s", e.Morph, d.NameOf(e.Part), e.name())
}

// Touches implements Edit.
func (e *MirrorMorph) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *MirrorMorph) Apply(c *Context, d *rig.Document) error {
	m, by, err := shapeOf(c, d, e.Part, e.Morph)
	if err != nil {
		return err
	}
	w := mesh.NewWalk(m.surface)
	images, farthest := w.Images()
	if farthest > uneven*m.surface.Bounds().Size() {
		c.tell("The two sides of %s are not alike: the farthest mirror image lies %.2g of its size off it.", m.part.Name, farthest/m.surface.Bounds().Size())
	}
	return m.write(e.name(), morph.Mirrored(w, by, images))
}

// uneven is how far a mirror image may lie off the surface, as a share of the part's size, before that is told.
const uneven = 1e-3

// SplitMorph makes of a morph target two, of what is on the left and what is on the right, named after it with the marks of the sides. Together they are the whole, which goes.
type SplitMorph struct {
	Part  string  `json:"part"`
	Morph string  `json:"morph"`
	Blend float64 `json:"blend"` // how far to each side of the middle they hand over to each other, in metres
}

// Title implements Edit.
func (e *SplitMorph) Title(d *rig.Document) string {
	return fmt.Sprintf("Split the morph target %s of %s into left and right", e.Morph, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *SplitMorph) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit. What drove the whole drives both sides.
func (e *SplitMorph) Apply(c *Context, d *rig.Document) error {
	m, by, err := shapeOf(c, d, e.Part, e.Morph)
	if err != nil {
		return err
	}
	if !(e.Blend >= 0 && e.Blend <= rig.MaxCoordinate) {
		return fmt.Errorf("the sides hand over within 0 metres or more of the middle, not within %g", e.Blend)
	}
	left, right := morph.Sides(m.surface, by, e.Blend)
	names := [2]string{e.Morph + "_L", e.Morph + "_R"}
	for i, side := range [][]float32{left, right} {
		if err := m.fresh(names[i]); err != nil {
			return err
		}
		if err := m.write(names[i], side); err != nil {
			return err
		}
		m.part.Morphs[len(m.part.Morphs)-1].Value = m.part.Morphs[m.part.Morph(e.Morph)].Value
	}
	for _, x := range d.DriversOf(rig.Address{Of: e.Part, Key: e.Morph}) {
		for _, name := range names {
			copied := x
			copied.ID, copied.Drives.Key = d.TakeID("v"), name
			copied.Parameters = x.Parameters.Clone()
			d.Drivers = append(d.Drivers, copied)
		}
	}
	splitTracks(d, e.Part, e.Morph, names)
	return (&RemoveMorph{Part: e.Part, Morph: e.Morph}).Apply(c, d)
}

// splitTracks gives both sides of a morph target the keys of the whole, in its place.
func splitTracks(d *rig.Document, part, whole string, names [2]string) {
	for i := range d.Clips {
		tracks := []rig.MorphTrack{}
		for _, t := range d.Clips[i].MorphTracks {
			if t.Part != part || t.Morph != whole {
				tracks = append(tracks, t)
				continue
			}
			for _, name := range names {
				t.Morph = name
				tracks = append(tracks, rig.MorphTrack{Part: part, Morph: name, Keys: append([]rig.Key{}, t.Keys...)})
			}
		}
		if len(d.Clips[i].MorphTracks) > 0 {
			d.Clips[i].MorphTracks = tracks
		}
	}
}

// CloseRims makes a morph target in which two rims of a part come together, as lids and lips do: see morph.Rims. What the morph target did elsewhere stays.
type CloseRims struct {
	Part  string  `json:"part"`
	Morph string  `json:"morph"`
	One   []int   `json:"one"`   // vertices of the one rim
	Other []int   `json:"other"` // and of the other
	Share float64 `json:"share"` // where they meet, 0 at the one to 1 at the other
	Reach float64 `json:"reach"` // how far from them other vertices go along, in metres over the surface
}

// Title implements Edit.
func (e *CloseRims) Title(d *rig.Document) string {
	return fmt.Sprintf("Close two rims of %s in %s", d.NameOf(e.Part), e.Morph)
}

// Touches implements Edit.
func (e *CloseRims) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *CloseRims) Apply(c *Context, d *rig.Document) error {
	m, before, err := shapeOf(c, d, e.Part, e.Morph)
	if err != nil {
		return err
	}
	rims := morph.Rims{One: e.One, Other: e.Other, Share: e.Share, Reach: e.Reach}
	closed, gap, err := rims.Close(mesh.NewWalk(m.surface), m.surface)
	if err != nil {
		return err
	}
	by := append([]float32{}, before...)
	for v := range m.surface.VertexCount() {
		if at := closed[3*v : 3*v+3]; at[0] != 0 || at[1] != 0 || at[2] != 0 {
			copy(by[3*v:], at)
		}
	}
	c.tell("The rims meet; the widest gap left between them is %.2g of the part's size.", gap/m.surface.Bounds().Size())
	return m.write(e.Morph, by)
}
