package rig

import (
	"strings"
	"unicode"
)

// Side is the side of the body that a name tells of.
type Side string

// The sides. Left is +X.
const (
	Left   Side = "L"
	Right  Side = "R"
	Centre Side = "C"
)

// sideWords are the ways in which names tell a side, left and right beside each other.
var sideWords = [][2]string{{"L", "R"}, {"l", "r"}, {"left", "right"}, {"Left", "Right"}, {"LEFT", "RIGHT"}}

// SideOf reads the side from a name: a letter or word for left or right that stands by itself between signs, digits and ends.
func SideOf(name string) Side {
	_, _, side, _ := findSide(name)
	return side
}

// OtherSide returns the name with its side changed for the other. ok is false when it tells none.
func OtherSide(name string) (other string, ok bool) {
	from, to, side, word := findSide(name)
	if side == Centre {
		return name, false
	}
	return name[:from] + word + name[to:], true
}

func findSide(name string) (from, to int, side Side, other string) {
	at := 0
	for _, word := range strings.FieldsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) }) {
		from = at + strings.Index(name[at:], word)
		to = from + len(word)
		at = to
		for _, pair := range sideWords {
			switch word {
			case pair[0]:
				return from, to, Left, pair[1]
			case pair[1]:
				return from, to, Right, pair[0]
			}
		}
	}
	return 0, 0, Centre, ""
}
