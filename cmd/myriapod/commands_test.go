package main

import (
	"bytes"
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/store"
)

// run runs the command line as a shell would and returns what it prints.
func run(t *testing.T, arguments ...string) (out string, err error) {
	t.Helper()
	var printed, errs bytes.Buffer
	root := newRoot(&printed, &errs)
	root.SetArgs(arguments)
	err = root.ExecuteContext(t.Context())
	return printed.String(), err
}

func must(t *testing.T, arguments ...string) string {
	t.Helper()
	out, err := run(t, arguments...)
	require.NoError(t, err)
	return out
}

func refused(t *testing.T, want string, arguments ...string) {
	t.Helper()
	_, err := run(t, arguments...)
	require.ErrorContains(t, err, want, strings.Join(arguments, " "))
}

var reed = filepath.Join("..", "..", "docs", "examples", "reed.rig.json")

func TestImportSampleAndExportHeadless(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	id := strings.TrimSpace(must(t, "import", reed, "--name", "Marsh reed", "--data", data))
	assert.NotContains(t, id, "\n")
	byID := must(t, "sample", id, "--data", data, "--joints", "stem_?", "--frames", "0:10:5")
	assert.Len(t, strings.Split(strings.TrimSpace(byID), "\n"), 1+3*4)
	assert.Equal(t, byID, must(t, "sample", "Reed", "--data", data, "--joints", "stem_?", "--frames", "0:10:5"), "by name, and the same bits")
	assert.Equal(t, byID, must(t, "sample", reed, "--joints", "stem_?", "--frames", "0:10:5"))
	out := filepath.Join(t.TempDir(), "reed.glb")
	told := must(t, "export", id, "--data", data, "--frames", "0:24", "--out", out)
	assert.Contains(t, told, "25 frames, 9 vertices; read back and compared: greatest difference")
	again := strings.TrimSpace(must(t, "import", out, "--data", data))
	assert.NotEqual(t, id, again)
}

// A formula in a rig file is worked out as the same sums are, and printed by the name of its number; a file that writes it wrong is refused by name.
func TestNumbersAreSampled(t *testing.T) {
	text, err := os.ReadFile(reed)
	require.NoError(t, err)
	var file map[string]any
	require.NoError(t, json.Unmarshal(text, &file))
	root := "root"
	written := func(formula string, by ...any) string {
		file["drivers"] = []any{
			map[string]any{"kind": "formula", "drives": map[string]any{"of": root, "key": "rotateY"}, "by": by, "parameters": map[string]any{"formula": formula}},
			map[string]any{"kind": "response", "drives": map[string]any{"of": root, "key": "moveX"}, "by": []any{map[string]any{"of": root, "key": "moveZ"}}, "parameters": map[string]any{
				"points": []any{[]any{0, 0}, []any{1, 2}}, "after": "climb",
			}},
		}
		data, err := json.Marshal(file)
		require.NoError(t, err)
		at := filepath.Join(t.TempDir(), "driven.rig.json")
		require.NoError(t, os.WriteFile(at, data, 0o600))
		return at
	}
	driven := written("30 * wave(time / 2) + _0 * 10", map[string]any{"of": root, "key": "moveZ"})
	lines := strings.Split(strings.TrimSpace(must(t, "sample", driven, "--values", "root.*", "--frames", "0:12:12", "--set", "root.moveZ=2.5")), "\n")
	assert.Equal(t, "frame,value,number,unit", lines[0])
	assert.Contains(t, lines, "0,root.rotateY,25,°")
	assert.Contains(t, lines, "0,root.moveX,5,m")
	var sampled struct {
		Frames []struct{ Values []sampleValue }
	}
	require.NoError(t, json.Unmarshal([]byte(must(t, "sample", driven, "--values", "root.rotateY", "--frames", "12", "--format", "json")), &sampled))
	assert.InDelta(t, 30, sampled.Frames[0].Values[0].Value, 1e-9, "a quarter of a turn after half a second of two")
	refused(t, `no number is called "gill.*"`, "sample", driven, "--values", "gill.*")
	refused(t, "is wave meant?", "sample", written("30 * wvae(time)"), "--values", "root.*")
	refused(t, "reads _3", "sample", written("_3"), "--values", "root.*")
}

