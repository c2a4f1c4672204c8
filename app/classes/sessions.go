package classes

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/season"
)

// Day is one day of the week strip.
type Day struct {
	On      calendar.Day         `json:"on"`
	Today   bool                 `json:"today"`
	Classes []state.ClassSummary `json:"classes"`
}

// Week shows the seven days around a day, today's when none is given; with ahead the seven from that day on.
func (a *Service) Week(ctx context.Context, u state.User, of *calendar.Day, ahead bool) ([]Day, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	today := f.Today()
	if of == nil {
		of = &today
	}
	first := of.WeekStart(f.Settings.WeekStart)
	if ahead {
		first = *of
	}
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
	Trio        int `json:"trio" doc:"The same in a group of three, where there is one tonight; else 0"`
}

// TaughtTechnique is what the sheet carries of one technique.
type TaughtTechnique struct {
	ID       string         `json:"id"`
	Name     string         `json:"name"`
	Kind     string         `json:"kind" enum:"teach,review"`
	Sided    bool           `json:"sided"`
	Taught   library.Side   `json:"taught,omitempty"`
	Gates    []string       `json:"gates"`
	Faults   []FaultLine    `json:"faults" doc:"Most often seen first; the first three are the sheet's"`
	Asks     []string       `json:"asks"`
	Cautions []say.Sentence `json:"cautions"`
	Forks    []string       `json:"forks"`
	Points   []state.Named  `json:"points" doc:"Its key points, for saying how far a class came"`
}

// FaultLine is a fault with how often it was seen.
type FaultLine struct {
	ID         string  `json:"id"`
	Point      string  `json:"point" doc:"The key point it belongs to"`
	Gives      string  `json:"gives" doc:"What the partner can then do"`
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
	Here    bool         `json:"here"`
	Part    string       `json:"part,omitempty" enum:"late,early" doc:"Came late, or left early"`
	Guest   string       `json:"guest,omitempty" enum:"trial,visitor" doc:"Not a student here"`
	Chance  float64      `json:"chance" doc:"Of being in this class"`
	Outside say.Sentence `json:"outside,omitempty" doc:"Why they are not whom this class is for"`
	Out     say.Sentence `json:"out,omitempty" doc:"Why they are not paired tonight"`
	Instead say.Sentence `json:"instead,omitempty" doc:"What they can do while they are out"`
	NoLive  say.Sentence `json:"no_live,omitempty" doc:"Why they are not in situational and live rounds: those may load anything"`
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
	Cautions   []say.Sentence       `json:"cautions"`
	Defers     say.Sentence         `json:"defers"`
	LastNote   string               `json:"last_note,omitempty"`
	LastNoteBy say.Sentence         `json:"last_note_by,omitempty"`
	Here       []Attendee           `json:"here"`
	Others     []Attendee           `json:"others" doc:"Not here, likeliest first"`
	Rotation   RotationPage         `json:"rotation"`
	Recorded   *academy.ClassReport `json:"recorded,omitempty"`
	Order      []string             `json:"order" doc:"The segments in the order they stand in by default, those left out too"`
	Edits      SheetEdits           `json:"edits" doc:"What was changed of the sheet by hand"`
	Stations   *StationsPage        `json:"stations,omitempty" doc:"For whoever may run the class"`
	Reactions  []ReactionDraw       `json:"reactions" doc:"Tonight's reaction rounds, drawn"`
	Series     Series               `json:"series"`
	Care       Care                 `json:"care"`
	Makeups    []MakeupLine         `json:"makeups" doc:"Stations at which some catch up what they missed"`
	Tally      []FaultTally         `json:"tally" doc:"Faults counted while the class ran"`
	Told       []Correction         `json:"told" doc:"Corrections noted for one person each, tonight"`
	Unreached  []UnreachedUnit      `json:"unreached" doc:"Planned units that the report says were not reached, still in the plan here"`
	MayRun     bool                 `json:"may_run" doc:"The one who asks may run this class"`
	Coaches    []state.Named        `json:"coaches"`
}

// Session shows one class on one day.
func (a *Service) Session(ctx context.Context, u state.User, id string) (SessionPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return SessionPage{}, err
	}
	return f.sessionPage(u, id)
}

func (f *snapshot) sessionPage(u state.User, id string) (SessionPage, error) {
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
	fitted := f.Sheet(n, c)
	page.Edits, page.Order = SheetEdits{Edits: append([]mat.SegmentEdit{}, n.Decided.Sheet...), Order: append([]string{}, n.Decided.Order...)}, []string{}
	for _, s := range mat.Outline(lesson, f.Settings.SegmentRules(c.Track)) {
		page.Order = append(page.Order, s.ID)
	}
	trio := slices.ContainsFunc(n.Decided.Rounds, func(r rotation.Round) bool {
		return slices.ContainsFunc(r.Groups, func(g []string) bool { return len(g) == 3 })
	})
	page.Tally, page.Told = f.tallies(f.Session(c.ID, on))
	page.Segments, page.FellOut, page.Used, page.Short = f.segmentLines(fitted.Segments, trio), f.segmentLines(fitted.FellOut, trio), fitted.Used, fitted.Short
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
	page.Unreached = f.unreached(c, on)
	f.attendees(&page, u, c, on, lesson)
	page.Rotation = f.rotationPage(n, page.Here)
	page.Reactions = f.reactions(id, lesson)
	page.Makeups = f.makeups(n, page.Here)
	if page.MayRun {
		page.Stations = f.stationsPage(n, c, on, page.Here, lesson)
	}
	page.Series, page.Care = f.series(c, on, n.Items), f.care(page.Here, lesson, n.Items)
	if !u.Teaches() { // the desk sees who is here, not what is taught to whom
		page.Techniques, page.LastNote, page.LastNoteBy, page.Recorded = []TaughtTechnique{}, "", "", nil
		page.Reactions, page.Makeups = []ReactionDraw{}, []MakeupLine{}
		page.Series, page.Care = Series{[]SeriesLine{}, []SeriesLine{}, []say.Sentence{}}, Care{[]MissedLine{}, []state.Named{}}
		page.Tally, page.Told, page.Unreached = []FaultTally{}, []Correction{}, []UnreachedUnit{}
		page.Rotation = page.Rotation.forDesk()
	}
	return page, nil
}

