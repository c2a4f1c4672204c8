// Package explain says of a placement what it waits for, who gains by it, what could stand in its place and why who leads it does.
package explain

import (
	"cmp"
	"slices"
	"sync"

	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/model"
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
	Coach string       `json:"coach"`
	Why   say.Sentence `json:"why"`
}

// Why explains one item of a placement: what it waits for, who gains, what it
// displaced, and why this coach leads. In mode same it speaks of the unit in all classes of that week.
// Costs one look at a unit's value for each unit that could stand there instead.
func Why(p season.Problem, plan season.Plan, week int, class, unit string) (Reason, bool) {
	e, ok := NewExplainer(p, plan)
	if !ok {
		return Reason{}, false
	}
	return e.why(week, class, unit)
}

// Reasons explains every item of a plan that was not held. Up to four at once take their part of the placements.
func Reasons(p season.Problem, plan season.Plan) []PlacedReason {
	workers := max(1, min(4, len(plan.Placements)/20))
	parts := make([][]PlacedReason, workers)
	var all sync.WaitGroup
	for w := range workers {
		all.Go(func() {
			e, ok := NewExplainer(p, plan)
			for _, x := range plan.Placements[w*len(plan.Placements)/workers : (w+1)*len(plan.Placements)/workers] {
				for _, it := range x.Items {
					if r, found := e.why(x.Week, x.Class, it.Unit); ok && found && !x.Held {
						parts[w] = append(parts[w], PlacedReason{x.Week, x.Class, r})
					}
				}
			}
		})
	}
	all.Wait()
	return append([]PlacedReason{}, slices.Concat(parts...)...)
}

// PlacedReason is a reason with its place.
type PlacedReason struct {
	Week  int    `json:"week"`
	Class string `json:"class"`
	Reason
}

// Explainer holds a plan as the planner does.
type Explainer struct {
	Problem season.Problem
	plan    season.Plan
	Model   *model.Model
	State   *model.State
}

func NewExplainer(p season.Problem, plan season.Plan) (*Explainer, bool) {
	p = HeldOnly(p)
	m := model.New(p)
	m.KeepLines(plan.Placements)
	st := model.NewState(m)
	st.Put(plan.Placements)
	return &Explainer{p, plan, m, st}, true
}

// HeldOnly leaves of what is fixed what was held; the rest may be thought elsewhere.
func HeldOnly(p season.Problem) season.Problem {
	p.Fixed = slices.DeleteFunc(slices.Clone(p.Fixed), func(f season.Placement) bool { return !f.Held })
	p.Wanted = nil
	return p
}

func (e *Explainer) why(week int, class, unit string) (Reason, bool) {
	here, ok := e.plan.Find(week, class)
	i := slices.IndexFunc(here.Items, func(it season.Item) bool { return it.Unit == unit })
	s, placed := e.Model.Square(week, class)
	u, known := e.Model.UnitAt[unit]
	if !ok || i < 0 || !placed || !known {
		return Reason{}, false
	}
	r := Reason{Unit: unit, Kind: here.Items[i].Kind, Lead: here.Lead, WaitsFor: []Stand{}, Opens: []string{}, Gains: []Gain{}, LeadWhy: []Other{}}
	t := e.Model.Squares[s].Track
	for _, q := range e.Model.Units[u].Requires {
		r.WaitsFor = append(r.WaitsFor, Stand{e.Problem.Units[q].ID, e.firstWeek(t, q)})
	}
	for _, d := range e.Model.Units[u].Opens {
		if e.firstWeek(t, d) > week {
			r.Opens = append(r.Opens, e.Problem.Units[d].ID)
		}
	}
	e.weigh(&r, s, int32(u))
	for _, c := range e.Problem.Coaches {
		if c.ID != here.Lead {
			r.LeadWhy = append(r.LeadWhy, Other{c.ID, c.Refusal(e.Problem, week, class, here.Items)})
		}
	}
	return r, true
}

// firstWeek is the week a unit is first taught in a track, 0 when it is not or
// is assumed.
func (e *Explainer) firstWeek(t int, u int32) int {
	if day := e.State.First(t, u); day > 0 && day != model.Never {
		return day / 8
	}
	return 0
}

// weigh compares the plan with and without the item, and with others instead.
func (e *Explainer) weigh(r *Reason, s int, u int32) {
	st, m := e.State, e.Model
	had := st.Items[s]
	with, before := st.Coverage(), e.chances(u)
	rest := model.Without(had, u)
	st.Set(s, rest)
	st.Settle()
	r.Worth = with - st.Coverage()
	for i, after := range e.chances(u) {
		if before[i]-after > 0.001 {
			r.Gains = append(r.Gains, Gain{e.Problem.Students[m.Units[u].Needs[i].Student].ID, before[i], after})
		}
	}
	slices.SortStableFunc(r.Gains, func(a, b Gain) int { return cmp.Compare(b.With-b.Without, a.With-a.Without) })
	q := &m.Squares[s]
	for _, o := range m.Teaches[q.Track] {
		for kind := model.Teach; kind <= model.Review; kind++ {
			if o == u || model.HasUnit(rest, o) || q.Fixed || !e.couldStand(s, append(rest[:len(rest):len(rest)], model.Item{Unit: o, Kind: kind}), o, kind) {
				continue
			}
			if c := st.Coverage(); r.Instead == nil || c > r.Instead.Coverage+1e-12 {
				r.Instead = &Swap{e.Problem.Units[o].ID, model.KindNames[kind], c}
			}
			st.Set(s, rest)
			st.Settle()
		}
	}
	st.Set(s, had)
	st.Staffing.Call(st, s)
	st.Settle()
}

// couldStand puts items into a square when the newest of them keeps the rules there.
func (e *Explainer) couldStand(s int, items []model.Item, o int32, kind uint8) bool {
	st, q := e.State, &e.Model.Squares[s]
	if !st.Fits(s, items) || kind == model.Review && st.First(q.Track, o) >= q.Day {
		return false
	}
	for _, need := range e.Model.Units[o].Requires {
		if st.First(q.Track, need) >= q.Day {
			return false
		}
	}
	had := st.Items[s]
	st.Set(s, items)
	if st.Staffing.Call(st, s) && !st.Staffing.Week(q.Week) || !st.Spaced(q.Track, o) {
		st.Set(s, had)
		st.Staffing.Call(st, s)
		st.Settle()
		return false
	}
	st.Settle()
	return true
}

// chances are the chances covered of a unit's needs, in their order.
func (e *Explainer) chances(u int32) []float64 {
	all := make([]float64, len(e.Model.Units[u].Needs))
	for i := range all {
		all[i] = e.Chance(u, i)
	}
	return all
}

func (e *Explainer) Chance(u int32, i int) float64 {
	n := &e.Model.Units[u].Needs[i]
	d := season.NewTally(int(n.Halves))
	for _, o := range e.State.Occasions[u] {
		for _, c := range e.Model.Audiences[o.Audience].Classes {
			d.Add(e.Model.Chance[int(n.Student)*len(e.Problem.Classes)+int(c)], 2-int(o.Kind))
		}
	}
	return d.Reached()
}
