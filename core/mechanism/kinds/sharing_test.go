package kinds_test

import (
	"math/rand/v2"
	"sync"
	"testing"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/evaluate"
	"myriapod/core/motion"
)

// One plan serves many evaluators: what one works out is the same whatever another does in between, or at the same time.
func TestEvaluatorsShareAPlan(t *testing.T) {
	everywhere(t, func(t *testing.T, seed uint64, make func(stage) *evaluate.Evaluator) {
		s := stage{1, mgl64.Vec3{}}
		first := make(s)
		paths := []*path{pathOf(first, rand.New(rand.NewPCG(seed, 2)), 1, false)}
		alone := []*path{pathOf(make(s), rand.New(rand.NewPCG(seed, 2)), 1, false)}
		for k := range uint64(2) {
			other := evaluate.New(first.Plan)
			if clips := first.Plan.Document.Clips; len(clips) > 0 {
				other.SetClip(motion.Prepare(clips[0]))
			}
			paths = append(paths, pathOf(other, rand.New(rand.NewPCG(seed, 5+k)), 1, false))
			alone = append(alone, pathOf(make(s), rand.New(rand.NewPCG(seed, 5+k)), 1, false))
		}
		random := rand.New(rand.NewPCG(seed, 9))
		for range 4 {
			share := random.Float64()
			var wait sync.WaitGroup
			for i := range paths {
				want := alone[i].look(share)
				wait.Go(func() {
					for range 3 {
						paths[i].look(share / 2)
						got := paths[i].look(share)
						if !sameLook(want, got) {
							t.Errorf("evaluator %d goes another way when others run on its plan", i)
						}
					}
				})
			}
			wait.Wait()
		}
	})
}

func sameLook(a, b look) bool {
	for i := range a.joints {
		if a.joints[i] != b.joints[i] {
			return false
		}
	}
	for i := range a.findings {
		if a.findings[i] != b.findings[i] {
			return false
		}
	}
	return true
}
