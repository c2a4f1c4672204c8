package season

import (
	"math/bits"
	"slices"
)

// What the goal full adds to coverage, each a share from 0 to 1 times its
// weight: a whole point of spacing is worth five points of coverage. They are shown
// with the plan.
const (
	WeightSpacing    = 0.05
	WeightSchool     = 0.03
	WeightFocus      = 0.01
	WeightContinuity = 0.01
	WeightFairness   = 0.01
)

// softScore keeps what the goal full counts besides coverage and can be changed by
// what the squares hold:
//
//   - spacing: of the times a unit should come back to a track after its first
//     teach there, the share it does, within the tolerance;
//   - school: of two classes of a line a week apart, the share that stays in an
//     area (block) or leaves it (spiral);
//   - focus: the share of classes with at most three units.
type softScore struct {
	asked, kept []int16 // track × unit
	pair, good  []bool  // per square: with the one before it in its line
	full, thick []bool  // per square: not empty; more than three units
	sums        struct{ asked, kept, pairs, goods, full, thick int }
	idle        bool // the goal is coverage alone
}

func newSoftScore(m *model) softScore {
	n, s := len(m.p.Tracks)*len(m.units), len(m.squares)
	return softScore{asked: make([]int16, n), kept: make([]int16, n), pair: make([]bool, s), good: make([]bool, s), full: make([]bool, s), thick: make([]bool, s), idle: m.p.Goal == "coverage"}
}

func (l *softScore) score() float64 {
	return WeightSpacing*l.spacing() + WeightSchool*l.school() + WeightFocus*l.focus()
}

func (l *softScore) spacing() float64 { return share(l.sums.kept, l.sums.asked) }
func (l *softScore) school() float64  { return share(l.sums.goods, l.sums.pairs) }
func (l *softScore) focus() float64   { return share(l.sums.full-l.sums.thick, l.sums.full) }

func share(some, all int) float64 {
	if all == 0 {
		return 1
	}
	return float64(some) / float64(all)
}

// unit counts a unit's returns anew in every track.
func (l *softScore) unit(st *state, u int32) {
	if l.idle {
		return
	}
	for t := range st.m.p.Tracks {
		i := t*len(st.m.units) + int(u)
		asked, kept := st.returns(t, u)
		l.sums.asked += int(asked - l.asked[i])
		l.sums.kept += int(kept - l.kept[i])
		l.asked[i], l.kept[i] = asked, kept
	}
}

// returns counts how often a unit should come back to a track and how often it
// does. One return serves one wish.
func (st *state) returns(t int, u int32) (asked, kept int16) {
	first, weeks := 64, uint64(0)
	for _, o := range st.occs[u] {
		if q := &st.m.squares[o.square]; q.track == t {
			weeks |= 1 << q.week
			if o.kind == teach {
				first = min(first, q.week)
			}
		}
	}
	if first == 64 {
		return 0, 0
	}
	p := &st.m.p
	weeks &^= 1<<(first+1) - 1
	for _, gap := range p.Spacing.Weeks {
		on := first + gap
		if on > p.Weeks {
			continue
		}
		asked++
		low, high := max(0, on-p.Spacing.Tolerance), min(63, on+p.Spacing.Tolerance)
		window := weeks &^ (1<<low - 1)
		if high < 63 {
			window &= 1<<(high+1) - 1
		}
		if window != 0 {
			kept++
			weeks &^= 1 << bits.TrailingZeros64(window)
		}
	}
	return asked, kept
}

// square counts a square and its neighbours in its line anew.
func (l *softScore) square(st *state, s int32) {
	if l.idle {
		return
	}
	full, thick := len(st.sq[s]) > 0, len(st.sq[s]) > 3
	l.sums.full += moved(l.full[s], full)
	l.sums.thick += moved(l.thick[s], thick)
	l.full[s], l.thick[s] = full, thick
	q := &st.m.squares[s]
	if school := st.m.p.Tracks[q.track].School; school == "block" || school == "spiral" {
		l.pairUp(st, s, school == "block")
		if q.after >= 0 {
			l.pairUp(st, q.after, school == "block")
		}
	}
}

func (l *softScore) pairUp(st *state, s int32, block bool) {
	pair, good := false, false
	if b := st.m.squares[s].before; b >= 0 {
		met, both := st.meet(st.sq[b], st.sq[s])
		pair, good = both, both && met == block
	}
	l.sums.pairs += moved(l.pair[s], pair)
	l.sums.goods += moved(l.good[s], good)
	l.pair[s], l.good[s] = pair, good
}

// meet says whether what is taught in two squares has an area in common, and
// whether both teach anything.
func (st *state) meet(a, b []item) (met, both bool) {
	some := slices.ContainsFunc(a, func(x item) bool { return x.kind == teach })
	for _, y := range b {
		if y.kind != teach {
			continue
		}
		both = some
		for _, x := range a {
			met = met || x.kind == teach && st.m.units[x.unit].area == st.m.units[y.unit].area
		}
	}
	return met, both
}

func moved(from, to bool) int {
	switch {
	case from == to:
		return 0
	case to:
		return 1
	}
	return -1
}
