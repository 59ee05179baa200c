package edit

import (
	"fmt"
	"math"
	"sort"

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
	if driver := d.Driver(e.ID); driver != nil {
		what = d.NameOfValue(driver.Drives)
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
	driver := d.Driver(e.ID)
	if driver == nil {
		return missing("driver", e.ID)
	}
	_, declared, err := c.Kinds.FindDriver(driver.Kind)
	if err != nil {
		return err
	}
	key := pointsOf(declared)
	if key == "" {
		return fmt.Errorf("a %s has no points to be taken; lay a response on %s", driver.Kind, d.NameOfValue(driver.Drives))
	}
	points := append([]parameter.Point{}, declared.Parameters.Complete(driver.Parameters).Curve(key)...)
	if _, given := driver.Parameters[key]; !given {
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
	driver.Parameters = driver.Parameters.Clone()
	driver.Parameters[key] = parameter.OfProfile(points...)
	return checkDriver(c, d, *driver)
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
