package bound

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"vereda/core/season"
	"vereda/core/season/model"
)

// Exactly is the most a unit can gain at the prices, over every way to give it; a
// better choice than was known joins the pool. It is a depth-first search over how often it is given in each
// dim, which turns back where the rest cannot bring enough (branchAndBound.rest). It may take about so many steps and shares them out
// among the branches; where they end, what the rest could bring at most stands for what it would: too high, but true.
func (s *Subproblem) Exactly(x *Relaxation, steps int) (most float64, nodes int) {
	_, known := s.best()
	d := s.branchAndBound
	if d == nil || !slices.Equal(d.cost, s.Cost) {
		d = newBranchAndBound(x, s, known)
		s.branchAndBound = d
	} else {
		d.most, d.counts, d.nodes, d.work = known, nil, 0, 0
	}
	if steps >= sharesFrom { // anew: a better choice may be known by now
		d.share()
	}
	most = d.down(0, 0, d.base+d.rest(0, d.pools[0]), max(2, steps-d.work))
	if d.counts != nil {
		s.Note(x, d.counts)
	}
	each := 4 + len(d.needs)
	if d.shares != nil {
		each = each * 5 / 3 // two bounds a node
	}
	return max(most, d.most), d.work + d.nodes*each/24
}

// branchAndBound is one such search.
type branchAndBound struct {
	s      *Subproblem
	needs  []model.Need
	cost   []float64   // of each kind in each dim, as it was when the search was made ready
	there  [][]float64 // per dim, need and class: chance
	spans  []int       // classes of a dim's audience
	any    [][]float64 // per dim and need: chance of being in any of its classes
	hopes  [][]float64 // per dim, need and halves had: the most that can still be gained, see rest
	shares [][]float64 // the same, by shares
	left   []float64   // per dim, of the price of a half what the tolls do not pay when all is open
	pools  [][]float64 // per depth, the distributions of all needs
	below  [][]float64 // per depth, the hopes of its ways
	now    []uint8
	counts []uint8 // better than known
	most   float64
	nodes  int
	work   int // steps spent before the search
	stride int
	base   float64 // weight of needs that are met already
}

func newBranchAndBound(x *Relaxation, s *Subproblem, known float64) *branchAndBound {
	m := x.m
	d := &branchAndBound{s: s, most: known, now: make([]uint8, 2*len(s.Dims))}
	for _, n := range m.Units[s.Unit].Needs {
		if n.Halves > 0 {
			d.needs = append(d.needs, n)
			d.stride = max(d.stride, int(n.Halves)+1)
		} else {
			d.base += n.Weight
		}
	}
	n := len(s.Dims)
	d.cost, d.there = slices.Clone(s.Cost), make([][]float64, n)
	for i := range s.Dims {
		classes := m.Audiences[s.Dims[i].audience].Classes
		d.spans = append(d.spans, len(classes))
		any := make([]float64, len(d.needs))
		for k, need := range d.needs {
			absent := 1.0
			for _, c := range classes {
				p := m.Chance[int(need.Student)*len(m.Problem.Classes)+int(c)]
				d.there[i] = append(d.there[i], p)
				absent *= 1 - p
			}
			any[k] = 1 - absent
		}
		d.any = append(d.any, any)
	}
	d.below = make([][]float64, n)
	d.pools = make([][]float64, 2*n+2)
	for i := range d.pools {
		d.pools[i] = make([]float64, len(d.needs)*d.stride)
	}
	for k, need := range d.needs {
		row := d.pools[0][k*d.stride : (k+1)*d.stride]
		row[0] = 1
		for _, o := range s.Fixed {
			for _, c := range m.Audiences[o.Audience].Classes {
				season.AddExposure(row, int(need.Halves), 2-int(o.Kind), m.Chance[int(need.Student)*len(m.Problem.Classes)+int(c)])
			}
		}
	}
	d.hopeFor()
	return d
}

// gained is the weight covered by distributions.
func (d *branchAndBound) gained(all []float64) float64 {
	sum := d.base
	for k, n := range d.needs {
		sum += n.Weight * all[k*d.stride+int(n.Halves)]
	}
	return sum
}

// add gives every need one more item of a dim.
func (d *branchAndBound) add(all []float64, i, kind int) {
	span := d.spans[i]
	for k, n := range d.needs {
		row := all[k*d.stride : (k+1)*d.stride]
		for c := range span {
			season.AddExposure(row, int(n.Halves), 2-kind, d.there[i][k*span+c])
		}
	}
}

