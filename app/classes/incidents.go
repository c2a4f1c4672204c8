package classes

import (
	"context"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/say"
)

// Incident is what happened to somebody in a class, as the coach saw it. Nothing medical is judged: whether they are held, and until when, is said
// by people.
type Incident struct {
	ID      string `json:"id" minLength:"8" maxLength:"60" doc:"The sender's own: sent twice it is one"`
	Student string `json:"student" maxLength:"100"`
	Text    string `json:"text" minLength:"1" maxLength:"2000"`
}

// NoteIncident keeps an incident as a note on the person, for the head instructor and whoever wrote it.
func (a *Service) NoteIncident(ctx context.Context, u state.User, id string, x Incident) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, _, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		p, ok := f.Written(x.Student)
		if !ok || !trains(p) {
			return state.NotFound("student", x.Student)
		}
		if on > f.Today() {
			return state.Invalid("class", "the class on %s has not begun", on)
		}
		n := academy.Note{ID: "incident-" + x.ID, On: on, By: u.Person, Text: x.Text, Readers: academy.ForHead, Class: id}
		if i := slices.IndexFunc(p.Notes, func(had academy.Note) bool { return had.ID == n.ID }); i >= 0 {
			if p.Notes[i] != n {
				return &state.ConflictError{Thing: "the incident", Why: "It was sent before with other words: write another one."}
			}
			return nil
		}
		p.Notes = append(slices.Clone(p.Notes), n)
		if err := state.InvalidAll(f.CheckPerson(p)); err != nil {
			return err
		}
		b.Summary = say.F("Noted an incident in %s", c.Name)
		return b.PutPerson(f.Snapshot, p)
	})
}
