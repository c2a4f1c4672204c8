package season

import (
	"cmp"
	"slices"
)

// Reason says why an item stands where it does.
type Reason struct {
	Unit     string   `json:"unit"`
	Kind     string   `json:"kind"`
	WaitsFor []Stand  `json:"waits_for" doc:"What it stands on, and when that was taught; week 0: assumed"`
	Opens    []string `json:"opens" doc:"Units taught later in the track that stand on it"`
	Gains    []Gain   `json:"gains" doc:"Who would lose chance covered without it, most first"`
	Worth    float64  `json:"worth" doc:"Coverage of the whole season lost without it"`
	Instead  *Swap    `json:"instead,omitempty" doc:"The best that could stand there in its place"`
	Lead     string   `json:"lead"`
	LeadWhy  []Other  `json:"lead_why" doc:"Of each other coach, why not; an empty reason means they could"`
}

// Stand is a required unit and the week it was first taught in.
type Stand struct {
	Unit string `json:"unit"`
	Week int    `json:"week"`
}

// Gain is one student's chance covered with and without.
type Gain struct {
	Student string  `json:"student"`
	With    float64 `json:"with"`
	Without float64 `json:"without"`
}

// Swap is another unit in the same place, and the coverage it would give.
type Swap struct {
	Unit     string  `json:"unit"`
	Kind     string  `json:"kind"`
	Coverage float64 `json:"coverage"`
}

// Other is a coach who does not lead, and why.
type Other struct {
	Coach string `json:"coach"`
	Why   string `json:"why"`
}

// Why explains one item of a placement: what it waits for, who gains, what it
// displaced, and why this coach leads. In mode same it speaks of the unit in all classes of that week.
// Costs one look at a unit's value for each unit that could stand there instead.
func Why(p Problem, plan Plan, week int, class, unit string) (Reason, bool) {
	e, ok := newExplainer(p, plan)
	if !ok {
		return Reason{}, false
	}
	return e.why(week, class, unit)
}

// Reasons explains every item of a plan that was not held.
func Reasons(p Problem, plan Plan) []PlacedReason {
	all := []PlacedReason{}
	e, ok := newExplainer(p, plan)
	for _, x := range plan.Placements {
		for _, it := range x.Items {
			if r, found := e.why(x.Week, x.Class, it.Unit); ok && found && !x.Held {
				all = append(all, PlacedReason{x.Week, x.Class, r})
			}
		}
	}
	return all
}

// PlacedReason is a reason with its place.
type PlacedReason struct {
	Week  int    `json:"week"`
	Class string `json:"class"`
	Reason
}

// explainer holds a plan as the planner does.
type explainer struct {
	p    Problem
	plan Plan
	m    *model
	st   *state
}

func newExplainer(p Problem, plan Plan) (*explainer, bool) {
	p = heldOnly(p)
	m := newModel(p)
	st := newState(m)
	st.put(plan.Placements)
	return &explainer{p, plan, m, st}, true
}

// heldOnly leaves of what is fixed what was held; the rest may be thought elsewhere.
func heldOnly(p Problem) Problem {
	p.Fixed = slices.DeleteFunc(slices.Clone(p.Fixed), func(f Placement) bool { return !f.Held })
	p.Wanted = nil
	return p
}

// put fills the state with placements whether or not they keep the rules.
func (st *state) put(placements []Placement) {
	planned := st.m.planned(placements)
	for s := range st.m.squares {
		q := &st.m.squares[s]
		if q.fixed {
			continue
		}
		var items []item
		for _, it := range planned(q) {
			if u, ok := st.m.unitAt[it.Unit]; ok {
				items = append(items, item{unit: int32(u), kind: kindOf(it.Kind)})
			}
		}
		st.m.place(q, items)
		items = slices.DeleteFunc(items, func(it item) bool { return it.audience < 0 })
		st.set(s, items)
		st.staffing.call(st, s)
	}
	st.settle()
}

// square finds the square of a class in a week.
func (m *model) square(week int, class string) (int, bool) {
	c, ok := m.classAt[class]
	if !ok || week < 1 || week > m.p.Weeks {
		return 0, false
	}
	for _, s := range m.byWeek[week] {
		if slices.Contains(m.squares[s].classes, int32(c)) {
			return int(s), true
		}
	}
	return 0, false
}

