package bound

import (
	"math"
	"math/rand/v2"
	"slices"
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
	x.drawPrices(t)
	return x
}

// drawUnit is one of its units, with few enough ways to try them all, and nothing found out of them yet; nil where there is none.
func drawUnit(t *rapid.T) (*Relaxation, *Subproblem) {
	x := drawRelaxation(t)
	if len(x.Subproblems) == 0 {
		return x, nil
	}
	s := &x.Subproblems[rapid.IntRange(0, len(x.Subproblems)-1).Draw(t, "unit")]
	ways := 1
	for _, d := range s.Dims {
		ways *= (d.most + 1) * (d.most + 2) / 2
	}
	if ways > 4000 {
		return x, nil
	}
	s.bestFirst = newBestFirst(x, s)
	s.bestFirst.listed = rapid.SampledFrom([]int{1, 5, mostListed}).Draw(t, "listed")
	s.bestFirst.loose = rapid.SampledFrom([]int32{0, 1, mostLoose}).Draw(t, "loose")
	return x, s
}

// drawPrices moves all prices.
func (x *Relaxation) drawPrices(t *rapid.T) {
	r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "prices"), 1))
	for i := range x.Subproblems {
		for j, c := range x.Subproblems[i].Cost {
			x.Subproblems[i].Cost[j] = max(1e-3, c) * 3 * r.Float64()
		}
	}
	for i := range x.rows {
		x.rows[i].price = r.Float64() * r.Float64()
	}
	x.charged()
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
		for n := 0; n <= min(s.Dims[i/2].top[i%2], s.Dims[i/2].most-int(counts[i&^1])*(i%2)); n++ {
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
		x, s := drawUnit(t)
		if s == nil {
			return
		}
		best := -1e300
		s.every(func(counts []uint8) {
			best = max(best, s.worth(x, counts)-s.spent(counts))
		})
		for _, steps := range []int{0, 1, 30, 999} {
			most, _ := s.Exactly(x, steps)
			require.GreaterOrEqual(t, most, best-1e-9, "%d steps", steps)
		}
		most, _ := s.Exactly(x, 100_000_000)
		require.InDelta(t, best, most, 1e-7)
		// What was found out at those prices still holds when they move.
		for range rapid.IntRange(1, 4).Draw(t, "moves") {
			x.drawPrices(t)
			best = -1e300
			s.every(func(counts []uint8) {
				best = max(best, s.worth(x, counts)-s.spent(counts))
			})
			some, _ := s.Exactly(x, rapid.SampledFrom([]int{0, 10, 200}).Draw(t, "steps"))
			require.GreaterOrEqual(t, some, best-1e-9)
			most, _ := s.Exactly(x, 100_000_000)
			require.InDelta(t, best, most, 1e-7)
		}
	})
}

// The ways listed are all that gain so little less than the best and no others, whatever was found out of the ranges before; the best is still found after it.
func TestTheWaysListedAreAllThatGainEnough(t *testing.T) {
	listed := 0
	rapid.Check(t, func(t *rapid.T) {
		x, s := drawUnit(t)
		if s == nil {
			return
		}
		for range rapid.IntRange(1, 3).Draw(t, "moves") {
			s.Exactly(x, rapid.SampledFrom([]int{0, 10, 200, 100_000_000}).Draw(t, "steps"))
			_, known := s.best()
			best, all := math.Inf(-1), map[string]float64{}
			slack := rapid.SampledFrom([]float64{0, 0.01, 0.1, 1}).Draw(t, "slack") * x.m.Weights
			s.every(func(counts []uint8) {
				net := s.worth(x, counts) - s.spent(counts)
				best = max(best, net)
				if math.Abs(net-(known-slack)) > 1e-6 { // else either will do
					all[string(counts)] = net
				}
			})
			found, _, ok := s.Ways(x, slack, 100_000_000)
			require.True(t, ok)
			have := map[string]bool{}
			for _, w := range found {
				require.False(t, have[string(w.Counts)], "listed once")
				have[string(w.Counts)] = true
				require.InDelta(t, s.worth(x, w.Counts)-s.spent(w.Counts), w.Net, 1e-9)
			}
			for counts, net := range all {
				require.Equal(t, net > known-slack, have[counts], "%v gains %g of %g", []byte(counts), net, known)
			}
			listed += len(found)
			most, _ := s.Exactly(x, 100_000_000)
			require.InDelta(t, best, most, 1e-7)
			x.drawPrices(t)
		}
	})
	require.Positive(t, listed)
}

