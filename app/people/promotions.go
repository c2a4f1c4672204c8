package people

import (
	"context"
	"fmt"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/say"
	"vereda/exchange"
	"vereda/store"
)

// words say a decision.
func words(p academy.Promotion, rank, ladder string) say.Sentence {
	switch p.Outcome {
	case academy.NotYet:
		return "Not yet"
	case academy.Stripe:
		return say.F("%s, stripe %d", rank, p.Stripes)
	}
	if p.FromLadder != p.Ladder {
		return say.Raw(rank + ", " + ladder)
	}
	return say.Raw(rank)
}

// Candidate is one student with what speaks for and against another rank: the evidence, no verdict.
type Candidate struct {
	Person    PersonRow        `json:"person"`
	Stripes   int              `json:"stripes" doc:"They have now"`
	Most      int              `json:"most" doc:"Stripes given on the way to the next rank"`
	Next      string           `json:"next" doc:"The next rank's name; empty at the end of the ladder"`
	NextID    string           `json:"next_id"`
	Readiness ledger.Readiness `json:"readiness"`
	Months    int              `json:"months" doc:"Whole months at the rank"`
	Classes   int              `json:"classes" doc:"Attended at the rank"`
	Checks    int              `json:"checks" doc:"Checks met since the rank was given"`
	Last      say.Sentence     `json:"last,omitempty" doc:"What was decided last, and why"`
	Notes     []string         `json:"notes" doc:"What coaches wrote, newest first"`
	Onward    *Onward          `json:"onward,omitempty" doc:"Their age moves them on to another ladder, by its rule"`
}

// Onward is where the rule of a ladder would move somebody.
type Onward struct {
	Ladder  string       `json:"ladder"`
	Rank    string       `json:"rank"`
	Summary say.Sentence `json:"summary"`
}

// Candidates lists the students with the evidence for their next rank, those with the most of it first.
func (a *Service) Candidates(ctx context.Context, u state.User) ([]Candidate, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []Candidate{}
	for _, p := range f.Students() {
		all = append(all, f.candidate(p, u))
	}
	slices.SortStableFunc(all, func(x, y Candidate) int {
		switch {
		case x.Readiness.Ready != y.Readiness.Ready:
			if x.Readiness.Ready {
				return -1
			}
			return 1
		case x.Readiness.Share > y.Readiness.Share:
			return -1
		case x.Readiness.Share < y.Readiness.Share:
			return 1
		}
		return 0
	})
	return all, nil
}

func (f *snapshot) candidate(p academy.Person, u state.User) Candidate {
	on := f.Today()
	c := Candidate{Person: f.personLine(p, u, on), Stripes: p.Stripes, Readiness: f.Readiness(p, on), Months: int(on-p.RankSince) * 12 / 365, Notes: []string{}}
	l := f.Ladders[p.Ladder]
	if i := l.Position(p.Rank); i >= 0 {
		c.Most = l.Ranks[i].Stripes
	}
	if next, ok := l.Next(p.Rank); ok {
		c.Next, c.NextID = next.Name, next.ID
	}
	for _, v := range f.Visits(p.ID) {
		if v.On >= p.RankSince {
			c.Classes++
		}
	}
	for _, x := range f.Checks(p.ID) {
		if x.Met && x.On >= p.RankSince {
			c.Checks++
		}
	}
	if all := f.Promotions(p.ID); len(all) > 0 {
		last := f.rankLine(all[len(all)-1])
		c.Last = say.F("%s, %s", last.Summary, last.On)
		if last.Reason != "" {
			c.Last = say.F("%s: %s", c.Last, last.Reason)
		}
	}
	for _, n := range slices.Backward(p.Notes) {
		if mayRead(u, p.ID, n) && len(c.Notes) < 5 {
			c.Notes = append(c.Notes, f.NameOf(n.By)+": "+n.Text)
		}
	}
	if ladder, rank, ok := l.Moves(p.Rank, state.AgeOn(p, on)); ok {
		there := f.Ladders[ladder]
		name := rank
		if i := there.Position(rank); i >= 0 {
			name = there.Ranks[i].Name
		}
		c.Onward = &Onward{ladder, rank, say.Raw(there.Name + ", " + name)}
	}
	return c
}

// RankDecision is what the head instructor decides about one student.
type RankDecision struct {
	ID       string `json:"id,omitempty" maxLength:"64" doc:"The sender's own: sent twice it is one"`
	Student  string `json:"student" maxLength:"100"`
	Outcome  string `json:"outcome" enum:"rank,stripe,not yet"`
	Ladder   string `json:"ladder,omitempty" maxLength:"100" doc:"Theirs when left out"`
	To       string `json:"to,omitempty" maxLength:"100" doc:"The rank that is given; the next one when left out"`
	Reason   string `json:"reason,omitempty" maxLength:"500" doc:"The student may read it"`
	Replaces string `json:"replaces,omitempty" maxLength:"64" doc:"The decision this one corrects"`
}

// Promote keeps what was decided about some students on a day: all of it or nothing. It is a fact: a correction is a new one.
func (a *Service) Promote(ctx context.Context, u state.User, on *calendar.Day, decisions []RankDecision) ([]string, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	day := f.Today()
	if on != nil {
		day = *on
	}
	if day > f.Today() {
		return nil, state.Invalid("on", "%s is still to come: decide on the day, or after it", day)
	}
	if len(decisions) == 0 {
		return nil, state.Invalid("decisions", "nobody was chosen")
	}
	var events []academy.Event
	var ids []string
	for i, d := range decisions {
		e, err := f.decide(d, day, i)
		if err != nil {
			return nil, err
		}
		events, ids = append(events, e), append(ids, e.ID)
	}
	return ids, a.Record(ctx, u, events...)
}

