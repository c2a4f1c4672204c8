package bound

import (
	"cmp"
	"fmt"
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
	x        *Relaxation
	Packs    []Pack
	PackOf   []int       // per square, its pack; −1 for none
	most     []float64   // in the making: what can be paid for so many minutes
	earlier  [][]float64 // per good, the most before it was offered
	work     int         // of one look at all packs
	weeks    []weeks
	weekOf   []int // per week, its kind
	prices   []float64
	barred   []bool // goods that may not be taken
	now      []held // what the last filling holds
	held     []held // what the best holds
	tries    int    // fillings left, of so many
	fillings int
	step     int // the work of filling all packs, as it was when prices were moved last
	filled   int // the work of all fillings
	looked   int // at contents, not counted as work yet
}

// weeks are the weeks that hold the same packs with the same coaches to lead them: what a coach's class costs in each.
type weeks struct {
	times float64
	lead  []float64 // per coach, for a class
	room  []float64 // per coach, how many classes they can lead
	asks  []uint64  // of each class that is fixed, who could lead it
}

// Pack is a class, or in mode same a week, and how many are just like it.
type Pack struct {
	times float64
	goods []good
	weeks int     // its kind of week
	sign  string  // what makes it what it is: its goods and tiers
	tiers []tier  // its classes by length, the shortest first
	calls []call  // what may be in it together, and who may lead that
	least int     // the fewest minutes anything takes there
	idle  minutes // for how long what nobody needs may be given there

	contents *contents // all that it may hold, where they were listed
	kinds    kinds     // those of them that it may hold now
}

// tier is the classes of a length.
type tier struct {
	length int
	there  []uint64 // of each class, who is there
	asks   bool     // they hear something whatever the content is, and so ask for a lead
	// in the making: what can be paid for so many minutes before it, with something nobody needs after that, and with something of its own
	before, filled, inside []float64
	soonest                int // no item of its own begins before
}

// call says which sign-offs the items may ask for that each tier hears last, and who has all that its classes then hear of.
type call []struct{ signoffs, lead uint64 }

// holds says whether a call allows all that another does.
func (c call) holds(other call) bool {
	for i := range c {
		if other[i].signoffs&^c[i].signoffs != 0 {
			return false
		}
	}
	return true
}

// good is a unit in an audience of a pack: teach, review, or neither.
type good struct {
	subproblem, dim int32
	unit            int32
	tier            int // the shortest classes of its audience: it must end by their length, and after that of any shorter ones
	until           int
	may             [2]bool
	minutes         [2]int
	next            int    // the longest that comes after it in its tier
	signoff         uint64 // a bit of the pack's calls; 0 for none
}

func newPacking(x *Relaxation) Packing {
	k := Packing{x: x, fillings: mostFillings}
	m, unneeded := x.m, x.unneeded()
	k.PackOf = make([]int, len(m.Squares))
	for i := range k.PackOf {
		k.PackOf[i] = -1
	}
	most := 0
	weekAt := map[string]int{}
	for w := range m.ByWeek {
		var packs []Pack
		var squares []int32
		sign := x.staff.sign(w)
		for _, i := range m.ByWeek[w] {
			q := &m.Squares[i]
			if q.Fixed {
				continue
			}
			p := Pack{times: 1, goods: k.goods(q, x.soonest[q.Track]), least: m.Least[q.Track], idle: x.idle(q, unneeded[q.Track])}
			if len(p.goods) == 0 {
				continue
			}
			p.led(x, q)
			p.sign = fmt.Sprintln(p.goods, p.tiers, p.least, p.idle)
			packs, squares = append(packs, p), append(squares, i)
			sign += p.sign
		}
		at, ok := weekAt[sign]
		if !ok {
			at = len(k.weeks)
			weekAt[sign] = at
			k.weeks = append(k.weeks, x.weeksLike(w))
		}
		k.weeks[at].times++
		k.weekOf = append(k.weekOf, at)
		for j, p := range packs {
			p.weeks = at
			k.add(int(squares[j]), p)
			most = max(most, len(p.goods))
		}
	}
	longest := 0
	for _, c := range m.Problem.Classes {
		longest = max(longest, c.TeachMinutes)
	}
	k.most = make([]float64, longest+1)
	k.earlier, k.barred = make([][]float64, most), make([]bool, most)
	return k
}

// add counts a square's pack among those just like it.
func (k *Packing) add(square int, p Pack) {
	at := slices.IndexFunc(k.Packs, func(o Pack) bool { return o.weeks == p.weeks && o.sign == p.sign })
	if at < 0 {
		at = len(k.Packs)
		k.Packs = append(k.Packs, p)
		k.work += p.work()
	} else {
		k.Packs[at].times++
	}
	k.PackOf[square] = at
}

// work is what it takes to fill a pack once, in microseconds about.
func (p *Pack) work() int { return 1 + len(p.goods)*p.goods[len(p.goods)-1].until/350 }

