package app

import (
	"context"
	"fmt"
	"slices"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/season"
)

// ChooseNight is what tonight teaches, chosen by hand.
type ChooseNight struct {
	Items []season.Item `json:"items" doc:"Instead of the plan's; empty goes back to the plan"`
	Lead  string        `json:"lead,omitempty"`
}

// Choose sets by hand what a class teaches and who leads it.
func (a *App) Choose(ctx context.Context, u User, id string, choice ChooseNight) (string, error) {
	return a.change(ctx, u, func(f *facts, b *batch) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		for i, it := range choice.Items {
			unit, ok := f.unit(it.Unit)
			if !ok {
				return refuse(fmt.Sprintf("items[%d].unit", i), "there is no unit %q: choose one from the list", it.Unit)
			}
			if !slices.Contains(unit.Tracks, c.Track) {
				return refuse(fmt.Sprintf("items[%d].unit", i), "%s is not for %s", unit.Name, f.tracks[c.Track].Name)
			}
		}
		if choice.Lead != "" && f.person[choice.Lead].Coach == nil {
			return refuse("lead", "%q is not a coach here", choice.Lead)
		}
		doc := n.doc
		doc.Items, doc.Lead = choice.Items, choice.Lead
		b.Says = fmt.Sprintf("Chose what %s on %s teaches", c.Name, on)
		return b.put(docNight, id, doc)
	})
}

// toRun finds a class on a day for somebody who may run it.
func (f *facts) toRun(u User, id string) (academy.Class, calendar.Day, night, error) {
	c, on, err := f.occurrence(id)
	if err != nil {
		return c, on, night{}, err
	}
	n := f.night(c, on)
	if !mayRun(u, n) {
		return c, on, n, &Forbidden{fmt.Sprintf("%s leads this class; only they or the head instructor run it.", f.nameOf(n.lead))}
	}
	return c, on, n, nil
}

// CheckIn notes that a student is in a class. fact is the caller's own
// identifier, so that sending twice is the same as once.
func (a *App) CheckIn(ctx context.Context, u User, id, student, fact string) error {
	_, err := a.change(ctx, u, func(f *facts, b *batch) error {
		_, on, err := f.occurrence(id)
		if err != nil {
			return err
		}
		p, ok := f.person[student]
		if !ok || !p.Student {
			return &Missing{"student", student}
		}
		if on > a.today() {
			return refuse("class", "the class on %s has not begun: check in on the day", on)
		}
		if p.Joined > on {
			return refuse("student", "%s joined on %s, after this class", p.Name, p.Joined)
		}
		if f.came[id][student] != "" {
			return nil
		}
		return b.note(academy.Attendance, on, student, id, "", struct{}{}, fact)
	})
	return err
}

// CheckOut takes a check-in back.
func (a *App) CheckOut(ctx context.Context, u User, id, student string) error {
	_, err := a.change(ctx, u, func(f *facts, b *batch) error {
		_, on, err := f.occurrence(id)
		if err != nil {
			return err
		}
		had := f.came[id][student]
		if had == "" {
			return &Missing{"check-in", student}
		}
		return b.note(academy.Void, on, student, id, had, struct{}{}, "")
	})
	return err
}

// MakeRotation is how to pair.
type MakeRotation struct {
	Run int    `json:"run" minimum:"0" doc:"Rounds already run; they stay"`
	Odd string `json:"odd" enum:"trio,coach"`
	Mix string `json:"mix" enum:"any,similar,mixed"`
}

// Pair pairs those who are here for as many rounds as the clock calls for.
func (a *App) Pair(ctx context.Context, u User, id string, m MakeRotation) error {
	_, err := a.change(ctx, u, func(f *facts, b *batch) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		if m.Run > len(n.doc.Rounds) {
			return refuse("run", "%d rounds cannot have been run: only %d were made", m.Run, len(n.doc.Rounds))
		}
		page := NightPage{}
		lesson := f.lesson(n.items)
		f.attendees(&page, u, c, on, lesson)
		people, never := f.onTheMat(page.Here, false)
		if len(people) < 2 {
			return refuse("here", "%d can be paired: check in at least two who are not held", len(people))
		}
		drills, free := mat.RoundsIn(f.clock(n, c))
		drills = max(drills, 4-free)
		done := slices.Clone(n.doc.Rounds[:m.Run])
		add := func(people []mat.Person, upTo int) {
			w := mat.Wish{Rounds: upTo - len(done), Odd: m.Odd, Mix: m.Mix, Never: never, Done: done}
			if w.Rounds > 0 {
				done = append(done, mat.Rotate(people, w).Rounds...)
			}
		}
		add(people, drills)
		spared, _ := f.onTheMat(page.Here, true)
		add(spared, max(drills+free, m.Run+1))
		n.doc.Rounds, n.doc.Paired = done, nil
		for _, p := range people {
			n.doc.Paired = append(n.doc.Paired, p.ID)
		}
		n.doc.Run, n.doc.Odd, n.doc.Mix = m.Run, m.Odd, m.Mix
		return b.put(docNight, id, n.doc)
	})
	return err
}

