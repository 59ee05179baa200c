package edit

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// FillWeights changes how much picked vertices of a part go with a joint, all of them alike: by a brush whose reach does not count.
type FillWeights struct {
	Part     string     `json:"part"`
	Joint    string     `json:"joint"`
	Brush    skin.Brush `json:"brush"`
	Vertices []int      `json:"vertices,omitempty"` // all of them where none are given
	Locked   []string   `json:"locked,omitempty"`   // joints that keep their weights
}

// Title implements Edit.
func (e *FillWeights) Title(d *rig.Document) string {
	return fmt.Sprintf("Fill %s with %s of %s", d.NameOf(e.Part), e.Brush.Stroke, d.NameOf(e.Joint))
}

// Touches implements Edit.
func (e *FillWeights) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *FillWeights) Apply(c *Context, d *rig.Document) error {
	brush := e.Brush
	brush.Reach = 1
	p, err := NewPainting(c, d, &PaintWeights{Part: e.Part, Joint: e.Joint, Brush: brush, Locked: e.Locked})
	if err != nil {
		return err
	}
	vertices := e.Vertices
	if len(vertices) == 0 {
		for v := range p.Surface.VertexCount() {
			vertices = append(vertices, v)
		}
	}
	for _, v := range vertices {
		if v < 0 || v >= p.Surface.VertexCount() {
			return fmt.Errorf("there is no vertex %d; the part has %d", v, p.Surface.VertexCount())
		}
	}
	if len(p.painter.Fill(p.Weights, p.joint, p.withTwins(vertices), brush)) == 0 {
		return fmt.Errorf("nothing changes: all of it goes with %s as far as it can, or what it would change is locked; unlock another joint, or fill with another", d.NameOf(e.Joint))
	}
	binding := d.BindingOf(e.Part)
	binding.Joints, binding.Weights = p.Joints, c.Keep(p.Weights.EncodeBlocks(c.Keep))
	return nil
}

// withTwins adds what stands in the places of vertices, so that no seam opens.
func (p *Painting) withTwins(vertices []int) (list []int) {
	walk, seen := mesh.NewWalk(p.Surface), map[int]bool{}
	for _, v := range vertices {
		walk.Twins(v, func(twin int) {
			if !seen[twin] {
				seen[twin] = true
				list = append(list, twin)
			}
		})
	}
	return list
}

// LimitWeights leaves each vertex of parts so many joints at most.
type LimitWeights struct {
	Parts []string `json:"parts"`
	Most  int      `json:"most"` // 1 to 4
}

// Title implements Edit.
func (e *LimitWeights) Title(*rig.Document) string {
	return fmt.Sprintf("Limit vertices to %d joints", e.Most)
}

// Touches implements Edit.
func (e *LimitWeights) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *LimitWeights) Apply(c *Context, d *rig.Document) error {
	if e.Most < 1 || e.Most > skin.Influences {
		return fmt.Errorf("a vertex goes with 1 to %d joints, not %d", skin.Influences, e.Most)
	}
	dropped := 0
	for _, id := range e.Parts {
		binding, w, err := boundWeights(c, d, id)
		if err != nil {
			return err
		}
		n := w.Limit(e.Most)
		if dropped += n; n > 0 {
			binding.Weights = c.Keep(w.EncodeBlocks(c.Keep))
		}
	}
	if dropped == 0 {
		return fmt.Errorf("no vertex goes with more than %d joints; all stay", e.Most)
	}
	c.tell("%d weights were dropped.", dropped)
	return nil
}

// CopyWeights gives parts the weights of another: those of the nearest place of its surface, or vertex by vertex. Parts that are named alike go with the joints that are named so where
// these are given.
type CopyWeights struct {
	From    string   `json:"from"`
	To      []string `json:"to"`
	ByOrder bool     `json:"byOrder,omitempty"` // vertex by vertex
	Alike   bool     `json:"alike,omitempty"`   // to the parts named alike as well, with joints named so, vertex by vertex
}

// Title implements Edit.
func (e *CopyWeights) Title(d *rig.Document) string {
	return fmt.Sprintf("Copy the weights of %s", d.NameOf(e.From))
}

// Touches implements Edit.
func (e *CopyWeights) Touches(d *rig.Document) []string {
	touched := append([]string{e.From}, e.To...)
	if binding := d.BindingOf(e.From); binding != nil && e.Alike {
		for _, p := range alike(d, e.From, binding.Joints, []string{e.From}) {
			touched = append(touched, p.part)
		}
	}
	return touched
}

