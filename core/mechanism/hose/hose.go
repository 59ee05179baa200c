// Package hose leads a hose, cable or rope of fixed length between two things that move, along the way that each of them holds its end.
package hose

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "hose"

// Kind is the hose.
type Kind struct{}

// Where a hose bulges to.
const (
	asAtRest = "as at rest"
	down     = "down"
	up       = "up"
	left     = "left"
	right    = "right"
	ahead    = "ahead"
	behind   = "behind"
)

// sides are the directions by their names.
var sides = map[string]mgl64.Vec3{down: {0, -1, 0}, up: {0, 1, 0}, left: {1, 0, 0}, right: {-1, 0, 0}, ahead: {0, 0, 1}, behind: {0, 0, -1}}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Hose", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M6 5v4C6 24 30 20 34 12S52 2 54 14v5M2 5h8M50 19h8",
		Summary: "A hose, cable or rope of fixed length between two things that move: it keeps the way that each holds its end, and bulges with what is left over.",
		Roles: []mechanism.Role{
			mechanism.ChainRole(3, "The joints along the hose, from the first to the last; the two ends are enough. Its first end goes with what the first joint hangs on."),
			{Name: "end", Title: "What holds its end", Help: "The joint or control that the last end goes with.", Does: mechanism.LooksAt, Joints: true, Controls: true, Least: 1, Most: 1},
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{Key: "stiffness", Title: "Stiffness", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0.3), Help: "How far along the hose its ends hold their direction."},
			{Key: "weight", Title: "Weight", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0.3), Dial: true, Help: "How much it bulges downwards where its ends are turned, beside the side to which it does so at rest."},
			{Key: "bulges", Title: "Bulges", Type: parameter.Choice, Choices: []string{asAtRest, down, up, left, right, ahead, behind}, Default: parameter.OfChoice(asAtRest), Help: "Where it bulges to besides; one that is straight at rest goes down."},
			{Key: "paid", Title: "Paid out", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(0), Dial: true, Help: "How much longer it is than at rest: a rope on a winch."},
			mechanism.Influence(),
		},
	}
}

// lines are what joints are called that are laid along a hose.
var lines = []string{"hose", "cable", "rope", "cord", "wire", "pipe", "tube", "line"}

// Suits implements mechanism.Suitor: a long chain may be one, and one that is called so is.
func (Kind) Suits(d *rig.Document, chosen []string) float64 {
	if len(chosen) < 4 {
		return 0.08
	}
	for _, word := range strings.FieldsFunc(strings.ToLower(d.NameOf(chosen[0])), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if slices.Contains(lines, word) {
			return 0.95
		}
	}
	return 0.4
}

// Build implements mechanism.Kind: it needs no controls.
func (Kind) Build(site *mechanism.Site) error {
	rest, err := site.Chain(3)
	if err != nil {
		return err
	}
	m := site.Mechanism
	site.Root()
	if contains(m.Joints, m.Takes[0]) || below(site.Document, m.Takes[0], m.Joints[0]) {
		return fmt.Errorf("%s goes with the hose itself; choose what holds the other end", site.Document.NameOf(m.Takes[0]))
	}
	long, span := 0.0, rest[len(rest)-1].Position.Sub(rest[0].Position).Len()
	for i := 1; i < len(rest); i++ {
		long += rest[i].Position.Sub(rest[i-1].Position).Len()
	}
	if !(long > 0) {
		return errors.New("its joints stand in one place; lay them along the hose first")
	}
	if long-span < tautness*long {
		site.Say("The hose is as long as its ends are apart, %.3g m: it comes out straight where they part, and is told.", span)
	}
	return nil
}

// tautness is how much longer than the way between its ends a hose is, as a share, for it to be slack.
const tautness = 1e-3

func contains(list []string, id string) bool {
	for _, other := range list {
		if other == id {
			return true
		}
	}
	return false
}

// below tells whether a joint hangs, over others, on another.
func below(d *rig.Document, id, on string) bool {
	for steps := 0; id != "" && steps <= len(d.Joints); steps++ {
		if id == on {
			return true
		}
		joint := d.Joint(id)
		if joint == nil {
			return false
		}
		id = joint.Parent
	}
	return false
}

