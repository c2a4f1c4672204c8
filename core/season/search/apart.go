package search

import (
	"slices"

	"vereda/core/season/model"
)

const (
	// apartFirst is after how many microseconds of a proof tracks are first solved one by one, and apartLeast how many that may take at least; then again when
	// apartAgain times as many are over, for apartShare of them.
	apartFirst = 250_000
	apartLeast = 550_000
	apartAgain = 3
	apartShare = 0.25
	// apartOf is how much of what is left it may take where ways could not be listed yet.
	apartOf = 0.7
	// apartHeard is how far behind its own time it hears what the search beside it found, to set out from.
	apartHeard = 0.9
)

// apart solves the best plan track by track now and then, as a proof goes on, in so many microseconds at most.
func (e *exhaust) apart(most int) {
	if e.hear == nil || len(e.m.ByTrack) < 2 || e.spent() < e.apartAt {
		return
	}
	if e.hearSoon(0); e.score > e.solved {
		e.spend(e.oneByOne(min(most, max(apartLeast, int(apartShare*float64(e.spent()))))))
	}
	if e.apartAt = apartAgain * e.spent(); e.daily != nil {
		e.daily.Known = e.score * e.m.Weights
	}
}

// hearSoon hears what the search found nearly up to now, and so many microseconds more.
func (e *exhaust) hearSoon(took int) {
	e.listen(int(apartHeard / heardShare * float64(e.spent()+took)))
}

// oneByOne solves one track exactly, the others as in the best plan, then the next, until none gets better: what a search misses in a small season is most often within
// one track, and by itself a track is proven in a small part of what the whole takes. It may take about so many microseconds, and says how many it did.
func (e *exhaust) oneByOne(budget int) (took int) {
	tracks := len(e.m.ByTrack)
	for t, same := 0, 0; same < tracks && took < budget && !e.stopped(); t = (t + 1) % tracks {
		before := e.score
		if e.hearSoon(took); e.score > before {
			same = 0
		}
		x := newExhaust(e.beside(t), find{plan: e.best, score: e.score}, e.stop)
		if _, ok := x.begin(float64(budget-took) / (1e6 * proofShare)); ok {
			x.branch(max(0, budget-took-x.readied))
		}
		took += x.spent()
		e.st.Work += x.st.Work
		if same++; x.score > e.score+1e-12 {
			e.score, same = x.score, 1
			copy(e.best, x.best)
		}
	}
	e.solved = e.score
	return took
}

// beside is the season with every track but one fixed as in the best plan.
func (e *exhaust) beside(track int) *model.Model {
	m := e.m.Apart()
	for s := range m.Squares {
		if q := &m.Squares[s]; q.Track != track && !q.Fixed {
			q.Fixed, q.Given = true, slices.Clone(e.best[s])
		}
	}
	return m
}
