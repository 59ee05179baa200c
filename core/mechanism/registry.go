package mechanism

import "fmt"

// Registry is the known kinds, of mechanisms, drivers and measures, each in the order the interface offers them.
type Registry struct {
	Kinds    []Kind
	Drivers  []DriverKind
	Measures []MeasureKind
}

// Find returns the kind by its name in documents.
func (r Registry) Find(name string) (Kind, error) {
	for _, k := range r.Kinds {
		if k.Declare().Kind == name {
			return k, nil
		}
	}
	return nil, fmt.Errorf("there is no mechanism of the kind %q", name)
}

// Declarations returns the declaration of every kind.
func (r Registry) Declarations() []Declaration {
	list := make([]Declaration, len(r.Kinds))
	for i, k := range r.Kinds {
		list[i] = k.Declare()
	}
	return list
}

// FindDriver returns the kind of driver by its name in documents.
func (r Registry) FindDriver(name string) (DriverKind, error) {
	for _, k := range r.Drivers {
		if k.Declare().Kind == name {
			return k, nil
		}
	}
	return nil, fmt.Errorf("there is no driver of the kind %q", name)
}

// FindMeasure returns the kind of measure by its name in documents.
func (r Registry) FindMeasure(name string) (MeasureKind, error) {
	for _, k := range r.Measures {
		if k.Declare().Kind == name {
			return k, nil
		}
	}
	return nil, fmt.Errorf("there is no measure of the kind %q", name)
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
