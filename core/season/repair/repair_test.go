package repair

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/rules"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// The judge of repairs: every plan of a tiny season, every lead; of those
// within 1 % of the best coverage, the fewest changed classes.
func fewestChanges(p season.Problem, old season.Plan, enough float64) int {
	fewest := 1 << 30
	seasontest.Visit(p, func(all []season.Placement) {
		if c, _ := season.Coverage(p, all); c < enough {
			return
		}
		seasontest.VisitLeads(p, all, func(led []season.Placement) {
			fewest = min(fewest, changedClasses(p, old, season.Plan{Placements: led}))
		})
	})
	return fewest
}

// changedClasses is Diff without minding the order of a class's items where it
// changes nothing.
func changedClasses(p season.Problem, before, after season.Plan) int {
	if p.Tracks[0].Mode == "same" && len(p.Classes) > 1 && p.Classes[0].TeachMinutes != p.Classes[1].TeachMinutes {
		return len(Diff(before, after))
	}
	sorted := func(p season.Plan) season.Plan {
		p.Placements = slices.Clone(p.Placements)
		for i := range p.Placements {
			p.Placements[i].Items = slices.SortedFunc(slices.Values(p.Placements[i].Items), func(a, b season.Item) int { return strings.Compare(a.Unit, b.Unit) })
		}
		return p
	}
	return len(Diff(sorted(before), sorted(after)))
}

func TestRepairsChangeTheFewestClasses(t *testing.T) {
	fewest, proven, all := 0, 0, 0
	for seed := range uint64(100) {
		p := seasontest.Tiny(seed)
		old, err := search.Solve(p, nil)
		require.NoError(t, err)
		r := rand.New(rand.NewPCG(seed, 9))
		if r.IntN(2) == 0 && len(old.Placements) > 0 { // as if it had been moved by hand
			old.Placements = old.Placements[:len(old.Placements)-1]
			old.Coverage, _ = season.Coverage(p, old.Placements)
		}
		d := Disruption{Kind: "closed", Week: 1 + r.IntN(p.Weeks), Class: "c0"}
		if r.IntN(2) == 0 {
			d = Disruption{Kind: "coach_out", Week: d.Week, Coach: "k0"}
		}
		changed, plan, err := Disrupted(p, old, []Disruption{d})
		require.NoError(t, err)
		got, err := Repair(changed, plan, 1)
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(changed, got.Plan.Placements), "seed %d", seed)
		best := seasontest.Exhausted(changed)
		require.InDelta(t, best, got.Anew, 1e-9, "seed %d: the best attainable", seed)
		require.GreaterOrEqual(t, got.Plan.Coverage, near*best-1e-9, "seed %d", seed)
		got.Changes = got.Changes[:min(len(got.Changes), changedClasses(p, old, got.Plan))] // the order inside a class apart
		want := fewestChanges(changed, old, near*best-1e-9)
		require.GreaterOrEqual(t, len(got.Changes), want, "seed %d: fewer than any", seed)
		all++
		if len(got.Changes) == want {
			fewest++
		}
		if got.Fewest {
			proven++
			require.Len(t, got.Changes, want, "seed %d: said to be the fewest", seed)
		}
	}
	t.Logf("%d of %d repairs change the fewest classes possible, %d say so", fewest, all, proven)
	require.GreaterOrEqual(t, fewest, all*97/100)
}

func TestDisruptions(t *testing.T) {
	p := seasontest.Small()
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	i := slices.IndexFunc(old.Placements, func(x season.Placement) bool {
		return slices.Contains(x.Items, season.Item{Unit: "move", Kind: season.Teach})
	})
	require.GreaterOrEqual(t, i, 0)
	x := old.Placements[i]

	changed, plan, err := Disrupted(p, old, []Disruption{{Kind: "not_reached", Week: x.Week, Class: x.Class, Unit: "move"}})
	require.NoError(t, err)
	r, err := Repair(changed, plan, x.Week)
	require.NoError(t, err)
	require.Empty(t, seasontest.Breaches(changed, r.Plan.Placements))
	y, _ := r.Plan.Find(x.Week, x.Class)
	assert.NotContains(t, y.Items, season.Item{Unit: "move", Kind: season.Teach}, "what was not reached is not claimed")

	changed, plan, err = Disrupted(p, old, []Disruption{{Kind: "wanted", Week: 2, Unit: "legs", Track: "nogi"}})
	require.NoError(t, err)
	r, err = Repair(changed, plan, 1)
	require.NoError(t, err)
	require.Empty(t, seasontest.Breaches(changed, r.Plan.Placements))
	assert.True(t, slices.ContainsFunc(r.Plan.Placements, func(x season.Placement) bool {
		return x.Week <= 2 && slices.Contains(x.Items, season.Item{Unit: "legs", Kind: season.Teach})
	}))

	changed, plan, err = Disrupted(p, old, []Disruption{{Kind: "wanted", Week: 1, Unit: "escape"}})
	require.NoError(t, err)
	_, err = Repair(changed, plan, 1)
	var conflict *search.Conflict
	require.ErrorAs(t, err, &conflict)
	assert.Contains(t, conflict.Conditions, "escape is wanted by week 1")
	assert.Contains(t, conflict.Conditions, "escape requires move")

	for _, d := range []Disruption{{Kind: "cancelled", Week: 2}, {Kind: "coach_out", Coach: "x"}, {Kind: "not_reached", Week: 3, Class: "mon"}, {Kind: "x"}} {
		_, _, err := Disrupted(p, old, []Disruption{d})
		assert.ErrorContains(t, err, "changes[0]", "%+v", d)
	}
}

