package repair

import (
	"cmp"
	"slices"

	"vereda/core/draw"
	"vereda/core/season/model"
	"vereda/core/season/search"
)

const (
	salvages    = 40      // readings of the old plan, each with other choices
	salvageWork = 150_000 // steps they may cost
	salvageBest = 4       // of them, those that are made sufficient
	sufficeWork = 10_000  // steps that filling one of them anew may cost
)

// salvage reads the old plan into what is left, in the order it happens, once so that whatever misses something falls, and then many times so that what
// is missing is given elsewhere in front of it, with other choices each time. It answers with the readings that change the fewest classes, the fewest first.
//
// Costs squares × items for each reading, and a look at the rooms of a track for each unit that is missed.
func (f *fewest) salvage(st *model.State) [][][]model.Item {
	type reading struct {
		all     [][]model.Item
		changed int
		covered float64
	}
	start := st.Contents()
	rng := draw.New(uint64(f.m.Problem.Seed)+1, 5)
	var read []reading
	for i, from := 0, st.Work; i < salvages && st.Work-from < salvageWork; i++ {
		st.Take(start)
		s := salvage{fewest: f, st: st, rng: rng, falls: i == 0}
		if i > 2 {
			s.noise = 0.5
		}
		s.read()
		if i == 0 {
			f.broken = st.Coverage()
		}
		all := st.Contents()
		read = append(read, reading{all, f.classes(all), st.Coverage()})
		if i == 1 && read[1].changed == 0 {
			break // all of it still stands
		}
	}
	slices.SortStableFunc(read, func(a, b reading) int {
		return cmp.Or(cmp.Compare(a.changed, b.changed), cmp.Compare(b.covered, a.covered))
	})
	var best [][][]model.Item
	for i, x := range read {
		if i == 0 || len(best) < salvageBest && (x.changed != read[i-1].changed || x.covered != read[i-1].covered) {
			best = append(best, x.all)
		}
	}
	return best
}

// salvage is one reading of the old plan.
type salvage struct {
	*fewest
	st    *model.State
	rng   *draw.Draws
	falls bool    // whatever misses something falls
	noise float64 // how often a choice is not the first
}

func (s *salvage) read() {
	for at, was := range s.was {
		if q := &s.m.Squares[at]; !q.Fixed {
			for _, it := range was {
				s.put(at, q, it)
			}
		}
	}
}

// put gives a square an item of the old plan back. What it misses is given before it, where that changes least; a review of what was never taught
// becomes the teach.
func (s *salvage) put(at int, q *model.Square, it model.Item) {
	it.Audience = 0
	with := func(it model.Item) bool {
		return s.st.Try(model.Change{Square: at, Items: append(slices.Clone(s.st.Items[at]), it)})
	}
	if with(it) || s.falls || !s.m.Can[q.Track][it.Unit] {
		return
	}
	review := it.Kind == model.Review && s.st.First(q.Track, it.Unit) >= q.Day
	here := model.Item{Unit: it.Unit, Kind: model.Teach}
	if review && s.rng.Float64() < s.noise && with(here) {
		return
	}
	if s.rng.Float64() < s.noise/4 {
		return
	}
	saved := !review || s.rescue(q.Track, it.Unit, q.Day, 0)
	for _, r := range s.m.Units[it.Unit].Requires {
		saved = saved && s.rescue(q.Track, r, q.Day, 0)
	}
	if saved && with(it) || !review {
		return
	}
	with(here)
}

// rescue gives a unit in a track before a day, where that changes least: in a class that differs already, then in few classes, then where it pushes out
// what is worth least. What it stands on is rescued first.
func (s *salvage) rescue(t int, u int32, before, depth int) bool {
	st := s.st
	if st.First(t, u) < before {
		return true
	}
	if !s.m.Can[t][u] || depth > 4 {
		return false
	}
	ground := -1
	for _, r := range s.m.Units[u].Requires {
		if !s.rescue(t, r, before, depth+1) {
			return false
		}
		ground = max(ground, st.First(t, r))
	}
	r := search.Relay{State: st}
	r.FindRooms(t, u)
	type place struct {
		search.Room
		changes, cost float64
	}
	var places []place
	for _, x := range r.Rooms[model.Teach] {
		q := &s.m.Squares[x.Square]
		if q.Day <= ground || q.Day >= before {
			continue
		}
		p := place{Room: x, cost: x.Cost}
		if !s.differs(int(x.Square), st.Items[x.Square]) {
			p.changes = float64(len(q.Classes))
		}
		if s.noise > 0 {
			p.changes += s.noise * s.rng.Float64() * 4
			p.cost *= 0.5 + s.rng.Float64()
		}
		places = append(places, p)
	}
	slices.SortStableFunc(places, func(a, b place) int { return cmp.Or(cmp.Compare(a.changes, b.changes), cmp.Compare(a.cost, b.cost)) })
	for _, x := range places {
		items := []model.Item{{Unit: u, Kind: model.Teach}}
		for i, it := range st.Items[x.Square] {
			if !slices.Contains(x.Goes[:], int8(i)) {
				items = append(items, it)
			}
		}
		if st.Try(model.Change{Square: int(x.Square), Items: items}) {
			return true
		}
	}
	return false
}

// suffice brings contents to enough: by filling anew what differs already, which changes no class more; else by growing.
func (f *fewest) suffice(all [][]model.Item) ([][]model.Item, float64) {
	m := f.m.Apart()
	st := search.Spare(m, all)
	if st.Coverage() < f.enough {
		for s := range m.Squares {
			m.Squares[s].Pinned = !f.differs(s, st.Items[s])
		}
		h := search.New(st, 1, sufficeWork)
		h.Enough = f.enough
		h.Run(nil)
		for s := range m.Squares {
			m.Squares[s].Pinned = false
		}
	}
	return f.grow(st)
}