// Apply implements Edit.
func (e *CopyWeights) Apply(c *Context, d *rig.Document) error {
	binding, w, err := boundWeights(c, d, e.From)
	if err != nil {
		return err
	}
	from := *binding
	_, source, err := partAndSurface(c, d, e.From)
	if err != nil {
		return err
	}
	copies := []pair{}
	for _, id := range e.To {
		copies = append(copies, pair{id, from.Joints})
	}
	if e.Alike {
		copies = append(copies, alike(d, e.From, from.Joints, append(slices.Clone(e.To), e.From))...)
	}
	if len(copies) == 0 {
		return errors.New("there is no part to copy to; choose one, or name the others alike")
	}
	for i, to := range copies {
		if to.part == e.From {
			return errors.New("a part has its own weights already; choose another to copy to")
		}
		part, surface, err := partAndSurface(c, d, to.part)
		if err != nil {
			return err
		}
		made := w
		switch {
		case e.ByOrder || i >= len(e.To):
			if surface.VertexCount() != source.VertexCount() {
				return fmt.Errorf("%s has %d vertices and %s %d; copy by the nearest surface instead", part.Name, surface.VertexCount(), d.NameOf(e.From), source.VertexCount())
			}
		default:
			var farthest float64
			made, farthest = skin.BySurface(surface, source, w)
			c.tell("%s: the farthest vertex lies %.2g of the size of %s off it.", part.Name, farthest/source.Bounds().Size(), d.NameOf(e.From))
		}
		bound := rig.Binding{Part: to.part, Joints: slices.Clone(to.joints), Method: Copied, Blend: from.Blend, Dual: from.Dual, Weights: c.Keep(made.EncodeBlocks(c.Keep))}
		bound.Made = bound.Weights
		if before := d.BindingOf(to.part); before != nil {
			bound.Last = &rig.LastBinding{Joints: before.Joints, Method: before.Method, Weights: before.Weights}
		}
		d.Bindings = slices.DeleteFunc(d.Bindings, func(b rig.Binding) bool { return b.Part == to.part })
		bound.ID = d.TakeID("b")
		d.Bindings = append(d.Bindings, bound)
	}
	if len(copies) > len(e.To) {
		c.tell("%d parts that are named alike were given them as well.", len(copies)-len(e.To))
	}
	return nil
}

// Copied and Loaded are the methods of bindings that were copied from another part, and that came from a table.
const (
	Copied = "copied"
	Loaded = "table"
)

// WeightsTable writes the weights of a part as a table: a line for each weight, of the number of the vertex, the name of the joint, and the weight.
func WeightsTable(c *Context, d *rig.Document, id string, out io.Writer) error {
	binding, w, err := boundWeights(c, d, id)
	if err != nil {
		return err
	}
	table := csv.NewWriter(out)
	if err := table.Write(tableHead); err != nil {
		return err
	}
	for k, value := range w.Values {
		if value == 0 {
			continue
		}
		line := []string{strconv.Itoa(k / skin.Influences), d.NameOf(binding.Joints[w.Joints[k]]), strconv.FormatFloat(float64(value), 'g', -1, 32)}
		if err := table.Write(line); err != nil {
			return err
		}
	}
	table.Flush()
	return table.Error()
}

var tableHead = []string{"vertex", "joint", "weight"}

// LoadWeights gives a part the weights that a table says, as WeightsTable writes it.
type LoadWeights struct {
	Part  string `json:"part"`
	Table string `json:"table"`
}

// Title implements Edit.
func (e *LoadWeights) Title(d *rig.Document) string {
	return "Load weights of " + d.NameOf(e.Part)
}

// Touches implements Edit.
func (e *LoadWeights) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit. Weights of a vertex are scaled to sum to one, and only the strongest are taken.
func (e *LoadWeights) Apply(c *Context, d *rig.Document) error {
	part := d.Part(e.Part)
	if part == nil {
		return missing("part", e.Part)
	}
	joints, given, err := e.read(d, part)
	if err != nil {
		return err
	}
	w := skin.NewWeights(part.Vertices)
	for v := range part.Vertices {
		if len(given[v].joints) == 0 {
			return fmt.Errorf("vertex %d has no line; each of the %d vertices of %s has one at least", v, part.Vertices, part.Name)
		}
		w.Set(v, given[v].joints, given[v].values)
	}
	bound := rig.Binding{Part: part.ID, Joints: joints, Method: Loaded, Blend: skin.MostBlend, Weights: c.Keep(w.EncodeBlocks(c.Keep))}
	bound.Made = bound.Weights
	if before := d.BindingOf(part.ID); before != nil {
		bound.Dual, bound.DualBy = before.Dual, before.DualBy
		bound.Last = &rig.LastBinding{Joints: before.Joints, Method: before.Method, Weights: before.Weights}
	}
	d.Bindings = slices.DeleteFunc(d.Bindings, func(b rig.Binding) bool { return b.Part == part.ID })
	bound.ID = d.TakeID("b")
	d.Bindings = append(d.Bindings, bound)
	return nil
}

// row is what a table says of one vertex.
type row struct {
	joints []int
	values []float64
}

func (e *LoadWeights) read(d *rig.Document, part *rig.Part) (joints []string, given []row, err error) {
	ids := map[string]string{}
	for _, j := range d.Joints {
		ids[j.Name] = j.ID
	}
	given = make([]row, part.Vertices)
	places := map[string]int{}
	table := csv.NewReader(strings.NewReader(e.Table))
	table.FieldsPerRecord = len(tableHead)
	table.ReuseRecord = true
	for {
		line, err := table.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, fmt.Errorf("the table cannot be read: %w; each line has a vertex, a joint and a weight, with commas between", err)
		}
		at, _ := table.FieldPos(0)
		if at == 1 && line[0] == tableHead[0] {
			continue
		}
		vertex, err := strconv.Atoi(line[0])
		if err != nil || vertex < 0 || vertex >= part.Vertices {
			return nil, nil, fmt.Errorf("line %d: there is no vertex %q; %s has %d, counted from 0", at, line[0], part.Name, part.Vertices)
		}
		id, known := ids[line[1]]
		if !known {
			return nil, nil, fmt.Errorf("line %d: there is no joint called %q; rename it in the table, or here", at, line[1])
		}
		value, err := strconv.ParseFloat(line[2], 64)
		if err != nil || !(value >= 0 && value <= 1) {
			return nil, nil, fmt.Errorf("line %d: %q is no weight from 0 to 1", at, line[2])
		}
		place, known := places[id]
		if !known {
			place = len(joints)
			places[id] = place
			joints = append(joints, id)
		}
		given[vertex].joints, given[vertex].values = append(given[vertex].joints, place), append(given[vertex].values, value)
	}
	return joints, given, nil
}
