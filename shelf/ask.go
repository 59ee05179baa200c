package shelf

import (
	"context"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// newest is a specimen as it is now.
func (s *Shelf) newest(id string) (present, error) {
	_, head, err := s.Store.Head(id)
	if err != nil {
		return present{}, err
	}
	return s.presentOf(id, head)
}

// Foresee tells what an edit would do to the present state, and keeps nothing of it.
func (s *Shelf) Foresee(id string, e edit.Edit) (edit.Preview, error) {
	now, err := s.newest(id)
	if err != nil {
		return edit.Preview{}, err
	}
	preview, err := edit.Foresee(&edit.Context{Kinds: s.Kinds, Surfaces: s.Store, Before: now.plan}, now.expanded, e)
	if err != nil {
		title, _ := edit.Describe(now.expanded, e)
		return preview, &Refusal{Title: title, Reason: err}
	}
	return preview, nil
}

// Course tells how a number goes along a clip, by its ID, or at rest without one; with an edit, as it would go after that. It keeps nothing.
func (s *Shelf) Course(ctx context.Context, id string, e edit.Edit, of rig.Address, clip string) (evaluate.Course, error) {
	now, err := s.newest(id)
	if err != nil {
		return evaluate.Course{}, err
	}
	planned := now.plan
	if e != nil {
		result, err := edit.ApplyTo(&edit.Context{Kinds: s.Kinds, Surfaces: s.Store, Before: now.plan}, now.expanded, e)
		if err != nil {
			title, _ := edit.Describe(now.expanded, e)
			return evaluate.Course{}, &Refusal{Title: title, Reason: err}
		}
		planned = result.Plan
	}
	if planned == nil { // it was opened, and not changed since
		if planned, err = plan.BuildExpanded(now.expanded, s.Kinds, s.Store, nil); err != nil {
			return evaluate.Course{}, &Refusal{Title: "Plot a number", Reason: err}
		}
	}
	course, err := evaluate.CourseOf(ctx, evaluate.New(planned), of, planned.Document.Clip(clip))
	if err != nil && ctx.Err() == nil {
		err = &Refusal{Title: "Plot a number", Reason: err}
	}
	return course, err
}

// Offers lists the kinds of mechanisms for what is chosen in a specimen, the likeliest first.
func (s *Shelf) Offers(id string, chosen []string) ([]edit.Offer, error) {
	now, err := s.newest(id)
	if err != nil {
		return nil, err
	}
	return edit.Offers(&edit.Context{Kinds: s.Kinds, Surfaces: s.Store}, now.expanded.Document, chosen), nil
}
