package season

import "slices"

// state is a plan in the making. What it costs to change one square depends
// on the units in it alone: a unit's value hangs on who was given it how often,
// not on the order, so it is remembered under the sum of the marks of its occurrences.
type state struct {
	m         *model
	sq        [][]item
	used      []int
	occs      [][]occ // per unit
	mark      []uint64
	val       []float64
	sum       float64 // of val, the weight of needs covered
	memo      *memo
	work      int64
	softScore softScore
	staffing  staffing
	dirty     []int32 // units whose value must be looked up again
	stirs     []int32 // squares that were changed
	marked    []bool
	last      []change
}

// memo remembers values by mark: one entry for each slot, the newest.
type memo struct {
	keys []uint64
	vals [][2]float64
	bits int // of the slots
}

// memoBits makes a memo of 6 MB. Where nobody needs anything, as while a conflict is looked for, there are no
// values worth remembering, and a thousand states are made.
const (
	memoBits  = 18
	memoSmall = 4
)

func newMemo(m *model) *memo {
	bits := memoBits
	if len(m.p.Students) == 0 {
		bits = memoSmall
	}
	return &memo{make([]uint64, 1<<bits), make([][2]float64, 1<<bits), bits}
}

func newState(m *model) *state {
	st := &state{m: m, sq: make([][]item, len(m.squares)), used: make([]int, len(m.squares)), occs: make([][]occ, len(m.units)), mark: make([]uint64, len(m.units)), val: make([]float64, len(m.units)), memo: newMemo(m), marked: make([]bool, len(m.units))}
	st.softScore = newSoftScore(m)
	st.staffing = newStaffing(m)
	for u := range m.units {
		st.touch(int32(u))
	}
	for s := range m.squares {
		if m.squares[s].fixed {
			st.set(s, m.squares[s].given)
		}
		st.staffing.call(st, s)
	}
	st.settle()
	return st
}

// contents is what each square holds.
func (st *state) contents() [][]item {
	all := make([][]item, len(st.sq))
	for i := range st.sq {
		all[i] = slices.Clone(st.sq[i])
	}
	return all
}

// take puts contents back.
func (st *state) take(all [][]item) {
	for s := range st.sq {
		if !slices.Equal(st.sq[s], all[s]) {
			st.set(s, all[s])
			st.staffing.call(st, s)
		}
	}
	st.settle()
}

func (st *state) touch(u int32) {
	if !st.marked[u] {
		st.marked[u] = true
		st.dirty = append(st.dirty, u)
	}
}

// set gives a square other items. settle must follow before anything is asked.
func (st *state) set(s int, items []item) {
	m := st.m
	q := &m.squares[s]
	fresh := make([]item, len(items), len(items)+1)
	copy(fresh, items)
	if !q.fixed {
		m.place(q, fresh)
	}
	for _, it := range st.sq[s] {
		if !slices.Contains(fresh, it) {
			st.drop(int32(s), it)
		}
	}
	used := 0
	for _, it := range fresh {
		used += m.units[it.unit].cost[it.kind]
		if !slices.Contains(st.sq[s], it) {
			st.occs[it.unit] = append(st.occs[it.unit], occ{int32(s), it.audience, it.kind})
			st.mark[it.unit] += m.audiences[it.audience].mark[it.kind]
			st.touch(it.unit)
		}
	}
	st.sq[s], st.used[s] = fresh, used
	st.stirs = append(st.stirs, int32(s))
}

func (st *state) drop(s int32, it item) {
	all := st.occs[it.unit]
	for i, o := range all {
		if o.square == s && o.kind == it.kind && o.audience == it.audience {
			all[i] = all[len(all)-1]
			st.occs[it.unit] = all[:len(all)-1]
			break
		}
	}
	st.mark[it.unit] -= st.m.audiences[it.audience].mark[it.kind]
	st.touch(it.unit)
}

