package people

import (
	"context"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/say"
	"vereda/store"
)

// PersonPage is one person's page. What somebody may not see is left out.
type PersonPage struct {
	Line       PersonRow         `json:"line"`
	Fields     *Fields           `json:"fields,omitempty" doc:"What the form holds, for the head instructor"`
	Version    int               `json:"version"`
	Decided    bool              `json:"decided" doc:"Their rank was decided here: the form does not change it"`
	Guardian   *academy.Guardian `json:"guardian,omitempty" doc:"For the desk and the head instructor"`
	Ranks      []RankLine        `json:"ranks" doc:"What was decided about their rank, newest first"`
	Weeks      []WeekCount       `json:"weeks" doc:"Classes by week, the last fifty-two"`
	Holds      []HoldLine        `json:"holds"`
	NeverWith  []state.Named     `json:"never_with" doc:"Who is not paired with them"`
	Notes      []NoteLine        `json:"notes"`
	Readiness  *ledger.Readiness `json:"readiness,omitempty"`
	Next       string            `json:"next,omitempty"`
	Classes    int               `json:"classes" doc:"Attended in all"`
	ClassesNow int               `json:"classes_now" doc:"Attended since their rank was given"`
	Checks     int               `json:"checks"`
}

// RankLine is one decision about a rank.
type RankLine struct {
	ID      string       `json:"id"`
	On      calendar.Day `json:"on"`
	By      string       `json:"by"`
	Outcome string       `json:"outcome"`
	Summary say.Sentence `json:"summary"`
	Reason  string       `json:"reason,omitempty"`
	Belt    string       `json:"belt"`
}

// WeekCount is how many classes somebody was in during a week.
type WeekCount struct {
	From    calendar.Day `json:"from"`
	Classes int          `json:"classes"`
}

// HoldLine is one hold as the reader may see it.
type HoldLine struct {
	ID        string        `json:"id"`
	From      calendar.Day  `json:"from"`
	Summary   say.Sentence  `json:"summary" doc:"What it covers"`
	Note      string        `json:"note,omitempty" doc:"For the head instructor alone"`
	Active    bool          `json:"active"`
	By        string        `json:"by,omitempty"`
	ClearedOn *calendar.Day `json:"cleared_on,omitempty"`
	ClearedBy string        `json:"cleared_by,omitempty" doc:"Who recorded the clearance"`
	Clinician string        `json:"clinician,omitempty"`
	Regions   []string      `json:"regions"`
	All       bool          `json:"all"`
	NoLive    bool          `json:"no_live"`
}

// NoteLine is a note the reader may read.
type NoteLine struct {
	ID      string       `json:"id"`
	On      calendar.Day `json:"on"`
	By      string       `json:"by"`
	Text    string       `json:"text"`
	Readers string       `json:"readers"`
	Mine    bool         `json:"mine" doc:"The reader may delete it"`
}

// Person shows one person, as far as who asks may see them. Reading a health note is kept in the log of what was looked at.
func (a *Service) Person(ctx context.Context, u state.User, id string) (PersonPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return PersonPage{}, err
	}
	p, ok := f.Person[id]
	if !ok || p.Archived != nil && !u.Is(state.Head) {
		return PersonPage{}, state.NotFound("person", id)
	}
	on := f.Today()
	page := PersonPage{Line: f.personLine(p, u, on), Version: f.Version(documents.Person, id), Ranks: []RankLine{}, Weeks: f.weeks(id, on), Holds: []HoldLine{}, NeverWith: []state.Named{}, Notes: []NoteLine{}, Decided: len(f.Promotions(id)) > 0, Classes: len(f.Visits(id)), Checks: len(f.Checks(id))}
	for _, v := range f.Visits(id) {
		if v.On >= p.RankSince {
			page.ClassesNow++
		}
	}
	if u.Is(state.Head, state.Desk) {
		page.Guardian = p.Guardian
	}
	if u.Is(state.Head) {
		x := fieldsOf(p)
		page.Fields = &x
	}
	if !u.Teaches() {
		return page, nil // the desk sees who they are, and no more
	}
	for i := len(f.Promotions(id)) - 1; i >= 0; i-- {
		page.Ranks = append(page.Ranks, f.rankLine(f.Promotions(id)[i]))
	}
	if p.Student {
		r := f.Readiness(p, on)
		page.Readiness = &r
		if _, next, ok := f.CurriculumFor(p); ok {
			page.Next = next.Name
		}
	}
	for _, other := range p.NeverWith {
		page.NeverWith = append(page.NeverWith, state.Named{ID: other, Name: f.NameOf(other)})
	}
	for _, n := range p.Notes {
		if mayRead(u, id, n) {
			page.Notes = append(page.Notes, NoteLine{n.ID, n.On, f.NameOf(n.By), n.Text, n.Readers, u.Is(state.Head) || n.By == u.Person})
		}
	}
	read := false
	for _, h := range f.holdLines(p, on) {
		if !u.Is(state.Head) {
			if !h.Active {
				continue
			}
			h.Note, h.Clinician = "", ""
		}
		read = read || h.Note != ""
		page.Holds = append(page.Holds, h)
	}
	if read {
		err = a.logReading(ctx, u, p.Name)
	}
	return page, err
}

// logReading keeps that somebody read a health note: once an hour is enough to know it.
func (a *Service) logReading(ctx context.Context, u state.User, name string) error {
	return a.Store.LogAccessOnce(ctx, u.Academy, store.Access{At: a.Now().UTC(), Account: u.Account, Who: u.Name, What: store.ReadHealthNote + name, Address: u.Address}, time.Hour)
}

func (f *snapshot) weeks(id string, on calendar.Day) []WeekCount {
	start := on.WeekStart(f.Settings.WeekStart)
	weeks := make([]WeekCount, 52)
	for i := range weeks {
		weeks[i].From = start - calendar.Day(7*(51-i))
	}
	for _, v := range f.Visits(id) {
		if i := int(v.On-weeks[0].From) / 7; v.On >= weeks[0].From && i < 52 {
			weeks[i].Classes++
		}
	}
	return weeks
}

func (f *snapshot) rankLine(x state.Promoted) RankLine {
	l := RankLine{ID: x.ID, On: x.On, By: f.NameOf(x.By), Outcome: x.Outcome, Reason: x.Reason}
	ladder := f.Ladders[x.Ladder]
	name := x.To
	if i := ladder.Position(x.To); i >= 0 {
		name, l.Belt = ladder.Ranks[i].Name, ladder.Ranks[i].Belt
	}
	l.Summary = words(x.Promotion, name, ladder.Name)
	return l
}

func (f *snapshot) holdLines(p academy.Person, on calendar.Day) []HoldLine {
	all := []HoldLine{}
	by := map[string]state.HeldSince{}
	for _, h := range f.HoldsOf(p.ID) {
		by[h.ID] = h
	}
	for i := len(p.Holds) - 1; i >= 0; i-- {
		h := p.Holds[i]
		l := HoldLine{ID: h.ID, From: h.From, Summary: state.HoldWords(h), Note: h.Note, Active: h.Active(on), ClearedOn: h.ClearedOn, All: h.All, NoLive: h.NoLive, Regions: []string{}}
		for _, r := range h.Regions {
			l.Regions = append(l.Regions, string(r))
		}
		if x, ok := by[h.ID]; ok && h.ID != "" {
			l.By, l.Clinician = f.NameOf(x.By), x.Clinician
			if x.ClearedBy != "" {
				l.ClearedBy = f.NameOf(x.ClearedBy)
			}
		}
		all = append(all, l)
	}
	return all
}
