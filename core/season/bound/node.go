package bound

import (
	"math"
	"slices"
)

// Node is a part of the ways, with the prices it is bounded at.
type Node struct {
	Most  float64 // the most a plan of it can cover
	ways  [][]int32
	price []float64
	mean  []float64
	sides []begins
}

// begins are when a unit may be taught a track first, and how often it was.
type begins struct {
	span  span
	begun []float64
}

// Node is where the relaxation stands.
func (d *Daily) Node() *Node {
	n := &Node{Most: d.Most, price: d.price, mean: d.mean}
	for i := range d.Units {
		n.ways = append(n.ways, d.Units[i].Left)
		for k := range d.Units[i].sides {
			n.sides = append(n.sides, begins{d.Units[i].sides[k].begins, d.Units[i].sides[k].begun})
		}
	}
	return n
}

// Enter goes to a node.
func (d *Daily) Enter(n *Node) {
	d.Most, d.price, d.mean = n.Most, slices.Clone(n.price), n.mean
	at := 0
	for i := range d.Units {
		d.Units[i].Left = n.ways[i]
		for k := range d.Units[i].sides {
			d.Units[i].sides[k].begins, d.Units[i].sides[k].begun = n.sides[at].span, n.sides[at].begun
			at++
		}
	}
}

// dayWeight is how much rather it is parted at a day than at a count of reviews; at one of teaches as much.
const dayWeight = 2

// Branch parts where the relaxation stands in two: at the count, or the day a unit is first taught a track, that was least decided while the prices were moved. It
// is nothing where each unit has one way left, and one day.
func (d *Daily) Branch() []*Node {
	unit, place, cut, open := d.openCount()
	side, day, also := d.openDay()
	if also > open {
		sooner, later := d.Node(), d.Node()
		sooner.sides[side].span.to, later.sides[side].span.from = day, day+1
		return []*Node{sooner, later}
	}
	if open == 0 {
		return nil
	}
	few, more := d.Node(), d.Node()
	few.ways[unit], more.ways[unit] = nil, nil
	for _, w := range d.Units[unit].Left {
		part := few
		if d.Units[unit].Counts(w)[place] > cut {
			part = more
		}
		part.ways[unit] = append(part.ways[unit], w)
	}
	return []*Node{few, more}
}

// undecided is the less of two shares, over nothing: any is better to part at than none.
func undecided(share float64) float64 { return min(share, 1-share) + 0.01 }

// openCount is how often a unit is given in a place, up to cut or more, where that was least decided; open is 0 where all counts are decided.
func (d *Daily) openCount() (unit, place int, cut uint8, open float64) {
	for i := range d.Units {
		u := &d.Units[i]
		for v := range d.from[i+1] - d.from[i] {
			least, top := uint8(255), uint8(0)
			for _, w := range u.Left {
				n := u.counts[int(w)*u.stride+v]
				least, top = min(least, n), max(top, n)
			}
			if least == top {
				continue
			}
			mean := min(float64(top)-1e-6, max(float64(least)+1e-6, d.mean[d.from[i]+v]))
			if score := undecided(mean-math.Floor(mean)) * float64(2-v%2); score > open {
				unit, place, cut, open = i, v, uint8(math.Floor(mean)), score
			}
		}
	}
	return unit, place, cut, open
}

// openDay is the last of the days that a unit is first taught a track on, or later, where that was least decided: side counts the units' tracks.
func (d *Daily) openDay() (side, day int, open float64) {
	at := 0
	for i := range d.Units {
		for k := range d.Units[i].sides {
			t := &d.Units[i].sides[k]
			before := 0.0
			for c := t.begins.from; !t.known && c < t.begins.to; c++ {
				before += t.begun[c]
				if score := undecided(before) * dayWeight; score > open {
					side, day, open = at, c, score
				}
			}
			at++
		}
	}
	return side, day, open
}

// MayBegin says whether a unit may be taught the track of a square first there.
func (d *Daily) MayBegin(square, unit int) bool {
	t, day := d.asked(square, unit)
	return t == nil || t.begins.from <= day && day <= t.begins.to
}
