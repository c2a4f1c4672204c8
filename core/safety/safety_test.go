package safety

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/calendar"
	"vereda/core/say"
)

var today = calendar.MustDay("2026-11-24")

func TestRefusals(t *testing.T) {
	cleared := today
	gates := []Gate{{Class: "strangle", MinAge: 14}, {Class: "knee or ankle twisting", MinAge: 18, MinRank: 2, EscapeAge: new(16), EscapeRank: new(1)}}
	knee := Hold{Regions: []Region{"knee"}, From: today - 5}
	for name, c := range map[string]struct {
		who    Person
		class  RiskClass
		escape bool
		why    []string
	}{
		"nothing against it":         {Person{Age: 30, Rank: 3}, "strangle", false, nil},
		"too young":                  {Person{Age: 13}, "strangle", false, []string{"strangle from age 14"}},
		"young and new":              {Person{Age: 17, Rank: 1}, "knee or ankle twisting", false, []string{"knee or ankle twisting from age 18", "knee or ankle twisting from rank 3 of the ladder"}},
		"an escape below its attack": {Person{Age: 16, Rank: 1}, "knee or ankle twisting", true, nil},
		"an escape, still younger":   {Person{Age: 15, Rank: 1}, "knee or ankle twisting", true, []string{"knee or ankle twisting from age 16"}},
		"held knee":                  {Person{Age: 30, Rank: 3, Holds: []Hold{knee}}, "fall or jump", false, []string{"held: it loads the knee"}},
		"held knee, upper body":      {Person{Age: 30, Rank: 3, Holds: []Hold{knee}}, "strangle", false, nil},
		"held from everything":       {Person{Age: 30, Holds: []Hold{{All: true, From: today}}}, "wrist", false, []string{"held from all partner drills until cleared"}},
		"not yet held":               {Person{Age: 30, Rank: 3, Holds: []Hold{{Regions: []Region{"knee"}, From: today + 1}}}, "fall or jump", false, nil},
		"cleared today":              {Person{Age: 30, Rank: 3, Holds: []Hold{{Regions: []Region{"knee"}, From: today - 9, ClearedOn: &cleared}}}, "fall or jump", false, nil},
	} {
		var why []string
		for _, r := range Refusals(c.who, Load{Classes: []RiskClass{c.class}, Escape: c.escape}, gates, today) {
			why = append(why, r.Why.String())
		}
		assert.Equal(t, c.why, why, name)
	}
}

func TestEveryClassHasCautionsAndRegions(t *testing.T) {
	for _, r := range Risks {
		assert.NotEmpty(t, r.Cautions, r.Class)
		assert.NotEmpty(t, r.Regions, r.Class)
	}
	both := Cautions([]RiskClass{"elbow", "shoulder"})
	assert.Contains(t, say.Texts(both), "Lift through the hips in a straight line; never jerk a straight arm.")
	seen := map[string]bool{}
	for _, c := range both {
		assert.False(t, seen[c.String()], "each caution once")
		seen[c.String()] = true
	}
}

