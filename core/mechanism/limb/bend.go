package limb

import (
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// bends is a limb as one number bends it: at 0 it is straight (or as it is at rest, for one that is straight at rest), and each inner joint
// turns by its own angle times the number about an axis that goes along with the bones before it. So the limb keeps its character, and
// bends out of one plane work as well.
//
// Method: proportional bending; the length from root to tip is found by a bracketed search, regula falsi in the Illinois form (Dowell and
// Jarratt 1971, A modified regula falsi method for computing the root of an equation); two bones in closed form by the law of cosines.
type bends struct {
	bones  []mgl64.Vec3 // from each joint to the next, unbent
	axes   []mgl64.Vec3 // by inner joint, on the unbent limb
	angles []float64    // by inner joint, at 1, radians
	rest   float64      // the number at rest: 1, or 0 for a limb that is straight then

	most    float64     // the number at which it is bent as far as it goes
	lengths [64]float64 // from root to tip, at even steps from 0 to most; falling
	reach   float64     // from root to tip, unbent
	byAxis  bool        // its inner joints' offsets cancel somewhere: the first axis says which way it bends

	turns  []mgl64.Quat // scratch, by bone: how it is turned from unbent
	places []mgl64.Vec3 // scratch, by joint
}

// straightest is the sum of the bends, in radians, below which a limb counts as straight.
const straightest = math.Pi / 180

// statedBend is how far, in radians, all inner joints of a straight limb bend together at 1.
const statedBend = 2 * math.Pi / 3

// fresh returns the same bends with scratch of their own.
func (b *bends) fresh() *bends {
	own := *b
	own.turns, own.places = slices.Clone(b.turns), slices.Clone(b.places)
	return &own
}

// newBends takes the places of the joints at rest, in the world. toward is where a straight limb is to bend. straight tells that it is
// such.
func newBends(places []mgl64.Vec3, toward mgl64.Vec3) (b *bends, straight bool) {
	count := len(places) - 1
	b = &bends{
		bones: make([]mgl64.Vec3, count), axes: make([]mgl64.Vec3, count-1), angles: make([]float64, count-1),
		turns: make([]mgl64.Quat, count), places: make([]mgl64.Vec3, count+1), rest: 1,
	}
	total := 0.0
	for i := range b.bones {
		b.bones[i] = places[i+1].Sub(places[i])
	}
	first := geometry.Unit(b.bones[0], geometry.MainAxis)
	carried := mgl64.QuatIdent() // from the unbent limb to the bone before
	for i := 1; i < count; i++ {
		before, now := geometry.Unit(b.bones[i-1], first), geometry.Unit(b.bones[i], first)
		turn := geometry.Shortest(before, now, geometry.Across(geometry.Up, before))
		angle := 2 * math.Atan2(turn.V.Len(), turn.W)
		axis := geometry.Unit(turn.V, geometry.Across(geometry.Up, before))
		b.axes[i-1], b.angles[i-1] = carried.Conjugate().Rotate(axis), angle
		carried = turn.Mul(carried).Normalize()
		total += angle
	}
	if straight = total < straightest; straight {
		b.rest = 0
		axis := geometry.Across(first.Cross(toward), first)
		for i := range b.angles {
			b.axes[i], b.angles[i] = axis.Mul(-1), statedBend/float64(count-1)
		}
	} else {
		for i := range b.bones {
			b.bones[i] = first.Mul(b.bones[i].Len())
		}
	}
	b.measure()
	return b, straight
}

// measure lists the lengths that bending gives, and whether the inner joints always stand off the line from root to tip.
func (b *bends) measure() {
	sharpest := 0.0
	for _, angle := range b.angles {
		sharpest = math.Max(sharpest, angle)
	}
	b.most = math.Pi * 0.999 / sharpest
	last := len(b.lengths) - 1
	at := func(k int) float64 { return b.most * float64(k) / float64(last) }
	var out [len(b.lengths)]float64 // how far the inner joints stand off the line
	tabulate := func() {
		for k := range b.lengths {
			out[k] = b.offset(at(k)).Len()
			b.lengths[k] = b.tip().Len()
		}
	}
	tabulate()
	steepest := 0.0
	for k := 1; k <= last; k++ {
		fall := b.lengths[k-1] - b.lengths[k]
		steepest = math.Max(steepest, fall)
		if fall <= 0 || fall < dull*steepest && at(k-1) >= b.rest {
			b.most = at(k - 1)
			tabulate()
			break
		}
	}
	b.bend(0)
	b.reach = b.tip().Len()
	for k := 1; k <= last; k++ {
		b.byAxis = b.byAxis || out[k] < 1e-3*b.reach*float64(k)/float64(last)
	}
}

// dull is the share of its steepest fall below which the length no longer falls with the bend: there it would take any bend to come a little nearer,
// and beyond it begins to open again.
const dull = 0.1

// bend bends the limb: places of the joints, from the root on, and the turns of the bones. Legs are bent several times a frame until they are as long as
// asked, so the quaternion arithmetic is written out.
func (b *bends) bend(by float64) {
	w, x, y, z := 1.0, 0.0, 0.0, 0.0
	var at mgl64.Vec3
	for i := range b.bones {
		if i > 0 && by != 0 {
			sine, cosine := math.Sincos(b.angles[i-1] * by / 2)
			axis := &b.axes[i-1]
			ax, ay, az := axis[0]*sine, axis[1]*sine, axis[2]*sine
			w, x, y, z = w*cosine-(x*ax+y*ay+z*az),
				(y*az-z*ay)+ax*w+x*cosine,
				(z*ax-x*az)+ay*w+y*cosine,
				(x*ay-y*ax)+az*w+z*cosine
		}
		b.turns[i], b.places[i] = mgl64.Quat{W: w, V: mgl64.Vec3{x, y, z}}, at
		bone := &b.bones[i]
		cx, cy, cz := y*bone[2]-z*bone[1], z*bone[0]-x*bone[2], x*bone[1]-y*bone[0]
		twice, dx, dy, dz := 2*w, x*2, y*2, z*2
		at[0] += bone[0] + cx*twice + (dy*cz - dz*cy)
		at[1] += bone[1] + cy*twice + (dz*cx - dx*cz)
		at[2] += bone[2] + cz*twice + (dx*cy - dy*cx)
	}
	b.places[len(b.bones)] = at
}

func (b *bends) tip() mgl64.Vec3 { return b.places[len(b.bones)] }

// offset is the mean of the inner joints' offsets from the line from root to tip.
func (b *bends) offset(by float64) mgl64.Vec3 {
	b.bend(by)
	line := geometry.Unit(b.tip(), geometry.MainAxis)
	sum := mgl64.Vec3{}
	for _, place := range b.places[1:len(b.bones)] {
		sum = sum.Add(place.Sub(line.Mul(place.Dot(line))))
	}
	return sum.Mul(1 / float64(len(b.bones)-1))
}

// furthest returns which of the inner joints, from 1 on, stands out furthest from the line from root to tip at rest; of such as stand out about
// alike, the first. A limb that is straight at rest is looked at a little bent.
func (b *bends) furthest() int {
	b.bend(math.Max(b.rest, 0.1*b.most))
	line := geometry.Unit(b.tip(), geometry.MainAxis)
	knee, most := 1, 0.0
	for i := 1; i < len(b.bones); i++ {
		place := b.places[i]
		if out := place.Sub(line.Mul(place.Dot(line))).Len(); out > most+alike*b.reach {
			knee, most = i, out
		}
	}
	return knee
}

// alike is the difference, as a share of the reach, within which two joints stand out as far.
const alike = 1e-6

// slight is the share of the whole bend below which the direction of the bend is read at that share: at nothing there is none to be read.
const slight = 1e-3

// side is the direction in which the limb bends at a number: a unit vector about at right angles to its line.
func (b *bends) side(by float64) mgl64.Vec3 {
	if b.byAxis {
		b.bend(by)
		return b.axes[0].Cross(geometry.Unit(b.tip(), geometry.MainAxis))
	}
	return geometry.Unit(b.offset(math.Max(by, slight*b.most)), geometry.SecondAxis)
}

// to returns the least number at which the limb is as long from root to tip as wanted, as nearly as it gets there.
func (b *bends) to(wanted float64) float64 {
	last := len(b.lengths) - 1
	if wanted >= b.lengths[0] {
		return 0
	}
	if wanted <= b.lengths[last] {
		return b.most
	}
	if len(b.bones) == 2 && b.rest == 1 {
		p, q := b.bones[0].Len(), b.bones[1].Len()
		cosine := (wanted*wanted - p*p - q*q) / (2 * p * q)
		return math.Acos(math.Max(-1, math.Min(1, cosine))) / b.angles[0]
	}
	low, high := 0, last // lengths[low] > wanted >= lengths[high]
	for high-low > 1 {
		if middle := (low + high) / 2; b.lengths[middle] > wanted {
			low = middle
		} else {
			high = middle
		}
	}
	step := b.most / float64(last)
	return b.search(step*float64(low), step*float64(high), b.lengths[low]-wanted, b.lengths[high]-wanted, wanted)
}

// search narrows a bracket of which the left end is too long and the right end too short.
func (b *bends) search(left, right, over, under, wanted float64) float64 {
	const steps = 60
	side := 0
	for range steps {
		middle := (left*under - right*over) / (under - over)
		if !(middle > left && middle < right) {
			middle = (left + right) / 2
		}
		b.bend(middle)
		miss := b.tip().Len() - wanted
		if math.Abs(miss) <= 1e-15*b.reach || right-left < 1e-16*b.most {
			return middle
		}
		if miss > 0 {
			left, over = middle, miss
			if side == 1 {
				under /= 2
			}
			side = 1
		} else {
			right, under = middle, miss
			if side == -1 {
				over /= 2
			}
			side = -1
		}
	}
	return (left + right) / 2
}
