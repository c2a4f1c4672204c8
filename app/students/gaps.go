package students

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/makeup"
	"vereda/core/say"
	"vereda/core/season"
)

const (
	gapWeeks   = 8  // how far back is looked for what was missed
	gapAhead   = 21 // days to the next time a class is held
	usualClass = 0.5
)

// Gaps gathers people with the same gap: a unit taught lately in a track they train in, which their next rank asks for and of which they have met nothing.
func (a *Service) Gaps(ctx context.Context, u state.User) (GapsPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return GapsPage{}, err
	}
	on := f.Today()
	page := GapsPage{Groups: []GapGroup{}, Nobody: []GapNobody{}, Weeks: gapWeeks}
	taught := f.taughtLately(on)
	var people []makeup.Person
	for _, p := range f.Students() {
		x := makeup.Person{ID: p.ID, Missed: f.missed(p, taught, on)}
		if len(x.Missed) == 0 {
			continue
		}
		chances := f.Chances(on)[p.ID]
		best, most := "", 0.0
		for _, c := range f.Classes {
			chance := chances[c.ID].Chance
			if chance >= usualClass {
				x.Comes = append(x.Comes, c.ID)
			}
			if chance > most {
				best, most = c.ID, chance
			}
		}
		if len(x.Comes) == 0 && most >= likelyThere {
			x.Comes = []string{best}
		}
		people = append(people, x)
	}
	page.People = len(people)
	found := makeup.Groups(people, func(unit, class string) bool {
		x, _ := f.Unit(unit)
		c, _ := f.Class(class)
		_, ok := f.nextTime(c, on)
		return ok && slices.Contains(x.Tracks, c.Track)
	})
	page.Bound, page.Proven = found.Bound, found.Proven
	for _, g := range found.Groups {
		x, _ := f.Unit(g.Unit)
		c, _ := f.Class(g.Class)
		day, _ := f.nextTime(c, on)
		line := GapGroup{Unit: g.Unit, Name: x.Name, Class: g.Class, Where: c.Name, Session: academy.Occurrence(c.ID, day), On: day, Minutes: x.Minutes, People: []state.Named{}}
		n := f.SessionPlan(c, day)
		switch {
		case slices.ContainsFunc(n.Items, func(it season.Item) bool { return it.Unit == g.Unit }):
			line.Put = "unit"
		case slices.Contains(n.Decided.Makeups(), g.Unit):
			line.Put = "station"
		}
		for _, id := range g.People {
			line.People = append(line.People, state.Named{ID: id, Name: f.NameOf(id)})
		}
		page.Groups = append(page.Groups, line)
	}
	for _, l := range found.Nobody {
		x, _ := f.Unit(l.Unit)
		page.Nobody = append(page.Nobody, GapNobody{f.NameOf(l.Person), x.Name})
	}
	return page, nil
}

// nextTime is the next day a class is held on and not reported yet.
func (f *snapshot) nextTime(c academy.Class, on calendar.Day) (calendar.Day, bool) {
	for day := on; day <= on+gapAhead; day++ {
		for _, k := range f.ClassesOn(day) {
			if k.ID == c.ID && !f.Reported(c.ID, day) && f.SessionPlan(c, day).Closed == "" {
				return day, true
			}
		}
	}
	return 0, false
}

// taughtLately lists the units of which something was taught in the last weeks, by track.
func (f *snapshot) taughtLately(on calendar.Day) map[string][]academy.Unit {
	all := map[string][]academy.Unit{}
	for _, c := range f.Classes {
		done := map[string]bool{}
		for _, s := range f.SessionsOf(c.ID) {
			if r, ok := f.ReportOf(s); ok && s.On > on-7*gapWeeks {
				for _, it := range r.Items {
					if it.Kind == "teach" && it.Reached != "not" {
						done[f.Library.Now(it.Technique)] = true
					}
				}
			}
		}
		for _, unit := range f.Units {
			has := func(x academy.Unit) bool { return x.ID == unit.ID }
			if slices.ContainsFunc(unit.Techniques, func(t string) bool { return done[t] }) && slices.Contains(unit.Tracks, c.Track) && !slices.ContainsFunc(all[c.Track], has) {
				all[c.Track] = append(all[c.Track], unit)
			}
		}
	}
	return all
}

