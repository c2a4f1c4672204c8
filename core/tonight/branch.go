package tonight

import (
	"math"
	"slices"
)

const (
	work       = 30e6    // what all steps of the multipliers may cost, in entries of the programs
	nodes      = 400_000 // of the search
	orders     = 20_000  // tried to time one choice
	mostStarts = 8       // choices that are improved
	mostUnits  = 1200    // of a coach's time, for the bound
)

// branch solves a problem in which checks take different times.
//
// The bound: what one candidate and one student may use is priced (multipliers, Held and Karp's way), and each coach then fills their time on their
// own, exactly, by a dynamic program over units of time. The search asks for a choice within a small part of the bound, then a larger one: what
// cannot be in such a choice by its price is left out, and of the rest it decides candidate after candidate to which coach each goes, and cuts where what
// is decided and the coaches' programs for the rest come to no more than is asked. A search that ends without a choice lowers the bound.
func (s *search) branch(relaxed float64) Answer {
	b := &branching{search: s, coaches: len(s.p.Coaches), left: nodes}
	b.divide()
	b.price()
	root := min(b.dual, relaxed)
	for _, by := range b.starts {
		b.take(b.improve(by.by))
	}
	for _, part := range []float64{0.0005, 0.002, 0.006, 0.02, 0.06, 1} {
		floor := max(b.best, root*(1-part))
		had := b.best
		whole := b.searchAbove(floor)
		if !whole {
			if b.left <= 0 {
				break
			}
			continue
		}
		root = min(root, max(b.best, floor)) // nothing is worth more
		if b.best > had && b.best >= floor || root <= b.best+tie {
			break
		}
	}
	return s.answer(b.by, b.at, max(root, b.best))
}

// searchAbove looks for a choice that is worth more than floor; whole says that it looked everywhere.
func (b *branching) searchAbove(floor float64) (whole bool) {
	b.floor, b.untimed = floor, false
	b.order()
	if len(b.seq) == 0 {
		return true
	}
	b.tables()
	b.load, b.used, b.to = make([]float64, b.coaches), make([]int, b.students), make([]int, len(b.items))
	b.units = make([]int, b.coaches)
	for k := range b.units {
		b.units[k] = b.capacity
	}
	b.rest, b.value = 0, 0
	for i := range b.to {
		b.to[i] = -1
	}
	for _, i := range b.seq {
		b.rest += b.lambda[i]
	}
	for i := range b.mu {
		b.rest += b.mu[i] * float64(b.most)
	}
	most := b.left - nodes/6
	if floor <= b.best {
		most = 0
	}
	b.until = most
	b.descend(0)
	return b.left > b.until && !b.untimed
}

type branching struct {
	*search
	coaches  int
	unit     float64 // minutes
	capacity int     // units of a coach
	size     []int   // units of each item, rounded down: the bound stays one
	lambda   []float64
	mu       []float64
	dual     float64       // the best bound of the multipliers
	seq      []int         // items in the order they are decided
	table    [][][]float64 // coach, from this item on, units left: the most their own program makes of it
	load     []float64     // minutes used of each coach
	units    []int         // units left of each coach
	used     []int         // checks of each student
	to       []int         // item: coach, or −1
	value    float64       // of what is decided
	rest     float64       // multipliers of what is not decided
	left     int           // nodes
	scratch  []float64     // of the programs
	starts   []start       // choices to improve
	untimed  bool          // a choice was put away because no order of it was found in the steps given
	until    int           // nodes left at which a search ends
	floor    float64       // what a choice must be worth more than
	open     [][]bool      // item, coach: can be in such a choice
	best     float64
	by       [][]int
	at       [][]float64
}

// divide parts time into units: seconds, or the largest that divides all sizes, or as many as the bound is given.
func (b *branching) divide() {
	whole := int(math.Floor(b.room*60 + tie))
	unit := whole
	for _, x := range b.items {
		unit = gcd(unit, int(math.Round(x.size*60)))
	}
	unit = max(1, unit, (whole+mostUnits-1)/mostUnits)
	b.unit, b.capacity = float64(unit)/60, whole/unit
	for _, x := range b.items {
		b.size = append(b.size, max(1, int(x.size*60+tie)/unit))
	}
}

func gcd(a, b int) int {
	for b > 0 {
		a, b = b, a%b
	}
	return a
}

