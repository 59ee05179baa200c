package linkage

import (
	"errors"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"
)

// system is bodies that are found together: of each its angle and its move, from pins that must hold.
type system struct {
	bodies []int
	finds  [][]int // nodes that are found with each
	pins   []pin
	slides []slidePair
	table  [][]float64 // unknowns along the travel
	from   float64     // drive of the first of them
	pace   float64     // between two
	open   float64     // least pivot at rest, see pivot
}

// pin holds two bodies together at a node, or one at a node that is known.
type pin struct {
	node, a, b int // places among the system's bodies; b is -1 for a known node
}

// slidePair holds a body on a line of another; a and b are places among the system's bodies, -1 for a known body.
type slidePair struct {
	Slide
	a, b int
}

// rows is how many equations there are.
func (y *system) rows() int { return 2 * (len(y.pins) + len(y.slides)) }

// solveTogether readies what cannot be taken apart.
func (p *Plan) solveTogether(left []int, k known) error {
	y := &system{bodies: left}
	at := map[int]int{}
	there := known{k.bodies, append([]bool{}, k.nodes...)}
	for i, body := range left {
		at[body] = i
		y.finds = append(y.finds, p.spread(&there, body))
	}
	for node, n := range p.linkage.Nodes {
		first := -1
		for _, body := range n.Bodies {
			i, unknown := at[body]
			switch {
			case !unknown:
			case k.nodes[node]:
				y.pins = append(y.pins, pin{node, i, -1})
			case first < 0:
				first = i
			default:
				y.pins = append(y.pins, pin{node, first, i})
			}
		}
	}
	for _, slide := range p.linkage.Slides {
		place := func(body int) int {
			if i, unknown := at[body]; unknown {
				return i
			}
			return -1
		}
		if pair := (slidePair{slide, place(slide.Body), place(slide.On)}); pair.a >= 0 || pair.b >= 0 {
			y.slides = append(y.slides, pair)
		}
	}
	p.together = y
	s := p.NewState()
	rows, columns := y.rows(), y.unknowns()
	if fault := y.loose(p, s, rows, columns); fault != nil {
		return fault
	}
	y.open = y.pivot(p, s)
	return nil
}

// pivot is the least pivot of the normal equations as a share of the greatest: nothing where the linkage folds. It allocates nothing.
func (y *system) pivot(p *Plan, s *State) float64 {
	n, m := y.unknowns(), y.rows()
	rows, slopes, normal := s.work[:m], s.work[m:m+m*n], s.work[m+m*n:]
	y.equations(p, s, rows, slopes)
	least, most := math.Inf(1), 0.0
	normalise(normal, rows, slopes, n, m)
	eliminate(normal, n)
	for c := range n {
		lead := math.Abs(normal[c*(n+1)+c])
		if c%3 == 0 { // an angle
			lead /= p.size * p.size
		}
		least, most = math.Min(least, lead), math.Max(most, lead)
	}
	return least / most
}

// folded tells whether the linkage is at a fold, or very near to one.
func (y *system) folded(p *Plan, s *State) bool { return y.pivot(p, s) < foldedAt*foldedAt*y.open }

func (y *system) unknowns() int { return 3 * len(y.bodies) }

// room is how many numbers of work a solution takes: the matrix, the right side.
func (y *system) room() int {
	n := y.unknowns()
	return y.rows()*(n+1) + n*(n+1)
}

// equations writes what the pins miss by, and how that goes with the unknowns, as unknowns are now.
func (y *system) equations(p *Plan, s *State, rows, slopes []float64) {
	n := y.unknowns()
	clear(slopes)
	for i, pin := range y.pins {
		r := 2 * i
		x := y.at(p, s.unknown, pin.a, pin.node)
		y.slope(p, s.unknown, pin.a, pin.node, slopes[r*n:], slopes[(r+1)*n:], 1)
		to := s.Nodes[pin.node]
		if pin.b >= 0 {
			to = y.at(p, s.unknown, pin.b, pin.node)
			y.slope(p, s.unknown, pin.b, pin.node, slopes[r*n:], slopes[(r+1)*n:], -1)
		}
		rows[r], rows[r+1] = x[0]-to[0], x[1]-to[1]
	}
	for i, slide := range y.slides {
		r := 2 * (len(y.pins) + i)
		rows[r], rows[r+1] = y.slideRows(p, s, slide, slopes[r*n:(r+1)*n], slopes[(r+1)*n:(r+2)*n])
	}
}

