package bound

import "math"

// Listed is a unit with the ways it may be given: all one after another, for looking at many of them is most of the work.
type Listed struct {
	Left     []int32   // the ways that are left
	value    []float64 // what each is worth
	net      []float64 // what it gains at the prices
	counts   []uint8   // how often in each dim, teaches and reviews by turns
	patterns []int32   // its pattern in each track
	stride   int       // counts of a way
	sides    []side
	// The ways that gained most when all were looked at last, what the others gained then at most, how far under the best that is, and how often they alone were
	// looked at since.
	near  []int32
	floor float64
	width float64
	since int
}

// Counts is how often a way gives its unit in each place.
func (u *Listed) Counts(way int32) []uint8 {
	return u.counts[int(way)*u.stride : (int(way)+1)*u.stride]
}

// Ways is how many there were listed.
func (u *Listed) Ways() int { return len(u.value) }

// Value is what a way is worth.
func (u *Listed) Value(way int32) float64 { return u.value[way] }

// Net is what it gains at the prices.
func (u *Listed) Net(way int32) float64 { return u.net[way] }

// pattern is that of a way in a track.
func (u *Listed) pattern(way int32, side int) int { return int(u.patterns[int(way)*len(u.sides)+side]) }

// use finds the patterns that ways left have.
func (d *Daily) use() {
	for i := range d.Units {
		u := &d.Units[i]
		for k := range u.sides {
			has := make([]bool, u.sides[k].patterns)
			for _, w := range u.Left {
				has[u.pattern(w, k)] = true
			}
			u.sides[k].used = nil
			for j, is := range has {
				if is {
					u.sides[k].used = append(u.sides[k].used, j)
				}
			}
		}
	}
}

// best is the way that gains most at prices. All ways are looked at when it is asked for, or where one that gained less may gain most by now.
func (d *Daily) best(unit int, price []float64, all bool) (at int32, most float64) {
	u := &d.Units[unit]
	for k := range u.sides {
		d.costs(unit, &u.sides[k], price)
	}
	if !all && len(u.near) > 0 {
		u.since++
		if at, most = u.top(u.near); most >= u.floor+u.cheaper() {
			d.look(u, len(u.near))
			return at, most
		}
	}
	at, most = u.top(u.Left)
	d.look(u, len(u.Left))
	if u.near = u.near[:0]; all || len(u.Left) < fewWays {
		return at, most
	}
	if u.width == 0 {
		u.width = 0.1 * (d.Most - d.Known)
	} else if u.since < 4 {
		u.width *= 1.5
	}
	u.since, u.floor = 0, math.Inf(-1)
	for _, w := range u.Left {
		if u.net[w] >= most-u.width {
			u.near = append(u.near, w)
		} else {
			u.floor = max(u.floor, u.net[w])
		}
	}
	if len(u.near) > len(u.Left)/4 {
		u.width *= 0.6
	}
	for k := range u.sides {
		u.sides[k].before = append(u.sides[k].before[:0], u.sides[k].cost...)
	}
	return at, most
}

// fewWays are looked at each time.
const fewWays = 100

// top is the way of some that gains most.
func (u *Listed) top(ways []int32) (at int32, most float64) {
	most = math.Inf(-1)
	n := len(u.sides)
	for _, w := range ways {
		net := u.value[w]
		for k, j := range u.patterns[int(w)*n : int(w)*n+n] {
			net -= u.sides[k].cost[j]
		}
		u.net[w] = net
		if net > most {
			at, most = w, net
		}
	}
	return at, most
}

// cheaper is how much less any way may cost than when all were looked at.
func (u *Listed) cheaper() (sum float64) {
	for k := range u.sides {
		t := &u.sides[k]
		most := math.Inf(-1)
		for _, j := range t.used {
			if !math.IsInf(t.cost[j], 1) {
				most = max(most, t.before[j]-t.cost[j])
			}
		}
		sum += most
	}
	return sum
}

// look counts looks at ways of a unit.
func (d *Daily) look(u *Listed, ways int) {
	d.looked += ways * (1 + len(u.sides))
	d.work += d.looked / looksPerMicrosecond
	d.looked %= looksPerMicrosecond
}

const looksPerMicrosecond = 300
