package season

import (
	"cmp"
	"maps"
	"math"
	"slices"
)

// bound is a coverage no plan can exceed, given the weight of needs a plan is
// known to cover.
//
// It forgets which week is which: a unit may be given in every lane as often as there are weeks, and what
// it is worth then depends on how often alone, which is computed exactly. What ties the units together are the minutes
// of each class through the season. Each class gets a price per minute; every unit, left to itself, takes what is best
// for it at these prices; what all of them gain, and the price of all minutes, together bound every plan, whatever the
// prices (Lagrange). The prices are moved until the bound is low.
//
// It is too high, never too low: the order of weeks, what a unit stands on and that a coach must be there are
// left out, and minutes may be shared out in fractions. Pricing every week apart was tried and gave no lower bound for ten times the
// work. Costs, for each unit, a search over how often it is given in each lane, cut off by what the rest could gain at most.
func (m *model) bound(known float64) float64 {
	if m.weights == 0 {
		return 1
	}
	x := newMarket(m)
	x.prepare(known, m.p.patience()/2)
	return min(1, x.prove(m.p.patience()-min(x.work, m.p.patience()/2))/m.weights)
}

// market is the relaxation: the minutes there are of each class, and what each
// unit could be given.
type market struct {
	m        *model
	capacity []float64 // minutes of each resource
	price    []float64 // of a minute of each
	stalls   []stall   // per unit
	base     float64   // what units nobody can place are worth as they are
	work     int       // steps spent, of about a microsecond
}

// stall is one unit's side of the market: where it may be given, and the
// choices known so far that may be best for it at some price.
type stall struct {
	u      int
	fixed  []occ
	dims   []dim
	pool   []choice
	ground float64 // value as fixed
}

// dim is a lane a unit may be given in: what it uses, and how often at most.
type dim struct {
	lane    int32
	track   int
	uses    []int32 // resources a minute of it takes; the last is its own
	of      int     // mode split: the class; mode same: the length
	most    int
	known   bool // reviews need no teach first: assumed in the track, or fixed there
	minutes [2]float64
}

// choice is how often a unit is given in each dim, teaches and reviews; what
// that is worth and what minutes it takes.
type choice struct {
	counts []uint8
	value  float64
	uses   []use
}

type use struct {
	resource int32
	minutes  float64
}

func newMarket(m *model) *market {
	x := &market{m: m}
	fixed := newState(m)
	byTrack := make([][]dim, len(m.p.Tracks))
	for t := range m.p.Tracks {
		byTrack[t] = x.open(t)
	}
	for u := range m.units {
		s := stall{u: u, fixed: fixed.occs[u], ground: fixed.val[u]}
		for t := range m.p.Tracks {
			if !m.can[t][u] {
				continue
			}
			for _, d := range byTrack[t] {
				d.known = fixed.first(t, int32(u)) != never
				d.minutes = [2]float64{float64(m.units[u].cost[teach]), float64(m.units[u].cost[review])}
				s.dims = append(s.dims, d)
			}
		}
		if len(s.dims) == 0 || len(m.units[u].needs) == 0 {
			x.base += s.ground
			continue
		}
		s.order(m)
		x.stalls = append(x.stalls, s)
	}
	return x
}

// order puts the dims most needed students are in first.
func (s *stall) order(m *model) {
	worth := func(d dim) float64 {
		sum := 0.0
		for _, n := range m.units[s.u].needs {
			for _, c := range m.lanes[d.lane].classes {
				sum += n.weight * m.chance[int(n.student)*len(m.p.Classes)+int(c)]
			}
		}
		return sum
	}
	slices.SortStableFunc(s.dims, func(a, b dim) int { return cmp.Compare(worth(b), worth(a)) })
}

