package season

import (
	"math/bits"
	"slices"
)

// staffing knows which coaches could lead what the squares hold, and whether the
// classes of a week can all be led at once: a matching in which a coach may take as
// many classes as the weekly limit allows, found by augmenting paths.
// Costs classes × coaches at most, and only when what a class asks of its lead has changed.
type staffing struct {
	m    *model
	asks [][]uint64 // square, class: coaches who could lead it; noCall when it needs nobody
	room [][]int8   // week, coach: how many classes are left to them
}

// noCall marks a class without items, or one that was held: nobody is needed.
const noCall = ^uint64(0)

func newStaffing(m *model) staffing {
	c := staffing{m: m, asks: make([][]uint64, len(m.squares)), room: make([][]int8, m.p.Weeks+1)}
	for w := range c.room {
		c.room[w] = make([]int8, len(m.p.Coaches))
		for k, coach := range m.p.Coaches {
			c.room[w][k] = int8(min(coach.MaxPerWeek, 100))
		}
	}
	for s := range m.squares {
		q := &m.squares[s]
		c.asks[s] = make([]uint64, len(q.classes))
		for i := range q.classes {
			c.asks[s][i] = noCall
			if q.held && q.lead[i] >= 0 && len(q.given) > 0 {
				c.room[q.week][q.lead[i]] = max(0, c.room[q.week][q.lead[i]]-1)
			}
		}
	}
	return c
}

// call reads anew what a square's classes ask of their leads, and says whether
// that changed.
func (c *staffing) call(st *state, s int) bool {
	q := &c.m.squares[s]
	changed := false
	for i, class := range q.classes {
		mask := noCall
		for _, it := range st.sq[s] {
			if !c.m.includes(it.audience, class) {
				continue
			}
			if mask == noCall {
				mask = c.m.there[int(class)*(c.m.p.Weeks+1)+q.week]
			}
			mask &= c.m.units[it.unit].mayLead
		}
		if q.held && (mask == 0 || c.m.heldItself(q, class)) {
			mask = noCall // it happened, or follows what happened: then without it
		}
		if q.lead[i] >= 0 && mask != noCall {
			mask &= 1 << q.lead[i]
		}
		if mask != c.asks[s][i] {
			c.asks[s][i], changed = mask, true
		}
	}
	return changed
}

func (m *model) heldItself(q *square, class int32) bool {
	f, ok := m.asFixed(q, class)
	return ok && f.Held
}

// week says whether every class of a week that needs a lead can have one.
func (c *staffing) week(w int) bool {
	var masks [64]uint64
	n := 0
	for _, s := range c.m.byWeek[w] {
		for _, mask := range c.asks[s] {
			if mask != noCall && n < len(masks) {
				masks[n] = mask
				n++
			}
		}
	}
	return matches(masks[:n], c.room[w])
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

// refusal says why a coach cannot lead a class with these items in a week, or "".
func (c Coach) refusal(p Problem, week int, class string, items []Item) string {
	if !slices.Contains(c.Available, class) {
		return "not available"
	}
	for _, o := range c.Out {
		if o.covers(week, class) {
			return o.words()
		}
	}
	for _, it := range items {
		for _, u := range p.Units {
			if u.ID == it.Unit && u.Signoff != "" && !slices.Contains(c.Signoffs, u.Signoff) {
				return "not signed off for " + u.Signoff
			}
		}
	}
	return ""
}
