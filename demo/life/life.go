// Package life makes the Lantern Street Grappling Hall as it is in the middle of its life: the demo. From the library, ladders and curricula that
// are written by hand, and a seed, it makes people, a timetable, three seasons with what became of them, and a fourth
// that waits. The story it tells is in demo/README.md; every date hangs on the day it is made for, so the same day gives the same hall.
package life

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/demo"
	"vereda/exchange"
)

// seed of everything that is left to chance.
const seed = 20261124

// Length of a season, and of the pause after it.
const (
	weeks = 12
	pause = 1
	now   = 5 // the week in which the third season stands
)

// Academy is the hall as of a day. It costs about a second, most of it planning.
func Academy(today calendar.Day) (exchange.Bundle, error) {
	text, err := demo.Bundle()
	if err != nil {
		return exchange.Bundle{}, err
	}
	if text, err = exchange.Lay(text, today); err != nil {
		return exchange.Bundle{}, err
	}
	b, err := exchange.Read(text)
	if err != nil {
		return exchange.Bundle{}, err
	}
	b.Events, b.Seasons, b.Sessions = nil, []academy.Season{}, nil
	h := &hall{b: &b, today: today, monday: today.WeekStart(1), rng: rand.New(rand.NewPCG(seed, 1)), lib: library.New(b.Positions, b.Techniques), had: map[string]map[string]float64{}, checked: map[string]int{}, reported: map[string]bool{}}
	h.tracks()
	h.timetable()
	h.coaches()
	h.people()
	h.units()
	if err := h.seasons(); err != nil {
		return exchange.Bundle{}, err
	}
	h.now()
	return b, nil
}

// hall is the academy in the making.
type hall struct {
	b          *exchange.Bundle
	today      calendar.Day
	monday     calendar.Day
	rng        *rand.Rand
	lib        *library.Library
	students   []student
	had        map[string]map[string]float64 // student, technique: exposures so far
	checked    map[string]int                // student, technique and side: checks met
	reported   map[string]bool
	lastMissed calendar.Day // when a unit was not reached last
	forgot     bool         // the one class nobody reported was there
	n          int
}

// student is somebody who comes, to what, how often, and how quickly they learn.
type student struct {
	at      int // in the bundle's people
	classes map[string]float64
	skill   float64
	stops   calendar.Day // from then on they stay away; 0 for never
}

func (h *hall) tracks() {
	usual := season.UsualRules
	spiral := usual
	spiral.Deeper = true // what comes back is the next layer of it
	children := usual
	children.MostNew, children.MostUnits = 1, 2
	h.b.Tracks = []academy.Track{
		{ID: "fundamentals", Name: "Fundamentals", Audience: "adult", Context: "gi", Mode: "same", School: "block", MinAge: 16, Assumed: []string{"u-hips"}, Rules: usual},
		{ID: "all-levels", Name: "All levels", Audience: "adult", Context: "gi", Mode: "split", School: "spiral", MinAge: 16, Assumed: []string{"u-hips", "u-base"}, Rules: spiral},
		{ID: "no-gi", Name: "No-gi", Audience: "adult", Context: "no-gi", Mode: "split", School: "spiral", MinAge: 16, Assumed: []string{"u-hips", "u-base"}, Rules: spiral},
		{ID: "children", Name: "Children", Audience: "youth", Context: "gi", Mode: "same", School: "block", MinAge: 7, Rules: children},
		{ID: "youth", Name: "Youth", Audience: "youth", Context: "gi", Mode: "same", School: "block", MinAge: 12, Assumed: []string{"u-hips"}, Rules: usual},
	}
}

