package app_test

import (
	"slices"
	"testing"

	applibrary "vereda/app/library"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/curricula"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/season"
	"vereda/internal/testkit"
)

func TestSearchSaysWhichNameMatched(t *testing.T) {
	a := open(t)
	for _, c := range []struct{ words, first, matched string }{
		{"camarao", "hip-escape", "Camarão"}, {"mata leao", "rear-strangle", "Mata-leão"}, {"guilhotina", "front-strangle", "Guilhotina"}, {"knee cut", "knee-cut", ""}, {"shirmp", "hip-escape", "Shrimp"},
	} {
		found, err := a.Library.Techniques(t.Context(), coach, c.words)
		require.NoError(t, err)
		if assert.NotEmpty(t, found, c.words) {
			assert.Equal(t, c.first, found[0].ID, c.words)
			assert.Equal(t, c.matched, found[0].Matched, c.words)
		}
	}
	all, err := a.Library.Techniques(t.Context(), coach, "")
	require.NoError(t, err)
	assert.Len(t, all, 245)
}

// Every technique of the demo reads on both sides without a token left over,
// and its other side is another text.
func TestEveryTechniqueReadsOnBothSides(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	all, err := a.Library.Techniques(t.Context(), coach, "")
	require.NoError(t, err)
	for _, l := range all {
		right, err := a.Library.Technique(t.Context(), coach, l.ID, library.Right)
		require.NoError(t, err)
		left, err := a.Library.Technique(t.Context(), coach, l.ID, library.Left)
		require.NoError(t, err)
		for _, page := range []applibrary.TechniquePage{right, left} {
			for _, k := range page.Shown.KeyPoints {
				assert.NotContains(t, string(k.Cue+k.Detail+k.Limb+k.Moment+k.Closes), "{", l.ID)
			}
			assert.Empty(t, page.Warnings, l.ID)
			for _, f := range page.Shown.Forks {
				if f.Answer == "" {
					continue // nobody has one yet, and the page says so
				}
				assert.NotEmpty(t, page.Names[f.Answer], l.ID)
			}
			if len(page.Shown.Risks) > 0 {
				assert.NotEmpty(t, page.Cautions, l.ID)
				assert.NotEmpty(t, page.Defers, l.ID)
			}
		}
		if right.Side == "" {
			assert.Equal(t, right.Shown, left.Shown, l.ID)
		} else {
			assert.NotEqual(t, right.Shown, left.Shown, l.ID)
		}
	}
}

func TestCurriculumEditsAreUndone(t *testing.T) {
	a := open(t)
	_, err := a.Curricula.SetRequirement(t.Context(), head, "blue-1", curriculum.Requirement{Technique: "triangle", Rung: curriculum.Passed, BothSides: true, Weight: 1})
	assert.ErrorContains(t, err, "Make a new version to change it", "what students work on stays as it is")
	draft, _, err := a.Curricula.BeginCurriculum(t.Context(), head, curricula.NewCurriculum{From: "blue-1"})
	require.NoError(t, err)
	require.Equal(t, "blue-2", draft)
	before, err := a.Curricula.Curriculum(t.Context(), head, "blue-2")
	require.NoError(t, err)
	assert.Equal(t, 38, before.Line.Count)
	assert.Zero(t, before.Line.Blocks)
	set, err := a.Curricula.SetRequirement(t.Context(), head, "blue-2", curriculum.Requirement{Technique: "triangle", Rung: curriculum.Passed, BothSides: true, Weight: 1})
	require.NoError(t, err)
	page, err := a.Curricula.Curriculum(t.Context(), head, "blue-2")
	require.NoError(t, err)
	assert.Equal(t, 1, page.Line.Blocks)
	assert.Equal(t, "prerequisite late/triangle/guard-circles", page.Findings[0].ID)
	repair, err := a.Curricula.TakeRepair(t.Context(), head, "blue-2", page.Findings[0].ID)
	require.NoError(t, err)
	_, err = a.Curricula.TakeRepair(t.Context(), head, "blue-2", page.Findings[0].ID)
	assert.ErrorContains(t, err, "not found any more", "a repair is taken once")
	removed, err := a.Curricula.RemoveRequirement(t.Context(), head, "blue-2", "hip-bump")
	require.NoError(t, err)
	for _, id := range []string{removed, repair, set} {
		_, err = a.State.Undo(t.Context(), head, id)
		require.NoError(t, err)
	}
	after, err := a.Curricula.Curriculum(t.Context(), head, "blue-2")
	require.NoError(t, err)
	assert.Equal(t, before, after)
	edits, err := a.State.Edits(t.Context(), head)
	require.NoError(t, err)
	assert.Len(t, edits, 8, "the import, a new version, three changes, three undone")
	assert.True(t, edits[0].Undoes)
	assert.Equal(t, "Ines Falk", edits[0].By)
}

