package students

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/testday"
	"vereda/store"
)

// TestDayForm is what a day of tests is made from.
type TestDayForm struct {
	ID        string          `json:"id,omitempty" maxLength:"60" doc:"Of the one that is planned anew; a new one when left out"`
	Name      string          `json:"name" maxLength:"300"`
	On        *calendar.Day   `json:"on,omitempty"`
	Start     string          `json:"start" maxLength:"5" doc:"10:00"`
	Minutes   int             `json:"minutes" minimum:"1" maximum:"1440"`
	Change    int             `json:"change_minutes" minimum:"0" maximum:"120"`
	Rest      int             `json:"rest_minutes" minimum:"0" maximum:"240"`
	Breaks    []testday.Break `json:"breaks" maxItems:"10"`
	Examiners []string        `json:"examiners" maxItems:"30"`
	People    []string        `json:"people" maxItems:"200"`
	Helpers   []string        `json:"helpers" maxItems:"200"`
}

// TestDayLine is a day of tests in the list.
type TestDayLine struct {
	ID     string       `json:"id"`
	Name   string       `json:"name"`
	On     calendar.Day `json:"on"`
	People int          `json:"people"`
	Tests  int          `json:"tests"`
	Done   int          `json:"done" doc:"Tests of which something was checked that day"`
}

// TestDayPage is one day of tests with what came of it.
type TestDayPage struct {
	Day     academy.TestDay `json:"day"`
	Slots   []TestSlot      `json:"slots" doc:"In the order of their beginnings"`
	LeftOut []TestLeft      `json:"left_out"`
	People  []TestPerson    `json:"people"`
	Ends    string          `json:"ends" doc:"When the last test ends"`
	Bound   string          `json:"bound" doc:"No plan ends before"`
	Defers  say.Sentence    `json:"defers"`
}

// TestSlot is a test with its time and its result.
type TestSlot struct {
	At        string         `json:"at" doc:"10:05"`
	Student   string         `json:"student"`
	Name      string         `json:"name"`
	Technique string         `json:"technique"`
	Label     string         `json:"label"`
	Sides     []library.Side `json:"sides"`
	Examiner  string         `json:"examiner"`
	Partner   string         `json:"partner,omitempty"`
	Result    string         `json:"result" enum:"open,met,in part,not met" doc:"From the checks of that day"`
}

// TestLeft is a test that has no place, with the reason as far as it is known.
type TestLeft struct {
	Name  string       `json:"name"`
	Label string       `json:"label"`
	Why   say.Sentence `json:"why"`
}

// TestPerson is somebody tested, for the head instructor to decide about in the evening.
type TestPerson struct {
	state.PersonLine
	Next  string  `json:"next"`
	Tests int     `json:"tests"`
	Met   int     `json:"met"`
	Share float64 `json:"share" doc:"Of what the next rank asks, by now"`
	Ready bool    `json:"ready" doc:"Everything asked for is there. The decision is the head instructor's"`
	Sheet string  `json:"sheet" doc:"The printed test sheet of their next rank"`
}

// fewestMinutes is the shortest test of a day, in whole minutes.
const fewestMinutes = 2

// TestDays lists the days of tests, the newest first.
func (a *Service) TestDays(ctx context.Context, u state.User) ([]TestDayLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []TestDayLine{}
	for _, d := range slices.Backward(f.TestDays) {
		line := TestDayLine{ID: d.ID, Name: d.Name, On: d.On, People: len(d.People), Tests: len(d.Plan.Slots)}
		for _, s := range d.Plan.Slots {
			if f.testResult(d, s) != "open" {
				line.Done++
			}
		}
		all = append(all, line)
	}
	return all, nil
}

