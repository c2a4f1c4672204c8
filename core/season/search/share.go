package search

import (
	"slices"

	"vereda/core/season/bound"
)

const (
	// searchesFor is how much work of a search beside a proof that parts a season may be: by then it has nearly always found the best plan, and its processor does more for the
	// proof.
	searchesFor = 2 * stepsPerSecond
	// sharedFrom is after how many microseconds of a proof another makes ready to help it.
	sharedFrom = 2_000_000
	// sharedAtOnce is how many parts the two look at before they put together what they know: each a half of them, always the same, so that what they come to does not hang
	// on which of the two is faster.
	sharedAtOnce = 8
)

// helper is a second proof of the same season that looks at parts for the first.
type helper struct {
	*exhaust
	ready chan bool
	from  int // microseconds of the first after which it helps
	helps bool
	gone  chan struct{} // closed when the first is over, and nobody waits for it
}

// share sets up a helper when a proof takes long enough, and lets it help once it is ready.
func (e *exhaust) share() {
	switch h := e.helper; {
	case e.hear == nil:
	case h == nil && e.spent() >= e.shareAt && e.daily.Left() > 3*e.readied:
		h = &helper{ready: make(chan bool, 1), gone: make(chan struct{}), from: e.spent() + e.readied}
		h.exhaust = newExhaust(e.m, find{plan: e.best, score: e.from}, func() bool { return closed(h.gone) || e.stopped() })
		e.helper = h
		go func() {
			_, ok := h.begin(e.seconds)
			h.ready <- ok
		}()
	case h != nil && h.ready != nil && e.spent() >= h.from:
		h.helps = <-h.ready && h.alike(e)
		h.ready = nil
	}
}

// leave tells the helper that it is over.
func (e *exhaust) leave() {
	if e.helper != nil {
		close(e.helper.gone)
	}
}

// alike says whether the ways of two proofs are the same ones, as they are where neither was stopped: parts name them by their places.
func (h *helper) alike(e *exhaust) bool {
	return slices.EqualFunc(h.tables, e.tables, func(a, b table) bool { return slices.Equal(a.packed, b.packed) }) && h.daily.AsksAlike(e.daily)
}

// atOnce is how many parts are looked at before the next are chosen.
func (e *exhaust) atOnce() int {
	if e.helper != nil && e.helper.helps {
		return sharedAtOnce
	}
	return 1
}

// expandAll expands parts, every other one by the helper.
func (e *exhaust) expandAll(now []*bound.Node, first bool) []*bound.Node {
	if len(now) == 1 {
		return e.expand(now[0], first)
	}
	came := make([][]*bound.Node, len(now))
	each := func(e *exhaust, from int) {
		for i := from; i < len(now); i += 2 {
			came[i] = e.expand(now[i], first)
		}
	}
	h := e.helper
	h.score = e.score
	copy(h.best, e.best)
	h.daily.Limit = h.daily.Work() + e.daily.Left()
	mine, theirs := e.daily.Work(), h.daily.Work()
	done := make(chan struct{})
	go func() {
		defer close(done)
		each(h.exhaust, 1)
	}()
	each(e, 0)
	<-done
	e.st.Work, h.st.Work = e.st.Work+h.st.Work, 0
	if late := h.daily.Work() - theirs - (e.daily.Work() - mine); late > 0 {
		e.daily.Spend(late) // it was waited for
	}
	if h.score > e.score+1e-12 {
		e.score = h.score
		copy(e.best, h.best)
	}
	return slices.Concat(came...)
}