// onTheMat lists who can be paired, in drills or in free rounds, and who must
// not be with whom.
func (f *facts) onTheMat(here []Attendee, free bool) ([]mat.Person, [][2]string) {
	var people []mat.Person
	var never [][2]string
	for _, a := range here {
		if a.Out != "" || free && a.NoLive != "" {
			continue
		}
		p := f.person[a.ID]
		people = append(people, mat.Person{ID: p.ID, Weight: p.Weight, Rank: max(0, f.ladders[p.Ladder].Position(p.Rank))})
		for _, other := range p.NeverWith {
			never = append(never, [2]string{p.ID, other})
		}
	}
	return people, never
}

func (f *facts) clock(n night, c academy.Class) []mat.Tick {
	return mat.Clock(mat.Fit(mat.Outline(f.lesson(n.items)), c.Minutes), f.lib.Technique)
}

// ClockPage is the clock on the wall.
type ClockPage struct {
	Name     string       `json:"name"`
	Ticks    []mat.Tick   `json:"ticks"`
	Rotation RotationPage `json:"rotation"`
	Minutes  int          `json:"minutes"`
	FellOut  []string     `json:"fell_out"`
}

// Clock lays out the clock of a class. With from, it fits what is left, from
// that segment on, into the minutes left: for when something took too long.
func (a *App) Clock(ctx context.Context, u User, id, from string, left int) (ClockPage, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return ClockPage{}, err
	}
	c, on, err := f.occurrence(id)
	if err != nil {
		return ClockPage{}, err
	}
	n := f.night(c, on)
	page := ClockPage{Name: c.Name, Minutes: c.Minutes, FellOut: []string{}}
	segments, minutes, round := mat.Outline(f.lesson(n.items)), c.Minutes, 0
	if from != "" {
		i := slices.IndexFunc(segments, func(s mat.Segment) bool { return s.ID == from })
		if i < 0 {
			return page, &Missing{"segment", from}
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
	page.Ticks = mat.Clock(fitted, f.lib.Technique)
	for i := range page.Ticks {
		if page.Ticks[i].Round > 0 {
			page.Ticks[i].Round += round
		}
	}
	for _, s := range fitted.FellOut {
		page.FellOut = append(page.FellOut, s.Name)
	}
	np := NightPage{}
	f.attendees(&np, u, c, on, f.lesson(n.items))
	page.Rotation = f.rotationPage(n, np.Here)
	return page, nil
}

// RecordNight is what a class reached, as the coach says it.
type RecordNight struct {
	Items  []ledger.Item        `json:"items"`
	Faults []academy.FaultCount `json:"faults"`
	Note   string               `json:"note,omitempty" maxLength:"1000"`
}

// Record keeps what a class reached. Recording again corrects the record: the
// earlier one stays in the log.
func (a *App) Record(ctx context.Context, u User, id string, r RecordNight) error {
	_, err := a.change(ctx, u, func(f *facts, b *batch) error {
		_, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		if on > a.today() {
			return refuse("class", "the class on %s has not been held: record it afterwards", on)
		}
		if err := f.checkRecord(r); err != nil {
			return err
		}
		lead := n.lead
		if lead == "" {
			lead = u.Person
		}
		body := academy.TaughtBody{Lead: lead, Items: r.Items, Faults: r.Faults, Note: r.Note}
		return b.note(academy.Taught, on, "", id, f.taught[id].fact, body, "")
	})
	return err
}

func (f *facts) checkRecord(r RecordNight) error {
	var bad []library.Problem
	for i, it := range r.Items {
		at := fmt.Sprintf("items[%d]", i)
		if _, ok := f.lib.Technique(it.Technique); !ok {
			bad = append(bad, library.Problem{Field: at + ".technique", What: fmt.Sprintf("%q is not in the library", it.Technique)})
		}
		if !slices.Contains([]string{"all", "part", "not"}, it.Reached) {
			bad = append(bad, library.Problem{Field: at + ".reached", What: fmt.Sprintf("%q: say all, part or not", it.Reached)})
		}
		if it.Kind != season.Teach && it.Kind != season.Review {
			bad = append(bad, library.Problem{Field: at + ".kind", What: fmt.Sprintf("%q: say teach or review", it.Kind)})
		}
	}
	for i, x := range r.Faults {
		at := fmt.Sprintf("faults[%d]", i)
		t, _ := f.lib.Technique(x.Technique)
		fault, _, ok := t.Fault(x.Fault)
		if !ok {
			bad = append(bad, library.Problem{Field: at + ".fault", What: fmt.Sprintf("%q is not a fault of %q", x.Fault, x.Technique)})
		}
		if x.Seen < 0 || x.Seen > x.Tries {
			bad = append(bad, library.Problem{Field: at + ".seen", What: fmt.Sprintf("%s seen %d times in %d tries: it cannot be seen more often than it was tried", fault.What.Read(), x.Seen, x.Tries)})
		}
	}
	return refuseAll(bad)
}
