package rigfile

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// checkFields walks the text beside the types it will be read into and refuses the first field that they do not have.
func checkFields(data []byte) error {
	var whole any
	if err := json.Unmarshal(data, &whole); err != nil {
		return explain(data, err)
	}
	return walk(whole, reflect.TypeFor[file](), "")
}

func walk(value any, into reflect.Type, place string) error {
	for into.Kind() == reflect.Pointer {
		into = into.Elem()
	}
	switch v := value.(type) {
	case map[string]any:
		if into.Kind() == reflect.Struct {
			return walkObject(v, into, place)
		}
	case []any:
		if into.Kind() != reflect.Slice || len(v) == 0 {
			return nil
		}
		for i, element := range v {
			if _, nested := element.(map[string]any); !nested {
				return nil // numbers and lists of numbers have no fields
			}
			if err := walk(element, into.Elem(), fmt.Sprintf("%s[%d]", place, i)); err != nil {
				return err
			}
		}
	}
	return nil
}

func walkObject(object map[string]any, into reflect.Type, place string) error {
	known := map[string]reflect.Type{}
	for i := range into.NumField() {
		name, _, _ := strings.Cut(into.Field(i).Tag.Get("json"), ",")
		known[name] = into.Field(i).Type
	}
	names := make([]string, 0, len(object))
	for name := range object {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		at := strings.TrimPrefix(place+"."+name, ".")
		field, ok := known[name]
		if !ok {
			return fmt.Errorf("%s: there is no such field; docs/format.md lists them", at)
		}
		if err := walk(object[name], field, at); err != nil {
			return err
		}
	}
	return nil
}
