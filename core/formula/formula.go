// Package formula is the language of formulas: a number is worked out of other numbers by arithmetic, comparison, a choice and a few functions.
//
// Text is taken apart and parsed by the expression library, whose own functions, fields and loops are off; what is left is checked here, and lowered to
// instructions over a few registers of floats. A program allocates nothing and cannot reach anything but the numbers it is given.
package formula

import (
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"

	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser/lexer"
)

// Bounds of one formula.
const (
	MaxText  = 4000 // bytes
	MaxDepth = 60   // of brackets, calls and operations within each other
	MaxNodes = 1000
	MaxRefs  = 200
)

// Error tells what is wrong with a formula, and where: At is the character, counted from 0.
type Error struct {
	At      int
	Message string
}

func (e *Error) Error() string { return fmt.Sprintf("at character %d: %s", e.At+1, e.Message) }

func wrong(at int, format string, values ...any) error {
	return &Error{at, fmt.Sprintf(format, values...)}
}

// Name is a value as a formula names it: NAME.KEY, or the NAME of a measure, with Key empty. At is where it stands.
type Name struct {
	Of, Key string
	At      int
}

// placeholder begins the words that stand for values in a stored formula: _0 is the first that it reads.
const placeholder = "_"

// token is a word of a formula, with where it stands in characters.
type token = lexer.Token

func tokens(text string) ([]token, error) {
	switch {
	case len(text) > MaxText:
		return nil, wrong(0, "the formula is longer than %d characters; make several of it", MaxText)
	case !utf8.ValidString(text):
		return nil, wrong(0, "it has what is no text; write it anew")
	case strings.TrimSpace(text) == "":
		return nil, wrong(0, "there is nothing in it; write a number, a value such as root.moveX, or a function")
	}
	list, err := lexer.Lex(file.NewSource(text))
	if err != nil {
		return nil, located(err)
	}
	return list, nil
}

// unexpected is how the library tells of a word in the wrong place.
var unexpected = regexp.MustCompile(`unexpected token \w+\((".*")\)`)

// located takes the place and the words from an error of the library.
func located(err error) error {
	if at, ok := err.(*file.Error); ok {
		if strings.Contains(at.Message, "EOF") {
			return wrong(at.From, "it ends too early; a number, a value or a closing bracket is missing")
		}
		if found := unexpected.FindStringSubmatch(at.Message); found != nil {
			return wrong(at.From, "%s cannot stand here; look for a sign, a value or a bracket too many or too few", found[1])
		}
		return wrong(at.From, "%s; look there for a sign or bracket too many or too few", strings.TrimSpace(at.Message))
	}
	return wrong(0, "it cannot be read: %v", err)
}

// span is a name among the words of a formula: from one character up to another.
type span struct {
	Name
	to int
}

// spans finds the values that a formula names.
func spans(text string) ([]span, error) {
	list, err := tokens(text)
	if err != nil {
		return nil, err
	}
	var found []span
	for i := 0; i < len(list); i++ {
		t := list[i]
		word := t.Kind == lexer.Identifier && !keywords[t.Value] || t.Kind == lexer.String
		if !word {
			continue
		}
		if i+2 < len(list) && list[i+1].Is(lexer.Operator, ".") && (list[i+2].Kind == lexer.Identifier || list[i+2].Kind == lexer.String) {
			found = append(found, span{Name{t.Value, list[i+2].Value, t.From}, list[i+2].To})
			i += 2
			continue
		}
		called := i+1 < len(list) && list[i+1].Is(lexer.Bracket, "(")
		if _, own := variables[t.Value]; t.Kind == lexer.Identifier && (own || called) {
			continue
		}
		found = append(found, span{Name{t.Value, "", t.From}, t.To})
	}
	return found, nil
}

// keywords are words of the language that name nothing.
var keywords = map[string]bool{"and": true, "or": true, "not": true, "true": true, "false": true}

// Names lists the values that a formula names, each as often as it does.
func Names(text string) ([]Name, error) {
	found, err := spans(text)
	names := make([]Name, len(found))
	for i, s := range found {
		names[i] = s.Name
	}
	return names, err
}

// Store writes a formula with the values that it names numbered, as find numbers them from 0 on. What find refuses, and what Compile would, is told at
// its place in the text.
func Store(text string, find func(Name) (int, error)) (string, error) {
	found, err := spans(text)
	if err != nil {
		return "", err
	}
	runes, out, from := []rune(text), []rune{}, 0
	var later []span // in the stored text, by how much what stands behind it stands later in the text
	for _, s := range found {
		number, err := find(s.Name)
		if err != nil {
			return "", wrong(s.At, "%v", err)
		}
		out = append(out, runes[from:s.At]...)
		out = append(out, []rune(fmt.Sprintf("%s%d", placeholder, number))...)
		later = append(later, span{Name{At: len(out)}, s.to})
		from = s.to
	}
	stored := string(append(out, runes[from:]...))
	if _, err := Compile(stored); err != nil {
		return "", behind(err, later)
	}
	return stored, nil
}

// behind moves an error from its place in a stored formula to that in the text.
func behind(err error, later []span) error {
	told, ok := err.(*Error)
	if !ok {
		return err
	}
	at := told.At
	for _, s := range later {
		if told.At >= s.At {
			at = s.to + told.At - s.At
		}
	}
	return &Error{at, told.Message}
}

// Show writes a stored formula with names again, as name gives them for the numbers.
func Show(stored string, name func(int) Name) string {
	list, err := tokens(stored)
	if err != nil {
		return stored
	}
	runes, out, from := []rune(stored), strings.Builder{}, 0
	for _, t := range list {
		number, ok := numberOf(t.Value)
		if t.Kind != lexer.Identifier || !ok {
			continue
		}
		n := name(number)
		out.WriteString(string(runes[from:t.From]))
		out.WriteString(quoted(n.Of, n.Key == ""))
		if n.Key != "" {
			out.WriteString("." + quoted(n.Key, false))
		}
		from = t.To
	}
	out.WriteString(string(runes[from:]))
	return out.String()
}

// numberOf reads the number of a value from the word that stands for it.
func numberOf(word string) (number int, ok bool) {
	digits, ok := strings.CutPrefix(word, placeholder)
	if !ok || digits == "" || len(digits) > 4 {
		return 0, false
	}
	for _, c := range digits {
		if c < '0' || c > '9' {
			return 0, false
		}
		number = 10*number + int(c-'0')
	}
	return number, true
}

// Quoted is a name as a formula has it before or behind a point: in quotes where it is no plain word.
func Quoted(name string) string { return quoted(name, false) }

// quoted is a name as a formula has it: in quotes where it is no plain word, or, alone, where it would be taken for a word of the language.
func quoted(name string, alone bool) string {
	plain := name != ""
	for i, c := range name {
		letter := c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
		plain = plain && (letter || i > 0 && c >= '0' && c <= '9')
	}
	if _, own := variables[name]; own && alone || keywords[name] {
		plain = false
	}
	if _, number := numberOf(name); number {
		plain = false
	}
	if plain {
		return name
	}
	return "'" + strings.NewReplacer(`\`, `\\`, `'`, `\'`).Replace(name) + "'"
}
