// Package academy holds an academy's own records: its people, its timetable,
// its settings, its seasons, and what happened in its classes.
package academy

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/core/season/repair"
	"vereda/core/validation"
)

// Settings are the academy's own numbers. What is zero takes the default.
type Settings struct {
	WeekStart     int                       `json:"week_start" minimum:"1" maximum:"7" doc:"First day of the week, Monday is 1"`
	Zone          string                    `json:"zone,omitempty" doc:"The academy's time zone, such as Europe/Lisbon; the server's own when left out"`
	Standard      ledger.Standard           `json:"standard"`
	Spacing       season.Spacing            `json:"spacing"`
	Gates         []safety.Gate             `json:"gates"`
	RequiredCells []curriculum.RequiredCell `json:"required_cells,omitzero" required:"false" doc:"Cells of the position-by-kind matrix that may not be empty; the usual ones when left out"`
	SeasonNeed    float64                   `json:"season_need" doc:"Exposures in a season that count as covered"`
	SecondFactor  bool                      `json:"second_factor,omitempty" doc:"Head instructors give a code besides their password"`
	Standing      ledger.StandingRules      `json:"standing,omitzero" required:"false"`
	Attendance    ledger.AttendanceRules    `json:"attendance,omitzero" required:"false"`
	Resistance    []string                  `json:"resistance,omitempty" required:"false" maxItems:"5" doc:"The academy's words for the grades 0 to 4"`
	Signoffs      []string                  `json:"signoffs,omitempty" required:"false" maxItems:"100" doc:"What a coach can be signed off for"`
	Sheets        []TrackSheet              `json:"sheets,omitempty" required:"false" maxItems:"100" doc:"The segments of a class, for all tracks and for those that have their own"`
	CheckMinutes  float64                   `json:"check_minutes,omitempty" required:"false" doc:"That a check takes for one side"`
	NotesMonths   int                       `json:"notes_months,omitempty" minimum:"0" maximum:"240" doc:"Months after which notes and ended holds are deleted; never when 0"`
}

// WithDefaults fills in what the academy did not set.
func (s Settings) WithDefaults() Settings {
	if s.WeekStart == 0 {
		s.WeekStart = 1
	}
	if s.Standard.PassShare == 0 {
		s.Standard = ledger.DefaultStandard
	}
	if len(s.Spacing.Weeks) == 0 {
		s.Spacing = season.DefaultSpacing
	}
	if s.SeasonNeed == 0 {
		s.SeasonNeed = 2
	}
	if s.Standing == (ledger.StandingRules{}) {
		s.Standing = ledger.DefaultStanding
	}
	if s.Standing.Growth == 0 {
		s.Standing.Growth = ledger.DefaultStanding.Growth
	}
	if s.Standing.Shrink == 0 {
		s.Standing.Shrink = ledger.DefaultStanding.Shrink
	}
	if s.Attendance == (ledger.AttendanceRules{}) {
		s.Attendance = ledger.DefaultAttendance
	}
	if s.CheckMinutes == 0 {
		s.CheckMinutes = 1.5
	}
	if len(s.Resistance) == 0 {
		s.Resistance = slices.Clone(library.ResistanceWords)
	}
	if !slices.ContainsFunc(s.Sheets, func(t TrackSheet) bool { return t.Track == "" }) {
		s.Sheets = append([]TrackSheet{{Segments: slices.Clone(mat.DefaultSegments)}}, s.Sheets...)
	}
	if s.RequiredCells == nil {
		s.RequiredCells = curriculum.DefaultRequiredCells
	}
	if s.Gates == nil {
		s.Gates = []safety.Gate{}
	}
	return s
}

// TrackSheet is how the classes of a track are divided; of all tracks without one of their own when it names none.
type TrackSheet struct {
	Track    string            `json:"track,omitempty" required:"false"`
	Segments []mat.SegmentRule `json:"segments" maxItems:"20"`
}

// SegmentRules is how the classes of a track are divided.
func (s Settings) SegmentRules(track string) []mat.SegmentRule {
	for _, id := range []string{track, ""} {
		for _, t := range s.Sheets {
			if t.Track == id {
				return t.Segments
			}
		}
	}
	return mat.DefaultSegments
}

