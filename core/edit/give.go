package edit

import (
	"fmt"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Give gives what a mechanism holds to another holder, or sets it down in the world, at a frame of a clip: from there on, in one step. Where nothing was keyed, it is held from the beginning of the clip as
// it is at rest.
type Give struct {
	Mechanism string  `json:"mechanism"`
	To        string  `json:"to,omitempty"` // a holder; empty for the world
	Clip      string  `json:"clip"`
	Frame     float64 `json:"frame"`
}

// Title implements Edit.
func (e *Give) Title(d *rig.Document) string {
	to := "the world"
	if e.To != "" {
		to = d.NameOf(e.To)
	}
	return fmt.Sprintf("Give %s to %s at frame %g", d.NameOf(e.Mechanism), to, e.Frame)
}

// Touches implements Edit.
func (e *Give) Touches(*rig.Document) []string { return []string{e.Mechanism, e.Clip} }

// Apply implements Edit.
func (e *Give) Apply(c *Context, d *rig.Document) error {
	m, kind, err := mechanismOf(c, d, e.Mechanism)
	if err != nil {
		return err
	}
	giver, ok := kind.(mechanism.Giver)
	if !ok {
		return fmt.Errorf("%s holds nothing that could be given; choose a prop", m.Name)
	}
	control, channel, value, err := giver.Give(*m, e.To)
	if err != nil {
		return err
	}
	clip := d.Clip(e.Clip)
	if clip == nil {
		return missing("clip", e.Clip)
	}
	keys := []KeyValue{{KeyPlace: KeyPlace{Control: control, Channel: channel, Frame: e.Frame}, Value: value, Ease: rig.Stepped}}
	keyed := false
	for _, track := range clip.Tracks {
		keyed = keyed || track.Control == control && track.Channel == channel && len(track.Keys) > 0
	}
	if start := float64(clip.Start); !keyed && e.Frame > start {
		first := 0.0
		if dial := d.Control(control).Dial(channel); dial != nil {
			first = dial.Default
		}
		keys = append(keys, KeyValue{KeyPlace: KeyPlace{Control: control, Channel: channel, Frame: start}, Value: first, Ease: rig.Stepped})
	}
	return (&SetKeys{Clip: e.Clip, Keys: keys}).Apply(c, d)
}
