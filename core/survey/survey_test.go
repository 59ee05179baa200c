package survey_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"myriapod/core/rig"
	"myriapod/core/survey"
)

func TestChainsGoByNumbersAndThenByTheOnlyWay(t *testing.T) {
	d := rig.New("x")
	joint := func(id, parent string) { d.Joints = append(d.Joints, rig.Joint{ID: id, Name: id, Parent: parent}) }
	for _, pair := range [][2]string{{"spine_1", ""}, {"spine_2", "spine_1"}, {"spine_3", "spine_2"}, {"hip_L", "spine_1"}, {"knee_L", "hip_L"}, {"head", "spine_3"}} {
		joint(pair[0], pair[1])
	}
	d.Controls = []rig.Control{{ID: "c", Name: rig.RootName}}
	s := survey.Of(d)
	assert.ElementsMatch(t, [][]string{{"spine_1", "spine_2", "spine_3"}, {"hip_L", "knee_L"}, {"head"}}, s.Chains)
	assert.Equal(t, map[string]rig.Side{"hip_L": rig.Left, "knee_L": rig.Left}, s.Sides)
	assert.Equal(t, "c", s.Root)
	assert.Empty(t, s.Global)
}

// Every joint stands in one chain, behind its parent there.
func TestEveryJointStandsInOneChain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := rig.New("x")
		for i := range rapid.IntRange(1, 30).Draw(t, "joints") {
			j := rig.Joint{ID: fmt.Sprint("j", i), Name: fmt.Sprintf("%s_%d", rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "stem"), i)}
			if parent := rapid.IntRange(-1, i-1).Draw(t, "parent"); parent >= 0 {
				j.Parent = d.Joints[parent].ID
			}
			d.Joints = append(d.Joints, j)
		}
		seen := map[string]int{}
		for _, chain := range survey.Of(d).Chains {
			for i, id := range chain {
				seen[id]++
				if i > 0 {
					assert.Equal(t, chain[i-1], d.Joint(id).Parent)
				}
			}
		}
		for _, j := range d.Joints {
			assert.Equal(t, 1, seen[j.ID], j.ID)
		}
	})
}
