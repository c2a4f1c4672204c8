package app

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

// Tick is one class on the week strip.
type Tick struct {
	Night  string `json:"night"`
	Name   string `json:"name"`
	Track  string `json:"track"`
	Start  string `json:"start"`
	At     int    `json:"at" doc:"Minutes after midnight"`
	Length int    `json:"length" doc:"Minutes"`
	State  string `json:"state" enum:"ready,no coach,not planned,not recorded,recorded,closed"`
	Lead   string `json:"lead,omitempty"`
	Mine   bool   `json:"mine" doc:"The one who asks leads it"`
	Says   string `json:"says" doc:"What it teaches, in words"`
}

// Day is one day of the week strip.
type Day struct {
	On      calendar.Day `json:"on"`
	Today   bool         `json:"today"`
	Classes []Tick       `json:"classes"`
}

// Week shows the seven days around a day; today's when none is given.
func (a *App) Week(ctx context.Context, u User, of *calendar.Day) ([]Day, error) {
	f, err := a.read(ctx, u.Academy)
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
		days[i] = Day{On: first + calendar.Day(i), Today: first+calendar.Day(i) == today, Classes: []Tick{}}
		for _, c := range f.ClassesOn(days[i].On) {
			days[i].Classes = append(days[i].Classes, f.tick(c, days[i].On, today, u))
		}
	}
	return days, nil
}

func (f *snapshot) tick(c academy.Class, on, today calendar.Day, u User) Tick {
	var h, m int
	fmt.Sscanf(c.Start, "%d:%d", &h, &m)
	n := f.night(c, on)
	t := Tick{Night: academy.Occurrence(c.ID, on), Name: c.Name, Track: f.Tracks[c.Track].Name, Start: c.Start, At: h*60 + m, Length: c.Minutes, State: "ready", Lead: f.NameOf(n.lead), Mine: n.lead != "" && n.lead == u.Person}
	for i, it := range n.items {
		unit, _ := f.Unit(it.Unit)
		if i > 0 {
			t.Says += ", "
		}
		t.Says += it.Kind + " " + unit.Name
	}
	switch {
	case f.Reported(c.ID, on):
		t.State = "recorded"
	case n.closed != "":
		t.State, t.Says = "closed", n.closed
	case on < today:
		t.State = "not recorded"
	case len(n.items) == 0:
		t.State = "not planned"
	case n.lead == "":
		t.State = "no coach"
	}
	return t
}

// night is what one class on one day is about: the plan's, or what was chosen
// by hand.
type night struct {
	items  []season.Item
	lead   string
	from   string // season, hand, or nothing
	closed string
	doc    academy.ClassSession
}

func (f *snapshot) night(c academy.Class, on calendar.Day) night {
	id := academy.Occurrence(c.ID, on)
	n := night{doc: f.ClassSessions[id]}
	n.doc.ID = id
	for _, s := range f.Seasons {
		w := s.WeekOf(on)
		if w == 0 {
			continue
		}
		for _, k := range s.Closures {
			if k.Week == w && (k.Class == "" || k.Class == c.ID) {
				n.closed = words(k.Why, "closed")
			}
		}
		plan := s.Stands()
		if plan == nil {
			continue
		}
		if x, ok := plan.Find(w, c.ID); ok {
			n.items, n.lead, n.from = x.Items, x.Lead, "season"
		}
	}
	if len(n.doc.Items) > 0 {
		n.items, n.from = n.doc.Items, "hand"
	}
	if n.doc.Lead != "" {
		n.lead = n.doc.Lead
	}
	if r, ok := f.ReportOf(f.Session(c.ID, on)); ok {
		n.lead = r.Lead
	}
	return n
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
	PersonLine
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
	Pairs [][]Named `json:"pairs"`
	Odd   string    `json:"odd,omitempty"`
	With  string    `json:"with,omitempty" doc:"Where the odd one goes, in words"`
	Again int       `json:"again"`
	Apart bool      `json:"apart,omitempty" doc:"Two who must not be paired stay with the coach"`
}

// NightPage is one class on one day.
type NightPage struct {
	Tick       Tick                 `json:"tick"`
	On         calendar.Day         `json:"on"`
	Mat        string               `json:"mat"`
	From       string               `json:"from" doc:"season, hand, or empty when nothing is chosen"`
	Items      []CellItem           `json:"items"`
	Units      []CellItem           `json:"units" doc:"What could be chosen by hand"`
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
	Coaches    []Named              `json:"coaches"`
}

