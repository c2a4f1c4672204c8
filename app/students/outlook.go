package students

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/season"
)

// OutlookPage is when a student will likely have all their next rank asks for.
type OutlookPage struct {
	Rank    string            `json:"rank,omitempty" doc:"Empty where no rank comes next, or nothing is published for it"`
	Likely  ledger.Likely     `json:"likely"`
	Missing int               `json:"missing" doc:"Requirements and sides that are still open"`
	Last    []LastLine        `json:"last" doc:"What will likely be waited for longest"`
	Forward []GainLine        `json:"forward" doc:"What would bring the middle day forward, most first"`
	Horizon calendar.Day      `json:"horizon" doc:"Days after this one are not looked at"`
	Formula string            `json:"formula"`
	Waits   []string          `json:"waits" doc:"Time, classes and age still wanting"`
	Rates   map[string]string `json:"rates" doc:"What it was computed with, in words"`
}

// LastLine is what is waited for, with its name.
type LastLine struct {
	Name  string  `json:"name"`
	Share float64 `json:"share" doc:"Of the runs"`
}

// GainLine is one thing that would help, in words.
type GainLine struct {
	Summary string `json:"summary"`
	Days    int    `json:"days"`
}

const outlookFormula = "Simulated: each class to come is attended by the student's chance for it and gives the exposures it is planned to give; after the planned weeks they repeat, or where nothing is planned the last half year does. In classes attended checks happen at the rate they do now, each on something drilled, and are met at the academy's rate. One run in ten is there by the first day, half by the middle one, nine of ten by the last. Refreshes of what was passed before are not part of it."

const (
	outlookWeeks = 104
	pastWeeks    = 26
	listRuns     = 200
	checksPrior  = 10.0 // visits the academy's rate of checks counts like
)

// comingClass is one class to come with what it gives.
type comingClass struct {
	on    calendar.Day
	class string
	gives map[string]int // technique: half exposures
}

// coming lists the classes of the next years: as planned; beyond that the planned weeks again, or where nothing is planned what the last half year reached.
func (f *snapshot) coming(from calendar.Day) []comingClass {
	type key struct{ on calendar.Day }
	return state.Remember(f.Snapshot, key{from}, func() []comingClass {
		planned := map[string]map[calendar.Day]map[string]int{}
		last := from
		plan := func(c academy.Class, on calendar.Day) map[string]int {
			gives := map[string]int{}
			for _, it := range f.SessionPlan(c, on).Items {
				unit, _ := f.Unit(it.Unit)
				for _, t := range unit.Techniques {
					gives[t] = max(gives[t], map[bool]int{true: 2, false: 1}[it.Kind == season.Teach])
				}
			}
			return gives
		}
		for on := from; on <= from+7*60; on++ {
			for _, c := range f.ClassesOn(on) {
				if gives := plan(c, on); len(gives) > 0 {
					if planned[c.ID] == nil {
						planned[c.ID] = map[calendar.Day]map[string]int{}
					}
					planned[c.ID][on] = gives
					last = max(last, on)
				}
			}
		}
		weeks := calendar.Day(((int(last-from)/7 + 1) * 7))
		past := len(planned) == 0
		if past {
			weeks = 7 * pastWeeks
			for _, c := range f.Classes {
				planned[c.ID] = map[calendar.Day]map[string]int{}
				for _, s := range f.SessionsOf(c.ID) {
					if r, ok := f.ReportOf(s); ok && s.On < from && s.On >= from-weeks {
						gives := map[string]int{}
						for _, it := range r.Items {
							gives[f.Library.Now(it.Technique)] += it.Exposure()
						}
						planned[c.ID][s.On+weeks] = gives
					}
				}
			}
		}
		var all []comingClass
		for on := from; on <= from+7*outlookWeeks; on++ {
			for _, c := range f.ClassesOn(on) {
				at := on
				for at >= from+weeks {
					at -= weeks
				}
				all = append(all, comingClass{on, c.ID, planned[c.ID][at]})
			}
		}
		return all
	})
}

// outlook is what the forecast is made from; false where no rank comes next.
func (f *snapshot) outlook(p academy.Person, on calendar.Day) (ledger.Outlook, bool) {
	asked, next, ok := f.CurriculumFor(p)
	if !ok {
		return ledger.Outlook{}, false
	}
	_ = asked
	o := ledger.Outlook{Today: on, Earliest: max(on, p.RankSince.AddMonths(next.MinMonths)), MinClasses: next.MinClasses, PassRate: f.PassRate()}
	if p.Birth != nil && next.MinAge > 0 {
		o.Earliest = max(o.Earliest, p.Birth.AddMonths(12*next.MinAge))
	}
	visits, checks := 0, 0
	for _, v := range f.Visits(p.ID) {
		if v.On >= p.RankSince {
			o.Classes++
		}
		if v.On > on-7*pastWeeks {
			visits++
		}
	}
	for _, c := range f.Checks(p.ID) {
		if c.On > on-7*pastWeeks {
			checks++
		}
	}
	o.ChecksPerVisit = (float64(checks) + checksPrior*f.checksPerVisit(on)) / (float64(visits) + checksPrior)
	at := map[string][]int{} // technique: needs
	for _, g := range f.Readiness(p, on).Missing {
		if g.Due {
			continue
		}
		s := f.Rung(p.ID, g.Technique, g.Side)
		n := ledger.Need{ID: needID(g.Technique, g.Side), Check: g.Needs.Step() >= curriculum.Passed.Step()}
		switch {
		case g.Has.Step() >= curriculum.Drilled.Step():
		case g.Needs == curriculum.Met:
			n.Halves = 1
		default:
			n.Halves = max(1, int(2*(f.Settings.Standing.DrilledAfter-s.Exposures)+0.5))
		}
		at[g.Technique] = append(at[g.Technique], len(o.Needs))
		o.Needs = append(o.Needs, n)
	}
	chances := f.Chances(on)[p.ID]
	for _, c := range f.coming(on) {
		x := ledger.Coming{On: c.on, Class: c.class, Chance: chances[c.class].Chance}
		for t, halves := range c.gives {
			for _, n := range at[t] {
				x.Touches = append(x.Touches, ledger.Touch{Need: n, Halves: halves})
			}
		}
		slices.SortFunc(x.Touches, func(a, b ledger.Touch) int { return cmp.Compare(a.Need, b.Need) })
		o.Sessions = append(o.Sessions, x)
	}
	return o, true
}

