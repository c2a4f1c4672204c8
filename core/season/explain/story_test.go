package explain

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

func TestAPlanIsToldAsACoachWould(t *testing.T) {
	p := season.Problem{Weeks: 6, Tracks: []season.Track{{ID: "fund", Mode: "same", Assumed: []string{"bridge"}}}, Closures: []season.Closure{{Week: 3}},
		Classes: []season.Class{{ID: "mon", Track: "fund", Weekday: 1}, {ID: "wed", Track: "fund", Weekday: 3}},
		Units: []season.Unit{{ID: "bridge", Name: "Bridge", Area: "pins"}, {ID: "move", Name: "Hip escape", Minutes: 10, ReviewMinutes: 4, Area: "pins"},
			{ID: "escape", Name: "Elbow escape", Minutes: 20, Requires: []string{"move"}, Area: "pins"}, {ID: "roll", Name: "Bridge and roll", Minutes: 20, Requires: []string{"bridge"}, Area: "pins"}, {ID: "cut", Name: "Knee cut", Minutes: 25, Area: "half guard"}}}
	teach, review := season.Teach, season.Review
	class := func(week int, items ...season.Item) []season.Placement {
		return []season.Placement{{Week: week, Class: "mon", Items: items}, {Week: week, Class: "wed", Items: items}}
	}
	var plan []season.Placement
	plan = append(plan, class(4, season.Item{Unit: "roll", Kind: teach}, season.Item{Unit: "move", Kind: review})...)
	plan = append(plan, class(1, season.Item{Unit: "move", Kind: teach})...)
	plan = append(plan, class(2, season.Item{Unit: "escape", Kind: teach})...)
	plan = append(plan, class(5, season.Item{Unit: "cut", Kind: teach}, season.Item{Unit: "escape", Kind: teach}, season.Item{Unit: "bridge", Kind: review})...)
	told := Tell(p, plan)
	require.Len(t, told, 1)
	assert.Equal(t, []Stretch{{"pins", 1, 4}, {"half guard", 5, 5}}, told[0].Line)
	var says []string
	for _, w := range told[0].Weeks {
		says = append(says, w.Says.String())
	}
	assert.Equal(t, []string{
		"Pins, week 1 of 3. New: Hip escape (Elbow escape of week 2 will stand on it).",
		"Pins, week 2 of 3. New: Elbow escape (stands on Hip escape of week 1).",
		"No class.",
		"Pins, week 3 of 3. New: Bridge and roll (stands on Bridge). Comes back: Hip escape after 3 weeks. Next is half guard.",
		"Half guard. New: Knee cut. Once more, for those who were not there or need it twice: Elbow escape, first taught 3 weeks ago. Comes back: Bridge, known before the season.",
		"Nothing is planned.",
	}, says)
}

// In a track that comes back deeper the second teaching is the second layer.
func TestASpiralIsToldByItsLayers(t *testing.T) {
	p := season.Problem{Weeks: 5, Tracks: []season.Track{{ID: "nogi", Mode: "split", Rules: season.Rules{Deeper: true}}}, Classes: []season.Class{{ID: "mon", Track: "nogi", Weekday: 1}},
		Units: []season.Unit{{ID: "lock", Name: "Arm lock", Minutes: 20, Area: "guard", Layers: 2}}}
	var plan []season.Placement
	for _, week := range []int{1, 3, 5} {
		plan = append(plan, season.Placement{Week: week, Class: "mon", Items: []season.Item{{Unit: "lock", Kind: season.Teach}}})
	}
	weeks := Tell(p, plan)[0].Weeks
	assert.Contains(t, weeks[0].Says.String(), "New: Arm lock.")
	assert.Contains(t, weeks[2].Says.String(), "Deeper: Arm lock, layer 2 of 2, after 2 weeks.")
	assert.Contains(t, weeks[4].Says.String(), "Once more", "it has no third layer")
	other := append([]season.Placement{{Week: 2, Class: "wed", Items: plan[0].Items}}, plan...)
	q := p
	q.Classes = append(q.Classes, season.Class{ID: "wed", Track: "nogi", Weekday: 3})
	assert.Contains(t, Tell(q, other)[0].Weeks[1].Says.String(), "Once more", "to another class it is the first layer")
	p.Tracks[0].Rules.Deeper = false
	assert.Contains(t, Tell(p, plan)[0].Weeks[2].Says.String(), "Once more")
}

// Whatever a plan holds, every week of every track that has classes is told once, and each unit of a week is named in it.
func TestEveryUnitOfAWeekIsNamed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawHabits(t)
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		at := map[string]int{}
		for i, tr := range p.Tracks {
			at[tr.ID] = i
		}
		told := Tell(p, plan.Placements)
		require.Len(t, told, len(p.Tracks))
		for _, x := range plan.Placements {
			for _, c := range p.Classes {
				if c.ID != x.Class {
					continue
				}
				s := told[at[c.Track]]
				require.Len(t, s.Weeks, p.Weeks)
				for _, it := range x.Items {
					require.Contains(t, s.Weeks[x.Week-1].Says, it.Unit)
				}
			}
		}
	})
}

// A track that asks for a line is told along it: a week of reviews goes on in the area it is in, whatever is reviewed.
func TestATrackIsToldAlongItsLine(t *testing.T) {
	p := season.Problem{Weeks: 6, Tracks: []season.Track{{ID: "all", Mode: "split", School: "block", Rules: season.Rules{AreaLeast: 3, AreaMost: 5}}}, Classes: []season.Class{{ID: "mon", Track: "all", Weekday: 1, TeachMinutes: 60}},
		Units: []season.Unit{{ID: "hold", Name: "Hold the pin", Tracks: []string{"all"}, Minutes: 20, ReviewMinutes: 10, Area: "pins"}, {ID: "open", Name: "Open the guard", Tracks: []string{"all"}, Minutes: 20, ReviewMinutes: 10, Area: "guards"}}}
	give := func(week int, items ...season.Item) season.Placement {
		return season.Placement{Week: week, Class: "mon", Items: items}
	}
	told := Tell(p, []season.Placement{give(1, season.Item{Unit: "hold", Kind: season.Teach}), give(2, season.Item{Unit: "hold", Kind: season.Review}),
		give(4, season.Item{Unit: "open", Kind: season.Teach}), give(5, season.Item{Unit: "hold", Kind: season.Review})})
	assert.Equal(t, []Stretch{{"pins", 1, 3}, {"guards", 4, 6}}, told[0].Line)
	assert.Equal(t, "Guards, week 2 of 3. Comes back: Hold the pin after 3 weeks.", told[0].Weeks[4].Says.String())
	p.Tracks[0].Rules = season.Rules{}
	told = Tell(p, []season.Placement{give(1, season.Item{Unit: "hold", Kind: season.Teach}), give(4, season.Item{Unit: "open", Kind: season.Teach}), give(5, season.Item{Unit: "hold", Kind: season.Review})})
	assert.Equal(t, []Stretch{{"pins", 1, 1}, {"guards", 4, 4}, {"pins", 5, 5}}, told[0].Line, "without the rule, by what it gives")
}
