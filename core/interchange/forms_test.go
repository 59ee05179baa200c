package interchange_test

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io/fs"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/interchange"
	"myriapod/core/interchange/files"
	"myriapod/core/interchange/model"
)

// object is a piece of JSON.
type object = map[string]any

// scene builds a glTF file by hand, independently of the packages that read it.
type scene struct {
	bin       []byte
	views     []object
	accessors []object
}

// stored is how numbers are stored: the component type, and what 1 is in it (0 for numbers as they are).
type stored struct {
	kind int
	one  float64
}

var (
	asFloat  = stored{5126, 0}
	asUbyte  = stored{5121, 255}
	asByte   = stored{5120, 127}
	asUshort = stored{5123, 65535}
	asShort  = stored{5122, 32767}
)

func (s stored) put(out []byte, value float64) []byte {
	if s.one > 0 {
		value = math.Round(value * s.one)
	}
	switch s.kind {
	case 5120, 5121:
		return append(out, byte(int64(value)))
	case 5122, 5123:
		return binary.LittleEndian.AppendUint16(out, uint16(int64(value)))
	case 5125:
		return binary.LittleEndian.AppendUint32(out, uint32(int64(value)))
	}
	return binary.LittleEndian.AppendUint32(out, math.Float32bits(float32(value)))
}

// view adds bytes as a view, on a multiple of four.
func (s *scene) view(data []byte, stride int) int {
	for len(s.bin)%4 != 0 {
		s.bin = append(s.bin, 0)
	}
	v := object{"buffer": 0, "byteOffset": len(s.bin), "byteLength": len(data)}
	if stride > 0 {
		v["byteStride"] = stride
	}
	s.bin, s.views = append(s.bin, data...), append(s.views, v)
	return len(s.views) - 1
}

