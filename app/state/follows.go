package state

import (
	"cmp"
	"slices"
	"sync"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
)

// What follows from the log, computed when it is asked for and kept for as long as it is
// true: a student's standings until something new is known of that student, chances until the day changes or a
// class is reported.

// ReportOf is what a class reached, in the names its techniques have now; false while
// nothing was reported.
func (s *Snapshot) ReportOf(x *Session) (Report, bool) {
	if x == nil || x.Report == nil {
		return Report{}, false
	}
	r := *x.Report
	if !s.Library.HasMerged() {
		return r, true
	}
	merged := func(it ledger.Item) bool { return s.Library.Now(it.Technique) != it.Technique }
	if !slices.ContainsFunc(r.Items, merged) && !slices.ContainsFunc(r.Makeups, func(m academy.Makeup) bool { return slices.ContainsFunc(m.Items, merged) }) &&
		!slices.ContainsFunc(r.Faults, func(f academy.FaultCount) bool { return s.Library.Now(f.Technique) != f.Technique }) {
		return r, true
	}
	r.Items, r.Faults, r.Makeups = slices.Clone(r.Items), slices.Clone(r.Faults), slices.Clone(r.Makeups)
	for k := range r.Makeups {
		r.Makeups[k].Items = slices.Clone(r.Makeups[k].Items)
		for i := range r.Makeups[k].Items {
			r.Makeups[k].Items[i].Technique = s.Library.Now(r.Makeups[k].Items[i].Technique)
		}
	}
	for i := range r.Items {
		r.Items[i].Technique = s.Library.Now(r.Items[i].Technique)
	}
	for i := range r.Faults {
		r.Faults[i].Technique = s.Library.Now(r.Faults[i].Technique)
	}
	return r, true
}

// Reported says whether a class on a day was reported.
func (s *Snapshot) Reported(class string, on calendar.Day) bool {
	x := s.Session(class, on)
	return x != nil && x.Report != nil
}

// Standings is where a student stands with every technique that ever touched
// them, from the log alone.
func (s *Snapshot) Standings(student string) []ledger.Standing {
	l := s.students[student]
	if l == nil {
		return nil
	}
	if had := l.standing.Load(); had != nil && had.of == s.Library && had.rules == s.Settings.Standing {
		return had.all
	}
	all := s.standings(student, l)
	l.standing.Store(&standingOf{s.Library, s.Settings.Standing, all})
	return all
}

func (s *Snapshot) standings(student string, l *studentLog) []ledger.Standing {
	attended, checked := s.happened(student, l)
	return ledger.Standings(s.Library, s.Settings.Standing, attended, checked)
}

// ReachedSince is when a student reached each rung, from a day on.
func (s *Snapshot) ReachedSince(student string, since calendar.Day) ledger.Reached {
	l := s.students[student]
	if l == nil {
		return ledger.Reached{}
	}
	attended, checked := s.happened(student, l)
	return ledger.ReachedSince(s.Library, s.Settings.Standing, attended, checked, since)
}

// Picks is what each of a student's checks from a day on could have been of, and was.
func (s *Snapshot) Picks(student string, asked ledger.Asked, since calendar.Day) []ledger.Pick {
	l := s.students[student]
	if l == nil {
		return nil
	}
	attended, checked := s.happened(student, l)
	return ledger.Picks(s.Library, s.Settings.Standing, attended, checked, asked, since)
}

// happened is what standings follow from.
func (s *Snapshot) happened(student string, l *studentLog) ([]ledger.Attended, []ledger.Checked) {
	var attended []ledger.Attended
	for _, v := range l.visits {
		if r, ok := s.ReportOf(s.Session(v.Class, v.On)); ok {
			attended = append(attended, r.Had(student, v.On, v.Part != "")...)
		}
	}
	checked := make([]ledger.Checked, len(l.checks))
	for i, c := range l.checks {
		checked[i] = ledger.Checked{On: c.On, Order: int(c.Order), Technique: s.Library.Now(c.Technique), Side: c.Side, Rung: c.Rung, Met: c.Met}
	}
	return attended, checked
}

// Standing is where a student stands with one technique on one side.
func (s *Snapshot) Standing(student, technique string, side library.Side) (ledger.Standing, bool) {
	all := s.Standings(student)
	i, ok := slices.BinarySearchFunc(all, ledger.Standing{Technique: technique, Side: side}, func(a, b ledger.Standing) int {
		return cmp.Or(cmp.Compare(a.Technique, b.Technique), cmp.Compare(a.Side, b.Side))
	})
	if !ok {
		return ledger.Standing{}, false
	}
	return all[i], true
}

