package ledger

import (
	"math"

	"vereda/core/calendar"
	"vereda/core/library"
)

// CheckHabits are what a coach picks for a check: how likely one thing that is not drilled yet, or one that was reached already, is picked beside one that is ready.
// Zero, both: only what is ready is checked.
type CheckHabits struct {
	Early float64 `json:"early" doc:"Of something met but not drilled yet; 1 as likely as something ready"`
	Again float64 `json:"again" doc:"Of something that reached its rung already"`
}

// pick is what a check is of, by a number from 0 to 1: false when it is of something that is there already, or of nothing.
func (h CheckHabits) pick(x float64, ready, early []int, again int) (need int, ok bool) {
	a, b := float64(len(ready)), h.Early*float64(len(early))
	x *= a + b + h.Again*float64(again)
	switch {
	case x < a:
		return ready[int(x)], true
	case x < a+b:
		return early[min(len(early)-1, int((x-a)/h.Early))], true
	}
	return 0, false
}

// Pick is what one check could have been of, by how it stood then, and what it was of.
type Pick struct {
	Ready, Early, Again int
	Was                 pickKind
}

// Elsewhere says that a check was of something no next rank asks for, or that was not met yet.
func (p Pick) Elsewhere() bool { return p.Was == pickNone }

type pickKind byte

const (
	pickNone pickKind = iota // not met, or not asked for
	pickReady
	pickEarly
	pickAgain
)

// leastPicks is how many checks say something of a habit.
const leastPicks = 40

// FitHabits finds the weights under which the picks are likeliest, each check falling on one thing of those it could have been of, by weight: a conditional logit (McFadden 1974) with one
// weight a group, by its fixed point (each weight is what fell on its group ÷ what would have by one). Under 40 picks it says nothing. Costs 60 passes over the picks.
func FitHabits(picks []Pick) CheckHabits {
	ready, early, again := 0.0, 0.0, 0.0
	for _, p := range picks {
		switch p.Was {
		case pickReady:
			ready++
		case pickEarly:
			early++
		case pickAgain:
			again++
		}
	}
	if ready+early+again < leastPicks {
		return CheckHabits{}
	}
	w := [3]float64{1, 1, 1}
	fell := [3]float64{ready + 0.5, early + 0.5, again + 0.5} // half a check more of each, so that none is nothing
	for range 60 {
		would := [3]float64{}
		for _, p := range picks {
			if p.Was == pickNone {
				continue
			}
			n := [3]float64{float64(p.Ready), float64(p.Early), float64(p.Again)}
			sum := w[0]*n[0] + w[1]*n[1] + w[2]*n[2]
			for k := range would {
				would[k] += n[k] / sum
			}
		}
		for k := range w {
			w[k] = fell[k] / math.Max(would[k], 0.5)
		}
	}
	const most = 20
	return CheckHabits{Early: math.Min(most, w[1]/w[0]), Again: math.Min(most, w[2]/w[0])}
}

// Asked is what a next rank asks: for each technique and side the step of its rung.
type Asked map[AskedKey]int

// AskedKey is one technique on one side.
type AskedKey struct {
	Technique string
	Side      library.Side
}

// Picks goes through what happened to one student and says of each check from a day on what it could have been of, of all their next rank asks. Costs as Standings does.
func Picks(lib *library.Library, rules StandingRules, attended []Attended, checked []Checked, asked Asked, since calendar.Day) []Pick {
	var picks []Pick
	now := Pick{}
	kind := func(s Standing) pickKind {
		step, ok := asked[AskedKey{s.Technique, s.Side}]
		switch has := s.Rung.Step(); {
		case !ok || has <= 0:
			return pickNone
		case has >= step:
			return pickAgain
		case has >= drilledStep:
			return pickReady
		}
		return pickEarly
	}
	count := func(k pickKind, by int) {
		switch k {
		case pickReady:
			now.Ready += by
		case pickEarly:
			now.Early += by
		case pickAgain:
			now.Again += by
		}
	}
	project(lib, rules, attended, checked, func(s step) {
		was := kind(s.before)
		if s.check && s.on >= since {
			pick := now
			pick.Was = was
			picks = append(picks, pick)
		}
		count(was, -1)
		count(kind(s.after), 1)
	})
	return picks
}
