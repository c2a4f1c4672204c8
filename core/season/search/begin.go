package search

import (
	"cmp"
	"slices"

	"vereda/core/season"
	"vereda/core/season/model"
)

// Begin is the state a search may start from: what is fixed, and the teaches
// that what is fixed or wanted cannot do without, each as early as there is room.
//
// Where there is none, watch is asked while the conflict that forbids one is looked for, without any progress to tell.
func Begin(m *model.Model, watch Watch) (*model.State, *Conflict) {
	if st := Feasible(m); st != nil {
		return st, nil
	}
	return nil, conflict(m.Problem, func() bool { return watch == nil || watch(Progress{Of: 1}) })
}

// mostPlacings is how many ways to place what must come first are tried before
// it counts as impossible.
const mostPlacings = 20_000

// Feasible returns a state in which every rule is kept, or nil when none was found.
func Feasible(m *model.Model) *model.State {
	if !fixedHolds(m) {
		return nil
	}
	st := model.NewState(m)
	for w := 1; w <= m.Problem.Weeks; w++ {
		if !st.Staffing.Week(w) {
			return nil
		}
	}
	tries := mostPlacings
	if meetWanted(st, 0, &tries) {
		return st
	}
	return nil
}

// fixedHolds asks of what is fixed what needs no search: open, long enough,
// allowed in the track, each unit once, and alike in mode same.
func fixedHolds(m *model.Model) bool {
	for s := range m.Squares {
		q := &m.Squares[s]
		if !q.Fixed || q.Held {
			continue
		}
		if season.Closed(m.Problem, q.Week, m.Problem.Classes[q.Classes[0]].ID) {
			return false
		}
		left := q.Minutes
		for i, it := range q.Given {
			left -= m.Units[it.Unit].Cost[it.Kind]
			if left < 0 || !slices.Contains(m.Problem.Units[it.Unit].Tracks, m.Problem.Tracks[q.Track].ID) || model.HasUnit(q.Given[:i], it.Unit) {
				return false
			}
		}
		if m.Problem.Tracks[q.Track].Mode == "same" && !alike(m, s) {
			return false
		}
	}
	return true
}

// alike says whether a fixed class of a track in mode same gives the leading
// items of the longer ones of its week, as far as they fit.
func alike(m *model.Model, s int) bool {
	q := &m.Squares[s]
	for _, o := range m.ByWeek[q.Week] {
		x := &m.Squares[o]
		if x.Track != q.Track || !x.Fixed || x.Held || x.Minutes < q.Minutes || int(o) == s {
			continue
		}
		left, n := q.Minutes, 0
		for _, it := range x.Given {
			if left -= m.Units[it.Unit].Cost[it.Kind]; left < 0 {
				break
			}
			n++
		}
		if n != len(q.Given) || !slices.EqualFunc(q.Given, x.Given[:n], func(a, b model.Item) bool { return a.Unit == b.Unit && a.Kind == b.Kind }) {
			return false
		}
	}
	return true
}

// meetWanted decides in which track each wanted unit is taught, then places
// everything that must come first.
func meetWanted(st *model.State, i int, tries *int) bool {
	m := st.Model
	if i == len(m.Problem.Wanted) {
		return meetDemands(st, tries)
	}
	w := m.Problem.Wanted[i]
	u := m.UnitAt[w.Unit]
	for t, track := range m.Problem.Tracks {
		if w.Track != "" && w.Track != track.ID || !slices.Contains(m.Problem.Units[u].Tracks, track.ID) {
			continue
		}
		had := m.WantedBy[t][u]
		if had == 0 || int32(w.Week) < had {
			m.WantedBy[t][u] = int32(w.Week)
		}
		if meetWanted(st, i+1, tries) {
			return true
		}
		m.WantedBy[t][u] = had
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
func demands(st *model.State) []demand {
	m := st.Model
	before := map[[2]int]int{}
	var ask func(t int, u int32, day int)
	ask = func(t int, u int32, day int) {
		if m.Assumed[t][u] {
			return // known there: what it stands on is nobody's demand
		}
		k := [2]int{t, int(u)}
		if had, ok := before[k]; ok && had <= day {
			return
		}
		before[k] = day
		for _, r := range m.Units[u].Requires {
			ask(t, r, min(day, st.First(t, u))) // strictly earlier than it, wherever it stands
		}
	}
	for t := range m.Problem.Tracks {
		for u := range m.Units {
			any, again := st.Earliest(t, int32(u))
			if again != model.Never {
				ask(t, int32(u), again)
			}
			if any != model.Never {
				for _, r := range m.Units[u].Requires {
					ask(t, r, any)
				}
			}
			if w := m.WantedBy[t][u]; w > 0 {
				ask(t, int32(u), int(w+1)*8)
			}
		}
	}
	var all []demand
	for k, day := range before {
		if st.First(k[0], int32(k[1])) >= day {
			all = append(all, demand{k[0], int32(k[1]), day, depth(m, int32(k[1]))})
		}
	}
	slices.SortFunc(all, func(x, y demand) int {
		return cmp.Or(cmp.Compare(x.depth, y.depth), cmp.Compare(x.before, y.before), cmp.Compare(x.track, y.track), cmp.Compare(x.unit, y.unit))
	})
	return all
}

// depth is the length of the longest chain a unit stands on.
func depth(m *model.Model, u int32) int {
	most := 0
	for _, r := range m.Units[u].Requires {
		most = max(most, 1+depth(m, r))
	}
	return most
}

func meetDemands(st *model.State, tries *int) bool {
	all := demands(st)
	if len(all) == 0 {
		return true
	}
	d := all[0]
	for _, s := range st.Model.ByTrack[d.track] {
		q := &st.Model.Squares[s]
		if q.Fixed || q.Day >= d.before {
			continue
		}
		if *tries--; *tries < 0 {
			return false
		}
		had := st.Items[s]
		// In front, where also the shortest class hears it.
		if !st.Try(model.Change{Square: int(s), Items: append([]model.Item{{Unit: d.unit, Kind: model.Teach}}, had...)}) {
			continue
		}
		if meetDemands(st, tries) {
			return true
		}
		st.Set(int(s), had)
		st.Staffing.Call(st, int(s))
		st.Settle()
	}
	return false
}
