// Package repair changes a plan that is under way: after a cancelled class, an ill coach or what was not reached, in as few classes as
// possible (repair.go), and as somebody moves it by hand (move.go).
package repair

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/core/season/search"
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
func Disrupted(p season.Problem, old season.Plan, all []Disruption) (season.Problem, season.Plan, error) {
	p.Closures, p.Coaches, p.Wanted = slices.Clone(p.Closures), slices.Clone(p.Coaches), slices.Clone(p.Wanted)
	old.Placements = slices.Clone(old.Placements)
	for i, d := range all {
		if err := d.happen(&p, &old); err != nil {
			return p, old, fmt.Errorf("changes[%d]: %w", i, err)
		}
	}
	return p, old, nil
}

func (d Disruption) happen(p *season.Problem, old *season.Plan) error {
	switch d.Kind {
	case "cancelled", "closed":
		if d.Kind == "cancelled" && d.Class == "" {
			return fmt.Errorf("class is empty: say which class is cancelled")
		}
		p.Closures = append(p.Closures, season.Closure{Week: d.Week, Class: d.Class})
	case "coach_out":
		k := slices.IndexFunc(p.Coaches, func(c season.Coach) bool { return c.ID == d.Coach })
		if k < 0 {
			return fmt.Errorf("coach %q is not among the coaches", d.Coach)
		}
		p.Coaches[k].Out = append(slices.Clone(p.Coaches[k].Out), season.Away{Week: d.Week})
	case "not_reached":
		i := slices.IndexFunc(old.Placements, func(x season.Placement) bool { return x.Week == d.Week && x.Class == d.Class })
		if i < 0 {
			return fmt.Errorf("%s in week %d is not in the plan", d.Class, d.Week)
		}
		x := &old.Placements[i]
		x.Items = slices.DeleteFunc(slices.Clone(x.Items), func(it season.Item) bool { return it.Unit == d.Unit })
		x.Held = true
	case "wanted":
		p.Wanted = append(p.Wanted, season.Wanted{Unit: d.Unit, Track: d.Track, Week: d.Week})
	default:
		return fmt.Errorf("kind %q: choose cancelled, closed, coach_out, not_reached or wanted", d.Kind)
	}
	return nil
}

// Change is one class before and after a repair.
type Change struct {
	Week   int               `json:"week"`
	Class  string            `json:"class"`
	Before *season.Placement `json:"before,omitempty"`
	After  *season.Placement `json:"after,omitempty"`
}

// Repaired is a plan mended after something changed.
type Repaired struct {
	Plan    season.Plan `json:"plan"`
	Before  float64     `json:"before" doc:"Coverage of the old plan, before the change"`
	Broken  float64     `json:"broken" doc:"Coverage if what cannot stand any more were only removed"`
	Anew    float64     `json:"anew" doc:"The best coverage found when everything that may move may change"`
	Fewest  bool        `json:"fewest,omitempty" doc:"Proven: no plan within 1 % of the best changes fewer classes"`
	Changes []Change    `json:"changes"`
	Dropped []Missed    `json:"dropped,omitempty" required:"false" doc:"What was not reached and has no room any more: a head instructor decides what it costs"`
}

// Missed is a unit that was not reached, and the track that missed it.
type Missed struct {
	Unit  string `json:"unit"`
	Track string `json:"track"`
}

// missed lists the units that were not reached and that their track is taught nowhere else in a plan.
func missed(p season.Problem, plan season.Plan, happened []Disruption) []Missed {
	var all []Missed
	for _, d := range happened {
		if d.Kind != "not_reached" {
			continue
		}
		k := slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == d.Class })
		if k < 0 {
			continue
		}
		x := Missed{d.Unit, p.Classes[k].Track}
		knows := slices.ContainsFunc(p.Tracks, func(t season.Track) bool { return t.ID == x.Track && slices.Contains(t.Assumed, x.Unit) })
		taught := slices.ContainsFunc(plan.Placements, func(y season.Placement) bool {
			of := slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == y.Class })
			return of >= 0 && p.Classes[of].Track == x.Track && slices.Contains(y.Items, season.Item{Unit: x.Unit, Kind: season.Teach})
		})
		if !knows && !taught && !slices.Contains(all, x) {
			all = append(all, x)
		}
	}
	return all
}

