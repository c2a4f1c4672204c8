package classes

import (
	"context"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
)

// Guest is somebody who trains along without being a student here: for a trial, or on a visit.
type Guest struct {
	ID     string  `json:"id" minLength:"8" maxLength:"50" doc:"The sender's own: sent twice it is one guest"`
	Name   string  `json:"name" maxLength:"300"`
	Kind   string  `json:"kind" enum:"trial,visitor"`
	Weight float64 `json:"weight_kg,omitempty" minimum:"0" maximum:"400" doc:"So that a partner of their size is found"`
}

// AddGuest takes a guest into a class: kept as a person, and checked in. As nobody knows their rank or age, they pass no gate and count as a minor
// until the academy knows better.
func (a *Service) AddGuest(ctx context.Context, u state.User, id string, g Guest) (string, error) {
	person := "guest-" + library.Identifier(g.ID)
	change, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, err := f.FindSession(id)
		if err != nil {
			return err
		}
		if had, ok := f.Person[person]; ok {
			if had.Guest == "" || had.Name != strings.TrimSpace(g.Name) {
				return &state.ConflictError{Thing: "the guest", Why: say.F("This guest was sent before as %s.", had.Name)}
			}
			return nil
		}
		if on > f.Today() {
			return state.Invalid("class", "the class on %s has not begun: take guests in on the day", on)
		}
		p := academy.Person{ID: person, Name: strings.TrimSpace(g.Name), Guest: g.Kind, Weight: g.Weight, Joined: on, RankSince: on}
		if err := state.InvalidAll(f.CheckPerson(p)); err != nil {
			return err
		}
		b.Summary = say.F("Added %s to %s as a guest", p.Name, c.Name)
		return b.Put(documents.Person, person, p)
	})
	if err != nil {
		return "", err
	}
	return change, a.CheckIn(ctx, u, id, person, "", "in-"+library.Identifier(g.ID))
}

// trains says whether somebody can be checked in.
func trains(p academy.Person) bool { return p.Student || p.Guest != "" }

// guestWeeks is how long a guest stays on the lists of likely ones.
const guestWeeks = 8

// guests are those of a class, and whoever was one lately.
func (f *snapshot) guests(c academy.Class, on calendar.Day) []academy.Person {
	var all []academy.Person
	session := f.Session(c.ID, on)
	for _, p := range f.Active() {
		if p.Student || p.Guest == "" {
			continue
		}
		_, came := session.Came(p.ID)
		lately := slices.ContainsFunc(f.Visits(p.ID), func(v state.Visit) bool { return v.On <= on && v.On > on-7*guestWeeks })
		if came || lately {
			all = append(all, p)
		}
	}
	return all
}
