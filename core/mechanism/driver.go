package mechanism

import (
	"fmt"
	"math"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// DriverKind is one kind of driver: something that makes one number of what stands below it and of other numbers.
//
// A driver owes nothing but its outcome. Its influence, the order in which drivers work, whether it is on, limits and locks, the finding when it is held
// back, copies and mirror images of it are seen to by the plan and by repeats: equal numbers mirror by themselves. What a driver must remember
// from step to step it asks the bench for (DriverBench.Remember); it then works in steps of even length, see Memory.
type DriverKind interface {
	// Declare returns what the kind is called and takes. It is constant.
	Declare() DriverDeclaration
	// Prepare reads the driver and returns how it works.
	Prepare(*DriverBench) (Drive, error)
}

// Written is a kind of driver that people write as text, in which what it reads is named. It is kept so that no change of a name touches it.
type Written interface {
	DriverKind
	// Write reads a text: find gives the address of a value by its names. It returns what the driver then reads and its parameters that the text gives.
	Write(text string, find func(of, key string) (rig.Address, error)) (by []rig.Address, given parameter.Set, err error)
	// Text is what would write the driver as it is, with names as they are now.
	Text(driver rig.Driver, name func(rig.Address) (of, key string)) string
	// Order returns the parameters by which a driver knows which one it is of several that are written at once.
	Order(index, count int) parameter.Set
}

// Together is a kind of driver that works many values out in one go, by columns, faster than one by one and to the same bits.
type Together interface {
	DriverKind
	// Alike is the same text for drivers that may work together; empty for one that works alone, as one with memory must.
	Alike(rig.Driver) string
	// PrepareTogether returns how drivers work that are alike, each prepared by itself before.
	PrepareTogether([]*DriverBench) (DriveAll, error)
}

// DriveAll makes numbers of what stands below each, as Drive does of one.
type DriveAll func(f *Frame, below, made []float64)

// Curved is a kind of driver whose parameters draw a curve, from what it reads to what it makes, in the units that people see.
type Curved interface {
	DriverKind
	// Curve draws it along the points of its complete parameters and a little beyond.
	Curve(settings parameter.Set) Answering
}

// Answering is values at even places from one place to another, and the slopes at the points that make it.
type Answering struct {
	From   float64   `json:"from"`
	To     float64   `json:"to"`
	Values []float64 `json:"values"`
	Slopes []float64 `json:"slopes"`
}

// Drive returns what a driver makes of what stands below it in a frame, in the unit of the driven value. What is not finite is passed over, and told.
type Drive func(f *Frame, below float64) float64

// DriverBench is where a driver is prepared.
type DriverBench struct {
	Driver   rig.Driver
	Settings parameter.Set // its parameters, complete
	Prepared any           // what Prepare keeps for PrepareTogether

	bench *Bench
	slot  int // of what it drives
	task  *Task
}

// NewDriverBench turns to a driver of a value, which works in a task.
func (b *Bench) NewDriverBench(driver rig.Driver, declared DriverDeclaration, slot int, task *Task) (*DriverBench, error) {
	if err := declared.Parameters.Check(driver.Parameters); err != nil {
		return nil, err
	}
	if n := len(driver.By); n < declared.Least || n > declared.Most {
		return nil, fmt.Errorf("a driver of the kind %q reads %d to %d values, not %d", declared.Kind, declared.Least, declared.Most, n)
	}
	return &DriverBench{Driver: driver, Settings: declared.Parameters.Complete(driver.Parameters), bench: b, slot: slot, task: task}, nil
}

// Number returns a number parameter of the driver, itself a value.
func (b *DriverBench) Number(key string) Source {
	a := rig.Address{Of: b.Driver.ID, Key: key}
	slot, ok := b.bench.Layout.Find(a)
	if !ok || !b.bench.Driven[slot] {
		return Source{late: -1, Number: Given(b.Settings.Number(key)), scale: 1}
	}
	return b.read(slot)
}

// Read returns the i-th value that the driver reads, as a number of the unit of what it drives: an angle of a control that drives a dial in degrees
// comes in degrees.
func (b *DriverBench) Read(i int) (Source, error) {
	slot, ok := b.bench.Layout.Find(b.Driver.By[i])
	if !ok {
		return Source{}, fmt.Errorf("there is no %s for it to read; choose something else, or take the driver off", b.bench.Document.NameOfValue(b.Driver.By[i]))
	}
	if slot == b.slot {
		return Source{}, fmt.Errorf("a %s of it reads %s itself; read another, or use what stands below it", b.Driver.Kind, b.bench.Document.NameOfValue(b.Driver.By[i]))
	}
	source := b.read(slot)
	source.scale = b.bench.Layout.Shown(slot) / b.bench.Layout.Shown(b.slot)
	return source, nil
}

// ReadShown is as Read, in the unit in which people see the value itself.
func (b *DriverBench) ReadShown(i int) (Source, error) {
	source, err := b.Read(i)
	source.scale *= b.Shown()
	return source, err
}

// Shown returns how many of the units that people see one unit of what is driven is.
func (b *DriverBench) Shown() float64 { return b.bench.Layout.Shown(b.slot) }

// Rest returns what the driven value is at rest.
func (b *DriverBench) Rest() float64 { return b.bench.Layout.Values[b.slot].Rest }

// Rate returns how many frames of a clip go by in a second.
func (b *DriverBench) Rate() float64 { return b.bench.Document.FPS }

// Side returns on which side of the body what is driven stands, by its name.
func (b *DriverBench) Side() rig.Side {
	d, of := b.bench.Document, b.Driver.Drives.Of
	for driver := d.Driver(of); driver != nil; driver = d.Driver(of) { // it drives a number of another
		of = driver.Drives.Of
	}
	return rig.SideOf(d.NameOf(of))
}

// ScratchOfDriver is as ScratchOf.
func ScratchOfDriver[T any](b *DriverBench, make func() *T) Scratch[T] {
	return ScratchOf(b.bench, make)
}

func (b *DriverBench) read(slot int) Source {
	source := Source{late: -1, Number: Number{slot: slot}, scale: 1}
	if at, ok := b.bench.late[Late{b.slot, slot}]; ok {
		source.late = at
		return source
	}
	if r := (Resource{Kind: ValueOf, Index: slot}); !contains(b.task.Reads, r) {
		b.task.Reads = append(b.task.Reads, r)
	}
	return source
}

// Also has the driver's task read something else than values, the clock for one.
func (b *DriverBench) Also(r Resource) { b.task.Reads = append(b.task.Reads, r) }

// Finding declares something that the driver may notice while it works, and returns its index in Frame.Findings.
func (b *DriverBench) Finding(text string) int {
	at := b.bench.FindingOf(b.Driver.Drives.Of, b.bench.Document.NameOfValue(b.Driver.Drives)+" "+text)
	b.task.Raises = append(b.task.Raises, at)
	return at
}

// Remember returns memory for so many numbers.
func (b *DriverBench) Remember(numbers int) Memory {
	b.task.Steps = true
	return b.bench.remember(numbers)
}

// Source is a number that a driver reads.
type Source struct {
	Number
	late  int     // where in Frame.Memory it stands as it was a step ago; -1 for as it is
	scale float64 // to the unit of what is driven
}

// At returns the number in a frame.
func (s Source) At(f *Frame) float64 {
	if s.late >= 0 {
		return s.scale * f.Memory[s.late]
	}
	return s.scale * s.Number.At(f)
}

// Shown returns how many of the units that people see one unit of a value is.
func (l *Layout) Shown(slot int) float64 {
	if l.Values[slot].Turns {
		return 180 / math.Pi
	}
	return 1
}

func contains(list []Resource, r Resource) bool {
	for _, other := range list {
		if other == r {
			return true
		}
	}
	return false
}
