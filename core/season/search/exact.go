package search

import (
	"math"
	"slices"

	"vereda/core/season/bound"
	"vereda/core/season/model"
)

// exhaust is the state of a search that looks at everything (see prove).
type exhaust struct {
	m          *model.Model
	score      float64 // of the best plan known
	best       [][]model.Item
	st         *model.State
	relaxation *bound.Relaxation
	daily      *bound.Daily
	rests      []bound.Rest // per square, what is left from it on
	fills      [][]float64  // per square and minutes, what so many can be paid at most
	tables     []table      // per unit whose choice is open
	tableOf    []int        // per unit, its table; −1 for none
	places     [][][]int    // per square, audience and table, where a teach is counted
	met        map[uint64]bool
	lessened   map[bound.Cut]lessened // what was found of parting there
	apartAt    int                    // microseconds after which tracks are solved one by one next
	solved     float64                // of the best plan when they were last
	readied    int                    // microseconds spent before ways were listed, or without
	states     int
	allowed    int // states it may look at
	stop       func() bool
	hear       *heard  // what a search beside it finds; nil where there is none
	seconds    float64 // the wish it began with
	from       float64 // and the score
	helper     *helper
	shareAt    int // microseconds after which a helper makes ready
}

// table is a unit's ways that can be part of a plan better than the best known: at the prices they gain no more less than the best than the bound lies
// over that plan. Those that gain most come first.
type table struct {
	packed  []counts // of all ways there are
	ways    []way
	now     counts   // how often it is given by now
	paid    float64  // what that costs at the prices, with what it pays for the days it was first taught on
	charged float64  // that alone
	squares []int    // that give it
	room    []counts // per square, how often it can still be given from there on
	both    []counts // and taught or reviewed together
	best    map[given]float64
}

// given is how often a unit is given before a square.
type given struct {
	now    counts
	square int
}

// counts are how often a unit is given, a byte for each kind in each dim, so that all are compared at once.
type counts [2]uint64

type way struct {
	counts counts
	most   float64 // that it and those after it gain at the prices
	at     int32   // among those of its unit
}

const (
	mostDims = 8
	highs    = 0x8080808080808080 // of each byte
	highs16  = 0x8000800080008000 // of each pair of them
	firsts   = 0x00ff00ff00ff00ff // of each pair, the first
)

func packed(all []uint8) (c counts) {
	for i, n := range all {
		c[i/8] |= uint64(n) << (i % 8 * 8)
	}
	return c
}

// within says whether each of c is at most what it is in top. None is over 127.
func (c counts) within(top counts) bool {
	return (top[0]|highs-c[0])&(top[1]|highs-c[1])&highs == highs
}

// begin lists and prices the ways, given a wish. It says what no plan covers more than, and whether the ways are few enough to go on.
func (e *exhaust) begin(seconds float64) (most float64, ok bool) {
	e.seconds, e.from = seconds, e.score
	x, known := e.relaxation, e.score*e.m.Weights
	x.StopWhen(e.stop)
	for u := range e.tableOf {
		e.tableOf[u] = -1
	}
	narrow := true
	for i := range x.Subproblems {
		narrow = narrow && len(x.Subproblems[i].Dims) <= mostDims
		e.tableOf[x.Subproblems[i].Unit] = i
	}
	e.readied = prepareSteps
	x.Prepare(known, prepareSteps)
	most = math.Inf(1)
	// The closer the bound, the fewer ways: where there are too many for a part of the time, it is brought down further.
	listing := min(mostListing, int(listPerSecond*max(0.5, seconds)))
	for i, steps := range proveSteps {
		e.readied += steps
		most = min(most, x.Prove(steps))
		if narrow {
			took := 0
			e.daily, took = bound.NewDaily(x, known, most-known+1e-9*e.m.Weights, listing*(i+1)/len(proveSteps))
			e.readied += took
		}
		if e.daily != nil {
			break
		}
		e.apartAt = e.readied // without prices of every day there is nothing better to do with a short time
		e.apart(int(apartOf * (1e6*proofShare*seconds - float64(e.readied))))
	}
	if e.daily == nil {
		return most, false
	}
	e.tables = make([]table, len(x.Subproblems))
	for i := range e.tables {
		t, u := &e.tables[i], &e.daily.Units[i]
		t.best = map[given]float64{}
		for w := range u.Ways() {
			t.packed = append(t.packed, packed(u.Counts(int32(w))))
		}
	}
	e.roomLeft()
	e.findPlaces()
	return most, true
}

