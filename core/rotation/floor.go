package rotation

import (
	"math"
	"slices"
)

// Weights of what is better. Each outweighs all that comes after it in a whole rotation.
const (
	scale      = 1000.0               // of the cost of a meeting
	largerCost = int64(20_000_000)    // of being in the larger group, times the times squared
	repeatCost = int64(1_000_000_000) // of a meeting beyond the first
	coachCost  = int64(1_000_000_000_000)
	apartCost  = int64(20_000_000_000_000)
)

// floor is those who can work tonight, by number, with what each meeting costs.
type floor struct {
	ids     []string
	people  []Person
	n, k    int
	coach   bool // those left over work with the coach; else one group takes them in
	soft    [][]int64
	apart   [][]bool
	ran     []seating    // rounds held, of those who are here
	ranUsed [][]int16    // how often two met in them
	kept    [][][]string // the rounds held as they were given
	left    int          // rounds to make
	seed    uint64
}

// seating is one round: the groups, and who is with the coach.
type seating struct {
	groups [][]int
	coach  []int
}

func newFloor(p Problem) *floor {
	f := &floor{k: p.GroupSize, coach: p.Odd == Coach, kept: p.Ran, left: p.Rounds - len(p.Ran), seed: p.Seed}
	at := map[string]int{}
	helps := false
	for _, x := range p.People {
		if x.Held {
			continue
		}
		at[x.ID] = len(f.ids)
		f.ids, f.people = append(f.ids, x.ID), append(f.people, x)
		helps = helps || len(x.Helps) > 0
	}
	f.n = len(f.ids)
	weeks := make([][]float64, f.n)
	f.soft, f.apart, f.ranUsed = make([][]int64, f.n), make([][]bool, f.n), make([][]int16, f.n)
	for i := range f.n {
		weeks[i], f.soft[i], f.apart[i], f.ranUsed[i] = make([]float64, f.n), make([]int64, f.n), make([]bool, f.n), make([]int16, f.n)
		for j := range f.n {
			weeks[i][j] = -1
		}
	}
	for _, m := range p.Met {
		i, okI := at[m.Pair[0]]
		j, okJ := at[m.Pair[1]]
		if okI && okJ && i != j && (weeks[i][j] < 0 || m.WeeksAgo < weeks[i][j]) {
			weeks[i][j], weeks[j][i] = m.WeeksAgo, m.WeeksAgo
		}
	}
	for i, a := range f.people {
		for j := range i {
			c := int64(math.Round(scale * unlike(p, a, f.people[j], weeks[i][j], helps)))
			f.soft[i][j], f.soft[j][i] = c, c
		}
		for _, other := range a.Apart {
			if j, ok := at[other]; ok && j != i {
				f.apart[i][j], f.apart[j][i] = true, true
			}
		}
	}
	for _, groups := range p.Ran {
		var round seating
		here := make([]bool, f.n)
		for _, g := range groups {
			var group []int
			for _, id := range g {
				if i, ok := at[id]; ok {
					group, here[i] = append(group, i), true
				}
			}
			round.groups = append(round.groups, group)
			f.meet(group, func(i, j int) { f.ranUsed[i][j]++; f.ranUsed[j][i]++ })
		}
		// Who was in no group was with the coach, or came later: either way it is their turn for a partner now.
		for i := range f.n {
			if !here[i] {
				round.coach = append(round.coach, i)
			}
		}
		f.ran = append(f.ran, round)
	}
	return f
}

func (f *floor) meet(group []int, each func(i, j int)) {
	for a, i := range group {
		for _, j := range group[:a] {
			each(i, j)
		}
	}
}

// again is what the next meeting costs of two who met so often.
func again(met int16) int64 {
	if met == 0 {
		return 0
	}
	return repeatCost + int64(met-1)*repeatCost/100 // of those that must be, spread evenly
}

