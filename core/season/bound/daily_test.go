package bound_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/bound"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// At every step of its prices, and in parts, the relaxation with prices of every day promises no less than brute force finds; and it is no wider than the one it
// starts from.
func TestPricesOfEveryDayBoundEveryPlan(t *testing.T) {
	seasons, closer, parts := 200, 0, 0
	if testing.Short() {
		seasons = 40
	}
	for seed := range uint64(seasons) {
		near := []float64{0.9, 0.999}[seed%2] // the nearer the plan known is to the best, the more items are left out
		p := seasontest.Tiny(seed)
		m := model.New(p)
		best := seasontest.Exhausted(p) * m.Weights
		if best == 0 {
			continue
		}
		known := near * best
		x := bound.NewRelaxation(m)
		x.Prepare(known, 20_000)
		wide := x.Prove(20_000)
		d, _ := bound.NewDaily(x, known, wide-known, 1_000_000)
		require.NotNil(t, d)
		for _, steps := range []int{1, 8, 40} {
			require.True(t, d.Settle(0.3, 0.01, steps), "seed %d: there is a better plan", seed)
			require.GreaterOrEqual(t, d.Most, best-1e-9, "seed %d", seed)
		}
		require.LessOrEqual(t, d.Most, wide+1e-9)
		if d.Most < wide-1e-6*m.Weights {
			closer++
		}
		open := []*bound.Node{d.Node()}
		for range 4 {
			var next []*bound.Node
			most := 0.0
			for _, n := range open {
				d.Enter(n)
				if !d.Settle(0.1, 0.01, 10) {
					continue
				}
				most = max(most, d.Most)
				if cuts := d.Cuts(3, 3); len(cuts) > 0 {
					two := d.Part(cuts[seed%uint64(len(cuts))])
					next = append(next, two[0], two[1])
					parts++
				} else {
					next = append(next, d.Node())
				}
			}
			require.GreaterOrEqual(t, most, best-1e-9, "seed %d, in parts", seed)
			open = next
		}
	}
	require.Positive(t, closer)
	require.Positive(t, parts)
	t.Logf("of %d seasons %d are bounded closer; %d times a part was parted", seasons, closer, parts)
}

// Wherever a season is parted by what a square asks of its leads, the best plan is in one of the two parts.
func TestPartsByLeadsBoundEveryPlan(t *testing.T) {
	seasons, parted, empty := 150, 0, 0
	if testing.Short() {
		seasons = 30
	}
	for seed := range uint64(seasons) {
		p := seasontest.Tiny(seed)
		m := model.New(p)
		best := seasontest.Exhausted(p) * m.Weights
		if best == 0 {
			continue
		}
		x := bound.NewRelaxation(m)
		x.Prepare(0.99*best, 20_000)
		wide := x.Prove(20_000)
		d, _ := bound.NewDaily(x, 0.99*best, wide-0.99*best, 1_000_000)
		require.NotNil(t, d)
		require.True(t, d.Settle(0.3, 0.01, 30))
		whole := d.Node()
		for _, cut := range d.LeadCuts() {
			d.Enter(whole)
			most, two := 0.0, d.Part(cut)
			require.Zero(t, two[0].Kinds(cut)&two[1].Kinds(cut), "no plan is in both")
			require.Equal(t, whole.Kinds(cut), two[0].Kinds(cut)|two[1].Kinds(cut), "and each is in one")
			for _, n := range two {
				d.Enter(n)
				if d.Settle(0.2, 0.01, 30) {
					most = max(most, d.Most)
				} else {
					empty++
				}
			}
			require.GreaterOrEqual(t, most, best-1e-9, "seed %d, parted at %+v", seed, cut)
			parted++
		}
	}
	t.Log("parted", parted, "times,", empty, "parts without a better plan")
	require.Greater(t, parted, 2*seasons)
	require.Positive(t, empty)
}

// A week in which a class is not held gives its students nothing: it is bounded as an audience of its own, not as one that all classes of the length are in.
func TestAWeekWithoutAClassIsNotHeardByIt(t *testing.T) {
	p := season.Problem{
		Weeks:    2,
		Tracks:   []season.Track{{ID: "a", Mode: "same", School: "free"}},
		Classes:  []season.Class{{ID: "mon", Track: "a", Weekday: 1, Start: "18:00", TeachMinutes: 40}, {ID: "thu", Track: "a", Weekday: 4, Start: "18:00", TeachMinutes: 40}},
		Closures: []season.Closure{{Week: 1, Class: "thu"}},
		Units:    []season.Unit{{ID: "u", Tracks: []string{"a"}, Minutes: 20, ReviewMinutes: 10}},
		Students: []season.Student{{ID: "s", Chance: map[string]float64{"thu": 1}, Open: []season.Need{{Unit: "u", Need: 2, Weight: 1}}}},
		Coaches:  []season.Coach{{ID: "k", Available: []string{"mon", "thu"}, MaxPerWeek: 5, Share: 1}},
		Goal:     "coverage",
	}
	require.Empty(t, p.Check())
	require.Less(t, bound.OfModel(model.New(p), 0, nil), 0.01, "one Thursday is one exposure of two")
	p.Closures = nil
	require.InDelta(t, 1, bound.OfModel(model.New(p), 0, nil), 1e-9)
}
