package classes

import (
	"cmp"
	"context"
	"math"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/tonight"
)

// ChecksPage is who to check in a class, and all that the forms for it hold, so that a device needs nothing else.
type ChecksPage struct {
	Minutes    float64          `json:"minutes"`
	Coaches    []state.Named    `json:"coaches" doc:"Who checks"`
	Can        []state.Named    `json:"can" doc:"Coaches who could"`
	Suggested  []SuggestedCheck `json:"suggested" doc:"In the order of their beginnings"`
	Value      float64          `json:"value"`
	Bound      float64          `json:"bound" doc:"No choice is worth more"`
	Proven     bool             `json:"proven"`
	Considered int              `json:"considered" doc:"Checks that could be done"`
	People     []CheckPerson    `json:"people"`
	Forms      []CheckForm      `json:"forms"`
	Resistance []say.Sentence   `json:"resistance" doc:"The academy's words for the grades 0 to 4"`
	Standard   say.Sentence     `json:"standard"`
	Defers     say.Sentence     `json:"defers"`
}

// SuggestedCheck is one check with its reason.
type SuggestedCheck struct {
	Coach     string         `json:"coach"`
	CoachName string         `json:"coach_name"`
	Student   string         `json:"student"`
	Name      string         `json:"name" doc:"Of the student"`
	Technique string         `json:"technique"`
	Label     string         `json:"label" doc:"Of the technique"`
	Sides     []library.Side `json:"sides"`
	Start     float64        `json:"start" doc:"Minutes from the beginning"`
	Value     float64        `json:"value"`
	Why       []say.Sentence `json:"why"`
}

// CheckPerson is somebody here with what they could be checked on.
type CheckPerson struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Rank    string        `json:"rank"`
	Belt    string        `json:"belt"`
	Out     say.Sentence  `json:"out,omitempty"`
	Choices []CheckChoice `json:"choices" doc:"What is ready and what is due first"`
}

// CheckChoice is a technique somebody could be checked on.
type CheckChoice struct {
	Technique string         `json:"technique"`
	Sides     []library.Side `json:"sides" doc:"That are open"`
	Ready     bool           `json:"ready"`
	Summary   say.Sentence   `json:"summary"`
}

// CheckForm is what to look for in a technique.
type CheckForm struct {
	ID       string         `json:"id"`
	Name     string         `json:"name"`
	Sides    []library.Side `json:"sides"`
	Points   []CheckPoint   `json:"points"`
	Cautions []say.Sentence `json:"cautions"`
}

// CheckPoint is a key point, worded for each side in the order of the form's.
type CheckPoint struct {
	ID         string   `json:"id"`
	Cues       []string `json:"cues"`
	Gate       bool     `json:"gate,omitempty"`
	Checkpoint bool     `json:"checkpoint,omitempty"`
}

// prospect is a check that could be done.
type prospect struct {
	student   academy.Person
	technique library.Technique
	sides     []library.Side
	worth     float64
	why       []say.Sentence
	ready     bool
}

