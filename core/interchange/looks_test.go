package interchange_test

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"image"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange"
	"myriapod/core/interchange/files"
	"myriapod/core/interchange/glb"
	"myriapod/core/interchange/model"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// picture is a small PNG.
func picture(t testing.TB, side int) []byte {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewGray(image.Rect(0, 0, side, side))))
	return out.Bytes()
}

// dressed is the strip with a material that has two images, what no reader here knows, and a texture by other coordinates.
func dressed(t testing.TB, colour, bumps []byte) []byte {
	f := plainForm
	address := func(data []byte) string { return "data:image/png;base64," + base64.StdEncoding.EncodeToString(data) }
	f.extra = object{
		"materials": []object{{
			"name": "scales", "doubleSided": true, "alphaMode": "MASK", "alphaCutoff": 0.25, "emissiveFactor": []float64{0.1, 0.2, 0.3},
			"pbrMetallicRoughness": object{"baseColorFactor": []float64{0.3, 0.6, 0.9, 0.7}, "roughnessFactor": 0.45, "baseColorTexture": object{"index": 1}},
			"normalTexture":        object{"index": 0, "scale": 0.5},
			"occlusionTexture":     object{"index": 0, "texCoord": 1},
			"extensions":           object{"KHR_materials_clearcoat": object{"clearcoatFactor": 0.75, "clearcoatTexture": object{"index": 1}}},
			"extras":               object{"from": "the studio"},
		}},
		"textures":       []object{{"source": 0}, {"source": 1, "sampler": 0}},
		"samplers":       []object{{"wrapS": 33071, "magFilter": 9728}},
		"images":         []object{{"uri": address(bumps)}, {"uri": address(colour)}},
		"extensionsUsed": []string{"KHR_materials_clearcoat"},
	}
	file, _ := f.write(t)
	return bytes.Replace(file, []byte(`"mode":4,`), []byte(`"material":0,"mode":4,`), 1)
}

func materialOf(t testing.TB, data []byte) (material map[string]any, textures []model.Texture) {
	var kept model.Material
	require.NoError(t, json.Unmarshal(data, &kept))
	require.NoError(t, json.Unmarshal(kept.Material, &material))
	return material, kept.Textures
}

// A look goes from file to rig to rig file to export, and is what it was.
func TestLooksAreKeptUntouched(t *testing.T) {
	colour, bumps := picture(t, 4), picture(t, 8)
	file := dressed(t, colour, bumps)
	file = relength(file)
	whole, err := interchange.Read("strip.glb", file)
	require.NoError(t, err)
	look := whole.Parts[0].Look
	require.NotNil(t, look)
	material, textures := materialOf(t, look.Material)
	assert.Equal(t, object{"from": "the studio"}, material["extras"])
	assert.Equal(t, 0.75, material["extensions"].(object)["KHR_materials_clearcoat"].(object)["clearcoatFactor"])
	assert.NotContains(t, material, "occlusionTexture", "it goes by coordinates that are not kept")
	require.Len(t, look.Images, 2)
	base := material["pbrMetallicRoughness"].(object)["baseColorTexture"].(object)
	at := textures[int(base["index"].(float64))]
	assert.Equal(t, colour, look.Images[at.Image])
	assert.JSONEq(t, `{"wrapS":33071,"magFilter":9728}`, string(at.Sampler))

	blobs := edit.Memory{}
	add := edit.AddModel("strip.glb", whole, 24, blobs)
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: blobs, Blobs: blobs}, rig.New("strip"), add)
	require.NoError(t, err)
	text, err := rigfile.Write(result.Document, blobs)
	require.NoError(t, err)
	d, memory, err := rigfile.Read(text, kinds.All())
	require.NoError(t, err)
	assert.Equal(t, result.Document.Parts[0].Look, d.Parts[0].Look, "the rig file keeps the very bytes")
	e, body, err := evaluate.Open(d, kinds.All(), memory)
	require.NoError(t, err)
	written, err := (&glb.Job{Evaluator: e, Body: body}).Write()
	require.NoError(t, err)
	again, err := interchange.Read("again.glb", written)
	require.NoError(t, err)
	assert.InDeltaSlice(t, whole.Parts[0].Mesh.Colours, again.Parts[0].Mesh.Colours, 1e-6)
	after, back := materialOf(t, again.Parts[0].Look.Material)
	at = back[int(after["pbrMetallicRoughness"].(object)["baseColorTexture"].(object)["index"].(float64))]
	assert.Equal(t, colour, again.Parts[0].Look.Images[at.Image])
	for _, m := range []object{material, after} { // where the textures lie may differ
		for _, with := range []object{m, m["pbrMetallicRoughness"].(object), m["extensions"].(object)["KHR_materials_clearcoat"].(object)} {
			for _, key := range []string{"baseColorTexture", "normalTexture", "clearcoatTexture"} {
				if reference, ok := with[key].(object); ok {
					delete(reference, "index")
				}
			}
		}
	}
	assert.Equal(t, material, after)
}

// relength has a binary file tell its lengths as they are.
func relength(file []byte) []byte {
	at := bytes.Index(file, []byte("BIN\x00")) - 4
	text := bytes.TrimRight(file[20:at], " ")
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	out := append(bytes.Clone(file[:20]), append(bytes.Clone(text), file[at:]...)...)
	out[8], out[9], out[10], out[11] = byte(len(out)), byte(len(out)>>8), byte(len(out)>>16), 0
	out[12], out[13], out[14], out[15] = byte(len(text)), byte(len(text)>>8), byte(len(text)>>16), 0
	return out
}

// An object of several materials is a part for each, with its colour and images.
func TestMaterialsBesideAnOBJ(t *testing.T) {
	skin := picture(t, 4)
	set := files.Set{
		"a.obj":                 []byte("mtllib beside/all of it.mtl\no body\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nusemtl glass\nf 1/1 2/2 3/3\nusemtl hide\nf 1/1 3/3 4/2\nusemtl lost\nf 2 3 4\n"),
		"beside/all of it.mtl":  []byte("newmtl glass\nKd 0 0.5 1\nd 0.4\nnewmtl hide\nKd 1 1 1\nmap_Kd -s 1 1 1 -o 0 0 pictures/skin one.png\nmap_Bump none.png\n"),
		"pictures/skin one.png": skin,
	}
	whole, err := interchange.ReadFrom(set, "a.obj")
	require.NoError(t, err)
	require.Len(t, whole.Parts, 3)
	assert.Equal(t, []string{"body_glass", "body_hide", "body_lost"}, []string{whole.Parts[0].Name, whole.Parts[1].Name, whole.Parts[2].Name})
	assert.Equal(t, "#0080ff", whole.Parts[0].Colour)
	glass, _ := materialOf(t, whole.Parts[0].Look.Material)
	assert.Equal(t, "BLEND", glass["alphaMode"])
	assert.Equal(t, [][]byte{skin}, whole.Parts[1].Look.Images)
	assert.Nil(t, whole.Parts[2].Look)
	delete(set, "beside/all of it.mtl")
	bare, err := interchange.ReadFrom(set, "a.obj")
	require.NoError(t, err)
	assert.Contains(t, bare.Notes[0], "all of it.mtl, which was not brought")
}

func TestVerticesOfAnOBJKeepTheirColours(t *testing.T) {
	whole, err := interchange.Read("a.obj", []byte("v 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 0 1 0 0.5 0.5 0.5\nf 1 2 3\n"))
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float32{1, 0, 0, 1, 0, 1, 0, 1, 0.2140, 0.2140, 0.2140, 1}, whole.Parts[0].Mesh.Colours, 1e-3)
}