// Night shows one class on one day.
func (a *App) Night(ctx context.Context, u User, id string) (NightPage, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return NightPage{}, err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return NightPage{}, err
	}
	n := f.night(c, on)
	page := NightPage{Tick: f.tick(c, on, f.Today(), u), On: on, Mat: c.Mat, From: n.from, Items: []CellItem{}, Units: []CellItem{}, Techniques: []TaughtTechnique{}, Defers: Defers, MayRun: mayRun(u, n), Coaches: []Named{}}
	for _, it := range n.items {
		unit, _ := f.Unit(it.Unit)
		page.Items = append(page.Items, CellItem{it.Unit, unit.Name, it.Kind, unit.Area})
	}
	for _, unit := range f.Units {
		if slices.Contains(unit.Tracks, c.Track) {
			page.Units = append(page.Units, CellItem{unit.ID, unit.Name, "teach", unit.Area})
		}
	}
	for _, p := range f.People {
		if p.Coach != nil {
			page.Coaches = append(page.Coaches, Named{p.ID, p.Name})
		}
	}
	lesson := f.lesson(n.items)
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
	if u.Role == Desk { // the desk sees who is here, not what is taught to whom
		page.Techniques, page.LastNote, page.LastNoteBy, page.Recorded = []TaughtTechnique{}, "", "", nil
		page.Rotation = page.Rotation.forDesk()
	}
	return page, nil
}

func mayRun(u User, n night) bool {
	return u.Role == Head || u.Role == Coach && (n.lead == "" || n.lead == u.Person)
}

// lesson turns items into techniques: a review is of what the unit teaches.
func (f *snapshot) lesson(items []season.Item) mat.Lesson {
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

func (f *snapshot) attendees(page *NightPage, u User, c academy.Class, on calendar.Day, lesson mat.Lesson) {
	page.Here, page.Others = []Attendee{}, []Attendee{}
	session := f.Session(c.ID, on)
	chances := f.chances(on)
	for _, p := range f.Students() {
		_, came := session.Came(p.ID)
		a := Attendee{PersonLine: f.line(p, u, on), Here: came, Chance: chances[p.ID][c.ID].Chance}
		for _, t := range append(slices.Clone(lesson.Teach), lesson.Review...) {
			for _, no := range f.refusals(p, t, on) {
				a.Out = no.Why
			}
		}
		if len(lesson.Teach)+len(lesson.Review) == 0 && f.heldFromAll(p, on) {
			a.Out = "held from all partner drills until cleared"
		}
		if a.Out == "" && slices.ContainsFunc(p.Holds, func(h safety.Hold) bool { return h.Active(on) }) {
			a.NoLive = "held: drills that spare it, no situational or live rounds"
		}
		if u.Role == Desk && a.Out+a.NoLive != "" {
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

func (f *snapshot) rotationPage(n night, here []Attendee) RotationPage {
	page := RotationPage{Rounds: []RoundLine{}, Run: n.doc.Run, Out: []Attendee{}, Odd: words(n.doc.Odd, "trio"), Mix: words(n.doc.Mix, "any")}
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
	for _, r := range n.doc.Rounds {
		line := RoundLine{Pairs: [][]Named{}, Again: len(r.Again)}
		for k, pair := range r.Pairs {
			group := []Named{{pair[0], f.NameOf(pair[0])}, {pair[1], f.NameOf(pair[1])}}
			if r.Odd != "" && r.Third == k {
				group = append(group, Named{r.Odd, f.NameOf(r.Odd)})
			}
			line.Pairs = append(line.Pairs, group)
		}
		if r.Odd != "" {
			line.Odd = f.NameOf(r.Odd)
			line.With = "works with the coach"
			if r.Third >= 0 {
				line.With = "third with " + f.NameOf(r.Pairs[r.Third][0]) + " and " + f.NameOf(r.Pairs[r.Third][1])
			}
		}
		for _, apart := range r.Apart {
			line.Odd = f.NameOf(apart[0]) + " and " + f.NameOf(apart[1])
			line.With = "kept apart: each works with the coach"
			line.Apart = true
		}
		page.Rounds = append(page.Rounds, line)
	}
	page.Paired = len(n.doc.Paired)
	if len(n.doc.Rounds) > 0 {
		page.Stale = len(n.doc.Paired) != len(able)
		for _, id := range n.doc.Paired {
			page.Stale = page.Stale || !able[id]
		}
	}
	return page
}