// down decides dim i, spent so far, in about so many steps, and returns the most
// that can be gained below; hope is what the rest could bring at most.
func (d *branchAndBound) down(i int, spent, hope float64, steps int) float64 {
	if i == len(d.s.Dims) {
		net := d.gained(d.pools[2*i]) - spent
		if net > d.most+1e-9 && d.s.sound(d.now) {
			d.most, d.counts = net, slices.Clone(d.now)
		}
		return min(net, d.most)
	}
	if hope <= d.most+1e-9 {
		return d.most
	}
	if steps < 2 {
		return hope
	}
	hopes, branches := d.below[i][:0], 0
	d.ways(i, spent, func(sum float64) {
		h := d.base + d.rest(i+1, d.pools[2*i+2]) - sum
		if hopes = append(hopes, h); h > d.most+1e-9 {
			branches++
		}
	})
	d.below[i] = hopes
	most := d.most
	if branches > 0 {
		at := 0
		d.ways(i, spent, func(sum float64) {
			h := hopes[at]
			at++
			if h > d.most+1e-9 {
				most = max(most, d.down(i+1, sum, h, (steps-1)/branches))
			}
		})
	}
	return max(d.most, min(hope, most))
}

// ways goes through how often a dim may be used; the distributions then are
// those of the next depth.
func (d *branchAndBound) ways(i int, spent float64, each func(sum float64)) {
	teaches, reviews := d.pools[2*i+1], d.pools[2*i+2]
	copy(teaches, d.pools[2*i])
	full, half := d.cost[2*i], d.cost[2*i+1]
	most := d.s.Dims[i].most
	for t := 0; t <= most; t++ {
		if t > 0 {
			// What is left to gain is not worth one more, unless it is the one the reviews wait for.
			if d.next(teaches, i) <= full && (t > 1 || !d.waits(i)) {
				break
			}
			d.add(teaches, i, int(model.Teach))
			spent += full
		}
		if full <= 1e-15 && t < most {
			continue // nothing is cheaper than nothing
		}
		d.now[2*i] = uint8(t)
		copy(reviews, teaches)
		sum := spent
		for r := 0; r <= most-t; r++ {
			if r > 0 {
				if d.next(reviews, i) <= half {
					break
				}
				d.add(reviews, i, int(model.Review))
				sum += half
			}
			d.now[2*i+1] = uint8(r)
			d.nodes++
			each(sum)
		}
		d.now[2*i+1] = 0
	}
	d.now[2*i] = 0
}

// waits says whether a dim's track is taught the unit nowhere yet.
func (d *branchAndBound) waits(i int) bool {
	if d.s.Dims[i].Known {
		return false
	}
	for j := range i {
		if d.s.Dims[j].track == d.s.Dims[i].track && d.now[2*j] > 0 {
			return false
		}
	}
	return true
}

// next is the most one more item of a dim can add, whatever else is given: who
// is there at all, and is not covered yet.
func (d *branchAndBound) next(all []float64, i int) float64 {
	sum := 0.0
	for k, n := range d.needs {
		sum += n.Weight * d.any[i][k] * (1 - all[k*d.stride+int(n.Halves)])
	}
	return sum
}

// rest is the most that can be gained in all when the dims from i on are still
// open, apart from what was spent.
//
// Each student pays a toll ρ for every half unit they expect to hear. Whatever is given
// in the open dims, a student's chance less the toll is at most W(P, k, ρ), where P is their best chance in any
// of these dims and k what they miss: a presence of chance p ≤ P is a presence of chance P that takes place with
// probability p/P, so the whole is a mean over presences of chance P alone (see tolls). The tolls
// are set so that in every dim they add up to no more than its price; then what is given pays for itself at most.
func (d *branchAndBound) rest(i int, from []float64) float64 {
	sum := 0.0
	hopes := d.hopes[i]
	for j, p := range from {
		sum += p * hopes[j]
	}
	if d.shares != nil {
		other := 0.0
		for j, p := range from {
			other += p * d.shares[i][j]
		}
		sum = min(sum, other)
	}
	return sum
}

// hopeFor sets the tolls of each depth, raising the one that lowers the bound
// most for what it takes of the prices, step by step.
func (d *branchAndBound) hopeFor() {
	n := len(d.s.Dims)
	d.hopes = make([][]float64, n+1)
	guess := slices.Clone(d.pools[0]) // the distributions if the best known choice is taken
	best, _ := d.s.best()
	for i := 0; i <= n; i++ {
		d.hopes[i] = make([]float64, len(guess))
		d.tollsFrom(i, guess)
		if i < n {
			for kind := range 2 {
				for range best.counts[2*i+kind] {
					d.add(guess, i, kind)
				}
			}
		}
	}
}

