package repair

import (
	"vereda/core/draw"
	"vereda/core/season/model"
	"vereda/core/season/search"
)

const (
	lessenWork = 600_000 // steps that giving changed classes back may cost
	lessenTry  = 10_000   // and one attempt
)

// lessen looks for a plan as good with fewer changed classes: some of those that changed become again what they were, at times others may change in
// their place, and what may still change is searched until it is good enough again. It looks at the plan as a whole, which neither growing nor shrinking
// does: a few classes filled well in place of many with one item changed.
//
// Costs lessenWork steps, whatever the season.
func (f *fewest) lessen() {
	if f.covered < f.enough {
		return
	}
	m := f.m.Apart()
	st := search.Spare(m, f.best)
	rng := draw.New(uint64(m.Problem.Seed)+1, 3)
	now, changed := f.best, f.changed
	for try := uint64(1); st.Work < lessenWork && changed > 0; try++ {
		st.Take(now)
		if !f.giveBack(st, rng) {
			st.Work += lessenTry / 20
			continue
		}
		h := search.New(st, try, lessenTry)
		h.Enough = f.enough
		h.Run(nil)
		if h.Covers < f.enough {
			continue
		}
		all, covered := f.shrink(st.Contents())
		if n := f.classes(all); n < changed || n == changed && rng.IntN(2) == 0 {
			now, changed = all, n
			f.consider(all, covered)
		}
	}
}

// giveBack makes up to three of the changed squares what they were and pins all but the others that changed. For all but one of those given back another
// square of a track that changed may change too. It says whether what was may stand there again.
func (f *fewest) giveBack(st *model.State, rng *draw.Draws) bool {
	m := st.Model
	var changed []int
	for s := range m.Squares {
		q := &m.Squares[s]
		q.Pinned = q.Fixed || !f.differs(s, st.Items[s])
		if !q.Pinned {
			changed = append(changed, s)
		}
	}
	if len(changed) == 0 {
		return false
	}
	rng.Shuffle(len(changed), func(i, j int) { changed[i], changed[j] = changed[j], changed[i] })
	n := 1 + rng.IntN(min(3, len(changed)))
	var back []model.Change
	for _, s := range changed[:n] {
		back = append(back, model.Change{Square: s, Items: f.was[s]})
	}
	if !st.Try(back...) {
		return false
	}
	for _, c := range back {
		m.Squares[c.Square].Pinned = true
	}
	for range n - 1 {
		of := m.ByTrack[m.Squares[changed[rng.IntN(len(changed))]].Track]
		m.Squares[of[rng.IntN(len(of))]].Pinned = false
	}
	return true
}
