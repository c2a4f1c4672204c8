package classes

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/say"
	"vereda/core/validation"
)

// StationsPage is a class with stations: what was wanted, and who is where when.
type StationsPage struct {
	academy.Stations
	Rows  []StationGroup `json:"rows" doc:"Each group with its way"`
	Stale bool           `json:"stale" doc:"Who is here changed since"`
	Given bool           `json:"given" doc:"They were chosen for this class; else what could be"`
	Here  []state.Named  `json:"here" doc:"Coaches who could be here"`
}

// StationGroup is one group and where it is when.
type StationGroup struct {
	People []state.Named  `json:"people"`
	Visits []StationVisit `json:"visits"`
}

// StationVisit is one visit in words.
type StationVisit struct {
	Station string           `json:"station"`
	Name    string           `json:"name"`
	Coach   string           `json:"coach,omitempty"`
	Start   int              `json:"start"`
	End     int              `json:"end"`
	Checks  []SuggestedCheck `json:"checks,omitempty" doc:"At a station where checks are done: who, on what"`
}

// onMat is what a rotation of a class stands on: who is here, and what was decided for the class.
func (f *snapshot) onMat(u state.User, id string) string {
	c, on, n, err := f.toRun(u, id)
	if err != nil {
		return err.Error()
	}
	words := []string{fmt.Sprint(f.Version(documents.Session, id))}
	for _, a := range f.here(u, c, on, n) {
		words = append(words, a.ID+a.Out.String()+a.NoLive.String())
	}
	return strings.Join(words, "\n")
}

// PlanStations makes groups of those who are here and sends them from station to station. When it cannot be, the smallest set of
// conditions in conflict is told.
func (a *Service) PlanStations(ctx context.Context, u state.User, id string, wanted academy.Stations) (string, error) {
	var plan rotation.Stationed
	return state.KeepComputed(ctx, a.State, u, "who is here", func(f *snapshot) string { return f.onMat(u, id) }, func(f *snapshot) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		m := rotation.Mat{Minutes: wanted.Minutes, Change: wanted.Change, Groups: wanted.Groups, By: wanted.By, People: f.onTheMat(f.here(u, c, on, n), f.Lesson(n.Items), false)}
		for _, id := range wanted.Coaches {
			p, ok := f.Person[id]
			if !ok || p.Coach == nil {
				return state.Invalid("coaches", "%.64q is no coach here", id)
			}
			m.Coaches = append(m.Coaches, rotation.StationCoach{ID: id, Signoffs: p.Coach.Signoffs})
		}
		for _, s := range wanted.Stations {
			m.Stations = append(m.Stations, s.Station)
		}
		if len(m.People) < m.Groups {
			return state.Invalid("groups", "%d groups want more than the %d who can be paired", m.Groups, len(m.People))
		}
		if err := state.InvalidAll(m.Check()); err != nil {
			return err
		}
		plan, err = rotation.PlanStations(m)
		var conflict *rotation.Conflict
		if errors.As(err, &conflict) {
			found := validation.Found{}
			found.Bad("stations", "these cannot all be: %s", f.named(wanted, say.Join("; ", conflict.Conditions...)))
			return state.InvalidAll(found)
		}
		return err
	}, func(f *snapshot, b *state.Change) error {
		_, _, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		wanted.Plan = plan
		n.Decided.Stations = &wanted
		b.Summary = "Planned the stations of a class"
		return b.Put(documents.Session, id, n.Decided)
	})
}

// ClearStations goes on without stations.
func (a *Service) ClearStations(ctx context.Context, u state.User, id string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		_, _, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		n.Decided.Stations = nil
		b.Summary = "Removed the stations of a class"
		return b.Put(documents.Session, id, n.Decided)
	})
}

// here lists who is in a class, with what keeps them out of drills.
func (f *snapshot) here(u state.User, c academy.Class, on calendar.Day, n state.SessionPlan) []Attendee {
	page := SessionPage{}
	f.attendees(&page, u, c, on, f.Lesson(n.Items))
	return page.Here
}

// named puts names in place of the identifiers of stations and coaches.
func (f *snapshot) named(s academy.Stations, words say.Sentence) say.Sentence {
	return say.Renamed(words, func(id string) string {
		if i := slices.IndexFunc(s.Stations, func(x academy.NamedStation) bool { return x.ID == id }); i >= 0 {
			return s.Stations[i].Name
		}
		if slices.Contains(s.Coaches, id) {
			return f.NameOf(id)
		}
		return id
	})
}

// checksAt chooses what a coach checks of a group while it is at their station.
func (f *snapshot) checksAt(group []string, coach string, minutes float64, on calendar.Day, lesson mat.Lesson) []SuggestedCheck {
	if f.Person[coach].Coach == nil {
		return nil
	}
	var all []prospect
	for _, id := range group {
		for _, x := range f.prospects(f.Person[id], on, lesson) {
			if x.ready {
				all = append(all, x)
			}
		}
	}
	chosen, _, _, _ := f.chooseChecks(all, []state.Named{{ID: coach}}, minutes)
	return chosen
}

func (f *snapshot) stationsPage(n state.SessionPlan, c academy.Class, on calendar.Day, here []Attendee, lesson mat.Lesson) *StationsPage {
	page := &StationsPage{Rows: []StationGroup{}, Here: []state.Named{}}
	for _, p := range f.Active() {
		if p.Coach != nil {
			page.Here = append(page.Here, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	page.Stations = f.stationsOf(n, c)
	page.Given = n.Decided.Stations != nil
	if len(page.Plan.Visits) == 0 {
		return page
	}
	placed := map[string]bool{}
	for g, group := range page.Plan.Groups {
		line := StationGroup{People: []state.Named{}, Visits: []StationVisit{}}
		for _, id := range group {
			placed[id] = true
			line.People = append(line.People, state.Named{ID: id, Name: f.NameOf(id)})
		}
		for _, v := range page.Plan.Visits {
			if v.Group != g+1 {
				continue
			}
			i := slices.IndexFunc(page.Stations.Stations, func(s academy.NamedStation) bool { return s.ID == v.Station })
			visit := StationVisit{v.Station, v.Station, f.NameOf(v.Coach), v.Start, v.End, nil}
			if i >= 0 {
				visit.Name = page.Stations.Stations[i].Name
				if page.Stations.Stations[i].Checks {
					visit.Checks = f.checksAt(group, cmp.Or(v.Coach, n.Lead), float64(v.End-v.Start), on, lesson)
				}
			}
			line.Visits = append(line.Visits, visit)
		}
		page.Rows = append(page.Rows, line)
	}
	for _, a := range here {
		if a.Out == "" && !placed[a.ID] {
			page.Stale = true
		}
		delete(placed, a.ID)
	}
	page.Stale = page.Stale || len(placed) > 0
	return page
}
