package state

import (
	"cmp"
	"maps"
	"slices"
	"sync"
	"sync/atomic"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/store"
)

// Log is what happened in an academy, projected from its events in their
// order. It is never changed once it is shown to anybody: what is new makes another one, which
// shares with it all that the news do not touch. So a check-in costs the class and the student it
// speaks of, not the years before.
type Log struct {
	Last       int64        // the newest event's place
	LastReport int64        // the newest class report's place
	lastDay    calendar.Day // of the attendance that was taken in last
	newestDay  calendar.Day // that attendances speak of
	onNewest   int64        // the newest attendance of that day
	beforeDay  int64        // the newest attendance of a day before it
	Events     int          // how many there are
	classes    map[string]*classLog
	students   map[string]*studentLog
	placements map[string]string
	decisions  *decisions
	forecasts  map[string][]store.Forecasted // by season
	reports    *reportIndex
	cost       int64 // about how many bytes of memory it holds
}

// classLog is one weekly class: its sessions by day.
type classLog struct{ sessions []*Session }

// Session is one class on one day: who was in it, and what it reached.
type Session struct {
	Class  string
	On     calendar.Day
	Report *Report // nil while none was kept
	here   []Presence
	gone   map[string]int64 // students whose attendance was taken back, and the event that did
	// Of students of whom more than one record was noted, since they were merged: each of those records by itself.
	records map[string][]Presence
	tally   []store.Tallied // in their order
}

// Presence is a student who was in a class, and the event that says so.
type Presence struct {
	Student string
	Seq     int64
	Part    string // late or early; empty for the whole class
	as      string // whose record it was noted on: two that were merged may both have been in
}

// Report is what a class reached, and the event that says so.
type Report struct {
	Seq int64
	academy.ClassReport
}

// Visit is a class on a day that a student was in.
type Visit struct {
	Class string
	On    calendar.Day
	Part  string // late or early; empty for the whole class
}

// Checked is a check that stands: the newest of its corrections, at the place of the
// first.
type Checked struct {
	store.Checked
	Order int64
}

// studentLog is what one student did. What follows from it alone is computed once and
// goes with it when something new is known of the student.
type studentLog struct {
	visits   []Visit // by day, then class
	checks   []Checked
	told     []store.Tallied // corrections a coach noted for them
	standing atomic.Pointer[standingOf]
	presence atomic.Pointer[presenceOf]
	memo     sync.Map // what the use cases computed of this student
}

func newLog() *Log {
	return &Log{classes: map[string]*classLog{}, students: map[string]*studentLog{}, placements: map[string]string{}, forecasts: map[string][]store.Forecasted{}, reports: &reportIndex{}, decisions: &decisions{}}
}

func (s *Session) find(student string) (int, bool) {
	return slices.BinarySearchFunc(s.here, student, func(p Presence, id string) int { return cmp.Compare(p.Student, id) })
}

// Came says whether a student was in the class, for how much of it and by which event.
func (s *Session) Came(student string) (Presence, bool) {
	if s == nil {
		return Presence{}, false
	}
	if i, ok := s.find(student); ok {
		return s.here[i], true
	}
	return Presence{}, false
}

// TakenBack is the place of the event that took a student's attendance back last; 0 where none did.
func (s *Session) TakenBack(student string) int64 {
	if s == nil {
		return 0
	}
	return s.gone[student]
}

// Here lists who was in the class, by identifier.
func (s *Session) Here() []Presence {
	if s == nil {
		return nil
	}
	return s.here
}

// Tallies lists what coaches counted and noted in the class, in their order.
func (s *Session) Tallies() []store.Tallied {
	if s == nil {
		return nil
	}
	return s.tally
}

// Held says whether the class took place, as far as is known: it was reported, or somebody was in it.
func (s *Session) Held() bool { return s != nil && (s.Report != nil || len(s.here) > 0) }

