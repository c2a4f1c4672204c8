package classes

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/say"
	"vereda/core/season"
)

// Series is where a class stands among those of its track: what the ones before did, and what the next one brings.
type Series struct {
	Before []SeriesLine   `json:"before" doc:"The last reported, newest first"`
	Next   []SeriesLine   `json:"next"`
	Why    []say.Sentence `json:"why" doc:"Why tonight's units are due, a line each"`
}

// SeriesLine is another class of the track.
type SeriesLine struct {
	Session string       `json:"session"`
	On      calendar.Day `json:"on"`
	Summary say.Sentence `json:"summary"`
	Reached say.Sentence `json:"reached,omitempty" doc:"What of it was reached, and what was not"`
}

// Care is what a coach should know before the groups are made.
type Care struct {
	Missed []MissedLine  `json:"missed" doc:"Who here has not met what tonight stands on"`
	Sizes  []state.Named `json:"sizes" doc:"Who here has nobody within a fifth of their weight"`
}

// MissedLine is one person with what they have not met.
type MissedLine struct {
	state.Named
	Of string `json:"of"`
}

// UnreachedUnit is a unit that a class was to teach and did not come to: the plan can be repaired.
type UnreachedUnit struct {
	Season string `json:"season"`
	Week   int    `json:"week"`
	Class  string `json:"class"`
	Unit   string `json:"unit"`
	Name   string `json:"name"`
}

// unreached lists the units of the plan of which the class's report reached nothing.
func (f *snapshot) unreached(c academy.Class, on calendar.Day) []UnreachedUnit {
	all := []UnreachedUnit{}
	report, ok := f.ReportOf(f.Session(c.ID, on))
	if !ok {
		return all
	}
	for _, s := range f.Seasons {
		week := s.WeekOf(on)
		if week == 0 || s.Plan == nil {
			continue
		}
		x, _ := s.Plan.Find(week, c.ID)
		for _, it := range x.Items {
			unit, _ := f.Unit(it.Unit)
			touched := slices.ContainsFunc(report.Items, func(r ledger.Item) bool { return r.Reached != "not" && slices.Contains(unit.Techniques, r.Technique) })
			if it.Kind == season.Teach && !touched {
				all = append(all, UnreachedUnit{s.ID, week, c.ID, unit.ID, unit.Name})
			}
		}
	}
	return all
}

const (
	seriesBack    = 2  // classes before that a sheet shows
	seriesAhead   = 2  // days of the track to come
	seriesHorizon = 21 // days to look for them
)

// series tells where a class stands.
func (f *snapshot) series(c academy.Class, on calendar.Day, items []season.Item) Series {
	s := Series{Before: []SeriesLine{}, Next: []SeriesLine{}, Why: []say.Sentence{}}
	type held struct {
		class academy.Class
		x     *state.Session
	}
	var before []held
	for _, k := range f.Classes {
		if k.Track != c.Track {
			continue
		}
		sessions := f.SessionsOf(k.ID)
		for i := len(sessions) - 1; i >= 0 && len(before) < 40; i-- {
			if x := sessions[i]; x.Report != nil && (x.On < on || x.On == on && k.Start < c.Start) {
				before = append(before, held{k, x})
			}
		}
	}
	slices.SortStableFunc(before, func(a, b held) int {
		return cmp.Or(cmp.Compare(b.x.On, a.x.On), strings.Compare(b.class.Start, a.class.Start))
	})
	for _, h := range before[:min(seriesBack, len(before))] {
		r, _ := f.ReportOf(h.x)
		var taught, short []say.Sentence
		for _, it := range r.Items {
			name := f.Library.Name(it.Technique)
			taught = append(taught, say.Raw(name))
			switch {
			case it.Reached == "not":
				short = append(short, say.F("%s not reached", name))
			case it.Reached == "part" && it.Point != "":
				short = append(short, say.F("%s as far as “%s”", name, f.cueOf(it.Technique, it.Point)))
			case it.Reached == "part":
				short = append(short, say.F("%s in part", name))
			}
			if it.OneSide {
				short = append(short, say.F("%s on one side", name))
			}
		}
		s.Before = append(s.Before, SeriesLine{h.x.ID(), h.x.On, say.Join(", ", taught...), say.Join("; ", short...)})
	}
	for day := on; day <= on+seriesHorizon && len(s.Next) < seriesAhead; day++ {
		for _, k := range f.ClassesOn(day) {
			if k.Track != c.Track || day == on && k.Start <= c.Start {
				continue
			}
			if n := f.SessionPlan(k, day); len(n.Items) > 0 && n.Closed == "" && len(s.Next) < seriesAhead {
				s.Next = append(s.Next, SeriesLine{academy.Occurrence(k.ID, day), day, f.ItemWords(n.Items), ""})
			}
		}
	}
	for _, it := range items {
		s.Why = append(s.Why, f.whyDue(c, on, it))
	}
	return s
}