// Open adds what one more such square can hold to dims, by subproblem; those it changes are copied first.
func (p *Pack) Open(dims [][]Dim) {
	own := map[int32]bool{}
	for _, g := range p.goods {
		if !own[g.subproblem] {
			own[g.subproblem] = true
			dims[g.subproblem] = slices.Clone(dims[g.subproblem])
		}
	}
	p.open(1, func(subproblem int32) []Dim { return dims[subproblem] })
}

// open counts the pack so many times in the dims of what it can hold.
func (p *Pack) open(times int, dims func(subproblem int32) []Dim) {
	for _, g := range p.goods {
		d := &dims(g.subproblem)[g.dim]
		d.most += times
		for kind, may := range g.may {
			if may {
				d.top[kind] += times
			}
		}
	}
}

// mostCalls is how many ways to allow sign-offs a pack may have; of sign-offs beyond that it is not asked who has them.
const mostCalls = 32

// led lists who could lead what. The longer classes hear all that the shorter ones do, and what comes after: a sign-off is allowed from some
// length on.
func (p *Pack) led(x *Relaxation, q *model.Square) {
	m, longest := x.m, 0 // of what may come first, also of what nobody needs
	for _, u := range m.Teaches[q.Track] {
		longest = max(longest, m.Units[u].Cost[model.Teach], m.Units[u].Cost[model.Review])
	}
	for _, c := range slices.Backward(q.Classes) {
		length, there := m.Problem.Classes[c].TeachMinutes, m.There[int(c)*(m.Problem.Weeks+1)+q.Week]
		if n := len(p.tiers); n == 0 || p.tiers[n-1].length != length {
			p.tiers = append(p.tiers, tier{length: length, asks: longest <= length})
		}
		last := &p.tiers[len(p.tiers)-1]
		last.there = append(last.there, there)
	}
	var masks []uint64
	ways := 1
	for i := range p.goods {
		g := &p.goods[i]
		g.tier = slices.IndexFunc(p.tiers, func(t tier) bool { return t.length == g.until })
		mask := m.Units[g.unit].MayLead
		if !slices.ContainsFunc(p.tiers, func(t tier) bool {
			return slices.ContainsFunc(t.there, func(there uint64) bool { return there&^mask != 0 })
		}) {
			continue
		}
		at := slices.Index(masks, mask)
		if at < 0 && ways*(len(p.tiers)+1) <= mostCalls {
			at, ways = len(masks), ways*(len(p.tiers)+1)
			masks = append(masks, mask)
		}
		if at >= 0 {
			g.signoff = 1 << at
		}
	}
	for way := range ways {
		c := make(call, len(p.tiers))
		for j := range c {
			c[j].lead = ^uint64(0)
		}
		for i, mask := range masks {
			from := way % (len(p.tiers) + 1)
			way /= len(p.tiers) + 1
			for j := from; j < len(c); j++ {
				c[j].signoffs |= 1 << i
				c[j].lead &= mask
			}
		}
		var may []uint64
		for j, t := range p.tiers {
			for _, there := range t.there {
				if t.asks {
					may = append(may, there&c[j].lead)
				}
			}
		}
		if x.staff.canLead(q.Week, may) {
			p.calls = append(p.calls, c)
		}
	}
}

