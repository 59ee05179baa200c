package repeat

import (
	"fmt"
	"unicode/utf8"

	"myriapod/core/rig"
)

// checkCopies counts what the copies will come to, before any is made.
func (x *Expansion) checkCopies(r rig.Repeat, s *subtree) error {
	d := x.Document
	all := rig.SizesOf(len(d.Joints), d.Standing()).Add(rig.SizesOf(len(s.joints), s.Standing), r.Copies())
	if err := all.Check(); err != nil {
		return fmt.Errorf("with its copies, %w; make fewer copies", err)
	}
	deepest := 0
	for _, j := range s.joints {
		depth := 1
		for id := j.ID; ; depth++ {
			origin, copied := x.Origins[id]
			if !copied {
				break
			}
			id = origin.Of
		}
		deepest = max(deepest, depth)
	}
	if deepest > rig.MaxNested {
		return fmt.Errorf("it copies copies %d deep, and %d is the most; repeat the sources instead", deepest, rig.MaxNested)
	}
	return x.checkTexts(r, s)
}

// checkTexts refuses copies whose IDs or names would be too long.
func (x *Expansion) checkTexts(r rig.Repeat, s *subtree) error {
	check := func(id, name string) error {
		if len(CopyID(r.ID, r.Copies(), id)) > rig.MaxID {
			return fmt.Errorf("the IDs of its copies of %s would be longer than %d bytes; give it, or what it copies, a shorter ID", name, rig.MaxID)
		}
		if made := Named(r, name, r.Copies()); utf8.RuneCountInString(made) > rig.MaxName {
			return fmt.Errorf("the names of its copies of %s would be longer than %d characters; choose a shorter pattern", name, rig.MaxName)
		}
		return nil
	}
	for _, j := range s.joints {
		if err := check(j.ID, j.Name); err != nil {
			return err
		}
	}
	for _, c := range s.Controls {
		if err := check(c.ID, c.Name); err != nil {
			return err
		}
	}
	for _, m := range s.Mechanisms {
		if err := check(m.ID, m.Name); err != nil {
			return err
		}
	}
	for _, m := range s.Measures {
		if err := check(m.ID, m.Name); err != nil {
			return err
		}
	}
	for _, driver := range s.Drivers {
		if err := check(driver.ID, "driver"); err != nil {
			return err
		}
	}
	return nil
}
