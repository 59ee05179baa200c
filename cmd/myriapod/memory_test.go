package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/kinds"
)

// lagging writes the reed with a control that lags after its keys.
func lagging(t *testing.T) string {
	text, err := os.ReadFile(reed)
	require.NoError(t, err)
	document, surfaces, err := rigfile.Read(text, kinds.All())
	require.NoError(t, err)
	text, err = rigfile.Write(document, surfaces) // with the controls that were built
	require.NoError(t, err)
	var file map[string]any
	require.NoError(t, json.Unmarshal(text, &file))
	control := func(i int) string { return document.ControlNamed(fmt.Sprintf("bow_ctl_%d", i)).ID }
	tip := map[string]any{"of": control(3), "key": "moveX"}
	file["drivers"] = []any{
		map[string]any{"kind": "lag", "drives": tip, "parameters": map[string]any{"seconds": 0.7}},
		map[string]any{"kind": "link", "drives": map[string]any{"of": control(2), "key": "moveZ"}, "by": []any{tip}},
	}
	key := func(frame int, value float64) map[string]any {
		return map[string]any{"frame": frame, "value": value, "ease": "linear"}
	}
	file["clips"] = []any{map[string]any{"name": "gust", "start": 0, "end": 240, "preRoll": 1.5, "tracks": []any{
		map[string]any{"control": control(3), "channel": "moveX", "keys": []any{key(0, 0), key(24, 0), key(25, 0.4), key(190, -0.2)}},
	}}}
	text, err = json.Marshal(file)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "lagging.rig.json")
	require.NoError(t, os.WriteFile(path, text, 0o600))
	return path
}

// What has memory is the same to the bit when a frame is asked for alone, at the end of a run, in this process and in another.
func TestMemoryIsTheSameInAnotherProcess(t *testing.T) {
	file := lagging(t)
	of := func(out, frame string) (lines []string) {
		for _, line := range strings.Split(out, "\n") {
			if strings.HasPrefix(line, frame+",") {
				lines = append(lines, line)
			}
		}
		return lines
	}
	arguments := []string{"sample", file, "--joints", "*", "--frames"}
	alone := of(must(t, append(arguments, "200")...), "200")
	require.Len(t, alone, 4)
	assert.Equal(t, alone, of(must(t, append(arguments, "0:240")...), "200"), "in a run")
	program := build(t)
	for _, frames := range []string{"200", "0:240", "197:240:3"} {
		out, err := exec.Command(program, append(arguments, frames)...).Output()
		require.NoError(t, err, fmt.Sprint(err))
		assert.Equal(t, alone, of(string(out), "200"), "in another process, frames %s", frames)
	}
	assert.NotEqual(t, alone, of(must(t, "sample", reed, "--joints", "*", "--frames", "200"), "200"))
}