func needID(technique string, side library.Side) string { return technique + "/" + string(side) }

// checksPerVisit is the academy's rate over the last half year.
func (f *snapshot) checksPerVisit(on calendar.Day) float64 {
	type key struct{ on calendar.Day }
	return state.Remember(f.Snapshot, key{on}, func() float64 {
		visits, checks := 0, 0
		for _, p := range f.Students() {
			for _, v := range slices.Backward(f.Visits(p.ID)) {
				if v.On <= on-7*pastWeeks {
					break
				}
				visits++
			}
			for _, c := range f.Checks(p.ID) {
				if c.On > on-7*pastWeeks {
					checks++
				}
			}
		}
		return (float64(checks) + 0.5) / (float64(visits) + 2)
	})
}

// needName is what is waited for, in words.
func (f *snapshot) needName(id string) string {
	technique, side, found := strings.Cut(id, "/")
	if !found {
		return id
	}
	if side == "" {
		return f.Library.Name(technique)
	}
	return f.Library.Name(technique) + ", " + side
}

// Outlook says when a student will likely be ready, and what would bring it forward.
func (a *Service) Outlook(ctx context.Context, u state.User, student string) (OutlookPage, error) {
	f, p, err := a.seen(ctx, u, student)
	if err != nil {
		return OutlookPage{}, err
	}
	on := f.Today()
	page := OutlookPage{Last: []LastLine{}, Forward: []GainLine{}, Formula: outlookFormula, Horizon: on + 7*outlookWeeks, Waits: f.Readiness(p, on).Waits, Rates: map[string]string{}}
	page.Likely.Last = []ledger.LastNeed{}
	o, ok := f.outlook(p, on)
	if !ok {
		return page, nil
	}
	_, next, _ := f.CurriculumFor(p)
	page.Rank, page.Missing = next.Name, len(o.Needs)
	page.Likely = ledger.Forecast(o)
	for _, l := range page.Likely.Last[:min(3, len(page.Likely.Last))] {
		page.Last = append(page.Last, LastLine{f.needName(l.ID), l.Share})
	}
	for _, g := range ledger.Forward(o) {
		page.Forward = append(page.Forward, GainLine{f.gainWords(g), g.Days})
	}
	page.Forward = page.Forward[:min(4, len(page.Forward))]
	page.Rates["checks"] = fmt.Sprintf("%.2f checks in a class attended", o.ChecksPerVisit)
	page.Rates["met"] = state.Percent(o.PassRate) + " of checks met"
	return page, nil
}

func (f *snapshot) gainWords(g ledger.Gain) string {
	switch g.Kind {
	case "class":
		c, _ := f.Class(g.ID)
		return "Come to " + c.Name + " each week"
	case "check":
		return "One more check a week"
	}
	return "Have " + f.needName(g.ID) + " taught once more in the next two weeks"
}

// OutlookList is who will be ready when.
type OutlookList struct {
	Rows    []OutlookRow `json:"rows" doc:"Soonest first"`
	Waiting []WaitingOn  `json:"waiting" doc:"What most wait for, most first"`
	Formula string       `json:"formula"`
}

// OutlookRow is one student.
type OutlookRow struct {
	state.PersonLine
	Next    string        `json:"next"`
	Share   float64       `json:"share" doc:"Of what it asks, by weight"`
	Missing int           `json:"missing"`
	P10     *calendar.Day `json:"p10,omitempty"`
	P50     *calendar.Day `json:"p50,omitempty"`
	P90     *calendar.Day `json:"p90,omitempty"`
	Within  float64       `json:"within" doc:"Share of the runs within two years"`
	Last    string        `json:"last,omitempty" doc:"What will likely be waited for longest"`
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
		likely, _ := f.likely(people[i], on)
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
func (f *snapshot) likely(p academy.Person, on calendar.Day) (ledger.Likely, int) {
	type key struct{}
	type kept struct {
		likely  ledger.Likely
		missing int
	}
	x := state.RememberOf(f.Snapshot, p.ID, key{}, on, func() kept {
		o, ok := f.outlook(p, on)
		if !ok {
			return kept{}
		}
		o.Runs = listRuns
		return kept{ledger.Forecast(o), len(o.Needs)}
	})
	return x.likely, x.missing
}

func (f *snapshot) outlookRow(p academy.Person, u state.User, on calendar.Day) *OutlookRow {
	_, next, ok := f.CurriculumFor(p)
	if !ok {
		return nil
	}
	l, missing := f.likely(p, on)
	row := &OutlookRow{PersonLine: f.Line(p, u, on), Next: next.Name, Share: f.Readiness(p, on).Share, Missing: missing, P10: l.P10, P50: l.P50, P90: l.P90, Within: l.Within}
	if len(l.Last) > 0 {
		row.Last = f.needName(l.Last[0].ID)
	}
	return row
}