// turnOf is how a body is turned, and where it has the origin: an unknown one as the unknowns say.
func (y *system) turnOf(s *State, place, body int) (angle float64, move mgl64.Vec2) {
	if place >= 0 {
		return s.unknown[3*place], mgl64.Vec2{s.unknown[3*place+1], s.unknown[3*place+2]}
	}
	pose := s.Poses[body]
	return math.Atan2(pose.Sine, pose.Cosine), pose.Move
}

// slideRows writes how far a body is turned against the one that it slides on, in lengths of the linkage, and how far it is beside its line.
func (y *system) slideRows(p *Plan, s *State, slide slidePair, first, second []float64) (turned, beside float64) {
	ta, ma := y.turnOf(s, slide.a, slide.Body)
	tb, mb := y.turnOf(s, slide.b, slide.On)
	q := p.rest[p.nodeOf(slide.Body)]
	sineA, cosineA := math.Sincos(ta)
	sineB, cosineB := math.Sincos(tb)
	away := mgl64.Vec2{cosineA*q[0] - sineA*q[1] + ma[0] - cosineB*q[0] + sineB*q[1] - mb[0], sineA*q[0] + cosineA*q[1] + ma[1] - sineB*q[0] - cosineB*q[1] - mb[1]}
	across := mgl64.Vec2{-(sineB*slide.Along[0] + cosineB*slide.Along[1]), cosineB*slide.Along[0] - sineB*slide.Along[1]}
	if i := slide.a; i >= 0 {
		first[3*i] += p.size * math.Cos(ta-tb)
		second[3*i] += (-sineA*q[0]-cosineA*q[1])*across[0] + (cosineA*q[0]-sineA*q[1])*across[1]
		second[3*i+1] += across[0]
		second[3*i+2] += across[1]
	}
	if i := slide.b; i >= 0 {
		first[3*i] -= p.size * math.Cos(ta-tb)
		second[3*i] += (sineB*q[0]+cosineB*q[1])*across[0] - (cosineB*q[0]-sineB*q[1])*across[1]
		second[3*i] += away[0]*-across[1] + away[1]*across[0] // the line turns as well
		second[3*i+1] -= across[0]
		second[3*i+2] -= across[1]
	}
	return p.size * math.Sin(ta-tb), away.Dot(across)
}

// nodeOf is some node of a body.
func (p *Plan) nodeOf(body int) int {
	for i, n := range p.linkage.Nodes {
		if has(n, body) {
			return i
		}
	}
	return 0
}

// at is where a body has a node.
func (y *system) at(p *Plan, u []float64, body, node int) mgl64.Vec2 {
	sine, cosine := math.Sincos(u[3*body])
	q := p.rest[node]
	return mgl64.Vec2{cosine*q[0] - sine*q[1] + u[3*body+1], sine*q[0] + cosine*q[1] + u[3*body+2]}
}

func (y *system) slope(p *Plan, u []float64, body, node int, first, second []float64, sign float64) {
	sine, cosine := math.Sincos(u[3*body])
	q := p.rest[node]
	first[3*body] += sign * (-sine*q[0] - cosine*q[1])
	second[3*body] += sign * (cosine*q[0] - sine*q[1])
	first[3*body+1] += sign
	second[3*body+2] += sign
}

// rounds bounds the steps of Newton's method, and exact is what pins may miss by, as a share of the size.
const (
	rounds = 12
	exact  = 1e-14
)

// newton brings the unknowns to where the pins hold, from where they are. The last step that helps is the last that is taken.
//
// Method: Gauss-Newton with exact slopes; pins that say the same twice do no harm, since the normal equations are solved by elimination with complete pivoting, and what has no pivot stays.
func (y *system) newton(p *Plan, s *State) bool {
	n, m := y.unknowns(), y.rows()
	rows, slopes := s.work[:m], s.work[m:m+m*n]
	normal := s.work[m+m*n:]
	before := math.Inf(1)
	for range rounds {
		y.equations(p, s, rows, slopes)
		miss := 0.0
		for _, r := range rows {
			miss = math.Max(miss, math.Abs(r))
		}
		better := miss < before
		if before = math.Min(before, miss); miss <= exact*p.size || !better {
			break
		}
		y.descend(s.unknown, rows, slopes, normal, n, m)
	}
	return before <= 1e-12*p.size
}

// descend takes one step.
func (y *system) descend(u, rows, slopes, normal []float64, n, m int) {
	normalise(normal, rows, slopes, n, m)
	eliminate(normal, n)
	for i := range n {
		u[i] -= normal[i*(n+1)+n]
	}
}

