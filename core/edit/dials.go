package edit

import (
	"fmt"
	"math"
	"slices"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// AddDial gives controls an extra slider: a switch, a strength, a rate.
type AddDial struct {
	Controls []string `json:"controls"`
	Dial     rig.Dial `json:"dial"`
}

// Title implements Edit.
func (e *AddDial) Title(d *rig.Document) string {
	return fmt.Sprintf("Give %s the dial %s", controlsNamed(d, e.Controls), e.Dial.Name)
}

// Touches implements Edit.
func (e *AddDial) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit.
func (e *AddDial) Apply(_ *Context, d *rig.Document) error {
	if e.Dial.Name == rig.SpaceDial {
		return fmt.Errorf("the dial %q comes with the spaces that a control can hang on; offer it some", rig.SpaceDial)
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		if control.ChannelIndex(e.Dial.Name) >= 0 {
			return fmt.Errorf("%s has a channel %q already; give the dial another name", control.Name, e.Dial.Name)
		}
		control.Dials = append(slices.Clone(control.Dials), e.Dial)
		return nil
	})
}

// ChangeDial changes the name, range, default and unit of a dial. What it drives, and its keys, stay; keys out of the new range are held
// at its ends. Time is the moment of the clip, in seconds, at which the change was made: what turns by the dial as a rate goes on from where it is then.
type ChangeDial struct {
	Control string      `json:"control"`
	Name    rig.Channel `json:"name"` // of the dial that is changed
	Dial    rig.Dial    `json:"dial"`
	Time    float64     `json:"time,omitempty"`
	Clip    string      `json:"clip,omitempty"`
}

// Title implements Edit.
func (e *ChangeDial) Title(d *rig.Document) string {
	return fmt.Sprintf("Change the dial %s of %s", e.Name, d.NameOf(e.Control))
}

// Touches implements Edit.
func (e *ChangeDial) Touches(*rig.Document) []string { return []string{e.Control} }

// Apply implements Edit.
func (e *ChangeDial) Apply(c *Context, d *rig.Document) error {
	control, at, err := dialOf(d, e.Control, e.Name)
	if err != nil {
		return err
	}
	if e.Name == rig.SpaceDial && len(control.Spaces) > 0 {
		return fmt.Errorf("the dial %q follows the spaces that %s is offered; change those", e.Name, control.Name)
	}
	if e.Dial.Name != e.Name && control.ChannelIndex(e.Dial.Name) >= 0 {
		return fmt.Errorf("%s has a channel %q already; give the dial another name", control.Name, e.Dial.Name)
	}
	err = steadily(c, d, e.Clip, e.Time, func() error {
		control.Dials = slices.Clone(control.Dials)
		control.Dials[at].Default, control.Dials[at].Min, control.Dials[at].Max = e.Dial.Default, e.Dial.Min, e.Dial.Max
		return nil
	})
	if err != nil {
		return err
	}
	control.Dials[at] = e.Dial
	if state, ok := control.Channels[e.Name]; ok {
		delete(control.Channels, e.Name)
		control.Channels[e.Dial.Name] = state
	}
	readdress(d, control.Of(e.Name), control.Of(e.Dial.Name))
	for i := range d.Clips {
		for k := range d.Clips[i].Tracks {
			if track := &d.Clips[i].Tracks[k]; track.Control == e.Control && track.Channel == e.Name {
				track.Channel = e.Dial.Name
			}
		}
	}
	if clip := clipBeyond(d, control, e.Dial.Name, control.State(e.Dial.Name)); clip != nil {
		c.tell("Keys of %s of %s in %s lie beyond its range; they stay, and are held there.", e.Dial.Name, control.Name, clip.Name)
	}
	return nil
}

func dialOf(d *rig.Document, id string, name rig.Channel) (*rig.Control, int, error) {
	control := d.Control(id)
	if control == nil {
		return nil, 0, missing("control", id)
	}
	at := slices.IndexFunc(control.Dials, func(dial rig.Dial) bool { return dial.Name == name })
	if at < 0 {
		return nil, 0, fmt.Errorf("%s has no dial %q; it may have been removed meanwhile", control.Name, name)
	}
	return control, at, nil
}

// RemoveDial takes a dial off a control, with its keys. One that drives something is refused.
type RemoveDial struct {
	Control string      `json:"control"`
	Name    rig.Channel `json:"name"`
}

