package bound

import "math"

// narrow leaves out items that no better plan holds: what its unit gains less by it and what its class is paid less, together, are more than the bound lies
// over the plan known. The costs of every unit's patterns are those at the prices; best is what each gains at most.
//
// Costs for each unit and track its days × (the patterns there and its squares), and for each item that its unit does not rule out a filling.
func (d *Daily) narrow(slack float64, best []float64) {
	k := &d.x.Packing
	less := make([]float64, len(d.price)) // what is lost by each item at least
	for i := range d.Units {
		for j := range d.Units[i].sides {
			d.loses(i, j, best[i], slack, less)
		}
	}
	for s, of := range k.PackOf {
		if of < 0 {
			continue
		}
		p := d.set(d.price, s)
		paid := k.Fill(p, nil, nil)
		sure := 1.0 // paid so much more, it is taken
		for i := range p.goods {
			pays := k.pays(&p.goods[i])
			sure += pays[0] + pays[1]
		}
		for i := range p.goods {
			g := &p.goods[i]
			for kind, may := range g.may {
				at := d.at(s, int(g.subproblem), 2*int(g.dim)+kind)
				if !may || d.shut[at] {
					continue
				}
				if less[at] <= slack {
					was := d.price[at]
					d.price[at] += sure
					less[at] += max(0, paid-(k.Fill(p, nil, nil)-sure))
					d.price[at] = was
				}
			}
		}
	}
	for at := range d.stride * len(d.x.m.Squares) {
		if less[at] > slack+1e-9 {
			d.shut[at], d.price[at] = true, 0
		}
	}
}

// loses finds what a unit gains less by each item of a track.
func (d *Daily) loses(unit, of int, best, slack float64, less []float64) {
	u := &d.Units[unit]
	t, n := &u.sides[of], len(u.sides)
	rest := make([]float64, t.patterns) // what the best way gains that has a pattern, but for its cost here
	for _, j := range t.used {
		rest[j] = math.Inf(-1)
	}
	for _, w := range u.Left {
		j := u.patterns[int(w)*n+of]
		rest[j] = max(rest[j], u.net[w]+t.cost[j])
	}
	gains := make([]float64, len(t.slots)*len(t.lists))
	for i := range gains {
		gains[i] = math.Inf(-1)
	}
	if t.known {
		d.list(unit, t, d.price, -1)
		t.loseOn(-1, 0, rest, gains)
	}
	for day := range t.days {
		if t.known || !t.mayBegin(day) {
			continue
		}
		if !d.list(unit, t, d.price, day) || best-t.loseOn(day, t.charge[day], rest, gains) > slack+1e-9 {
			t.begins &^= 1 << day
		}
	}
	for v := range t.lists {
		for i := range t.slots {
			at := d.at(t.slots[i].square, unit, 2*t.dims[v/2]+v%2)
			less[at] = max(0, best-gains[v*len(t.slots)+i])
		}
	}
}

// loseOn raises what is gained at most with each item to what it is when a track is first taught a unit on a day, and says what that is at most.
func (t *side) loseOn(day int, charge float64, rest, gains []float64) (top float64) {
	begun := make([]float64, t.patterns)
	top = math.Inf(-1)
	for _, j := range t.used {
		if day < 0 {
			begun[j] = rest[j] - t.sum(j)
		} else {
			begun[j] = rest[j] - t.begin(j) - charge
		}
		top = max(top, begun[j])
	}
	for v := range t.lists {
		free, held := make([]float64, t.deep), make([]float64, t.deep) // by how often it is given there: wherever else it begins, and where it begins on the day
		for n := range free {
			free[n], held[n] = math.Inf(-1), math.Inf(-1)
		}
		for _, j := range t.used {
			n := t.pattern(j)[v]
			free[n], held[n] = max(free[n], rest[j]-t.sum(j)-charge), max(held[n], begun[j])
		}
		for r, p := range t.lists[v] {
			on := day >= 0 && v%2 == 0 && t.slots[p.slot].day == day
			g := &gains[v*len(t.slots)+p.slot]
			for n := 1; n < len(free); n++ {
				gain := free[n]
				if r >= n {
					gain -= p.price - t.lists[v][n-1].price
				}
				if !on {
					gain = min(gain, held[n])
				}
				*g = max(*g, gain)
			}
		}
	}
	return top
}
