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
	kinds  []kinds   // what each square may ask of its leads
	asking []float64 // how often it asked for each kind while the prices were moved, mostKinds for each square
	Limit  int       // the work it may come to; prices are moved no further then
	work   int       // done by now, but for filling packs
	looked int       // looks at ways that are not counted in it yet
	filled int       // the work of all fillings before it began
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
// microseconds, or they are too many to look at; took is how many it did take.
func NewDaily(x *Relaxation, known, slack float64, most int) (d *Daily, took int) {
	d = &Daily{x: x, Known: known, Most: known + slack, Limit: math.MaxInt, filled: x.Packing.filled, from: make([]int, len(x.Subproblems)+1)}
	for t := range x.m.Problem.Tracks {
		if len(x.days(t)) > mostDays {
			return nil, 0
		}
	}
	for i := range x.Subproblems {
		s := &x.Subproblems[i]
		ways, took, ok := s.Ways(x, slack, most)
		d.work += took
		if most -= took; !ok {
			return nil, d.work
		}
		u := Listed{sides: x.sides(i), stride: len(s.Cost)}
		at := make([]map[string]int, len(u.sides))
		for k := range at {
			at[k] = map[string]int{}
		}
		for j, w := range ways {
			u.Left, u.counts, u.value = append(u.Left, int32(j)), append(u.counts, w.Counts...), append(u.value, w.Net+s.spent(w.Counts))
			for k := range u.sides {
				u.patterns = append(u.patterns, int32(u.sides[k].note(w.Counts, at[k])))
			}
		}
		u.net = make([]float64, len(ways))
		for k := range u.sides {
			t := &u.sides[k]
			t.cost, t.first = make([]float64, t.patterns), make([]int, t.patterns)
		}
		d.Units = append(d.Units, u)
		d.from[i+1] = d.from[i] + len(s.Cost)
	}
	d.begin()
	x.Packing.fillings = dailyFillings
	d.work += x.Packing.listAll()
	return d, d.work
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
	d.leads, d.shut, d.kinds = len(d.price), make([]bool, len(d.price)), slices.Repeat([]kinds{anyKind}, len(m.Squares))
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
	p.kinds = d.kinds[square]
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
	d.mean, d.asking = make([]float64, d.stride), make([]float64, mostKinds*len(x.m.Squares))
	for i := range d.Units {
		d.Units[i].near = d.Units[i].near[:0]
		for k := range d.Units[i].sides {
			d.Units[i].sides[k].begun = make([]float64, len(d.Units[i].sides[k].days)+1)
		}
	}
	d.use()
	patterns, slots := d.size()
	each := 1 + patterns/480 + slots/63
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
			if t := k.Packs[k.PackOf[s]].contents; t != nil && 2*step >= steps {
				d.asking[s*mostKinds+t.now()] += 1 / float64(steps-steps/2)
			}
		}
		for w := range k.weekOf {
			at := d.lead(w, 0)
			sum += leadScale * k.weeks[k.weekOf[w]].paid(price[at:], slope[at:], 1)
		}
		d.charge(price)
		for i := range d.Units {
			at := int32(0)
			at, nets[i] = d.best(i, price, false)
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
		_, best[i] = d.best(i, d.price, true)
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
	patterns, _ = d.size()
	d.work += patterns / 31
	d.narrow(low-d.Known, best)
	return true
}

// Work is what was done by now, in microseconds about: as it was measured on 52 small seasons, to 11 % of nearly each.
func (d *Daily) Work() int { return d.work + d.x.Packing.filled - d.filled }

// Spend counts work done with it elsewhere.
func (d *Daily) Spend(work int) { d.work += work }

// Left is the work that is left to do.
func (d *Daily) Left() int { return d.Limit - d.Work() }

// size is how many patterns and slots the prices of a step are looked up for.
func (d *Daily) size() (patterns, slots int) {
	for i := range d.Units {
		u := &d.Units[i]
		for k := range u.sides {
			t := &u.sides[k]
			days := 1
			if !t.known {
				days = bits.OnesCount64(t.begins)
			}
			patterns += days * len(t.lists) * len(t.used)
			slots += days * len(t.lists) * len(t.slots)
		}
	}
	return patterns, slots
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
