package season

import (
	"cmp"
	"slices"
)

// begin is the state a search may start from: what is fixed, and the teaches
// that what is fixed or wanted cannot do without, each as early as there is room.
func (m *model) begin() (*state, *Conflict) {
	if st := m.feasible(); st != nil {
		return st, nil
	}
	return nil, m.p.conflict()
}

// mostPlacings is how many ways to place what must come first are tried before
// it counts as impossible.
const mostPlacings = 20_000

// feasible returns a state in which every rule is kept, or nil when none was found.
func (m *model) feasible() *state {
	if !m.fixedHolds() {
		return nil
	}
	st := newState(m)
	for w := 1; w <= m.p.Weeks; w++ {
		if !st.staffing.week(w) {
			return nil
		}
	}
	tries := mostPlacings
	if st.meetWanted(0, &tries) {
		return st
	}
	return nil
}

// fixedHolds asks of what is fixed what needs no search: open, long enough,
// allowed in the track, each unit once, and alike in mode same.
func (m *model) fixedHolds() bool {
	for s := range m.squares {
		q := &m.squares[s]
		if !q.fixed || q.held {
			continue
		}
		if closed(m.p, q.week, m.p.Classes[q.classes[0]].ID) {
			return false
		}
		left := q.minutes
		for i, it := range q.given {
			left -= m.units[it.unit].cost[it.kind]
			if left < 0 || !slices.Contains(m.p.Units[it.unit].Tracks, m.p.Tracks[q.track].ID) || hasUnit(q.given[:i], it.unit) {
				return false
			}
		}
		if m.p.Tracks[q.track].Mode == "same" && !m.alike(s) {
			return false
		}
	}
	return true
}

// alike says whether a fixed class of a track in mode same gives the leading
// items of the longer ones of its week, as far as they fit.
func (m *model) alike(s int) bool {
	q := &m.squares[s]
	for _, o := range m.byWeek[q.week] {
		x := &m.squares[o]
		if x.track != q.track || !x.fixed || x.held || x.minutes < q.minutes || int(o) == s {
			continue
		}
		left, n := q.minutes, 0
		for _, it := range x.given {
			if left -= m.units[it.unit].cost[it.kind]; left < 0 {
				break
			}
			n++
		}
		if n != len(q.given) || !slices.EqualFunc(q.given, x.given[:n], func(a, b item) bool { return a.unit == b.unit && a.kind == b.kind }) {
			return false
		}
	}
	return true
}

// meetWanted decides in which track each wanted unit is taught, then places
// everything that must come first.
func (st *state) meetWanted(i int, tries *int) bool {
	m := st.m
	if i == len(m.p.Wanted) {
		return st.meetDemands(tries)
	}
	w := m.p.Wanted[i]
	u := m.unitAt[w.Unit]
	for t, track := range m.p.Tracks {
		if w.Track != "" && w.Track != track.ID || !slices.Contains(m.p.Units[u].Tracks, track.ID) {
			continue
		}
		had := m.wantedBy[t][u]
		if had == 0 || int32(w.Week) < had {
			m.wantedBy[t][u] = int32(w.Week)
		}
		if st.meetWanted(i+1, tries) {
			return true
		}
		m.wantedBy[t][u] = had
	}
	return false
}

// demand is a unit that must be taught in a track before a day.
type demand struct {
	track  int
	unit   int32
	before int
	depth  int
}

// demands lists what must be taught and is not yet, what stands deepest first.
func (st *state) demands() []demand {
	m := st.m
	before := map[[2]int]int{}
	var ask func(t int, u int32, day int)
	ask = func(t int, u int32, day int) {
		k := [2]int{t, int(u)}
		if had, ok := before[k]; ok && had <= day {
			return
		}
		before[k] = day
		for _, r := range m.units[u].requires {
			ask(t, r, min(day, st.first(t, u))) // strictly earlier than it, wherever it stands
		}
	}
	for t := range m.p.Tracks {
		for u := range m.units {
			any, again := st.earliest(t, int32(u))
			if again != never {
				ask(t, int32(u), again)
			}
			if any != never {
				for _, r := range m.units[u].requires {
					ask(t, r, any)
				}
			}
			if w := m.wantedBy[t][u]; w > 0 {
				ask(t, int32(u), int(w+1)*8)
			}
		}
	}
	var all []demand
	for k, day := range before {
		if st.first(k[0], int32(k[1])) >= day {
			all = append(all, demand{k[0], int32(k[1]), day, m.depth(int32(k[1]))})
		}
	}
	slices.SortFunc(all, func(x, y demand) int {
		return cmp.Or(cmp.Compare(x.depth, y.depth), cmp.Compare(x.before, y.before), cmp.Compare(x.track, y.track), cmp.Compare(x.unit, y.unit))
	})
	return all
}

// depth is the length of the longest chain a unit stands on.
func (m *model) depth(u int32) int {
	most := 0
	for _, r := range m.units[u].requires {
		most = max(most, 1+m.depth(r))
	}
	return most
}

func (st *state) meetDemands(tries *int) bool {
	all := st.demands()
	if len(all) == 0 {
		return true
	}
	d := all[0]
	for _, s := range st.m.byTrack[d.track] {
		q := &st.m.squares[s]
		if q.fixed || q.day >= d.before {
			continue
		}
		if *tries--; *tries < 0 {
			return false
		}
		had := st.sq[s]
		// In front, where also the shortest class hears it.
		if !st.try(change{int(s), append([]item{{unit: d.unit, kind: teach}}, had...)}) {
			continue
		}
		if st.meetDemands(tries) {
			return true
		}
		st.set(int(s), had)
		st.staffing.call(st, int(s))
		st.settle()
	}
	return false
}
