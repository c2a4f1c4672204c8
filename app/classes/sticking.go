package classes

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
)

// StickingFilter says over which classes sticking points are looked for.
type StickingFilter struct {
	Weeks   int    `query:"weeks" minimum:"1" maximum:"260" default:"8"`
	Track   string `query:"track" maxLength:"100"`
	Coach   string `query:"coach" maxLength:"100"`
	Student string `query:"student" maxLength:"100" doc:"Of the classes they were in, and the corrections noted for them"`
}

// StickingPage is what went wrong most, over some time.
type StickingPage struct {
	From    calendar.Day    `json:"from"`
	To      calendar.Day    `json:"to"`
	Classes int             `json:"classes" doc:"Reported classes that were looked at"`
	Points  []StickingPoint `json:"points" doc:"By the lower end of Wilson's 95 % interval, highest first"`
	Tracks  []state.Named   `json:"tracks"`
	Coaches []state.Named   `json:"coaches"`
	People  []state.Named   `json:"people"`
	Season  string          `json:"season" doc:"The season that runs, for putting an answer into a class; empty for none"`
}

// StickingPoint is a fault with what it leads to and what answers it.
type StickingPoint struct {
	Technique   string      `json:"technique"`
	Name        string      `json:"name"`
	Fault       string      `json:"fault"`
	What        string      `json:"what"`
	Point       string      `json:"point"`
	Consequence string      `json:"consequence"`
	Correction  string      `json:"correction"`
	Danger      bool        `json:"danger"`
	Seen        int         `json:"seen"`
	Tries       int         `json:"tries"`
	Low         float64     `json:"low" doc:"The share that is sure: the lower end of the interval"`
	High        float64     `json:"high"`
	Told        int         `json:"told" doc:"Corrections of it noted for single people"`
	Answers     []Answer    `json:"answers" doc:"Forks at that key point: what the partner does, and what answers it"`
	Units       []UnitPlace `json:"units" doc:"What could be put into one of the next classes: the technique again, or the answer; together where each feeds the other"`
}

// Answer is a fork that meets what the fault leads to.
type Answer struct {
	Reaction  string `json:"reaction"`
	Technique string `json:"technique"`
	Name      string `json:"name"`
	Both      bool   `json:"both" doc:"The answer leads back: the two feed each other, so they belong together"`
}

// UnitPlace is a unit that teaches something of it.
type UnitPlace struct {
	Unit    string `json:"unit"`
	Name    string `json:"name"`
	Teaches string `json:"teaches"`
}

