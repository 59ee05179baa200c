package edit

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// HomeAt is a control with the channels that it stands with, in metres and radians.
type HomeAt struct {
	Control string                    `json:"control"`
	Values  [rig.ChannelCount]float64 `json:"values"`
}

// MakeHome makes the place where controls stand their zero: their channels read zero there, and nothing moves. Keys are rewritten so that
// they pose as before. With Built the controls start from the home they were built with again.
type MakeHome struct {
	Homes []HomeAt `json:"homes"`
	Built bool     `json:"built,omitempty"`
}

// Title implements Edit.
func (e *MakeHome) Title(d *rig.Document) string {
	if e.Built {
		return fmt.Sprintf("Give %s the home it was built with", controlsNamed(d, e.controls()))
	}
	return fmt.Sprintf("Make this the home of %s", controlsNamed(d, e.controls()))
}

func (e *MakeHome) controls() []string {
	ids := make([]string, len(e.Homes))
	for i, home := range e.Homes {
		ids[i] = home.Control
	}
	return ids
}

// Touches implements Edit.
func (e *MakeHome) Touches(*rig.Document) []string { return e.controls() }

// Apply implements Edit.
func (e *MakeHome) Apply(c *Context, d *rig.Document) error {
	at := 0
	return eachControl(d, e.controls(), func(control *rig.Control) error {
		values := e.Homes[at].Values
		at++
		if !geometry.Finite(values[:]...) {
			return fmt.Errorf("%s cannot be at home at a place that is not finite", control.Name)
		}
		next := *control
		if next.Start = nil; !e.Built {
			start := control.Offset(values[:])
			if control.Mirrored { // Start is as in the source; the control makes the mirror image of it
				start = mirrorImage(start)
			}
			next.Start = &rig.Placement{
				Position: start.Position, Rotation: rig.QuaternionOf(start.Rotation), Turn: control.Hand() * control.Turned(values[:]),
			}
		}
		rekey(c, d, *control, next)
		*control = next
		return nil
	})
}

func mirrorImage(t geometry.Transform) geometry.Transform {
	t.Position[0] = -t.Position[0]
	t.Rotation.V[1], t.Rotation.V[2] = -t.Rotation.V[1], -t.Rotation.V[2]
	return t
}

// SetPivot sets what controls turn about: a place in the world at rest, or their own place again when it is left out. Keys are rewritten so
// that they pose as before.
type SetPivot struct {
	Controls []string    `json:"controls"`
	Place    *mgl64.Vec3 `json:"place,omitempty"`
}

// Title implements Edit.
func (e *SetPivot) Title(d *rig.Document) string {
	if e.Place == nil {
		return fmt.Sprintf("Let %s turn about its own place", controlsNamed(d, e.Controls))
	}
	return fmt.Sprintf("Set the pivot of %s", controlsNamed(d, e.Controls))
}

// Touches implements Edit.
func (e *SetPivot) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit.
func (e *SetPivot) Apply(c *Context, d *rig.Document) error {
	if e.Place != nil && !geometry.FiniteVector(*e.Place) {
		return fmt.Errorf("a pivot stands at a finite place, not at %v", *e.Place)
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		next := *control
		if next.Pivot = nil; e.Place != nil {
			at := control.Home().Inverse().Apply(*e.Place)
			if control.Mirrored {
				at[0] = -at[0]
			}
			next.Pivot = &at
		}
		rekey(c, d, *control, next)
		*control = next
		return nil
	})
}

// rekey rewrites the keys of a control that is about to change, so that at every frame where one of its channels has a key it stands as
// before. Between keys it may go another way, which is told of when it turns.
func rekey(c *Context, d *rig.Document, was, now rig.Control) {
	for i := range d.Clips {
		clip := &d.Clips[i]
		own := func(t rig.Track) bool { return t.Control == was.ID && t.Channel.Index() >= 0 }
		frames, eases, turns := keyFrames(*clip, own)
		if len(frames) == 0 {
			continue
		}
		tracks := motion.Prepare(rig.Clip{Tracks: slices.Collect(eachTrack(clip.Tracks, own))}).Tracks
		rewritten := make([]rig.Track, rig.ChannelCount)
		// Whole turns go along: each frame is sought where the one before it was found, as far on as its keys went on from there.
		var near, before [rig.ChannelCount]float64
		near[rig.RotateY.Index()] = startTurn(was) - startTurn(now)
		for _, frame := range frames {
			var values [rig.ChannelCount]float64
			for k := range tracks {
				values[tracks[k].Channel.Index()] = tracks[k].Value(frame)
			}
			for k := range near {
				near[k] += values[k] - before[k]
			}
			before = values
			near = now.ChannelsFor(was.Offset(values[:]), near)
			for k, channel := range rig.Channels {
				rewritten[k].Control, rewritten[k].Channel = was.ID, channel
				rewritten[k].Keys = append(rewritten[k].Keys, rig.Key{Frame: frame, Value: near[k], Ease: eases[frame]})
			}
		}
		clip.Tracks = append(slices.DeleteFunc(clip.Tracks, own), slices.DeleteFunc(rewritten, still)...)
		if turns {
			c.tell("The keys of %s in %s were rewritten: they pose as before at every key.", was.Name, clip.Name)
		}
	}
}

// startTurn is how far a control is turned about its main axis where its channels are zero.
func startTurn(c rig.Control) float64 {
	if c.Start == nil {
		return 0
	}
	return c.Start.Turn
}

// still tells whether a track holds zero all along, and so need not be there.
func still(t rig.Track) bool {
	return !slices.ContainsFunc(t.Keys, func(k rig.Key) bool { return k.Value > 1e-12 || k.Value < -1e-12 })
}

// keyFrames lists the frames at which the tracks chosen have keys, in rising order, how each goes on, and whether some turn.
func keyFrames(clip rig.Clip, chosen func(rig.Track) bool) (frames []float64, eases map[float64]rig.Ease, turns bool) {
	eases = map[float64]rig.Ease{}
	for track := range eachTrack(clip.Tracks, chosen) {
		for _, key := range track.Keys {
			if _, known := eases[key.Frame]; !known {
				frames = append(frames, key.Frame)
				eases[key.Frame] = key.Ease
			}
			turns = turns || track.Channel.Turns() && key.Value != 0
		}
	}
	slices.Sort(frames)
	return frames, eases, turns
}

func eachTrack(tracks []rig.Track, chosen func(rig.Track) bool) func(func(rig.Track) bool) {
	return func(yield func(rig.Track) bool) {
		for _, track := range tracks {
			if chosen(track) && !yield(track) {
				return
			}
		}
	}
}