// A hose has as many curve points as it has joints, and two, within bounds.
const (
	leastPoints = 7
	mostPoints  = 48
)

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	if len(joints) < 3 || len(b.Mechanism.Takes) != 1 {
		return fmt.Errorf("a hose has three joints or more, and something that holds its end, not %d and %d; build it anew", len(joints), len(b.Mechanism.Takes))
	}
	h := &hose{joints: joints}
	for _, joint := range joints {
		h.rest = append(h.rest, b.Rest(joint))
	}
	places := make([]mgl64.Vec3, len(joints))
	for i := range h.rest {
		places[i] = h.rest[i].Position
	}
	line, err := curve.Fit(places, max(leastPoints, min(mostPoints, len(joints)+2)))
	if err != nil {
		return err
	}
	h.shape(line, sides[b.Settings.Choice("bulges")], b.Settings.Number("stiffness"))
	var reads []mechanism.Resource
	var ok bool
	if h.first, h.firstRest, ok = b.Space(b.Document.Joints[joints[0]].Parent); ok {
		h.hung = true
		reads = append(reads, h.first)
	}
	if h.last, h.lastRest, ok = b.Space(b.Mechanism.Takes[0]); !ok {
		return fmt.Errorf("what held the end of %s is gone; build it anew with something else", b.Mechanism.Name)
	}
	reads = append(reads, h.last)
	weight, more := b.Number("weight")
	paid, others := b.Number("paid")
	h.weight, h.paid = weight, paid
	reads = append(append(reads, more...), others...)
	h.lay(b, reads, len(line.Points))
	return nil
}

// lay lays the tasks: one that leads the curve, one that places the joints.
func (h *hose) lay(b *mechanism.Bench, reads []mechanism.Resource, points int) {
	name := b.Mechanism.Name
	h.short = b.Finding(fmt.Sprintf("%s is too short to keep the directions of its ends: they give way; bring the ends nearer, or pay some out.", name))
	h.parted = b.Finding(fmt.Sprintf("%s does not reach to what holds its end: it ends before that; bring the ends nearer, or pay some out.", name))
	h.torn = b.Finding(fmt.Sprintf("The side to which %s bulges and its weight cancel here; it may change sides.", name))
	h.opposed = b.Finding(fmt.Sprintf("The ends of %s are turned half round against each other; its twist may change side.", name))
	h.sharp = b.Finding(fmt.Sprintf("%s bends so sharp that it turns at once; bring its ends apart, or turn them to each other.", name))
	h.curve = b.Offer(mechanism.NewCurve(points))
	h.room = mechanism.ScratchOf(b, func() *room {
		return &room{by: curve.NewLengthening(h.line), carried: make([]mgl64.Vec3, points), ways: make([]mgl64.Vec3, points)}
	})
	carries := mechanism.Resource{Kind: mechanism.CurveOf, Index: h.curve}
	b.Add(mechanism.Task{Run: h.lead, Reads: reads, Writes: []mechanism.Resource{carries}, Raises: []int{h.short, h.parted, h.torn}})
	place := mechanism.Task{Run: h.place, Calibrate: h.calibrate, Reads: append([]mechanism.Resource{carries}, reads...), Raises: []int{h.opposed, h.sharp}}
	for _, joint := range h.joints {
		place.Writes = append(place.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	b.Add(place)
}

// shape measures the hose at rest: how far each point goes with the last end, where it lies on the way between the ends' own, and to which side it bulges besides.
func (h *hose) shape(line *curve.BSpline, side mgl64.Vec3, stiffness float64) {
	h.line = line
	points := line.Points
	n := len(points)
	h.shares, h.along, h.profile, h.sides = make([]float64, n), make([]float64, n), make([]float64, n), make([]mgl64.Vec3, n)
	first, last := points[1], points[n-2]
	held := 0.4 * stiffness
	bulge := 0.0
	for i := 2; i < n-2; i++ {
		share := float64(i-1) / float64(n-3)
		h.along[i] = share
		h.shares[i] = geometry.Smoothstep((share - held) / (1 - 2*held))
		h.profile[i] = 4 * share * (1 - share)
		bulge = math.Max(bulge, points[i].Sub(first.Mul(1-share).Add(last.Mul(share))).Len())
	}
	h.shares[n-1], h.shares[n-2] = 1, 1
	by := curve.NewLengthening(line)
	by.Set(points, h.sides)
	h.long, _ = by.Length(0)
	if side == (mgl64.Vec3{}) && bulge < slight*h.long {
		side = sides[down]
	}
	for i := range h.sides {
		h.sides[i] = side.Mul(h.profile[i] * h.long)
	}
	h.bulge = math.Max(bulge, slight*h.long)
	h.start = geometry.Unit(points[1].Sub(points[0]), geometry.MainAxis)
	h.end = geometry.Unit(points[n-1].Sub(points[n-2]), geometry.MainAxis)
	h.normal = geometry.Across(geometry.Up, h.start)
}

// slight is how far a hose lies off the straight way, as a share of its length, for it to have a side to which it bulges at rest.
const slight = 0.02
