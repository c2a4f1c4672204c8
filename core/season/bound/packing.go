package bound

import (
	"math"
	"slices"

	"vereda/core/season/model"
)

// Packing is the classes' side of the relaxation, class by class: at the prices of items every class
// takes those that pay most and fit its minutes, whole, each unit once in an audience, none before what it
// stands on can have been taught, none without a coach who may teach it.
//
// At so much a minute a class could be filled with parts of items; prices moved item by
// item forbid that, which matters most where minutes are scarce. Costs classes that differ × units × minutes a step.
type Packing struct {
	x      *Relaxation
	Packs  []Pack
	PackOf []int     // per square, its pack; −1 for none
	most   []float64 // in the making: what can be paid for so many minutes
	taken  [][]uint8
	floor  []float64 // prices that are not gone under
	work   int       // of one look at all packs
}

// Pack is a class, or in mode same a week, and how many are just like it.
type Pack struct {
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

func newPacking(x *Relaxation) Packing {
	k := Packing{x: x}
	m := x.m
	soon := make([][]int, len(m.Problem.Tracks))
	for t := range soon {
		soon[t] = soonest(m, t)
	}
	most := 0
	for i := range m.Squares {
		q := &m.Squares[i]
		k.PackOf = append(k.PackOf, -1)
		if q.Fixed {
			continue
		}
		goods := k.goods(q, soon[q.Track])
		if len(goods) == 0 {
			continue
		}
		if at := slices.IndexFunc(k.Packs, func(p Pack) bool { return slices.Equal(p.goods, goods) }); at >= 0 {
			k.Packs[at].times++
			k.PackOf[i] = at
			continue
		}
		k.PackOf[i] = len(k.Packs)
		k.Packs = append(k.Packs, Pack{1, goods})
		k.work += 1 + len(goods)*q.Minutes/110
		most = max(most, len(goods))
	}
	longest := 0
	for _, c := range m.Problem.Classes {
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
func soonest(m *model.Model, t int) []int {
	days := make([]int, 0, len(m.ByTrack[t]))
	for _, s := range m.ByTrack[t] {
		if d := m.Squares[s].Day; len(days) == 0 || days[len(days)-1] != d {
			days = append(days, d)
		}
	}
	first := make([]int, len(m.Units))
	for u := range first {
		first[u] = model.Never
	}
	var at func(u int) int
	at = func(u int) int {
		if first[u] != model.Never {
			return first[u]
		}
		first[u] = model.Never - 1 // nobody can, unless found below
		after := -1
		for _, r := range m.Units[u].Requires {
			if !m.Assumed[t][r] {
				after = max(after, at(int(r)))
			}
		}
		if m.Assumed[t][u] || m.HeldIn(t, u) {
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
func (k *Packing) goods(q *model.Square, soonest []int) (all []good) {
	m := k.x.m
	split := m.Problem.Tracks[q.Track].Mode == "split"
	for i := len(q.Classes) - 1; i >= 0; i-- {
		c := int(q.Classes[i])
		length := m.Problem.Classes[c].TeachMinutes
		if i+1 < len(q.Classes) && m.Problem.Classes[q.Classes[i+1]].TeachMinutes == length {
			continue // the audience of this length was looked at
		}
		of := c
		if !split {
			of = length
		}
		for j := range k.x.Subproblems {
			s := &k.x.Subproblems[j]
			d := slices.IndexFunc(s.Dims, func(d dim) bool { return d.track == q.Track && d.of == of })
			if d < 0 || !led(m, s.Unit, q, length) {
				continue
			}
			g := good{subproblem: int32(j), dim: int32(d), until: length, minutes: m.Units[s.Unit].Cost}
			g.may = [2]bool{q.Day >= soonest[s.Unit] && g.minutes[model.Teach] <= length, (q.Day > soonest[s.Unit] || s.Dims[d].Known) && g.minutes[model.Review] <= length}
			if g.may[model.Teach] || g.may[model.Review] {
				all = append(all, g)
			}
		}
	}
	return all
}

// led says whether every class of a square at least so long has a coach who may teach a unit.
func led(m *model.Model, u int, q *model.Square, length int) bool {
	for _, c := range q.Classes {
		if m.Problem.Classes[c].TeachMinutes >= length && m.There[int(c)*(m.Problem.Weeks+1)+q.Week]&m.Units[u].MayLead == 0 {
			return false
		}
	}
	return true
}

// Fill is the most a pack can be paid for what it takes, and tells what it takes then.
func (k *Packing) Fill(p *Pack, take func(subproblem, at int32)) float64 {
	most, until := k.most, 0
	most[0] = 0
	for i := range p.goods {
		g := &p.goods[i]
		for ; until < g.until; until++ {
			most[until+1] = most[until]
		}
		cost := k.x.Subproblems[g.subproblem].Cost[2*g.dim : 2*g.dim+2]
		taken := k.taken[i][:until+1]
		clear(taken)
		full, half := g.may[model.Teach] && cost[model.Teach] > 0, g.may[model.Review] && cost[model.Review] > 0
		for b := until; b > 0; b-- {
			v, how := most[b], uint8(0)
			if rest := b - g.minutes[model.Teach]; full && rest >= 0 && most[rest]+cost[model.Teach] > v {
				v, how = most[rest]+cost[model.Teach], 1
			}
			if rest := b - g.minutes[model.Review]; half && rest >= 0 && most[rest]+cost[model.Review] > v {
				v, how = most[rest]+cost[model.Review], 2
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
func (k *Packing) paid() float64 {
	sum := 0.0
	for i := range k.Packs {
		sum += k.Packs[i].times * k.Fill(&k.Packs[i], nil)
	}
	return sum
}

// settle moves the prices of items against the choices known, in about so
// much work, keeps the best met and says what it took.
func (k *Packing) settle(wide, narrow float64, work int) (took int) {
	x := k.x
	each, all, mean := k.work, 0, 0.0
	from := make([]int, len(x.Subproblems)+1)
	for i := range x.Subproblems {
		s := &x.Subproblems[i]
		each += 1 + len(s.pool)/40
		all += len(s.Cost)
		from[i+1] = all
		for _, c := range s.Cost {
			mean += c
		}
	}
	mean /= float64(max(1, all))
	steps := min(400, work/max(1, each))
	if steps < 20 || mean == 0 {
		return 0
	}
	price, slope := make([]float64, 0, all), make([]float64, all)
	for i := range x.Subproblems {
		price = append(price, x.Subproblems[i].Cost...)
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
		sum := x.Base
		for i := range k.Packs {
			p := &k.Packs[i]
			sum += p.times * k.Fill(p, func(subproblem, at int32) { slope[from[subproblem]+int(at)] += p.times })
		}
		for i := range x.Subproblems {
			c, net := x.Subproblems[i].best()
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
func (x *Relaxation) spread(price []float64, from []int) {
	for i := range x.Subproblems {
		copy(x.Subproblems[i].Cost, price[from[i]:from[i+1]])
	}
}
