package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// layers lists the packages of the core from the ground up. A package may import those in its own layer's row or lower, never higher.
var layers = [][]string{
	{"geometry", "parameter", "textsize", "formula"},
	{"curve", "mesh", "skin", "morph", "linkage", "belt", "terrain"},
	{"rig"},
	{"repeat", "motion", "pick", "survey"},
	{"mechanism"},
	{"driver", "measure"},
	{"mechanism/along", "mechanism/axle"},
	{"mechanism/splinechain", "mechanism/ribbonchain", "mechanism/fkchain", "mechanism/laidcurve"},
	{"mechanism/wave", "mechanism/fkover", "mechanism/limb", "mechanism/aim", "mechanism/follow", "mechanism/squashbox", "mechanism/hinge", "mechanism/bars", "mechanism/ram", "mechanism/ground", "mechanism/gear", "mechanism/ride", "mechanism/prop", "mechanism/hose", "mechanism/rack"},
	{"mechanism/hub"},
	{"mechanism/foot", "mechanism/step", "mechanism/settle", "mechanism/wheel", "mechanism/track"},
	{"mechanism/kinds"},
	{"mechanism/kindtest"},
	{"plan"},
	{"evaluate"},
	{"match", "sculpt"},
	{"interchange/model"},
	{"edit", "picture"},
	{"findings"},
	{"rigtest"},
	{"interchange/files"},
	{"interchange/obj", "interchange/glb", "interchange/rigfile"},
	{"interchange", "demo"},
}

// foreign is what the core must not know.
var foreign = []string{"myriapod/store", "myriapod/server", "myriapod/shelf", "myriapod/web", "myriapod/cmd", "net/http", "database/sql", "os", "log"}

func TestImportsRunOneWay(t *testing.T) {
	height := map[string]int{}
	for i, layer := range layers {
		for _, name := range layer {
			height["myriapod/core/"+name] = i
		}
	}
	err := filepath.WalkDir(".", func(path string, entry fs.DirEntry, err error) error {
		require.NoError(t, err)
		if entry.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		here := "myriapod/core/" + filepath.ToSlash(filepath.Dir(path))
		own, known := height[here]
		require.True(t, known, "%s has no layer; add it to the list", here)
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, spec := range file.Imports {
			imported, err := strconv.Unquote(spec.Path.Value)
			require.NoError(t, err)
			for _, name := range foreign {
				assert.False(t, imported == name || strings.HasPrefix(imported, name+"/"), "%s imports %s", path, imported)
			}
			if other, ok := height[imported]; ok {
				assert.LessOrEqual(t, other, own, "%s imports %s from a higher layer", path, imported)
			}
		}
		return nil
	})
	require.NoError(t, err)
}
