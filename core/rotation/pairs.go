package rotation

import (
	"cmp"
	"slices"

	"vereda/core/matching"

	"vereda/core/draw"
)

// pairing makes rounds of pairs. For an odd number there is one seat more, that of nobody: whoever is matched with it is
// left over.
type pairing struct {
	*floor
	seats  int
	solver *matching.Cheapest
	rng    *draw.Draws
	noise  [][]int64 // added to what a meeting costs, to leave a local optimum

	used   [][]int16 // by the rounds held and those of the plan at hand
	visits []int64   // with the coach
}

func (f *floor) pairs() []seating {
	s := &pairing{floor: f, seats: f.n + f.n%2, rng: draw.New(f.seed, 11), noise: make([][]int64, f.n)}
	s.solver = matching.New(s.seats)
	for i := range s.noise {
		s.noise[i] = make([]int64, f.n)
	}
	best := s.greedy()
	if around := s.circle(); around != nil && f.price(around) < f.price(best) {
		best = around
	}
	return s.improved(best)
}

// greedy makes round after round, each the cheapest as things were used so far.
func (s *pairing) greedy() []seating {
	s.begin(nil)
	var plan []seating
	for _, three := range s.threes() {
		plan = append(plan, s.match(three))
	}
	return plan
}

// begin takes a plan into account.
func (s *pairing) begin(plan []seating) {
	s.used = s.floor.used(plan)
	s.visits = make([]int64, s.n)
	for i, v := range s.floor.visits() {
		s.visits[i] = int64(v)
	}
	for _, r := range plan {
		s.count(r, 1)
	}
}

// count notes who was with the coach in a round.
func (s *pairing) count(r seating, by int64) {
	for _, i := range r.coach {
		s.visits[i] += by
	}
}

// larger is the group of a round that is larger than the others; nil when none is.
func larger(r seating, k int) []int {
	for _, g := range r.groups {
		if len(g) > k {
			return g
		}
	}
	return nil
}

// match is the cheapest next round, and takes it into account; three is the group of three in it, of an odd number without a coach.
func (s *pairing) match(three []int) seating {
	in := make([]int, 0, s.seats) // who sits where; nobody last
	for i := range s.n {
		if !slices.Contains(three, i) {
			in = append(in, i)
		}
	}
	if len(in)%2 == 1 {
		in = append(in, s.n)
	}
	partner := make([]int, len(in))
	s.solver.Solve(len(in), func(i, j int) int64 { return s.cost(in[i], in[j]) }, partner)
	var r seating
	if three != nil {
		r.groups = [][]int{three}
	}
	for i, j := range partner {
		switch {
		case in[i] == s.n:
			r.coach = []int{in[j]}
		case i < j && in[j] < s.n:
			r.groups = append(r.groups, []int{in[i], in[j]})
		}
	}
	s.count(r, 1)
	for _, g := range r.groups {
		s.meet(g, func(i, j int) { s.used[i][j]++; s.used[j][i]++ })
	}
	return r
}

// threes gives each round its group of three, so that everybody is in one before anybody is twice: people in the order of their
// size, three at a time, and in the next lap with others.
func (s *pairing) threes() [][]int {
	all := make([][]int, s.left)
	if s.n%2 == 0 || s.coach {
		return all
	}
	in := s.largerRan()
	used := s.floor.used(nil)
	for r := range all {
		order := s.everybody()
		slices.SortStableFunc(order, func(a, b int) int {
			return cmp.Or(cmp.Compare(in[a], in[b]), cmp.Compare(s.people[a].Kg, s.people[b].Kg))
		})
		// Of those who were in one least, each with the two that suit best; the group that leaves the others best off is the one at an end.
		first, best, cost := order[0], []int(nil), int64(1)<<62
		for x := 1; x < len(order); x++ {
			for y := 1; y < x; y++ {
				a, b := order[x], order[y]
				c := largerCost * int64(in[a]+in[b]) * 2
				for _, pair := range [][2]int{{first, a}, {first, b}, {a, b}} {
					c += s.soft[pair[0]][pair[1]] + again(used[pair[0]][pair[1]])
					if s.apart[pair[0]][pair[1]] {
						c += apartCost
					}
				}
				if c < cost {
					best, cost = []int{first, a, b}, c
				}
			}
		}
		all[r] = best
		for _, i := range best {
			in[i]++
		}
		s.meet(best, func(i, j int) { used[i][j]++; used[j][i]++ })
	}
	return all
}

func (s *pairing) meeting(i, j int) int64 {
	c := s.soft[i][j] + again(s.used[i][j])
	if s.apart[i][j] {
		c += apartCost
	}
	return c
}

func (s *pairing) cost(i, j int) int64 {
	if i >= s.n || j >= s.n {
		return coachCost * (2*s.visits[min(i, j)] + 1)
	}
	return s.meeting(i, j) + s.noise[max(i, j)][min(i, j)]
}

