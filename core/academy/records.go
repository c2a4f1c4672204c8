package academy

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/repair"
	"vereda/core/validation"
)

// Records is everything an academy wrote. Each record is judged among the
// others here, whoever brings it: a form, a CSV file, a bundle, an undo.
type Records struct {
	Settings      Settings
	Library       *library.Library
	Ladders       map[string]curriculum.Ladder
	Curricula     []curriculum.Curriculum
	Tracks        map[string]Track
	Classes       []Class // in the order of the week
	Units         []Unit
	People        []Person // by name
	Person        map[string]Person
	Seasons       []Season // by start
	ClassSessions map[string]ClassSession
	TestDays      []TestDay // by day
}

// Class finds a weekly class.
func (r *Records) Class(id string) (Class, bool) {
	return find(r.Classes, func(c Class) bool { return c.ID == id })
}

// GonePrefix begins the name that stays of somebody who was erased: what happened counts, and points to nobody.
const GonePrefix = "gone-"

// Happened says whether an event can be of a student: somebody who is here, whose record became a part of another one, or who
// was erased.
func (r *Records) Happened(student string) bool {
	if _, ok := r.Person[student]; ok || strings.HasPrefix(student, GonePrefix) {
		return true
	}
	return slices.ContainsFunc(r.People, func(p Person) bool { return slices.Contains(p.Merged, student) })
}

// Unit finds a unit.
func (r *Records) Unit(id string) (Unit, bool) {
	return find(r.Units, func(u Unit) bool { return u.ID == id })
}

func find[T any](all []T, is func(T) bool) (T, bool) {
	if i := slices.IndexFunc(all, is); i >= 0 {
		return all[i], true
	}
	var none T
	return none, false
}

// Words of tracks.
var (
	Modes     = []string{"same", "split"}
	Schools   = []string{"block", "spiral", "free"}
	Audiences = []string{"all", "adult", "youth"}
)

// CheckTrack says what is wrong with a track.
func (r *Records) CheckTrack(t Track) []validation.Problem {
	var found validation.Found
	found.Name("name", t.Name, "track")
	if !slices.Contains(Modes, t.Mode) {
		found.Bad("mode", "%.40q: choose same or split", t.Mode)
	}
	if !slices.Contains(Schools, t.School) {
		found.Bad("school", "%.40q: choose block, spiral or free", t.School)
	}
	if !slices.Contains(Audiences, t.Audience) {
		found.Bad("audience", "%.40q: choose all, adult or youth", t.Audience)
	}
	if c := library.Context(t.Context); c != "" && c != library.Gi && c != library.NoGi && c != library.Both {
		found.Bad("context", "%.40q: choose gi, no-gi or both", t.Context)
	}
	found.Between("min_age", t.MinAge, 0, 99, "years")
	for name, n := range map[string]int{"most_units": t.Rules.MostUnits, "most_new": t.Rules.MostNew, "teach_gap": t.Rules.TeachGap, "review_gap": t.Rules.ReviewGap, "area_least": t.Rules.AreaLeast, "area_most": t.Rules.AreaMost} {
		found.Between("rules."+name, n, 0, 60, "")
	}
	if t.Rules.AreaLeast > 0 && t.Rules.AreaMost == 0 {
		found.Bad("rules.area_most", "is empty: say how many weeks in a row at most")
	} else if t.Rules.AreaLeast > t.Rules.AreaMost {
		found.Bad("rules.area_least", "%d weeks at least are more than %d at most", t.Rules.AreaLeast, t.Rules.AreaMost)
	}
	found.Between("rules.main_minutes", t.Rules.MainMinutes, 0, 300, "minutes")
	for i, w := range t.Rules.ReviewWeeks {
		found.Between(fmt.Sprintf("rules.review_weeks[%d]", i), w, 1, 60, "weeks")
	}
	found.Count("assumed", len(t.Assumed), 2000)
	for i, known := range t.Assumed {
		if _, ok := r.Unit(known); !ok {
			found.Bad(fmt.Sprintf("assumed[%d]", i), "%.64q is not among the units", known)
		}
	}
	return found
}

var clockTime = regexp.MustCompile(`^([01]\d|2[0-3]):[0-5]\d$`)

// CheckClass says what is wrong with a weekly class.
func (r *Records) CheckClass(c Class) []validation.Problem {
	var found validation.Found
	found.Name("name", c.Name, "class")
	if _, ok := r.Tracks[c.Track]; !ok {
		found.Bad("track", "%.64q is not a track: choose one, or add it first", c.Track)
	}
	checkHours(&found, "", c.Hours)
	c.checkDays(&found)
	return found
}

