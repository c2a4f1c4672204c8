package model

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

// SoftScore keeps what the goal full counts besides coverage and can be changed by
// what the squares hold:
//
//   - spacing: of the times a unit should come back to a track after its first
//     teach there, the share it does, within the tolerance;
//   - school: of two classes of a line a week apart, the share that stays in an
//     area (block) or leaves it (spiral);
//   - focus: the share of classes with at most three units.
type SoftScore struct {
	asked, kept []int16 // track × unit
	pair, good  []bool  // per square: with the one before it in its line
	full, thick []bool  // per square: not empty; more than three units
	Sums        struct{ Asked, Kept, Pairs, Goods, Full, Thick int }
	Idle        bool // the goal is coverage alone
}

func newSoftScore(m *Model) SoftScore {
	n, s := len(m.Problem.Tracks)*len(m.Units), len(m.Squares)
	return SoftScore{asked: make([]int16, n), kept: make([]int16, n), pair: make([]bool, s), good: make([]bool, s), full: make([]bool, s), thick: make([]bool, s), Idle: m.Problem.Goal == "coverage"}
}

func (l *SoftScore) Score() float64 {
	return WeightSpacing*l.Spacing() + WeightSchool*l.School() + WeightFocus*l.Focus()
}

func (l *SoftScore) Spacing() float64 { return Share(l.Sums.Kept, l.Sums.Asked) }

func (l *SoftScore) School() float64 { return Share(l.Sums.Goods, l.Sums.Pairs) }

func (l *SoftScore) Focus() float64 { return Share(l.Sums.Full-l.Sums.Thick, l.Sums.Full) }

func Share(some, all int) float64 {
	if all == 0 {
		return 1
	}
	return float64(some) / float64(all)
}

// unit counts a unit's returns anew in every track.
func (l *SoftScore) unit(st *State, u int32) {
	if l.Idle {
		return
	}
	for t := range st.Model.Problem.Tracks {
		i := t*len(st.Model.Units) + int(u)
		asked, kept := st.returns(t, u)
		l.Sums.Asked += int(asked - l.asked[i])
		l.Sums.Kept += int(kept - l.kept[i])
		l.asked[i], l.kept[i] = asked, kept
	}
}

// returns counts how often a unit should come back to a track and how often it
// does. One return serves one wish.
func (st *State) returns(t int, u int32) (asked, kept int16) {
	first, weeks := 64, uint64(0)
	for _, o := range st.Occasions[u] {
		if q := &st.Model.Squares[o.Square]; q.Track == t {
			weeks |= 1 << q.Week
			if o.Kind == Teach {
				first = min(first, q.Week)
			}
		}
	}
	if first == 64 {
		return 0, 0
	}
	p := &st.Model.Problem
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
func (l *SoftScore) square(st *State, s int32) {
	if l.Idle {
		return
	}
	full, thick := len(st.Items[s]) > 0, len(st.Items[s]) > 3
	l.Sums.Full += moved(l.full[s], full)
	l.Sums.Thick += moved(l.thick[s], thick)
	l.full[s], l.thick[s] = full, thick
	q := &st.Model.Squares[s]
	if school := st.Model.Problem.Tracks[q.Track].School; school == "block" || school == "spiral" {
		l.pairUp(st, s, school == "block")
		if q.after >= 0 {
			l.pairUp(st, q.after, school == "block")
		}
	}
}

func (l *SoftScore) pairUp(st *State, s int32, block bool) {
	pair, good := false, false
	if b := st.Model.Squares[s].before; b >= 0 {
		met, both := st.meet(st.Items[b], st.Items[s])
		pair, good = both, both && met == block
	}
	l.Sums.Pairs += moved(l.pair[s], pair)
	l.Sums.Goods += moved(l.good[s], good)
	l.pair[s], l.good[s] = pair, good
}

// meet says whether what is taught in two squares has an area in common, and
// whether both teach anything.
func (st *State) meet(a, b []Item) (met, both bool) {
	some := slices.ContainsFunc(a, func(x Item) bool { return x.Kind == Teach })
	for _, y := range b {
		if y.Kind != Teach {
			continue
		}
		both = some
		for _, x := range a {
			met = met || x.Kind == Teach && st.Model.Units[x.Unit].Area == st.Model.Units[y.Unit].Area
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