// settle brings the sums along.
func (st *state) settle() {
	for _, u := range st.dirty {
		st.marked[u] = false
		v := st.valueAt(u, st.mark[u], st.occs[u])
		st.sum += v[0] - st.val[u]
		st.val[u] = v[0]
		st.softScore.unit(st, u)
	}
	for _, s := range st.stirs {
		st.softScore.square(st, s)
	}
	st.dirty, st.stirs = st.dirty[:0], st.stirs[:0]
}

// valueAt looks a unit's value and way up by its mark, or computes them.
func (st *state) valueAt(u int32, mark uint64, occs []occ) [2]float64 {
	st.work++
	k := (mark ^ st.m.units[u].salt) | 1
	slot := k * 0x9e3779b97f4a7c15 >> (64 - st.memo.bits)
	if st.memo.keys[slot] == k {
		return st.memo.vals[slot]
	}
	covered, way := st.m.value(int(u), occs)
	st.work += int64(len(st.m.units[u].needs)*len(occs)) / 24
	st.memo.keys[slot], st.memo.vals[slot] = k, [2]float64{covered, way}
	return st.memo.vals[slot]
}

// coverage is the expected coverage as it stands.
func (st *state) coverage() float64 {
	if st.m.weights == 0 {
		return 1
	}
	return st.sum / st.m.weights
}

// score is what the search climbs: coverage alone, or with what the goal full adds.
func (st *state) score() float64 {
	if st.m.p.Goal == "coverage" {
		return st.coverage()
	}
	return st.coverage() + st.softScore.score()
}

// first is the day a unit is first taught in a track: −1 when the track is
// assumed to know it, never when it is not.
func (st *state) first(t int, u int32) int {
	if st.m.assumed[t][u] {
		return -1
	}
	day := never
	for _, o := range st.occs[u] {
		if q := &st.m.squares[o.square]; o.kind == teach && q.track == t && q.day < day {
			day = q.day
		}
	}
	return day
}

// holds says whether the rules about what comes before what are kept around a
// unit in a track: its reviews after a first teach, itself after what it requires, what requires
// it after it. Nothing is asked of squares that were held.
func (st *state) holds(t int, u int32) bool {
	first := st.first(t, u)
	if by := st.m.wantedBy[t][u]; by > 0 && first != -1 && (first == never || st.weekOf(first) > int(by)) {
		return false
	}
	any, again := st.earliest(t, u)
	if again <= first {
		return false
	}
	if any != never {
		for _, r := range st.m.units[u].requires {
			if st.first(t, r) >= any {
				return false
			}
		}
	}
	for _, d := range st.m.units[u].opens {
		if e, _ := st.earliest(t, d); e != never && e <= first {
			return false
		}
	}
	return true
}

func (st *state) weekOf(day int) int { return day / 8 }

// earliest is the first day a unit is in a track at all, and the first of its
// reviews, apart from squares that were held.
func (st *state) earliest(t int, u int32) (any, again int) {
	any, again = never, never
	for _, o := range st.occs[u] {
		q := &st.m.squares[o.square]
		if q.track != t || q.held {
			continue
		}
		any = min(any, q.day)
		if o.kind == review {
			again = min(again, q.day)
		}
	}
	return any, again
}

// fits says whether a square could hold these items apart from what comes
// before what and who leads: minutes, tracks, each unit once.
func (st *state) fits(s int, items []item) bool {
	q := &st.m.squares[s]
	left := q.minutes
	for i, it := range items {
		left -= st.m.units[it.unit].cost[it.kind]
		if left < 0 || !st.m.can[q.track][it.unit] {
			return false
		}
		for _, o := range items[:i] {
			if o.unit == it.unit {
				return false
			}
		}
	}
	return true
}

// change is other items for a square.
type change struct {
	square int
	items  []item
}

// try gives squares other items when every rule is still kept, and says
// whether it did; else nothing has changed. undo takes the last one back.
func (st *state) try(changes ...change) bool {
	st.last = st.last[:0]
	for _, c := range changes {
		if !st.fits(c.square, c.items) {
			st.last = st.last[:0]
			return false
		}
		st.last = append(st.last, change{c.square, st.sq[c.square]})
	}
	for _, c := range changes {
		st.set(c.square, c.items)
	}
	if !st.ordered(changes) {
		for _, c := range st.last {
			st.set(c.square, c.items)
		}
		st.clean()
		return false
	}
	staffed := true
	for _, c := range changes {
		if st.staffing.call(st, c.square) {
			staffed = staffed && st.staffing.week(st.m.squares[c.square].week)
		}
	}
	if !staffed {
		st.undo()
		return false
	}
	st.settle()
	return true
}

