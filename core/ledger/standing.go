// Package ledger keeps what each student has covered and passed. Events say
// what happened; standings follow from them and from nothing else.
package ledger

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
)

// Item is one technique in a class that was held.
type Item struct {
	Technique string `json:"technique"`
	Kind      string `json:"kind" enum:"teach,review"`
	Reached   string `json:"reached" enum:"all,part,not"`
	OneSide   bool   `json:"one_side,omitempty" doc:"Only one side was done"`
	// Which one that was; the taught side when left out.
	Side  library.Side `json:"side,omitempty" enum:"left,right"`
	Point string       `json:"point,omitempty" maxLength:"100" doc:"The key point that was reached, of part"`
}

// Sides are those of a technique's that were done, the taught one first.
func (i Item) Sides(of []library.Side) []library.Side {
	if !i.OneSide {
		return of
	}
	k := max(0, slices.Index(of, i.Side))
	return of[k : k+1]
}

// Exposure in half units: a full teach 2, part of one 1, a review 1, what was not reached 0.
func (i Item) Exposure() int {
	switch {
	case i.Reached == "not":
		return 0
	case i.Kind == "teach" && i.Reached == "all":
		return 2
	}
	return 1
}

// ExposureOf is the exposure of somebody who was in all of the class or, having come late or left early, in a part of it: a half class less.
func (i Item) ExposureOf(part bool) int {
	if part {
		return i.Exposure() / 2
	}
	return i.Exposure()
}

// Attended is one class one student was in, with what it reached.
type Attended struct {
	On    calendar.Day
	Part  bool // came late or left early: each technique counts half a class less
	Items []Item
}

// Checked is one check of one student on one technique and side.
type Checked struct {
	On        calendar.Day
	Order     int // of two checks on one day the higher came later
	Technique string
	Side      library.Side
	Rung      curriculum.Rung // the verdict that stands, overruled or computed
	Met       bool
}

// Standing is where a student stands with one technique on one side.
type Standing struct {
	Technique string          `json:"technique"`
	Side      library.Side    `json:"side"`
	Rung      curriculum.Rung `json:"rung"`
	Exposures float64         `json:"exposures" doc:"Full teach 1, part or review a half"`
	Checks    int             `json:"checks"`
	PassedOn  *calendar.Day   `json:"passed_on,omitempty"`
	Fresh     *calendar.Day   `json:"fresh,omitempty" doc:"Last success, or class since passing that touched it"`
	HalfLife  float64         `json:"half_life,omitempty" doc:"Days until the estimate has fallen to one half"`
}

// StandingRules are the academy's numbers for how a standing rises and fades.
type StandingRules struct {
	DrilledAfter  float64 `json:"drilled_after" doc:"Exposures on a side that make it drilled, in halves"`
	FirstHalfLife float64 `json:"first_half_life" doc:"Days, after the first success"`
	LeastHalfLife float64 `json:"least_half_life" doc:"Days that no failure takes it under"`
	Growth        float64 `json:"growth,omitempty" required:"false" doc:"What a further success multiplies it by; 2 when left out"`
	Shrink        float64 `json:"shrink,omitempty" required:"false" doc:"What a failure multiplies it by; ½ when left out"`
	DueBelow      float64 `json:"due_below" doc:"The estimated share under which a refresh is due, 0 to 1"`
}

// DefaultStanding is used where an academy sets nothing else.
var DefaultStanding = StandingRules{DrilledAfter: 3, FirstHalfLife: 21, LeastHalfLife: 14, DueBelow: 0.5, Growth: 2, Shrink: 0.5}

// longestHalfLife is how far a half-life grows, in days: ten years.
const longestHalfLife = 3650

func (r StandingRules) growth() float64 {
	if r.Growth == 0 {
		return DefaultStanding.Growth
	}
	return r.Growth
}

func (r StandingRules) shrink() float64 {
	if r.Shrink == 0 {
		return DefaultStanding.Shrink
	}
	return r.Shrink
}

// Retention estimates the share still there on a day: 2^(−t/h), t days since it
// was last fresh (half-life regression, Settles & Meeder 2016). 0 when never
// passed.
func (s Standing) Retention(on calendar.Day) float64 {
	if s.Fresh == nil || s.HalfLife <= 0 {
		return 0
	}
	return math.Pow(2, -math.Max(0, float64(on-*s.Fresh))/s.HalfLife)
}

// Due says whether something once passed wants a refresh: its estimate fell below the academy's threshold.
func (s Standing) Due(on calendar.Day, rules StandingRules) bool {
	return s.Fresh != nil && s.Retention(on) < rules.DueBelow
}