// solvesOf is how many rounds may be matched in all: what n³ each takes together stays about the same.
func solvesOf(seats int) int {
	return min(3000, 13_000_000/(seats*seats*seats)+8)
}

// improved takes one to three rounds out of the plan and matches them again, the first of them with some noise, as long as the
// budget lasts, and keeps what is no worse.
func (s *pairing) improved(plan []seating) []seating {
	best, cost := plan, s.price(plan)
	at, atCost := best, cost
	budget := solvesOf(s.seats) - s.left
	for round := 0; round < min(s.left, max(0, budget/2)); round++ { // each round once, without noise
		next := s.matchAgain(at, []int{round}, 0)
		budget--
		if c := s.price(next); c < atCost {
			at, atCost = next, c
		}
	}
	for budget > 0 {
		out := s.rng.Perm(s.left)[:min(s.left, 1+s.rng.IntN(3))]
		budget -= len(out)
		// Little noise finds the small steps of many people, much noise the large ones of few.
		next := s.matchAgain(at, out, []float64{0.3, 1, 4}[s.rng.IntN(3)])
		if c := s.price(next); c <= atCost {
			at, atCost = next, c
		}
	}
	if atCost < cost {
		best = at
	}
	return best
}

// matchAgain matches some rounds of a plan again.
func (s *pairing) matchAgain(plan []seating, out []int, noise float64) []seating {
	next := slices.Clone(plan)
	rest := make([]seating, 0, len(plan))
	for i, r := range plan {
		if !slices.Contains(out, i) {
			rest = append(rest, r)
		}
	}
	s.begin(rest)
	for k, i := range out {
		noisy := noise > 0 && k+1 < max(2, len(out))
		for a := range s.noise {
			for b := range a {
				s.noise[a][b] = 0
				if noisy {
					s.noise[a][b] = int64(s.rng.Float64() * noise * float64(s.soft[a][b]+scale/2))
				}
			}
		}
		next[i] = s.match(larger(plan[i], s.k))
	}
	for a := range s.noise {
		clear(s.noise[a])
	}
	return next
}

// circle is the round-robin tournament's: one seat stays, the others move on by one, so that n − 1 rounds use every pair once.
// People are seated by weight, then two seats are exchanged wherever the cheapest rounds get cheaper by it. Nothing where few rounds
// are wanted, or rounds were held already.
func (s *pairing) circle() []seating {
	n := s.seats
	if s.left > n-1 || 2*s.left < n-1 || len(s.ran) > 0 || s.n%2 == 1 && !s.coach {
		return nil
	}
	seats := make([]int, n)
	for i := range seats {
		seats[i] = i
	}
	kg := func(i int) float64 {
		if i < s.n {
			return s.people[i].Kg
		}
		return 0
	}
	slices.SortStableFunc(seats, func(a, b int) int { return cmp.Compare(kg(a), kg(b)) })
	s.begin(nil)
	price := func(r int) (sum int64) {
		for k := range n / 2 {
			i, j := onCircle(seats, r, k)
			if i < s.n && j < s.n {
				sum += s.meeting(i, j)
			}
		}
		return sum
	}
	rounds := func() (int64, []int) {
		type priced struct {
			r int
			c int64
		}
		all := make([]priced, n-1)
		for r := range all {
			all[r] = priced{r, price(r)}
		}
		slices.SortStableFunc(all, func(a, b priced) int { return cmp.Compare(a.c, b.c) })
		sum, chosen := int64(0), make([]int, s.left)
		for i := range chosen {
			sum += all[i].c
			chosen[i] = all[i].r
		}
		return sum, chosen
	}
	best, chosen := rounds()
	for tries := 4_000_000 / (n * n * n); tries > 0; {
		better := false
		for i := range seats {
			for j := i + 1; j < n && tries > 0; j++ {
				tries--
				seats[i], seats[j] = seats[j], seats[i]
				if c, r := rounds(); c < best {
					best, chosen, better = c, r, true
				} else {
					seats[i], seats[j] = seats[j], seats[i]
				}
			}
		}
		if !better {
			break
		}
	}
	var plan []seating
	for _, r := range chosen {
		var round seating
		for k := range n / 2 {
			switch i, j := onCircle(seats, r, k); {
			case i >= s.n:
				round.coach = []int{j}
			case j >= s.n:
				round.coach = []int{i}
			default:
				round.groups = append(round.groups, []int{i, j})
			}
		}
		plan = append(plan, round)
	}
	return plan
}

// onCircle is the k-th pair of a round.
func onCircle(seats []int, r, k int) (i, j int) {
	n := len(seats)
	i, j = seats[(r+k)%(n-1)], seats[(r+n-1-k)%(n-1)]
	if k == 0 {
		j = seats[n-1] // the one who stays
	}
	return i, j
}