func (f *snapshot) decide(d RankDecision, day calendar.Day, i int) (academy.Event, error) {
	at := func(field string) string { return fmt.Sprintf("decisions[%d].%s", i, field) }
	p, ok := f.Person[d.Student]
	if !ok || !p.Student || p.Archived != nil {
		return academy.Event{}, state.Invalid(at("student"), "%.64q is no student here", d.Student)
	}
	x := academy.Promotion{Outcome: d.Outcome, FromLadder: p.Ladder, From: p.Rank, Ladder: p.Ladder, To: p.Rank, Stripes: p.Stripes, Reason: d.Reason}
	if d.Replaces != "" { // what was before the decision that is corrected
		j := slices.IndexFunc(f.Promotions(p.ID), func(had state.Promoted) bool { return had.ID == d.Replaces })
		if j < 0 {
			return academy.Event{}, state.Invalid(at("replaces"), "%s has no such decision that stands: load the page again", p.Name)
		}
		had := f.Promotions(p.ID)[j]
		x.FromLadder, x.From, x.Ladder, x.To, x.Stripes = had.FromLadder, had.From, had.FromLadder, had.From, 0
		if had.Outcome == academy.Stripe {
			x.Stripes = had.Stripes - 1
		}
	}
	l := f.Ladders[x.Ladder]
	switch d.Outcome {
	case academy.NextRank:
		if d.Ladder != "" {
			x.Ladder = d.Ladder
		}
		l = f.Ladders[x.Ladder]
		next, ok := l.Next(x.From)
		if x.To = d.To; x.To == "" && ok && x.Ladder == x.FromLadder {
			x.To = next.ID
		}
		x.Stripes = 0
		if l.Position(x.To) < 0 {
			return academy.Event{}, state.Invalid(at("to"), "%.64q is no rank of the ladder %s: choose one", x.To, l.Name)
		}
		if x.To == x.From && x.Ladder == x.FromLadder {
			return academy.Event{}, state.Invalid(at("to"), "%s has this rank: choose another one", p.Name)
		}
	case academy.Stripe:
		most := 0
		if j := l.Position(x.From); j >= 0 {
			most = l.Ranks[j].Stripes
		}
		if x.Stripes >= most {
			return academy.Event{}, state.Invalid(at("outcome"), "%s has %d of the %d stripes of this rank: give the next rank, or set more stripes on the ladder", p.Name, x.Stripes, most)
		}
		x.Stripes++
	}
	e, err := academy.NewEvent(d.ID, academy.PromotionEvent, day, x)
	if err != nil {
		return e, err
	}
	if e.ID == "" {
		e.ID = store.NewID()
	}
	e.Student, e.Replaces = p.ID, d.Replaces
	found := e.Problems()
	for j := range found {
		found[j].Field = at(found[j].Field)
	}
	return e, state.InvalidAll(found)
}

// RankDay is what was decided on one day, to be read out and kept.
type RankDay struct {
	Academy string        `json:"academy"`
	On      calendar.Day  `json:"on"`
	Given   []RankDayLine `json:"given"`
	NotYet  []RankDayLine `json:"not_yet"`
}

// RankDayLine is one decision of the day.
type RankDayLine struct {
	ID      string       `json:"id"`
	Student string       `json:"student"`
	Name    string       `json:"name"`
	Summary say.Sentence `json:"summary"`
	Belt    string       `json:"belt"`
	Reason  string       `json:"reason,omitempty"`
	By      string       `json:"by"`
}

// RankDay lists what was decided on a day and stands.
func (a *Service) RankDay(ctx context.Context, u state.User, on calendar.Day) (RankDay, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return RankDay{}, err
	}
	d := RankDay{Academy: f.Name, On: on, Given: []RankDayLine{}, NotYet: []RankDayLine{}}
	for _, p := range f.People {
		for _, x := range f.Promotions(p.ID) {
			if x.On != on {
				continue
			}
			l := f.rankLine(x)
			line := RankDayLine{ID: x.ID, Student: p.ID, Name: p.Name, Summary: l.Summary, Belt: l.Belt, Reason: x.Reason, By: l.By}
			if x.Outcome == academy.NotYet {
				d.NotYet = append(d.NotYet, line)
			} else {
				d.Given = append(d.Given, line)
			}
		}
	}
	return d, nil
}

// Certificates are what is handed to those who were given something on a day: one page each.
func (a *Service) Certificates(ctx context.Context, u state.User, on calendar.Day) ([]exchange.Certificate, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	day, err := a.RankDay(ctx, u, on)
	if err != nil {
		return nil, err
	}
	var all []exchange.Certificate
	for _, l := range day.Given {
		p := f.Person[l.Student]
		all = append(all, exchange.Certificate{Academy: f.Name, Name: p.Name, Rank: l.Summary.String(), Belt: l.Belt, On: on, By: l.By, Ladder: f.Ladders[p.Ladder].Name})
	}
	if len(all) == 0 {
		return nil, state.NotFound("promotion on", on.String())
	}
	return all, nil
}