// used counts how often two meet in the rounds held and those of a plan.
func (f *floor) used(plan []seating) [][]int16 {
	u := make([][]int16, f.n)
	for i := range u {
		u[i] = slices.Clone(f.ranUsed[i])
	}
	for _, r := range plan {
		for _, g := range r.groups {
			f.meet(g, func(i, j int) { u[i][j]++; u[j][i]++ })
		}
	}
	return u
}

// price is what a whole plan costs.
func (f *floor) price(plan []seating) int64 {
	sum := int64(0)
	u := f.used(nil)
	larger, visits := f.largerRan(), f.visits()
	for _, r := range plan {
		for _, g := range r.groups {
			f.meet(g, func(i, j int) {
				sum += f.soft[i][j] + again(u[i][j])
				if f.apart[i][j] {
					sum += apartCost
				}
				u[i][j]++
				u[j][i]++
			})
			if len(g) > f.k {
				for _, i := range g {
					larger[i]++
				}
			}
		}
		for _, i := range r.coach {
			visits[i]++
		}
	}
	for i := range f.n {
		sum += largerCost*larger[i]*larger[i] + coachCost*int64(visits[i])*int64(visits[i])
	}
	return sum
}

// visits counts how often each was with the coach, or not there yet, in the rounds held.
func (f *floor) visits() []int {
	v := make([]int, f.n)
	for _, r := range f.ran {
		for _, i := range r.coach {
			v[i]++
		}
	}
	return v
}

// largerRan counts how often each was in a group larger than the others in the rounds held.
func (f *floor) largerRan() []int64 {
	v := make([]int64, f.n)
	for _, r := range f.ran {
		for _, g := range r.groups {
			if len(g) > f.k {
				for _, i := range g {
					v[i]++
				}
			}
		}
	}
	return v
}

// search makes the rounds to come.
func (f *floor) search() []seating {
	switch {
	case f.left == 0 || f.n == 0:
		return make([]seating, f.left)
	case f.n == 1 || f.n < f.k && f.coach:
		return f.everyRound(func() seating { return seating{coach: f.everybody()} })
	case f.n <= f.k || f.n < 2*f.k && !f.coach:
		return f.settled(f.everyRound(func() seating { return seating{groups: [][]int{f.everybody()}} }))
	}
	return f.settled(f.late(f.make()))
}

// make searches all rounds to come at once.
func (f *floor) make() []seating {
	if f.k == 2 {
		return f.pairs()
	}
	return f.groups()
}

// late puts off the repeats that must be: as many rounds as can be without any, then the others. The rounds searched together stay where
// putting it off would cost more repeats.
func (f *floor) late(plan []seating) []seating {
	must := f.newRepeats(plan)
	if must == 0 || len(plan) < 2 {
		return plan
	}
	most := f.left
	for i := range f.n { // nobody can work more rounds without repeating than there are people left for them
		open := 0
		for j := range f.n {
			if i != j && !f.apart[i][j] && f.ranUsed[i][j] == 0 {
				open++
			}
		}
		most = min(most, open/(f.k-1))
	}
	for first := min(most, f.left-1); first > max(0, most-4); first-- {
		begin := f.from(nil, first)
		clean := begin.make()
		if begin.newRepeats(clean) > 0 {
			continue
		}
		rest := f.from(clean, f.left-first).make()
		if whole := append(clean, rest...); f.newRepeats(whole) <= must {
			return whole
		}
		break
	}
	return plan
}

// from is the same floor with more rounds held and so many to make.
func (f *floor) from(held []seating, left int) *floor {
	g := *f
	g.ran = append(slices.Clone(f.ran), held...)
	g.ranUsed = f.used(held)
	g.left = left
	return &g
}

func (f *floor) everybody() []int {
	all := make([]int, f.n)
	for i := range all {
		all[i] = i
	}
	return all
}

func (f *floor) everyRound(one func() seating) []seating {
	var all []seating
	for range f.left {
		all = append(all, one())
	}
	return all
}

