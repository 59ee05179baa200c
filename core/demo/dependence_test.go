package demo

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/evaluate"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// reached works out, from what tasks read and write alone, which tasks a change of values can reach: those that read what changed, and all that write what
// one of them writes.
func reached(p *plan.Plan, slots []int) map[int]bool {
	changed, tasks := map[mechanism.Resource]bool{}, map[int]bool{}
	for _, slot := range slots {
		changed[mechanism.Resource{Kind: mechanism.ValueOf, Index: slot}] = true
	}
	touches := func(list []mechanism.Resource) bool {
		for _, r := range list {
			if changed[r] {
				return true
			}
		}
		return false
	}
	for grown := true; grown; {
		grown = false
		for i, task := range p.Tasks {
			if tasks[i] || !touches(task.Reads) && !touches(task.Writes) {
				continue
			}
			tasks[i], grown = true, true
			for _, r := range task.Writes {
				changed[r] = true
			}
		}
	}
	return tasks
}

// Posing one control of the largest demo runs what can depend on it and nothing else, and what comes out is what a fresh evaluator has.
func TestPosingOneControlRunsWhatDependsOnIt(t *testing.T) {
	specimen, err := Find("tallow")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	e, _, err := evaluate.Open(steps[len(steps)-1].Next, kinds.All(), Memory(steps))
	require.NoError(t, err)
	ran := map[int]bool{}
	for i := range e.Plan.Tasks {
		run := e.Plan.Tasks[i].Run
		e.Plan.Tasks[i].Run = func(f *mechanism.Frame) {
			ran[i] = true
			run(f)
		}
	}
	e.Evaluate()
	all := len(e.Plan.Tasks)
	require.Len(t, ran, all)
	least, most, sum := all, 0, 0
	for i, control := range e.Plan.Document.Controls {
		channel := rig.MoveY
		if control.State(channel).Locked {
			channel = rig.RotateX
		}
		clear(ran)
		before := e.Frame.Values[e.Slot(i, channel)]
		require.NoError(t, e.SetChannel(i, channel, before+0.01))
		e.Evaluate()
		can := reached(e.Plan, []int{e.Slot(i, channel)})
		for task := range ran {
			assert.True(t, can[task], "%s.%s ran a task of %s", control.Name, channel, e.Plan.Document.NameOf(e.Plan.Tasks[task].Subject))
		}
		if control.Name == rig.GlobalName || control.Name == rig.RootName {
			t.Logf("%s: %d of %d tasks", control.Name, len(ran), all)
			continue
		}
		least, most, sum = min(least, len(ran)), max(most, len(ran)), sum+len(ran)
	}
	t.Logf("one of the other %d controls: %d to %d of %d tasks, %.1f on average", len(e.Plan.Document.Controls)-2, least, most, all, float64(sum)/float64(len(e.Plan.Document.Controls)-2))
	assert.Less(t, most, all)
	now := evaluate.New(e.Plan)
	for slot, value := range e.Frame.Inputs {
		require.NoError(t, now.Set(slot, value))
	}
	now.Evaluate()
	assert.Equal(t, now.Frame.Joints, e.Frame.Joints)
}
