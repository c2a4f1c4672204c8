package search

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/season/model"
)

// Relay takes a unit out of the plan wherever nothing stands on it and lays it
// anew as a whole: its first teach, then one more exposure after another where it gains most
// for what it pushes out. One exposure of two covers nobody, so a unit comes
// into a plan or leaves it as a whole or not at all; single steps do not find that.
//
// Costs squares of its tracks × items in them, each a look at one unit's value.
type Relay struct {
	State *model.State
	Rooms [2][]Room // per kind, where it could go, the cheapest first
	log   []model.Change
	alone bool // in one track
	track int
}

// Room is a square with what must go to make room for an item, and what that costs.
type Room struct {
	Square   int32
	audience int32
	Goes     [3]int8 // places of items in the square; −1 ends the list
	Cost     float64
}

// do lays unit u anew and says whether anything changed. back puts all as it was.
func (r *Relay) do(u int32, tilt float64) bool {
	r.log = r.log[:0]
	st := r.State
	for t := range st.Model.Problem.Tracks {
		if st.Model.Can[t][u] && (!r.alone || t == r.track) {
			r.takeOut(t, u)
		}
	}
	for t := range st.Model.Problem.Tracks {
		if st.Model.Can[t][u] && (!r.alone || t == r.track) {
			r.layIn(t, u, tilt)
		}
	}
	for i := 0; i < len(r.log) && i < 24; i++ {
		s := r.log[i].Square
		for n := 0; n < 4 && r.smallest(s) <= st.Model.Squares[s].Minutes-st.Used[s]; n++ {
			had := st.Items[s]
			if !addBest(st, s) {
				break
			}
			r.log = append(r.log, model.Change{Square: s, Items: had})
		}
	}
	return len(r.log) > 0
}

// smallest is the least minutes anything of the square's track takes.
func (r *Relay) smallest(s int) int { return r.State.Model.Least[r.State.Model.Squares[s].Track] }

func (r *Relay) try(s int, items []model.Item) bool {
	had := r.State.Items[s]
	if !r.State.Try(model.Change{Square: s, Items: items}) {
		return false
	}
	r.log = append(r.log, model.Change{Square: s, Items: had})
	return true
}

// back undoes all of the last do.
func (r *Relay) back() {
	undo(r.State, r.log)
}

// takeOut removes a unit from a track, reviews first; what something stands on stays.
func (r *Relay) takeOut(t int, u int32) {
	st := r.State
	var where []int32
	for _, kind := range []uint8{model.Review, model.Teach} {
		where = where[:0]
		for _, o := range st.Occasions[u] {
			if q := &st.Model.Squares[o.Square]; o.Kind == kind && q.Track == t && !q.Stays() {
				where = append(where, o.Square)
			}
		}
		slices.SortFunc(where, func(a, b int32) int { return cmp.Compare(b, a) }) // the first teach last
		for _, s := range where {
			r.try(int(s), model.Without(st.Items[s], u))
		}
	}
}

// layIn grows a unit in a track: from each of a few places for its first
// teach, as long as what it gains is more than what it pushes out; the best is taken.
func (r *Relay) layIn(t int, u int32, tilt float64) {
	st := r.State
	first := st.First(t, u)
	if first != model.Never {
		r.FindRooms(t, u)
		r.apply(u, r.grow(t, u, first, nil, tilt))
		return
	}
	ground := 0
	for _, need := range st.Model.Units[u].Requires {
		ground = max(ground, r.introduce(t, need, tilt, 0))
	}
	if ground == model.Never {
		return
	}
	r.FindRooms(t, u)
	var best []choiceOf
	most := 1e-9
	starts := r.starts(ground)
	for i := range starts {
		grown := r.grow(t, u, st.Model.Squares[starts[i].Square].Day, &starts[i], tilt)
		if net := grown.net; net > most {
			most, best = net, grown.items
		}
	}
	r.apply(u, grown{items: best})
}

// mostStarts is how many places for a first teach are looked at.
const mostStarts = 6

// starts are places for a first teach after a day, in their order: a later one is worth a look only where it is cheaper than all before.
func (r *Relay) starts(ground int) (starts []Room) {
	inOrder := slices.Clone(r.Rooms[model.Teach])
	slices.SortFunc(inOrder, func(a, b Room) int { return cmp.Compare(a.Square, b.Square) })
	cheapest := math.Inf(1)
	for _, x := range inOrder {
		if r.State.Model.Squares[x.Square].Day > ground && x.Cost < cheapest-1e-12 && len(starts) < mostStarts {
			cheapest = x.Cost
			starts = append(starts, x)
		}
	}
	return starts
}

type choiceOf struct {
	room *Room
	kind uint8
}

type grown struct {
	items []choiceOf
	net   float64
}

