package season

import (
	"cmp"
	"fmt"
	"slices"
)

// Progress is where a search stands.
type Progress struct {
	Coverage float64 `json:"coverage"`
	Score    float64 `json:"score"`
	Bound    float64 `json:"bound" doc:"1 until it is computed"`
	Work     int64   `json:"work"`
	Of       int64   `json:"of" doc:"Work the wish in seconds stands for"`
}

// Watch is told now and then where a search stands, first when the first
// complete plan is there; when it returns false the search ends with the best so far.
type Watch func(Progress) bool

// Solve lays the season: a first plan by greed, then annealing until the work that
// p.Seconds stands for is spent; seasons small enough are solved to the proven
// optimum of coverage. Every hard rule is kept by every state on the way. The same problem
// gives the same plan, and more seconds never a worse one.
//
// The error is a *Conflict when what is fixed and wanted cannot be kept
// together with the rules.
func Solve(p Problem, watch Watch) (Plan, error) {
	if bad := p.Check(); len(bad) > 0 {
		return Plan{}, bad[0]
	}
	m := newModel(p)
	st, conflict := m.begin()
	if conflict != nil {
		return Plan{}, conflict
	}
	return solve(st, nil, watch), nil
}

// solve searches from a sound state on. was names leads worth keeping.
func solve(st *state, was *Plan, watch Watch) Plan {
	m := st.m
	st.fill()
	seconds := m.p.Seconds
	if seconds == 0 {
		seconds = 1
	}
	h := newSearch(st, uint64(m.p.Seed)+1, int64(seconds*stepsPerSecond))
	tell := func() bool {
		return watch == nil || watch(Progress{Coverage: h.covers, Score: h.score, Work: st.work, Of: h.limit})
	}
	goOn := tell()
	bound := make(chan float64, 1)
	known := h.covers * m.weights
	go func() { bound <- m.bound(known) }()
	exact := m.exact(h)
	if goOn && !exact {
		h.run(tell)
	}
	st.tidy()
	most := <-bound
	if exact {
		most = st.coverage()
	}
	return st.plan(most, was)
}

// tidy takes out what nobody gains by: minutes that nothing needs are left
// free, for what the plan does not know of.
func (st *state) tidy() {
	for s := len(st.sq) - 1; s >= 0; s-- {
		if st.m.squares[s].fixed {
			continue
		}
		for i := len(st.sq[s]) - 1; i >= 0; i-- {
			now := st.score()
			if st.try(change{s, less(st.sq[s], st.sq[s][i].unit)}) && st.score() < now-1e-9 {
				st.undo()
			}
			i = min(i, len(st.sq[s]))
		}
	}
}

// spare is a state that holds contents, apart from the search's own.
func (m *model) spare(contents [][]item) *state {
	x := newState(m)
	x.take(contents)
	return x
}

// plan reads a state off as an answer.
func (st *state) plan(bound float64, was *Plan) Plan {
	placements := st.placements()
	st.lead(placements, was)
	coverage, _ := Coverage(st.m.p, placements)
	plan := Plan{Placements: placements, Coverage: coverage, Bound: max(bound, coverage), Unplaced: st.unplaced(), Work: st.work}
	plan.Proven = plan.Bound <= coverage+1e-9
	plan.Scores = st.scores(placements)
	return plan
}

// scores lists what the goal full counts besides coverage, and the whole.
func (st *state) scores(placements []Placement) map[string]float64 {
	fresh := st
	if st.softScore.idle {
		p := st.m.p
		p.Goal = "full"
		fresh = newModel(p).spare(st.contents())
	}
	fair, same := st.m.fairness(placements), st.m.continuity(placements)
	l := &fresh.softScore
	all := map[string]float64{"spacing": l.spacing(), "school": l.school(), "focus": l.focus(), "fairness": fair, "continuity": same, "classes_used": float64(len(placements))}
	all["score"] = st.coverage() + l.score() + WeightFairness*fair + WeightContinuity*same
	return all
}

// fairness is 1 less half the distance between the shares of classes led and
// the shares asked for.
func (m *model) fairness(placements []Placement) float64 {
	asked, led, all := 0.0, make([]float64, len(m.p.Coaches)), 0.0
	for _, c := range m.p.Coaches {
		asked += c.Share
	}
	for _, x := range placements {
		if k, ok := m.coachAt[x.Lead]; ok {
			led[k]++
			all++
		}
	}
	if asked == 0 || all == 0 {
		return 1
	}
	off := 0.0
	for k, c := range m.p.Coaches {
		off += max(0, led[k]/all-c.Share/asked)
	}
	return 1 - off
}

// continuity is the share of two classes a week apart in one area that have
// the same lead.
func (m *model) continuity(placements []Placement) float64 {
	at := map[string]Placement{}
	for _, x := range placements {
		at[key(x.Week, x.Class)] = x
	}
	kept, all := 0, 0
	for _, x := range placements {
		if y, ok := at[key(x.Week+1, x.Class)]; ok && m.connected(x, y) {
			all++
			if x.Lead == y.Lead {
				kept++
			}
		}
	}
	return share(kept, all)
}

// unplaced says of each unit somebody needs and no class teaches, why.
func (st *state) unplaced() []Unplaced {
	found := []Unplaced{}
	for u := range st.m.units {
		if st.m.units[u].most == 0 {
			continue
		}
		taught := slices.ContainsFunc(st.occs[u], func(o occ) bool { return o.kind == teach })
		for t := range st.m.p.Tracks {
			taught = taught || st.m.assumed[t][u] && slices.Contains(st.m.p.Units[u].Tracks, st.m.p.Tracks[t].ID)
		}
		if !taught {
			found = append(found, Unplaced{st.m.p.Units[u].ID, st.whyNot(u)})
		}
	}
	slices.SortFunc(found, func(x, y Unplaced) int { return cmp.Compare(x.Unit, y.Unit) })
	return found
}

func (st *state) whyNot(u int) string {
	m := st.m
	unit := m.p.Units[u]
	longest, led, open := 0, false, false
	for s := range m.squares {
		q := &m.squares[s]
		if q.fixed || !slices.Contains(unit.Tracks, m.p.Tracks[q.track].ID) {
			continue
		}
		open = true
		longest = max(longest, q.minutes)
		for _, class := range q.classes {
			led = led || m.there[int(class)*(m.p.Weeks+1)+q.week]&m.units[u].mayLead != 0
		}
	}
	switch {
	case !open:
		return "No class of its tracks is open."
	case longest < unit.Minutes:
		return fmt.Sprintf("It takes %d minutes; the longest class of its tracks has %d.", unit.Minutes, longest)
	case !led && unit.Signoff != "":
		return fmt.Sprintf("No coach who is signed off for %s can lead a class of its tracks.", unit.Signoff)
	case !led:
		return "No coach can lead a class of its tracks."
	}
	for _, r := range m.units[u].requires {
		somewhere := false
		for t := range m.p.Tracks {
			somewhere = somewhere || m.can[t][u] && st.first(t, r) != never
		}
		if !somewhere {
			return fmt.Sprintf("It stands on %s, which its tracks do not teach either.", st.m.nameOf(int(r)))
		}
	}
	return "No minutes are left; what is placed helps more students."
}

func (m *model) nameOf(u int) string {
	if n := m.p.Units[u].Name; n != "" {
		return n
	}
	return m.p.Units[u].ID
}
