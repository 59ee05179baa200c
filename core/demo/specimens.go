package demo

import (
	"fmt"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Specimen is a demo specimen: the name it is called by on the command line, and what it is.
type Specimen struct {
	Name    string
	Title   string
	Summary string
	edits   func() []func(*rig.Document) edit.Edit
}

// Specimens lists the demo specimens in the order of the Shelf.
func Specimens() []Specimen {
	return []Specimen{
		{"quillwick", "Quillwick", "the eel-like messenger, rigged and swimming", quillwickRigged},
		{"quillwick-bare", "Quillwick, bare", "the same body, not rigged yet", func() []func(*rig.Document) edit.Edit { return nil }},
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

// Step is one edit of a demo specimen's making, the document it led to, and the heavy data it brought.
type Step struct {
	Edit  edit.Edit
	Next  *rig.Document
	Blobs map[string][]byte
}

// Make builds the specimen and returns its empty beginning and every step from there.
func (s Specimen) Make(kinds mechanism.Registry) (*rig.Document, []Step, error) {
	begin := rig.New(s.Title)
	document, memory := begin, edit.Memory{}
	var steps []Step
	apply := func(e edit.Edit, blobs map[string][]byte) error {
		context := &edit.Context{Kinds: kinds, Surfaces: memory, Blobs: blobs}
		result, err := edit.Apply(context, document, e)
		if err != nil {
			return fmt.Errorf("demo specimen %s: %w", s.Name, err)
		}
		for hash, data := range context.Blobs {
			memory[hash] = data
		}
		steps = append(steps, Step{Edit: e, Next: result.Document, Blobs: context.Blobs})
		document = result.Document
		return nil
	}
	parts, blobs := quillwickParts()
	if err := apply(parts, blobs); err != nil {
		return nil, nil, err
	}
	for _, next := range s.edits() {
		if err := apply(next(document), nil); err != nil {
			return nil, nil, err
		}
	}
	return begin, steps, nil
}

// Memory gathers the heavy data of all steps.
func Memory(steps []Step) edit.Memory {
	memory := edit.Memory{}
	for _, step := range steps {
		for hash, data := range step.Blobs {
			memory[hash] = data
		}
	}
	return memory
}

func quillwickParts() (*edit.AddParts, map[string][]byte) {
	add := &edit.AddParts{From: "quillwick"}
	blobs := map[string][]byte{}
	for _, p := range quillwickPieces() {
		data := p.surface.Encode()
		hash := edit.Hash(data)
		blobs[hash] = data
		add.Parts = append(add.Parts, edit.NewPart{Name: p.name, Mesh: hash, Vertices: p.surface.VertexCount(), Colour: p.colour})
	}
	return add, blobs
}

// quillwickJoints is how many joints the spine has.
const quillwickJoints = 28

func quillwickRigged() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit {
			places := make([]mgl64.Vec3, 9)
			for i := range places {
				places[i] = quillwickSpine(0.045 + 0.935*float64(i)/float64(len(places)-1))
			}
			return &edit.LayChain{Positions: places, Pattern: "spine_##", Count: quillwickJoints}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: "spine", Joints: ids(d.Joints, func(j rig.Joint) string { return j.ID }),
				Options: parameter.Set{"controls": parameter.OfNumber(5)},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.Bind{
				Parts:  ids(d.Parts, func(p rig.Part) string { return p.ID }),
				Joints: ids(d.Joints, func(j rig.Joint) string { return j.ID }), Blend: 1.5,
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: wave.Name, Name: "swim", Host: d.Mechanisms[0].ID,
				Parameters: parameter.Set{
					"amplitude": parameter.OfNumber(0.17), "wavelength": parameter.OfNumber(1.35), "rate": parameter.OfNumber(0.75),
					"profile": parameter.OfProfile(parameter.Point{0, 0.08}, parameter.Point{0.35, 0.35}, parameter.Point{1, 1}),
				},
			}
		},
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "swim_along", Start: 0, End: 96, Loop: true} },
		quillwickSwim,
	}
}

// quillwickSwim keys the root so that Quillwick dips, leans and comes back.
func quillwickSwim(d *rig.Document) edit.Edit {
	root := d.ControlNamed(mechanism.RootName).ID
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	add := func(channel rig.Channel, values ...float64) {
		for i, value := range values {
			set.Keys = append(set.Keys, edit.KeyValue{
				KeyPlace: edit.KeyPlace{Control: root, Channel: channel, Frame: float64(24 * i)}, Value: value, Ease: rig.Smooth,
			})
		}
	}
	add(rig.MoveY, 0, 0.06, 0, -0.04, 0)
	add(rig.RotateZ, 0, 0.12, 0, -0.12, 0)
	return set
}

func ids[T any](list []T, id func(T) string) []string {
	all := make([]string, len(list))
	for i, item := range list {
		all[i] = id(item)
	}
	return all
}
