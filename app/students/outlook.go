package students

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"
	"sync"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/season"
)

// OutlookPage is when a student will likely have all their next rank asks for.
type OutlookPage struct {
	Rank    string                  `json:"rank,omitempty" doc:"Empty where no rank comes next, or nothing is published for it"`
	Likely  ledger.Likely           `json:"likely"`
	Missing int                     `json:"missing" doc:"Requirements and sides that are still open"`
	Last    []LastLine              `json:"last" doc:"What will likely be waited for longest"`
	Forward []GainLine              `json:"forward" doc:"What would bring the middle day forward, most first"`
	Horizon calendar.Day            `json:"horizon" doc:"Days after this one are not looked at"`
	Formula say.Sentence            `json:"formula"`
	Waits   []say.Sentence          `json:"waits" doc:"Time, classes and age still wanting"`
	Nowhere []string                `json:"nowhere" doc:"What is open and in none of the classes to come that they may be in: the range leaves it out"`
	Rates   map[string]say.Sentence `json:"rates" doc:"What it was computed with, in words"`
}

// LastLine is what is waited for, with its name.
type LastLine struct {
	Name  say.Sentence `json:"name"`
	Share float64      `json:"share" doc:"Of the runs"`
}

// GainLine is one thing that would help, in words.
type GainLine struct {
	Summary say.Sentence `json:"summary"`
	Days    int          `json:"days"`
}

const outlookFormula say.Sentence = "Simulated: in each run the student's chance of each weekly class is drawn from what is known of it; each class to come is attended by that chance and gives the exposures it is planned to give. After the planned weeks a class teaches and reviews as many units as the track's classes did lately: those its students need most, in an order that each run shuffles a little. In classes attended checks happen at the rate they do now, on what this academy's coaches pick for checks (drilled, met, or reached already, by what they picked lately), and are met at the student's rate, shrunk to the academy's. One run in ten is there by the first day, half by the middle one, nine of ten by the last. Refreshes of what was passed before are not part of it."

const (
	outlookWeeks = 104
	planWeeks    = 60 // that are looked through for what is planned
	pastWeeks    = 26
	listRuns     = 150
	leastChance  = 0.05 // of being in a class, under which it counts for nothing
	checksPrior  = 10.0 // visits the academy's rate of checks counts like
	enoughPicks  = 300  // checks that say what is picked for one
	habitStride  = 7    // people are gone through in steps of so many, for those
)

// comingClass is one class to come with what it gives.
type comingClass struct {
	on    calendar.Day
	class string
	gives map[string]int // technique: half exposures
	slots []ledger.SlotTouch
}

// comingClasses are the classes of the next years, and for each track the units in the likely order of what is taught after its plan.
type comingClasses struct {
	classes []comingClass
	orders  [][]academy.Unit
}

// loose is how far a unit may be from its place in that order, in places.
const loose = 8

// coming lists the classes of the next years: as planned; beyond that as continuation says.
func (f *snapshot) coming(from calendar.Day) comingClasses {
	type key struct{ on calendar.Day }
	return state.Remember(f.Snapshot, key{from}, func() comingClasses {
		next, order := map[string]*continuation{}, map[string]int{} // by track
		tracks := slices.Sorted(maps.Keys(f.Tracks))
		for i, id := range tracks {
			next[id], order[id] = f.continuation(f.Tracks[id], from), i
		}
		planned := map[string][]season.Item{} // by class on a day
		for on := from; on <= from+7*planWeeks; on++ {
			for _, c := range f.ClassesOn(on) {
				if items := f.SessionPlan(c, on).Items; len(items) > 0 {
					planned[academy.Occurrence(c.ID, on)] = items
					next[c.Track].planned(items, on)
				}
			}
		}
		var all comingClasses
		for _, id := range tracks {
			next[id].order()
			all.orders = append(all.orders, next[id].queue)
		}
		for on := from; on <= from+7*outlookWeeks; on++ {
			for _, c := range f.ClassesOn(on) {
				x := comingClass{on: on, class: c.ID, gives: map[string]int{}}
				give := func(it season.Item) {
					unit, _ := f.Unit(it.Unit)
					for _, t := range unit.Techniques {
						x.gives[t] = max(x.gives[t], halvesOf(it.Kind))
					}
				}
				items, ok := planned[academy.Occurrence(c.ID, on)]
				for _, it := range items {
					give(it)
				}
				if n := next[c.Track]; !ok && on > n.last {
					for _, it := range n.class(on) {
						if it.slot < 0 {
							give(it.Item)
						} else {
							x.slots = append(x.slots, ledger.SlotTouch{Order: order[c.Track], Slot: it.slot, Halves: halvesOf(it.Kind)})
						}
					}
				}
				all.classes = append(all.classes, x)
			}
		}
		return all
	})
}

