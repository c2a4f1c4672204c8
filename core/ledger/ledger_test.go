package ledger

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
)

var today = calendar.MustDay("2026-11-24")

var escape = library.Technique{ID: "escape", Name: "Elbow escape", Kind: "escape", Taught: library.Right, Risks: []safety.RiskClass{"fall or jump"},
	Prerequisites: []library.Prerequisite{{Technique: "move"}},
	KeyPoints:     []library.KeyPoint{{ID: "g", Cue: "Frame first", Gate: true}, {ID: "a", Cue: "Hip out"}, {ID: "b", Cue: "Knee in"}, {ID: "c", Cue: "Face them"}}}

func lib() *library.Library {
	return library.New(nil, []library.Technique{escape, {ID: "move", Name: "Hip escape", Kind: library.Movement}})
}

func TestAttendanceChance(t *testing.T) {
	// Two visits, one today and one four weeks old: weights 1 and ½.
	assert.InDelta(t, (1+1.0)/(2+1.5), DefaultAttendance.Chance([]Visit{{0, true}, {4, false}}, 0.5), 1e-12)
	assert.InDelta(t, 0.3, DefaultAttendance.Chance(nil, 0.3), 1e-12, "nothing seen: the prior")
	assert.InDelta(t, (0+2*0.5)/(4+2.0), DefaultAttendance.Prior(0, 4, 0, 0), 1e-12)
	rapid.Check(t, func(t *rapid.T) {
		prior := rapid.Float64Range(0.01, 0.99).Draw(t, "prior")
		visits := rapid.SliceOf(rapid.Custom(func(t *rapid.T) Visit {
			return Visit{rapid.Float64Range(0, 60).Draw(t, "weeks"), rapid.Bool().Draw(t, "came")}
		})).Draw(t, "visits")
		p := DefaultAttendance.Chance(visits, prior)
		require.True(t, p > 0 && p < 1)
		require.GreaterOrEqual(t, DefaultAttendance.Chance(append(slices.Clone(visits), Visit{0, true}), prior), p, "coming never lowers it")
	})
}

func TestJudge(t *testing.T) {
	seen := func(g, a, b, c Seen) map[string]Seen { return map[string]Seen{"g": g, "a": a, "b": b, "c": c} }
	for name, c := range map[string]struct {
		o    Observation
		rung curriculum.Rung
		sc   float64
	}{
		"all seen":                 {Observation{Points: seen(Shown, Shown, Shown, Shown)}, curriculum.Passed, 1},
		"gate prompted":            {Observation{Points: seen(Prompted, Shown, Shown, Shown)}, "", 1},
		"gate missing":             {Observation{Points: seen(Missing, Shown, Shown, Shown)}, "", 1},
		"share just met":           {Observation{Points: seen(Shown, Shown, Shown, Prompted)}, curriculum.Passed, 2.5 / 3},
		"share not met":            {Observation{Points: seen(Shown, Shown, Shown, Missing)}, "", 2.0 / 3},
		"caution broken":           {Observation{Points: seen(Shown, Shown, Shown, Shown), CautionBroken: true}, "", 1},
		"one of one proves little": {Observation{Points: seen(Shown, Shown, Shown, Shown), Resistance: 4, Tries: 1, Successes: 1}, curriculum.Passed, 1},
		"an escape, 3 of 6":        {Observation{Points: seen(Shown, Shown, Shown, Shown), Resistance: 4, Tries: 6, Successes: 3}, curriculum.Live, 1},
		"an escape, 1 of 9":        {Observation{Points: seen(Shown, Shown, Shown, Shown), Resistance: 4, Tries: 9, Successes: 1}, curriculum.Passed, 1},
		"taught back":              {Observation{Points: seen(Shown, Shown, Shown, Shown), Resistance: 4, Tries: 6, Successes: 3, TaughtBack: true}, curriculum.Teaches, 1},
	} {
		v := Judge(escape, c.o, DefaultStandard)
		assert.Equal(t, c.rung, v.Rung, name)
		assert.Equal(t, c.rung != "", v.Met, name)
		assert.InDelta(t, c.sc, v.Score, 1e-12, name)
		assert.NotEmpty(t, v.Reasons, name)
		assert.Empty(t, c.o.Check(escape), name)
	}
	assert.Equal(t, "points.c", Observation{Points: map[string]Seen{"g": Shown, "a": Shown, "b": Shown}}.Check(escape)[0].Field)
	assert.Equal(t, "successes", Observation{Points: seen(Shown, Shown, Shown, Shown), Tries: 1, Successes: 2}.Check(escape)[0].Field)
}