// order leaves out what cannot be in a choice that is worth more than the floor, and decides first what the prices are surest of.
func (b *branching) order() {
	b.open = make([][]bool, len(b.items))
	for i := range b.open {
		b.open[i] = make([]bool, b.coaches)
	}
	n, c := len(b.items), b.capacity
	before, after := make([]float64, (n+1)*(c+1)), make([]float64, (n+1)*(c+1))
	for k := range b.coaches {
		worth := func(i int) float64 { return b.items[i].value - b.lambda[i] - b.mu[b.items[i].student] }
		fill := func(from, to []float64, i int) {
			copy(to, from)
			if w := worth(i); b.items[i].can[k] && w > 0 {
				for u := b.size[i]; u <= c; u++ {
					to[u] = max(to[u], from[u-b.size[i]]+w)
				}
			}
		}
		row := func(t []float64, i int) []float64 { return t[i*(c+1) : (i+1)*(c+1)] }
		clear(row(before, 0))
		clear(row(after, n))
		for i := range n {
			fill(row(before, i), row(before, i+1), i)
		}
		for i := n - 1; i >= 0; i-- {
			fill(row(after, i+1), row(after, i), i)
		}
		top := row(before, n)[c]
		for i := range n {
			if !b.items[i].can[k] {
				continue
			}
			with := -inf
			for u := 0; u+b.size[i] <= c; u++ {
				with = max(with, row(before, i)[u]+row(after, i+1)[c-u-b.size[i]])
			}
			b.open[i][k] = b.dual-top+with+worth(i) > b.floor+tie
		}
	}
	b.seq = slices.DeleteFunc(b.byWorth(b.lambda, b.mu), func(i int) bool { return !slices.Contains(b.open[i], true) })
}

// tables are the coaches' own programs for what is decided from each place on.
func (b *branching) tables() {
	n, c := len(b.seq), b.capacity
	b.table = make([][][]float64, b.coaches)
	for k := range b.table {
		b.table[k] = make([][]float64, n+1)
		b.table[k][n] = make([]float64, c+1)
		for at := n - 1; at >= 0; at-- {
			i := b.seq[at]
			x := b.items[i]
			next := b.table[k][at+1]
			worth := x.value - b.lambda[i] - b.mu[x.student]
			if !b.open[i][k] || worth <= 0 {
				b.table[k][at] = next
				continue
			}
			row := slices.Clone(next)
			for u := b.size[i]; u <= c; u++ {
				row[u] = max(row[u], next[u-b.size[i]]+worth)
			}
			b.table[k][at] = row
		}
	}
}

// bound is the most that anything can be worth from here on.
func (b *branching) bound(at int) float64 {
	total := b.value + b.rest
	for k := range b.coaches {
		total += b.table[k][at][b.units[k]]
	}
	return total
}

// take keeps a choice that is worth more than the best, if it can be timed.
func (b *branching) take(by [][]int) {
	value := 0.0
	for _, list := range by {
		for _, i := range list {
			value += b.items[i].value
		}
	}
	if value <= b.best+tie && b.by != nil {
		return
	}
	at, found, gaveUp := b.times(by)
	b.untimed = b.untimed || gaveUp
	if !found {
		return
	}
	b.best, b.at, b.by = value, at, by
}

// descend decides the item at a place, and those after it.
func (b *branching) descend(at int) {
	if b.left--; b.left <= b.until || b.bound(at) <= max(b.best, b.floor)+tie {
		return
	}
	if at == len(b.seq) {
		by := make([][]int, b.coaches)
		for _, i := range b.seq {
			if k := b.to[i]; k >= 0 {
				by[k] = append(by[k], i)
			}
		}
		b.take(by)
		return
	}
	i := b.seq[at]
	x := b.items[i]
	rest := b.rest
	b.rest -= b.lambda[i]
	if b.used[x.student] < b.most {
		for k := range b.coaches {
			if !b.open[i][k] || b.load[k]+x.size > b.room+tie || b.units[k] < b.size[i] || b.twin(k) {
				continue
			}
			b.load[k], b.units[k], b.value = b.load[k]+x.size, b.units[k]-b.size[i], b.value+x.value
			b.rest -= b.mu[x.student]
			b.used[x.student]++
			b.to[i] = k
			b.descend(at + 1)
			b.to[i] = -1
			b.used[x.student]--
			b.rest += b.mu[x.student]
			b.load[k], b.units[k], b.value = b.load[k]-x.size, b.units[k]+b.size[i], b.value-x.value
		}
	}
	b.descend(at + 1)
	b.rest = rest
}

// twin says that an earlier coach who may check the same has nothing yet either: it is the same to use that one.
func (b *branching) twin(coach int) bool {
	if b.load[coach] > 0 {
		return false
	}
	for k := range coach {
		if b.load[k] == 0 && b.alike(k, coach) {
			return true
		}
	}
	return false
}

func (b *branching) alike(x, y int) bool {
	for _, i := range b.items {
		if i.can[x] != i.can[y] {
			return false
		}
	}
	return true
}
