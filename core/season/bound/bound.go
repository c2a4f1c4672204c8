// Package bound proves a coverage that no plan of a season can exceed: a Lagrangian relaxation over the minutes of
// the classes (bound.go), each unit's best choice by branch and bound (choice.go, tails.go), what a class can pack (packing.go),
// and the proof that brings the two together (proof.go).
package bound

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/season"
	"vereda/core/season/model"
)

// OfModel is a coverage no plan can exceed, given the weight of needs a plan is
// known to cover.
//
// It forgets which week is which: a unit may be given in every audience as often as there are weeks, and what
// it is worth then depends on how often alone, which is computed exactly. What ties the units together are the minutes
// of each class. Each item in an audience gets a price, at first so much a minute of its class; every unit, left to itself, takes what
// is best for it at these prices, every class packs its minutes with the items that pay most (packing); what all units gain, and what all
// classes are paid, together bound every plan, whatever the prices (Lagrange). The prices are moved until the bound is low.
//
// Besides minutes, what a unit stands on has a price in each track (row), and so has every coach's class in each kind of week (weeks).
//
// It is too high, never too low: what a unit stands on must be taught, but only its first day says when, and the
// classes may pack other items than the units choose. Pricing every week apart was tried and gave no lower bound for ten times the
// work. Costs, for each unit, a search over how often it is given in each audience, cut off by what the rest could gain at most.
//
// When stop says so, the prices are left where they are: the bound is higher then, and holds all the same. It may be nil.
func OfModel(m *model.Model, known float64, stop func() bool) float64 {
	if m.Weights == 0 {
		return 1
	}
	x := NewRelaxation(m)
	x.stop = stop
	x.Prepare(known, min(patience(m.Problem)/4, mostPrepared))
	return min(1, x.Prove(patience(m.Problem)-min(x.work, patience(m.Problem)/2))/m.Weights)
}

// mostPrepared is how many steps a first look at prices of minutes may take: from there on it brings no more than the bound itself.
const mostPrepared = 1_000_000

// Unlimited is what could be covered if every unit were taught in every class that is open to it: a bound at once, as wide as it is. It is for
// those who cannot wait for the other one.
func Unlimited(m *model.Model) float64 {
	if m.Weights == 0 {
		return 1
	}
	st := model.NewState(m)
	sum := 0.0
	for u := range m.Units {
		if len(m.Units[u].Needs) == 0 {
			continue
		}
		occs := slices.Clone(st.Occasions[u])
		for s := range m.Squares {
			if q := &m.Squares[s]; !q.Fixed && m.Can[q.Track][u] {
				occs = append(occs, model.Occasion{Square: int32(s), Audience: q.Audiences[len(q.Audiences)-1], Kind: model.Teach})
			}
		}
		covered, _ := m.Value(u, occs)
		sum += covered
	}
	return min(1, sum/m.Weights)
}

// Relaxation is the relaxation: the minutes there are of each class, and what each
// unit could be given.
type Relaxation struct {
	m           *model.Model
	capacity    []float64    // minutes of each resource
	price       []float64    // of a minute of each
	Subproblems []Subproblem // per unit
	Packing     Packing
	soonest     [][]int // track, unit: the first day it can be taught; Never for none
	staff       staff
	Base        float64 // what units nobody can place are worth as they are
	rows        []row
	stop        func() bool // says that nobody waits for a better bound any more
	work        int         // steps spent, of about a microsecond
	scratch     scratch
}

// Subproblem is one unit's side of the relaxation: where it may be given, and the
// choices known so far that may be best for it at some price.
type Subproblem struct {
	Unit      int
	Fixed     []model.Occasion
	Dims      []Dim
	pool      []choice
	Cost      []float64  // price of a teach and a review in each dim
	Ground    float64    // value as fixed
	Charge    []float64  // per track: what being taught it there costs besides
	bestFirst *bestFirst // the search for its best choice, gone on with as prices move
}

// Dim is an audience a unit may be given in: what it uses, and how often at most.
type Dim struct {
	audience int32
	track    int
	uses     []int32 // resources a minute of it takes; the last is its own
	most     int     // items in all
	top      [2]int  // teaches and reviews
	Known    bool    // reviews need no teach first: assumed in the track, or fixed there
	minutes  [2]float64
}

// Emptied are dims that hold nothing.
func Emptied(dims []Dim) []Dim {
	all := slices.Clone(dims)
	for i := range all {
		all[i].most, all[i].top = 0, [2]int{}
	}
	return all
}