// tests are what somebody is tested on: what their next rank asks of them that is not there, easy before hard as the curriculum has it; what they are
// held from or not old enough for is left out with the reason.
func (f *snapshot) tests(p academy.Person, on calendar.Day) (tests []testday.Test, left []TestLeft) {
	asked, _, ok := f.CurriculumFor(p)
	if !ok {
		return nil, []TestLeft{{p.Name, "", "no rank comes next, or nothing is published for it"}}
	}
	place := map[string]int{}
	for i, r := range asked.Requirements {
		for _, id := range r.Options() {
			place[id] = i
		}
	}
	sides := map[string]int{}
	var order []string
	for _, g := range f.Readiness(p, on).Missing {
		if sides[g.Technique]++; sides[g.Technique] == 1 {
			order = append(order, g.Technique)
		}
	}
	for _, id := range order {
		t, ok := f.Library.Technique(id)
		if !ok {
			continue
		}
		if no := f.Refusals(p, t, on); len(no) > 0 {
			left = append(left, TestLeft{p.Name, t.Name, no[0].Why})
			continue
		}
		minutes := max(fewestMinutes, int(math.Ceil(f.Settings.CheckMinutes*float64(sides[id]))))
		tests = append(tests, testday.Test{ID: id, Minutes: minutes, Hard: place[id], Signoff: f.SignoffOf(id), Alone: t.Kind == library.Movement})
	}
	return tests, left
}

// PlanTestDay plans a day of tests and keeps it; one that is there already is planned anew.
func (a *Service) PlanTestDay(ctx context.Context, u state.User, x TestDayForm) (id, change string, err error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return "", "", err
	}
	if x.On == nil {
		return "", "", state.Invalid("on", "choose the day")
	}
	d := academy.TestDay{ID: cmp.Or(x.ID, store.NewID()), Name: strings.TrimSpace(x.Name), On: *x.On, Start: x.Start, Minutes: x.Minutes, Change: x.Change, Rest: x.Rest, Breaks: x.Breaks, Examiners: x.Examiners, People: x.People, Helpers: x.Helpers}
	if err := state.InvalidAll(f.CheckTestDay(d)); err != nil {
		return "", "", err
	}
	p := testday.Problem{Minutes: d.Minutes, Change: d.Change, Rest: d.Rest, Breaks: d.Breaks}
	for i, id := range d.Examiners {
		e := f.Person[id]
		if e.Coach == nil {
			return "", "", state.Invalid(fmt.Sprintf("examiners[%d]", i), "%s is no coach: only who checks examines", e.Name)
		}
		p.Examiners = append(p.Examiners, testday.Examiner{ID: id, Signoffs: e.Coach.Signoffs})
	}
	add := func(id string, tested bool) error {
		who := f.Person[id]
		c := testday.Candidate{ID: id, Kg: who.Weight, Apart: who.NeverWith, Helps: !slices.ContainsFunc(who.Holds, func(h safety.Hold) bool { return h.Active(d.On) }) && !slices.Contains(d.Examiners, id)}
		if tested {
			if !who.Student {
				return state.Invalid("people", "%s is no student here", who.Name)
			}
			if slices.Contains(d.Examiners, id) {
				return state.Invalid("people", "%s examines that day: nobody does both", who.Name)
			}
			c.Tests, _ = f.tests(who, f.Today())
		}
		p.People = append(p.People, c)
		return nil
	}
	for _, id := range d.People {
		if err := add(id, true); err != nil {
			return "", "", err
		}
	}
	for _, id := range d.Helpers {
		if !slices.Contains(d.People, id) {
			if err := add(id, false); err != nil {
				return "", "", err
			}
		}
	}
	if len(p.Examiners) == 0 {
		return "", "", state.Invalid("examiners", "choose who examines")
	}
	if len(d.People) == 0 {
		return "", "", state.Invalid("people", "choose who is tested")
	}
	if err := state.InvalidAll(p.Problems()); err != nil {
		return "", "", err
	}
	d.Plan = testday.Plan(p)
	change, err = state.Decide(ctx, a.State, u, func(_ *snapshot, b *state.Change) error {
		b.Summary = say.F("Planned %s", d.Name)
		return b.Put(documents.TestDay, d.ID, d)
	})
	return d.ID, change, err
}

