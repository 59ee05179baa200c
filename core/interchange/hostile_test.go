package interchange_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"os"
	"regexp"
	"runtime"
	"strconv"
	"testing"
	"time"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange"
	"myriapod/core/interchange/glb"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/rig"
)

// mutations is how many spoiled files are read: MYRIAPOD_MUTATIONS, or 1,000.
func mutations() int {
	if n, err := strconv.Atoi(os.Getenv("MYRIAPOD_MUTATIONS")); err == nil {
		return n
	}
	return 1000
}

// What reading one file may take at most, whatever it says of itself: time, and memory beside four times its length.
const (
	mostTime   = 2 * time.Second
	mostMemory = 300 << 20
)

// specimen is a small rig with a skin, a morph target, repeats and a clip.
func specimen(t testing.TB) (*rig.Document, edit.Memory) {
	context := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}, Blobs: edit.Memory{}}
	d := rig.New("small")
	apply := func(e edit.Edit) {
		context.Surfaces = edit.Memory(context.Blobs)
		result, err := edit.Apply(context, d, e)
		require.NoError(t, err)
		d = result.Document
	}
	obj := []byte("o body\n")
	for i := range 12 {
		obj = fmt.Appendf(obj, "v %g %g %g\nv %g %g %g\n", 0.1, 0.1*float64(i), 0.0, -0.1, 0.1*float64(i), 0.05)
	}
	for i := range 11 {
		obj = fmt.Appendf(obj, "f %d %d %d %d\n", 2*i+1, 2*i+2, 2*i+4, 2*i+3)
	}
	whole, err := interchange.Read("body.obj", obj)
	require.NoError(t, err)
	apply(edit.AddModel("body.obj", whole, d.FPS, context.Blobs))
	places := make([]mgl64.Vec3, 6)
	for i := range places {
		places[i] = mgl64.Vec3{0.02 * float64(i%2), 0.2 * float64(i), 0}
	}
	apply(&edit.LayChain{Positions: places, Pattern: "spine_#"})
	var joints []string
	for _, j := range d.Joints {
		joints = append(joints, j.ID)
	}
	apply(&edit.AddMechanism{Mechanism: splinechain.Name, Name: "spine", Joints: joints})
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{0.1, 0.4, 0}, {0.3, 0.4, 0.1}}, Pattern: "leg_L_#", Parent: joints[2]})
	first := d.Joints[6].ID
	apply(&edit.AddMechanism{Mechanism: fkchain.Name, Name: "leg_L", Joints: []string{first}})
	apply(&edit.AddRepeat{Name: "sides", Rule: rig.Mirror, Sources: []string{first}})
	apply(&edit.Bind{Parts: []string{d.Parts[0].ID}, Joints: joints, Blend: 1})
	apply(&edit.AddClip{Name: "sway", End: 8})
	apply(&edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{
		{KeyPlace: edit.KeyPlace{Control: d.Controls[3].ID, Channel: rig.MoveX, Frame: 0}, Ease: rig.Smooth},
		{KeyPlace: edit.KeyPlace{Control: d.Controls[3].ID, Channel: rig.MoveX, Frame: 8}, Value: 0.2, Ease: rig.Smooth},
	}})
	return d, edit.Memory(context.Blobs)
}

// corpus makes a small file of every kind.
func corpus(t testing.TB) map[string][]byte {
	d, memory := specimen(t)
	text, err := rigfile.Write(d, memory)
	require.NoError(t, err)
	e, body, err := evaluate.Open(d, kinds.All(), memory)
	require.NoError(t, err)
	binary, err := (&glb.Job{Evaluator: e, Body: body, Clip: &d.Clips[0], Frames: &glb.Range{To: 8}}).Write()
	require.NoError(t, err)
	return map[string][]byte{
		"rig.json": text, "whole.glb": binary, "sparse.glb": sparse(),
		"faces.obj": []byte("o a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvn 0 0 1\nf 1/1/1 2/1/1 \\\n3/1/1\ng b\nusemtl c\nf -1 -2 -3\n"),
	}
}

// sparse is a file whose positions are given anew, element by element, by numbers and values in views of their own.
func sparse() []byte {
	text := []byte(`{"asset":{"version":"2.0"},"scenes":[{"nodes":[0,1]}],"nodes":[{"mesh":0},{"mesh":0,"translation":[1,0,0]}],"buffers":[{"byteLength":64}],` +
		`"bufferViews":[{"buffer":0,"byteLength":36},{"buffer":0,"byteOffset":36,"byteLength":4},{"buffer":0,"byteOffset":40,"byteLength":24}],` +
		`"meshes":[{"primitives":[{"attributes":{"POSITION":0},"targets":[{"POSITION":1},{"POSITION":1}]}]}],"accessors":[` +
		`{"bufferView":0,"componentType":5126,"type":"VEC3","count":3,"sparse":{"count":2,"indices":{"bufferView":1,"componentType":5123},"values":{"bufferView":2}}},` +
		`{"componentType":5126,"type":"VEC3","count":3,"sparse":{"count":1,"indices":{"bufferView":1,"componentType":5123},"values":{"bufferView":2}}}]}`)
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	data := make([]byte, 64)
	binary.LittleEndian.PutUint32(data[12:], 0x3f800000)
	binary.LittleEndian.PutUint32(data[28:], 0x3f800000)
	data[36], data[38] = 1, 2
	file := binary.LittleEndian.AppendUint32([]byte("glTF\x02\x00\x00\x00"), uint32(20+len(text)+8+len(data)))
	file = append(binary.LittleEndian.AppendUint32(file, uint32(len(text))), "JSON"...)
	file = append(file, text...)
	file = append(binary.LittleEndian.AppendUint32(file, uint32(len(data))), "BIN\x00"...)
	return append(file, data...)
}