func (f *snapshot) cueOf(technique, point string) string {
	t, _ := f.Library.Technique(technique)
	for _, k := range t.On(t.Taught).KeyPoints {
		if k.ID == point {
			return string(k.Cue)
		}
	}
	return point
}

// whyDue says why a unit is tonight's: what it stands on, or how long ago it was last seen in this track.
func (f *snapshot) whyDue(c academy.Class, on calendar.Day, it season.Item) say.Sentence {
	unit, _ := f.Unit(it.Unit)
	last := calendar.Day(math.MinInt32)
	for _, k := range f.Classes {
		if k.Track != c.Track {
			continue
		}
		for _, x := range f.SessionsOf(k.ID) {
			r, ok := f.ReportOf(x)
			if !ok || x.On >= on {
				continue
			}
			for _, done := range r.Items {
				if slices.Contains(unit.Techniques, done.Technique) && done.Reached != "not" {
					last = max(last, x.On)
				}
			}
		}
	}
	seen := last != calendar.Day(math.MinInt32)
	switch {
	case it.Kind == season.Review && seen:
		return comesBack(unit.Name, last, (int(on-last)+3)/7)
	case it.Kind == season.Review:
		return say.F("%s is reviewed.", unit.Name)
	case seen:
		return say.F("%s goes on: last seen %s.", unit.Name, last)
	case len(unit.Requires) > 0:
		var names []string
		for _, id := range unit.Requires {
			before, _ := f.Unit(id)
			names = append(names, before.Name)
		}
		return say.F("%s is new, and stands on %s.", unit.Name, strings.Join(names, ", "))
	}
	return say.F("%s is new to this track.", unit.Name)
}

func comesBack(unit string, last calendar.Day, weeks int) say.Sentence {
	switch weeks {
	case 0:
		return say.F("%s comes back: last seen %s.", unit, last)
	case 1:
		return say.F("%s comes back: last seen %s, 1 week ago.", unit, last)
	}
	return say.F("%s comes back: last seen %s, %d weeks ago.", unit, last, weeks)
}

// care says who here needs an eye: who missed what tonight stands on, and whom nobody matches in size.
func (f *snapshot) care(here []Attendee, lesson mat.Lesson, items []season.Item) Care {
	care := Care{Missed: []MissedLine{}, Sizes: []state.Named{}}
	var stands []library.Technique
	for _, it := range items {
		unit, _ := f.Unit(it.Unit)
		for _, id := range unit.Requires {
			before, _ := f.Unit(id)
			for _, t := range before.Techniques {
				if x, ok := f.Library.Technique(t); ok {
					stands = append(stands, x)
				}
			}
		}
	}
	for _, a := range here {
		var missed []string
		for _, t := range stands {
			if f.bestStep(a.ID, t) < curriculum.Met.Step() {
				missed = append(missed, t.Name)
			}
		}
		if len(missed) > 0 {
			care.Missed = append(care.Missed, MissedLine{state.Named{ID: a.ID, Name: a.Name}, strings.Join(missed, ", ")})
		}
		if kg := f.Person[a.ID].Weight; kg > 0 && len(here) > 1 && a.Out == "" {
			alone := !slices.ContainsFunc(here, func(b Attendee) bool {
				other := f.Person[b.ID].Weight
				return b.ID != a.ID && b.Out == "" && (other == 0 || math.Abs(other-kg) <= 0.2*min(kg, other))
			})
			if alone {
				care.Sizes = append(care.Sizes, state.Named{ID: a.ID, Name: a.Name})
			}
		}
	}
	return care
}
