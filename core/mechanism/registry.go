package mechanism

import (
	"fmt"
	"strings"
)

// Registry is the known kinds, of mechanisms, drivers and measures, each in the order the interface offers them, with what they declare.
type Registry struct {
	Kinds    []Kind
	Drivers  []DriverKind
	Measures []MeasureKind
	declared *declared
}

// declared is what the kinds declare, by their names in documents, asked once.
type declared struct {
	kinds    map[string]known[Kind, Declaration]
	drivers  map[string]known[DriverKind, DriverDeclaration]
	measures map[string]known[MeasureKind, MeasureDeclaration]
}

type known[K, D any] struct {
	kind     K
	declared D
}

// NewRegistry returns the registry of some kinds.
func NewRegistry(kinds []Kind, drivers []DriverKind, measures []MeasureKind) Registry {
	d := &declared{map[string]known[Kind, Declaration]{}, map[string]known[DriverKind, DriverDeclaration]{}, map[string]known[MeasureKind, MeasureDeclaration]{}}
	for _, k := range kinds {
		declares := k.Declare()
		declares.Called = called(declares.Title)
		d.kinds[declares.Kind] = known[Kind, Declaration]{k, declares}
	}
	for _, k := range drivers {
		d.drivers[k.Declare().Kind] = known[DriverKind, DriverDeclaration]{k, k.Declare()}
	}
	for _, k := range measures {
		d.measures[k.Declare().Kind] = known[MeasureKind, MeasureDeclaration]{k, k.Declare()}
	}
	return Registry{kinds, drivers, measures, d}
}

// called is a title within a sentence: its first word small, unless it is an abbreviation.
func called(title string) string {
	first, rest, _ := strings.Cut(title, " ")
	if first == strings.ToUpper(first) {
		return title
	}
	return strings.TrimSpace(strings.ToLower(first) + " " + rest)
}

// Find returns the kind of mechanism by its name in documents, and what it declares.
func (r Registry) Find(name string) (Kind, Declaration, error) {
	if k, ok := r.declared.kinds[name]; ok {
		return k.kind, k.declared, nil
	}
	return nil, Declaration{}, fmt.Errorf("there is no mechanism of the kind %q", name)
}

// FindDriver is as Find, of drivers.
func (r Registry) FindDriver(name string) (DriverKind, DriverDeclaration, error) {
	if k, ok := r.declared.drivers[name]; ok {
		return k.kind, k.declared, nil
	}
	return nil, DriverDeclaration{}, fmt.Errorf("there is no driver of the kind %q", name)
}

// FindMeasure is as Find, of measures.
func (r Registry) FindMeasure(name string) (MeasureKind, MeasureDeclaration, error) {
	if k, ok := r.declared.measures[name]; ok {
		return k.kind, k.declared, nil
	}
	return nil, MeasureDeclaration{}, fmt.Errorf("there is no measure of the kind %q", name)
}

// Declarations returns the declaration of every kind of mechanism.
func (r Registry) Declarations() []Declaration {
	list := make([]Declaration, len(r.Kinds))
	for i, k := range r.Kinds {
		list[i] = r.declared.kinds[k.Declare().Kind].declared
	}
	return list
}

// DriverDeclarations returns the declaration of every kind of driver.
func (r Registry) DriverDeclarations() []DriverDeclaration {
	list := make([]DriverDeclaration, len(r.Drivers))
	for i, k := range r.Drivers {
		list[i] = k.Declare()
	}
	return list
}

// MeasureDeclarations returns the declaration of every kind of measure.
func (r Registry) MeasureDeclarations() []MeasureDeclaration {
	list := make([]MeasureDeclaration, len(r.Measures))
	for i, k := range r.Measures {
		list[i] = k.Declare()
	}
	return list
}