// Parts of a frame are sampled, and parts by wildcard: as one by one.
func TestSampleTakesPartsOfFramesAndPartsByWildcard(t *testing.T) {
	fine := strings.Split(strings.TrimSpace(must(t, "sample", "demo:quillwick", "--joints", "spine_05", "--frames", "0:2:0.25")), "\n")
	require.Len(t, fine, 1+9)
	whole := strings.Split(strings.TrimSpace(must(t, "sample", "demo:quillwick", "--joints", "spine_05", "--frames", "0:2")), "\n")
	assert.Equal(t, []string{whole[1], whole[2], whole[3]}, []string{fine[1], fine[5], fine[9]})
	assert.True(t, strings.HasPrefix(fine[2], "0.25,spine_05,"), fine[2])
	assert.NotEqual(t, strings.TrimPrefix(fine[2], "0.25"), strings.TrimPrefix(fine[1], "0"))
	type sampled struct {
		Frames []struct{ Parts []samplePart }
	}
	read := func(pattern string) (s sampled) {
		require.NoError(t, json.Unmarshal([]byte(must(t, "sample", "demo:quillwick", "--vertices", pattern, "--format", "json", "--frames", "3")), &s))
		return s
	}
	fins := read("fin_?")
	require.Len(t, fins.Frames[0].Parts, 2)
	assert.Equal(t, []samplePart{read("fin_L").Frames[0].Parts[0], read("fin_R").Frames[0].Parts[0]}, fins.Frames[0].Parts)
}

func TestSampleSetsChannelsInMetresAndDegrees(t *testing.T) {
	var sampled struct {
		FPS    float64
		Frames []struct {
			Frame  int
			Joints []struct {
				Name   string
				Matrix [16]float64
			}
			Parts []struct {
				Name     string
				Vertices [][3]float64
			}
		}
	}
	text := must(t, "sample", reed, "--joints", "stem_4", "--set", "root.moveX=2", "--set", "root.rotateY=90", "--format", "json")
	require.NoError(t, json.Unmarshal([]byte(text), &sampled))
	matrix := sampled.Frames[0].Joints[0].Matrix
	assert.InDelta(t, 2, matrix[12], 0.2, "two metres along X")
	assert.InDelta(t, 1, matrix[15], 0)
	text = must(t, "sample", reed, "--vertices", "stem", "--format", "json", "--frames", "3")
	require.NoError(t, json.Unmarshal([]byte(text), &sampled))
	assert.Equal(t, 3, sampled.Frames[0].Frame)
	assert.Len(t, sampled.Frames[0].Parts[0].Vertices, 9)
}

func TestDemosAreNamed(t *testing.T) {
	assert.Contains(t, must(t, "demo", "--list"), "quillwick\t")
	must(t, "sample", "demo:quillwick-bare", "--vertices", "eye_L")
}

func TestWhatIsLockedOrLimitedIsNotSet(t *testing.T) {
	file := filepath.Join(t.TempDir(), "mast.rig.json")
	require.NoError(t, os.WriteFile(file, []byte(`{
		"format": "myriapod-rig", "version": 1, "name": "mast",
		"joints": [{ "name": "mast", "position": [0, 0, 1] }],
		"controls": [{ "name": "root", "position": [0, 0, 0], "shape": "pennant", "channels": { "moveX": { "locked": true }, "rotateY": { "max": 45 } } }]
	}`), 0o600))
	refused(t, "is locked", "sample", file, "--joints", "*", "--set", "root.moveX=1")
	refused(t, "beyond the channel's limits", "sample", file, "--joints", "*", "--set", "root.rotateY=46")
	assert.Contains(t, must(t, "sample", file, "--joints", "*", "--set", "root.rotateY=45", "--set", "root.moveX=0", "--format", "csv"), "mast")
}