// The sheet fits its minutes for every unit, and always carries gates, faults and cautions.
func TestTheSheetFitsWhateverIsTaught(t *testing.T) {
	a := open(t)
	page, err := a.Classes.Session(t.Context(), head, tonight)
	require.NoError(t, err)
	assert.Empty(t, page.Items, "nothing is planned yet")
	for _, u := range page.Units {
		_, err := a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: u.Unit, Kind: "teach"}, {Unit: "u-hips", Kind: "review"}}})
		require.NoError(t, err)
		sheet, err := a.Classes.Session(t.Context(), head, tonight)
		require.NoError(t, err)
		assert.Equal(t, "hand", sheet.From)
		assert.LessOrEqual(t, sheet.Used, sheet.Summary.Length, u.Unit)
		assert.Zero(t, sheet.Short, u.Unit)
		drilled := 0
		for _, s := range sheet.Segments {
			assert.Positive(t, s.Minutes)
			if s.Repetitions > 0 {
				drilled++
			}
		}
		assert.Positive(t, drilled, u.Unit)
		for _, x := range sheet.Techniques {
			assert.NotEmpty(t, x.Gates, x.ID)
			assert.GreaterOrEqual(t, len(x.Faults), 3, x.ID)
			assert.True(t, slices.IsSortedFunc(x.Faults, func(p, q classes.FaultLine) int { return compare(q.Rank, p.Rank) }), "most often seen first")
		}
		clock, err := a.Classes.Clock(t.Context(), head, tonight)
		require.NoError(t, err)
		seconds := 0
		for _, k := range clock.Stretches {
			seconds += k.Seconds
		}
		assert.Equal(t, sheet.Used*60, seconds, u.Unit)
	}
	_, err = a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-drag", Kind: "teach"}}})
	assert.ErrorContains(t, err, "Arm drag is not for Fundamentals")
	_, err = a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{})
	require.NoError(t, err, "back to the plan")
}

