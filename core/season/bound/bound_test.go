package bound

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// relaxation of a small season at drawn prices.
func drawRelaxation(t *rapid.T) *Relaxation {
	p := seasontest.As(seasontest.Size{Weeks: 1 + rapid.IntRange(1, 3).Draw(t, "weeks"), Classes: 3, Units: 5, Students: 6, Coaches: 3, Tracks: []season.Track{{ID: "a", Mode: "same"}, {ID: "b", Mode: "split"}}}, rapid.Uint64().Draw(t, "season"), rapid.Bool().Draw(t, "scarce"))
	x := NewRelaxation(model.New(p))
	x.Prepare(0.5*x.m.Weights, 20_000)
	r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "prices"), 1))
	for i := range x.Subproblems {
		for j := range x.Subproblems[i].Cost {
			x.Subproblems[i].Cost[j] *= 3 * r.Float64()
		}
	}
	return x
}

// every calls back with each way to give a unit that could stand, up to a number of items.
func (s *Subproblem) every(each func(counts []uint8)) {
	counts := make([]uint8, 2*len(s.Dims))
	var at func(i int)
	at = func(i int) {
		if i == len(counts) {
			if s.sound(counts) {
				each(counts)
			}
			return
		}
		for n := 0; n <= s.Dims[i/2].most-int(counts[i&^1])*(i%2); n++ {
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
		if len(x.Subproblems) == 0 {
			return
		}
		s := &x.Subproblems[rapid.IntRange(0, len(x.Subproblems)-1).Draw(t, "unit")]
		ways := 1
		for _, d := range s.Dims {
			ways *= (d.most + 1) * (d.most + 2) / 2
		}
		if ways > 4000 {
			return
		}
		best := -1e300
		s.every(func(counts []uint8) {
			net := s.worth(x, counts, 0)
			for j, n := range counts {
				net -= float64(n) * s.Cost[j]
			}
			best = max(best, net)
		})
		for _, steps := range []int{1, 30, 999, sharesFrom} {
			most, _ := s.Exactly(x, steps)
			require.GreaterOrEqual(t, most, best-1e-9, "%d steps", steps)
		}
		most, _ := s.Exactly(x, 100_000_000)
		require.InDelta(t, best, most, 1e-7)
	})
}

// Shares add up to what a way costs, and what everybody picks for themselves is
// never less than the best for all.
func TestSharesAddUpAndAreNeverTooLow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawRelaxation(t)
		if len(x.Subproblems) == 0 {
			return
		}
		s := &x.Subproblems[rapid.IntRange(0, len(x.Subproblems)-1).Draw(t, "unit")]
		best, _ := s.Exactly(x, 100_000_000)
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
		k := &x.Packing
		if len(k.Packs) == 0 {
			return
		}
		p := &k.Packs[rapid.IntRange(0, len(k.Packs)-1).Draw(t, "pack")]
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
						put(i+1, end, paid+x.Subproblems[g.subproblem].Cost[2*int(g.dim)+kind])
					}
				}
			}
		}
		put(0, 0, 0)
		told := 0.0
		most := k.Fill(p, func(subproblem, at int32) { told += x.Subproblems[subproblem].Cost[at] })
		require.InDelta(t, best, most, 1e-9)
		require.InDelta(t, most, told, 1e-9, "what it tells is what it is paid for")
	})
}

// W of the tolls is no less than what any mixture of chances up to P brings.
func TestTollsAreNeverTooLow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		k, level := rapid.IntRange(1, 6).Draw(t, "halves"), rapid.IntRange(0, tollLevels-1).Draw(t, "toll")
		most, expected := 0.0, 0.0
		d := season.NewTally(k)
		for range rapid.IntRange(0, 10).Draw(t, "presences") {
			p, v := rapid.Float64Range(0, 1).Draw(t, "p"), rapid.IntRange(1, 2).Draw(t, "v")
			most, expected = max(most, p), expected+p*float64(v)
			d.Add(p, v)
		}
		require.GreaterOrEqual(t, tollsOf(most).most(k, level), d.Reached()-tollAt(level)*expected-1e-9)
	})
}
