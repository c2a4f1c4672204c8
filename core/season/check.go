package season

import (
	"fmt"
	"slices"
	"time"

	"vereda/core/say"
	"vereda/core/validation"
)

// Limits of what a problem may ask: a week is a bit of a word in the planner,
// and so is a coach.
const (
	mostWeeks   = 60
	mostCoaches = 63
	mostClasses = 64
	MostNeed    = 20
)

// Check says what is wrong with a problem as it is written: names that lead
// nowhere or stand twice, numbers out of range, a ring of requirements.
func (p Problem) Check() []validation.Problem {
	c := checker{p: p}
	c.names()
	c.timetable()
	c.content()
	c.people()
	c.given()
	c.habits()
	return c.found
}

type checker struct {
	p                               Problem
	found                           []validation.Problem
	tracks, classes, units, coaches map[string]bool
}

func (c *checker) bad(field string, format say.Sentence, args ...any) {
	c.found = append(c.found, validation.Problem{Field: field, What: say.F(format, args...)})
}

func (c *checker) names() {
	if c.p.Weeks < 1 || c.p.Weeks > mostWeeks {
		c.bad("weeks", "%d is outside 1 to %d", c.p.Weeks, mostWeeks)
	}
	if c.p.Goal != "" && c.p.Goal != "full" && c.p.Goal != "coverage" {
		c.bad("goal", "%q: choose full or coverage", c.p.Goal)
	}
	if c.p.Seconds < 0 || c.p.Seconds > 600 {
		c.bad("seconds", "%g is outside 0 to 600", c.p.Seconds)
	}
	c.tracks = ids(c, "tracks", c.p.Tracks, func(t Track) string { return t.ID })
	c.classes = ids(c, "classes", c.p.Classes, func(k Class) string { return k.ID })
	c.units = ids(c, "units", c.p.Units, func(u Unit) string { return u.ID })
	c.coaches = ids(c, "coaches", c.p.Coaches, func(k Coach) string { return k.ID })
	ids(c, "students", c.p.Students, func(s Student) string { return s.ID })
	if len(c.p.Classes) > mostClasses {
		c.bad("classes", "%d weekly classes: at most %d can be planned at once", len(c.p.Classes), mostClasses)
	}
	if len(c.p.Coaches) > mostCoaches {
		c.bad("coaches", "%d coaches: at most %d can be planned at once", len(c.p.Coaches), mostCoaches)
	}
}

func ids[T any](c *checker, list string, all []T, id func(T) string) map[string]bool {
	m := map[string]bool{}
	for i, x := range all {
		switch {
		case id(x) == "":
			c.bad(fmt.Sprintf("%s[%d].id", list, i), "is empty: give each an id of its own")
		case m[id(x)]:
			c.bad(fmt.Sprintf("%s[%d].id", list, i), "%q stands twice: give each an id of its own", id(x))
		}
		m[id(x)] = true
	}
	return m
}

func (c *checker) timetable() {
	for i, t := range c.p.Tracks {
		if t.Mode != "same" && t.Mode != "split" {
			c.bad(fmt.Sprintf("tracks[%d].mode", i), "%q: choose same or split", t.Mode)
		}
		if t.School != "" && t.School != "block" && t.School != "spiral" && t.School != "free" {
			c.bad(fmt.Sprintf("tracks[%d].school", i), "%q: choose block, spiral or free", t.School)
		}
		for _, u := range t.Assumed {
			if !c.units[u] {
				c.bad(fmt.Sprintf("tracks[%d].assumed", i), "unit %q is not among the units", u)
			}
		}
	}
	for i, k := range c.p.Classes {
		at := fmt.Sprintf("classes[%d]", i)
		if !c.tracks[k.Track] {
			c.bad(at+".track", "track %q is not among the tracks", k.Track)
		}
		if k.Weekday < 1 || k.Weekday > 7 {
			c.bad(at+".weekday", "%d is outside 1 (first day of the week) to 7", k.Weekday)
		}
		if k.Start != "" {
			if _, err := time.Parse("15:04", k.Start); err != nil || len(k.Start) != 5 {
				c.bad(at+".start", "%.20q is no time of day: write it as 19:30", k.Start)
			}
		}
		if k.TeachMinutes < 0 || k.TeachMinutes > 300 {
			c.bad(at+".teach_minutes", "%d is outside 0 to 300", k.TeachMinutes)
		}
	}
	for i, k := range c.p.Closures {
		if k.Class != "" && !c.classes[k.Class] {
			c.bad(fmt.Sprintf("closures[%d].class", i), "class %q is not among the classes", k.Class)
		}
		if k.Week < 1 || k.Week > c.p.Weeks {
			c.bad(fmt.Sprintf("closures[%d].week", i), "week %d is not in a season of %d weeks", k.Week, c.p.Weeks)
		}
	}
}

func (c *checker) content() {
	for i, u := range c.p.Units {
		at := fmt.Sprintf("units[%d]", i)
		if u.Minutes < 1 || u.ReviewMinutes < 1 {
			c.bad(at+".minutes", "%d to teach and %d to review: each takes at least a minute", u.Minutes, u.ReviewMinutes)
		}
		for _, r := range u.Requires {
			if !c.units[r] {
				c.bad(at+".requires", "unit %q is not among the units", r)
			}
		}
		for _, t := range u.Tracks {
			if !c.tracks[t] {
				c.bad(at+".tracks", "track %q is not among the tracks", t)
			}
		}
	}
	if ring := c.p.ring(); ring != "" {
		c.bad("units", "%s requires itself by way of others: take one of the requirements out", ring)
	}
}

