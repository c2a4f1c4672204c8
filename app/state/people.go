package state

import (
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
)

// PersonLine is a person as a list shows one.
type PersonLine struct {
	ID       string       `json:"id"`
	Name     string       `json:"name"`
	Initials string       `json:"initials"`
	Rank     string       `json:"rank"`
	Belt     string       `json:"belt"`
	Minor    bool         `json:"minor"`
	Held     say.Sentence `json:"held,omitempty" doc:"What a medical hold keeps them out of"`
	Student  bool         `json:"student"`
	Coach    bool         `json:"coach"`
}

// line shows a person to somebody: what the hold covers to those who pair and
// teach, its note to the head instructor alone.
func (f *Snapshot) Line(p academy.Person, u User, on calendar.Day) PersonLine {
	rank := f.RankOf(p)
	l := PersonLine{ID: p.ID, Name: p.Name, Initials: p.Initials(), Rank: rank.Name, Belt: rank.Belt, Student: p.Student, Coach: p.Coach != nil}
	if u.Teaches() {
		l.Minor = p.Minor(on) && (p.Student || p.Birth != nil) // of who only teaches, no age is asked
	}
	for _, h := range p.Holds {
		if !h.Active(on) {
			continue
		}
		switch {
		case u.Teaches() || u.Sees(p.ID):
			l.Held = HoldWords(h)
		case u.Is(Desk):
			l.Held = DeskHold
		}
	}
	return l
}

// DeskHold is what the desk is told of whoever is held.
const DeskHold say.Sentence = "ask the coach before training"

// HoldWords says what a hold covers.
func HoldWords(h safety.Hold) say.Sentence {
	if h.All {
		return "all partner drills"
	}
	if h.NoLive && len(h.Regions) == 0 {
		return "situational and live rounds"
	}
	words := make([]say.Sentence, len(h.Regions))
	for i, r := range h.Regions {
		words[i] = r.Say()
	}
	return say.Join(", ", words...)
}

func (f *Snapshot) RankOf(p academy.Person) curriculum.Rank {
	l := f.Ladders[p.Ladder]
	if i := l.Position(p.Rank); i >= 0 {
		return l.Ranks[i]
	}
	return curriculum.Rank{ID: p.Rank, Name: p.Rank}
}

// body is what safety needs to know of somebody.
func (f *Snapshot) Body(p academy.Person, on calendar.Day) safety.Person {
	age, _ := p.Age(on)
	return safety.Person{Age: age, Ladder: p.Ladder, Rank: max(0, f.Ladders[p.Ladder].Position(p.Rank)), Holds: p.Holds}
}

// refusals says why a technique is not for a student.
func (f *Snapshot) Refusals(p academy.Person, t library.Technique, on calendar.Day) []safety.Refusal {
	return safety.Refusals(f.Body(p, on), t.Load(), f.Settings.Gates, on)
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
	// What the chance stands on.
	Evidence float64 `json:"-"`
}

// chances estimates, for every student, the chance of being in each weekly
// class, from the classes held before a day. Costs students × classes, and the visits of
// those of whom something new is known.
func (f *Snapshot) Chances(on calendar.Day) map[string]map[string]Chance {
	return Remember(f, chancesOn{on, f.attendedBefore(on)}, func() map[string]map[string]Chance {
		students := f.Students()
		presences := make([]Presences, len(students))
		cameAll, heldAll := 0, 0
		for i, p := range students {
			presences[i] = f.PresencesOf(p, on)
			cameAll += presences[i].Came
			heldAll += presences[i].Held
		}
		out := make(map[string]map[string]Chance, len(students))
		for i, p := range students {
			prior := f.Settings.Attendance.Prior(presences[i].Came, presences[i].Held, cameAll, heldAll)
			of := make(map[string]Chance, len(f.Classes))
			age, _ := p.Age(on)
			for _, c := range f.Classes {
				k := Chance{Class: c.ID, Name: c.Name, Prior: prior}
				came, all := 0.0, 0.0
				if x := presences[i].Of[c.ID]; x != nil {
					k.Held, k.Came, came, all = x.Held, x.Came, x.Weight, x.HeldWeight
				}
				if age >= f.Tracks[c.Track].MinAge && !c.Ended(on) {
					k.Chance, k.Evidence = f.Settings.Attendance.WeightedChance(came, all, prior), f.Settings.Attendance.Evidence(all)
				}
				of[c.ID] = k
			}
			out[p.ID] = of
		}
		return out
	})
}

// chancesOn names what is remembered of a day.
type chancesOn struct {
	day      calendar.Day
	attended int64
}

// ageOn is somebody's age on a day, 0 while it is unknown.
func AgeOn(p academy.Person, on calendar.Day) int {
	age, _ := p.Age(on)
	return age
}