// Person is a student, a coach, or both.
type Person struct {
	ID         string        `json:"id"`
	Name       string        `json:"name"`
	Called     string        `json:"called,omitempty" doc:"How they are called on the mat"`
	Birth      *calendar.Day `json:"birth,omitempty" doc:"Unknown when left out: treated as a minor until it is known"`
	Weight     float64       `json:"weight_kg,omitempty"`
	Ladder     string        `json:"ladder"`
	Rank       string        `json:"rank"`
	RankSince  calendar.Day  `json:"rank_since"`
	Stripes    int           `json:"stripes,omitempty" minimum:"0" maximum:"12"`
	Joined     calendar.Day  `json:"joined"`
	Email      string        `json:"email,omitempty" doc:"For notices"`
	Student    bool          `json:"student,omitempty"`
	Guest      string        `json:"guest,omitempty" enum:"trial,visitor" doc:"Trains along without being a student: nothing of the ledger is theirs"`
	Curriculum string        `json:"curriculum,omitempty" doc:"The version their rank was started under"`
	Holds      []safety.Hold `json:"holds,omitempty"`
	NeverWith  []string      `json:"never_with,omitempty"`
	Coach      *Terms        `json:"coach,omitempty"`
	Guardian   *Guardian     `json:"guardian,omitempty" doc:"Of a minor"`
	Body       string        `json:"body,omitempty" doc:"What a partner and a coach should know of their build"`
	Jacket     string        `json:"jacket,omitempty" enum:"both,gi,no-gi" doc:"What they train in; both when left out"`
	Language   string        `json:"language,omitempty" doc:"What they would rather read, such as pt"`
	Notes      []Note        `json:"notes,omitempty"`
	Archived   *calendar.Day `json:"archived,omitempty" doc:"Since when they do not train here any more"`
	Merged     []string      `json:"merged,omitempty" doc:"Records that were found to be the same person: what happened to them counts here"`
}

// Guardian is who answers for a minor.
type Guardian struct {
	Name  string `json:"name"`
	Email string `json:"email,omitempty"`
	Phone string `json:"phone,omitempty"`
}

// Who may read a note besides the head instructor.
const (
	ForHead    = "head"
	ForCoaches = "coaches"
	ForSelf    = "self" // coaches, and whom it is of
)

// Note is something worth keeping of a person.
type Note struct {
	ID      string       `json:"id"`
	On      calendar.Day `json:"on"`
	By      string       `json:"by"`
	Text    string       `json:"text"`
	Readers string       `json:"readers" enum:"head,coaches,self"`
	Class   string       `json:"class,omitempty" doc:"Of an incident: the class on a day it happened in"`
}

// Terms are what a coach can do and is asked to do.
type Terms struct {
	Available  []string `json:"available" doc:"Weekly classes"`
	Out        []Span   `json:"out,omitempty"`
	Signoffs   []string `json:"signoffs"`
	MaxPerWeek int      `json:"max_per_week"`
	Share      float64  `json:"share"`
}

// Span is some days, both ends included.
type Span struct {
	From calendar.Day `json:"from"`
	To   calendar.Day `json:"to"`
}

// Age is somebody's age in whole years on a day; known is false without a date
// of birth. Whoever's age is unknown passes no gate of age: their age counts as 0.
func (p Person) Age(on calendar.Day) (years int, known bool) {
	if p.Birth == nil {
		return 0, false
	}
	return on.YearsSince(*p.Birth), true
}

// Minor says whether somebody is under eighteen on a day; whoever's age is
// unknown is treated as one.
func (p Person) Minor(on calendar.Day) bool {
	age, _ := p.Age(on)
	return age < 18
}

// Initials are the first letters of a name's parts.
func (p Person) Initials() string {
	var b strings.Builder
	for _, part := range strings.Fields(p.Name) {
		b.WriteString(string([]rune(part)[:1]))
	}
	return b.String()
}

