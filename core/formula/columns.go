package formula

// Columns is where a program runs for many targets at once: what differs from target to target lies in columns, one number for each.
type Columns struct {
	Values [][]float64 // by the number that they have in the stored formula
	Turned [][]float64 // what has come together by the rates that Turned lists
	Below  []float64
	// Time, Frame and Moving are the same for all targets (see Variables).
	Time, Frame, Moving float64

	placed [][]float64 // by place of a variable: its column, where it stands for the target; nil for one that all share
	blocks [][]float64 // registers, then constants, then variables that all share, a block each
}

// block is how many targets an instruction runs over at a time: few enough for all that it works on to lie in the nearest cache.
const block = 128

// Columns returns memory for the program to run in for targets that stand in their places as given. Programs that remember do not run in columns.
func (p *Program) Columns(places []Variables) *Columns {
	c := &Columns{Below: make([]float64, len(places)), placed: make([][]float64, registersAt), blocks: make([][]float64, registers+len(p.constants)+3)}
	for i := range c.blocks {
		c.blocks[i] = make([]float64, block)
	}
	for i, value := range p.constants {
		fill(c.blocks[registers+i], value)
	}
	for range p.refs {
		c.Values = append(c.Values, make([]float64, len(places)))
	}
	for range p.turned {
		c.Turned = append(c.Turned, make([]float64, len(places)))
	}
	c.placed[belowAt] = c.Below
	for at := restAt; at < registersAt; at++ {
		if at == movingAt || p.uses&(1<<at) == 0 && (at < outerAt || p.uses&outerUsed == 0) {
			continue
		}
		c.placed[at] = make([]float64, len(places))
		for i := range places {
			c.placed[at][i] = places[i].at(at)
		}
	}
	return c
}

// at reads a variable by its place.
func (v *Variables) at(place int) float64 {
	if place >= outerAt {
		return v.Around[(place-outerAt)/2][(place-outerAt)%2]
	}
	return [...]float64{v.Time, v.Frame, v.Below, v.Rest, v.Side, v.Index, v.Count, v.Share, v.Moving}[place]
}

func fill(column []float64, value float64) {
	for i := range column {
		column[i] = value
	}
}

// RunColumns works a program out for all targets, into out. Nothing is allocated; what comes out is the same to the bit as Run gives for each.
func (p *Program) RunColumns(c *Columns, out []float64) {
	shared := c.blocks[registers+len(p.constants):]
	fill(shared[0], c.Time)
	fill(shared[1], c.Frame)
	fill(shared[2], c.Moving)
	for from := 0; from < len(out); from += block {
		to := min(from+block, len(out))
		for k := range p.code {
			i := &p.code[k]
			p.work(i, c.column(p, i.into, from, to), c.column(p, i.a, from, to), c.column(p, i.b, from, to), c.column(p, i.c, from, to))
		}
		copy(out[from:to], c.column(p, p.out, from, to))
	}
}

// column is the stretch of a place's column for some targets.
func (c *Columns) column(p *Program, place uint16, from, to int) []float64 {
	at, constants := int(place), len(p.constants)
	switch {
	case at < registersAt:
		switch {
		case c.placed[at] != nil:
			return c.placed[at][from:to]
		case at == movingAt:
			at = 2
		}
		return c.blocks[registers+constants+min(at, 2)][:to-from]
	case at < constantsAt+constants:
		return c.blocks[at-registersAt][:to-from]
	case at < constantsAt+constants+p.refs:
		return c.Values[at-constantsAt-constants][from:to]
	}
	return c.Turned[at-constantsAt-constants-p.refs][from:to]
}

// work runs an instruction over columns of one length.
func (p *Program) work(i *instruction, into, a, b, c []float64) {
	a, b, c = a[:len(into)], b[:len(into)], c[:len(into)]
	switch i.op {
	case opAdd:
		for k := range into {
			into[k] = a[k] + b[k]
		}
	case opSubtract:
		for k := range into {
			into[k] = a[k] - b[k]
		}
	case opMultiply:
		for k := range into {
			into[k] = a[k] * b[k]
		}
	case opDivide:
		for k := range into {
			into[k] = a[k] / b[k]
		}
	default:
		for k := range into {
			into[k] = one(i.op, a[k], b[k], c[k])
		}
	}
}
