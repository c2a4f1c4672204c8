package model

import (
	"slices"

	"vereda/core/season"
)

// readHabits makes ready what the rules of tracks ask at every step of a search.
func (m *Model) readHabits() {
	m.Rules = make([]season.Rules, len(m.Problem.Tracks))
	m.barred = make([][]uint64, len(m.Problem.Tracks))
	together := false
	for t, track := range m.Problem.Tracks {
		m.Rules[t] = track.Rules
		m.Habits = m.Habits || track.Rules.Any()
		m.gaps = m.gaps || track.Rules.TeachGap > 0 || track.Rules.ReviewGap > 0
		together = together || track.Rules.Together
		m.barred[t] = make([]uint64, len(m.Problem.Units))
	}
	for _, b := range m.Problem.Barred {
		u, ok := m.UnitAt[b.Unit]
		for t, track := range m.Problem.Tracks {
			if ok && (b.Track == "" || b.Track == track.ID) {
				m.Habits = true
				for w := b.From; w <= b.To; w++ {
					m.barred[t][u] |= 1 << w
				}
			}
		}
	}
	if together {
		m.belongs = make([][]bool, len(m.Problem.Units))
		for u := range m.Problem.Units {
			m.belongs[u] = make([]bool, len(m.Problem.Units))
			for v := range m.Problem.Units {
				m.belongs[u][v] = m.Problem.Units[u].Belongs(m.Problem.Units[v])
			}
		}
	}
	open := map[[2]int]bool{}
	for i := range m.Squares {
		open[[2]int{m.Squares[i].Track, m.Squares[i].Week}] = true
	}
	for i := range m.Squares {
		q := &m.Squares[i]
		q.AfterClosed = q.Week > 1 && !open[[2]int{q.Track, q.Week - 1}]
	}
}

// Whole says whether what the rules ask of a class can be asked of a part of it too: not where one item makes another one allowed.
func (m *Model) Whole() bool {
	return slices.ContainsFunc(m.Rules, func(r season.Rules) bool { return r.MainMinutes > 0 || r.TeachEach })
}

// Dated says whether it matters when a unit was given, and not only how often.
func (m *Model) Dated() bool { return m.gaps || len(m.Problem.Fixed)+len(m.Problem.Wanted) > 0 }

// Allows says whether the rules of its track allow a square these items, apart from how long it is since they were given.
func (m *Model) Allows(q *Square, items []Item) bool { return m.Against(q, items) == "" }

// Against names the rule of its track that is against a square holding these items; empty when none is.
func (m *Model) Against(q *Square, items []Item) string {
	if !m.Habits || len(items) == 0 {
		return ""
	}
	r := &m.Rules[q.Track]
	taught, risky, most := 0, 0, 0
	for i, it := range items {
		u := &m.Problem.Units[it.Unit]
		if m.barred[q.Track][it.Unit]>>q.Week&1 == 1 {
			return "barred"
		}
		if u.Risky {
			risky++
		}
		most = max(most, m.Units[it.Unit].Cost[it.Kind])
		if it.Kind != Teach {
			continue
		}
		if m.OffLine(q, it.Unit) {
			return "area_weeks"
		}
		taught++
		if r.Together {
			for _, o := range items[:i] {
				if o.Kind == Teach && !m.belongs[it.Unit][o.Unit] {
					return "together"
				}
			}
		}
	}
	switch {
	case r.MostUnits > 0 && len(items) > r.MostUnits:
		return "most_units"
	case r.MostNew > 0 && taught > r.MostNew:
		return "most_new"
	case r.RiskApart && risky > 1:
		return "risk_apart"
	case r.EaseIn && risky > 0 && q.AfterClosed:
		return "ease_in"
	case r.MainMinutes > 0 && most < min(r.MainMinutes, q.Minutes):
		return "main_minutes"
	case r.TeachEach && taught == 0 && !slices.Contains(r.ReviewWeeks, q.Week):
		return "teach_each"
	}
	return ""
}

// Full says whether a square has as many units as its track allows, and as many that are taught.
func (m *Model) Full(s int, items []Item) (units, taught bool) {
	r := &m.Rules[m.Squares[s].Track]
	if r.MostUnits == 0 && r.MostNew == 0 {
		return false, false
	}
	n := 0
	for _, it := range items {
		if it.Kind == Teach {
			n++
		}
	}
	return r.MostUnits > 0 && len(items) >= r.MostUnits, r.MostNew > 0 && n >= r.MostNew
}

// Deeper says whether a unit is taught in a track no more often than it has layers, where its rules ask that: to the same class, or in mode
// same in so many weeks. What is fixed alone is nobody's to change.
func (st *State) Deeper(t int, u int32) bool {
	if !st.Model.Rules[t].Deeper {
		return true
	}
	most := max(1, st.Model.Problem.Units[u].Layers)
	same := st.Model.Problem.Tracks[t].Mode == "same"
	all := st.Occasions[u]
	for i := range all {
		q := &st.Model.Squares[all[i].Square]
		if int(all[i].track) != t || all[i].Kind != Teach || q.Fixed {
			continue
		}
		weeks, n := uint64(0), 0
		for j := range all {
			o := &st.Model.Squares[all[j].Square]
			if int(all[j].track) != t || all[j].Kind != Teach || !same && o.Classes[0] != q.Classes[0] || weeks>>o.Week&1 == 1 {
				continue
			}
			weeks |= 1 << o.Week
			n++
		}
		if n > most {
			return false
		}
	}
	return true
}

// Spaced says whether a unit is given in a track no sooner again than its rules ask, and no more often. Two that are both fixed are nobody's to change.
func (st *State) Spaced(t int, u int32) bool {
	if !st.Deeper(t, u) {
		return false
	}
	r := &st.Model.Rules[t]
	if r.TeachGap == 0 && r.ReviewGap == 0 {
		return true
	}
	same := st.Model.Problem.Tracks[t].Mode == "same"
	all := st.Occasions[u]
	for i := range all {
		if int(all[i].track) != t || all[i].Kind != Teach {
			continue
		}
		q := &st.Model.Squares[all[i].Square]
		for j := range all {
			if int(all[j].track) != t || i == j {
				continue
			}
			o := &st.Model.Squares[all[j].Square]
			if q.Fixed && o.Fixed {
				continue
			}
			away := o.Week - q.Week
			if all[j].Kind == Teach {
				if away < 0 {
					away = -away
				}
				if j > i && away < r.TeachGap && (same || q.Classes[0] == o.Classes[0]) {
					return false
				}
			} else if o.Day >= q.Day && away < r.ReviewGap {
				return false
			}
		}
	}
	return true
}