func (c *checker) people() {
	for i, s := range c.p.Students {
		for class, chance := range s.Chance {
			if !c.classes[class] {
				c.bad(fmt.Sprintf("students[%d].chance.%s", i, class), "class %q is not among the classes", class)
			}
			if !(chance >= 0 && chance <= 1) {
				c.bad(fmt.Sprintf("students[%d].chance.%s", i, class), "%g is outside 0 to 1", chance)
			}
		}
		asked := map[string]bool{}
		for j, n := range s.Open {
			at := fmt.Sprintf("students[%d].open[%d]", i, j)
			if !c.units[n.Unit] {
				c.bad(at+".unit", "unit %q is not among the units", n.Unit)
			}
			if asked[n.Unit] {
				c.bad(at+".unit", "unit %q stands twice: add the weights up", n.Unit)
			}
			asked[n.Unit] = true
			if !(n.Weight >= 0 && n.Weight <= 1e6) {
				c.bad(at+".weight", "%g is outside 0 to 1000000", n.Weight)
			}
			if !(n.Need >= 0 && n.Need <= MostNeed) || !(n.Had >= 0) {
				c.bad(at+".need", "%g needed and %g had: from 0 to %d exposures", n.Need, n.Had, MostNeed)
			}
		}
	}
	for i, k := range c.p.Coaches {
		for _, class := range k.Available {
			if !c.classes[class] {
				c.bad(fmt.Sprintf("coaches[%d].available", i), "class %q is not among the classes", class)
			}
		}
		for j, o := range k.Out {
			if o.Week < 1 || o.Week > c.p.Weeks {
				c.bad(fmt.Sprintf("coaches[%d].out[%d].week", i, j), "week %d is not in a season of %d weeks", o.Week, c.p.Weeks)
			}
			if o.Class != "" && !c.classes[o.Class] {
				c.bad(fmt.Sprintf("coaches[%d].out[%d].class", i, j), "class %q is not among the classes", o.Class)
			}
		}
		if k.MaxPerWeek < 0 || !(k.Share >= 0) {
			c.bad(fmt.Sprintf("coaches[%d]", i), "%d a week at most and a share of %g: neither is negative", k.MaxPerWeek, k.Share)
		}
	}
}

func (c *checker) given() {
	taken := map[string]bool{}
	for i, f := range c.p.Fixed {
		at := fmt.Sprintf("fixed[%d]", i)
		if !c.classes[f.Class] || f.Week < 1 || f.Week > c.p.Weeks {
			c.bad(at, "class %q in week %d is not in the season", f.Class, f.Week)
		}
		if taken[Key(f.Week, f.Class)] {
			c.bad(at, "class %q in week %d is fixed twice", f.Class, f.Week)
		}
		taken[Key(f.Week, f.Class)] = true
		if f.Lead != "" && !c.coaches[f.Lead] && !f.Held {
			c.bad(at+".lead", "coach %q is not among the coaches", f.Lead)
		}
		for _, it := range f.Items {
			if !c.units[it.Unit] {
				c.bad(at+".items", "unit %q is not among the units", it.Unit)
			}
			if it.Kind != Teach && it.Kind != Review {
				c.bad(at+".items", "%q: choose teach or review", it.Kind)
			}
		}
	}
	for i, w := range c.p.Wanted {
		at := fmt.Sprintf("wanted[%d]", i)
		if !c.units[w.Unit] {
			c.bad(at+".unit", "unit %q is not among the units", w.Unit)
		}
		if w.Track != "" && !c.tracks[w.Track] {
			c.bad(at+".track", "track %q is not among the tracks", w.Track)
		}
		if w.Week < 1 || w.Week > c.p.Weeks {
			c.bad(at+".week", "week %d is not in a season of %d weeks", w.Week, c.p.Weeks)
		}
	}
	for _, k := range c.p.Spacing.Weeks {
		if k < 1 || k > mostWeeks {
			c.bad("spacing.weeks", "%d is outside 1 to %d", k, mostWeeks)
		}
	}
	if c.p.Spacing.Tolerance < 0 || c.p.Spacing.Tolerance > mostWeeks {
		c.bad("spacing.tolerance", "%d is outside 0 to %d", c.p.Spacing.Tolerance, mostWeeks)
	}
}

// ring returns a unit that stands on itself, or "".
func (p Problem) ring() string {
	requires := map[string][]string{}
	for _, u := range p.Units {
		requires[u.ID] = u.Requires
	}
	const open, done = 1, 2
	state := map[string]int{}
	var walk func(id string) bool
	walk = func(id string) bool {
		if state[id] != 0 {
			return state[id] == open
		}
		state[id] = open
		if slices.ContainsFunc(requires[id], walk) {
			return true
		}
		state[id] = done
		return false
	}
	for _, u := range p.Units {
		if walk(u.ID) {
			return u.ID
		}
	}
	return ""
}