// Title implements Edit.
func (e *RemoveDial) Title(d *rig.Document) string {
	return fmt.Sprintf("Take the dial %s off %s", e.Name, d.NameOf(e.Control))
}

// Touches implements Edit.
func (e *RemoveDial) Touches(*rig.Document) []string { return []string{e.Control} }

// Apply implements Edit.
func (e *RemoveDial) Apply(c *Context, d *rig.Document) error {
	control, at, err := dialOf(d, e.Control, e.Name)
	if err != nil {
		return err
	}
	if e.Name == rig.SpaceDial && len(control.Spaces) > 0 {
		return fmt.Errorf("%s has other spaces that the dial %q leads to; take those away first", control.Name, e.Name)
	}
	if e.Name == rig.ScaleDial && control.Name == rig.GlobalName {
		return fmt.Errorf("the dial %q of %s scales the whole specimen; lock it if nobody is to touch it", e.Name, control.Name)
	}
	control.Dials = slices.Delete(slices.Clone(control.Dials), at, at+1)
	delete(control.Channels, e.Name)
	for i := range d.Clips {
		clip := &d.Clips[i]
		before := len(clip.Tracks)
		clip.Tracks = slices.DeleteFunc(clip.Tracks, func(t rig.Track) bool { return t.Control == e.Control && t.Channel == e.Name })
		if len(clip.Tracks) < before {
			c.tell("The keys of %s of %s in %s went with it.", e.Name, control.Name, clip.Name)
		}
	}
	return nil
}

// DriveParameter has a dial give a parameter its value, or none when Control is empty. A control that has no such dial gets one, with the
// parameter's range and its present value at rest, so that nothing moves.
type DriveParameter struct {
	Mechanism string      `json:"mechanism"`
	Key       string      `json:"key"`
	Control   string      `json:"control,omitempty"`
	Dial      rig.Channel `json:"dial,omitempty"`
}

// Title implements Edit.
func (e *DriveParameter) Title(d *rig.Document) string {
	if e.Control == "" {
		return fmt.Sprintf("Free %s of %s from its dial", e.Key, d.NameOf(e.Mechanism))
	}
	return fmt.Sprintf("Drive %s of %s by a dial of %s", e.Key, d.NameOf(e.Mechanism), d.NameOf(e.Control))
}

// Touches implements Edit.
func (e *DriveParameter) Touches(*rig.Document) []string {
	if e.Control == "" {
		return []string{e.Mechanism}
	}
	return []string{e.Mechanism, e.Control}
}

// Apply implements Edit.
func (e *DriveParameter) Apply(c *Context, d *rig.Document) error {
	m, kind, err := mechanismOf(c, d, e.Mechanism)
	if err != nil {
		return err
	}
	declared, ok := kind.Declare().Parameters.Find(e.Key)
	if !ok || !declared.Dial {
		return fmt.Errorf("no dial can drive %q of %s", e.Key, m.Name)
	}
	if e.Control == "" {
		return free(d, m, declared)
	}
	control := d.Control(e.Control)
	if control == nil {
		return missing("control", e.Control)
	}
	dial := e.Dial
	if dial == "" {
		dial = rig.Channel(e.Key)
	}
	if control.Dial(dial) == nil {
		if control.ChannelIndex(dial) >= 0 {
			return fmt.Errorf("%s is a channel and no dial; choose another name", dial)
		}
		value, given := m.Parameters[e.Key]
		if !given {
			value = declared.Default
		}
		control.Dials = append(slices.Clone(control.Dials), rig.Dial{
			Name: dial, Min: declared.Min, Max: declared.Max, Default: value.Number, Unit: declared.Unit,
		})
	}
	link(d, rig.Address{Of: m.ID, Key: e.Key}, control.Of(dial))
	return nil
}

// link has a number taken from another, in the place of the link that it has; what else drives it stays on top.
func link(d *rig.Document, drives, by rig.Address) {
	made := rig.Driver{ID: d.TakeID("v"), Kind: rig.LinkKind, Drives: drives, By: []rig.Address{by}, On: true, Parameters: parameter.Set{}}
	at := slices.IndexFunc(d.Drivers, func(x rig.Driver) bool { return x.Drives == drives })
	d.Drivers = slices.DeleteFunc(d.Drivers, func(x rig.Driver) bool { return isLink(x, drives) })
	if at < 0 {
		at = len(d.Drivers)
	}
	d.Drivers = slices.Insert(d.Drivers, at, made)
}