// near is how close to the best coverage attainable a repair must come.
const near = 0.99

// Repair mends a plan so that it fits p, which already holds the change (see
// Disrupted). Placements before firstWeek stay as they are, also what was fixed. Of the plans within 1 % of the
// best coverage attainable under the season's goal it looks for the one that changes fewest classes: from what can be salvaged of the old one, in many
// ways, by whatever gains most for each class it changes; and from the best plan back, class by class, to what was. The better of these is where a search
// for the nearest plan that is good enough begins (search.Nearest). Small seasons are searched to the end.
// A unit that was not reached and is taught nowhere else comes back wherever there is a way, whatever it is worth; else it is named as dropped.
//
// Costs a short search, and squares × units for the first step; the further
// steps cost what they touch.
func Repair(p season.Problem, old season.Plan, firstWeek int, happened ...Disruption) (Repaired, error) {
	if bad := p.Check(); len(bad) > 0 {
		return Repaired{}, bad[0]
	}
	p.Fixed = pastOf(p, old, firstWeek)
	for _, x := range missed(p, old, happened) {
		again := p
		again.Wanted = append(slices.Clone(p.Wanted), season.Wanted{Unit: x.Unit, Track: x.Track, Week: p.Weeks})
		if len(again.Check()) == 0 && search.Feasible(model.New(again)) != nil {
			p = again
		}
	}
	m := model.New(p)
	m.KeepLines(old.Placements)
	st, conflict := search.Begin(m, nil)
	if conflict != nil {
		return Repaired{}, fmt.Errorf("nothing was changed: %w", conflict)
	}
	f := &fewest{m: m, old: old, was: newWas(m, old)}
	before, _ := season.Coverage(p, old.Placements)
	r := Repaired{Before: before}
	salvaged := f.salvage(st)
	r.Broken = f.broken
	best, exact := f.attainable(salvaged[0])
	r.Anew = best.Coverage()
	f.enough = near*r.Anew - 1e-12
	for _, x := range salvaged {
		f.consider(f.suffice(x))
	}
	f.consider(f.shrink(best.Contents()))
	// A longer class may give more than a shorter one that stays, which pinning cannot say.
	// Nor is a plan along other areas looked for, where a track asks for a line.
	if exact && !m.AnyLined() && !slices.ContainsFunc(m.Squares, func(q model.Square) bool { return q.Uneven }) {
		f.settle(&r, st)
		f.fewer(&r, firstWeek)
	}
	if !r.Fewest {
		f.nearer()
		f.settle(&r, st)
	}
	r.Dropped = missed(p, r.Plan, happened)
	return r, nil
}

// settle makes the best found the answer, unless that changes fewer classes already.
func (f *fewest) settle(r *Repaired, st *model.State) {
	st.Take(f.best)
	plan := search.Plan(st, 0, &f.old)
	plan.Bound = 1
	if f.old.Bound > 0 {
		plan.Bound = max(min(1, f.old.Bound), plan.Coverage)
	}
	if changes := Diff(f.old, plan); r.Changes == nil || len(changes) < len(r.Changes) {
		r.Plan, r.Changes = plan, changes
	}
}

// nearWork is what looking for a nearer plan may cost, in steps of work.
const nearWork = 900_000

// nearer looks for a plan as good with fewer changed classes. It looks at the plan as a whole, which neither growing nor shrinking does: a few
// classes filled well in place of many with one item changed.
func (f *fewest) nearer() {
	if f.covered < f.enough || f.changed == 0 {
		return
	}
	f.consider(f.shrink(search.Nearest(search.Spare(f.m, f.best), f.was, f.enough, uint64(f.m.Problem.Seed)+1, nearWork)))
}

// pastOf is what stays in any case.
func pastOf(p season.Problem, old season.Plan, firstWeek int) []season.Placement {
	var past []season.Placement
	taken := map[string]bool{}
	for _, f := range p.Fixed {
		past = append(past, f)
		taken[season.Key(f.Week, f.Class)] = true
	}
	for _, x := range old.Placements {
		if (x.Week < firstWeek || x.Held) && !season.Closed(p, x.Week, x.Class) && !taken[season.Key(x.Week, x.Class)] {
			x.Held = true
			past = append(past, x)
		}
	}
	return past
}

