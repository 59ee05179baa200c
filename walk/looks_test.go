package walk

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// board is an upright square with a texture, half of it red and half blue, as a glTF file.
func board(t testing.TB) string {
	picture := image.NewRGBA(image.Rect(0, 0, 8, 8))
	for y := range 8 {
		for x := range 8 {
			picture.Set(x, y, color.RGBA{uint8(255 * (x / 4)), 0, uint8(255 * (1 - x/4)), 255})
		}
	}
	var encoded, data bytes.Buffer
	require.NoError(t, png.Encode(&encoded, picture))
	for _, list := range []any{
		[]float32{-1, 0, 0, 1, 0, 0, 1, 2, 0, -1, 2, 0}, []float32{0, 1, 1, 1, 1, 0, 0, 0}, []uint16{0, 1, 2, 0, 2, 3},
	} {
		require.NoError(t, binary.Write(&data, binary.LittleEndian, list))
	}
	inline := func(kind string, b []byte) string {
		return "data:" + kind + ";base64," + base64.StdEncoding.EncodeToString(b)
	}
	text := fmt.Sprintf(`{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"name":"board"}],
		"meshes":[{"primitives":[{"attributes":{"POSITION":0,"TEXCOORD_0":1},"indices":2,"material":0}]}],
		"materials":[{"pbrMetallicRoughness":{"baseColorTexture":{"index":0}},"doubleSided":true}],"textures":[{"source":0}],"images":[{"uri":%q}],
		"accessors":[{"bufferView":0,"componentType":5126,"count":4,"type":"VEC3","min":[-1,0,0],"max":[1,2,0]},{"bufferView":1,"componentType":5126,"count":4,"type":"VEC2"},{"bufferView":2,"componentType":5123,"count":6,"type":"SCALAR"}],
		"bufferViews":[{"buffer":0,"byteOffset":0,"byteLength":48},{"buffer":0,"byteOffset":48,"byteLength":32},{"buffer":0,"byteOffset":80,"byteLength":12}],
		"buffers":[{"uri":%q,"byteLength":92}]}`, inline("image/png", encoded.Bytes()), inline("application/octet-stream", data.Bytes()))
	file := filepath.Join(t.TempDir(), "board.gltf")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	return file
}

// TestAModelLooksAsItCame brings a model with a texture, and finds its colours on the stage.
func TestAModelLooksAsItCame(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.do(chromedp.EmulateViewport(1280, 800)) // its points are looked at
	p.open(a.server.URL)
	c := &tally{page: p}
	c.bring(board(t))
	p.button("Skeleton")
	p.key("F")
	p.settled()
	p.look("textured")
	file := filepath.Join(t.TempDir(), "seen.png")
	red, blue := 0, 0
	p.wait("the texture", `window.myriapodStage !== undefined`)
	for range 20 { // the picture is decoded beside
		p.shot(file)
		read, err := os.Open(file)
		require.NoError(t, err)
		seen, err := png.Decode(read)
		require.NoError(t, read.Close())
		require.NoError(t, err)
		red, blue = 0, 0
		for y := 60; y < 590; y += 3 {
			for x := 250; x < 980; x += 3 {
				r, g, b, _ := seen.At(x, y).RGBA()
				if r > 3*b && r > 3*g && r > 0x4000 {
					red++
				}
				if b > 3*r && b > 3*g && b > 0x4000 {
					blue++
				}
			}
		}
		if red > 300 && blue > 300 {
			break
		}
	}
	assert.Greater(t, red, 300)
	assert.Greater(t, blue, 300)
}
