package rigfile

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
)

// checkFields walks the text, word for word, beside the types it will be read into and refuses the first field that they do not have.
func checkFields(data []byte) error {
	w := &walker{decoder: json.NewDecoder(bytes.NewReader(data))}
	w.decoder.UseNumber()
	if err := w.walk(reflect.TypeFor[file](), ""); err != nil {
		return err
	}
	return nil
}

// walker reads JSON one word at a time.
type walker struct{ decoder *json.Decoder }

// walk goes over one value that will be read into a type; place says where it stands.
func (w *walker) walk(into reflect.Type, place string) error {
	for into != nil && into.Kind() == reflect.Pointer {
		into = into.Elem()
	}
	word, err := w.decoder.Token()
	if err != nil {
		return err
	}
	switch word {
	case json.Delim('{'):
		err = w.object(into, place)
	case json.Delim('['):
		err = w.list(into, place)
	default:
		return nil
	}
	if err == nil {
		_, err = w.decoder.Token() // what closes it
	}
	return err
}

func (w *walker) object(into reflect.Type, place string) error {
	known := fieldsOf(into)
	for w.decoder.More() {
		word, err := w.decoder.Token()
		if err != nil {
			return err
		}
		name, _ := word.(string)
		at := strings.TrimPrefix(place+"."+name, ".")
		field, ok := known[name]
		if !ok && known != nil {
			return fmt.Errorf("%.200s: there is no such field; docs/format.md lists them", at)
		}
		if err := w.walk(field, at); err != nil {
			return err
		}
	}
	return nil
}

// fieldsOf lists the fields of a struct by their names in the text; nil for what is none, whose fields may be called anything.
func fieldsOf(t reflect.Type) map[string]reflect.Type {
	if t == nil || t.Kind() != reflect.Struct {
		return nil
	}
	known := map[string]reflect.Type{}
	for i := range t.NumField() {
		name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		known[name] = t.Field(i).Type
	}
	return known
}

func (w *walker) list(into reflect.Type, place string) error {
	var element reflect.Type
	if into != nil && into.Kind() == reflect.Slice {
		element = into.Elem()
	}
	for i := 0; w.decoder.More(); i++ {
		at := place
		if element != nil && element.Kind() == reflect.Struct {
			at = fmt.Sprintf("%s[%d]", place, i)
		}
		if err := w.walk(element, at); err != nil {
			return err
		}
	}
	return nil
}
