package app

import (
	"cmp"
	"slices"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
)

// PersonLine is a person as a list shows one.
type PersonLine struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Initials string `json:"initials"`
	Rank     string `json:"rank"`
	Belt     string `json:"belt"`
	Minor    bool   `json:"minor"`
	Held     string `json:"held,omitempty" doc:"What a medical hold keeps them out of"`
	HoldNote string `json:"hold_note,omitempty" doc:"For the head instructor only"`
	Student  bool   `json:"student"`
	Coach    bool   `json:"coach"`
}

// line shows a person to somebody: what the hold covers to those who pair and
// teach, its note to the head instructor alone.
func (f *facts) line(p academy.Person, u User, on calendar.Day) PersonLine {
	rank := f.rank(p)
	l := PersonLine{ID: p.ID, Name: p.Name, Initials: p.Initials(), Rank: rank.Name, Belt: rank.Belt, Student: p.Student, Coach: p.Coach != nil}
	if u.Role != Desk && u.Role != Student {
		l.Minor = p.Minor(on)
	}
	for _, h := range p.Holds {
		if !h.Active(on) {
			continue
		}
		switch u.Role {
		case Head:
			l.Held, l.HoldNote = holdWords(h), h.Note
		case Coach:
			l.Held = holdWords(h)
		case Desk:
			l.Held = "ask the coach before training"
		case Student:
			if p.ID == u.Person {
				l.Held = holdWords(h)
			}
		}
	}
	return l
}

func holdWords(h safety.Hold) string {
	if h.All {
		return "all partner drills"
	}
	words := ""
	for i, r := range h.Regions {
		if i > 0 {
			words += ", "
		}
		words += string(r)
	}
	return words
}

func (f *facts) rank(p academy.Person) curriculum.Rank {
	l := f.ladders[p.Ladder]
	if i := l.Position(p.Rank); i >= 0 {
		return l.Ranks[i]
	}
	return curriculum.Rank{ID: p.Rank, Name: p.Rank}
}

// body is what safety needs to know of somebody.
func (f *facts) body(p academy.Person, on calendar.Day) safety.Person {
	return safety.Person{Age: on.YearsSince(p.Birth), Rank: max(0, f.ladders[p.Ladder].Position(p.Rank)), Holds: p.Holds}
}

// refusals says why a technique is not for a student.
func (f *facts) refusals(p academy.Person, t library.Technique, on calendar.Day) []safety.Refusal {
	return safety.Refusals(f.body(p, on), t.Risks, f.settings.Gates, on)
}

// Chance is the estimate of a student's presence in one weekly class, and what
// it is made of.
type Chance struct {
	Class  string  `json:"class"`
	Name   string  `json:"name"`
	Chance float64 `json:"chance"`
	Came   int     `json:"came" doc:"Of the classes held while enrolled"`
	Held   int     `json:"held"`
	Prior  float64 `json:"prior" doc:"The rate assumed before anything was seen in this class"`
}

// chances estimates, for every student, the chance of being in each weekly
// class, from the classes held before a day.
func (f *facts) chances(on calendar.Day) map[string]map[string]Chance {
	type held struct {
		class string
		on    calendar.Day
		id    string
	}
	var all []held
	for id := range f.taught {
		if class, day, err := academy.SplitOccurrence(id); err == nil && day < on {
			all = append(all, held{class, day, id})
		}
	}
	// In one order, so that the sums are the same to the last digit every time.
	slices.SortFunc(all, func(a, b held) int { return cmp.Or(cmp.Compare(a.on, b.on), cmp.Compare(a.id, b.id)) })
	cameAll, heldAll := 0, 0
	own := map[string][2]int{}
	for _, p := range f.students() {
		n := [2]int{}
		for _, h := range all {
			if h.on < p.Joined {
				continue
			}
			n[1]++
			if f.came[h.id][p.ID] != "" {
				n[0]++
			}
		}
		own[p.ID] = n
		cameAll += n[0]
		heldAll += n[1]
	}
	out := map[string]map[string]Chance{}
	for _, p := range f.students() {
		prior := ledger.Prior(own[p.ID][0], own[p.ID][1], cameAll, heldAll)
		out[p.ID] = map[string]Chance{}
		for _, c := range f.classes {
			k := Chance{Class: c.ID, Name: c.Name, Prior: prior}
			var visits []ledger.Visit
			for _, h := range all {
				if h.class != c.ID || h.on < p.Joined {
					continue
				}
				came := f.came[h.id][p.ID] != ""
				visits = append(visits, ledger.Visit{WeeksAgo: float64(on-h.on) / 7, Came: came})
				k.Held++
				if came {
					k.Came++
				}
			}
			if on.YearsSince(p.Birth) >= f.tracks[c.Track].MinAge {
				k.Chance = ledger.AttendanceChance(visits, prior)
			}
			out[p.ID][c.ID] = k
		}
	}
	return out
}
