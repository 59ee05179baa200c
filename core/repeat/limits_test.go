package repeat_test

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// What copies come to is counted before they are made.
func TestTooManyCopiesAreRefusedBeforeTheyAreMade(t *testing.T) {
	base := func() *rig.Document {
		d := rig.New("x")
		for i := range 12 {
			j := rig.Joint{ID: fmt.Sprint("j", i), Name: fmt.Sprint("j", i), Position: mgl64.Vec3{1, float64(i), 0}, Rotation: rig.Quaternion{0, 0, 0, 1}}
			if i > 0 {
				j.Parent = fmt.Sprint("j", i-1)
			}
			d.Joints = append(d.Joints, j)
		}
		return d
	}
	ring := func(d *rig.Document, id, source string, count int) {
		d.Repeats = append(d.Repeats, rig.Repeat{ID: id, Name: id, Rule: rig.Ring, Sources: []string{source}, Direction: mgl64.Vec3{0, 1, 0}, Count: count, Pattern: "*_" + id + "_#"})
	}
	mirror := func(d *rig.Document, id, source string) {
		d.Repeats = append(d.Repeats, rig.Repeat{ID: id, Name: id, Rule: rig.Mirror, Sources: []string{source}, Direction: mgl64.Vec3{1, 0, 0}, Pattern: "*" + id})
	}
	for want, spoil := range map[string]func(*rig.Document){
		"mechanisms: 500000 are more than the 10000": func(d *rig.Document) {
			for i := range 500 {
				id := fmt.Sprint("m", i)
				d.Mechanisms = append(d.Mechanisms, rig.Mechanism{ID: id, Name: id, Kind: "travelling-wave", Joints: []string{"j11"}})
			}
			ring(d, "r", "j11", 1000)
		},
		"points of outlines": func(d *rig.Document) {
			d.Controls = []rig.Control{{ID: "c", Name: "c", Outline: make([]mgl64.Vec3, 4000)}}
			d.Mechanisms = []rig.Mechanism{{ID: "m", Name: "m", Joints: []string{"j11"}, Controls: []string{"c"}}}
			ring(d, "r", "j11", 900)
		},
		"references": func(d *rig.Document) {
			m := rig.Mechanism{ID: "m", Name: "m"}
			for range 5000 {
				m.Joints = append(m.Joints, "j11")
			}
			d.Mechanisms = []rig.Mechanism{m}
			ring(d, "r", "j11", 900)
		},
		"copies copies 9 deep": func(d *rig.Document) {
			source := "j11"
			for i := range 9 {
				id := fmt.Sprint("m", i)
				mirror(d, id, source)
				source = repeat.CopyID(id, 1, source)
			}
		},
		"longer than 600 bytes": func(d *rig.Document) {
			d.Repeats = nil
			d.Joints[11].ID = strings.Repeat("x", 590)
			mirror(d, "a_long_one", d.Joints[11].ID)
		},
		"longer than 120 characters": func(d *rig.Document) {
			mirror(d, "r", "j11")
			d.Repeats[0].Pattern = strings.Repeat("*", 100)
		},
		"repeats: 201 are more": func(d *rig.Document) {
			for i := range 201 {
				ring(d, fmt.Sprint("r", i), "j11", 2)
			}
		},
		"sources: 1001 are more": func(d *rig.Document) {
			mirror(d, "r", "j11")
			d.Repeats[0].Sources = make([]string, 1001)
		},
	} {
		d := base()
		spoil(d)
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		_, err := repeat.Expand(d)
		runtime.ReadMemStats(&after)
		assert.ErrorContains(t, err, want)
		assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(50<<20), want)
	}
}