func (h *hall) timetable() {
	class := func(id, name, track string, weekday int, start string, minutes, teach int, mat string) academy.Class {
		return academy.Class{ID: id, Name: name, Track: track, Hours: academy.Hours{Weekday: weekday, Start: start, Minutes: minutes, TeachMinutes: teach, Mat: mat}}
	}
	h.b.Classes = []academy.Class{
		class("children-mon", "Children, Monday", "children", 1, "16:30", 50, 24, "Mat one"),
		class("all-mon", "All levels, Monday", "all-levels", 1, "18:00", 90, 45, "Mat one"),
		class("nogi-mon", "No-gi, Monday", "no-gi", 1, "19:45", 75, 38, "Mat two"),
		class("youth-tue", "Youth, Tuesday", "youth", 2, "16:45", 60, 32, "Mat one"),
		class("fund-tue", "Fundamentals, Tuesday", "fundamentals", 2, "18:15", 75, 40, "Mat one"),
		class("children-wed", "Children, Wednesday", "children", 3, "16:30", 50, 24, "Mat one"),
		class("all-wed", "All levels, Wednesday", "all-levels", 3, "18:30", 90, 45, "Mat one"),
		class("youth-thu", "Youth, Thursday", "youth", 4, "16:45", 60, 32, "Mat one"),
		class("fund-thu", "Fundamentals, Thursday", "fundamentals", 4, "18:15", 75, 40, "Mat one"),
		class("nogi-fri", "No-gi, Friday", "no-gi", 5, "18:30", 75, 38, "Mat two"),
		class("fund-sat", "Fundamentals, Saturday", "fundamentals", 6, "09:30", 75, 40, "Mat one"),
		class("nogi-sat", "No-gi, Saturday", "no-gi", 6, "11:00", 90, 45, "Mat one"),
		class("all-sun", "All levels, Sunday", "all-levels", 7, "10:30", 90, 45, "Mat one"),
	}
}

// coaches are the six of the written demo and three more, each with classes of their own.
func (h *hall) coaches() {
	born := func(years int) *calendar.Day { d := h.today.AddMonths(-12*years - 5); return &d }
	joined := h.today.AddMonths(-70)
	for _, p := range []academy.Person{
		{ID: "odalys-venn", Name: "Odalys Venn", Birth: born(34), Weight: 58, Rank: "purple", Email: "odalys@lantern-street.example"},
		{ID: "henrik-taal", Name: "Henrik Taal", Birth: born(41), Weight: 92, Rank: "brown", Email: "henrik@lantern-street.example"},
		{ID: "marlow-quist", Name: "Marlow Quist", Birth: born(27), Weight: 74, Rank: "purple", Email: "marlow@lantern-street.example"},
	} {
		p.Ladder, p.RankSince, p.Joined, p.Coach = "adult", h.today.AddMonths(-26), joined, &academy.Terms{Signoffs: []string{}}
		h.b.People = append(h.b.People, p)
	}
	for id, t := range map[string]academy.Terms{
		"ines-falk":    {Available: []string{"all-mon", "fund-tue", "all-wed", "fund-thu", "all-sun"}, Signoffs: []string{"arm locks", "strangles", "throws", "leg attacks"}, MaxPerWeek: 3, Share: 0.2},
		"tomas-reyl":   {Available: []string{"nogi-mon", "fund-tue", "nogi-fri", "nogi-sat"}, Signoffs: []string{"arm locks", "strangles", "throws"}, MaxPerWeek: 3, Share: 0.15},
		"dagny-korr":   {Available: []string{"youth-tue", "fund-thu", "fund-sat", "children-wed"}, Signoffs: []string{"arm locks", "strangles"}, MaxPerWeek: 3, Share: 0.15},
		"wim-aldous":   {Available: []string{"nogi-mon", "nogi-fri", "nogi-sat", "all-wed"}, Signoffs: []string{"leg attacks", "throws", "strangles", "arm locks"}, MaxPerWeek: 3, Share: 0.15},
		"tamsin-aru":   {Available: []string{"children-mon", "children-wed", "youth-thu", "fund-sat"}, Signoffs: []string{"arm locks"}, MaxPerWeek: 3, Share: 0.1},
		"bodo-merrin":  {Available: []string{"all-mon", "all-wed", "all-sun", "nogi-sat"}, Signoffs: []string{"arm locks", "strangles", "throws"}, MaxPerWeek: 2, Share: 0.1},
		"odalys-venn":  {Available: []string{"children-mon", "youth-tue", "youth-thu", "children-wed"}, Signoffs: []string{"arm locks"}, MaxPerWeek: 2, Share: 0.1},
		"henrik-taal":  {Available: []string{"all-sun", "fund-sat", "all-mon", "fund-thu"}, Signoffs: []string{"arm locks", "strangles", "throws", "leg attacks"}, MaxPerWeek: 2, Share: 0.1},
		"marlow-quist": {Available: []string{"nogi-fri", "nogi-mon", "fund-tue", "youth-thu"}, Signoffs: []string{"arm locks", "strangles"}, MaxPerWeek: 2, Share: 0.1},
	} {
		if p := h.person(id); p != nil {
			terms := t
			p.Coach = &terms
		}
	}
}

