// Edits prints the page's type of every edit, from the edits of the core: one member of a union for each kind.
package main

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"myriapod/core/edit"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// named are types that the page has under a name of their own.
var named = map[reflect.Type]string{
	reflect.TypeFor[rig.Channel](): "Channel", reflect.TypeFor[rig.Dial](): "Dial", reflect.TypeFor[rig.Address](): "Address",
	reflect.TypeFor[parameter.Set](): "Set", reflect.TypeFor[edit.Written](): "Change", reflect.TypeFor[edit.ChannelChange](): "ChannelChange",
}

func main() {
	fmt.Println("// Code generated from core/edit by scripts/edits. DO NOT EDIT.")
	fmt.Println(`import type { ChannelChange } from "./edit.gen";`)
	fmt.Println(`import type { Set } from "./parameter.gen";`)
	fmt.Println(`import type { Address, Channel, Dial } from "./rig.gen";`)
	fmt.Println()
	fmt.Println("/** Change is an edit of the document, by its kind. */")
	fmt.Println("export type Change =")
	all := edit.Kinds()
	for _, kind := range slices.Sorted(maps.Keys(all)) {
		fields := append([]string{fmt.Sprintf("kind: %q", kind)}, fieldsOf(reflect.TypeOf(all[kind]()).Elem())...)
		fmt.Printf("  | { %s }\n", strings.Join(fields, "; "))
	}
}

func fieldsOf(t reflect.Type) (fields []string) {
	for i := range t.NumField() {
		field := t.Field(i)
		if field.Anonymous {
			fields = append(fields, fieldsOf(field.Type)...)
			continue
		}
		name, options, _ := strings.Cut(field.Tag.Get("json"), ",")
		if name == "" || name == "-" {
			continue
		}
		mark := ""
		if strings.Contains(options, "omit") || field.Type.Kind() == reflect.Pointer {
			mark = "?"
		}
		fields = append(fields, fmt.Sprintf("%s%s: %s", name, mark, typeOf(field.Type)))
	}
	return fields
}

func typeOf(t reflect.Type) string {
	if name, ok := named[t]; ok {
		return name
	}
	switch t.Kind() {
	case reflect.Pointer:
		return typeOf(t.Elem())
	case reflect.String:
		return "string"
	case reflect.Bool:
		return "boolean"
	case reflect.Slice:
		return fmt.Sprintf("Array<%s>", typeOf(t.Elem()))
	case reflect.Array: // places and rotations: how long they are the core checks
		return typeOf(t.Elem()) + "[]"
	case reflect.Map:
		return fmt.Sprintf("Record<%s, %s>", typeOf(t.Key()), typeOf(t.Elem()))
	case reflect.Struct:
		return "{ " + strings.Join(fieldsOf(t), "; ") + " }"
	case reflect.Interface:
		return "unknown"
	}
	return "number"
}
