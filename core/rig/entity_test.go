package rig_test

import (
	"reflect"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// everything is a document in which every list has something, and every reference leads somewhere.
func everything() *rig.Document {
	d := repeated()
	d.Controls[1].Spaces = []string{"j1"}
	d.Controls[1].Dials = []rig.Dial{{Name: rig.SpaceDial, Max: 1}}
	d.Mechanisms = append(d.Mechanisms, rig.Mechanism{ID: "m2", Kind: "k", Name: "sway", Host: "m1", Homes: []string{"c1"}, Takes: []string{"j2", "c2"}, Parts: []string{"p1"}, Parameters: parameter.Set{}})
	d.Measures = []rig.Measure{{ID: "n1", Name: "stride", Kind: "distance", Of: []string{"j1", "c1"}}}
	d.Drivers = []rig.Driver{
		{ID: "v1", Kind: rig.LinkKind, Drives: rig.Address{Of: "m1", Key: "a"}, By: []rig.Address{{Of: "c1", Key: "moveX"}, {Of: "n1", Key: "value"}}, Parameters: parameter.Set{}},
		{ID: "v2", Kind: rig.LinkKind, Drives: rig.Address{Of: "v1", Key: "influence"}, By: []rig.Address{{Of: "p1", Key: "swell"}}, Parameters: parameter.Set{}},
	}
	d.Groups = []rig.Group{{ID: "g1", Name: "tail", Members: []string{"c1", "j2", "p1", "m1", "n1"}, Sight: rig.Ghost}}
	return d
}

// texts calls visit with every text within a value, and the path of fields that leads there.
func texts(v reflect.Value, path string, visit func(path, text string)) {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			texts(v.Elem(), path, visit)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			texts(v.Field(i), path+"."+v.Type().Field(i).Name, visit)
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			texts(v.Index(i), path, visit)
		}
	case reflect.Map:
		for _, key := range v.MapKeys() {
			texts(v.MapIndex(key), path, visit)
		}
	case reflect.String:
		visit(path, v.String())
	}
}

// Every list of the document is gone over, everything in it that is an ID is known as such, and so is every reference.
func TestNothingIsLeftOutByTheVisitor(t *testing.T) {
	d := everything()
	require.NoError(t, d.Validate())
	ids := map[string]bool{}
	lists := map[string]bool{}
	d.Each(func(list string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		ids[*id], lists[list] = true, true
		return true
	})
	for i := range reflect.TypeFor[rig.Document]().NumField() {
		field := reflect.TypeFor[rig.Document]().Field(i)
		if field.Type.Kind() == reflect.Slice {
			assert.True(t, lists[field.Tag.Get("json")], "the list %s is empty here, or the visitor passes it over", field.Name)
		}
	}
	d.Each(func(list string, i int, e rig.Entity) bool {
		var told, there []string
		e.Refer(func(r rig.Reference) string {
			told = append(told, r.ID)
			return r.ID
		})
		own, _ := e.Identity()
		texts(reflect.ValueOf(e), "", func(path, text string) {
			if ids[text] && text != *own && path != ".Differences.Of" {
				there = append(there, text)
			}
		})
		slices.Sort(told)
		slices.Sort(there)
		assert.Equal(t, there, told, "%s[%d]", list, i)
		return true
	})
}

// What refers to others is rewritten in one document and stays as it was in the one it was cloned from.
func TestRewritingReferencesLeavesTheOriginal(t *testing.T) {
	d := everything()
	before := d.Clone()
	d.Clone().Each(func(_ string, _ int, e rig.Entity) bool {
		e.Refer(func(rig.Reference) string { return "elsewhere" })
		return true
	})
	assert.Equal(t, before, d)
	other := d.Clone()
	other.Each(func(_ string, _ int, e rig.Entity) bool {
		e.Refer(func(r rig.Reference) string { return r.ID + "'" })
		return true
	})
	other.Each(func(_ string, _ int, e rig.Entity) bool {
		e.Refer(func(r rig.Reference) string { return r.ID[:len(r.ID)-1] })
		return true
	})
	assert.Equal(t, before, other)
}
