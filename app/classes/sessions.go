package classes

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/safety"
	"vereda/core/season"
)

// Day is one day of the week strip.
type Day struct {
	On      calendar.Day         `json:"on"`
	Today   bool                 `json:"today"`
	Classes []state.ClassSummary `json:"classes"`
}

// Week shows the seven days around a day; today's when none is given.
func (a *Service) Week(ctx context.Context, u state.User, of *calendar.Day) ([]Day, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	today := f.Today()
	if of == nil {
		of = &today
	}
	first := of.WeekStart(f.Settings.WeekStart)
	days := make([]Day, 7)
	for i := range days {
		days[i] = Day{On: first + calendar.Day(i), Today: first+calendar.Day(i) == today, Classes: []state.ClassSummary{}}
		for _, c := range f.ClassesOn(days[i].On) {
			days[i].Classes = append(days[i].Classes, f.Summary(c, days[i].On, today, u))
		}
	}
	return days, nil
}

// SegmentLine is a segment with what its minutes are worth.
type SegmentLine struct {
	mat.Segment
	Repetitions int `json:"repetitions" doc:"Each partner, each side; 0 when they are not counted"`
	Sides       int `json:"sides"`
}

// TaughtTechnique is what the sheet carries of one technique.
type TaughtTechnique struct {
	ID       string       `json:"id"`
	Name     string       `json:"name"`
	Kind     string       `json:"kind" enum:"teach,review"`
	Sided    bool         `json:"sided"`
	Taught   library.Side `json:"taught,omitempty"`
	Gates    []string     `json:"gates"`
	Faults   []FaultLine  `json:"faults" doc:"Most often seen first; the first three are the sheet's"`
	Asks     []string     `json:"asks"`
	Cautions []string     `json:"cautions"`
	Forks    []string     `json:"forks"`
}

// FaultLine is a fault with how often it was seen.
type FaultLine struct {
	ID         string  `json:"id"`
	What       string  `json:"what"`
	Correction string  `json:"correction"`
	Danger     bool    `json:"danger"`
	Seen       int     `json:"seen"`
	Tries      int     `json:"tries"`
	Rank       float64 `json:"rank" doc:"Lower end of Wilson's 95 % interval"`
}

// Attendee is a student on the list of a class.
type Attendee struct {
	state.PersonLine
	Here   bool    `json:"here"`
	Chance float64 `json:"chance" doc:"Of being in this class"`
	Out    string  `json:"out,omitempty" doc:"Why they are not paired tonight"`
	NoLive string  `json:"no_live,omitempty" doc:"Why they are not in situational and live rounds: those may load anything"`
}

// RotationPage is the pairing as it stands.
type RotationPage struct {
	Rounds []RoundLine `json:"rounds"`
	Run    int         `json:"run" doc:"Rounds already run; they stay"`
	Out    []Attendee  `json:"out"`
	Fresh  int         `json:"fresh" doc:"Rounds possible before a pair must repeat"`
	Paired int         `json:"paired" doc:"People the pairs were made for"`
	Stale  bool        `json:"stale" doc:"Who is here changed since"`
	Odd    string      `json:"odd"`
	Mix    string      `json:"mix"`
}

// RoundLine is one round with names.
type RoundLine struct {
	Pairs [][]state.Named `json:"pairs"`
	Odd   string          `json:"odd,omitempty" doc:"Who is in no group"`
	With  string          `json:"with,omitempty" doc:"Where they go, in words"`
	Again int             `json:"again"`
	Apart bool            `json:"apart,omitempty" doc:"Two who must not be paired stay with the coach"`
}

// SessionPage is one class on one day.
type SessionPage struct {
	Summary    state.ClassSummary   `json:"summary"`
	On         calendar.Day         `json:"on"`
	Mat        string               `json:"mat"`
	From       string               `json:"from" doc:"season, hand, or empty when nothing is chosen"`
	Items      []state.CellItem     `json:"items"`
	Units      []state.CellItem     `json:"units" doc:"What could be chosen by hand"`
	Segments   []SegmentLine        `json:"segments"`
	FellOut    []SegmentLine        `json:"fell_out"`
	Used       int                  `json:"used"`
	Short      int                  `json:"short"`
	Techniques []TaughtTechnique    `json:"techniques"`
	Cautions   []string             `json:"cautions"`
	Defers     string               `json:"defers"`
	LastNote   string               `json:"last_note,omitempty"`
	LastNoteBy string               `json:"last_note_by,omitempty"`
	Here       []Attendee           `json:"here"`
	Others     []Attendee           `json:"others" doc:"Not here, likeliest first"`
	Rotation   RotationPage         `json:"rotation"`
	Recorded   *academy.ClassReport `json:"recorded,omitempty"`
	MayRun     bool                 `json:"may_run" doc:"The one who asks may run this class"`
	Coaches    []state.Named        `json:"coaches"`
}