// choice is how often a unit is given in each dim, teaches and reviews, and
// what that is worth.
type choice struct {
	counts []uint8
	value  float64
	uses   []use   // the counts that are not 0
	tracks []int32 // that are taught
}

type use struct {
	at    int32
	times float64
}

func NewRelaxation(m *model.Model) *Relaxation {
	x := &Relaxation{m: m}
	fixed := model.NewState(m)
	x.staff = newStaff(m, &fixed.Staffing)
	byTrack := make([][]Dim, len(m.Problem.Tracks))
	for t := range m.Problem.Tracks {
		byTrack[t] = x.open(t)
		x.soonest = append(x.soonest, x.firstDays(t))
	}
	for u := range m.Units {
		s := Subproblem{Unit: u, Fixed: fixed.Occasions[u], Ground: fixed.Values[u]}
		for t := range m.Problem.Tracks {
			known := fixed.First(t, int32(u)) != model.Never
			if !m.Can[t][u] || !known && x.soonest[t][u] == model.Never {
				continue
			}
			for _, d := range byTrack[t] {
				d.Known = known
				d.minutes = [2]float64{float64(m.Units[u].Cost[model.Teach]), float64(m.Units[u].Cost[model.Review])}
				s.Dims = append(s.Dims, d)
			}
		}
		if len(s.Dims) == 0 || len(m.Units[u].Needs) == 0 && len(m.Units[u].Opens) == 0 {
			x.Base += s.Ground
			continue
		}
		s.order(m)
		s.Cost, s.Charge = make([]float64, 2*len(s.Dims)), make([]float64, len(m.Problem.Tracks))
		x.Subproblems = append(x.Subproblems, s)
	}
	x.Packing = newPacking(x)
	for i := range x.Packing.Packs { // of the weeks there are, those that can hold it
		p := &x.Packing.Packs[i]
		p.open(int(p.times), func(subproblem int32) []Dim { return x.Subproblems[subproblem].Dims })
	}
	x.require()
	return x
}

// row is what ties a unit to one it stands on: in a track that is taught the one, the other is taught too. Its price is paid by the unit and
// paid to the other.
type row struct {
	subproblem, on int32
	track          int
	price          float64
}

// require lists the rows: what a track knows already asks nothing.
func (x *Relaxation) require() {
	at := make([]int32, len(x.m.Units))
	for i := range at {
		at[i] = -1
	}
	for i := range x.Subproblems {
		at[x.Subproblems[i].Unit] = int32(i)
	}
	for i := range x.Subproblems {
		s := &x.Subproblems[i]
		for j, d := range s.Dims {
			if j > 0 && slices.ContainsFunc(s.Dims[:j], func(e Dim) bool { return e.track == d.track }) {
				continue
			}
			for _, r := range x.m.Units[s.Unit].Requires {
				if on := at[r]; on >= 0 && !x.Subproblems[on].knows(d.track) {
					x.rows = append(x.rows, row{subproblem: int32(i), on: on, track: d.track})
				}
			}
		}
	}
}

// knows says whether a track needs no teach of the unit, or can have none.
func (s *Subproblem) knows(track int) bool {
	for i := range s.Dims {
		if s.Dims[i].track == track {
			return s.Dims[i].Known
		}
	}
	return true
}

// charged sets what each unit pays, or is paid, for the tracks that are taught it.
func (x *Relaxation) charged() {
	for i := range x.Subproblems {
		clear(x.Subproblems[i].Charge)
	}
	for _, r := range x.rows {
		x.Subproblems[r.subproblem].Charge[r.track] += r.price
		x.Subproblems[r.on].Charge[r.track] -= r.price
	}
}

// order puts the dims most needed students are in first.
func (s *Subproblem) order(m *model.Model) {
	worth := func(d Dim) float64 {
		sum := 0.0
		for _, n := range m.Units[s.Unit].Needs {
			for _, c := range m.Audiences[d.audience].Classes {
				sum += n.Weight * m.Chance[int(n.Student)*len(m.Problem.Classes)+int(c)]
			}
		}
		return sum
	}
	slices.SortStableFunc(s.Dims, func(a, b Dim) int { return cmp.Compare(worth(b), worth(a)) })
}

