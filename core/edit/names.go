package edit

import (
	"fmt"
	"math"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// Names returns count names made from a pattern: each run of # becomes the counter from 1, with as many digits at least; without #
// the counter is put behind when there is more than one.
func Names(pattern string, count int) []string {
	first := strings.IndexByte(pattern, '#')
	if first < 0 && count > 1 {
		first, pattern = len(pattern)+1, pattern+"_##"
	}
	names := make([]string, count)
	for i := range names {
		names[i] = pattern
		if first >= 0 {
			digits := len(pattern[first:]) - len(strings.TrimLeft(pattern[first:], "#"))
			names[i] = pattern[:first] + fmt.Sprintf("%0*d", digits, i+1) + pattern[first+digits:]
		}
	}
	return names
}

func freeNames(d *rig.Document, pattern string, count int) ([]string, error) {
	if pattern == "" {
		pattern = "joint_##"
	}
	names := Names(pattern, count)
	for _, name := range names {
		if d.HasName(name) {
			return nil, fmt.Errorf("the name %s is taken; choose another pattern", name)
		}
	}
	return names, nil
}

// NameJoints names joints by a pattern, in the order given: # is the counter, {side} and {part} are as in RenameMany.
type NameJoints struct {
	Joints  []string `json:"joints"`
	Pattern string   `json:"pattern"`
}

// Title implements Edit.
func (e *NameJoints) Title(*rig.Document) string {
	return fmt.Sprintf("Name %d joints %s", len(e.Joints), e.Pattern)
}

// Touches implements Edit.
func (e *NameJoints) Touches(*rig.Document) []string { return e.Joints }

// Apply implements Edit.
func (e *NameJoints) Apply(c *Context, d *rig.Document) error {
	names := Names(e.Pattern, len(e.Joints))
	for i, id := range e.Joints {
		joint := d.Joint(id)
		if joint == nil {
			return missing("joint", id)
		}
		name, err := fillTokens(c, d, names[i], id)
		if err != nil {
			return err
		}
		joint.Name = name
	}
	return nil
}

// patternOf makes a pattern of a numbered name: its last run of digits becomes the counter.
func patternOf(name string) string {
	end := strings.LastIndexAny(name, "0123456789") + 1
	if end == 0 {
		return name + "_##"
	}
	start := end
	for start > 0 && name[start-1] >= '0' && name[start-1] <= '9' {
		start--
	}
	return name[:start] + strings.Repeat("#", end-start) + name[end:]
}

// RenameMany replaces text in the names of things by other text. In the new text each run of # is a counter over the things in the
// order given, {side} the side on which a joint stands, and {part} the part of the model it stands in.
type RenameMany struct {
	IDs     []string `json:"ids"`
	Search  string   `json:"search"`
	Replace string   `json:"replace"`
}

// Title implements Edit.
func (e *RenameMany) Title(*rig.Document) string {
	return fmt.Sprintf("Rename %d: %s to %s", len(e.IDs), e.Search, e.Replace)
}

// Touches implements Edit.
func (e *RenameMany) Touches(*rig.Document) []string { return e.IDs }

// Apply implements Edit.
func (e *RenameMany) Apply(c *Context, d *rig.Document) error {
	if e.Search == "" {
		return fmt.Errorf("there is no text to search for; write what shall be replaced")
	}
	count := 0
	for _, id := range e.IDs {
		before := d.NameOf(id)
		if !strings.Contains(before, e.Search) {
			continue
		}
		text := e.Replace
		if strings.Contains(text, "#") {
			text = Names(text, count+1)[count]
		}
		text, err := fillTokens(c, d, text, id)
		if err != nil {
			return err
		}
		count++
		if err := rename(d, id, strings.ReplaceAll(before, e.Search, text)); err != nil {
			return err
		}
	}
	if count == 0 {
		return fmt.Errorf("none of the %d names has %q in it; search for another text", len(e.IDs), e.Search)
	}
	return nil
}

// Label gives things the short names that animators read. The pattern is as in NameJoints; empty takes the labels away.
type Label struct {
	IDs     []string `json:"ids"`
	Pattern string   `json:"pattern"`
}

// Title implements Edit.
func (e *Label) Title(*rig.Document) string {
	return fmt.Sprintf("Label %d for animators", len(e.IDs))
}

// Touches implements Edit.
func (e *Label) Touches(*rig.Document) []string { return e.IDs }

// Apply implements Edit.
func (e *Label) Apply(c *Context, d *rig.Document) error {
	labels := make([]string, len(e.IDs))
	if e.Pattern != "" {
		labels = Names(e.Pattern, len(e.IDs))
	}
	for i, id := range e.IDs {
		label, err := fillTokens(c, d, labels[i], id)
		if err != nil {
			return err
		}
		if joint := d.Joint(id); joint != nil {
			joint.Label = label
		} else if control := d.Control(id); control != nil {
			control.Label = label
		} else {
			return missing("joint or control", id)
		}
	}
	return nil
}

// fillTokens puts the side and the part of a thing into a name.
func fillTokens(c *Context, d *rig.Document, name, id string) (string, error) {
	if strings.Contains(name, "{side}") {
		name = strings.ReplaceAll(name, "{side}", string(sideAt(d, id)))
	}
	if strings.Contains(name, "{part}") {
		part, err := partAt(c, d, id)
		if err != nil {
			return "", err
		}
		name = strings.ReplaceAll(name, "{part}", part)
	}
	return name, nil
}

// sideAt is the side on which a joint or control stands: left is +X, and what stands nearer to the middle than a hundredth of the
// skeleton's width is in the centre.
func sideAt(d *rig.Document, id string) rig.Side {
	width := 0.0
	for _, j := range d.Joints {
		width = math.Max(width, math.Abs(j.Position[0]))
	}
	place, ok := placeOf(d, id)
	switch {
	case !ok || math.Abs(place[0]) <= 0.01*width:
		return rig.Centre
	case place[0] > 0:
		return rig.Left
	}
	return rig.Right
}

func placeOf(d *rig.Document, id string) (mgl64.Vec3, bool) {
	if j := d.Joint(id); j != nil {
		return j.Position, true
	}
	if c := d.Control(id); c != nil {
		return c.Position, true
	}
	return mgl64.Vec3{}, false
}

// partAt names the part that a joint or control stands in, the smallest of several; without one, the part whose surface is nearest.
func partAt(c *Context, d *rig.Document, id string) (string, error) {
	place, ok := placeOf(d, id)
	if !ok {
		return "", fmt.Errorf("%s stands nowhere, so {part} has no meaning for it; leave it out", d.NameOf(id))
	}
	inside, smallest := "", math.Inf(1)
	near, nearest := "", math.Inf(1)
	for _, part := range d.Parts {
		surface, err := c.surfaces().Mesh(part.Mesh)
		if err != nil {
			return "", err
		}
		if size := surface.Bounds().Size(); surface.Contains(place) && size < smallest {
			inside, smallest = part.Name, size
		}
		if distance := surface.Distance(place); distance < nearest {
			near, nearest = part.Name, distance
		}
	}
	if inside != "" {
		return inside, nil
	}
	if near == "" {
		return "", fmt.Errorf("there is no model, so {part} has no meaning; leave it out")
	}
	return near, nil
}

func rename(d *rig.Document, id, name string) error {
	if part := d.Part(id); part != nil {
		part.Name = name
	} else if joint := d.Joint(id); joint != nil {
		joint.Name = name
	} else if control := d.Control(id); control != nil {
		control.Name = name
	} else if mechanism := d.Mechanism(id); mechanism != nil {
		mechanism.Name = name
	} else if clip := d.Clip(id); clip != nil {
		clip.Name = name
	} else if repeat := d.Repeat(id); repeat != nil {
		repeat.Name = name
	} else {
		return missing("thing", id)
	}
	return nil
}
