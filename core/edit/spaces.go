package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// HangControls hangs controls on another control, a joint, or the world. At rest nothing moves by it.
type HangControls struct {
	Controls []string `json:"controls"`
	Space    string   `json:"space"` // ID of a control or joint; empty for the world
}

func (*HangControls) builds() {}

// Title implements Edit.
func (e *HangControls) Title(d *rig.Document) string {
	on := "the world"
	if e.Space != "" {
		on = d.NameOf(e.Space)
	}
	return fmt.Sprintf("Hang %s on %s", controlsNamed(d, e.Controls), on)
}

// Touches implements Edit.
func (e *HangControls) Touches(*rig.Document) []string {
	if e.Space == "" {
		return e.Controls
	}
	return append(slices.Clone(e.Controls), e.Space)
}

// Apply implements Edit. Loops are left to planning, which names them.
func (e *HangControls) Apply(c *Context, d *rig.Document) error {
	if e.Space != "" && d.Control(e.Space) == nil && d.Joint(e.Space) == nil {
		return missing("control or joint", e.Space)
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		if control.ID == e.Space {
			return fmt.Errorf("%s cannot hang on itself", control.Name)
		}
		if control.Space == e.Space {
			return nil
		}
		control.Space = e.Space
		for _, clip := range d.Clips {
			if slices.ContainsFunc(clip.Tracks, func(t rig.Track) bool { return t.Control == control.ID }) {
				c.tell("The keys of %s in %s keep their numbers; they now count from %s.", control.Name, clip.Name, carrierName(d, e.Space))
			}
		}
		return nil
	})
}

func carrierName(d *rig.Document, space string) string {
	if space == "" {
		return "the world"
	}
	return d.NameOf(space)
}

// OrderControls changes the order in which the rotations of controls are applied. At rest nothing moves by it.
type OrderControls struct {
	Controls []string       `json:"controls"`
	Order    geometry.Order `json:"order"`
}

func (*OrderControls) builds() {}

// Title implements Edit.
func (e *OrderControls) Title(d *rig.Document) string {
	return fmt.Sprintf("Rotate %s in the order %s", controlsNamed(d, e.Controls), e.Order)
}

// Touches implements Edit.
func (e *OrderControls) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit. Keys that turn a control about several axes would mean another pose in another order; they are not lost unseen.
func (e *OrderControls) Apply(_ *Context, d *rig.Document) error {
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		if control.Order == e.Order {
			return nil
		}
		for _, clip := range d.Clips {
			if turning(clip, control.ID) > 1 {
				return fmt.Errorf("the keys of %s in %s turn it about several axes and would pose it differently in the order %s; delete those keys first", control.Name, clip.Name, e.Order)
			}
		}
		control.Order = e.Order
		return nil
	})
}

// turning counts the rotation channels of a control that a clip moves.
func turning(clip rig.Clip, control string) int {
	count := 0
	for _, track := range clip.Tracks {
		if track.Control == control && track.Channel.Turns() && slices.ContainsFunc(track.Keys, func(k rig.Key) bool { return k.Value != 0 }) {
			count++
		}
	}
	return count
}

// eachControl does something to each of the controls, which are there and are at least one.
func eachControl(d *rig.Document, ids []string, do func(*rig.Control) error) error {
	if len(ids) == 0 {
		return errors.New("no control is chosen; choose one or more")
	}
	for _, id := range ids {
		control := d.Control(id)
		if control == nil {
			return missing("control", id)
		}
		if err := do(control); err != nil {
			return err
		}
	}
	return nil
}

func controlsNamed(d *rig.Document, ids []string) string {
	if len(ids) == 1 {
		return d.NameOf(ids[0])
	}
	return fmt.Sprintf("%d controls", len(ids))
}
