package rotation

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/draw"
)

// exchanges is how many exchanges of two people annealing tries: some thousands for each person and round.
func (f *floor) exchanges() int { return min(3_000_000, 12_000*f.n*f.left) }

// groups makes rounds of groups of three and more: from a design where one fits, and by annealing; the cheaper of the two.
func (f *floor) groups() []seating {
	draws := draw.New(f.seed, 23)
	var best []seating
	cost := int64(math.MaxInt64)
	keep := func(plan []seating) {
		if c := f.price(plan); c < cost {
			best, cost = plan, c
		}
	}
	if d := designFor(f.n, f.k, f.left); d != nil && len(f.ran) == 0 {
		keep(f.anneal(f.relabelled(d, draws), draws, 30*scale, f.exchanges()/4))
	}
	if best == nil || cost >= repeatCost || f.wishes() {
		keep(f.anneal(f.dealt(draws), draws, 0.7*float64(repeatCost), f.exchanges()))
	}
	return best
}

// wishes says whether it matters at all who is with whom.
func (f *floor) wishes() bool {
	for i := range f.n {
		for j := range i {
			if f.soft[i][j] != f.soft[1][0] || f.apart[i][j] {
				return true
			}
		}
	}
	return false
}

// dealt is a plan to begin with: who is with the coach goes round, everybody else is dealt out.
func (f *floor) dealt(draws *draw.Draws) []seating {
	over, visits := f.n%f.k, f.visits()
	var plan []seating
	for range f.left {
		all := draws.Perm(f.n)
		var r seating
		if f.coach {
			slices.SortStableFunc(all, func(a, b int) int { return cmp.Compare(visits[a], visits[b]) })
			r.coach = slices.Clone(all[:over])
			for _, i := range r.coach {
				visits[i]++
			}
			all = all[over:]
			draws.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
		}
		for len(all) >= f.k {
			r.groups = append(r.groups, slices.Clone(all[:f.k]))
			all = all[f.k:]
		}
		if last := len(r.groups) - 1; len(all) > 0 {
			r.groups[last] = append(r.groups[last], all...)
		}
		plan = append(plan, r)
	}
	return plan
}

// relabelled gives the places of a design to people: two exchange theirs in all rounds wherever that is cheaper.
func (f *floor) relabelled(d [][][]int, draws *draw.Draws) []seating {
	who := draws.Perm(f.n)
	plan := func() []seating {
		var all []seating
		for _, groups := range d {
			var r seating
			for _, g := range groups {
				group := make([]int, len(g))
				for i, place := range g {
					group[i] = who[place]
				}
				r.groups = append(r.groups, group)
			}
			all = append(all, r)
		}
		return all
	}
	with := make([][]int, f.n) // the places that meet a place
	for _, groups := range d {
		for _, g := range groups {
			for _, a := range g {
				for _, b := range g {
					if a != b {
						with[a] = append(with[a], b)
					}
				}
			}
		}
	}
	meetings := func(place, person, other, otherPerson int) int64 {
		sum := int64(0)
		for _, p := range with[place] {
			q := who[p]
			if p == other {
				q = otherPerson
			}
			sum += f.soft[person][q]
			if f.apart[person][q] {
				sum += apartCost
			}
		}
		return sum
	}
	for better := true; better; {
		better = false
		for a := range f.n {
			for b := range a {
				had := meetings(a, who[a], b, who[b]) + meetings(b, who[b], a, who[a])
				if meetings(a, who[b], b, who[a])+meetings(b, who[a], a, who[b]) < had {
					who[a], who[b] = who[b], who[a]
					better = true
				}
			}
		}
	}
	return plan()
}

// anneal exchanges two people of different groups in one round, again and again: always when it is cheaper, and at first also
// when it is dearer (Kirkpatrick, Gelatt and Vecchi 1983). The temperature falls from what is given to next to nothing.
func (f *floor) anneal(plan []seating, draws *draw.Draws, heat float64, tries int) []seating {
	type place struct{ group, at int }
	rounds := len(plan)
	at := make([][]place, rounds) // of each round and person in a group
	in := make([][]int, rounds)   // those who are in a group
	larger := f.largerRan()
	for r := range plan {
		at[r] = make([]place, f.n)
		plan[r].groups = slices.Clone(plan[r].groups)
		for g, group := range plan[r].groups {
			plan[r].groups[g] = slices.Clone(group)
			for i, x := range group {
				at[r][x] = place{g, i}
				in[r] = append(in[r], x)
				if len(group) > f.k {
					larger[x]++
				}
			}
		}
	}
	used := f.used(plan)
	drop := func(i, j int) int64 { // what a meeting cost that is taken out
		c := f.soft[i][j] + again(used[i][j]-1)
		if f.apart[i][j] {
			c += apartCost
		}
		return c
	}
	add := func(i, j int) int64 {
		c := f.soft[i][j] + again(used[i][j])
		if f.apart[i][j] {
			c += apartCost
		}
		return c
	}
	best, bestCost := copied(plan), f.price(plan)
	cost, cool := bestCost, math.Pow(0.05*scale/heat, 1/float64(tries))
	for range tries {
		heat *= cool
		r := draws.IntN(rounds)
		if len(plan[r].groups) < 2 {
			continue
		}
		a, b := in[r][draws.IntN(len(in[r]))], in[r][draws.IntN(len(in[r]))]
		pa, pb := at[r][a], at[r][b]
		if pa.group == pb.group {
			continue
		}
		ga, gb := plan[r].groups[pa.group], plan[r].groups[pb.group]
		d := int64(0)
		for _, x := range ga {
			if x != a {
				d += add(b, x) - drop(a, x)
			}
		}
		for _, y := range gb {
			if y != b {
				d += add(a, y) - drop(b, y)
			}
		}
		if len(ga) != len(gb) { // one leaves the larger group, the other joins it
			out, joins := a, b
			if len(gb) > len(ga) {
				out, joins = b, a
			}
			d += largerCost * (2*larger[joins] + 1 - (2*larger[out] - 1))
		}
		if d > 0 && (float64(d) > 30*heat || draws.Float64() >= math.Exp(-float64(d)/heat)) {
			continue
		}
		for _, x := range ga {
			if x != a {
				used[a][x]--
				used[x][a]--
				used[b][x]++
				used[x][b]++
			}
		}
		for _, y := range gb {
			if y != b {
				used[b][y]--
				used[y][b]--
				used[a][y]++
				used[y][a]++
			}
		}
		if len(ga) > f.k {
			larger[a]--
			larger[b]++
		}
		if len(gb) > f.k {
			larger[b]--
			larger[a]++
		}
		ga[pa.at], gb[pb.at] = b, a
		at[r][a], at[r][b] = pb, pa
		if cost += d; cost < bestCost {
			bestCost = cost
			copyInto(best, plan)
		}
	}
	return best
}

func copied(plan []seating) []seating {
	out := make([]seating, len(plan))
	for r := range plan {
		out[r].coach = plan[r].coach
		for _, g := range plan[r].groups {
			out[r].groups = append(out[r].groups, slices.Clone(g))
		}
	}
	return out
}

func copyInto(to, plan []seating) {
	for r := range plan {
		for g := range plan[r].groups {
			copy(to[r].groups[g], plan[r].groups[g])
		}
	}
}
