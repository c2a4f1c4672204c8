package search

import (
	"slices"

	"vereda/core/season/model"
)

// anew is which round of a small season begins from the first plan: each fifth, and each tenth from one in which a class gives way. The others change one track alone
// in the best plan, one after the other.
const anew = 5

// begins sets out for a round of a small season and says how large what it changes is: units × squares.
func (h *Search) begins(round int) int64 {
	switch {
	case round%(2*anew) == 1+anew && h.giveWay():
	case round%anew == 1:
		h.st.Take(h.first)
	case round > 0:
		h.alone(h.alones % len(h.of))
		h.alones++
	}
	return int64(len(h.units)) * int64(len(h.open))
}

// giveWay begins from a plan in which a class is left free where the best plan leaves another of its week so: who leads the one may lead the other then, and giving up
// all that a class holds before the other holds anything is more than a change may lose. It says whether there is such a class.
func (h *Search) giveWay() bool {
	m := h.st.Model
	idle := slices.DeleteFunc(slices.Clone(h.open), func(s int32) bool { return len(h.best[s]) > 0 })
	if len(idle) == 0 {
		return false
	}
	week := m.Squares[idle[h.rng.IntN(len(idle))]].Week
	held := slices.DeleteFunc(slices.Clone(h.open), func(s int32) bool { return m.Squares[s].Week != week || len(h.best[s]) == 0 })
	if len(held) == 0 {
		return false
	}
	free := held[h.rng.IntN(len(held))]
	empty := slices.Clone(h.first)
	for _, s := range h.open {
		empty[s] = nil
	}
	h.st.Take(empty)
	m.Squares[free].Pinned = true
	h.freed = append(h.freed, free)
	Fill(h.st, nil)
	if len(demands(h.st)) > 0 { // it was what something fixed, or a date, asks for
		h.everywhere()
		return false
	}
	h.some(slices.DeleteFunc(slices.Clone(h.open), func(s int32) bool { return s == free }), h.units)
	return true
}

// some lets moves change these alone.
func (h *Search) some(open, units []int32) {
	h.all.open, h.all.units = h.open, h.units
	h.open, h.units = open, units
}

// alone lets moves change one track, if there is anything in it to change.
func (h *Search) alone(track int) {
	m := h.st.Model
	open := slices.DeleteFunc(slices.Clone(h.open), func(s int32) bool { return m.Squares[s].Track != track })
	units := slices.DeleteFunc(slices.Clone(h.units), func(u int32) bool { return !m.Can[track][u] })
	if len(open) > 0 && len(units) > 0 {
		h.some(open, units)
		h.relay.alone, h.relay.track = true, track
	}
}

// everywhere lets them change all again.
func (h *Search) everywhere() {
	if h.all.open != nil {
		h.open, h.units, h.all.open, h.relay.alone = h.all.open, h.all.units, nil, false
	}
	for _, s := range h.freed {
		h.st.Model.Squares[s].Pinned = false
	}
	h.freed = h.freed[:0]
}

// cross puts what a round came to into the best plan, track by track, where that is better: what is best in one track has little to do with what is in another.
func (h *Search) cross() {
	came := h.st.Contents()
	h.st.Take(h.best)
	for _, of := range h.of {
		var changes []model.Change
		for _, s := range of {
			if !h.st.Model.Squares[s].Stays() {
				changes = append(changes, model.Change{Square: int(s), Items: came[s]})
			}
		}
		now := h.st.Score()
		if len(changes) == 0 || !h.st.Try(changes...) {
			continue
		}
		if next := h.st.Score(); next > now+1e-12 {
			h.note(next)
		} else {
			h.st.Undo()
		}
	}
}
