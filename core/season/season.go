// Package season is what a season is made of: the problem (weeks, tracks, classes, units, students, coaches), the plan that
// answers it, what makes a problem sound (Check) and what a plan is worth (Coverage). What works on it has rooms of its own,
// each standing on those before it:
//
//	model      the problem as numbers, a state of the plan that is changed step by step, what it scores
//	staffing   who leads which class
//	rules      which hard rules a plan breaks, in words
//	bound      a coverage no plan can exceed
//	search     a first plan, a better one, the best of a small season; which conditions are in conflict
//	explain    why an item stands where it does
//	repair     a plan after something happened, and after a change by hand
package season

import (
	"cmp"
	"slices"
	"strconv"

	"vereda/core/say"
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
	Wanted   []Wanted    `json:"wanted,omitempty" required:"false" doc:"Units that must be taught by some week"`
	Barred   []Barred    `json:"barred,omitempty" required:"false" doc:"Units that are kept out of some weeks"`
	Goal     string      `json:"goal" enum:"full,coverage"`
	Seconds  float64     `json:"seconds,omitempty" doc:"How long to look for better plans; 1 when left out"`
	Seed     int64       `json:"seed"`
}

// Wanted is a unit that must be taught by the end of a week: in a track, or in
// any of its tracks when none is named.
type Wanted struct {
	Unit  string `json:"unit"`
	Track string `json:"track,omitempty"`
	Week  int    `json:"week"`
}

// Track is a line of classes that stand on each other.
type Track struct {
	ID      string   `json:"id"`
	Mode    string   `json:"mode" enum:"same,split" doc:"same: one content in all its classes of a week; split: each class its own"`
	School  string   `json:"school" enum:"block,spiral,free"`
	Assumed []string `json:"assumed,omitempty" doc:"Units the track already stands on"`
	Rules   Rules    `json:"rules,omitzero" required:"false" doc:"What the academy asks of its evenings, beside what no plan may break"`
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
	Related       []string `json:"related,omitempty" required:"false" doc:"Units it goes well with in one class; those of its area and those it requires need not be named"`
	Layers        int      `json:"layers,omitempty" minimum:"0" maximum:"10" doc:"Lessons it has, against more and more defence; 1 when left out"`
	Risky         bool     `json:"risky,omitempty" doc:"It loads a neck or twists a leg"`
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

// Away is a week in which a coach does not teach, or one class of it.
type Away struct {
	Week  int    `json:"week"`
	Class string `json:"class,omitempty" doc:"All of the week's when left out"`
}

// Covers says whether the coach is away from a class in a week.
func (a Away) Covers(week int, class string) bool {
	return a.Week == week && (a.Class == "" || a.Class == class)
}

// Words is when the coach is out.
func (a Away) Words() say.Sentence {
	if a.Class == "" {
		return say.F("out in week %d", a.Week)
	}
	return say.F("out of %s in week %d", a.Class, a.Week)
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
	Held  bool   `json:"held,omitempty" doc:"It happened: it counts, and no rule is asked of it any more"`
	Known bool   `json:"known,omitempty" doc:"Who was there is known, and counted in had: it gives no further exposure"`
}

// Unplaced is a unit that somebody needs and nobody will teach, and why.
type Unplaced struct {
	Unit string       `json:"unit"`
	Why  say.Sentence `json:"why"`
}

// Why a unit is not taught, where it depends on something. A kept plan is read back by these.
const (
	TooLong         say.Sentence = "It takes %d minutes; the longest class of its tracks has %d."
	NobodySignedOff say.Sentence = "No coach who is signed off for %s can lead a class of its tracks."
	StandsOnNothing say.Sentence = "It stands on %s, which its tracks do not teach either."
)

// Plan is an answer to a Problem.
type Plan struct {
	Placements []Placement        `json:"placements"`
	Coverage   float64            `json:"coverage" doc:"Weighted mean chance covered, 0 to 1"`
	Bound      float64            `json:"bound" doc:"Proven: no plan can reach more"`
	Proven     bool               `json:"proven,omitempty" doc:"The bound is reached: no plan covers more"`
	Scores     map[string]float64 `json:"scores" doc:"What the goal full counts besides coverage, each 0 to 1, and score, the whole"`
	Unplaced   []Unplaced         `json:"unplaced"`
	Work       int64              `json:"work,omitempty" doc:"Steps of search spent"`
	Cut        bool               `json:"cut,omitempty" doc:"The clock ended the search before its steps were spent: on a quieter machine the same problem may be planned otherwise"`
}

// Find returns the placement of a class in a week.
func (p Plan) Find(week int, class string) (Placement, bool) {
	i := slices.IndexFunc(p.Placements, func(x Placement) bool { return x.Week == week && x.Class == class })
	if i < 0 {
		return Placement{}, false
	}
	return p.Placements[i], true
}

// SortPlacements puts placements in the order they happen.
func SortPlacements(p Problem, all []Placement) {
	at := map[string]Class{}
	for _, c := range p.Classes {
		at[c.ID] = c
	}
	slices.SortFunc(all, func(a, b Placement) int {
		return cmp.Or(cmp.Compare(a.Week, b.Week), cmp.Compare(at[a.Class].Weekday, at[b.Class].Weekday),
			cmp.Compare(at[a.Class].Start, at[b.Class].Start), cmp.Compare(a.Class, b.Class))
	})
}

// Key names one class of one week.
func Key(week int, class string) string { return strconv.Itoa(week) + "/" + class }
