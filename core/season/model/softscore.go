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
	pairs       []int32 // room for a look at what might be
	Sums
	returns int  // how often a unit should come back at most
	Idle    bool // the goal is coverage alone
}

// Sums are what the shares are made of.
type Sums struct{ Asked, Kept, Pairs, Goods, Full, Thick int }

func newSoftScore(m *Model) SoftScore {
	n, s := len(m.Problem.Tracks)*len(m.Units), len(m.Squares)
	return SoftScore{asked: make([]int16, n), kept: make([]int16, n), pair: make([]bool, s), good: make([]bool, s), full: make([]bool, s), thick: make([]bool, s), returns: len(m.Problem.Spacing.Weeks), Idle: m.Problem.Goal == "coverage"}
}

func (l *Sums) Score() float64 {
	return WeightSpacing*l.Spacing() + WeightSchool*l.School() + WeightFocus*l.Focus()
}

func (l *Sums) Spacing() float64 { return Share(l.Kept, l.Asked) }

func (l *Sums) School() float64 { return Share(l.Goods, l.Pairs) }

func (l *Sums) Focus() float64 { return Share(l.Full-l.Thick, l.Full) }

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
		asked, kept := st.returns(t, st.Occasions[u])
		l.Sums.Asked += int(asked - l.asked[i])
		l.Sums.Kept += int(kept - l.kept[i])
		l.asked[i], l.kept[i] = asked, kept
	}
}

// gain is by how much the score would change with what was placed in squares (see State.Gain, whose shifts it reads).
func (l *SoftScore) gain(st *State, changes []Change) float64 {
	if l.Idle {
		return 0
	}
	st.Work += int64(len(st.shifts))
	would := l.Sums
	track := func(c Change) int { return st.Model.Squares[c.Square].Track }
	l.pairs = l.pairs[:0]
	for i, c := range changes {
		would.Full += moved(l.full[c.Square], len(c.Items) > 0)
		would.Thick += moved(l.thick[c.Square], len(c.Items) > 3)
		for _, s := range [2]int32{int32(c.Square), st.Model.Squares[c.Square].after} {
			if s >= 0 && !slices.Contains(l.pairs, s) {
				l.pairs = append(l.pairs, s)
				l.rate(st, s, changes, &would)
			}
		}
		if slices.ContainsFunc(changes[:i], func(x Change) bool { return track(x) == track(c) }) {
			continue
		}
		for _, x := range st.shifts {
			asked, kept := st.returns(track(c), st.givenAfter(x.unit, changes))
			at := track(c)*len(st.Model.Units) + int(x.unit)
			would.Asked += int(asked - l.asked[at])
			would.Kept += int(kept - l.kept[at])
		}
	}
	return would.Score() - l.Sums.Score()
}

// most is more than the score can gain when so many units are given otherwise in so many squares: each unit may return as often as it should, or
// be asked to no more, and each square is in two pairs.
func (l *SoftScore) most(units, squares int) float64 {
	if l.Idle {
		return 0
	}
	share := func(n, of int) float64 {
		if n >= of {
			return 1
		}
		return float64(n) / float64(of-n)
	}
	return WeightSpacing*share(l.returns*units*squares, l.Asked) + WeightSchool*share(2*squares, l.Pairs) + WeightFocus*share(squares, l.Full)
}

// rate counts what a square and the one before it in its line would be after changes that were placed.
func (l *SoftScore) rate(st *State, s int32, changes []Change, would *Sums) {
	q := &st.Model.Squares[s]
	school := st.Model.Problem.Tracks[q.Track].School
	if q.before < 0 || school != "block" && school != "spiral" {
		return
	}
	pair, good := st.pairOf(st.after(q.before, changes), st.after(s, changes), school == "block")
	would.Pairs += moved(l.pair[s], pair)
	would.Goods += moved(l.good[s], good)
}

// returns counts how often a unit should come back to a track and how often it
// does. One return serves one wish.
func (st *State) returns(t int, occs []Occasion) (asked, kept int16) {
	first, weeks := 64, uint64(0)
	for _, o := range occs {
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
		pair, good = st.pairOf(st.Items[b], st.Items[s], block)
	}
	l.Sums.Pairs += moved(l.pair[s], pair)
	l.Sums.Goods += moved(l.good[s], good)
	l.pair[s], l.good[s] = pair, good
}

// pairOf says whether two squares in a row count for the school of their line, and whether they are as it wishes.
func (st *State) pairOf(before, now []Item, block bool) (pair, good bool) {
	met, both := st.meet(before, now)
	return both, both && met == block
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
