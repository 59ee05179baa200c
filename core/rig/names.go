package rig

import (
	"fmt"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// TidyName returns a name as it is kept: in the composed form of Unicode (NFC), so that what looks the same is the same, and with single spaces, and only
// between words.
func TidyName(name string) string {
	return norm.NFC.String(strings.Join(strings.Fields(name), " "))
}

// unseen tells whether a character shows nothing and changes how the text around it is read: control characters, direction marks and their
// like. Joiners, which some scripts need, are none.
func unseen(r rune) bool {
	return unicode.IsControl(r) || unicode.Is(unicode.Cf, r) && r != '\u200c' && r != '\u200d' || unicode.Is(unicode.Zl, r) || unicode.Is(unicode.Zp, r)
}

// tidy applies to every name that the document has of its own.
func (d *Document) tidy(change func(string) string) {
	d.Name = change(d.Name)
	d.Each(func(_ string, _ int, e Entity) bool {
		if _, name := e.Identity(); name != nil {
			*name = change(*name)
		}
		return true
	})
}

// TidyNames brings every name to the form in which it is kept.
func (d *Document) TidyNames() {
	d.tidy(func(name string) string {
		if plain(name) {
			return name
		}
		return TidyName(name)
	})
}

// MendNames makes names fit that were kept before names had to: what cannot be shown is left out, and what then is the same gets a number.
func (d *Document) MendNames() {
	if d.checkNames() == nil {
		return
	}
	names := &Names{taken: map[string]bool{}, next: map[string]int{}}
	first := true
	d.tidy(func(name string) string {
		mended := TidyName(strings.Map(func(r rune) rune {
			if unseen(r) || r == unicode.ReplacementChar {
				return -1
			}
			return r
		}, name))
		if mended == "" {
			mended = "unnamed"
		}
		if first { // the specimen's own, which may be as anything in it
			first = false
			return mended
		}
		return names.Free(mended)
	})
}

// plain tells whether a name is of letters, digits and the like alone, which are tidy as they are.
func plain(name string) bool {
	for i := range len(name) {
		if c := name[i]; c <= ' ' || c >= 0x7f {
			return false
		}
	}
	return true
}

// Names is the names that are taken, to find many free ones in time.
type Names struct {
	taken map[string]bool
	next  map[string]int
}

// TakenNames returns the names that a document has.
func (d *Document) TakenNames() *Names {
	n := &Names{taken: map[string]bool{}, next: map[string]int{}}
	d.EachNamed(func(_, name string) bool { n.taken[name] = true; return true })
	return n
}

// Free returns the name that is wanted, or the first with a number behind it that is not taken, and takes it.
func (n *Names) Free(want string) string {
	name := want
	for n.taken[name] {
		if n.next[want] == 0 {
			n.next[want] = 1
		}
		n.next[want]++
		name = fmt.Sprintf("%s_%d", want, n.next[want])
	}
	n.taken[name] = true
	return name
}
