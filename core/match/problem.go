package match

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// problem is a search for the channels of a mechanism's controls that bring its joints to where they are wanted.
type problem struct {
	e        *evaluate.Evaluator
	want     []geometry.Transform
	joints   []int
	controls []int
	nearest  []int     // by control: the joint nearest to it at rest, by its place in joints
	slots    []slot    // the channels that are free to change
	size     float64   // length of the chain at rest, metres
	lever    float64   // what a turn of one radian counts, in metres
	residual []float64 // of the last look
}

type slot struct {
	control int
	channel rig.Channel
	index   int
}

func newProblem(e *evaluate.Evaluator, m rig.Mechanism, want []geometry.Transform) *problem {
	d := e.Plan.Document
	p := &problem{e: e, want: want, residual: make([]float64, 6*len(want))}
	for i, id := range m.Joints {
		p.joints = append(p.joints, e.Plan.JointIndex[id])
		if i > 0 {
			p.size += d.Joints[p.joints[i]].Position.Sub(d.Joints[p.joints[i-1]].Position).Len()
		}
	}
	if p.size == 0 { // of a single joint only the turn is left to be matched
		p.size = 1
	}
	p.lever = p.size / float64(max(1, len(p.joints)))
	for _, id := range m.Controls {
		control := e.Plan.ControlIndex[id]
		p.controls = append(p.controls, control)
		nearest := 0
		for i, joint := range p.joints {
			place := d.Controls[control].Position
			if d.Joints[joint].Position.Sub(place).Len() < d.Joints[p.joints[nearest]].Position.Sub(place).Len()-1e-9*p.size {
				nearest = i
			}
		}
		p.nearest = append(p.nearest, nearest)
		for _, channel := range rig.Channels {
			if !d.Controls[control].State(channel).Locked {
				p.slots = append(p.slots, slot{control, channel, e.Slot(control, channel)})
			}
		}
	}
	return p
}

// carry brings each control to where its joint carries it; controls between the first and the last only where they are to turn as well.
func (p *problem) carry(turned bool) error {
	d := p.e.Plan.Document
	for i, control := range p.controls {
		rest := d.Joints[p.joints[p.nearest[i]]].Rest()
		to := p.want[p.nearest[i]].Then(rest.Inverse()).Then(d.Controls[control].Home())
		if err := p.e.Bring(control, to); err != nil {
			return err
		}
		if between := i > 0 && i < len(p.controls)-1; between && !turned {
			for _, channel := range rig.Channels[3:] {
				if err := p.e.SetChannel(control, channel, 0); err != nil {
					return err
				}
			}
			if err := p.e.PullTo(control, p.e.Frame.Scaled(to.Position)); err != nil {
				return err
			}
		}
	}
	return nil
}

func (p *problem) read() []float64 {
	values := make([]float64, len(p.slots))
	for i, s := range p.slots {
		values[i] = p.e.Frame.Inputs[s.index]
	}
	return values
}

func (p *problem) write(values []float64) {
	for i, s := range p.slots {
		limit := float64(evaluate.MaxMove)
		if s.channel.Turns() {
			limit = mechanism.MostValue
		}
		_ = p.e.SetChannel(s.control, s.channel, math.Max(-limit, math.Min(limit, values[i]))) // within what it takes
	}
}

// look measures how far each joint is from where it is wanted: three numbers in metres, three for the turn.
func (p *problem) look() []float64 {
	p.e.Evaluate()
	for i, joint := range p.joints {
		at := p.e.Frame.Joints[joint]
		away := at.Position.Sub(p.want[i].Position)
		turn := p.want[i].Rotation.Conjugate().Mul(at.Rotation)
		if turn.W < 0 {
			turn = turn.Scale(-1)
		}
		for k := range 3 {
			p.residual[6*i+k], p.residual[6*i+3+k] = away[k], 2*p.lever*turn.V[k]
		}
	}
	return p.residual
}

