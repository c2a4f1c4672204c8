package bound

import (
	"container/heap"
	"math"
	"slices"
)

// climbedAgain is by how much of their sum prices move until a range is climbed again rather than cut by what was found at those before.
const climbedAgain = 0.2

// mostLoose is how many reviews of its largest audience a range leaves open in all, or half of the fewest, before it is cut by their number.
const mostLoose = 4

// branch climbs a range again where prices moved far since, or cuts it in two, or into a track's first teaches where it is open whether the track is taught the
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
		top := slices.Clone(r.top)
		for i := range dims {
			if dims[i].track != track {
				continue
			}
			if top[2*i] > 0 { // the first of the track's dims that is taught it
				first := slices.Clone(r.least)
				first[2*i] = 1
				d.look(at, r.within(first, top), &r)
				at = -1
			}
			top[2*i] = 0
		}
		for i := range dims {
			if dims[i].track == track && !dims[i].Known {
				if r.least[2*i+1] > 0 {
					return
				}
				top[2*i+1] = 0
			}
		}
		d.look(at, r.within(r.least, top), &r)
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
		over := r.part(from, top)
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

// cut says where to cut a range: at the kind and dim that has most to do with how far the hulls lie over what the choice nearest to the top of
// the climb reaches (its distributions are the wholes). Teaches come first; where none are open, how many reviews there are in all.
func (d *bestFirst) cut(r *ranged) (split int16, below int32) {
	least, top := r.least, r.top
	decided := r.decided()
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
