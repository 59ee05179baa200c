// Package textsize counts JSON text before it is decoded: a few bytes of text can ask for hundreds of bytes of memory each.
package textsize

import "fmt"

// Limit is how many objects and entries a text may hold.
type Limit struct{ Objects, Entries int }

// Check returns an error when the text holds more objects, or more entries in lists and objects, than the limit. It looks at each byte once and
// allocates nothing; text that is no JSON is for the decoder to refuse.
func Check(text []byte, limit Limit) error {
	objects, entries, quoted := 0, 0, false
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '{':
			objects++
		case c == ',':
			entries++
		}
	}
	if objects > limit.Objects || entries > limit.Entries {
		return fmt.Errorf("it holds %d objects and %d entries, more than the %d and %d that are read at once; bring it in pieces", objects, entries, limit.Objects, limit.Entries)
	}
	return nil
}