// grow adds exposures after a first day, the one with the best gain for its
// cost each time, and keeps the length at which the whole is worth most.
func (r *Relay) grow(t int, u int32, first int, start *Room, tilt float64) (best grown) {
	st := r.State
	x := &st.Model.Units[u]
	occs := append([]model.Occasion{}, st.Occasions[u]...)
	mark := st.Marks[u]
	now := st.ValueAt(u, mark, occs)
	ground, spent := now[0], 0.0
	var all []choiceOf
	taken := map[int32]bool{}
	add := func(c choiceOf) {
		all = append(all, c)
		taken[c.room.Square] = true
		occs = append(occs, model.Occasion{Square: c.room.Square, Audience: c.room.audience, Kind: c.kind})
		mark += st.Model.Audiences[c.room.audience].Mark[c.kind]
		now = st.ValueAt(u, mark, occs)
		spent += c.room.Cost
		if net := now[0] - ground - spent; net > best.net {
			best = grown{slices.Clone(all), net}
		}
	}
	if start != nil {
		add(choiceOf{start, model.Teach})
	}
	for range 9 {
		var pick choiceOf
		most := 1e-9
		seen := map[int32]bool{}
		for kind := model.Teach; kind <= model.Review; kind++ {
			clear(seen)
			for i := range r.Rooms[kind] {
				c := &r.Rooms[kind][i]
				if seen[c.audience] || taken[c.Square] || model.HasUnit(st.Items[c.Square], u) || st.Model.Squares[c.Square].Day <= first && kind == model.Review || st.Model.Squares[c.Square].Day < first {
					continue
				}
				seen[c.audience] = true // the cheapest of its audience
				v := st.ValueAt(u, mark+st.Model.Audiences[c.audience].Mark[kind], append(occs[:len(occs):len(occs)], model.Occasion{Square: c.Square, Audience: c.audience, Kind: kind}))
				gain := v[0] - now[0] + tilt*(v[1]-now[1]) - c.Cost
				if gain = gain / float64(x.Cost[kind]); gain > most {
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
func (r *Relay) apply(u int32, g grown) {
	for _, c := range g.items {
		s := int(c.room.Square)
		var items []model.Item
		for i, it := range r.State.Items[s] {
			if !slices.Contains(c.room.Goes[:], int8(i)) {
				items = append(items, it)
			}
		}
		r.try(s, append(items, model.Item{Unit: u, Kind: c.kind}))
	}
}

// FindRooms looks in every square of a track for what would have to go.
func (r *Relay) FindRooms(t int, u int32) {
	st := r.State
	for kind := model.Teach; kind <= model.Review; kind++ {
		r.Rooms[kind] = r.Rooms[kind][:0]
	}
	var loss [32]float64
	for _, s := range st.Model.ByTrack[t] {
		q := &st.Model.Squares[s]
		if q.Stays() || model.HasUnit(st.Items[s], u) {
			continue
		}
		items := st.Items[s]
		if len(items) > len(loss) {
			continue
		}
		for i, it := range items {
			loss[i] = r.Loss(t, s, it)
		}
		full, taught := st.Model.Full(int(s), items)
		for kind := model.Teach; kind <= model.Review; kind++ {
			if kind == model.Teach && st.Model.OffLine(q, u) {
				continue
			}
			x := Room{Square: s, Goes: [3]int8{-1, -1, -1}}
			over := st.Used[s] + st.Model.Units[u].Cost[kind] - q.Minutes
			if full {
				over = max(over, 1) // a class that has as many units as it may gives one up
			}
			teach := taught && kind == model.Teach // and one that teaches as many as it may, one of those
			if (over > 0 || teach) && !r.evict(&x, items, loss[:len(items)], over, teach) {
				continue
			}
			x.audience = q.Audiences[len(q.Audiences)-1]
			if q.Uneven {
				x.audience = r.audienceAt(q, items, &x, st.Model.Units[u].Cost[kind])
			}
			r.Rooms[kind] = append(r.Rooms[kind], x)
		}
	}
	for kind := model.Teach; kind <= model.Review; kind++ {
		slices.SortStableFunc(r.Rooms[kind], func(a, b Room) int { return cmp.Compare(a.Cost, b.Cost) })
	}
}

// audienceAt is who would hear an item at the end of what stays.
func (r *Relay) audienceAt(q *model.Square, items []model.Item, x *Room, minutes int) int32 {
	used := minutes
	for i, it := range items {
		if !slices.Contains(x.Goes[:], int8(i)) {
			used += r.State.Model.Units[it.Unit].Cost[it.Kind]
		}
	}
	return r.State.Model.HeardBy(q, used)
}

// Loss is what the plan loses without an item, or infinite when something stands on it.
func (r *Relay) Loss(t int, s int32, it model.Item) float64 {
	st := r.State
	if it.Kind == model.Teach && st.First(t, it.Unit) == st.Model.Squares[s].Day {
		if len(st.Occasions[it.Unit]) > 1 {
			return math.Inf(1)
		}
		for _, d := range st.Model.Units[it.Unit].Opens {
			if any, _ := st.Earliest(t, d); any != model.Never {
				return math.Inf(1)
			}
		}
	}
	v := st.ValueWithout(s, it)
	return st.Values[it.Unit] - v[0]
}

// evict chooses up to three items to go, the cheapest way that gives enough
// minutes among single items and those that lose least per minute; where a teach must go, one that takes one out.
func (r *Relay) evict(x *Room, items []model.Item, loss []float64, over int, teach bool) bool {
	x.Cost = math.Inf(1)
	minutes := func(i int) int { return r.State.Model.Units[items[i].Unit].Cost[items[i].Kind] }
	serves := func(i int) bool { return !teach || items[i].Kind == model.Teach }
	for i := range items {
		if minutes(i) >= over && loss[i] < x.Cost && serves(i) {
			x.Goes, x.Cost = [3]int8{int8(i), -1, -1}, loss[i]
		}
	}
	for i := range items {
		for j := range i {
			if c := loss[i] + loss[j]; minutes(i)+minutes(j) >= over && c < x.Cost && (serves(i) || serves(j)) {
				x.Goes, x.Cost = [3]int8{int8(i), int8(j), -1}, c
			}
			for k := range j {
				if c := loss[i] + loss[j] + loss[k]; minutes(i)+minutes(j)+minutes(k) >= over && c < x.Cost && (serves(i) || serves(j) || serves(k)) {
					x.Goes, x.Cost = [3]int8{int8(i), int8(j), int8(k)}, c
				}
			}
		}
	}
	return !math.IsInf(x.Cost, 1)
}
