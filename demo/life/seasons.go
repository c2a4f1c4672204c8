package life

import (
	"fmt"
	"slices"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/core/season/search"
)

// planSeconds is how long each season is planned for, in the planner's steps and not by the clock: the same hall on every machine.
const planSeconds = 0.25

// seasons plans four of them one after the other, each from what was taught by then, and lives through all that is past.
func (h *hall) seasons() error {
	third := h.monday - 7*(now-1)
	length := calendar.Day(7 * (weeks + pause))
	for i, s := range []academy.Season{
		{ID: "season-1", Name: "Spring season", Start: third - 2*length, Closures: []academy.Closure{{Week: 6, Why: "mat repair"}}},
		{ID: "season-2", Name: "Summer season", Start: third - length, Closures: []academy.Closure{{Week: 8, Why: "town festival"}}},
		{ID: "season-3", Name: "Autumn season", Start: third, Closures: []academy.Closure{{Week: 9, Why: "winter holiday"}}, Dates: []academy.SeasonDate{
			{ID: "autumn-open", Kind: "competition", Name: "Harbour Open", On: third + 7*7 + 5, Calm: true},
			{ID: "autumn-grading", Kind: "grading", Name: "Grading", On: third + 7*11 + 4, Track: "fundamentals", Seen: []string{"u-side-escape", "u-mount-escapes", "u-open-guard-pass", "u-half-guard"}},
		}},
		{ID: "season-4", Name: "Winter season", Start: third + length, Closures: []academy.Closure{}, Dates: []academy.SeasonDate{
			{ID: "winter-guest", Kind: "guest", Name: "Guest coach: leg locks", On: third + length + 7*3 + 5, Kept: []string{"u-ankle"}, Weeks: 3},
		}},
	} {
		s.Weeks = weeks
		p := h.problem(s)
		plan, err := search.Solve(p, nil)
		if err != nil {
			return fmt.Errorf("%s: %w", s.Name, err)
		}
		// What it covers the academy computes from what it knows, not from what is so.
		plan.Coverage, plan.Bound, plan.Proven = 0, 0, false
		s.Plan = &plan
		if i < 3 {
			s.Published = &academy.Published{Plan: plan, Number: 1, On: (s.Start - 4).Time().Add(20 * 3600e9), By: "ines-falk"}
			h.live(s)
		}
		h.b.Seasons = append(h.b.Seasons, s)
		switch i {
		case 1:
			h.testDay(s.Start + 7*weeks - 2)
		case 2:
			h.shows(ready, 0, h.today-9)
		}
	}
	return nil
}

// problem is a season as the planner reads it, with what students have had by then and how often they come.
func (h *hall) problem(s academy.Season) season.Problem {
	p := season.Problem{Weeks: weeks, Spacing: season.DefaultSpacing, Goal: "full", Seconds: planSeconds, Seed: 1}
	for _, c := range s.Closures {
		p.Closures = append(p.Closures, season.Closure{Week: c.Week, Class: c.Class})
	}
	for _, t := range h.b.Tracks {
		p.Tracks = append(p.Tracks, season.Track{ID: t.ID, Mode: t.Mode, School: t.School, Assumed: t.Assumed, Rules: t.Rules})
	}
	for _, c := range h.b.Classes {
		p.Classes = append(p.Classes, season.Class{ID: c.ID, Track: c.Track, Weekday: c.Weekday, Start: c.Start, TeachMinutes: c.TeachMinutes})
	}
	for _, u := range h.b.Units {
		out := season.Unit{ID: u.ID, Name: u.Name, Minutes: u.Minutes, ReviewMinutes: u.ReviewMinutes, Area: u.Area, Signoff: u.Signoff, Requires: u.Requires, Risky: h.risky(u)}
		for _, id := range u.Tracks {
			t := h.b.Tracks[slices.IndexFunc(h.b.Tracks, func(t academy.Track) bool { return t.ID == id })]
			if !slices.ContainsFunc(u.Techniques, func(x string) bool {
				tech, _ := h.lib.Technique(x)
				return len(safety.TrackRefusals(safety.Person{Age: t.MinAge}, t.ID, tech.Load(), h.b.Settings.Gates)) > 0
			}) {
				out.Tracks = append(out.Tracks, id)
			}
		}
		for _, id := range u.Techniques {
			tech, _ := h.lib.Technique(id)
			out.Layers = max(out.Layers, len(tech.Layers))
		}
		if len(out.Tracks) > 0 {
			p.Units = append(p.Units, out)
		}
	}
	p.Wanted, p.Barred = s.Asks(p.Units, s.Start)
	planned := func(id string) bool {
		return slices.ContainsFunc(p.Units, func(u season.Unit) bool { return u.ID == id })
	}
	for i, u := range p.Units {
		p.Units[i].Requires = slices.DeleteFunc(slices.Clone(u.Requires), func(r string) bool { return !planned(r) })
	}
	for _, st := range h.students {
		person := h.b.People[st.at]
		out := season.Student{ID: person.ID, Chance: st.classes}
		asked, ok := h.asked(person)
		if !ok {
			continue
		}
		for _, u := range p.Units {
			unit := h.b.Units[slices.IndexFunc(h.b.Units, func(x academy.Unit) bool { return x.ID == u.ID })]
			n := season.Need{Unit: u.ID, Need: 1, Had: 9}
			for _, id := range unit.Techniques {
				if r, in := asked.Serves(id); in && h.checked[person.ID+"/"+id+"/right"] == 0 {
					n.Weight += r.Weight
					n.Had = min(n.Had, h.had[person.ID][id])
					if r.Rung.Step() >= curriculum.Drilled.Step() {
						n.Need = 2
					}
				}
			}
			n.Had = min(n.Had, n.Need)
			if n.Weight > 0 {
				out.Open = append(out.Open, n)
			}
		}
		p.Students = append(p.Students, out)
	}
	for _, x := range h.b.People {
		if x.Coach != nil {
			p.Coaches = append(p.Coaches, season.Coach{ID: x.ID, Available: x.Coach.Available, Signoffs: x.Coach.Signoffs, MaxPerWeek: x.Coach.MaxPerWeek, Share: x.Coach.Share})
		}
	}
	return p
}

