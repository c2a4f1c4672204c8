package season

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestRulesAreNamedAndTakenAwayOneByOne(t *testing.T) {
	assert.False(t, Rules{}.Any())
	assert.False(t, Rules{ReviewWeeks: []int{3}}.Any(), "weeks of reviews alone ask nothing")
	r := Rules{MostUnits: 3, MostNew: 1, MainMinutes: 15, TeachGap: 4, ReviewGap: 1, TeachEach: true, ReviewWeeks: []int{6, 12}, Together: true, RiskApart: true, EaseIn: true, Deeper: true, AreaLeast: 3, AreaMost: 5}
	words := map[string]string{
		"most_units": "at most 3 units in a class", "most_new": "at most 1 new in a class", "main_minutes": "at least 15 minutes for the main one", "teach_gap": "taught again after 4 weeks at the earliest",
		"review_gap": "reviewed after 1 week at the earliest", "teach_each": "no class of reviews alone but in week 6, 12", "together": "what is taught in one class belongs together",
		"risk_apart": "no two units in one class that load a neck or twist a leg", "ease_in": "none of those in the first week after a closed one",
		"deeper": "taught again only at the next layer, never the same", "area_weeks": "3 to 5 weeks in a row of one area",
	}
	all := r.Named()
	assert.Len(t, all, len(words))
	for _, n := range all {
		assert.Equal(t, words[n.ID], n.Words.String(), n.ID)
		left := map[string]bool{}
		for _, o := range n.Without.Named() {
			left[o.ID] = true
		}
		assert.False(t, left[n.ID], "%s is taken away", n.ID)
		assert.Len(t, left, len(words)-1, "%s alone", n.ID)
	}
	assert.True(t, UsualRules.Any())
}

func TestWhatBelongsTogether(t *testing.T) {
	bridge := Unit{ID: "bridge", Area: "mount"}
	for name, c := range map[string]struct {
		other Unit
		want  bool
	}{
		"of one area":              {Unit{ID: "elbow", Area: "mount"}, true},
		"of another":               {Unit{ID: "sweep", Area: "guard"}, false},
		"stands on it":             {Unit{ID: "sweep", Area: "guard", Requires: []string{"bridge"}}, true},
		"is related to it":         {Unit{ID: "roll", Area: "movement", Related: []string{"bridge"}}, true},
		"stands on something else": {Unit{ID: "sweep", Area: "guard", Requires: []string{"elbow"}}, false},
	} {
		assert.Equal(t, c.want, bridge.Belongs(c.other), name)
		assert.Equal(t, c.want, c.other.Belongs(bridge), "%s, the other way round", name)
	}
	assert.False(t, Unit{ID: "a"}.Belongs(Unit{ID: "b"}), "two without an area have none in common")
}

func TestWhatTracksAskIsChecked(t *testing.T) {
	good := Problem{Weeks: 6, Tracks: []Track{{ID: "all", Mode: "same", School: "free"}}, Units: []Unit{{ID: "a", Tracks: []string{"all"}, Minutes: 10, ReviewMinutes: 5, Area: "x"}}}
	for name, c := range map[string]struct {
		spoil func(*Problem)
		want  string
	}{
		"nothing asked":            {func(*Problem) {}, ""},
		"usual rules":              {func(p *Problem) { p.Tracks[0].Rules = UsualRules }, ""},
		"kept out of some weeks":   {func(p *Problem) { p.Barred = []Barred{{Unit: "a", Track: "all", From: 2, To: 3}} }, ""},
		"fewer than no units":      {func(p *Problem) { p.Tracks[0].Rules.MostUnits = -1 }, "tracks[0].rules.most_units"},
		"a main unit of six hours": {func(p *Problem) { p.Tracks[0].Rules.MainMinutes = 360 }, "tracks[0].rules.main_minutes"},
		"an area without an end":   {func(p *Problem) { p.Tracks[0].Rules.AreaLeast = 3 }, "tracks[0].rules.area_most: is empty"},
		"longer than it may":       {func(p *Problem) { p.Tracks[0].Rules.AreaLeast, p.Tracks[0].Rules.AreaMost = 5, 3 }, "tracks[0].rules.area_least: 5 weeks at least are more than 3 at most"},
		"week nought for reviews":  {func(p *Problem) { p.Tracks[0].Rules.ReviewWeeks = []int{0} }, "tracks[0].rules.review_weeks"},
		"related to nothing":       {func(p *Problem) { p.Units[0].Related = []string{"gone"} }, `units[0].related: unit "gone" is not among the units`},
		"a unit that is not there": {func(p *Problem) { p.Barred = []Barred{{Unit: "gone", From: 1, To: 1}} }, `barred[0].unit: unit "gone"`},
		"a track that is not":      {func(p *Problem) { p.Barred = []Barred{{Unit: "a", Track: "gone", From: 1, To: 1}} }, `barred[0].track: track "gone"`},
		"past the season":          {func(p *Problem) { p.Barred = []Barred{{Unit: "a", From: 5, To: 7}} }, "barred[0]: weeks 5 to 7 are not in a season of 6 weeks"},
		"backwards":                {func(p *Problem) { p.Barred = []Barred{{Unit: "a", From: 3, To: 2}} }, "barred[0]: weeks 3 to 2"},
	} {
		p := good
		p.Tracks, p.Units = append([]Track{}, good.Tracks...), append([]Unit{}, good.Units...)
		c.spoil(&p)
		finds(t, p, c.want, name)
	}
}

func TestWhenACoachIsAway(t *testing.T) {
	week, class := Away{Week: 3}, Away{Week: 3, Class: "tue"}
	assert.Equal(t, []bool{true, true, false}, []bool{week.Covers(3, "tue"), week.Covers(3, "thu"), week.Covers(4, "tue")})
	assert.Equal(t, []bool{true, false, false}, []bool{class.Covers(3, "tue"), class.Covers(3, "thu"), class.Covers(4, "tue")})
	assert.Equal(t, []string{"out in week 3", "out of tue in week 3"}, []string{week.Words().String(), class.Words().String()})
}

func TestPlacementsInTheOrderTheyHappen(t *testing.T) {
	p := Problem{Classes: []Class{{ID: "late", Weekday: 1, Start: "20:00"}, {ID: "early", Weekday: 1, Start: "07:00"}, {ID: "fri", Weekday: 5, Start: "06:00"}}}
	all := []Placement{{Week: 2, Class: "early"}, {Week: 1, Class: "fri"}, {Week: 1, Class: "late"}, {Week: 1, Class: "early"}}
	SortPlacements(p, all)
	var got []string
	for _, x := range all {
		got = append(got, Key(x.Week, x.Class))
	}
	assert.Equal(t, []string{"1/early", "1/late", "1/fri", "2/early"}, got)
	plan := Plan{Placements: all}
	found, ok := plan.Find(1, "fri")
	assert.True(t, ok)
	assert.Equal(t, "fri", found.Class)
	_, ok = plan.Find(3, "fri")
	assert.False(t, ok)
}