// A gate of a technique is of it alone; one of a class of whatever loads it; tracks and ladders narrow them.
func TestGates(t *testing.T) {
	escapeAge := 12
	load := Load{Technique: "ankle-lock", Classes: []RiskClass{"ankle compression"}}
	for name, c := range map[string]struct {
		gate  Gate
		who   Person
		track string
		load  Load
		want  []string
	}{
		"of another technique":            {Gate{Technique: "toe-hold", MinAge: 18}, Person{Age: 5}, "all", load, nil},
		"of this technique":               {Gate{Technique: "ankle-lock", MinAge: 18}, Person{Age: 17}, "all", load, []string{"this technique from age 18"}},
		"of its class":                    {Gate{Class: "ankle compression", MinAge: 16}, Person{Age: 15}, "all", load, []string{"ankle compression from age 16"}},
		"of another class":                {Gate{Class: "strangle", MinAge: 16}, Person{Age: 5}, "all", load, nil},
		"of unknown age is too young":     {Gate{Class: "ankle compression", MinAge: 16}, Person{}, "all", load, []string{"ankle compression from age 16"}},
		"a rank not reached":              {Gate{Class: "ankle compression", MinRank: 2}, Person{Age: 30, Rank: 1}, "all", load, []string{"ankle compression from rank 3 of the ladder"}},
		"a rank reached":                  {Gate{Class: "ankle compression", MinRank: 2}, Person{Age: 30, Rank: 2}, "all", load, nil},
		"a rank of another ladder":        {Gate{Class: "ankle compression", MinRank: 2, Ladder: "adult"}, Person{Age: 30, Rank: 5, Ladder: "youth"}, "all", load, []string{"ankle compression from rank 3 of the adult ladder"}},
		"a rank of this ladder":           {Gate{Class: "ankle compression", MinRank: 2, Ladder: "adult"}, Person{Age: 30, Rank: 2, Ladder: "adult"}, "all", load, nil},
		"no rank asked of another ladder": {Gate{Class: "ankle compression", MinAge: 16, Ladder: "adult"}, Person{Age: 30, Ladder: "youth"}, "all", load, nil},
		"in its track":                    {Gate{Technique: "ankle-lock", Tracks: []string{"no-gi"}}, Person{Age: 30}, "no-gi", load, nil},
		"in another track":                {Gate{Technique: "ankle-lock", Tracks: []string{"no-gi"}}, Person{Age: 30}, "all", load, []string{"this technique is taught in other tracks alone"}},
		"an escape, by its own age":       {Gate{Class: "ankle compression", MinAge: 18, EscapeAge: &escapeAge}, Person{Age: 12}, "all", Load{Classes: load.Classes, Escape: true}, nil},
		"an escape, younger still":        {Gate{Class: "ankle compression", MinAge: 18, EscapeAge: &escapeAge}, Person{Age: 11}, "all", Load{Classes: load.Classes, Escape: true}, []string{"ankle compression from age 12"}},
	} {
		var why []string
		for _, r := range TrackRefusals(c.who, c.track, c.load, []Gate{c.gate}) {
			why = append(why, r.Why.String())
		}
		assert.Equal(t, c.want, why, name)
	}
	age, rank := Limits(UsualGates(), Load{Classes: []RiskClass{"strangle", "knee or ankle twisting"}})
	assert.Equal(t, []int{18, 3}, []int{age, rank}, "the strictest of all that cover it")
	age, rank = Limits(UsualGates(), Load{Classes: []RiskClass{"knee or ankle twisting"}, Escape: true})
	assert.Equal(t, []int{16, 1}, []int{age, rank})
	age, rank = Limits(nil, load)
	assert.Zero(t, age+rank)
}

// The usual gates are of classes there are, and let nobody be attacked by what they may not learn to escape.
func TestTheUsualGatesLetEscapesComeFirst(t *testing.T) {
	for _, g := range UsualGates() {
		assert.True(t, Known(g.Class), g.Class)
		age, rank := g.limits(false)
		escapeAge, escapeRank := g.limits(true)
		assert.LessOrEqual(t, escapeAge, age, g.Class)
		assert.LessOrEqual(t, escapeRank, rank, g.Class)
		assert.Equal(t, string(g.Class), g.Covers().String())
	}
	assert.False(t, Known("tickling"))
	assert.Contains(t, Regions(), Region("knee"))
	seen := map[Region]bool{}
	for _, r := range Regions() {
		assert.False(t, seen[r], r)
		seen[r] = true
	}
}

func TestHoldsSayWhatIsWrongWithThem(t *testing.T) {
	before := today - 1
	for name, c := range map[string]struct {
		hold Hold
		want string
	}{
		"a knee":                    {Hold{Regions: []Region{"knee"}, From: today}, ""},
		"everything":                {Hold{All: true, From: today}, ""},
		"live rounds alone":         {Hold{NoLive: true, From: today}, ""},
		"cleared the same day":      {Hold{All: true, From: today, ClearedOn: &today}, ""},
		"nothing":                   {Hold{From: today}, "regions: names none"},
		"a wing":                    {Hold{Regions: []Region{"knee", "wing"}, From: today}, `regions[1]: "wing" is not a region a hold can cover`},
		"cleared before it began":   {Hold{All: true, From: today, ClearedOn: &before}, "cleared_on: "},
		"a note that is not a note": {Hold{All: true, From: today, Note: string(make([]byte, 3))}, "note: "},
	} {
		words := ""
		for _, p := range c.hold.Problems() {
			words += p.Error() + "\n"
		}
		if c.want == "" {
			assert.Empty(t, words, name)
			continue
		}
		assert.Contains(t, words, c.want, name)
	}
	h := Hold{All: true, From: today, ClearedOn: &today}
	assert.False(t, h.Active(today), "a clearance ends it on its own day")
	h.ClearedOn = nil
	assert.True(t, h.Active(today) && !h.Active(today-1))
}