func (d *branchAndBound) tollsFrom(i int, guess []float64) {
	n := len(d.s.Dims)
	level := make([]int, len(d.needs))
	tables := make([]*tollTable, len(d.needs))
	uses := make([][]float64, len(d.needs)) // of each need in each dim: halves expected of a review, by weight
	left := make([]float64, n)              // what is left of the price of a half, in each dim
	for j := i; j < n; j++ {
		left[j] = min(d.cost[2*j]/2, d.cost[2*j+1])
	}
	for k, need := range d.needs {
		best := 0.0
		uses[k] = make([]float64, n)
		for j := i; j < n; j++ {
			for c := range d.spans[j] {
				p := d.there[j][k*d.spans[j]+c]
				best = max(best, p)
				uses[k][j] += need.Weight * p
			}
		}
		tables[k] = tollsOf(best)
	}
	gain := func(k int) float64 {
		if level[k]+1 >= tollLevels {
			return 0
		}
		sum, top := 0.0, int(d.needs[k].Halves)
		for h := 0; h < top; h++ {
			if p := guess[k*d.stride+h]; p > 1e-9 {
				sum += p * (tables[k].most(top-h, level[k]) - tables[k].most(top-h, level[k]+1))
			}
		}
		return d.needs[k].Weight * sum
	}
	// Level by level: in each pass every toll that still may rises one step, those
	// that lower the bound most for what they take first.
	takes := func(k int) float64 {
		more, sum := tollAt(level[k]+1)-tollAt(level[k]), 1e-12
		for j := i; j < n; j++ {
			if u := uses[k][j] * more; u > left[j]+1e-15 {
				return math.Inf(1)
			} else if u > 0 {
				sum += u / (left[j] + 1e-12)
			}
		}
		return sum
	}
	ratio, order := make([]float64, len(d.needs)), make([]int, 0, len(d.needs))
	for {
		order = order[:0]
		for k := range d.needs {
			if g := gain(k); g > 1e-12 {
				if ratio[k] = g / takes(k); ratio[k] > 1e-12 {
					order = append(order, k)
				}
			}
		}
		if len(order) == 0 {
			break
		}
		slices.SortFunc(order, func(a, b int) int { return cmp.Or(cmp.Compare(ratio[b], ratio[a]), a-b) })
		d.work += len(d.needs) * (n - i + 4) / 40
		for _, k := range order[:(len(order)+7)/8] { // the others may be better off after these
			if math.IsInf(takes(k), 1) {
				continue
			}
			more := tollAt(level[k]+1) - tollAt(level[k])
			for j := i; j < n; j++ {
				left[j] -= uses[k][j] * more
			}
			level[k]++
		}
	}
	if i == 0 {
		d.left = left
	}
	for k, need := range d.needs {
		row := d.hopes[i][k*d.stride : (k+1)*d.stride]
		top := int(need.Halves)
		row[top] = need.Weight
		for h := range top {
			row[h] = need.Weight * tables[k].most(top-h, level[k])
		}
	}
}

// tolls: W(P, k, ρ), the most of the chance to hear k half units less ρ for each
// half expected, over all numbers of full and half exposures with chance P
// each. Kept for chances rounded up to a fortieth and a ladder of tolls.
const (
	tollLevels = 48
	tollGrid   = 40
	tollCount  = 36 // full and half exposures looked at, each
)

func tollAt(level int) float64 {
	x := float64(level) / (tollLevels - 1)
	return x * x
}

type tollTable struct {
	chance float64
	once   [2*season.MostNeed + 1]sync.Once
	values [2*season.MostNeed + 1][tollLevels]float64
}

var tollTables = func() *[tollGrid + 1]tollTable {
	var all [tollGrid + 1]tollTable
	for i := range all {
		all[i].chance = float64(i) / tollGrid
	}
	return &all
}()

func tollsOf(chance float64) *tollTable {
	return &tollTables[min(tollGrid, int(math.Ceil(chance*tollGrid-1e-12)))]
}

func (t *tollTable) most(k, level int) float64 {
	t.once[k].Do(func() { t.fill(k) })
	return t.values[k][level]
}

func (t *tollTable) fill(k int) {
	full := make([]float64, k+1)
	full[0] = 1
	for a := range tollCount {
		if a > 0 {
			season.AddExposure(full, k, 2, t.chance)
		}
		both := slices.Clone(full)
		for b := range tollCount {
			if b > 0 {
				season.AddExposure(both, k, 1, t.chance)
			}
			expected := t.chance * float64(2*a+b)
			for l := range tollLevels {
				t.values[k][l] = max(t.values[k][l], both[k]-tollAt(l)*expected)
			}
		}
	}
	for l := range tollLevels { // what was not looked at expects more than this
		if t.chance > 0 {
			t.values[k][l] = max(t.values[k][l], 1-tollAt(l)*t.chance*tollCount)
		}
	}
}