// Track is a line of classes.
type Track struct {
	ID       string       `json:"id"`
	Name     string       `json:"name"`
	Audience string       `json:"audience" enum:"all,adult,youth"`
	Context  string       `json:"context"`
	Mode     string       `json:"mode" enum:"same,split"`
	School   string       `json:"school" enum:"block,spiral,free"`
	MinAge   int          `json:"min_age,omitempty"`
	Assumed  []string     `json:"assumed,omitempty"`
	Rules    season.Rules `json:"rules,omitzero" required:"false" doc:"Rules of its classes"`
}

// Unit is what one class can teach.
type Unit struct {
	ID            string   `json:"id"`
	Name          string   `json:"name"`
	Techniques    []string `json:"techniques"`
	Movement      string   `json:"movement,omitempty"`
	Tracks        []string `json:"tracks"`
	Minutes       int      `json:"minutes"`
	ReviewMinutes int      `json:"review_minutes"`
	Requires      []string `json:"requires,omitempty"`
	Area          string   `json:"area"`
	Signoff       string   `json:"signoff,omitempty"`
}

// Season is some weeks of the timetable.
type Season struct {
	ID       string       `json:"id"`
	Name     string       `json:"name"`
	Start    calendar.Day `json:"start" doc:"First day of its first week"`
	Weeks    int          `json:"weeks"`
	Closures []Closure    `json:"closures"`
	Plan     *season.Plan `json:"plan,omitempty"`
	// Pins are classes whose content stays when the season is planned again.
	Pins      []repair.Spot   `json:"pins,omitempty"`
	Wanted    []season.Wanted `json:"wanted,omitempty"`
	Barred    []season.Barred `json:"barred,omitempty" required:"false" doc:"Units kept out of some weeks"`
	Dates     []SeasonDate    `json:"dates,omitempty" required:"false" doc:"Days it works toward, or around"`
	Chances   []SetChance     `json:"chances,omitempty" doc:"Set by hand instead of estimated"`
	Published *Published      `json:"published,omitempty"`
	Unreached []Unreached     `json:"unreached,omitempty" required:"false" doc:"What classes that are over did not reach, noted beside their reports"`
}

// Unreached is a unit that a class of a season was to have and did not come to.
type Unreached struct {
	repair.Spot
	Unit string `json:"unit"`
}

// Missed says whether it was noted that a class of a season did not come to a unit.
func (s Season) Missed(week int, class, unit string) bool {
	return slices.Contains(s.Unreached, Unreached{repair.Spot{Week: week, Class: class}, unit})
}

// SetChance is a student's chance of being in a weekly class, as somebody who
// knows them says it is.
type SetChance struct {
	Student string  `json:"student"`
	Class   string  `json:"class"`
	Chance  float64 `json:"chance"`
}

// Published is the plan the coaches were given.
type Published struct {
	Plan   season.Plan `json:"plan"`
	Number int         `json:"number" doc:"How often it was published"`
	On     time.Time   `json:"on"`
	By     string      `json:"by"`
}

// Stands is the plan that classes go by: the published one, or the plan in the
// making while nothing was published.
func (s Season) Stands() *season.Plan {
	if s.Published != nil {
		return &s.Published.Plan
	}
	return s.Plan
}

// Plans are the plan in the making and the one classes go by, as far as there are any.
func (s Season) Plans() []*season.Plan {
	var all []*season.Plan
	for _, p := range []*season.Plan{s.Plan, s.Stands()} {
		if p != nil && !slices.Contains(all, p) {
			all = append(all, p)
		}
	}
	return all
}

// Closed says whether a class is closed in a week, and why as it was written.
func (s Season) Closed(week int, class string) (why string, closed bool) {
	for _, c := range s.Shut() {
		if c.Week == week && (c.Class == "" || c.Class == class) {
			return c.Why, true
		}
	}
	return "", false
}

// Shut is what does not take place: what was closed, and the classes that a date takes the place of.
func (s Season) Shut() []Closure {
	all := s.Closures
	for _, d := range s.Dates {
		for _, c := range d.Classes {
			all = append(all[:len(all):len(all)], Closure{Week: s.WeekOf(d.On), Class: c, Why: d.Name})
		}
	}
	return all
}

// Closure takes out a week or one class of it.
type Closure struct {
	Week  int    `json:"week"`
	Class string `json:"class,omitempty"`
	Why   string `json:"why,omitempty"`
}

