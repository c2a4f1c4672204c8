package bound

import (
	"cmp"
	"container/heap"
	"math"
	"slices"
	"strconv"

	"vereda/core/season"
	"vereda/core/season/model"
)

// bestFirst searches for a unit's best choice at the prices: for every kind in every dim a range of how often it is given, the whole at
// first, cut in two where the bound of the range is farthest from what it holds, the range with the highest bound first. It can be left at
// any time: the highest bound still open is the most the unit can gain.
//
// A range is bounded by what its students could reach together. Whatever is given above the least of the range is so many presences more
// for a student, none likelier than P, the likeliest of them. A presence of chance p ≤ P is one of chance P that takes place with
// probability p/P, so the student's chance is a mean over numbers of presences of chance P, and lies under the concave hull of these as a
// function of what they expect to hear more. What all of them reach is then a concave function of what is given, which is climbed (climb);
// the slopes at its top are a dual solution, whose value is a bound wherever the climb ends.
//
// Those slopes say what the range is worth at most, without its price: so much, and so much for each item more. That holds at whatever prices, so
// the ranges are kept when these move, each bounded anew in as many steps as it has kinds and dims, and what was searched once stays searched.
type bestFirst struct {
	s      *Subproblem
	needs  []model.Need
	cost   []float64   // of each kind in each dim, as it was when the ranges were priced
	charge []float64   // of each track that is taught the unit at all
	there  [][]float64 // per dim, need and class: chance
	spans  []int       // classes of a dim's audience
	mean   [][]float64 // per dim and need: halves expected of a review
	worth  [][]float64 // per dim and need: the same times its weight
	likely [][]float64 // per dim and need: the likeliest presence
	base   float64     // weight of needs that are met already
	had    []float64   // the needs' distributions by what is fixed
	often  []uint16    // per need, its dims by how likely it hears a review of a class there, the least likely first
	taken  []float64   // per kind and dim, what was taken last of a range
	stride int
	listed int      // choices that a range may have to be listed
	loose  int32    // reviews of the largest audience that a range leaves open in all before it is cut by their number
	ranges []ranged // all choices that can stand are in one of them
	open   openRanges
	moved  float32 // by how much of their sum prices changed, in all
	most   float64 // of the choices looked at
	counts []uint8 // the one that is better than was known
	work   int
	// Where all choices that gain more than most are asked for, they are listed, and most stays.
	listing bool
	ways    []Way
	stale   bool // and so what is open is not what Exactly left
	*scratch
}

// scratch is what is in the making for one range. All units share it: most of a large season's memory would go into it.
type scratch struct {
	rows   []float64   // the needs' distributions by what was spread last
	spread []uint8     // that; nothing where it was for another unit
	wholes []float64   // the same for a choice of a range
	levels [][]float64 // the rows of a list, by kind
	hulls  []hull
	given  []float64 // per kind and dim, beyond the least
	gain   []float32 // per kind and dim, what one more is worth at the slopes, rounded up
	extra  []float64 // per need, halves expected of it
	rise   []float64 // per need, the slope
	turn   []float64 // and how fast it falls
	whole  []uint8
	gaps   []float64
	points points
	toll   float64   // what a review of a class costs the climb besides
	ups    []float64 // per dim, what half a teach more is worth
	bends  []float64 // per two dims, how fast that falls
	steps  []float64 // per dim, how far a climb went, in halves
}

// size makes it as large as a unit needs.
func (c *scratch) size(rows, needs, kinds int) {
	c.rows, c.wholes, c.hulls, c.whole = sized(c.rows, rows), sized(c.wholes, rows), sized(c.hulls, needs), sized(c.whole, kinds)
	c.spread = c.spread[:0]
	c.given, c.gain = sized(c.given, kinds), sized(c.gain, kinds)
	c.extra, c.rise, c.turn, c.gaps = sized(c.extra, needs), sized(c.rise, needs), sized(c.turn, needs), sized(c.gaps, needs)
}

func sized[T any](all []T, n int) []T {
	if cap(all) < n {
		return make([]T, n)
	}
	return all[:n]
}

// Exactly is the most a unit can gain at the prices, over every way to give it; a better choice than was known joins the pool. It may take
// about so many steps of a microsecond; where they end, what the ranges still open could bring at most stands for what they would: too high, but true.
func (s *Subproblem) Exactly(x *Relaxation, steps int) (most float64, took int) {
	_, known := s.best()
	d := s.searched(x)
	if d.ranges == nil || d.stale || !slices.Equal(d.cost, s.Cost) || !slices.Equal(d.charge, s.Charge) {
		d.reprice(known)
	} else {
		d.most = max(d.most, known)
	}
	for len(d.open) > 0 && d.open[0].most > d.most+tight && d.work < steps && !x.stopped() {
		d.branch(heap.Pop(&d.open).(openRange).at)
	}
	if d.counts != nil {
		s.Note(x, d.counts)
	}
	if len(d.open) > 0 {
		return max(d.most, d.open[0].most), d.work
	}
	return d.most, d.work
}

