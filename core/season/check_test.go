package season

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// small is a problem that is right but for what a case spoils.
func small() Problem {
	return Problem{
		Weeks: 4, Goal: "full", Seconds: 1, Spacing: Spacing{Weeks: []int{1, 3}, Tolerance: 1},
		Tracks:   []Track{{ID: "all", Mode: "same", School: "free", Assumed: []string{"base"}}},
		Classes:  []Class{{ID: "mon", Track: "all", Weekday: 1, Start: "18:30", TeachMinutes: 40}, {ID: "wed", Track: "all", Weekday: 3, TeachMinutes: 40}},
		Units:    []Unit{{ID: "base", Minutes: 10, ReviewMinutes: 5, Tracks: []string{"all"}}, {ID: "sweep", Minutes: 20, ReviewMinutes: 10, Tracks: []string{"all"}, Requires: []string{"base"}}},
		Students: []Student{{ID: "oren", Chance: map[string]float64{"mon": 0.8}, Open: []Need{{Unit: "sweep", Weight: 1, Need: 2}}}},
		Coaches:  []Coach{{ID: "ines", Available: []string{"mon"}, Out: []Away{{Week: 2, Class: "mon"}}, MaxPerWeek: 3, Share: 0.5}},
		Closures: []Closure{{Week: 3}, {Week: 4, Class: "wed"}},
		Fixed:    []Placement{{Week: 1, Class: "mon", Lead: "ines", Items: []Item{{Unit: "sweep", Kind: Teach}}}},
		Wanted:   []Wanted{{Unit: "sweep", Track: "all", Week: 2}},
	}
}

