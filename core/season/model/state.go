package model

import (
	"slices"

	"vereda/core/season"
)

// State is a plan in the making. What it costs to change one square depends
// on the units in it alone: a unit's value hangs on who was given it how often,
// not on the order, so it is remembered under the sum of the marks of its occurrences.
type State struct {
	Model     *Model
	Items     [][]Item
	Used      []int
	Occasions [][]Occasion // per unit
	Marks     []uint64
	Values    []float64 // per unit, the weight of needs covered
	Ways      []float64 // per unit, the way made toward needs
	Sum       float64   // of Values
	memo      *memo
	Work      int64
	Asked     int64 // changes that kept the order of units, and so asked who could lead
	Unled     int64 // of these, the ones nobody could
	SoftScore SoftScore
	Staffing  Staffing
	dirty     []int32 // units whose value must be looked up again
	stirs     []int32 // squares that were changed
	marked    []bool
	last      []Change
	spare     []Item // room for contents in the making
	// room for looks at what might be, which are asked so often that their lists are kept
	placed [][]Item
	given  []Occasion
	shifts []shift
}

func NewState(m *Model) *State {
	st := &State{Model: m, Items: make([][]Item, len(m.Squares)), Used: make([]int, len(m.Squares)), Occasions: make([][]Occasion, len(m.Units)), Marks: make([]uint64, len(m.Units)), Values: make([]float64, len(m.Units)), Ways: make([]float64, len(m.Units)), memo: newMemo(m), marked: make([]bool, len(m.Units))}
	st.SoftScore = newSoftScore(m)
	st.Staffing = newStaffing(m)
	for u := range m.Units {
		st.touch(int32(u))
	}
	for s := range m.Squares {
		if m.Squares[s].Fixed {
			st.Set(s, m.Squares[s].Given)
		}
		st.Staffing.Call(st, s)
	}
	st.Settle()
	return st
}

// Contents is what each square holds.
func (st *State) Contents() [][]Item {
	all := make([][]Item, len(st.Items))
	for i := range st.Items {
		all[i] = slices.Clone(st.Items[i])
	}
	return all
}

// Take puts contents back.
func (st *State) Take(all [][]Item) {
	for s := range st.Items {
		if !slices.Equal(st.Items[s], all[s]) {
			st.Set(s, all[s])
			st.Staffing.Call(st, s)
		}
	}
	st.Settle()
}

func (st *State) touch(u int32) {
	if !st.marked[u] {
		st.marked[u] = true
		st.dirty = append(st.dirty, u)
	}
}

// Set gives a square other items. settle must follow before anything is asked.
func (st *State) Set(s int, items []Item) {
	m := st.Model
	q := &m.Squares[s]
	fresh := st.room(len(items))
	copy(fresh, items)
	if !q.Fixed {
		m.Place(q, fresh)
	}
	for _, it := range st.Items[s] {
		if !has(fresh, it) {
			st.drop(int32(s), it)
		}
	}
	used := 0
	for _, it := range fresh {
		used += m.Units[it.Unit].Cost[it.Kind]
		if !has(st.Items[s], it) {
			st.Occasions[it.Unit] = append(st.Occasions[it.Unit], Occasion{int32(s), it.Audience, it.Kind, q.Held, int16(q.Track), int32(q.Day)})
			st.Marks[it.Unit] += m.Audiences[it.Audience].Mark[it.Kind]
			st.touch(it.Unit)
		}
	}
	st.Items[s], st.Used[s] = fresh, used
	st.stirs = append(st.stirs, int32(s))
}

// chunk is how many items are made room for at once: contents are replaced thousands of times a second.
const chunk = 1024

// room is a list for so many items that nobody else writes into.
func (st *State) room(n int) []Item {
	if len(st.spare) < n {
		st.spare = make([]Item, max(chunk, n))
	}
	list := st.spare[:n:n]
	st.spare = st.spare[n:]
	return list
}

func (st *State) drop(s int32, it Item) {
	all := st.Occasions[it.Unit]
	for i, o := range all {
		if o.Square == s && o.Kind == it.Kind && o.Audience == it.Audience {
			all[i] = all[len(all)-1]
			st.Occasions[it.Unit] = all[:len(all)-1]
			break
		}
	}
	st.Marks[it.Unit] -= st.Model.Audiences[it.Audience].Mark[it.Kind]
	st.touch(it.Unit)
}