// inOrder says whether items can be held one after another, given their minutes by tier: each ends in time for the shortest class that hears it, and after
// the ones do that do not. What nobody needs may come before each tier, for so long as between says. Each does: or the last of a tier alone.
func (p *Pack) inOrder(taken [][]int, each bool, between func(minutes int) bool) bool {
	ends := map[int]bool{0: true}
	for j, minutes := range taken {
		if len(minutes) == 0 {
			continue
		}
		after := map[int]bool{}
		sum, first := 0, slices.Max(minutes)
		for _, m := range minutes {
			sum += m
		}
		if !each {
			first = sum
		}
		for e := range ends {
			for begin := e; begin+sum <= p.tiers[j].length; begin++ {
				if begin > e && !between(begin-e) || j > 0 && begin+first <= p.tiers[j-1].length {
					continue
				}
				after[begin+sum] = true
			}
		}
		ends = after
	}
	return len(ends) > 0
}

// A class packs what pays most and is led for least, after what nobody needs where that helps: trying every content is the judge.
func TestAClassPacksWhatPaysMost(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawRelaxation(t)
		k := &x.Packing
		k.fillings = 10_000 // until it is right
		if len(k.Packs) == 0 {
			return
		}
		p := &k.Packs[rapid.IntRange(0, len(k.Packs)-1).Draw(t, "pack")]
		if len(p.goods) > 9 {
			first := rapid.IntRange(0, len(p.goods)-9).Draw(t, "first")
			p.goods = p.goods[first : first+9]
		}
		// A list knows for how long what nobody needs may be given, a filling only the least.
		anything := func(minutes int) bool { return minutes >= p.least }
		idle := anything
		if rapid.Bool().Draw(t, "listed") {
			k.list(p)
			idle = func(at int) bool { return p.idle.and(from(at).and(from(at+1).not())) != minutes{} }
		}
		for i := range k.weeks[p.weeks].lead {
			k.weeks[p.weeks].lead[i] = rapid.SampledFrom([]float64{0, 0.1, 0.5}).Draw(t, "a coach's price")
		}
		leads := func(chosen []uint64) float64 { // per tier, the sign-offs of what it hears last
			least := math.Inf(1)
			for _, c := range p.calls {
				ok := true
				for j := range c {
					ok = ok && chosen[j]&^c[j].signoffs == 0
				}
				if ok {
					least = min(least, k.lead(p, c, nil))
				}
			}
			return least
		}
		best, loose := 0.0, 0.0 // loose asks that each tier ends after the shorter classes do, not each of its items
		taken, signs, has := make([][]int, len(p.tiers)), make([]uint64, len(p.tiers)), map[int32]bool{}
		var put func(i int, paid float64)
		put = func(i int, paid float64) {
			if i == len(p.goods) {
				if net := paid - leads(signs); net > best && p.inOrder(taken, true, idle) {
					best = net
				} else if net > loose && p.inOrder(taken, false, anything) {
					loose = net
				}
				return
			}
			put(i+1, paid)
			g := &p.goods[i]
			for kind, may := range g.may {
				if may && !has[g.subproblem] { // a class holds a unit once
					has[g.subproblem] = true
					was, sign := taken[g.tier], signs[g.tier]
					taken[g.tier], signs[g.tier] = append(was[:len(was):len(was)], g.minutes[kind]), sign|g.signoff
					put(i+1, paid+x.Subproblems[g.subproblem].Cost[2*int(g.dim)+kind])
					taken[g.tier], signs[g.tier] = was, sign
					delete(has, g.subproblem)
				}
			}
		}
		put(0, 0)
		told := 0.0
		most := k.Fill(p, func(subproblem, at int32) { told += x.Subproblems[subproblem].Cost[at] }, func(coach int) { told -= k.weeks[p.weeks].lead[coach] })
		require.GreaterOrEqual(t, most, best-1e-9)
		require.LessOrEqual(t, most, max(best, loose)+1e-9)
		require.InDelta(t, most, told, 1e-9, "what it tells is what it is paid for")
		if p.contents == nil {
			return
		}
		require.LessOrEqual(t, len(p.contents.allowed), mostCalls)
		p.kinds = nothing
		require.InDelta(t, 0, k.Fill(p, nil, nil), 1e-12)
		each := 0.0
		for i := range p.contents.allowed {
			p.kinds = kind(i)
			only := k.Fill(p, nil, nil)
			each = max(each, only)
			p.kinds = nothing | kind(i)
			require.InDelta(t, max(0, only), k.Fill(p, nil, nil), 1e-9)
		}
		require.InDelta(t, most, each, 1e-9, "what pays most asks for something, or is nothing")
	})
}

// drawHeard hears a little of a unit already.
func drawHeard(t *rapid.T, hear func(chance float64, halves int)) {
	for range rapid.IntRange(0, 3).Draw(t, "had") {
		hear(rapid.Float64Range(0, 1).Draw(t, "chance"), rapid.IntRange(1, 2).Draw(t, "half or full"))
	}
}

