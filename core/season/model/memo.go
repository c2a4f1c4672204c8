package model

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
	// Few squares that may change have few values: repairs pin all others, a thousand times.
	fewSquares = 8
	memoFew    = 12
)

func newMemo(m *Model) *memo {
	bits, open := memoBits, 0
	for s := range m.Squares {
		if !m.Squares[s].Fixed {
			open++
		}
	}
	switch {
	case len(m.Problem.Students) == 0:
		bits = memoSmall
	case open <= fewSquares:
		bits = memoFew
	}
	return &memo{make([]uint64, 1<<bits), make([][2]float64, 1<<bits), bits}
}

// ValueAt looks a unit's value and way up by its mark, or computes them.
func (st *State) ValueAt(u int32, mark uint64, occs []Occasion) [2]float64 {
	if v := st.known(u, mark); v != nil {
		return *v
	}
	return st.compute(u, mark, occs)
}

// known is what is remembered under a mark, if anything is.
func (st *State) known(u int32, mark uint64) *[2]float64 {
	st.Work++
	k, slot := st.slot(u, mark)
	if st.memo.keys[slot] != k {
		return nil
	}
	return &st.memo.vals[slot]
}

func (st *State) slot(u int32, mark uint64) (key, slot uint64) {
	key = (mark ^ st.Model.Units[u].Salt) | 1
	return key, key * 0x9e3779b97f4a7c15 >> (64 - st.memo.bits)
}

func (st *State) compute(u int32, mark uint64, occs []Occasion) [2]float64 {
	covered, way := st.Model.Value(int(u), occs)
	heard := 0
	for i := range occs {
		heard += len(st.Model.Audiences[occs[i].Audience].Classes)
	}
	st.Work += int64(len(st.Model.Units[u].Needs)*(heard+2)) / 32
	k, slot := st.slot(u, mark)
	st.memo.keys[slot], st.memo.vals[slot] = k, [2]float64{covered, way}
	return st.memo.vals[slot]
}

// ValueWith is a unit's value and way with one more occasion.
func (st *State) ValueWith(u int32, o Occasion) [2]float64 {
	mark := st.Marks[u] + st.Model.Audiences[o.Audience].Mark[o.Kind]
	if v := st.known(u, mark); v != nil {
		return *v
	}
	st.given = append(append(st.given[:0], st.Occasions[u]...), o)
	return st.compute(u, mark, st.given)
}

// ValueWithout is what a unit's value and way would be without an item of a square.
func (st *State) ValueWithout(s int32, it Item) [2]float64 {
	mark := st.Marks[it.Unit] - st.Model.Audiences[it.Audience].Mark[it.Kind]
	if v := st.known(it.Unit, mark); v != nil {
		return *v
	}
	st.given = st.given[:0]
	for _, o := range st.Occasions[it.Unit] {
		if o.Square != s {
			st.given = append(st.given, o)
		}
	}
	return st.compute(it.Unit, mark, st.given)
}
