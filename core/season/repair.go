package season

import (
	"cmp"
	"fmt"
	"slices"
)

// Disruption is something that makes a plan need mending.
type Disruption struct {
	Kind  string `json:"kind" enum:"cancelled,closed,coach_out,not_reached,wanted"`
	Week  int    `json:"week" doc:"wanted: by the end of it"`
	Class string `json:"class,omitempty" doc:"cancelled and not_reached: which; closed: all when left out"`
	Coach string `json:"coach,omitempty" doc:"coach_out"`
	Unit  string `json:"unit,omitempty" doc:"not_reached and wanted"`
	Track string `json:"track,omitempty" doc:"wanted: any of its tracks when left out"`
}

// Disrupted is the problem and the plan after something happened: the plan only
// loses what was not reached, which happened and so is held from then on.
func Disrupted(p Problem, old Plan, all []Disruption) (Problem, Plan, error) {
	p.Closures, p.Coaches, p.Wanted = slices.Clone(p.Closures), slices.Clone(p.Coaches), slices.Clone(p.Wanted)
	old.Placements = slices.Clone(old.Placements)
	for i, d := range all {
		if err := d.happen(&p, &old); err != nil {
			return p, old, fmt.Errorf("changes[%d]: %w", i, err)
		}
	}
	return p, old, nil
}

func (d Disruption) happen(p *Problem, old *Plan) error {
	switch d.Kind {
	case "cancelled", "closed":
		if d.Kind == "cancelled" && d.Class == "" {
			return fmt.Errorf("class is empty: say which class is cancelled")
		}
		p.Closures = append(p.Closures, Closure{d.Week, d.Class})
	case "coach_out":
		k := slices.IndexFunc(p.Coaches, func(c Coach) bool { return c.ID == d.Coach })
		if k < 0 {
			return fmt.Errorf("coach %q is not among the coaches", d.Coach)
		}
		p.Coaches[k].Out = append(slices.Clone(p.Coaches[k].Out), Away{Week: d.Week})
	case "not_reached":
		i := slices.IndexFunc(old.Placements, func(x Placement) bool { return x.Week == d.Week && x.Class == d.Class })
		if i < 0 {
			return fmt.Errorf("%s in week %d is not in the plan", d.Class, d.Week)
		}
		x := &old.Placements[i]
		x.Items = slices.DeleteFunc(slices.Clone(x.Items), func(it Item) bool { return it.Unit == d.Unit })
		x.Held = true
	case "wanted":
		p.Wanted = append(p.Wanted, Wanted{d.Unit, d.Track, d.Week})
	default:
		return fmt.Errorf("kind %q: choose cancelled, closed, coach_out, not_reached or wanted", d.Kind)
	}
	return nil
}

// Change is one class before and after a repair.
type Change struct {
	Week   int        `json:"week"`
	Class  string     `json:"class"`
	Before *Placement `json:"before,omitempty"`
	After  *Placement `json:"after,omitempty"`
}

// Repaired is a plan mended after something changed.
type Repaired struct {
	Plan    Plan     `json:"plan"`
	Before  float64  `json:"before" doc:"Coverage of the old plan, before the change"`
	Broken  float64  `json:"broken" doc:"Coverage if what cannot stand any more were only taken out"`
	Anew    float64  `json:"anew" doc:"The best coverage found when everything that may move may change"`
	Fewest  bool     `json:"fewest,omitempty" doc:"Proven: no plan within 1 % of the best changes fewer classes"`
	Changes []Change `json:"changes"`
}

// near is how close to the best coverage attainable a repair must come.
const near = 0.99

