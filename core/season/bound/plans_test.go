package bound_test

import (
	"fmt"
	"math/rand/v2"
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

// smallPlan is a small season with a plan that a search alone finds in no time.
func smallPlan(t *testing.T, seed uint64, scarce bool) (season.Problem, season.Plan) {
	t.Helper()
	p := seasontest.As(seasontest.SmallSeason, seed, scarce)
	p.Goal = "full" // no proof
	p.Seconds = 0.05
	plan, err := search.Solve(p, nil)
	require.NoError(t, err)
	p.Goal = "coverage"
	return p, plan
}

// Neither is it when a part of the plan is fixed, held or not, and led by who leads it or by whoever may.
func TestNoPlanIsOverTheBoundWhereMuchIsFixed(t *testing.T) {
	closer := 0
	for seed := range uint64(24) {
		p, plan := smallPlan(t, seed, seed%3 == 0)
		free := bound.Of(p, plan.Coverage)
		r := rand.New(rand.NewPCG(seed, 1))
		for _, x := range plan.Placements {
			if r.IntN(3) > 0 {
				if x.Held = x.Week == 1; !x.Held && r.IntN(2) == 0 {
					x.Lead = ""
				}
				p.Fixed = append(p.Fixed, x)
			}
		}
		require.Empty(t, p.Check())
		left := bound.Of(p, plan.Coverage)
		assert.GreaterOrEqual(t, left, plan.Coverage-1e-9, "season %d", seed)
		if left < free-1e-6 {
			closer++
		}
	}
	assert.Greater(t, closer, 15)
}

// Whatever a plan holds, the classes' side could have packed it: no audience, day or coach
// of a real plan is left out of the packs.
func TestPacksCanHoldEveryPlan(t *testing.T) {
	for seed := range uint64(12) {
		p, plan := smallPlan(t, seed, seed%2 == 0)
		m := model.New(p)
		st := model.NewState(m)
		st.Put(plan.Placements)
		x := bound.NewRelaxation(m)
		x.Prepare(plan.Coverage*m.Weights, 50_000)
		for i := range m.Squares {
			q := &m.Squares[i]
			for _, it := range st.Items[i] {
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

// Every content of every plan there is stands among those listed for its class, and no plan teaches a unit before the first day it is said to be possible: nearly always
// one teaches it on that very day.
func TestAllContentsOfAllPlansAreListed(t *testing.T) {
	seasons, contents, days, exact := 150, 0, 0, 0
	if testing.Short() {
		seasons = 60
	}
	for seed := range uint64(seasons) {
		p := seasontest.Tiny(seed)
		m := model.New(p)
		x := bound.NewRelaxation(m)
		first := make([]int, len(m.Units))
		for u := range first {
			first[u] = model.Never
		}
		met := map[string]bool{}
		seasontest.Visit(p, func(all []season.Placement) {
			led := false
			seasontest.VisitLeads(p, all, func([]season.Placement) { led = true })
			if !led {
				return
			}
			st := model.NewState(m)
			st.Put(all)
			for s, items := range st.Items {
				for _, it := range items {
					if it.Kind == model.Teach {
						first[it.Unit] = min(first[it.Unit], m.Squares[s].Day)
					}
				}
				needed := slices.DeleteFunc(slices.Clone(items), func(it model.Item) bool {
					return !slices.ContainsFunc(x.Subproblems, func(s bound.Subproblem) bool { return s.Unit == int(it.Unit) })
				})
				key := fmt.Sprint(s, items)
				if met[key] || len(needed) == 0 {
					continue
				}
				met[key] = true
				contents++
				require.InDelta(t, len(needed), x.Paid(s, needed), 1e-9, "season %d, square %d: %v", seed, s, items)
			}
		})
		for u := range first {
			require.LessOrEqual(t, x.Soonest(0, u), first[u], "season %d, %s", seed, p.Units[u].ID)
			if first[u] < model.Never {
				days++
				if x.Soonest(0, u) == first[u] {
					exact++
				}
			}
		}
	}
	t.Log(contents, "contents,", exact, "of", days, "first days exact")
	assert.Greater(t, contents, 500)
	assert.Greater(t, exact*100, days*98)
}

// What is left out of a small season's items and first days, for a plan known, is in no plan that is better: the best has none of it.
func TestWhatIsLeftOutIsInNoBetterPlan(t *testing.T) {
	seasons, shut, late := 150, 0, 0
	if testing.Short() {
		seasons = 30
	}
	for seed := range uint64(seasons) {
		p := seasontest.Tiny(seed)
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		require.True(t, plan.Proven)
		m := model.New(p)
		if plan.Coverage*m.Weights == 0 {
			continue
		}
		st := model.NewState(m)
		st.Put(plan.Placements)
		contents := st.Contents()
		require.InDelta(t, plan.Coverage, st.Coverage(), 1e-9)
		known := plan.Coverage * m.Weights * (1 - 1e-6)
		x := bound.NewRelaxation(m)
		x.Prepare(known, 20_000)
		d, _ := bound.NewDaily(x, known, x.Prove(20_000)-known, 1_000_000)
		require.NotNil(t, d)
		for _, steps := range []int{5, 40, 40} {
			require.True(t, d.Settle(0.2, 0.005, steps), "season %d: there is a better plan", seed)
			for s := range m.Squares {
				q := &m.Squares[s]
				for i := range x.Subproblems {
					unit := &x.Subproblems[i]
					for kind := range 2 {
						for _, audience := range q.Audiences {
							place := unit.Place(q.Track, audience)
							if place < 0 || q.Fixed {
								continue
							}
							out := d.Shut(s, i, place+kind)
							if out {
								shut++
							}
							held := slices.Contains(contents[s], model.Item{Unit: int32(unit.Unit), Kind: uint8(kind), Audience: audience})
							require.False(t, out && held, "season %d, square %d: %s of %s", seed, s, model.KindNames[kind], p.Units[unit.Unit].ID)
						}
					}
					if q.Fixed || unit.Place(q.Track, q.Audiences[0]) < 0 {
						continue
					}
					begins := d.MayBegin(s, i)
					if !begins {
						late++
					}
					require.True(t, begins || st.First(q.Track, int32(unit.Unit)) != q.Day, "season %d, square %d: %s is first taught there", seed, s, p.Units[unit.Unit].ID)
				}
			}
		}
	}
	require.Positive(t, shut)
	require.Positive(t, late)
	t.Logf("left out: %d items, %d first days", shut, late)
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

// What nobody may lead is not covered, nor what stands on it; a coach who takes one class a week leads one; what a unit stands on takes minutes too.
func TestTheBoundKnowsPrerequisitesAndCoaches(t *testing.T) {
	base := func() season.Problem {
		return season.Problem{Weeks: 1, Tracks: []season.Track{{ID: "t", Mode: "split"}}, Classes: []season.Class{{ID: "mon", Track: "t", Weekday: 1, Start: "18:00", TeachMinutes: 20}, {ID: "wed", Track: "t", Weekday: 3, Start: "18:00", TeachMinutes: 20}},
			Units:    []season.Unit{{ID: "a", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x"}, {ID: "b", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x"}},
			Students: []season.Student{{ID: "s", Chance: map[string]float64{"mon": 0.5, "wed": 0.5}, Open: []season.Need{{Unit: "b", Need: 1, Weight: 1}}}},
			Coaches:  []season.Coach{{ID: "k", Available: []string{"mon", "wed"}, MaxPerWeek: 2, Share: 1}}, Goal: "coverage", Seconds: 1}
	}
	p := base()
	assert.InDelta(t, 0.75, bound.Of(p, 0), 1e-6, "in both classes")
	p.Coaches[0].MaxPerWeek = 1
	assert.InDelta(t, 0.5, bound.Of(p, 0), 0.01, "the coach leads one")
	p = base()
	p.Units[1].Requires = []string{"a"}
	assert.InDelta(t, 0.5, bound.Of(p, 0), 0.01, "one is for what it stands on")
	p.Units[0].Signoff = "throws"
	assert.InDelta(t, 0, bound.Of(p, 0), 1e-9, "nobody may teach what it stands on")
	p = base()
	p.Students[0].Open[0].Need = 9 // far more than ten halves
	p.Weeks = 12
	assert.LessOrEqual(t, bound.Of(p, 0), 1.0)
	assert.Greater(t, bound.Of(p, 0), 0.5, "twelve of twenty-four are likely nine")
}

// Classes that are fixed are led too: what is left of their coaches' weeks leads the others.
func TestTheBoundKnowsWhoLeadsWhatIsFixed(t *testing.T) {
	p := season.Problem{Weeks: 1, Tracks: []season.Track{{ID: "t", Mode: "split"}}, Goal: "coverage", Seconds: 1,
		Units:    []season.Unit{{ID: "a", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x"}, {ID: "b", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x", Signoff: "throws"}},
		Students: []season.Student{{ID: "s", Chance: map[string]float64{"mon": 0.5, "tue": 0.5}, Open: []season.Need{{Unit: "b", Need: 1, Weight: 1}}}},
		Fixed:    []season.Placement{{Week: 1, Class: "wed", Items: []season.Item{{Unit: "a", Kind: season.Teach}}}}}
	for day, id := range []string{"mon", "tue", "wed"} {
		p.Classes = append(p.Classes, season.Class{ID: id, Track: "t", Weekday: 1 + day, Start: "18:00", TeachMinutes: 20})
	}
	most := func(perWeek int, others ...season.Coach) float64 {
		p.Coaches = append([]season.Coach{{ID: "k", Available: []string{"mon", "tue", "wed"}, Signoffs: []string{"throws"}, MaxPerWeek: perWeek, Share: 1}}, others...)
		require.Empty(t, p.Check())
		p.Seconds = 0.1
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		covered := bound.Of(p, plan.Coverage)
		assert.GreaterOrEqual(t, covered, plan.Coverage-1e-9)
		return covered
	}
	assert.InDelta(t, 0.75, most(3), 1e-3, "all three")
	assert.InDelta(t, 0.5, most(2), 1e-3, "the fixed one and one of the others")
	assert.InDelta(t, 0, most(1), 1e-3, "the fixed one alone")
	assert.InDelta(t, 0.5, most(1, season.Coach{ID: "other", Available: []string{"wed"}, MaxPerWeek: 1, Share: 1}), 1e-3, "another leads the fixed one")
	p.Fixed[0].Held = true
	assert.InDelta(t, 0.5, most(1), 1e-3, "it was held without a lead: nobody is asked")
	p.Fixed[0].Lead = "k"
	assert.InDelta(t, 0, most(1), 1e-3, "it was the coach's class of that week")
}

// What only the longer class hears comes after the shorter one has ended, each item of it; and no class holds a unit twice, for itself and for all.
func TestTheBoundKnowsTheOrderOfAClass(t *testing.T) {
	p := season.Problem{Weeks: 1, Tracks: []season.Track{{ID: "t", Mode: "same"}}, Classes: []season.Class{{ID: "mon", Track: "t", Weekday: 1, Start: "18:00", TeachMinutes: 55}, {ID: "wed", Track: "t", Weekday: 3, Start: "18:00", TeachMinutes: 60}},
		Coaches: []season.Coach{{ID: "signed off", Available: []string{"mon", "wed"}, Signoffs: []string{"throws"}, MaxPerWeek: 1, Share: 0.5}, {ID: "other", Available: []string{"mon", "wed"}, MaxPerWeek: 2, Share: 0.5}}, Goal: "coverage", Seconds: 1,
		Units:    []season.Unit{{ID: "any", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x"}, {ID: "other", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x"}},
		Students: []season.Student{{ID: "s", Chance: map[string]float64{"wed": 1}}}}
	for _, id := range []string{"a", "b", "c"} {
		p.Units = append(p.Units, season.Unit{ID: id, Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 20, Area: "x", Signoff: "throws"})
		p.Students[0].Open = append(p.Students[0].Open, season.Need{Unit: id, Need: 1, Weight: 1})
	}
	require.Empty(t, p.Check())
	assert.InDelta(t, 1.0/3, bound.Of(p, 0), 0.01, "one throw ends after 55 minutes, not three")
	plan, err := search.Solve(p, nil)
	require.NoError(t, err)
	assert.Empty(t, seasontest.Breaches(p, plan.Placements))
	assert.InDelta(t, 1.0/3, plan.Coverage, 1e-9, "and one can be held so")

	p.Classes[0].TeachMinutes, p.Classes[1].TeachMinutes = 20, 45
	p.Units = []season.Unit{{ID: "u", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 20, Area: "x"}}
	p.Students[0].Open = []season.Need{{Unit: "u", Need: 2, Weight: 1}}
	require.Empty(t, p.Check())
	assert.InDelta(t, 0, bound.Of(p, 0), 1e-9, "nothing can come before it, so that only the longer class hears it")
	p.Units = append(p.Units, season.Unit{ID: "any", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5, Area: "x"})
	assert.InDelta(t, 0.5, bound.Of(p, 0), 0.01, "it is given once a week, which is half of two")
	p.Weeks = 2
	assert.InDelta(t, 1, bound.Of(p, 0), 1e-9)
}
