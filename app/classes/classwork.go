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
		b.Summary = fmt.Sprintf("Chose what %s on %s teaches", c.Name, on)
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
		return c, on, n, state.Forbidden(fmt.Sprintf("%s leads this class; only they or the head instructor run it.", f.NameOf(n.Lead)))
	}
	return c, on, n, nil
}

// CheckIn notes that a student is in a class. event is the caller's own
// identifier, so that sending twice is the same as once.
func (a *Service) CheckIn(ctx context.Context, u state.User, id, student, event string) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return err
	}
	e, err := academy.NewEvent(cmp.Or(event, store.NewID()), academy.AttendanceEvent, on, academy.Attendance{Present: true})
	if err != nil {
		return err
	}
	e.Student, e.Class = student, id
	if event != "" {
		had, err := a.Store.EventByID(ctx, u.Academy, event)
		switch {
		case err == nil:
			return a.checkedInBefore(ctx, u, e, had)
		case !errors.Is(err, store.ErrMissing):
			return err
		}
	}
	p, ok := f.Person[student]
	if !ok || !p.Student {
		return state.NotFound("student", student)
	}
	if on > f.Today() {
		return state.Invalid("class", "the class on %s has not begun: check in on the day", on.Words())
	}
	if p.Joined > on {
		return state.Invalid("student", "%s joined on %s, after this class", p.Name, p.Joined.Words())
	}
	if _, came := f.Session(c.ID, on).Came(student); came {
		return nil
	}
	return a.State.Record(ctx, u, e)
}

// checkedInBefore answers a check-in whose identifier was used before: it is kept,
// or it was taken back since, or the identifier stands for something else.
func (a *Service) checkedInBefore(ctx context.Context, u state.User, e, had academy.Event) error {
	was, err := had.Attendance()
	if had.Kind != academy.AttendanceEvent || err != nil || !was.Present || had.Student != e.Student || had.Class != e.Class {
		return &state.ConflictError{Thing: "the check-in", Why: (&store.UsedError{ID: e.ID}).Error()}
	}
	by, err := a.Store.ReplacedBy(ctx, u.Academy, had.Seq)
	if err == nil && by != "" {
		return &state.ConflictError{Thing: "the check-in", Why: "That check-in was taken back since: check in again."}
	}
	return err
}

// CheckOut takes a check-in back.
func (a *Service) CheckOut(ctx context.Context, u state.User, id, student string) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return err
	}
	seq, came := f.Session(c.ID, on).Came(student)
	if !came {
		return state.NotFound("check-in", student)
	}
	had, err := a.Store.EventAt(ctx, u.Academy, seq)
	if err != nil {
		return err
	}
	e, err := academy.NewEvent(store.NewID(), academy.AttendanceEvent, on, academy.Attendance{Present: false})
	if err != nil {
		return err
	}
	e.Student, e.Class, e.Replaces = student, id, had.ID
	return a.State.Record(ctx, u, e)
}

// MakeRotation is how to pair.
type MakeRotation struct {
	Run int    `json:"run" minimum:"0" doc:"Rounds already run; they stay"`
	Odd string `json:"odd" enum:"trio,coach"`
	Mix string `json:"mix" enum:"any,similar,mixed"`
}

// Pair pairs those who are here for as many rounds as the clock calls for.
func (a *Service) Pair(ctx context.Context, u state.User, id string, m MakeRotation) error {
	_, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		if m.Run > len(n.Decided.Rounds) {
			return state.Invalid("run", "%d rounds cannot have been run: only %d were made", m.Run, len(n.Decided.Rounds))
		}
		page := SessionPage{}
		lesson := f.Lesson(n.Items)
		f.attendees(&page, u, c, on, lesson)
		people, never := f.onTheMat(page.Here, false)
		if len(people) < 2 {
			return state.Invalid("here", "%d can be paired: check in at least two who are not held", len(people))
		}
		drills, free := mat.RoundsIn(f.clock(n, c))
		drills = max(drills, 4-free)
		done := slices.Clone(n.Decided.Rounds[:m.Run])
		add := func(people []mat.Person, upTo int) {
			w := mat.Wish{Rounds: upTo - len(done), Odd: m.Odd, Mix: m.Mix, Never: never, Done: done}
			if w.Rounds > 0 {
				done = append(done, mat.Rotate(people, w).Rounds...)
			}
		}
		add(people, drills)
		spared, _ := f.onTheMat(page.Here, true)
		add(spared, max(drills+free, m.Run+1))
		n.Decided.Rounds, n.Decided.Paired = done, nil
		for _, p := range people {
			n.Decided.Paired = append(n.Decided.Paired, p.ID)
		}
		n.Decided.Run, n.Decided.Odd, n.Decided.Mix = m.Run, m.Odd, m.Mix
		return b.Put(documents.Session, id, n.Decided)
	})
	return err
}