func compare(a, b float64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// A segment overran: what is left is fitted into what is left of the time, and
// the rounds go on counting.
func TestRefittingWhatIsLeft(t *testing.T) {
	a := open(t)
	_, err := a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-knee-cut", Kind: "teach"}}})
	require.NoError(t, err)
	whole, err := a.Classes.Clock(t.Context(), head, tonight)
	require.NoError(t, err)
	from := slices.IndexFunc(whole.Stretches, func(k mat.Stretch) bool { return k.Segment == "reaction-knee-cut" })
	require.GreaterOrEqual(t, from, 0)
	// From the reaction on, twenty minutes are left, then five.
	refit := func(segment string, minutes int) classes.ClockPage {
		t.Helper()
		require.NoError(t, a.Classes.Turn(t.Context(), head, tonight, classes.TurnClock{Do: "reset"}))
		at := slices.IndexFunc(whole.Stretches, func(s mat.Stretch) bool { return s.Segment == segment })
		require.GreaterOrEqual(t, at, 0)
		require.NoError(t, a.Classes.Turn(t.Context(), head, tonight, classes.TurnClock{Do: "jump", To: at}))
		require.NoError(t, a.Classes.Turn(t.Context(), head, tonight, classes.TurnClock{Do: "refit", Minutes: minutes}))
		page, err := a.Classes.Clock(t.Context(), head, tonight)
		require.NoError(t, err)
		return page
	}
	rest := refit("reaction-knee-cut", 20)
	seconds := 0
	for _, k := range rest.Stretches {
		seconds += k.Seconds
	}
	assert.Equal(t, 20*60, seconds)
	assert.Equal(t, whole.Stretches[from].Round, rest.Stretches[0].Round)
	assert.Equal(t, "close", rest.Stretches[len(rest.Stretches)-1].Segment, "the close stays")
	short := refit("reaction-knee-cut", 5)
	assert.NotEmpty(t, short.FellOut)
}

func TestTheDeskSeesWhoIsHereAndNoMore(t *testing.T) {
	a := open(t)
	desk := testkit.Users[state.Desk]
	_, err := a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-knee-cut", Kind: "teach"}}})
	require.NoError(t, err)
	require.NoError(t, a.Classes.CheckIn(t.Context(), desk, tonight, "wilma-etherton", "", ""))
	page, err := a.Classes.Session(t.Context(), desk, tonight)
	require.NoError(t, err)
	assert.False(t, page.MayRun)
	assert.Empty(t, page.Techniques)
	assert.Empty(t, page.LastNote)
	assert.Equal(t, "ask the coach", page.Here[0].Out.String())
	for _, o := range page.Others {
		assert.False(t, o.Minor, "an age is nobody's business at the desk")
	}
}

func TestTheHeatMapCountsEverybodyOnce(t *testing.T) {
	a := open(t)
	seen := map[string]string{}
	for _, id := range []string{"blue-1", "grey-1"} {
		page, err := a.Students.Heat(t.Context(), head, id, students.PositionsFilter{})
		require.NoError(t, err)
		assert.Equal(t, id, page.Curriculum.ID)
		assert.Len(t, page.Rows, page.Curriculum.Students)
		for _, row := range page.Rows {
			assert.Empty(t, seen[row.ID], "in one curriculum")
			seen[row.ID] = id
			assert.Len(t, row.Cells, len(page.Requirements))
			student, err := a.Students.StudentPage(t.Context(), head, row.ID)
			require.NoError(t, err)
			assert.Equal(t, row.Met, student.Readiness.Met)
			assert.Equal(t, row.Share, student.Readiness.Share)
			sides := 0
			for i, marks := range row.Cells {
				for _, m := range marks {
					asked := page.Requirements[i].Rung.Step() // what is seen or drilled does not fade
					if m.Rung.Step() < asked || m.Due && asked >= curriculum.Passed.Step() {
						sides++
					}
				}
			}
			assert.Len(t, student.Readiness.Missing, sides, "what is missing is what the map shows")
		}
	}
	_, err := a.Students.Heat(t.Context(), head, "nothing", students.PositionsFilter{})
	var missing *state.NotFoundError
	assert.ErrorAs(t, err, &missing)
}

func TestChancesAreWhatTheRecordsSay(t *testing.T) {
	a := open(t)
	page, err := a.Students.StudentPage(t.Context(), head, "oren-vask")
	require.NoError(t, err)
	came, held := 0, 0
	for _, c := range page.Chances {
		assert.Greater(t, c.Chance, 0.0)
		assert.Less(t, c.Chance, 1.0)
		assert.LessOrEqual(t, c.Came, c.Held)
		came += c.Came
		held += c.Held
	}
	assert.Equal(t, page.Classes, came)
	assert.Equal(t, 40, held, "ten weeks, four classes")
	young, err := a.Students.StudentPage(t.Context(), head, "ruben-askew")
	require.NoError(t, err)
	for _, c := range young.Chances {
		if c.Class == "nogi-early" || c.Class == "nogi-weekend" {
			assert.Zero(t, c.Chance, "the track takes people from 16")
		}
	}
}

func TestAStudentSeesOnlyThemselves(t *testing.T) {
	a := open(t)
	oren := testkit.Users[state.Student]
	_, err := a.Students.StudentPage(t.Context(), oren, "oren-vask")
	require.NoError(t, err)
	_, err = a.Students.StudentPage(t.Context(), oren, "pilar-dunmore")
	var missing *state.NotFoundError
	assert.ErrorAs(t, err, &missing, "not even that there is such a student")
}

func TestLiveChecksAreJudgedWithTheirTriesInMind(t *testing.T) {
	a := open(t)
	live := func(id string, tries, successes int) curriculum.Rung {
		o := seen(a, t, "bridge-roll", ledger.Shown)
		o.Resistance, o.Tries, o.Successes = 4, tries, successes
		kept, err := a.Students.KeepCheck(t.Context(), head, students.KeepCheck{ID: id, Student: "agathe-linden", Technique: "bridge-roll", Side: library.Right, Observation: o})
		require.NoError(t, err)
		return kept.Verdict.Rung
	}
	assert.Equal(t, curriculum.Passed, live("l1", 1, 1), "one of one proves little")
	assert.Equal(t, curriculum.Passed, live("l2", 12, 1))
	assert.Equal(t, curriculum.Live, live("l3", 8, 3), "an escape that works three times in eight is good work")
	page, err := a.Students.CheckPage(t.Context(), head, "agathe-linden", "bridge-roll", library.Right)
	require.NoError(t, err)
	assert.Equal(t, curriculum.Live, page.Marks[0].Rung)
	noDifference(t, a)
}

func TestTheWeekShowsWhereEachClassStands(t *testing.T) {
	a := open(t)
	states := func() map[string]string {
		week, err := a.Classes.Week(t.Context(), coach, nil, false)
		require.NoError(t, err)
		require.Len(t, week, 7)
		out := map[string]string{}
		for _, d := range week {
			assert.Equal(t, d.On == calendar.DayOf(now), d.Today)
			for _, c := range d.Classes {
				out[c.Session] = c.State
			}
		}
		return out
	}
	before := states()
	assert.Equal(t, "recorded", before["nogi-early.2026-11-23"])
	assert.Equal(t, "not planned", before[tonight])
	id, err := a.Seasons.LaySeason(t.Context(), head, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now), Weeks: 2, Closures: []academy.Closure{{Week: 1, Class: "fund-late", Why: "let out"}}})
	require.NoError(t, err)
	_, err = a.Seasons.PlanSeason(t.Context(), head, id, 0)
	require.NoError(t, err)
	after := states()
	assert.Equal(t, "ready", after[tonight])
	assert.Equal(t, "closed", after["fund-late.2026-11-26"])
	require.NoError(t, a.Classes.Report(t.Context(), head, tonight, classes.SessionReport{Items: []ledger.Item{}, Faults: []academy.FaultCount{}}))
	assert.Equal(t, "recorded", states()[tonight])
	_, err = a.Seasons.ProposeRepair(t.Context(), head, id, seasons.Happening{Week: 1, Class: "fund-early"})
	assert.ErrorContains(t, err, "held and recorded")
}
