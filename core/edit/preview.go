package edit

import (
	"math"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// Renaming is one name that an edit changes.
type Renaming struct {
	ID   string `json:"id"`
	From string `json:"from"`
	To   string `json:"to"`
}

// Preview is what an edit would do, for the rigger to look at before it is done. Copies count like everything else.
type Preview struct {
	Renamed []Renaming `json:"renamed"`
	Added   []string   `json:"added"`   // names of joints that are new
	Removed []string   `json:"removed"` // names of joints that go
	Moved   float64    `json:"moved"`   // how far the joint that moves most would move at rest, in metres
	Turned  int        `json:"turned"`  // how many joints would be oriented anew
}

// Foresee applies an edit to see what it would do, and keeps nothing of it. It refuses what Apply would refuse.
func Foresee(c *Context, then *repeat.Expansion, e Edit) (Preview, error) {
	p := Preview{Renamed: []Renaming{}, Added: []string{}, Removed: []string{}}
	result, err := ApplyTo(c, then, e)
	if err != nil {
		return p, err
	}
	now := result.Expanded
	names := map[string]string{}
	then.Document.EachNamed(func(id, name string) bool { names[id] = name; return true })
	now.Document.EachNamed(func(id, name string) bool {
		if from, ok := names[id]; ok && from != name {
			p.Renamed = append(p.Renamed, Renaming{id, from, name})
		}
		return true
	})
	p.compareJoints(then.Document, now.Document)
	return p, nil
}

func (p *Preview) compareJoints(then, now *rig.Document) {
	joints := make(map[string]rig.Joint, len(then.Joints))
	for _, j := range then.Joints {
		joints[j.ID] = j
	}
	for _, j := range now.Joints {
		before, ok := joints[j.ID]
		if !ok {
			p.Added = append(p.Added, j.Name)
			continue
		}
		delete(joints, j.ID)
		p.Moved = math.Max(p.Moved, j.Position.Sub(before.Position).Len())
		if j.Rotation != before.Rotation {
			p.Turned++
		}
	}
	for _, j := range then.Joints {
		if _, gone := joints[j.ID]; gone {
			p.Removed = append(p.Removed, j.Name)
		}
	}
}
