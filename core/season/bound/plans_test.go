package bound_test

import (
	"fmt"
	"slices"
	"testing"
	"vereda/core/season"
	"vereda/core/season/bound"
	"vereda/core/season/model"
	"vereda/core/season/search"
	"vereda/internal/seasontest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A bound that is too low is worth less than none: it is held against the best plan
// found, for every kind of season, with few steps and with many.
func TestNoPlanIsOverTheBound(t *testing.T) {
	for seed := range uint64(5) {
		for name, p := range map[string]season.Problem{"small": seasontest.Generated(seasontest.SmallSeason, seed), "scarce": seasontest.Scarce(seasontest.SmallSeason, seed), "medium": seasontest.Generated(seasontest.MediumSeason, seed), "scarce medium": seasontest.Scarce(seasontest.MediumSeason, seed)} {
			if seed > 0 && len(p.Units) > 16 {
				continue // they take long
			}
			p.Seconds = 0.3
			plan, err := search.Solve(p, nil)
			require.NoError(t, err)
			for _, seconds := range []float64{0.01, 0.3} {
				p.Seconds = seconds
				m := model.New(p)
				assert.GreaterOrEqual(t, bound.OfModel(m, plan.Coverage*m.Weights, nil), plan.Coverage-1e-9, "%s %d, %v s", name, seed, seconds)
			}
		}
	}
}

// Whatever a plan holds, the classes' side could have packed it: no audience, day or coach
// of a real plan is left out of the packs.
func TestPacksCanHoldEveryPlan(t *testing.T) {
	for seed := range uint64(12) {
		p := seasontest.As(seasontest.SmallSeason, seed, seed%2 == 0)
		p.Goal = "full" // no proof
		p.Seconds = 0.05
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		m := model.New(p)
		x := bound.NewRelaxation(m)
		x.Prepare(plan.Coverage*m.Weights, 50_000)
		for i := range m.Squares {
			q := &m.Squares[i]
			var items []model.Item
			for _, c := range q.Classes { // the list of the longest
				if at, ok := plan.Find(q.Week, p.Classes[c].ID); ok && len(at.Items) > len(items) {
					items = nil
					for _, it := range at.Items {
						items = append(items, model.Item{Unit: int32(m.UnitAt[it.Unit]), Kind: model.KindOf(it.Kind)})
					}
				}
			}
			m.Place(q, items)
			for _, it := range items {
				if slices.IndexFunc(x.Subproblems, func(s bound.Subproblem) bool { return s.Unit == int(it.Unit) }) < 0 {
					continue // nobody needs it
				}
				of := x.Packing.PackOf[i]
				require.GreaterOrEqual(t, of, 0)
				length := 1 << 20
				for _, c := range m.Audiences[it.Audience].Classes {
					length = min(length, p.Classes[c].TeachMinutes)
				}
				held := x.CanPack(of, int(it.Unit), it.Kind, length)
				assert.True(t, held, fmt.Sprintf("season %d, week %d: %s of %s", seed, q.Week, model.KindNames[it.Kind], p.Units[it.Unit].ID))
			}
		}
	}
}

// Nobody waits for a bound that is not wanted any more: stopped at once it comes soon, and is no lower than a plan.
func TestAStoppedBoundHolds(t *testing.T) {
	p := seasontest.Generated(seasontest.SmallSeason, 1)
	p.Seconds = 0.3
	plan, err := search.Solve(p, nil)
	require.NoError(t, err)
	m := model.New(p)
	for _, after := range []int{0, 1, 3, 10} {
		asked := 0
		b := bound.OfModel(m, plan.Coverage*m.Weights, func() bool { asked++; return asked > after })
		assert.GreaterOrEqual(t, b, plan.Coverage-1e-9, "stopped after %d", after)
		assert.LessOrEqual(t, b, 1.0)
	}
}