// roomLeft counts, from each square on, how often each unit can still be given to whom.
func (e *exhaust) roomLeft() {
	k := &e.relaxation.Packing
	dims := make([][]bound.Dim, len(e.tables))
	for i := range e.tables {
		dims[i] = bound.Emptied(e.relaxation.Subproblems[i].Dims)
		e.tables[i].room, e.tables[i].both = make([]counts, len(e.m.Squares)+1), make([]counts, len(e.m.Squares)+1)
	}
	for s := len(e.m.Squares); s >= 0; s-- {
		if s < len(e.m.Squares) && k.PackOf[s] >= 0 {
			k.Packs[k.PackOf[s]].Open(dims)
		}
		for i := range e.tables {
			var room, both []uint8
			for d := range dims[i] {
				teaches, reviews, all := dims[i][d].Room()
				room = append(room, uint8(min(teaches, 127)), uint8(min(reviews, 127)))
				both = append(both, uint8(min(all, 255)), 0)
			}
			e.tables[i].room[s], e.tables[i].both[s] = packed(room), packed(both)
		}
	}
}

// read prices what is left at the prices as they are.
func (e *exhaust) read() {
	e.rests = e.daily.Rests()
	clear(e.met)
	for i := range e.tables {
		t := &e.tables[i]
		clear(t.best)
		t.sort(&e.daily.Units[i])
	}
	e.fillUp()
}

// buckets are what a unit's ways are sorted into by what they gain: all of them in order would cost more than looking through what is left of them.
const buckets = 256

// sort puts the ways that are left in the order of what they gain, as far as buckets tell.
func (t *table) sort(u *bound.Listed) {
	most, least := math.Inf(-1), math.Inf(1)
	for _, w := range u.Left {
		most, least = max(most, u.Net(w)), min(least, u.Net(w))
	}
	wide := (most-least)/buckets + 1e-9
	var from [buckets + 1]int
	of := func(w int32) int { return int((most - u.Net(w)) / wide) }
	for _, w := range u.Left {
		from[of(w)+1]++
	}
	for i := range buckets {
		from[i+1] += from[i]
	}
	t.ways = slices.Grow(t.ways[:0], len(u.Left))[:len(u.Left)]
	for _, w := range u.Left {
		i := of(w)
		t.ways[from[i]] = way{t.packed[w], most - float64(i)*wide + 1e-9, w}
		from[i]++
	}
}

// findPlaces finds, for each square, audience and unit, where an item is counted.
func (e *exhaust) findPlaces() {
	e.places = make([][][]int, len(e.m.Squares))
	for s := range e.m.Squares {
		q := &e.m.Squares[s]
		for _, audience := range q.Audiences {
			row := make([]int, len(e.tables))
			for i := range e.tables {
				row[i] = e.relaxation.Subproblems[i].Place(q.Track, audience)
			}
			e.places[s] = append(e.places[s], row)
		}
	}
}