// Reaches says whether a standing is what a requirement of a rung asks for on a day. What was passed fades, and wants a refresh; that
// somebody has seen or drilled it does not.
func (s Standing) Reaches(rung curriculum.Rung, on calendar.Day, rules StandingRules) bool {
	return s.Rung.Step() >= rung.Step() && (rung.Step() < curriculum.Passed.Step() || !s.Due(on, rules))
}

// Standings computes where a student stands with every technique that ever
// touched them, from the events alone, ordered by technique and side. The events may
// come in any order. Costs as many steps as there are events, where they come by day.
func Standings(lib *library.Library, rules StandingRules, attended []Attended, checked []Checked) []Standing {
	return project(lib, rules, attended, checked, nil)
}

// step is how one stood with a technique on a side before and after what happened on a day: a class, or a check.
type step struct {
	before, after Standing
	on            calendar.Day
	check         bool
}

var drilledStep = curriculum.Drilled.Step()

// project computes Standings; heard, unless it is nil, hears each step.
func project(lib *library.Library, rules StandingRules, attended []Attended, checked []Checked, heard func(step)) []Standing {
	type key struct {
		technique string
		side      library.Side
	}
	type sum struct {
		Standing
		halves int
	}
	byDay := func(a, b Attended) int { return cmp.Compare(a.On, b.On) }
	if !slices.IsSortedFunc(attended, byDay) {
		attended = slices.Clone(attended)
		slices.SortStableFunc(attended, byDay)
	}
	checked = slices.Clone(checked)
	slices.SortStableFunc(checked, func(a, b Checked) int { return cmp.Or(cmp.Compare(a.On, b.On), cmp.Compare(a.Order, b.Order)) })
	at := map[key]*sum{}
	of := func(k key) *sum {
		s := at[k]
		if s == nil {
			s = &sum{Standing: Standing{Technique: k.technique, Side: k.side, Rung: curriculum.NotMet}}
			at[k] = s
		}
		return s
	}
	check := func(c Checked) {
		s := of(key{c.Technique, c.Side})
		before := s.Standing
		if s.checked(c, rules); heard != nil {
			heard(step{before, s.Standing, c.On, true})
		}
	}
	// Of one day the classes come first, then the checks.
	checksUpTo := func(day calendar.Day) {
		for len(checked) > 0 && checked[0].On < day {
			check(checked[0])
			checked = checked[1:]
		}
	}
	for _, a := range attended {
		checksUpTo(a.On)
		for _, item := range a.Items {
			half := item.ExposureOf(a.Part)
			t, ok := lib.Sided(item.Technique)
			if !ok || half == 0 {
				continue
			}
			for _, side := range item.Sides(t.Sides) {
				s := of(key{t.ID, side})
				s.halves += half
				before := s.Standing
				if s.exposed(s.halves, a.On, rules); heard != nil {
					heard(step{before, s.Standing, a.On, false})
				}
			}
		}
	}
	for _, c := range checked {
		check(c)
	}
	all := make([]Standing, 0, len(at))
	for _, s := range at {
		all = append(all, s.Standing)
	}
	slices.SortFunc(all, func(a, b Standing) int {
		return cmp.Or(cmp.Compare(a.Technique, b.Technique), cmp.Compare(a.Side, b.Side))
	})
	return all
}

// exposed takes in a class that touched the technique; halves is the sum so far.
func (s *Standing) exposed(halves int, on calendar.Day, rules StandingRules) {
	s.Exposures = float64(halves) / 2
	rung := curriculum.Met
	if s.Exposures >= rules.DrilledAfter {
		rung = curriculum.Drilled
	}
	if rung.Step() > s.Rung.Step() {
		s.Rung = rung
	}
	if s.Fresh != nil {
		s.Fresh = &on
	}
}

// checked takes in a check. A failed one never takes a rung away; it shortens
// the half-life, and so brings the refresh nearer.
func (s *Standing) checked(c Checked, rules StandingRules) {
	s.Checks++
	on := c.On
	if !c.Met {
		if s.HalfLife > 0 {
			s.HalfLife = max(rules.LeastHalfLife, s.HalfLife*rules.shrink())
		}
		return
	}
	if c.Rung.Step() > s.Rung.Step() {
		s.Rung = c.Rung
	}
	if s.HalfLife == 0 {
		s.HalfLife = rules.FirstHalfLife
	} else {
		s.HalfLife = min(longestHalfLife, s.HalfLife*rules.growth())
	}
	if s.PassedOn == nil {
		s.PassedOn = &on
	}
	s.Fresh = &on
}
