package bound

import (
	"math"
	"math/bits"
	"slices"
)

// Daily is the relaxation of a small season with prices of its own for every item in every square. What a unit stands on is held to the day: by any
// day a track may have been taught a unit only if it was taught the other before, and each such row has a price. The ways to give a unit are listed; which of its
// squares it takes is then the cheapest ones from the day on that it is first taught, and that day what pays best.
//
// The relaxation that forgets which week is which (Relaxation) gives the ways and the first prices. Where chains are taught in turns, this one is
// closer by far: of eight small seasons with chains four came from 0.4 to 1.3 % over the best plan to 0.1 to 0.2 %.
//
// Costs, for a step of the prices, for each square a filling of its pack, and for each unit its ways and the days of each track × the patterns of counts
// there.
type Daily struct {
	x      *Relaxation
	Units  []Listed
	Most   float64 // the most a plan can cover: at these prices
	Known  float64 // the weight a plan is known to cover; what cannot come to more is left out
	price  []float64
	stride int // prices of a square
	from   []int
	rows   []dated
	leads  int       // where the prices of coaches start, by week
	shut   []bool    // items that no better plan holds; their prices are 0
	mean   []float64 // how often each unit was given in each place while the prices were moved
	Limit  int       // the work it may come to; prices are moved no further then
	work   int       // done by now, but for filling packs
	filled int       // the work of all fillings before it began
}

// Listed is a unit with the ways it may be given: all one after another, for looking at many of them is most of the work.
type Listed struct {
	Left     []int32   // the ways that are left
	value    []float64 // what each is worth
	net      []float64 // what it gains at the prices
	counts   []uint8   // how often in each dim, teaches and reviews by turns
	patterns []int32   // its pattern in each track
	stride   int       // counts of a way
	sides    []side
}

// Counts is how often a way gives its unit in each place.
func (u *Listed) Counts(way int32) []uint8 {
	return u.counts[int(way)*u.stride : (int(way)+1)*u.stride]
}

// Value is what a way is worth.
func (u *Listed) Value(way int32) float64 { return u.value[way] }

// Net is what it gains at the prices.
func (u *Listed) Net(way int32) float64 { return u.net[way] }

// pattern is that of a way in a track.
func (u *Listed) pattern(way int32, side int) int { return int(u.patterns[int(way)*len(u.sides)+side]) }

// side is a unit in a track.
type side struct {
	track    int
	dims     []int
	known    bool // no first teach is asked for
	days     []int
	begins   uint64    // the days it may be taught first on, a bit each; the one after the last for never
	begun    []float64 // how often it was on each day, and never, while the prices were moved
	slots    []slot
	patterns [][]uint8 // counts of its dims, teaches and reviews by turns
	charge   []float64 // what being first taught on a day costs besides
	cost     []float64 // of each pattern, the least
	first    []int     // the day that goes with it, len(days) for never
	used     []int     // the patterns that ways left have
	onDay    []float64 // in the making, per dim: the cheapest teach on the day listed from
	lists    [][]priced
	sums     [][]float64
	more     [][]float64 // per dim and teaches: how much more it costs that one of them is on the day listed from
}

// slot is a square that may hold a unit: on which of the days, and what in each dim.
type slot struct {
	square, day int
	may         [][2]bool
}

type priced struct {
	price float64
	slot  int
}

// dated are the rows of a unit and one it stands on in a track, one for each day.
type dated struct {
	unit, on, track int
	at, days        int
}

// mostDays is how many a track may have: there is a bit for each, and for never.
const mostDays = 62

// dailyFillings is how often a pack is filled at most here, where few units may be in many classes twice.
const dailyFillings = 40

