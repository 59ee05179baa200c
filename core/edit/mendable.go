package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// MendableError is a refusal with an edit that would be taken in its place.
type MendableError struct {
	Err   error
	Title string
	Edit  Edit
	Sways []mechanism.Sway // how what is loose can move
}

func (e *MendableError) Error() string { return e.Err.Error() }

// Unwrap gives the error.
func (e *MendableError) Unwrap() error { return e.Err }

// mended adds to an error that tells of loose joints the same build with these in the role where they would not be.
func (e *AddMechanism) mended(d *rig.Document, err error) error {
	var loose mechanism.Looseness
	if !errors.As(err, &loose) {
		return err
	}
	joints, role := loose.Loose()
	if len(joints) == 0 {
		return err
	}
	again := *e
	again.Roles = map[string][]string{}
	for name, ids := range e.Roles {
		again.Roles[name] = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return slices.Contains(joints, id) })
	}
	again.Roles[role] = append(again.Roles[role], joints...)
	return &MendableError{Err: err, Title: fmt.Sprintf("Drive %s as well", d.NameOf(joints[0])), Edit: &again, Sways: loose.Sways()}
}
