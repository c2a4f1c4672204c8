package rotation

import (
	"slices"

	"vereda/core/say"
)

// condition is one thing that is asked, and how to do without it.
type condition struct {
	words say.Sentence
	lift  func(m *Mat, in *[]int)
}

// conflict is the smallest set of conditions that cannot all be: sets of one, two and three are tried, then what is left of all when
// those are taken away without which it still cannot be.
func (m Mat) conflict(groups [][]string, in []int) *Conflict {
	conditions := m.conditions(groups, in)
	can := func(kept []int) bool {
		changed, stations := m, slices.Clone(in)
		changed.Stations, changed.Coaches = slices.Clone(m.Stations), slices.Clone(m.Coaches)
		for i, c := range conditions {
			if !slices.Contains(kept, i) {
				c.lift(&changed, &stations)
			}
		}
		_, ok := changed.schedule(groups, stations)
		return ok
	}
	n := len(conditions)
	var kept []int
	if n <= 14 {
		for size := 1; size <= 3 && kept == nil; size++ {
			kept = firstSet(n, size, func(set []int) bool { return !can(set) })
		}
	}
	if kept == nil {
		for i := range n {
			kept = append(kept, i)
		}
		for i := range n {
			without := slices.DeleteFunc(slices.Clone(kept), func(x int) bool { return x == i })
			if !can(without) {
				kept = without
			}
		}
	}
	c := &Conflict{Conditions: []say.Sentence{}}
	for _, i := range kept {
		c.Conditions = append(c.Conditions, conditions[i].words)
	}
	return c
}

func firstSet(n, size int, fits func([]int) bool) []int {
	set := make([]int, size)
	var try func(at, from int) bool
	try = func(at, from int) bool {
		if at == size {
			return fits(set)
		}
		for i := from; i < n; i++ {
			set[at] = i
			if try(at+1, i+1) {
				return true
			}
		}
		return false
	}
	if try(0, 0) {
		return set
	}
	return nil
}

// conditions are the minutes, each station that must be, each coach that is asked for, and each order.
func (m Mat) conditions(groups [][]string, in []int) []condition {
	all := []condition{{say.F("%d minutes for %d groups", m.Minutes, len(groups)), func(m *Mat, _ *[]int) { m.Minutes = 100_000 }}}
	for _, i := range in {
		s := m.Stations[i]
		stay := say.Sentence("every group is at %s for %d minutes")
		if len(s.For) > 0 {
			stay = "its people are at %s for %d minutes"
		}
		all = append(all, condition{say.F(stay, s.ID, s.Minutes), func(m *Mat, in *[]int) { *in = slices.DeleteFunc(*in, func(x int) bool { return x == i }) }})
		who := say.Sentence("")
		switch {
		case s.Coach == AnyCoach && s.Signoff != "":
			who = say.F("%s needs a coach signed off for %s", s.ID, s.Signoff)
		case s.Coach == AnyCoach:
			who = say.F("%s needs a coach", s.ID)
		case s.Coach != "" && s.Coach != NoCoach && s.Signoff != "":
			who = say.F("%s is led by %s, signed off for %s", s.ID, s.Coach, s.Signoff)
		case s.Coach != "" && s.Coach != NoCoach:
			who = say.F("%s is led by %s", s.ID, s.Coach)
		case s.Signoff != "":
			who = say.F("%s wants somebody signed off for %s, and no coach", s.ID, s.Signoff)
		}
		if who != "" {
			all = append(all, condition{who, func(m *Mat, _ *[]int) { m.Stations[i].Coach, m.Stations[i].Signoff = NoCoach, "" }})
		}
		for k, a := range s.After {
			if slices.ContainsFunc(in, func(j int) bool { return m.Stations[j].ID == a }) {
				all = append(all, condition{say.F("%s comes after %s", s.ID, a), func(m *Mat, _ *[]int) {
					m.Stations[i].After = slices.DeleteFunc(slices.Clone(m.Stations[i].After), func(x string) bool { return x == s.After[k] })
				}})
			}
		}
	}
	return all
}
