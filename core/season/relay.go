package season

import (
	"cmp"
	"math"
	"slices"
)

// relay takes a unit out of the plan wherever nothing stands on it and lays it
// anew as a whole: its first teach, then one more exposure after another where it gains most
// for what it pushes out. One exposure of two covers nobody, so a unit comes
// into a plan or leaves it as a whole or not at all; single steps do not find that.
//
// Costs squares of its tracks × items in them, each a look at one unit's value.
type relay struct {
	st    *state
	rooms [2][]room // per kind, where it could go, the cheapest first
	log   []change
}

// room is a square with what must go to make room for an item, and what that costs.
type room struct {
	square   int32
	audience int32
	goes     [3]int8 // places of items in the square; −1 ends the list
	cost     float64
}

// do lays unit u anew and says whether anything changed. back puts all as it was.
func (r *relay) do(u int32, tilt float64) bool {
	r.log = r.log[:0]
	st := r.st
	for t := range st.m.p.Tracks {
		if st.m.can[t][u] {
			r.takeOut(t, u)
		}
	}
	for t := range st.m.p.Tracks {
		if st.m.can[t][u] {
			r.layIn(t, u, tilt)
		}
	}
	for i := 0; i < len(r.log) && i < 24; i++ {
		s := r.log[i].square
		for n := 0; n < 4 && r.smallest(s) <= st.m.squares[s].minutes-st.used[s]; n++ {
			had := st.sq[s]
			if !st.addBest(s) {
				break
			}
			r.log = append(r.log, change{s, had})
		}
	}
	return len(r.log) > 0
}

// smallest is the least minutes anything of the square's track takes.
func (r *relay) smallest(s int) int { return r.st.m.least[r.st.m.squares[s].track] }

func (r *relay) try(s int, items []item) bool {
	had := r.st.sq[s]
	if !r.st.try(change{s, items}) {
		return false
	}
	r.log = append(r.log, change{s, had})
	return true
}

// back undoes all of the last do.
func (r *relay) back() {
	st := r.st
	for i := len(r.log) - 1; i >= 0; i-- {
		st.set(r.log[i].square, r.log[i].items)
	}
	for _, c := range r.log {
		st.staffing.call(st, c.square)
	}
	st.settle()
}

// takeOut removes a unit from a track, reviews first; what something stands on stays.
func (r *relay) takeOut(t int, u int32) {
	st := r.st
	var where []int32
	for _, kind := range []uint8{review, teach} {
		where = where[:0]
		for _, o := range st.occs[u] {
			if q := &st.m.squares[o.square]; o.kind == kind && q.track == t && !q.fixed {
				where = append(where, o.square)
			}
		}
		slices.SortFunc(where, func(a, b int32) int { return cmp.Compare(b, a) }) // the first teach last
		for _, s := range where {
			r.try(int(s), less(st.sq[s], u))
		}
	}
}

func less(items []item, u int32) []item {
	return slices.DeleteFunc(slices.Clone(items), func(it item) bool { return it.unit == u })
}

// layIn grows a unit in a track: from each of a few places for its first
// teach, as long as what it gains is more than what it pushes out; the best is taken.
func (r *relay) layIn(t int, u int32, tilt float64) {
	st := r.st
	r.findRooms(t, u)
	first := st.first(t, u)
	if first != never {
		r.apply(u, r.grow(t, u, first, nil, tilt))
		return
	}
	ground := 0
	for _, need := range st.m.units[u].requires {
		ground = max(ground, st.first(t, need))
	}
	if ground == never {
		return
	}
	var best []choiceOf
	most := 1e-9
	cheapest := math.Inf(1)
	tried := 0
	inOrder := slices.Clone(r.rooms[teach])
	slices.SortFunc(inOrder, func(a, b room) int { return cmp.Compare(a.square, b.square) })
	for i := range inOrder {
		x := &inOrder[i]
		q := &st.m.squares[x.square]
		// A later start is worth a look only where it is cheaper than all before.
		if q.day <= ground || x.cost >= cheapest-1e-12 || tried > 5 {
			continue
		}
		cheapest = x.cost
		tried++
		grown := r.grow(t, u, q.day, x, tilt)
		if net := grown.net; net > most {
			most, best = net, grown.items
		}
	}
	r.apply(u, grown{items: best})
}

type choiceOf struct {
	room *room
	kind uint8
}

type grown struct {
	items []choiceOf
	net   float64
}

