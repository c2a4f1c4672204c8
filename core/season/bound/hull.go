package bound

// hull is a concave function of what a student expects to hear: from reached, along slopes that fall, each for so far.
type hull struct {
	from    float64 // what they hear at least
	reached float64
	pace    float64 // how far apart what it is made of lies
	until   []float64
	slopes  []float64
}

// at is the value at x and what it rises there.
func (h *hull) at(x float64) (value, slope float64) {
	value, from := h.reached, h.from
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
	value, from := h.reached-slope*h.from, h.from
	for i, until := range h.until {
		if h.slopes[i] <= slope {
			break
		}
		value += (h.slopes[i] - slope) * (until - from)
		from = until
	}
	return value
}

// around is the mean slope as far about x as what the hull is made of lies apart, and how fast it falls there.
func (h *hull) around(x float64) (rise, turn float64) {
	if len(h.until) == 0 {
		return 0, 0
	}
	from, to := max(h.from, x-h.pace), x+h.pace
	if to <= from+1e-9 {
		return h.slopes[0], 0
	}
	begun, last, sum := false, h.from, 0.0
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

// hull makes the functions of what each student can still reach.
func (d *bestFirst) hull(r *ranged) {
	least, top := r.least, r.top
	if r.decided() {
		d.reviewed(r)
		return
	}
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

// reviewed makes them where nothing but reviews is open: how many there are in all tells how many a student expects to hear at least, and at most.
func (d *bestFirst) reviewed(r *ranged) {
	had := d.reviews(r.least)
	few, many := float64(r.fewest-had), float64(r.most-had)
	for k := range d.needs {
		row := d.rows[k*d.stride : k*d.stride+int(d.needs[k].Halves)+1]
		likely := 0.0
		for i := range d.spans {
			if r.top[2*i+1] > r.least[2*i+1] {
				likely = max(likely, d.likely[i][k])
			}
		}
		low, high := d.expects(r, k, few, false), d.expects(r, k, many, true)
		if len(row)-1 > mostTail {
			d.over(&d.hulls[k], row, likely, 0, int(many), high)
			continue
		}
		d.between(&d.hulls[k], row, likely, low, high+1e-9)
	}
}

// expects is how many of so many further reviews a student expects to hear, where the dims in which that is the least likely have all they can hold, or the likeliest.
func (d *bestFirst) expects(r *ranged, k int, reviews float64, likeliest bool) (sum float64) {
	n := len(d.spans)
	order := d.often[k*n : (k+1)*n]
	for j := 0; j < n && reviews > 0; j++ {
		i := int(order[j])
		if likeliest {
			i = int(order[n-1-j])
		}
		v, span := 2*i+1, float64(d.spans[i])
		by := min(reviews, float64(r.top[v]-r.least[v])*span)
		sum += by / span * d.mean[i][k]
		reviews -= by
	}
	return sum
}

// between is the concave hull of what reviews none likelier than a chance add to a distribution, where so many are expected to be heard, or up to so many.
func (d *bestFirst) between(h *hull, row []float64, chance, low, high float64) {
	need := len(row) - 1
	h.from, h.reached, h.pace = low, row[need], max(chance, leastTail)
	h.until, h.slopes = h.until[:0], h.slopes[:0]
	if chance == 0 || h.reached >= 1-1e-12 {
		return
	}
	t := meansOf(chance, need)
	first := int(low / meanStep)
	a, b := t.at(first, row), t.at(first+1, row)
	share := low/meanStep - float64(first)
	h.reached = a + (b-a)*share
	at := append(d.points[:0], point{low, h.reached})
	for n := first + 1; ; n++ {
		x := float64(n) * meanStep
		if x >= high {
			at = at.add(high, a+(b-a)*(high-x+meanStep)/meanStep)
			break
		}
		if x > low {
			at = at.add(x, b)
		}
		if b >= tailsUntil {
			at = at.add(x+meanStep, 1) // and whatever is beyond
			break
		}
		a, b = b, t.at(n+1, row)
	}
	d.points = at
	if high-low < 1e-9 {
		h.reached = at[len(at)-1].y
		return
	}
	for j := 1; j < len(at); j++ {
		if at[j].x-at[j-1].x < 1e-9 {
			continue
		}
		h.until = append(h.until, at[j].x)
		h.slopes = append(h.slopes, max(0, at[j].y-at[j-1].y)/(at[j].x-at[j-1].x))
	}
}

// points are the corners of a hull, from the left.
type points []point

type point struct{ x, y float64 }

// add is the hull with a point to the right of it: those that lie under the line between their neighbours go.
func (p points) add(x, y float64) points {
	for len(p) > 1 {
		a, b := p[len(p)-2], p[len(p)-1]
		if (b.y-a.y)*(x-b.x) > (y-b.y)*(b.x-a.x) {
			break
		}
		p = p[:len(p)-1]
	}
	return append(p, point{x, y})
}

// over is the concave hull of what presences up to a chance, so many full ones and halves at most, add to a distribution, up to so many halves expected
// of them.
func (d *bestFirst) over(h *hull, row []float64, chance float64, fulls, halves int, expected float64) {
	need := len(row) - 1
	h.from, h.reached, h.pace = 0, row[need], chance
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
	at := append(d.points[:0], point{0, h.reached}) // by presences in all
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
		if top > at[len(at)-1].y {
			at = at.add(float64(n), top)
		}
		if final {
			break
		}
		if at[len(at)-1].x >= end { // nothing beyond can raise it up to there?
			i := len(at) - 2
			for i > 0 && at[i].x >= end {
				i--
			}
			if (1-at[i].y)*(at[i+1].x-at[i].x) <= (at[i+1].y-at[i].y)*(float64(n+1)-at[i].x) {
				break
			}
		}
	}
	d.points = at
	for j := 1; j < len(at); j++ {
		h.until = append(h.until, min(at[j].x, end)*chance)
		h.slopes = append(h.slopes, (at[j].y-at[j-1].y)/((at[j].x-at[j-1].x)*chance))
		if at[j].x >= end {
			break
		}
	}
}
