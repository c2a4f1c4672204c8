package search

import (
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// What a proof hears hangs on the work it asks by: the best plan there was after so much, and it waits where the search is not there yet.
func TestWhatAProofHearsHangsOnWorkAlone(t *testing.T) {
	f, h := newFinds(), &Search{st: &model.State{}}
	stands := func(work int64, score float64) {
		h.st.Work, h.score = work, score
		f.tell(h)
	}
	stands(10, 0.1)
	stands(20, 0.3)
	stands(30, 0.3)
	for work, score := range map[int64]float64{5: 0.1, 10: 0.1, 19: 0.1, 20: 0.3, 30: 0.3} {
		assert.InDelta(t, score, f.at(work).score, 0, "after %d", work)
	}
	heard := make(chan float64)
	go func() { heard <- f.at(35).score }()
	select {
	case <-heard:
		t.Fatal("it did not wait")
	case <-time.After(20 * time.Millisecond):
	}
	stands(34, 0.4)
	stands(40, 0.9)
	assert.InDelta(t, 0.4, <-heard, 0, "not what came after")
	go func() { heard <- f.at(1000).score }()
	f.end()
	assert.InDelta(t, 0.9, <-heard, 0, "the search is over")
}

// A small season's plan and bound are the same with one processor and with two, where the proof does not end as well; a longer wish has no worse plan and no
// higher bound.
func TestASmallSeasonIsPlannedAlikeOnEveryMachine(t *testing.T) {
	p := seasontest.As(seasontest.SmallSeason, 13, false) // parted, and not proven so soon
	p.Goal, p.Seconds = "coverage", 1
	short, err := Solve(p, nil)
	require.NoError(t, err)
	assert.False(t, short.Proven)
	before := runtime.GOMAXPROCS(1)
	alone, err := Solve(p, nil)
	runtime.GOMAXPROCS(before)
	require.NoError(t, err)
	assert.Equal(t, short.Placements, alone.Placements)
	assert.InDelta(t, short.Bound, alone.Bound, 0)
	p.Seconds = 1.5
	long, err := Solve(p, nil)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, long.Coverage, short.Coverage-1e-9)
	assert.LessOrEqual(t, long.Bound, short.Bound+1e-9)
}

// Seasons of ten units are proven, those too that must be parted for it; and what is said to be the best is: no search of another seed finds more.
func TestSmallSeasonsAreProvenInParts(t *testing.T) {
	for _, seed := range []uint64{24, 58} {
		p := seasontest.As(seasontest.SmallSeason, seed, seed%2 == 0)
		p.Goal, p.Seconds = "coverage", 6
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(p, plan.Placements))
		assert.True(t, plan.Proven, "season %d: %g of %g", seed, plan.Coverage, plan.Bound)
		m := model.New(p)
		st := model.NewState(m)
		Fill(st, nil)
		h := New(st, 99+seed, stepsPerSecond/2)
		h.Run(nil)
		assert.LessOrEqual(t, h.Covers, plan.Coverage+1e-9, "season %d", seed)
	}
}
