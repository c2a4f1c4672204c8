package model

import (
	"math/bits"

	"vereda/core/season"
)

// Staffing knows which coaches could lead what the squares hold, and whether the
// classes of a week can all be led at once: a matching in which a coach may take as
// many classes as the weekly limit allows, found by augmenting paths.
// Costs classes × coaches at most, and only when what a class asks of its lead has changed.
type Staffing struct {
	m    *Model
	Asks [][]uint64 // square, class: coaches who could lead it; noCall when it needs nobody
	Room [][]int8   // week, coach: how many classes are left to them
}

// noCall marks a class without items, or one that was held: nobody is needed.
const noCall = ^uint64(0)

func newStaffing(m *Model) Staffing {
	c := Staffing{m: m, Asks: make([][]uint64, len(m.Squares)), Room: make([][]int8, m.Problem.Weeks+1)}
	for w := range c.Room {
		c.Room[w] = make([]int8, len(m.Problem.Coaches))
		for k, coach := range m.Problem.Coaches {
			c.Room[w][k] = int8(min(coach.MaxPerWeek, 100))
		}
	}
	for s := range m.Squares {
		q := &m.Squares[s]
		c.Asks[s] = make([]uint64, len(q.Classes))
		for i := range q.Classes {
			c.Asks[s][i] = noCall
			if q.Held && q.lead[i] >= 0 && len(q.Given) > 0 {
				c.Room[q.Week][q.lead[i]] = max(0, c.Room[q.Week][q.lead[i]]-1)
			}
		}
	}
	return c
}

// Call reads anew what a square's classes ask of their leads, and says whether
// that changed.
func (c *Staffing) Call(st *State, s int) bool {
	q := &c.m.Squares[s]
	changed := false
	for i, class := range q.Classes {
		mask := noCall
		for _, it := range st.Items[s] {
			if !c.m.includes(it.Audience, class) {
				continue
			}
			if mask == noCall {
				mask = c.m.There[int(class)*(c.m.Problem.Weeks+1)+q.Week]
			}
			mask &= c.m.Units[it.Unit].MayLead
		}
		if q.Held && (mask == 0 || c.m.heldItself(q, class)) {
			mask = noCall // it happened, or follows what happened: then without it
		}
		if q.lead[i] >= 0 && mask != noCall {
			mask &= 1 << q.lead[i]
		}
		if mask != c.Asks[s][i] {
			c.Asks[s][i], changed = mask, true
		}
	}
	return changed
}

func (m *Model) heldItself(q *Square, class int32) bool {
	f, ok := m.asFixed(q, class)
	return ok && f.Held
}

// Week says whether every class of a week that needs a lead can have one.
func (c *Staffing) Week(w int) bool {
	var masks [64]uint64 // there are no more classes
	return matches(c.Called(masks[:0], w), c.Room[w])
}

// Called adds what the classes of a week that need a lead ask for: of each, who could lead it.
func (c *Staffing) Called(masks []uint64, w int) []uint64 {
	for _, s := range c.m.ByWeek[w] {
		for _, mask := range c.Asks[s] {
			if mask != noCall {
				masks = append(masks, mask)
			}
		}
	}
	return masks
}

// CanLead says whether so many classes of a week, and no others, could be led, each by one of its coaches.
func (c *Staffing) CanLead(w int, masks []uint64) bool {
	return len(masks) <= 64 && matches(masks, c.Room[w])
}

// matches says whether each mask can have one of its coaches, none more often
// than there is room.
func matches(masks []uint64, room []int8) bool {
	var owner [64]int8
	var led [64]int8
	for i := range masks {
		owner[i] = -1
	}
	var seen uint64
	var place func(i int) bool
	place = func(i int) bool {
		for left := masks[i] &^ seen; left != 0; left = masks[i] &^ seen {
			k := bits.TrailingZeros64(left)
			seen |= 1 << k
			if led[k] < room[k] {
				led[k]++
				owner[i] = int8(k)
				return true
			}
			for j := range masks {
				if owner[j] == int8(k) && j != i && place(j) {
					owner[i] = int8(k)
					return true
				}
			}
		}
		return false
	}
	for i := range masks {
		seen = 0
		if !place(i) {
			return false
		}
	}
	return true
}

// Leading is how many of the first items fit into some minutes.
func (m *Model) Leading(items []season.Item, minutes int) int {
	for i, it := range items {
		if minutes -= m.Units[m.UnitAt[it.Unit]].Cost[KindOf(it.Kind)]; minutes < 0 {
			return i
		}
	}
	return len(items)
}