// liesOver asks that a hull lies over what is reached when so much is expected, and so does whatever any slope makes of it.
func (h *hull) liesOver(t *rapid.T, expected, reached float64) {
	value, _ := h.at(expected)
	require.GreaterOrEqual(t, value, reached-1e-9)
	slope := rapid.Float64Range(0, 2).Draw(t, "slope")
	require.GreaterOrEqual(t, h.above(slope), value-slope*expected-1e-9)
}

// The hull lies over what any presences up to its chance add to what was heard, whatever they are.
func TestHullsAreNeverTooLow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		need := rapid.SampledFrom([]int{1, 2, 3, 4, 6, mostTail, mostTail + 2}).Draw(t, "halves")
		d := &bestFirst{scratch: &scratch{}}
		had := season.NewTally(need)
		drawHeard(t, had.Add)
		if rapid.IntRange(0, 3).Draw(t, "all but sure") == 0 { // to have it already, and a little more can still be reached
			for range need {
				had.Add(rapid.Float64Range(0.999, 1).Draw(t, "chance"), 2)
			}
		}
		likely := rapid.SampledFrom([]float64{0, 0.05, 0.3, 0.7, 0.98, 1}).Draw(t, "likely")
		caps := [2]int{rapid.IntRange(0, 40).Draw(t, "fulls"), rapid.IntRange(0, 40).Draw(t, "halves at most")}
		before, expected := slices.Clone(had), 0.0
		for i, most := range caps {
			for range rapid.IntRange(0, most).Draw(t, "given") {
				p := likely * rapid.Float64Range(0, 1).Draw(t, "of it")
				had.Add(p, 2-i)
				expected += p * float64(2-i)
			}
		}
		var h hull
		d.over(&h, before, likely, caps[0], caps[1], expected*rapid.SampledFrom([]float64{1, 1.3, 100}).Draw(t, "expected at most"))
		h.liesOver(t, expected, had.Reached())
		last := math.Inf(1)
		for _, s := range h.slopes {
			require.Less(t, s, last, "it is concave")
			last = s
		}
	})
}

// Where nothing but reviews is open, what a student can reach lies over what any presences up to a chance add to what was heard, however many they are and however
// their chances differ, when so many are expected to take place.
func TestWhatReviewsReachIsNeverTooLow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		need := rapid.IntRange(1, mostTail).Draw(t, "halves")
		d := &bestFirst{scratch: &scratch{}}
		had := season.NewTally(need)
		drawHeard(t, had.Add)
		likely := rapid.SampledFrom([]float64{0.02, 0.05, 0.25, 0.3, 0.7, 0.98, 1}).Draw(t, "likely")
		before, expected := slices.Clone(had), 0.0
		give := func(n int, least, most float64) {
			for range n {
				p := likely * rapid.Float64Range(least, most).Draw(t, "of it")
				had.Add(p, 1)
				expected += p
			}
		}
		give(rapid.IntRange(0, 60).Draw(t, "as likely as can be"), 1, 1)
		even := rapid.Float64Range(0, 1).Draw(t, "as likely as each other")
		give(rapid.IntRange(0, 60).Draw(t, "of them"), even, even)
		give(rapid.IntRange(0, 10).Draw(t, "others"), 0, 1)
		low := expected * rapid.SampledFrom([]float64{0, 0.5, 0.9, 1}).Draw(t, "expected at least")
		var h hull
		d.between(&h, before, likely, low, expected*rapid.SampledFrom([]float64{1, 1.1, 3}).Draw(t, "expected at most"))
		h.liesOver(t, expected, had.Reached())
		last := math.Inf(1)
		for _, s := range h.slopes {
			require.LessOrEqual(t, s, last+1e-9, "it is concave")
			last = s
		}
	})
}

// The numbers of presences that are not looked at reach no more than is allowed for.
func TestFewNumbersOfPresencesAreEnough(t *testing.T) {
	for _, chance := range []float64{0.25, 0.3125, 0.4375, 0.5, 0.75, 1} {
		table := meansOf(chance, mostTail)
		sure, equal := make([]float64, mostTail), make([]float64, mostTail)
		for x := 0.01; x < 14; x += 0.0471 {
			told := make([]float64, mostTail)
			step := int(x / meanStep)
			for i := range told {
				row := append([]float64{1}, make([]float64, i+1)...) // nothing of so many had
				told[i] = table.at(step, row) + (table.at(step+1, row)-table.at(step, row))*(x/meanStep-float64(step))
			}
			for _, m := range []int{0, 1, 3} {
				rest := x - float64(m)*chance
				if rest < 0 {
					continue
				}
				binomial(sure, m, chance)
				for l := 1; l < 300; l += 1 + l/8 {
					if rest/float64(l) > chance {
						continue
					}
					binomial(equal, l, rest/float64(l))
					atMost := 0.0
					for i := range mostTail {
						for k := 0; k <= i; k++ {
							atMost += sure[k] * equal[i-k]
						}
						if 1-atMost > told[i]+1e-12 {
							t.Errorf("%d of %g, %d besides, %g expected: %g of %d or more, the table says %g", m, chance, l, x, 1-atMost, i+1, told[i])
						}
					}
				}
			}
		}
	}
}

