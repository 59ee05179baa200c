package edit

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"myriapod/core/driver"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// TakePoint has a driver that answers by a curve go through a point: what it answers, and with what, in the units that people see. A point that stands at the
// place already is put in its place.
type TakePoint struct {
	ID     string  `json:"id"` // of the driver
	At     float64 `json:"at"`
	Answer float64 `json:"answer"`
	Drop   bool    `json:"drop,omitempty"` // the point at the place is taken away instead
}

// Title implements Edit.
func (e *TakePoint) Title(d *rig.Document) string {
	what := d.NameOf(e.ID)
	if x := d.Driver(e.ID); x != nil {
		what = d.NameOfValue(x.Drives)
	}
	if e.Drop {
		return fmt.Sprintf("Take away the answer of %s to %.4g", what, e.At)
	}
	return fmt.Sprintf("Take the answer of %s to %.4g", what, e.At)
}

// Touches implements Edit.
func (e *TakePoint) Touches(*rig.Document) []string { return []string{e.ID} }

// Apply implements Edit.
func (e *TakePoint) Apply(c *Context, d *rig.Document) error {
	x := d.Driver(e.ID)
	if x == nil {
		return missing("driver", e.ID)
	}
	_, declared, err := c.Kinds.FindDriver(x.Kind)
	if err != nil {
		return err
	}
	key := pointsOf(declared)
	if key == "" {
		return fmt.Errorf("a %s has no points to be taken; lay a response on %s", x.Kind, d.NameOfValue(x.Drives))
	}
	points := append([]parameter.Point{}, declared.Parameters.Complete(x.Parameters).Curve(key)...)
	if _, given := x.Parameters[key]; !given {
		points = points[:0] // nothing was taken yet
	}
	near := samePlace * math.Abs(e.At)
	if n := len(points); n > 1 {
		near = samePlace * math.Max(math.Abs(e.At), points[n-1][0]-points[0][0])
	}
	at := sort.Search(len(points), func(i int) bool { return points[i][0] >= e.At-near })
	there := at < len(points) && points[at][0] <= e.At+near
	switch {
	case e.Drop && !there:
		return fmt.Errorf("there is no point at %g to be taken away", e.At)
	case e.Drop && len(points) == 1:
		return fmt.Errorf("it is the last point; take the driver off instead")
	case e.Drop:
		points = append(points[:at], points[at+1:]...)
	case there:
		points[at][1] = e.Answer
	default:
		points = append(points[:at], append([]parameter.Point{{e.At, e.Answer}}, points[at:]...)...)
	}
	x.Parameters = x.Parameters.Clone()
	x.Parameters[key] = parameter.OfProfile(points...)
	return checkDriver(c, d, *x)
}

// samePlace is the share of where points lie from which two count as at one place.
const samePlace = 1e-7

// pointsOf is the key of a kind's points; empty for one without.
func pointsOf(declared mechanism.DriverDeclaration) string {
	for _, p := range declared.Parameters {
		if p.Type == parameter.Points {
			return p.Key
		}
	}
	return ""
}

// TakePose has numbers answer another by responses, so that they stand at a place of it as they are posed now. Numbers that answer it already keep what they answer there,
// and those that do not yet answer it
// are unmoved where it rests and where poses were taken before.
type TakePose struct {
	By    rig.Address `json:"by"`
	At    float64     `json:"at"`    // where it stands, in the unit that people see
	Hands []Hand      `json:"hands"` // what was posed by hand
}

// Hand is where a number was brought by hand, in its own unit.
type Hand struct {
	Drives rig.Address `json:"drives"`
	Value  float64     `json:"value"`
}

// Title implements Edit.
func (e *TakePose) Title(d *rig.Document) string {
	return fmt.Sprintf("Take a pose of %d numbers as the answer to %s at %.4g", len(e.Hands), d.NameOfValue(e.By), e.At)
}

// Touches implements Edit.
func (e *TakePose) Touches(*rig.Document) []string {
	touched := []string{e.By.Of}
	for _, hand := range e.Hands {
		touched = append(touched, hand.Drives.Of)
	}
	return touched
}

// Apply implements Edit.
func (e *TakePose) Apply(c *Context, d *rig.Document) error {
	layout, err := mechanism.NewLayout(d, c.Kinds)
	if err != nil {
		return err
	}
	from, there := layout.Find(e.By)
	if !there {
		return fmt.Errorf("there is no %s to be answered; choose another", d.NameOfValue(e.By))
	}
	posed := map[rig.Address]float64{}
	for _, hand := range e.Hands {
		slot, there := layout.Find(hand.Drives)
		switch {
		case !there:
			return fmt.Errorf("there is no %s that could answer; it may have been removed meanwhile", d.NameOfValue(hand.Drives))
		case hand.Drives == e.By:
			return fmt.Errorf("%s cannot answer itself; leave it out of the pose", d.NameOfValue(e.By))
		}
		posed[hand.Drives] = (hand.Value - layout.Values[slot].Rest) * layout.Shown(slot)
	}
	if err := e.addMissing(c, d, layout.Values[from].Rest*layout.Shown(from)); err != nil {
		return err
	}
	taken := 0
	for _, x := range d.Drivers {
		if !e.answers(x) {
			continue
		}
		settings := driver.Response{}.Declare().Parameters.Complete(x.Parameters)
		off, mine := posed[x.Drives]
		if !mine && driver.NewAnswer(settings).Turns(e.At) {
			continue // a wheel that turns on would be given another period
		}
		take := TakePoint{ID: x.ID, At: e.At, Answer: driver.NewAnswer(settings).At(e.At) + off}
		if err := take.Apply(c, d); err != nil {
			return err
		}
		taken++
	}
	if taken == 0 {
		return fmt.Errorf("nothing is posed by hand that could answer %s; bring something to where it should be, then take", d.NameOfValue(e.By))
	}
	return nil
}

func (e *TakePose) answers(x rig.Driver) bool {
	return x.On && x.Kind == driver.ResponseKind && len(x.By) == 1 && x.By[0] == e.By
}

// unmoved is the points of a response that changes nothing: where what is answered rests, and where poses were taken before.
func (e *TakePose) unmoved(d *rig.Document, rest float64) []parameter.Point {
	places := []float64{rest}
	for _, x := range d.Drivers {
		if !e.answers(x) {
			continue
		}
		for _, p := range x.Parameters[driver.Points].Profile {
			places = append(places, p[0])
		}
	}
	slices.Sort(places)
	points := []parameter.Point{}
	for _, place := range slices.Compact(places) {
		points = append(points, parameter.Point{place, 0})
	}
	return points
}

// addMissing lays responses on what is posed and does not answer yet.
func (e *TakePose) addMissing(c *Context, d *rig.Document, rest float64) error {
	points := e.unmoved(d, rest)
	for _, hand := range e.Hands {
		known := false
		for _, x := range d.DriversOf(hand.Drives) {
			known = known || e.answers(x)
		}
		if known {
			continue
		}
		add := AddDriver{Driver: driver.ResponseKind, Drives: hand.Drives, By: []rig.Address{e.By}, Parameters: parameter.Set{driver.Points: parameter.OfProfile(slices.Clone(points)...)}}
		if err := add.Apply(c, d); err != nil {
			return err
		}
	}
	return nil
}
