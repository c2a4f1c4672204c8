package tonight

// flow solves a problem in which all checks take the same time: each coach has as many places as fit, each student as many checks as
// they may have, and the flow of the most worth through both is whole. Where nobody has more checks than a coach has places it can always be timed: by
// König's theorem the pairs of student and coach part into as many rounds as one of them has checks, none twice in a round. Else it is timed by
// search, and where that fails its worth is a bound for the search of the general case.
func (s *search) flow() Answer {
	places := int((s.room + tie) / s.items[0].size)
	minutes := s.items[0].size - s.p.ChangeMinutes
	most := min(s.most, int((s.p.Minutes+tie)/minutes))
	n, coaches := len(s.items), len(s.p.Coaches)
	// Nodes: 0 source, students, items, coaches, sink.
	student, at, coach := 1, 1+s.students, 1+s.students+n
	sink := coach + coaches
	g := newGraph(sink + 1)
	for i := range s.students {
		g.add(0, student+i, most, 0)
	}
	for i, x := range s.items {
		g.add(student+x.student, at+i, 1, -x.value)
		for k := range coaches {
			if x.can[k] {
				g.add(at+i, coach+k, 1, 0)
			}
		}
	}
	for k := range coaches {
		g.add(coach+k, sink, places, 0)
	}
	for g.augment(0, sink) {
	}
	by := make([][]int, coaches)
	for i := range s.items {
		for _, e := range g.from[at+i] {
			if x := g.edges[e]; x.to >= coach && x.to < sink && x.room == 0 {
				by[x.to-coach] = append(by[x.to-coach], i)
			}
		}
	}
	value, many := 0.0, 0
	of := make([]int, s.students)
	for _, list := range by {
		for _, i := range list {
			value += s.items[i].value
			of[s.items[i].student]++
			many = max(many, of[s.items[i].student])
		}
	}
	if many > places {
		b := &branching{search: s, coaches: coaches}
		if at, found, _ := b.times(by); found {
			return s.answer(by, at, value)
		}
		return s.branch(value)
	}
	rounds := s.rounds(by, places)
	times := make([][]float64, coaches)
	for k := range by {
		for _, r := range rounds[k] {
			times[k] = append(times[k], float64(r)*s.items[0].size)
		}
	}
	return s.answer(by, times, value)
}

// rounds gives each check a round in which neither its student nor its coach has another one.
func (s *search) rounds(by [][]int, places int) [][]int {
	free := func(row []int) int {
		for r, x := range row {
			if x < 0 {
				return r
			}
		}
		return -1
	}
	blank := func() []int {
		row := make([]int, places)
		for i := range row {
			row[i] = -1
		}
		return row
	}
	atCoach, atStudent := make([][]int, len(by)), make([][]int, s.students) // round: the item
	for k := range atCoach {
		atCoach[k] = blank()
	}
	for i := range atStudent {
		atStudent[i] = blank()
	}
	coachOf := map[int]int{}
	for k, list := range by {
		for _, i := range list {
			coachOf[i] = k
			who := s.items[i].student
			a, b := free(atCoach[k]), free(atStudent[who])
			if a != b { // along the path that alternates between the two rounds, from the student, they change places
				path, row, want := []int{}, atStudent[who], a
				for x := row[want]; x >= 0; x = row[want] {
					path = append(path, x)
					if len(path)%2 == 1 {
						row = atCoach[coachOf[x]]
					} else {
						row = atStudent[s.items[x].student]
					}
					want = a + b - want
				}
				for _, x := range path {
					for _, r := range []int{a, b} {
						if atCoach[coachOf[x]][r] == x {
							atCoach[coachOf[x]][r] = -1
						}
						if atStudent[s.items[x].student][r] == x {
							atStudent[s.items[x].student][r] = -1
						}
					}
				}
				for n, x := range path {
					r := b
					if n%2 == 1 {
						r = a
					}
					atCoach[coachOf[x]][r], atStudent[s.items[x].student][r] = x, x
				}
			}
			atCoach[k][a], atStudent[who][a] = i, i
		}
	}
	out := make([][]int, len(by))
	for k, list := range by {
		for _, i := range list {
			for r, x := range atCoach[k] {
				if x == i {
					out[k] = append(out[k], r)
				}
			}
		}
	}
	return out
}

// edge is one way of a flow; the one back is its neighbour.
type edge struct {
	to, room int
	cost     float64
}

type graph struct {
	edges []edge
	from  [][]int
}

func newGraph(nodes int) *graph { return &graph{from: make([][]int, nodes)} }

func (g *graph) add(a, b, room int, cost float64) {
	g.from[a] = append(g.from[a], len(g.edges))
	g.from[b] = append(g.from[b], len(g.edges)+1)
	g.edges = append(g.edges, edge{b, room, cost}, edge{a, 0, -cost})
}

// augment sends one more along the way that is worth the most (Bellman and Ford, by a queue), while one is worth anything.
func (g *graph) augment(source, sink int) bool {
	cost, via, queued := make([]float64, len(g.from)), make([]int, len(g.from)), make([]bool, len(g.from))
	for i := range cost {
		cost[i], via[i] = inf, -1
	}
	cost[source] = 0
	queue := []int{source}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		queued[at] = false
		for _, e := range g.from[at] {
			x := g.edges[e]
			if x.room > 0 && cost[at]+x.cost < cost[x.to]-tie {
				cost[x.to], via[x.to] = cost[at]+x.cost, e
				if !queued[x.to] {
					queue, queued[x.to] = append(queue, x.to), true
				}
			}
		}
	}
	if cost[sink] >= -tie {
		return false
	}
	for at := sink; at != source; at = g.edges[via[at]^1].to {
		g.edges[via[at]].room--
		g.edges[via[at]^1].room++
	}
	return true
}