// Settle brings the sums along.
func (st *State) Settle() {
	for _, u := range st.dirty {
		st.marked[u] = false
		v := st.ValueAt(u, st.Marks[u], st.Occasions[u])
		st.Sum += v[0] - st.Values[u]
		st.Values[u], st.Ways[u] = v[0], v[1]
		st.SoftScore.unit(st, u)
	}
	for _, s := range st.stirs {
		st.SoftScore.square(st, s)
	}
	st.dirty, st.stirs = st.dirty[:0], st.stirs[:0]
}

// Coverage is the expected coverage as it stands.
func (st *State) Coverage() float64 {
	if st.Model.Weights == 0 {
		return 1
	}
	return st.Sum / st.Model.Weights
}

// Score is what the search climbs: coverage alone, or with what the goal full adds.
func (st *State) Score() float64 {
	if st.Model.Problem.Goal == "coverage" {
		return st.Coverage()
	}
	return st.Coverage() + st.SoftScore.Score()
}

// First is the day a unit is first taught in a track: −1 when the track is
// assumed to know it, never when it is not.
func (st *State) First(t int, u int32) int {
	if st.Model.Assumed[t][u] {
		return -1
	}
	day := Never
	for i := range st.Occasions[u] {
		if o := &st.Occasions[u][i]; o.Kind == Teach && int(o.track) == t && int(o.day) < day {
			day = int(o.day)
		}
	}
	return day
}

// holds says whether the rules about what comes before what are kept around a
// unit in a track: its reviews after a first teach, itself after what it requires, what requires
// it after it. Nothing is asked of squares that were held.
func (st *State) holds(t int, u int32) bool {
	first := st.First(t, u)
	if by := st.Model.WantedBy[t][u]; by > 0 && first != -1 && (first == Never || st.weekOf(first) > int(by)) {
		return false
	}
	any, again := st.Earliest(t, u)
	if again != Never && again <= first {
		return false
	}
	if any != Never {
		for _, r := range st.Model.Units[u].Requires {
			if st.First(t, r) >= any {
				return false
			}
		}
	}
	for _, d := range st.Model.Units[u].Opens {
		if e, _ := st.Earliest(t, d); e != Never && e <= first {
			return false
		}
	}
	return true
}

func (st *State) weekOf(day int) int { return day / 8 }

// Earliest is the first day a unit is in a track at all, and the first of its
// reviews, apart from squares that were held.
func (st *State) Earliest(t int, u int32) (any, again int) {
	any, again = Never, Never
	for i := range st.Occasions[u] {
		o := &st.Occasions[u][i]
		if int(o.track) != t || o.held {
			continue
		}
		any = min(any, int(o.day))
		if o.Kind == Review {
			again = min(again, int(o.day))
		}
	}
	return any, again
}

// Fits says whether a square could hold these items apart from what comes
// before what and who leads: minutes, tracks, each unit once.
func (st *State) Fits(s int, items []Item) bool {
	q := &st.Model.Squares[s]
	left := q.Minutes
	for i, it := range items {
		left -= st.Model.Units[it.Unit].Cost[it.Kind]
		if left < 0 || !st.Model.Can[q.Track][it.Unit] {
			return false
		}
		for _, o := range items[:i] {
			if o.Unit == it.Unit {
				return false
			}
		}
	}
	return st.Model.Allows(q, items)
}

// Change is other items for a square.
type Change struct {
	Square int
	Items  []Item
}

// trySteps is what trying a change costs besides the values it looks up.
const trySteps = 4