// open lists the lanes of a track. In mode split each class is one, with its
// minutes as the resource. In mode same an item is heard by every class that is long enough, so
// each length is a lane, and the shorter the classes an item reaches, the more resources it
// takes: its own length's minutes and those of all longer ones.
func (x *market) open(t int) []dim {
	m := x.m
	split := m.p.Tracks[t].Mode == "split"
	lengths := map[int]bool{} // or classes, in mode split
	for _, i := range m.byTrack[t] {
		if q := &m.squares[i]; !q.fixed {
			for _, c := range q.classes {
				if split {
					lengths[int(c)] = true
				} else {
					lengths[m.p.Classes[c].TeachMinutes] = true
				}
			}
		}
	}
	var dims []dim
	var uses []int32
	for _, k := range slices.Backward(slices.Sorted(maps.Keys(lengths))) {
		if split {
			uses = nil
		}
		x.capacity = append(x.capacity, 0)
		r := int32(len(x.capacity) - 1)
		uses = append(slices.Clone(uses), r)
		d := dim{track: t, uses: uses, of: k, lane: m.reach(t, k)}
		for _, i := range m.byTrack[t] {
			q := &m.squares[i]
			shortest := m.p.Classes[q.classes[len(q.classes)-1]].TeachMinutes
			if q.fixed || split && int(q.classes[0]) != k || !split && shortest > k {
				continue
			}
			d.most++
			length := q.minutes
			if !split {
				length = min(length, k)
			}
			x.capacity[r] += float64(m.fillable(t, length))
		}
		dims = append(dims, d)
	}
	return dims
}

// reach is the lane of a class in mode split; in mode same, of every class
// that is at least so long.
func (m *model) reach(t, k int) int32 {
	if m.p.Tracks[t].Mode == "split" {
		return m.laneOf(t, []int32{int32(k)})
	}
	var classes []int32
	for i, c := range m.p.Classes {
		if c.Track == m.p.Tracks[t].ID && c.TeachMinutes >= k {
			classes = append(classes, int32(i))
		}
	}
	return m.laneOf(t, classes)
}

// fillable is the most minutes of a class that items of a track can really
// fill: 35 minutes are no more than 34 when nothing adds up to 35.
func (m *model) fillable(t, minutes int) int {
	can := make([]bool, minutes+1)
	can[0] = true
	for _, u := range m.teaches[t] {
		for j := minutes; j > 0; j-- {
			for _, c := range m.units[u].cost {
				can[j] = can[j] || j >= c && can[j-c]
			}
		}
	}
	for j := minutes; j > 0; j-- {
		if can[j] {
			return j
		}
	}
	return 0
}

// prepare finds choices and prices: greed for the first ones, then by turns
// prices against the choices known and better choices at these prices.
func (x *market) prepare(known float64, patience int) {
	minutes := 0.0
	for _, c := range x.capacity {
		minutes += c
	}
	x.price = make([]float64, len(x.capacity))
	for r := range x.price {
		x.price[r] = known / max(1, minutes)
	}
	for i := range x.stalls {
		x.stalls[i].begin(x)
	}
	wide := 0.3
	for range 16 {
		x.settle(wide, 0.004, 250)
		wide = max(0.05, wide*0.75)
		more := false
		for i := range x.stalls {
			more = x.stalls[i].improve(x) || more
		}
		if !more || x.work > patience {
			break
		}
	}
}

// prove is the bound at the prices: every unit's best choice is searched for, in
// a few steps each at first; where that finds choices nobody knew the prices are moved once more. Then
// whichever unit leaves most unsure for its steps gets five times as many, until all are spent.
func (x *market) prove(steps int) float64 {
	sure := make([]doubt, len(x.stalls))
	least := math.Inf(1)
	var best []doubt
	var at []float64 // the prices the best belongs to
	for range 3 {
		more := false
		for i := range sure {
			sure[i] = doubt{steps: min(40, 1+steps/1000)}
			steps -= x.ask(i, &sure[i])
			more = more || sure[i].found
		}
		if sum := x.sum(sure); sum < least {
			least, best, at = sum, slices.Clone(sure), slices.Clone(x.price)
		}
		if !more || steps <= 0 {
			break
		}
		x.settle(0.03, 0.002, 250)
	}
	copy(x.price, at)
	return x.refine(best, steps, least)
}

