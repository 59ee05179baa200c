package driver

import (
	"fmt"

	"myriapod/core/formula"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Formula works a number out of other numbers, see the package formula. All numbers are in the units that people see.
type Formula struct{}

// FormulaKind is the kind's name in documents.
const FormulaKind = "formula"

// The parameters of a formula. The text stands there as it is stored: _0 is the first of the values that the driver reads. Index and Count hold where no ring or
// series repeats what is driven.
const (
	FormulaText = "formula"
	Index       = "index"
	Count       = "count"
)

// Declare implements mechanism.DriverKind.
func (Formula) Declare() mechanism.DriverDeclaration {
	return mechanism.DriverDeclaration{
		Kind: FormulaKind, Title: "Formula", Summary: "Works the number out of time, of other numbers, and of what stands below it.", Most: formula.MaxRefs,
		Parameters: parameter.Declared{
			{Key: FormulaText, Title: "Formula", Type: parameter.Text, Default: parameter.OfChoice("below"), Help: "What the number comes to, in the units that the page shows."},
			{Key: Index, Title: "Index", Type: parameter.Number, Whole: true, Max: 1e6, Default: parameter.OfNumber(0), Help: "Which one it is, from 0, where no ring or series tells."},
			{Key: Count, Title: "Count", Type: parameter.Number, Whole: true, Min: 1, Max: 1e6, Default: parameter.OfNumber(1), Help: "Of how many it is one."},
			mechanism.Influence(),
		},
		Words: formula.Words(),
	}
}

// Write implements mechanism.Written.
func (Formula) Write(text string, find func(of, key string) (rig.Address, error)) (by []rig.Address, given parameter.Set, err error) {
	numbers := map[rig.Address]int{}
	stored, err := formula.Store(text, func(n formula.Name) (int, error) {
		a, err := find(n.Of, n.Key)
		if err != nil {
			if n.Key == "" {
				err = fmt.Errorf("%w%s", err, formula.Meant(n.Of))
			}
			return 0, err
		}
		if _, known := numbers[a]; !known {
			numbers[a] = len(by)
			by = append(by, a)
		}
		return numbers[a], nil
	})
	return by, parameter.Set{FormulaText: parameter.OfChoice(stored)}, err
}

// Text implements mechanism.Written.
func (Formula) Text(driver rig.Driver, name func(rig.Address) (of, key string)) string {
	stored, given := driver.Parameters[FormulaText]
	if !given {
		return "below"
	}
	return formula.Show(stored.Choice, func(i int) formula.Name {
		if i >= len(driver.By) {
			return formula.Name{Of: fmt.Sprintf("_%d", i)}
		}
		of, key := name(driver.By[i])
		return formula.Name{Of: of, Key: key}
	})
}

// Order implements mechanism.Written.
func (Formula) Order(index, count int) parameter.Set {
	return parameter.Set{Index: parameter.OfNumber(float64(index)), Count: parameter.OfNumber(float64(count))}
}

// Prepare implements mechanism.DriverKind.
func (Formula) Prepare(b *mechanism.DriverBench) (mechanism.Drive, error) {
	program, err := formula.Compile(b.Settings.Choice(FormulaText))
	if err != nil {
		return nil, fmt.Errorf("its formula, %w", err)
	}
	if program.Refs() > len(b.Driver.By) {
		return nil, fmt.Errorf("its formula reads _%d, and there are %d values that it has to read, from _0 on; add to them, or take it out of the formula", program.Refs()-1, len(b.Driver.By))
	}
	reads := make([]mechanism.Source, program.Refs())
	for i := range reads {
		if reads[i], err = b.ReadShown(i); err != nil {
			return nil, err
		}
	}
	if program.Clock() {
		b.Also(mechanism.Resource{Kind: mechanism.Clock})
	}
	f := &formulaRun{program: program, reads: reads, shown: b.Shown(), rate: b.Rate(), place: placeOf(b)}
	f.place.Rest = b.Rest() * f.shown
	f.space = mechanism.ScratchOfDriver(b, program.Workspace)
	if program.Memory() > 0 {
		f.memory = b.Remember(program.Memory())
	}
	return f.drive, nil
}

// placeOf tells of the side and the order in which a formula's target stands.
func placeOf(b *mechanism.DriverBench) (v formula.Variables) {
	v.Index, v.Count = b.Settings.Number(Index), b.Settings.Number(Count)
	if len(b.Driver.Nth) > 0 {
		v.Index, v.Count = float64(b.Driver.Nth[0].Index), float64(b.Driver.Nth[0].Count)
	}
	if v.Count > 1 {
		v.Share = v.Index / (v.Count - 1)
	}
	switch b.Side() {
	case rig.Left:
		v.Side = 1
	case rig.Right:
		v.Side = -1
	}
	return v
}

// formulaRun is a formula made ready for what it drives.
type formulaRun struct {
	program     *formula.Program
	reads       []mechanism.Source
	shown, rate float64
	place       formula.Variables
	space       mechanism.Scratch[formula.Workspace]
	memory      mechanism.Memory
}

func (x *formulaRun) drive(f *mechanism.Frame, below float64) float64 {
	w := x.space.In(f)
	w.Variables = x.place
	w.Below = below * x.shown
	if !f.Still {
		w.Time, w.Frame = f.Time, f.Time*x.rate
	}
	for i := range x.reads {
		w.Values[i] = x.reads[i].At(f)
	}
	return x.program.Run(w, formula.Stepping{Step: f.Step, Fresh: f.Fresh, Still: f.Still, Kept: x.memory.In(f)}) / x.shown
}
