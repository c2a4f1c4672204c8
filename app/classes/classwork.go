package classes

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/mat"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/validation"
	"vereda/store"
)

// SessionChoice is what tonight teaches, chosen by hand.
type SessionChoice struct {
	Items []season.Item `json:"items" doc:"Instead of the plan's; empty goes back to the plan"`
	Lead  string        `json:"lead,omitempty"`
}

// Choose sets by hand what a class teaches and who leads it.
func (a *Service) Choose(ctx context.Context, u state.User, id string, choice SessionChoice) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		for i, it := range choice.Items {
			unit, ok := f.Unit(it.Unit)
			if !ok {
				return state.Invalid(fmt.Sprintf("items[%d].unit", i), "there is no unit %q: choose one from the list", it.Unit)
			}
			if !slices.Contains(unit.Tracks, c.Track) {
				return state.Invalid(fmt.Sprintf("items[%d].unit", i), "%s is not for %s", unit.Name, f.Tracks[c.Track].Name)
			}
		}
		if choice.Lead != "" && f.Person[choice.Lead].Coach == nil {
			return state.Invalid("lead", "%q is not a coach here", choice.Lead)
		}
		doc := n.Decided
		doc.Items, doc.Lead = choice.Items, choice.Lead
		b.Summary = say.F("Chose what %s on %s teaches", c.Name, on)
		return b.Put(documents.Session, id, doc)
	})
}

// toRun finds a class on a day for somebody who may run it.
func (f *snapshot) toRun(u state.User, id string) (academy.Class, calendar.Day, state.SessionPlan, error) {
	c, on, err := f.FindSession(id)
	if err != nil {
		return c, on, state.SessionPlan{}, err
	}
	n := f.SessionPlan(c, on)
	if !mayRun(u, n) {
		return c, on, n, state.Forbidden(say.F("%s leads this class; only they or the head instructor run it.", f.NameOf(n.Lead)))
	}
	return c, on, n, nil
}

// CheckIn notes that a student is in a class: all of it, or a part of it where they came late or left early. event is the caller's own
// identifier, so that sending twice is the same as once. One who is in already is noted anew when the part is another.
func (a *Service) CheckIn(ctx context.Context, u state.User, id, student, part, event string) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return err
	}
	e, err := academy.NewEvent(cmp.Or(event, store.NewID()), academy.AttendanceEvent, on, academy.Attendance{Present: true, Part: part})
	if err != nil {
		return err
	}
	student = f.Present(student)
	e.Student, e.Class = student, id
	if event != "" {
		had, err := a.Store.EventByID(ctx, u.Academy, event)
		switch {
		case err == nil:
			return a.checkedInBefore(ctx, u, f, e, had)
		case !errors.Is(err, store.ErrMissing):
			return err
		}
	}
	p, ok := f.Person[student]
	if !ok || !trains(p) {
		return state.NotFound("student", student)
	}
	if on > f.Today() {
		return state.Invalid("class", "the class on %s has not begun: check in on the day", on)
	}
	if p.Joined > on {
		return state.Invalid("student", "%s joined on %s, after this class", p.Name, p.Joined)
	}
	if p.Archived != nil && on >= *p.Archived {
		return state.Invalid("student", "%s does not train here any more since %s: bring them back first", p.Name, *p.Archived)
	}
	if here, came := f.Session(c.ID, on).Came(student); came {
		if here.Part == part {
			return nil
		}
		had, err := a.Store.EventAt(ctx, u.Academy, here.Seq)
		if err != nil {
			return err
		}
		e.Replaces, e.Student = had.ID, had.Student // on the record it was noted on, which may be a part of this one now
	}
	return a.State.Record(ctx, u, e)
}

// checkedInBefore answers a check-in whose identifier was used before: it is kept,
// or it was taken back since, or the identifier stands for something else.
func (a *Service) checkedInBefore(ctx context.Context, u state.User, f *snapshot, e, had academy.Event) error {
	is, _ := e.Attendance()
	was, err := had.Attendance()
	if had.Kind != academy.AttendanceEvent || err != nil || was != is || f.Present(had.Student) != e.Student || had.Class != e.Class {
		return &state.ConflictError{Thing: "the check-in", Why: state.UsedBefore}
	}
	by, err := a.Store.ReplacedBy(ctx, u.Academy, had.Seq)
	if err == nil && by != "" {
		return &state.ConflictError{Thing: "the check-in", Why: "That check-in was taken back since: check in again."}
	}
	return err
}