// risky says whether a unit loads a neck or twists a leg.
func (h *hall) risky(u academy.Unit) bool {
	return slices.ContainsFunc(append([]string{u.Movement}, u.Techniques...), func(id string) bool {
		t, _ := h.lib.Technique(id)
		return slices.Contains(t.Risks, "neck or spine") || slices.Contains(t.Risks, "knee or ankle twisting")
	})
}

// asked is the curriculum of somebody's next rank: the newest that is published.
func (h *hall) asked(p academy.Person) (best curriculum.Curriculum, ok bool) {
	l := h.b.Ladders[slices.IndexFunc(h.b.Ladders, func(l curriculum.Ladder) bool { return l.ID == p.Ladder })]
	next, there := l.Next(p.Rank)
	if !there {
		return best, false
	}
	for _, c := range h.b.Curricula {
		if c.Ladder == l.ID && c.Rank == next.ID && c.State == "published" && (!ok || c.Version > best.Version) {
			best, ok = c, true
		}
	}
	return best, ok
}

// live goes through the days of a season up to yesterday: who came, what was reached, what was checked.
func (h *hall) live(s academy.Season) {
	for on := s.Start; on < min(h.today, s.Start+7*weeks); on++ {
		for _, c := range h.b.Classes {
			week := int(on-s.Start)/7 + 1
			if c.Weekday != on.Weekday() || slices.ContainsFunc(s.Closures, func(x academy.Closure) bool { return x.Week == week }) {
				continue
			}
			x, planned := s.Plan.Find(week, c.ID)
			h.evening(s, x, planned, c, on)
		}
	}
}

// evening is one class on one day.
func (h *hall) evening(s academy.Season, x season.Placement, planned bool, c academy.Class, on calendar.Day) {
	session := academy.Occurrence(c.ID, on)
	var here []int
	for i, st := range h.students {
		p := h.b.People[st.at]
		if on < p.Joined || st.stops > 0 && on >= st.stops || h.rng.Float64() >= st.classes[c.ID] {
			continue
		}
		here = append(here, i)
		h.event(academy.AttendanceEvent, fmt.Sprintf("a.%s.%s", session, p.ID), on, 18, p.ID, session, "front-desk", map[string]bool{"present": true})
	}
	if !planned || len(here) == 0 {
		return
	}
	if x.Lead == forgetful && on >= h.today-6 && !h.forgot { // the class nobody reported
		h.forgot = true
		return
	}
	report := academy.ClassReport{Lead: x.Lead, Items: []ledger.Item{}, Faults: []academy.FaultCount{}}
	for _, it := range x.Items {
		unit := h.b.Units[slices.IndexFunc(h.b.Units, func(u academy.Unit) bool { return u.ID == it.Unit })]
		reached := "all"
		switch {
		case h.missed(s, it, on):
			reached = "not"
		case it.Kind == season.Teach && h.rng.IntN(5) == 0:
			reached = "part"
		}
		for _, id := range unit.Techniques {
			report.Items = append(report.Items, ledger.Item{Technique: id, Kind: it.Kind, Reached: reached})
			if reached != "not" {
				h.heard(here, id, it.Kind, reached)
				h.faults(&report, id, len(here))
			}
		}
	}
	if h.rng.IntN(7) == 0 {
		report.Note = []string{"The second side was short; begin with it next time.", "Two new people: pair them with somebody patient.", "They want to wrestle more and drill less. Not yet.", "Good evening. The question at the end was understood."}[h.rng.IntN(4)]
	}
	h.event(academy.ClassReportEvent, "t."+session, on, 20, "", session, x.Lead, report)
	for range 1 + h.rng.IntN(2) {
		h.check(on, session, x.Lead, here[h.rng.IntN(len(here))])
	}
}