// Session shows one class on one day.
func (a *Service) Session(ctx context.Context, u state.User, id string) (SessionPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return SessionPage{}, err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return SessionPage{}, err
	}
	n := f.SessionPlan(c, on)
	page := SessionPage{Summary: f.Summary(c, on, f.Today(), u), On: on, Mat: c.Mat, From: n.From, Items: []state.CellItem{}, Units: []state.CellItem{}, Techniques: []TaughtTechnique{}, Defers: state.Defers, MayRun: mayRun(u, n), Coaches: []state.Named{}}
	for _, it := range n.Items {
		unit, _ := f.Unit(it.Unit)
		page.Items = append(page.Items, state.CellItem{Unit: it.Unit, Name: unit.Name, Kind: it.Kind, Area: unit.Area})
	}
	for _, unit := range f.Units {
		if slices.Contains(unit.Tracks, c.Track) {
			page.Units = append(page.Units, state.CellItem{Unit: unit.ID, Name: unit.Name, Kind: "teach", Area: unit.Area})
		}
	}
	for _, p := range f.Active() {
		if p.Coach != nil {
			page.Coaches = append(page.Coaches, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	lesson := f.Lesson(n.Items)
	fitted := mat.Fit(mat.Outline(lesson), c.Minutes)
	page.Segments, page.FellOut, page.Used, page.Short = f.segmentLines(fitted.Segments), f.segmentLines(fitted.FellOut), fitted.Used, fitted.Short
	var risks []safety.RiskClass
	for _, t := range lesson.Teach {
		page.Techniques = append(page.Techniques, f.taughtTechnique(t, season.Teach))
		risks = append(risks, t.Risks...)
	}
	for _, t := range lesson.Review {
		page.Techniques = append(page.Techniques, f.taughtTechnique(t, season.Review))
		risks = append(risks, t.Risks...)
	}
	page.Cautions = safety.Cautions(risks)
	page.LastNote, page.LastNoteBy = f.lastNote(c, on)
	if r, ok := f.ReportOf(f.Session(c.ID, on)); ok {
		page.Recorded = &r.ClassReport
	}
	f.attendees(&page, u, c, on, lesson)
	page.Rotation = f.rotationPage(n, page.Here)
	if !u.Teaches() { // the desk sees who is here, not what is taught to whom
		page.Techniques, page.LastNote, page.LastNoteBy, page.Recorded = []TaughtTechnique{}, "", "", nil
		page.Rotation = page.Rotation.forDesk()
	}
	return page, nil
}

func mayRun(u state.User, n state.SessionPlan) bool {
	return u.Is(state.Head, state.Assistant) || u.Is(state.Coach) && (n.Lead == "" || n.Lead == u.Person)
}

func (f *snapshot) segmentLines(all []mat.Segment) []SegmentLine {
	out := []SegmentLine{}
	for _, s := range all {
		l := SegmentLine{Segment: s}
		if t, ok := f.Library.Technique(s.Technique); ok && s.Drill && s.ID != "situational" {
			l.Sides = len(t.Sides())
			l.Repetitions = mat.Repetitions(s.Minutes, l.Sides, t.SecondsPerRep)
		}
		out = append(out, l)
	}
	return out
}

func (f *snapshot) taughtTechnique(t library.Technique, kind string) TaughtTechnique {
	shown := t.On(t.Taught)
	out := TaughtTechnique{ID: t.ID, Name: t.Name, Kind: kind, Sided: t.Taught != "", Taught: t.Taught, Gates: []string{}, Faults: f.faultLines(shown), Asks: []string{}, Cautions: safety.Cautions(t.Risks), Forks: []string{}}
	for _, k := range shown.Gates() {
		out.Gates = append(out.Gates, string(k.Cue))
	}
	for _, q := range shown.Questions {
		out.Asks = append(out.Asks, string(q))
	}
	for _, x := range shown.Forks {
		out.Forks = append(out.Forks, fmt.Sprintf("%s → %s", x.Reaction, f.Library.Name(x.Answer)))
	}
	if t.Caution != "" {
		out.Cautions = append([]string{string(shown.Caution)}, out.Cautions...)
	}
	return out
}

// faultLines orders the faults of a technique by how surely they are common:
// the lower end of the interval of seen over tries, so that one of one does not
// outrank eight of twelve.
func (f *snapshot) faultLines(t library.Technique) []FaultLine {
	counts := f.Faults(t.ID)
	all := []FaultLine{}
	for _, k := range t.KeyPoints {
		for _, x := range k.Faults {
			low, n := 0.0, counts[x.ID]
			if n.Tries > 0 {
				low, _ = ledger.Wilson(min(n.Seen, n.Tries), n.Tries)
			}
			all = append(all, FaultLine{x.ID, string(x.What), string(x.Correction), x.Danger, n.Seen, n.Tries, low})
		}
	}
	slices.SortStableFunc(all, func(a, b FaultLine) int { return cmp.Compare(b.Rank, a.Rank) })
	return all
}

// lastNote is the newest note left in an earlier class of the same track.
func (f *snapshot) lastNote(c academy.Class, before calendar.Day) (note, by string) {
	var newest *state.Session
	for _, k := range f.Classes {
		if k.Track != c.Track {
			continue
		}
		sessions := f.SessionsOf(k.ID)
		for i := len(sessions) - 1; i >= 0; i-- {
			x := sessions[i]
			if x.Report == nil || x.Report.Note == "" || x.On > before || x.On == before && k.Start >= c.Start {
				continue
			}
			// Of two on one day the later class's note is the newer one.
			if later, _ := f.Class(sessionClass(newest)); newest == nil || x.On > newest.On || x.On == newest.On && (k.Start > later.Start || k.Start == later.Start && k.ID > later.ID) {
				newest = x
			}
			break
		}
	}
	if newest == nil {
		return "", ""
	}
	return newest.Report.Note, fmt.Sprintf("%s, %s", f.NameOf(newest.Report.Lead), newest.On.Words())
}

func sessionClass(s *state.Session) string {
	if s == nil {
		return ""
	}
	return s.Class
}

func (f *snapshot) attendees(page *SessionPage, u state.User, c academy.Class, on calendar.Day, lesson mat.Lesson) {
	page.Here, page.Others = []Attendee{}, []Attendee{}
	session := f.Session(c.ID, on)
	chances := f.Chances(on)
	for _, p := range f.Students() {
		_, came := session.Came(p.ID)
		a := Attendee{PersonLine: f.Line(p, u, on), Here: came, Chance: chances[p.ID][c.ID].Chance}
		for _, t := range append(slices.Clone(lesson.Teach), lesson.Review...) {
			for _, no := range f.Refusals(p, t, on) {
				a.Out = no.Why
			}
		}
		if len(lesson.Teach)+len(lesson.Review) == 0 && f.heldFromAll(p, on) {
			a.Out = "held from all partner drills until cleared"
		}
		if a.Out == "" && slices.ContainsFunc(p.Holds, func(h safety.Hold) bool { return h.Active(on) }) {
			a.NoLive = "held: drills that spare it, no situational or live rounds"
		}
		if !u.Teaches() && a.Out+a.NoLive != "" {
			a.Out, a.NoLive = "ask the coach", ""
		}
		if a.Here {
			page.Here = append(page.Here, a)
		} else if p.Joined <= on {
			page.Others = append(page.Others, a)
		}
	}
	slices.SortStableFunc(page.Others, func(a, b Attendee) int { return cmp.Compare(b.Chance, a.Chance) })
}

func (f *snapshot) heldFromAll(p academy.Person, on calendar.Day) bool {
	return slices.ContainsFunc(p.Holds, func(h safety.Hold) bool { return h.All && h.Active(on) })
}

// forDesk leaves out why somebody is not paired, and who is kept from whom.
func (r RotationPage) forDesk() RotationPage {
	r.Out = []Attendee{}
	for i := range r.Rounds {
		if r.Rounds[i].Apart {
			r.Rounds[i].Odd, r.Rounds[i].With, r.Rounds[i].Apart = "", "", false
		}
	}
	return r
}

func (f *snapshot) rotationPage(n state.SessionPlan, here []Attendee) RotationPage {
	page := RotationPage{Rounds: []RoundLine{}, Run: n.Decided.Run, Out: []Attendee{}, Odd: cmp.Or(n.Decided.Odd, "trio"), Mix: cmp.Or(n.Decided.Mix, "any")}
	able := map[string]bool{}
	for _, a := range here {
		if a.Out == "" {
			able[a.ID] = true
		}
		if a.Out+a.NoLive != "" {
			page.Out = append(page.Out, a)
		}
	}
	page.Fresh = max(0, len(able)-1+len(able)%2)
	for _, r := range n.Decided.Rounds {
		line := RoundLine{Pairs: [][]state.Named{}, Again: len(r.Again)}
		for k, pair := range r.Pairs {
			group := []state.Named{{ID: pair[0], Name: f.NameOf(pair[0])}, {ID: pair[1], Name: f.NameOf(pair[1])}}
			if r.Odd != "" && r.Third == k {
				group = append(group, state.Named{ID: r.Odd, Name: f.NameOf(r.Odd)})
			}
			line.Pairs = append(line.Pairs, group)
		}
		if r.Odd != "" && r.Third < 0 { // else they stand in the group they are third in
			line.Odd, line.With = f.NameOf(r.Odd), "works with the coach"
		}
		for _, apart := range r.Apart {
			line.Odd = f.NameOf(apart[0]) + " and " + f.NameOf(apart[1])
			line.With = "kept apart: each works with the coach"
			line.Apart = true
		}
		page.Rounds = append(page.Rounds, line)
	}
	page.Paired = len(n.Decided.Paired)
	if len(n.Decided.Rounds) > 0 {
		page.Stale = len(n.Decided.Paired) != len(able)
		for _, id := range n.Decided.Paired {
			page.Stale = page.Stale || !able[id]
		}
	}
	return page
}