// Sticking ranks the faults counted over some weeks. A fault seen in eight of twelve tries stands above one seen in one of one.
func (a *Service) Sticking(ctx context.Context, u state.User, q StickingFilter) (StickingPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return StickingPage{}, err
	}
	to := f.Today()
	page := StickingPage{From: to - calendar.Day(7*max(1, q.Weeks)), To: to, Points: []StickingPoint{}, Tracks: []state.Named{}, Coaches: []state.Named{}, People: []state.Named{}}
	for _, t := range f.Tracks {
		page.Tracks = append(page.Tracks, state.Named{ID: t.ID, Name: t.Name})
	}
	slices.SortFunc(page.Tracks, func(x, y state.Named) int { return cmp.Compare(x.Name, y.Name) })
	for _, p := range f.Active() {
		if p.Coach != nil {
			page.Coaches = append(page.Coaches, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	for _, p := range f.Students() {
		page.People = append(page.People, state.Named{ID: p.ID, Name: p.Name})
	}
	for _, s := range f.Seasons {
		if s.WeekOf(to) > 0 && s.Plan != nil {
			page.Season = s.ID
		}
	}
	page.Classes, page.Points = f.sticking(page.From, to, q)
	return page, nil
}

func (f *snapshot) sticking(from, to calendar.Day, q StickingFilter) (classes int, points []StickingPoint) {
	type key struct{ technique, fault string }
	type count struct{ seen, tries, told int }
	counts := map[key]*count{}
	of := func(technique, fault string) *count {
		k := key{f.Library.Now(technique), fault}
		if counts[k] == nil {
			counts[k] = &count{}
		}
		return counts[k]
	}
	for x := range f.Sessions {
		class, ok := f.Class(x.Class)
		if !ok || x.On < from || x.On > to || q.Track != "" && class.Track != q.Track {
			continue
		}
		if _, came := x.Came(q.Student); q.Student != "" && !came {
			continue
		}
		if r, reported := f.ReportOf(x); reported && (q.Coach == "" || r.Lead == q.Coach) {
			classes++
			for _, n := range r.Faults {
				c := of(n.Technique, n.Fault)
				c.seen, c.tries = c.seen+min(n.Seen, n.Tries), c.tries+n.Tries
			}
		}
		for _, t := range x.Tallies() {
			if t.Student != "" && t.Fault != "" && (q.Student == "" || t.Student == q.Student) && (q.Coach == "" || t.By == q.Coach) {
				of(t.Technique, t.Fault).told++
			}
		}
	}
	points = []StickingPoint{}
	for k, c := range counts {
		t, ok := f.Library.Technique(k.technique)
		if !ok || c.seen == 0 && c.told == 0 {
			continue
		}
		shown := t.On(t.Taught)
		fault, point, ok := shown.Fault(k.fault)
		if !ok {
			continue
		}
		p := StickingPoint{Technique: t.ID, Name: t.Name, Fault: k.fault, What: string(fault.What), Point: string(point.Cue), Consequence: string(fault.Consequence), Correction: string(fault.Correction), Danger: fault.Danger,
			Seen: c.seen, Tries: c.tries, Told: c.told, Answers: []Answer{}, Units: []UnitPlace{}}
		if c.tries > 0 {
			p.Low, p.High = ledger.Wilson(c.seen, c.tries)
		}
		teaches := []string{t.ID}
		for _, x := range shown.Forks {
			if x.KeyPoint != point.ID {
				continue
			}
			answer, ok := f.Library.Technique(x.Answer)
			if !ok {
				continue
			}
			both := slices.ContainsFunc(answer.Forks, func(y library.Fork) bool { return f.Library.Now(y.Answer) == t.ID })
			p.Answers = append(p.Answers, Answer{string(x.Reaction), answer.ID, answer.Name, both})
			teaches = append(teaches, answer.ID)
		}
		p.Units = f.unitsOf(teaches, q.Track)
		points = append(points, p)
	}
	slices.SortFunc(points, func(a, b StickingPoint) int {
		return cmp.Or(cmp.Compare(b.Low, a.Low), cmp.Compare(b.Seen, a.Seen), cmp.Compare(b.Told, a.Told), cmp.Compare(a.Name, b.Name), cmp.Compare(a.Fault, b.Fault))
	})
	return classes, points[:min(100, len(points))]
}

// unitsOf lists the units that teach one of some techniques, first those that teach several of them.
func (f *snapshot) unitsOf(techniques []string, track string) []UnitPlace {
	type found struct {
		UnitPlace
		n int
	}
	var all []found
	for _, u := range f.Units {
		if track != "" && !slices.Contains(u.Tracks, track) {
			continue
		}
		x := found{UnitPlace: UnitPlace{Unit: u.ID, Name: u.Name}}
		for _, t := range u.Techniques {
			if slices.Contains(techniques, t) {
				x.n++
				if x.Teaches != "" {
					x.Teaches += ", "
				}
				x.Teaches += f.Library.Name(t)
			}
		}
		if x.n > 0 {
			all = append(all, x)
		}
	}
	slices.SortStableFunc(all, func(a, b found) int { return cmp.Compare(b.n, a.n) })
	out := []UnitPlace{}
	for _, x := range all {
		out = append(out, x.UnitPlace)
	}
	return out
}
