package rigfile

import (
	"fmt"
	"maps"
	"slices"

	"myriapod/core/edit"
	kinds "myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

func (r *reader) mechanisms() error {
	for i, m := range r.file.Mechanisms {
		place := fmt.Sprintf("mechanisms[%d]", i)
		_, declaration, err := r.registry.Find(m.Kind)
		if err != nil {
			return fmt.Errorf("%s.kind: %w", place, err)
		}
		declared := declaration.Parameters
		if err := declared.Check(m.Parameters); err != nil {
			return fmt.Errorf("%s.parameters: %w", place, err)
		}
		id := r.id(m.ID, m.Name)
		m = r.inLists(m, declaration)
		if m.Controls == nil || len(m.Controls) == 0 && declaration.Answers() {
			if err := r.build(m, id); err != nil {
				return fmt.Errorf("%s: %w", place, err)
			}
		} else {
			r.document.Mechanisms = append(r.document.Mechanisms, rig.Mechanism{
				ID: id, Kind: m.Kind, Name: m.Name, Host: m.Host, On: true,
				Joints: append([]string{}, m.Joints...), Controls: append([]string{}, m.Controls...), Parameters: declared.Complete(m.Parameters), Mirrored: m.Mirrored,
				Homes: m.Homes, Takes: m.Takes, Parts: m.Parts, Places: m.Places, Sizes: m.Sizes, Counts: m.Counts,
			})
		}
		made := &r.document.Mechanisms[len(r.document.Mechanisms)-1]
		if m.On != nil {
			made.On = *m.On
		}
		if err := r.links(place, m, *made, declared); err != nil {
			return err
		}
	}
	return nil
}

// inLists puts what stands in roles into the lists that the roles are of. Roles that building asks for stay where it is still to be built.
func (r *reader) inLists(m mechanism, declaration kinds.Declaration) mechanism {
	if len(m.Roles) == 0 {
		return m
	}
	built := m.Controls != nil
	for _, role := range declaration.Roles {
		built = built || role.Made && len(m.Roles[role.Name]) > 0
	}
	if !built {
		return m
	}
	if m.Controls == nil {
		m.Controls = []string{}
	}
	for _, role := range declaration.Roles {
		for _, id := range m.Roles[role.Name] {
			switch {
			case role.Does == kinds.Moves && r.document.Control(id) != nil:
				m.Homes = append(m.Homes, id)
			case role.Does == kinds.Moves:
				m.Joints = append(m.Joints, id)
			case role.Does == kinds.Answers:
				m.Controls = append(m.Controls, id)
			case role.Does == kinds.LooksAt:
				m.Takes = append(m.Takes, id)
			default:
				m.Parts = append(m.Parts, id)
			}
		}
	}
	counted := rig.Mechanism{Counts: m.Counts}
	declaration.Count(&counted, m.Roles)
	m.Counts, m.Roles = counted.Counts, nil
	return m
}

// links makes drivers of the dials that version 1 had with its mechanisms.
func (r *reader) links(place string, m mechanism, made rig.Mechanism, declared parameter.Declared) error {
	made.Dials = m.Dials
	for _, driver := range made.Links() {
		if d, ok := declared.Find(driver.Drives.Key); !ok || !d.Dial {
			return fmt.Errorf("%s.dials.%s: no dial can drive it; leave it out", place, driver.Drives.Key)
		}
		by := driver.By[0]
		control := r.document.Control(by.Of)
		if control == nil {
			return fmt.Errorf("%s.dials.%s: there is no control %q; correct it, or leave the dial out", place, driver.Drives.Key, by.Of)
		}
		if control.ChannelIndex(rig.Channel(by.Key)) < 0 {
			return fmt.Errorf("%s.dials.%s: there is no dial %q on %q; correct it, or leave the dial out", place, driver.Drives.Key, by.Key, r.document.NameOf(by.Of))
		}
		r.document.Drivers = append(r.document.Drivers, driver)
	}
	return nil
}

func (r *reader) measures() error {
	for _, m := range r.file.Measures {
		made := rig.Measure{ID: r.id(m.ID, m.Name), Name: m.Name, Kind: m.Kind, Of: append([]string{}, m.Of...)}
		if m.Axis != nil {
			made.Axis = *m.Axis
		}
		r.document.Measures = append(r.document.Measures, made)
	}
	return nil
}

func (r *reader) drivers() error {
	for i, x := range r.file.Drivers {
		_, declaration, err := r.registry.FindDriver(x.Kind)
		if err != nil {
			return fmt.Errorf("drivers[%d].kind: %w", i, err)
		}
		declared := declaration.Parameters
		if err := declared.Check(x.Parameters); err != nil {
			return fmt.Errorf("drivers[%d].parameters: %w", i, err)
		}
		id := x.ID
		if id == "" {
			id = fmt.Sprintf("driver_%d_of_%s.%s", i, x.Drives.Of, x.Drives.Key)
		}
		r.document.Drivers = append(r.document.Drivers, rig.Driver{
			ID: r.id(id, id), Kind: x.Kind, Drives: x.Drives, By: append([]rig.Address{}, x.By...), On: x.On == nil || *x.On, Parameters: x.Parameters.Clone(),
		})
	}
	return r.checkDrivers()
}

// checkDrivers tells of the first driver that drives or reads what is not there, copies included.
func (r *reader) checkDrivers() error {
	if len(r.file.Drivers) == 0 {
		return nil
	}
	expansion, err := repeat.Expand(r.document)
	if err != nil {
		return err
	}
	layout, err := kinds.NewLayout(expansion.Document, r.registry)
	if err != nil {
		return err
	}
	for i, x := range r.file.Drivers {
		if _, there := layout.Find(x.Drives); !there {
			return fmt.Errorf("drivers[%d].drives: there is no %s that could be driven; correct it, or leave the driver out", i, expansion.Document.NameOfValue(x.Drives))
		}
		for k, by := range x.By {
			if _, there := layout.Find(by); !there {
				return fmt.Errorf("drivers[%d].by[%d]: there is no %s to read; correct it, or leave the driver out", i, k, expansion.Document.NameOfValue(by))
			}
		}
	}
	return nil
}

// callByName gives the controls that building added their names as IDs, as everything has that leaves its ID out, so that the file can refer to them.
func (r *reader) callByName(before map[string]bool) {
	taken, named := map[string]bool{}, map[string]string{}
	r.document.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		taken[*id] = true
		return true
	})
	for i := range r.document.Controls {
		if c := &r.document.Controls[i]; !before[c.ID] && !taken[c.Name] {
			named[c.ID] = c.Name
			c.ID = c.Name
		}
	}
	r.document.Each(func(_ string, _ int, e rig.Entity) bool {
		e.Refer(func(reference rig.Reference) string {
			if name, ok := named[reference.ID]; ok {
				return name
			}
			return reference.ID
		})
		return true
	})
}

// build makes a mechanism as a rigger would, for a file that does not say which controls it has. All else that the file says of it holds.
func (r *reader) build(m mechanism, id string) error {
	add := &edit.AddMechanism{Mechanism: m.Kind, Name: m.Name, Joints: m.Joints, Host: m.Host, Options: maps.Clone(m.Options), Parameters: m.Parameters, Roles: m.Roles}
	if len(m.Places) > 0 {
		if add.Options == nil {
			add.Options = parameter.Set{}
		}
		add.Options["controls"] = parameter.OfNumber(float64(len(m.Places)))
	}
	if m.Host != "" {
		add.Joints = nil // it finds them by itself
	}
	before := map[string]bool{}
	for _, c := range r.document.Controls {
		before[c.ID] = true
	}
	if err := r.change(add); err != nil {
		return err
	}
	r.callByName(before)
	built := &r.document.Mechanisms[len(r.document.Mechanisms)-1]
	built.ID, built.Mirrored = id, m.Mirrored
	if len(m.Places) == 0 {
		return nil
	}
	return r.change(&edit.ArrangeControls{Mechanism: id, Controls: slices.Clone(built.Controls), Places: m.Places})
}
