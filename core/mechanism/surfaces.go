package mechanism

import (
	"myriapod/core/mesh"
	"myriapod/core/skin"
)

// Surfaces gives the surfaces and weights of a document by content hash, for kinds that measure the body when they are prepared.
type Surfaces interface {
	Mesh(hash string) (*mesh.Mesh, error)
	Weights(hash string, joints int) (*skin.Weights, error)
}
