package bound

import (
	"math"
	"slices"
)

// Rest is what is left of a season from a square on, at the prices.
type Rest struct {
	Paid  float64      // what its squares can be paid
	units [][]sideRest // per unit and side
}

type sideRest struct {
	sums [][]float64 // per kind in each dim, the cheapest so many
	cost []float64   // of each pattern, where it is not taught before
}

// Rests are what is left from each square on, and beyond the last.
func (d *Daily) Rests() []Rest {
	x, k := d.x, &d.x.Packing
	all := make([]Rest, len(x.m.Squares)+1)
	d.charge(d.price)
	d.use()
	patterns, _ := d.size()
	d.work += len(all) * patterns / 88
	paid, week := 0.0, x.m.Problem.Weeks+1
	for s := len(x.m.Squares); s >= 0; s-- {
		if s < len(x.m.Squares) {
			for ; week > x.m.Squares[s].Week; week-- { // from here on its coaches may be asked
				paid += leadScale * k.weeks[k.weekOf[week-1]].paid(d.price[d.lead(week-1, 0):], nil, 0)
			}
			if k.PackOf[s] >= 0 {
				paid += k.Fill(d.set(d.price, s), nil, nil)
			}
		}
		all[s].Paid = paid
		for i := range d.Units {
			var rests []sideRest
			for j := range d.Units[i].sides {
				t := d.Units[i].sides[j]
				t.slots = t.slots[slices.IndexFunc(append(t.slots[:len(t.slots):len(t.slots)], slot{square: math.MaxInt}), func(q slot) bool { return q.square >= s }):]
				t.cost, t.first = make([]float64, t.patterns), make([]int, t.patterns)
				d.costs(i, &t, d.price)
				r := sideRest{cost: t.cost}
				d.list(i, &t, d.price, -1)
				for v := range t.lists {
					r.sums = append(r.sums, slices.Clone(t.sums[v*t.deep:(v+1)*t.deep]))
				}
				rests = append(rests, r)
			}
			all[s].units = append(all[s].units, rests)
		}
	}
	return all
}

// Price is that of an item in a square.
func (d *Daily) Price(square, unit, place int) float64 { return d.price[d.at(square, unit, place)] }

// First is what a unit pays for being taught a track first on the day of a square; nothing where the track needs no first teach.
func (d *Daily) First(square, unit int) float64 {
	t, day := d.asked(square, unit)
	if t == nil {
		return 0
	}
	return t.charge[day]
}

// asked is a unit in the track of a square, and which of its days that is; nothing where the track needs no first teach.
func (d *Daily) asked(square, unit int) (t *side, day int) {
	q := &d.x.m.Squares[square]
	if t = d.side(unit, q.Track); t == nil || t.known {
		return nil, 0
	}
	return t, slices.Index(t.days, q.Day)
}

// Spend is what the rest of a way costs from a square on, when so much of it was given before: counts by place. It is endless where there are no
// squares for it any more.
func (r *Rest) Spend(d *Daily, unit int, way int32, given func(place int) int) float64 {
	sum := 0.0
	u := &d.Units[unit]
	counts := u.Counts(way)
	for k := range u.sides {
		t, rest := &u.sides[k], &r.units[unit][k]
		begun := t.known
		for _, i := range t.dims {
			begun = begun || given(2*i) > 0
		}
		if !begun {
			sum += rest.cost[u.pattern(way, k)]
			continue
		}
		for j, i := range t.dims {
			for kind := range 2 {
				n := int(counts[2*i+kind]) - given(2*i+kind)
				if n >= len(rest.sums[2*j+kind]) {
					return math.Inf(1)
				}
				sum += rest.sums[2*j+kind][n]
			}
		}
	}
	return sum
}