// What is wrong with a problem is told with the field and the thing, whatever list it is in.
func TestAProblemSaysWhatIsWrongWithIt(t *testing.T) {
	many := func(n int) []Class {
		all := make([]Class, n)
		for i := range all {
			all[i] = Class{ID: fmt.Sprint("c", i), Track: "all", Weekday: 1}
		}
		return all
	}
	for name, c := range map[string]struct {
		spoil func(*Problem)
		want  string
	}{
		"as it should be":              {func(*Problem) {}, ""},
		"without a start":              {func(p *Problem) { p.Classes[0].Start = "" }, ""},
		"no goal, no school":           {func(p *Problem) { p.Goal, p.Tracks[0].School = "", "" }, ""},
		"nobody leads what was held":   {func(p *Problem) { p.Fixed[0].Held, p.Fixed[0].Lead = true, "somebody who left" }, ""},
		"no weeks":                     {func(p *Problem) { p.Weeks = 0 }, "weeks: 0 is outside 1 to 60"},
		"sixty-one weeks":              {func(p *Problem) { p.Weeks = 61 }, "weeks: 61 is outside"},
		"a goal nobody knows":          {func(p *Problem) { p.Goal = "win" }, `goal: "win": choose full or coverage`},
		"time turned back":             {func(p *Problem) { p.Seconds = -1 }, "seconds: -1 is outside 0 to 600"},
		"a week to plan it":            {func(p *Problem) { p.Seconds = 6e5 }, "seconds: "},
		"a track without a name":       {func(p *Problem) { p.Tracks[0].ID = "" }, "tracks[0].id: is empty"},
		"a class twice":                {func(p *Problem) { p.Classes[1].ID = "mon" }, `classes[1].id: "mon" stands twice`},
		"a unit twice":                 {func(p *Problem) { p.Units[1].ID = "base" }, `units[1].id: "base" stands twice`},
		"a coach without a name":       {func(p *Problem) { p.Coaches[0].ID = "" }, "coaches[0].id: is empty"},
		"a student twice":              {func(p *Problem) { p.Students = append(p.Students, p.Students[0]) }, `students[1].id: "oren" stands twice`},
		"more classes than bits":       {func(p *Problem) { p.Classes = append(p.Classes, many(63)...) }, "classes: 65 weekly classes: at most 64"},
		"more coaches than bits":       {func(p *Problem) { p.Coaches = make([]Coach, 64) }, "coaches: 64 coaches: at most 63"},
		"a mode nobody knows":          {func(p *Problem) { p.Tracks[0].Mode = "each" }, `tracks[0].mode: "each": choose same or split`},
		"a school nobody knows":        {func(p *Problem) { p.Tracks[0].School = "old" }, "tracks[0].school: "},
		"assumes what is not there":    {func(p *Problem) { p.Tracks[0].Assumed = []string{"gone"} }, `tracks[0].assumed: unit "gone" is not among the units`},
		"a class of no track":          {func(p *Problem) { p.Classes[0].Track = "attic" }, `classes[0].track: track "attic" is not among the tracks`},
		"on day eight":                 {func(p *Problem) { p.Classes[0].Weekday = 8 }, "classes[0].weekday: 8 is outside"},
		"at twenty-five":               {func(p *Problem) { p.Classes[0].Start = "25:99" }, `classes[0].start: "25:99" is no time of day: write it as 19:30`},
		"at nine thirty, short":        {func(p *Problem) { p.Classes[0].Start = "9:30" }, "classes[0].start: "},
		"teaches all day":              {func(p *Problem) { p.Classes[0].TeachMinutes = 301 }, "classes[0].teach_minutes: "},
		"closed in week nine":          {func(p *Problem) { p.Closures[0].Week = 9 }, "closures[0].week: week 9 is not in a season of 4 weeks"},
		"closes no class":              {func(p *Problem) { p.Closures[1].Class = "attic" }, `closures[1].class: class "attic" is not among the classes`},
		"a unit of no time":            {func(p *Problem) { p.Units[0].Minutes = 0 }, "units[0].minutes: 0 to teach and 5 to review"},
		"a review of no time":          {func(p *Problem) { p.Units[0].ReviewMinutes = 0 }, "units[0].minutes: "},
		"stands on what is not there":  {func(p *Problem) { p.Units[1].Requires = []string{"gone"} }, `units[1].requires: unit "gone" is not among the units`},
		"for no track":                 {func(p *Problem) { p.Units[1].Tracks = []string{"attic"} }, "units[1].tracks: "},
		"stands on itself":             {func(p *Problem) { p.Units[0].Requires = []string{"base"} }, "units: base requires itself"},
		"a ring of two":                {func(p *Problem) { p.Units[0].Requires = []string{"sweep"} }, "requires itself by way of others"},
		"comes to no class":            {func(p *Problem) { p.Students[0].Chance = map[string]float64{"attic": 1} }, `students[0].chance.attic: class "attic" is not among the classes`},
		"comes more than always":       {func(p *Problem) { p.Students[0].Chance = map[string]float64{"mon": 1.01} }, "students[0].chance.mon: 1.01 is outside 0 to 1"},
		"a chance that is no number":   {func(p *Problem) { p.Students[0].Chance = map[string]float64{"mon": math.NaN()} }, "students[0].chance.mon: "},
		"needs what is not there":      {func(p *Problem) { p.Students[0].Open[0].Unit = "gone" }, `students[0].open[0].unit: unit "gone" is not among the units`},
		"needs it twice":               {func(p *Problem) { p.Students[0].Open = append(p.Students[0].Open, p.Students[0].Open[0]) }, "students[0].open[1].unit: "},
		"needs it less than not":       {func(p *Problem) { p.Students[0].Open[0].Weight = -1 }, "students[0].open[0].weight: "},
		"a weight without an end":      {func(p *Problem) { p.Students[0].Open[0].Weight = math.Inf(1) }, "students[0].open[0].weight: "},
		"needs it for ever":            {func(p *Problem) { p.Students[0].Open[0].Need = MostNeed + 1 }, "students[0].open[0].need: "},
		"had less than none":           {func(p *Problem) { p.Students[0].Open[0].Had = -0.5 }, "students[0].open[0].need: "},
		"coaches no class":             {func(p *Problem) { p.Coaches[0].Available = []string{"attic"} }, "coaches[0].available: "},
		"away in week ninety-nine":     {func(p *Problem) { p.Coaches[0].Out[0].Week = 99 }, "coaches[0].out[0].week: week 99 is not in a season of 4 weeks"},
		"away from no class":           {func(p *Problem) { p.Coaches[0].Out[0].Class = "attic" }, "coaches[0].out[0].class: "},
		"leads less than none":         {func(p *Problem) { p.Coaches[0].MaxPerWeek = -1 }, "coaches[0]: -1 a week at most"},
		"a share that is no number":    {func(p *Problem) { p.Coaches[0].Share = math.NaN() }, "coaches[0]: "},
		"fixed outside the season":     {func(p *Problem) { p.Fixed[0].Week = 5 }, `fixed[0]: class "mon" in week 5 is not in the season`},
		"fixed twice":                  {func(p *Problem) { p.Fixed = append(p.Fixed, p.Fixed[0]) }, "fixed[1]: class \"mon\" in week 1 is fixed twice"},
		"led by nobody here":           {func(p *Problem) { p.Fixed[0].Lead = "zed" }, `fixed[0].lead: coach "zed" is not among the coaches`},
		"fixed with what is not there": {func(p *Problem) { p.Fixed[0].Items = []Item{{Unit: "gone", Kind: Teach}} }, "fixed[0].items: "},
		"fixed neither new nor again":  {func(p *Problem) { p.Fixed[0].Items = []Item{{Unit: "base", Kind: "shown"}} }, `fixed[0].items: "shown": choose teach or review`},
		"wants what is not there":      {func(p *Problem) { p.Wanted[0].Unit = "gone" }, "wanted[0].unit: "},
		"wants it nowhere":             {func(p *Problem) { p.Wanted[0].Track = "attic" }, "wanted[0].track: "},
		"wants it in week nought":      {func(p *Problem) { p.Wanted[0].Week = 0 }, "wanted[0].week: "},
		"comes back in week nought":    {func(p *Problem) { p.Spacing.Weeks = []int{0} }, "spacing.weeks: 0 is outside 1 to 60"},
		"give or take two years":       {func(p *Problem) { p.Spacing.Tolerance = 100 }, "spacing.tolerance: "},
	} {
		p := small()
		c.spoil(&p)
		finds(t, p, c.want, name)
	}
}