// halvesOf is what being there is worth, in half exposures.
func halvesOf(kind string) int {
	if kind == season.Teach {
		return 2
	}
	return 1
}

// outlook is what the forecast is made from; false where no rank comes next.
func (f *snapshot) outlook(p academy.Person, on calendar.Day) (o ledger.Outlook, nowhere []string, ok bool) {
	_, next, ok := f.CurriculumFor(p)
	if !ok {
		return o, nil, false
	}
	habits := f.checkHabits(on)
	o = ledger.Outlook{Today: on, Earliest: max(on, p.RankSince.AddMonths(next.MinMonths)), MinClasses: next.MinClasses, PassRate: f.PassRate(), Habits: habits.CheckHabits}
	if p.Birth != nil && next.MinAge > 0 {
		o.Earliest = max(o.Earliest, p.Birth.AddMonths(12*next.MinAge))
	}
	visits, checks, met := 0, 0, 0
	for _, v := range f.Visits(p.ID) {
		if v.On >= p.RankSince {
			o.Classes++
		}
		if v.On > on-7*pastWeeks {
			visits++
		}
	}
	for _, c := range f.Checks(p.ID) {
		if c.On > on-7*pastWeeks && c.Class != "" { // a day of tests is no habit
			if checks++; c.Met {
				met++
			}
		}
	}
	o.ChecksPerVisit = (float64(checks) + checksPrior*f.checksPerVisit(on)) / (float64(visits) + checksPrior) * (1 - habits.elsewhere)
	o.PassRate = (float64(met) + checksPrior*o.PassRate) / (float64(checks) + checksPrior)
	asked := f.asked(p)
	for key, step := range asked {
		if f.Rung(p.ID, key.Technique, key.Side).Rung.Step() >= step {
			o.Reached++
		}
	}
	given := map[string]bool{}
	chances := f.Chances(on)[p.ID]
	coming := f.coming(on)
	for _, c := range coming.classes {
		if chances[c.class].Chance < leastChance {
			continue
		}
		for t := range c.gives {
			given[t] = true
		}
		for _, x := range c.slots {
			for _, t := range coming.orders[x.Order][x.Slot].Techniques {
				given[t] = true
			}
		}
	}
	at := map[string][]int{} // technique: needs
	for _, g := range f.Readiness(p, on).Missing {
		if g.Due {
			continue
		}
		s := f.Rung(p.ID, g.Technique, g.Side)
		n := ledger.Need{ID: needID(g.Technique, g.Side), Check: g.Needs.Step() >= curriculum.Passed.Step(), Met: g.Has.Step() >= curriculum.Met.Step()}
		switch {
		case g.Has.Step() >= curriculum.Drilled.Step():
		case g.Needs == curriculum.Met:
			n.Halves = 1
		default:
			n.Halves = max(1, int(2*(f.Settings.Standing.DrilledAfter-s.Exposures)+0.5))
		}
		if n.Halves > 0 && !given[g.Technique] {
			if name := f.Library.Name(g.Technique); !slices.Contains(nowhere, name) {
				nowhere = append(nowhere, name)
			}
			continue
		}
		at[g.Technique] = append(at[g.Technique], len(o.Needs))
		o.Needs = append(o.Needs, n)
	}
	for _, order := range coming.orders {
		out := ledger.Order{Loose: loose, Slots: make([][]int, len(order))}
		for i, unit := range order {
			for _, t := range unit.Techniques {
				out.Slots[i] = append(out.Slots[i], at[t]...)
			}
		}
		o.Orders = append(o.Orders, out)
	}
	for _, c := range coming.classes {
		if chances[c.class].Chance < leastChance {
			continue
		}
		x := ledger.Coming{On: c.on, Class: c.class, Chance: chances[c.class].Chance, Visits: chances[c.class].Evidence, Slots: c.slots}
		for t, halves := range c.gives {
			for _, n := range at[t] {
				x.Touches = append(x.Touches, ledger.Touch{Need: n, Halves: halves})
			}
		}
		slices.SortFunc(x.Touches, func(a, b ledger.Touch) int { return cmp.Compare(a.Need, b.Need) })
		o.Sessions = append(o.Sessions, x)
	}
	return o, nowhere, true
}

// academyHabits is what this academy's coaches check, by the checks of the last half year.
type academyHabits struct {
	ledger.CheckHabits
	elsewhere float64 // the share of checks of what no next rank asks for, or what was not met yet
}

