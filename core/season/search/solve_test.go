package search

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/model"
	"vereda/core/season/rules"
	"vereda/internal/seasontest"
)

// A longer search never ends worse, and a search that is stopped keeps its best.
func TestALongerSearchIsNeverWorse(t *testing.T) {
	for seed := range uint64(3) {
		p := seasontest.Generated(seasontest.MediumSeason, seed)
		last := 0.0
		for _, seconds := range []float64{0.05, 0.2, 0.6} {
			p.Seconds = seconds
			plan, err := Solve(p, nil)
			require.NoError(t, err)
			require.Empty(t, seasontest.Breaches(p, plan.Placements))
			require.GreaterOrEqual(t, plan.Coverage, last-1e-9, "%g s", seconds)
			require.LessOrEqual(t, plan.Coverage, plan.Bound+1e-9)
			last = plan.Coverage
		}
		asked := 0
		stopped, err := Solve(p, func(Progress) bool { asked++; return asked < 3 })
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(p, stopped.Placements))
		require.LessOrEqual(t, stopped.Coverage, last+1e-9)
	}
}

func TestUnplacedSaysWhy(t *testing.T) {
	p := seasontest.Small()
	p.Coaches[1].Signoffs = nil
	plan, err := Solve(p, nil)
	require.NoError(t, err)
	why := map[string]string{}
	for _, u := range plan.Unplaced {
		why[u.Unit] = u.Why.String()
	}
	assert.Equal(t, "No coach who is signed off for leg attacks can lead a class of its tracks.", why["legs"])
	p = seasontest.Small()
	p.Units[0].Minutes = 99
	plan, err = Solve(p, nil)
	require.NoError(t, err)
	i := slices.IndexFunc(plan.Unplaced, func(u season.Unplaced) bool { return u.Unit == "escape" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "It stands on Hip escape, which its tracks do not teach either.", plan.Unplaced[i].Why.String())
}

func TestPlanNeverBreaksAHardRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawProblem(t)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(p, plan.Placements))
		again, _ := season.Coverage(p, plan.Placements)
		require.InDelta(t, again, plan.Coverage, 1e-9)
		require.LessOrEqual(t, plan.Coverage, plan.Bound+1e-9)
		st := model.NewState(model.New(p))
		st.Put(plan.Placements)
		require.InDelta(t, again, st.Coverage(), 1e-9, "the running sum equals the sum from scratch")
		require.Empty(t, rules.Breaches(p, plan.Placements), "and the explaining judge agrees")
		twice, err := Solve(p, nil)
		require.NoError(t, err)
		require.Equal(t, plan, twice, "the same problem gives the same plan")
	})
}

func TestSmallSeason(t *testing.T) {
	p := seasontest.Small()
	plan, err := Solve(p, nil)
	require.NoError(t, err)
	require.Empty(t, seasontest.Breaches(p, plan.Placements))
	for _, x := range plan.Placements {
		assert.NotEqual(t, 3, x.Week, "closed")
		if slices.Contains(x.Items, season.Item{Unit: "legs", Kind: season.Teach}) {
			assert.Equal(t, "dov", x.Lead)
		}
	}
	assert.Greater(t, plan.Coverage, 0.6)
	assert.Equal(t, []season.Unplaced{{Unit: "huge", Why: say.F("It takes %d minutes; the longest class of its tracks has %d.", 50, 30)}}, plan.Unplaced)

	i := slices.IndexFunc(plan.Placements, func(x season.Placement) bool {
		return slices.Contains(x.Items, season.Item{Unit: "escape", Kind: season.Teach})
	})
	require.GreaterOrEqual(t, i, 0)
	x := plan.Placements[i]
	why, ok := explain.Why(p, plan, x.Week, x.Class, "escape")
	require.True(t, ok)
	require.Len(t, why.WaitsFor, 1)
	assert.Equal(t, "move", why.WaitsFor[0].Unit)
	assert.Less(t, why.WaitsFor[0].Week, x.Week)
	require.NotEmpty(t, why.Gains)
	assert.Equal(t, "ana", why.Gains[0].Student)
	assert.Positive(t, why.Worth)
	assert.Equal(t, []explain.Other{{Coach: "dov", Why: "not available"}}, why.LeadWhy)
	_, ok = explain.Why(p, plan, 3, "mon", "escape")
	assert.False(t, ok)
}

func TestCheckNamesFieldAndMend(t *testing.T) {
	for field, spoil := range map[string]func(*season.Problem){
		"weeks":                    func(p *season.Problem) { p.Weeks = 0 },
		"classes[0].track":         func(p *season.Problem) { p.Classes[0].Track = "x" },
		"classes[0].weekday":       func(p *season.Problem) { p.Classes[0].Weekday = 8 },
		"closures[0].class":        func(p *season.Problem) { p.Closures[0].Class = "x" },
		"units[0].minutes":         func(p *season.Problem) { p.Units[0].Minutes = 0 },
		"units[1].requires":        func(p *season.Problem) { p.Units[1].Requires = []string{"x"} },
		"units":                    func(p *season.Problem) { p.Units[0].Requires = []string{"escape"} },
		"students[0].chance.mon":   func(p *season.Problem) { p.Students[0].Chance["mon"] = 1.5 },
		"students[0].open[0].unit": func(p *season.Problem) { p.Students[0].Open[0].Unit = "x" },
		"tracks[0].mode":           func(p *season.Problem) { p.Tracks[0].Mode = "x" },
		"classes[1].id":            func(p *season.Problem) { p.Classes[1].ID = p.Classes[0].ID },
		"goal":                     func(p *season.Problem) { p.Goal = "most" },
		"closures[0].week":         func(p *season.Problem) { p.Closures[0].Week = 7 },
		"students[1].open[0].need": func(p *season.Problem) { p.Students[1].Open[0].Need = 99 },
		"coaches[0].available":     func(p *season.Problem) { p.Coaches[0].Available = []string{"x"} },
		"fixed[0].lead":            func(p *season.Problem) { p.Fixed = []season.Placement{{Week: 1, Class: "mon", Lead: "x"}} },
		"wanted[0].week":           func(p *season.Problem) { p.Wanted = []season.Wanted{{Unit: "move", Week: 9}} },
		"spacing.tolerance":        func(p *season.Problem) { p.Spacing.Tolerance = -1 },
		"fixed[0]":                 func(p *season.Problem) { p.Fixed = []season.Placement{{Week: 9, Class: "mon"}} },
	} {
		p := seasontest.Small()
		spoil(&p)
		found := p.Check()
		require.NotEmpty(t, found, field)
		assert.Equal(t, field, found[0].Field)
		_, err := Solve(p, nil)
		assert.Error(t, err)
	}
}
