package edit

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/match"
	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// ArrangeControls adds controls to a chain along a curve, takes some away, or moves them along it. The rest pose stays. Keyed poses are
// fitted anew at every key; how far they miss is told.
type ArrangeControls struct {
	Mechanism string    `json:"mechanism"`
	Controls  []string  `json:"controls"` // in order along the chain; empty for a new one
	Places    []float64 `json:"places"`   // of each, 0 at the first joint to 1 at the last
}

func (*ArrangeControls) builds() {}

// Title implements Edit.
func (e *ArrangeControls) Title(d *rig.Document) string {
	name, had := d.NameOf(e.Mechanism), 0
	if m := d.Mechanism(e.Mechanism); m != nil {
		had = len(m.Controls)
	}
	switch {
	case len(e.Controls) > had:
		return fmt.Sprintf("Add %d to the controls of %s", len(e.Controls)-had, name)
	case len(e.Controls) < had:
		return fmt.Sprintf("Thin the controls of %s out to %d", name, len(e.Controls))
	}
	return "Move controls along " + name
}

// Touches implements Edit.
func (e *ArrangeControls) Touches(d *rig.Document) []string {
	touched := []string{e.Mechanism}
	if m := d.Mechanism(e.Mechanism); m != nil {
		touched = append(touched, m.Controls...)
	}
	return touched
}

// Apply implements Edit.
func (e *ArrangeControls) Apply(c *Context, d *rig.Document) error {
	m, kind, err := mechanismOf(c, d, e.Mechanism)
	if err != nil {
		return err
	}
	arranger, ok := kind.(mechanism.Arranger)
	if !ok {
		return fmt.Errorf("the controls of %s, a %s, stand where they are", m.Name, kind.Declare().Title)
	}
	if len(e.Controls) != len(e.Places) {
		return fmt.Errorf("%d controls have %d places; give one for each", len(e.Controls), len(e.Places))
	}
	for i, at := range e.Places {
		if !(at >= 0 && at <= 1) || i > 0 && !(at > e.Places[i-1]) {
			return fmt.Errorf("places rise from 0 to 1, and %g does not", at)
		}
	}
	before := d.Clone()
	had := slices.Clone(m.Controls)
	arranged := *m
	site, err := newSite(c, d, &arranged, nil)
	if err != nil {
		return err
	}
	if err := arranger.Arrange(site, slices.Clone(e.Controls), slices.Clone(e.Places)); err != nil {
		return err
	}
	*d.Mechanism(e.Mechanism) = arranged
	gone := slices.DeleteFunc(had, func(id string) bool { return slices.Contains(arranged.Controls, id) })
	if err := dropControls(d, gone); err != nil {
		return err
	}
	return refit(c, before, d, e.Mechanism)
}

// dropControls takes controls away, with their keys. One that something else uses is refused.
func dropControls(d *rig.Document, gone []string) error {
	for _, id := range gone {
		for _, c := range d.Controls {
			if (c.Space == id || slices.Contains(c.Spaces, id)) && !slices.Contains(gone, c.ID) {
				return fmt.Errorf("the control %s hangs on %s; hang it elsewhere first", c.Name, d.NameOf(id))
			}
		}
		for _, m := range d.Mechanisms {
			if slices.Contains(m.Takes, id) || slices.Contains(m.Homes, id) {
				return fmt.Errorf("%s takes hold of %s; remove that mechanism first", m.Name, d.NameOf(id))
			}
			if slices.Contains(m.Controls, id) {
				return fmt.Errorf("%s belongs to %s; take it out there, or remove that first", d.NameOf(id), m.Name)
			}
		}
	}
	d.Controls = slices.DeleteFunc(d.Controls, func(c rig.Control) bool { return slices.Contains(gone, c.ID) })
	for i := range d.Clips {
		d.Clips[i].Tracks = slices.DeleteFunc(d.Clips[i].Tracks, func(t rig.Track) bool { return slices.Contains(gone, t.Control) })
	}
	return nil
}

// refit rewrites the keys of a mechanism's controls so that at each of them its joints stand as they did before the change.
func refit(c *Context, before, after *rig.Document, id string) error {
	old, m := before.Mechanism(id), *after.Mechanism(id)
	var was, now *evaluate.Evaluator
	worst, worstAt, frames, name := match.Left{}, 0.0, 0, ""
	for i := range before.Clips {
		clip := before.Clips[i]
		mine := func(t rig.Track) bool { return slices.Contains(old.Controls, t.Control) && t.Channel.Index() >= 0 }
		at, eases, _ := keyFrames(clip, mine)
		if len(at) == 0 {
			continue
		}
		if was == nil {
			var err error
			if was, now, err = bothEvaluators(c, before, after); err != nil {
				return err
			}
		}
		was.SetClip(motion.Prepare(clip))
		now.SetClip(motion.Prepare(after.Clips[i]))
		keys := map[KeyPlace]rig.Key{}
		for k, frame := range at {
			if !c.progress(float64(k) / float64(len(at))) {
				return skin.ErrStopped
			}
			left, values, err := fitFrame(was, now, *old, m, frame)
			if err != nil {
				return err
			}
			for _, v := range values {
				if v.Channel.Index() >= 0 {
					keys[KeyPlace{v.Control, v.Channel, frame}] = rig.Key{Frame: frame, Value: v.Value, Ease: eases[frame]}
				}
			}
			if frames++; left.Moves >= worst.Moves {
				worst, worstAt, name = left, frame, clip.Name
			}
		}
		rewriteTracks(&after.Clips[i], m, at, keys)
	}
	if frames > 0 {
		c.tell("%d keyed poses were fitted: no joint of %s misses by more than %.3g mm and %.2g° (frame %g of %s).",
			frames, m.Name, 1000*worst.Moves, worst.Turns*180/math.Pi, worstAt, name)
	}
	return nil
}