// NewDaily lists the ways that gain no more than slack less than the best at the prices of a relaxation. It is nothing where that takes more than so many
// microseconds, or they are too many to look at.
func NewDaily(x *Relaxation, known, slack float64, most int) *Daily {
	x.Packing.fillings = dailyFillings
	d := &Daily{x: x, Known: known, Most: known + slack, Limit: math.MaxInt, filled: x.Packing.filled, from: make([]int, len(x.Subproblems)+1)}
	for t := range x.m.Problem.Tracks {
		if len(x.days(t)) > mostDays {
			return nil
		}
	}
	for i := range x.Subproblems {
		s := &x.Subproblems[i]
		ways, took, ok := s.Ways(x, slack, most)
		d.work += took
		if most -= took; !ok {
			return nil
		}
		u := Listed{sides: x.sides(i), stride: len(s.Cost)}
		at := make([]map[string]int, len(u.sides))
		for k := range at {
			at[k] = map[string]int{}
		}
		for j, w := range ways {
			u.Left, u.counts, u.value = append(u.Left, int32(j)), append(u.counts, w.Counts...), append(u.value, w.Net+s.spent(w.Counts))
			for k := range u.sides {
				u.patterns = append(u.patterns, int32(u.sides[k].pattern(w.Counts, at[k])))
			}
		}
		u.net = make([]float64, len(ways))
		for k := range u.sides {
			t := &u.sides[k]
			t.cost, t.first = make([]float64, len(t.patterns)), make([]int, len(t.patterns))
		}
		d.Units = append(d.Units, u)
		d.from[i+1] = d.from[i] + len(s.Cost)
	}
	d.begin()
	return d
}

// sides are a unit's tracks with the squares there that may hold it.
func (x *Relaxation) sides(unit int) (all []side) {
	m, s := x.m, &x.Subproblems[unit]
	for i, dim := range s.Dims {
		at := slices.IndexFunc(all, func(t side) bool { return t.track == dim.track })
		if at < 0 {
			at = len(all)
			days := x.days(dim.track)
			all = append(all, side{track: dim.track, known: dim.Known, days: days, begins: 1<<(len(days)+1) - 1})
		}
		all[at].dims = append(all[at].dims, i)
	}
	for k := range all {
		t := &all[k]
		t.charge, t.lists, t.sums, t.onDay = make([]float64, len(t.days)), make([][]priced, 2*len(t.dims)), make([][]float64, 2*len(t.dims)), make([]float64, len(t.dims))
		t.more = make([][]float64, len(t.dims))
		for _, q := range m.ByTrack[t.track] {
			of := x.Packing.PackOf[q]
			if of < 0 {
				continue
			}
			may, any := make([][2]bool, len(t.dims)), false
			for _, g := range x.Packing.Packs[of].goods {
				if int(g.subproblem) == unit {
					may[slices.Index(t.dims, int(g.dim))], any = g.may, true
				}
			}
			if any {
				t.slots = append(t.slots, slot{int(q), slices.Index(t.days, m.Squares[q].Day), may})
			}
		}
	}
	return all
}

// days are those a track has open squares on.
func (x *Relaxation) days(track int) (all []int) {
	for _, q := range x.m.ByTrack[track] {
		if !x.m.Squares[q].Fixed {
			all = append(all, x.m.Squares[q].Day)
		}
	}
	slices.Sort(all)
	return slices.Compact(all)
}

// pattern is where the counts of a track stand among its patterns.
func (t *side) pattern(counts []uint8, known map[string]int) int {
	own := make([]uint8, 0, 2*len(t.dims))
	for _, i := range t.dims {
		own = append(own, counts[2*i], counts[2*i+1])
	}
	at, ok := known[string(own)]
	if !ok {
		at = len(t.patterns)
		known[string(own)] = at
		t.patterns = append(t.patterns, own)
	}
	return at
}

// begin starts from the prices of the relaxation that forgets the weeks.
func (d *Daily) begin() {
	x, m := d.x, d.x.m
	d.stride = d.from[len(d.Units)]
	for range m.Squares {
		for i := range x.Subproblems {
			d.price = append(d.price, x.Subproblems[i].Cost...)
		}
	}
	for _, r := range x.rows {
		days := len(x.days(r.track))
		d.rows = append(d.rows, dated{int(r.subproblem), int(r.on), r.track, len(d.price), days})
		d.price = append(d.price, make([]float64, days)...)
		d.price[len(d.price)-1] = r.price
	}
	d.leads, d.shut = len(d.price), make([]bool, len(d.price))
	for _, kind := range x.Packing.weekOf {
		for _, v := range x.Packing.weeks[kind].lead {
			d.price = append(d.price, v/leadScale)
		}
	}
}

