package model

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
)

// Material is how a part looks, as it is kept: a material as glTF 2.0 writes it, whose references to textures count in Textures. What no reader here
// understands stays in it untouched.
type Material struct {
	Material json.RawMessage `json:"material"`
	Textures []Texture       `json:"textures,omitempty"`
}

// Texture is one of the look's images, by its place there, and how it is sampled, as glTF writes it.
type Texture struct {
	Image   int             `json:"image"`
	Sampler json.RawMessage `json:"sampler,omitempty"`
}

// ImageType tells PNG from JPEG by their first bytes, as what kind of file they are; empty for what is neither.
func ImageType(data []byte) string {
	switch {
	case bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")):
		return "image/png"
	case bytes.HasPrefix(data, []byte{0xff, 0xd8, 0xff}):
		return "image/jpeg"
	}
	return ""
}

// Screen and Linear convert between linear light and the colours of screens, both 0 to 1 (IEC 61966-2-1).
func Screen(linear float64) float64 {
	linear = math.Min(1, math.Max(0, linear))
	if linear <= 0.0031308 {
		return 12.92 * linear
	}
	return 1.055*math.Pow(linear, 1/2.4) - 0.055
}

// Linear is Screen undone.
func Linear(screen float64) float64 {
	if screen <= 0.04045 {
		return screen / 12.92
	}
	return math.Pow((screen+0.055)/1.055, 2.4)
}

// Beside reads a file that a model names by a relative address.
type Beside func(address string) ([]byte, error)

// OrNothing is b, or for nil what has no file to give.
func (b Beside) OrNothing() Beside {
	if b != nil {
		return b
	}
	return func(address string) ([]byte, error) {
		return nil, fmt.Errorf("the file %.200s was not brought; bring it along", address)
	}
}
