// Package staffing gives each class of a plan its lead.
package staffing

import (
	"slices"

	"vereda/core/assign"
	"vereda/core/season"
	"vereda/core/season/model"
)

// How a lead is chosen among those who may: what a coach has led for their
// share counts about 1 when it is just right; leading on in a block is worth as much
// as a quarter of that; in a repair, keeping the lead of a class that did not change is worth
// more than all the rest.
const (
	softScoreSameLead = 0.25
	keepsLead         = 1000.0
)

// Lead gives every placement without one a lead. Each week is a cheapest
// assignment of its classes to the coaches' places (Hungarian method: classes² × places),
// a further place of a coach costing more; three rounds over the season bring the shares
// close. was names leads to keep, where that breaks no rule.
func Lead(st *model.State, placements []season.Placement, was *season.Plan) {
	m := st.Model
	r := roster{st: st, placements: placements, week: make([][]int, m.Problem.Weeks+1), led: make([]int, len(m.Problem.Coaches)), was: was}
	for i, x := range placements {
		r.week[x.Week] = append(r.week[x.Week], i)
		r.free = append(r.free, x.Lead == "" && !x.Held)
		if k, ok := m.CoachAt[x.Lead]; ok && x.Lead != "" {
			r.led[k]++
		}
	}
	total := 0.0
	for _, c := range m.Problem.Coaches {
		total += max(c.Share, 0.01)
	}
	for _, c := range m.Problem.Coaches {
		r.aims = append(r.aims, max(1, float64(len(placements))*max(c.Share, 0.01)/total))
	}
	r.asks = map[string]uint64{}
	for s := range m.Squares {
		for i, class := range m.Squares[s].Classes {
			r.asks[season.Key(m.Squares[s].Week, m.Problem.Classes[class].ID)] = st.Staffing.Asks[s][i]
		}
	}
	for range 3 {
		for w := 1; w <= m.Problem.Weeks; w++ {
			r.staff(w)
		}
	}
}

// roster is the leads of a season in the making.
type roster struct {
	st         *model.State
	placements []season.Placement
	week       [][]int // placements of a week
	free       []bool  // whose lead may be chosen
	led        []int
	aims       []float64 // classes a coach's share comes to
	asks       map[string]uint64
	was        *season.Plan
}

func (r *roster) staff(w int) {
	m := r.st.Model
	var rows []int
	room := slices.Clone(r.st.Staffing.Room[w])
	for _, i := range r.week[w] {
		x := &r.placements[i]
		switch k, known := m.CoachAt[x.Lead]; {
		case r.free[i]:
			if known && x.Lead != "" {
				r.led[k]--
			}
			rows = append(rows, i)
		case known && !x.Held:
			room[k]--
		}
	}
	if len(rows) == 0 {
		return
	}
	var coach, nth []int
	for k := range m.Problem.Coaches {
		for j := range min(int(room[k]), len(rows)) {
			coach, nth = append(coach, k), append(nth, j)
		}
	}
	cost := make([][]float64, len(rows))
	for a, i := range rows {
		cost[a] = make([]float64, len(coach))
		for b, k := range coach {
			cost[a][b] = r.cost(i, k, nth[b])
		}
	}
	for a, b := range assign.Cheapest(cost, 2*cannot) {
		x := &r.placements[rows[a]]
		if x.Lead = ""; b >= 0 && cost[a][b] < cannot {
			x.Lead = m.Problem.Coaches[coach[b]].ID
			r.led[coach[b]]++
		}
	}
}

const cannot = 1e9

// cost is what it costs that a coach leads a class as their nth of the week.
func (r *roster) cost(i, k, nth int) float64 {
	x := &r.placements[i]
	if r.asks[season.Key(x.Week, x.Class)]>>k&1 == 0 {
		return cannot
	}
	id := r.st.Model.Problem.Coaches[k].ID
	cost := (float64(r.led[k]+nth) + 0.5) / r.aims[k]
	for _, d := range []int{-1, 1} {
		if w := x.Week + d; w >= 1 && w < len(r.week) {
			for _, j := range r.week[w] {
				if y := &r.placements[j]; y.Class == x.Class && y.Lead == id && Connected(r.st.Model, *x, *y) {
					cost -= softScoreSameLead
				}
			}
		}
	}
	if r.was != nil {
		if y, ok := r.was.Find(x.Week, x.Class); ok && y.Lead != id {
			cost += 1
			if slices.Equal(x.Items, y.Items) {
				cost += keepsLead
			}
		}
	}
	return cost
}

// Connected says whether two placements are of one block: an area in common.
func Connected(m *model.Model, x, y season.Placement) bool {
	for _, a := range x.Items {
		for _, b := range y.Items {
			if m.Units[m.UnitAt[a.Unit]].Area == m.Units[m.UnitAt[b.Unit]].Area {
				return true
			}
		}
	}
	return false
}