// settled takes two out of a group who must not work together: what no search could avoid goes to the coach. And it puts the rounds
// in an order in which nobody is with the coach twice before everybody was once.
func (f *floor) settled(plan []seating) []seating {
	for r := range plan {
		for g := 0; g < len(plan[r].groups); g++ {
			group := plan[r].groups[g]
			for {
				out := f.worst(group)
				if out < 0 {
					break
				}
				plan[r].coach = append(plan[r].coach, group[out])
				group = slices.Delete(slices.Clone(group), out, out+1)
			}
			if len(group) == 1 {
				plan[r].coach = append(plan[r].coach, group[0])
				group = nil
			}
			plan[r].groups[g] = group
		}
		plan[r].groups = slices.DeleteFunc(plan[r].groups, func(g []int) bool { return len(g) == 0 })
	}
	return f.inTurn(plan)
}

// worst is who in a group must be apart from most others of it; −1 when nobody.
func (f *floor) worst(group []int) int {
	most, at := 0, -1
	for a, i := range group {
		n := 0
		for _, j := range group {
			if f.apart[i][j] {
				n++
			}
		}
		if n > most {
			most, at = n, a
		}
	}
	return at
}

// inTurn orders rounds so that whoever was with the coach least goes next, as far as the rounds allow, and repeats come late.
func (f *floor) inTurn(plan []seating) []seating {
	visits := f.visits()
	ordered := make([]seating, 0, len(plan))
	rest := slices.Clone(plan)
	used := f.used(nil)
	for len(rest) > 0 {
		best, at := math.MaxInt, 0
		for i, r := range rest {
			worst, repeats := 0, 0
			for _, x := range r.coach {
				worst = max(worst, visits[x])
			}
			for _, g := range r.groups {
				f.meet(g, func(i, j int) {
					if used[i][j] > 0 {
						repeats++
					}
				})
			}
			if worth := worst*10_000 + repeats; worth < best {
				best, at = worth, i
			}
		}
		for _, g := range rest[at].groups {
			f.meet(g, func(i, j int) { used[i][j]++; used[j][i]++ })
		}
		for _, x := range rest[at].coach {
			visits[x]++
		}
		ordered = append(ordered, rest[at])
		rest = slices.Delete(rest, at, at+1)
	}
	return ordered
}

// answer writes a plan down.
func (f *floor) answer(p Problem, plan []seating) Answer {
	a := Answer{Rounds: []Round{}}
	for r, groups := range f.kept {
		round := Round{Groups: [][]string{}, Coach: []string{}}
		for _, g := range groups {
			round.Groups = append(round.Groups, slices.Clone(g))
		}
		// Those left over were with the coach; where it is more than that, they came later.
		if over := f.ran[r].coach; f.coach && len(over) == f.n%f.k {
			for _, i := range over {
				round.Coach = append(round.Coach, f.ids[i])
			}
		}
		a.Rounds = append(a.Rounds, round)
	}
	for _, r := range plan {
		round := Round{Groups: [][]string{}, Coach: []string{}}
		for _, g := range r.groups {
			var group []string
			for _, i := range g {
				group = append(group, f.ids[i])
			}
			slices.Sort(group)
			round.Groups = append(round.Groups, group)
		}
		slices.SortFunc(round.Groups, slices.Compare)
		for _, i := range r.coach {
			round.Coach = append(round.Coach, f.ids[i])
		}
		slices.Sort(round.Coach)
		a.Rounds = append(a.Rounds, round)
	}
	a.Repeats = repeats(a.Rounds)
	f.measure(&a, p, plan)
	return a
}

// repeats counts the meetings beyond the first.
func repeats(rounds []Round) int {
	met, n := map[[2]string]bool{}, 0
	for _, r := range rounds {
		for _, g := range r.Groups {
			for a, x := range g {
				for _, y := range g[:a] {
					pair := [2]string{min(x, y), max(x, y)}
					if met[pair] {
						n++
					}
					met[pair] = true
				}
			}
		}
	}
	return n
}