// grow adds exposures after a first day, the one with the best gain for its
// cost each time, and keeps the length at which the whole is worth most.
func (r *relay) grow(t int, u int32, first int, start *room, tilt float64) (best grown) {
	st := r.st
	x := &st.m.units[u]
	occs := append([]occ{}, st.occs[u]...)
	mark := st.mark[u]
	now := st.valueAt(u, mark, occs)
	ground, spent := now[0], 0.0
	var all []choiceOf
	taken := map[int32]bool{}
	add := func(c choiceOf) {
		all = append(all, c)
		taken[c.room.square] = true
		occs = append(occs, occ{c.room.square, c.room.audience, c.kind})
		mark += st.m.audiences[c.room.audience].mark[c.kind]
		now = st.valueAt(u, mark, occs)
		spent += c.room.cost
		if net := now[0] - ground - spent; net > best.net {
			best = grown{slices.Clone(all), net}
		}
	}
	if start != nil {
		add(choiceOf{start, teach})
	}
	for range 9 {
		var pick choiceOf
		most := 1e-9
		seen := map[int32]bool{}
		for kind := teach; kind <= review; kind++ {
			clear(seen)
			for i := range r.rooms[kind] {
				c := &r.rooms[kind][i]
				if seen[c.audience] || taken[c.square] || hasUnit(st.sq[c.square], u) || st.m.squares[c.square].day <= first && kind == review || st.m.squares[c.square].day < first {
					continue
				}
				seen[c.audience] = true // the cheapest of its audience
				v := st.valueAt(u, mark+st.m.audiences[c.audience].mark[kind], append(occs[:len(occs):len(occs)], occ{c.square, c.audience, kind}))
				gain := v[0] - now[0] + tilt*(v[1]-now[1]) - c.cost
				if gain = gain / float64(x.cost[kind]); gain > most {
					most, pick = gain, choiceOf{c, kind}
				}
			}
		}
		if pick.room == nil {
			break
		}
		add(pick)
	}
	return best
}

// apply puts what was grown into the plan, what is in its way out of it.
func (r *relay) apply(u int32, g grown) {
	for _, c := range g.items {
		s := int(c.room.square)
		var items []item
		for i, it := range r.st.sq[s] {
			if !slices.Contains(c.room.goes[:], int8(i)) {
				items = append(items, it)
			}
		}
		r.try(s, append(items, item{unit: u, kind: c.kind}))
	}
}

// findRooms looks in every square of a track for what would have to go.
func (r *relay) findRooms(t int, u int32) {
	st := r.st
	for kind := teach; kind <= review; kind++ {
		r.rooms[kind] = r.rooms[kind][:0]
	}
	var loss [32]float64
	for _, s := range st.m.byTrack[t] {
		q := &st.m.squares[s]
		if q.fixed || hasUnit(st.sq[s], u) {
			continue
		}
		items := st.sq[s]
		if len(items) > len(loss) {
			continue
		}
		for i, it := range items {
			loss[i] = r.loss(t, s, it)
		}
		for kind := teach; kind <= review; kind++ {
			x := room{square: s, goes: [3]int8{-1, -1, -1}}
			over := st.used[s] + st.m.units[u].cost[kind] - q.minutes
			if over > 0 && !r.evict(&x, items, loss[:len(items)], over) {
				continue
			}
			x.audience = q.audiences[len(q.audiences)-1]
			if q.uneven {
				x.audience = r.audienceAt(q, items, &x, st.m.units[u].cost[kind])
			}
			r.rooms[kind] = append(r.rooms[kind], x)
		}
	}
	for kind := teach; kind <= review; kind++ {
		slices.SortStableFunc(r.rooms[kind], func(a, b room) int { return cmp.Compare(a.cost, b.cost) })
	}
}

// audienceAt is who would hear an item at the end of what stays.
func (r *relay) audienceAt(q *square, items []item, x *room, minutes int) int32 {
	used := minutes
	for i, it := range items {
		if !slices.Contains(x.goes[:], int8(i)) {
			used += r.st.m.units[it.unit].cost[it.kind]
		}
	}
	for i := len(q.classes) - 1; i > 0; i-- {
		if r.st.m.p.Classes[q.classes[i]].TeachMinutes >= used {
			return q.audiences[i]
		}
	}
	return q.audiences[0]
}

// loss is what the plan loses without an item, or infinite when something stands on it.
func (r *relay) loss(t int, s int32, it item) float64 {
	st := r.st
	if it.kind == teach && st.first(t, it.unit) == st.m.squares[s].day {
		if len(st.occs[it.unit]) > 1 {
			return math.Inf(1)
		}
		for _, d := range st.m.units[it.unit].opens {
			if any, _ := st.earliest(t, d); any != never {
				return math.Inf(1)
			}
		}
	}
	rest := make([]occ, 0, 16)
	for _, o := range st.occs[it.unit] {
		if o.square != s {
			rest = append(rest, o)
		}
	}
	v := st.valueAt(it.unit, st.mark[it.unit]-st.m.audiences[it.audience].mark[it.kind], rest)
	return st.val[it.unit] - v[0]
}

// evict chooses up to three items to go, the cheapest way that gives enough
// minutes among single items and those that lose least per minute.
func (r *relay) evict(x *room, items []item, loss []float64, over int) bool {
	x.cost = math.Inf(1)
	minutes := func(i int) int { return r.st.m.units[items[i].unit].cost[items[i].kind] }
	for i := range items {
		if minutes(i) >= over && loss[i] < x.cost {
			x.goes, x.cost = [3]int8{int8(i), -1, -1}, loss[i]
		}
	}
	for i := range items {
		for j := range i {
			if c := loss[i] + loss[j]; minutes(i)+minutes(j) >= over && c < x.cost {
				x.goes, x.cost = [3]int8{int8(i), int8(j), -1}, c
			}
			for k := range j {
				if c := loss[i] + loss[j] + loss[k]; minutes(i)+minutes(j)+minutes(k) >= over && c < x.cost {
					x.goes, x.cost = [3]int8{int8(i), int8(j), int8(k)}, c
				}
			}
		}
	}
	return !math.IsInf(x.cost, 1)
}
