package classes

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/rotation"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/validation"
)

// MakeupLine is a station of a class at which some catch up what they missed.
type MakeupLine struct {
	Station    string            `json:"station"`
	Unit       string            `json:"unit"`
	Name       string            `json:"name" doc:"Of the unit"`
	Minutes    int               `json:"minutes"`
	Coach      string            `json:"coach,omitempty"`
	People     []MakeupPerson    `json:"people"`
	Techniques []TaughtTechnique `json:"techniques"`
}

// MakeupPerson is one of those who are to catch up.
type MakeupPerson struct {
	state.Named
	Here bool `json:"here"`
}

// AddMakeup puts a station into a class at which those who missed a unit catch it up, while the others are at the stations it takes the place of. Put in again it
// takes in whom it lacks.
func (a *Service) AddMakeup(ctx context.Context, u state.User, id, unit string, people []string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		x, ok := f.Unit(unit)
		if !ok {
			return state.Invalid("unit", "there is no unit %q", unit)
		}
		if f.Reported(c.ID, on) {
			return state.Invalid("class", "%s on %s was held and recorded", c.Name, on)
		}
		if slices.ContainsFunc(n.Items, func(it season.Item) bool { return it.Unit == unit && it.Kind == season.Teach }) {
			return state.Invalid("unit", "%s is taught to all in that class", x.Name)
		}
		wanted := f.stationsOf(n, c)
		wanted.Plan = rotation.Stationed{} // it was made without them
		at := slices.IndexFunc(wanted.Stations, func(s academy.NamedStation) bool { return s.Makeup == unit })
		if at < 0 {
			if len(wanted.Stations) >= rotation.MostStations {
				return state.Invalid("class", "it has %d stations already: remove one first", len(wanted.Stations))
			}
			wanted.Stations = append(wanted.Stations, makeupStation(x, wanted))
			at = len(wanted.Stations) - 1
		}
		s := &wanted.Stations[at]
		for i, who := range people {
			if err := f.mayCatchUp(who, x, on, wanted.Stations, i); err != nil {
				return err
			}
			if !slices.Contains(s.For, who) {
				s.For = append(slices.Clone(s.For), who)
			}
		}
		if len(s.For) == 0 || len(s.For) > academy.MostMakeUp {
			return state.Invalid("people", "%d people: name 1 to %d", len(s.For), academy.MostMakeUp)
		}
		n.Decided.Stations = &wanted
		b.Summary = say.F("Put a station into %s on %s: %s for %d who missed it", c.Name, on, x.Name, len(s.For))
		return b.Put(documents.Session, id, n.Decided)
	})
}

// mayCatchUp says why somebody cannot be at a station that teaches a unit.
func (f *snapshot) mayCatchUp(who string, unit academy.Unit, on calendar.Day, stations []academy.NamedStation, i int) error {
	field := fmt.Sprintf("people[%d]", i)
	p, ok := f.Person[who]
	if !ok || !trains(p) {
		return state.Invalid(field, "there is no student %.64q", who)
	}
	for _, s := range stations {
		if s.Makeup != unit.ID && slices.Contains(s.For, who) {
			return state.Invalid(field, "%s is at the station %s already", p.Name, s.Name)
		}
	}
	for _, id := range unit.Techniques {
		t, ok := f.Library.Technique(id)
		if !ok {
			continue
		}
		if no := f.Refusals(p, t, on); len(no) > 0 {
			return state.Invalid(field, "%s cannot be taught %s that day: %s", p.Name, t.Name, no[0].Why)
		}
	}
	return nil
}

