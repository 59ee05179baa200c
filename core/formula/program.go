package formula

import (
	"fmt"
	"math"
	"strings"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/conf"
	"github.com/expr-lang/expr/parser"
)

// registers is how many numbers a program holds at once on the way; deeper formulas are refused.
const registers = 32

// Where numbers lie in a workspace: the variables, the registers, the constants, and from then on the values that are read. While a formula is lowered it
// is not known how many constants there are, and values lie from valuesAt on.
const (
	outerAt     = 9 // index and count of each repeat around the innermost
	registersAt = outerAt + 2*Outer
	constantsAt = registersAt + registers
	valuesAt    = 1 << 14
	turnedAt    = valuesAt + MaxRefs
)

// instruction works on places in a workspace: a, b and c are what it works on, into is where its outcome goes. memory is where what it remembers lies.
type instruction struct {
	op            op
	memory        uint16
	into, a, b, c uint16
}

// Program is a formula made ready. It is not changed by running, so it may run in several places at once.
type Program struct {
	code      []instruction
	out       uint16 // where the outcome lies
	constants []float64
	refs      int        // values that it reads
	memory    int        // numbers that it remembers
	uses      uint16     // the variables that it reads, a bit for each
	turned    []*Program // the rates by which it turns
}

// Refs is how many values the program reads: the numbers _0 up to that.
func (p *Program) Refs() int { return p.refs }

// Workspace returns memory for the program to run in, one run at a time.
func (p *Program) Workspace() *Workspace {
	values := constantsAt + len(p.constants)
	w := &Workspace{places: make([]float64, values+p.refs+len(p.turned))}
	copy(w.places[constantsAt:], p.constants)
	w.Values, w.Turned = w.places[values:values+p.refs], w.places[values+p.refs:]
	return w
}

// Memory is how many numbers the program remembers from step to step.
func (p *Program) Memory() int { return p.memory }

// Clock tells whether the program reads the time, or whether it goes at all.
func (p *Program) Clock() bool { return p.uses&timed != 0 }

// Placed tells whether the program reads which of its targets it runs for: the side, the index and the like, or what the target is at rest.
func (p *Program) Placed() bool { return p.uses&placed != 0 }

// Turned lists the programs of the rates that the program's turns are of. They read the same values, and nothing that stands below or is remembered.
func (p *Program) Turned() []*Program { return p.turned }

// Alike is the same text for programs that work alike on the same values.
func (p *Program) Alike() string { return fmt.Sprint(p.code, p.out, p.constants, p.refs) }

// Compile makes a stored formula ready. Errors are of the type Error, with the place in the stored text.
func Compile(stored string) (*Program, error) {
	list, err := tokens(stored)
	if err != nil {
		return nil, err
	}
	if len(list) > 2*MaxNodes {
		return nil, wrong(0, "the formula has more than %d words and signs; make several of it", 2*MaxNodes)
	}
	depth := 0
	for _, t := range list { // before the parser goes down as deep
		switch t.Value {
		case "(":
			if depth++; depth > MaxDepth {
				return nil, wrong(t.From, "brackets stand more than %d deep; make several formulas of it", MaxDepth)
			}
		case ")":
			depth--
		}
	}
	config := conf.CreateNew()
	config.DisableIfOperator = true
	for name := range config.Builtins {
		config.Disabled[name] = true
	}
	config.MaxNodes = MaxNodes
	tree, err := parser.ParseWithConfig(stored, config)
	if err != nil {
		return nil, located(err)
	}
	l := &lowering{program: &Program{}}
	out, truth, err := l.node(tree.Node, 0)
	if err != nil {
		return nil, err
	}
	if truth {
		return nil, wrong(tree.Node.Location().From, "it comes to true or false, and a number is wanted; write a choice, as in x > 0 ? 1 : 0")
	}
	l.program.out = out
	l.program.settle()
	return l.program, nil
}

// settle gives the values their places behind the constants.
func (p *Program) settle() {
	behind := uint16(constantsAt + len(p.constants))
	place := func(at *uint16) {
		switch {
		case *at >= turnedAt:
			*at += behind + uint16(p.refs) - turnedAt
		case *at >= valuesAt:
			*at += behind - valuesAt
		}
	}
	for k := range p.code {
		i := &p.code[k]
		place(&i.a)
		place(&i.b)
		place(&i.c)
	}
	place(&p.out)
}

// lowering turns a tree into instructions.
type lowering struct {
	program *Program
	depth   int
	rate    bool // it is lowered as what turns by it
}

func (l *lowering) emit(i instruction) uint16 {
	l.program.code = append(l.program.code, i)
	return i.into
}

// node lowers a node, with registers from free on to work in, and returns the place of its outcome, and whether that is true or false instead of a number.
func (l *lowering) node(n ast.Node, free int) (place uint16, truth bool, err error) {
	at := n.Location().From
	if l.depth++; free >= registers || l.depth > 4*MaxDepth {
		return 0, false, wrong(at, "it goes too deep here; make several formulas of it")
	}
	defer func() { l.depth-- }()
	switch n := n.(type) {
	case *ast.IntegerNode:
		return l.constant(float64(n.Value)), false, nil
	case *ast.FloatNode:
		return l.constant(n.Value), false, nil
	case *ast.BoolNode:
		if n.Value {
			return l.constant(1), true, nil
		}
		return l.constant(0), true, nil
	case *ast.IdentifierNode:
		place, err = l.word(n)
		return place, false, err
	case *ast.UnaryNode:
		return l.unary(n, free)
	case *ast.BinaryNode:
		return l.binary(n, free)
	case *ast.ConditionalNode:
		return l.choice(n, free)
	case *ast.CallNode:
		place, err = l.call(n, free)
		return place, false, err
	case *ast.StringNode:
		return 0, false, wrong(at, "%q is text, and a number is wanted", n.Value)
	}
	return 0, false, wrong(at, "this is nothing that a formula can have; there are numbers, values, + - * / ^ %%, comparison, ? : and functions")
}