func isLink(x rig.Driver, drives rig.Address) bool {
	return x.Drives == drives && x.Kind == rig.LinkKind
}

// readdress has what drives or reads one number drive and read another.
func readdress(d *rig.Document, was, now rig.Address) {
	for i := range d.Drivers {
		driver := &d.Drivers[i]
		if driver.Drives == was {
			driver.Drives = now
		}
		if slices.Contains(driver.By, was) {
			driver.By = slices.Clone(driver.By)
			for k := range driver.By {
				if driver.By[k] == was {
					driver.By[k] = now
				}
			}
		}
	}
}

// free takes the link off a parameter, and gives it the value that the dial has at rest, as far as the parameter takes it.
func free(d *rig.Document, m *rig.Mechanism, declared parameter.Declaration) error {
	drives := rig.Address{Of: m.ID, Key: declared.Key}
	at := slices.IndexFunc(d.Drivers, func(x rig.Driver) bool { return isLink(x, drives) })
	if at < 0 {
		return fmt.Errorf("no dial drives %s of %s", declared.Key, m.Name)
	}
	if by := d.Drivers[at].By[0]; d.Control(by.Of) != nil {
		rest := d.Control(by.Of).RestValue(rig.Channel(by.Key))
		m.Parameters[declared.Key] = parameter.OfNumber(math.Max(declared.Min, math.Min(declared.Max, rest)))
	}
	d.Drivers = slices.DeleteFunc(d.Drivers, func(x rig.Driver) bool { return isLink(x, drives) })
	return nil
}

// OfferSpaces says what controls can hang on beside their first space, each by a number of the dial "space". At rest nothing moves by it.
type OfferSpaces struct {
	Controls []string `json:"controls"`
	Spaces   []string `json:"spaces"` // IDs of controls and joints; "" for the world
}

func (*OfferSpaces) builds() {}

// Title implements Edit.
func (e *OfferSpaces) Title(d *rig.Document) string {
	if len(e.Spaces) == 0 {
		return fmt.Sprintf("Leave %s to its first space", controlsNamed(d, e.Controls))
	}
	return fmt.Sprintf("Let %s switch between %d spaces", controlsNamed(d, e.Controls), len(e.Spaces)+1)
}

// Touches implements Edit.
func (e *OfferSpaces) Touches(*rig.Document) []string {
	touched := slices.Clone(e.Controls)
	for _, space := range e.Spaces {
		if space != "" {
			touched = append(touched, space)
		}
	}
	return touched
}

// Apply implements Edit. Keys of the dial stay when more spaces are offered; they go, and are told of, with the last.
func (e *OfferSpaces) Apply(c *Context, d *rig.Document) error {
	for _, space := range e.Spaces {
		if space != "" && d.Control(space) == nil && d.Joint(space) == nil {
			return missing("control or joint", space)
		}
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		known := []string{control.Space}
		for _, space := range e.Spaces {
			if space == control.ID {
				return fmt.Errorf("%s cannot hang on itself", control.Name)
			}
			if slices.Contains(known, space) {
				return fmt.Errorf("%s would have %s among its spaces twice; take one away", control.Name, carrierName(d, space))
			}
			known = append(known, space)
		}
		at := slices.IndexFunc(control.Dials, func(dial rig.Dial) bool { return dial.Name == rig.SpaceDial })
		if len(e.Spaces) == 0 {
			control.Spaces = nil
			if at >= 0 {
				return (&RemoveDial{Control: control.ID, Name: rig.SpaceDial}).Apply(c, d)
			}
			return nil
		}
		control.Spaces, control.Dials = slices.Clone(e.Spaces), slices.Clone(control.Dials)
		if at < 0 {
			control.Dials = append(control.Dials, rig.Dial{Name: rig.SpaceDial})
			at = len(control.Dials) - 1
		}
		control.Dials[at].Max = float64(len(e.Spaces))
		if control.Dials[at].Default > control.Dials[at].Max {
			control.Dials[at].Default = 0
		}
		return nil
	})
}
