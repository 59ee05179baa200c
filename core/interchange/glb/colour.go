package glb

import (
	"fmt"
	"math"

	"github.com/qmuntal/gltf"

	"myriapod/core/interchange/model"
)

func (r *reader) materialOf(p *gltf.Primitive) *gltf.Material {
	if p.Material == nil || *p.Material < 0 || *p.Material >= len(r.document.Materials) {
		return nil
	}
	return r.document.Materials[*p.Material]
}

func (r *reader) colour(p *gltf.Primitive) string {
	material := r.materialOf(p)
	if material == nil || material.PBRMetallicRoughness == nil {
		return model.Palette[len(r.model.Parts)%len(model.Palette)]
	}
	c := material.PBRMetallicRoughness.BaseColorFactorOrDefault()
	return fmt.Sprintf("#%02x%02x%02x", toSRGB(c[0]), toSRGB(c[1]), toSRGB(c[2]))
}

// toSRGB and fromSRGB convert between linear light, 0 to 1, and the bytes of screens (IEC 61966-2-1).
func toSRGB(linear float64) uint8 {
	linear = math.Min(1, math.Max(0, linear))
	if linear <= 0.0031308 {
		return uint8(math.Round(255 * 12.92 * linear))
	}
	return uint8(math.Round(255 * (1.055*math.Pow(linear, 1/2.4) - 0.055)))
}

func fromSRGB(b uint8) float64 {
	c := float64(b) / 255
	if c <= 0.04045 {
		return c / 12.92
	}
	return math.Pow((c+0.055)/1.055, 2.4)
}