var kindsOf = map[int]string{1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4", 16: "MAT4"}

// accessor adds rows of numbers; each row of a type narrower than four bytes is padded to a multiple of four where padded.
func (s *scene) accessor(rows [][]float64, as stored, padded bool) int {
	var data []byte
	stride := 0
	for _, row := range rows {
		from := len(data)
		for _, n := range row {
			data = as.put(data, n)
		}
		for padded && (len(data)-from)%4 != 0 {
			data = append(data, 0)
		}
		stride = len(data) - from
	}
	if !padded {
		stride = 0
	}
	a := object{"bufferView": s.view(data, stride), "componentType": as.kind, "count": len(rows), "type": kindsOf[len(rows[0])]}
	if as.one > 0 {
		a["normalized"] = true
	}
	s.accessors = append(s.accessors, a)
	return len(s.accessors) - 1
}

// sparse adds rows over zeros, only those given that are not zero.
func (s *scene) sparse(rows [][]float64) int {
	var at, values []byte
	count := 0
	for i, row := range rows {
		if row[0] == 0 && row[1] == 0 && row[2] == 0 {
			continue
		}
		at = binary.LittleEndian.AppendUint16(at, uint16(i))
		for _, n := range row {
			values = asFloat.put(values, n)
		}
		count++
	}
	s.accessors = append(s.accessors, object{
		"componentType": 5126, "count": len(rows), "type": kindsOf[len(rows[0])],
		"sparse": object{"count": count, "indices": object{"bufferView": s.view(at, 0), "componentType": 5123}, "values": object{"bufferView": s.view(values, 0)}},
	})
	return len(s.accessors) - 1
}

// form is one way to write the same model.
type form struct {
	weights, joints, colours, coords, turns, indices stored
	mode                                             int
	sparse, matrix, twoScenes, bom                   bool
	address                                          string // of the buffer; empty for a binary file
	extra                                            object
}

var plainForm = form{weights: asFloat, joints: stored{5123, 0}, colours: asFloat, coords: asFloat, turns: asFloat, indices: stored{5125, 0}, mode: 4}

// write makes the file: a bent strip of eight triangles on two joints, with a morph target, colours and a clip of turns; and its buffer where that lies apart.
func (f form) write(t testing.TB) (main, bin []byte) {
	s := &scene{}
	var places, weights, joints, colours, coords, deltas [][]float64
	for i := range 10 {
		x, y := 0.5*float64(i%2), 0.25*float64(i/2)
		places = append(places, []float64{x, y, 0.125 * float64(i%3)})
		weights = append(weights, []float64{1 - 0.2*float64(i/2), 0.2 * float64(i/2), 0, 0})
		joints = append(joints, []float64{0, 1, 0, 0})
		colours = append(colours, []float64{0.2 * float64(i%5), 1, 0.4, 1})
		coords = append(coords, []float64{float64(i % 2), 0.2 * float64(i/2)})
		deltas = append(deltas, []float64{0, 0, 0.5 * float64(i%2)})
	}
	strip := [][]float64{{0}, {1}, {2}, {3}, {4}, {5}, {6}, {7}, {8}, {9}}
	indices := strip
	if f.mode == 4 {
		indices = nil
		for i := range 8 {
			a, b := i, i+1
			if i%2 == 1 {
				a, b = b, a
			}
			indices = append(indices, []float64{float64(a)}, []float64{float64(b)}, []float64{float64(i + 2)})
		}
	}
	target := s.accessor(deltas, asFloat, false)
	if f.sparse {
		target = s.sparse(deltas)
	}
	half := math.Sqrt(0.5)
	identity := []float64{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}
	second := append([]float64{}, identity...)
	second[13] = -0.5
	node := object{"name": "tip", "translation": []float64{0, 0.5, 0}}
	if f.matrix {
		node = object{"name": "tip", "matrix": []float64{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0.5, 0, 1}}
	}
	document := object{
		"asset": object{"version": "2.0"}, "scene": 0, "scenes": []object{{"nodes": []int{0, 1}}},
		"nodes": []object{{"name": "strip", "mesh": 0, "skin": 0}, {"name": "base", "children": []int{2}}, node},
		"meshes": []object{{"primitives": []object{{
			"mode": f.mode, "indices": s.accessor(indices, f.indices, false), "targets": []object{{"POSITION": target}},
			"attributes": object{
				"POSITION": s.accessor(places, asFloat, false), "WEIGHTS_0": s.accessor(weights, f.weights, true), "JOINTS_0": s.accessor(joints, f.joints, true),
				"COLOR_0": s.accessor(colours, f.colours, true), "TEXCOORD_0": s.accessor(coords, f.coords, true),
			},
		}}}},
		"skins":      []object{{"joints": []int{1, 2}, "inverseBindMatrices": s.accessor([][]float64{identity, second}, asFloat, false)}},
		"animations": []object{{"name": "wag", "channels": []object{{"sampler": 0, "target": object{"node": 2, "path": "rotation"}}}, "samplers": []object{{"input": s.accessor([][]float64{{0}, {1}}, asFloat, false), "output": s.accessor([][]float64{{0, 0, 0, 1}, {half, 0, 0, half}}, f.turns, true)}}}},
	}
	if f.twoScenes {
		document["scenes"] = []object{{"nodes": []int{}}, {"nodes": []int{0, 1}}}
		document["scene"] = 1
	}
	for key, value := range f.extra {
		document[key] = value
	}
	buffer := object{"byteLength": len(s.bin)}
	switch f.address {
	case "", "beside":
		if f.address != "" {
			buffer["uri"] = "data/the%20strip.bin"
		}
	default:
		buffer["uri"] = f.address + base64.StdEncoding.EncodeToString(s.bin)
	}
	document["buffers"], document["bufferViews"], document["accessors"] = []object{buffer}, s.views, s.accessors
	text, err := json.Marshal(document)
	require.NoError(t, err)
	if f.bom {
		text = append([]byte("\xef\xbb\xbf"), text...)
	}
	if f.address != "" {
		return text, s.bin
	}
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	out := binary.LittleEndian.AppendUint32([]byte("glTF\x02\x00\x00\x00"), uint32(28+len(text)+len(s.bin)))
	out = append(append(binary.LittleEndian.AppendUint32(out, uint32(len(text))), "JSON"...), text...)
	return append(append(binary.LittleEndian.AppendUint32(out, uint32(len(s.bin))), "BIN\x00"...), s.bin...), nil
}

// Whatever form the standard allows for the same model, the same model comes in.
func TestEveryFormOfAModelIsTheSameModel(t *testing.T) {
	file, _ := plainForm.write(t)
	want, err := interchange.Read("plain.glb", file)
	require.NoError(t, err)
	require.Len(t, want.Parts, 1)
	require.Len(t, want.Parts[0].Mesh.Triangles, 24)
	forms := map[string]func(*form){
		"strip": func(f *form) { f.mode = 5 },
		"bytes": func(f *form) { f.weights, f.joints, f.indices = asUbyte, stored{5121, 0}, stored{5121, 0} },
		"shorts": func(f *form) {
			f.weights, f.indices, f.coords, f.colours = asUshort, stored{5123, 0}, asUshort, asUshort
		},
		"colours as bytes":          func(f *form) { f.colours, f.coords = asUbyte, asUbyte },
		"turns as bytes":            func(f *form) { f.turns = asByte },
		"turns as shorts":           func(f *form) { f.turns = asShort },
		"sparse":                    func(f *form) { f.sparse = true },
		"matrix":                    func(f *form) { f.matrix = true },
		"second scene":              func(f *form) { f.twoScenes = true },
		"octets":                    func(f *form) { f.address = "data:application/octet-stream;base64," },
		"gltf-buffer":               func(f *form) { f.address = "data:application/gltf-buffer;base64," },
		"with a mark at its start":  func(f *form) { f.address, f.bom = "data:application/gltf-buffer;base64,", true },
		"extension of looks needed": func(f *form) { f.extra = object{"extensionsRequired": []string{"KHR_materials_unlit"}} },
		"unread extension used":     func(f *form) { f.extra = object{"extensionsUsed": []string{"X_weather"}} },
		"random storage": func(f *form) {
			random := rand.New(rand.NewPCG(3, 9))
			f.weights, f.colours = []stored{asFloat, asUbyte, asUshort}[random.IntN(3)], []stored{asFloat, asUbyte, asUshort}[random.IntN(3)]
		},
	}
	for name, change := range forms {
		f := plainForm
		change(&f)
		main, _ := f.write(t)
		got, err := interchange.Read(name, main)
		if assert.NoError(t, err, name) {
			sameModel(t, want, got, name)
		}
	}
}

func sameModel(t *testing.T, want, got *model.Model, name string) {
	require.Len(t, got.Parts, len(want.Parts), name)
	require.Len(t, got.Joints, len(want.Joints), name)
	for i := range want.Parts {
		a, b := want.Parts[i], got.Parts[i]
		assert.Equal(t, a.Mesh.Triangles, b.Mesh.Triangles, name)
		assert.InDeltaSlice(t, a.Mesh.Positions, b.Mesh.Positions, 1e-6, name)
		assert.InDeltaSlice(t, a.Mesh.Normals, b.Mesh.Normals, 1e-6, name)
		assert.InDeltaSlice(t, a.Mesh.Colours, b.Mesh.Colours, 0.003, name)
		assert.InDeltaSlice(t, a.Mesh.TexCoords, b.Mesh.TexCoords, 0.003, name)
		assert.InDeltaSlice(t, a.Skin.Weights.Values, b.Skin.Weights.Values, 0.005, name)
		assert.Equal(t, a.Skin.Joints, b.Skin.Joints, name)
		assert.InDeltaSlice(t, a.Morphs[0].Deltas.Positions, b.Morphs[0].Deltas.Positions, 1e-6, name)
	}
	require.Len(t, got.Clips, 1, name)
	last := got.Clips[0].Joints[0].Keys[1].Value
	assert.InDeltaSlice(t, []float64{math.Sqrt(0.5), 0, 0, math.Sqrt(0.5)}, last[:], 0.01, name)
}

// zipped packs files; what change does to the head of each comes before it is written.
func zipped(t testing.TB, set files.Set, change func(*zip.FileHeader)) []byte {
	var out bytes.Buffer
	writer := zip.NewWriter(&out)
	names, err := set.List()
	require.NoError(t, err)
	for _, name := range names {
		head := &zip.FileHeader{Name: name, Method: zip.Deflate}
		if change != nil {
			change(head)
		}
		into, err := writer.CreateHeader(head)
		require.NoError(t, err)
		_, err = into.Write(set[name])
		require.NoError(t, err)
	}
	require.NoError(t, writer.Close())
	return out.Bytes()
}

func TestFilesBesideAModelAreFound(t *testing.T) {
	file, _ := plainForm.write(t)
	want, err := interchange.Read("plain.glb", file)
	require.NoError(t, err)
	f := plainForm
	f.address = "beside"
	text, bin := f.write(t)
	for name, set := range map[string]files.Set{
		"beside":           {"strip.gltf": text, "data/the strip.bin": bin},
		"in a folder":      {"a/strip.gltf": text, "a/data/the strip.bin": bin, "a/notes.txt": []byte("x")},
		"in other letters": {"strip.gltf": text, "Data/The Strip.BIN": bin},
		"with a copy":      {"strip.gltf": text, "data/the strip.bin": bin, "older/strip.gltf": []byte("{}")},
	} {
		got, err := interchange.ReadFrom(set, "")
		if assert.NoError(t, err, name) {
			sameModel(t, want, got, name)
		}
		got, err = interchange.Read("model.zip", zipped(t, set, nil))
		if assert.NoError(t, err, name) {
			sameModel(t, want, got, name+", zipped")
		}
	}
	_, err = interchange.Read("strip.gltf", text)
	require.ErrorContains(t, err, "strip.gltf needs the file data/the strip.bin, which was not brought")
	_, err = interchange.ReadFrom(files.Set{"a.gltf": text, "b.gltf": text}, "")
	require.ErrorContains(t, err, "2 models, a.gltf, b.gltf; bring one")
	_, err = interchange.ReadFrom(files.Set{"a.txt": text}, "")
	require.ErrorContains(t, err, "bring an OBJ, GLB or glTF file")
}

// What a zip says and holds must fit, and nothing in it or in a model leads outside.
func TestNothingLeadsOutside(t *testing.T) {
	f := plainForm
	for _, address := range []string{"../secret.bin", "/etc/passwd", "a/../../x.bin", "file:///etc/passwd", "https://example.org/x.bin", `..\x.bin`, "%2e%2e/x.bin"} {
		f.address = "beside"
		text, _ := f.write(t)
		text = bytes.Replace(text, []byte("data/the%20strip.bin"), bytes.ReplaceAll([]byte(address), []byte(`\`), []byte(`\\`)), 1)
		_, err := interchange.ReadFrom(files.Set{"strip.gltf": text}, "strip.gltf")
		assert.ErrorContains(t, err, "lies outside of its folder", address)
	}
	text, bin := f.write(t)
	set := files.Set{"strip.gltf": text, "data/the strip.bin": bin}
	for want, change := range map[string]func(*zip.FileHeader){
		"leads outside of it": func(h *zip.FileHeader) { h.Name = "../" + h.Name },
		"is a link":           func(h *zip.FileHeader) { h.SetMode(fs.ModeSymlink | 0o777) },
		"no plain file":       func(h *zip.FileHeader) { h.SetMode(fs.ModeNamedPipe | 0o777) },
	} {
		_, err := interchange.Read("m.zip", zipped(t, set, change))
		assert.ErrorContains(t, err, want)
	}
	bomb := zipped(t, files.Set{"a.obj": make([]byte, files.MostBytes+1)}, nil)
	_, err := interchange.Read("m.zip", bomb)
	require.ErrorContains(t, err, "comes to more than 256 MB")
	at := bytes.LastIndex(bomb, []byte("PK\x01\x02"))
	binary.LittleEndian.PutUint32(bomb[at+24:], 100) // it says it is small
	_, err = interchange.Read("m.zip", bomb)
	require.Error(t, err)
	_, err = interchange.Read("m.zip", zipped(t, files.Set{"a.obj": zipped(t, files.Set{"b.obj": []byte("v 0 0 0")}, nil)}, nil))
	require.ErrorContains(t, err, "is a zip again")
}

func TestOldAndUnknownFormsAreNamed(t *testing.T) {
	for want, data := range map[string]string{
		"this is glTF 1.0":               `{"asset":{"version":"1.0"},"nodes":{"a":{}},"meshes":{}}`,
		"needs the extension X_thing":    `{"asset":{"version":"2.0"},"extensionsRequired":["X_thing"]}`,
		`glTF version "3.0" is not read`: `{"asset":{"version":"3.0"}}`,
		`a reader of glTF "2.1"`:         `{"asset":{"version":"2.1","minVersion":"2.1"}}`,
		"is damaged or not glTF":         `{"asset":{"version":"2.0"},`,
	} {
		_, err := interchange.Read("x.gltf", []byte(data))
		assert.ErrorContains(t, err, want)
	}
	_, err := interchange.Read("x.glb", append([]byte("glTF\x01\x00\x00\x00"), make([]byte, 40)...))
	require.ErrorContains(t, err, "this is glTF 1.0")
}

// What has no surface still has a place: it comes in as joints, and that is told.
func TestPointsAndLinesBringTheirPlaces(t *testing.T) {
	for mode := range 4 {
		s := &scene{}
		places := s.accessor([][]float64{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}}, asFloat, false)
		text, err := json.Marshal(object{
			"asset": object{"version": "2.0"}, "scenes": []object{{"nodes": []int{0}}}, "nodes": []object{{"name": "guide", "mesh": 0, "translation": []float64{0, 2, 0}}},
			"meshes": []object{{"primitives": []object{{"mode": mode, "attributes": object{"POSITION": places}}}}}, "accessors": s.accessors, "bufferViews": s.views,
			"buffers": []object{{"byteLength": len(s.bin), "uri": "data:;base64," + base64.StdEncoding.EncodeToString(s.bin)}},
		})
		require.NoError(t, err)
		whole, err := interchange.Read("guide.gltf", text)
		require.NoError(t, err)
		require.Len(t, whole.Joints, 1)
		assert.Equal(t, "guide", whole.Joints[0].Name)
		assert.InDelta(t, 2, whole.Joints[0].Rest.Position[1], 1e-12)
		assert.Contains(t, fmt.Sprint(whole.Notes), "points or lines")
	}
}
