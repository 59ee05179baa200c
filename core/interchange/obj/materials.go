package obj

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"path"
	"strconv"
	"strings"

	"myriapod/core/interchange/model"
)

// material is what a library of materials says of one of them.
type material struct {
	colour, glow [3]float64 // of screens, 0 to 1
	alpha        float64
	folder       string            // of its library
	maps         map[string]string // by the statement that names them
}

// metallic and roughness are what a material of this format is taken for: it knows of shine only by a model of its own.
const (
	metallic  = 0.0
	roughness = 0.8
)

// library reads a library of materials. One that is not there costs the model its colours, and is told.
func (r *reader) library(rest string) {
	data, err := r.beside(rest)
	if err == nil {
		r.readLibrary(rest, data)
		return
	}
	found := false
	for _, name := range strings.Fields(rest) { // the statement may name several
		if data, other := r.beside(name); other == nil {
			found = true
			r.readLibrary(name, data)
		}
	}
	if !found {
		r.note("The materials are left out: %.300s.", err)
	}
}

func (r *reader) readLibrary(name string, data []byte) {
	text, err := decodeText(data)
	if err != nil {
		r.note("The materials in %.100s are left out: %.200s.", name, err)
		return
	}
	r.read(text, path.Dir(strings.ReplaceAll(name, `\`, "/")))
}

// read takes up the materials of a library that lies in a folder.
func (r *reader) read(text []byte, folder string) {
	var now *material
	for line := range bytes.Lines(text) {
		fields := strings.Fields(string(line))
		if len(fields) == 0 {
			continue
		}
		if fields[0] == "newmtl" {
			now = &material{colour: [3]float64{1, 1, 1}, alpha: 1, folder: folder, maps: map[string]string{}}
			r.materials[strings.Join(fields[1:], " ")] = now
		} else if now != nil {
			now.statement(fields)
		}
	}
}

// statement takes up what is read; what is not, or does not make sense, changes nothing.
func (m *material) statement(fields []string) {
	numbers := func() (list [3]float64) {
		for k := range list {
			list[k] = unit(fields, 1+k, list[max(k-1, 0)])
		}
		return list
	}
	switch fields[0] {
	case "Kd":
		m.colour = numbers()
	case "Ke":
		m.glow = numbers()
	case "d":
		m.alpha = unit(fields, len(fields)-1, 1)
	case "Tr":
		m.alpha = 1 - unit(fields, 1, 0)
	case "map_Kd", "map_Ke", "norm", "map_d":
		m.maps[fields[0]] = withoutOptions(fields[1:])
	}
}

// unit is the number at a place, brought to 0 to 1; other where there is none.
func unit(fields []string, at int, other float64) float64 {
	if at < 1 || at >= len(fields) {
		return other
	}
	n, err := strconv.ParseFloat(fields[at], 64)
	if err != nil || math.IsNaN(n) {
		return other
	}
	return min(max(n, 0), 1)
}

// optionLengths is how many words follow each option before the name of an image; those of places and sizes have up to three numbers.
var optionLengths = map[string]int{"-blendu": 1, "-blendv": 1, "-boost": 1, "-bm": 1, "-cc": 1, "-clamp": 1, "-imfchan": 1, "-mm": 2, "-texres": 1, "-type": 1, "-o": 3, "-s": 3, "-t": 3}

// withoutOptions is the name of an image, which may have spaces in it.
func withoutOptions(fields []string) string {
	for len(fields) > 1 && optionLengths[fields[0]] > 0 {
		most := optionLengths[fields[0]]
		fields = fields[1:]
		for k := 0; k < most && len(fields) > 1; k++ {
			if _, err := strconv.ParseFloat(fields[0], 64); err != nil && most == 3 {
				break
			}
			fields = fields[1:]
		}
	}
	return strings.Join(fields, " ")
}

// look gives a part the colour and looks of its material.
func (r *reader) look(part *model.Part, name string) error {
	m, ok := r.materials[name]
	if !ok {
		return nil
	}
	part.Colour = fmt.Sprintf("#%02x%02x%02x", screen(m.colour[0]), screen(m.colour[1]), screen(m.colour[2]))
	base := map[string]any{"baseColorFactor": []float64{model.Linear(m.colour[0]), model.Linear(m.colour[1]), model.Linear(m.colour[2]), m.alpha}, "metallicFactor": metallic, "roughnessFactor": roughness}
	all := map[string]any{"name": name, "pbrMetallicRoughness": base}
	if m.alpha < 1 || m.maps["map_d"] != "" {
		all["alphaMode"] = "BLEND"
	}
	if m.glow != [3]float64{} {
		all["emissiveFactor"] = []float64{model.Linear(m.glow[0]), model.Linear(m.glow[1]), model.Linear(m.glow[2])}
	}
	look, kept := &model.Look{}, model.Material{}
	for _, image := range []struct {
		statement, field string
		into             map[string]any
	}{{"map_Kd", "baseColorTexture", base}, {"map_Ke", "emissiveTexture", all}, {"norm", "normalTexture", all}} {
		if data := r.image(m.folder, m.maps[image.statement]); data != nil && len(part.Mesh.TexCoords) > 0 {
			image.into[image.field] = map[string]any{"index": len(kept.Textures)}
			kept.Textures = append(kept.Textures, model.Texture{Image: len(look.Images)})
			look.Images = append(look.Images, data)
		}
	}
	var err error
	if kept.Material, err = json.Marshal(all); err != nil {
		return err
	}
	look.Material, err = json.Marshal(kept)
	part.Look = look
	return err
}

// image reads an image once, from beside the model or its library; nil for none, or for one that is not there or of another kind, which is told.
func (r *reader) image(folder, name string) []byte {
	if name == "" {
		return nil
	}
	data, known := r.images[name]
	if known {
		return data
	}
	data, err := r.beside(name)
	if err != nil && folder != "." {
		if other, missing := r.beside(path.Join(folder, name)); missing == nil {
			data, err = other, nil
		}
	}
	switch {
	case err != nil:
		r.note("The image %.100s is left out: %.300s.", name, err)
		data = nil
	case model.ImageType(data) == "":
		r.note("The image %.100s is neither PNG nor JPEG; it is left out.", name)
		data = nil
	}
	r.images[name] = data
	return data
}

func screen(n float64) uint8 { return uint8(math.Round(255 * n)) }