// missed are the three units that were not reached this season: teaches of the last three weeks, some days apart, whatever the plan teaches then.
func (h *hall) missed(s academy.Season, it season.Item, on calendar.Day) bool {
	if s.ID != "season-3" || it.Kind != season.Teach || on < h.monday-14 || len(h.reported) >= 3 || h.reported[it.Unit] {
		return false
	}
	if on < h.lastMissed+3 {
		return false
	}
	h.reported[it.Unit], h.lastMissed = true, on
	return true
}

func (h *hall) heard(here []int, technique, kind, reached string) {
	worth := map[string]float64{"teach all": 1, "teach part": 0.5, "review all": 0.5, "review part": 0.5}[kind+" "+reached]
	for _, i := range here {
		id := h.b.People[h.students[i].at].ID
		if h.had[id] == nil {
			h.had[id] = map[string]float64{}
		}
		h.had[id][technique] += worth
	}
}

// faults counts what was seen of the first two faults of a technique. Those of the knee cut are seen in most: the underhook it lives on was taught to few.
func (h *hall) faults(r *academy.ClassReport, technique string, people int) {
	t, _ := h.lib.Technique(technique)
	n := 0
	for _, k := range t.KeyPoints {
		for _, f := range k.Faults {
			if n++; n > 2 || h.rng.IntN(3) == 0 {
				continue
			}
			tries := max(4, people) + h.rng.IntN(6)
			share := 0.08 + 0.2*h.rng.Float64()
			if technique == "knee-cut" && n == 1 || technique == "hip-bump" && n == 2 {
				share = 0.55 + 0.2*h.rng.Float64()
			}
			r.Faults = append(r.Faults, academy.FaultCount{Technique: technique, Fault: f.ID, Seen: int(share * float64(tries)), Tries: tries})
		}
	}
}

// check is made of somebody who is here, in what their rank asks and they have heard: by the lead, and now and then by two.
func (h *hall) check(on calendar.Day, session, by string, i int) {
	st := h.students[i]
	if h.b.People[st.at].ID == ready && on >= h.today-9 {
		return // she has just shown all of it
	}
	p := h.b.People[st.at]
	asked, ok := h.asked(p)
	if !ok {
		return
	}
	var open []string
	for _, r := range asked.Requirements {
		if h.had[p.ID][r.Technique] >= 1 && h.checked[p.ID+"/"+r.Technique+"/right"] < 2 {
			open = append(open, r.Technique)
		}
	}
	if len(open) == 0 {
		return
	}
	t, _ := h.lib.Technique(open[h.rng.IntN(len(open))])
	for i, side := range t.Sides() {
		does := h.does(t, st.skill)
		h.keep(on, session, by, p.ID, t, side, h.seen(does, by), "")
		if i == 0 && h.rng.IntN(4) == 0 { // somebody else looks too: that is how one learns how far coaches agree
			other := strict
			if by == strict {
				other = []string{"ines-falk", "bodo-merrin", "tomas-reyl"}[h.rng.IntN(3)]
			}
			h.keep(on, session, other, p.ID, t, side, h.seen(does, other), "2")
		}
	}
}

// does is what somebody really does of a technique, key point by key point.
func (h *hall) does(t library.Technique, skill float64) map[string]ledger.Seen {
	does := map[string]ledger.Seen{}
	shown := 0.7 + 0.28*skill
	for _, k := range t.KeyPoints {
		switch x := h.rng.Float64(); {
		case x < shown:
			does[k.ID] = ledger.Shown
		case x < shown+0.6*(1-shown):
			does[k.ID] = ledger.Prompted
		default:
			does[k.ID] = ledger.Missing
		}
	}
	return does
}