// searched is what was found out of a unit's choices by now, for a search that goes on.
func (s *Subproblem) searched(x *Relaxation) *bestFirst {
	if s.bestFirst == nil {
		s.bestFirst = newBestFirst(x, s)
	}
	d := s.bestFirst
	d.size(len(d.had), len(d.needs), len(d.cost))
	d.counts, d.work = nil, 0
	return d
}

// reprice bounds all ranges at new prices.
func (d *bestFirst) reprice(known float64) {
	before, now, by := 0.0, 0.0, 0.0
	for v, c := range d.s.Cost {
		before, now, by = before+d.cost[v], now+c, by+math.Abs(c-d.cost[v])
	}
	d.moved += float32(by / max(before, now, tight))
	copy(d.cost, d.s.Cost)
	copy(d.charge, d.s.Charge)
	d.stale = false
	d.most, d.open = known, d.open[:0]
	if d.ranges == nil {
		least, top := make([]uint8, len(d.cost)), make([]uint8, len(d.cost))
		for i, dim := range d.s.Dims {
			top[2*i], top[2*i+1] = uint8(dim.top[0]), uint8(dim.top[1])
		}
		d.look(-1, ranged{least: least, top: top, most: math.MaxInt32}, nil)
		return
	}
	for i := range d.ranges {
		r := &d.ranges[i]
		if most := d.promised(r, d.cost); most > d.most+tight {
			if r.values != nil {
				d.pick(r)
			} else {
				d.open = append(d.open, openRange{most, int32(i)})
			}
		}
	}
	heap.Init(&d.open)
	d.work += len(d.ranges) * (8 + len(d.cost)) / 1000
}

// pick takes the choice of a listed range that gains most.
func (d *bestFirst) pick(r *ranged) {
	counts := d.whole
	copy(counts, r.least)
	least := d.s.paid(r.least, r.top)
	for _, value := range r.values {
		if value-least > d.most {
			if net := value - d.s.spent(counts); !d.listing {
				d.take(counts, net)
			} else if net > d.most {
				d.ways = append(d.ways, Way{slices.Clone(counts), net})
			}
		}
		for v := len(counts) - 1; v >= 0; v-- {
			if counts[v]++; counts[v] <= r.top[v] {
				break
			}
			counts[v] = r.least[v]
		}
	}
	d.work += len(r.values) / 20
}

// mostListed is how many choices a range may have that are listed, rather than bounded and cut further.
const mostListed = 200

// list finds what each choice of a range is worth.
func (d *bestFirst) list(r *ranged) {
	n := len(r.least)
	d.levels = sized(d.levels, n+1)
	for v := range d.levels {
		d.levels[v] = sized(d.levels[v], len(d.rows))
	}
	r.values = make([]float64, 0, r.ways(d.listed))
	counts := slices.Clone(r.least)
	var at func(v int)
	at = func(v int) {
		if v == n {
			value := math.Inf(-1)
			if reviews := d.reviews(counts); reviews >= r.fewest && reviews <= r.most && d.s.sound(counts) && d.fits(counts) {
				value = d.value(d.levels[n])
			}
			r.values = append(r.values, value)
			return
		}
		copy(d.levels[v+1], d.levels[v])
		for counts[v] = r.least[v]; ; counts[v]++ {
			at(v + 1)
			if counts[v] == r.top[v] {
				break
			}
			d.add(d.levels[v+1], v)
		}
		counts[v] = r.least[v]
	}
	d.give(r.least)
	copy(d.levels[0], d.rows)
	at(0)
	d.work += 2 + len(d.needs)*(d.presences(r.least)+len(r.values)*d.stride)/500
}

// reviews are how many there are in all, each as often as there are classes in its audience.
func (d *bestFirst) reviews(counts []uint8) (sum int32) {
	for i, span := range d.spans {
		sum += int32(span) * int32(counts[2*i+1])
	}
	return sum
}

// fits says whether counts are no more than their dims hold.
func (d *bestFirst) fits(counts []uint8) bool {
	for i := range d.s.Dims {
		if int(counts[2*i])+int(counts[2*i+1]) > d.s.Dims[i].most {
			return false
		}
	}
	return true
}

// tight is how close a bound is as good as exact.
const tight = 1e-9