// ID names the session: class.2026-11-24.
func (s *Session) ID() string { return academy.Occurrence(s.Class, s.On) }

func (c *classLog) find(on calendar.Day) (int, bool) {
	return slices.BinarySearchFunc(c.sessions, on, func(s *Session, on calendar.Day) int { return cmp.Compare(s.On, on) })
}

// Session is what is known of a class on a day; nil when nothing is.
func (l *Log) Session(class string, on calendar.Day) *Session {
	c := l.classes[class]
	if c == nil {
		return nil
	}
	if i, ok := c.find(on); ok {
		return c.sessions[i]
	}
	return nil
}

// SessionsOf lists what is known of a weekly class, by day.
func (l *Log) SessionsOf(class string) []*Session {
	if c := l.classes[class]; c != nil {
		return c.sessions
	}
	return nil
}

// Sessions gives every session there is, class by class, until told to stop.
func (l *Log) Sessions(yield func(*Session) bool) {
	ids := make([]string, 0, len(l.classes))
	for id := range l.classes {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	for _, id := range ids {
		for _, s := range l.classes[id].sessions {
			if !yield(s) {
				return
			}
		}
	}
}

// Visits lists the classes a student was in, by day.
func (l *Log) Visits(student string) []Visit {
	if s := l.students[student]; s != nil {
		return s.visits
	}
	return nil
}

// Checks lists a student's checks that stand, in the order they were kept in.
func (l *Log) Checks(student string) []Checked {
	if s := l.students[student]; s != nil {
		return s.checks
	}
	return nil
}

// Corrections lists what coaches noted for a student, in the order they were kept in.
func (l *Log) Corrections(student string) []store.Tallied {
	if s := l.students[student]; s != nil {
		return s.told
	}
	return nil
}

// AllChecks gives every check that stands, student by student, until told to stop.
func (l *Log) AllChecks(yield func(Checked) bool) {
	for _, s := range l.students {
		for _, c := range s.checks {
			if !yield(c) {
				return
			}
		}
	}
}

// Touched says whether anything is known of a student.
func (l *Log) Touched(student string) bool { return l.students[student] != nil }

// ReportsKept counts the classes that were reported.
func (l *Log) ReportsKept() int {
	n := 0
	for s := range l.Sessions {
		if s.Report != nil {
			n++
		}
	}
	return n
}

// PlacedOn is the curriculum a student was placed on last; empty for none.
func (l *Log) PlacedOn(student string) string { return l.placements[student] }

// builder makes the next log of one before it: it copies what it touches and
// shares the rest. It is a store.Reader.
type builder struct {
	*Log
	freshClass   map[*classLog]bool
	freshSession map[*Session]bool
	freshStudent map[*studentLog]bool
	newReports   bool
	newDecisions bool
	newForecasts bool
	alias        map[string]string // whose record somebody's was merged into
	whole        bool              // there was nothing before: whatever there is, is fresh
	last         *Session          // the one asked for last: attendances come session by session
}

// after begins the next log.
func after(had *Log) *builder {
	next := *had
	next.classes, next.students, next.placements = cloned(had.classes), cloned(had.students), cloned(had.placements)
	return &builder{Log: &next, freshClass: map[*classLog]bool{}, freshSession: map[*Session]bool{}, freshStudent: map[*studentLog]bool{}, whole: had.Last == 0}
}

func cloned[K comparable, V any](m map[K]V) map[K]V {
	out := make(map[K]V, len(m)+1)
	for k, v := range m {
		out[k] = v
	}
	return out
}

// done is the log, from now on never changed.
func (b *builder) done(last int64) *Log {
	b.Last = last
	if b.newReports {
		b.reports = &reportIndex{}
	}
	return b.Log
}

// now is the record somebody's is a part of now.
func (b *builder) now(student string) string {
	if to, ok := b.alias[student]; ok {
		return to
	}
	return student
}

func (b *builder) session(class string, on calendar.Day) *Session {
	if b.last == nil || b.last.On != on || b.last.Class != class {
		b.last = b.findSession(class, on)
	}
	return b.last
}

func (b *builder) findSession(class string, on calendar.Day) *Session {
	c := b.classes[class]
	if c == nil || !b.whole && !b.freshClass[c] {
		next := &classLog{}
		if c != nil {
			next.sessions = slices.Clone(c.sessions)
		}
		c = next
		b.classes[class], b.freshClass[c] = c, true
	}
	i, ok := c.find(on)
	if !ok {
		s := &Session{Class: class, On: on}
		c.sessions = slices.Insert(c.sessions, i, s)
		b.freshSession[s] = true
		b.cost += 120
		return s
	}
	s := c.sessions[i]
	if !b.whole && !b.freshSession[s] {
		s = &Session{Class: s.Class, On: s.On, Report: s.Report, here: slices.Clone(s.here), gone: maps.Clone(s.gone), records: maps.Clone(s.records), tally: slices.Clone(s.tally)}
		c.sessions[i], b.freshSession[s] = s, true
	}
	return s
}

func (b *builder) student(id string) *studentLog {
	s := b.students[id]
	if s == nil || !b.whole && !b.freshStudent[s] {
		next := &studentLog{}
		if s != nil {
			next.visits, next.checks, next.told = slices.Clone(s.visits), slices.Clone(s.checks), slices.Clone(s.told)
		}
		s = next
		b.students[id], b.freshStudent[s] = s, true
	}
	return s
}

// attendedBefore is the newest attendance of a day before one, or a newer one: who was there changes with it. Tonight's check-ins do not touch it.
func (l *Log) attendedBefore(day calendar.Day) int64 {
	if day > l.newestDay {
		return max(l.beforeDay, l.onNewest)
	}
	return l.beforeDay
}

// ofRecords notes what is said of one of several records that are one person's, and gives what holds of the person: who was there for the whole class on
// one of them was there for all of it, and what is taken back on one stays on the others.
func (s *Session) ofRecords(several []Presence, x Presence, present bool) (best Presence, stands bool) {
	several = slices.DeleteFunc(slices.Clone(several), func(p Presence) bool { return p.as == x.as })
	if present {
		several = append(several, x)
	}
	if s.records == nil {
		s.records = map[string][]Presence{}
	}
	s.records[x.Student] = several
	for i, p := range several {
		if i == 0 || p.Part == "" && best.Part != "" {
			best = p
		}
	}
	return best, len(several) > 0
}

// Attended takes in an attendance: of two on one student in one class the later
// one counts.
func (b *builder) Attended(a store.Attended) {
	b.Events++
	as := a.Student
	a.Student = b.now(a.Student)
	session, student := b.session(a.Class, a.On), b.student(a.Student)
	// Who was in a class that was held counts for everybody's chances. Tonight's check-ins do not yet: the first one in a class,
	// and the first of another day, make what follows from the past anew; those after it do not.
	b.newReports = b.newReports || session.Report != nil || len(session.here) == 0 || !a.Present && len(session.here) == 1 || a.On != b.lastDay
	b.lastDay = a.On
	switch {
	case a.On > b.newestDay:
		b.newestDay, b.beforeDay, b.onNewest = a.On, max(b.beforeDay, b.onNewest), a.Seq
	case a.On == b.newestDay:
		b.onNewest = a.Seq
	default:
		b.beforeDay = a.Seq
	}
	i, was := session.find(a.Student)
	if !a.Present {
		if session.gone == nil {
			session.gone = map[string]int64{}
		}
		session.gone[a.Student] = a.Seq
	}
	stands := a.Present
	now := Presence{a.Student, a.Seq, a.Part, as}
	if several, more := session.records[a.Student]; more || was && session.here[i].as != as {
		if !more {
			several = []Presence{session.here[i]}
		}
		now, stands = session.ofRecords(several, now, a.Present)
	}
	visit := Visit{session.Class, a.On, now.Part}
	at, _ := slices.BinarySearchFunc(student.visits, visit, func(x, y Visit) int { return cmp.Or(cmp.Compare(x.On, y.On), cmp.Compare(x.Class, y.Class)) })
	switch {
	case stands && was:
		session.here[i], student.visits[at].Part = now, now.Part
	case stands:
		session.here = slices.Insert(session.here, i, now)
		student.visits = slices.Insert(student.visits, at, visit)
		b.cost += 60
	case was:
		session.here = slices.Delete(session.here, i, i+1)
		student.visits = slices.Delete(student.visits, at, at+1)
	}
}

// Reported takes in a report: the later one of a class counts, for everybody
// who was in it.
func (b *builder) Reported(r store.Reported) {
	b.Events++
	b.newReports = true
	b.LastReport = max(b.LastReport, r.Seq)
	s := b.session(r.Class, r.On)
	for k, m := range r.Makeups {
		people := make([]string, len(m.People))
		for i, id := range m.People {
			people[i] = b.now(id)
		}
		r.Makeups[k].People = people
	}
	s.Report = &Report{r.Seq, r.ClassReport}
	for _, p := range s.here {
		b.student(p.Student)
	}
	b.cost += 300 + int64(80*(len(r.Items)+len(r.Faults)+4*len(r.Makeups)))
}

// Checked takes in a check. One that corrects another stands in its place; one that takes it back leaves nothing.
func (b *builder) Checked(c store.Checked) {
	b.Events++
	c.Student = b.now(c.Student)
	s := b.student(c.Student)
	if i := slices.IndexFunc(s.checks, func(had Checked) bool { return had.Seq == c.Replaces }); c.Replaces != 0 && i >= 0 {
		if c.Overruled != nil && c.Overruled.Withdrawn {
			s.checks = slices.Delete(s.checks, i, i+1)
			return
		}
		s.checks[i].Checked = c
		return
	}
	if c.Overruled != nil && c.Overruled.Withdrawn {
		return
	}
	s.checks = append(s.checks, Checked{c, c.Seq})
	b.cost += 320
}

// Tallied takes in what a coach counted or noted.
func (b *builder) Tallied(t store.Tallied) {
	b.Events++
	t.Student = b.now(t.Student)
	s := b.session(t.Class, t.On)
	s.tally = append(s.tally, t)
	if t.Student != "" {
		who := b.student(t.Student)
		who.told = append(who.told, t)
	}
	b.cost += 260
}

// Forecasted takes in what was expected of a plan.
func (b *builder) Forecasted(f store.Forecasted) {
	b.Events++
	if !b.newForecasts {
		b.forecasts, b.newForecasts = maps.Clone(b.forecasts), true
	}
	b.forecasts[f.Season] = append(slices.Clip(b.forecasts[f.Season]), f)
	b.cost += 200 + int64(40*len(f.Line))
}

// Forecasts are what was expected of a season at each of its publications that stand, the first one first.
func (l *Log) Forecasts(s academy.Season) []store.Forecasted {
	if s.Published == nil {
		return nil
	}
	last := map[int]store.Forecasted{} // a publication that was undone has its number given again
	for _, f := range l.forecasts[s.ID] {
		if f.Number <= s.Published.Number {
			last[f.Number] = f
		}
	}
	return slices.SortedFunc(maps.Values(last), func(a, b store.Forecasted) int { return cmp.Compare(a.Number, b.Number) })
}

// Placed takes in a placement.
func (b *builder) Placed(p store.Placed) {
	b.Events++
	b.placements[b.now(p.Student)] = p.To
}

// standingOf is where a student stands, as one library understands it.
type standingOf struct {
	of    any
	rules ledger.StandingRules
	all   []ledger.Standing
}
