package plan

import (
	"fmt"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Upstream lists the tasks that something hangs on, in order.
func (p *Plan) Upstream(wanted ...mechanism.Resource) []int {
	needed := map[mechanism.Resource]bool{}
	for _, r := range wanted {
		needed[r] = true
	}
	var list []int
	for i := len(p.Tasks) - 1; i >= 0; i-- { // a task stands behind those it reads from
		task := p.Tasks[i]
		if !slices.ContainsFunc(task.Writes, func(r mechanism.Resource) bool { return needed[r] }) {
			continue
		}
		list = append(list, i)
		for _, r := range task.Reads {
			needed[r] = true
		}
	}
	slices.Reverse(list)
	return list
}

// BodyTasks lists the tasks that the channels of the root control hang on: none where nothing drives them.
func (p *Plan) BodyTasks() []int {
	root := p.Document.ControlNamed(rig.RootName)
	if root == nil {
		return nil
	}
	return p.Upstream(mechanism.ChannelsOf(p.ControlIndex[root.ID])...)
}

// checkAhead refuses to look ahead along a way that hangs on what is remembered, or on what looks ahead itself: it is not known before it was gone.
func (p *Plan) checkAhead() error {
	if p.Ahead {
		if err := p.checkWay("the body", p.BodyTasks()); err != nil {
			return err
		}
	}
	for _, control := range p.Ways {
		tasks := p.Upstream(mechanism.Resource{Kind: mechanism.Control, Index: control})
		if err := p.checkWay(p.Document.Controls[control].Name, tasks); err != nil {
			return err
		}
	}
	for _, holding := range p.Holdings {
		for _, i := range p.Upstream(holding.Reads...) {
			if task := p.Tasks[i]; task.Steps {
				return fmt.Errorf("%s is held by what hangs on %s, which remembers, so that where it changes hands is not known before; take what remembers away, or have something else hold it", holding.Whose, p.Document.NameOf(task.Subject))
			}
		}
	}
	for _, roll := range p.Rolls {
		for _, i := range p.Upstream(roll.Reads...) {
			if task := p.Tasks[i]; task.Steps || slices.ContainsFunc(task.Reads, func(r mechanism.Resource) bool { return r.Kind == mechanism.RollOf }) {
				return fmt.Errorf("%s rolls by what hangs on %s, which remembers or rolls itself, so that its way is not known before it was gone; hang it on something else", roll.Whose, p.Document.NameOf(task.Subject))
			}
		}
	}
	for _, total := range p.Totals {
		for _, i := range p.Upstream(total.Reads...) {
			task := p.Tasks[i]
			early := func(r mechanism.Resource) bool { return r.Kind == mechanism.Ahead || r.Kind == mechanism.TotalOf }
			if task.Steps || slices.ContainsFunc(task.Reads, early) {
				return fmt.Errorf("%s turns by a rate that is not known before the clip has gone by: it hangs on %s, which remembers, measures the way or turns itself; turn by a dial that hand or keys move", total.Whose, p.Document.NameOf(task.Subject))
			}
		}
	}
	return nil
}

// checkWay checks the tasks that the way of something hangs on.
func (p *Plan) checkWay(whose string, tasks []int) error {
	for _, i := range tasks {
		task := p.Tasks[i]
		name := p.Document.NameOf(task.Subject)
		if task.Steps {
			return fmt.Errorf("the way of %s is looked at ahead of its time, and %s is driven by something with memory, which cannot tell; take that driver off, or drive something else by it", whose, name)
		}
		if slices.ContainsFunc(task.Reads, func(r mechanism.Resource) bool { return r.Kind == mechanism.Ahead }) {
			return fmt.Errorf("%s moves %s by where that will be; take one of the two out of it", name, whose)
		}
	}
	return nil
}