func (p *problem) cost() float64 {
	sum := 0.0
	for _, r := range p.look() {
		sum += r * r
	}
	return sum
}

func (p *problem) left() Left {
	p.e.Evaluate()
	var left Left
	for i, joint := range p.joints {
		at := p.e.Frame.Joints[joint]
		left.Moves = math.Max(left.Moves, at.Position.Sub(p.want[i].Position).Len())
		turn := p.want[i].Rotation.Conjugate().Mul(at.Rotation)
		left.Turns = math.Max(left.Turns, 2*math.Atan2(turn.V.Len(), math.Abs(turn.W)))
	}
	return left
}

// Bounds of the descent.
const (
	steps   = 40
	settled = 1e-7 // the cost falls by less than this share: it has come as near as it can
)

// descend goes from values to where the sum of squares is least, by damped least squares with derivatives from differences.
//
// Method: Levenberg 1944; Marquardt 1963, An Algorithm for Least-Squares Estimation of Nonlinear Parameters.
func (p *problem) descend(values []float64) {
	if len(p.slots) == 0 {
		return
	}
	p.write(values)
	cost := p.cost()
	damping := 1e-3
	for range steps {
		normal, gradient := p.linearise(values)
		fell := false
		for range 8 {
			next, ok := p.step(values, normal, gradient, damping)
			if ok {
				p.write(next)
				if now := p.cost(); now < cost {
					fell = cost-now > settled*cost
					values, cost, damping = p.read(), now, damping/4
					break
				}
			}
			damping *= 6
		}
		if !fell {
			break
		}
	}
	p.write(values)
	p.e.Evaluate()
}

// linearise returns the normal equations at values: how the misses change with each channel, times themselves, and the gradient.
func (p *problem) linearise(values []float64) (*mat.SymDense, *mat.VecDense) {
	base := append([]float64(nil), p.look()...)
	slopes := mat.NewDense(len(base), len(p.slots), nil)
	for i, s := range p.slots {
		stride := 1e-6
		if !s.channel.Turns() {
			stride *= p.size
		}
		_ = p.e.SetChannel(s.control, s.channel, values[i]+stride)
		made := p.e.Frame.Inputs[s.index] - values[i] // less than asked at a limit
		if made == 0 {
			_ = p.e.SetChannel(s.control, s.channel, values[i]-stride)
			made = p.e.Frame.Inputs[s.index] - values[i]
		}
		for row, r := range p.look() {
			if made != 0 {
				slopes.Set(row, i, (r-base[row])/made)
			}
		}
		_ = p.e.SetChannel(s.control, s.channel, values[i])
	}
	normal := mat.NewSymDense(len(p.slots), nil)
	normal.SymOuterK(1, slopes.T())
	gradient := mat.NewVecDense(len(p.slots), nil)
	gradient.MulVec(slopes.T(), mat.NewVecDense(len(base), base))
	return normal, gradient
}

func (p *problem) step(values []float64, normal *mat.SymDense, gradient *mat.VecDense, damping float64) ([]float64, bool) {
	n := len(values)
	damped := mat.NewSymDense(n, nil)
	damped.CopySym(normal)
	greatest := 0.0
	for i := range n {
		greatest = math.Max(greatest, normal.At(i, i))
	}
	for i := range n {
		damped.SetSym(i, i, normal.At(i, i)*(1+damping)+1e-10*greatest+1e-300) // what moves nothing stays
	}
	var factors mat.Cholesky
	if !factors.Factorize(damped) {
		return nil, false
	}
	var by mat.VecDense
	if err := factors.SolveVecTo(&by, gradient); err != nil {
		return nil, false
	}
	next := make([]float64, n)
	for i := range next {
		next[i] = values[i] - by.AtVec(i)
		if !geometry.FiniteVector(mgl64.Vec3{next[i]}) {
			return nil, false
		}
	}
	return next, true
}
