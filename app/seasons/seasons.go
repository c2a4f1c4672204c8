package seasons

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/store"
)

// problem turns what is known into what the planner reads, for one season as
// of a day. What was held stays as it was; days gone by without a class are
// closed. left says of units that may not be in any track, why.
func (f *snapshot) problem(s academy.Season, today calendar.Day) (p season.Problem, left []season.Unplaced) {
	p = season.Problem{Weeks: s.Weeks, Spacing: f.Settings.Spacing, Goal: "full", Seed: 1}
	for _, t := range f.Tracks {
		p.Tracks = append(p.Tracks, season.Track{ID: t.ID, Mode: t.Mode, School: t.School, Assumed: t.Assumed, Rules: t.Rules})
	}
	slices.SortFunc(p.Tracks, func(a, b season.Track) int { return cmp.Compare(a.ID, b.ID) })
	for _, c := range f.Classes {
		c.Hours = c.Coming(max(today, s.Start), s.End())
		p.Classes = append(p.Classes, season.Class{ID: c.ID, Track: c.Track, Weekday: f.Weekday(c), Start: c.Start, TeachMinutes: c.TeachMinutes})
	}
	for _, c := range s.Shut() {
		if _, there := f.Class(c.Class); c.Class != "" && !there {
			continue // it was closed, and is not in the timetable any more
		}
		p.Closures = append(p.Closures, season.Closure{Week: c.Week, Class: c.Class})
	}
	for _, c := range f.Classes {
		for w := 1; w <= s.Weeks; w++ {
			if _, closed := s.Closed(w, c.ID); !closed && !s.Meets(w, c) {
				p.Closures = append(p.Closures, season.Closure{Week: w, Class: c.ID})
			}
		}
	}
	f.lockPast(&p, s, today)
	left = f.planUnits(&p)
	for _, w := range s.Wanted {
		if slices.ContainsFunc(p.Units, func(u season.Unit) bool { return u.ID == w.Unit }) {
			p.Wanted = append(p.Wanted, w)
		}
	}
	for _, b := range s.Barred {
		if slices.ContainsFunc(p.Units, func(u season.Unit) bool { return u.ID == b.Unit }) && b.From <= s.Weeks {
			b.To = min(b.To, s.Weeks)
			p.Barred = append(p.Barred, b)
		}
	}
	f.relate(&p)
	wanted, barred := s.Asks(p.Units, today)
	p.Wanted, p.Barred = append(p.Wanted, wanted...), append(p.Barred, barred...)
	f.planStudents(&p, s, today)
	f.pin(&p, s)
	dropGone(&p)
	for _, person := range f.Active() {
		if person.Coach == nil {
			continue
		}
		available := slices.DeleteFunc(slices.Clone(person.Coach.Available), func(id string) bool { _, there := f.Class(id); return !there })
		c := season.Coach{ID: person.ID, Available: available, Signoffs: person.Coach.Signoffs, MaxPerWeek: person.Coach.MaxPerWeek, Share: person.Coach.Share}
		for w := 1; w <= s.Weeks; w++ {
			c.Out = append(c.Out, f.away(s, w, person.Coach.Out, available)...)
		}
		p.Coaches = append(p.Coaches, c)
	}
	return p, left
}

// away is what of a week a coach's days off take out: the classes on those days; the
// whole week where that is all of theirs.
func (f *snapshot) away(s academy.Season, week int, off []academy.Span, classes []string) []season.Away {
	from := s.Start + calendar.Day(7*(week-1))
	if slices.ContainsFunc(off, func(o academy.Span) bool { return o.From <= from && o.To >= from+6 }) {
		return []season.Away{{Week: week}}
	}
	var out []season.Away
	for _, id := range classes {
		c, _ := f.Class(id)
		on := s.DayOf(week, c)
		if slices.ContainsFunc(off, func(o academy.Span) bool { return o.From <= on && o.To >= on }) {
			out = append(out, season.Away{Week: week, Class: id})
		}
	}
	if len(out) > 0 && len(out) == len(classes) {
		return []season.Away{{Week: week}}
	}
	return out
}

// dropGone takes out of what is fixed, and of what tracks know before, the units that cannot be planned any more: what a class
// taught of them is in the ledger, and nothing to come stands on them.
func dropGone(p *season.Problem) {
	for i, t := range p.Tracks {
		p.Tracks[i].Assumed = slices.DeleteFunc(slices.Clone(t.Assumed), func(id string) bool {
			return !slices.ContainsFunc(p.Units, func(u season.Unit) bool { return u.ID == id })
		})
	}
	for i, x := range p.Fixed {
		p.Fixed[i].Items = slices.DeleteFunc(slices.Clone(x.Items), func(it season.Item) bool {
			return !slices.ContainsFunc(p.Units, func(u season.Unit) bool { return u.ID == it.Unit })
		})
	}
}

