package seasontest

import (
	"fmt"
	"math/rand/v2"
	"slices"

	"pgregory.net/rapid"

	"vereda/core/season"
)

// Habits judges the rules of tracks by reading a plan class by class, without anything of the planner. In mode same the longest list of a
// week stands for the track. What is fixed is nobody's to judge.
func Habits(p season.Problem, placements []season.Placement) (found []string) {
	type evening struct {
		week, day int
		class     string
		items     []season.Item
	}
	unit := func(id string) season.Unit { return unitOf(p, id) }
	for _, t := range p.Tracks {
		var all []evening
		for _, x := range placements {
			c := p.Classes[slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == x.Class })]
			if c.Track != t.ID {
				continue
			}
			e := evening{x.Week, c.Weekday, c.ID, x.Items}
			if t.Mode == "same" {
				e.day = 0
				if i := slices.IndexFunc(all, func(o evening) bool { return o.week == e.week }); i >= 0 {
					if len(e.items) > len(all[i].items) {
						all[i].items = e.items
					}
					continue
				}
			}
			all = append(all, e)
		}
		bad := func(e evening, rule string) {
			found = append(found, fmt.Sprintf("%s week %d: %s", t.ID, e.week, rule))
		}
		r := t.Rules
		if r.AreaMost > 0 && !lineThrough(p, t, func(week int, area string) bool {
			for _, e := range all {
				for _, it := range e.items {
					if a := unit(it.Unit).Area; e.week == week && it.Kind == season.Teach && a != area && a != "" {
						return false
					}
				}
			}
			return true
		}) {
			found = append(found, t.ID+": no line of areas goes through it")
		}
		for _, e := range all {
			taught, risky, longest, room := []season.Unit{}, 0, 0, 0
			for _, c := range p.Classes {
				if c.Track == t.ID && (t.Mode == "same" && !season.Closed(p, e.week, c.ID) || c.ID == e.class) {
					room = max(room, c.TeachMinutes)
				}
			}
			for _, it := range e.items {
				u := unit(it.Unit)
				minutes := u.ReviewMinutes
				if it.Kind == season.Teach {
					taught = append(taught, u)
					minutes = u.Minutes
				}
				longest = max(longest, minutes)
				if u.Risky {
					risky++
				}
				times := map[int]bool{}
				for _, o := range all {
					if o.week <= e.week && (t.Mode == "same" || o.class == e.class) && slices.Contains(o.items, season.Item{Unit: u.ID, Kind: season.Teach}) {
						times[o.week] = true
					}
				}
				if r.Deeper && it.Kind == season.Teach && len(times) > max(1, u.Layers) {
					bad(e, "the same again: "+u.ID)
				}
				for _, b := range p.Barred {
					if b.Unit == u.ID && (b.Track == "" || b.Track == t.ID) && e.week >= b.From && e.week <= b.To {
						bad(e, "barred")
					}
				}
				for _, o := range all {
					for _, other := range o.items {
						if other.Unit != u.ID || other.Kind != season.Teach || o.week > e.week || o.week == e.week && (o.day > e.day || o.class == e.class) { // itself, or after it
							continue
						}
						away := e.week - o.week
						if it.Kind == season.Teach && (t.Mode == "same" || o.class == e.class) && away < r.TeachGap && o.week < e.week {
							bad(e, "taught again too soon: "+u.ID)
						}
						if it.Kind == season.Review && away < r.ReviewGap {
							bad(e, "reviewed too soon: "+u.ID)
						}
					}
				}
			}
			for i, a := range taught {
				for _, b := range taught[:i] {
					if r.Together && !(a.Area == b.Area || slices.Contains(a.Requires, b.ID) || slices.Contains(b.Requires, a.ID) || slices.Contains(a.Related, b.ID) || slices.Contains(b.Related, a.ID)) {
						bad(e, "together")
					}
				}
			}
			closed := e.week > 1
			for _, c := range p.Classes {
				closed = closed && (c.Track != t.ID || season.Closed(p, e.week-1, c.ID))
			}
			for rule, broken := range map[string]bool{
				"most units": r.MostUnits > 0 && len(e.items) > r.MostUnits, "most new": r.MostNew > 0 && len(taught) > r.MostNew,
				"risk apart": r.RiskApart && risky > 1, "ease in": r.EaseIn && risky > 0 && closed,
				"main": r.MainMinutes > 0 && longest < min(r.MainMinutes, room), "teach each": r.TeachEach && len(taught) == 0 && !slices.Contains(r.ReviewWeeks, e.week),
			} {
				if broken && len(e.items) > 0 {
					bad(e, rule)
				}
			}
		}
	}
	slices.Sort(found)
	return found
}