// Check says what is wrong with a season as it is written.
func (s Season) Check(classes []Class) []validation.Problem {
	var found validation.Found
	bad := found.Bad
	found.Name("name", s.Name, "season")
	found.Add("", startProblems(s.Start))
	found.Between("weeks", s.Weeks, 1, longestSeason, "weeks")
	found.Count("closures", len(s.Closures), 2000)
	found.Add("", planProblems("plan", s.Plan, s.Weeks))
	if s.Published != nil {
		found.Add("", planProblems("published.plan", &s.Published.Plan, s.Weeks))
	}
	for i, c := range s.Chances {
		if !(c.Chance >= 0 && c.Chance <= 1) {
			bad(fmt.Sprintf("chances[%d].chance", i), "%g is outside 0 to 1", c.Chance)
		}
	}
	for i, c := range s.Closures {
		if c.Week < 1 || c.Week > s.Weeks {
			bad(fmt.Sprintf("closures[%d].week", i), "week %d is not in a season of %d weeks", c.Week, s.Weeks)
		}
		found.Text(fmt.Sprintf("closures[%d].why", i), c.Why, validation.MostName)
		if c.Class != "" && !slices.ContainsFunc(classes, func(k Class) bool { return k.ID == c.Class }) {
			bad(fmt.Sprintf("closures[%d].class", i), "class %q is not in the timetable", c.Class)
		}
	}
	found.Count("unreached", len(s.Unreached), 5000)
	for i, x := range s.Unreached {
		found.Between(fmt.Sprintf("unreached[%d].week", i), x.Week, 1, s.Weeks, "weeks")
	}
	s.checkDates(classes, &found)
	return found
}

// WeekOf is the week of the season a day falls in, counted from 1; 0 when it
// is outside.
func (s Season) WeekOf(d calendar.Day) int {
	if d < s.Start || d >= s.Start+calendar.Day(7*s.Weeks) {
		return 0
	}
	return int(d-s.Start)/7 + 1
}

// End is its last day.
func (s Season) End() calendar.Day { return s.Start + calendar.Day(7*s.Weeks) - 1 }

// Occurrence names one class on one day.
func Occurrence(class string, on calendar.Day) string { return class + "." + on.String() }

// SplitOccurrence takes such a name apart.
func SplitOccurrence(id string) (class string, on calendar.Day, err error) {
	i := strings.LastIndexByte(id, '.')
	if i < 0 {
		return "", 0, fmt.Errorf("%q is not a class on a day: write it as class.2026-11-24", id)
	}
	on, err = calendar.ParseDay(id[i+1:])
	return id[:i], on, err
}

// ClassSession is what was decided for one class on one day apart from the plan.
type ClassSession struct {
	ID       string        `json:"id" doc:"The occurrence"`
	Items    []season.Item `json:"items,omitempty" doc:"Chosen by hand instead of the plan's"`
	Lead     string        `json:"lead,omitempty"`
	Stations *Stations     `json:"stations,omitempty"`
	Clock    *RunningClock `json:"clock,omitempty" doc:"As it runs, once it was begun"`
	Rounds   Rounds        `json:"rounds,omitempty" doc:"Rounds of the rotation as they were made"`
	Run      int           `json:"run,omitempty" doc:"How many of them were run"`
	// How the sheet of this class differs from what would be fitted.
	Sheet  []mat.SegmentEdit `json:"sheet,omitempty" maxItems:"60"`
	Order  []string          `json:"order,omitempty" maxItems:"60" doc:"Segments in the order they were put in by hand"`
	Paired []string          `json:"paired,omitempty" doc:"Who they were made for"`
	Odd    string            `json:"odd,omitempty"`
	Mix    string            `json:"mix,omitempty"`
	Size   int               `json:"size,omitempty" minimum:"0" maximum:"12" doc:"People in a group; 2 when left out"`
}

// Makeups are the units that some catch up at stations of their own.
func (n ClassSession) Makeups() []string {
	var units []string
	if n.Stations != nil {
		for _, s := range n.Stations.Stations {
			if s.Makeup != "" {
				units = append(units, s.Makeup)
			}
		}
	}
	return units
}