func (e *explainer) why(week int, class, unit string) (Reason, bool) {
	here, ok := e.plan.Find(week, class)
	i := slices.IndexFunc(here.Items, func(it Item) bool { return it.Unit == unit })
	s, placed := e.m.square(week, class)
	u, known := e.m.unitAt[unit]
	if !ok || i < 0 || !placed || !known {
		return Reason{}, false
	}
	r := Reason{Unit: unit, Kind: here.Items[i].Kind, Lead: here.Lead, WaitsFor: []Stand{}, Opens: []string{}, Gains: []Gain{}, LeadWhy: []Other{}}
	t := e.m.squares[s].track
	for _, q := range e.m.units[u].requires {
		r.WaitsFor = append(r.WaitsFor, Stand{e.p.Units[q].ID, e.firstWeek(t, q)})
	}
	for _, d := range e.m.units[u].opens {
		if e.firstWeek(t, d) > week {
			r.Opens = append(r.Opens, e.p.Units[d].ID)
		}
	}
	e.weigh(&r, s, int32(u))
	for _, c := range e.p.Coaches {
		if c.ID != here.Lead {
			r.LeadWhy = append(r.LeadWhy, Other{c.ID, c.refusal(e.p, week, class, here.Items)})
		}
	}
	return r, true
}

// firstWeek is the week a unit is first taught in a track, 0 when it is not or
// is assumed.
func (e *explainer) firstWeek(t int, u int32) int {
	if day := e.st.first(t, u); day > 0 && day != never {
		return day / 8
	}
	return 0
}

// weigh compares the plan with and without the item, and with others instead.
func (e *explainer) weigh(r *Reason, s int, u int32) {
	st, m := e.st, e.m
	had := st.sq[s]
	with, before := st.coverage(), e.chances(u)
	rest := less(had, u)
	st.set(s, rest)
	st.settle()
	r.Worth = with - st.coverage()
	for i, after := range e.chances(u) {
		if before[i]-after > 0.001 {
			r.Gains = append(r.Gains, Gain{e.p.Students[m.units[u].needs[i].student].ID, before[i], after})
		}
	}
	slices.SortStableFunc(r.Gains, func(a, b Gain) int { return cmp.Compare(b.With-b.Without, a.With-a.Without) })
	q := &m.squares[s]
	for _, o := range m.teaches[q.track] {
		for kind := teach; kind <= review; kind++ {
			if o == u || hasUnit(rest, o) || q.fixed || !e.couldStand(s, append(rest[:len(rest):len(rest)], item{unit: o, kind: kind}), o, kind) {
				continue
			}
			if c := st.coverage(); r.Instead == nil || c > r.Instead.Coverage+1e-12 {
				r.Instead = &Swap{e.p.Units[o].ID, kindNames[kind], c}
			}
			st.set(s, rest)
			st.settle()
		}
	}
	st.set(s, had)
	st.staffing.call(st, s)
	st.settle()
}

// couldStand puts items into a square when the newest of them keeps the rules there.
func (e *explainer) couldStand(s int, items []item, o int32, kind uint8) bool {
	st, q := e.st, &e.m.squares[s]
	if !st.fits(s, items) || kind == review && st.first(q.track, o) >= q.day {
		return false
	}
	for _, need := range e.m.units[o].requires {
		if st.first(q.track, need) >= q.day {
			return false
		}
	}
	had := st.sq[s]
	st.set(s, items)
	if st.staffing.call(st, s) && !st.staffing.week(q.week) {
		st.set(s, had)
		st.staffing.call(st, s)
		st.settle()
		return false
	}
	st.settle()
	return true
}

// chances are the chances covered of a unit's needs, in their order.
func (e *explainer) chances(u int32) []float64 {
	all := make([]float64, len(e.m.units[u].needs))
	for i := range all {
		all[i] = e.chance(u, i)
	}
	return all
}

func (e *explainer) chance(u int32, i int) float64 {
	n := &e.m.units[u].needs[i]
	d := newTally(int(n.halves))
	for _, o := range e.st.occs[u] {
		for _, c := range e.m.audiences[o.audience].classes {
			d.add(e.m.chance[int(n.student)*len(e.p.Classes)+int(c)], 2-int(o.kind))
		}
	}
	return d.reached()
}
