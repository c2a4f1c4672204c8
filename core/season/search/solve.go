// Package search finds the plan of a season: the first sound state or the conflict that forbids one (begin.go, conflict.go), greed
// (fill.go), annealing and whole units laid anew (anneal.go, relay.go), and every plan of a small season (exact.go).
package search

import (
	"cmp"
	"slices"
	"time"

	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/bound"
	"vereda/core/season/model"
	"vereda/core/season/staffing"
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
// complete plan is there; when it returns false the search ends with the best so far. A search for a conflict asks it too,
// with nothing covered.
type Watch func(Progress) bool

// Solve lays the season: a first plan by greed, then annealing until the work that
// p.Seconds stands for is spent; seasons small enough are solved to the proven
// optimum of coverage. Every hard rule is kept by every state on the way. The same problem
// gives the same plan, and more seconds never a worse one, but where tracks ask for a line: then
// more of them are looked at first.
//
// The error is a *Conflict when what is fixed and wanted cannot be kept
// together with the rules.
func Solve(p season.Problem, watch Watch) (season.Plan, error) { return SolveWithin(p, nil, watch) }

// SolveWithin is Solve that ends when its wish in seconds is over on the wall, however many steps are left: elapsed says how much of it is. The
// plan says when that was so (Cut); on a machine that is quick enough it is Solve's.
func SolveWithin(p season.Problem, elapsed func() time.Duration, watch Watch) (season.Plan, error) {
	if bad := p.Check(); len(bad) > 0 {
		return season.Plan{}, bad[0]
	}
	c := newClock(p.Seconds, elapsed)
	m := model.New(p)
	st, conflict := Begin(m, c.watch(watch))
	if conflict != nil {
		return season.Plan{}, conflict
	}
	return solve(st, nil, c, watch), nil
}

// clock keeps the wish in seconds on the wall. The core has no clock of its own: elapsed is whoever calls it's, and nil where steps alone count.
type clock struct {
	seconds float64
	elapsed func() time.Duration
	over    bool // the wish is
	behind  bool // the search cools by the clock, since the steps would take longer
}

func newClock(seconds float64, elapsed func() time.Duration) *clock {
	return &clock{seconds: cmp.Or(seconds, 1), elapsed: elapsed}
}

const (
	// clockShare of the wish is for the search; what is left is for reading the plan off and naming who leads.
	clockShare = 0.97
	graceShare = 1.04
	// leastSeconds is the least the clock gives: reading a problem takes some of it.
	leastSeconds = 0.5
)

// left is how many seconds are left of a share of the wish.
func (c *clock) left(share float64) float64 {
	return share*max(c.seconds, leastSeconds) - c.elapsed().Seconds()
}

// from says how much of the time from now on to the end is over, each time it is asked. More than the steps say means that this machine is too
// slow, or too busy, for them.
func (c *clock) from() func() float64 {
	if c == nil || c.elapsed == nil {
		return func() float64 { return 0 }
	}
	left := c.left(clockShare)
	return func() float64 {
		if left <= 0 {
			return 2
		}
		return 1 - c.left(clockShare)/left
	}
}

// cut says whether the clock had a part in what was found.
func (c *clock) cut() bool { return c.over || c.behind }

func (c *clock) past() bool { return c.elapsed != nil && c.left(clockShare) < 0 }

func (c *clock) up() bool {
	c.over = c.over || c.past()
	return c.over
}

// steps are as many of a limit as the wish is over.
func (c *clock) steps(limit int64) int64 {
	if c.elapsed == nil {
		return 0
	}
	return int64(float64(limit) * min(1, c.elapsed().Seconds()/c.seconds))
}

// askedWaiting is how often who watches is told while a proof is waited for.
const askedWaiting = 50 * time.Millisecond

// wait is what a bound or a proof comes to, or what it is at once when it takes longer than the wish can bear: with it a wish is over by less than a tenth. Meanwhile it
// asks whether anybody still wants it.
func (c *clock) wait(proven <-chan proof, ask func(), atOnce func() proof) proof {
	var end <-chan time.Time
	if c.elapsed != nil {
		end = time.After(time.Duration(c.left(graceShare) * float64(time.Second)))
	}
	tick := time.NewTicker(askedWaiting)
	defer tick.Stop()
	for {
		select {
		case p := <-proven:
			return p
		case <-end:
			return atOnce()
		case <-tick.C:
			ask()
		}
	}
}

// watch asks the clock besides whoever watches.
func (c *clock) watch(also Watch) Watch {
	return func(p Progress) bool { return !c.up() && (also == nil || also(p)) }
}

// tellEvery is how many times a search asks before who watches is told.
const tellEvery = 5

// solve searches from a sound state on. was names leads worth keeping.
func solve(st *model.State, was *season.Plan, c *clock, watch Watch) season.Plan {
	m := st.Model
	lined := m.AnyLined()
	demanded := st.Contents()
	Fill(st, c.up)
	limit := int64(c.seconds * stepsPerSecond)
	if lined {
		limit -= chooseLines(st, demanded, limit, c.up)
	}
	h := New(st, uint64(m.Problem.Seed)+1, limit)
	h.clock = c
	wanted := func(work int64) bool {
		return watch == nil || watch(Progress{Coverage: h.Covers, Score: h.score, Work: work, Of: h.limit})
	}
	stopped := false
	tell := func() bool {
		stopped = stopped || c.up() || !wanted(st.Work)
		return !stopped
	}
	goOn := tell()
	small := !lined && provable(h) // of one line it would be the best, not of all
	proven := make(chan proof, 1)
	halt := make(chan struct{}) // whoever waits wants no more: neither a better plan nor a better bound
	begun, spent := false, int64(0)
	found := newFinds()
	begin := func() {
		begun, spent = true, st.Work
		found.tell(h)
		from, known := spent, h.Covers*m.Weights
		go func() {
			stop := func() bool { return closed(halt) || c.past() }
			if small {
				proven <- prove(m, found.at(from), limit, &heard{found, from}, stop)
			} else {
				proven <- proof{most: bound.OfModel(m, known, stop)}
			}
		}()
	}
	if !small {
		begin()
	}
	var p proof
	came, asked := false, 0
	if goOn {
		h.Run(func() bool {
			if !begun && st.Work >= warmth(limit) { // a proof needs a good plan
				begin()
			}
			if small && begun {
				found.tell(h)
			}
			if begun && !came {
				select {
				case p = <-proven:
					came = true
				default:
				}
			}
			if small && begun && st.Work >= searchesFor && found.lists() {
				return false
			}
			asked++
			return !p.done && (asked%tellEvery > 0 || tell())
		})
	}
	if !begun {
		begin()
	}
	found.end()
	if stopped {
		close(halt)
	}
	if !came {
		p = c.wait(proven, func() {
			if !stopped && !wanted(max(st.Work, c.steps(h.limit))) {
				stopped = true
				close(halt)
			}
		}, func() proof { return proof{most: bound.Unlimited(m)} })
	}
	// What a proof found is taken into a state of its own, so that the same seed gives the same plan whichever of the two was first.
	taken := p.done || p.score > h.score+1e-12
	if taken {
		if !p.done {
			spent = st.Work
		}
		st = Spare(m, p.best)
		st.Work = spent + p.work
	}
	tidy(st)
	most, exact := p.most, p.done
	if exact {
		most = st.Coverage()
	}
	plan := Plan(st, most, was)
	plan.Cut = (c.cut() || taken && p.cut) && !exact
	return plan
}

// closed says whether a channel that nobody sends on is.
func closed(c <-chan struct{}) bool {
	select {
	case <-c:
		return true
	default:
		return false
	}
}

// tidy takes out what nobody gains by: minutes that nothing needs are left
// free, for what the plan does not know of.
func tidy(st *model.State) {
	for s := len(st.Items) - 1; s >= 0; s-- {
		if st.Model.Squares[s].Fixed {
			continue
		}
		for i := len(st.Items[s]) - 1; i >= 0; i-- {
			now := st.Score()
			if st.Try(model.Change{Square: s, Items: model.Without(st.Items[s], st.Items[s][i].Unit)}) && st.Score() < now-1e-9 {
				st.Undo()
			}
			i = min(i, len(st.Items[s]))
		}
	}
}

// Spare is a state that holds contents, apart from the search's own.
func Spare(m *model.Model, contents [][]model.Item) *model.State {
	x := model.NewState(m)
	x.Take(contents)
	return x
}

// Plan reads a state off as an answer.
func Plan(st *model.State, bound float64, was *season.Plan) season.Plan {
	placements := st.Placements()
	staffing.Lead(st, placements, was)
	coverage, _ := season.Coverage(st.Model.Problem, placements)
	plan := season.Plan{Placements: placements, Coverage: coverage, Bound: max(bound, coverage), Unplaced: Unplaced(st), Work: st.Work}
	plan.Proven = plan.Bound <= coverage+1e-9
	plan.Scores = Scores(st, placements)
	return plan
}

// Scores lists what the goal full counts besides coverage, and the whole.
func Scores(st *model.State, placements []season.Placement) map[string]float64 {
	fresh := st
	if st.SoftScore.Idle {
		p := st.Model.Problem
		p.Goal = "full"
		fresh = Spare(model.New(p), st.Contents())
	}
	fair, same := fairness(st.Model, placements), continuity(st.Model, placements)
	l := &fresh.SoftScore
	all := map[string]float64{"spacing": l.Spacing(), "school": l.School(), "focus": l.Focus(), "fairness": fair, "continuity": same, "classes_used": float64(len(placements))}
	all["score"] = st.Coverage() + l.Score() + model.WeightFairness*fair + model.WeightContinuity*same
	return all
}

// fairness is 1 less half the distance between the shares of classes led and
// the shares asked for.
func fairness(m *model.Model, placements []season.Placement) float64 {
	asked, led, all := 0.0, make([]float64, len(m.Problem.Coaches)), 0.0
	for _, c := range m.Problem.Coaches {
		asked += c.Share
	}
	for _, x := range placements {
		if k, ok := m.CoachAt[x.Lead]; ok {
			led[k]++
			all++
		}
	}
	if asked == 0 || all == 0 {
		return 1
	}
	off := 0.0
	for k, c := range m.Problem.Coaches {
		off += max(0, led[k]/all-c.Share/asked)
	}
	return 1 - off
}

// continuity is the share of two classes a week apart in one area that have
// the same lead.
func continuity(m *model.Model, placements []season.Placement) float64 {
	at := map[string]season.Placement{}
	for _, x := range placements {
		at[season.Key(x.Week, x.Class)] = x
	}
	kept, all := 0, 0
	for _, x := range placements {
		if y, ok := at[season.Key(x.Week+1, x.Class)]; ok && staffing.Connected(m, x, y) {
			all++
			if x.Lead == y.Lead {
				kept++
			}
		}
	}
	return model.Share(kept, all)
}

// Unplaced says of each unit somebody needs and no class teaches, why.
func Unplaced(st *model.State) []season.Unplaced {
	found := []season.Unplaced{}
	for u := range st.Model.Units {
		if st.Model.Units[u].Most == 0 {
			continue
		}
		taught := slices.ContainsFunc(st.Occasions[u], func(o model.Occasion) bool { return o.Kind == model.Teach })
		for t := range st.Model.Problem.Tracks {
			taught = taught || st.Model.Assumed[t][u] && slices.Contains(st.Model.Problem.Units[u].Tracks, st.Model.Problem.Tracks[t].ID)
		}
		if !taught {
			found = append(found, season.Unplaced{Unit: st.Model.Problem.Units[u].ID, Why: whyNot(st, u)})
		}
	}
	slices.SortFunc(found, func(x, y season.Unplaced) int { return cmp.Compare(x.Unit, y.Unit) })
	return found
}

func whyNot(st *model.State, u int) say.Sentence {
	m := st.Model
	unit := m.Problem.Units[u]
	longest, led, open := 0, false, false
	for s := range m.Squares {
		q := &m.Squares[s]
		if q.Fixed || !slices.Contains(unit.Tracks, m.Problem.Tracks[q.Track].ID) {
			continue
		}
		open = true
		longest = max(longest, q.Minutes)
		for _, class := range q.Classes {
			led = led || m.There[int(class)*(m.Problem.Weeks+1)+q.Week]&m.Units[u].MayLead != 0
		}
	}
	switch {
	case !open:
		return "No class of its tracks is open."
	case longest < unit.Minutes:
		return say.F(season.TooLong, unit.Minutes, longest)
	case !led && unit.Signoff != "":
		return say.F(season.NobodySignedOff, unit.Signoff)
	case !led:
		return "No coach can lead a class of its tracks."
	}
	for _, r := range m.Units[u].Requires {
		somewhere := false
		for t := range m.Problem.Tracks {
			somewhere = somewhere || m.Can[t][u] && st.First(t, r) != model.Never
		}
		if !somewhere {
			return say.F(season.StandsOnNothing, st.Model.NameOf(int(r)))
		}
	}
	return "No minutes are left; what is placed helps more students."
}