// fewest looks for a plan good enough with few changed classes.
type fewest struct {
	m       *model.Model
	old     season.Plan
	was     [][]model.Item // per square, what the old plan has
	broken  float64        // coverage of what may stand when nothing is added
	enough  float64
	best    [][]model.Item
	changed int
	covered float64
}

func newWas(m *model.Model, old season.Plan) [][]model.Item {
	st := model.NewState(m)
	st.Put(old.Placements)
	return st.Contents()
}

// differs says whether a square does not hold what the old plan has.
func (f *fewest) differs(s int, items []model.Item) bool { return !slices.Equal(f.was[s], items) }

// classes counts the classes that would change.
func (f *fewest) classes(all [][]model.Item) int {
	n := 0
	for s, items := range all {
		if f.differs(s, items) {
			n += len(f.m.Squares[s].Classes)
		}
	}
	return n
}

// consider keeps contents when they are good enough and change less.
func (f *fewest) consider(all [][]model.Item, covered float64) {
	n := f.classes(all)
	good, had := covered >= f.enough, f.best != nil && f.covered >= f.enough
	better := f.best == nil || good && !had || good == had && (good && n < f.changed || n == f.changed && covered > f.covered || !good && covered > f.covered)
	if better {
		f.best, f.changed, f.covered = all, n, covered
	}
}

// repairWork is what looking for the best coverage attainable may cost.
const repairWork = 500_000

// attainable searches for the best coverage when everything may change, and
// says whether it is proven.
func (f *fewest) attainable(kept [][]model.Item) (*model.State, bool) {
	st := search.Spare(f.m, kept)
	search.Fill(st, nil)
	h := search.New(st, uint64(f.m.Problem.Seed)+1, repairWork)
	if search.Exact(f.m, h, nil) {
		return st, true
	}
	h.Run(nil)
	return st, false
}

// step is one item put into a square in place of another, or of none.
type step struct {
	square int
	out    int // place of the item that goes; −1 for none
	in     model.Item
	gain   float64 // of covered weight, for each class it changes
}

// grow adds and exchanges items, the one first that gains most for each class
// that does not differ already, until the coverage is good enough. What gains less
// than it did before waits its turn.
func (f *fewest) grow(st *model.State) ([][]model.Item, float64) {
	if st.Coverage() >= f.enough {
		return st.Contents(), st.Coverage()
	}
	var queue []step
	for s := range f.m.Squares {
		queue = append(queue, f.steps(st, s)...)
	}
	slices.SortStableFunc(queue, func(a, b step) int { return cmp.Compare(b.gain, a.gain) })
	for tries := 0; st.Coverage() < f.enough && len(queue) > 0 && tries < 4000; tries++ {
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
		if ok && now > 1e-9 && st.Try(model.Change{Square: x.square, Items: x.applied(st)}) {
			queue = slices.DeleteFunc(queue, func(o step) bool { return o.square == x.square })
			queue = append(queue, f.steps(st, x.square)...)
			slices.SortStableFunc(queue, func(a, b step) int { return cmp.Compare(b.gain, a.gain) })
		}
	}
	return f.shrink(st.Contents())
}

func (x step) applied(st *model.State) []model.Item {
	var items []model.Item
	for i, it := range st.Items[x.square] {
		if i != x.out {
			items = append(items, it)
		}
	}
	return append(items, x.in)
}