// fillUp finds what so many minutes of a square can be paid at most, whoever hears it and leads it.
func (e *exhaust) fillUp() {
	e.fills = make([][]float64, len(e.m.Squares))
	for s := range e.m.Squares {
		q := &e.m.Squares[s]
		most := make([]float64, q.Minutes+1)
		for _, u := range e.m.Teaches[q.Track] {
			i := e.tableOf[u]
			if i < 0 {
				continue
			}
			var pays [2]float64
			for k := range q.Audiences {
				if at := e.places[s][k][i]; at >= 0 {
					pays[model.Teach], pays[model.Review] = max(pays[model.Teach], e.daily.Price(s, i, at)), max(pays[model.Review], e.daily.Price(s, i, at+1))
				}
			}
			for b := q.Minutes; b > 0; b-- {
				for kind, pay := range pays {
					if rest := b - e.m.Units[u].Cost[kind]; rest >= 0 {
						most[b] = max(most[b], most[rest]+pay)
					}
				}
			}
		}
		e.fills[s] = most
	}
}

// count counts an item that a square was given.
func (e *exhaust) count(s int, it model.Item) {
	if i := e.tableOf[it.Unit]; i >= 0 {
		t, at := &e.tables[i], e.placeOf(s, i, it)
		if it.Kind == model.Teach && !e.begun(s, i) {
			first := e.daily.First(s, i)
			t.charged += first
			t.paid += first
		}
		t.now[at/8] += 1 << (at % 8 * 8)
		t.paid += e.daily.Price(s, i, at)
		t.squares = append(t.squares, s)
	}
}

// discount takes the newest count of an item back.
func (e *exhaust) discount(s int, it model.Item) {
	if i := e.tableOf[it.Unit]; i >= 0 {
		t, at := &e.tables[i], e.placeOf(s, i, it)
		t.now[at/8] -= 1 << (at % 8 * 8)
		t.paid -= e.daily.Price(s, i, at)
		t.squares = t.squares[:len(t.squares)-1]
		if it.Kind == model.Teach && !e.begun(s, i) {
			first := e.daily.First(s, i)
			t.charged -= first
			t.paid -= first
		}
	}
}

// begun says whether the track of a square was taught a unit by now.
func (e *exhaust) begun(s, table int) bool {
	for d := range e.relaxation.Subproblems[table].Dims {
		if e.relaxation.Subproblems[table].Dims[d].Track() == e.m.Squares[s].Track && e.tables[table].given(2*d) > 0 {
			return true
		}
	}
	return false
}

// given is how often a unit is given in a place by now.
func (t *table) given(place int) int { return int(t.now[place/8] >> (place % 8 * 8) & 0xff) }

// placeOf is where an item is counted in its unit's table; −1 where it has no place.
func (e *exhaust) placeOf(s, table int, it model.Item) int {
	teach := e.places[s][slices.Index(e.m.Squares[s].Audiences, it.Audience)][table]
	if teach < 0 {
		return -1
	}
	return teach + int(it.Kind)
}

// square decides the squares from s on; false when it grew too long.
func (e *exhaust) square(s int) bool {
	for s < len(e.m.Squares) && e.m.Squares[s].Fixed {
		s++
	}
	if s == len(e.m.Squares) {
		if c := e.st.Coverage(); c > e.score+1e-12 && e.complete() {
			e.score = c
			copy(e.best, e.st.Contents())
		}
		return true
	}
	if !e.better(e.hope(s, e.rests[s].Paid)) {
		return true
	}
	k := e.state(s)
	if e.met[k] {
		return true
	}
	e.met[k] = true
	return e.item(s, 0)
}

// complete asks what must be taught before something fixed, or by a date.
func (e *exhaust) complete() bool { return len(demands(e.st)) == 0 }