// normalise writes the normal equations.
func normalise(normal, rows, slopes []float64, n, m int) {
	for i := range n {
		for k := range n {
			sum := 0.0
			for r := range m {
				sum += slopes[r*n+i] * slopes[r*n+k]
			}
			normal[i*(n+1)+k] = sum
		}
		sum := 0.0
		for r := range m {
			sum += slopes[r*n+i] * rows[r]
		}
		normal[i*(n+1)+n] = sum
	}
}

// eliminate solves n equations in place (Gauss, Jordan), the last column being the right side and then the solution.
func eliminate(a []float64, n int) {
	w := n + 1
	for c := range n {
		pivot := c
		for r := c + 1; r < n; r++ {
			if math.Abs(a[r*w+c]) > math.Abs(a[pivot*w+c]) {
				pivot = r
			}
		}
		for k := range w {
			a[c*w+k], a[pivot*w+k] = a[pivot*w+k], a[c*w+k]
		}
		lead := a[c*w+c]
		if math.Abs(lead) < 1e-300 {
			continue
		}
		for r := range n {
			if share := a[r*w+c] / lead; r != c && share != 0 {
				for k := c; k < w; k++ {
					a[r*w+k] -= share * a[c*w+k]
				}
			}
		}
	}
	for c := range n {
		if lead := a[c*w+c]; math.Abs(lead) >= 1e-300 {
			a[c*w+n] /= lead
		} else {
			a[c*w+n] = 0
		}
	}
}

// samples is how many places of a turn the table has.
const samples = 720

// table goes from rest both ways and notes the unknowns, as far as pins hold and no fold is come to. There is one where there is one drive.
func (p *Plan) table() error {
	y := p.together
	if y == nil || len(p.linkage.Drives) != 1 {
		return nil
	}
	step := p.reachOf(0) / samples
	sides := [2][][]float64{}
	for i, sign := range []float64{1, -1} {
		s := p.NewState()
		folded := y.volume(p, s)
		for k := 1; k <= samples; k++ {
			s.drives[0] = sign * step * float64(k)
			if !p.reach(s, s.drives) || y.volume(p, s) < foldedAt*folded {
				break
			}
			sides[i] = append(sides[i], append([]float64{}, s.unknown...))
		}
	}
	for i := len(sides[1]) - 1; i >= 0; i-- {
		y.table = append(y.table, sides[1][i])
	}
	y.table = append(append(y.table, make([]float64, y.unknowns())), sides[0]...)
	y.from, y.pace = -step*float64(len(sides[1])), step
	p.travels[0] = travel{y.from, step * float64(len(sides[0])), false, p.turns(0)}
	if len(y.table) < 2 {
		return errors.New("the linkage stands at a fold at rest, and cannot be moved from there; pose it a little off")
	}
	return nil
}

// foldedAt is the share of its volume at rest at which a linkage that is solved together counts as folded.
const foldedAt = 1e-3

// volume is how far the pins are from saying the same twice: the least singular value of their slopes, as a share of the greatest, which is nothing where the linkage folds.
func (y *system) volume(p *Plan, s *State) float64 {
	n, m := y.unknowns(), y.rows()
	rows, slopes := s.work[:m], s.work[m:m+m*n]
	y.equations(p, s, rows, slopes)
	a := mat.NewDense(m, n, append([]float64{}, slopes...))
	var svd mat.SVD
	if !svd.Factorize(a, mat.SVDNone) {
		return 0
	}
	values := svd.Values(nil)
	return values[len(values)-1] / values[0]
}

// reach steps what is taken apart, and goes on with the rest from where it is.
func (p *Plan) reach(s *State, drives []float64) bool {
	return p.takeApart(s, drives) && p.together.newton(p, s)
}

// guess starts from the table, between its two nearest entries.
func (y *system) guess(s *State, drive float64) {
	at := (drive - y.from) / y.pace
	i := int(math.Max(0, math.Min(float64(len(y.table)-2), math.Floor(at))))
	share := math.Max(0, math.Min(1, at-float64(i)))
	for k := range s.unknown {
		s.unknown[k] = y.table[i][k]*(1-share) + y.table[i+1][k]*share
	}
}

// solve goes on from where the unknowns are, and puts the bodies there.
func (y *system) solve(p *Plan, s *State) bool {
	ok := y.newton(p, s)
	for i, body := range y.bodies {
		sine, cosine := math.Sincos(s.unknown[3*i])
		p.put(s, body, Pose{cosine, sine, mgl64.Vec2{s.unknown[3*i+1], s.unknown[3*i+2]}}, y.finds[i])
	}
	return ok
}
