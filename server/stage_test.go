package server

import (
	"testing"

	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/plan"
	"myriapod/core/repeat"
)

// BenchmarkFrame encodes a frame of Tallow entire.
func BenchmarkFrame(b *testing.B) {
	specimen, err := demo.Find("tallow")
	require.NoError(b, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(b, err)
	seen, err := repeat.Expand(steps[len(steps)-1].Next)
	require.NoError(b, err)
	planned, err := plan.BuildExpanded(seen, kinds.All(), nil, nil)
	require.NoError(b, err)
	s := stage{kinds: kinds.All(), kept: seen, evaluator: evaluate.New(planned)}
	s.evaluator.Evaluate()
	b.ReportAllocs()
	for b.Loop() {
		s.frame(1)
	}
}
