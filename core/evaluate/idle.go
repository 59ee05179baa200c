package evaluate

import (
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// idleness knows which controls can be without effect: those of mechanisms whose influence a dial drives, or that lie below such.
type idleness struct {
	shares []share // by mechanism
	own    [][]int // by control: the mechanisms whose it is; nil for one that always counts
}

// share is what a mechanism's share of its joints hangs on: its own influence, and that of the mechanisms that lie over it.
type share struct {
	own   mechanism.Number
	above []mechanism.Number
}

func newIdleness(p *plan.Plan) idleness {
	d := p.Document
	idle := idleness{shares: make([]share, len(d.Mechanisms)), own: make([][]int, len(d.Controls))}
	for i, m := range d.Mechanisms {
		idle.shares[i].own = p.Influences[i]
		for k := i + 1; k < len(d.Mechanisms); k++ {
			if covers(d.Mechanisms[k], m) {
				idle.shares[i].above = append(idle.shares[i].above, p.Influences[k])
			}
		}
		for _, id := range m.Controls {
			control := p.ControlIndex[id]
			idle.own[control] = append(idle.own[control], i)
		}
		if m.Host != "" { // its controls count where its host does
			host := slices.IndexFunc(d.Mechanisms, func(h rig.Mechanism) bool { return h.ID == m.Host })
			idle.shares[i].above = append(idle.shares[i].above, idle.shares[host].above...)
		}
	}
	for i, control := range d.Controls {
		if len(control.Dials) > 0 {
			idle.own[i] = nil // what bears a dial is always in use
		}
	}
	return idle
}

// covers tells whether one mechanism places all the joints of another.
func covers(over, m rig.Mechanism) bool {
	return len(m.Joints) > 0 && !slices.ContainsFunc(m.Joints, func(id string) bool { return !slices.Contains(over.Joints, id) })
}

// Idle tells whether a control moves nothing in the present frame, because no mechanism that it belongs to has a share of its joints.
func (e *Evaluator) Idle(control int) bool {
	owners := e.idle.own[control]
	for _, m := range owners {
		if e.shareOf(m) > 0 {
			return false
		}
	}
	return len(owners) > 0
}

// shareOf is the share, 0 to 1, that a mechanism has of its joints in the present frame.
func (e *Evaluator) shareOf(m int) float64 {
	s := &e.idle.shares[m]
	share := s.own.At(e.Frame)
	for _, above := range s.above {
		share *= 1 - above.At(e.Frame)
	}
	return share
}
