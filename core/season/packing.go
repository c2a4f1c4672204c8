package season

import (
	"math"
	"slices"
)

// packing is the classes' side of the relaxation, class by class: at the prices of items every class
// takes those that pay most and fit its minutes, whole, each unit once in an audience, none before what it
// stands on can have been taught, none without a coach who may teach it.
//
// At so much a minute a class could be filled with parts of items; prices moved item by
// item forbid that, which matters most where minutes are scarce. Costs classes that differ × units × minutes a step.
type packing struct {
	x     *relaxation
	packs []pack
	of    []int     // per square, its pack; −1 for none
	most  []float64 // in the making: what can be paid for so many minutes
	taken [][]uint8
	floor []float64 // prices that are not gone under
	work  int       // of one look at all packs
}

// pack is a class, or in mode same a week, and how many are just like it.
type pack struct {
	times float64
	goods []good
}

// good is a unit in an audience of a pack: teach, review, or neither.
type good struct {
	subproblem, dim int32
	until           int // the minute it must end by to be heard in the audience
	may             [2]bool
	minutes         [2]int
}

// floorOf is how far the price of an item may fall under that of its minutes.
const floorOf = 0.5

func newPacking(x *relaxation) packing {
	k := packing{x: x}
	m := x.m
	soonest := make([][]int, len(m.p.Tracks))
	for t := range soonest {
		soonest[t] = m.soonest(t)
	}
	most := 0
	for i := range m.squares {
		q := &m.squares[i]
		k.of = append(k.of, -1)
		if q.fixed {
			continue
		}
		goods := k.goods(q, soonest[q.track])
		if len(goods) == 0 {
			continue
		}
		if at := slices.IndexFunc(k.packs, func(p pack) bool { return slices.Equal(p.goods, goods) }); at >= 0 {
			k.packs[at].times++
			k.of[i] = at
			continue
		}
		k.of[i] = len(k.packs)
		k.packs = append(k.packs, pack{1, goods})
		k.work += 1 + len(goods)*q.minutes/110
		most = max(most, len(goods))
	}
	longest := 0
	for _, c := range m.p.Classes {
		longest = max(longest, c.TeachMinutes)
	}
	k.most = make([]float64, longest+1)
	k.taken = make([][]uint8, most)
	for i := range k.taken {
		k.taken[i] = make([]uint8, longest+1)
	}
	return k
}

// soonest is the first day each unit can be taught in a track, −1 where it is
// assumed or was held: the order of days and what it stands on, nothing else.
func (m *model) soonest(t int) []int {
	days := make([]int, 0, len(m.byTrack[t]))
	for _, s := range m.byTrack[t] {
		if d := m.squares[s].day; len(days) == 0 || days[len(days)-1] != d {
			days = append(days, d)
		}
	}
	first := make([]int, len(m.units))
	for u := range first {
		first[u] = never
	}
	var at func(u int) int
	at = func(u int) int {
		if first[u] != never {
			return first[u]
		}
		first[u] = never - 1 // nobody can, unless found below
		after := -1
		for _, r := range m.units[u].requires {
			if !m.assumed[t][r] {
				after = max(after, at(int(r)))
			}
		}
		if m.assumed[t][u] || m.heldIn(t, u) {
			first[u] = -1
			return -1
		}
		for _, d := range days {
			if d > after {
				first[u] = d
				break
			}
		}
		return first[u]
	}
	for u := range first {
		at(u)
	}
	return first
}

// goods lists what a square may hold, the earliest to end first.
func (k *packing) goods(q *square, soonest []int) (all []good) {
	m := k.x.m
	split := m.p.Tracks[q.track].Mode == "split"
	for i := len(q.classes) - 1; i >= 0; i-- {
		c := int(q.classes[i])
		length := m.p.Classes[c].TeachMinutes
		if i+1 < len(q.classes) && m.p.Classes[q.classes[i+1]].TeachMinutes == length {
			continue // the audience of this length was looked at
		}
		of := c
		if !split {
			of = length
		}
		for j := range k.x.subproblems {
			s := &k.x.subproblems[j]
			d := slices.IndexFunc(s.dims, func(d dim) bool { return d.track == q.track && d.of == of })
			if d < 0 || !m.led(s.u, q, length) {
				continue
			}
			g := good{subproblem: int32(j), dim: int32(d), until: length, minutes: m.units[s.u].cost}
			g.may = [2]bool{q.day >= soonest[s.u] && g.minutes[teach] <= length, (q.day > soonest[s.u] || s.dims[d].known) && g.minutes[review] <= length}
			if g.may[teach] || g.may[review] {
				all = append(all, g)
			}
		}
	}
	return all
}

