// Package season lays out what each class of a season teaches and who leads it.
//
// The rule that makes it hard: what is worth teaching in a class depends on
// everything taught before it and on who is likely to be there. The measure is
// expected coverage: the chance, averaged over students and what they still
// need, that by the end of the season they have met a unit often enough.
package season

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/library"
)

// Problem is everything the planner knows. Weeks and weekdays start at 1.
type Problem struct {
	Weeks    int         `json:"weeks" minimum:"1" maximum:"60"`
	Tracks   []Track     `json:"tracks"`
	Classes  []Class     `json:"classes"`
	Closures []Closure   `json:"closures"`
	Units    []Unit      `json:"units"`
	Students []Student   `json:"students"`
	Coaches  []Coach     `json:"coaches"`
	Fixed    []Placement `json:"fixed"`
	Spacing  Spacing     `json:"spacing"`
	Goal     string      `json:"goal" enum:"full,coverage"`
	Seed     int64       `json:"seed"`
}

// Track is a line of classes that stand on each other.
type Track struct {
	ID      string   `json:"id"`
	Mode    string   `json:"mode" enum:"same,split" doc:"same: one content in all its classes of a week; split: each class its own"`
	School  string   `json:"school" enum:"block,spiral,free"`
	Assumed []string `json:"assumed,omitempty" doc:"Units the track already stands on"`
}

// Class is one weekly class.
type Class struct {
	ID           string `json:"id"`
	Track        string `json:"track"`
	Weekday      int    `json:"weekday"`
	Start        string `json:"start"`
	TeachMinutes int    `json:"teach_minutes"`
}

// Closure takes out a whole week, or one class of it.
type Closure struct {
	Week  int    `json:"week"`
	Class string `json:"class,omitempty"`
}

// Unit is what one class can teach: one to three techniques that belong together.
type Unit struct {
	ID            string   `json:"id"`
	Name          string   `json:"name,omitempty"`
	Tracks        []string `json:"tracks"`
	Minutes       int      `json:"minutes"`
	ReviewMinutes int      `json:"review_minutes"`
	Requires      []string `json:"requires,omitempty"`
	Area          string   `json:"area"`
	Signoff       string   `json:"signoff,omitempty"`
}

// Student is one who may be there.
type Student struct {
	ID     string             `json:"id"`
	Chance map[string]float64 `json:"chance" doc:"Class: chance of being there, 0 to 1"`
	Open   []Need             `json:"open"`
}

// Need is a unit a student still has to meet: Had exposures so far, Need in all.
type Need struct {
	Unit   string  `json:"unit"`
	Need   float64 `json:"need"`
	Had    float64 `json:"had"`
	Weight float64 `json:"weight"`
}

// Coach is one who may lead.
type Coach struct {
	ID         string   `json:"id"`
	Available  []string `json:"available"`
	Out        []Away   `json:"out,omitempty"`
	Signoffs   []string `json:"signoffs,omitempty"`
	MaxPerWeek int      `json:"max_per_week"`
	Share      float64  `json:"share"`
}

// Away is a week in which a coach does not teach.
type Away struct {
	Week int `json:"week"`
}

// Spacing says how many weeks after a teach a review is worth most.
type Spacing struct {
	Weeks     []int `json:"weeks"`
	Tolerance int   `json:"tolerance"`
}

// DefaultSpacing is used where an academy sets none.
var DefaultSpacing = Spacing{Weeks: []int{1, 3, 7}, Tolerance: 1}

// Kinds of items.
const (
	Teach  = "teach"
	Review = "review"
)

// Item is a unit in a class.
type Item struct {
	Unit string `json:"unit"`
	Kind string `json:"kind" enum:"teach,review"`
}

// Placement is one class of one week with its content and its lead.
type Placement struct {
	Week  int    `json:"week"`
	Class string `json:"class"`
	Lead  string `json:"lead,omitempty"`
	Items []Item `json:"items"`
}

// Unplaced is a unit that somebody needs and nobody will teach, and why.
type Unplaced struct {
	Unit string `json:"unit"`
	Why  string `json:"why"`
}

// Plan is an answer to a Problem.
type Plan struct {
	Placements []Placement        `json:"placements"`
	Coverage   float64            `json:"coverage" doc:"Weighted mean chance covered, 0 to 1"`
	Bound      float64            `json:"bound" doc:"Proven: no plan can reach more"`
	Scores     map[string]float64 `json:"scores"`
	Unplaced   []Unplaced         `json:"unplaced"`
}

// Find returns the placement of a class in a week.
func (p Plan) Find(week int, class string) (Placement, bool) {
	i := slices.IndexFunc(p.Placements, func(x Placement) bool { return x.Week == week && x.Class == class })
	if i < 0 {
		return Placement{}, false
	}
	return p.Placements[i], true
}

