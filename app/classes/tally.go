package classes

import (
	"context"
	"errors"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/store"
)

// FaultTally is how often a fault was counted in a class.
type FaultTally struct {
	Technique string `json:"technique"`
	Fault     string `json:"fault"`
	Seen      int    `json:"seen"`
}

// Correction is what a coach noted for one person.
type Correction struct {
	Student   string       `json:"student"`
	Name      string       `json:"name"`
	Technique string       `json:"technique"`
	Summary   string       `json:"summary" doc:"The fault or the words"`
	By        string       `json:"by"`
	On        calendar.Day `json:"on"`
}

// AddTally is one tap.
type AddTally struct {
	ID      string `json:"id" minLength:"1" maxLength:"60" doc:"The sender's own: sent twice it counts once"`
	Student string `json:"student,omitempty" maxLength:"100" doc:"Empty for the group"`
	academy.Tally
}

// Tally counts a fault of the group, or notes a correction for one person, in a class that is under way or over.
func (a *Service) Tally(ctx context.Context, u state.User, id string, t AddTally) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	_, on, err := f.FindSession(id)
	if err != nil {
		return err
	}
	e, err := academy.NewEvent(t.ID, academy.TallyEvent, on, t.Tally)
	if err != nil {
		return err
	}
	t.Student = f.Present(t.Student)
	e.Student, e.Class = t.Student, id
	if done, err := a.sentBefore(ctx, u, f, e); done || err != nil {
		return err
	}
	if on > f.Today() {
		return state.Invalid("class", "the class on %s has not begun", on)
	}
	technique, ok := f.Library.Technique(t.Technique)
	if !ok {
		return state.Invalid("technique", "%.64q is not in the library", t.Technique)
	}
	if t.Fault != "" {
		if _, _, ok := technique.Fault(t.Fault); !ok {
			return state.Invalid("fault", "%.64q is not a fault of %s", t.Fault, technique.Name)
		}
	}
	if t.Student != "" {
		if p, ok := f.Person[t.Student]; !ok || !p.Student {
			return state.NotFound("student", t.Student)
		}
	}
	return a.State.Record(ctx, u, e)
}

// sentBefore says whether an event of that identifier was kept already with the same content; another content under it is
// refused.
func (a *Service) sentBefore(ctx context.Context, u state.User, f *snapshot, e academy.Event) (bool, error) {
	had, err := a.Store.EventByID(ctx, u.Academy, e.ID)
	switch {
	case errors.Is(err, store.ErrMissing):
		return false, nil
	case err != nil:
		return false, err
	}
	had.Student = f.Present(had.Student)
	e.Replaces = had.Replaces // it was found then, and may have been replaced since
	if !store.SameEvent(e, had) {
		return false, &state.ConflictError{Thing: "what was sent", Why: state.UsedBefore}
	}
	return true, nil
}

// tallies sums up what was counted in a class, and lists the corrections of those one may see.
func (f *snapshot) tallies(x *state.Session) ([]FaultTally, []Correction) {
	sums, order, corrections := map[[2]string]int{}, [][2]string{}, []Correction{}
	for _, t := range x.Tallies() {
		technique := f.Library.Now(t.Technique)
		if t.Count != 0 && t.Fault != "" {
			key := [2]string{technique, t.Fault}
			if _, had := sums[key]; !had {
				order = append(order, key)
			}
			sums[key] = max(0, sums[key]+t.Count)
		}
		if t.Student != "" {
			corrections = append(corrections, f.correction(t))
		}
	}
	all := []FaultTally{}
	for _, key := range order {
		if sums[key] > 0 {
			all = append(all, FaultTally{key[0], key[1], sums[key]})
		}
	}
	return all, corrections
}

func (f *snapshot) correction(t store.Tallied) Correction {
	return Correction{t.Student, f.NameOf(t.Student), f.Library.Name(t.Technique), f.ToldWords(t), f.NameOf(t.By), t.On}
}
