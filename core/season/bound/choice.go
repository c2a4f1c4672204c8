package bound

import (
	"container/heap"
	"math"
	"slices"

	"vereda/core/season"
	"vereda/core/season/model"
)

// bestFirst searches for a unit's best choice at the prices: for every kind in every dim a range of how often it is given, the whole at
// first, cut in two where the bound of the range is farthest from what it holds, the range with the highest bound first. It can be left at
// any time: the highest bound still open is the most the unit can gain, and it is gone on with when it is asked again at the same prices.
//
// A range is bounded by what its students could reach together. Whatever is given above the least of the range is so many presences more
// for a student, none likelier than P, the likeliest of them. A presence of chance p ≤ P is one of chance P that takes place with
// probability p/P, so the student's chance is a mean over numbers of presences of chance P, and lies under the concave hull of these as a
// function of what they expect to hear more. What all of them reach is then a concave function of what is given, which is climbed (climb);
// the slopes at its top are a dual solution, whose value is a bound wherever the climb ends.
type bestFirst struct {
	s      *Subproblem
	needs  []model.Need
	cost   []float64   // of each kind in each dim, as it was when the search was made ready
	charge []float64   // of each track that is taught the unit at all
	there  [][]float64 // per dim, need and class: chance
	spans  []int       // classes of a dim's audience
	mean   [][]float64 // per dim and need: halves expected of a review
	likely [][]float64 // per dim and need: the likeliest presence
	base   float64     // weight of needs that are met already
	had    []float64   // the needs' distributions by what is fixed
	stride int
	open   ranges
	most   float64 // of the choices looked at
	counts []uint8 // the one that is better than was known
	work   int
	// in the making, for one range
	rows    []float64
	hulls   []hull
	given   []float64 // per kind and dim, beyond the least
	extra   []float64 // per need, halves expected of it
	rise    []float64 // per need, the slope
	whole   []uint8
	gaps    []float64
	tops    []float64 // for the hulls
	corners []int
}

// ranged is a range of choices and the most any of them can gain.
type ranged struct {
	most       float64
	least, top []uint8
	given      []float64 // where the climb ended, from 0
	split      int       // the kind and dim to cut at
	at         float64   // where
}

type ranges []ranged

func (r ranges) Len() int           { return len(r) }
func (r ranges) Less(i, j int) bool { return r[i].most > r[j].most }
func (r ranges) Swap(i, j int)      { r[i], r[j] = r[j], r[i] }
func (r *ranges) Push(x any)        { *r = append(*r, x.(ranged)) }
func (r *ranges) Pop() any {
	last := (*r)[len(*r)-1]
	*r = (*r)[:len(*r)-1]
	return last
}

// hull is a concave function of what a student expects to hear: from reached, along slopes that fall, each for so far.
type hull struct {
	reached float64
	pace    float64 // how far apart what it is made of lies
	until   []float64
	slopes  []float64
}

// at is the value at x and what it rises there.
func (h *hull) at(x float64) (value, slope float64) {
	value, from := h.reached, 0.0
	for i, until := range h.until {
		if x < until {
			return value + h.slopes[i]*(x-from), h.slopes[i]
		}
		value += h.slopes[i] * (until - from)
		from = until
	}
	return value, 0
}

// above is the most the function can lie over a line of that slope through 0.
func (h *hull) above(slope float64) float64 {
	value, from := h.reached, 0.0
	for i, until := range h.until {
		if h.slopes[i] <= slope {
			break
		}
		value += (h.slopes[i] - slope) * (until - from)
		from = until
	}
	return value
}

// Exactly is the most a unit can gain at the prices, over every way to give it; a better choice than was known joins the pool. It may take
// about so many steps of a microsecond; where they end, what the ranges still open could bring at most stands for what they would: too high, but true.
func (s *Subproblem) Exactly(x *Relaxation, steps int) (most float64, took int) {
	_, known := s.best()
	d := s.bestFirst
	if d == nil || !slices.Equal(d.cost, s.Cost) || !slices.Equal(d.charge, s.Charge) {
		d = newBestFirst(x, s, known)
		s.bestFirst = d
	} else {
		d.most, d.counts, d.work = max(d.most, known), nil, 0
	}
	for len(d.open) > 0 && d.open[0].most > d.most+tight && d.work < steps && !x.stopped() {
		d.branch(heap.Pop(&d.open).(ranged))
	}
	if d.counts != nil {
		s.Note(x, d.counts)
	}
	if len(d.open) > 0 {
		return max(d.most, d.open[0].most), d.work
	}
	return d.most, d.work
}