var numbers = regexp.MustCompile(`-?\d+(\.\d+)?(e-?\d+)?`)

// extremes stand in the place of numbers.
var extremes = []string{"0", "-1", "1", "2", "255", "65535", "65536", "2000000000", "2147483647", "4294967295", "4294967296", "9223372036854775807", "-9223372036854775808", "1e308", "1e-320", "0.5"}

// spoil changes a file at random. Numbers in text get as long as they were, where that can be, so that the lengths that a binary file tells still fit.
func spoil(random *rand.Rand, data []byte) []byte {
	out := bytes.Clone(data)
	for range 1 + random.IntN(3) {
		if len(out) < 8 {
			return out
		}
		at := random.IntN(len(out))
		switch random.IntN(7) {
		case 0:
			out[at] ^= 1 << random.IntN(8)
		case 1:
			out[at] = byte(random.IntN(256))
		case 2:
			out = out[:at]
		case 3:
			n := min(len(out)-at, 1+random.IntN(64))
			out = append(out[:at:at], append(bytes.Repeat(out[at:at+n], 1+random.IntN(20)), out[at+n:]...)...)
		case 4:
			n := min(len(out)-at, 1+random.IntN(64))
			out = append(out[:at:at], out[at+n:]...)
		default:
			places := numbers.FindAllIndex(out[:min(len(out), 40_000)], -1)
			if len(places) == 0 {
				continue
			}
			place := places[random.IntN(len(places))]
			extreme := []byte(extremes[random.IntN(len(extremes))])
			rest := bytes.Clone(out[place[1]:])
			for grown := len(extreme) - (place[1] - place[0]); grown > 0; grown-- { // take it out of the padding
				if k := bytes.Index(rest, []byte("  ")); k >= 0 {
					rest = append(rest[:k], rest[k+1:]...)
				}
			}
			out = append(append(out[:place[0]:place[0]], extreme...), rest...)
		}
	}
	fix(out)
	return out
}

// fix has a binary file tell its own length, so that more than the first check is tried.
func fix(data []byte) {
	if bytes.HasPrefix(data, []byte("glTF")) && len(data) >= 12 {
		binary.LittleEndian.PutUint32(data[8:], uint32(len(data)))
	}
}

// readAny reads a file as the program would and does with it what an import does.
func readAny(name string, data []byte) error {
	if name == "rig.json" {
		d, memory, err := rigfile.Read(data, kinds.All())
		if err != nil {
			return err
		}
		e, body, err := evaluate.Open(d, kinds.All(), memory)
		if err == nil {
			e.Evaluate()
			body.Deform(e)
		}
		return err
	}
	whole, err := interchange.Read(name, data)
	if err != nil {
		return err
	}
	blobs := edit.Memory{}
	add := edit.AddModel(name, whole, 24, blobs)
	_, err = edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: blobs, Blobs: blobs}, rig.New("x"), add)
	return err
}

// Whatever is done to files, reading them ends in time and memory, with a model or with a line that says what is wrong.
func TestSpoiledFilesAreRefusedOrTaken(t *testing.T) {
	files := corpus(t)
	names := []string{"rig.json", "whole.glb", "sparse.glb", "faces.obj"}
	for _, name := range names {
		require.NoError(t, readAny(name, files[name]), name)
	}
	random := rand.New(rand.NewPCG(11, 7))
	refused, slowest, largest := 0, time.Duration(0), uint64(0)
	for i := range mutations() {
		name := names[i%len(names)]
		data := spoil(random, files[name])
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		began := time.Now()
		err := readAny(name, data)
		took := time.Since(began)
		runtime.ReadMemStats(&after)
		used := after.TotalAlloc - before.TotalAlloc
		slowest, largest = max(slowest, took), max(largest, used)
		if used > mostMemory+4*uint64(len(data)) || took > mostTime && os.Getenv("MYRIAPOD_MUTATIONS") != "" {
			t.Errorf("file %d, a %s: %s and %d MB", i, name, took, used>>20)
		}
		if err == nil {
			continue
		}
		refused++
		assert.NotContains(t, err.Error(), "not foreseen", "file %d, a %s, is only caught by the guard", i, name)
		assert.Less(t, len(err.Error()), 1000, "file %d", i)
	}
	t.Logf("%d spoiled files, %d refused; the slowest took %s, the largest %d MB", mutations(), refused, slowest.Round(time.Millisecond), largest>>20)
}
