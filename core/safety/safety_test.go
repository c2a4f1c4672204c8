package safety

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/calendar"
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
			why = append(why, r.Why)
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
	assert.Contains(t, both, "Lift through the hips in a straight line; never jerk a straight arm.")
	seen := map[string]bool{}
	for _, c := range both {
		assert.False(t, seen[c], "each caution once")
		seen[c] = true
	}
}