// seen is what a coach sees of it: one in ten key points otherwise than it was; who is strict asks for more of what was nearly there.
func (h *hall) seen(does map[string]ledger.Seen, by string) ledger.Observation {
	o := ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: 1 + h.rng.IntN(2)}
	ids := make([]string, 0, len(does))
	for id := range does {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	for _, id := range ids {
		s := does[id]
		x := h.rng.Float64()
		switch {
		case by == strict && s == ledger.Shown && x < 0.16:
			s = ledger.Prompted
		case by == strict && s == ledger.Prompted && x < 0.4:
			s = ledger.Missing
		case by != strict && x < 0.06:
			s = ledger.Shown
		case by != strict && s == ledger.Shown && x > 0.96:
			s = ledger.Prompted
		}
		o.Points[id] = s
	}
	return o
}

func (h *hall) keep(on calendar.Day, session, by, student string, t library.Technique, side library.Side, o ledger.Observation, mark string) {
	v := ledger.Judge(t.On(side), o, ledger.DefaultStandard)
	if v.Met {
		h.checked[student+"/"+t.ID+"/"+string(side)]++
	}
	h.n++
	id := fmt.Sprintf("c.%s.%d%s", on, h.n, mark)
	h.event(academy.CheckEvent, id, on, 20, student, session, by, academy.Check{Technique: t.ID, Side: side, Observation: o, Verdict: &v, By: by})
}

// shows has somebody show the head instructor all that their next rank asks but the last few of it, in one go.
func (h *hall) shows(id string, but int, on calendar.Day) {
	p := h.person(id)
	if p == nil {
		return
	}
	asked, _ := h.asked(*p)
	for _, r := range asked.Requirements[:max(0, len(asked.Requirements)-but)] {
		t, _ := h.lib.Technique(r.Technique)
		o := ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: 2}
		for _, k := range t.KeyPoints {
			o.Points[k.ID] = ledger.Shown
		}
		for _, side := range t.Sides() {
			h.keep(on, "", "ines-falk", id, t, side, o, "t")
		}
	}
}

// testDay is the end of the second season: a white belt shows all but three things of what blue asks, and has not been asked since; four people were given a stripe.
func (h *hall) testDay(on calendar.Day) {
	h.shows(readyToo, 3, on)
	given := 0
	for i := range h.b.People {
		p := &h.b.People[i]
		if given == 4 || !p.Student || p.Rank != "white" || p.ID == ready || p.ID == readyToo || p.ID == stays || p.Joined > on-400 {
			continue
		}
		given++
		h.event(academy.PromotionEvent, "p."+p.ID, on, 19, p.ID, "", "ines-falk", academy.Promotion{Outcome: academy.Stripe, FromLadder: p.Ladder, From: p.Rank, Ladder: p.Ladder, To: p.Rank, Stripes: 1, Reason: "Calm under the mount, and helps those who began after."})
	}
}

// now sets what is so today and was not while the seasons were planned: who is held, who is away next week, who came to try.
func (h *hall) now() {
	if p := h.person(hurt); p != nil {
		p.Holds = []safety.Hold{{Regions: []safety.Region{"knee"}, From: h.today - 8, Note: "Twisted the knee at home. No partner drills on the legs until the clinician's clearance."}}
	}
	if p := h.person(away); p != nil && p.Coach != nil {
		terms := *p.Coach
		terms.Out = []academy.Span{{From: h.monday + 7, To: h.monday + 13}}
		p.Coach = &terms
	}
	yesterday := h.today - 1
	for _, c := range h.b.Classes {
		if c.Weekday == yesterday.Weekday() && c.Track != "children" && c.Track != "youth" {
			h.b.People = append(h.b.People, academy.Person{ID: "guest-fable-orrin", Name: "Fable Orrin", Ladder: "adult", Rank: "white", RankSince: yesterday, Joined: yesterday, Guest: "trial", Weight: 68})
			session := academy.Occurrence(c.ID, yesterday)
			h.event(academy.AttendanceEvent, "a."+session+".guest-fable-orrin", yesterday, 18, "guest-fable-orrin", session, "front-desk", map[string]bool{"present": true})
			break
		}
	}
	h.b.TestDays = nil
}