// Why a coach cannot lead a class: not there, away, or not signed off for something it teaches.
func TestWhyACoachCannotLead(t *testing.T) {
	p := small()
	p.Units[1].Signoff = "throws"
	coach := Coach{ID: "ines", Available: []string{"mon"}, Out: []Away{{Week: 2}, {Week: 3, Class: "mon"}}}
	teach := []Item{{Unit: "sweep", Kind: Teach}}
	for name, c := range map[string]struct {
		week  int
		class string
		items []Item
		signs []string
		want  string
	}{
		"she can":                     {1, "mon", nil, nil, ""},
		"not on Wednesdays":           {1, "wed", nil, nil, "not available"},
		"away that week":              {2, "mon", nil, nil, Away{Week: 2}.Words().String()},
		"away from that class":        {3, "mon", nil, nil, Away{Week: 3, Class: "mon"}.Words().String()},
		"not signed off for it":       {1, "mon", teach, nil, "not signed off for throws"},
		"signed off for it":           {1, "mon", teach, []string{"throws"}, ""},
		"a review wants it too":       {1, "mon", []Item{{Unit: "sweep", Kind: Review}}, nil, "not signed off for throws"},
		"what asks for no sign-off":   {1, "mon", []Item{{Unit: "base", Kind: Teach}}, nil, ""},
		"signed off for other things": {1, "mon", teach, []string{"leg attacks"}, "not signed off for throws"},
	} {
		coach.Signoffs = c.signs
		assert.Equal(t, c.want, coach.Refusal(p, c.week, c.class, c.items).String(), name)
	}
}

// A closure of a week closes every class of it, one of a class that class alone.
func TestClosures(t *testing.T) {
	p := small()
	for name, c := range map[string]struct {
		week  int
		class string
		want  bool
	}{"nothing closed": {1, "mon", false}, "the whole week": {3, "mon", true}, "the whole week, the other class": {3, "wed", true}, "one class": {4, "wed", true}, "not the other": {4, "mon", false}} {
		assert.Equal(t, c.want, Closed(p, c.week, c.class), name)
	}
}

// What was held and is counted in had gives nothing again; what is only fixed does.
func TestCoverageCountsWhatIsKnownOnce(t *testing.T) {
	p := small()
	p.Students[0].Open[0].Need, p.Students[0].Open[0].Had = 2, 1
	plan := []Placement{{Week: 1, Class: "mon", Items: []Item{{Unit: "sweep", Kind: Teach}}}}
	open, all := Coverage(p, plan)
	assert.InDelta(t, 0.8, open, 1e-12)
	assert.Equal(t, []Covered{{"oren", "sweep", all[0].Chance, 1}}, all)
	p.Fixed[0].Held, p.Fixed[0].Known = true, true
	known, _ := Coverage(p, plan)
	assert.Zero(t, known, "what oren had of it is in had already")
	p.Students = nil
	nobody, none := Coverage(p, plan)
	assert.Equal(t, 1.0, nobody)
	assert.Empty(t, none)
	assert.True(t, slices.Equal([]float64{1}, NewTally(0)))
}

// finds asserts that the check of a problem says what is wanted, or nothing at all.
func finds(t *testing.T, p Problem, want, name string) {
	t.Helper()
	var lines []string
	for _, x := range p.Check() {
		lines = append(lines, x.Error())
	}
	if want == "" {
		assert.Empty(t, lines, name)
		return
	}
	assert.Contains(t, strings.Join(lines, "\n"), want, name)
}