// halves is an exposure in half units.
func halves(kind string) int {
	if kind == Teach {
		return 2
	}
	return 1
}

// cost is the minutes an item takes.
func (u Unit) cost(kind string) int {
	if kind == Teach {
		return u.Minutes
	}
	return u.ReviewMinutes
}

// Check says what is wrong with a problem as it is written: names that lead
// nowhere, numbers out of range, a ring of requirements.
func (p Problem) Check() []library.Problem {
	var found []library.Problem
	bad := func(field, format string, args ...any) {
		found = append(found, library.Problem{Field: field, What: fmt.Sprintf(format, args...)})
	}
	if p.Weeks < 1 || p.Weeks > 60 {
		bad("weeks", "%d is outside 1 to 60", p.Weeks)
	}
	tracks, classes, units := ids(p.Tracks, func(t Track) string { return t.ID }), ids(p.Classes, func(c Class) string { return c.ID }), ids(p.Units, func(u Unit) string { return u.ID })
	for i, t := range p.Tracks {
		if t.Mode != "same" && t.Mode != "split" {
			bad(fmt.Sprintf("tracks[%d].mode", i), "%q: choose same or split", t.Mode)
		}
	}
	for i, c := range p.Classes {
		if !tracks[c.Track] {
			bad(fmt.Sprintf("classes[%d].track", i), "track %q is not among the tracks", c.Track)
		}
		if c.Weekday < 1 || c.Weekday > 7 {
			bad(fmt.Sprintf("classes[%d].weekday", i), "%d is outside 1 (first day of the week) to 7", c.Weekday)
		}
		if c.TeachMinutes < 0 || c.TeachMinutes > 300 {
			bad(fmt.Sprintf("classes[%d].teach_minutes", i), "%d is outside 0 to 300", c.TeachMinutes)
		}
	}
	for i, c := range p.Closures {
		if c.Class != "" && !classes[c.Class] {
			bad(fmt.Sprintf("closures[%d].class", i), "class %q is not among the classes", c.Class)
		}
	}
	for i, u := range p.Units {
		at := fmt.Sprintf("units[%d]", i)
		if u.Minutes < 1 || u.ReviewMinutes < 0 {
			bad(at+".minutes", "%d to teach and %d to review: a unit takes at least a minute to teach", u.Minutes, u.ReviewMinutes)
		}
		for _, r := range u.Requires {
			if !units[r] {
				bad(at+".requires", "unit %q is not among the units", r)
			}
		}
		for _, t := range u.Tracks {
			if !tracks[t] {
				bad(at+".tracks", "track %q is not among the tracks", t)
			}
		}
	}
	if ring := p.ring(); ring != "" {
		bad("units", "%s requires itself by way of others: take one of the requirements out", ring)
	}
	for i, s := range p.Students {
		for c, chance := range s.Chance {
			if chance < 0 || chance > 1 {
				bad(fmt.Sprintf("students[%d].chance.%s", i, c), "%g is outside 0 to 1", chance)
			}
		}
		for j, n := range s.Open {
			if !units[n.Unit] {
				bad(fmt.Sprintf("students[%d].open[%d].unit", i, j), "unit %q is not among the units", n.Unit)
			}
			if n.Weight < 0 {
				bad(fmt.Sprintf("students[%d].open[%d].weight", i, j), "%g is negative", n.Weight)
			}
		}
	}
	for i, f := range p.Fixed {
		if !classes[f.Class] || f.Week < 1 || f.Week > p.Weeks {
			bad(fmt.Sprintf("fixed[%d]", i), "class %q in week %d is not in the season", f.Class, f.Week)
		}
		for _, it := range f.Items {
			if !units[it.Unit] {
				bad(fmt.Sprintf("fixed[%d].items", i), "unit %q is not among the units", it.Unit)
			}
		}
	}
	return found
}

func ids[T any](all []T, id func(T) string) map[string]bool {
	m := map[string]bool{}
	for _, x := range all {
		m[id(x)] = true
	}
	return m
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
		for _, r := range requires[id] {
			if walk(r) {
				return true
			}
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

// sortPlacements puts placements in the order they happen.
func sortPlacements(p Problem, all []Placement) {
	at := map[string]Class{}
	for _, c := range p.Classes {
		at[c.ID] = c
	}
	slices.SortFunc(all, func(a, b Placement) int {
		return cmp.Or(cmp.Compare(a.Week, b.Week), cmp.Compare(at[a.Class].Weekday, at[b.Class].Weekday),
			cmp.Compare(at[a.Class].Start, at[b.Class].Start), cmp.Compare(a.Class, b.Class))
	})
}
