package edit

import (
	"fmt"

	"myriapod/core/evaluate"
	"myriapod/core/mesh"
	"myriapod/core/skin"
)

// surfaces reads heavy data that this edit made before it reads what was kept earlier.
func (c *Context) surfaces() evaluate.Surfaces { return fresh{c} }

type fresh struct{ context *Context }

func (f fresh) Mesh(hash string) (*mesh.Mesh, error) {
	if data, ok := f.context.Blobs[hash]; ok {
		return mesh.Decode(data)
	}
	if f.context.Surfaces == nil {
		return nil, fmt.Errorf("there is no surface %.12s", hash)
	}
	return f.context.Surfaces.Mesh(hash)
}

func (f fresh) Weights(hash string, joints int) (*skin.Weights, error) {
	if data, ok := f.context.Blobs[hash]; ok {
		return skin.ReadWeights(data, joints, f.Blob)
	}
	if f.context.Surfaces == nil {
		return nil, fmt.Errorf("there is no table of weights %.12s", hash)
	}
	return f.context.Surfaces.Weights(hash, joints)
}

func (f fresh) Deltas(hash string, vertices int) (*mesh.Deltas, error) {
	if data, ok := f.context.Blobs[hash]; ok {
		return mesh.DecodeDeltas(data, vertices)
	}
	if f.context.Surfaces == nil {
		return nil, fmt.Errorf("there is no morph target %.12s", hash)
	}
	return f.context.Surfaces.Deltas(hash, vertices)
}

func (f fresh) Blob(hash string) ([]byte, error) {
	if data, ok := f.context.Blobs[hash]; ok {
		return data, nil
	}
	if f.context.Surfaces == nil {
		return nil, fmt.Errorf("there is no heavy data %.12s", hash)
	}
	return f.context.Surfaces.Blob(hash)
}

// Memory keeps heavy data in memory, for work without a store.
type Memory map[string][]byte

// Mesh implements evaluate.Surfaces.
func (m Memory) Mesh(hash string) (*mesh.Mesh, error) {
	data, ok := m[hash]
	if !ok {
		return nil, fmt.Errorf("there is no surface %.12s", hash)
	}
	return mesh.Decode(data)
}

// Weights implements evaluate.Surfaces.
func (m Memory) Weights(hash string, joints int) (*skin.Weights, error) {
	data, ok := m[hash]
	if !ok {
		return nil, fmt.Errorf("there is no table of weights %.12s", hash)
	}
	return skin.ReadWeights(data, joints, m.Blob)
}

// Deltas implements evaluate.Surfaces.
func (m Memory) Deltas(hash string, vertices int) (*mesh.Deltas, error) {
	data, ok := m[hash]
	if !ok {
		return nil, fmt.Errorf("there is no morph target %.12s", hash)
	}
	return mesh.DecodeDeltas(data, vertices)
}

// Blob implements evaluate.Surfaces.
func (m Memory) Blob(hash string) ([]byte, error) {
	data, ok := m[hash]
	if !ok {
		return nil, fmt.Errorf("there is no heavy data %.12s", hash)
	}
	return data, nil
}