func TestWilson(t *testing.T) {
	low, high := Wilson(8, 12)
	assert.InDelta(t, 0.3906, low, 5e-4)
	assert.InDelta(t, 0.8619, high, 5e-4)
	one, _ := Wilson(1, 1)
	assert.Less(t, one, low, "one of one does not outrank eight of twelve")
	low, high = Wilson(0, 0)
	assert.Equal(t, [2]float64{0, 1}, [2]float64{low, high})
}

func taught(days int, kind, reached string, oneSide bool) Attended {
	return Attended{On: today - calendar.Day(days), Items: []Item{{Technique: "escape", Kind: kind, Reached: reached, OneSide: oneSide}}}
}

func find(t *testing.T, all []Standing, side library.Side) Standing {
	i := slices.IndexFunc(all, func(s Standing) bool { return s.Technique == "escape" && s.Side == side })
	require.GreaterOrEqual(t, i, 0)
	return all[i]
}

func TestStandings(t *testing.T) {
	all := Standings(lib(), DefaultStanding, []Attended{taught(30, "teach", "all", false), taught(23, "review", "all", false), taught(16, "teach", "all", true), taught(9, "review", "not", false), taught(2, "review", "all", true)}, nil)
	right, left := find(t, all, library.Right), find(t, all, library.Left)
	assert.Equal(t, curriculum.Drilled, right.Rung)
	assert.Equal(t, 3.0, right.Exposures)
	assert.Equal(t, curriculum.Met, left.Rung, "the left side was left out twice")
	assert.Equal(t, 1.5, left.Exposures)
	assert.False(t, right.Due(today, DefaultStanding), "what was never passed is not due")

	passed := Checked{On: today - 50, Technique: "escape", Side: library.Right, Rung: curriculum.Passed, Met: true}
	s := find(t, Standings(lib(), DefaultStanding, nil, []Checked{passed}), library.Right)
	assert.InDelta(t, 0.5, s.Retention(today-50+21), 1e-12)
	assert.True(t, s.Due(today, DefaultStanding))
	s = find(t, Standings(lib(), DefaultStanding, []Attended{taught(5, "review", "all", true)}, []Checked{passed}), library.Right)
	assert.False(t, s.Due(today, DefaultStanding), "a review refreshes it")
	failed := Checked{On: today - 10, Technique: "escape", Side: library.Right}
	s = find(t, Standings(lib(), DefaultStanding, nil, []Checked{passed, failed}), library.Right)
	assert.Equal(t, curriculum.Passed, s.Rung, "a failed check takes no rung away")
	assert.Equal(t, 14.0, s.HalfLife)
}

// Of one side it is the one that was told that counts, and the taught one where none was.
func TestTheSideThatWasDoneCounts(t *testing.T) {
	for side, want := range map[library.Side][2]bool{"": {true, false}, library.Right: {true, false}, library.Left: {false, true}} {
		a := taught(3, "teach", "all", true)
		a.Items[0].Side = side
		has := map[library.Side]bool{}
		for _, s := range Standings(lib(), DefaultStanding, []Attended{a}, nil) {
			has[s.Side] = true
		}
		assert.Equal(t, want, [2]bool{has[library.Right], has[library.Left]}, "side %q", side)
	}
	a := taught(3, "teach", "all", false)
	a.Items[0].Side = library.Left // said of both sides it means nothing
	assert.Len(t, Standings(lib(), DefaultStanding, []Attended{a}, nil), 2)
}