func newBestFirst(x *Relaxation, s *Subproblem) *bestFirst {
	m := x.m
	d := &bestFirst{s: s, scratch: &x.scratch, listed: mostListed, loose: mostLoose, cost: make([]float64, len(s.Cost)), charge: make([]float64, len(s.Charge)), taken: make([]float64, len(s.Cost))}
	chance := func(need model.Need, c int32) float64 {
		return m.Chance[int(need.Student)*len(m.Problem.Classes)+int(c)]
	}
	// Students who need as much and come as often are one of their weights together.
	alike := map[string]int{}
	for _, need := range m.Units[s.Unit].Needs {
		if need.Halves == 0 {
			d.base += need.Weight
			continue
		}
		key := strconv.AppendInt(nil, int64(need.Halves), 10)
		for _, audience := range s.audiences() {
			for _, c := range m.Audiences[audience].Classes {
				key = strconv.AppendUint(append(key, ' '), math.Float64bits(chance(need, c)), 36)
			}
		}
		if k, ok := alike[string(key)]; ok {
			d.needs[k].Weight += need.Weight
			continue
		}
		alike[string(key)] = len(d.needs)
		d.needs = append(d.needs, need)
		d.stride = max(d.stride, int(need.Halves)+1)
	}
	for i := range s.Dims {
		classes := m.Audiences[s.Dims[i].audience].Classes
		d.spans = append(d.spans, len(classes))
		var there, mean, worth, likely []float64
		for _, need := range d.needs {
			sum, top := 0.0, 0.0
			for _, c := range classes {
				p := chance(need, c)
				there = append(there, p)
				sum, top = sum+p, max(top, p)
			}
			mean, worth, likely = append(mean, sum), append(worth, sum*need.Weight), append(likely, top)
		}
		d.there, d.mean, d.worth, d.likely = append(d.there, there), append(d.mean, mean), append(d.worth, worth), append(d.likely, likely)
	}
	for k := range d.needs {
		order := make([]uint16, len(d.spans))
		for i := range order {
			order[i] = uint16(i)
		}
		slices.SortStableFunc(order, func(a, b uint16) int {
			return cmp.Compare(d.mean[a][k]*float64(d.spans[b]), d.mean[b][k]*float64(d.spans[a]))
		})
		d.often = append(d.often, order...)
	}
	d.had = make([]float64, len(d.needs)*d.stride)
	for k, need := range d.needs {
		row := d.had[k*d.stride : (k+1)*d.stride]
		row[0] = 1
		for _, o := range s.Fixed {
			for _, c := range m.Audiences[o.Audience].Classes {
				season.AddExposure(row, int(need.Halves), 2-int(o.Kind), chance(need, c))
			}
		}
	}
	return d
}

// audiences are those a unit is given in, or may be.
func (s *Subproblem) audiences() (all []int32) {
	for i := range s.Dims {
		all = append(all, s.Dims[i].audience)
	}
	for _, o := range s.Fixed {
		all = append(all, o.Audience)
	}
	return all
}

// keep puts a range in a place, or in a new one for −1.
func (d *bestFirst) keep(at int32, r ranged) int32 {
	if at < 0 {
		d.ranges = append(d.ranges, r)
		return int32(len(d.ranges) - 1)
	}
	d.ranges[at] = r
	return at
}

func (d *bestFirst) take(counts []uint8, net float64) {
	if net > d.most+tight && !d.listing && d.s.sound(counts) {
		d.most, d.counts = net, slices.Clone(counts)
	}
}

func (d *bestFirst) presences(counts []uint8) int {
	sum := 1
	for v, n := range counts {
		sum += int(n) * d.spans[v/2]
	}
	return sum * d.stride
}

// give gives every need so many items: their distributions then are the rows. It goes on from what they were given last where that is a part of it.
func (d *bestFirst) give(counts []uint8) {
	from := len(d.spread) == len(counts)
	for v, n := range d.spread {
		from = from && n <= counts[v]
	}
	if !from {
		copy(d.rows, d.had)
		d.spread = append(d.spread[:0], counts...)
		clear(d.spread)
	}
	d.more(d.rows, d.spread, counts)
	copy(d.spread, counts)
}

// more gives every need what counts are more than those it has.
func (d *bestFirst) more(rows []float64, had, counts []uint8) {
	for v, n := range counts {
		for range n - had[v] {
			d.add(rows, v)
		}
	}
}

// add gives every need one item more.
func (d *bestFirst) add(rows []float64, v int) {
	i, step := v/2, 2-v%2
	span := d.spans[i]
	for k := range d.needs {
		row, top := rows[k*d.stride:(k+1)*d.stride], int(d.needs[k].Halves)
		for _, p := range d.there[i][k*span : (k+1)*span] {
			season.AddExposure(row, top, step, p)
		}
	}
}

// value is the weight covered by distributions.
func (d *bestFirst) value(rows []float64) float64 {
	sum := d.base
	for k := range d.needs {
		sum += d.needs[k].Weight * rows[k*d.stride+int(d.needs[k].Halves)]
	}
	return sum
}