func (f *snapshot) checkHabits(on calendar.Day) academyHabits {
	type key struct {
		on   calendar.Day
		last int64
	}
	return state.Remember(f.Snapshot, key{on, f.LastReport}, func() academyHabits { // by the reports and not by each check: one check is no habit
		var picks []ledger.Pick
		people := f.Students()
		for first := range habitStride { // some of the people say as much as all of them
			for i := first; i < len(people) && len(picks) < enoughPicks; i += habitStride {
				picks = append(picks, f.Picks(people[i].ID, f.asked(people[i]), on-7*pastWeeks)...)
			}
		}
		none := 0
		for _, p := range picks {
			if p.Elsewhere() {
				none++
			}
		}
		return academyHabits{ledger.FitHabits(picks), float64(none) / float64(max(1, len(picks)))}
	})
}

// asked is all that somebody's next rank asks, technique by technique and side by side. Of variants the one named first.
func (f *snapshot) asked(p academy.Person) ledger.Asked {
	asked := ledger.Asked{}
	c, _, _ := f.CurriculumFor(p)
	for _, q := range c.Requirements {
		if t, ok := f.Library.Technique(q.Technique); ok {
			for _, side := range q.Sides(t) {
				asked[ledger.AskedKey{Technique: t.ID, Side: side}] = q.Rung.Step()
			}
		}
	}
	return asked
}

func needID(technique string, side library.Side) string { return technique + "/" + string(side) }

// checksPerVisit is the academy's rate over the last half year.
func (f *snapshot) checksPerVisit(on calendar.Day) float64 {
	type key struct{ last int64 }
	return state.Remember(f.Snapshot, key{f.Last}, func() float64 {
		visits, checks := 0, 0
		for _, p := range f.Students() {
			for _, v := range slices.Backward(f.Visits(p.ID)) {
				if v.On <= on-7*pastWeeks {
					break
				}
				visits++
			}
			for _, c := range f.Checks(p.ID) {
				if c.On > on-7*pastWeeks && c.Class != "" {
					checks++
				}
			}
		}
		return (float64(checks) + 0.5) / (float64(visits) + 2)
	})
}

// needName is what is waited for, in words.
func (f *snapshot) needName(id string) say.Sentence {
	technique, side, found := strings.Cut(id, "/")
	if !found {
		return say.Word(id)
	}
	if side == "" {
		return say.Raw(f.Library.Name(technique))
	}
	return say.F("%s, %s", f.Library.Name(technique), say.Word(side))
}

// Outlook says when a student will likely be ready, and what would bring it forward.
func (a *Service) Outlook(ctx context.Context, u state.User, student string) (OutlookPage, error) {
	f, p, err := a.seen(ctx, u, student)
	if err != nil {
		return OutlookPage{}, err
	}
	on := f.Today()
	page := OutlookPage{Last: []LastLine{}, Forward: []GainLine{}, Nowhere: []string{}, Formula: outlookFormula, Horizon: on + 7*outlookWeeks, Waits: f.Readiness(p, on).Waits, Rates: map[string]say.Sentence{}}
	page.Likely.Last = []ledger.LastNeed{}
	o, nowhere, ok := f.outlook(p, on)
	if !ok {
		return page, nil
	}
	page.Nowhere = append(page.Nowhere, nowhere...)
	_, next, _ := f.CurriculumFor(p)
	page.Rank, page.Missing = next.Name, len(o.Needs)
	type key struct{}
	page.Likely, _, _ = f.likely(p, on)
	for _, l := range page.Likely.Last[:min(3, len(page.Likely.Last))] {
		page.Last = append(page.Last, LastLine{f.needName(l.ID), l.Share})
	}
	for _, g := range state.RememberOf(f.Snapshot, p.ID, key{}, on, func() []ledger.Gain { return ledger.Forward(o) }) {
		page.Forward = append(page.Forward, GainLine{f.gainWords(g), g.Days})
	}
	page.Forward = page.Forward[:min(4, len(page.Forward))]
	page.Rates["checks"] = say.F("%.2f checks in a class attended", o.ChecksPerVisit)
	page.Rates["met"] = say.F("%.0f %% of checks met", 100*o.PassRate)
	return page, nil
}

func (f *snapshot) gainWords(g ledger.Gain) say.Sentence {
	switch g.Kind {
	case "class":
		c, _ := f.Class(g.ID)
		return say.F("Come to %s each week", c.Name)
	case "check":
		return "One more check a week"
	}
	return say.F("Have %s taught once more in the next two weeks", f.needName(g.ID))
}