// led says whether every class of a square at least so long has a coach who may teach a unit.
func (m *model) led(u int, q *square, length int) bool {
	for _, c := range q.classes {
		if m.p.Classes[c].TeachMinutes >= length && m.there[int(c)*(m.p.Weeks+1)+q.week]&m.units[u].mayLead == 0 {
			return false
		}
	}
	return true
}

// fill is the most a pack can be paid for what it takes, and tells what it takes then.
func (k *packing) fill(p *pack, take func(subproblem, at int32)) float64 {
	most, until := k.most, 0
	most[0] = 0
	for i := range p.goods {
		g := &p.goods[i]
		for ; until < g.until; until++ {
			most[until+1] = most[until]
		}
		cost := k.x.subproblems[g.subproblem].cost[2*g.dim : 2*g.dim+2]
		taken := k.taken[i][:until+1]
		clear(taken)
		full, half := g.may[teach] && cost[teach] > 0, g.may[review] && cost[review] > 0
		for b := until; b > 0; b-- {
			v, how := most[b], uint8(0)
			if rest := b - g.minutes[teach]; full && rest >= 0 && most[rest]+cost[teach] > v {
				v, how = most[rest]+cost[teach], 1
			}
			if rest := b - g.minutes[review]; half && rest >= 0 && most[rest]+cost[review] > v {
				v, how = most[rest]+cost[review], 2
			}
			if how > 0 {
				most[b], taken[b] = v, how
			}
		}
	}
	if take == nil {
		return most[until]
	}
	for b, i := until, len(p.goods)-1; i >= 0; i-- {
		g := &p.goods[i]
		b = min(b, g.until)
		if how := int32(k.taken[i][b]); how > 0 {
			take(g.subproblem, 2*g.dim+how-1)
			b -= g.minutes[how-1]
		}
	}
	return most[until]
}

// paid is what all classes can be paid together.
func (k *packing) paid() float64 {
	sum := 0.0
	for i := range k.packs {
		sum += k.packs[i].times * k.fill(&k.packs[i], nil)
	}
	return sum
}

// settle moves the prices of items against the choices known, in about so
// much work, keeps the best met and says what it took.
func (k *packing) settle(wide, narrow float64, work int) (took int) {
	x := k.x
	each, all, mean := k.work, 0, 0.0
	from := make([]int, len(x.subproblems)+1)
	for i := range x.subproblems {
		s := &x.subproblems[i]
		each += 1 + len(s.pool)/40
		all += len(s.cost)
		from[i+1] = all
		for _, c := range s.cost {
			mean += c
		}
	}
	mean /= float64(max(1, all))
	steps := min(400, work/max(1, each))
	if steps < 20 || mean == 0 {
		return 0
	}
	price, slope := make([]float64, 0, all), make([]float64, all)
	for i := range x.subproblems {
		price = append(price, x.subproblems[i].cost...)
	}
	if k.floor == nil {
		for _, c := range price {
			k.floor = append(k.floor, floorOf*c)
		}
	}
	low, best := math.Inf(1), slices.Clone(price)
	walk := newWalk(all, wide*mean, narrow*mean, steps)
	for range steps {
		clear(slope)
		sum := x.base
		for i := range k.packs {
			p := &k.packs[i]
			sum += p.times * k.fill(p, func(subproblem, at int32) { slope[from[subproblem]+int(at)] += p.times })
		}
		for i := range x.subproblems {
			c, net := x.subproblems[i].best()
			sum += net
			for _, u := range c.uses {
				slope[from[i]+int(u.at)] -= u.times
			}
		}
		if sum < low-1e-12 {
			low = sum
			copy(best, price)
		}
		walk.step(price, slope)
		for i := range price {
			price[i] = max(price[i], k.floor[i])
		}
		x.spread(price, from)
	}
	x.spread(best, from)
	return steps * each
}

// spread sets all prices.
func (x *relaxation) spread(price []float64, from []int) {
	for i := range x.subproblems {
		copy(x.subproblems[i].cost, price[from[i]:from[i+1]])
	}
}
