package server

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/match"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/server/wire"
	"myriapod/shelf"
)

// stage is what one page sees: the document as it is kept, with the parameters that the page is trying out.
type stage struct {
	kinds      mechanism.Registry
	kept       *repeat.Expansion
	sequence   int
	evaluator  *evaluate.Evaluator
	body       *evaluate.Body // where some part is more than a skin can say
	store      evaluate.Surfaces
	tried      map[string]parameter.Set // parameters of the last pose, by mechanism
	clips      map[string]*motion.Clip
	clip       string
	now        float64 // the page's clock at the last pose, seconds
	told       []mechanism.Finding
	weighed    *evaluate.Body // the whole body, where weights are looked at
	painting   *painting      // nil where no brush is down
	comparison *comparison    // nil where no bindings are compared
	sculpting  *sculpting     // nil where no hand is on a morph target
	surfaces   []*mesh.Mesh   // pickable ones, read when first asked for
	buffer     []byte
	locked     map[string]string // by ID of what a group locks: the group's name
}

func (s *stage) load(server *Server, state shelf.State) error {
	planned, err := server.shelf.Plan(state)
	if err != nil {
		return err
	}
	before, clip := s.evaluator, s.clip
	s.store = server.shelf.Store
	s.kinds, s.kept, s.sequence, s.evaluator = server.kinds, state.Expanded, state.Sequence, evaluate.New(planned)
	s.tried, s.surfaces, s.clip, s.painting, s.weighed, s.sculpting, s.comparison = nil, nil, "", nil, nil, nil, nil
	s.locked = map[string]string{}
	for _, group := range state.Expanded.Document.Groups {
		for _, id := range group.Members {
			if group.Locked && s.locked[id] == "" {
				s.locked[id] = group.Name
			}
		}
	}
	if err := s.findBody(); err != nil {
		return err
	}
	s.clips = map[string]*motion.Clip{}
	for _, clip := range state.Document.Clips {
		s.clips[clip.ID] = motion.Prepare(clip)
	}
	if now := s.clips[clip]; now != nil && before != nil { // what steppers remember from before the edit's effect stays
		s.clip = clip
		s.evaluator.SetClip(now)
		s.evaluator.Inherit(before)
	}
	return nil
}

func (s *stage) pickable(server *Server) ([]*mesh.Mesh, error) {
	if s.surfaces == nil {
		states := s.kept.Document.States()
		for _, part := range s.kept.Document.Parts {
			if state := states[part.ID]; part.Locked || state.Locked || part.Sight == rig.Hidden || state.Sight == rig.Hidden {
				continue
			}
			surface, err := server.surfaces.get(server.shelf.Store, part.Mesh)
			if err != nil {
				return nil, err
			}
			s.surfaces = append(s.surfaces, surface.mesh)
		}
	}
	return s.surfaces, nil
}

func finite(numbers []float64) bool { return geometry.Finite(numbers...) }

// pose brings the evaluator to what the page asks for. It returns what the kinds adjusted in the parameters being tried. On an error
// the rest of the pose is still taken.
func (s *stage) pose(ask wire.Ask) (adjusted []wire.Tell, err error) {
	adjusted, err = s.try(ask.Parameters, ask.Time)
	e := s.evaluator
	if ask.Clip != s.clip {
		s.clip = ask.Clip
		e.SetClip(s.clips[ask.Clip])
	}
	e.SetStill(ask.Rest)
	e.SetAtHome(ask.Rest)
	if ask.Rest {
		e.SetTime(ask.Time)
		e.Zero()
	} else {
		held, heldErr := s.held(ask)
		e.TurnBy(held)
		if e.PoseAt(ask.Time, held); heldErr != nil {
			err = heldErr
		}
	}
	if ask.Pull != nil && !ask.Rest {
		if pullErr := s.pull(*ask.Pull); pullErr != nil {
			err = pullErr
		}
	}
	s.goOn(ask)
	if compareErr := s.compare(ask.Compare); compareErr != nil {
		err = compareErr
	}
	e.Evaluate()
	return adjusted, err
}