// reportIndex is what follows from the reports together. A new report makes a
// new one.
type reportIndex struct {
	once   sync.Once
	counts map[string]map[string]Counted // technique, fault

	mu   sync.Mutex
	held map[heldKey]*heldClass
}

// Counted is how often a fault was seen, over all reports.
type Counted struct{ Seen, Tries int }

// Faults counts what was seen of a technique's faults, by the names techniques have in their
// reports: ask for each name it ever had.
func (s *Snapshot) Faults(technique string) map[string]Counted {
	x := s.reports
	x.once.Do(func() {
		x.counts = map[string]map[string]Counted{}
		for session := range s.Sessions {
			if session.Report == nil {
				continue
			}
			for _, f := range session.Report.Faults {
				if x.counts[f.Technique] == nil {
					x.counts[f.Technique] = map[string]Counted{}
				}
				had := x.counts[f.Technique][f.Fault]
				x.counts[f.Technique][f.Fault] = Counted{had.Seen + f.Seen, had.Tries + f.Tries}
			}
		}
	})
	t, ok := s.Library.Technique(technique)
	if !ok || len(t.Formerly) == 0 {
		return x.counts[technique]
	}
	all := map[string]Counted{}
	for _, name := range append([]string{t.ID}, t.Formerly...) {
		for fault, c := range x.counts[name] {
			had := all[fault]
			all[fault] = Counted{had.Seen + c.Seen, had.Tries + c.Tries}
		}
	}
	return all
}

// heldKey names a weekly class as seen on a day.
type heldKey struct {
	class string
	on    calendar.Day
	rules ledger.AttendanceRules
}

// heldClass is the sessions of a weekly class that were held before a day (reported, or with somebody in them), newest
// last, with the sum of their weights from each of them on.
type heldClass struct {
	days []calendar.Day
	from []float64 // from[i]: weights of days[i:] summed, oldest first
}

// Held lists the sessions of a weekly class held before a day.
func (s *Snapshot) heldBefore(class string, on calendar.Day) *heldClass {
	x, key := s.reports, heldKey{class, on, s.Settings.Attendance}
	x.mu.Lock()
	defer x.mu.Unlock()
	if had := x.held[key]; had != nil {
		return had
	}
	h := &heldClass{}
	for _, session := range s.SessionsOf(class) {
		if session.Held() && session.On < on {
			h.days = append(h.days, session.On)
		}
	}
	h.from = make([]float64, len(h.days)+1)
	for i := len(h.days) - 1; i >= 0; i-- {
		h.from[i] = h.from[i+1] + key.rules.Weight(float64(on-h.days[i])/7)
	}
	if x.held == nil || len(x.held) > 400 {
		x.held = map[heldKey]*heldClass{}
	}
	x.held[key] = h
	return h
}

// Presences is how a student came to the classes held before a day.
type Presences struct {
	Held, Came int                       // of all classes since they joined
	Of         map[string]*ClassPresence // by class
}

// ClassPresence is how a student came to one weekly class: how often it was held since they joined, how
// often they came, and both with the weight of age.
type ClassPresence struct {
	Held, Came         int
	HeldWeight, Weight float64
}

// presenceOf is Presences as of a day and a state of the reports.
type presenceOf struct {
	on      calendar.Day
	joined  calendar.Day
	reports *reportIndex
	rules   ledger.AttendanceRules
	all     Presences
}

// PresencesOf is how a student came to the classes held before a day. Costs the
// student's own visits.
func (s *Snapshot) PresencesOf(p academy.Person, on calendar.Day) Presences {
	l := s.students[p.ID]
	if l != nil {
		if had := l.presence.Load(); had != nil && had.on == on && had.joined == p.Joined && had.reports == s.reports && had.rules == s.Settings.Attendance {
			return had.all
		}
	}
	out := Presences{Of: map[string]*ClassPresence{}}
	// Classes that are not in the timetable any more count for the overall rate.
	for id := range s.Log.classes {
		h := s.heldBefore(id, on)
		i, _ := slices.BinarySearch(h.days, p.Joined)
		out.Held += len(h.days) - i
		out.Of[id] = &ClassPresence{Held: len(h.days) - i, HeldWeight: h.from[i]}
	}
	if l == nil {
		return out
	}
	for _, v := range l.visits {
		if v.On < p.Joined || v.On >= on {
			continue
		}
		out.Came++
		of := out.Of[v.Class]
		of.Came++
		of.Weight += s.Settings.Attendance.Weight(float64(on-v.On) / 7)
	}
	l.presence.Store(&presenceOf{on, p.Joined, s.reports, s.Settings.Attendance, out})
	return out
}