// Repair mends a plan so that it fits p, which already holds the change (see
// Disrupted). Placements before firstWeek stay as they are, also what was fixed. Of the plans within 1 % of the
// best coverage attainable under the season's goal it looks for the one that changes fewest classes: from what can stay, step by step, whatever gains
// most for each class it changes; and from the best plan back, class by class, to what was. Small seasons are searched to the end.
//
// Costs a short search, and squares × units for the first step; the further
// steps cost what they touch.
func Repair(p Problem, old Plan, firstWeek int) (Repaired, error) {
	if bad := p.Check(); len(bad) > 0 {
		return Repaired{}, bad[0]
	}
	p.Fixed = pastOf(p, old, firstWeek)
	m := newModel(p)
	st, conflict := m.begin()
	if conflict != nil {
		return Repaired{}, fmt.Errorf("nothing was changed: %w", conflict)
	}
	f := &fewest{m: m, old: old, was: newWas(m, old)}
	before, _ := Coverage(p, old.Placements)
	r := Repaired{Before: before}
	kept := f.keep(st)
	r.Broken = kept.coverage()
	best, exact := f.attainable(kept)
	r.Anew = best.coverage()
	f.enough = near*r.Anew - 1e-12
	f.consider(f.grow(kept))
	f.consider(f.shrink(best.contents()))
	st.take(f.best)
	r.Plan = st.plan(0, &old)
	r.Plan.Bound = 1
	if old.Bound > 0 {
		r.Plan.Bound = max(min(1, old.Bound), r.Plan.Coverage)
	}
	r.Changes = Diff(old, r.Plan)
	if exact && !slices.ContainsFunc(m.squares, func(q square) bool { return q.uneven }) {
		f.fewer(&r, firstWeek) // a longer class may give more than a shorter one that stays, which pinning cannot say
	}
	return r, nil
}

// pastOf is what stays in any case.
func pastOf(p Problem, old Plan, firstWeek int) []Placement {
	var past []Placement
	taken := map[string]bool{}
	for _, f := range p.Fixed {
		past = append(past, f)
		taken[key(f.Week, f.Class)] = true
	}
	for _, x := range old.Placements {
		if (x.Week < firstWeek || x.Held) && !closed(p, x.Week, x.Class) && !taken[key(x.Week, x.Class)] {
			x.Held = true
			past = append(past, x)
		}
	}
	return past
}

// fewest looks for a plan good enough with few changed classes.
type fewest struct {
	m       *model
	old     Plan
	was     [][]item // per square, what the old plan has
	enough  float64
	best    [][]item
	changed int
	covered float64
}

func newWas(m *model, old Plan) [][]item {
	st := newState(m)
	st.put(old.Placements)
	return st.contents()
}

// differs says whether a square does not hold what the old plan has.
func (f *fewest) differs(s int, items []item) bool { return !slices.Equal(f.was[s], items) }

// classes counts the classes that would change.
func (f *fewest) classes(all [][]item) int {
	n := 0
	for s, items := range all {
		if f.differs(s, items) {
			n += len(f.m.squares[s].classes)
		}
	}
	return n
}

// consider keeps contents when they are good enough and change less.
func (f *fewest) consider(all [][]item, covered float64) {
	n := f.classes(all)
	good, had := covered >= f.enough, f.best != nil && f.covered >= f.enough
	better := f.best == nil || good && !had || good == had && (good && n < f.changed || n == f.changed && covered > f.covered || !good && covered > f.covered)
	if better {
		f.best, f.changed, f.covered = all, n, covered
	}
}

// keep puts the old plan's items back where they still may stand. What stands
// on a teach that is gone either falls with it, or the teach is given elsewhere in
// front of it: whichever changes fewer classes.
func (f *fewest) keep(st *state) *state {
	start := st.contents()
	st.read(f.old.Placements, nil)
	fallen, n, c := st.contents(), f.classes(st.contents()), st.coverage()
	st.take(start)
	st.read(f.old.Placements, f.rescue)
	if m := f.classes(st.contents()); m > n || m == n && st.coverage() < c {
		st.take(fallen)
	}
	return st
}

