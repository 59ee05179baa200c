// Package ground is the ground that a specimen stands on: one for all its feet and wheels. It goes along with the global control.
package ground

import (
	"fmt"
	"math"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/terrain"
)

// Name is the kind's name in documents.
const Name = rig.GroundKind

// Kind is the ground.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	metres := func(key, title string, least, standard float64, help string) parameter.Declaration {
		return parameter.Declaration{Key: key, Title: title, Type: parameter.Number, Unit: "m", Min: least, Max: 1e5, Default: parameter.OfNumber(standard), Help: help}
	}
	return mechanism.Declaration{
		Kind: Name, Title: "Ground", Stand: mechanism.OnPicks, Whole: true, Hosts: []string{},
		Summary: "What the specimen stands on, one for all its feet: flat, a slope, steps, or a part of the model seen from above.",
		Sketch:  "M2 20h16l8-6h10v-6h10v-5h12",
		Roles: []mechanism.Role{
			{Name: "part", Title: "Part", Help: "A part of the model that is the ground, as it is seen from above. None for a slope or steps.", Does: mechanism.DrawsFrom, Parts: true, Most: 1},
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{
				Key: "shape", Title: "Shape", Type: parameter.Choice, Choices: []string{string(terrain.Flat), string(terrain.Slope), string(terrain.Steps), string(terrain.Surface)}, Default: parameter.OfChoice(string(terrain.Flat)),
				Help: "What the ground looks like, ahead of where the specimen stands at rest. Part: as the part that it was made of is seen from above.",
			},
			metres("rise", "Rise", -1e5, 0.2, "How high a slope goes in all, or each of the steps."),
			metres("run", "Run", 1e-6, 1, "How far a slope goes, or each of the steps."),
			metres("begin", "Begins", -1e5, 2, "How far ahead the ground begins to rise."),
			{Key: "count", Title: "Steps", Type: parameter.Number, Whole: true, Min: 1, Max: 10000, Default: parameter.OfNumber(6), Help: "How many steps there are."},
			{Key: "heading", Title: "Heading", Type: parameter.Number, Unit: "°", Min: -180, Max: 180, Default: parameter.OfNumber(0), Help: "Where it rises to: from straight ahead, to the left."},
			metres("level", "Level", -1e5, 0, "How high the ground lies where it does not rise; a part is moved up by so much."),
			{Key: "drawn", Title: "Drawn", Type: parameter.Toggle, Default: parameter.OfToggle(true), Help: "Whether it is drawn on the stage and in pictures."},
			{Key: "handed", Title: "Goes into exports", Type: parameter.Toggle, Default: parameter.OfToggle(false), Help: "Whether a model that is written has the ground in it, as a part of its own."},
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.04 }

// Build implements mechanism.Kind: it needs no controls. What is a length suits the specimen, and the level is where it stands.
func (Kind) Build(site *mechanism.Site) error {
	for _, m := range site.Document.Mechanisms {
		if m.Kind == Name {
			return fmt.Errorf("there is a ground already, %s: change that, or remove it first", m.Name)
		}
	}
	level := site.Ground[1]
	if global := site.Document.ControlNamed(rig.GlobalName); global != nil {
		level = global.Position[1]
	}
	m := site.Mechanism
	set := func(key string, value float64) { m.Parameters[key] = parameter.OfNumber(value) }
	set("rise", 0.1*site.Size)
	set("run", 0.4*site.Size)
	set("begin", 0.5*site.Size)
	set("level", level)
	if len(m.Parts) == 0 {
		return nil
	}
	m.Parameters["shape"] = parameter.OfChoice(string(terrain.Surface))
	set("level", 0)
	surface, err := site.Surface(m.Parts[0])
	if err != nil {
		return err
	}
	field, err := terrain.NewField(surface)
	if err != nil {
		return fmt.Errorf("%s cannot be the ground: %w", site.Document.NameOf(m.Parts[0]), err)
	}
	if field.Walls() > 0 {
		site.Say("%d faces of %s stand upright. Feet go by what lies highest, seen from above, and step over these as over walls; take such faces out where they are not meant.", field.Walls(), site.Document.NameOf(m.Parts[0]))
	}
	return nil
}

// fieldKey says all that the field of a part is made of.
type fieldKey struct{ mesh string }

// made is a field, or why there is none.
type made struct {
	field *terrain.Field
	err   error
}

// Of returns the ground of a bench's document, or nil where it has none, or it is off.
func Of(b *mechanism.Bench) (*terrain.Ground, error) {
	for i := range b.Document.Mechanisms {
		if m := &b.Document.Mechanisms[i]; m.Kind == Name && m.On {
			return read(b, m)
		}
	}
	return nil, nil
}

func read(b *mechanism.Bench, m *rig.Mechanism) (*terrain.Ground, error) {
	settings := Kind{}.Declare().Parameters.Complete(m.Parameters)
	g := &terrain.Ground{
		Shape: terrain.Shape(settings.Choice("shape")), Rise: settings.Number("rise"), Run: settings.Number("run"), Begin: settings.Number("begin"),
		Count: settings.Number("count"), Heading: settings.Number("heading") * math.Pi / 180, Level: settings.Number("level"),
	}
	if global := b.Document.ControlNamed(rig.GlobalName); global != nil {
		g.Origin = global.Position
	}
	if g.Shape != terrain.Surface {
		return g, nil
	}
	if len(m.Parts) == 0 {
		return nil, fmt.Errorf("%s is to be a part of the model, and has none; choose another shape, or build it anew with the part", m.Name)
	}
	part := b.Document.Part(m.Parts[0])
	if part == nil || b.Surfaces == nil {
		return nil, fmt.Errorf("the part of %s is not at hand; choose another shape", m.Name)
	}
	there := mechanism.Prepared(b, fieldKey{part.Mesh}, func() made {
		surface, err := b.Surfaces.Mesh(part.Mesh)
		if err != nil {
			return made{nil, err}
		}
		field, err := terrain.NewField(surface)
		return made{field, err}
	})
	if there.err != nil {
		return nil, fmt.Errorf("%s cannot be the ground: %w", part.Name, there.err)
	}
	g.Field = there.field
	return g, nil
}

// Prepare implements mechanism.Kind: others ask for it.
func (Kind) Prepare(b *mechanism.Bench) error {
	of, err := read(b, &b.Mechanism)
	if err == nil {
		b.Ground = &mechanism.Ground{Owner: b.Mechanism.ID, Terrain: of, Drawn: b.Settings.On("drawn"), Handed: b.Settings.On("handed")}
	}
	return err
}

// Carried returns how far the global control has gone from rest, with what a task reads for it: the ground goes along with it.
func Carried(b *mechanism.Bench) (carried func(f *mechanism.Frame) geometry.Transform, reads []mechanism.Resource) {
	global := b.Document.ControlNamed(rig.GlobalName)
	if global == nil {
		return func(*mechanism.Frame) geometry.Transform { return geometry.Identity() }, nil
	}
	index, _ := b.Control(global.ID)
	back := global.Home().Inverse()
	return func(f *mechanism.Frame) geometry.Transform { return f.Controls[index].Then(back) }, []mechanism.Resource{{Kind: mechanism.Control, Index: index}}
}