// CheckUnit says what is wrong with a unit.
func (r *Records) CheckUnit(u Unit) []validation.Problem {
	return u.Check(r.Library, r.Tracks, r.Units)
}

// CheckPerson says what is wrong with a person.
func (r *Records) CheckPerson(p Person) []validation.Problem {
	var found validation.Found
	found.Name("name", p.Name, "person")
	if p.Student || p.Rank != "" || p.Ladder != "" {
		if r.Ladders[p.Ladder].Position(p.Rank) < 0 {
			found.Bad("rank", "rank %.64q is not on ladder %.64q", p.Rank, p.Ladder)
		}
	}
	if p.Guest != "" && p.Guest != "trial" && p.Guest != "visitor" {
		found.Bad("guest", "%.40q: choose trial or visitor", p.Guest)
	}
	if p.Weight < 0 || p.Weight > 400 || math.IsNaN(p.Weight) {
		found.Bad("weight_kg", "%g is outside 0 to 400 kg", p.Weight)
	}
	found.Count("never_with", len(p.NeverWith), 200)
	for i, other := range p.NeverWith {
		if _, ok := r.Person[other]; !ok || other == p.ID {
			found.Bad(fmt.Sprintf("never_with[%d]", i), "%.64q is nobody else here", other)
		}
	}
	if p.Email != "" && !Address(p.Email) {
		found.Bad("email", "%.80q is not one address such as name@example.net", p.Email)
	}
	found.Text("called", p.Called, validation.MostName)
	found.Text("body", p.Body, validation.MostText)
	if p.Jacket != "" && !slices.Contains([]string{"both", "gi", "no-gi"}, p.Jacket) {
		found.Bad("jacket", "%.40q: choose both, gi or no-gi", p.Jacket)
	}
	if p.Language != "" && !languageTag.MatchString(p.Language) {
		found.Bad("language", "%.40q is not a language such as en or pt-BR", p.Language)
	}
	if g := p.Guardian; g != nil {
		found.Name("guardian.name", g.Name, "guardian")
		if g.Email != "" && !Address(g.Email) {
			found.Bad("guardian.email", "%.80q is not one address such as name@example.net", g.Email)
		}
		if g.Phone != "" && !phone.MatchString(g.Phone) {
			found.Bad("guardian.phone", "%.40q is not a telephone number", g.Phone)
		}
	}
	found.Between("stripes", p.Stripes, 0, 12, "stripes")
	found.Count("notes", len(p.Notes), 500)
	for i, n := range p.Notes {
		at := fmt.Sprintf("notes[%d].", i)
		found.Text(at+"text", n.Text, validation.MostText)
		found.Text(at+"class", n.Class, validation.MostName)
		if !slices.Contains([]string{ForHead, ForCoaches, ForSelf}, n.Readers) {
			found.Bad(at+"readers", "%.40q: choose head, coaches or self", n.Readers)
		}
	}
	found.Count("holds", len(p.Holds), 200)
	for i, h := range p.Holds {
		found.Add(fmt.Sprintf("holds[%d].", i), h.Problems())
	}
	if p.Coach != nil {
		found.Add("coach.", r.CheckTerms(*p.Coach))
	}
	return found
}

// CheckTerms says what is wrong with a coach's terms.
func (r *Records) CheckTerms(t Terms) []validation.Problem {
	var found validation.Found
	for i, c := range t.Available {
		if _, ok := r.Class(c); !ok {
			found.Bad(fmt.Sprintf("available[%d]", i), "class %.64q is not in the timetable", c)
		}
	}
	found.Count("out", len(t.Out), 500)
	for i, o := range t.Out {
		if o.To < o.From {
			found.Bad(fmt.Sprintf("out[%d]", i), "it ends %s, before it starts %s: exchange them", o.To, o.From)
		}
	}
	found.Count("signoffs", len(t.Signoffs), 100)
	for i, s := range t.Signoffs {
		found.Text(fmt.Sprintf("signoffs[%d]", i), s, validation.MostName)
	}
	found.Between("max_per_week", t.MaxPerWeek, 0, 40, "classes")
	if !(t.Share >= 0 && t.Share <= 1) {
		found.Bad("share", "%g is outside 0 to 1", t.Share)
	}
	return found
}

var (
	languageTag = regexp.MustCompile(`^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$`)
	phone       = regexp.MustCompile(`^[+]?[0-9 ()/.-]{4,30}$`)
)

var address = regexp.MustCompile(`^[^\s@,;:"<>()\[\]\\]{1,64}@[\pL\pN](?:[\pL\pN.-]*[\pL\pN])?$`)

// Address says whether a text is one mail address, without a name beside it.
func Address(text string) bool { return len(text) <= 200 && address.MatchString(text) }