// missed lists the units taught lately in somebody's tracks that their next rank asks something of, all of which they have not met.
func (f *snapshot) missed(p academy.Person, taught map[string][]academy.Unit, on calendar.Day) []string {
	tracks := map[string]bool{}
	for _, v := range f.Visits(p.ID) {
		if c, ok := f.Class(v.Class); ok && v.On > on-lately {
			tracks[c.Track] = true
		}
	}
	open := map[string]bool{}
	for _, g := range f.Readiness(p, on).Missing {
		if g.Has.Step() < curriculum.Met.Step() && len(g.InTheWay) == 0 {
			open[g.Technique] = true
		}
	}
	var all []string
	for track := range tracks {
		for _, unit := range taught[track] {
			if slices.ContainsFunc(unit.Techniques, func(t string) bool { return open[t] }) && !slices.Contains(all, unit.ID) {
				all = append(all, unit.ID)
			}
		}
	}
	slices.Sort(all)
	return all
}

// StoppingRow is somebody who comes less than they did.
type StoppingRow struct {
	state.PersonLine
	ledger.Falling
	LastSeen *calendar.Day `json:"last_seen,omitempty"`
}

// StoppingPage is who comes less, for the head instructor alone.
type StoppingPage struct {
	Rows    []StoppingRow `json:"rows" doc:"Least likely by chance first"`
	Looked  int           `json:"looked" doc:"Students with a past long enough"`
	Formula say.Sentence  `json:"formula"`
}

const stoppingFormula say.Sentence = "The visits of the last four weeks beside those of the twelve before (the conditional test of two Poisson rates): if nothing had changed, so few or fewer would come up with the chance shown. Listed where it is under 5 % and the rate is under six tenths of what it was. It says that they come less, not why."

// Stopping lists who comes less than they did. Weeks in which no class was held count for neither.
func (a *Service) Stopping(ctx context.Context, u state.User) (StoppingPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return StoppingPage{}, err
	}
	on := f.Today()
	page := StoppingPage{Rows: []StoppingRow{}, Formula: stoppingFormula}
	held := map[calendar.Day]bool{}
	for s := range f.Sessions {
		if s.Held() && s.On > on-7*(ledger.RecentWeeks+ledger.BeforeWeeks) && s.On <= on {
			held[(on-s.On)/7] = true
		}
	}
	recentWeeks, beforeWeeks := 0.0, 0.0
	for w := range held {
		if w < ledger.RecentWeeks {
			recentWeeks++
		} else {
			beforeWeeks++
		}
	}
	for _, p := range f.Students() {
		if p.Joined > on-7*(ledger.RecentWeeks+4) {
			continue
		}
		page.Looked++
		recent, before := 0, 0
		row := StoppingRow{PersonLine: f.Line(p, u, on)}
		for _, v := range f.Visits(p.ID) {
			switch {
			case v.On > on:
			case v.On > on-7*ledger.RecentWeeks:
				recent++
			case v.On > on-7*(ledger.RecentWeeks+ledger.BeforeWeeks):
				before++
			}
			if v.On <= on {
				row.LastSeen = &v.On
			}
		}
		weeks := min(beforeWeeks, float64(on-p.Joined)/7-recentWeeks)
		if row.Falling = ledger.Stopping(recent, before, recentWeeks, weeks); row.Falling.Falling {
			page.Rows = append(page.Rows, row)
		}
	}
	slices.SortStableFunc(page.Rows, func(a, b StoppingRow) int { return cmp.Compare(a.P, b.P) })
	return page, nil
}
