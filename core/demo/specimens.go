package demo

import (
	"fmt"
	"strings"

	"myriapod/core/edit"
	"myriapod/core/mechanism"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// Specimen is a demo specimen: the name it is called by on the command line, and what it is.
type Specimen struct {
	Name    string
	Title   string
	Summary string
	pieces  func() []piece
	edits   []func(*rig.Document) edit.Edit
	shapes  func() map[string][]shape // morph targets by piece; nil for none
	site    *site                     // where it stands, that comes when it is rigged; nil for nowhere
}

// site is a ground that is a part of the model, and what is done on it.
type site struct {
	pieces func() []piece
	edits  []func(*rig.Document) edit.Edit
}

// Specimens lists the demo specimens in the order of the Shelf.
func Specimens() []Specimen {
	return []Specimen{
		{"quillwick", "Quillwick", "the eel-like messenger, rigged and swimming", quillwickPieces, quillwickRigged(), quillwickShapes, nil},
		{"sedge", "Sedge", "the marsh plant, one tendril made and six there by a ring", sedgePieces, sedgeRigged(), sedgeShapes, nil},
		{"tallow", "Tallow", "the ferry millipede: one leg made, forty-four there", tallowPieces, tallowRigged(), nil, nil},
		{"brindle", "Old Brindle", "the stilt-walker: spine, neck and tail, three families that meet", brindlePieces, brindleRigged(), nil, nil},
		{"gantry", "Gantry Nine", "the tracked dredger: parallel-arm crane, rams, hose, winch and two tracks on their suspensions", gantryPieces, gantryRigged(), nil, &site{gantryYard, gantryGrounded()}},
		{"barrow", "The barrow", "a small cart: four wheels that roll, two that steer, and gears from its axle to a drum", barrowPieces, barrowRigged(), nil, nil},
		{"quillwick-bare", "Quillwick, bare", "the eel's body, not rigged yet", quillwickPieces, nil, quillwickShapes, nil},
		{"tallow-bare", "Tallow, bare", "the millipede's body and bare skeleton, without mechanisms", tallowPieces, tallowSkeleton(), nil, nil},
		{"brindle-bare", "Old Brindle, bare", "the stilt-walker's body and bare skeleton, without mechanisms", brindlePieces, brindleSkeleton(), nil, nil},
		{"gantry-bare", "Gantry Nine, bare", "the dredger's body, crane and running gear, and its bare skeleton", gantryPieces, gantrySkeleton(), nil, nil},
		{"barrow-bare", "The barrow, bare", "the cart and its bare skeleton, without mechanisms", barrowPieces, barrowSkeleton(), nil, nil},
		{"sedge-bare", "Sedge, bare", "the plant's body, not rigged yet", sedgePieces, nil, sedgeShapes, nil},
	}
}

// Find returns a specimen by the name of the command line.
func Find(name string) (Specimen, error) {
	names := []string{}
	for _, s := range Specimens() {
		if s.Name == name {
			return s, nil
		}
		names = append(names, s.Name)
	}
	return Specimen{}, fmt.Errorf("there is no demo specimen %q; known are %s", name, strings.Join(names, ", "))
}

// Made is one edit of a demo specimen's making, the document it led to, and the heavy data it brought.
type Made struct {
	Edit  edit.Edit
	Next  *rig.Document
	Seen  *repeat.Expansion // Next with its copies
	Blobs map[string][]byte
}

// Make builds the specimen and returns its empty beginning and every step from there.
func (s Specimen) Make(kinds mechanism.Registry) (*rig.Document, []Made, error) {
	begin := rig.New(s.Title)
	seen, memory := repeat.Plain(begin), edit.Memory{}
	var steps []Made
	var planned *plan.Plan // of the step before
	apply := func(e edit.Edit, blobs map[string][]byte) error {
		context := &edit.Context{Kinds: kinds, Surfaces: memory, Blobs: blobs, Before: planned}
		result, err := edit.ApplyTo(context, seen, e)
		if err != nil {
			return fmt.Errorf("demo specimen %s: %w", s.Name, err)
		}
		for hash, data := range context.Blobs {
			memory[hash] = data
		}
		steps = append(steps, Made{Edit: e, Next: result.Document, Seen: result.Expanded, Blobs: context.Blobs})
		seen, planned = result.Expanded, result.Plan
		return nil
	}
	stages := []site{{s.pieces, s.edits}}
	if s.site != nil {
		stages = append(stages, *s.site)
	}
	for _, stage := range stages {
		parts, blobs := s.parts(stage.pieces())
		if err := apply(parts, blobs); err != nil {
			return nil, nil, err
		}
		for _, next := range stage.edits {
			if err := apply(next(seen.Document), nil); err != nil {
				return nil, nil, err
			}
		}
	}
	return begin, steps, nil
}

// Memory gathers the heavy data of all steps.
func Memory(steps []Made) edit.Memory {
	memory := edit.Memory{}
	for _, step := range steps {
		for hash, data := range step.Blobs {
			memory[hash] = data
		}
	}
	return memory
}

func (s Specimen) parts(pieces []piece) (*edit.AddParts, map[string][]byte) {
	add := &edit.AddParts{From: s.Name}
	blobs, shapes := map[string][]byte{}, map[string][]shape{}
	if s.shapes != nil {
		shapes = s.shapes()
	}
	for _, p := range pieces {
		data := p.surface.Encode()
		hash := edit.Hash(data)
		blobs[hash] = data
		made := edit.NewPart{Name: p.name, Mesh: hash, Vertices: p.surface.VertexCount(), Colour: p.colour}
		for _, s := range shapes[p.name] {
			data := towards(p.surface, s.surface).Encode()
			blobs[edit.Hash(data)] = data
			made.Morphs = append(made.Morphs, rig.Morph{Name: s.name, Deltas: edit.Hash(data)})
		}
		add.Parts = append(add.Parts, made)
	}
	return add, blobs
}

// renamed gives something another name.
func renamed(from, to string) func(*rig.Document) edit.Edit {
	return func(d *rig.Document) edit.Edit { return &edit.Rename{ID: named(d, from), Name: to} }
}

// named returns the ID of the joint, part, control or mechanism with a name; a name that is not there is a mistake in this package.
func named(d *rig.Document, name string) string {
	found := ""
	d.EachNamed(func(id, n string) bool {
		if n == name {
			found = id
		}
		return found == ""
	})
	if found == "" {
		panic("demo: nothing is called " + name)
	}
	return found
}

// numbered returns the IDs of what is called by a format with the numbers from to to.
func numbered(d *rig.Document, format string, from, to int) []string {
	var list []string
	for n := from; n <= to; n++ {
		list = append(list, named(d, fmt.Sprintf(format, n)))
	}
	return list
}

func ids[T any](list []T, id func(T) string) []string {
	all := make([]string, len(list))
	for i, item := range list {
		all[i] = id(item)
	}
	return all
}
