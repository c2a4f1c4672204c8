package bound

import (
	"math"
	"slices"
)

// side is a unit in a track.
type side struct {
	track    int
	dims     []int
	known    bool // no first teach is asked for
	days     []int
	begins   uint64    // the days it may be taught first on, a bit each; the one after the last for never
	begun    []float64 // how often it was on each day, and never, while the prices were moved
	slots    []slot
	patterns int       // how many there are: counts of its dims, teaches and reviews by turns
	charge   []float64 // what being first taught on a day costs besides
	cost     []float64 // of each pattern, the least
	before   []float64 // the same when all ways were looked at last
	first    []int     // the day that goes with it, len(days) for never
	used     []int     // the patterns that ways left have
	onDay    []float64 // in the making, per dim: the cheapest teach on the day listed from
	lists    [][]priced
	// By how often, each kind in each dim after the other, as many as there are slots and none: what so many cost, and how much more they cost where one of them is a teach on
	// the day listed from. Endless where there are not so many.
	sums, more []float64
	deep       int       // how many of them
	flat       []uint8   // the patterns, one after another
	teaches    []float64 // in the making: what so many cost with one on the day
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
		t.charge, t.lists, t.onDay = make([]float64, len(t.days)), make([][]priced, 2*len(t.dims)), make([]float64, len(t.dims))
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
		t.deep = len(t.slots) + 1
		t.sums, t.more, t.teaches = make([]float64, len(t.lists)*t.deep), make([]float64, len(t.lists)*t.deep), make([]float64, t.deep)
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

// note is where the counts of a track stand among its patterns, those known before.
func (t *side) note(counts []uint8, known map[string]int) int {
	own := make([]uint8, 0, 2*len(t.dims))
	for _, i := range t.dims {
		own = append(own, counts[2*i], counts[2*i+1])
	}
	at, ok := known[string(own)]
	if !ok {
		at = t.patterns
		known[string(own)] = at
		t.patterns++
		t.flat = append(t.flat, own...)
	}
	return at
}

func (d *Daily) side(unit, track int) *side {
	for k := range d.Units[unit].sides {
		if t := &d.Units[unit].sides[k]; t.track == track {
			return t
		}
	}
	return nil
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
		t.lower(day)
	}
}

// lower lets patterns cost what they do when they begin on the day listed from, where that is less. Most of the work of moving prices is done here: for one to three
// dims it is begin written out.
func (t *side) lower(day int) {
	charge, n := t.charge[day], t.deep
	switch len(t.lists) {
	case 2:
		teach, review := t.teaches[:n], t.sums[n:2*n]
		for i := range teach {
			teach[i] = t.sums[i] + t.more[i] + charge
		}
		for _, j := range t.used {
			if cost := teach[t.flat[2*j]] + review[t.flat[2*j+1]]; cost < t.cost[j] {
				t.cost[j], t.first[j] = cost, day
			}
		}
	case 4:
		a, b, c, e := t.sums[:n], t.sums[n:2*n], t.sums[2*n:3*n], t.sums[3*n:4*n]
		moreA, moreC := t.more[:n], t.more[2*n:3*n]
		for _, j := range t.used {
			p := (*[4]uint8)(t.flat[4*j:])
			if cost := a[p[0]] + b[p[1]] + (c[p[2]] + e[p[3]]) + (min(moreA[p[0]], moreC[p[2]]) + charge); cost < t.cost[j] {
				t.cost[j], t.first[j] = cost, day
			}
		}
	case 6:
		a, b, c, e, f, g := t.sums[:n], t.sums[n:2*n], t.sums[2*n:3*n], t.sums[3*n:4*n], t.sums[4*n:5*n], t.sums[5*n:6*n]
		moreA, moreC, moreF := t.more[:n], t.more[2*n:3*n], t.more[4*n:5*n]
		for _, j := range t.used {
			p := (*[6]uint8)(t.flat[6*j:])
			if cost := a[p[0]] + b[p[1]] + (c[p[2]] + e[p[3]]) + (f[p[4]] + g[p[5]]) + (min(moreA[p[0]], moreC[p[2]], moreF[p[4]]) + charge); cost < t.cost[j] {
				t.cost[j], t.first[j] = cost, day
			}
		}
	default:
		for _, j := range t.used {
			if cost := t.begin(j) + charge; cost < t.cost[j] {
				t.cost[j], t.first[j] = cost, day
			}
		}
	}
}

// mayBegin says whether a unit may be taught first on a day, or never.
func (t *side) mayBegin(day int) bool { return t.begins>>day&1 != 0 }

// nothing says whether a pattern gives nothing.
func (t *side) nothing(pattern int) bool {
	return !slices.ContainsFunc(t.pattern(pattern), func(n uint8) bool { return n > 0 })
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
		t.lists[v] = l
		sums, more := t.sums[v*t.deep:(v+1)*t.deep], t.more[v*t.deep:(v+1)*t.deep]
		sum := 0.0
		for i := range sums {
			sums[i] = sum
			if i < len(l) {
				sum += l[i].price
			} else {
				sum = math.Inf(1)
			}
			more[i] = math.Inf(1)
			if v%2 == 0 && i > 0 && i <= len(l) {
				more[i] = max(0, t.onDay[v/2]-l[i-1].price)
			}
		}
	}
	return on
}

// sum is what a pattern costs in the cheapest slots listed.
func (t *side) sum(pattern int) float64 {
	sum, row := 0.0, 0
	for _, n := range t.pattern(pattern) {
		sum += t.sums[row+int(n)]
		row += t.deep
	}
	return sum
}

// begin is what a pattern costs in the cheapest slots listed, one of its teaches on the very day: endless where none can be.
func (t *side) begin(pattern int) float64 {
	sum, least, row := 0.0, math.Inf(1), 0
	for _, n := range t.pattern(pattern) {
		at := row + int(n)
		sum += t.sums[at]
		least = min(least, t.more[at])
		row += t.deep
	}
	return sum + least
}

// pattern is how often each kind is given in each dim.
func (t *side) pattern(at int) []uint8 { return t.flat[at*len(t.lists) : (at+1)*len(t.lists)] }

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
				if more := t.more[v*t.deep+int(t.pattern(j)[v])]; more < least {
					least, forced = more, v
				}
			}
			dearest := t.lists[forced][t.pattern(j)[forced]-1].price
			at = slices.IndexFunc(t.slots, func(q slot) bool {
				item := d.at(q.square, unit, 2*t.dims[forced/2])
				return q.day == day && q.may[forced/2][0] && !d.shut[item] && max(0, price[item]-dearest) <= least
			})
		}
		for v, n := range t.pattern(j) {
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
