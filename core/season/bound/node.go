package bound

import (
	"cmp"
	"math"
	"math/bits"
	"slices"
)

// Node is a part of the ways, with the prices it is bounded at.
type Node struct {
	Most   float64 // the most a plan of it can cover
	ways   [][]int32
	price  []float64
	mean   []float64
	shut   []bool
	kinds  []kinds
	asking []float64
	sides  []begins
}

// begins are when a unit may be taught a track first, and how often it was.
type begins struct {
	days  uint64
	begun []float64
}

// Node is where the relaxation stands.
func (d *Daily) Node() *Node {
	n := &Node{Most: d.Most, price: d.price, mean: d.mean, shut: d.shut, kinds: d.kinds, asking: d.asking}
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
	d.Most, d.price, d.shut, d.mean = n.Most, slices.Clone(n.price), slices.Clone(n.shut), n.mean
	d.kinds, d.asking = n.kinds, n.asking
	at := 0
	for i := range d.Units {
		d.Units[i].Left = n.ways[i]
		for k := range d.Units[i].sides {
			d.Units[i].sides[k].begins, d.Units[i].sides[k].begun = n.sides[at].days, n.sides[at].begun
			at++
		}
	}
}

// dayWeight is how much rather it is parted at a day than at a count of reviews; at one of teaches as much.
const dayWeight = 2

// Cut is where a node may be parted in two: at how often a unit is given in a place, at the day it is first taught a track, or at what a square asks of its leads.
type Cut struct {
	unit, place int
	most        uint8 // up to so often in the one part
	side, day   int   // of the units' tracks; until this day in the one part
	days        bool
	square      int // asks for these in the one part
	asks        kinds
}

// Cuts are where the relaxation may be parted, what was least decided while the prices were moved first: so many of units, and then so many of what squares ask of their leads.
func (d *Daily) Cuts(units, leads int) []Cut {
	return append(undecidedMost(units, d.openCounts, d.openDays), undecidedMost(leads, d.openKinds)...)
}

// undecidedMost are so many of the cuts there are, the least decided first.
func undecidedMost(most int, of ...func(add func(Cut, float64))) (cuts []Cut) {
	type open struct {
		cut   Cut
		score float64
	}
	var all []open
	for _, each := range of {
		each(func(c Cut, score float64) { all = append(all, open{c, score}) })
	}
	slices.SortStableFunc(all, func(a, b open) int { return cmp.Compare(b.score, a.score) })
	for _, o := range all[:min(len(all), most)] {
		cuts = append(cuts, o.cut)
	}
	return cuts
}

// Part parts where the relaxation stands in two.
func (d *Daily) Part(c Cut) (parts [2]*Node) {
	few, more := d.Node(), d.Node()
	if c.asks != 0 {
		few.kinds, more.kinds = slices.Clone(d.kinds), slices.Clone(d.kinds)
		few.kinds[c.square] &= c.asks
		more.kinds[c.square] &^= c.asks
		return [2]*Node{few, more}
	}
	if c.days {
		sooner := uint64(1)<<(c.day+1) - 1
		few.sides[c.side].days &= sooner
		more.sides[c.side].days &^= sooner
		return [2]*Node{few, more}
	}
	few.ways[c.unit], more.ways[c.unit] = nil, nil
	for _, w := range d.Units[c.unit].Left {
		part := few
		if d.Units[c.unit].Counts(w)[c.place] > c.most {
			part = more
		}
		part.ways[c.unit] = append(part.ways[c.unit], w)
	}
	return [2]*Node{few, more}
}

// undecided is the less of two shares, over nothing: any is better to part at than none.
func undecided(share float64) float64 { return min(share, 1-share) + 0.01 }

// openCounts are how often each unit is given in each place, up to so often or more, where that is open.
func (d *Daily) openCounts(add func(Cut, float64)) {
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
			add(Cut{unit: i, place: v, most: uint8(math.Floor(mean))}, undecided(mean-math.Floor(mean))*float64(2-v%2))
		}
	}
}

// openDays are the last of the days that a unit is first taught a track on, or later, where that is open.
func (d *Daily) openDays(add func(Cut, float64)) {
	at := 0
	for i := range d.Units {
		for k := range d.Units[i].sides {
			t := &d.Units[i].sides[k]
			before := 0.0
			for c := bits.TrailingZeros64(t.begins); !t.known && t.begins>>(c+1) != 0; c++ {
				if !t.mayBegin(c) {
					continue
				}
				before += t.begun[c]
				add(Cut{days: true, side: at, day: c}, undecided(before)*dayWeight)
			}
			at++
		}
	}
}

// openKinds are what each square may ask of its leads, or that it holds nothing, where that is open.
func (d *Daily) openKinds(add func(Cut, float64)) {
	for s, all := range d.kinds {
		if all&(all-1) == 0 {
			continue
		}
		for at, share := range d.asking[s*mostKinds : (s+1)*mostKinds] {
			if share > 0 && share < 1-1e-9 && all>>at&1 != 0 {
				add(Cut{square: s, asks: 1 << at}, undecided(share))
			}
		}
	}
}

// AsksAlike says whether what squares may ask of their leads is counted in the same order by two, so that the parts of one are those of the other.
func (d *Daily) AsksAlike(o *Daily) bool {
	return slices.EqualFunc(d.x.Packing.Packs, o.x.Packing.Packs, func(a, b Pack) bool {
		if a.contents == nil || b.contents == nil {
			return a.contents == b.contents
		}
		return slices.EqualFunc(a.contents.allowed, b.contents.allowed, slices.Equal)
	})
}

// Shut says whether no better plan holds an item in a square.
func (d *Daily) Shut(square, unit, place int) bool { return d.shut[d.at(square, unit, place)] }

// MayBegin says whether a unit may be taught the track of a square first there.
func (d *Daily) MayBegin(square, unit int) bool {
	t, day := d.asked(square, unit)
	return t == nil || t.mayBegin(day)
}