// open lists the audiences of a track. In mode split each class is one, with its
// minutes as the resource. In mode same an item is heard by every class of the week that is long enough, so
// each length is an audience, and the shorter the classes an item reaches, the more resources it
// takes: its own audience's minutes and those of the longer classes among it. Weeks without some of the classes have audiences of their own.
func (x *Relaxation) open(t int) []Dim {
	m := x.m
	var dims []Dim
	at := map[int32]int{}
	for _, i := range m.ByTrack[t] {
		q := &m.Squares[i]
		if q.Fixed {
			continue
		}
		var uses []int32
		for j, c := range q.Classes {
			length := m.Problem.Classes[c].TeachMinutes
			if j+1 < len(q.Classes) && m.Problem.Classes[q.Classes[j+1]].TeachMinutes == length {
				continue
			}
			d, ok := at[q.Audiences[j]]
			if !ok {
				d = len(dims)
				at[q.Audiences[j]] = d
				uses = append(slices.Clone(uses), int32(len(x.capacity)))
				x.capacity = append(x.capacity, 0)
				dims = append(dims, Dim{track: t, uses: uses, audience: q.Audiences[j]})
			}
			uses = dims[d].uses
			x.capacity[uses[len(uses)-1]] += float64(fillable(m, t, min(q.Minutes, length)))
		}
	}
	return dims
}

