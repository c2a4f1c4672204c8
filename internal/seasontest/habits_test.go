package seasontest

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/season"
)

// A line of one week of each area: three weeks of guard break it, unless there is nothing else that could ever be taught.
func TestALineIsAskedOfWhatCanBeTaught(t *testing.T) {
	for name, tc := range map[string]struct {
		sweep   season.Unit
		assumed []string
		keeps   bool
	}{
		"two areas":                        {season.Unit{ID: "sweep", Area: "half", Tracks: []string{"all"}}, nil, false},
		"it stands on what is taught here": {season.Unit{ID: "sweep", Area: "half", Tracks: []string{"all"}, Requires: []string{"frames"}}, nil, false},
		"it stands on what is not":         {season.Unit{ID: "sweep", Area: "half", Tracks: []string{"all"}, Requires: []string{"grips"}}, nil, true},
		"that is there already":            {season.Unit{ID: "sweep", Area: "half", Tracks: []string{"all"}, Requires: []string{"grips"}}, []string{"grips"}, false},
		"of another track":                 {season.Unit{ID: "sweep", Area: "half", Tracks: []string{"kids"}}, nil, true},
	} {
		t.Run(name, func(t *testing.T) {
			track := season.Track{ID: "all", Assumed: tc.assumed, Rules: season.Rules{AreaLeast: 1, AreaMost: 1}}
			p := season.Problem{Weeks: 3, Tracks: []season.Track{track}, Classes: []season.Class{{ID: "mon", Track: "all"}}, Units: []season.Unit{
				{ID: "frames", Area: "guard", Tracks: []string{"all"}}, {ID: "grips", Tracks: []string{"kids"}}, tc.sweep,
			}}
			var plan []season.Placement
			for week := 1; week <= 3; week++ {
				plan = append(plan, season.Placement{Week: week, Class: "mon", Items: []season.Item{{Unit: "frames", Kind: season.Teach}}})
			}
			if found := Habits(p, plan); tc.keeps {
				assert.Empty(t, found)
			} else {
				assert.Equal(t, []string{"all: no line of areas goes through it"}, found)
			}
		})
	}
}
