package formula

import (
	"math"
	"slices"
	"strings"
)

// Variables are the numbers of its own that every target has.
type Variables struct {
	Time, Frame  float64 // seconds; the clip's frames
	Below, Rest  float64 // what stands under the driver; what it is at rest
	Side         float64 // 1 on the left, -1 on the right, 0 in the middle
	Index, Count float64 // of the innermost repeat, or among the targets of the formula; from 0
	Share        float64 // Index over Count less one, from 0 to 1
	Moving       float64 // 0 at rest, where nothing moves by itself, else 1
	// Around is the index and the count in each repeat around the innermost, from the next one outwards; 0 and 1 where there is none.
	Around [Outer][2]float64
}

// Outer is how many repeats around the innermost a formula can tell apart.
const Outer = 3

// variables are the names of these, in the order in which a program finds them.
var variables = map[string]int{"time": 0, "frame": 1, "below": 2, "rest": 3, "side": 4, "index": 5, "count": 6, "share": 7, "moving": 8, "pi": 9}

// Places among them that are told apart.
const (
	belowAt   = 2
	restAt    = 3
	movingAt  = 8
	timed     = 1<<0 | 1<<1 | 1<<8 // time, frame, moving: a bit for each
	outerUsed = 1 << 9
	placed    = 1<<3 | 1<<4 | 1<<5 | 1<<6 | 1<<7 | outerUsed // rest, side, index, count, share, and these of repeats around: a bit for each
)

// function is a function of the language: of numbers, to a number.
type function struct {
	least, most int
	op          op
	memory      int // numbers that it remembers
}

type op uint8

// The operations of programs.
const (
	opAdd op = iota
	opSubtract
	opMultiply
	opDivide
	opPower
	opRemainder
	opNegate
	opLess
	opAtMost
	opEqual
	opNot
	opAnd
	opOr
	opChoose
	opAbs
	opSign
	opFloor
	opCeil
	opRound
	opRoot
	opExp
	opLog
	opLeast
	opMost
	opSine
	opCosine
	opTangent
	opAngle
	opWave
	opEase
	opWithin
	opMix
	opAround
	opNoise
	opLag
	opTurns
	opOuterIndex
	opOuterCount
)

var functions = map[string]function{
	"abs": {1, 1, opAbs, 0}, "sign": {1, 1, opSign, 0}, "floor": {1, 1, opFloor, 0}, "ceil": {1, 1, opCeil, 0}, "round": {1, 1, opRound, 0},
	"sqrt": {1, 1, opRoot, 0}, "exp": {1, 1, opExp, 0}, "log": {1, 1, opLog, 0}, "least": {2, 8, opLeast, 0}, "most": {2, 8, opMost, 0},
	"sine": {1, 1, opSine, 0}, "cosine": {1, 1, opCosine, 0}, "tangent": {1, 1, opTangent, 0}, "angle": {2, 2, opAngle, 0},
	"wave": {1, 1, opWave, 0}, "ease": {3, 3, opEase, 0}, "within": {3, 3, opWithin, 0}, "mix": {3, 3, opMix, 0}, "around": {3, 3, opAround, 0},
	"noise": {1, 2, opNoise, 0}, "lag": {2, 2, opLag, 2}, "turns": {1, 1, opTurns, 0}, "outer_index": {1, 1, opOuterIndex, 0}, "outer_count": {1, 1, opOuterCount, 0},
}

// CountWords is how many words there are to be told of.
func CountWords() int { return len(variables) + len(functions) }

// Meant is a question after a word that names no value: whether a word of the language is meant that is like it.
func Meant(word string) string {
	if near := Nearest(strings.ToLower(word), known(false)); near != "" {
		return "; is " + near + " meant?"
	}
	return ""
}

// Nearest is the name most like a word that is none of them; empty where none is like it.
//
// Method: edit distance (Wagner, Fischer 1974, The String-to-String Correction Problem).
func Nearest(word string, among []string) string {
	best, least := "", 1+len(word)/3
	for _, other := range among {
		if d := apart(word, other); d <= least && (best == "" || d < least) {
			best, least = other, d
		}
	}
	return best
}

func apart(a, b string) int {
	row := make([]int, len(b)+1)
	for k := range row {
		row[k] = k
	}
	for i := range len(a) {
		corner := row[0]
		row[0] = i + 1
		for k := range len(b) {
			change := corner
			if a[i] != b[k] {
				change++
			}
			corner = row[k+1]
			row[k+1] = min(change, row[k]+1, row[k+1]+1)
		}
	}
	return row[len(b)]
}

// known lists the names of functions, or of variables.
func known(calls bool) (names []string) {
	if calls {
		for name := range functions {
			names = append(names, name)
		}
	} else {
		for name := range variables {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// noise is an even wander through x: between whole numbers it goes smoothly from one repeatable random slope to the next, within -1 and 1.
//
// Method: gradient noise in one dimension (Perlin 1985, An Image Synthesizer; quintic fade of Perlin 2002), with a mixing hash (Steele, Lea, Flood 2014).
func noise(x, seed float64) float64 {
	if math.Abs(x) > 1e15 {
		return 0
	}
	cell := math.Floor(x)
	u := x - cell
	fade := u * u * u * (u*(6*u-15) + 10)
	a, b := slope(int64(cell), seed)*u, slope(int64(cell)+1, seed)*(u-1)
	return 2 * (a + fade*(b-a))
}

// slope is a repeatable random number from -1 to 1.
func slope(cell int64, seed float64) float64 {
	z := uint64(cell)*0x9e3779b97f4a7c15 + math.Float64bits(seed)*0xd1b54a32d192ed03
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	z ^= z >> 31
	return float64(z>>11)/(1<<52) - 1
}
