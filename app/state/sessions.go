package state

import (
	"cmp"
	"fmt"
	"slices"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/season"
)

// ClassSummary is one class on the week strip.
type ClassSummary struct {
	Session string `json:"session"`
	Name    string `json:"name"`
	Track   string `json:"track"`
	Start   string `json:"start"`
	At      int    `json:"at" doc:"Minutes after midnight"`
	Length  int    `json:"length" doc:"Minutes"`
	State   string `json:"state" enum:"ready,no coach,not planned,not recorded,recorded,closed"`
	Lead    string `json:"lead,omitempty"`
	Mine    bool   `json:"mine" doc:"The one who asks leads it"`
	Summary string `json:"summary" doc:"What it teaches, in words"`
}

func (f *Snapshot) Summary(c academy.Class, on, today calendar.Day, u User) ClassSummary {
	var h, m int
	fmt.Sscanf(c.Start, "%d:%d", &h, &m)
	n := f.SessionPlan(c, on)
	t := ClassSummary{Session: academy.Occurrence(c.ID, on), Name: c.Name, Track: f.Tracks[c.Track].Name, Start: c.Start, At: h*60 + m, Length: c.Minutes, State: "ready", Lead: f.NameOf(n.Lead), Mine: n.Lead != "" && n.Lead == u.Person}
	for i, it := range n.Items {
		unit, _ := f.Unit(it.Unit)
		if i > 0 {
			t.Summary += ", "
		}
		t.Summary += it.Kind + " " + unit.Name
	}
	switch {
	case f.Reported(c.ID, on):
		t.State = "recorded"
	case n.Closed != "":
		t.State, t.Summary = "closed", n.Closed
	case on < today:
		t.State = "not recorded"
	case len(n.Items) == 0:
		t.State = "not planned"
	case n.Lead == "":
		t.State = "no coach"
	}
	return t
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
		for _, k := range s.Closures {
			if k.Week == w && (k.Class == "" || k.Class == c.ID) {
				n.Closed = cmp.Or(k.Why, "closed")
			}
		}
		plan := s.Stands()
		if plan == nil {
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
