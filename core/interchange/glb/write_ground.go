package glb

import (
	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"myriapod/core/mechanism"
)

func handed(g *mechanism.Ground) bool { return g.Handed }

// grounds is how many grounds a job writes.
func (j *Job) grounds() int {
	if j.Evaluator.Plan.GroundSurface(handed) == nil {
		return 0
	}
	return 1
}

// ground writes what the specimen stands on, where that is wanted: a node of its own that nothing moves, named like its mechanism.
func (w *writer) ground() {
	planned := w.job.Evaluator.Plan
	surface := planned.GroundSurface(handed)
	if surface == nil {
		return
	}
	name := planned.Document.NameOf(planned.Ground.Owner)
	w.document.Materials = append(w.document.Materials, &gltf.Material{Name: name, PBRMetallicRoughness: &gltf.PBRMetallicRoughness{
		BaseColorFactor: &[4]float64{0.73, 0.64, 0.46, 1}, MetallicFactor: gltf.Float(0), RoughnessFactor: gltf.Float(1),
	}})
	w.document.Meshes = append(w.document.Meshes, &gltf.Mesh{Name: name, Primitives: []*gltf.Primitive{{
		Attributes: gltf.PrimitiveAttributes{
			gltf.POSITION: modeler.WritePosition(w.document, triples(surface.Positions)), gltf.NORMAL: modeler.WriteNormal(w.document, triples(surface.Normals)),
		},
		Indices: gltf.Index(modeler.WriteIndices(w.document, surface.Triangles)), Material: gltf.Index(len(w.document.Materials) - 1),
	}}})
	node := w.add(&gltf.Node{Name: name, Mesh: gltf.Index(len(w.document.Meshes) - 1)})
	w.document.Scenes[0].Nodes = append(w.document.Scenes[0].Nodes, node)
}
