package search

import (
	"slices"

	"vereda/core/season/bound"
	"vereda/core/season/model"
)

// Exact tries to prove the best coverage of a small season: every content of
// every square in turn, day by day. It turns back where what is still open cannot bring more than the
// best known (the bound's prices, with what the classes left can be paid), and where a state was met before that
// differs in nothing that matters. It says whether it finished; the search then holds
// the optimum.
//
// stop, when there is one, ends it; the search goes on from what it has.
func Exact(m *model.Model, h *Search, stop func() bool) bool {
	if m.Problem.Goal != "coverage" || len(h.open) > 40 || len(m.Units) > 16 || m.Whole() {
		return false
	}
	whole := h.limit
	h.limit = min(h.limit, exactWarmth)
	h.Run(nil)
	h.limit = whole
	e := newExhaust(m, h)
	e.stop, e.most = stop, int(min(mostStates, statesPerSecond*float64(whole)/stepsPerSecond))
	done := e.square(0)
	h.st.Take(h.best)
	return done
}

// exactWarmth is the work spent on finding a good plan before proving it best;
// mostStates how many states the proof may look at: small4 of the benchmark takes 270,000.
const (
	exactWarmth = 60_000
	mostStates  = 400_000
	// statesPerSecond leaves most of a second to the search, which finds more where the proof does not end.
	statesPerSecond = 330_000
)

// exhaust is the state of such a search.
type exhaust struct {
	m           *model.Model
	h           *Search
	st          *model.State
	relaxation  *bound.Relaxation
	left        []float64 // per square, what the classes from it on can be paid
	subproblems map[int32]*bound.Subproblem
	hopes       map[uint64]float64 // unit and mark: the most it can still come to
	met         map[uint64]bool
	room        [][][]bound.Dim // per square and unit, its dims as they are from there on
	at          map[int32]int   // per unit, its subproblem
	states      int
	most        int // states it may look at
	stop        func() bool
}

func newExhaust(m *model.Model, h *Search) *exhaust {
	e := &exhaust{m: m, h: h, st: model.NewState(m), relaxation: bound.NewRelaxation(m), subproblems: map[int32]*bound.Subproblem{}, hopes: map[uint64]float64{}, met: map[uint64]bool{}, at: map[int32]int{}}
	e.relaxation.Prepare(h.score*m.Weights, 200_000)
	e.relaxation.Prove(int(min(1_500_000, max(200_000, float64(h.limit)/24))))
	for i := range e.relaxation.Subproblems {
		s := &e.relaxation.Subproblems[i]
		e.subproblems[int32(s.Unit)] = s
		e.at[int32(s.Unit)] = i
		for j := range s.Dims {
			s.Dims[j].Known = true // what was taught by now differs from state to state
		}
	}
	e.priceLeft()
	e.roomLeft()
	return e
}

// roomLeft counts, from each square on, how often each unit can still be given to whom.
func (e *exhaust) roomLeft() {
	e.room = make([][][]bound.Dim, len(e.m.Squares)+1)
	k := &e.relaxation.Packing
	for s := len(e.m.Squares); s >= 0; s-- {
		e.room[s] = make([][]bound.Dim, len(e.relaxation.Subproblems))
		for i := range e.relaxation.Subproblems {
			if s == len(e.m.Squares) {
				e.room[s][i] = bound.Emptied(e.relaxation.Subproblems[i].Dims)
			} else {
				e.room[s][i] = e.room[s+1][i]
			}
		}
		if s < len(e.m.Squares) && k.PackOf[s] >= 0 {
			k.Packs[k.PackOf[s]].Open(e.room[s])
		}
	}
}

// priceLeft adds up, from each square on, what the classes can be paid at the prices.
func (e *exhaust) priceLeft() {
	e.left = make([]float64, len(e.m.Squares)+1)
	k := &e.relaxation.Packing
	week := e.m.Problem.Weeks + 1
	for s := len(e.m.Squares) - 1; s >= 0; s-- {
		e.left[s] = e.left[s+1]
		for ; week > e.m.Squares[s].Week; week-- { // from here on its coaches may be asked
			e.left[s] += k.Leading(week - 1)
		}
		if of := k.PackOf[s]; of >= 0 {
			e.left[s] += k.Fill(&k.Packs[of], nil, nil)
		}
	}
}

// square decides the squares from s on; false when it grew too long.
func (e *exhaust) square(s int) bool {
	if e.states++; e.states > e.most || e.states%256 == 0 && e.stop != nil && e.stop() {
		return false
	}
	for s < len(e.m.Squares) && e.m.Squares[s].Fixed {
		s++
	}
	if s == len(e.m.Squares) {
		if c := e.st.Coverage(); c > e.h.score+1e-12 && e.complete() {
			e.h.score, e.h.Covers = c, c
			copy(e.h.best, e.st.Contents())
		}
		return true
	}
	if e.hope(s) <= e.h.score*e.m.Weights+1e-9 {
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
	q := &e.m.Squares[s]
	had := e.st.Items[s]
	all := e.m.Teaches[q.Track]
	start := from
	if q.Uneven {
		start = 0 // the order matters: any unit may come next
	}
	for i := start; i < len(all); i++ {
		if model.HasUnit(had, all[i]) {
			continue
		}
		for kind := model.Teach; kind <= model.Review; kind++ {
			if !tryOpen(e.st, model.Change{Square: s, Items: append(had[:len(had):len(had)], model.Item{Unit: all[i], Kind: kind})}) {
				continue
			}
			done := e.item(s, i+1)
			e.st.Set(s, had)
			e.st.Staffing.Call(e.st, s)
			e.st.Settle()
			if !done {
				return false
			}
		}
	}
	return e.square(s + 1)
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
		st.Set(c.Square, had)
		st.Staffing.Call(st, c.Square)
		st.Settle()
		return false
	}
	st.Settle()
	return true
}

// hope is the most the whole can still come to, as a weight.
func (e *exhaust) hope(s int) float64 {
	sum := e.relaxation.Base + e.left[s]
	for u := range e.m.Units {
		if subproblem := e.subproblems[int32(u)]; subproblem != nil {
			sum += e.unitHope(s, int32(u), subproblem)
		}
	}
	return sum
}

func (e *exhaust) unitHope(square int, u int32, of *bound.Subproblem) float64 {
	k := e.st.Marks[u] ^ e.m.Units[u].Salt ^ model.Mix(uint64(square)+7)
	if h, ok := e.hopes[k]; ok {
		return h
	}
	s := bound.Subproblem{Unit: int(u), Fixed: e.st.Occasions[u], Dims: e.room[square][e.at[u]], Cost: of.Cost, Charge: slices.Clone(of.Charge), Ground: e.st.Values[u]}
	paid := 0.0 // for the tracks that are taught it by now
	for _, o := range e.st.Occasions[u] {
		if q := &e.m.Squares[o.Square]; o.Kind == model.Teach && !q.Fixed {
			paid += s.Charge[q.Track]
			s.Charge[q.Track] = 0
		}
	}
	s.Note(e.relaxation, make([]uint8, 2*len(s.Dims)))
	h, _ := s.Exactly(e.relaxation, 2000)
	h -= paid
	e.hopes[k] = h
	return h
}

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