// Try gives squares other items when every rule is still kept, and says
// whether it did; else nothing has changed. undo takes the last one back.
func (st *State) Try(changes ...Change) bool {
	st.Work += trySteps
	st.last = st.last[:0]
	for _, c := range changes {
		if !st.Fits(c.Square, c.Items) {
			st.last = st.last[:0]
			return false
		}
		st.last = append(st.last, Change{c.Square, st.Items[c.Square]})
	}
	for _, c := range changes {
		st.Set(c.Square, c.Items)
	}
	if !st.ordered(changes) {
		for _, c := range st.last {
			st.Set(c.Square, c.Items)
		}
		st.clean()
		return false
	}
	st.Asked++
	staffed := true
	for _, c := range changes {
		if st.Staffing.Call(st, c.Square) {
			staffed = staffed && st.Staffing.Week(st.Model.Squares[c.Square].Week)
		}
	}
	if !staffed {
		st.Unled++
		st.Undo()
		return false
	}
	st.Settle()
	return true
}

// Undo takes the last try back.
func (st *State) Undo() {
	for _, c := range st.last {
		st.Set(c.Square, c.Items)
	}
	for _, c := range st.last {
		st.Staffing.Call(st, c.Square)
	}
	st.Settle()
}

// clean forgets what was touched when everything is as it was.
func (st *State) clean() {
	for _, u := range st.dirty {
		st.marked[u] = false
	}
	st.dirty, st.stirs = st.dirty[:0], st.stirs[:0]
}

func (st *State) ordered(changes []Change) bool {
	for i, c := range changes {
		t := st.Model.Squares[c.Square].Track
		if i > 0 && st.Model.Squares[changes[0].Square].Track == t {
			continue
		}
		for _, u := range st.dirty {
			if !st.holds(t, u) || !st.Spaced(t, u) {
				return false
			}
		}
	}
	return true
}

// Placements reads the plan off, without leads.
func (st *State) Placements() []season.Placement {
	all := []season.Placement{}
	for s, items := range st.Items {
		q := &st.Model.Squares[s]
		for _, c := range q.Classes {
			if f, ok := st.Model.asFixed(q, c); ok {
				if len(f.Items) > 0 {
					all = append(all, f)
				}
				continue
			}
			x := season.Placement{Week: q.Week, Class: st.Model.Problem.Classes[c].ID}
			for _, it := range items {
				if st.Model.includes(it.Audience, c) {
					x.Items = append(x.Items, season.Item{Unit: st.Model.Problem.Units[it.Unit].ID, Kind: KindNames[it.Kind]})
				}
			}
			if len(x.Items) > 0 {
				all = append(all, x)
			}
		}
	}
	season.SortPlacements(st.Model.Problem, all)
	return all
}

func (m *Model) includes(l, class int32) bool { return slices.Contains(m.Audiences[l].Classes, class) }

// asFixed is what is fixed for a class of a square itself, if anything is.
func (m *Model) asFixed(q *Square, class int32) (season.Placement, bool) {
	if !q.Fixed {
		return season.Placement{}, false
	}
	i := slices.IndexFunc(m.Problem.Fixed, func(f season.Placement) bool { return f.Week == q.Week && f.Class == m.Problem.Classes[class].ID })
	if i < 0 {
		return season.Placement{}, false
	}
	f := m.Problem.Fixed[i]
	f.Items = slices.Clone(f.Items)
	return f, true
}

// planned says what placements have for a square: in mode same, the list of the
// class that has most of it.
func (m *Model) planned(placements []season.Placement) func(q *Square) []season.Item {
	at := map[string]season.Placement{}
	for _, x := range placements {
		at[season.Key(x.Week, x.Class)] = x
	}
	return func(q *Square) (had []season.Item) {
		for _, c := range q.Classes {
			if x := at[season.Key(q.Week, m.Problem.Classes[c].ID)]; len(x.Items) > len(had) {
				had = x.Items
			}
		}
		return had
	}
}

// Put fills the state with placements whether or not they keep the rules.
func (st *State) Put(placements []season.Placement) {
	planned := st.Model.planned(placements)
	for s := range st.Model.Squares {
		q := &st.Model.Squares[s]
		if q.Fixed {
			continue
		}
		var items []Item
		for _, it := range planned(q) {
			if u, ok := st.Model.UnitAt[it.Unit]; ok {
				items = append(items, Item{Unit: int32(u), Kind: KindOf(it.Kind)})
			}
		}
		st.Model.Place(q, items)
		items = slices.DeleteFunc(items, func(it Item) bool { return it.Audience < 0 })
		st.Set(s, items)
		st.Staffing.Call(st, s)
	}
	st.Settle()
}