// fillable is the most minutes of a class that items of a track can really
// fill: 35 minutes are no more than 34 when nothing adds up to 35.
func fillable(m *model.Model, t, minutes int) int {
	can := make([]bool, minutes+1)
	can[0] = true
	for _, u := range m.Teaches[t] {
		for j := minutes; j > 0; j-- {
			for _, c := range m.Units[u].Cost {
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

// Prepare finds choices and prices of minutes, by turns: prices against the choices known, and better choices at prices half way to those.
func (x *Relaxation) Prepare(known float64, patience int) {
	minutes := 0.0
	for _, c := range x.capacity {
		minutes += c
	}
	x.price = make([]float64, len(x.capacity))
	for r := range x.price {
		x.price[r] = known / max(1, minutes)
	}
	for i := range x.Subproblems {
		x.Subproblems[i].Note(x, make([]uint8, 2*len(x.Subproblems[i].Dims)))
	}
	each := patience / (12 * max(1, len(x.Subproblems)))
	ask := func(price []float64) (sum float64, more bool) {
		sum = x.Base
		for r, c := range x.capacity {
			sum += price[r] * c
		}
		for i := range x.Subproblems {
			s := &x.Subproblems[i]
			s.priced(price)
			known := len(s.pool)
			most, took := s.Exactly(x, each)
			x.work += took
			sum += most
			more = more || len(s.pool) > known
		}
		return sum, more
	}
	// Prices moved against the few choices known fall too far: choices are looked for half way between the best prices so far and those.
	best := slices.Clone(x.price)
	least, _ := ask(best)
	for round := 0; ; round++ {
		copy(x.price, best)
		x.settle(0.3, 0.004, 120)
		for r := range x.price {
			x.price[r] = (x.price[r] + best[r]) / 2
		}
		sum, more := ask(x.price)
		if sum < least {
			least = sum
			copy(best, x.price)
		}
		if !more && round > 4 || x.work > patience || x.stopped() {
			break
		}
	}
	copy(x.price, best)
	for i := range x.Subproblems {
		x.Subproblems[i].priced(best)
	}
}

// StopWhen says when nobody waits any more, for whatever is asked from then on.
func (x *Relaxation) StopWhen(stop func() bool) { x.stop = stop }

func (x *Relaxation) stopped() bool { return x.stop != nil && x.stop() }

// patience is how many steps a bound may take.
func patience(p season.Problem) int {
	seconds := p.Seconds
	if seconds == 0 {
		seconds = 1
	}
	return int(seconds * 800_000)
}

// settle moves the price of a minute of each resource by subgradient steps against the
// choices known, smoothed and scaled for each, ever shorter, and keeps the best met.
func (x *Relaxation) settle(wide, narrow float64, steps int) {
	n := len(x.price)
	price, slope := slices.Clone(x.price), make([]float64, n)
	mean := 0.0
	for _, p := range price {
		mean += p / float64(n)
	}
	low := math.Inf(1)
	walk := newWalk(n, wide*mean, narrow*mean, steps)
	pools := 0
	for i := range x.Subproblems {
		pools += len(x.Subproblems[i].pool)
	}
	x.work += steps * pools / 60
	for range steps {
		sum := x.Base
		for r, c := range x.capacity {
			slope[r] = c
			sum += price[r] * c
		}
		for i := range x.Subproblems {
			s := &x.Subproblems[i]
			s.priced(price)
			c, net := s.best()
			sum += net
			for _, k := range c.uses {
				d := &s.Dims[k.at/2]
				for _, r := range d.uses {
					slope[r] -= k.times * d.minutes[k.at%2]
				}
			}
		}
		if sum < low-1e-9 {
			low = sum
			copy(x.price, price)
		}
		walk.step(price, slope)
	}
	for i := range x.Subproblems {
		x.Subproblems[i].priced(x.price)
	}
}

// priced sets what a unit's items cost at so much a minute.
func (s *Subproblem) priced(price []float64) {
	for i := range s.Dims {
		sum := 0.0
		for _, r := range s.Dims[i].uses {
			sum += price[r]
		}
		s.Cost[2*i], s.Cost[2*i+1] = sum*s.Dims[i].minutes[0], sum*s.Dims[i].minutes[1]
	}
}

// walk is a descent along slopes that jump: they are smoothed, scaled one by
// one, and the pace falls by the same factor with each step.
type walk struct {
	lead, spread []float64
	pace, shrink float64
	fade         float64
}

func newWalk(n int, wide, narrow float64, steps int) *walk {
	return &walk{lead: make([]float64, n), spread: make([]float64, n), pace: wide, shrink: math.Pow(narrow/max(wide, 1e-300), 1/float64(max(1, steps))), fade: 1}
}

// step moves prices down the slope, none under 0.
func (w *walk) step(price, slope []float64) {
	const inertia, memory = 0.7, 0.98
	w.fade *= memory
	for r, g := range slope {
		w.lead[r] = inertia*w.lead[r] + (1-inertia)*g
		w.spread[r] = memory*w.spread[r] + (1-memory)*g*g
		price[r] = max(0, price[r]-w.pace*w.lead[r]/(1e-9+math.Sqrt(w.spread[r]/(1-w.fade))))
	}
	w.pace *= w.shrink
}

// best is the known choice worth most at the prices, and what it gains.
func (s *Subproblem) best() (*choice, float64) {
	at, most := 0, math.Inf(-1)
	for i := range s.pool {
		c := &s.pool[i]
		net := c.value
		for _, k := range c.uses {
			net -= s.Cost[k.at] * k.times
		}
		for _, t := range c.tracks {
			net -= s.Charge[t]
		}
		if net > most {
			at, most = i, net
		}
	}
	return &s.pool[at], most
}

// taught says whether a dim's track is taught the unit at all.
func (s *Subproblem) taught(counts []uint8, i int) bool {
	return s.Dims[i].Known || s.teaches(counts, s.Dims[i].track)
}

// teaches says whether counts teach a track the unit.
func (s *Subproblem) teaches(counts []uint8, track int) bool {
	for i := range s.Dims {
		if s.Dims[i].track == track && counts[2*i] > 0 {
			return true
		}
	}
	return false
}

// sound says whether counts could stand: no review in a track without a teach.
func (s *Subproblem) sound(counts []uint8) bool {
	for i := range s.Dims {
		if counts[2*i+1] > 0 && !s.taught(counts, i) {
			return false
		}
	}
	return true
}

// worth is the value of a choice.
func (s *Subproblem) worth(x *Relaxation, counts []uint8) float64 {
	all := append(make([]model.Occasion, 0, 24), s.Fixed...)
	for i, n := range counts {
		for range n {
			all = append(all, model.Occasion{Audience: s.Dims[i/2].audience, Kind: uint8(i % 2)})
		}
	}
	x.work += 1 + len(x.m.Units[s.Unit].Needs)*len(all)/90
	covered, _ := x.m.Value(s.Unit, all)
	return covered
}

// Note adds a choice to the pool.
func (s *Subproblem) Note(x *Relaxation, counts []uint8) {
	c := choice{counts: slices.Clone(counts), value: s.worth(x, counts)}
	for i, n := range counts {
		if n > 0 {
			c.uses = append(c.uses, use{int32(i), float64(n)})
			if t := int32(s.Dims[i/2].track); i%2 == int(model.Teach) && !slices.Contains(c.tracks, t) {
				c.tracks = append(c.tracks, t)
			}
		}
	}
	s.pool = append(s.pool, c)
}

// spent is what is paid for items, and for the tracks that are taught them.
func (s *Subproblem) spent(counts []uint8) float64 {
	sum := 0.0
	for v, n := range counts {
		sum += float64(n) * s.Cost[v]
	}
	for t, c := range s.Charge {
		if c != 0 && s.teaches(counts, t) {
			sum += c
		}
	}
	return sum
}

// Of is a coverage no plan of the problem can exceed; coverage is what a
// plan is known to reach. It is what Solve gives with its plan, for plans made otherwise.
func Of(p season.Problem, coverage float64) float64 {
	m := model.New(p)
	return max(coverage, OfModel(m, coverage*m.Weights, nil))
}