func mayRun(u state.User, n state.SessionPlan) bool {
	return u.Is(state.Head, state.Assistant) || u.Is(state.Coach) && (n.Lead == "" || n.Lead == u.Person)
}

// segmentLines says what the minutes are worth; trio says that somebody works in a group of three tonight.
func (f *snapshot) segmentLines(all []mat.Segment, trio bool) []SegmentLine {
	out := []SegmentLine{}
	for _, s := range all {
		l := SegmentLine{Segment: s}
		if t, ok := f.Library.Technique(s.Technique); ok && s.Drill && s.ID != "situational" {
			l.Sides = len(t.Sides())
			l.Repetitions = mat.Repetitions(s.Minutes, 2, l.Sides, t.SecondsPerRep)
			if trio {
				l.Trio = mat.Repetitions(s.Minutes, 3, l.Sides, t.SecondsPerRep)
			}
		}
		out = append(out, l)
	}
	return out
}

func (f *snapshot) taughtTechnique(t library.Technique, kind string) TaughtTechnique {
	shown := t.On(t.Taught)
	out := TaughtTechnique{ID: t.ID, Name: t.Name, Kind: kind, Sided: t.Taught != "", Taught: t.Taught, Gates: []string{}, Faults: f.faultLines(shown), Asks: []string{}, Cautions: safety.Cautions(t.Risks), Forks: []string{}, Points: []state.Named{}}
	for _, k := range shown.KeyPoints {
		out.Points = append(out.Points, state.Named{ID: k.ID, Name: string(k.Cue)})
	}
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
		out.Cautions = append([]say.Sentence{say.Raw(string(shown.Caution))}, out.Cautions...)
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
			all = append(all, FaultLine{x.ID, string(k.Cue), string(x.Consequence), string(x.What), string(x.Correction), x.Danger, n.Seen, n.Tries, low})
		}
	}
	slices.SortStableFunc(all, func(a, b FaultLine) int { return cmp.Compare(b.Rank, a.Rank) })
	return all
}

// lastNote is the newest note left in an earlier class of the same track.
func (f *snapshot) lastNote(c academy.Class, before calendar.Day) (note string, by say.Sentence) {
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
	return newest.Report.Note, say.F("%s, %s", f.NameOf(newest.Report.Lead), newest.On)
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
	for _, p := range slices.Concat(f.Students(), f.guests(c, on)) {
		was, came := session.Came(p.ID)
		a := Attendee{PersonLine: f.Line(p, u, on), Here: came, Part: was.Part, Guest: p.Guest, Chance: chances[p.ID][c.ID].Chance,
			Outside: f.Tracks[c.Track].Outside(p, f.Ladders[p.Ladder].Audience, on)}
		for _, t := range append(slices.Clone(lesson.Teach), lesson.Review...) {
			for _, no := range f.Refusals(p, t, on) {
				a.Out = no.Why
			}
		}
		if len(lesson.Teach)+len(lesson.Review) == 0 && f.heldFromAll(p, on) {
			a.Out = "held from all partner drills until cleared"
		}
		if a.Out == "" && was.Part == academy.LeftEarly && on == f.Today() {
			a.Out = "left early"
		}
		if a.Out == "" && slices.ContainsFunc(p.Holds, func(h safety.Hold) bool { return h.Active(on) }) {
			a.NoLive = "held: drills that spare it, no situational or live rounds"
		}
		if a.Out != "" && a.Here && was.Part != academy.LeftEarly {
			a.Instead = f.instead(p, on, lesson)
		}
		if !u.Teaches() && (a.Out != "" || a.NoLive != "") && was.Part != academy.LeftEarly {
			a.Out, a.NoLive, a.Instead = "ask the coach", "", ""
		}
		if a.Here {
			page.Here = append(page.Here, a)
		} else if p.Joined <= on {
			page.Others = append(page.Others, a)
		}
	}
	slices.SortStableFunc(page.Others, func(a, b Attendee) int { return cmp.Compare(b.Chance, a.Chance) })
}

// instead says what somebody can do who is out of tonight's drills: the movements that load nothing they are held from, by
// themselves, and counting what is seen.
func (f *snapshot) instead(p academy.Person, on calendar.Day, lesson mat.Lesson) say.Sentence {
	var alone []string
	for _, t := range lesson.Warmup {
		if len(f.Refusals(p, t, on)) == 0 && !f.heldFromAll(p, on) {
			alone = append(alone, t.Name)
		}
	}
	if len(alone) == 0 {
		return "Can watch, ask the questions and keep the tally."
	}
	return say.F("Can do alone: %s; ask the questions and keep the tally.", strings.Join(alone, ", "))
}

func (f *snapshot) heldFromAll(p academy.Person, on calendar.Day) bool {
	return slices.ContainsFunc(p.Holds, func(h safety.Hold) bool { return h.All && h.Active(on) })
}
