package rigfile_test

import (
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

func example(t testing.TB) string {
	data, err := os.ReadFile(filepath.Join("..", "..", "..", "docs", "examples", "reed.rig.json"))
	require.NoError(t, err)
	return string(data)
}

func TestTheExampleWrittenByHandLoadsAndStandsStill(t *testing.T) {
	document, memory, err := rigfile.Read([]byte(example(t)), kinds.All())
	require.NoError(t, err)
	assert.Len(t, document.Mechanisms[0].Controls, 3, "controls are built when the file gives options")
	planned, err := plan.Build(document, kinds.All(), nil)
	require.NoError(t, err)
	e := evaluate.New(planned)
	body, err := evaluate.NewBody(e, memory)
	require.NoError(t, err)
	drift := evaluate.RestDrift(e, body)
	assert.Less(t, drift.Joints, 1e-9)
	assert.Less(t, drift.Vertices, 1e-6)
}

func TestTheExampleStandsInTheDescription(t *testing.T) {
	description, err := os.ReadFile(filepath.Join("..", "..", "..", "docs", "format.md"))
	require.NoError(t, err)
	assert.Contains(t, string(description), strings.TrimSpace(example(t)), "docs/format.md shows the example that is tested")
}

func TestWhatIsWrittenReadsTheSame(t *testing.T) {
	for _, name := range []string{"quillwick", "sedge", "brindle", "tallow"} {
		writeAndRead(t, name)
	}
}

func writeAndRead(t *testing.T, name string) {
	specimen, err := demo.Find(name)
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	document, memory := steps[len(steps)-1].Next.Clone(), demo.Memory(steps)
	half := 0.5
	document.Controls[0].Channels = map[rig.Channel]rig.ChannelState{rig.MoveX: {Max: &half, Hidden: true}, rig.MoveY: {Locked: true}}
	last := &document.Controls[len(document.Controls)-1]
	last.Colour, last.Pivot, last.Label = "#205080", &mgl64.Vec3{0.1, -0.2, 0}, "Last"
	last.Start = &rig.Placement{Position: mgl64.Vec3{0, 0.5, 0}, Rotation: rig.Quaternion{0, 0, 0, 1}, Turn: 2 * math.Pi}
	last.Dials = append(last.Dials, rig.Dial{Name: "grip", Min: -1, Max: 3, Default: 1, Unit: "kg"})
	last.Channels = map[rig.Channel]rig.ChannelState{rig.MoveX: {Max: &half, Soft: 0.25}, "grip": {Locked: true}}
	written, err := rigfile.Write(document, memory)
	require.NoError(t, err)
	assert.Contains(t, string(written), `"turn": 360`, "angles are degrees")
	back, backMemory, err := rigfile.Read(written, kinds.All())
	require.NoError(t, err)
	if name == "quillwick" {
		assert.InDelta(t, document.Clips[0].Tracks[1].Keys[1].Value, back.Clips[0].Tracks[1].Keys[1].Value, 1e-15, "angles go through degrees")
	}
	back.Clips = document.Clips
	for i := range document.Bindings {
		document.Bindings[i].Last = nil // what there was before is no part of a rig
	}
	assert.Equal(t, document, back)
	for hash := range backMemory {
		assert.Equal(t, memory[hash], backMemory[hash])
	}
	assert.GreaterOrEqual(t, back.NextID, document.NextID-1)
}

// A mechanism that stands in a file without its controls is built as in the page, and keeps its dials, its places and its hand; written and read
// again it is the same.
func TestMechanismsWithoutControlsAreBuilt(t *testing.T) {
	joint := func(name, parent, position string) string {
		return `{"name":"` + name + `","parent":"` + parent + `","position":[` + position + `]}`
	}
	file := `{"format":"myriapod-rig","version":1,"name":"x","fps":24,"joints":[` + strings.Join([]string{
		joint("a", "", "0,1,0"), joint("b", "a", "0,0.55,0.08"), joint("c", "b", "0,0.1,0"), joint("d", "c", "0.02,0.02,0.12"),
		joint("t0", "", "1,0,0"), joint("t1", "t0", "1,0.3,0"), joint("t2", "t1", "1,0.6,0.1"), joint("t3", "t2", "1,0.9,0"), joint("t4", "t3", "1,1.2,0"),
	}, ",") + `],"controls":[{"name":"sw","position":[0,0,0],"dials":[{"name":"st","min":0,"max":1,"default":0}]}],
		"mechanisms":[{"kind":"limb","name":"leg","joints":["a","b","c"],"mirrored":true},{"kind":"foot","name":"sole","host":"leg","parameters":{"bend":25}},
		{"kind":"spline-chain","name":"tail","joints":["t0","t1","t2","t3","t4"],"places":[0,0.3,0.7,1],"dials":{"stretch":{"control":"sw","dial":"st"}}},
		{"kind":"fk-over","name":"over","host":"tail"},{"kind":"travelling-wave","name":"swim","host":"tail","on":false}],
		"clips":[{"name":"rise","start":0,"end":24,"tracks":[{"control":"tail_ctl_4","channel":"moveY","keys":[{"frame":0,"value":0},{"frame":24,"value":0.5}]}]}],
		"groups":[{"name":"free","members":["tail_ctl_1","root"],"sight":"ghost"}]}`
	read := func(data []byte) (*rig.Document, []byte) {
		document, memory, err := rigfile.Read(data, kinds.All())
		require.NoError(t, err)
		written, err := rigfile.Write(document, memory)
		require.NoError(t, err)
		return document, written
	}
	document, written := read([]byte(file))
	leg, sole, tail, over, swim := document.Mechanisms[0], document.Mechanisms[1], document.Mechanisms[2], document.Mechanisms[3], document.Mechanisms[4]
	assert.True(t, leg.Mirrored)
	assert.NotNil(t, document.Control(leg.Controls[0]).Dial("roll"), "the foot gave the target its dials")
	assert.Equal(t, []string{"d"}, sole.Joints)
	assert.Equal(t, 25.0, sole.Parameters.Number("bend"))
	assert.Equal(t, []float64{0, 0.3, 0.7, 1}, tail.Places)
	assert.Len(t, tail.Controls, 4)
	by, _ := document.LinkedTo(rig.Address{Of: tail.ID, Key: "stretch"})
	assert.Equal(t, rig.Address{Of: "sw", Key: "st"}, by)
	assert.Len(t, over.Controls, 3)
	assert.Equal(t, tail.Controls[3], document.Clips[0].Tracks[0].Control, "what is built is referred to by its name")
	assert.Equal(t, []string{tail.Controls[0], document.ControlNamed(rig.RootName).ID}, document.Groups[0].Members)
	assert.False(t, swim.On)
	again, twice := read(written)
	again.NextID = document.NextID // counts what was taken meanwhile as well
	assert.Equal(t, document, again)
	assert.Equal(t, string(written), string(twice))
	old := strings.ReplaceAll(string(written), "\n", "") // files used to leave out an empty list of controls
	old = strings.ReplaceAll(old, `"controls": [],`, ``)
	require.NotContains(t, old, `"controls": []`)
	before, _ := read([]byte(old))
	assert.Equal(t, document.Mechanisms, before.Mechanisms)
	assert.Equal(t, document.Controls, before.Controls)
}

func TestBadFilesAreRefusedWithThePlace(t *testing.T) {
	good := example(t)
	for want, change := range map[string][2]string{
		"version: 7 is not known; this program reads versions 1 to 3":        {`"version": 2`, `"version": 7`},
		"version: none is not known":                                         {`"version": 2,`, ``},
		`format: a rig file says "myriapod-rig"`:                             {`"myriapod-rig"`, `"other"`},
		"joints[1].colour: there is no such field":                           {`"name": "stem_2",`, `"name": "stem_2", "colour": 3,`},
		"fpss: there is no such field":                                       {`"fps"`, `"fpss"`},
		"a string stands where a float64 is wanted":                          {`"fps": 24`, `"fps": "fast"`},
		"joints[1].parent: there is no joint":                                {`"parent": "stem_1"`, `"parent": "nobody"`},
		"is among its own parents":                                           {`{ "name": "stem_1", "position"`, `{ "name": "stem_1", "parent": "stem_4", "position"`},
		`mechanisms[0].kind: there is no mechanism`:                          {`"spline-chain"`, `"magic"`},
		"mechanisms[0].parameters: stretch lies between 0 and 1":             {`"stretch": 0.2`, `"stretch": 2`},
		"mechanisms[0].parameters: there is no parameter":                    {`"stretch": 0.2`, `"strech": 0.2`},
		"profile point 1 has 1 numbers":                                      {`[1, 1]]`, `[1]]`},
		"points rise from 0 to 1":                                            {`[[0, 0], [1, 1]]`, `[[1, 0], [0, 1]]`},
		`there is no mechanism "nobody"`:                                     {`"host": "bow"`, `"host": "nobody"`},
		"parts[0]: triangles[0]: there is no vertex 99":                      {`[0, 1, 2], [0, 3, 1]`, `[0, 1, 99], [0, 3, 1]`},
		"parts[0].colour: is written #rrggbb":                                {`#8d9a86`, `green`},
		"line 2: this is not JSON":                                           {`"format":`, `"format"`},
		`joints[1].name: "stem_1" is taken`:                                  {`"name": "stem_2", "parent": "stem_1"`, `"id": "stem_2", "name": "stem_1", "parent": "stem_1"`},
		"blend lies between 0.1 and 1.5":                                     {`"blend": 1.5`, `"blend": 9`},
		`mechanisms[1].dials.amplitude: there is no control "gone"`:          {`"host": "bow",`, `"host": "bow", "dials": {"amplitude": {"control": "gone", "dial": "sway"}},`},
		"drivers[0].drives: there is no gone.amplitude that could be driven": {`"bindings"`, `"drivers": [{"kind": "lag", "drives": {"of": "gone", "key": "amplitude"}}], "bindings"`},
		"drivers[0].drives: there is no wind.gone that could be driven":      {`"bindings"`, `"drivers": [{"kind": "lag", "drives": {"of": "wind", "key": "gone"}}], "bindings"`},
		"drivers[0].by[0]: there is no wind.gone to read":                    {`"bindings"`, `"drivers": [{"kind": "link", "drives": {"of": "wind", "key": "amplitude"}, "by": [{"of": "wind", "key": "gone"}]}], "bindings"`},
		"drivers[0].kind: there is no":                                       {`"bindings"`, `"drivers": [{"kind": "magic", "drives": {"of": "wind", "key": "amplitude"}}], "bindings"`},
		"these wait for each other in a loop: bow.stretch → wind.plane → wind.amplitude → bow.stretch": {`"bindings"`, `"drivers": [
      {"kind": "link", "drives": {"of": "wind", "key": "amplitude"}, "by": [{"of": "wind", "key": "plane"}]},
      {"kind": "link", "drives": {"of": "wind", "key": "plane"}, "by": [{"of": "bow", "key": "stretch"}]},
      {"kind": "link", "drives": {"of": "bow", "key": "stretch"}, "by": [{"of": "wind", "key": "amplitude"}]}], "bindings"`},
		"it needs a chain of 3 joints or more": {`"joints": ["stem_1", "stem_2", "stem_3", "stem_4"],
      "options"`, `"joints": ["stem_1", "stem_2"],
      "options"`},
	} {
		require.Contains(t, good, change[0])
		_, _, err := rigfile.Read([]byte(strings.Replace(good, change[0], change[1], 1)), kinds.All())
		assert.ErrorContains(t, err, want)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(example(f)))
	f.Add([]byte(`{"format":"myriapod-rig","version":1,"name":"x"}`))
	f.Add([]byte(`{"format":"myriapod-rig","version":1,"name":"x","joints":[{"name":"a","position":[1e308,0,0]}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		document, memory, err := rigfile.Read(data, kinds.All())
		if err != nil {
			return
		}
		if _, err := rigfile.Write(document, memory); err != nil {
			t.Fatalf("an accepted file cannot be written: %v", err)
		}
	})
}