// RemoveTestDay takes a day of tests away; the checks done on it stay.
func (a *Service) RemoveTestDay(ctx context.Context, u state.User, id string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		d, err := f.testDay(id)
		if err != nil {
			return err
		}
		b.Summary = say.F("Removed %s", d.Name)
		return b.Put(documents.TestDay, id, nil)
	})
}

func (f *snapshot) testDay(id string) (academy.TestDay, error) {
	if i := slices.IndexFunc(f.TestDays, func(d academy.TestDay) bool { return d.ID == id }); i >= 0 {
		return f.TestDays[i], nil
	}
	return academy.TestDay{}, state.NotFound("day of tests", id)
}

// TestDay shows one, with what came of it so far.
func (a *Service) TestDay(ctx context.Context, u state.User, id string) (TestDayPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TestDayPage{}, err
	}
	d, err := f.testDay(id)
	if err != nil {
		return TestDayPage{}, err
	}
	page := TestDayPage{Day: d, Slots: []TestSlot{}, LeftOut: []TestLeft{}, People: []TestPerson{}, Ends: clock(d.Start, d.Plan.End), Bound: clock(d.Start, d.Plan.Bound), Defers: state.Defers}
	met, all := map[string]int{}, map[string]int{}
	for _, s := range d.Plan.Slots {
		t, _ := f.Library.Technique(f.Library.Now(s.Test))
		x := TestSlot{At: clock(d.Start, s.Start), Student: s.Person, Name: f.NameOf(s.Person), Technique: t.ID, Label: t.Name, Sides: t.Sides(), Examiner: f.NameOf(s.Examiner), Partner: f.NameOf(s.Partner), Result: f.testResult(d, s)}
		all[s.Person]++
		if x.Result == "met" {
			met[s.Person]++
		}
		page.Slots = append(page.Slots, x)
	}
	for _, l := range d.Plan.LeftOut {
		page.LeftOut = append(page.LeftOut, TestLeft{f.NameOf(l.Person), f.Library.Name(l.Test), "no time, no examiner who is signed off, or no partner is left"})
	}
	for _, id := range d.People {
		p, ok := f.Person[id]
		if !ok {
			continue
		}
		r := f.Readiness(p, f.Today())
		who := TestPerson{PersonLine: f.Line(p, u, f.Today()), Tests: all[id], Met: met[id], Share: r.Share, Ready: r.Ready, Next: r.Rank}
		if c, next, ok := f.CurriculumFor(p); ok {
			who.Next, who.Sheet = next.Name, "/api/curricula/"+c.ID+"/test-sheet.pdf"
		}
		_, left := f.tests(p, f.Today())
		page.LeftOut = append(page.LeftOut, left...)
		page.People = append(page.People, who)
	}
	return page, nil
}

// testResult says what the checks of the day say of a test: met where every side that was checked was, and none is open.
func (f *snapshot) testResult(d academy.TestDay, s testday.Slot) string {
	t, _ := f.Library.Technique(f.Library.Now(s.Test))
	met, seen := 0, 0
	for _, side := range t.Sides() {
		for _, c := range slices.Backward(f.Checks(s.Person)) {
			if c.On == d.On && f.Library.Now(c.Technique) == t.ID && c.Side == side {
				if seen++; c.Met {
					met++
				}
				break
			}
		}
	}
	switch {
	case seen == 0:
		return "open"
	case met == 0:
		return "not met"
	case met == len(t.Sides()):
		return "met"
	}
	return "in part"
}

// clock is a time of the day some minutes after another.
func clock(start string, minutes int) string {
	h, m, _ := strings.Cut(start, ":")
	hours, _ := strconv.Atoi(h)
	mins, _ := strconv.Atoi(m)
	at := hours*60 + mins + minutes
	return fmt.Sprintf("%02d:%02d", at/60%24, at%60)
}