// goods lists what a square may hold, the earliest to end first.
func (k *Packing) goods(q *model.Square, soonest []int) (all []good) {
	m := k.x.m
	for i := len(q.Classes) - 1; i >= 0; i-- {
		c := int(q.Classes[i])
		length := m.Problem.Classes[c].TeachMinutes
		if i+1 < len(q.Classes) && m.Problem.Classes[q.Classes[i+1]].TeachMinutes == length {
			continue // the audience of this length was looked at
		}
		for j := range k.x.Subproblems {
			s := &k.x.Subproblems[j]
			d := slices.IndexFunc(s.Dims, func(d Dim) bool { return d.track == q.Track && d.audience == q.Audiences[i] })
			if d < 0 || !k.x.led(s.Unit, q, length) {
				continue
			}
			g := good{subproblem: int32(j), dim: int32(d), unit: int32(s.Unit), until: length, minutes: m.Units[s.Unit].Cost}
			g.may = [2]bool{q.Day >= soonest[s.Unit] && k.x.lasts(s.Unit, model.Teach, q, length, soonest), (q.Day > soonest[s.Unit] || s.Dims[d].Known) && k.x.lasts(s.Unit, model.Review, q, length, soonest)}
			if g.may[model.Teach] || g.may[model.Review] {
				all = append(all, g)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b good) int {
		return cmp.Or(cmp.Compare(a.until, b.until), cmp.Compare(b.longest(), a.longest()))
	})
	for i := len(all) - 2; i >= 0; i-- {
		if all[i].until == all[i+1].until {
			all[i].next = max(all[i+1].next, all[i+1].longest())
		}
	}
	return all
}

// longest is how long it takes at most.
func (g *good) longest() (minutes int) {
	for kind, may := range g.may {
		if may {
			minutes = max(minutes, g.minutes[kind])
		}
	}
	return minutes
}

// paid is what all classes can be paid together.
func (k *Packing) paid() float64 {
	sum := 0.0
	for i := range k.Packs {
		sum += k.Packs[i].times * k.Fill(&k.Packs[i], nil, nil)
	}
	return sum + k.leading()
}

// leading is what all coaches are paid for the classes they can lead.
func (k *Packing) leading() float64 {
	sum := 0.0
	for i := range k.weeks {
		sum += k.weeks[i].times * k.weeks[i].paid(k.weeks[i].lead, nil, 0)
	}
	return sum
}

// leastPace is how far prices move at least, in shares of all there is to cover for each item.
const leastPace = 0.1

// leadScale is how much more than an item a class to lead is worth about: prices move in such steps.
const leadScale = 4

// settle moves the prices of items against the choices known, and those still promised, in about so much work, and keeps the best met. It says what it took, and by how
// much of their mean prices moved when that was lower than what it began with; nothing where it never was. It is not done where there is no time for it.
func (k *Packing) settle(wide, narrow float64, work int) (took int, from float64, done bool) {
	x := k.x
	pools, all, mean := 0, 0, 0.0
	at := make([]int, len(x.Subproblems)+1)
	rows := len(x.rows) + len(k.weeks)*len(x.m.Problem.Coaches)
	for i := range x.Subproblems {
		s := &x.Subproblems[i]
		pools += 1 + len(s.pool)/40
		all += len(s.Cost)
		at[i+1] = all
		for _, c := range s.Cost {
			mean += c
		}
	}
	mean = max(mean/float64(max(1, all)), leastPace*x.m.Weights/float64(max(1, all))) // minutes may cost nothing, and coaches or what comes first something
	each := pools + max(k.work, k.step)
	steps := min(400, work/max(1, each))
	if steps < 20 {
		if steps = 40; 40*each > 5*work {
			return 0, 0, false // it would take too much of what there is
		}
	}
	if mean == 0 {
		return 0, 0, true
	}
	price, slope := make([]float64, 0, all+rows), make([]float64, all+rows)
	for i := range x.Subproblems {
		price = append(price, x.Subproblems[i].Cost...)
	}
	for _, r := range x.rows {
		price = append(price, r.price)
	}
	for i := range k.weeks {
		for _, v := range k.weeks[i].lead {
			price = append(price, v/leadScale)
		}
	}
	low, best := math.Inf(1), slices.Clone(price)
	walk := newWalk(all+rows, wide*mean, narrow*mean, steps)
	taught, coaches := make([][]int32, len(x.Subproblems)), len(x.m.Problem.Coaches)
	before, moved := k.filled, 0
	high := make([]peaks, len(x.Subproblems))
	for i := range x.Subproblems {
		high[i] = x.Subproblems[i].peaks()
	}
	for range steps {
		moved++
		clear(slope)
		sum := x.Base
		for i := range k.Packs {
			p := &k.Packs[i]
			lead := slope[all+len(x.rows)+p.weeks*coaches:]
			sum += p.times * k.Fill(p, func(subproblem, item int32) { slope[at[subproblem]+int(item)] += p.times }, func(coach int) { lead[coach] -= p.times })
		}
		for i := range k.weeks {
			w := &k.weeks[i]
			sum += w.times * w.paid(w.lead, slope[all+len(x.rows)+i*coaches:], w.times)
		}
		for i := range x.Subproblems {
			most, tracks := x.Subproblems[i].takes(high[i], slope[at[i]:], taught[i][:0])
			sum, taught[i] = sum+most, tracks
		}
		for i, r := range x.rows {
			if slices.Contains(taught[r.subproblem], int32(r.track)) {
				slope[all+i]--
			}
			if slices.Contains(taught[r.on], int32(r.track)) {
				slope[all+i]++
			}
		}
		if sum < low-1e-12 {
			if from == 0 && moved > 1 {
				from = walk.pace / mean
			}
			low = sum
			copy(best, price)
		}
		if x.stopped() {
			break
		}
		walk.step(price, slope)
		x.spread(price, at)
	}
	x.spread(best, at)
	k.step = (k.filled - before) / max(1, moved)
	return k.filled - before + moved*pools, from, true
}

// spread sets all prices.
func (x *Relaxation) spread(price []float64, from []int) {
	for i := range x.Subproblems {
		copy(x.Subproblems[i].Cost, price[from[i]:from[i+1]])
	}
	rest := price[from[len(x.Subproblems)]:]
	for i := range x.rows {
		x.rows[i].price = rest[i]
	}
	rest = rest[len(x.rows):]
	for i := range x.Packing.weeks {
		for c := range x.Packing.weeks[i].lead {
			x.Packing.weeks[i].lead[c] = leadScale * rest[0]
			rest = rest[1:]
		}
	}
	x.charged()
}
