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
	p := prove(m, find{score: h.score, plan: h.best}, h.limit, nil, stop)
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

// warmth is the work spent on finding a good plan before proving it best: a proof needs one. From a second on it is the same for every wish, so that
// a longer proof goes on where a shorter one ended, and knows at least as good a plan.
func warmth(limit int64) int64 { return min(limit, max(leastWarmth, min(limit/10, mostWarmth))) }

// proof is what came of one: whether it finished, what no plan covers more than, and the best plan it knows.
type proof struct {
	done  bool
	cut   bool // the clock ended it, or whoever waits
	most  float64
	best  [][]model.Item
	score float64
	work  int64 // of its state
}

// prove goes out from the best plan known, and may take so many steps of a search. It shares nothing with one but the model, and what it hears of what that finds.
func prove(m *model.Model, known find, limit int64, hear *heard, stop func() bool) proof {
	e := newExhaust(m, known, stop)
	e.hear = hear
	seconds := float64(limit) / stepsPerSecond
	share := int(1e6 * proofShare * seconds)
	p := proof{}
	most, ok := e.begin(seconds)
	hear.lists(ok)
	if ok {
		p.done, p.most = e.branch(max(share/2, share-e.readied))
	} else {
		e.apart((share - e.readied) / 2)
		p.most = min(most, e.relaxation.Prove(share-e.readied))
	}
	p.cut = !p.done && e.stopped()
	p.most /= m.Weights
	p.best, p.score, p.work = e.best, e.score, e.st.Work
	return p
}

func newExhaust(m *model.Model, known find, stop func() bool) *exhaust {
	e := &exhaust{m: m, st: model.NewState(m), score: known.score, relaxation: bound.NewRelaxation(m), met: map[uint64]bool{}, lessened: map[bound.Cut]lessened{}, stop: stop, apartAt: apartFirst, shareAt: sharedFrom, tableOf: make([]int, len(m.Units))}
	for _, items := range known.plan {
		e.best = append(e.best, slices.Clone(items))
	}
	return e
}

const (
	leastWarmth, mostWarmth = 60_000, stepsPerSecond / 10
	// proofShare is the part of the wish the proof may take, on a processor of its own where there is one.
	proofShare = 0.95
	// Before ways are listed the relaxation that forgets the weeks is prepared and proven in so many steps.
	prepareSteps = 20_000
	// Listing the ways to give units takes so many microseconds at most for each second of the wish, and in all.
	listPerSecond = 200_000
	mostListing   = 1_000_000
	stateWork     = 2.6 // microseconds a state takes, as it was measured
	sortedWork    = 16  // ways sorted in one
	// The prices of the whole are moved twice, in half of the steps and in all of wholeSteps; those of a part in partSteps, and in probeSteps to see what parting
	// brings. Then so many states of a part are looked at before it is parted.
	wholeSteps = 100
	partSteps  = 80
	probeSteps = 20
	partStates = 1500
	unitCuts   = 8 // of units where parting a part is tried
	leadCuts   = 3 // and of leads
	// heardShare is how far behind its own time a proof hears what the search beside it found, so that it need not wait where that is slower.
	heardShare = 0.5
)

// proveSteps are those of the relaxation before ways are listed, and more of them where they were too many.
var proveSteps = [...]int{30_000, 200_000}

// branch proves part by part: each is bounded, and looked through where that is soon done, or parted in two, the parts that promise most first. It may take about so
// many microseconds, and says whether it finished, and what no plan covers more than.
func (e *exhaust) branch(budget int) (done bool, most float64) {
	defer e.leave()
	e.daily.Limit = e.daily.Work() + budget
	open := parts{e.daily.Node()}
	for first := true; ; first = false {
		e.listen(e.daily.Work())
		e.apart(e.daily.Left())
		e.share()
		var now []*bound.Node
		for len(open) > 0 && len(now) < e.atOnce() {
			n := heap.Pop(&open).(*bound.Node)
			if n.Most <= e.score*e.m.Weights+1e-9 {
				open = nil // and so are all the others
				break
			}
			now = append(now, n)
		}
		if len(now) == 0 {
			return true, e.score * e.m.Weights
		}
		for _, n := range e.expandAll(now, first) {
			heap.Push(&open, n)
		}
		if e.over() && len(open) > 0 {
			most = e.score * e.m.Weights
			for _, n := range open {
				most = max(most, n.Most)
			}
			return false, most
		}
	}
}

