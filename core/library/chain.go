package library

import (
	"container/heap"
	"slices"
)

// Goal is where a chain leads: a place, or any finish.
type Goal struct {
	Place  Place
	Finish bool
}

// Chain is the way from a place to a goal.
type Chain struct {
	Steps   []string `json:"steps" doc:"Techniques in order"`
	Through []Place  `json:"through" doc:"Places passed, the first and, unless it is a finish, the last among them"`
	Minutes int      `json:"minutes" doc:"To teach them all"`
}

// Chain finds the shortest way from a place to a goal without the techniques
// to avoid: the fewest steps, of these the fewest teaching minutes; or the other
// way round when byMinutes. When there is none it returns false and the places that can be
// reached. A chain to the place it starts from is empty.
//
// Costs (techniques + places) × log places: Dijkstra's algorithm.
func (m *Map) Chain(from Place, goal Goal, avoid []string, byMinutes bool) (c Chain, reached []Place, ok bool) {
	start, known := m.at[from]
	if !known {
		return Chain{}, nil, false
	}
	cost := func(a arrow) step {
		minutes := m.kept[a.technique].TeachMinutes
		if byMinutes {
			return step{minutes, 1}
		}
		return step{1, minutes}
	}
	best := map[int]arrow{}
	dist := map[int]step{start: {}}
	done := map[int]bool{}
	queue := &frontier{{start, step{}}}
	for queue.Len() > 0 {
		at := heap.Pop(queue).(reachedAt)
		if done[at.place] {
			continue
		}
		done[at.place] = true
		if at.place == finished || !goal.Finish && at.place >= 0 && m.places[at.place] == goal.Place {
			return m.trace(start, at.place, best), nil, true
		}
		reached = append(reached, m.places[at.place])
		for _, a := range m.out[at.place] {
			to := a.to
			if to < 0 {
				to = finished
				if !goal.Finish {
					continue
				}
			}
			if slices.Contains(avoid, m.kept[a.technique].ID) {
				continue
			}
			d := at.step.plus(cost(a))
			if had, seen := dist[to]; !seen || d.less(had) {
				dist[to], best[to] = d, a
				heap.Push(queue, reachedAt{to, d})
			}
		}
	}
	return Chain{}, reached, false
}

// finished stands for all finishes.
const finished = -1

func (m *Map) trace(start, end int, best map[int]arrow) Chain {
	c := Chain{Steps: []string{}, Through: []Place{}}
	if end != finished {
		c.Through = append(c.Through, m.places[end])
	}
	for at := end; at != start; {
		a := best[at]
		c.Steps = append(c.Steps, m.kept[a.technique].ID)
		c.Through = append(c.Through, m.places[a.from])
		c.Minutes += m.kept[a.technique].TeachMinutes
		at = a.from
	}
	slices.Reverse(c.Steps)
	slices.Reverse(c.Through)
	return c
}

// step is a cost in two parts, the first one first.
type step struct{ first, second int }

func (a step) plus(b step) step { return step{a.first + b.first, a.second + b.second} }
func (a step) less(b step) bool {
	return a.first < b.first || a.first == b.first && a.second < b.second
}

type reachedAt struct {
	place int
	step  step
}

// frontier is a heap of places by cost, then by number: ties fall the same way each time.
type frontier []reachedAt

func (f frontier) Len() int { return len(f) }
func (f frontier) Less(i, j int) bool {
	return f[i].step.less(f[j].step) || f[i].step == f[j].step && f[i].place < f[j].place
}
func (f frontier) Swap(i, j int) { f[i], f[j] = f[j], f[i] }
func (f *frontier) Push(x any)   { *f = append(*f, x.(reachedAt)) }
func (f *frontier) Pop() any {
	last := (*f)[len(*f)-1]
	*f = (*f)[:len(*f)-1]
	return last
}
