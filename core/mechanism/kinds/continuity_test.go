package kinds_test

import (
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// What a path is looked at with, and what counts as a jump on it.
const (
	samples   = 2000
	suspects  = 20   // the steps that are largest beside their neighbours
	closeness = 1e-9 // of the path, to which those are closed in on
	jumpMoves = 1e-6 // of the size, within that
	jumpTurns = 1e-4 // radians
	tooFast   = 1e4  // times as fast as the fastest control
	mostTold  = 0.02 // of the path, that a finding may take and still tell of a jump
)

// swing is how one channel goes along a path.
type swing struct {
	slot   int
	middle float64
	waves  [2][2]float64 // amplitude and phase
}

func (s swing) at(share float64) float64 {
	value := s.middle
	for k, wave := range s.waves {
		value += wave[0] * math.Sin(2*math.Pi*(float64(k+1)*share+wave[1]))
	}
	return value
}

// path takes every channel and dial of a rig, and the time, along a smooth random way.
type path struct {
	e      *evaluate.Evaluator
	swings []swing
	size   float64
	fast   int // steps that were large but no jumps
}

// pathOf makes moves of up to three bones and turns of up to two whole turns; dials go through their ranges, those in metres through a few bones.
// With whole, all influences stay whole: what half a turn in a blend tells of would hide the rest.
func pathOf(e *evaluate.Evaluator, random *rand.Rand, bone float64, whole bool) *path {
	p := &path{e: e, size: sizeOf(e.Plan.Document)}
	for i, control := range e.Plan.Document.Controls {
		for k, channel := range control.AllChannels() {
			s := swing{slot: e.Plan.Layout.Slot(i, k)}
			reach := 3 * bone
			if channel.Turns() {
				reach = 2 * math.Pi
			}
			if dial := control.Dial(channel); dial != nil {
				s.middle, reach = (dial.Min+dial.Max)/2, 0.6*(dial.Max-dial.Min) // beyond its ends, where it is held, as well
				switch {
				case whole && (strings.HasPrefix(string(channel), "influence") || channel == "blend"):
					s.middle, reach = 1, 0
				case whole && channel == rig.SpaceDial:
					s.middle, reach = dial.Default, 0
				case dial.Unit == "m":
					s.middle, reach = 0, 2*bone
				case channel == rig.ScaleDial: // what it makes ten times as large goes ten times as far
					s.middle, reach = 1.25, 0.75
				}
			}
			left := 1.0
			for w := range s.waves {
				share := left * random.Float64()
				left -= share
				s.waves[w] = [2]float64{reach * share, random.Float64()}
			}
			p.swings = append(p.swings, s)
		}
	}
	return p
}

// sizeOf is the length of all bones of a rig together, or how far it reaches, whichever is less.
func sizeOf(d *rig.Document) float64 {
	low, high := d.Joints[0].Position, d.Joints[0].Position
	for _, j := range d.Joints {
		for axis := range 3 {
			low[axis], high[axis] = math.Min(low[axis], j.Position[axis]), math.Max(high[axis], j.Position[axis])
		}
	}
	return high.Sub(low).Len()
}

func (p *path) set(share float64) {
	e := p.e
	for _, s := range p.swings {
		control, channel := p.owner(s.slot)
		if err := e.SetChannel(control, channel, s.at(share)); err != nil {
			panic(err)
		}
	}
	e.SetTime(10 * share)
	e.Evaluate()
}

func (p *path) owner(slot int) (int, rig.Channel) {
	d := p.e.Plan.Document
	if slot < rig.ChannelCount*len(d.Controls) {
		return slot / rig.ChannelCount, rig.Channels[slot%rig.ChannelCount]
	}
	for i, control := range d.Controls {
		for k, dial := range control.Dials {
			if p.e.Plan.Layout.Slot(i, rig.ChannelCount+k) == slot {
				return i, dial.Name
			}
		}
	}
	panic("no such slot")
}

// look is what is seen at one place of a path.
type look struct {
	share    float64
	joints   []geometry.Transform
	controls []geometry.Transform
	findings []bool
}

func (p *path) look(share float64) look {
	p.set(share)
	f := p.e.Frame
	return look{share, slices.Clone(f.Joints), slices.Clone(f.Controls), slices.Clone(f.Findings)}
}

// step is how far the joint goes that goes furthest between two looks: moves as a share of the size, turns in radians.
func (p *path) step(a, b look) (moves, turns float64, joint int) {
	for i := range a.joints {
		move, turn := b.joints[i].Position.Sub(a.joints[i].Position).Len()/p.size, apart(a.joints[i].Rotation, b.joints[i].Rotation)
		if max(move/jumpMoves, turn/jumpTurns) > max(moves/jumpMoves, turns/jumpTurns) {
			joint = i
		}
		moves, turns = max(moves, move), max(turns, turn)
	}
	return moves, turns, joint
}

// apart is the angle between two rotations, exact however small.
func apart(a, b mgl64.Quat) float64 {
	if a.Dot(b) < 0 {
		b = b.Scale(-1)
	}
	return 4 * math.Asin(math.Min(1, a.Sub(b).Len()/2))
}

// weigh makes moves and turns comparable.
func weigh(moves, turns float64) float64 { return moves/jumpMoves + turns/jumpTurns }

// jump is a place where a path does not go on.
type jump struct {
	at, moves, turns float64
	joint            string
	told             string // the finding that tells of it
}

// jumps closes in on the steps that are largest beside their neighbours.
func (p *path) jumps() (list []jump) {
	steps := make([]float64, samples)
	raised := make([]int, len(p.e.Frame.Findings))
	before := p.look(0)
	for i := range steps {
		now := p.look(float64(i+1) / samples)
		moves, turns, _ := p.step(before, now)
		steps[i] = weigh(moves, turns)
		for k, up := range now.findings {
			if up {
				raised[k]++
			}
		}
		before = now
	}
	order := make([]int, 0, samples)
	beside := make([]float64, samples)
	for i := range steps {
		around := 0.0
		for _, k := range []int{i - 2, i - 1, i + 1, i + 2} {
			if k >= 0 && k < samples {
				around += steps[k] / 4
			}
		}
		beside[i] = steps[i] / (around + 1e-3*slices.Max(steps))
		order = append(order, i)
	}
	slices.SortFunc(order, func(a, b int) int { return int(math.Copysign(1, beside[b]-beside[a])) })
	for _, i := range order[:suspects] {
		if found, ok := p.closeIn(p.look(float64(i)/samples), p.look(float64(i+1)/samples), raised); ok {
			list = append(list, found)
		}
	}
	return list
}

// between narrows the two looks to where the larger half of their step lies, until they are so near to each other.
func (p *path) between(low, high look, near float64) (look, look) {
	for high.share-low.share > near {
		middle := p.look((low.share + high.share) / 2)
		a, b, _ := p.step(low, middle)
		c, d, _ := p.step(middle, high)
		if weigh(a, b) >= weigh(c, d) {
			high = middle
		} else {
			low = middle
		}
	}
	return low, high
}

// closeIn narrows a step. What is left of it is a jump when it goes faster than it may, or is left however near one comes; a step that goes on
// shrinking is a path that passes close by a singular line, and fast.
func (p *path) closeIn(low, high look, raised []int) (jump, bool) {
	low, high = p.between(low, high, closeness)
	moves, turns, joint := p.step(low, high)
	fastest := 0.0
	for i := range low.controls {
		fastest = max(fastest, high.controls[i].Position.Sub(low.controls[i].Position).Len()/p.size, apart(low.controls[i].Rotation, high.controls[i].Rotation))
	}
	if moves <= jumpMoves && turns <= jumpTurns {
		return jump{}, false
	}
	closer, beside := p.between(low, high, 1e-4*closeness)
	stayed, turned, _ := p.step(closer, beside)
	if weigh(stayed, turned) < 0.1*weigh(moves, turns) && moves <= tooFast*fastest {
		p.fast++
		return jump{}, false
	}
	found := jump{at: low.share, moves: moves, turns: turns, joint: p.e.Plan.Document.Joints[joint].Name}
	for k := range closer.findings { // a flip amid a fast pass is told in a band as narrow as the pass is fast
		if closer.findings[k] && beside.findings[k] && float64(raised[k]) <= mostTold*samples && tells.MatchString(p.e.Plan.Findings[k].Text) {
			found.told = p.e.Plan.Findings[k].Text
		}
	}
	return found, true
}

// tells are the only jumps there may be: those that no rule can spare.
var tells = regexp.MustCompile("half a turn|half round|half turned|right over|straight behind|edgewise|answers with a jump|next to parting|rolls nowhere|goes round with a jump|so sharp that it turns at once|changes hands with a jump")

// paths is how many paths each family goes on each shape: MYRIAPOD_PATHS, or one.
func paths() int {
	if n, err := strconv.Atoi(os.Getenv("MYRIAPOD_PATHS")); err == nil {
		return n
	}
	return 1
}

// Whatever is done to all controls, dials, influences and spaces of a rig at once, no joint jumps but where the program says so.
func TestNothingJumpsUntold(t *testing.T) {
	all := families()
	for _, name := range slices.Sorted(maps.Keys(all)) {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			told, gone, fast := map[string]int{}, 0, 0
			for i, shape := range slices.Sorted(maps.Keys(shapes)) {
				for k := range 2 * paths() {
					random := rand.New(rand.NewPCG(seedOf(name), uint64(100*i+k)))
					s := anywhere(random)
					e := open(t, drive(t, all[name](t, random, shapes[shape], s)))
					if clips := e.Plan.Document.Clips; len(clips) > 0 {
						e.SetClip(motion.Prepare(clips[0]))
					}
					p := pathOf(e, random, s.bone, k%2 == 0)
					for _, j := range p.jumps() {
						if j.told == "" {
							t.Errorf("%s, path %d, at %.12f: %s moves %.2g of the size and turns %.2g rad, untold", shape, k, j.at, j.joint, j.moves, j.turns)
							continue
						}
						told[strings.SplitN(j.told, ";", 2)[0]]++
					}
					gone, fast = gone+1, fast+p.fast
				}
			}
			assert.LessOrEqual(t, fast, gone*suspects/10, "steps that are large and yet no jumps")
			t.Logf("%d paths; %d fast passes; told: %v", gone, fast, told)
		})
	}
}

// anywhere is a stage of any size, half the time far away for its size.
func anywhere(random *rand.Rand) stage {
	s := stage{bone: math.Pow(10, 6*random.Float64()-3.5)}
	if random.IntN(2) == 0 {
		s.at = mgl64.Vec3{random.NormFloat64(), random.NormFloat64(), random.NormFloat64()}.Normalize().Mul(1000 * random.Float64() * math.Min(1, s.bone))
	}
	return s
}
