package search

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// A season of one track is solved as brute force does, from no plan at all.
func TestATrackIsSolvedExactly(t *testing.T) {
	for seed := range uint64(60) {
		p := seasontest.Tiny(seed)
		m := model.New(p)
		if m.Weights == 0 {
			continue
		}
		e := newExhaust(m, find{plan: make([][]model.Item, len(m.Squares))}, nil)
		e.oneByOne(2_000_000)
		require.InDelta(t, seasontest.Exhausted(p), e.score, 1e-9, "seed %d", seed)
		require.Empty(t, seasontest.Breaches(p, Plan(Spare(m, e.best), 1, nil).Placements))
	}
}

// Solved track by track, a plan keeps every rule and covers what is said; and no track of any other plan is better beside the others.
func TestNoTrackIsBetterBesideTheOthers(t *testing.T) {
	raised := 0
	for _, seed := range []uint64{11, 12, 43, 48, 57, 100, 123} {
		p := seasontest.As(seasontest.SmallSeason, seed, false)
		p.Goal = "coverage"
		h := laid(p)
		h.limit = 200_000
		h.Run(nil)
		e := newExhaust(h.st.Model, find{plan: h.best, score: h.score}, nil)
		took := e.oneByOne(4_000_000)
		require.Less(t, took, 4_000_000, "seed %d: solved in its time", seed)
		require.GreaterOrEqual(t, e.score, h.score)
		if e.score > h.score+1e-9 {
			raised++
		}
		st := Spare(h.st.Model, e.best)
		require.InDelta(t, st.Coverage(), e.score, 1e-9)
		require.Empty(t, seasontest.Breaches(p, Plan(st, 1, nil).Placements))
		for n := range uint64(6) {
			other := laid(p)
			other.rng, other.limit = random(n+7), 300_000
			other.Run(nil)
			for track := range st.Model.ByTrack {
				changes := []model.Change{}
				for _, s := range st.Model.ByTrack[track] {
					changes = append(changes, model.Change{Square: int(s), Items: other.best[s]})
				}
				if st.Try(changes...) {
					require.LessOrEqual(t, st.Coverage(), e.score+1e-9, "seed %d, track %d", seed, track)
					st.Undo()
				}
			}
		}
	}
	assert.Greater(t, raised, 4, "a search as short as this misses something within a track")
}

// What a search of a second misses within a track is found beside it: without that these plans come out 0.2 and 0.1 % under the best, which were proven once.
func TestWhatASearchMissesWithinATrackIsFound(t *testing.T) {
	for seed, best := range map[uint64]float64{67: 0.8469768111005304, 144: 0.7684932259048944} {
		p := seasontest.As(seasontest.SmallSeason, seed, false)
		p.Goal, p.Seconds = "coverage", 1
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		assert.InDelta(t, best, plan.Coverage, 1e-9, "seed %d", seed)
	}
}

// It keeps within its time, and ends at once when told.
func TestTracksAreSolvedInTheTimeThereIs(t *testing.T) {
	p := seasontest.As(seasontest.SmallSeason, 147, false) // its second track takes a second
	p.Goal = "coverage"
	h := laid(p)
	h.limit = 200_000
	h.Run(nil)
	e := newExhaust(h.st.Model, find{plan: h.best, score: h.score}, nil)
	const budget = 300_000
	took := e.oneByOne(budget)
	assert.Greater(t, took, budget/2)
	assert.Less(t, took, 2*budget)
	e = newExhaust(h.st.Model, find{plan: h.best, score: h.score}, func() bool { return true })
	assert.Zero(t, e.oneByOne(math.MaxInt))
	assert.InDelta(t, h.score, e.score, 0)
}