// at is where the price of an item lies.
func (d *Daily) at(square, unit, place int) int { return square*d.stride + d.from[unit] + place }

// set puts the prices of a square before its pack.
func (d *Daily) set(price []float64, square int) *Pack {
	k := &d.x.Packing
	p := &k.Packs[k.PackOf[square]]
	for i := range d.x.Subproblems {
		d.x.Subproblems[i].Cost = price[d.at(square, i, 0):d.at(square, i+1, 0)]
	}
	lead := k.weeks[p.weeks].lead
	for c := range lead {
		lead[c] = leadScale * price[d.lead(d.x.m.Squares[square].Week, c)]
	}
	return p
}

func (d *Daily) lead(week, coach int) int { return d.leads + week*len(d.x.m.Problem.Coaches) + coach }

// Settle moves the prices in so many steps, keeps the best met, and leaves out ways that cannot be part of a better plan at them. It says whether any
// plan could be better.
func (d *Daily) Settle(wide, narrow float64, steps int) bool {
	x, k := d.x, &d.x.Packing
	mean := 0.0
	for _, c := range d.price[:d.stride*len(x.m.Squares)] {
		mean += c / float64(max(1, d.stride*len(x.m.Squares)))
	}
	mean = max(mean, leastPace*x.m.Weights/float64(max(1, d.stride)))
	walk := newWalk(len(d.price), wide*mean, narrow*mean, steps)
	price, slope := slices.Clone(d.price), make([]float64, len(d.price))
	low, nets, best := math.Inf(1), make([]float64, len(d.Units)), make([]float64, len(d.Units))
	d.mean = make([]float64, d.stride)
	for i := range d.Units {
		for k := range d.Units[i].sides {
			d.Units[i].sides[k].begun = make([]float64, len(d.Units[i].sides[k].days)+1)
		}
	}
	d.use()
	each := d.step()
	for step := range steps {
		clear(slope)
		d.work += each
		sum := x.Base
		for s := range x.m.Squares {
			if k.PackOf[s] < 0 {
				continue
			}
			week := x.m.Squares[s].Week
			sum += k.Fill(d.set(price, s), func(unit, place int32) { slope[d.at(s, int(unit), int(place))]++ }, func(coach int) { slope[d.lead(week, coach)]-- })
		}
		for i := d.leads; i < len(price); i++ {
			most := float64(x.m.Problem.Coaches[(i-d.leads)%len(x.m.Problem.Coaches)].MaxPerWeek)
			sum += leadScale * price[i] * most
			slope[i] += most
		}
		d.charge(price)
		for i := range d.Units {
			at := int32(0)
			at, nets[i] = d.best(i, price)
			sum += nets[i]
			if math.IsInf(nets[i], -1) {
				return false
			}
			d.take(i, at, price, slope)
			if 2*step >= steps {
				for v, n := range d.Units[i].Counts(at) {
					d.mean[d.from[i]+v] += float64(n) / float64(steps-steps/2)
				}
				for k := range d.Units[i].sides {
					t := &d.Units[i].sides[k]
					t.begun[t.first[d.Units[i].pattern(at, k)]] += 1 / float64(steps-steps/2)
				}
			}
		}
		if sum < low-1e-12 {
			low = sum
			copy(d.price, price)
			copy(best, nets)
			if low <= d.Known+1e-9 {
				d.Most = min(d.Most, low)
				return false
			}
		}
		if x.stopped() || d.Left() <= 0 {
			break
		}
		walk.step(price, slope)
	}
	d.Most = min(d.Most, low)
	d.charge(d.price)
	for i := range d.Units {
		u := &d.Units[i]
		_, best[i] = d.best(i, d.price)
		left := make([]int32, 0, len(u.Left)) // what other nodes have stays
		for _, w := range u.Left {
			if low-best[i]+u.net[w] > d.Known+1e-9 {
				left = append(left, w)
			}
		}
		if u.Left = left; len(left) == 0 {
			return false
		}
	}
	d.use()
	d.narrow(low-d.Known, best)
	return true
}

