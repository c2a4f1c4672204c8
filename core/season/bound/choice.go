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
	often  []uint8     // per need, its dims by how likely it hears a review of a class there, the least likely first
	taken  []float64   // per kind and dim, what was taken last of a range
	stride int
	listed int      // choices that a range may have to be listed
	loose  int32    // reviews of the largest audience that a range leaves open in all before it is cut by their number
	ranges []ranged // all choices that can stand are in one of them
	open   openRanges
	prices int32   // how often they changed
	moved  float32 // by how much of their sum they did, in all
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
	rows    []float64   // the needs' distributions by what was spread last
	spread  []uint8     // that; nothing where it was for another unit
	wholes  []float64   // the same for a choice of a range
	levels  [][]float64 // the rows of a list, by kind
	hulls   []hull
	given   []float64 // per kind and dim, beyond the least
	gain    []float32 // per kind and dim, what one more is worth at the slopes, rounded up
	extra   []float64 // per need, halves expected of it
	rise    []float64 // per need, the slope
	turn    []float64 // and how fast it falls
	whole   []uint8
	gaps    []float64
	corners []corner
	points  []point
	toll    float64   // what a review of a class costs the climb besides
	ups     []float64 // per dim, what half a teach more is worth
	bends   []float64 // per two dims, how fast that falls
	steps   []float64 // per dim, how far a climb went, in halves
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
	if d.prices == 0 || d.stale || !slices.Equal(d.cost, s.Cost) || !slices.Equal(d.charge, s.Charge) {
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
	d.prices++
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

// climbedAgain is by how much of their sum prices move until a range is climbed again rather than cut by what was found at those before.
const climbedAgain = 0.2

// mostListed is how many choices a range may have that are listed, rather than bounded and cut further.
const mostListed = 200

// mostLoose is how many reviews of its largest audience a range leaves open in all, or half of the fewest, before it is cut by their number.
const mostLoose = 4

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
		order := make([]uint8, len(d.spans))
		for i := range order {
			order[i] = uint8(i)
		}
		slices.SortStableFunc(order, func(a, b uint8) int {
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

// branch climbs a range that was not at these prices, or cuts it in two, or into a track's first teaches where it is open whether the track is taught the
// unit at all.
func (d *bestFirst) branch(at int32) {
	r := d.ranges[at]
	if d.moved-r.moved > climbedAgain || r.split < 0 {
		d.look(at, r.within(r.least, r.top), &r)
		return
	}
	d.carve(&r)
	if r.ways(d.listed) <= d.listed {
		d.list(&r)
		d.ranges[at] = r
		d.pick(&r)
		return
	}
	if int(r.split) == len(r.top) {
		few, many := r.within(r.least, r.top), r.within(r.least, r.top)
		few.most, many.fewest = r.cut, r.cut+1
		d.look(at, few, &r)
		d.look(-1, many, &r)
		return
	}
	if r.cut >= int32(r.top[r.split]) { // it was carved away
		r.widest()
	}
	dims := d.s.Dims
	track := dims[r.split/2].track
	if d.undecided(track, r.least, r.top) && (!dims[r.split/2].Known || d.charge[track] != 0) {
		least, top := slices.Clone(r.least), slices.Clone(r.top)
		for i := range dims {
			if dims[i].track != track {
				continue
			}
			if top[2*i] > 0 { // the first of the track's dims that is taught it
				first := slices.Clone(least)
				first[2*i] = 1
				d.look(at, r.within(first, top), &r)
				at = -1
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
		d.look(at, r.within(least, top), &r)
		return
	}
	below, above := slices.Clone(r.top), slices.Clone(r.least)
	below[r.split], above[r.split] = uint8(r.cut), uint8(r.cut)+1
	d.look(at, r.within(r.least, below), &r)
	d.look(-1, r.within(above, r.top), &r)
}

// carve leaves out of a range what its slopes tell not to be better than the best known: parts with so many of a kind. They are kept, with what is known of the
// whole, since at other prices they may be better.
func (d *bestFirst) carve(r *ranged) {
	gains, toll := d.fill(r, r.gain, d.cost)
	slack := r.above + gains - d.s.paid(r.least, r.top) - d.most
	least, top := r.least, r.top
	for v, g := range r.gain {
		loss := d.cost[v] - float64(g)
		if v%2 == 1 {
			loss += toll * float64(d.spans[v/2])
		}
		if loss <= 0 || loss*float64(top[v]-least[v]) <= slack {
			continue
		}
		to := least[v] + uint8(slack/loss)
		from := slices.Clone(least)
		from[v] = to + 1
		over := r.part(from, slices.Clone(top))
		if d.promised(&over, d.cost) > d.most+tight {
			continue // a track's price makes it pay after all
		}
		d.ranges = append(d.ranges, over)
		top = slices.Clone(top)
		top[v] = to
		r.top = top
	}
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

// look bounds a range, keeps it in the place of one it is part of (−1 for a place of its own), and opens it where something in it may be better than what is
// known.
func (d *bestFirst) look(at int32, r ranged, of *ranged) {
	if !d.tighten(&r) {
		if at >= 0 {
			d.keep(at, ranged{least: r.least, top: r.least, above: math.Inf(-1)})
		}
		return
	}
	r.moved, r.split = d.moved, -1
	d.give(r.least)
	d.work += 3 + len(d.needs)*(180+d.presences(r.least))/500
	most := d.bound(&r, of)
	if of != nil {
		part := of.part(r.least, r.top)
		part.fewest, part.most = r.fewest, r.most
		if known := d.promised(&part, d.cost); known < most {
			most, r.above, r.gain = known, part.above, part.gain
		}
	}
	if most > d.most+tight {
		d.round(&r)
		r.split, r.cut = d.cut(&r)
	}
	r.given = make([]float32, len(d.given))
	for v, g := range d.given {
		r.given[v] = float32(g) + float32(r.least[v])
	}
	at = d.keep(at, r)
	if most > d.most+tight {
		heap.Push(&d.open, openRange{most, at})
	}
}

// tighten leaves out of a range what its dims do not hold, or so many reviews in all leave no room for; it says whether anything is left.
func (d *bestFirst) tighten(r *ranged) bool {
	both := append(append(make([]uint8, 0, 2*len(r.least)), r.least...), r.top...) // what it is part of keeps its own
	least, top := both[:len(r.least):len(r.least)], both[len(r.least):]
	r.least, r.top = least, top
	for i := range d.s.Dims {
		most := uint8(d.s.Dims[i].most)
		if least[2*i]+least[2*i+1] > most {
			return false
		}
		top[2*i], top[2*i+1] = min(top[2*i], most-least[2*i+1]), min(top[2*i+1], most-least[2*i])
	}
	for again := true; again; {
		again = false
		few, many := d.reviews(least), d.reviews(top)
		if few > r.most || many < r.fewest {
			return false
		}
		r.fewest, r.most = max(r.fewest, few), min(r.most, many)
		for i, span := range d.spans {
			v := 2*i + 1
			room := int32(top[v] - least[v])
			if over := room - (r.most-few)/int32(span); over > 0 {
				top[v], again = top[v]-uint8(over), true
			} else if under := room - (many-r.fewest)/int32(span); under > 0 {
				least[v], again = least[v]+uint8(under), true
			}
			if again {
				break
			}
		}
	}
	return true
}

// round makes what a climb ended at whole: a choice, and what hulls are measured by where its range is cut.
func (d *bestFirst) round(r *ranged) {
	for v := range d.whole {
		d.whole[v] = r.least[v] + uint8(math.Round(d.given[v]))
	}
	for i := range d.s.Dims {
		for int(d.whole[2*i])+int(d.whole[2*i+1]) > d.s.Dims[i].most {
			if v := 2*i + 1; d.whole[v] > r.least[v] {
				d.whole[v]--
			} else {
				d.whole[2*i]--
			}
		}
	}
	copy(d.wholes, d.rows)
	d.more(d.wholes, r.least, d.whole)
	d.work += len(d.needs) * d.presences(d.whole) / 500
	d.take(d.whole, d.value(d.wholes)-d.s.spent(d.whole))
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

// cut says where to cut a range: at the kind and dim that has most to do with how far the hulls lie over what the choice nearest to the top of
// the climb reaches (its distributions are the wholes).
func (d *bestFirst) cut(r *ranged) (split int16, below int32) {
	least, top := r.least, r.top
	decided := d.decided(least, top)
	for k := range d.needs {
		hull, _ := d.hulls[k].at(d.extra[k])
		d.gaps[k] = d.needs[k].Weight * math.Abs(hull-d.wholes[k*d.stride+int(d.needs[k].Halves)])
	}
	if decided && r.most-r.fewest > max(d.loose*int32(slices.Max(d.spans)), r.fewest/2) {
		sum := float64(d.reviews(least))
		for i, span := range d.spans {
			sum += float64(span) * d.given[2*i+1]
		}
		return int16(len(top)), min(r.most-1, max(r.fewest, int32(math.Floor(sum))))
	}
	most, at := -1.0, 0.0
	for v := range d.given {
		room := float64(top[v] - least[v])
		if room == 0 || !decided && v%2 == 1 {
			continue
		}
		if t := d.s.Dims[v/2].track; d.charge[t] < 0 && d.undecided(t, least, top) {
			return int16(v), int32(least[v]) // it is paid for a teach it need not have given
		}
		sum := 1e-12
		for k, e := range d.mean[v/2] {
			sum += d.gaps[k] * e * float64(2-v%2)
		}
		if sum *= min(room, 3) * (0.2 + min(1, d.given[v])); sum > most {
			most, split, at = sum, int16(v), float64(least[v])+d.given[v]
		}
	}
	return split, int32(min(float64(top[split])-1, max(float64(least[split]), math.Floor(at))))
}

// decided says whether a range leaves nothing open but reviews.
func (d *bestFirst) decided(least, top []uint8) bool {
	for v := 0; v < len(top); v += 2 {
		if top[v] > least[v] {
			return false
		}
	}
	return true
}
