package plan

import (
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
)

// How far the ground is shown around the joints at rest, and how far ahead, in sizes of them.
const (
	groundMargin = 0.5
	groundAhead  = 12
)

// GroundSurface returns what is seen of the ground, as the global control has it at rest; nil where there is none, where it is not wanted, and where it is a part
// of the model, which is seen by itself.
func (p *Plan) GroundSurface(wanted func(*mechanism.Ground) bool) *mesh.Mesh {
	if p.Ground == nil || !wanted(p.Ground) {
		return nil
	}
	box := mesh.EmptyBounds()
	for _, joint := range p.Document.Joints {
		box.Add(joint.Position)
	}
	if box.Empty() {
		return nil
	}
	return p.Ground.Terrain.Surface(box, groundMargin*box.Size(), groundAhead*box.Size())
}
