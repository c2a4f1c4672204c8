package search

import (
	"container/heap"
	"math"
	"slices"

	"vereda/core/season/bound"
	"vereda/core/season/model"
)

// Exact tries to prove the best coverage of a small season. The ways to give each unit are bounded at prices of every day (bound.Daily), and parted
// in two where that leaves too much open (branch); of a part every content of every square is looked at in turn, day by day. That turns back where what is still open
// cannot bring more than the best known, and where a state was met before that differs in nothing that matters. It says whether it finished; the search then
// holds the optimum.
//
// stop, when there is one, ends it; the search goes on from what it has.
func Exact(m *model.Model, h *Search, stop func() bool) bool {
	if !provable(h) {
		return false
	}
	whole := h.limit
	h.limit = warmth(whole)
	h.Run(nil)
	h.limit = whole
	p := prove(m, h.best, h.score, h.limit, stop)
	if p.score > h.score {
		h.score, h.Covers = p.score, p.score
		copy(h.best, p.best)
	}
	h.st.Take(h.best)
	return p.done
}

// provable says whether a season is small enough for a proof.
func provable(h *Search) bool {
	m := h.st.Model
	return m.Problem.Goal == "coverage" && len(h.open) <= 40 && len(m.Units) <= 16 && !m.Whole() && m.Weights > 0
}

// warmth is the work spent on finding a good plan before proving it best: a proof needs one.
func warmth(limit int64) int64 { return min(limit, max(exactWarmth, int64(exactShare*float64(limit)))) }

// proof is what came of one: whether it finished, what no plan covers more than, and the best plan it knows.
type proof struct {
	done  bool
	most  float64
	best  [][]model.Item
	score float64
	work  int64 // of its state
}

// prove goes out from the best plan known, and may take so many steps of a search. It shares nothing with one but the model.
func prove(m *model.Model, best [][]model.Item, score float64, limit int64, stop func() bool) proof {
	e := &exhaust{m: m, st: model.NewState(m), score: score, relaxation: bound.NewRelaxation(m), met: map[uint64]bool{}, stop: stop, tableOf: make([]int, len(m.Units))}
	for _, items := range best {
		e.best = append(e.best, slices.Clone(items))
	}
	most, ok := e.begin(limit)
	p := proof{most: most}
	if ok {
		p.done, p.most = e.branch(int(1e6 * proofShare * float64(limit) / stepsPerSecond))
	}
	p.most /= m.Weights
	p.best, p.score, p.work = e.best, e.score, e.st.Work
	return p
}

const (
	// exactWarmth is the work spent at least on finding a good plan before proving it best, and exactShare the share of the whole.
	exactWarmth = 60_000
	exactShare  = 0.1
	// proofShare is the part of the wish the proof may take, on a processor of its own where there is one.
	proofShare    = 0.9
	waysPerSecond = 200_000 // to give units that may be looked at, half a second's at least
	mostWays      = 1_000_000
	stateWork     = 3 // microseconds a state takes, as it was measured
	// The prices of the whole are moved in rounds, each of twice the steps up to priceRounds: most ways go in the first. Those of a part are moved in priceSteps.
	priceRounds = 5
	priceSteps  = 50
	// A twelfth of the proof may go on looking through the whole; of a part so many states are looked at before it is parted.
	wholeShare = 12
	partStates = 3000
)

// branch proves part by part: each is bounded, and looked through where that is soon done, or parted in two, the part that promises most first. It may take about so
// many microseconds, and says whether it finished, and what no plan covers more than.
func (e *exhaust) branch(budget int) (done bool, most float64) {
	open := parts{e.daily.Node()}
	looked := 0
	for first := true; len(open) > 0; first = false {
		n := heap.Pop(&open).(*bound.Node)
		e.daily.Known = e.score * e.m.Weights
		if n.Most <= e.daily.Known+1e-9 {
			break // and so are all the others
		}
		e.daily.Enter(n)
		ok, states := true, max(1, min(partStates, (budget-stateWork*looked-e.daily.Work)/stateWork))
		if first {
			states = max(1, budget/wholeShare/stateWork)
			for round := 0; round < priceRounds && ok && (round == 0 || e.daily.Work < budget/4); round++ {
				ok = e.daily.Settle(0.3*math.Pow(0.6, float64(round)), 0.002, e.daily.Steps(priceSteps<<min(round, 3), budget/4))
			}
		} else {
			ok = e.daily.Settle(0.05, 0.002, e.daily.Steps(priceSteps, budget))
		}
		if !ok {
			continue
		}
		done, took := e.look(states)
		looked += took
		if done {
			continue
		}
		left := budget - stateWork*looked - e.daily.Work
		two := e.daily.Branch()
		if len(two) == 0 && left > 0 {
			done, took = e.look(left / stateWork)
			looked += took
		}
		if !done && (len(two) == 0 || left <= 0 || e.stop != nil && e.stop()) {
			heap.Push(&open, e.daily.Node())
			most = e.score * e.m.Weights
			for _, n := range open {
				most = max(most, n.Most)
			}
			return false, most
		}
		for _, n := range two {
			heap.Push(&open, n)
		}
	}
	return true, e.score * e.m.Weights
}

// look looks through the ways that are left, in so many states at most.
func (e *exhaust) look(states int) (done bool, took int) {
	e.read()
	e.states, e.allowed = 0, states
	done = e.square(0)
	return done, e.states
}

// parts are nodes still open, the one that promises most first.
type parts []*bound.Node

func (r parts) Len() int           { return len(r) }
func (r parts) Less(i, j int) bool { return r[i].Most > r[j].Most }
func (r parts) Swap(i, j int)      { r[i], r[j] = r[j], r[i] }
func (r *parts) Push(x any)        { *r = append(*r, x.(*bound.Node)) }
func (r *parts) Pop() any {
	last := (*r)[len(*r)-1]
	*r = (*r)[:len(*r)-1]
	return last
}
