package season

import (
	"cmp"
	"slices"
)

// bound is a coverage no plan can exceed. It forgets which class is when: what
// a unit can give depends only on how often it is taught and reviewed, and each
// student may take those times in the classes likeliest for them. What that is
// worth per minute is rounded up to its concave envelope, and the minutes of all
// classes are shared out over the envelopes, best first: a fractional knapsack.
//
// Three things make it too high, never too low: order and prerequisites are
// left out, every student picks their own classes, and minutes may be split.
//
// Costs units × needs of a unit × (teaches × reviews) × exposures.
func bound(p Problem) float64 {
	b := newBoard(p)
	if b.weights == 0 {
		return 1
	}
	minutes := 0
	for i := range b.squares {
		s := &b.squares[i]
		minutes += max(s.minutes, b.used(s))
	}
	sum := 0.0
	var steps []step
	for u := range p.Units {
		if len(b.needs[u]) == 0 {
			continue
		}
		points := b.worths(u, minutes)
		sum += points[0].value
		steps = append(steps, envelope(points)...)
	}
	slices.SortFunc(steps, func(x, y step) int { return cmp.Compare(y.value/y.cost, x.value/x.cost) })
	left := float64(minutes)
	for _, s := range steps {
		take := min(1, left/s.cost)
		if take <= 0 {
			break
		}
		sum += take * s.value
		left -= take * s.cost
	}
	return min(1, sum/b.weights)
}

// step is an amount of minutes and the weight of needs it may cover.
type step struct{ cost, value float64 }

// worths lists what a unit may be worth for some numbers of teaches and
// reviews; the first for none. More times than it takes to leave nothing to gain are not listed.
func (b *board) worths(u, minutes int) []step {
	unit := b.p.Units[u]
	squares, classes := 0, 0
	var open []string
	for i := range b.squares {
		s := &b.squares[i]
		if !slices.Contains(unit.Tracks, s.track) {
			continue
		}
		squares++
		classes = max(classes, len(s.classes))
		for _, c := range s.classes {
			open = append(open, c.ID)
		}
	}
	likely := b.likeliest(u, open)
	points := []step{{0, b.worthOf(u, likely, 0, 0)}}
	most := 0.0
	for _, n := range b.needs[u] {
		most += n.weight
	}
	for teaches := 0; teaches <= squares; teaches++ {
		for reviews := 0; teaches+reviews <= squares; reviews++ {
			cost := teaches*unit.Minutes + reviews*unit.ReviewMinutes
			if teaches+reviews == 0 || cost > minutes {
				continue
			}
			value := b.worthOf(u, likely, teaches*classes, reviews*classes)
			points = append(points, step{float64(cost), value})
			if value > most-1e-9 {
				break // more reviews cannot add
			}
		}
	}
	return points
}

// worthOf is the weight of a unit's needs covered when every student meets it
// in full in as many classes, and by half in so many more, as likely for them as
// any. Giving the larger exposure to the likelier class is best: exchanging two
// never raises the chance.
func (b *board) worthOf(u int, likely [][]float64, full, half int) float64 {
	sum := 0.0
	for k, n := range b.needs[u] {
		d := newTally(n.halves)
		for i, c := range likely[k][:min(full+half, len(likely[k]))] {
			if i < full {
				d.add(c, 2)
			} else {
				d.add(c, 1)
			}
		}
		sum += n.weight * d.reached()
	}
	return sum
}

// likeliest lists each need's chances in the given classes, highest first.
func (b *board) likeliest(u int, open []string) [][]float64 {
	all := make([][]float64, len(b.needs[u]))
	for k, n := range b.needs[u] {
		for _, c := range open {
			all[k] = append(all[k], b.chance[n.student][c])
		}
		slices.SortFunc(all[k], func(x, y float64) int { return cmp.Compare(y, x) })
	}
	return all
}

// envelope turns points into the steps of their upper concave envelope, each
// with a lower yield than the one before.
func envelope(points []step) []step {
	slices.SortFunc(points, func(x, y step) int {
		return cmp.Or(cmp.Compare(x.cost, y.cost), cmp.Compare(y.value, x.value))
	})
	hull := []step{points[0]}
	for _, p := range points[1:] {
		if p.value <= hull[len(hull)-1].value+1e-12 || p.cost == hull[len(hull)-1].cost {
			continue
		}
		for len(hull) > 1 {
			a, b := hull[len(hull)-2], hull[len(hull)-1]
			if (b.value-a.value)*(p.cost-b.cost) > (p.value-b.value)*(b.cost-a.cost) {
				break
			}
			hull = hull[:len(hull)-1]
		}
		hull = append(hull, p)
	}
	var steps []step
	for i := 1; i < len(hull); i++ {
		steps = append(steps, step{hull[i].cost - hull[i-1].cost, hull[i].value - hull[i-1].value})
	}
	return steps
}