// Work is what was done by now, in microseconds about: as it was measured on 57 small seasons, to 13 % of each.
func (d *Daily) Work() int { return d.work + 9*(d.x.Packing.filled-d.filled)/10 }

// Spend counts work done with it elsewhere.
func (d *Daily) Spend(work int) { d.work += work }

// Left is the work that is left to do.
func (d *Daily) Left() int { return d.Limit - d.Work() }

// step is the work of a step of the prices, but for filling packs.
func (d *Daily) step() int {
	ways, begun, listed := 0, 0, 0
	for i := range d.Units {
		u := &d.Units[i]
		ways += len(u.Left) * (1 + len(u.sides))
		for k := range u.sides {
			t := &u.sides[k]
			days := 1
			if !t.known {
				days = bits.OnesCount64(t.begins)
			}
			begun += days * len(t.lists) * len(t.used)
			listed += days * len(t.lists) * len(t.slots)
		}
	}
	return 1 + ways/400 + begun/160 + listed/56
}

// use finds the patterns that ways left have.
func (d *Daily) use() {
	for i := range d.Units {
		u := &d.Units[i]
		for k := range u.sides {
			has := make([]bool, len(u.sides[k].patterns))
			for _, w := range u.Left {
				has[u.pattern(w, k)] = true
			}
			u.sides[k].used = nil
			for j, is := range has {
				if is {
					u.sides[k].used = append(u.sides[k].used, j)
				}
			}
		}
	}
}

// charge sets what each unit pays, or is paid, for the day it is first taught on. A row of a day is paid by who was taught the unit by then, and paid to who was taught
// what it stands on before.
func (d *Daily) charge(price []float64) {
	for i := range d.Units {
		for k := range d.Units[i].sides {
			clear(d.Units[i].sides[k].charge)
		}
	}
	for _, r := range d.rows {
		u, on := d.side(r.unit, r.track), d.side(r.on, r.track)
		sum := 0.0
		for day := r.days - 1; day >= 0; day-- {
			on.charge[day] -= sum
			sum += price[r.at+day]
			u.charge[day] += sum
		}
	}
}

func (d *Daily) side(unit, track int) *side {
	for k := range d.Units[unit].sides {
		if t := &d.Units[unit].sides[k]; t.track == track {
			return t
		}
	}
	return nil
}

// best is the way that gains most at prices.
func (d *Daily) best(unit int, price []float64) (at int32, most float64) {
	u := &d.Units[unit]
	for k := range u.sides {
		d.costs(unit, &u.sides[k], price)
	}
	most, n := math.Inf(-1), len(u.sides)
	for _, w := range u.Left {
		net := u.value[w]
		for k, j := range u.patterns[int(w)*n : int(w)*n+n] {
			net -= u.sides[k].cost[j]
		}
		u.net[w] = net
		if net > most {
			at, most = w, net
		}
	}
	return at, most
}

// costs finds the least that each pattern of a track costs, and the day it is first taught then.
func (d *Daily) costs(unit int, t *side, price []float64) {
	for _, j := range t.used {
		t.cost[j], t.first[j] = math.Inf(1), len(t.days)
		if t.nothing(j) && t.mayBegin(len(t.days)) {
			t.cost[j] = 0
		}
	}
	if t.known {
		d.list(unit, t, price, -1)
		for _, j := range t.used {
			t.cost[j] = t.sum(j)
		}
		return
	}
	for day := len(t.days) - 1; day >= 0; day-- {
		if !t.mayBegin(day) || !d.list(unit, t, price, day) {
			continue
		}
		for _, j := range t.used {
			if cost := t.begin(j) + t.charge[day]; cost < t.cost[j] {
				t.cost[j], t.first[j] = cost, day
			}
		}
	}
}

// mayBegin says whether a unit may be taught first on a day, or never.
func (t *side) mayBegin(day int) bool { return t.begins>>day&1 != 0 }

// nothing says whether a pattern gives nothing.
func (t *side) nothing(pattern int) bool {
	return !slices.ContainsFunc(t.patterns[pattern], func(n uint8) bool { return n > 0 })
}

