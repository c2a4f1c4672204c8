package bound

import "math"

// ranged is a range of choices. None of them is worth more than above, and so much for each item over the least.
type ranged struct {
	least, top []uint8
	above      float64
	gain       []float32 // rounded up
	values     []float64 // what each choice of a small range is worth, the last kind's counts running first
	given      []float32 // where the climb ended, from 0
	prices     int32     // those it was climbed at
	split      int16     // the kind and dim to cut at; −1 where it was not asked
	cut        uint8     // the most the lower part holds there
}

// part is what the slopes of a range tell of a part of it.
func (r *ranged) part(least, top []uint8) ranged {
	p := ranged{least: least, top: top, gain: r.gain, given: r.given, split: -1, above: r.above}
	for v, g := range r.gain {
		p.above += float64(g) * float64(least[v]-r.least[v])
	}
	return p
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
func (r *ranged) keep(above float64, gain []float64) {
	if r.gain == nil {
		r.gain = make([]float32, len(gain))
	}
	r.above = above
	for v, g := range gain {
		up := float32(g)
		if float64(up) < g {
			up = math.Nextafter32(up, math.MaxFloat32)
		}
		r.gain[v] = up
	}
}

// widest cuts a range where it is widest.
func (r *ranged) widest() {
	for v := range r.top {
		if r.top[v]-r.least[v] > r.top[r.split]-r.least[r.split] {
			r.split = int16(v)
		}
	}
	r.cut = r.least[r.split] + (r.top[r.split]-r.least[r.split]-1)/2
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
