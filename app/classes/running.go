package classes

import (
	"context"
	"slices"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/mat"
	"vereda/core/say"
)

// ClockPage is the clock of a class: as it would run, or as it runs. The server's time leads, so that the wall and every phone show
// the same second.
type ClockPage struct {
	Name      string         `json:"name"`
	Stretches []mat.Stretch  `json:"stretches"`
	Rotation  RotationPage   `json:"rotation"`
	Minutes   int            `json:"minutes"`
	FellOut   []say.Sentence `json:"fell_out"`
	Begun     bool           `json:"begun"`
	Running   bool           `json:"running"`
	Passed    int            `json:"passed" doc:"Seconds of the stretches that had passed at the time at"`
	At        time.Time      `json:"at"`
	Now       time.Time      `json:"now" doc:"The server's time when this was answered"`
	MayRun    bool           `json:"may_run"`
}

// Clock lays out the clock of a class, as it stands.
func (a *Service) Clock(ctx context.Context, u state.User, id string) (ClockPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ClockPage{}, err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return ClockPage{}, err
	}
	n := f.SessionPlan(c, on)
	page := ClockPage{Name: c.Name, Minutes: c.Minutes, FellOut: []say.Sentence{}, Now: a.Now().UTC(), MayRun: mayRun(u, n)}
	if run := n.Decided.Clock; run != nil {
		page.Begun, page.Running, page.Passed, page.At, page.Stretches = true, run.Running, run.Passed, run.At, mat.Recalled(run.Stretches)
		for _, name := range run.FellOut {
			page.FellOut = append(page.FellOut, mat.RecallName(name))
		}
	} else {
		sheet := f.Sheet(n, c)
		page.Stretches, page.At = mat.Clock(sheet, f.Library.Technique), page.Now
		for _, s := range sheet.FellOut {
			page.FellOut = append(page.FellOut, s.Name)
		}
	}
	here := SessionPage{}
	f.attendees(&here, u, c, on, f.Lesson(n.Items))
	page.Rotation = f.rotationPage(n, here.Here)
	if !u.Teaches() {
		page.Rotation = page.Rotation.forDesk()
	}
	return page, nil
}

// TurnClock is one turn at the clock.
type TurnClock struct {
	Do      string `json:"do" enum:"start,stop,jump,refit,reset,set" doc:"set: as a device had it that was without network"`
	Passed  int    `json:"passed,omitempty" minimum:"0" maximum:"40000" doc:"set: seconds that have passed"`
	Running bool   `json:"running,omitempty" doc:"set: whether it runs"`
	To      int    `json:"to,omitempty" minimum:"0" maximum:"1000" doc:"jump: the stretch to go to, from 0"`
	Minutes int    `json:"minutes,omitempty" minimum:"0" maximum:"300" doc:"refit: minutes left of the class; what the clock has left when 0"`
	More    int    `json:"more,omitempty" minimum:"0" maximum:"120" doc:"refit: minutes the segment at hand still gets; as it fits when 0"`
}

// Turn starts, stops, moves or refits the clock of a class. Every open page of it follows.
func (a *Service) Turn(ctx context.Context, u state.User, id string, t TurnClock) error {
	_, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, _, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		now := a.Now().UTC().Truncate(time.Millisecond)
		run := n.Decided.Clock
		if run == nil || t.Do == "reset" {
			sheet := f.Sheet(n, c)
			run = &academy.RunningClock{Stretches: mat.Clock(sheet, f.Library.Technique), At: now}
			for _, s := range sheet.FellOut {
				run.FellOut = append(run.FellOut, s.Name)
			}
			if len(run.Stretches) == 0 {
				return state.Invalid("do", "this class has nothing to teach yet: choose what it teaches first")
			}
		} else {
			copied := *run
			run = &copied
		}
		run.Passed, run.At = run.PassedAt(now), now
		switch t.Do {
		case "start":
			run.Running = true
		case "stop":
			run.Running = false
		case "reset":
			run.Running, run.Passed = false, 0
		case "jump":
			if t.To >= len(run.Stretches) {
				return state.Invalid("to", "there are %d stretches", len(run.Stretches))
			}
			run.Passed = run.Before(t.To)
		case "set":
			run.Passed, run.Running = t.Passed, t.Running
			run.Passed = run.PassedAt(now)
		case "refit":
			if err := f.refit(run, n, c, t); err != nil {
				return err
			}
		}
		n.Decided.Clock = run
		return b.Put(documents.Session, id, n.Decided)
	})
	return err
}

// refit fits what is left of a class from the segment at hand on into the minutes left, must first.
func (f *snapshot) refit(run *academy.RunningClock, n state.SessionPlan, c academy.Class, t TurnClock) error {
	at := run.Stretches[run.Place()]
	segments, _ := f.Segments(n, c)
	i := slices.IndexFunc(segments, func(s mat.Segment) bool { return s.ID == at.Segment })
	if i < 0 {
		return state.Invalid("do", "the sheet was changed since the clock began: begin the clock again")
	}
	segments = slices.Clone(segments[i:])
	if t.More > 0 {
		segments[0].Min, segments[0].Want, segments[0].Max, segments[0].Rank = t.More, t.More, t.More, mat.Must
	}
	minutes := t.Minutes
	if minutes == 0 {
		minutes = max(1, (run.Whole()-run.Passed+59)/60)
	}
	round := 0 // the rounds before it were run
	for _, x := range run.Stretches {
		if x.Segment == at.Segment {
			break
		}
		round = max(round, x.Round)
	}
	sheet := mat.Fit(segments, minutes)
	run.Stretches, run.FellOut, run.Passed = mat.Clock(sheet, f.Library.Technique), nil, 0
	for k := range run.Stretches {
		if run.Stretches[k].Round > 0 {
			run.Stretches[k].Round += round
		}
	}
	for _, s := range sheet.FellOut {
		run.FellOut = append(run.FellOut, s.Name)
	}
	return nil
}

// SheetEdits are the changes by hand to the sheet of one class.
type SheetEdits struct {
	Edits []mat.SegmentEdit `json:"edits" maxItems:"60"`
	Order []string          `json:"order" maxItems:"60" doc:"The segments in their order; as they come when empty"`
}

// EditSheet stretches, drops, keeps or moves segments of one class; the rest refits.
func (a *Service) EditSheet(ctx context.Context, u state.User, id string, e SheetEdits) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		n.Decided.Sheet = slices.DeleteFunc(e.Edits, func(x mat.SegmentEdit) bool { return x.Minutes == 0 && !x.Dropped && !x.Kept })
		n.Decided.Order = e.Order
		b.Summary = say.F("Changed the sheet of %s on %s", c.Name, on)
		return b.Put(documents.Session, id, n.Decided)
	})
}