// The order in which events arrive does not matter.
func TestStandingsDoNotDependOnOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		attended := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Attended {
			return taught(rapid.IntRange(0, 90).Draw(t, "days"), rapid.SampledFrom([]string{"teach", "review"}).Draw(t, "kind"), rapid.SampledFrom([]string{"all", "part", "not"}).Draw(t, "reached"), rapid.Bool().Draw(t, "one side"))
		}), 0, 8).Draw(t, "attended")
		var checked []Checked
		for i := range rapid.IntRange(0, 5).Draw(t, "checks") {
			met := rapid.Bool().Draw(t, "met")
			c := Checked{On: today - calendar.Day(rapid.IntRange(0, 90).Draw(t, "on")), Order: i, Technique: "escape", Side: library.Left, Met: met}
			if met {
				c.Rung = rapid.SampledFrom([]curriculum.Rung{curriculum.Passed, curriculum.Live}).Draw(t, "rung")
			}
			checked = append(checked, c)
		}
		want := Standings(lib(), DefaultStanding, attended, checked)
		slices.Reverse(attended)
		slices.Reverse(checked)
		require.Equal(t, want, Standings(lib(), DefaultStanding, attended, checked))
	})
}

func TestReady(t *testing.T) {
	c := curriculum.Curriculum{Rank: "blue", Requirements: []curriculum.Requirement{{Technique: "escape", Rung: curriculum.Passed, BothSides: true, Weight: 2}, {Technique: "move", Rung: curriculum.Met, Weight: 1}}}
	next := curriculum.Rank{ID: "blue", MinMonths: 12, MinClasses: 40, MinAge: 16}
	who := Candidate{On: today, Since: today.AddMonths(-13), Classes: 40, Age: 16, Next: next}
	r := Ready(lib(), c, who)
	assert.Equal(t, 0, r.Met)
	require.Len(t, r.Missing, 3)
	assert.Equal(t, []string{"first: Hip escape"}, say.Texts(r.Missing[0].InTheWay))
	assert.Empty(t, r.Waits)

	on := today
	who.Standings = []Standing{{Technique: "move", Rung: curriculum.Met}, {Technique: "escape", Side: library.Right, Rung: curriculum.Passed, Fresh: &on, HalfLife: 21}}
	r = Ready(lib(), c, who)
	require.Len(t, r.Missing, 1)
	assert.Equal(t, library.Left, r.Missing[0].Side)
	assert.InDelta(t, 1.0/3, r.Share, 1e-12)
	who.Standings = append(who.Standings, Standing{Technique: "escape", Side: library.Left, Rung: curriculum.Live, Fresh: &on, HalfLife: 21})
	assert.True(t, Ready(lib(), c, who).Ready)
	who.Since, who.Classes, who.Age = today.AddMonths(-3), 12, 15
	assert.Len(t, Ready(lib(), c, who).Waits, 3)
	who.Person.Holds = []safety.Hold{{Regions: []safety.Region{"knee"}, From: today - 1}}
	who.Standings = nil
	assert.Contains(t, say.Texts(Ready(lib(), c, who).Missing[0].InTheWay), "held: it loads the knee")
}

// What is asked as seen or drilled stays reached, whatever is passed and fades after it.
func TestPassingTakesNothingAway(t *testing.T) {
	rules := DefaultStanding
	rapid.Check(t, func(t *rapid.T) {
		day := calendar.Day(rapid.IntRange(20000, 20400).Draw(t, "fresh"))
		s := Standing{Rung: rapid.SampledFrom([]curriculum.Rung{curriculum.Met, curriculum.Drilled, curriculum.Passed, curriculum.Live}).Draw(t, "rung")}
		if s.Rung.Step() >= curriculum.Passed.Step() {
			s.Fresh, s.HalfLife = &day, 21
		}
		on := day + calendar.Day(rapid.IntRange(0, 400).Draw(t, "days"))
		for _, asked := range []curriculum.Rung{curriculum.Met, curriculum.Drilled, curriculum.Passed} {
			want := s.Rung.Step() >= asked.Step()
			if asked == curriculum.Passed {
				want = want && math.Pow(2, -float64(on-day)/21) >= rules.DueBelow
			}
			require.Equal(t, want, s.Reaches(asked, on, rules), "%s asked of %s after %d days", asked, s.Rung, on-day)
		}
	})
}
