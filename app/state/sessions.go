package state

import (
	"cmp"
	"slices"
	"strings"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/store"
)

// ClassSummary is one class on the week strip.
type ClassSummary struct {
	Session string       `json:"session"`
	Name    string       `json:"name"`
	Track   string       `json:"track"`
	Start   string       `json:"start"`
	At      int          `json:"at" doc:"Minutes after midnight"`
	Length  int          `json:"length" doc:"Minutes"`
	State   string       `json:"state" enum:"ready,no coach,not planned,not recorded,recorded,closed"`
	Lead    string       `json:"lead,omitempty"`
	Mine    bool         `json:"mine" doc:"The one who asks leads it"`
	Summary say.Sentence `json:"summary" doc:"What it teaches, in words"`
}

func (f *Snapshot) Summary(c academy.Class, on, today calendar.Day, u User) ClassSummary {
	n := f.SessionPlan(c, on)
	t := ClassSummary{Session: academy.Occurrence(c.ID, on), Name: c.Name, Track: f.Tracks[c.Track].Name, Start: c.Start, At: c.Begins(), Length: c.Minutes, State: "ready", Lead: f.NameOf(n.Lead), Mine: n.Lead != "" && n.Lead == u.Person}
	t.Summary = f.ItemWords(n.Items)
	switch {
	case f.Reported(c.ID, on):
		t.State = "recorded"
	case n.Closed != "":
		t.State, t.Summary = "closed", say.Raw(n.Closed)
	case on < today:
		t.State = "not recorded"
	case len(n.Items) == 0:
		t.State = "not planned"
	case n.Lead == "":
		t.State = "no coach"
	}
	return t
}

// ItemWords says what a class teaches: "teach Knee cut, review Hip escape".
func (f *Snapshot) ItemWords(items []season.Item) say.Sentence {
	words := make([]say.Sentence, len(items))
	for i, it := range items {
		unit, _ := f.Unit(it.Unit)
		words[i] = ItemWord(it.Kind, unit.Name)
	}
	return say.Join(", ", words...)
}

// ItemWord says what is done with a unit in a class.
func ItemWord(kind, unit string) say.Sentence {
	if kind == season.Review {
		return say.F("review %s", unit)
	}
	return say.F("teach %s", unit)
}

// ToldWords is a correction in words: the fault as the taught side has it, and what the coach wrote.
func (f *Snapshot) ToldWords(t store.Tallied) string {
	technique, _ := f.Library.Technique(t.Technique)
	fault, _, _ := technique.On(technique.Taught).Fault(t.Fault)
	return strings.Join(slices.DeleteFunc([]string{string(fault.What), t.Words}, func(s string) bool { return s == "" }), " ")
}

// SessionPlan is what one class on one day is about: the plan's, or what was chosen
// by hand.
type SessionPlan struct {
	Items   []season.Item
	Lead    string
	From    string // season, hand, or nothing
	Closed  string
	Decided academy.ClassSession
}

func (f *Snapshot) SessionPlan(c academy.Class, on calendar.Day) SessionPlan {
	id := academy.Occurrence(c.ID, on)
	n := SessionPlan{Decided: f.ClassSessions[id]}
	n.Decided.ID = id
	for _, s := range f.Seasons {
		w := s.WeekOf(on)
		if w == 0 {
			continue
		}
		for _, k := range s.Shut() {
			if k.Week == w && (k.Class == "" || k.Class == c.ID) {
				n.Closed = cmp.Or(k.Why, "closed")
			}
		}
		plan := s.Stands()
		if plan == nil || c.Meets(on) && s.DayOf(w, c) != on { // a class that moved in midweek has its plan on the first of its two days
			continue
		}
		if x, ok := plan.Find(w, c.ID); ok {
			n.Items, n.Lead, n.From = x.Items, x.Lead, "season"
		}
	}
	if len(n.Decided.Items) > 0 {
		n.Items, n.From = n.Decided.Items, "hand"
	}
	if n.Decided.Lead != "" {
		n.Lead = n.Decided.Lead
	}
	if r, ok := f.ReportOf(f.Session(c.ID, on)); ok {
		n.Lead = r.Lead
	}
	return n
}

// lesson turns items into techniques: a review is of what the unit teaches.
func (f *Snapshot) Lesson(items []season.Item) mat.Lesson {
	var l mat.Lesson
	for _, it := range items {
		unit, _ := f.Unit(it.Unit)
		for _, id := range unit.Techniques {
			t, ok := f.Library.Technique(id)
			if !ok {
				continue
			}
			if it.Kind == season.Review {
				l.Review = append(l.Review, t)
			} else {
				l.Teach = append(l.Teach, t)
			}
		}
		if m, ok := f.Library.Technique(unit.Movement); ok && !slices.ContainsFunc(l.Warmup, func(t library.Technique) bool { return t.ID == m.ID }) {
			l.Warmup = append(l.Warmup, m)
		}
	}
	return l
}

// CellItem is one unit in a class.
type CellItem struct {
	Unit string `json:"unit"`
	Name string `json:"name"`
	Kind string `json:"kind"`
	Area string `json:"area"`
}

// Segments are those of a class as the academy's rules and the hand have them, and those that the hand left out.
func (f *Snapshot) Segments(n SessionPlan, c academy.Class) (in, dropped []mat.Segment) {
	return mat.Edited(mat.Outline(f.Lesson(n.Items), f.Settings.SegmentRules(c.Track)), n.Decided.Sheet, n.Decided.Order)
}

// Sheet is a class's segments fitted to its minutes.
func (f *Snapshot) Sheet(n SessionPlan, c academy.Class) mat.Fitted {
	in, dropped := f.Segments(n, c)
	sheet := mat.Fit(in, c.Minutes)
	sheet.FellOut = append(sheet.FellOut, dropped...)
	return sheet
}