// unitOf is the unit of a problem that is called so.
func unitOf(p season.Problem, id string) season.Unit {
	return p.Units[slices.IndexFunc(p.Units, func(u season.Unit) bool { return u.ID == id })]
}

// WithHabits gives the tracks of a problem some rules, drawn by a number.
func WithHabits(p season.Problem, seed uint64) season.Problem {
	r := rand.New(rand.NewPCG(seed, 17))
	p.Tracks, p.Units = slices.Clone(p.Tracks), slices.Clone(p.Units)
	for i := range p.Tracks {
		p.Tracks[i].Rules = season.Rules{MostUnits: r.IntN(4), MostNew: r.IntN(3), TeachGap: r.IntN(4), ReviewGap: r.IntN(3), Together: r.IntN(3) == 0, RiskApart: r.IntN(2) == 0, EaseIn: r.IntN(2) == 0, Deeper: r.IntN(3) == 0}
	}
	for i := range p.Units {
		p.Units[i].Risky, p.Units[i].Layers = r.IntN(3) == 0, r.IntN(3)
		p.Units[i].Area = fmt.Sprint("a", r.IntN(2))
		if i > 0 && r.IntN(3) == 0 {
			p.Units[i].Related = []string{p.Units[r.IntN(i)].ID}
		}
	}
	if r.IntN(2) == 0 {
		from := 1 + r.IntN(p.Weeks)
		p.Barred = []season.Barred{{Unit: p.Units[r.IntN(len(p.Units))].ID, From: from, To: min(p.Weeks, from+r.IntN(2))}}
	}
	return p
}

// DrawHabits is DrawProblem whose tracks have rules, those too that ask something of a class as a whole.
func DrawHabits(t *rapid.T) season.Problem {
	p := WithHabits(DrawProblem(t), rapid.Uint64().Draw(t, "rules"))
	for i := range p.Tracks {
		if len(p.Fixed)+len(p.Wanted) == 0 && rapid.IntRange(0, 2).Draw(t, "line") == 0 {
			p.Tracks[i].Rules.AreaLeast = rapid.IntRange(0, 3).Draw(t, "least")
			p.Tracks[i].Rules.AreaMost = max(1, p.Tracks[i].Rules.AreaLeast) + rapid.IntRange(0, 2).Draw(t, "most")
		}
		if rapid.IntRange(0, 2).Draw(t, "main") == 0 {
			p.Tracks[i].Rules.MainMinutes = rapid.IntRange(5, 30).Draw(t, "minutes")
		}
		if p.Tracks[i].Rules.TeachEach = rapid.IntRange(0, 2).Draw(t, "each") == 0; p.Tracks[i].Rules.TeachEach {
			p.Tracks[i].Rules.ReviewWeeks = []int{rapid.IntRange(1, p.Weeks).Draw(t, "week")}
		}
	}
	return p
}

// lineThrough says whether areas can be given to the weeks of a track, each for as many weeks in a row as its rules ask (the last ones of the season may
// be fewer), so that each week fits its own. It is asked of tracks of two areas at least in which nothing is wanted or fixed. The area of units that
// can never be taught there, for what they stand on, is none of them.
func lineThrough(p season.Problem, t season.Track, fits func(week int, area string) bool) bool {
	var weeks []int
	for w := 1; w <= p.Weeks; w++ {
		if slices.ContainsFunc(p.Classes, func(c season.Class) bool { return c.Track == t.ID && !season.Closed(p, w, c.ID) }) {
			weeks = append(weeks, w)
		}
	}
	var reached func(id string) bool
	reached = func(id string) bool {
		u := unitOf(p, id)
		return slices.Contains(u.Tracks, t.ID) && !slices.ContainsFunc(u.Requires, func(r string) bool { return !slices.Contains(t.Assumed, r) && !reached(r) })
	}
	var areas []string
	for _, u := range p.Units {
		if u.Area != "" && reached(u.ID) && !slices.Contains(areas, u.Area) {
			areas = append(areas, u.Area)
		}
	}
	var from func(i int, last string) bool
	from = func(i int, last string) bool {
		if i == len(weeks) {
			return true
		}
		for _, a := range areas {
			if a == last {
				continue
			}
			for n := 1; n <= t.Rules.AreaMost && i+n <= len(weeks) && fits(weeks[i+n-1], a); n++ {
				if (n >= t.Rules.AreaLeast || i+n == len(weeks)) && from(i+n, a) {
					return true
				}
			}
		}
		return false
	}
	return len(areas) < 2 || from(0, "")
}
