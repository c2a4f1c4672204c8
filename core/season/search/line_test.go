package search

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/rules"
	"vereda/internal/seasontest"
)

// withLines asks every track of a season for stretches of so many weeks.
func withLines(p season.Problem, least, most int) season.Problem {
	p.Tracks = slices.Clone(p.Tracks)
	for i := range p.Tracks {
		p.Tracks[i].Rules.AreaLeast, p.Tracks[i].Rules.AreaMost = least, most
	}
	return p
}

// On tiny seasons the lines that are chosen lead to what brute force finds over all plans and lines, nearly always.
func TestTheLinesOfTinySeasons(t *testing.T) {
	seasons, found, asked := 150, 0, 0
	if testing.Short() {
		seasons = 40
	}
	for seed := range uint64(seasons) {
		p := seasontest.Tiny(seed)
		p.Units = slices.Clone(p.Units)
		for i := range p.Units {
			p.Units[i].Area = fmt.Sprint("a", (seed+uint64(i))%2)
		}
		p.Fixed, p.Wanted = nil, nil
		p = withLines(p, int(seed%2)+1, int(seed%3)+2)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, seasontest.Habits(p, plan.Placements), "seed %d", seed)
		require.Empty(t, rules.Breaches(p, plan.Placements), "seed %d", seed)
		best, free := bruteForce(p)
		require.LessOrEqual(t, plan.Coverage, best+1e-9, "seed %d", seed)
		if plan.Coverage >= best-1e-9 {
			found++
		}
		if best < free-1e-9 {
			asked++
		}
	}
	t.Logf("%d seasons: the line costs something in %d, the best found in %d", seasons, asked, found)
	assert.Greater(t, asked, seasons/10, "the rule was asked in earnest")
	assert.GreaterOrEqual(t, found, seasons*85/100)
}

// A line goes around what is fixed, on from weeks that are over, and lets what is wanted by a date be taught in any week.
func TestALineAroundWhatStands(t *testing.T) {
	p := seasontest.Small()
	p = withLines(p, 2, 3)
	plan, err := Solve(p, nil)
	require.NoError(t, err)
	assert.Empty(t, rules.Breaches(p, plan.Placements))

	// Half of it is over: what follows goes on from there.
	p.Fixed = nil
	for _, x := range plan.Placements {
		if x.Week <= 3 {
			x.Held = true
			p.Fixed = append(p.Fixed, x)
		}
	}
	later, err := Solve(p, nil)
	require.NoError(t, err)
	assert.Empty(t, rules.Breaches(p, later.Placements))

	p.Wanted = []season.Wanted{{Unit: "escape", Week: p.Weeks}}
	dated, err := Solve(p, nil)
	require.NoError(t, err)
	assert.Empty(t, rules.Hard(rules.Breaches(p, dated.Placements)))
	assert.True(t, slices.ContainsFunc(dated.Placements, func(x season.Placement) bool {
		return slices.Contains(x.Items, season.Item{Unit: "escape", Kind: season.Teach})
	}))
}
