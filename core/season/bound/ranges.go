package bound

import "math"

// ranged is a range of choices. None of them is worth more than above, and so much for each item over the least.
type ranged struct {
	least, top   []uint8
	fewest, most int32 // reviews in all, each as often as there are classes in its audience
	above        float64
	gain         []float32 // rounded up
	values       []float64 // what each choice of a small range is worth, the last kind's counts running first
	given        []float32 // where the climb ended, from 0
	moved        float32   // how far prices had moved when it was climbed
	split        int16     // the kind and dim to cut at, or how many those are for the reviews in all; −1 where it was not asked
	cut          int32     // the most the lower part holds there
	toll         float32   // what a review of a class cost the climb, to hold as many as are asked
}

// within is a part of a range, of which nothing is known yet.
func (r *ranged) within(least, top []uint8) ranged {
	return ranged{least: least, top: top, fewest: r.fewest, most: r.most}
}

// part is what the slopes of a range tell of a part of it.
func (r *ranged) part(least, top []uint8) ranged {
	p := r.within(least, top)
	p.gain, p.given, p.split, p.above = r.gain, r.given, -1, r.above
	for v, g := range r.gain {
		p.above += float64(g) * float64(least[v]-r.least[v])
	}
	return p
}

// room says whether a range leaves open how often a unit is given in a dim.
func (r *ranged) room(dim int) bool {
	return r.top[2*dim] > r.least[2*dim] || r.top[2*dim+1] > r.least[2*dim+1]
}

// decided says whether a range leaves nothing open but reviews.
func (r *ranged) decided() bool {
	for v := 0; v < len(r.top); v += 2 {
		if r.top[v] > r.least[v] {
			return false
		}
	}
	return true
}

// ways are how many choices a range has, counted up to one more than most.
func (r *ranged) ways(most int) int {
	ways := 1
	for v := range r.least {
		if ways *= int(r.top[v]-r.least[v]) + 1; ways > most {
			return most + 1
		}
	}
	return ways
}

// keep remembers what tells the worth of a range.
func (r *ranged) keep(above float64, gain []float32) {
	r.above = above
	r.gain = append(r.gain[:0], gain...)
}

// roundedUp is a number in half the space, no less than it.
func roundedUp(x float64) float32 {
	up := float32(x)
	if float64(up) < x {
		up = math.Nextafter32(up, math.MaxFloat32)
	}
	return up
}

// widest cuts a range where it is widest.
func (r *ranged) widest() {
	for v := range r.top {
		if r.top[v]-r.least[v] > r.top[r.split]-r.least[r.split] {
			r.split = int16(v)
		}
	}
	r.cut = int32(r.least[r.split] + (r.top[r.split]-r.least[r.split]-1)/2)
}

// promised is the most a range gains at the prices, as its slopes tell.
func (d *bestFirst) promised(r *ranged, cost []float64) float64 {
	gains, _ := d.fill(r, r.gain, cost)
	return r.above + gains - d.s.paid(r.least, r.top)
}

// fill is what a range gains at most by what is given above its least: whatever gains anything; and as there may be so many reviews in all, without those that gain least
// for a class, or with those that lose least. One more for a class is worth toll then. What is taken is left in taken.
func (d *bestFirst) fill(r *ranged, gain []float32, cost []float64) (sum, toll float64) {
	reviews := int32(0)
	for v, g := range gain {
		n := r.least[v]
		if more := float64(g) - cost[v]; more > 0 {
			n = r.top[v]
			sum += more * float64(n-r.least[v])
		}
		d.taken[v] = float64(n)
		reviews += int32(v%2) * int32(n) * int32(d.spans[v/2])
	}
	sign, left := 1.0, float64(r.fewest-reviews)
	if reviews > r.most {
		sign, left = -1, float64(reviews-r.most)
	}
	for left > 1e-9 {
		at, most, room := -1, math.Inf(-1), 0.0
		for v := 1; v < len(gain); v += 2 {
			span, may := float64(d.spans[v/2]), float64(r.top[v])-d.taken[v]
			if sign < 0 {
				may = d.taken[v] - float64(r.least[v])
			}
			if worth := sign * (float64(gain[v]) - cost[v]) / span; may > 1e-9 && worth > most {
				at, most, room = v, worth, may*span
			}
		}
		if at < 0 {
			return math.Inf(-1), 0 // there cannot be so many
		}
		by := min(left, room)
		sum += by * most
		d.taken[at] += sign * by / float64(d.spans[at/2])
		left, toll = left-by, sign*most
	}
	return sum, toll
}

// openRange is a range that may hold the best choice, and the most it gains.
type openRange struct {
	most float64
	at   int32
}

type openRanges []openRange

func (r openRanges) Len() int { return len(r) }
func (r openRanges) Less(i, j int) bool {
	return r[i].most > r[j].most || r[i].most == r[j].most && r[i].at < r[j].at
}
func (r openRanges) Swap(i, j int) { r[i], r[j] = r[j], r[i] }
func (r *openRanges) Push(x any)   { *r = append(*r, x.(openRange)) }
func (r *openRanges) Pop() any {
	last := (*r)[len(*r)-1]
	*r = (*r)[:len(*r)-1]
	return last
}
