package season

import (
	"cmp"
	"fmt"
	"slices"
)

// crew finds leads for the classes of one week: a matching in which a coach
// may take as many classes as the weekly limit allows, found by augmenting
// paths. Costs classes² × coaches a week.
type crew struct {
	coaches []Coach
	load    map[string]int // classes led in the weeks before
}

// call is one class that needs a lead; lead is set when it is fixed already.
type call struct {
	class    string
	signoffs []string
	lead     string
}

func newCrew(p Problem) crew { return crew{coaches: p.Coaches, load: map[string]int{}} }

// refusal says why a coach cannot lead a class in a week, or "".
func (c Coach) refusal(week int, x call) string {
	if !slices.Contains(c.Available, x.class) {
		return "not available"
	}
	for _, o := range c.Out {
		if o.Week == week {
			return fmt.Sprintf("out in week %d", week)
		}
	}
	for _, s := range x.signoffs {
		if !slices.Contains(c.Signoffs, s) {
			return "not signed off for " + s
		}
	}
	return ""
}

// stays is how much lighter a coach's burden counts in a class they led the
// week before: continuity, up to about half as much again as their share.
const stays = 0.6

// week assigns leads and returns the classes nobody can lead. It prefers whoever
// has led least for their share, with some favour for whom previous names.
func (c crew) week(week int, calls []call, previous map[string]string) (leads map[string]string, left []call) {
	leads = map[string]string{}
	taken := map[string][]int{} // coach: calls led
	room := map[string]int{}
	for _, coach := range c.coaches {
		room[coach.ID] = coach.MaxPerWeek
	}
	for _, x := range calls {
		if x.lead != "" {
			leads[x.class] = x.lead
			room[x.lead]--
		}
	}
	can := make([][]string, len(calls))
	for i, x := range calls {
		for _, coach := range c.coaches {
			if coach.refusal(week, x) == "" && room[coach.ID] > 0 {
				can[i] = append(can[i], coach.ID)
			}
		}
		slices.SortStableFunc(can[i], func(a, b string) int {
			return cmp.Compare(c.burden(a, previous[x.class]), c.burden(b, previous[x.class]))
		})
	}
	var place func(i int, tried map[string]bool) bool
	place = func(i int, tried map[string]bool) bool {
		for _, coach := range can[i] {
			if tried[coach] {
				continue
			}
			tried[coach] = true
			if len(taken[coach]) < room[coach] {
				taken[coach] = append(taken[coach], i)
				return true
			}
			for k, other := range taken[coach] {
				if place(other, tried) {
					taken[coach][k] = i
					return true
				}
			}
		}
		return false
	}
	order := make([]int, 0, len(calls))
	for i, x := range calls {
		if x.lead == "" {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(len(can[a]), len(can[b])) })
	for _, i := range order {
		if !place(i, map[string]bool{}) {
			left = append(left, calls[i])
		}
	}
	for coach, led := range taken {
		for _, i := range led {
			leads[calls[i].class] = coach
		}
	}
	return leads, left
}

// burden is what a coach would have led for their share with one class more.
func (c crew) burden(id, previous string) float64 {
	for _, coach := range c.coaches {
		if coach.ID != id {
			continue
		}
		b := float64(c.load[id]+1) / max(coach.Share, 0.01)
		if id == previous {
			b *= stays
		}
		return b
	}
	return 0
}