// A plan that still fits is left alone.
func TestRepairOfNothingChangesNothing(t *testing.T) {
	p := seasontest.Generated(seasontest.SmallSeason, 5)
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	r, err := Repair(p, old, 1)
	require.NoError(t, err)
	assert.Empty(t, r.Changes)
}

// A coach falls out for a week: only who leads changes where others can.
func TestRepairOfACoachWhoIsOut(t *testing.T) {
	p := seasontest.Small()
	p.Coaches = append(p.Coaches, season.Coach{ID: "tam", Available: []string{"mon", "wed", "tue", "fri"}, Signoffs: []string{"leg attacks"}, MaxPerWeek: 4, Share: 0.2})
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	out := p
	out.Coaches = slices.Clone(p.Coaches)
	out.Coaches[0].Out = []season.Away{{Week: 4}}
	r, err := Repair(out, old, 4)
	require.NoError(t, err)
	require.Empty(t, seasontest.Breaches(out, r.Plan.Placements))
	assert.InDelta(t, old.Coverage, r.Plan.Coverage, 0.01)
	for _, c := range r.Changes {
		assert.Equal(t, 4, c.Week, "%+v", c)
		require.NotNil(t, c.After)
		assert.NotEqual(t, "ines", c.After.Lead)
	}
}

func TestDiffOfAPlanWithItselfIsEmpty(t *testing.T) {
	plan, err := search.Solve(seasontest.Small(), nil)
	require.NoError(t, err)
	assert.Empty(t, Diff(plan, plan))
	gone := season.Plan{Placements: plan.Placements[1:]}
	require.Len(t, Diff(plan, gone), 1)
	assert.Nil(t, Diff(plan, gone)[0].After)
	assert.Nil(t, Diff(gone, plan)[0].Before)
}

func TestRepairNeverBreaksAHardRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawProblem(t)
		old, err := search.Solve(p, nil)
		require.NoError(t, err)
		changed := p
		first := rapid.IntRange(1, p.Weeks).Draw(t, "first week")
		changed.Closures = append(slices.Clone(p.Closures), season.Closure{Week: rapid.IntRange(first, p.Weeks).Draw(t, "cancelled in"), Class: "c0"})
		r, err := Repair(changed, old, first)
		require.NoError(t, err)
		require.Empty(t, seasontest.Breaches(changed, r.Plan.Placements))
		require.GreaterOrEqual(t, r.Plan.Coverage, 0.99*r.Anew-1e-9)
		require.Equal(t, Diff(old, r.Plan), r.Changes)
	})
}

func TestRepairOfACancelledClass(t *testing.T) {
	p := seasontest.Small()
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	p.Closures = append(p.Closures, season.Closure{Week: 2, Class: "mon"})
	r, err := Repair(p, old, 2)
	require.NoError(t, err)
	assert.Empty(t, seasontest.Breaches(p, r.Plan.Placements))
	for _, c := range r.Changes {
		assert.GreaterOrEqual(t, c.Week, 2, "what is past does not move")
	}
	i := slices.IndexFunc(r.Changes, func(c Change) bool { return c.Week == 2 && c.Class == "mon" })
	require.GreaterOrEqual(t, i, 0)
	assert.Nil(t, r.Changes[i].After)
	assert.LessOrEqual(t, len(r.Changes), 4)
}

// A track that goes along a line goes on along it when its coach is away, and what is explained of it stays on it.
func TestARepairKeepsTheLineOfATrack(t *testing.T) {
	repaired, off := 0, 0
	for seed := range uint64(60) {
		p := seasontest.Tiny(seed)
		p.Units, p.Tracks, p.Fixed, p.Wanted = slices.Clone(p.Units), slices.Clone(p.Tracks), nil, nil
		for i := range p.Units {
			p.Units[i].Area = fmt.Sprint("a", (seed+uint64(i))%2)
		}
		for i := range p.Tracks {
			p.Tracks[i].Rules.AreaLeast, p.Tracks[i].Rules.AreaMost = 1, 2
		}
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		if len(plan.Placements) == 0 {
			continue
		}
		x := plan.Placements[len(plan.Placements)/2]
		changed, old, err := Disrupted(p, plan, []Disruption{{Kind: "coach_out", Coach: x.Lead, Week: x.Week}})
		require.NoError(t, err)
		r, err := Repair(changed, old, 1)
		require.NoError(t, err)
		require.Empty(t, rules.Breaches(changed, r.Plan.Placements), "seed %d", seed)
		require.Empty(t, seasontest.Habits(changed, r.Plan.Placements), "seed %d", seed)
		repaired++
		for _, why := range explain.Reasons(p, plan) {
			if why.Instead != nil && why.Instead.Kind == season.Teach {
				off++
			}
		}
	}
	assert.Greater(t, repaired, 30)
	assert.Positive(t, off)
}