// goOn has what has memory go on in the hand's own time: while a hand holds something, or no clip plays.
func (s *stage) goOn(ask wire.Ask) {
	passed := ask.Now - s.now
	s.now = ask.Now
	e := s.evaluator
	if ask.Rest || s.clips[ask.Clip] != nil && ask.Pull == nil && len(ask.Channels)+len(ask.Morphs) == 0 {
		e.Release()
		return
	}
	held, _ := s.held(ask)
	if ask.Pull != nil {
		held = append(held, e.Holding(e.Plan.ControlIndex[ask.Pull.Control])...)
	}
	e.Hand(held, passed)
}

// held is what the page holds, of what is there. What was removed while the page held it is passed over.
func (s *stage) held(ask wire.Ask) (held []evaluate.Held, err error) {
	e := s.evaluator
	add := func(a rig.Address, value float64) {
		slot, ok := e.Plan.Layout.Find(a)
		if wrong := s.free(a.Of); wrong != nil {
			err = errors.Join(err, wrong)
			return
		}
		switch {
		case !ok && e.Plan.Document.Control(a.Of) != nil:
			err = errors.Join(err, fmt.Errorf("%s has no channel %q", e.Plan.Document.NameOf(a.Of), a.Key))
		case !ok:
		default:
			if wrong := e.Check(slot, value); wrong != nil {
				err = errors.Join(err, wrong)
				return
			}
			held = append(held, evaluate.Held{Slot: slot, Value: value})
		}
	}
	for id, channels := range ask.Channels {
		for _, h := range channels {
			add(rig.Address{Of: id, Key: string(h.Channel)}, h.Value)
		}
	}
	for part, morphs := range ask.Morphs {
		for _, h := range morphs {
			add(rig.Address{Of: part, Key: h.Morph}, h.Value)
		}
	}
	return held, err
}

// pull moves a control's channels so that it stands at a place in the world.
func (s *stage) pull(p wire.Pull) error {
	control, ok := s.evaluator.Plan.ControlIndex[p.Control]
	if !ok || !finite(p.To[:]) {
		return fmt.Errorf("there is no control %q to move there", p.Control)
	}
	if err := s.free(p.Control); err != nil {
		return err
	}
	return s.evaluator.PullTo(control, p.To)
}

// free refuses to pose what a group locks.
func (s *stage) free(id string) error {
	if group, locked := s.locked[id]; locked {
		return &edit.Locked{Name: s.evaluator.Plan.Document.NameOf(id), Group: group}
	}
	return nil
}

// match has a mechanism take charge where its joints stand, and tells what is left, the skin's vertices included.
func (s *stage) match(mechanism string) ([]match.Value, *match.Left, error) {
	body, err := evaluate.NewBody(s.evaluator, s.store)
	if err != nil {
		return nil, nil, err
	}
	values, left, err := match.Take(s.evaluator, body, mechanism)
	return values, &left, err
}

// switchSpace turns the dial that chooses what a control hangs on, or follows, and returns the channels with which it stays where it stands.
func (s *stage) switchSpace(id string, dial rig.Channel, value float64) ([]match.Value, error) {
	if dial == "" {
		dial = rig.SpaceDial
	}
	control, ok := s.evaluator.Plan.ControlIndex[id]
	if !ok {
		return nil, fmt.Errorf("there is no control %q to hang elsewhere", id)
	}
	if err := s.free(id); err != nil {
		return nil, err
	}
	err := s.evaluator.Keep(control, func() error { return s.evaluator.SetChannel(control, dial, value) })
	if err != nil {
		return nil, err
	}
	return match.Values(s.evaluator, []string{id}), nil
}

