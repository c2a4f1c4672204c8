package search

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/rules"
	"vereda/internal/seasontest"
)

// No plan breaks a rule of its tracks, whichever are asked, and no hard one.
func TestAPlanKeepsTheRulesOfItsTracks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawHabits(t)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(p, plan.Placements))
		require.Empty(t, seasontest.Habits(p, plan.Placements))
		require.Empty(t, rules.Breaches(p, plan.Placements))
		require.LessOrEqual(t, plan.Coverage, plan.Bound+1e-9)
	})
}

// bruteForce tries every plan of a small season: the most that keeps the rules of its tracks, and the most without them.
func bruteForce(p season.Problem) (best, free float64) {
	seasontest.Visit(p, func(all []season.Placement) {
		c, _ := season.Coverage(p, all)
		if c > free {
			seasontest.VisitLeads(p, all, func([]season.Placement) { free = c })
		}
		if c > best && len(seasontest.Habits(p, all)) == 0 {
			seasontest.VisitLeads(p, all, func([]season.Placement) { best = c })
		}
	})
	return best, free
}

// Under rules, too, a small season is solved to the optimum that brute force finds.
func TestSmallSeasonsUnderRulesAreOptimal(t *testing.T) {
	asked, proven, nodes := 0, 0, 200
	if testing.Short() {
		nodes = 40
	}
	for seed := range uint64(nodes) {
		p := seasontest.WithHabits(seasontest.Tiny(seed), seed)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, seasontest.Habits(p, plan.Placements), "seed %d", seed)
		best, free := bruteForce(p)
		require.InDelta(t, best, plan.Coverage, 1e-9, "seed %d", seed)
		if best < free-1e-9 {
			asked++
		}
		if plan.Proven {
			proven++
		}
	}
	t.Logf("%d seasons: the rules cost something in %d, proven optimal %d", nodes, asked, proven)
	assert.Equal(t, nodes, proven)
	assert.Greater(t, asked, nodes/10, "the rules were asked in earnest")
}

func TestRulesCanBeInConflict(t *testing.T) {
	p := seasontest.Small()
	p.Wanted = []season.Wanted{{Unit: "escape", Week: 3}}
	p.Barred = []season.Barred{{Unit: "escape", From: 1, To: p.Weeks}}
	_, err := Solve(p, nil)
	var c *Conflict
	require.ErrorAs(t, err, &c)
	assert.Contains(t, c.Conditions, "escape is kept out of weeks 1 to 6")
	assert.Contains(t, c.Conditions, "escape is wanted by week 3")
}

// What a track knows before the season is there by any week, and nothing that it stands on is asked for.
func TestWhatIsKnownBeforeIsNoDemand(t *testing.T) {
	p := seasontest.Small()
	p.Wanted = []season.Wanted{{Unit: "escape", Track: "fund", Week: 1}}
	p.Tracks[0].Assumed = []string{"escape"}
	p.Closures = []season.Closure{{Week: 1}}
	_, err := Solve(p, nil)
	require.NoError(t, err)
}
