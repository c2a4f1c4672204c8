package state

import (
	"slices"
	"strconv"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
)

// rung is a student's kept standing with one technique on one side.
func (f *Snapshot) Rung(student, technique string, side library.Side) ledger.Standing {
	if s, ok := f.Standing(student, technique, side); ok {
		return s
	}
	return ledger.Standing{Technique: technique, Side: side, Rung: curriculum.NotMet}
}

// readiness compares a student with what the next rank asks.
func (f *Snapshot) Readiness(p academy.Person, on calendar.Day) ledger.Readiness {
	c, next, ok := f.CurriculumFor(p)
	if !ok {
		return ledger.Readiness{Missing: []ledger.Gap{}, Waits: []say.Sentence{}}
	}
	r := f.ReadyFor(p, c, on)
	r.Rank = next.Name
	return r
}

// readyFor compares a student with one curriculum of their next rank.
func (f *Snapshot) ReadyFor(p academy.Person, c curriculum.Curriculum, on calendar.Day) ledger.Readiness {
	type readiness struct{}
	type asOf struct {
		curriculum string
		on         calendar.Day
	}
	return RememberOf(f, p.ID, readiness{}, asOf{c.ID, on}, func() ledger.Readiness { return f.computeReadiness(p, c, on) })
}

// mostPoints is how many points a path has at most.
const mostPoints = 53

// Path is how far somebody was toward a curriculum of their next rank, since the present one was given.
func (f *Snapshot) Path(p academy.Person, c curriculum.Curriculum, on calendar.Day) []ledger.PathPoint {
	type path struct{}
	type asOf struct {
		curriculum string
		on         calendar.Day
	}
	return RememberOf(f, p.ID, path{}, asOf{c.ID, on}, func() []ledger.PathPoint {
		l := f.students[p.ID]
		if l == nil || len(c.Requirements) == 0 || p.RankSince >= on {
			return []ledger.PathPoint{}
		}
		attended, checked := f.happened(p.ID, l)
		first := on // the records may begin later than their rank
		for _, a := range attended {
			first = min(first, a.On)
		}
		for _, c := range checked {
			first = min(first, c.On)
		}
		first = max(p.RankSince, first-7)
		weeks := (int(on-first)/7 + mostPoints - 2) / (mostPoints - 1)
		var days []calendar.Day
		for day := on; day >= first && len(days) < mostPoints; day -= calendar.Day(7 * max(1, weeks)) {
			days = append(days, day)
		}
		slices.Reverse(days)
		return ledger.Path(f.Library, c, ledger.Candidate{Since: p.RankSince, Rules: f.Settings.Standing}, attended, checked, days)
	})
}

func (f *Snapshot) computeReadiness(p academy.Person, c curriculum.Curriculum, on calendar.Day) ledger.Readiness {
	next, _ := f.Ladders[p.Ladder].Next(p.Rank)
	classes := 0
	for _, v := range f.Visits(p.ID) {
		if v.On >= p.RankSince {
			classes++
		}
	}
	age, _ := p.Age(on)
	return ledger.Ready(f.Library, c, ledger.Candidate{On: on, Since: p.RankSince, Classes: classes, Age: age, Next: next,
		Standings: f.Standings(p.ID), Person: f.Body(p, on), Gates: f.Settings.Gates, Rules: f.Settings.Standing})
}

// Percent is a share in words.
func Percent(share float64) string { return strconv.Itoa(int(share*100+0.5)) + " %" }

// StandardWords says what the house standard asks of a check.
func StandardWords(s ledger.Standard) say.Sentence {
	return say.F("All gates unprompted, no caution broken, and at least %.0f %% of the other key points (prompted counts half).", 100*s.PassShare)
}

// PassRate is the share of the academy's checks that were met.
func (f *Snapshot) PassRate() float64 {
	type key struct{ last int64 } // a check does not make what is remembered anew: the place in the log does
	return Remember(f, key{f.Last}, func() float64 {
		met, all := 0, 0
		for c := range f.AllChecks {
			if all++; c.Met {
				met++
			}
		}
		return ledger.PassRate(met, all)
	})
}

// SignoffOf is what a coach must be signed off for to check a technique: what the unit that teaches it asks.
func (f *Snapshot) SignoffOf(technique string) string {
	for _, unit := range f.Units {
		if unit.Signoff != "" && slices.Contains(unit.Techniques, technique) {
			return unit.Signoff
		}
	}
	return ""
}

// FailedLately counts the checks not met since the last one that was.
func (f *Snapshot) FailedLately(student, technique string, side library.Side) int {
	n := 0
	for _, c := range slices.Backward(f.Checks(student)) {
		if f.Library.Now(c.Technique) != technique || c.Side != side {
			continue
		}
		if c.Met {
			break
		}
		n++
	}
	return n
}
