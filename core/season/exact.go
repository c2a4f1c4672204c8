package season

// exact tries to prove the best coverage of a small season: every content of
// every square in turn, day by day. It turns back where what is still open cannot bring more than the
// best known (the bound's prices, with what the classes left can be paid), and where a state was met before that
// differs in nothing that matters. It says whether it finished; the search then holds
// the optimum.
func (m *model) exact(h *search) bool {
	if m.p.Goal != "coverage" || len(h.open) > 40 || len(m.units) > 16 {
		return false
	}
	whole := h.limit
	h.limit = min(h.limit, exactWarmth)
	h.run(nil)
	h.limit = whole
	e := newExhaust(m, h)
	done := e.square(0)
	h.st.take(h.best)
	return done
}

// exactWarmth is the work spent on finding a good plan before proving it best;
// mostStates how many states the proof may look at.
const (
	exactWarmth = 60_000
	mostStates  = 120_000
)

// exhaust is the state of such a search.
type exhaust struct {
	m           *model
	h           *search
	st          *state
	relaxation  *relaxation
	left        []float64 // per square, what the classes from it on can be paid
	subproblems map[int32]*subproblem
	hopes       map[uint64]float64 // unit and mark: the most it can still come to
	met         map[uint64]bool
	states      int
}

func newExhaust(m *model, h *search) *exhaust {
	e := &exhaust{m: m, h: h, st: newState(m), relaxation: newRelaxation(m), subproblems: map[int32]*subproblem{}, hopes: map[uint64]float64{}, met: map[uint64]bool{}}
	e.relaxation.prepare(h.score*m.weights, 200_000)
	e.relaxation.prove(200_000)
	for i := range e.relaxation.subproblems {
		s := &e.relaxation.subproblems[i]
		e.subproblems[int32(s.u)] = s
		for j := range s.dims {
			s.dims[j].known = true // what was taught by now differs from state to state
		}
	}
	e.priceLeft()
	return e
}

// priceLeft adds up, from each square on, what the classes can be paid at the prices.
func (e *exhaust) priceLeft() {
	e.left = make([]float64, len(e.m.squares)+1)
	k := &e.relaxation.packing
	for s := len(e.m.squares) - 1; s >= 0; s-- {
		e.left[s] = e.left[s+1]
		if of := k.of[s]; of >= 0 {
			e.left[s] += k.fill(&k.packs[of], nil)
		}
	}
}

// square decides the squares from s on; false when it grew too long.
func (e *exhaust) square(s int) bool {
	if e.states++; e.states > mostStates {
		return false
	}
	for s < len(e.m.squares) && e.m.squares[s].fixed {
		s++
	}
	if s == len(e.m.squares) {
		if c := e.st.coverage(); c > e.h.score+1e-12 && e.complete() {
			e.h.score, e.h.covers = c, c
			copy(e.h.best, e.st.contents())
		}
		return true
	}
	if e.hope(s) <= e.h.score*e.m.weights+1e-9 {
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
func (e *exhaust) complete() bool { return len(e.st.demands()) == 0 }

// item adds units from a place in the list on to a square, or goes on to the next.
func (e *exhaust) item(s int, from int) bool {
	q := &e.m.squares[s]
	had := e.st.sq[s]
	all := e.m.teaches[q.track]
	start := from
	if q.uneven {
		start = 0 // the order matters: any unit may come next
	}
	for i := start; i < len(all); i++ {
		if hasUnit(had, all[i]) {
			continue
		}
		for kind := teach; kind <= review; kind++ {
			if !e.st.tryOpen(change{s, append(had[:len(had):len(had)], item{unit: all[i], kind: kind})}) {
				continue
			}
			done := e.item(s, i+1)
			e.st.set(s, had)
			e.st.staffing.call(e.st, s)
			e.st.settle()
			if !done {
				return false
			}
		}
	}
	return e.square(s + 1)
}

// tryOpen is try that does not mind what is still to be taught in later
// squares because something fixed or wanted asks for it: complete does, in the end.
func (st *state) tryOpen(c change) bool {
	if len(st.m.p.Fixed) == 0 && len(st.m.p.Wanted) == 0 {
		return st.try(c)
	}
	if !st.fits(c.square, c.items) {
		return false
	}
	q := &st.m.squares[c.square]
	for _, it := range c.items {
		for _, r := range st.m.units[it.unit].requires {
			if st.first(q.track, r) >= q.day {
				return false
			}
		}
		if it.kind == review && st.first(q.track, it.unit) >= q.day {
			return false
		}
	}
	had := st.sq[c.square]
	st.set(c.square, c.items)
	if st.staffing.call(st, c.square) && !st.staffing.week(q.week) {
		st.set(c.square, had)
		st.staffing.call(st, c.square)
		st.settle()
		return false
	}
	st.settle()
	return true
}

// hope is the most the whole can still come to, as a weight.
func (e *exhaust) hope(s int) float64 {
	sum := e.relaxation.base + e.left[s]
	for u := range e.m.units {
		if subproblem := e.subproblems[int32(u)]; subproblem != nil {
			sum += e.unitHope(int32(u), subproblem)
		}
	}
	return sum
}

func (e *exhaust) unitHope(u int32, of *subproblem) float64 {
	k := e.st.mark[u] ^ e.m.units[u].salt
	if h, ok := e.hopes[k]; ok {
		return h
	}
	s := subproblem{u: int(u), fixed: e.st.occs[u], dims: of.dims, cost: of.cost, ground: e.st.val[u]}
	s.note(e.relaxation, make([]uint8, 2*len(s.dims)))
	h, _ := s.exactly(e.relaxation, 2000)
	e.hopes[k] = h
	return h
}

// state is what matters for the squares from s on: how often each unit was
// given to whom, what was first taught today, and who is needed this week.
func (e *exhaust) state(s int) uint64 {
	q := &e.m.squares[s]
	h := mixed(uint64(s))
	for u := range e.m.units {
		h += mixed(e.st.mark[u] ^ e.m.units[u].salt)
		for _, o := range e.st.occs[u] {
			if x := &e.m.squares[o.square]; o.kind == teach && x.day == q.day && e.st.first(x.track, int32(u)) == q.day {
				h += mixed(uint64(u)<<20 | uint64(x.track)<<8 | 1<<50)
			}
		}
	}
	if len(e.m.p.Fixed)+len(e.m.p.Wanted) > 0 { // deadlines: when matters too
		for t := range e.m.p.Tracks {
			for u := range e.m.units {
				h += mixed(uint64(e.st.first(t, int32(u)))<<20 ^ uint64(u)<<8 ^ uint64(t) ^ 1<<60)
			}
		}
	}
	for _, o := range e.m.byWeek[q.week] {
		if int(o) < s {
			for i, mask := range e.st.staffing.asks[o] {
				h += mixed(mask ^ mixed(uint64(o)<<8|uint64(i)))
			}
		}
	}
	return h
}