func (h *hall) person(id string) *academy.Person {
	for i := range h.b.People {
		if h.b.People[i].ID == id {
			return &h.b.People[i]
		}
	}
	return nil
}

// units are the written ones in more tracks, and those that the curricula of the other ranks make.
func (h *hall) units() {
	gated := func(techniques []string, track academy.Track) bool {
		for _, id := range techniques {
			t, _ := h.lib.Technique(id)
			if len(safety.TrackRefusals(safety.Person{Age: track.MinAge}, track.ID, t.Load(), h.b.Settings.Gates)) > 0 {
				return true
			}
		}
		return false
	}
	for i := range h.b.Units {
		u := &h.b.Units[i]
		if slices.Contains(u.Tracks, "fundamentals") {
			u.Tracks = append(slices.Clone(u.Tracks), "all-levels")
		}
		for _, t := range h.b.Tracks {
			if t.Audience == "youth" && !gated(u.Techniques, t) && u.Signoff == "" {
				u.Tracks = append(slices.Clone(u.Tracks), t.ID)
			}
		}
	}
	for _, x := range []struct {
		curriculum string
		tracks     []string
	}{{"grey-1", []string{"children", "youth"}}, {"yellow-1", []string{"children", "youth"}}, {"orange-1", []string{"youth"}}, {"blue-1", []string{"fundamentals", "all-levels"}}, {"purple-2", []string{"all-levels", "no-gi"}}} {
		i := slices.IndexFunc(h.b.Curricula, func(c curriculum.Curriculum) bool { return c.ID == x.curriculum })
		if i >= 0 {
			h.unitsOf(h.b.Curricula[i], x.tracks)
		}
	}
}

// unitsOf makes units of a curriculum's order for what no unit teaches yet.
func (h *hall) unitsOf(c curriculum.Curriculum, tracks []string) {
	var order []curriculum.Step
	for _, r := range c.Requirements {
		order = append(order, curriculum.Step{Technique: r.Technique})
	}
	groups := c.Units(order, h.lib)
	names := make([]string, len(groups))
	for i, g := range groups {
		for _, u := range h.b.Units {
			if slices.ContainsFunc(u.Techniques, func(t string) bool { return slices.Contains(g.Techniques, t) }) {
				names[i] = u.ID
			}
		}
		if names[i] != "" {
			continue
		}
		u := academy.Unit{ID: "u-" + g.Techniques[0], Name: h.lib.Name(g.Techniques[0]), Techniques: g.Techniques, Movement: g.Movement, Tracks: slices.Clone(tracks), Minutes: min(g.Minutes, 24), ReviewMinutes: min(g.Review, 8), Area: h.area(g.Techniques[0])}
		names[i] = u.ID
		for _, j := range g.Requires {
			if names[j] != u.ID && !slices.Contains(u.Requires, names[j]) {
				u.Requires = append(u.Requires, names[j])
			}
		}
		h.b.Units = append(h.b.Units, u)
	}
}

// area is the family a technique begins in, as the written units call it.
func (h *hall) area(technique string) string {
	t, _ := h.lib.Technique(technique)
	if t.From == nil {
		return "movement"
	}
	p, _ := h.lib.Position(t.From.Position)
	switch p.Family {
	case "passing postures":
		return "passing"
	}
	return string(p.Family)
}

// event adds one of a kind at an hour of a day.
func (h *hall) event(kind, id string, on calendar.Day, hour int, student, class, by string, body any) {
	h.n++
	e, err := academy.NewEvent(id, kind, on, body)
	if err != nil {
		panic(fmt.Sprintf("%s: %v", id, err)) // a body of ours that JSON cannot hold
	}
	e.Student, e.Class, e.RecordedBy = student, class, by
	e.RecordedAt = on.Time().Add(time.Duration(hour)*time.Hour + time.Duration(h.n%3000)*time.Second)
	h.b.Events = append(h.b.Events, e)
}