// CheckOut takes a check-in back. event is the caller's own identifier, as for CheckIn.
func (a *Service) CheckOut(ctx context.Context, u state.User, id, student, event string) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return err
	}
	e, err := academy.NewEvent(cmp.Or(event, store.NewID()), academy.AttendanceEvent, on, academy.Attendance{Present: false})
	if err != nil {
		return err
	}
	student = f.Present(student)
	e.Student, e.Class = student, id
	if done, err := a.sentBefore(ctx, u, f, e); done || err != nil {
		return err
	}
	here, came := f.Session(c.ID, on).Came(student)
	if !came {
		return state.NotFound("check-in", student)
	}
	had, err := a.Store.EventAt(ctx, u.Academy, here.Seq)
	if err != nil {
		return err
	}
	e.Replaces, e.Student = had.ID, had.Student // on the record it was noted on, which may be a part of this one now
	return a.State.Record(ctx, u, e)
}

func (f *snapshot) clock(n state.SessionPlan, c academy.Class) []mat.Stretch {
	return mat.Clock(f.Sheet(n, c), f.Library.Technique)
}

// SessionReport is what a class reached, as the coach says it.
type SessionReport struct {
	ID     string               `json:"id,omitempty" maxLength:"60" doc:"The sender's own: sent twice it is one report"`
	Items  []ledger.Item        `json:"items"`
	Faults []academy.FaultCount `json:"faults"`
	// What some did at a station of their own, who had missed it.
	Makeups []academy.Makeup `json:"makeups,omitempty" maxItems:"20"`
	Note    string           `json:"note,omitempty" maxLength:"1000"`
	Lead    string           `json:"lead,omitempty" maxLength:"100" doc:"Who led it, where somebody took over; whoever was to lead when left out"`
}

// Report keeps what a class reached. Recording again corrects the record: the
// earlier one stays in the log.
func (a *Service) Report(ctx context.Context, u state.User, id string, r SessionReport) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	c, on, n, err := f.toRun(u, id)
	if err != nil {
		return err
	}
	if on > f.Today() {
		return state.Invalid("class", "the class on %s has not been held: record it afterwards", on)
	}
	if r.Lead != "" && f.Person[r.Lead].Coach == nil {
		return state.Invalid("lead", "%.64q is no coach here", r.Lead)
	}
	if err := f.checkRecord(r); err != nil {
		return err
	}
	e, err := academy.NewEvent(cmp.Or(r.ID, store.NewID()), academy.ClassReportEvent, on, academy.ClassReport{Lead: cmp.Or(r.Lead, n.Lead, u.Person), Items: r.Items, Faults: r.Faults, Note: r.Note, Makeups: r.Makeups})
	if err != nil {
		return err
	}
	e.Class = id
	if done, err := a.sentBefore(ctx, u, f, e); done || err != nil {
		return err
	}
	if had := f.Session(c.ID, on); had != nil && had.Report != nil {
		before, err := a.Store.EventAt(ctx, u.Academy, had.Report.Seq)
		if err != nil {
			return err
		}
		e.Replaces = before.ID
	}
	return a.State.Record(ctx, u, e)
}

// checkRecord says what a report names that is not there, and what is wrong with it in itself.
func (f *snapshot) checkRecord(r SessionReport) error {
	found := validation.Found(academy.ClassReport{Items: r.Items, Faults: r.Faults, Note: r.Note, Makeups: r.Makeups}.Problems())
	f.caughtUp(r.Makeups, found.Bad)
	for i, it := range r.Items {
		if _, ok := f.Library.Technique(it.Technique); !ok {
			found.Bad(fmt.Sprintf("items[%d].technique", i), "%.64q is not in the library", it.Technique)
		}
	}
	for i, x := range r.Faults {
		t, _ := f.Library.Technique(x.Technique)
		if _, _, ok := t.Fault(x.Fault); !ok {
			found.Bad(fmt.Sprintf("faults[%d].fault", i), "%.64q is not a fault of %.64q", x.Fault, x.Technique)
		}
	}
	return state.InvalidAll(found)
}

// AddUnit puts one more unit into a class, besides what it teaches already.
func (a *Service) AddUnit(ctx context.Context, u state.User, id, unit, kind string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		x, ok := f.Unit(unit)
		if !ok {
			return state.Invalid("unit", "there is no unit %q", unit)
		}
		if !slices.Contains(x.Tracks, c.Track) {
			return state.Invalid("unit", "%s is not for %s", x.Name, f.Tracks[c.Track].Name)
		}
		if f.Reported(c.ID, on) {
			return state.Invalid("class", "%s on %s was held and recorded", c.Name, on)
		}
		if slices.ContainsFunc(n.Items, func(it season.Item) bool { return it.Unit == unit }) {
			return state.Invalid("unit", "%s is in that class already", x.Name)
		}
		n.Decided.Items = append(slices.Clone(n.Items), season.Item{Unit: unit, Kind: kind})
		b.Summary = say.F("Put %s into %s on %s", x.Name, c.Name, on)
		return b.Put(documents.Session, id, n.Decided)
	})
}
