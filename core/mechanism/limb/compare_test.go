package limb_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// descent is a general solver to compare with, written for this benchmark only: cyclic coordinate descent (Wang and Chen 1991, A combined
// optimization method for solving the inverse kinematics problem), from the rest pose, until the tip is within a millionth of the length.
func descent(rest []mgl64.Vec3, target mgl64.Vec3, places []mgl64.Vec3) (steps int) {
	copy(places, rest)
	last := len(places) - 1
	near := 1e-6 * reach(rest)
	for steps = 0; steps < 200 && places[last].Sub(target).Len() > near; steps++ {
		for joint := last - 1; joint >= 0; joint-- {
			from := geometry.Unit(places[last].Sub(places[joint]), geometry.Up)
			to := geometry.Unit(target.Sub(places[joint]), geometry.Up)
			turn := geometry.Shortest(from, to, geometry.Across(geometry.Up, from))
			for i := joint + 1; i <= last; i++ {
				places[i] = places[joint].Add(turn.Rotate(places[i].Sub(places[joint])))
			}
		}
	}
	return steps
}

// stepping is a target that goes down, forward and up as a foot does.
func stepping(rest []mgl64.Vec3, share float64) mgl64.Vec3 {
	tip, length := rest[len(rest)-1], reach(rest)
	return tip.Add(mgl64.Vec3{0, 0.12 + 0.12*math.Sin(4*math.Pi*share), 0.25 * math.Sin(2*math.Pi*share)}.Mul(length))
}

// roughness is by how much the way of the inner joints between two looks differs from their way before, at most, as a share of how far the
// target goes between two looks: a smooth limb has little of it.
func roughness(rest []mgl64.Vec3, pose func(target mgl64.Vec3) []mgl64.Vec3) float64 {
	const looks = 400
	var before, ways []mgl64.Vec3
	worst, far := 0.0, 0.0
	for k := range looks + 1 {
		now := pose(stepping(rest, float64(k)/looks))
		step := stepping(rest, float64(k+1)/looks).Sub(stepping(rest, float64(k)/looks)).Len()
		far = math.Max(far, step)
		next := make([]mgl64.Vec3, len(now))
		for i := range now {
			if before != nil {
				next[i] = now[i].Sub(before[i])
				if ways != nil {
					worst = math.Max(worst, next[i].Sub(ways[i]).Len())
				}
			}
		}
		if before != nil {
			ways = next
		}
		before = append([]mgl64.Vec3{}, now...)
	}
	return worst / far
}

// BenchmarkBeside puts the limb beside the general solver: time for a target, and roughness along a step.
func BenchmarkBeside(b *testing.B) {
	for _, bones := range []int{2, 3, 5, 8} {
		rest := leg(bones)
		s := open(b, build(b, rest, nil, nil))
		places := make([]mgl64.Vec3, len(rest))
		b.Run(fmt.Sprintf("limb/bones=%d", bones), func(b *testing.B) {
			for i := 0; b.Loop(); i++ {
				s.at(stepping(rest, float64(i%400)/400))
			}
			b.ReportMetric(roughness(rest, func(target mgl64.Vec3) []mgl64.Vec3 {
				s.at(target)
				for i := range places {
					places[i] = s.place(s.first + i)
				}
				return places
			}), "roughness")
		})
		b.Run(fmt.Sprintf("descent/bones=%d", bones), func(b *testing.B) {
			steps := 0
			for i := 0; b.Loop(); i++ {
				steps += descent(rest, stepping(rest, float64(i%400)/400), places)
			}
			b.ReportMetric(float64(steps)/float64(b.N), "rounds")
			b.ReportMetric(roughness(rest, func(target mgl64.Vec3) []mgl64.Vec3 {
				descent(rest, target, places)
				return places
			}), "roughness")
		})
	}
}
