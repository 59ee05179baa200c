package server_test

import (
	"bytes"
	"encoding/json"
	"io"
	"maps"
	"mime/multipart"
	"net/http"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/server/wire"
)

// bring sends files as a form, as the page does.
func (r *running) bring(path string, files map[string]string) (status int, answer string) {
	r.t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for _, name := range slices.Sorted(maps.Keys(files)) {
		part, err := form.CreateFormFile("file", name)
		require.NoError(r.t, err)
		_, err = part.Write([]byte(files[name]))
		require.NoError(r.t, err)
	}
	require.NoError(r.t, form.Close())
	request, err := http.NewRequest("POST", r.url+path, &body)
	require.NoError(r.t, err)
	request.Header.Set("Content-Type", form.FormDataContentType())
	request.Header.Set("Origin", r.url)
	response, err := http.DefaultClient.Do(request)
	require.NoError(r.t, err)
	defer response.Body.Close()
	data, err := io.ReadAll(response.Body)
	require.NoError(r.t, err)
	return response.StatusCode, string(data)
}

func TestSeveralFilesAreOneModel(t *testing.T) {
	r := start(t)
	square := "mtllib looks/square.mtl\nusemtl brick\nv 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n"
	status, answer := r.bring("/api/imports?file=house/square.obj", map[string]string{
		"house/square.obj": square, "house/looks/square.mtl": "newmtl brick\nKd 0.8 0.2 0.2\n",
	})
	require.Equal(t, 201, status, answer)
	var made wire.Created
	require.NoError(t, json.Unmarshal([]byte(answer), &made))
	var specimen wire.Specimen
	r.ask("GET", "/api/specimens/"+made.ID, nil, 200, &specimen)
	assert.Equal(t, "square", specimen.Document.Name)
	assert.Equal(t, "#cc3333", specimen.Document.Parts[0].Colour)
	assert.NotNil(t, specimen.Document.Parts[0].Look)
	for want, files := range map[string]map[string]string{
		"leads outside of what was brought":    {"../square.obj": square},
		"bring an OBJ, GLB or glTF file":       {"a.txt": "x", "b.txt": "y"},
		"there are 2 models, a.obj, b.obj":     {"a.obj": square, "b.obj": square},
		"needs the file data.bin, which was n": {"a.gltf": `{"asset":{"version":"2.0"},"buffers":[{"uri":"data.bin","byteLength":4}]}`, "b.png": "x"},
	} {
		status, answer = r.bring("/api/imports?", files)
		assert.Equal(t, 422, status, answer)
		assert.Contains(t, answer, want)
	}
}