func (x *market) refine(sure []doubt, steps int, least float64) float64 {
	for steps > 0 && len(sure) > 0 {
		at := 0
		for i := range sure {
			if sure[i].gap/float64(sure[i].steps) > sure[at].gap/float64(sure[at].steps) {
				at = i
			}
		}
		if sure[at].gap <= 1e-9 {
			break
		}
		if sure[at].steps *= 5; sure[at].steps > steps {
			sure[at].steps, steps = steps, 0
		}
		steps -= x.ask(at, &sure[at])
	}
	return min(least, x.sum(sure))
}

// sum is the bound: what the minutes cost and what every unit gains at most.
func (x *market) sum(sure []doubt) float64 {
	sum := x.base
	for r, c := range x.capacity {
		sum += x.price[r] * c
	}
	for i := range sure {
		sum += sure[i].most
	}
	return sum
}

// doubt is what is known of a unit's best choice: at most so much, and by how
// much that is more than what was found.
type doubt struct {
	steps     int
	most, gap float64
	found     bool
}

func (x *market) ask(i int, d *doubt) (nodes int) {
	s := &x.stalls[i]
	had := len(s.pool)
	d.most, nodes = s.exactly(x, d.steps)
	d.found = d.found || len(s.pool) > had
	_, known := s.bestOf(x.price)
	d.gap = d.most - known
	if d.steps > 5_000_000 {
		d.gap = 0 // sure enough
	}
	return nodes
}

// patience is how many steps a bound may take.
func (p Problem) patience() int {
	seconds := p.Seconds
	if seconds == 0 {
		seconds = 1
	}
	return int(min(seconds, 1)*1_150_000 + seconds*450_000)
}

// settle moves prices by subgradient steps against the choices known, smoothed
// and scaled for each resource, ever shorter, and keeps the best met.
func (x *market) settle(wide, narrow float64, steps int) {
	n := len(x.price)
	price, slope := slices.Clone(x.price), make([]float64, n)
	lead, spread := make([]float64, n), make([]float64, n)
	mean := 0.0
	for _, p := range price {
		mean += p / float64(n)
	}
	low := math.Inf(1)
	pace, shrink := wide*mean, math.Pow(narrow/wide, 1/float64(steps))
	const inertia, memory = 0.7, 0.98
	pools := 0
	for i := range x.stalls {
		pools += len(x.stalls[i].pool)
	}
	x.work += steps * pools / 60
	for k := range steps {
		sum := x.base
		for r, c := range x.capacity {
			slope[r] = c
			sum += price[r] * c
		}
		for i := range x.stalls {
			c, net := x.stalls[i].bestOf(price)
			sum += net
			for _, k := range c.uses {
				slope[k.resource] -= k.minutes
			}
		}
		if sum < low-1e-9 {
			low = sum
			copy(x.price, price)
		}
		for r, g := range slope {
			lead[r] = inertia*lead[r] + (1-inertia)*g
			spread[r] = memory*spread[r] + (1-memory)*g*g
			price[r] = max(0, price[r]-pace*lead[r]/(1e-9+math.Sqrt(spread[r]/(1-math.Pow(memory, float64(k+1))))))
		}
		pace *= shrink
	}
}

// bestOf is the known choice worth most at these prices, and what it gains.
func (s *stall) bestOf(price []float64) (*choice, float64) {
	at, most := 0, math.Inf(-1)
	for i := range s.pool {
		c := &s.pool[i]
		net := c.value
		for _, k := range c.uses {
			net -= price[k.resource] * k.minutes
		}
		if net > most {
			at, most = i, net
		}
	}
	return &s.pool[at], most
}

// begin fills the pool with nothing, and with what greed adds step by step.
func (s *stall) begin(x *market) {
	counts := make([]uint8, 2*len(s.dims))
	s.note(x, counts)
	for range 14 {
		at, most := -1, 0.0
		now := s.worth(x, counts, likesStep)
		for i := range counts {
			if !s.may(counts, i) {
				continue
			}
			counts[i]++
			if gain := (s.worth(x, counts, likesStep) - now) / s.dims[i/2].minutes[i%2]; gain > most {
				at, most = i, gain
			}
			counts[i]--
		}
		if at < 0 {
			return
		}
		counts[at]++
		s.note(x, counts)
	}
}

