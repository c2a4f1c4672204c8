package people

import (
	"context"
	"errors"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/store"
)

// NewHold is what somebody is to be kept out of. The software gives no medical judgement: the academy keeps people out as it was
// told to, until a clinician clears them.
type NewHold struct {
	ID       string          `json:"id,omitempty" maxLength:"64" doc:"The sender's own: sent twice it is one"`
	Regions  []safety.Region `json:"regions" maxItems:"20"`
	All      bool            `json:"all,omitempty"`
	NoLive   bool            `json:"no_live,omitempty"`
	From     *calendar.Day   `json:"from,omitempty" doc:"Today when left out"`
	Note     string          `json:"note,omitempty" maxLength:"2000" doc:"The head instructor alone reads it"`
	Replaces string          `json:"replaces,omitempty" maxLength:"64" doc:"The hold this one corrects"`
}

func (x NewHold) hold(today calendar.Day) safety.Hold {
	h := safety.Hold{Regions: x.Regions, All: x.All, NoLive: x.NoLive, From: today, Note: x.Note}
	if h.Regions == nil {
		h.Regions = []safety.Region{}
	}
	if x.From != nil {
		h.From = *x.From
	}
	return h
}

// HoldEffect is what a hold takes somebody out of.
type HoldEffect struct {
	Summary say.Sentence    `json:"summary"`
	Coach   say.Sentence    `json:"coach" doc:"What a coach is shown"`
	Desk    say.Sentence    `json:"desk" doc:"What the desk is shown"`
	Regions []safety.Region `json:"regions" doc:"What a hold can cover"`
	Tonight []say.Sentence  `json:"tonight" doc:"What of today's classes they are out of"`
}

// TryHold says what a hold would take somebody out of, and keeps nothing.
func (a *Service) TryHold(ctx context.Context, u state.User, id string, x NewHold) (HoldEffect, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return HoldEffect{}, err
	}
	p, ok := f.Person[id]
	if !ok {
		return HoldEffect{}, state.NotFound("person", id)
	}
	on := f.Today()
	h := x.hold(on)
	if len(h.Regions) == 0 && !h.All && !h.NoLive { // nothing is chosen yet
		return HoldEffect{Regions: safety.Regions(), Tonight: []say.Sentence{}}, nil
	}
	if err := state.InvalidAll(h.Problems()); err != nil {
		return HoldEffect{}, err
	}
	p.Holds = append(slices.Clone(p.Holds), h)
	e := HoldEffect{Summary: say.F("%s is out of %s", p.Name, state.HoldWords(h)), Coach: state.HoldWords(h), Desk: state.DeskHold, Regions: safety.Regions(), Tonight: []say.Sentence{}}
	for _, c := range f.ClassesOn(on) {
		l := f.Lesson(f.SessionPlan(c, on).Items)
		out := false
		for _, t := range append(slices.Clone(l.Teach), l.Review...) {
			for _, no := range f.Refusals(p, t, on) {
				e.Tonight = append(e.Tonight, say.F("%s: %s (%s)", c.Name, t.Name, no.Why))
				out = true
			}
		}
		if !out {
			e.Tonight = append(e.Tonight, say.F("%s: drills that spare it; no situational or live rounds", c.Name))
		}
	}
	return e, nil
}

// Hold keeps somebody out of something from a day on.
func (a *Service) Hold(ctx context.Context, u state.User, id string, x NewHold) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	if _, ok := f.Person[id]; !ok {
		return state.NotFound("person", id)
	}
	if x.Replaces != "" && !u.Is(state.Head) { // a correction can let somebody back in
		return state.Forbidden("Only the head instructor corrects a hold.")
	}
	if x.Replaces != "" && !slices.ContainsFunc(f.Person[id].Holds, func(h safety.Hold) bool { return h.ID == x.Replaces }) {
		// A hold that was corrected goes by the identifier of the first; what is sent again is known by its own.
		had, err := a.Store.EventByID(ctx, u.Academy, x.Replaces)
		if errors.Is(err, store.ErrMissing) || err == nil && (had.Kind != academy.HoldEvent || had.Student != id && !slices.Contains(f.Person[id].Merged, had.Student)) {
			return state.NotFound("hold", x.Replaces)
		}
		if err != nil {
			return err
		}
	}
	h := x.hold(f.Today())
	if err := state.InvalidAll(h.Problems()); err != nil {
		return err
	}
	e, err := academy.NewEvent(x.ID, academy.HoldEvent, h.From, h)
	if err != nil {
		return err
	}
	e.Student, e.Replaces = id, x.Replaces
	return a.Record(ctx, u, e)
}

// Clearance is a clinician's word that somebody may train again.
type Clearance struct {
	ID        string        `json:"id,omitempty" maxLength:"64" doc:"The sender's own: sent twice it is one"`
	On        *calendar.Day `json:"on,omitempty" doc:"The day of the clearance; today when left out"`
	Clinician string        `json:"clinician" minLength:"1" maxLength:"300" doc:"Who cleared them, as the academy was told"`
}

// Clear ends a hold by a clinician's clearance.
func (a *Service) Clear(ctx context.Context, u state.User, id, hold string, x Clearance) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	p, ok := f.Person[id]
	if !ok {
		return state.NotFound("person", id)
	}
	i := slices.IndexFunc(p.Holds, func(h safety.Hold) bool { return h.ID == hold && (hold != "" || h.ClearedOn == nil) })
	if i < 0 {
		return state.NotFound("hold", hold)
	}
	on := f.Today()
	if x.On != nil {
		on = *x.On
	}
	if on < p.Holds[i].From || on > f.Today() {
		return state.Invalid("on", "%s is not between the first day of the hold, %s, and today", on, p.Holds[i].From)
	}
	if hold == "" { // of the person's record, from before holds were kept as events
		_, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
			p, _ := f.Written(id)
			p.Holds = slices.Clone(p.Holds)
			i := slices.IndexFunc(p.Holds, func(h safety.Hold) bool { return h.ID == "" && h.ClearedOn == nil })
			if i < 0 {
				return state.NotFound("hold", hold)
			}
			p.Holds[i].ClearedOn = &on
			b.Summary = say.F("Recorded a clearance of %s by %s", p.Name, x.Clinician)
			return b.Put(documents.Person, id, p)
		})
		return err
	}
	e, err := academy.NewEvent(x.ID, academy.ClearanceEvent, on, academy.Clearance{Hold: hold, Clinician: x.Clinician})
	if err != nil {
		return err
	}
	if e.ID == "" {
		e.ID = store.NewID()
	}
	e.Student = id
	return a.Record(ctx, u, e)
}