// While prices move little, only the ways near the best are looked at: what is found is the best of all.
func TestTheBestOfAllWaysIsFoundAmongTheNearest(t *testing.T) {
	alone, all := 0, 0
	for seed := range uint64(6) {
		x := NewRelaxation(model.New(seasontest.As(seasontest.SmallSeason, seed, seed%2 == 0)))
		known := 0.3 * x.m.Weights
		x.Prepare(known, 20_000)
		d, _ := NewDaily(x, known, 0.02*x.m.Weights, 2_000_000)
		require.NotNil(t, d)
		d.use()
		r := rand.New(rand.NewPCG(seed, 3))
		price := slices.Clone(d.price)
		for step := range 80 {
			for i := range price {
				price[i] = max(0, price[i]*(1+[]float64{0.3, 0.02, 0.002}[step%3]*(r.Float64()-0.5)))
			}
			d.charge(price)
			for i := range d.Units {
				u := &d.Units[i]
				at, most := d.best(i, price, false)
				if u.since > 0 {
					alone++
				} else if len(u.Left) >= fewWays {
					all++
				}
				require.InDelta(t, most, u.net[at], 1e-12)
				_, best := u.top(u.Left)
				require.InDelta(t, best, most, 1e-12, "seed %d, step %d, unit %d", seed, step, i)
			}
		}
	}
	require.Greater(t, alone, all, "most steps are small")
	require.Positive(t, all)
}

// Where many hear little of each class, cutting ranges by how many reviews they hold in all leaves less unsure in the same steps.
func TestRangesAreCutByTheirReviewsInAll(t *testing.T) {
	x := NewRelaxation(model.New(seasontest.Scarce(seasontest.LargeSeason, 18)))
	x.Prepare(0.33*x.m.Weights, 200_000)
	unsure := func(loose int32) (gap float64) {
		for i := 64; i < 70; i++ {
			s := x.Subproblems[i]
			s.bestFirst = newBestFirst(x, &s)
			s.bestFirst.loose = loose
			most, _ := s.Exactly(x, 40_000)
			_, known := s.best()
			gap += most - known
		}
		return gap
	}
	with, without := unsure(mostLoose), unsure(1000)
	require.Positive(t, without)
	require.Less(t, with, 0.95*without)
}

// What is asked of the leads is told apart by what each length of class hears in all: there are never more kinds of it than calls.
func TestWhatShorterClassesHearIsAskedOfLongerOnesToo(t *testing.T) {
	p := season.Problem{Weeks: 1, Tracks: []season.Track{{ID: "t", Mode: "same"}}, Classes: []season.Class{{ID: "mon", Track: "t", Weekday: 1, Start: "18:00", TeachMinutes: 50}, {ID: "wed", Track: "t", Weekday: 3, Start: "18:00", TeachMinutes: 100}}, Goal: "coverage", Seconds: 1,
		Students: []season.Student{{ID: "s", Chance: map[string]float64{"wed": 0.5}}},
		Coaches:  []season.Coach{{ID: "none", Available: []string{"mon", "wed"}, MaxPerWeek: 2, Share: 1}}}
	for i, signoff := range []string{"", "throws", "legs", "necks"} {
		if signoff != "" {
			p.Coaches = append(p.Coaches, season.Coach{ID: signoff, Available: []string{"mon", "wed"}, Signoffs: []string{"throws", "legs", "necks"}[:i], MaxPerWeek: 2, Share: 1})
		}
		for _, of := range []string{"a", "b", "c"} {
			p.Units = append(p.Units, season.Unit{ID: of + signoff, Tracks: []string{"t"}, Minutes: 16, ReviewMinutes: 8, Area: "x", Signoff: signoff})
			p.Students[0].Open = append(p.Students[0].Open, season.Need{Unit: of + signoff, Need: 1, Weight: 1})
		}
	}
	require.Empty(t, p.Check())
	x := NewRelaxation(model.New(p))
	require.Len(t, x.Packing.Packs, 1)
	x.Packing.listAll()
	c := x.Packing.Packs[0].contents
	require.NotNil(t, c)
	require.Greater(t, len(c.allowed), 8)
	require.LessOrEqual(t, len(c.allowed), mostCalls)
}