var zoneName = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9_+-]*(/[A-Za-z0-9_+-]+){0,2}$`)

// CheckSeason says what is wrong with a season.
func (r *Records) CheckSeason(s Season) []validation.Problem {
	return s.Check(r.Classes)
}

// CheckSession says what is wrong with what was decided for one class on one day.
func (r *Records) CheckSession(n ClassSession) []validation.Problem {
	var found validation.Found
	class, _, err := SplitOccurrence(n.ID)
	if _, ok := r.Class(class); err != nil || !ok {
		found.Bad("id", "%.80q is not a class of the timetable on a day", n.ID)
	}
	found.Count("items", len(n.Items), MostInClass)
	for i, it := range n.Items {
		if slices.Index(n.Items, it) < i {
			found.Bad(fmt.Sprintf("items[%d].unit", i), "%.64q stands there already: once is enough", it.Unit)
		}
		if _, ok := r.Unit(it.Unit); !ok {
			found.Bad(fmt.Sprintf("items[%d].unit", i), "there is no unit %.64q: choose one from the list", it.Unit)
		}
		if it.Kind != season.Teach && it.Kind != season.Review {
			found.Bad(fmt.Sprintf("items[%d].kind", i), "%.40q: say teach or review", it.Kind)
		}
	}
	if n.Stations != nil {
		found.Add("stations.", n.Stations.problems())
	}
	found.Count("sheet", len(n.Sheet), 60)
	for i, e := range n.Sheet {
		found.Text(fmt.Sprintf("sheet[%d].id", i), e.ID, validation.MostName)
		found.Between(fmt.Sprintf("sheet[%d].minutes", i), e.Minutes, 0, 180, "minutes")
	}
	found.Count("order", len(n.Order), 60)
	for i, id := range n.Order {
		found.Text(fmt.Sprintf("order[%d]", i), id, validation.MostName)
	}
	found.Count("rounds", len(n.Rounds), 500)
	for i, round := range n.Rounds {
		found.Count(fmt.Sprintf("rounds[%d].groups", i), len(round.Groups), mostOnTheMat)
		found.Count(fmt.Sprintf("rounds[%d].coach", i), len(round.Coach), mostOnTheMat)
		for _, group := range round.Groups {
			found.Count(fmt.Sprintf("rounds[%d].groups", i), len(group), mostOnTheMat)
		}
	}
	found.Count("paired", len(n.Paired), mostOnTheMat)
	found.Between("size", n.Size, 0, 12, "people in a group")
	found.Text("odd", n.Odd, validation.MostID)
	found.Text("mix", n.Mix, validation.MostID)
	if n.Clock != nil {
		found.Count("clock.stretches", len(n.Clock.Stretches), 2000)
		found.Count("clock.fell_out", len(n.Clock.FellOut), 200)
	}
	if n.Run < 0 || n.Run > len(n.Rounds) {
		found.Bad("run", "%d rounds cannot have been run: %d were made", n.Run, len(n.Rounds))
	}
	return found
}

// MostInClass is how many units one class may teach and review, and mostOnTheMat how many people may be in it.
const (
	MostInClass  = 12
	mostOnTheMat = 400
)

// CheckCurriculum says what is wrong with a curriculum.
func (r *Records) CheckCurriculum(c curriculum.Curriculum) []validation.Problem {
	return c.Check(r.Ladders[c.Ladder], r.Library)
}

// CheckLadder says what is wrong with a ladder.
func (r *Records) CheckLadder(l curriculum.Ladder) []validation.Problem { return l.Check(r.Ladders) }

// ZoneName says whether a text may name a time zone: Local is whatever a server stands in.
func ZoneName(text string) bool { return zoneName.MatchString(text) && text != "Local" }

// CheckSettings says what is wrong with the academy's own numbers.
func (r *Records) CheckSettings(s Settings) []validation.Problem {
	var found validation.Found
	if s.WeekStart < 0 || s.WeekStart > 7 {
		found.Bad("week_start", "%d is outside 1 (Monday) to 7", s.WeekStart)
	}
	if s.Zone != "" && !ZoneName(s.Zone) {
		found.Bad("zone", "%.60q is not a time zone such as Europe/Lisbon", s.Zone)
	}
	kept := s.WithDefaults()
	for _, n := range numbers {
		n.check(&found, n.Of(kept))
	}
	for kind, x := range s.Standard.LiveShare {
		if !(x >= 0 && x <= 1) {
			found.Bad("standard.live_share."+string(kind), "%g is outside 0 to 1", x)
		}
	}
	if kept.Standing.LeastHalfLife > kept.Standing.FirstHalfLife {
		found.Bad("numbers.least_half_life", "%g days is longer than the first half-life of %g", kept.Standing.LeastHalfLife, kept.Standing.FirstHalfLife)
	}
	found.Count("spacing.weeks", len(s.Spacing.Weeks), 10)
	for i, w := range s.Spacing.Weeks {
		found.Between(fmt.Sprintf("spacing.weeks[%d]", i), w, 1, 60, "weeks")
	}
	found.Count("sheets", len(s.Sheets), 100)
	for i, t := range s.Sheets {
		at := fmt.Sprintf("sheets[%d]", i)
		if _, ok := r.Tracks[t.Track]; t.Track != "" && !ok {
			found.Bad(at+".track", "%.64q is not a track", t.Track)
		}
		if slices.ContainsFunc(s.Sheets[:i], func(x TrackSheet) bool { return x.Track == t.Track }) {
			found.Bad(at+".track", "%.64q has two sheets", t.Track)
		}
		found.Add(at+".segments", mat.CheckSegments(t.Segments))
	}
	if n := len(s.Resistance); n != 0 && n != 5 {
		found.Bad("resistance", "%d words: give one for each grade from 0 to 4", n)
	}
	for i, w := range s.Resistance {
		found.Name(fmt.Sprintf("resistance[%d]", i), w, "grade of resistance")
	}
	found.Count("signoffs", len(s.Signoffs), 100)
	for i, w := range s.Signoffs {
		found.Name(fmt.Sprintf("signoffs[%d]", i), w, "sign-off")
		if slices.Contains(s.Signoffs[:i], w) {
			found.Bad(fmt.Sprintf("signoffs[%d]", i), "%.60q is in the list twice", w)
		}
	}
	found.Count("gates", len(s.Gates), 200)
	for i, g := range s.Gates {
		switch {
		case g.Technique != "" && g.Class != "":
			found.Bad(fmt.Sprintf("gates[%d]", i), "names a technique and a risk class: make two gates of it")
		case g.Technique != "":
			if _, ok := r.Library.Technique(g.Technique); !ok {
				found.Bad(fmt.Sprintf("gates[%d].technique", i), "%.64q is not in the library", g.Technique)
			}
		case !safety.Known(g.Class):
			found.Bad(fmt.Sprintf("gates[%d].class", i), "%.40q is not a risk class", g.Class)
		}
		for k, t := range g.Tracks {
			if _, ok := r.Tracks[t]; !ok {
				found.Bad(fmt.Sprintf("gates[%d].tracks[%d]", i, k), "%.64q is not a track", t)
			}
		}
		found.Between(fmt.Sprintf("gates[%d].min_age", i), g.MinAge, 0, 99, "years")
		found.Between(fmt.Sprintf("gates[%d].min_rank", i), g.MinRank, 0, 40, "ranks")
		if _, ok := r.Ladders[g.Ladder]; g.Ladder != "" && !ok {
			found.Bad(fmt.Sprintf("gates[%d].ladder", i), "%.64q is not a ladder: name the one whose ranks count", g.Ladder)
		}
	}
	found.Add("", curriculum.CheckRequiredCells(s.RequiredCells))
	return found
}

// problems of a season's plan as it is written; what rules it breaks is the planner's to say.
func planProblems(at string, p *season.Plan, weeks int) []validation.Problem {
	if p == nil {
		return nil
	}
	var found validation.Found
	found.Count(at, len(p.Placements), 60*200)
	seen := map[repair.Spot]bool{}
	for i, x := range p.Placements {
		field := fmt.Sprintf("%s.placements[%d]", at, i)
		spot := repair.Spot{Week: x.Week, Class: x.Class}
		if x.Week < 1 || x.Week > weeks {
			found.Bad(field+".week", "week %d is not in a season of %d weeks", x.Week, weeks)
		}
		if seen[spot] {
			found.Bad(field, "%.64q has two placements in week %d", x.Class, x.Week)
		}
		seen[spot] = true
		found.Count(field+".items", len(x.Items), MostInClass)
		for k, it := range x.Items {
			if it.Kind != season.Teach && it.Kind != season.Review {
				found.Bad(fmt.Sprintf("%s.items[%d].kind", field, k), "%.40q: say teach or review", it.Kind)
			}
		}
	}
	return found
}

// lastStart is the latest day a season may start on: the longest one still ends
// within the dates there are.
const longestSeason = 60

func startProblems(start calendar.Day) []validation.Problem {
	if start < calendar.First || start > calendar.Last-7*longestSeason {
		return []validation.Problem{{Field: "start", What: say.F("%s is not between %s and %s", start, calendar.First, calendar.Last-7*longestSeason)}}
	}
	return nil
}
