package model

import (
	"slices"

	"vereda/core/season"
)

// AnyArea stands for a week of a line in which whatever may be taught.
const AnyArea int32 = -1

// Lined says whether a track asks to stay some weeks in one area, and has two at least to go through.
func (m *Model) Lined(t int) bool { return m.Rules[t].AreaMost > 0 && len(m.Areas(t)) > 1 }

// Areas are those of the units a track can be taught, but for what is out of line.
func (m *Model) Areas(t int) []int32 {
	var all []int32
	urgent := m.urgent(t)
	for _, u := range m.Teaches[t] {
		if a := m.Units[u].Area; m.Problem.Units[u].Area != "" && !slices.Contains(urgent, u) && !slices.Contains(all, a) {
			all = append(all, a)
		}
	}
	slices.Sort(all)
	return all
}

// AnyLined says whether any track does.
func (m *Model) AnyLined() bool {
	for t := range m.Rules {
		if m.Lined(t) {
			return true
		}
	}
	return false
}

// OpenWeeks are the weeks in which a track has a class, and whether one of them may still change.
func (m *Model) OpenWeeks(t int) (weeks []int, free []bool) {
	open, changes := make([]bool, m.Problem.Weeks+1), make([]bool, m.Problem.Weeks+1)
	for _, s := range m.ByTrack[t] {
		q := &m.Squares[s]
		open[q.Week] = true
		changes[q.Week] = changes[q.Week] || !q.Fixed
	}
	for w := range open {
		if open[w] {
			weeks, free = append(weeks, w), append(free, changes[w])
		}
	}
	return weeks, free
}

// AreaMinutes is how many minutes of each area a track is taught in each of its open weeks, but for what is out of line and what somebody fixed in a
// week that may change.
func (m *Model) AreaMinutes(t int, items [][]Item) []map[int32]int {
	weeks, free := m.OpenWeeks(t)
	urgent := m.urgent(t)
	minutes := make([]map[int32]int, len(weeks))
	for i := range minutes {
		minutes[i] = map[int32]int{}
	}
	for _, s := range m.ByTrack[t] {
		q := &m.Squares[s]
		i := slices.Index(weeks, q.Week)
		if q.Fixed && free[i] {
			continue
		}
		for _, it := range items[s] {
			if it.Kind == Teach && m.Problem.Units[it.Unit].Area != "" && !slices.Contains(urgent, it.Unit) {
				minutes[i][m.Units[it.Unit].Area] += m.Units[it.Unit].Cost[Teach]
			}
		}
	}
	return minutes
}

// OutOfLine says that a unit is taught in a track whatever area its week is in: it belongs to none, or is wanted by a date, or what is wanted
// stands on it.
func (m *Model) OutOfLine(t int, u int32) bool {
	return m.Problem.Units[u].Area == "" || slices.Contains(m.urgent(t), u)
}

// urgent are the units of a track that are wanted by a date, with all they stand on.
func (m *Model) urgent(t int) []int32 {
	var all []int32
	var add func(u int32)
	add = func(u int32) {
		if !slices.Contains(all, u) {
			all = append(all, u)
			for _, r := range m.Units[u].Requires {
				add(r)
			}
		}
	}
	for _, w := range m.Problem.Wanted {
		if w.Track == "" || w.Track == m.Problem.Tracks[t].ID {
			add(int32(m.UnitAt[w.Unit]))
		}
	}
	return all
}

// SetLine lets a track teach in each week what allows says of the unit's area, and nothing else; reviews are free. It must come before a search
// shares the model.
func (m *Model) SetLine(t int, allows func(week int, area int32) bool) {
	if m.offLine == nil {
		m.offLine = make([][]uint64, len(m.Problem.Tracks))
	}
	off := make([]uint64, len(m.Problem.Units))
	urgent := m.urgent(t)
	for _, u := range m.Teaches[t] {
		if m.Problem.Units[u].Area == "" || slices.Contains(urgent, u) {
			continue
		}
		for w := 1; w <= m.Problem.Weeks; w++ {
			if !allows(w, m.Units[u].Area) {
				off[u] |= 1 << w
			}
		}
	}
	m.offLine[t] = off
}

// OffLine says whether a unit may not be taught in a square because its track is in another area that week.
func (m *Model) OffLine(q *Square, u int32) bool {
	return m.offLine != nil && m.offLine[q.Track] != nil && m.offLine[q.Track][u]>>q.Week&1 == 1
}

// LineThrough gives an area to each open week of a track, each for as many in a row as its rules ask, the last ones of the season as many as are left, so
// that whatever is taught is of its week's area; nil where there is none, and then far is the place of the week behind which none goes on. What is out of
// line and what somebody fixed in a week that may change is taught besides. Of a week that is over the area most of it was in counts, and a stretch of
// such weeks may be of any length. Costs weeks² × areas.
func (m *Model) LineThrough(t int, items [][]Item) (areas []int32, far int) {
	r := &m.Rules[t]
	weeks, free := m.OpenWeeks(t)
	minutes := m.AreaMinutes(t, items)
	fits := func(i int, area int32) bool {
		if len(minutes[i]) == 0 || minutes[i][area] > 0 && len(minutes[i]) == 1 {
			return true
		}
		most := 0
		for _, n := range minutes[i] {
			most = max(most, n)
		}
		return !free[i] && minutes[i][area] == most
	}
	type place struct {
		week int
		last int32
	}
	known := m.Areas(t)
	dead := map[place]bool{}
	var from func(at place) []int32
	from = func(at place) []int32 {
		if at.week == len(weeks) {
			return []int32{}
		}
		if dead[at] {
			return nil
		}
		for _, a := range known {
			over := true
			for n := 1; a != at.last && at.week+n <= len(weeks) && fits(at.week+n-1, a); n++ {
				over = over && !free[at.week+n-1]
				if n > r.AreaMost && !over {
					break
				}
				far = max(far, min(at.week+n, len(weeks)-1))
				if !over && n < r.AreaLeast && at.week+n < len(weeks) {
					continue
				}
				if rest := from(place{at.week + n, a}); rest != nil {
					return append(slices.Repeat([]int32{a}, n), rest...)
				}
			}
		}
		dead[at] = true
		return nil
	}
	return from(place{0, AnyArea}), far
}

// KeepLines holds each track that asks for a line to the one a plan has it on; where the plan is on none, to the areas it teaches week by week. Like SetLine
// it must come before a search shares the model.
func (m *Model) KeepLines(plan []season.Placement) {
	if !m.AnyLined() {
		return
	}
	st := NewState(m)
	st.Put(plan)
	for t := range m.Rules {
		if !m.Lined(t) {
			continue
		}
		at := map[int][]int32{}
		weeks, _ := m.OpenWeeks(t)
		if areas, _ := m.LineThrough(t, st.Items); areas != nil {
			for i, w := range weeks {
				at[w] = areas[i : i+1]
			}
		} else {
			for _, s := range m.ByTrack[t] {
				for _, it := range st.Items[s] {
					if it.Kind == Teach {
						at[m.Squares[s].Week] = append(at[m.Squares[s].Week], m.Units[it.Unit].Area)
					}
				}
			}
		}
		m.SetLine(t, func(week int, area int32) bool { return len(at[week]) == 0 || slices.Contains(at[week], area) })
	}
}
