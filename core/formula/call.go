package formula

import "github.com/expr-lang/expr/ast"

func (l *lowering) call(n *ast.CallNode, free int) (uint16, error) {
	callee, ok := n.Callee.(*ast.IdentifierNode)
	if !ok {
		return 0, wrong(n.Location().From, "only functions can be called")
	}
	at := callee.Location().From
	f, ok := functions[callee.Value]
	switch {
	case !ok:
		return 0, unknown(at, callee.Value, true)
	case len(n.Arguments) < f.least || len(n.Arguments) > f.most:
		return 0, wrong(at, "%s takes %s, not %d", callee.Value, counts(f), len(n.Arguments))
	case f.op == opLeast || f.op == opMost:
		return l.fold(n, f.op, free)
	case f.op == opOuterIndex || f.op == opOuterCount:
		return l.outer(n, f.op)
	case l.rate && f.op == opTurns:
		return 0, wrong(at, "a rate cannot have turns in it; give the inner ones a number of their own")
	case l.rate && f.memory > 0:
		return 0, wrong(at, "a rate cannot have a %s in it, as it must be known ahead; write it around the turns", callee.Value)
	case f.op == opTurns:
		return l.turns(n)
	}
	var places [3]uint16
	for k, argument := range n.Arguments {
		place, err := l.number(argument, free+k)
		if err != nil {
			return 0, err
		}
		places[k] = place
	}
	if f.op == opNoise && len(n.Arguments) == 1 {
		places[1] = l.constant(0)
	}
	l.program.memory += f.memory
	return l.emit(instruction{op: f.op, memory: uint16(l.program.memory - f.memory), into: register(free), a: places[0], b: places[1], c: places[2]}), nil
}

// outer finds the place of what is told of a repeat around the innermost.
func (l *lowering) outer(n *ast.CallNode, o op) (uint16, error) {
	level, ok := n.Arguments[0].(*ast.IntegerNode)
	if !ok || level.Value < 1 || level.Value > Outer {
		return 0, wrong(n.Arguments[0].Location().From, "write a whole number from 1, for the repeat around the innermost, to %d", Outer)
	}
	l.program.uses |= outerUsed
	return uint16(outerAt + 2*(level.Value-1) + int(o-opOuterIndex)), nil
}

// turns lowers a rate to a program of its own, whose turns are given to this one like a value.
func (l *lowering) turns(n *ast.CallNode) (uint16, error) {
	inner := &lowering{program: &Program{}, rate: true, depth: l.depth}
	out, err := inner.number(n.Arguments[0], 0)
	if err != nil {
		return 0, err
	}
	inner.program.out = out
	inner.program.settle()
	l.program.refs = max(l.program.refs, inner.program.refs)
	l.program.uses |= 1
	for k, other := range l.program.turned {
		if other.Alike() == inner.program.Alike() {
			return uint16(turnedAt + k), nil
		}
	}
	l.program.turned = append(l.program.turned, inner.program)
	return uint16(turnedAt + len(l.program.turned) - 1), nil
}

// fold takes arguments two by two, so that two registers are enough for any number of them.
func (l *lowering) fold(n *ast.CallNode, o op, free int) (uint16, error) {
	so, err := l.number(n.Arguments[0], free)
	for _, argument := range n.Arguments[1:] {
		if err != nil {
			return 0, err
		}
		var next uint16
		next, err = l.number(argument, free+1)
		so = l.emit(instruction{op: o, into: register(free), a: so, b: next})
	}
	return so, err
}

func counts(f function) string {
	words := []string{"nothing", "one number", "two numbers", "three numbers"}
	if f.least == f.most {
		return words[f.least]
	}
	if f.most > 3 {
		return words[f.least] + " or more"
	}
	return words[f.least] + " to " + words[f.most]
}