// rescue gives a unit in a track before a day, where that changes least: in a
// class that differs already, then where it pushes out what is worth least. What it stands on
// is rescued first.
func (f *fewest) rescue(st *state, t int, u int32, before, depth int) bool {
	if st.first(t, u) < before {
		return true
	}
	if !f.m.can[t][u] || depth > 4 {
		return false
	}
	ground := -1
	for _, r := range f.m.units[u].requires {
		if !f.rescue(st, t, r, before, depth+1) {
			return false
		}
		ground = max(ground, st.first(t, r))
	}
	r := relay{st: st}
	r.findRooms(t, u)
	rooms := slices.Clone(r.rooms[teach])
	differs := func(x room) int {
		if q := &f.m.squares[x.square]; f.differs(int(x.square), st.sq[x.square]) && q.day < before {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(rooms, func(a, b room) int { return cmp.Or(differs(a)-differs(b), cmp.Compare(a.cost, b.cost)) })
	for _, x := range rooms {
		if q := &f.m.squares[x.square]; q.day <= ground || q.day >= before {
			continue
		}
		var items []item
		for i, it := range st.sq[x.square] {
			if !slices.Contains(x.goes[:], int8(i)) {
				items = append(items, it)
			}
		}
		if st.try(change{int(x.square), append([]item{{unit: u, kind: teach}}, items...)}) {
			return true
		}
	}
	return false
}

// repairWork is what looking for the best coverage attainable may cost.
const repairWork = 260_000

// attainable searches for the best coverage when everything may change, and
// says whether it is proven.
func (f *fewest) attainable(kept *state) (*state, bool) {
	st := f.m.spare(kept.contents())
	st.fill()
	h := newSearch(st, uint64(f.m.p.Seed)+1, repairWork)
	if f.m.exact(h) {
		return st, true
	}
	h.run(nil)
	return st, false
}

// step is one item put into a square in place of another, or of none.
type step struct {
	square int
	out    int // place of the item that goes; −1 for none
	in     item
	gain   float64 // of covered weight, for each class it changes
}

// grow adds and exchanges items, the one first that gains most for each class
// that does not differ already, until the coverage is good enough. What gains less
// than it did before waits its turn.
func (f *fewest) grow(st *state) ([][]item, float64) {
	if st.coverage() >= f.enough {
		return st.contents(), st.coverage()
	}
	var queue []step
	for s := range f.m.squares {
		queue = append(queue, f.steps(st, s)...)
	}
	slices.SortStableFunc(queue, func(a, b step) int { return cmp.Compare(b.gain, a.gain) })
	for tries := 0; st.coverage() < f.enough && len(queue) > 0 && tries < 4000; tries++ {
		x := queue[0]
		now, ok := f.gain(st, x)
		if ok && now < x.gain-1e-9 && len(queue) > 1 && now < queue[1].gain {
			x.gain = now
			queue = queue[1:]
			at, _ := slices.BinarySearchFunc(queue, x, func(a, b step) int { return cmp.Compare(b.gain, a.gain) })
			queue = slices.Insert(queue, at, x)
			continue
		}
		queue = queue[1:]
		if ok && now > 1e-9 && st.try(change{x.square, x.applied(st)}) {
			queue = slices.DeleteFunc(queue, func(o step) bool { return o.square == x.square })
			queue = append(queue, f.steps(st, x.square)...)
			slices.SortStableFunc(queue, func(a, b step) int { return cmp.Compare(b.gain, a.gain) })
		}
	}
	return f.shrink(st.contents())
}

func (x step) applied(st *state) []item {
	var items []item
	for i, it := range st.sq[x.square] {
		if i != x.out {
			items = append(items, it)
		}
	}
	return append(items, x.in)
}

// steps lists what could gain in a square.
func (f *fewest) steps(st *state, s int) []step {
	q := &f.m.squares[s]
	if q.fixed {
		return nil
	}
	var all []step
	for out := -1; out < len(st.sq[s]); out++ {
		var best step
		for _, u := range f.m.teaches[q.track] {
			for kind := teach; kind <= review; kind++ {
				x := step{square: s, out: out, in: item{unit: u, kind: kind}}
				if gain, ok := f.gain(st, x); ok && gain > best.gain+1e-9 {
					x.gain = gain
					best = x
				}
			}
		}
		if best.gain > 0 {
			all = append(all, best)
		}
	}
	return all
}

// gain is the covered weight a step adds, for each class it changes.
func (f *fewest) gain(st *state, x step) (float64, bool) {
	m, q, u := f.m, &f.m.squares[x.square], x.in.unit
	used := st.used[x.square] + m.units[u].cost[x.in.kind]
	gain := 0.0
	for i, it := range st.sq[x.square] {
		switch {
		case i == x.out:
			used -= m.units[it.unit].cost[it.kind]
			r := relay{st: st}
			gain -= r.loss(q.track, int32(x.square), it)
		case it.unit == u:
			return 0, false
		}
	}
	if x.out >= len(st.sq[x.square]) || used > q.minutes || x.out >= 0 && st.sq[x.square][x.out].unit == u {
		return 0, false
	}
	if x.in.kind == review && st.first(q.track, u) >= q.day {
		return 0, false
	}
	l := q.audiences[len(q.audiences)-1]
	v := st.valueAt(u, st.mark[u]+m.audiences[l].mark[x.in.kind], append(st.occs[u][:len(st.occs[u]):len(st.occs[u])], occ{int32(x.square), l, x.in.kind}))
	gain += v[0] - st.val[u]
	if !f.differs(x.square, st.sq[x.square]) {
		gain /= float64(len(q.classes))
	} else {
		gain *= 1000 // it changes nothing that does not differ already
	}
	return gain, true
}

// shrink takes squares back to the old plan, what costs least first, as long
// as the coverage stays good enough.
func (f *fewest) shrink(all [][]item) ([][]item, float64) {
	st := f.m.spare(all)
	for again := true; again; {
		again = false
		type back struct {
			square int
			loss   float64
		}
		var queue []back
		for s := range f.m.squares {
			if q := &f.m.squares[s]; q.fixed || !f.differs(s, st.sq[s]) {
				continue
			}
			now := st.coverage()
			if st.try(change{s, f.was[s]}) {
				if st.coverage() >= f.enough {
					queue = append(queue, back{s, (now - st.coverage()) / float64(len(f.m.squares[s].classes))})
				}
				st.undo()
			}
		}
		slices.SortStableFunc(queue, func(a, b back) int { return cmp.Compare(a.loss, b.loss) })
		for _, x := range queue {
			if st.try(change{x.square, f.was[x.square]}) {
				if st.coverage() < f.enough {
					st.undo()
					continue
				}
				again = true
			}
		}
	}
	return st.contents(), st.coverage()
}

// mostChoices is how many sets of classes fewer looks at.
const mostChoices = 400

// fewer tries every smaller set of classes that may change, everything else
// pinned with its lead, and solves each exactly. It says whether it went through all of them.
func (f *fewest) fewer(r *Repaired, firstWeek int) {
	must, may := 0, []Placement{}
	for _, x := range f.all(firstWeek) {
		switch {
		case closed(f.m.p, x.Week, x.Class):
			if len(x.Items) > 0 {
				must++ // gone in any case
			}
		default:
			may = append(may, x)
		}
	}
	left := mostChoices
	for size := 0; size < len(r.Changes)-must; size++ {
		free := map[string]bool{}
		var pick func(from, n int) bool
		pick = func(from, n int) bool {
			if n == 0 {
				left--
				return left >= 0 && f.pinned(r, may, free)
			}
			for i := from; i < len(may) && left >= 0; i++ {
				k := key(may[i].Week, may[i].Class)
				free[k] = true
				if pick(i+1, n-1) {
					return true
				}
				delete(free, k)
			}
			return false
		}
		if pick(0, size) {
			r.Fewest = left >= 0
			return
		}
		if left < 0 {
			return
		}
	}
	r.Fewest = true
}

// all lists every class of every week from the first on, empty ones too.
func (f *fewest) all(firstWeek int) []Placement {
	var all []Placement
	for w := firstWeek; w <= f.m.p.Weeks; w++ {
		for _, c := range f.m.p.Classes {
			x, ok := f.old.Find(w, c.ID)
			if !ok {
				x = Placement{Week: w, Class: c.ID}
			}
			if !x.Held && !slices.ContainsFunc(f.m.p.Fixed, func(o Placement) bool { return o.Week == w && o.Class == c.ID }) {
				all = append(all, x)
			}
		}
	}
	return all
}

// pinned solves with all but the free classes pinned, and takes the plan when
// it is good enough.
func (f *fewest) pinned(r *Repaired, may []Placement, free map[string]bool) bool {
	p := f.m.p
	p.Fixed = slices.Clone(p.Fixed)
	for _, x := range may {
		if !free[key(x.Week, x.Class)] {
			p.Fixed = append(p.Fixed, x)
		}
	}
	m := newModel(p)
	st := m.feasible()
	if st == nil {
		return false
	}
	h := newSearch(st, 1, 20_000)
	if !m.exact(h) || h.covers < f.enough {
		return false
	}
	plan := st.plan(0, &f.old)
	if changes := Diff(f.old, plan); len(changes) < len(r.Changes) {
		plan.Bound = r.Plan.Bound
		r.Plan, r.Changes = plan, changes
		return true
	}
	return false
}

// Diff lists the classes that differ between two plans, in the order they happen.
func Diff(before, after Plan) []Change {
	changes := []Change{}
	for _, x := range before.Placements {
		y, ok := after.Find(x.Week, x.Class)
		switch {
		case !ok:
			changes = append(changes, Change{x.Week, x.Class, &x, nil})
		case x.Lead != y.Lead || !slices.Equal(x.Items, y.Items):
			changes = append(changes, Change{x.Week, x.Class, &x, &y})
		}
	}
	for _, y := range after.Placements {
		if _, ok := before.Find(y.Week, y.Class); !ok {
			changes = append(changes, Change{y.Week, y.Class, nil, &y})
		}
	}
	slices.SortStableFunc(changes, func(a, b Change) int { return a.Week - b.Week })
	return changes
}