// item adds units from a place in the list on to a square, or goes on to the next.
func (e *exhaust) item(s int, from int) bool {
	if e.states++; e.states > e.allowed || e.states%256 == 0 && e.stopped() {
		return false
	}
	q := &e.m.Squares[s]
	had := e.st.Items[s]
	all := e.m.Teaches[q.Track]
	start := from
	if q.Uneven {
		start = 0 // the order matters: any unit may come next
	}
	for i := start; i < len(all); i++ {
		if model.HasUnit(had, all[i]) || q.Uneven && len(had) > 0 && all[i] < had[len(had)-1].Unit && e.heardByAll(s, all[i]) {
			continue // in the other order it is the same, and looked at so
		}
		for kind := model.Teach; kind <= model.Review; kind++ {
			it, free := model.Item{Unit: all[i], Kind: kind}, q.Minutes-e.st.Used[s]-e.m.Units[all[i]].Cost[kind]
			if free < 0 {
				continue
			}
			it.Audience = e.m.HeardBy(q, q.Minutes-free)
			if i := e.tableOf[it.Unit]; i >= 0 {
				at := e.placeOf(s, i, it)
				if at < 0 || e.daily.Shut(s, i, at) || kind == model.Teach && !e.begun(s, i) && !e.daily.MayBegin(s, i) {
					continue // nobody can ever teach it there, no better plan holds it, or it does not begin there in this part
				}
			}
			e.count(s, it)
			done := true
			if e.better(e.hope(s, e.rests[s+1].Paid+e.fills[s][free])) && tryOpen(e.st, model.Change{Square: s, Items: append(had[:len(had):len(had)], it)}) {
				done = e.item(s, i+1)
				put(e.st, s, had)
			}
			e.discount(s, it)
			if !done {
				return false
			}
		}
	}
	if !e.m.Habits && e.holdsMore(s) {
		return true
	}
	return e.square(s + 1)
}

// heardByAll says whether an item would still end in time for the shortest class of a square.
func (e *exhaust) heardByAll(s int, u int32) bool {
	q := &e.m.Squares[s]
	return e.st.Used[s]+max(e.m.Units[u].Cost[0], e.m.Units[u].Cost[1]) <= e.m.Problem.Classes[q.Classes[len(q.Classes)-1]].TeachMinutes
}

// holdsMore says whether a square could hold something besides that asks nobody else to lead it: what is heard more never harms, so that the square as it
// is need not be looked at.
func (e *exhaust) holdsMore(s int) bool {
	q := &e.m.Squares[s]
	had := e.st.Items[s]
	for _, u := range e.m.Teaches[q.Track] {
		lead := e.m.Units[u].MayLead
		if model.HasUnit(had, u) || !slices.ContainsFunc(e.st.Staffing.Asks[s], func(ask uint64) bool { return ask&lead == ask }) {
			continue // whoever hears it, somebody who leads them now may not lead it
		}
		for kind := model.Teach; kind <= model.Review; kind++ {
			if e.st.Used[s]+e.m.Units[u].Cost[kind] > q.Minutes || kind == model.Review && e.st.First(q.Track, u) >= q.Day {
				continue
			}
			before := slices.Clone(e.st.Staffing.Asks[s])
			if !tryOpen(e.st, model.Change{Square: s, Items: append(had[:len(had):len(had)], model.Item{Unit: u, Kind: kind})}) {
				continue
			}
			same := slices.Equal(before, e.st.Staffing.Asks[s])
			put(e.st, s, had)
			if same {
				return true
			}
		}
	}
	return false
}

// put gives a square items that it had.
func put(st *model.State, s int, items []model.Item) {
	st.Set(s, items)
	st.Staffing.Call(st, s)
	st.Settle()
}

// tryOpen is try that does not mind what is still to be taught in later
// squares because something fixed or wanted asks for it: complete does, in the end.
func tryOpen(st *model.State, c model.Change) bool {
	if len(st.Model.Problem.Fixed) == 0 && len(st.Model.Problem.Wanted) == 0 {
		return st.Try(c)
	}
	if !st.Fits(c.Square, c.Items) {
		return false
	}
	q := &st.Model.Squares[c.Square]
	for _, it := range c.Items {
		for _, r := range st.Model.Units[it.Unit].Requires {
			if st.First(q.Track, r) >= q.Day {
				return false
			}
		}
		if it.Kind == model.Review && st.First(q.Track, it.Unit) >= q.Day {
			return false
		}
	}
	had := st.Items[c.Square]
	st.Set(c.Square, c.Items)
	spaced := true
	for _, it := range c.Items {
		spaced = spaced && st.Spaced(q.Track, it.Unit)
	}
	if st.Staffing.Call(st, c.Square) && !st.Staffing.Week(q.Week) || !spaced {
		put(st, c.Square, had)
		return false
	}
	st.Settle()
	return true
}