// undo takes the last try back.
func (st *state) undo() {
	for _, c := range st.last {
		st.set(c.square, c.items)
	}
	for _, c := range st.last {
		st.staffing.call(st, c.square)
	}
	st.settle()
}

// clean forgets what was touched when everything is as it was.
func (st *state) clean() {
	for _, u := range st.dirty {
		st.marked[u] = false
	}
	st.dirty, st.stirs = st.dirty[:0], st.stirs[:0]
}

func (st *state) ordered(changes []change) bool {
	for i, c := range changes {
		t := st.m.squares[c.square].track
		if i > 0 && st.m.squares[changes[0].square].track == t {
			continue
		}
		for _, u := range st.dirty {
			if !st.holds(t, u) {
				return false
			}
		}
	}
	return true
}

// placements reads the plan off, without leads.
func (st *state) placements() []Placement {
	var all []Placement
	for s, items := range st.sq {
		q := &st.m.squares[s]
		for _, c := range q.classes {
			if f, ok := st.m.asFixed(q, c); ok {
				if len(f.Items) > 0 {
					all = append(all, f)
				}
				continue
			}
			x := Placement{Week: q.week, Class: st.m.p.Classes[c].ID}
			for _, it := range items {
				if st.m.includes(it.audience, c) {
					x.Items = append(x.Items, Item{st.m.p.Units[it.unit].ID, kindNames[it.kind]})
				}
			}
			if len(x.Items) > 0 {
				all = append(all, x)
			}
		}
	}
	sortPlacements(st.m.p, all)
	return all
}

func (m *model) includes(l, class int32) bool { return slices.Contains(m.audiences[l].classes, class) }

// asFixed is what is fixed for a class of a square itself, if anything is.
func (m *model) asFixed(q *square, class int32) (Placement, bool) {
	if !q.fixed {
		return Placement{}, false
	}
	i := slices.IndexFunc(m.p.Fixed, func(f Placement) bool { return f.Week == q.week && f.Class == m.p.Classes[class].ID })
	if i < 0 {
		return Placement{}, false
	}
	f := m.p.Fixed[i]
	f.Items = slices.Clone(f.Items)
	return f, true
}

// read puts a plan's items into the state as far as they still may stand, in
// the order they happen. rescue, when there is one, is asked to bring in what an item misses.
func (st *state) read(placements []Placement, rescue func(st *state, t int, u int32, before, depth int) bool) {
	planned := st.m.planned(placements)
	for s := range st.m.squares {
		q := &st.m.squares[s]
		if q.fixed {
			continue
		}
		for _, it := range planned(q) {
			u, ok := st.m.unitAt[it.Unit]
			if !ok {
				continue
			}
			put := func() bool {
				return st.try(change{s, append(slices.Clone(st.sq[s]), item{unit: int32(u), kind: kindOf(it.Kind)})})
			}
			if put() || rescue == nil || !st.m.can[q.track][u] {
				continue
			}
			saved := it.Kind == Teach || rescue(st, q.track, int32(u), q.day, 0)
			for _, r := range st.m.units[u].requires {
				saved = saved && rescue(st, q.track, r, q.day, 0)
			}
			if saved {
				put()
			}
		}
	}
}

// planned says what placements have for a square: in mode same, the list of the
// class that has most of it.
func (m *model) planned(placements []Placement) func(q *square) []Item {
	at := map[string]Placement{}
	for _, x := range placements {
		at[key(x.Week, x.Class)] = x
	}
	return func(q *square) (had []Item) {
		for _, c := range q.classes {
			if x := at[key(q.week, m.p.Classes[c].ID)]; len(x.Items) > len(had) {
				had = x.Items
			}
		}
		return had
	}
}