// expand bounds a part and looks through it, and says what it is parted in where that does not settle it.
func (e *exhaust) expand(n *bound.Node, first bool) []*bound.Node {
	e.daily.Known = e.score * e.m.Weights
	e.daily.Enter(n)
	ok := true
	if first {
		if ok = e.daily.Settle(0.3, 0.002, wholeSteps/2); ok {
			e.apart(e.daily.Left())
			ok = e.daily.Settle(0.18, 0.002, wholeSteps)
		}
	} else {
		ok = e.daily.Settle(0.12, 0.003, partSteps)
	}
	if !ok || !e.over() && e.look(partStates) {
		return nil
	}
	e.apart(e.daily.Left())
	two, parted := e.part()
	if !parted {
		if e.look(math.MaxInt) {
			return nil
		}
		two = append(two, e.daily.Node())
	}
	return two
}

// listen takes what the search beside it found by so much work, where that is better.
func (e *exhaust) listen(work int) {
	if e.hear == nil {
		return
	}
	if f := e.hear.by(work); f.score > e.score {
		e.score = f.score
		copy(e.best, f.plan)
	}
}

// spent is how many microseconds it has taken by now, as its steps are counted.
func (e *exhaust) spent() int {
	if e.daily == nil {
		return e.readied
	}
	return e.readied + e.daily.Work()
}

// spend counts microseconds that something else took for it.
func (e *exhaust) spend(took int) {
	if e.daily == nil {
		e.readied += took
	} else {
		e.daily.Spend(took)
	}
}

// over says whether a proof is to end.
func (e *exhaust) over() bool { return e.daily.Left() <= 0 || e.stopped() }

// stopped says whether whoever waits for it, or the clock, ends it.
func (e *exhaust) stopped() bool { return e.stop != nil && e.stop() }

// lessened is how much lower the bounds of two parts came to lie than that of the whole.
type lessened [2]float64

// part parts where the relaxation stands, at the cut that lowers the bounds of both parts most. What a cut brings is known from where the same was parted before,
// or tried in a few steps of the prices. It says whether there is anything to part; parts in which no plan can be better are left out.
func (e *exhaust) part() (parts []*bound.Node, ok bool) {
	whole := e.daily.Node()
	most := -1.0
	for i, c := range e.daily.Cuts(unitCuts, leadCuts) {
		over := e.over()
		if over && i > 0 {
			break
		}
		e.daily.Enter(whole)
		two := e.daily.Part(c)
		brings, known := e.lessened[c]
		if !known && !over {
			for i, n := range two {
				e.daily.Enter(n)
				least := e.daily.Known
				if two[i] = nil; e.daily.Settle(0.05, 0.002, probeSteps) {
					least, two[i] = e.daily.Most, e.daily.Node()
				}
				brings[i] = whole.Most - least
			}
			e.lessened[c] = brings
		}
		if score := max(1e-6, brings[0]) * max(1e-6, brings[1]); score > most {
			most, parts = score, two[:]
		}
		if two[0] == nil || two[1] == nil {
			parts = two[:]
			break
		}
	}
	return slices.DeleteFunc(parts, func(n *bound.Node) bool { return n == nil }), most >= 0
}

// look looks through the ways that are left, in so many states at most.
func (e *exhaust) look(states int) bool {
	e.read()
	e.states, e.allowed = 0, max(1, min(states, int(float64(e.daily.Left())/stateWork)))
	done := e.square(0)
	work := int(stateWork * float64(e.states))
	for i := range e.tables {
		work += len(e.tables[i].ways) / sortedWork
	}
	e.daily.Spend(work)
	return done
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
