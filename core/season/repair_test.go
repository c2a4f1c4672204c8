package season

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The judge of repairs: every plan of a tiny season, every lead; of those
// within 1 % of the best coverage, the fewest changed classes.
func fewestChanges(p Problem, old Plan, enough float64) int {
	fewest := 1 << 30
	visit(p, func(all []Placement) {
		if c, _ := Coverage(p, all); c < enough {
			return
		}
		visitLeads(p, all, func(led []Placement) { fewest = min(fewest, changedClasses(p, old, Plan{Placements: led})) })
	})
	return fewest
}

// changedClasses is Diff without minding the order of a class's items where it
// changes nothing.
func changedClasses(p Problem, before, after Plan) int {
	if p.Tracks[0].Mode == "same" && len(p.Classes) > 1 && p.Classes[0].TeachMinutes != p.Classes[1].TeachMinutes {
		return len(Diff(before, after))
	}
	sorted := func(p Plan) Plan {
		p.Placements = slices.Clone(p.Placements)
		for i := range p.Placements {
			p.Placements[i].Items = slices.SortedFunc(slices.Values(p.Placements[i].Items), func(a, b Item) int { return strings.Compare(a.Unit, b.Unit) })
		}
		return p
	}
	return len(Diff(sorted(before), sorted(after)))
}

func TestRepairsChangeTheFewestClasses(t *testing.T) {
	fewest, proven, all := 0, 0, 0
	for seed := range uint64(100) {
		p := tiny(seed)
		old, err := Solve(p, nil)
		require.NoError(t, err)
		r := rand.New(rand.NewPCG(seed, 9))
		if r.IntN(2) == 0 && len(old.Placements) > 0 { // as if it had been moved by hand
			old.Placements = old.Placements[:len(old.Placements)-1]
			old.Coverage, _ = Coverage(p, old.Placements)
		}
		d := Disruption{Kind: "closed", Week: 1 + r.IntN(p.Weeks), Class: "c0"}
		if r.IntN(2) == 0 {
			d = Disruption{Kind: "coach_out", Week: d.Week, Coach: "k0"}
		}
		changed, plan, err := Disrupted(p, old, []Disruption{d})
		require.NoError(t, err)
		got, err := Repair(changed, plan, 1)
		require.NoError(t, err)
		require.Empty(t, breaches(changed, got.Plan.Placements), "seed %d", seed)
		best := exhausted(changed)
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
	p := small()
	old, err := Solve(p, nil)
	require.NoError(t, err)
	i := slices.IndexFunc(old.Placements, func(x Placement) bool { return slices.Contains(x.Items, Item{"move", Teach}) })
	require.GreaterOrEqual(t, i, 0)
	x := old.Placements[i]

	changed, plan, err := Disrupted(p, old, []Disruption{{Kind: "not_reached", Week: x.Week, Class: x.Class, Unit: "move"}})
	require.NoError(t, err)
	r, err := Repair(changed, plan, x.Week)
	require.NoError(t, err)
	require.Empty(t, breaches(changed, r.Plan.Placements))
	y, _ := r.Plan.Find(x.Week, x.Class)
	assert.NotContains(t, y.Items, Item{"move", Teach}, "what was not reached is not claimed")

	changed, plan, err = Disrupted(p, old, []Disruption{{Kind: "wanted", Week: 2, Unit: "legs", Track: "nogi"}})
	require.NoError(t, err)
	r, err = Repair(changed, plan, 1)
	require.NoError(t, err)
	require.Empty(t, breaches(changed, r.Plan.Placements))
	assert.True(t, slices.ContainsFunc(r.Plan.Placements, func(x Placement) bool { return x.Week <= 2 && slices.Contains(x.Items, Item{"legs", Teach}) }))

	changed, plan, err = Disrupted(p, old, []Disruption{{Kind: "wanted", Week: 1, Unit: "escape"}})
	require.NoError(t, err)
	_, err = Repair(changed, plan, 1)
	var conflict *Conflict
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
	p := generated(smallSeason, 5)
	old, err := Solve(p, nil)
	require.NoError(t, err)
	r, err := Repair(p, old, 1)
	require.NoError(t, err)
	assert.Empty(t, r.Changes)
}