// lockPast: a class that was held stays as it was planned, as far as it was
// reached: what students had of it is in the ledger. One whose day is over without a plan is closed.
func (f *snapshot) lockPast(p *season.Problem, s academy.Season, today calendar.Day) {
	for w := 1; w <= s.Weeks; w++ {
		for _, c := range f.Classes {
			on := f.heldOn(s, w, c)
			report, recorded := f.ReportOf(f.Session(c.ID, on))
			if on >= today && !recorded {
				continue
			}
			if plan := s.Stands(); plan != nil {
				if x, ok := plan.Find(w, c.ID); ok {
					x.Held = true
					if recorded {
						x.Known, x.Items = true, f.reached(x.Items, report)
					}
					x.Items = slices.DeleteFunc(slices.Clone(x.Items), func(it season.Item) bool {
						return s.Missed(w, c.ID, it.Unit)
					})
					p.Fixed = append(p.Fixed, x)
					continue
				}
			}
			p.Closures = append(p.Closures, season.Closure{Week: w, Class: c.ID})
		}
	}
}

// asHeld is a plan whose classes that were held have what they were to have. It was made with what they reached, but what they were asked is
// a fact too: it is what their reports are compared with.
func asHeld(s academy.Season, plan season.Plan) *season.Plan {
	if was := s.Stands(); was != nil {
		plan.Placements = slices.Clone(plan.Placements)
		for i, x := range plan.Placements {
			if had, ok := was.Find(x.Week, x.Class); ok && x.Held {
				plan.Placements[i].Items = had.Items
			}
		}
	}
	return &plan
}

// heldOn is the day of a class in a week of a season: where it was reported on another
// day of that week, since it was moved to another weekday later, that day.
func (f *snapshot) heldOn(s academy.Season, week int, c academy.Class) calendar.Day {
	on := s.DayOf(week, c)
	if f.Reported(c.ID, on) {
		return on
	}
	first := s.Start + calendar.Day(7*(week-1))
	for _, x := range f.SessionsOf(c.ID) {
		if x.Report != nil && x.On >= first && x.On < first+7 {
			return x.On
		}
	}
	return on
}

// reached leaves of what a class was to teach what its record says it reached,
// in part at least.
func (f *snapshot) reached(items []season.Item, r state.Report) []season.Item {
	return slices.DeleteFunc(slices.Clone(items), func(it season.Item) bool {
		unit, _ := f.Unit(it.Unit)
		return !slices.ContainsFunc(r.Items, func(x ledger.Item) bool {
			return x.Reached != "not" && slices.Contains(unit.Techniques, x.Technique)
		})
	})
}

// pin fixes what is pinned, as the plan has it now.
func (f *snapshot) pin(p *season.Problem, s academy.Season) {
	for _, pin := range s.Pins {
		fixed := slices.ContainsFunc(p.Fixed, func(x season.Placement) bool { return x.Week == pin.Week && x.Class == pin.Class })
		shut := slices.ContainsFunc(p.Closures, func(c season.Closure) bool { return c.Week == pin.Week && (c.Class == "" || c.Class == pin.Class) })
		if fixed || shut || s.Plan == nil {
			continue
		}
		if x, ok := s.Plan.Find(pin.Week, pin.Class); ok {
			x.Lead = ""
			p.Fixed = append(p.Fixed, x)
		}
	}
}

// planUnits adds the units, each to the tracks whose youngest may do all of it.
func (f *snapshot) planUnits(p *season.Problem) []season.Unplaced {
	var left []season.Unplaced
	gone := map[string]bool{}
	for _, u := range f.Units {
		out := season.Unit{ID: u.ID, Name: u.Name, Minutes: u.Minutes, ReviewMinutes: u.ReviewMinutes, Area: u.Area, Signoff: u.Signoff}
		why := say.Sentence("No track teaches it.")
		for _, track := range u.Tracks {
			refused := f.Gated(u, f.Tracks[track])
			if refused == "" {
				out.Tracks = append(out.Tracks, track)
			} else {
				why = refused
			}
		}
		if len(out.Tracks) == 0 {
			left = append(left, season.Unplaced{Unit: u.ID, Why: why})
			gone[u.ID] = true
			continue
		}
		out.Requires = slices.Clone(u.Requires)
		p.Units = append(p.Units, out)
	}
	for i := range p.Units { // what stands on a unit that is gone asks for its ground no more
		p.Units[i].Requires = slices.DeleteFunc(p.Units[i].Requires, func(r string) bool { return gone[r] })
	}
	return left
}

