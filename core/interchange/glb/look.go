package glb

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"github.com/qmuntal/gltf"

	"myriapod/core/interchange/model"
)

// eachTexture calls visit with every reference to a texture in a material, those of extensions included. What visit refuses is taken out.
func eachTexture(value any, visit func(reference map[string]any) bool) {
	switch value := value.(type) {
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(value)) {
			reference, ok := value[key].(map[string]any)
			if _, indexed := reference["index"].(float64); ok && indexed && strings.HasSuffix(key, "Texture") {
				if !visit(reference) {
					delete(value, key)
				}
				continue
			}
			eachTexture(value[key], visit)
		}
	case []any:
		for _, item := range value {
			eachTexture(item, visit)
		}
	}
}

// tree is a material as any reader of JSON sees it.
func tree(material *gltf.Material) (all map[string]any, err error) {
	data, err := json.Marshal(material)
	if err == nil {
		err = json.Unmarshal(data, &all)
	}
	return all, err
}

// setOf is which texture coordinates a reference to a texture goes by.
func setOf(reference map[string]any) int {
	set, _ := reference["texCoord"].(float64)
	return int(set)
}

// coordsOf is which texture coordinates of a primitive are kept: those of its base colour, or of the first texture that it has.
func (r *reader) coordsOf(p *gltf.Primitive) int {
	material := r.materialOf(p)
	if material == nil {
		return 0
	}
	if base := baseTexture(material); base != nil && base.TexCoord >= 0 {
		return base.TexCoord
	}
	set := 0
	if all, err := tree(material); err == nil {
		first := true
		eachTexture(all, func(reference map[string]any) bool {
			if first {
				set, first = max(setOf(reference), 0), false
			}
			return true
		})
	}
	return set
}

func baseTexture(material *gltf.Material) *gltf.TextureInfo {
	if material.PBRMetallicRoughness == nil {
		return nil
	}
	return material.PBRMetallicRoughness.BaseColorTexture
}

// look returns the colour of a primitive, and the rest of its material with its images; nil for one that is a colour and no more.
func (r *reader) look(p *gltf.Primitive) (colour string, look *model.Look, err error) {
	colour = r.colour(p)
	material := r.materialOf(p)
	if material == nil {
		return colour, nil, nil
	}
	all, err := tree(material)
	if err != nil {
		return colour, nil, fmt.Errorf("its material cannot be kept: %w", err)
	}
	look, textures := &model.Look{}, []model.Texture{}
	set, known := r.coordsOf(p), map[int]int{}
	eachTexture(all, func(reference map[string]any) bool {
		index := int(reference["index"].(float64))
		if setOf(reference) != set {
			r.note("A texture of the material %s goes by texture coordinates other than its colour's; it is left out.", material.Name)
			return false
		}
		at, ok := known[index]
		if !ok {
			image, sampler := r.texture(index)
			if image == nil {
				return false
			}
			at = len(textures)
			known[index] = at
			textures = append(textures, model.Texture{Image: len(look.Images), Sampler: sampler})
			look.Images = append(look.Images, image)
		}
		reference["index"] = at
		delete(reference, "texCoord")
		return true
	})
	held := model.Material{Textures: textures}
	if held.Material, err = json.Marshal(all); err != nil {
		return colour, nil, fmt.Errorf("its material cannot be kept: %w", err)
	}
	look.Material, err = json.Marshal(held)
	return colour, look, err
}

// texture returns the image of a texture, PNG or JPEG, and how it is sampled; no image where it is of another kind or not to be had, which is told.
func (r *reader) texture(index int) (image []byte, sampler json.RawMessage) {
	if index < 0 || index >= len(r.document.Textures) || r.document.Textures[index] == nil {
		return nil, nil
	}
	texture := r.document.Textures[index]
	if texture.Source == nil || *texture.Source < 0 || *texture.Source >= len(r.document.Images) || r.document.Images[*texture.Source] == nil {
		r.note("A texture is of a kind that is not kept; save its image as PNG or JPEG.")
		return nil, nil
	}
	if s := texture.Sampler; s != nil && *s >= 0 && *s < len(r.document.Samplers) && r.document.Samplers[*s] != nil {
		sampler, _ = json.Marshal(r.document.Samplers[*s]) // what was read from JSON can be written
	}
	return r.image(*texture.Source), sampler
}

// image reads an image wherever it lies. One that cannot be read costs the model its look, and is told; it does not keep the model out.
func (r *reader) image(index int) []byte {
	if data, ok := r.images[index]; ok {
		return data
	}
	source := r.document.Images[index]
	var data []byte
	var err error
	switch {
	case source.BufferView != nil && *source.BufferView >= 0 && *source.BufferView < len(r.document.BufferViews):
		data = r.view(*source.BufferView)
	case strings.HasPrefix(source.URI, "data:"):
		data, err = written(source.URI)
	case source.URI != "":
		data, err = r.beside(source.URI)
	}
	name := source.Name
	if name == "" && len(source.URI) < 200 {
		name = source.URI
	}
	switch {
	case err != nil:
		r.note("The image %.100s is left out: %.300s.", name, err)
		data = nil
	case model.ImageType(data) == "":
		r.note("The image %.100s is neither PNG nor JPEG; it is left out.", name)
		data = nil
	}
	data = bytes.Clone(data)
	r.images[index] = data
	return data
}

func (r *reader) materialOf(p *gltf.Primitive) *gltf.Material {
	if p.Material == nil || *p.Material < 0 || *p.Material >= len(r.document.Materials) {
		return nil
	}
	return r.document.Materials[*p.Material]
}

// colour is the base colour of a primitive. Materials of the older extension by shininess have theirs there.
func (r *reader) colour(p *gltf.Primitive) string {
	material := r.materialOf(p)
	if material == nil {
		if _, has := p.Attributes[gltf.COLOR_0]; has {
			return "#ffffff"
		}
		return model.Palette[len(r.model.Parts)%len(model.Palette)]
	}
	if raw, ok := material.Extensions["KHR_materials_pbrSpecularGlossiness"].(json.RawMessage); ok {
		var shiny struct {
			Diffuse *[4]float64 `json:"diffuseFactor"`
		}
		if json.Unmarshal(raw, &shiny) == nil && shiny.Diffuse != nil {
			return hexOf(*shiny.Diffuse)
		}
	}
	if material.PBRMetallicRoughness == nil {
		return "#ffffff"
	}
	return hexOf(material.PBRMetallicRoughness.BaseColorFactorOrDefault())
}

func hexOf(c [4]float64) string {
	return fmt.Sprintf("#%02x%02x%02x", toSRGB(c[0]), toSRGB(c[1]), toSRGB(c[2]))
}

func toSRGB(linear float64) uint8 { return uint8(math.Round(255 * model.Screen(linear))) }

func fromSRGB(b uint8) float64 { return model.Linear(float64(b) / 255) }