func (l *lowering) constant(value float64) uint16 {
	l.program.constants = append(l.program.constants, value)
	return uint16(constantsAt + len(l.program.constants) - 1)
}

func (l *lowering) word(n *ast.IdentifierNode) (uint16, error) {
	if number, ok := numberOf(n.Value); ok {
		if number >= MaxRefs {
			return 0, wrong(n.Location().From, "a formula reads at most %d values", MaxRefs)
		}
		l.program.refs = max(l.program.refs, number+1)
		return uint16(valuesAt + number), nil
	}
	at, ok := variables[n.Value]
	if !ok {
		return 0, unknown(n.Location().From, n.Value, false)
	}
	if n.Value == "pi" {
		return l.constant(math.Pi), nil
	}
	if l.rate && at == belowAt {
		return 0, wrong(n.Location().From, "a rate cannot be what stands below; turn by a dial or another number")
	}
	l.program.uses |= 1 << at
	return uint16(at), nil
}

// unknown tells of a word that nothing is called by, and of the one that may be meant.
func unknown(at int, word string, called bool) error {
	what, but := "value or variable", ""
	if called {
		what = "function"
	}
	if near := Nearest(strings.ToLower(word), known(called)); near != "" {
		but = "; is " + near + " meant?"
	}
	return wrong(at, "there is no %s called %q%s", what, word, but)
}

func (l *lowering) number(n ast.Node, free int) (uint16, error) {
	place, truth, err := l.node(n, free)
	if err == nil && truth {
		err = wrong(n.Location().From, "this is true or false, and a number is wanted; write a choice, as in x > 0 ? 1 : 0")
	}
	return place, err
}

func (l *lowering) truth(n ast.Node, free int) (uint16, error) {
	place, truth, err := l.node(n, free)
	if err == nil && !truth {
		err = wrong(n.Location().From, "this is a number, and true or false is wanted; compare it with something, as in x > 0")
	}
	return place, err
}

func (l *lowering) unary(n *ast.UnaryNode, free int) (place uint16, truth bool, err error) {
	switch n.Operator {
	case "+":
		place, err = l.number(n.Node, free)
		return place, false, err
	case "-":
		place, err = l.number(n.Node, free)
		return l.emit(instruction{op: opNegate, into: register(free), a: place}), false, err
	case "!", "not":
		place, err = l.truth(n.Node, free)
		return l.emit(instruction{op: opNot, into: register(free), a: place}), true, err
	}
	return 0, false, wrong(n.Location().From, "there is no sign %q before a number", n.Operator)
}

func register(free int) uint16 { return uint16(registersAt + free) }

// binaries are the signs between numbers, and those between true and false; swapped ones work on the two sides the other way round, inverted ones are not so.
var binaries = map[string]struct {
	op                op
	truths, compares  bool
	swapped, inverted bool
}{
	"+": {op: opAdd}, "-": {op: opSubtract}, "*": {op: opMultiply}, "/": {op: opDivide}, "%": {op: opRemainder}, "^": {op: opPower}, "**": {op: opPower},
	"<": {op: opLess, compares: true}, "<=": {op: opAtMost, compares: true}, ">": {op: opLess, compares: true, swapped: true}, ">=": {op: opAtMost, compares: true, swapped: true},
	"==": {op: opEqual, compares: true}, "!=": {op: opEqual, compares: true, inverted: true},
	"and": {op: opAnd, truths: true}, "&&": {op: opAnd, truths: true}, "or": {op: opOr, truths: true}, "||": {op: opOr, truths: true},
}

func (l *lowering) binary(n *ast.BinaryNode, free int) (uint16, bool, error) {
	sign, ok := binaries[n.Operator]
	if !ok {
		return 0, false, wrong(n.Location().From, "there is no sign %q here; there are + - * / ^ %% and < <= > >= == != and or not", n.Operator)
	}
	lower := l.number
	if sign.truths {
		lower = l.truth
	}
	a, err := lower(n.Left, free)
	if err != nil {
		return 0, false, err
	}
	b, err := lower(n.Right, free+1)
	if err != nil {
		return 0, false, err
	}
	if sign.swapped {
		a, b = b, a
	}
	into := l.emit(instruction{op: sign.op, into: register(free), a: a, b: b})
	if sign.inverted {
		l.emit(instruction{op: opNot, into: into, a: into})
	}
	return into, sign.truths || sign.compares, nil
}

// choice works both sides out, so that what remembers goes on whichever is taken.
func (l *lowering) choice(n *ast.ConditionalNode, free int) (uint16, bool, error) {
	when, err := l.truth(n.Cond, free)
	if err != nil {
		return 0, false, err
	}
	a, first, err := l.node(n.Exp1, free+1)
	if err != nil {
		return 0, false, err
	}
	b, second, err := l.node(n.Exp2, free+2)
	if err != nil {
		return 0, false, err
	}
	if first != second {
		return 0, false, wrong(n.Exp2.Location().From, "one side of the choice is a number and the other true or false; make them alike")
	}
	return l.emit(instruction{op: opChoose, into: register(free), a: when, b: a, c: b}), first, nil
}
