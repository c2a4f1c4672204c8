package season

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A bound that is too low is worth less than none: it is held against the best plan
// found, for every kind of season, with few steps and with many.
func TestNoPlanIsOverTheBound(t *testing.T) {
	for seed := range uint64(5) {
		for name, p := range map[string]Problem{"small": generated(smallSeason, seed), "scarce": scarce(smallSeason, seed), "medium": generated(mediumSeason, seed), "scarce medium": scarce(mediumSeason, seed)} {
			if seed > 0 && len(p.Units) > 16 {
				continue // they take long
			}
			p.Seconds = 0.3
			plan, err := Solve(p, nil)
			require.NoError(t, err)
			for _, seconds := range []float64{0.01, 0.3} {
				p.Seconds = seconds
				m := newModel(p)
				assert.GreaterOrEqual(t, m.bound(plan.Coverage*m.weights), plan.Coverage-1e-9, "%s %d, %v s", name, seed, seconds)
			}
		}
	}
}

// relaxation of a small season at drawn prices.
func drawRelaxation(t *rapid.T) *relaxation {
	p := generatedAs(size{1 + rapid.IntRange(1, 3).Draw(t, "weeks"), 3, 5, 6, 3, []Track{{ID: "a", Mode: "same"}, {ID: "b", Mode: "split"}}}, rapid.Uint64().Draw(t, "season"), rapid.Bool().Draw(t, "scarce"))
	x := newRelaxation(newModel(p))
	x.prepare(0.5*x.m.weights, 20_000)
	r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "prices"), 1))
	for i := range x.subproblems {
		for j := range x.subproblems[i].cost {
			x.subproblems[i].cost[j] *= 3 * r.Float64()
		}
	}
	return x
}

// every calls back with each way to give a unit that could stand, up to a number of items.
func (s *subproblem) every(each func(counts []uint8)) {
	counts := make([]uint8, 2*len(s.dims))
	var at func(i int)
	at = func(i int) {
		if i == len(counts) {
			if s.sound(counts) {
				each(counts)
			}
			return
		}
		for n := 0; n <= s.dims[i/2].most-int(counts[i&^1])*(i%2); n++ {
			counts[i] = uint8(n)
			at(i + 1)
		}
		counts[i] = 0
	}
	at(0)
}

// The most a unit can gain is what trying everything finds; with few steps it is never less.
func TestAUnitsBestChoiceIsFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawRelaxation(t)
		if len(x.subproblems) == 0 {
			return
		}
		s := &x.subproblems[rapid.IntRange(0, len(x.subproblems)-1).Draw(t, "unit")]
		ways := 1
		for _, d := range s.dims {
			ways *= (d.most + 1) * (d.most + 2) / 2
		}
		if ways > 4000 {
			return
		}
		best := -1e300
		s.every(func(counts []uint8) {
			net := s.worth(x, counts, 0)
			for j, n := range counts {
				net -= float64(n) * s.cost[j]
			}
			best = max(best, net)
		})
		for _, steps := range []int{1, 30, 999, sharesFrom} {
			most, _ := s.exactly(x, steps)
			require.GreaterOrEqual(t, most, best-1e-9, "%d steps", steps)
		}
		most, _ := s.exactly(x, 100_000_000)
		require.InDelta(t, best, most, 1e-7)
	})
}

// Shares add up to what a way costs, and what everybody picks for themselves is
// never less than the best for all.
func TestSharesAddUpAndAreNeverTooLow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawRelaxation(t)
		if len(x.subproblems) == 0 {
			return
		}
		s := &x.subproblems[rapid.IntRange(0, len(x.subproblems)-1).Draw(t, "unit")]
		best, _ := s.exactly(x, 100_000_000)
		d := newBranchAndBound(x, s, best-0.3) // as if something a little worse were known
		y := newShares(d)
		if y == nil || len(d.needs) == 0 {
			return
		}
		first := y.price()
		last := y.settle(rapid.IntRange(0, 40).Draw(t, "rounds"))
		require.GreaterOrEqual(t, first, best-1e-7)
		require.GreaterOrEqual(t, last, best-1e-7)
		require.LessOrEqual(t, last, first+1e-9)
		for j, ways := range y.ways {
			for w, way := range ways {
				sum := 0.0
				for k := range d.needs {
					sum += y.cost[j][w*len(d.needs)+k]
				}
				require.InDelta(t, way.cost, sum, 1e-7, "%d teaches, %d reviews", way.teaches, way.reviews)
			}
		}
	})
}

// A class packs what pays most: trying every content is the judge.
func TestAClassPacksWhatPaysMost(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawRelaxation(t)
		k := &x.packing
		if len(k.packs) == 0 {
			return
		}
		p := &k.packs[rapid.IntRange(0, len(k.packs)-1).Draw(t, "pack")]
		if len(p.goods) > 9 {
			p.goods = p.goods[:9]
		}
		var best float64
		var put func(i, used int, paid float64)
		put = func(i, used int, paid float64) {
			best = max(best, paid)
			for ; i < len(p.goods); i++ {
				g := &p.goods[i]
				for kind, may := range g.may {
					if end := used + g.minutes[kind]; may && end <= g.until {
						put(i+1, end, paid+x.subproblems[g.subproblem].cost[2*int(g.dim)+kind])
					}
				}
			}
		}
		put(0, 0, 0)
		told := 0.0
		most := k.fill(p, func(subproblem, at int32) { told += x.subproblems[subproblem].cost[at] })
		require.InDelta(t, best, most, 1e-9)
		require.InDelta(t, most, told, 1e-9, "what it tells is what it is paid for")
	})
}

// Whatever a plan holds, the classes' side could have packed it: no audience, day or coach
// of a real plan is left out of the packs.
func TestPacksCanHoldEveryPlan(t *testing.T) {
	for seed := range uint64(12) {
		p := generatedAs(smallSeason, seed, seed%2 == 0)
		p.Goal = "full" // no proof
		p.Seconds = 0.05
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		m := newModel(p)
		x := newRelaxation(m)
		x.prepare(plan.Coverage*m.weights, 50_000)
		for i := range m.squares {
			q := &m.squares[i]
			var items []item
			for _, c := range q.classes { // the list of the longest
				if at, ok := plan.Find(q.week, p.Classes[c].ID); ok && len(at.Items) > len(items) {
					items = nil
					for _, it := range at.Items {
						items = append(items, item{unit: int32(m.unitAt[it.Unit]), kind: kindOf(it.Kind)})
					}
				}
			}
			m.place(q, items)
			for _, it := range items {
				if slices.IndexFunc(x.subproblems, func(s subproblem) bool { return s.u == int(it.unit) }) < 0 {
					continue // nobody needs it
				}
				of := x.packing.of[i]
				require.GreaterOrEqual(t, of, 0)
				length := 1 << 20
				for _, c := range m.audiences[it.audience].classes {
					length = min(length, p.Classes[c].TeachMinutes)
				}
				held := slices.ContainsFunc(x.packing.packs[of].goods, func(g good) bool {
					return x.subproblems[g.subproblem].u == int(it.unit) && g.may[it.kind] && g.until == length
				})
				assert.True(t, held, fmt.Sprintf("season %d, week %d: %s of %s", seed, q.week, kindNames[it.kind], p.Units[it.unit].ID))
			}
		}
	}
}