// hope is the most the whole can still come to when the squares before one are decided, as a weight, and the classes from it on are paid so much. It is
// nothing where a unit has no way left to be part of a better plan.
func (e *exhaust) hope(s int, left float64) float64 {
	sum := e.relaxation.Base + left
	for i := range e.tables {
		most := e.most(i, s) - e.tables[i].charged
		if sum += most; math.IsInf(most, -1) {
			return most
		}
	}
	return sum
}

// most is what the best way gains that is left before a square, what is given by now for nothing.
func (e *exhaust) most(i, s int) float64 {
	t := &e.tables[i]
	if n := len(t.squares); n > 0 && t.squares[n-1] == s {
		s++ // a square gives it once
	}
	key := given{t.now, s}
	most, known := t.best[key]
	if known {
		return most
	}
	most = math.Inf(-1)
	for k := range t.ways {
		w := &t.ways[k]
		if w.most+t.paid <= most {
			break // the ways after it gain no more, whatever is left of them
		}
		if t.now.within(w.counts) && t.open(&w.counts, s) {
			most = max(most, e.daily.Units[i].Value(w.at)-e.rests[s].Spend(e.daily, i, w.at, t.given))
		}
	}
	t.best[key] = most
	return most
}

// open says whether a way that holds what is given by now can still be gone from a square on.
func (t *table) open(c *counts, s int) bool {
	more := counts{c[0] - t.now[0], c[1] - t.now[1]}
	if !more.within(t.room[s]) {
		return false
	}
	both := &t.both[s]
	for w, n := range more {
		if ((both[w]|highs16)-(n&firsts+n>>8&firsts))&highs16 != highs16 {
			return false
		}
	}
	return true
}

// better says whether more can still come of it than the best known.
func (e *exhaust) better(hope float64) bool { return hope > e.score*e.m.Weights+1e-9 }

// state is what matters for the squares from s on: how often each unit was
// given to whom, what was first taught today, and who is needed this week.
func (e *exhaust) state(s int) uint64 {
	q := &e.m.Squares[s]
	h := model.Mix(uint64(s))
	for u := range e.m.Units {
		h += model.Mix(e.st.Marks[u] ^ e.m.Units[u].Salt)
		for _, o := range e.st.Occasions[u] {
			if x := &e.m.Squares[o.Square]; o.Kind == model.Teach && x.Day == q.Day && e.st.First(x.Track, int32(u)) == q.Day {
				h += model.Mix(uint64(u)<<20 | uint64(x.Track)<<8 | 1<<50)
			}
		}
	}
	if e.m.Dated() { // deadlines and gaps: when matters too
		for u := range e.m.Units {
			for _, o := range e.st.Occasions[u] {
				h += model.Mix(uint64(o.Square)<<32 ^ uint64(u)<<8 ^ uint64(o.Kind) ^ 1<<61)
			}
		}
		for t := range e.m.Problem.Tracks {
			for u := range e.m.Units {
				h += model.Mix(uint64(e.st.First(t, int32(u)))<<20 ^ uint64(u)<<8 ^ uint64(t) ^ 1<<60)
			}
		}
	}
	for _, o := range e.m.ByWeek[q.Week] {
		if int(o) < s {
			for i, mask := range e.st.Staffing.Asks[o] {
				h += model.Mix(mask ^ model.Mix(uint64(o)<<8|uint64(i)))
			}
		}
	}
	return h
}
