package driver

import (
	"fmt"
	"math"
	"strconv"
	"strings"

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
	Phases      = "phases"
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
			{Key: Phases, Title: "Turned before", Type: parameter.Text, Default: parameter.OfChoice(""), Help: "What each of its turns begins with at the clip's first frame, with spaces between. It is set so that a rate typed in meanwhile makes nothing jump."},
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
	b.Prepared = f
	return f.drive, f.turn(b)
}

// Alike implements mechanism.Together: formulas of one text, whatever each reads, that remember nothing.
func (Formula) Alike(driver rig.Driver) string {
	stored := driver.Parameters[FormulaText].Choice
	if program, err := formula.Compile(stored); err != nil || program.Memory() > 0 {
		return ""
	}
	return stored
}

// PrepareTogether implements mechanism.Together.
func (Formula) PrepareTogether(list []*mechanism.DriverBench) (mechanism.DriveAll, error) {
	all := make([]*formulaRun, len(list))
	places := make([]formula.Variables, len(list))
	for i, b := range list {
		all[i] = b.Prepared.(*formulaRun)
		places[i] = all[i].place
	}
	program := all[0].program
	space := mechanism.ScratchOfDriver(list[0], func() *formula.Columns { return program.Columns(places) })
	return func(f *mechanism.Frame, below, made []float64) {
		c := space.In(f)
		c.Time, c.Frame, c.Moving = 0, 0, 0
		if !f.Still {
			c.Time, c.Frame, c.Moving = f.Time, f.Time*all[0].rate, 1
		}
		for i, one := range all {
			c.Below[i] = below[i] * one.shown
			for k := range c.Values {
				c.Values[k][i] = one.reads[k].At(f)
			}
			for k := range c.Turned {
				c.Turned[k][i] = one.turnedBy(f, k)
			}
		}
		program.RunColumns(c, made)
		for i, one := range all {
			made[i] /= one.shown
		}
	}, nil
}

// turnedBy is how far one of its turns has come.
func (x *formulaRun) turnedBy(f *mechanism.Frame, k int) float64 {
	if t := f.Totals[x.turned[k]]; t != nil && !f.Still {
		return x.phases[k] + t.At(f.Time)
	}
	return x.phases[k]
}

// turn has the rates taken together that the formula turns by.
func (x *formulaRun) turn(b *mechanism.DriverBench) (err error) {
	rates := x.program.Turned()
	if x.phases, err = PhasesOf(b.Settings, len(rates)); err != nil {
		return err
	}
	for k, program := range rates {
		rate := &formulaRun{program: program, reads: x.reads[:program.Refs()], shown: x.shown, rate: x.rate, place: x.place}
		rate.space = mechanism.ScratchOfDriver(b, program.Workspace)
		alike := fmt.Sprint(program.Alike(), rate.reads)
		if program.Placed() {
			alike += fmt.Sprint(x.place)
		}
		at, err := b.Total(k, alike, rate.run, rate.reads)
		if err != nil {
			return err
		}
		x.turned = append(x.turned, at)
	}
	return nil
}

// PhasesOf reads what each of so many turns begins with.
func PhasesOf(settings parameter.Set, count int) ([]float64, error) {
	phases := make([]float64, count)
	for k, word := range strings.Fields(settings.Choice(Phases)) {
		value, err := strconv.ParseFloat(word, 64)
		if err != nil || math.IsNaN(value) || math.Abs(value) > mostPhase {
			return nil, fmt.Errorf("%q is nothing that turns can begin with; write numbers with spaces between, or none", word)
		}
		if k < count {
			phases[k] = value
		}
	}
	return phases, nil
}

// Begin is the parameter that has turns begin with numbers, from the first on.
func Begin(phases []float64) parameter.Set {
	words := make([]string, len(phases))
	for k, phase := range phases {
		words[k] = strconv.FormatFloat(math.Max(-mostPhase, math.Min(mostPhase, phase)), 'g', -1, 64)
	}
	return parameter.Set{Phases: parameter.OfChoice(strings.Join(words, " "))}
}

// mostPhase bounds what turns begin with.
const mostPhase = 1e9

// placeOf tells of the side and the order in which a formula's target stands.
func placeOf(b *mechanism.DriverBench) (v formula.Variables) {
	v.Index, v.Count = b.Settings.Number(Index), b.Settings.Number(Count)
	if len(b.Driver.Nth) > 0 {
		v.Index, v.Count = float64(b.Driver.Nth[0].Index), float64(b.Driver.Nth[0].Count)
	}
	for k := range v.Around {
		v.Around[k] = [2]float64{0, 1}
		if k+1 < len(b.Driver.Nth) {
			v.Around[k] = [2]float64{float64(b.Driver.Nth[k+1].Index), float64(b.Driver.Nth[k+1].Count)}
		}
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
	turned      []int     // in Frame.Totals
	phases      []float64 // what these begin with
}

// run works the formula out in the units that people see, where it remembers nothing.
func (x *formulaRun) run(f *mechanism.Frame) float64 {
	return x.program.Run(x.laid(f), formula.Stepping{})
}

func (x *formulaRun) drive(f *mechanism.Frame, below float64) float64 {
	w := x.laid(f)
	w.Below = below * x.shown
	for k := range x.turned {
		w.Turned[k] = x.turnedBy(f, k)
	}
	return x.program.Run(w, formula.Stepping{Step: f.Step, Fresh: f.Fresh, Still: f.Still, Kept: x.memory.In(f)}) / x.shown
}

// laid returns the workspace with all that the formula reads.
func (x *formulaRun) laid(f *mechanism.Frame) *formula.Workspace {
	w := x.space.In(f)
	w.Variables = x.place
	if !f.Still {
		w.Time, w.Frame, w.Moving = f.Time, f.Time*x.rate, 1
	}
	for i := range x.reads {
		w.Values[i] = x.reads[i].At(f)
	}
	return w
}
