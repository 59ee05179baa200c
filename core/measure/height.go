package measure

import (
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Height is how high a thing is over the level that the global control stands on; without that, over the world's.
type Height struct{}

// Declare implements mechanism.MeasureKind.
func (Height) Declare() mechanism.MeasureDeclaration {
	return mechanism.MeasureDeclaration{Kind: "height", Title: "Height", Summary: "How high a joint or control is over the ground of the specimen.", Unit: "m", Things: 1, Joint: true, Control: true}
}

// Prepare implements mechanism.MeasureKind.
func (k Height) Prepare(b *mechanism.Bench, m rig.Measure, slot int) error {
	of, err := things(b, m, k.Declare())
	if err != nil {
		return err
	}
	global := b.Document.ControlNamed(rig.GlobalName)
	if global == nil || global.ID == m.Of[0] {
		add(b, m, slot, of, nil, func(f *mechanism.Frame) float64 { return f.At(of[0]).Position[1] })
		return nil
	}
	level, rest, _ := b.Space(global.ID)
	upright := rest.Rotation.Conjugate().Rotate(geometry.Up)
	add(b, m, slot, append(of, level), nil, func(f *mechanism.Frame) float64 {
		ground := f.At(level)
		return f.At(of[0]).Position.Sub(ground.Position).Dot(ground.Rotation.Rotate(upright))
	})
	return nil
}
