package bound

import "math"

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

// sweeps are how wide a part of the hulls each step of a climb looks at, in what they are made of.
var sweeps = [...]float64{1, 1, 0.5, 0.5, 0.25, 0.1}

// bound is the most anything in a range can gain, and what tells that at other prices. What it ends the climb at is left in given, extra and rise.
func (d *bestFirst) bound(r *ranged, from []float32) float64 {
	least, top := r.least, r.top
	paid := d.s.paid(least, top)
	d.hull(least, top)
	low := math.Inf(1)
	widths := sweeps[:]
	clear(d.given)
	clear(d.extra)
	if from != nil { // the climb goes on where that of the range this one is part of ended
		widths = sweeps[3:]
		for v, g := range from {
			g := min(float64(top[v]), float64(g)) - float64(least[v])
			if g <= 0 {
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
		above, more := d.dual(least, top)
		if above += d.base; above+more-paid < low {
			low = above + more - paid
			r.keep(above, d.gain)
		}
		if low <= d.most+tight {
			break
		}
	}
	return low
}

// hull makes the functions of what each student can still reach.
func (d *bestFirst) hull(least, top []uint8) {
	for k := range d.needs {
		likely, fulls, halves, expected := 0.0, 0, 0, 0.0
		for i := range d.s.Dims {
			a, b := int(top[2*i]-least[2*i]), int(top[2*i+1]-least[2*i+1])
			if a+b == 0 || d.likely[i][k] == 0 {
				continue
			}
			likely = max(likely, d.likely[i][k])
			fulls, halves = fulls+a*d.spans[i], halves+b*d.spans[i]
			expected += float64(2*a+b) * d.mean[i][k]
		}
		row := d.rows[k*d.stride : k*d.stride+int(d.needs[k].Halves)+1]
		d.over(&d.hulls[k], row, likely, fulls, halves, expected)
	}
}

// over is the concave hull of what presences up to a chance, so many full ones and halves at most, add to a distribution, up to so many halves expected
// of them.
func (d *bestFirst) over(h *hull, row []float64, chance float64, fulls, halves int, expected float64) {
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
	end := expected/chance + 1e-9
	last := min(2*fulls+halves, t.last)
	// The hull from the left: points that lie under the line between their neighbours go.
	at := append(d.corners[:0], corner{0, h.reached})
	for n := 1; n <= last; n++ {
		top := h.reached
		reach := t.reach[n*need : (n+1)*need]
		had := row[:len(reach)]
		for j, r := range reach {
			top += had[j] * r
		}
		final := n == last && last < 2*fulls+halves || top >= tailsUntil
		if final {
			top = 1 // and whatever is beyond
		}
		if top > at[len(at)-1].value {
			for len(at) > 1 {
				a, b := at[len(at)-2], at[len(at)-1]
				if (b.value-a.value)*float64(n-b.n) > (top-b.value)*float64(b.n-a.n) {
					break
				}
				at = at[:len(at)-1]
			}
			at = append(at, corner{n, top})
		}
		if final {
			break
		}
		if float64(at[len(at)-1].n) >= end { // nothing beyond can raise it up to there?
			i := len(at) - 2
			for i > 0 && float64(at[i].n) >= end {
				i--
			}
			if (1-at[i].value)*float64(at[i+1].n-at[i].n) <= (at[i+1].value-at[i].value)*float64(n+1-at[i].n) {
				break
			}
		}
	}
	d.corners = at
	for j := 1; j < len(at); j++ {
		h.until = append(h.until, min(float64(at[j].n), end)*chance)
		h.slopes = append(h.slopes, (at[j].value-at[j-1].value)/(float64(at[j].n-at[j-1].n)*chance))
		if float64(at[j].n) >= end {
			break
		}
	}
}

// corner is a corner of a hull: what so many presences reach.
type corner struct {
	n     int
	value float64
}

// climb goes once through all that may be given, each to where what it gains is what it costs, by Newton's step along slopes that are the
// means over so wide a part of each hull.
func (d *bestFirst) climb(least, top []uint8, wide float64) {
	d.slopes(wide)
	for v := range d.given {
		room := float64(top[v] - least[v])
		if room == 0 {
			continue
		}
		times, other := float64(2-v%2), v^1
		if d.cost[other]/(3-times) < d.cost[v]/times && d.given[other] < float64(top[other]-least[other]) && d.given[v] == 0 {
			continue // the other kind gives as much for less
		}
		gain, bend := 0.0, 0.0
		mean, worth := d.mean[v/2], d.worth[v/2]
		for k, w := range worth {
			gain += w * d.rise[k]
			bend += w * d.turn[k] * mean[k]
		}
		gain, bend = gain*times-d.cost[v], bend*times*times+1e-12
		to := min(room, max(0, d.given[v]+max(-3, min(3, gain/bend))))
		by := to - d.given[v]
		if by == 0 {
			continue
		}
		d.given[v] = to
		for k := range d.needs {
			d.extra[k] += by * times * mean[k]
		}
		d.slopes(wide)
	}
	d.work += len(d.needs) * len(d.given) / 400
}

// slopes are those of every need's hull where it is, and how fast they fall.
func (d *bestFirst) slopes(wide float64) {
	for k := range d.needs {
		d.rise[k], d.turn[k] = d.hulls[k].around(d.extra[k], wide)
	}
	d.work += len(d.needs) / 60
}

// around is the mean slope about x, and how fast it falls there.
func (h *hull) around(x, wide float64) (rise, turn float64) {
	half := wide * h.pace
	if len(h.until) == 0 {
		return 0, 0
	}
	from, to := max(0, x-half), x+half
	begun, last, sum := false, 0.0, 0.0
	for i, until := range h.until {
		if until > from {
			slope := h.slopes[i]
			if !begun {
				begun, turn = true, slope
			}
			sum += slope * (min(until, to) - max(last, from))
			if until > to {
				return sum / (to - from), (turn - slope) / (to - from)
			}
		}
		last = until
	}
	return sum / (to - from), turn / (to - from)
}

// dual is what the slopes of the climb are worth as prices of what students expect to hear: no choice of the range is worth more than above with its gain for
// each item, and gains more than above and more less what the least of it costs.
func (d *bestFirst) dual(least, top []uint8) (above, more float64) {
	for k := range d.needs {
		above += d.needs[k].Weight * d.hulls[k].above(d.rise[k])
	}
	for v := range d.given {
		d.gain[v] = 0
		room := float64(top[v] - least[v])
		if room == 0 {
			continue
		}
		gain := 0.0
		for k, w := range d.worth[v/2] {
			gain += w * d.rise[k]
		}
		d.gain[v] = gain * float64(2-v%2)
		more += room * max(0, d.gain[v]-d.cost[v])
	}
	return above, more
}