func bothEvaluators(c *Context, before, after *rig.Document) (was, now *evaluate.Evaluator, err error) {
	first, err := plan.BuildExpanded(repeat.Plain(before), c.Kinds, c.surfaces(), nil)
	if err != nil {
		return nil, nil, err
	}
	second, err := plan.BuildExpanded(repeat.Plain(after), c.Kinds, c.surfaces(), nil)
	if err != nil {
		return nil, nil, err
	}
	was, now = evaluate.New(first), evaluate.New(second)
	was.SetStill(true)
	now.SetStill(true)
	return was, now, nil
}

// fitFrame finds the channels of the mechanism's controls with which its joints stand at a frame as they did.
func fitFrame(was, now *evaluate.Evaluator, old, m rig.Mechanism, frame float64) (match.Left, []match.Value, error) {
	was.SetFrame(frame)
	now.SetFrame(frame)
	left, err := match.Solve(now, m, match.Seen(was, old))
	return left, match.Values(now, m.Controls), err
}

// rewriteTracks replaces the keys of a mechanism's controls.
func rewriteTracks(clip *rig.Clip, m rig.Mechanism, frames []float64, keys map[KeyPlace]rig.Key) {
	clip.Tracks = slices.DeleteFunc(slices.Clone(clip.Tracks), func(t rig.Track) bool {
		return slices.Contains(m.Controls, t.Control) && t.Channel.Index() >= 0
	})
	for _, id := range m.Controls {
		for _, channel := range rig.Channels {
			track := rig.Track{Control: id, Channel: channel}
			for _, frame := range frames {
				if key, ok := keys[KeyPlace{id, channel, frame}]; ok && geometry.Finite(key.Value) {
					track.Keys = append(track.Keys, key)
				}
			}
			if !still(track) {
				clip.Tracks = append(clip.Tracks, track)
			}
		}
	}
}

// End is one of the ends of a chain.
type End string

// The ends of chains.
const (
	First End = "first"
	Last  End = "last"
)

// PinEnd pins an end of a chain to a joint or control: the end control hangs on it and no longer moves by itself, only turns, so that the
// two never part. With nothing to pin it to the end is free again. At rest nothing moves by it.
type PinEnd struct {
	Mechanism string `json:"mechanism"`
	End       End    `json:"end"`
	To        string `json:"to,omitempty"`
}

func (*PinEnd) builds() {}

// Title implements Edit.
func (e *PinEnd) Title(d *rig.Document) string {
	if e.To == "" {
		return fmt.Sprintf("Free the %s end of %s", e.End, d.NameOf(e.Mechanism))
	}
	return fmt.Sprintf("Pin the %s end of %s to %s", e.End, d.NameOf(e.Mechanism), d.NameOf(e.To))
}

// Touches implements Edit.
func (e *PinEnd) Touches(*rig.Document) []string {
	if e.To == "" {
		return []string{e.Mechanism}
	}
	return []string{e.Mechanism, e.To}
}

// Apply implements Edit.
func (e *PinEnd) Apply(c *Context, d *rig.Document) error {
	m, kind, err := mechanismOf(c, d, e.Mechanism)
	if err != nil {
		return err
	}
	pinner, ok := kind.(mechanism.Pinner)
	if !ok || e.End != First && e.End != Last {
		return errors.New("only the first and the last end of a chain along a curve can be pinned")
	}
	at := 0
	if e.End == Last {
		at = len(m.Controls) - 1
	}
	control := d.Control(m.Controls[at])
	space := e.To
	if space == "" {
		if space = d.Joint(m.Joints[0]).Parent; space == "" {
			if root := d.ControlNamed(rig.RootName); root != nil {
				space = root.ID
			}
		}
	}
	if err := (&HangControls{Controls: []string{control.ID}, Space: space}).Apply(c, d); err != nil {
		return err
	}
	locked := e.To != ""
	changes := make([]ChannelChange, 3)
	for k, channel := range rig.Channels[:3] {
		changes[k] = ChannelChange{Channel: channel, Locked: &locked, Hidden: &locked}
	}
	if err := (&ChangeChannels{Controls: []string{control.ID}, Changes: changes}).Apply(c, d); err != nil {
		return err
	}
	for key, value := range pinner.Pin(e.End == Last, locked) {
		m.Parameters[key] = value
	}
	return nil
}
