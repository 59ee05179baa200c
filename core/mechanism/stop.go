package mechanism

import "myriapod/core/rig"

// Stop is how far a channel of a control goes to each side before what it moves goes no farther, in metres or radians.
type Stop struct {
	Control string      `json:"control"`
	Channel rig.Channel `json:"channel" tstype:"string"`
	Low     float64     `json:"low"`
	High    float64     `json:"high"`
}

// Stop notes how far a channel goes, to be shown at the control.
func (b *Bench) Stop(stop Stop) { b.Stops = append(b.Stops, stop) }
