package search

import (
	"testing"

	"github.com/stretchr/testify/require"

	"vereda/core/season/bound"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

func TestSmallSeasonsAreSolvedToTheProvenOptimum(t *testing.T) {
	proven, nodes := 0, 300
	if testing.Short() {
		nodes = 60
	}
	seeds := []uint64{655} // what nobody needs, put first, keeps a unit from a class that nobody could lead
	for seed := range uint64(nodes - 1) {
		seeds = append(seeds, seed)
	}
	for _, seed := range seeds {
		p := seasontest.Tiny(seed)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(p, plan.Placements), "seed %d", seed)
		best := seasontest.Exhausted(p)
		require.InDelta(t, best, plan.Coverage, 1e-9, "seed %d", seed)
		require.GreaterOrEqual(t, bound.OfModel(model.New(p), plan.Coverage, nil), best-1e-9, "the bound alone, seed %d", seed)
		if plan.Proven {
			proven++
		}
	}
	t.Logf("%d of %d seasons: the optimum of brute force; proven without it: %d", nodes, nodes, proven)
	require.Equal(t, nodes, proven)
}
