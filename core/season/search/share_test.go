package search

import (
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/internal/seasontest"
)

// ended is what a proof hears of a search that goes no further.
func ended(h *Search) *heard {
	f := newFinds()
	f.tell(h)
	f.end()
	return &heard{finds: f}
}

// shared is a proof that has a helper from its first parts on, after so many microseconds.
func shared(t *testing.T, seed uint64, budget int) (e *exhaust, done bool, most float64) {
	t.Helper()
	p := seasontest.As(seasontest.SmallSeason, seed, false)
	p.Goal = "coverage"
	h := laid(p)
	h.limit = stepsPerSecond / 2
	h.Run(nil)
	e = newExhaust(h.st.Model, find{score: h.score, plan: h.best}, nil)
	e.hear, e.shareAt = ended(h), 0
	_, ok := e.begin(10)
	require.True(t, ok)
	done, most = e.branch(budget)
	return e, done, most
}

// What two proofs come to that share the parts of a season does not hang on how many processors there are, nor on which of the two is faster.
func TestProofsThatShareComeToTheSameOnEveryMachine(t *testing.T) {
	two, done, most := shared(t, 89, 1_500_000)
	require.True(t, two.helper.helps)
	assert.False(t, done)
	before := runtime.GOMAXPROCS(1)
	one, _, alone := shared(t, 89, 1_500_000)
	runtime.GOMAXPROCS(before)
	assert.InDelta(t, most, alone, 0)
	assert.InDelta(t, two.score, one.score, 0)
	assert.Equal(t, two.best, one.best)
	assert.Equal(t, two.daily.Work(), one.daily.Work())
	assert.Equal(t, two.st.Work, one.st.Work)
	assert.True(t, two.helper.stop(), "it goes when the first is over")
}

// Shared, a proof ends with the coverage that was proven once by one alone.
func TestProofsThatShareProveWhatOneDoes(t *testing.T) {
	for seed, best := range map[uint64]float64{24: 0.8642192691674636, 58: 0.9291857127924846} {
		e, done, most := shared(t, seed, 20_000_000)
		require.True(t, done, "seed %d", seed)
		assert.InDelta(t, best, e.score, 1e-9)
		assert.InDelta(t, e.score*e.m.Weights, most, 1e-9)
		assert.Greater(t, e.helper.daily.Work(), e.daily.Work()/4, "the helper had its part in it")
	}
}

// A helper whose ways are not the same would look at other parts: it does not help.
func TestAHelperWithOtherWaysDoesNotHelp(t *testing.T) {
	e, _, _ := shared(t, 24, 200_000)
	other := newExhaust(e.m, find{score: e.score * 0.98, plan: e.best}, nil)
	_, ok := other.begin(10)
	require.True(t, ok)
	assert.False(t, (&helper{exhaust: other}).alike(e))
	same := newExhaust(e.m, find{score: e.from, plan: e.best}, nil)
	_, ok = same.begin(10)
	require.True(t, ok)
	assert.True(t, (&helper{exhaust: same}).alike(e))
}

// A search that leaves its processor to the proof is still watched: it says how much of the wish is over, and ends when nobody wants it any more.
func TestAProofThatIsWaitedForCanBeStopped(t *testing.T) {
	p := seasontest.As(seasontest.SmallSeason, 89, false)
	p.Goal, p.Seconds = "coverage", 60
	start := time.Now()
	ends := start
	var at int64
	plan, err := SolveWithin(p, func() time.Duration { return time.Since(start) }, func(p Progress) bool {
		require.GreaterOrEqual(t, p.Work, at)
		at = p.Work
		ends = time.Now()
		return at < searchesFor+stepsPerSecond
	})
	require.NoError(t, err)
	assert.Less(t, time.Since(ends), 5*time.Second, "not when the wish is over, nor the proof")
	assert.Empty(t, seasontest.Breaches(p, plan.Placements))
	assert.False(t, plan.Proven)
	assert.Greater(t, plan.Bound, plan.Coverage)
}