// Checks says who to check in some minutes of a class. coaches are those who check; whoever leads the class when none is named.
func (a *Service) Checks(ctx context.Context, u state.User, id string, minutes float64, coaches []string) (ChecksPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ChecksPage{}, err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return ChecksPage{}, err
	}
	n := f.SessionPlan(c, on)
	lesson := f.Lesson(n.Items)
	page := ChecksPage{Minutes: minutes, Coaches: []state.Named{}, Can: []state.Named{}, People: []CheckPerson{}, Forms: []CheckForm{}, Resistance: say.Words(f.Settings.Resistance), Standard: state.StandardWords(f.Settings.Standard), Defers: state.Defers}
	if len(coaches) == 0 {
		coaches = []string{cmp.Or(n.Lead, u.Person)}
	}
	for _, p := range f.Active() {
		if p.Coach != nil {
			page.Can = append(page.Can, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	for _, k := range coaches {
		if slices.ContainsFunc(page.Can, func(p state.Named) bool { return p.ID == k }) {
			page.Coaches = append(page.Coaches, state.Named{ID: k, Name: f.NameOf(k)})
		}
	}
	here := f.here(u, c, on, n)
	forms := map[string]bool{}
	for _, t := range append(slices.Clone(lesson.Teach), lesson.Review...) {
		forms[t.ID] = true
	}
	var all []prospect
	for _, x := range here {
		if x.Guest != "" {
			continue
		}
		p := f.Person[x.ID]
		who := CheckPerson{ID: x.ID, Name: x.Name, Rank: x.Rank, Belt: x.Belt, Out: x.Out, Choices: []CheckChoice{}}
		can := f.prospects(p, on, lesson)
		for _, y := range can {
			who.Choices = append(who.Choices, CheckChoice{y.technique.ID, y.sides, y.ready, say.Join("; ", y.why...)})
			forms[y.technique.ID] = true
			if y.ready && x.Out == "" {
				all = append(all, y)
			}
		}
		page.People = append(page.People, who)
	}
	page.Considered = len(all)
	page.Suggested, page.Value, page.Bound, page.Proven = f.chooseChecks(all, page.Coaches, minutes)
	for _, t := range f.Library.Techniques() {
		if forms[t.ID] {
			page.Forms = append(page.Forms, checkForm(t))
		}
	}
	return page, nil
}

// chooseChecks picks of what could be checked what is worth most in the minutes.
func (f *snapshot) chooseChecks(all []prospect, coaches []state.Named, minutes float64) (chosen []SuggestedCheck, value, bound float64, proven bool) {
	p := tonight.Problem{Minutes: minutes, ChangeMinutes: changeMinutes, MostPerStudent: mostChecks}
	for _, k := range coaches {
		p.Coaches = append(p.Coaches, tonight.Coach{ID: k.ID, Signoffs: f.Person[k.ID].Coach.Signoffs})
	}
	for _, x := range all {
		p.Candidates = append(p.Candidates, tonight.Candidate{Student: x.student.ID, Technique: x.technique.ID, Minutes: f.Settings.CheckMinutes * float64(len(x.sides)), Value: x.worth, Signoff: f.SignoffOf(x.technique.ID)})
	}
	a := tonight.Choose(p)
	chosen = []SuggestedCheck{}
	for _, k := range a.Checks {
		x := all[k.Candidate]
		chosen = append(chosen, SuggestedCheck{Coach: k.Coach, CoachName: f.NameOf(k.Coach), Student: k.Student, Name: x.student.Name, Technique: k.Technique, Label: x.technique.Name, Sides: x.sides, Start: k.Start, Value: math.Round(x.worth*100) / 100, Why: x.why})
	}
	slices.SortStableFunc(chosen, func(a, b SuggestedCheck) int { return cmp.Compare(a.Start, b.Start) })
	return chosen, a.Value, a.Bound, a.Proven
}

const (
	changeMinutes = 0.5 // between two checks of one coach
	mostChecks    = 2   // of one student in an evening
)

// prospects lists what a student could be checked on, what is ready or due first, worth most first.
func (f *snapshot) prospects(p academy.Person, on calendar.Day, lesson mat.Lesson) []prospect {
	asked, _, ok := f.CurriculumFor(p)
	if !ok {
		return nil
	}
	ready := f.Readiness(p, on)
	mean, missing := 0.0, map[string]bool{}
	for _, r := range asked.Requirements {
		mean += r.Weight / float64(len(asked.Requirements))
	}
	for _, g := range ready.Missing {
		missing[g.Technique] = true
	}
	last, rate := f.lastChecked(p, on), f.PassRate()
	var all []prospect
	for _, g := range ready.Missing {
		if i := slices.IndexFunc(all, func(x prospect) bool { return x.technique.ID == g.Technique }); i >= 0 {
			if g.Due || g.Has.Step() >= curriculum.Drilled.Step() || !all[i].ready {
				all[i].sides = append(all[i].sides, g.Side)
			}
			continue
		}
		t, ok := f.Library.Technique(g.Technique)
		if !ok || len(f.Refusals(p, t, on)) > 0 {
			continue
		}
		s := f.Rung(p.ID, t.ID, g.Side)
		weight := 1.0
		if r, ok := asked.Find(t.ID); ok && mean > 0 {
			weight = r.Weight / mean
		}
		x := ledger.Prospect{Weight: weight, Has: g.Has, Needs: g.Needs, Due: g.Due, Retention: s.Retention(on), Failed: f.FailedLately(p.ID, t.ID, g.Side), PassRate: rate, Missing: len(missing), Weeks: last, Tonight: teaches(lesson, t.ID)}
		y := prospect{student: p, technique: t, sides: []library.Side{g.Side}, ready: x.Ready()}
		if y.worth, y.why = x.Worth(); !y.ready {
			y.why = []say.Sentence{say.F("%s, %s is asked", g.Has, g.Needs)}
		}
		all = append(all, y)
	}
	slices.SortStableFunc(all, func(a, b prospect) int {
		if a.ready != b.ready {
			if a.ready {
				return -1
			}
			return 1
		}
		return cmp.Compare(b.worth, a.worth)
	})
	return all
}

func teaches(lesson mat.Lesson, technique string) bool {
	is := func(t library.Technique) bool { return t.ID == technique }
	return slices.ContainsFunc(lesson.Teach, is) || slices.ContainsFunc(lesson.Review, is)
}

// lastChecked is how many weeks ago somebody was last checked on anything; since they joined, when never.
func (f *snapshot) lastChecked(p academy.Person, on calendar.Day) int {
	last := p.Joined
	for _, c := range f.Checks(p.ID) {
		last = max(last, c.On)
	}
	return max(0, int(on-last)/7)
}

func checkForm(t library.Technique) CheckForm {
	form := CheckForm{ID: t.ID, Name: t.Name, Sides: t.Sides(), Points: []CheckPoint{}, Cautions: safety.Cautions(t.Risks)}
	for n, side := range form.Sides {
		shown := t.On(side)
		for i, k := range shown.KeyPoints {
			if n == 0 {
				form.Points = append(form.Points, CheckPoint{ID: k.ID, Gate: k.Gate, Checkpoint: k.Checkpoint})
			}
			form.Points[i].Cues = append(form.Points[i].Cues, string(k.Cue))
		}
	}
	if t.Caution != "" {
		form.Cautions = append([]say.Sentence{say.Raw(string(t.On(t.Taught).Caution))}, form.Cautions...)
	}
	return form
}
