package bound

import "math"

// A range is climbed in so many steps, and in fewer where the climb goes on with that of the range it is part of. Each step looks for its end in so many passes over
// all that may be given, no farther than so much of each away; a slope falls by a tenth of it at least for each half heard, or steps would go too far where hulls are
// straight.
const (
	climbsFirst, climbsOn = 6, 3
	passes                = 3
	farthest              = 3
	leastTurn             = 0.1
)

// bound is the most anything in a range can gain, and what tells that at other prices. What it ends the climb at is left in given, extra and rise.
func (d *bestFirst) bound(r *ranged, of *ranged) float64 {
	paid := d.s.paid(r.least, r.top)
	d.hull(r)
	climbs := climbsFirst
	d.toll = 0
	clear(d.given)
	clear(d.extra)
	if of != nil { // the climb goes on where that of the range this one is part of ended
		climbs, d.toll = climbsOn, float64(of.toll)
		for v, g := range of.given {
			d.given[v] = max(0, min(float64(r.top[v]), float64(g))-float64(r.least[v]))
			d.hears(v/2, d.given[v]*float64(2-v%2))
		}
	}
	d.slopes()
	low := math.Inf(1)
	for range climbs {
		d.climb(r)
		d.slopes()
		above, more := d.dual(r)
		if above += d.base; above+more-paid < low {
			low = above + more - paid
			r.keep(above, d.gain)
			r.toll = float32(d.toll)
		}
		if low <= d.most+tight {
			break
		}
	}
	return low
}

// hears gives every student so many halves more in a dim.
func (d *bestFirst) hears(dim int, halves float64) {
	if halves == 0 {
		return
	}
	for k, e := range d.mean[dim] {
		d.extra[k] += halves * e
	}
}

// climb goes a step up: to where what all students reach would be most if their hulls were parabolas about where they are (Newton), by coordinates, since there are
// bounds to each.
func (d *bestFirst) climb(r *ranged) {
	d.curve(r)
	n, had := len(d.spans), float64(d.reviews(r.least))
	for range passes {
		reviews, bends := had, 0.0
		for v := range d.given {
			room := float64(r.top[v] - r.least[v])
			if room == 0 {
				continue
			}
			dim, other, times := v/2, v^1, float64(2-v%2)
			if d.cost[other]/(3-times) < d.cost[v]/times && d.given[other] < float64(r.top[other]-r.least[other]) && d.given[v] == 0 {
				continue // the other kind gives as much for less
			}
			up := d.ups[dim]
			for j, by := range d.steps {
				up -= d.bends[dim*n+j] * by
			}
			up = up*times - d.cost[v]
			bend := d.bends[dim*n+dim]*times*times + 1e-12
			if v%2 == 1 {
				up -= d.toll * float64(d.spans[dim])
			}
			to := min(room, max(0, d.given[v]+max(-farthest, min(farthest, up/bend))))
			d.steps[dim] += (to - d.given[v]) * times
			d.given[v] = to
			if v%2 == 1 {
				span := float64(d.spans[dim])
				reviews += to * span
				if to > 0 && to < room {
					bends += span * span / bend
				}
			}
		}
		// What a review of a class costs besides is such that there are as many in all as may be.
		if over := reviews - float64(r.most); over > 0 || d.toll > 0 {
			d.toll = max(0, d.toll+over/(bends+1e-9))
		} else if under := float64(r.fewest) - reviews; under > 0 || d.toll < 0 {
			d.toll = min(0, d.toll-under/(bends+1e-9))
		}
	}
	for i, by := range d.steps {
		d.hears(i, by)
	}
	d.work += len(d.needs) * len(d.given) / 400
}

// curve is how much what students reach rises with what is given in each dim, and how fast that falls with what is given in each other one.
func (d *bestFirst) curve(r *ranged) {
	n := len(d.spans)
	d.bends, d.steps, d.ups = sized(d.bends, n*n), sized(d.steps, n), sized(d.ups, n)
	for i := range n {
		d.steps[i] = 0
		if !r.room(i) {
			continue
		}
		worth, up := d.worth[i], 0.0
		for k, w := range worth {
			up += w * d.rise[k]
		}
		d.ups[i] = up
		for j := range i + 1 {
			if !r.room(j) {
				continue
			}
			bend := 0.0
			for k, e := range d.mean[j] {
				bend += worth[k] * d.turn[k] * e
			}
			d.bends[i*n+j], d.bends[j*n+i] = bend, bend
		}
	}
}

// slopes are those of every need's hull where it is, and how fast they fall.
func (d *bestFirst) slopes() {
	for k := range d.needs {
		rise, turn := d.hulls[k].around(d.extra[k])
		d.rise[k], d.turn[k] = rise, max(turn, leastTurn*rise)
	}
	d.work += len(d.needs) / 60
}

// dual is what the slopes of the climb are worth as prices of what students expect to hear: no choice of the range is worth more than above with its gain for
// each item, and gains more than above and more less what the least of it costs.
func (d *bestFirst) dual(r *ranged) (above, more float64) {
	least, top := r.least, r.top
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
		d.gain[v] = roundedUp(gain * float64(2-v%2))
	}
	more, _ = d.fill(r, d.gain, d.cost)
	return above, more
}