// try takes parameters that the page is trying out. Each kind may adjust others along with them, from where the last try stood.
func (s *stage) try(tried map[string]parameter.Set, time float64) (adjusted []wire.Tell, err error) {
	if sameParameters(tried, s.tried) {
		return nil, nil
	}
	document := s.kept.Document.Clone()
	for id, changes := range tried {
		m := document.Mechanism(id)
		if m == nil {
			continue
		}
		values, tryErr := s.adjust(*m, s.tried[id], changes, time)
		if tryErr != nil {
			return nil, tryErr
		}
		for key, value := range values {
			m.Parameters[key] = value
		}
		if len(values) > len(changes) {
			adjusted = append(adjusted, wire.Tell{Type: "parameters", Mechanism: id, Parameters: values})
		}
		tried[id] = values
	}
	planned, err := plan.BuildExpanded(&repeat.Expansion{Source: s.kept.Source, Document: document, Origins: s.kept.Origins}, s.kinds, s.store, s.evaluator.Plan)
	if err != nil {
		return nil, err
	}
	s.tried, s.evaluator, s.clip = tried, evaluate.New(planned), ""
	return adjusted, s.findBody()
}

// findBody reads the surfaces of the specimen where some of it is deformed by more than joints and morph targets.
func (s *stage) findBody() (err error) {
	more := slices.ContainsFunc(s.evaluator.Plan.Document.Bindings, func(b rig.Binding) bool { return b.Dual > 0 })
	if s.body = nil; more || len(s.evaluator.Plan.Stages) > 0 {
		s.body, err = evaluate.NewBody(s.evaluator, s.store)
	}
	return err
}

func (s *stage) adjust(m rig.Mechanism, before, changes parameter.Set, time float64) (parameter.Set, error) {
	kind, declaration, err := s.kinds.Find(m.Kind)
	if err != nil {
		return nil, err
	}
	declared := declaration.Parameters
	if err := declared.Check(changes); err != nil {
		return nil, err
	}
	adjuster, ok := kind.(mechanism.Adjuster)
	if !ok {
		return changes, nil
	}
	present := declared.Complete(m.Parameters)
	for key, value := range before {
		present[key] = value
	}
	return adjuster.Adjust(present, changes, time), nil
}

func sameParameters(a, b map[string]parameter.Set) bool {
	if len(a) != len(b) {
		return false
	}
	for id, set := range a {
		other, ok := b[id]
		if !ok {
			return false
		}
		for key, value := range set {
			o := other[key]
			if value.Type != o.Type || value.Number != o.Number || value.On != o.On || value.Choice != o.Choice || !slices.Equal(value.Profile, o.Profile) {
				return false
			}
		}
	}
	return true
}

// findings returns what the present frame raises, and whether that differs from what was told last.
func (s *stage) findings() ([]mechanism.Finding, bool) {
	found := s.evaluator.Findings()
	if sameFindings(found, s.told) {
		return nil, false
	}
	s.told = found
	return found, true
}

// answers returns the curves by which the drivers of a number answer, by ID, those that are off as well.
func (s *stage) answers(of rig.Address) map[string]mechanism.Answering {
	curves := map[string]mechanism.Answering{}
	for _, driver := range s.evaluator.Plan.Document.DriversOf(of) {
		kind, declared, err := s.kinds.FindDriver(driver.Kind)
		if curved, ok := kind.(mechanism.Curved); ok && err == nil {
			curves[driver.ID] = curved.Curve(declared.Parameters.Complete(driver.Parameters))
		}
	}
	return curves
}

// texts returns what the drivers of a number are written as, by ID, those that are off as well.
func (s *stage) texts(of rig.Address) map[string]string {
	texts := map[string]string{}
	d := s.evaluator.Plan.Document
	for _, driver := range d.DriversOf(of) {
		kind, _, err := s.kinds.FindDriver(driver.Kind)
		if written, ok := kind.(mechanism.Written); ok && err == nil {
			texts[driver.ID] = written.Text(driver, d.NamesOfValue)
		}
	}
	return texts
}
