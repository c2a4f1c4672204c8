package ledger

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
)

// drawnPicks are checks that fall by the weights w on one thing of those there are.
func drawnPicks(r *rand.Rand, n int, w CheckHabits) []Pick {
	picks := make([]Pick, n)
	for i := range picks {
		p := Pick{Ready: r.IntN(6), Early: r.IntN(9), Again: 1 + r.IntN(12)}
		a, b, c := float64(p.Ready), w.Early*float64(p.Early), w.Again*float64(p.Again)
		switch x := r.Float64() * (a + b + c); {
		case x < a:
			p.Was = pickReady
		case x < a+b:
			p.Was = pickEarly
		default:
			p.Was = pickAgain
		}
		picks[i] = p
	}
	return picks
}

func likelihood(picks []Pick, w CheckHabits) float64 {
	sum := 0.0
	for _, p := range picks {
		all := float64(p.Ready) + w.Early*float64(p.Early) + w.Again*float64(p.Again)
		switch p.Was {
		case pickReady:
			sum += math.Log(1 / all)
		case pickEarly:
			sum += math.Log(w.Early / all)
		case pickAgain:
			sum += math.Log(w.Again / all)
		}
	}
	return sum
}

// Planted habits are found again, and no weights on a grid around them are likelier.
func TestFitHabitsFindsPlantedOnes(t *testing.T) {
	for n, w := range []CheckHabits{{1, 1}, {0.2, 0.05}, {0.7, 2}, {3, 0.5}} {
		picks := drawnPicks(rand.New(rand.NewPCG(uint64(n), 9)), 4000, w)
		got := FitHabits(picks)
		assert.InEpsilon(t, w.Early, got.Early, 0.15)
		assert.InEpsilon(t, w.Again, got.Again, 0.25)
		best := likelihood(picks, got)
		for _, a := range []float64{0.8, 0.9, 1, 1.1, 1.25} {
			for _, b := range []float64{0.8, 0.9, 1, 1.1, 1.25} {
				assert.LessOrEqual(t, likelihood(picks, CheckHabits{got.Early * a, got.Again * b}), best+0.5, "half a check is added to each group")
			}
		}
	}
	assert.Zero(t, FitHabits(drawnPicks(rand.New(rand.NewPCG(1, 1)), leastPicks-1, CheckHabits{1, 1})), "too few to say")
	only := FitHabits(drawnPicks(rand.New(rand.NewPCG(1, 1)), 500, CheckHabits{}))
	assert.Less(t, only.Early+only.Again, 0.01, "only what is ready was ever picked")
}

// What a check could have been of is told from what happened before it.
func TestPicksFollowWhatHappened(t *testing.T) {
	asked := Asked{{"escape", library.Right}: curriculum.Passed.Step(), {"escape", library.Left}: curriculum.Passed.Step(), {"move", ""}: curriculum.Met.Step()}
	teach := func(on calendar.Day, technique string) Attended {
		return Attended{On: on, Items: []Item{{Technique: technique, Kind: "teach", Reached: "all"}}}
	}
	attended := []Attended{teach(today-30, "escape"), teach(today-20, "escape"), teach(today-10, "escape"), teach(today-9, "move")}
	check := func(on calendar.Day, side library.Side) Checked {
		return Checked{On: on, Technique: "escape", Side: side, Rung: curriculum.Passed, Met: true}
	}
	checked := []Checked{{On: today - 40, Technique: "escape", Side: library.Right}, check(today-25, library.Right), check(today-5, library.Left), check(today-4, library.Left), {On: today - 3, Technique: "other", Met: true}}
	picks := Picks(lib(), DefaultStanding, attended, checked, asked, today-1000)
	require.Len(t, picks, 5)
	assert.Equal(t, []Pick{
		{0, 0, 0, pickNone},  // nothing was met yet
		{0, 2, 0, pickEarly}, // both sides taught once
		{1, 0, 2, pickReady}, // left drilled; right passed, the movement met
		{0, 0, 3, pickAgain},
		{0, 0, 3, pickNone}, // not asked for
	}, picks)
	assert.True(t, picks[0].Elsewhere() && !picks[1].Elsewhere())
	assert.Len(t, Picks(lib(), DefaultStanding, attended, checked, asked, today-4), 2)
}

// A range is judged by its own end, and by nothing that came of it.
func TestJudgeRanges(t *testing.T) {
	day := func(n int) *calendar.Day { d := today + calendar.Day(n); return &d }
	of := func(p10, p90 *calendar.Day) Likely { return Likely{P10: p10, P90: p90} }
	all := []Foretold{
		{of(day(-20), day(-10)), 0.9, day(-15)},
		{of(day(-20), day(-10)), 0.9, day(-20)},
		{of(day(-20), day(-10)), 0.9, day(-10)},
		{of(day(-20), day(-10)), 0.9, day(-25)},
		{of(day(-20), day(-10)), 0.9, day(-5)},
		{of(day(-20), day(-10)), 0.9, nil},
		{of(day(-20), day(1)), 0.5, day(-15)}, // ends later: not judged
		{of(day(-20), nil), 0.3, nil},
		{of(nil, nil), 0, nil},
	}
	b := JudgeRanges(all, today)
	assert.Equal(t, Backtest{Judged: 6, Within: 3, Before: 1, After: 2, All: 9, Expected: b.Expected, Came: 6}, b)
	assert.InDelta(t, 6.2, b.Expected, 1e-12)
	assert.InDelta(t, 0.5, b.Held(), 1e-12)
	assert.Zero(t, Backtest{}.Held())
	twice := b.Add(b)
	assert.Equal(t, 12, twice.Judged)
	assert.InDelta(t, b.Held(), twice.Held(), 1e-12)
}

// When each rung was reached is told from the same steps that make the standings.
func TestReachedSince(t *testing.T) {
	item := []Item{{Technique: "escape", Kind: "teach", Reached: "all"}}
	attended := []Attended{{On: today - 50, Items: item}, {On: today - 40, Items: item}, {On: today - 30, Items: item}}
	checked := []Checked{{On: today - 20, Technique: "escape", Side: library.Right, Rung: curriculum.Passed, Met: true}, {On: today - 10, Technique: "escape", Side: library.Right, Rung: curriculum.Passed, Met: true}}
	all := ReachedSince(lib(), DefaultStanding, attended, checked, today-45)
	at := func(side library.Side, r curriculum.Rung) calendar.Day {
		return all[ReachedKey{"escape", side, r.Step()}]
	}
	assert.Equal(t, today-30, at(library.Right, curriculum.Drilled))
	assert.Equal(t, today-30, at(library.Left, curriculum.Drilled))
	assert.Equal(t, today-20, at(library.Right, curriculum.Passed), "the first time counts")
	assert.Len(t, all, 3, "met before that day, and the left was never checked")
	for _, s := range Standings(lib(), DefaultStanding, attended, checked) {
		for step := curriculum.Drilled.Step(); step <= s.Rung.Step(); step++ {
			assert.Contains(t, all, ReachedKey{s.Technique, s.Side, step})
		}
	}
}