// tight is how close a bound is as good as exact.
const tight = 1e-9

func newBestFirst(x *Relaxation, s *Subproblem, known float64) *bestFirst {
	m, n := x.m, len(s.Dims)
	d := &bestFirst{s: s, cost: slices.Clone(s.Cost), charge: slices.Clone(s.Charge), most: known}
	for _, need := range m.Units[s.Unit].Needs {
		if need.Halves == 0 {
			d.base += need.Weight
			continue
		}
		d.needs = append(d.needs, need)
		d.stride = max(d.stride, int(need.Halves)+1)
	}
	chance := func(need model.Need, c int32) float64 {
		return m.Chance[int(need.Student)*len(m.Problem.Classes)+int(c)]
	}
	for i := range s.Dims {
		classes := m.Audiences[s.Dims[i].audience].Classes
		d.spans = append(d.spans, len(classes))
		var there, mean, likely []float64
		for _, need := range d.needs {
			sum, top := 0.0, 0.0
			for _, c := range classes {
				p := chance(need, c)
				there = append(there, p)
				sum, top = sum+p, max(top, p)
			}
			mean, likely = append(mean, sum), append(likely, top)
		}
		d.there, d.mean, d.likely = append(d.there, there), append(d.mean, mean), append(d.likely, likely)
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
	d.rows, d.hulls = make([]float64, len(d.had)), make([]hull, len(d.needs))
	d.given, d.whole = make([]float64, 2*n), make([]uint8, 2*n)
	d.extra, d.rise, d.gaps = make([]float64, len(d.needs)), make([]float64, len(d.needs)), make([]float64, len(d.needs))
	least, top := make([]uint8, 2*n), make([]uint8, 2*n)
	for i := range s.Dims {
		top[2*i], top[2*i+1] = uint8(s.Dims[i].top[0]), uint8(s.Dims[i].top[1])
	}
	d.look(least, top, s.root)
	s.root = slices.Clone(d.given)
	return d
}

// branch cuts a range in two, or into a track's first teaches where it is open whether the track is taught the unit at all.
func (d *bestFirst) branch(r ranged) {
	dims := d.s.Dims
	track := dims[r.split/2].track
	if d.undecided(track, r.least, r.top) && (!dims[r.split/2].Known || d.charge[track] != 0) {
		least, top := slices.Clone(r.least), slices.Clone(r.top)
		for i := range dims {
			if dims[i].track != track {
				continue
			}
			if top[2*i] > 0 { // the first of the track's dims that is taught it
				first, rest := slices.Clone(least), slices.Clone(top)
				first[2*i] = 1
				d.look(first, rest, r.given)
			}
			top[2*i] = 0
		}
		for i := range dims {
			if dims[i].track == track && !dims[i].Known {
				if least[2*i+1] > 0 {
					return
				}
				top[2*i+1] = 0
			}
		}
		d.look(least, top, r.given)
		return
	}
	at := uint8(min(float64(r.top[r.split])-1, max(float64(r.least[r.split]), math.Floor(r.at))))
	below, above := slices.Clone(r.top), slices.Clone(r.least)
	below[r.split], above[r.split] = at, at+1
	d.look(slices.Clone(r.least), below, r.given)
	d.look(above, r.top, r.given)
}

// undecided says whether a range holds choices that teach a track the unit and others that do not.
func (d *bestFirst) undecided(track int, least, top []uint8) bool {
	may := false
	for i := range d.s.Dims {
		if d.s.Dims[i].track == track {
			if least[2*i] > 0 {
				return false
			}
			may = may || top[2*i] > 0
		}
	}
	return may
}

// look bounds a range and keeps it where something in it may be better than what is known.
func (d *bestFirst) look(least, top []uint8, from []float64) {
	single := true
	for i := range d.s.Dims {
		most := uint8(d.s.Dims[i].most)
		if least[2*i]+least[2*i+1] > most {
			return
		}
		top[2*i], top[2*i+1] = min(top[2*i], most-least[2*i+1]), min(top[2*i+1], most-least[2*i])
		single = single && top[2*i] == least[2*i] && top[2*i+1] == least[2*i+1]
	}
	d.spread(d.rows, least)
	d.work += 2 + len(d.needs)*d.presences(least)/60
	if single {
		d.take(least, d.value(d.rows)-d.s.spent(least))
		return
	}
	most := d.bound(least, top, from)
	if most <= d.most+tight {
		return
	}
	// What the climb ends at, made whole, is a choice; where it lies far below, the range is cut.
	for v := range d.whole {
		d.whole[v] = least[v] + uint8(math.Round(d.given[v]))
	}
	for i := range d.s.Dims {
		for int(d.whole[2*i])+int(d.whole[2*i+1]) > d.s.Dims[i].most {
			if v := 2*i + 1; d.whole[v] > least[v] {
				d.whole[v]--
			} else {
				d.whole[2*i]--
			}
		}
	}
	d.spread(d.rows, d.whole)
	d.work += len(d.needs) * d.presences(d.whole) / 60
	d.take(d.whole, d.value(d.rows)-d.s.spent(d.whole))
	if most > d.most+tight {
		r := ranged{most: most, least: least, top: top, given: slices.Clone(d.given)}
		for v, n := range least {
			r.given[v] += float64(n)
		}
		r.split, r.at = d.cut(least, top)
		heap.Push(&d.open, r)
	}
}

func (d *bestFirst) take(counts []uint8, net float64) {
	if net > d.most+tight && d.s.sound(counts) {
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

// spread gives every need so many items: their distributions then are the rows.
func (d *bestFirst) spread(rows []float64, counts []uint8) {
	copy(rows, d.had)
	for v, n := range counts {
		if n == 0 {
			continue
		}
		i, step := v/2, 2-v%2
		span := d.spans[i]
		for k := range d.needs {
			row, top := rows[k*d.stride:(k+1)*d.stride], int(d.needs[k].Halves)
			for _, p := range d.there[i][k*span : (k+1)*span] {
				for range n {
					season.AddExposure(row, top, step, p)
				}
			}
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

// sweeps are how wide a part of the hulls each step of a climb looks at, in what they are made of.
var sweeps = [...]float64{1, 1, 0.5, 0.5, 0.25, 0.1}

// bound is the most anything in a range can gain. What it ends the climb at is left in given, extra and rise.
func (d *bestFirst) bound(least, top []uint8, from []float64) float64 {
	paid := 0.0
	for v, n := range least {
		paid += float64(n) * d.cost[v]
	}
	for t, c := range d.charge {
		if c > 0 && d.s.teaches(least, t) || c < 0 && d.s.teaches(top, t) {
			paid += c
		}
	}
	d.hull(least, top)
	low := math.Inf(1)
	widths := sweeps[:]
	clear(d.given)
	clear(d.extra)
	if from != nil { // the climb goes on where that of the range this one is part of ended
		widths = sweeps[3:]
		for v, g := range from {
			if g = min(float64(top[v]), g) - float64(least[v]); g <= 0 {
				continue
			}
			d.given[v] = g
			for k, e := range d.mean[v/2] {
				d.extra[k] += g * float64(2-v%2) * e
			}
		}
	}
	for _, wide := range widths {
		d.climb(least, top, wide)
		if low = min(low, d.dual(least, top)+d.base-paid); low <= d.most+tight {
			break
		}
	}
	return low
}

// hull makes the functions of what each student can still reach.
func (d *bestFirst) hull(least, top []uint8) {
	for k := range d.needs {
		likely, fulls, halves := 0.0, 0, 0
		for i := range d.s.Dims {
			a, b := int(top[2*i]-least[2*i]), int(top[2*i+1]-least[2*i+1])
			if a+b == 0 || d.likely[i][k] == 0 {
				continue
			}
			likely = max(likely, d.likely[i][k])
			fulls, halves = fulls+a*d.spans[i], halves+b*d.spans[i]
		}
		row := d.rows[k*d.stride : k*d.stride+int(d.needs[k].Halves)+1]
		d.over(&d.hulls[k], row, likely, fulls, halves)
	}
}

// over is the concave hull of what presences up to a chance, so many full ones and halves at most, add to a distribution.
func (d *bestFirst) over(h *hull, row []float64, chance float64, fulls, halves int) {
	need := len(row) - 1
	h.reached, h.pace = row[need], chance
	h.until, h.slopes = h.until[:0], h.slopes[:0]
	if chance == 0 || h.reached >= 1-1e-12 {
		return
	}
	way := asBoth
	if fulls == 0 {
		way = asHalves
	} else if halves == 0 {
		way = asFulls
	}
	t, chance := tailsOf(chance, need, way)
	h.pace = chance
	last := min(2*fulls+halves, t.last)
	for len(d.tops) <= last {
		d.tops = append(d.tops, 0)
	}
	tops := d.tops[:last+1]
	for n := range tops {
		reach, sum := t.reach[n*need:(n+1)*need], row[need]
		for j, r := range reach {
			sum += row[need-1-j] * r
		}
		tops[n] = sum
	}
	if last < 2*fulls+halves {
		tops[last] = 1 // and whatever is beyond
	}
	// The hull from the left: points that lie under the line between their neighbours go.
	at := append(d.corners[:0], 0)
	for i := 1; i < len(tops); i++ {
		if tops[i] <= tops[at[len(at)-1]] {
			continue
		}
		for len(at) > 1 {
			a, b := at[len(at)-2], at[len(at)-1]
			if (tops[b]-tops[a])*float64(i-b) > (tops[i]-tops[b])*float64(b-a) {
				break
			}
			at = at[:len(at)-1]
		}
		at = append(at, i)
	}
	for j := 1; j < len(at); j++ {
		h.until = append(h.until, float64(at[j])*chance)
		h.slopes = append(h.slopes, (tops[at[j]]-tops[at[j-1]])/(float64(at[j]-at[j-1])*chance))
	}
	d.corners = at
}

// climb goes once through all that may be given, each to where what it gains is what it costs, by Newton's step along slopes that are the
// means over so wide a part of each hull.
func (d *bestFirst) climb(least, top []uint8, wide float64) {
	for v := range d.given {
		room := float64(top[v] - least[v])
		if room == 0 {
			continue
		}
		times, other := float64(2-v%2), v^1
		if d.cost[other]/(3-times) < d.cost[v]/times && d.given[other] < float64(top[other]-least[other]) && d.given[v] == 0 {
			continue // the other kind gives as much for less
		}
		gain, bend := -d.cost[v], 1e-12
		mean := d.mean[v/2]
		for k := range d.needs {
			e := mean[k] * times
			if e == 0 {
				continue
			}
			rise, turn := d.hulls[k].around(d.extra[k], wide)
			gain += d.needs[k].Weight * rise * e
			bend += d.needs[k].Weight * turn * e * e
		}
		to := min(room, max(0, d.given[v]+max(-3, min(3, gain/bend))))
		by := to - d.given[v]
		if by == 0 {
			continue
		}
		d.given[v] = to
		for k := range d.needs {
			d.extra[k] += by * times * mean[k]
		}
	}
	for k := range d.needs {
		d.rise[k], _ = d.hulls[k].around(d.extra[k], wide)
	}
	d.work += len(d.needs) * len(d.given) / 40
}

// around is the mean slope about x, and how fast it falls there.
func (h *hull) around(x, wide float64) (rise, turn float64) {
	half := wide * h.pace
	if len(h.until) == 0 {
		return 0, 0
	}
	from := max(0, x-half)
	a, s := h.at(from)
	b, t := h.at(x + half)
	return (b - a) / (x + half - from), (s - t) / (x + half - from)
}

// dual is what the slopes of the climb are worth as prices of what students expect to hear: no choice of the range gains more.
func (d *bestFirst) dual(least, top []uint8) float64 {
	sum := 0.0
	for k := range d.needs {
		sum += d.needs[k].Weight * d.hulls[k].above(d.rise[k])
	}
	for v := range d.given {
		room := float64(top[v] - least[v])
		if room == 0 {
			continue
		}
		gain := -d.cost[v]
		for k, e := range d.mean[v/2] {
			gain += d.needs[k].Weight * d.rise[k] * e * float64(2-v%2)
		}
		sum += room * max(0, gain)
	}
	return sum
}

// cut says where to cut a range: at the kind and dim that has most to do with how far the hulls lie over what the choice nearest to the top of
// the climb reaches (its distributions are the rows).
func (d *bestFirst) cut(least, top []uint8) (split int, at float64) {
	for k := range d.needs {
		hull, _ := d.hulls[k].at(d.extra[k])
		d.gaps[k] = d.needs[k].Weight * math.Abs(hull-d.rows[k*d.stride+int(d.needs[k].Halves)])
	}
	most := -1.0
	for v := range d.given {
		room := float64(top[v] - least[v])
		if room == 0 {
			continue
		}
		if t := d.s.Dims[v/2].track; d.charge[t] < 0 && d.undecided(t, least, top) {
			return v, 0 // it is paid for a teach it need not have given
		}
		sum := 1e-12
		for k, e := range d.mean[v/2] {
			sum += d.gaps[k] * e * float64(2-v%2)
		}
		if sum *= min(room, 3) * (0.2 + min(1, d.given[v])); sum > most {
			most, split, at = sum, v, float64(least[v])+d.given[v]
		}
	}
	return split, at
}
