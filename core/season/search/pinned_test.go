package search

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// What is pinned stays to the last item, and the others change; the model whose squares were pinned apart is as it was.
func TestASearchLeavesWhatIsPinnedAlone(t *testing.T) {
	for seed := range uint64(6) {
		p := seasontest.Generated(seasontest.SmallSeason, seed)
		if seed%2 == 1 {
			p = seasontest.WithHabits(p, seed)
		}
		shared := model.New(p)
		m := shared.Apart()
		st, conflict := Begin(m, nil)
		require.Nil(t, conflict)
		Fill(st, nil)
		before, covered := st.Contents(), st.Coverage()
		r := rand.New(rand.NewPCG(seed, 1))
		for s := range m.Squares {
			m.Squares[s].Pinned = r.IntN(2) == 0
		}
		h := New(st, seed+1, 30_000)
		h.Run(nil)
		changed := 0
		for s := range m.Squares {
			if slices.Equal(st.Items[s], before[s]) {
				continue
			}
			changed++
			assert.False(t, m.Squares[s].Pinned, "seed %d, square %d", seed, s)
		}
		assert.Positive(t, changed, "seed %d: nothing was searched", seed)
		assert.GreaterOrEqual(t, h.Covers, covered)
		assert.Empty(t, seasontest.Breaches(p, Plan(st, 0, nil).Placements))
		assert.False(t, slices.ContainsFunc(shared.Squares, func(q model.Square) bool { return q.Pinned }))
	}
}

// A search that is told what is enough ends there.
func TestASearchEndsWhereItIsEnough(t *testing.T) {
	p := seasontest.Generated(seasontest.MediumSeason, 3)
	run := func(enough float64) (covers float64, work int64) {
		st, conflict := Begin(model.New(p), nil)
		require.Nil(t, conflict)
		Fill(st, nil)
		from := st.Work
		h := New(st, 1, 400_000)
		h.Enough = enough
		h.Run(nil)
		assert.InDelta(t, h.Covers, st.Coverage(), 1e-12)
		return h.Covers, st.Work - from
	}
	start, _ := run(1e-9)
	best, long := run(0)
	require.Greater(t, best, start)
	half := (start + best) / 2
	covers, short := run(half)
	assert.GreaterOrEqual(t, covers, half)
	assert.Less(t, short, long/2)
}
