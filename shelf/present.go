package shelf

import (
	"sync"

	"myriapod/core/findings"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/store"
)

// present is the state of a specimen as it was worked out last: what the next edit begins with. All of it is only read.
type present struct {
	revision int
	document *rig.Document
	expanded *repeat.Expansion
	plan     *plan.Plan // nil where it was not planned yet
	found    []findings.Finding
}

// mostPresent is how many specimens are kept worked out.
const mostPresent = 8

// presents keeps the present states of the specimens that were used last.
type presents struct {
	mutex sync.Mutex
	of    map[string]present
	order []string // the one used last at the end
}

func (p *presents) get(id string, revision int) (present, bool) {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	known, ok := p.of[id]
	return known, ok && known.revision == revision
}

func (p *presents) put(id string, now present) {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if p.of == nil {
		p.of = map[string]present{}
	}
	p.of[id] = now
	for i, other := range p.order {
		if other == id {
			p.order = append(p.order[:i], p.order[i+1:]...)
			break
		}
	}
	if p.order = append(p.order, id); len(p.order) > mostPresent {
		delete(p.of, p.order[0])
		p.order = p.order[1:]
	}
}

// presentOf works out the state of a specimen at a revision, or takes it as it was worked out before.
func (s *Shelf) presentOf(id string, revision store.Revision) (present, error) {
	if now, ok := s.presents.get(id, revision.Number); ok {
		return now, nil
	}
	document, err := revision.Read()
	if err != nil {
		return present{}, err
	}
	expanded, err := repeat.Expand(document)
	if err != nil {
		return present{}, err
	}
	now := present{revision: revision.Number, document: document, expanded: expanded, found: findings.Of(expanded)}
	s.presents.put(id, now)
	return now, nil
}

// Plan returns the plan of a state, for any number of evaluators.
func (s *Shelf) Plan(state State) (*plan.Plan, error) {
	now, known := s.presents.get(state.ID, state.Revision)
	if known && now.plan != nil {
		return now.plan, nil
	}
	planned, err := plan.BuildExpanded(state.Expanded, s.Kinds, s.Store, nil)
	if err == nil && known {
		now.plan = planned
		s.presents.put(state.ID, now)
	}
	return planned, err
}
