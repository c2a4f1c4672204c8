package students

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/store"
)

// MadeCheck is a check as it stands in the log, to be corrected.
type MadeCheck struct {
	KeepCheck
	Names say.Sentence `json:"names" doc:"Whom, what and when, in words"`
}

// MadeCheck shows a check to whoever may correct it.
func (a *Service) MadeCheck(ctx context.Context, u state.User, id string) (MadeCheck, error) {
	f, had, c, err := a.ownCheck(ctx, u, id)
	if err != nil {
		return MadeCheck{}, err
	}
	what := say.Raw(f.Library.Name(f.Library.Now(c.Technique)))
	if c.Side != "" {
		what = say.F("%s, %s", what, c.Side)
	}
	return MadeCheck{KeepCheck{ID: had.ID, Student: f.Present(had.Student), Technique: f.Library.Now(c.Technique), Side: c.Side, Class: had.Class, Observation: c.Observation}, say.F("%s: %s, on %s", f.NameOf(f.Present(had.Student)), what, had.Day)}, nil
}

// ownCheck finds a check that counts, for whoever may correct it: the coach who made it and the head instructor.
func (a *Service) ownCheck(ctx context.Context, u state.User, id string) (*snapshot, academy.Event, academy.Check, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, academy.Event{}, academy.Check{}, err
	}
	had, err := a.Store.EventByID(ctx, u.Academy, id)
	if errors.Is(err, store.ErrMissing) || err == nil && had.Kind != academy.CheckEvent {
		err = state.NotFound("check", id)
	}
	if err != nil {
		return nil, had, academy.Check{}, err
	}
	c, err := had.Check()
	switch {
	case err != nil:
	case !mayChange(u, c.By):
		err = state.Forbidden("Only the coach who made this check or the head instructor changes it.")
	case !slices.ContainsFunc(f.Checks(f.Present(had.Student)), func(c state.Checked) bool { return c.ID == id }):
		err = &state.ConflictError{Thing: "the check", Why: "That check was overruled, corrected or taken back before: load the page again and go by what stands there now."}
	}
	return f, had, c, err
}

// mayChange says who may change a check: the coach who made it and the head instructor.
func mayChange(u state.User, by string) bool {
	return u.Is(state.Head) || u.Is(state.Coach) && by == u.Person
}

// replace puts a check in another's place. What it corrects stays in the log.
func (a *Service) replace(ctx context.Context, u state.User, had academy.Event, id string, c academy.Check) (Kept, error) {
	e, err := academy.NewEvent(cmp.Or(id, store.NewID()), academy.CheckEvent, had.Day, c)
	if err != nil {
		return Kept{}, err
	}
	e.Student, e.Class, e.Replaces = had.Student, had.Class, had.ID
	if err := a.State.Record(ctx, u, e); err != nil {
		return Kept{}, err
	}
	out := Kept{ID: e.ID, Overruled: c.Overruled}
	if c.Verdict != nil {
		out.Verdict = c.Verdict.Recalled()
	}
	return a.withMark(ctx, u, out, KeepCheck{Student: had.Student, Technique: c.Technique, Side: c.Side})
}

func reasonOf(words string) (string, error) {
	words = strings.TrimSpace(words)
	if len([]rune(words)) < 3 {
		return "", state.Invalid("reason", "is empty: say why, it stays on record")
	}
	return words, nil
}

// Overrule sets a verdict against the computed one, with a reason that stays
// on record. The check it corrects stays in the log.
func (a *Service) Overrule(ctx context.Context, u state.User, id string, met bool, reason string) (Kept, error) {
	_, had, c, err := a.ownCheck(ctx, u, id)
	if err != nil {
		return Kept{}, err
	}
	if reason, err = reasonOf(reason); err != nil {
		return Kept{}, err
	}
	c.Overruled = &academy.Overrule{Met: met, Reason: reason, By: u.Person}
	return a.replace(ctx, u, had, "", c)
}

// WithdrawCheck takes a check back: it was of somebody else, or never happened. The log keeps it with the reason, and nothing counts it.
func (a *Service) WithdrawCheck(ctx context.Context, u state.User, id, reason string) (Kept, error) {
	_, had, c, err := a.ownCheck(ctx, u, id)
	if err != nil {
		return Kept{}, err
	}
	if reason, err = reasonOf(reason); err != nil {
		return Kept{}, err
	}
	c.Overruled = &academy.Overrule{Reason: reason, By: u.Person, Withdrawn: true}
	return a.replace(ctx, u, had, "", c)
}

// CorrectCheck is what a check should have said.
type CorrectCheck struct {
	ID          string             `json:"id,omitempty" maxLength:"60" doc:"The sender's own identifier: sending twice is the same as once"`
	Technique   string             `json:"technique"`
	Side        library.Side       `json:"side"`
	Observation ledger.Observation `json:"observation"`
}

// CorrectCheck puts the right technique, side or observation in a check's place and judges it anew. The day, the class and who checked stay.
func (a *Service) CorrectCheck(ctx context.Context, u state.User, id string, k CorrectCheck) (Kept, error) {
	if k.ID != "" {
		if sent, err := a.Store.EventByID(ctx, u.Academy, k.ID); err == nil && sent.Kind == academy.CheckEvent && sent.Replaces == id {
			f, err := state.Known[snapshot](ctx, a.State, u.Academy)
			if err != nil {
				return Kept{}, err
			}
			return a.keptBefore(f, KeepCheck{ID: k.ID, Student: f.Present(sent.Student), Class: sent.Class, Technique: k.Technique, Side: k.Side, Observation: k.Observation}, sent, id)
		}
	}
	f, had, was, err := a.ownCheck(ctx, u, id)
	if err != nil {
		return Kept{}, err
	}
	c, err := f.judge(k.Technique, k.Side, k.Observation)
	if err != nil {
		return Kept{}, err
	}
	p := f.Person[f.Present(had.Student)]
	if t, _ := f.Library.Technique(c.Technique); f.Library.Now(was.Technique) != t.ID {
		if no := f.Refusals(p, t, had.Day); len(no) > 0 {
			return Kept{}, state.Invalid("technique", "%s may not be checked on %s: %s", p.Name, t.Name, no[0].Why)
		}
	}
	c.By = was.By
	return a.replace(ctx, u, had, k.ID, c)
}

// judge is a check of a technique on a side as the house standard sees it.
func (f *snapshot) judge(technique string, side library.Side, o ledger.Observation) (academy.Check, error) {
	t, ok := f.Library.Technique(technique)
	if !ok {
		return academy.Check{}, state.NotFound("technique", technique)
	}
	if !slices.Contains(t.Sides(), side) {
		return academy.Check{}, state.Invalid("side", "%q is not a side of %s", side, t.Name)
	}
	seen := t.On(side) // what is said of it is said for the side it was done on
	if err := state.InvalidAll(o.Check(seen)); err != nil {
		return academy.Check{}, err
	}
	verdict := ledger.Judge(seen, o, f.Settings.Standard)
	return academy.Check{Technique: t.ID, Side: side, Observation: o, Verdict: &verdict}, nil
}