// planStudents adds the students with their chances and what their next rank
// still asks for.
func (f *snapshot) planStudents(p *season.Problem, s academy.Season, today calendar.Day) {
	chances := f.Chances(min(today, s.Start+calendar.Day(7*s.Weeks)))
	for _, person := range f.Students() {
		out := season.Student{ID: person.ID, Chance: map[string]float64{}}
		for class, c := range chances[person.ID] {
			out.Chance[class] = c.Chance
		}
		for _, c := range s.Chances {
			if _, known := out.Chance[c.Class]; known && c.Student == person.ID {
				out.Chance[c.Class] = c.Chance
			}
		}
		asked, _, ok := f.CurriculumFor(person)
		if !ok {
			continue
		}
		for _, u := range p.Units {
			unit, _ := f.Unit(u.ID)
			if n := f.need(person, asked, unit, s.Start); n.Weight > 0 {
				out.Open = append(out.Open, n)
			}
		}
		if len(out.Open) > 0 {
			p.Students = append(p.Students, out)
		}
	}
}

// openSides are the sides of a technique on which a student does not stand where a curriculum asks, and the requirement that asks it: none where it is not
// asked, or a hold or a gate keeps them from it.
func (f *snapshot) openSides(p academy.Person, asked curriculum.Curriculum, technique string, on calendar.Day) (r curriculum.Requirement, open []academy.AskedSide) {
	r, required := asked.Serves(technique)
	t, _ := f.Library.Technique(technique)
	if !required || len(f.Refusals(p, t, on)) > 0 {
		return r, nil
	}
	for _, side := range r.Sides(t) {
		if at := f.Rung(p.ID, technique, side); at.Rung.Step() < r.Rung.Step() {
			open = append(open, academy.AskedSide{Technique: technique, Side: side, Had: at.Exposures, Rung: at.Rung, Needs: r.Rung})
		}
	}
	return r, open
}

// need is what a student still has to meet of a unit: the exposures that make
// its hardest open requirement met or drilled, less those already had on the
// side that had fewest. What a hold or a gate keeps from them is not counted.
func (f *snapshot) need(p academy.Person, asked curriculum.Curriculum, unit academy.Unit, on calendar.Day) season.Need {
	n := season.Need{Unit: unit.ID, Need: f.Settings.SeasonNeed, Had: 99}
	for _, id := range unit.Techniques {
		r, open := f.openSides(p, asked, id, on)
		for _, side := range open {
			n.Had = min(n.Had, side.Had)
		}
		if len(open) > 0 {
			n.Weight += r.Weight
			if r.Rung.Step() >= curriculum.Drilled.Step() {
				n.Need = max(n.Need, f.Settings.Standing.DrilledAfter)
			}
		}
	}
	n.Had = min(n.Had, n.Need)
	return n
}

// SeasonLine is a season as a list shows one.
type SeasonLine struct {
	ID       string       `json:"id"`
	Name     string       `json:"name"`
	Start    calendar.Day `json:"start"`
	End      calendar.Day `json:"end"`
	Weeks    int          `json:"weeks"`
	Planned  bool         `json:"planned"`
	Coverage float64      `json:"coverage"`
}

// Seasons lists them, newest first.
func (a *Service) Seasons(ctx context.Context, u state.User) ([]SeasonLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []SeasonLine{}
	for _, s := range slices.Backward(f.Seasons) {
		l := SeasonLine{ID: s.ID, Name: s.Name, Start: s.Start, End: s.End(), Weeks: s.Weeks, Planned: s.Plan != nil}
		if s.Plan != nil {
			l.Coverage = s.Plan.Coverage
		}
		all = append(all, l)
	}
	return all, nil
}

// NewSeason is what laying a season asks for.
type NewSeason struct {
	Name     string            `json:"name"`
	Start    calendar.Day      `json:"start" doc:"Any day of its first week"`
	Weeks    int               `json:"weeks"`
	Closures []academy.Closure `json:"closures"`
}

// LaySeason adds a season over the weekly timetable, without a plan yet.
func (a *Service) LaySeason(ctx context.Context, u state.User, n NewSeason) (string, error) {
	s := academy.Season{ID: store.NewID(), Name: n.Name, Weeks: n.Weeks, Closures: n.Closures}
	if s.Closures == nil {
		s.Closures = []academy.Closure{}
	}
	_, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s.Start = n.Start.WeekStart(f.Settings.WeekStart)
		if err := state.InvalidAll(s.Check(f.Classes)); err != nil {
			return err
		}
		for _, other := range f.Seasons {
			if s.Start < other.Start+calendar.Day(7*other.Weeks) && other.Start < s.Start+calendar.Day(7*s.Weeks) {
				return state.Invalid("start", "the season would overlap %s, which runs until %s: start later, or take fewer weeks", other.Name, (other.Start + calendar.Day(7*other.Weeks-1)))
			}
		}
		b.Summary = say.F("New season: %s", s.Name)
		return b.Put(documents.Season, s.ID, s)
	})
	return s.ID, err
}