// list sorts, for each kind in each dim, the slots from a day on by their prices, reviews after it; all of them for −1. It says whether any is on the day.
func (d *Daily) list(unit int, t *side, price []float64, day int) (on bool) {
	for v := range t.lists {
		if v%2 == 0 {
			t.onDay[v/2] = math.Inf(1)
		}
		l := t.lists[v][:0]
		for i := range t.slots {
			q := &t.slots[i]
			if q.day < day || q.day == day && v%2 == 1 || !q.may[v/2][v%2] {
				continue
			}
			item := d.at(q.square, unit, 2*t.dims[v/2]+v%2)
			if d.shut[item] {
				continue
			}
			p := priced{price[item], i}
			if q.day == day {
				on, t.onDay[v/2] = true, min(t.onDay[v/2], p.price)
			}
			at := len(l)
			l = append(l, p)
			for ; at > 0 && l[at-1].price > p.price; at-- {
				l[at] = l[at-1]
			}
			l[at] = p
		}
		sums := append(t.sums[v][:0], 0)
		for _, p := range l {
			sums = append(sums, sums[len(sums)-1]+p.price)
		}
		t.lists[v], t.sums[v] = l, sums
		if v%2 == 0 {
			more := append(t.more[v/2][:0], 0)
			for _, p := range l {
				more = append(more, max(0, t.onDay[v/2]-p.price))
			}
			t.more[v/2] = more
		}
	}
	return on
}

// sum is what a pattern costs in the cheapest slots listed.
func (t *side) sum(pattern int) float64 {
	sum := 0.0
	for v, n := range t.patterns[pattern] {
		if int(n) >= len(t.sums[v]) {
			return math.Inf(1)
		}
		sum += t.sums[v][n]
	}
	return sum
}

// begin is what a pattern costs in the cheapest slots listed, one of its teaches on the very day: endless where none can be.
func (t *side) begin(pattern int) float64 {
	sum, least := 0.0, math.Inf(1)
	for v, n := range t.patterns[pattern] {
		if int(n) >= len(t.sums[v]) {
			return math.Inf(1)
		}
		sum += t.sums[v][n]
		if v%2 == 0 && n > 0 {
			least = min(least, t.more[v/2][n])
		}
	}
	return sum + least
}

// take turns the slope against what a unit's way takes.
func (d *Daily) take(unit int, way int32, price, slope []float64) {
	u := &d.Units[unit]
	for k := range u.sides {
		t, j := &u.sides[k], u.pattern(way, k)
		day := t.first[j]
		for _, r := range d.rows {
			if r.track != t.track {
				continue
			}
			for i := range r.days {
				if r.unit == unit && day <= i {
					slope[r.at+i]--
				}
				if r.on == unit && day < i {
					slope[r.at+i]++
				}
			}
		}
		if t.known {
			day = -1
		} else if day == len(t.days) {
			continue
		}
		d.list(unit, t, price, day)
		forced, at := -1, -1
		if day >= 0 { // the teach of the day takes the place of the dearest of its dim, where it is not among them
			least := math.Inf(1)
			for v := 0; v < len(t.lists); v += 2 {
				if n := int(t.patterns[j][v]); n > 0 && n < len(t.more[v/2]) && t.more[v/2][n] < least {
					least, forced = t.more[v/2][n], v
				}
			}
			dearest := t.lists[forced][t.patterns[j][forced]-1].price
			at = slices.IndexFunc(t.slots, func(q slot) bool {
				item := d.at(q.square, unit, 2*t.dims[forced/2])
				return q.day == day && q.may[forced/2][0] && !d.shut[item] && max(0, price[item]-dearest) <= least
			})
		}
		for v, n := range t.patterns[j] {
			in := false
			for _, p := range t.lists[v][:n] {
				in = in || v == forced && p.slot == at
			}
			for i, p := range t.lists[v][:n] {
				slot := p.slot
				if v == forced && !in && i == int(n)-1 {
					slot = at
				}
				slope[d.at(t.slots[slot].square, unit, 2*t.dims[v/2]+v%2)]--
			}
		}
	}
}
