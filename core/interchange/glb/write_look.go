package glb

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"myriapod/core/interchange/model"
	"myriapod/core/rig"
)

// material writes how a part looks: as it came in, with the part's colour where that was changed, or its colour alone.
func (w *writer) material(part rig.Part) (int, error) {
	var r, g, b uint8
	if _, err := fmt.Sscanf(part.Colour, "#%02x%02x%02x", &r, &g, &b); err != nil {
		return 0, fmt.Errorf("part %s: the colour %q is not written #rrggbb", part.Name, part.Colour)
	}
	material := &gltf.Material{Name: part.Name, PBRMetallicRoughness: &gltf.PBRMetallicRoughness{MetallicFactor: gltf.Float(0), RoughnessFactor: gltf.Float(0.8)}}
	if part.Look != nil {
		held, err := w.look(*part.Look)
		if err != nil {
			return 0, fmt.Errorf("part %s: how it looks cannot be written: %w", part.Name, err)
		}
		material = held
	}
	if material.PBRMetallicRoughness == nil {
		material.PBRMetallicRoughness = &gltf.PBRMetallicRoughness{}
	}
	base := material.PBRMetallicRoughness
	if was := base.BaseColorFactorOrDefault(); part.Look == nil || hexOf(was) != part.Colour {
		base.BaseColorFactor = &[4]float64{fromSRGB(r), fromSRGB(g), fromSRGB(b), was[3]}
	}
	w.document.Materials = append(w.document.Materials, material)
	return len(w.document.Materials) - 1, nil
}

// look returns a kept material with its textures written into the file, each image once.
func (w *writer) look(look rig.Look) (*gltf.Material, error) {
	data, err := w.job.Body.Heavy(look.Material)
	if err != nil {
		return nil, err
	}
	var held model.Material
	var all map[string]any
	if err := json.Unmarshal(data, &held); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(held.Material, &all); err != nil {
		return nil, err
	}
	eachTexture(all, func(reference map[string]any) bool {
		at := int(reference["index"].(float64))
		if at < 0 || at >= len(held.Textures) || held.Textures[at].Image < 0 || held.Textures[at].Image >= len(look.Images) {
			return false
		}
		texture := held.Textures[at]
		var image int
		if image, err = w.image(look.Images[texture.Image]); err != nil {
			return false
		}
		written := &gltf.Texture{Source: gltf.Index(image)}
		sampler := new(gltf.Sampler)
		if texture.Sampler != nil && json.Unmarshal(texture.Sampler, sampler) == nil {
			w.document.Samplers = append(w.document.Samplers, sampler)
			written.Sampler = gltf.Index(len(w.document.Samplers) - 1)
		}
		w.document.Textures = append(w.document.Textures, written)
		reference["index"] = len(w.document.Textures) - 1
		return true
	})
	if err != nil {
		return nil, err
	}
	if data, err = json.Marshal(all); err != nil {
		return nil, err
	}
	material := new(gltf.Material)
	if err := json.Unmarshal(data, material); err != nil {
		return nil, err
	}
	eachExtension(all, func(name string) {
		if !slices.Contains(w.document.ExtensionsUsed, name) {
			w.document.ExtensionsUsed = append(w.document.ExtensionsUsed, name)
		}
	})
	return material, nil
}

// eachExtension calls visit with the names of all extensions that a material uses.
func eachExtension(value any, visit func(name string)) {
	switch value := value.(type) {
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(value)) {
			inner := value[key]
			if named, ok := inner.(map[string]any); ok && key == "extensions" {
				for _, name := range slices.Sorted(maps.Keys(named)) {
					visit(name)
				}
			}
			eachExtension(inner, visit)
		}
	case []any:
		for _, item := range value {
			eachExtension(item, visit)
		}
	}
}

// image writes an image once, whatever many parts have it.
func (w *writer) image(hash string) (int, error) {
	if at, ok := w.images[hash]; ok {
		return at, nil
	}
	data, err := w.job.Body.Heavy(hash)
	if err != nil {
		return 0, err
	}
	view := modeler.WriteBufferView(w.document, gltf.TargetNone, data)
	w.document.Images = append(w.document.Images, &gltf.Image{MimeType: model.ImageType(data), BufferView: gltf.Index(view)})
	w.images[hash] = len(w.document.Images) - 1
	return w.images[hash], nil
}