// makeupStation is a station for one unit, as long as the unit but no longer than the stations it takes the place of: the last ones of the others.
func makeupStation(unit academy.Unit, among academy.Stations) academy.NamedStation {
	s := academy.NamedStation{Makeup: unit.ID, Name: "Catch up: " + unit.Name, Station: rotation.Station{ID: "makeup-" + unit.ID, Must: true, Coach: rotation.AnyCoach, Signoff: unit.Signoff}}
	if utf8.RuneCountInString(s.Name) > validation.MostName {
		s.Name = "Catch up"
	}
	freed := 0
	for i := len(among.Stations) - 1; i >= 0 && freed < unit.Minutes; i-- {
		if x := among.Stations[i]; len(x.For) == 0 && !x.Checks {
			s.Instead = append(s.Instead, x.ID)
			freed += x.Minutes
			if len(s.Instead) > 1 {
				freed += among.Change
			}
		}
	}
	s.Minutes = min(unit.Minutes, freed)
	if freed == 0 {
		s.Minutes = min(unit.Minutes, among.Minutes)
	}
	return s
}

// stationsOf are the stations of a class: those it was given, else one for each of its first four drills.
func (f *snapshot) stationsOf(n state.SessionPlan, c academy.Class) academy.Stations {
	if n.Decided.Stations != nil {
		s := *n.Decided.Stations
		s.Stations = slices.Clone(s.Stations)
		return s
	}
	s := academy.Stations{Stations: []academy.NamedStation{}, Coaches: []string{}, Minutes: max(20, c.Minutes-20), Change: 1, By: "mixed"}
	for _, x := range f.Sheet(n, c).Segments {
		if x.Drill && len(s.Stations) < 4 {
			coach := rotation.NoCoach
			if len(s.Stations) == 0 {
				coach = rotation.AnyCoach
			}
			s.Stations = append(s.Stations, academy.NamedStation{Name: x.Name.String(), Station: rotation.Station{ID: fmt.Sprintf("s%d", len(s.Stations)+1), Minutes: 6, Must: true, Coach: coach}})
		}
	}
	s.Groups = max(2, len(s.Stations))
	return s
}

// makeups are the stations of a class at which somebody catches up.
func (f *snapshot) makeups(n state.SessionPlan, here []Attendee) []MakeupLine {
	all := []MakeupLine{}
	if n.Decided.Stations == nil {
		return all
	}
	for _, s := range n.Decided.Stations.Stations {
		unit, ok := f.Unit(s.Makeup)
		if s.Makeup == "" || !ok {
			continue
		}
		line := MakeupLine{Station: s.ID, Unit: unit.ID, Name: unit.Name, Minutes: s.Minutes, People: []MakeupPerson{}, Techniques: []TaughtTechnique{}}
		if i := slices.IndexFunc(n.Decided.Stations.Plan.Visits, func(v rotation.Visit) bool { return v.Station == s.ID }); i >= 0 {
			line.Coach = f.NameOf(n.Decided.Stations.Plan.Visits[i].Coach)
		} else if s.Coach != rotation.AnyCoach && s.Coach != rotation.NoCoach {
			line.Coach = f.NameOf(s.Coach)
		}
		for _, id := range s.For {
			line.People = append(line.People, MakeupPerson{state.Named{ID: id, Name: f.NameOf(id)}, slices.ContainsFunc(here, func(x Attendee) bool { return x.ID == id })})
		}
		slices.SortStableFunc(line.People, func(x, y MakeupPerson) int { return strings.Compare(x.Name, y.Name) })
		for _, id := range unit.Techniques {
			if t, ok := f.Library.Technique(id); ok {
				line.Techniques = append(line.Techniques, f.taughtTechnique(t, season.Teach))
			}
		}
		all = append(all, line)
	}
	return all
}

// caughtUp says what a report says of those who caught up that cannot be.
func (f *snapshot) caughtUp(all []academy.Makeup, bad func(field string, format say.Sentence, args ...any)) {
	seen := map[string]bool{}
	for i, m := range all {
		for k, id := range m.People {
			at := fmt.Sprintf("makeups[%d].people[%d]", i, k)
			if _, ok := f.Person[id]; !ok {
				bad(at, "there is no student %.64q", id)
			}
			if seen[id] {
				bad(at, "%s was at another station already", f.NameOf(id))
			}
			seen[id] = true
		}
		for k, it := range m.Items {
			if _, ok := f.Library.Technique(it.Technique); !ok {
				bad(fmt.Sprintf("makeups[%d].items[%d].technique", i, k), "%.64q is not in the library", it.Technique)
			}
		}
	}
}