// OutlookList is who will be ready when.
type OutlookList struct {
	Rows    []OutlookRow `json:"rows" doc:"Soonest first"`
	Waiting []WaitingOn  `json:"waiting" doc:"What most wait for, most first"`
	Formula say.Sentence `json:"formula"`
}

// OutlookRow is one student.
type OutlookRow struct {
	state.PersonLine
	Next    string        `json:"next"`
	Share   float64       `json:"share" doc:"Of what it asks, by weight"`
	Missing int           `json:"missing"`
	Nowhere int           `json:"nowhere" doc:"Techniques asked that no class to come teaches: the range leaves them out"`
	P10     *calendar.Day `json:"p10,omitempty"`
	P50     *calendar.Day `json:"p50,omitempty"`
	P90     *calendar.Day `json:"p90,omitempty"`
	Within  float64       `json:"within" doc:"Share of the runs within two years"`
	Last    say.Sentence  `json:"last,omitempty" doc:"What will likely be waited for longest"`
}

// WaitingOn is one technique several people wait for.
type WaitingOn struct {
	Technique string   `json:"technique"`
	Name      string   `json:"name"`
	Students  int      `json:"students" doc:"For whom it is likely the last thing"`
	People    []string `json:"people"`
}

// OutlookList says who will be ready when: for the head instructor.
func (a *Service) OutlookList(ctx context.Context, u state.User) (OutlookList, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return OutlookList{}, err
	}
	on := f.Today()
	page := OutlookList{Rows: []OutlookRow{}, Waiting: []WaitingOn{}, Formula: outlookFormula}
	people := f.Students()
	rows := make([]*OutlookRow, len(people))
	f.coming(on) // once, for all
	f.checkHabits(on)
	f.Chances(on)
	var all sync.WaitGroup
	const hands = 4
	for h := range hands {
		all.Go(func() {
			for i := h; i < len(people); i += hands {
				rows[i] = f.outlookRow(people[i], u, on)
			}
		})
	}
	all.Wait()
	waits := map[string]*WaitingOn{}
	for i, row := range rows {
		if row == nil {
			continue
		}
		page.Rows = append(page.Rows, *row)
		likely, _, _ := f.likely(people[i], on)
		if len(likely.Last) > 0 {
			technique, _, named := strings.Cut(likely.Last[0].ID, "/")
			if !named {
				continue
			}
			w := waits[technique]
			if w == nil {
				w = &WaitingOn{Technique: technique, Name: f.Library.Name(technique), People: []string{}}
				waits[technique] = w
			}
			w.Students++
			w.People = append(w.People, row.Name)
		}
	}
	for _, w := range waits {
		page.Waiting = append(page.Waiting, *w)
	}
	slices.SortFunc(page.Waiting, func(a, b WaitingOn) int {
		return cmp.Or(cmp.Compare(b.Students, a.Students), strings.Compare(a.Name, b.Name))
	})
	far := func(d *calendar.Day) calendar.Day {
		if d == nil {
			return calendar.Last
		}
		return *d
	}
	slices.SortStableFunc(page.Rows, func(a, b OutlookRow) int {
		return cmp.Or(cmp.Compare(far(a.P50), far(b.P50)), cmp.Compare(b.Within, a.Within))
	})
	return page, nil
}

// likely is a student's forecast for the list, kept until something is known of them anew.
func (f *snapshot) likely(p academy.Person, on calendar.Day) (likely ledger.Likely, missing, nowhere int) {
	type key struct{}
	type kept struct {
		likely           ledger.Likely
		missing, nowhere int
	}
	x := state.RememberOf(f.Snapshot, p.ID, key{}, on, func() kept {
		o, nowhere, ok := f.outlook(p, on)
		if !ok {
			return kept{}
		}
		o.Runs = listRuns
		return kept{ledger.Forecast(o), len(o.Needs), len(nowhere)}
	})
	return x.likely, x.missing, x.nowhere
}

func (f *snapshot) outlookRow(p academy.Person, u state.User, on calendar.Day) *OutlookRow {
	_, next, ok := f.CurriculumFor(p)
	if !ok {
		return nil
	}
	l, missing, nowhere := f.likely(p, on)
	row := &OutlookRow{PersonLine: f.Line(p, u, on), Next: next.Name, Share: f.Readiness(p, on).Share, Missing: missing, Nowhere: nowhere, P10: l.P10, P50: l.P50, P90: l.P90, Within: l.Within}
	if len(l.Last) > 0 {
		row.Last = f.needName(l.Last[0].ID)
	}
	return row
}