// onTheMat lists who can be paired, in drills or in free rounds, and who must
// not be with whom.
func (f *snapshot) onTheMat(here []Attendee, free bool) ([]mat.Person, [][2]string) {
	var people []mat.Person
	var never [][2]string
	for _, a := range here {
		if a.Out != "" || free && a.NoLive != "" {
			continue
		}
		p := f.Person[a.ID]
		people = append(people, mat.Person{ID: p.ID, Weight: p.Weight, Rank: max(0, f.Ladders[p.Ladder].Position(p.Rank))})
		for _, other := range p.NeverWith {
			never = append(never, [2]string{p.ID, other})
		}
	}
	return people, never
}

func (f *snapshot) clock(n state.SessionPlan, c academy.Class) []mat.Stretch {
	return mat.Clock(mat.Fit(mat.Outline(f.Lesson(n.Items)), c.Minutes), f.Library.Technique)
}

// ClockPage is the clock on the wall.
type ClockPage struct {
	Name      string        `json:"name"`
	Stretches []mat.Stretch `json:"stretches"`
	Rotation  RotationPage  `json:"rotation"`
	Minutes   int           `json:"minutes"`
	FellOut   []string      `json:"fell_out"`
}

// Clock lays out the clock of a class. With from, it fits what is left, from
// that segment on, into the minutes left: for when something took too long.
func (a *Service) Clock(ctx context.Context, u state.User, id, from string, left int) (ClockPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ClockPage{}, err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return ClockPage{}, err
	}
	n := f.SessionPlan(c, on)
	page := ClockPage{Name: c.Name, Minutes: c.Minutes, FellOut: []string{}}
	segments, minutes, round := mat.Outline(f.Lesson(n.Items)), c.Minutes, 0
	if from != "" {
		i := slices.IndexFunc(segments, func(s mat.Segment) bool { return s.ID == from })
		if i < 0 {
			return page, state.NotFound("segment", from)
		}
		for _, t := range f.clock(n, c) { // the rounds before it were run
			if t.Segment == from {
				break
			}
			round = max(round, t.Round)
		}
		segments, minutes = segments[i:], left
	}
	fitted := mat.Fit(segments, minutes)
	page.Stretches = mat.Clock(fitted, f.Library.Technique)
	for i := range page.Stretches {
		if page.Stretches[i].Round > 0 {
			page.Stretches[i].Round += round
		}
	}
	for _, s := range fitted.FellOut {
		page.FellOut = append(page.FellOut, s.Name)
	}
	np := SessionPage{}
	f.attendees(&np, u, c, on, f.Lesson(n.Items))
	page.Rotation = f.rotationPage(n, np.Here)
	return page, nil
}

// SessionReport is what a class reached, as the coach says it.
type SessionReport struct {
	Items  []ledger.Item        `json:"items"`
	Faults []academy.FaultCount `json:"faults"`
	Note   string               `json:"note,omitempty" maxLength:"1000"`
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
		return state.Invalid("class", "the class on %s has not been held: record it afterwards", on.Words())
	}
	if err := f.checkRecord(r); err != nil {
		return err
	}
	e, err := academy.NewEvent(store.NewID(), academy.ClassReportEvent, on, academy.ClassReport{Lead: cmp.Or(n.Lead, u.Person), Items: r.Items, Faults: r.Faults, Note: r.Note})
	if err != nil {
		return err
	}
	e.Class = id
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
	found := validation.Found(academy.ClassReport{Items: r.Items, Faults: r.Faults, Note: r.Note}.Problems())
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
