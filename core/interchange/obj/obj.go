// Package obj reads models in the Wavefront OBJ text format: vertices with or without colours, texture coordinates, normals, polygons, objects, groups
// and materials.
package obj

import (
	"bufio"
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"myriapod/core/interchange/model"
	"myriapod/core/mesh"
)

// Read reads the parts of an OBJ file: one for each combination of object, group and material that has faces. Libraries of materials and images that it
// names are read by beside. Units are taken as metres. Errors name the line.
func Read(data []byte, beside model.Beside) (*model.Model, error) {
	text, err := decodeText(data)
	if err != nil {
		return nil, err
	}
	r := &reader{beside: beside.OrNothing(), parts: map[string]*builder{}, materials: map[string]*material{}, images: map[string][]byte{}}
	scanner := bufio.NewScanner(bytes.NewReader(text))
	scanner.Buffer(nil, 1<<20)
	var statement strings.Builder
	for scanner.Scan() {
		r.line++
		line, goesOn := strings.CutSuffix(strings.TrimSpace(scanner.Text()), `\`)
		statement.WriteString(line)
		if goesOn { // in the next line
			statement.WriteByte(' ')
			continue
		}
		if err := r.statement(statement.String()); err != nil {
			return nil, fmt.Errorf("line %d: %w", r.line, err)
		}
		statement.Reset()
	}
	if err := scanner.Err(); err != nil {
		return nil, fmt.Errorf("line %d: %w", r.line+1, err)
	}
	return r.result()
}

// decodeText brings the file to UTF-8: by its byte order mark, as it is when it is UTF-8, else as Western single bytes.
func decodeText(data []byte) ([]byte, error) {
	switch {
	case bytes.HasPrefix(data, []byte{0xEF, 0xBB, 0xBF}):
		return data[3:], nil
	case bytes.HasPrefix(data, []byte{0xFF, 0xFE}), bytes.HasPrefix(data, []byte{0xFE, 0xFF}):
		return unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(data)
	case bytes.IndexByte(data[:min(len(data), 4096)], 0) >= 0:
		return nil, fmt.Errorf("this is neither text nor a model file known here; bring OBJ, GLB or glTF")
	case utf8.Valid(data):
		return data, nil
	}
	return charmap.Windows1252.NewDecoder().Bytes(data)
}

type reader struct {
	line                    int
	positions, normals      [][3]float32
	texCoords               [][2]float32
	object, group, material string
	parts                   map[string]*builder
	built                   []*builder
	beside                  model.Beside
	materials               map[string]*material
	images                  map[string][]byte
	colours                 [][3]float32 // of vertices, in linear light; empty, or as many as positions
	notes                   []string
}

func (r *reader) note(format string, values ...any) {
	if text := fmt.Sprintf(format, values...); !slices.Contains(r.notes, text) {
		r.notes = append(r.notes, text)
	}
}

// builder gathers one part.
type builder struct {
	object, group, material string
	corners                 map[corner]uint32
	mesh                    mesh.Mesh
	allNormals, allCoords   bool
}

// corner is a vertex of a face: indices into positions, texture coordinates and normals, -1 for none.
type corner struct{ position, texCoord, normal int }

func (r *reader) statement(line string) error {
	fields := strings.Fields(line)
	if len(fields) == 0 || strings.HasPrefix(fields[0], "#") {
		return nil
	}
	rest := strings.TrimSpace(strings.TrimPrefix(line, fields[0]))
	switch fields[0] {
	case "v":
		return r.vertex(fields[1:])
	case "mtllib":
		r.library(rest)
	case "vn":
		return appendNumbers3(&r.normals, fields[1:])
	case "vt":
		return r.texCoord(fields[1:])
	case "f":
		return r.face(fields[1:])
	case "o":
		r.object, r.group = rest, ""
	case "g":
		r.group = rest
	case "usemtl":
		r.material = rest
	}
	return nil
}

func numbers(fields []string, out []float32) error {
	if len(fields) < len(out) {
		return fmt.Errorf("%d numbers are wanted, and there are %d", len(out), len(fields))
	}
	for i := range out {
		n, err := strconv.ParseFloat(fields[i], 32)
		if err != nil {
			return fmt.Errorf("%q is not a number in range", fields[i])
		}
		if n != n {
			return fmt.Errorf("%q is not a finite number", fields[i])
		}
		out[i] = float32(n)
	}
	return nil
}

// vertex adds a place, and its colour where one follows.
func (r *reader) vertex(fields []string) error {
	if err := appendNumbers3(&r.positions, fields); err != nil {
		return err
	}
	if len(fields) < 6 && len(r.colours) == 0 {
		return nil
	}
	for len(r.colours) < len(r.positions)-1 {
		r.colours = append(r.colours, [3]float32{1, 1, 1})
	}
	colour := [3]float32{1, 1, 1}
	if len(fields) >= 6 {
		for k := range colour {
			colour[k] = float32(model.Linear(unit(fields, 3+k, 1)))
		}
	}
	r.colours = append(r.colours, colour)
	return nil
}

func appendNumbers3(list *[][3]float32, fields []string) error {
	var v [3]float32
	if err := numbers(fields, v[:]); err != nil {
		return err
	}
	*list = append(*list, v)
	return nil
}

func (r *reader) texCoord(fields []string) error {
	var v [2]float32
	if len(fields) == 1 {
		fields = append(fields, "0")
	}
	if err := numbers(fields, v[:]); err != nil {
		return err
	}
	v[1] = 1 - v[1] // OBJ counts upward, glTF downward
	r.texCoords = append(r.texCoords, v)
	return nil
}

// face adds a polygon as a fan of triangles.
func (r *reader) face(fields []string) error {
	if len(fields) < 3 {
		return fmt.Errorf("a face has three corners or more, not %d", len(fields))
	}
	b := r.builder()
	vertices := make([]uint32, len(fields))
	for i, field := range fields {
		c, err := r.corner(field)
		if err != nil {
			return err
		}
		vertices[i] = b.vertex(r, c)
	}
	for i := 2; i < len(vertices); i++ {
		b.mesh.Triangles = append(b.mesh.Triangles, vertices[0], vertices[i-1], vertices[i])
	}
	return nil
}

func (r *reader) corner(field string) (corner, error) {
	c := corner{-1, -1, -1}
	targets := []struct {
		index *int
		count int
		what  string
	}{{&c.position, len(r.positions), "vertex"}, {&c.texCoord, len(r.texCoords), "texture coordinate"}, {&c.normal, len(r.normals), "normal"}}
	pieces := strings.Split(field, "/")
	if len(pieces) > len(targets) || pieces[0] == "" {
		return c, fmt.Errorf("%q is not a corner of a face", field)
	}
	for i, piece := range pieces {
		if piece == "" {
			continue
		}
		n, err := strconv.Atoi(piece)
		if err != nil {
			return c, fmt.Errorf("%q is not an index", piece)
		}
		if n < 0 { // counted back from the latest
			n += targets[i].count + 1
		}
		if n < 1 || n > targets[i].count {
			return c, fmt.Errorf("%s %s does not exist; %d are known by this line", targets[i].what, piece, targets[i].count)
		}
		*targets[i].index = n - 1
	}
	return c, nil
}

func (r *reader) builder() *builder {
	key := r.object + "\x00" + r.group + "\x00" + r.material
	b, ok := r.parts[key]
	if !ok {
		b = &builder{object: r.object, group: r.group, material: r.material, corners: map[corner]uint32{}, allNormals: true, allCoords: true}
		r.parts[key] = b
		r.built = append(r.built, b)
	}
	return b
}

func (b *builder) vertex(r *reader, c corner) uint32 {
	if at, ok := b.corners[c]; ok {
		return at
	}
	at := uint32(b.mesh.VertexCount())
	b.corners[c] = at
	p := r.positions[c.position]
	b.mesh.Positions = append(b.mesh.Positions, p[:]...)
	if len(r.colours) > 0 {
		colour := [4]float32{1, 1, 1, 1}
		if c.position < len(r.colours) {
			copy(colour[:], r.colours[c.position][:])
		}
		b.mesh.Colours = append(b.mesh.Colours, colour[:]...)
	}
	var normal [3]float32
	if c.normal >= 0 {
		normal = r.normals[c.normal]
	}
	b.mesh.Normals = append(b.mesh.Normals, normal[:]...)
	var texCoord [2]float32
	if c.texCoord >= 0 {
		texCoord = r.texCoords[c.texCoord]
	}
	b.mesh.TexCoords = append(b.mesh.TexCoords, texCoord[:]...)
	b.allNormals = b.allNormals && c.normal >= 0 && normal != [3]float32{}
	b.allCoords = b.allCoords && c.texCoord >= 0
	return at
}

func (r *reader) result() (*model.Model, error) {
	if len(r.built) > model.MaxParts {
		return nil, fmt.Errorf("%d parts are more than the %d that a model may have; join objects, groups or materials", len(r.built), model.MaxParts)
	}
	parts := make([]model.Part, 0, len(r.built))
	for i, b := range r.built {
		surface := b.mesh
		if !b.allNormals {
			surface.ComputeNormals()
		}
		if !b.allCoords {
			surface.TexCoords = nil
		}
		if len(surface.Colours) != 4*surface.VertexCount() { // they began after its first corners
			surface.Colours = nil
		}
		part := model.Part{Name: r.name(b), Colour: model.Palette[i%len(model.Palette)], Mesh: &surface}
		if len(surface.Colours) > 0 {
			part.Colour = "#ffffff"
		}
		if err := r.look(&part, b.material); err != nil {
			return nil, fmt.Errorf("part %s: its material cannot be kept: %w", part.Name, err)
		}
		parts = append(parts, part)
	}
	return &model.Model{Parts: parts, Notes: r.notes}, nil
}

// name is the object and the group; the material joins them where they alone do not tell parts apart.
func (r *reader) name(b *builder) string {
	alike := 0
	for _, other := range r.built {
		if other.object == b.object && other.group == b.group {
			alike++
		}
	}
	words := []string{b.object}
	if b.group != "" && b.group != b.object && b.group != "default" {
		words = append(words, b.group)
	}
	if b.material != "" && alike > 1 || b.object == "" && len(words) == 1 {
		words = append(words, b.material)
	}
	name := strings.Join(strings.Fields(strings.Join(words, " ")), "_")
	if len(name) > 100 {
		name = strings.ToValidUTF8(name[:100], "")
	}
	return name
}
