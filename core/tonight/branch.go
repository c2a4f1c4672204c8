package tonight

import (
	"cmp"
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

// price moves the multipliers toward the least bound.
func (b *branching) price() {
	n := len(b.items)
	lambda, mu := make([]float64, n), make([]float64, b.students)
	b.lambda, b.mu = slices.Clone(lambda), slices.Clone(mu)
	b.dual = inf
	alongLambda, alongMu := make([]float64, n), make([]float64, b.students)
	uses, of := make([]int, n), make([]int, b.students)
	low, first := b.place(b.byWorth(lambda, mu))
	starts := []start{{low, first}}
	defer func() { b.starts = bestOf(starts) }()
	scale, since := 1.0, 0
	steps := min(240, max(60, int(work/float64(b.coaches*n*(b.capacity+1)))))
	for n := range steps {
		clear(uses)
		clear(of)
		total := 0.0
		for i := range lambda {
			total += lambda[i]
		}
		for i := range mu {
			total += mu[i] * float64(b.most)
		}
		for k := range b.coaches {
			total += b.fill(k, lambda, mu, uses)
		}
		if total < b.dual-tie {
			b.dual, since = total, 0
			copy(b.lambda, lambda)
			copy(b.mu, mu)
		} else if since++; since == 8 {
			scale, since = scale/2, 0
		}
		norm := 0.0
		for i, x := range b.items {
			of[x.student] += uses[i]
			norm += deflect(&alongLambda[i], float64(uses[i]-1), lambda[i])
		}
		for i := range of {
			norm += deflect(&alongMu[i], float64(of[i]-b.most), mu[i])
		}
		if n%4 == 0 { // prices that differ little choose the same
			value, by := b.place(b.byWorth(lambda, mu))
			low = max(low, value)
			if starts = append(starts, start{value, by}); len(starts) > 2*mostStarts {
				starts = bestOf(starts)
			}
		}
		if norm == 0 || total <= low+tie {
			break
		}
		step := scale * (total - low) / norm
		for i := range lambda {
			lambda[i] = max(0, lambda[i]+step*alongLambda[i])
		}
		for i := range mu {
			mu[i] = max(0, mu[i]+step*alongMu[i])
		}
	}
}

// start is a choice to improve.
type start struct {
	value float64
	by    [][]int
}

// bestOf are the starts worth most, the same worth once.
func bestOf(all []start) []start {
	slices.SortStableFunc(all, func(a, b start) int { return cmp.Compare(b.value, a.value) })
	all = slices.CompactFunc(all, func(a, b start) bool { return a.value-b.value <= tie })
	return all[:min(mostStarts, len(all))]
}

// deflect turns a direction toward the newest one, so that prices do not swing to and fro, and is its square: a price of nothing does not fall.
func deflect(along *float64, newest, price float64) float64 {
	*along = 0.7**along + newest
	if price == 0 && *along < 0 {
		*along = 0
	}
	return *along * *along
}

// fill is one coach's own best choice at these prices; what it uses is counted.
func (b *branching) fill(coach int, lambda, mu []float64, uses []int) float64 {
	n, c := len(b.items), b.capacity
	if len(b.scratch) < (n+1)*(c+1) {
		b.scratch = make([]float64, (n+1)*(c+1))
	}
	best := b.scratch
	clear(best[:c+1])
	for i, x := range b.items {
		row, next := best[i*(c+1):(i+1)*(c+1)], best[(i+1)*(c+1):(i+2)*(c+1)]
		copy(next, row)
		worth := x.value - lambda[i] - mu[x.student]
		if !x.can[coach] || worth <= 0 {
			continue
		}
		for u := b.size[i]; u <= c; u++ {
			next[u] = max(next[u], row[u-b.size[i]]+worth)
		}
	}
	u := c
	for i := n - 1; i >= 0; i-- {
		if best[(i+1)*(c+1)+u] > best[i*(c+1)+u]+tie {
			uses[i]++
			u -= b.size[i]
		}
	}
	return best[n*(c+1)+c]
}

// byWorth orders items by what they are worth a minute at these prices.
func (b *branching) byWorth(lambda, mu []float64) []int {
	seq := make([]int, len(b.items))
	for i := range seq {
		seq[i] = i
	}
	worth := func(i int) float64 {
		x := b.items[i]
		return (x.value - lambda[i]/2 - mu[x.student]/2) / x.size
	}
	slices.SortStableFunc(seq, func(i, j int) int { return cmp.Compare(worth(j), worth(i)) })
	return seq
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

// place takes what fits, in an order.
func (b *branching) place(seq []int) (float64, [][]int) {
	load, used, by, value := make([]float64, b.coaches), make([]int, b.students), make([][]int, b.coaches), 0.0
	for _, i := range seq {
		x := b.items[i]
		if used[x.student] == b.most {
			continue
		}
		to := -1
		for k := range load { // the coach with the fewest ways to be used otherwise, then the fullest
			if x.can[k] && load[k]+x.size <= b.room+tie && (to < 0 || cmp.Or(len(b.p.Coaches[k].Signoffs)-len(b.p.Coaches[to].Signoffs), cmp.Compare(load[to], load[k])) < 0) {
				to = k
			}
		}
		if to >= 0 {
			load[to] += x.size
			used[x.student]++
			by[to] = append(by[to], i)
			value += x.value
		}
	}
	return value, by
}

// improve changes a choice while that makes it worth more: one more check, or one or two for one, at one coach.
func (b *branching) improve(by [][]int) [][]int {
	load, used, in := make([]float64, b.coaches), make([]int, b.students), make([]bool, len(b.items))
	for k := range by {
		by[k] = slices.Clone(by[k])
		for _, i := range by[k] {
			load[k], in[i] = load[k]+b.items[i].size, true
			used[b.items[i].student]++
		}
	}
	fits := func(k, i int, room float64) bool {
		x := b.items[i]
		return !in[i] && x.can[k] && x.size <= room+tie && used[x.student] < b.most
	}
	add := func(k, i int) {
		in[i], load[k] = true, load[k]+b.items[i].size
		used[b.items[i].student]++
		by[k] = append(by[k], i)
	}
	drop := func(k, n int) int {
		i := by[k][n]
		by[k] = slices.Delete(by[k], n, n+1)
		in[i], load[k] = false, load[k]-b.items[i].size
		used[b.items[i].student]--
		return i
	}
	// fill is what is worth most for a coach's room: one check, or two.
	fill := func(k int) (best []int, worth float64) {
		room := b.room - load[k]
		for i := range b.items {
			if !fits(k, i, room) {
				continue
			}
			x := b.items[i]
			if x.value > worth+tie {
				best, worth = []int{i}, x.value
			}
			used[x.student]++
			for j := i + 1; j < len(b.items); j++ {
				if y := b.items[j]; x.value+y.value > worth+tie && fits(k, j, room-x.size) {
					best, worth = []int{i, j}, x.value+y.value
				}
			}
			used[x.student]--
		}
		return best, worth
	}
	// one is the single check worth most for a coach's room.
	one := func(k int) (best int, worth float64) {
		best = -1
		for i, x := range b.items {
			if x.value > worth+tie && fits(k, i, b.room-load[k]) {
				best, worth = i, x.value
			}
		}
		return best, worth
	}
	// instead puts a check in where its student or its coach has no room: theirs of least worth goes, and the room that leaves is used. It stays
	// only where all that is worth more.
	instead := func(i, k int) bool {
		x := b.items[i]
		type gone struct{ item, at int }
		var out []gone
		var in1 []gone
		gain := x.value
		if used[x.student] == b.most {
			from, at := -1, -1
			for c := range by {
				for n, j := range by[c] {
					if b.items[j].student == x.student && (from < 0 || b.items[j].value < b.items[by[from][at]].value) {
						from, at = c, n
					}
				}
			}
			out = append(out, gone{drop(from, at), from})
		}
		for b.room-load[k] < x.size-tie {
			least, at := inf, -1
			for n, j := range by[k] {
				if v := b.items[j].value; v < least && (b.items[j].size >= x.size-(b.room-load[k])-tie || len(by[k]) > 1) {
					least, at = v, n
				}
			}
			if at < 0 {
				break
			}
			out = append(out, gone{drop(k, at), k})
		}
		if fits(k, i, b.room-load[k]) {
			add(k, i)
			in1 = append(in1, gone{i, k})
			for _, o := range out {
				gain -= b.items[o.item].value
			}
			for c := range by {
				for more, worth := one(c); more >= 0; more, worth = one(c) {
					add(c, more)
					in1 = append(in1, gone{more, c})
					gain += worth
				}
			}
			if gain > 1e-7 {
				return true
			}
		}
		for _, o := range slices.Backward(in1) {
			drop(o.at, slices.Index(by[o.at], o.item))
		}
		for _, o := range slices.Backward(out) {
			add(o.at, o.item)
		}
		return false
	}
	for again := true; again; {
		again = false
		for k := range by {
			for more, worth := fill(k); worth > 0; more, worth = fill(k) {
				for _, i := range more {
					add(k, i)
				}
				again = true
			}
			for n := 0; n < len(by[k]); n++ {
				was := drop(k, n)
				better, worth := fill(k)
				if worth <= b.items[was].value+tie {
					add(k, was)
					by[k] = slices.Insert(by[k][:len(by[k])-1], n, was)
					continue
				}
				for _, i := range better {
					add(k, i)
				}
				again = true
			}
		}
		if again {
			continue
		}
		for i, x := range b.items {
			for k := range by {
				if !in[i] && x.can[k] && x.size <= b.room+tie && instead(i, k) {
					again = true
				}
			}
		}
	}
	return by
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

// times finds an order for each coach in which no student is at two places; gaveUp when none was found in the steps given.
func (b *branching) times(by [][]int) (at [][]float64, found, gaveUp bool) {
	t := timing{b: b, by: by, at: make([][]float64, len(by)), next: make([]float64, len(by)), free: make([]float64, b.students), left: orders}
	n := 0
	for k, list := range by {
		t.at[k] = make([]float64, len(list))
		for j := range list {
			t.at[k][j] = -1
		}
		n += len(list)
	}
	found = t.place(n, 0)
	return t.at, found, !found && t.left <= 0
}

type timing struct {
	b    *branching
	by   [][]int
	at   [][]float64
	next []float64 // when each coach is free
	free []float64 // when each student is
	left int
}

// place times what is left, in the order of the beginnings: any plan can be written so, each check as soon as its coach and its student are free. The
// coach who is free first is tried first.
func (t *timing) place(left int, last float64) bool {
	if left == 0 {
		return true
	}
	if t.left--; t.left <= 0 {
		return false
	}
	var turn []int
	for k, list := range t.by {
		need, open := 0.0, false
		for j, i := range list {
			if t.at[k][j] < 0 {
				need, open = need+t.b.items[i].size, true
			}
		}
		if open && t.next[k]+need > t.b.room+1e-6 {
			return false
		}
		if open {
			turn = append(turn, k)
		}
	}
	slices.SortStableFunc(turn, func(a, b int) int { return cmp.Compare(t.next[a], t.next[b]) })
	for _, k := range turn {
		for j, i := range t.by[k] {
			if t.at[k][j] >= 0 {
				continue
			}
			x := t.b.items[i]
			start := max(t.next[k], t.free[x.student])
			end := start + x.size - t.b.p.ChangeMinutes
			if start < last-1e-6 || end > t.b.p.Minutes+1e-6 {
				continue
			}
			next, free := t.next[k], t.free[x.student]
			t.at[k][j], t.next[k], t.free[x.student] = start, start+x.size, end
			if t.place(left-1, start) {
				return true
			}
			t.at[k][j], t.next[k], t.free[x.student] = -1, next, free
		}
	}
	return false
}
