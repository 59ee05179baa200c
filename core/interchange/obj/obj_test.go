package obj_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"myriapod/core/interchange/model"
	"myriapod/core/interchange/obj"
)

// read reads a file with nothing beside it.
func read(data []byte) ([]model.Part, error) {
	whole, err := obj.Read(data, nil)
	if err != nil {
		return nil, err
	}
	return whole.Parts, nil
}

const square = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\n"

func TestPartsComeByObjectGroupAndMaterial(t *testing.T) {
	parts, err := read([]byte(square + `
o body
usemtl skin
f 1 2 3
usemtl scales
f 1 3 4
g fin
f 2 3 4
o satchel
f 1 2 3 4
`))
	require.NoError(t, err)
	names := []string{}
	for _, p := range parts {
		names = append(names, p.Name)
		require.NoError(t, p.Mesh.Validate())
	}
	assert.Equal(t, []string{"body_skin", "body_scales", "body_fin", "satchel"}, names)
	assert.Len(t, parts[3].Mesh.Triangles, 6, "a four-cornered face is two triangles")
	assert.Equal(t, []float32{0, 0, 1}, parts[0].Mesh.Normals[:3], "normals are computed when there are none")
}

func TestNegativeIndicesCountBackAndNormalsAreKept(t *testing.T) {
	parts, err := read([]byte("v 0 0 0\nv 1 0 0\nv 0 1 0\nvn 0 0.6 0.8\nvt 0.25 0.25\nf -3/1/1 -2/1/1 -1/1/1\n"))
	require.NoError(t, err)
	assert.Equal(t, []float32{0, 0.6, 0.8}, parts[0].Mesh.Normals[:3])
	assert.Equal(t, []float32{0.25, 0.75}, parts[0].Mesh.TexCoords[:2])
}

func TestOtherEncodings(t *testing.T) {
	text := "o körper\n" + square + "f 1 2 3\n"
	utf16, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(text))
	require.NoError(t, err)
	for name, data := range map[string][]byte{
		"UTF-8": []byte(text), "UTF-8 with mark": append([]byte{0xEF, 0xBB, 0xBF}, text...), "UTF-16": utf16,
		"Latin": []byte(strings.ReplaceAll(text, "ö", "\xf6")),
	} {
		parts, err := read(data)
		require.NoError(t, err, name)
		assert.Equal(t, "körper", parts[0].Name, name)
	}
}

func TestBadFilesAreToldWithTheirLine(t *testing.T) {
	for text, want := range map[string]string{
		square + "f 1 2 9":                    "line 5: vertex 9 does not exist; 4 are known",
		square + "f 1 2 -9":                   "line 5: vertex -9 does not exist",
		square + "f 1 2 0":                    "vertex 0 does not exist",
		square + "f 1 2 3/7":                  "texture coordinate 7 does not exist",
		square + "f 1 2 99999999999999999999": "not an index",
		square + "f 1 2":                      "three corners",
		"v 1 2":                               "3 numbers are wanted",
		"v 1 2 x":                             `"x" is not a number`,
		"v 1 2 nan":                           "not a finite number",
		"v 1 2 1e99":                          "not a number in range",
		"\x00\x01\x02binary":                  "neither text nor a model",
	} {
		_, err := read([]byte(text))
		assert.ErrorContains(t, err, want, text)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(square + "o a\ng b\nusemtl c\nvt 0 0\nvn 0 0 1\nf 1/1/1 2/1/1 3/1/1 4/1/1\n"))
	f.Add([]byte("v 0 0 0\nf -1 -1 -1\n"))
	f.Add([]byte("v 1e38 -1e38 1e-45\nv 1 1 1\nv 2 2 2\nf 1 2 3 \\\n 1\n"))
	f.Add([]byte("\xff\xfev\x00 \x001\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		parts, err := read(data)
		if err != nil || model.Check(&model.Model{Parts: parts}) != nil {
			return
		}
		for _, p := range parts {
			if err := p.Mesh.Validate(); err != nil {
				t.Fatalf("an accepted part is not valid: %v", err)
			}
		}
	})
}

// Long faces and statements over many lines are read in one go.
func TestLongFacesAndStatements(t *testing.T) {
	const corners = 100_000
	var file strings.Builder
	for i := range corners {
		fmt.Fprintf(&file, "v %d %d 0\n", i%300, i/300)
	}
	file.WriteString("f")
	for i := range corners {
		fmt.Fprintf(&file, " %d \\\n", i+1)
	}
	file.WriteString("\n" + strings.Repeat("\\\n", 1_000_000))
	parts, err := read([]byte(file.String()))
	require.NoError(t, err)
	require.Len(t, parts, 1)
	assert.Len(t, parts[0].Mesh.Triangles, 3*(corners-2))
}