// steps lists what could gain in a square.
func (f *fewest) steps(st *model.State, s int) []step {
	q := &f.m.Squares[s]
	if q.Fixed {
		return nil
	}
	var all []step
	for out := -1; out < len(st.Items[s]); out++ {
		var best step
		for _, u := range f.m.Teaches[q.Track] {
			for kind := model.Teach; kind <= model.Review; kind++ {
				x := step{square: s, out: out, in: model.Item{Unit: u, Kind: kind}}
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
func (f *fewest) gain(st *model.State, x step) (float64, bool) {
	m, q, u := f.m, &f.m.Squares[x.square], x.in.Unit
	used := st.Used[x.square] + m.Units[u].Cost[x.in.Kind]
	gain := 0.0
	for i, it := range st.Items[x.square] {
		switch {
		case i == x.out:
			used -= m.Units[it.Unit].Cost[it.Kind]
			r := search.Relay{State: st}
			gain -= r.Loss(q.Track, int32(x.square), it)
		case it.Unit == u:
			return 0, false
		}
	}
	if x.out >= len(st.Items[x.square]) || used > q.Minutes || x.out >= 0 && st.Items[x.square][x.out].Unit == u {
		return 0, false
	}
	if x.in.Kind == model.Review && st.First(q.Track, u) >= q.Day {
		return 0, false
	}
	v := st.ValueWith(u, model.Occasion{Square: int32(x.square), Audience: q.Audiences[len(q.Audiences)-1], Kind: x.in.Kind})
	gain += v[0] - st.Values[u]
	if !f.differs(x.square, st.Items[x.square]) {
		gain /= float64(len(q.Classes))
	} else {
		gain *= 1000 // it changes nothing that does not differ already
	}
	return gain, true
}

// shrink takes squares back to the old plan, what costs least first, as long
// as the coverage stays good enough.
func (f *fewest) shrink(all [][]model.Item) ([][]model.Item, float64) {
	st := search.Spare(f.m, all)
	for again := true; again; {
		again = false
		type back struct {
			square int
			loss   float64
		}
		var queue []back
		for s := range f.m.Squares {
			if q := &f.m.Squares[s]; q.Fixed || !f.differs(s, st.Items[s]) {
				continue
			}
			now := st.Coverage()
			if st.Try(model.Change{Square: s, Items: f.was[s]}) {
				if st.Coverage() >= f.enough {
					queue = append(queue, back{s, (now - st.Coverage()) / float64(len(f.m.Squares[s].Classes))})
				}
				st.Undo()
			}
		}
		slices.SortStableFunc(queue, func(a, b back) int { return cmp.Compare(a.loss, b.loss) })
		for _, x := range queue {
			if st.Try(model.Change{Square: x.square, Items: f.was[x.square]}) {
				if st.Coverage() < f.enough {
					st.Undo()
					continue
				}
				again = true
			}
		}
	}
	return st.Contents(), st.Coverage()
}

// mostChoices is how many sets of classes fewer looks at.
const mostChoices = 400

// fewer tries every smaller set of classes that may change, everything else
// pinned with its lead, and solves each exactly. It says whether it went through all of them.
func (f *fewest) fewer(r *Repaired, firstWeek int) {
	must, may := 0, []season.Placement{}
	for _, x := range f.all(firstWeek) {
		switch {
		case season.Closed(f.m.Problem, x.Week, x.Class):
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
				k := season.Key(may[i].Week, may[i].Class)
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
func (f *fewest) all(firstWeek int) []season.Placement {
	var all []season.Placement
	for w := firstWeek; w <= f.m.Problem.Weeks; w++ {
		for _, c := range f.m.Problem.Classes {
			x, ok := f.old.Find(w, c.ID)
			if !ok {
				x = season.Placement{Week: w, Class: c.ID}
			}
			if !x.Held && !slices.ContainsFunc(f.m.Problem.Fixed, func(o season.Placement) bool { return o.Week == w && o.Class == c.ID }) {
				all = append(all, x)
			}
		}
	}
	return all
}

// pinned solves with all but the free classes pinned, and takes the plan when
// it is good enough.
func (f *fewest) pinned(r *Repaired, may []season.Placement, free map[string]bool) bool {
	p := f.m.Problem
	p.Fixed = slices.Clone(p.Fixed)
	for _, x := range may {
		if !free[season.Key(x.Week, x.Class)] {
			p.Fixed = append(p.Fixed, x)
		}
	}
	m := model.New(p)
	m.KeepLines(f.old.Placements)
	st := search.Feasible(m)
	if st == nil {
		return false
	}
	h := search.New(st, 1, 20_000)
	if !search.Exact(m, h, nil) || h.Covers < f.enough {
		return false
	}
	plan := search.Plan(st, 0, &f.old)
	if changes := Diff(f.old, plan); len(changes) < len(r.Changes) {
		plan.Bound = r.Plan.Bound
		r.Plan, r.Changes = plan, changes
		return true
	}
	return false
}

// Diff lists the classes that differ between two plans, in the order they happen.
func Diff(before, after season.Plan) []Change {
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
