package ledger

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
)

// drawHappened draws classes and checks of half a year, in any order.
func drawHappened(t *rapid.T) ([]Attended, []Checked) {
	attended := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Attended {
		return Attended{On: today - calendar.Day(rapid.IntRange(0, 180).Draw(t, "day")), Part: rapid.Bool().Draw(t, "part"), Items: []Item{{
			Technique: rapid.SampledFrom([]string{"escape", "move"}).Draw(t, "technique"), Kind: rapid.SampledFrom([]string{"teach", "review"}).Draw(t, "kind"),
			Reached: rapid.SampledFrom([]string{"all", "part", "not"}).Draw(t, "reached"), OneSide: rapid.Bool().Draw(t, "side")}}}
	}), 0, 12).Draw(t, "attended")
	checked := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Checked {
		return Checked{On: today - calendar.Day(rapid.IntRange(0, 180).Draw(t, "day")), Order: rapid.IntRange(1, 1_000_000).Draw(t, "order"), Technique: "escape",
			Side: rapid.SampledFrom([]library.Side{library.Right, library.Left}).Draw(t, "side"), Rung: curriculum.Passed, Met: rapid.Bool().Draw(t, "met")}
	}), 0, 8).Draw(t, "checked")
	return attended, checked
}

// At every day the path is the readiness that was computed on that day from what had happened until then.
func TestThePathIsTheReadinessOfEachDay(t *testing.T) {
	rules := StandingRules{DrilledAfter: 2, FirstHalfLife: 21, LeastHalfLife: 7, DueBelow: 0.5}
	c := curriculum.Curriculum{Requirements: []curriculum.Requirement{{Technique: "escape", Rung: curriculum.Passed, BothSides: true, Weight: 3}, {Technique: "move", Rung: curriculum.Drilled, Weight: 1}}}
	who := Candidate{Since: today - 200, Next: curriculum.Rank{ID: "blue"}, Rules: rules, Person: safety.Person{Age: 30, Holds: []safety.Hold{{All: true, From: today - 300}}}, Gates: safety.UsualGates()}
	rapid.Check(t, func(t *rapid.T) {
		attended, checked := drawHappened(t)
		var days []calendar.Day
		for d := today - 190; d <= today; d += calendar.Day(rapid.IntRange(1, 30).Draw(t, "step")) {
			days = append(days, d)
		}
		path := Path(lib(), c, who, attended, checked, days)
		require.Len(t, path, len(days))
		before := 0.0
		for i, p := range path {
			require.Equal(t, days[i], p.On)
			at := who
			at.On = p.On
			at.Standings = Standings(lib(), rules, slices.DeleteFunc(slices.Clone(attended), func(a Attended) bool { return a.On > p.On }), slices.DeleteFunc(slices.Clone(checked), func(x Checked) bool { return x.On > p.On }))
			require.InDelta(t, Ready(lib(), c, at).Share, p.Share, 1e-12)
			met := 0.0 // by hand: seen on each side that is asked for
			seen := func(technique string, side library.Side) bool {
				return slices.ContainsFunc(at.Standings, func(s Standing) bool {
					return s.Technique == technique && s.Side == side && s.Rung.Step() >= curriculum.Met.Step()
				})
			}
			if seen("escape", library.Right) && seen("escape", library.Left) {
				met += 0.75
			}
			if seen("move", "") {
				met += 0.25
			}
			require.InDelta(t, met, p.Met, 1e-12)
			require.GreaterOrEqual(t, p.Met, before, "what was seen stays seen")
			require.GreaterOrEqual(t, p.Met, p.Share-1e-12, "what is there was seen")
			before = p.Met
		}
	})
	assert.Empty(t, Path(lib(), c, who, nil, nil, nil))
	assert.Equal(t, []PathPoint{{On: today}}, Path(lib(), c, who, nil, nil, []calendar.Day{today}), "nothing happened yet")
}

func BenchmarkPath(b *testing.B) {
	c := curriculum.Curriculum{}
	var all []library.Technique
	var attended []Attended
	for i := range 90 {
		id := string(rune('a'+i/26)) + string(rune('a'+i%26))
		all = append(all, library.Technique{ID: id, Name: id, Kind: "escape", Taught: library.Right})
		c.Requirements = append(c.Requirements, curriculum.Requirement{Technique: id, Rung: curriculum.Passed, BothSides: true, Weight: 1})
	}
	var days []calendar.Day
	for w := range 156 {
		days = append(days, today-calendar.Day(7*(155-w)))
		for k := range 3 {
			attended = append(attended, Attended{On: days[w], Items: []Item{{Technique: all[(w+k)%90].ID, Kind: "teach", Reached: "all"}}})
		}
	}
	l := library.New(nil, all)
	who := Candidate{Rules: StandingRules{DrilledAfter: 2, FirstHalfLife: 21, LeastHalfLife: 7, DueBelow: 0.5}}
	for b.Loop() {
		Path(l, c, who, attended, nil, days)
	}
}
