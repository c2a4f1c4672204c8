package search

import (
	"slices"

	"vereda/core/season/model"
)

// Refill empties a few squares of one track and fills them again by greed with noise. Laying one unit anew cannot do what this
// does: trade several units of the same evenings for others at once.
//
// Costs squares × items in them × units of the track, each a look at one unit's value.
type refill struct {
	st      *model.State
	rng     *random
	of      [][]int32 // per track, the squares it draws from
	log     []model.Change
	squares []int32
	rest    []model.Item
	noise   float64
	barred  map[int32]bool
}

// do empties and fills again; it says whether anything changed. back puts all as it was.
func (r *refill) do(near int32) bool {
	st := r.st
	r.log, r.squares = r.log[:0], r.squares[:0]
	t := st.Model.Squares[near].Track
	of := r.of[t]
	n := 2 + r.rng.IntN(3)
	r.squares = append(r.squares, near)
	if unled := float64(st.Unled) / float64(max(1, st.Asked)); unled > leastUnled && r.rng.Float64() < min(mostBeside, unled) {
		r.beside(near)
	}
	for tries := 0; len(r.squares) < n && tries < 12; tries++ {
		s := of[r.rng.IntN(len(of))]
		if r.rng.IntN(3) > 0 { // most often of the weeks around
			s = r.around(of, near)
		}
		if !st.Model.Squares[s].Stays() && !slices.Contains(r.squares, s) {
			r.squares = append(r.squares, s)
		}
	}
	r.empty()
	if len(r.log) == 0 && st.Used[near] > 0 {
		return false
	}
	r.fill()
	return len(r.log) > 0
}

// mostBeside is how many refills at most are of one week across the tracks; as many are as changes fail for want of who could lead, and none
// where hardly any do: there it costs a tenth of a per cent or two.
const (
	mostBeside = 0.4
	leastUnled = 0.05
)

// beside draws from the classes of the same week in any track: where few are signed off, what one of them teaches the others cannot.
func (r *refill) beside(near int32) {
	of := r.st.Model.ByWeek[r.st.Model.Squares[near].Week]
	n := 2 + r.rng.IntN(3)
	for tries := 0; len(r.squares) < n && tries < 12; tries++ {
		s := of[r.rng.IntN(len(of))]
		if q := &r.st.Model.Squares[s]; !q.Stays() && len(r.st.Model.Teaches[q.Track]) > 0 && !slices.Contains(r.squares, s) {
			r.squares = append(r.squares, s)
		}
	}
}

// fill adds to the squares, in a new order each time, until nothing helps any more.
func (r *refill) fill() {
	st := r.st
	for more := true; more; {
		more = false
		for i := range r.squares { // in a new order each time
			j := i + r.rng.IntN(len(r.squares)-i)
			r.squares[i], r.squares[j] = r.squares[j], r.squares[i]
			s := int(r.squares[i])
			had := st.Items[s]
			if r.add(s) {
				r.log = append(r.log, model.Change{Square: s, Items: had})
				more = true
			}
		}
	}
}

// around is a square of the track a few places from another one.
func (r *refill) around(of []int32, near int32) int32 {
	at := 0
	for i, s := range of {
		if s == near {
			at = i
			break
		}
	}
	at = max(0, min(len(of)-1, at+r.rng.IntN(9)-4))
	return of[at]
}

// empty takes out of the squares whatever nothing elsewhere stands on: all at once where that may be, else item by item, the last first.
func (r *refill) empty() {
	st := r.st
	for round := 0; round < 2; round++ {
		for i := len(r.squares) - 1; i >= 0; i-- {
			s := int(r.squares[i])
			for j := len(st.Items[s]) - 1; j >= 0; j-- {
				if j >= len(st.Items[s]) {
					continue
				}
				had := st.Items[s]
				r.rest = append(append(r.rest[:0], had[:j]...), had[j+1:]...)
				if st.Try(model.Change{Square: s, Items: r.rest}) {
					r.log = append(r.log, model.Change{Square: s, Items: had})
				}
			}
		}
	}
}

// add gives a square the item that seems worth most per minute, with noise.
func (r *refill) add(s int) bool {
	st := r.st
	q := &st.Model.Squares[s]
	if st.Used[s]+st.Model.Least[q.Track] > q.Minutes {
		return false
	}
	full, taught := st.Model.Full(s, st.Items[s])
	if full {
		return false
	}
	clear(r.barred)
	for range 4 {
		best, found := 1e-9, model.Item{Unit: -1}
		for _, u := range st.Model.Teaches[q.Track] {
			x := &st.Model.Units[u]
			if r.barred[u] || st.Used[s]+min(x.Cost[0], x.Cost[1]) > q.Minutes || model.HasUnit(st.Items[s], u) {
				continue
			}
			first, off := st.First(q.Track, u), st.Model.OffLine(q, u)
			for kind := model.Teach; kind <= model.Review; kind++ {
				if st.Used[s]+x.Cost[kind] > q.Minutes || kind == model.Review && first >= q.Day || kind == model.Teach && (taught || off) {
					continue
				}
				gain := climbs(st, s, u, kind)
				if kind == model.Teach && first == model.Never && len(x.Opens) > 0 {
					gain += softScoreAhead * ahead(st, s, u, 0)
				}
				if gain <= 0 {
					continue
				}
				gain *= 1 + r.noise*(r.rng.Float64()-r.rng.Float64())
				if gain = gain / float64(x.Cost[kind]); gain > best {
					best, found = gain, model.Item{Unit: u, Kind: kind}
				}
			}
		}
		if found.Unit < 0 {
			return false
		}
		r.rest = append(append(r.rest[:0], st.Items[s]...), found)
		if last := len(r.rest) - 1; q.Uneven && last > 0 && r.rng.IntN(2) == 0 {
			i := r.rng.IntN(last + 1)
			r.rest[i], r.rest[last] = r.rest[last], r.rest[i]
		}
		if st.Try(model.Change{Square: s, Items: r.rest}) {
			return true
		}
		r.barred[found.Unit] = true
	}
	return false
}

// back undoes all of the last do.
func (r *refill) back() { undo(r.st, r.log) }

// undo puts squares back, the last change first.
func undo(st *model.State, log []model.Change) {
	for i := len(log) - 1; i >= 0; i-- {
		st.Set(log[i].Square, log[i].Items)
	}
	for _, c := range log {
		st.Staffing.Call(st, c.Square)
	}
	st.Settle()
}