// may says whether one more of a kind in a dim is possible.
func (s *stall) may(counts []uint8, i int) bool {
	d := &s.dims[i/2]
	if int(counts[i&^1])+int(counts[i|1]) >= d.most {
		return false
	}
	return i%2 == int(teach) || s.taught(counts, i/2)
}

// taught says whether a dim's track is taught the unit at all.
func (s *stall) taught(counts []uint8, i int) bool {
	if s.dims[i].known {
		return true
	}
	for j := range s.dims {
		if s.dims[j].track == s.dims[i].track && counts[2*j] > 0 {
			return true
		}
	}
	return false
}

// sound says whether counts could stand: no review in a track without a teach.
func (s *stall) sound(counts []uint8) bool {
	for i := range s.dims {
		if counts[2*i+1] > 0 && !s.taught(counts, i) {
			return false
		}
	}
	return true
}

// worth is the value of a choice, and with climb a share of the progress.
func (s *stall) worth(x *market, counts []uint8, climb float64) float64 {
	all := append(make([]occ, 0, 24), s.fixed...)
	for i, n := range counts {
		for range n {
			all = append(all, occ{lane: s.dims[i/2].lane, kind: uint8(i % 2)})
		}
	}
	x.work += 1 + len(x.m.units[s.u].needs)*len(all)/90
	covered, way := x.m.value(s.u, all)
	return covered + climb*way
}

// note adds a choice to the pool.
func (s *stall) note(x *market, counts []uint8) {
	c := choice{counts: slices.Clone(counts), value: s.worth(x, counts, 0)}
	for i, n := range counts {
		for _, r := range s.dims[i/2].uses {
			if n > 0 {
				c.uses = append(c.uses, use{r, float64(n) * s.dims[i/2].minutes[i%2]})
			}
		}
	}
	s.pool = append(s.pool, c)
}

// cost is the price of one more of a kind in a dim.
func (s *stall) cost(x *market, i int) float64 {
	sum := 0.0
	for _, r := range s.dims[i/2].uses {
		sum += x.price[r]
	}
	return sum * s.dims[i/2].minutes[i%2]
}

// improve climbs from the best known choice by single steps and exchanges, and
// says whether it found a better one.
func (s *stall) improve(x *market) bool {
	start, most := s.bestOf(x.price)
	counts := slices.Clone(start.counts)
	cost := make([]float64, len(counts))
	spent := 0.0
	for i := range cost {
		cost[i] = s.cost(x, i)
		spent += float64(counts[i]) * cost[i]
	}
	found := false
	top := x.m.units[s.u].most
	for range 8 {
		var next []uint8
		look := func(spent float64) {
			if top-spent <= most+1e-9 {
				return
			}
			if net := s.worth(x, counts, 0) - spent; net > most+1e-9 && s.sound(counts) {
				most, next = net, slices.Clone(counts)
			}
		}
		for i := range counts {
			if s.may(counts, i) {
				counts[i]++
				look(spent + cost[i])
				counts[i]--
			}
			if counts[i] == 0 {
				continue
			}
			counts[i]--
			look(spent - cost[i])
			for j := range counts {
				if j != i && s.may(counts, j) {
					counts[j]++
					look(spent - cost[i] + cost[j])
					counts[j]--
				}
			}
			counts[i]++
		}
		if next == nil {
			break
		}
		counts, found = next, true
		spent = 0
		for i := range counts {
			spent += float64(counts[i]) * cost[i]
		}
		s.note(x, counts)
	}
	return found
}

// Bound is a coverage no plan of the problem can exceed; coverage is what a
// plan is known to reach. It is what Solve gives with its plan, for plans made otherwise.
func Bound(p Problem, coverage float64) float64 {
	m := newModel(p)
	return max(coverage, m.bound(coverage*m.weights))
}
