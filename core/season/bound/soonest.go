package bound

import (
	"slices"

	"vereda/core/season/model"
)

// firstDays are the first day each unit can be taught in a track, −1 where it is assumed or was held, Never where it cannot: the order of
// days, what it stands on, who could lead it, and what could come before it in its class.
func (x *Relaxation) firstDays(t int) []int {
	m := x.m
	first := make([]int, len(m.Units))
	for u := range first {
		if first[u] = model.Never; m.Assumed[t][u] || m.HeldIn(t, u) {
			first[u] = -1
		}
	}
	for _, s := range m.ByTrack[t] { // day by day: what a unit stands on has its first day before
		q := &m.Squares[s]
		for u := range first {
			if first[u] == model.Never && stands(m, u, q, first) && (q.Fixed && model.HasUnit(q.Given, int32(u)) || !q.Fixed && x.teachable(u, q, first)) {
				first[u] = q.Day
			}
		}
	}
	return first
}

// stands says whether all that a unit stands on may have been taught before a square's day.
func stands(m *model.Model, u int, q *model.Square, first []int) bool {
	for _, r := range m.Units[u].Requires {
		if !m.Assumed[q.Track][r] && first[r] >= q.Day {
			return false
		}
	}
	return true
}

// teachable says whether any class of a square could be taught a unit, and all that would hear it then be led.
func (x *Relaxation) teachable(u int, q *model.Square, first []int) bool {
	for _, c := range q.Classes {
		if length := x.m.Problem.Classes[c].TeachMinutes; x.led(u, q, length) && x.lasts(u, model.Teach, q, length, first) {
			return true
		}
	}
	return false
}

// lasts says whether an item may be the last that the classes of a square as long as some are given: where there are shorter ones, something may come before it for so
// long that it ends after they do. First are the days from which on each unit may be taught.
func (x *Relaxation) lasts(u int, kind uint8, q *model.Square, length int, first []int) bool {
	m, shorter := x.m, 0
	for _, c := range q.Classes {
		if l := m.Problem.Classes[c].TeachMinutes; l < length {
			shorter = max(shorter, l)
		}
	}
	takes := m.Units[u].Cost[kind]
	if takes > shorter || length >= mostMinutes {
		return takes <= length
	}
	begins := from(shorter + 1 - takes).and(from(length + 1 - takes).not())
	before := minutes{1}
	for _, v := range m.Teaches[q.Track] {
		teach := q.Day >= first[v] || first[v] == model.Never && stands(m, int(v), q, first) // of the day it is not known yet
		review := q.Day > first[v]
		if int(v) == u || !teach && !review || !x.ledBefore(int(v), u, q, length, length-takes) {
			continue
		}
		if before = before.with(m.Units[v].Cost, teach, review); before.and(begins) != (minutes{}) {
			return true
		}
	}
	return false
}

// with are these minutes with a unit besides: taught, reviewed or neither, as it may be.
func (m minutes) with(cost [2]int, teach, review bool) minutes {
	now := m
	if teach {
		now = now.or(m.later(cost[model.Teach]))
	}
	if review {
		now = now.or(m.later(cost[model.Review]))
	}
	return now
}

// ledBefore says whether all classes that hear a unit which ends by some minute, before another that those of a length hear, can be led.
func (x *Relaxation) ledBefore(first, then int, q *model.Square, length, by int) bool {
	var masks []uint64
	m := x.m
	for _, c := range q.Classes {
		l := m.Problem.Classes[c].TeachMinutes
		if l < by {
			continue // it may end after them
		}
		mask := m.There[int(c)*(m.Problem.Weeks+1)+q.Week] & m.Units[first].MayLead
		if l >= length {
			mask &= m.Units[then].MayLead
		}
		masks = append(masks, mask)
	}
	return x.staff.canLead(q.Week, masks)
}

// led says whether the classes of a square that are at least so long can all have a coach who may teach a unit.
func (x *Relaxation) led(u int, q *model.Square, length int) bool {
	return x.ledBefore(u, u, q, length, length)
}

// unneeded are the units of each track that the relaxation has none of, as nobody needs them there.
func (x *Relaxation) unneeded() (all [][]int32) {
	for t, teaches := range x.m.Teaches {
		has := make([]bool, len(x.m.Units))
		for i := range x.Subproblems {
			s := &x.Subproblems[i]
			has[s.Unit] = slices.ContainsFunc(s.Dims, func(d Dim) bool { return d.track == t })
		}
		all = append(all, slices.DeleteFunc(slices.Clone(teaches), func(u int32) bool { return has[u] }))
	}
	return all
}

// idle is for how long a square may give units that nobody needs: every sum of their minutes.
func (x *Relaxation) idle(q *model.Square, unneeded []int32) minutes {
	sums, first := minutes{1}, x.soonest[q.Track]
	for _, u := range unneeded {
		sums = sums.with(x.m.Units[u].Cost, q.Day >= first[u], q.Day > first[u])
	}
	return sums
}
