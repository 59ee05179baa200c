package plan

import (
	"fmt"
	"slices"
	"strings"

	"myriapod/core/mechanism"
)

// sorted sorts tasks so that each runs after what it reads is complete. Writers of one resource keep document order; readers
// that do not write it come after the last writer. Among tasks that are free to run, the earlier in the list goes first, so
// the order is always the same.
//
// Method: Kahn 1962, Topological sorting of large networks.
func sorted(bench *mechanism.Bench, tasks []mechanism.Task) ([]mechanism.Task, *loop) {
	after, waiting := dependencies(tasks)
	ready := []int{}
	for i, n := range waiting {
		if n == 0 {
			ready = append(ready, i)
		}
	}
	ordered := make([]mechanism.Task, 0, len(tasks))
	for len(ready) > 0 {
		next := ready[0]
		ready = ready[1:]
		ordered = append(ordered, tasks[next])
		for _, i := range after[next] {
			waiting[i]--
			if waiting[i] == 0 {
				ready = append(ready, i)
			}
		}
	}
	if len(ordered) < len(tasks) {
		return nil, findLoop(bench, tasks, after, waiting)
	}
	return ordered, nil
}

func dependencies(tasks []mechanism.Task) (after [][]int, waiting []int) {
	writers := map[mechanism.Resource][]int{}
	for i, task := range tasks {
		for _, resource := range task.Writes {
			writers[resource] = append(writers[resource], i)
		}
	}
	after = make([][]int, len(tasks))
	waiting = make([]int, len(tasks))
	link := func(from, to int) {
		if from != to && !slices.Contains(after[from], to) {
			after[from] = append(after[from], to)
			waiting[to]++
		}
	}
	for _, chain := range writers {
		for k := 1; k < len(chain); k++ {
			link(chain[k-1], chain[k])
		}
	}
	for i, task := range tasks {
		for _, resource := range task.Reads {
			chain := writers[resource]
			if len(chain) > 0 && !slices.Contains(task.Writes, resource) {
				link(chain[len(chain)-1], i)
			}
		}
	}
	for _, list := range after { // writers were visited in no particular order
		slices.Sort(list)
	}
	return after, waiting
}

// loop is tasks that wait for each other, each for the next, and the last for the first.
type loop struct {
	bench *mechanism.Bench
	tasks []mechanism.Task
}

// nameOf names a member: a number by its address, all else by what it works for.
func (l *loop) nameOf(task mechanism.Task) string {
	if len(task.Writes) == 1 && task.Writes[0].Kind == mechanism.ValueOf {
		return l.bench.Document.NameOfValue(l.bench.Layout.Values[task.Writes[0].Index].Address)
	}
	return l.bench.Document.NameOf(task.Subject)
}

// Error names every member.
func (l *loop) Error() string {
	names := []string{}
	for i := len(l.tasks) - 1; i >= 0; i-- {
		if name := l.nameOf(l.tasks[i]); len(names) == 0 || names[len(names)-1] != name {
			names = append(names, name)
		}
	}
	if len(names) > 1 && names[0] == names[len(names)-1] {
		names = names[1:]
	}
	return fmt.Sprintf("these wait for each other in a loop: %s; take one of them out of it", strings.Join(append(names, names[0]), " → "))
}

// broken returns what a stepper among the members may read a step late, so that the loop is none. ok is false where no stepper is among them.
func (l *loop) broken() (late mechanism.Late, ok bool) {
	for i, task := range l.tasks {
		if !task.Steps {
			continue
		}
		before := l.tasks[(i+1)%len(l.tasks)] // it waits for that
		for _, r := range before.Writes {
			if r.Kind == mechanism.ValueOf && slices.Contains(task.Reads, r) {
				return mechanism.Late{Driven: task.Writes[0].Index, Read: r.Index}, true
			}
		}
	}
	return late, false
}

// findLoop walks from a task that never became free along others that did not, until one comes again.
func findLoop(bench *mechanism.Bench, tasks []mechanism.Task, after [][]int, waiting []int) *loop {
	start := slices.IndexFunc(waiting, func(n int) bool { return n > 0 })
	before := make([][]int, len(tasks))
	for from, list := range after {
		for _, to := range list {
			before[to] = append(before[to], from)
		}
	}
	var path []int
	for at := start; !slices.Contains(path, at); {
		path = append(path, at)
		next := slices.IndexFunc(before[at], func(i int) bool { return waiting[i] > 0 })
		at = before[at][next]
		if k := slices.Index(path, at); k >= 0 {
			path = path[k:]
			break
		}
	}
	l := &loop{bench: bench}
	for _, i := range path {
		l.tasks = append(l.tasks, tasks[i])
	}
	return l
}