func TestRefusalsAreClear(t *testing.T) {
	refused(t, "there is no such file", "import", "nowhere.obj")
	refused(t, "there is no such file", "sample", "nowhere.json", "--joints", "*")
	refused(t, `no demo specimen "swan"`, "export", "demo:swan", "--out", "x.glb")
	refused(t, "no joint is called", "sample", reed, "--joints", "leg*")
	refused(t, "pattern is not closed", "sample", reed, "--joints", "[")
	refused(t, `no part "hat"`, "sample", reed, "--vertices", "hat")
	refused(t, "rising order", "sample", reed, "--joints", "*", "--frames", "9:1")
	refused(t, "STEP 0.0001 or more", "sample", reed, "--joints", "*", "--frames", "1:9:0")
	refused(t, "STEP 0.0001 or more", "sample", reed, "--joints", "*", "--frames", "1:9:NaN")
	refused(t, "whole numbers", "sample", reed, "--joints", "*", "--frames", "1.5:9")
	refused(t, "more than 10000000 frames", "sample", reed, "--joints", "*", "--frames", "0:1000000000")
	refused(t, "--vertices [: the pattern is not closed", "sample", reed, "--vertices", "[")
	refused(t, `no control "hat"`, "sample", reed, "--joints", "*", "--set", "hat.moveX=1")
	refused(t, "a channel is one of", "sample", reed, "--joints", "*", "--set", "root.wag=1")
	refused(t, "is not a number", "sample", reed, "--joints", "*", "--set", "root.moveX=far")
	refused(t, "not within", "sample", reed, "--joints", "*", "--set", "root.moveX=1e300")
	refused(t, `no clip "walk"`, "export", reed, "--clip", "walk", "--out", "x.glb")
	refused(t, "cannot be written", "export", reed, "--out", filepath.Join(t.TempDir(), "no", "where.glb"))
	refused(t, "no data folder", "sample", "someone", "--joints", "*", "--data", filepath.Join(t.TempDir(), "none"))
	broken := filepath.Join(t.TempDir(), "broken.json")
	require.NoError(t, os.WriteFile(broken, []byte(`{"format":"myriapod-rig","version":9}`), 0o600))
	refused(t, "version: 9 is not known", "sample", broken, "--joints", "*")
}

func TestAFolderInUseIsRefused(t *testing.T) {
	folder := t.TempDir()
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer s.Close()
	refused(t, "in use by another Myriapod process", "import", reed, "--data", folder)
}

// The program itself: exit status 1 and one line on standard error.
func TestTheProgramSaysItInOneLine(t *testing.T) {
	command := exec.Command(build(t), "sample", "demo:swan", "--joints", "*")
	var errs bytes.Buffer
	command.Stderr = &errs
	var exit *exec.ExitError
	require.ErrorAs(t, command.Run(), &exit)
	assert.Equal(t, 1, exit.ExitCode())
	assert.Equal(t, 1, strings.Count(errs.String(), "\n"), errs.String())
}

// Copies of repeats answer to their names like everything else.
func TestCopiesAreSampledAndExported(t *testing.T) {
	var sampled struct {
		Frames []struct {
			Joints []struct {
				Name   string
				Matrix [16]float64
			}
		}
	}
	at := func(pattern string, more ...string) [16]float64 {
		t.Helper()
		text := must(t, append([]string{"sample", "demo:sedge", "--joints", pattern, "--format", "json", "--frames", "0"}, more...)...)
		require.NoError(t, json.Unmarshal([]byte(text), &sampled))
		require.Len(t, sampled.Frames[0].Joints, 1)
		return sampled.Frames[0].Joints[0].Matrix
	}
	first, fourth := at("tendril_1_12"), at("tendril_4_12")
	assert.InDelta(t, -first[12], fourth[12], 1e-9, "half a turn about the upright axis")
	assert.InDelta(t, first[13], fourth[13], 1e-9)
	assert.InDelta(t, -first[14], fourth[14], 1e-9)
	pulled := at("tendril_4_12", "--set", "tendril_4_ctl_4.moveZ=0.2")
	assert.Greater(t, math.Abs(pulled[13]-fourth[13]), 0.02)
	assert.Equal(t, first, at("tendril_1_12", "--set", "tendril_4_ctl_4.moveZ=0.2"), "the others stay")
	assert.Len(t, strings.Split(strings.TrimSpace(must(t, "sample", "demo:tallow", "--joints", "leg_[LR]??_7", "--frames", "0")), "\n"), 1+44)
	out := filepath.Join(t.TempDir(), "sedge.glb")
	assert.Contains(t, must(t, "export", "demo:sedge", "--frames", "0:12", "--out", out), "13 frames, 17044 vertices")
}
