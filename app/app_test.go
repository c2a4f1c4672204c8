package app_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/demo"
	"vereda/demo/life"
	"vereda/exchange"
	"vereda/internal/testkit"
)

var (
	now   = time.Date(2026, 11, 24, 17, 45, 0, 0, time.UTC)
	head  = testkit.Users[state.Head]
	coach = testkit.Users[state.Coach]
)

const tonight = "fund-early.2026-11-24"

func open(t *testing.T) *app.App {
	a := app.New(testkit.New(t), func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = testkit.Seconds(0.05), testkit.StepsAlone
	testkit.LoadDemo(t, a, calendar.DayOf(now))
	return a
}

// lived is an app with the hall in the middle of its life, and what it was made of.
func lived(t *testing.T) (*app.App, exchange.Bundle) {
	t.Helper()
	a := app.New(testkit.New(t), func() time.Time { return now }, time.UTC, testkit.Files(t))
	b, err := life.Academy(calendar.DayOf(now))
	require.NoError(t, err)
	_, err = a.Academies.Import(t.Context(), b)
	require.NoError(t, err)
	return a, b
}

func noDifference(t *testing.T, a *app.App) {
	t.Helper()
	r, err := a.Academies.Rebuild(t.Context(), head.Academy)
	require.NoError(t, err)
	assert.Empty(t, r.Different)
	assert.Equal(t, 30, r.Students)
}

func TestImportAgainChangesNothing(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	noDifference(t, a)
	before, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	bundle, err := demo.Bundle()
	require.NoError(t, err)
	b, err := exchange.Read(bundle)
	require.NoError(t, err)
	done, err := a.Academies.Import(t.Context(), b)
	require.NoError(t, err)
	assert.Zero(t, done.Events, "no event is doubled")
	after, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	noDifference(t, a)
}

// What is exported and imported elsewhere is the same academy, standings and all.
func TestExportTravels(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	b, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	text, err := exchange.Write(b)
	require.NoError(t, err)
	b, err = exchange.Read(text)
	require.NoError(t, err)
	b.Academy.ID = "elsewhere"
	_, err = a.Academies.Import(t.Context(), b)
	require.NoError(t, err)
	there := head
	there.Academy = "elsewhere"
	for _, student := range []string{"oren-vask", "pilar-dunmore", "yara-quill"} {
		here, err := a.Students.StudentPage(t.Context(), head, student)
		require.NoError(t, err)
		moved, err := a.Students.StudentPage(t.Context(), there, student)
		require.NoError(t, err)
		assert.Equal(t, here, moved)
	}
}

func TestUndoGivesBackWhatWasThere(t *testing.T) {
	a := open(t)
	before, err := a.Library.Technique(t.Context(), head, "knee-cut", "")
	require.NoError(t, err)
	point := before.Written.KeyPoints[0]
	point.Cue = "Something else on the {left}"
	first, err := a.Library.SaveKeyPoint(t.Context(), head, "knee-cut", point, before.Version)
	require.NoError(t, err)
	changed, err := a.Library.Technique(t.Context(), head, "knee-cut", library.Left)
	require.NoError(t, err)
	assert.Equal(t, library.Text("Something else on the right"), changed.Shown.KeyPoints[0].Cue)
	assert.Equal(t, before.Written.KeyPoints[0].Faults, changed.Written.KeyPoints[0].Faults, "faults stay")

	_, err = a.State.Undo(t.Context(), coach, first)
	var forbidden *state.ForbiddenError
	assert.ErrorAs(t, err, &forbidden, "a coach undoes only their own")
	point.Cue = "Changed once more"
	second, err := a.Library.SaveKeyPoint(t.Context(), head, "knee-cut", point, changed.Version)
	require.NoError(t, err)
	_, err = a.State.Undo(t.Context(), head, first)
	assert.ErrorContains(t, err, "Undo the later change first")
	_, err = a.State.Undo(t.Context(), head, second)
	require.NoError(t, err)
	_, err = a.State.Undo(t.Context(), head, second)
	assert.ErrorContains(t, err, "undone already")
	_, err = a.State.Undo(t.Context(), head, first)
	require.NoError(t, err)
	after, err := a.Library.Technique(t.Context(), head, "knee-cut", "")
	require.NoError(t, err)
	assert.Equal(t, before.Written, after.Written)
}

func seen(a *app.App, t *testing.T, technique string, mark ledger.Seen) ledger.Observation {
	page, err := a.Library.Technique(t.Context(), head, technique, "")
	require.NoError(t, err)
	o := ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: 1}
	for _, k := range page.Written.KeyPoints {
		o.Points[k.ID] = mark
	}
	return o
}

func TestCheckOverruleAndResend(t *testing.T) {
	a := open(t)
	k := students.KeepCheck{ID: "phone-1", Student: "agathe-linden", Technique: "knee-cut", Side: library.Left, Class: tonight, Observation: seen(a, t, "knee-cut", ledger.Prompted)}
	kept, err := a.Students.KeepCheck(t.Context(), coach, k)
	require.NoError(t, err)
	assert.False(t, kept.Verdict.Met)
	assert.Contains(t, kept.Verdict.Reasons[0], "Left underhook", "said for the side it was done on")
	_, err = a.Students.KeepCheck(t.Context(), coach, k)
	require.NoError(t, err, "sent twice is the same as once")
	page, err := a.Students.StudentPage(t.Context(), head, "agathe-linden")
	require.NoError(t, err)
	if assert.NotEmpty(t, page.Path) { // it ends where she stands
		last := page.Path[len(page.Path)-1]
		assert.Equal(t, calendar.DayOf(now), last.On)
		assert.InDelta(t, page.Readiness.Share, last.Share, 1e-12)
		assert.Less(t, len(page.Path), 54)
	}
	count := 0
	for _, c := range page.Checks {
		if c.Name == "Knee cut pass" {
			count++
		}
	}
	assert.Equal(t, 1, count)

	stranger := coach
	stranger.Person = "wim-aldous"
	_, err = a.Students.Overrule(t.Context(), stranger, "phone-1", true, "I say so")
	var forbidden *state.ForbiddenError
	assert.ErrorAs(t, err, &forbidden)
	over, err := a.Students.Overrule(t.Context(), head, "phone-1", true, "Saw it in sparring")
	require.NoError(t, err)
	assert.Equal(t, curriculum.Passed, over.Mark.Rung)
	_, err = a.Students.Overrule(t.Context(), head, "phone-1", true, "Again")
	var conflict *state.ConflictError
	assert.ErrorAs(t, err, &conflict, "a check is corrected once")
	assert.ErrorContains(t, err, "overruled, corrected or taken back before")
	page, err = a.Students.StudentPage(t.Context(), head, "agathe-linden")
	require.NoError(t, err)
	i := slices.IndexFunc(page.Checks, func(c students.CheckLine) bool { return c.Name == "Knee cut pass" })
	assert.Equal(t, "Saw it in sparring", page.Checks[i].Overruled)
	b, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	log := 0
	for _, f := range b.Events {
		if f.ID == "phone-1" || f.Replaces == "phone-1" {
			log++
		}
	}
	assert.Equal(t, 2, log, "the check it corrects stays in the log")
	noDifference(t, a)
}

func TestACheckIsCorrectedOrTakenBack(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	student := "agathe-linden"
	checks := func(technique string) (all []students.CheckLine) {
		page, err := a.Students.StudentPage(ctx, head, student)
		require.NoError(t, err)
		for _, c := range page.Checks {
			if c.Name == technique {
				all = append(all, c)
			}
		}
		return all
	}
	observed := func() int {
		all, err := a.Students.Store.Observations(ctx, head.Academy, calendar.First)
		require.NoError(t, err)
		return len(all)
	}
	before, started := len(checks("Hip bump sweep")), observed()
	_, err := a.Students.KeepCheck(ctx, coach, students.KeepCheck{ID: "wrong", Student: student, Technique: "knee-cut", Side: library.Left, Class: tonight, Observation: seen(a, t, "knee-cut", ledger.Shown)})
	require.NoError(t, err)
	stranger := coach
	stranger.Person = "wim-aldous"
	right := students.CorrectCheck{ID: "right", Technique: "hip-bump", Side: library.Right, Observation: seen(a, t, "hip-bump", ledger.Shown)}

	var forbidden *state.ForbiddenError
	var conflict *state.ConflictError
	var bad *state.ValidationError
	for name, try := range map[string]func() error{
		"correct":  func() error { _, err := a.Students.CorrectCheck(ctx, stranger, "wrong", right); return err },
		"withdraw": func() error { _, err := a.Students.WithdrawCheck(ctx, stranger, "wrong", "not mine"); return err },
		"read":     func() error { _, err := a.Students.MadeCheck(ctx, stranger, "wrong"); return err },
	} {
		assert.ErrorAs(t, try(), &forbidden, name)
	}
	nothing := right
	nothing.Observation = ledger.Observation{Points: map[string]ledger.Seen{"no-such-point": ledger.Shown}}
	_, err = a.Students.CorrectCheck(ctx, coach, "wrong", nothing)
	assert.ErrorAs(t, err, &bad, "key points are the technique's own")
	_, err = a.Students.WithdrawCheck(ctx, coach, "wrong", " ")
	assert.ErrorAs(t, err, &bad, "why stays on record")

	made, err := a.Students.MadeCheck(ctx, coach, "wrong")
	require.NoError(t, err)
	assert.Equal(t, "Agathe Linden: Knee cut pass, left, on Tue 24 Nov 2026", made.Names.String())
	for range 2 { // sent twice is the same as once
		kept, err := a.Students.CorrectCheck(ctx, coach, "wrong", right)
		require.NoError(t, err)
		assert.True(t, kept.Verdict.Met)
		assert.Equal(t, curriculum.Passed, kept.Mark.Rung)
	}
	assert.Empty(t, checks("Knee cut pass"), "what was corrected counts no more")
	require.Len(t, checks("Hip bump sweep"), before+1)
	assert.Equal(t, started+1, observed())
	_, err = a.Students.Overrule(ctx, head, "wrong", true, "too late")
	assert.ErrorAs(t, err, &conflict, "a check is corrected once")
	noDifference(t, a)

	kept, err := a.Students.WithdrawCheck(ctx, head, "right", "it was her sister")
	require.NoError(t, err)
	assert.True(t, kept.Overruled.Withdrawn)
	assert.Len(t, checks("Hip bump sweep"), before)
	assert.Equal(t, started, observed(), "agreement and fitting do not read it either")
	_, err = a.Students.CorrectCheck(ctx, head, "right", right)
	assert.ErrorAs(t, err, &conflict)
	noDifference(t, a)
	b, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	kinds := 0
	for _, e := range b.Events {
		if e.ID == "wrong" || e.ID == "right" || e.Replaces == "right" {
			kinds++
		}
	}
	assert.Equal(t, 3, kinds, "all of it stays in the log")
}

func TestRecordFeedsTheLedgerAndCorrects(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	_, err := a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-knee-cut", Kind: "teach"}}})
	require.NoError(t, err)
	exposures := func(student string) float64 {
		page, err := a.Students.StudentPage(ctx, head, student)
		require.NoError(t, err)
		for _, s := range page.Standing {
			if s.ID == "knee-cut" {
				return s.Exposures
			}
		}
		return 0
	}
	before := exposures("oren-vask")
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "door-1"))
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "door-2"), "twice at the door")
	record := classes.SessionReport{Items: []ledger.Item{{Technique: "knee-cut", Kind: "teach", Reached: "all"}}, Faults: []academy.FaultCount{{Technique: "knee-cut", Fault: "f1", Seen: 8, Tries: 12}}, Note: "Start at the underhook."}
	require.NoError(t, a.Classes.Report(ctx, head, tonight, record))
	assert.Equal(t, before+1, exposures("oren-vask"))
	record.Items[0].Reached = "part"
	require.NoError(t, a.Classes.Report(ctx, head, tonight, record), "a correction")
	assert.Equal(t, before+0.5, exposures("oren-vask"))
	require.NoError(t, a.Classes.CheckOut(ctx, head, tonight, "oren-vask", ""))
	assert.Equal(t, before, exposures("oren-vask"))
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", ""))
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "yara-quill", "", ""), "after the record was kept")
	noDifference(t, a)

	next, err := a.Classes.Session(ctx, head, "fund-late.2026-11-26")
	require.NoError(t, err)
	assert.Equal(t, "Start at the underhook.", next.LastNote)
	err = a.Classes.Report(ctx, coach, "fund-late.2026-11-19", record)
	var forbidden *state.ForbiddenError
	assert.ErrorAs(t, err, &forbidden, "a coach records only their own class")
}

// The season as the planner sees it keeps the rules that come from elsewhere.
func TestSeasonKeepsGatesHoldsAndThePast(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := context.Background()
	id, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now), Weeks: 6, Closures: []academy.Closure{{Week: 3}}})
	require.NoError(t, err)
	_, err = a.Seasons.PlanSeason(ctx, head, id, 0)
	require.NoError(t, err)
	page, err := a.Seasons.Season(ctx, head, id)
	require.NoError(t, err)
	assert.Positive(t, page.Line.Coverage)
	assert.LessOrEqual(t, page.Line.Coverage, page.Bound)
	assert.Zero(t, page.NoCoach)
	for _, row := range page.Rows {
		for _, c := range row.Cells {
			if c.On < calendar.DayOf(now) {
				assert.Equal(t, "past", c.State)
				assert.Empty(t, c.Items, "what is over is not planned")
			}
			for _, it := range c.Items {
				assert.NotEqual(t, "u-ankle", it.Unit, "from 18 and the second rank only")
				if row.Track == "Fundamentals" {
					assert.NotEqual(t, "u-bent-arm", it.Unit, "shoulder locks from 16, this track takes people from 14")
				}
			}
		}
	}
	for _, s := range page.Students {
		assert.NotEqual(t, "wilma-etherton", s.ID, "held from everything: nothing is planned for her")
	}
	i := slices.IndexFunc(page.Unplaced, func(u seasons.UnplacedLine) bool { return u.Unit == "u-ankle" })
	require.GreaterOrEqual(t, i, 0)
	assert.Contains(t, page.Unplaced[i].Why, "knee or ankle twisting from")

	proposal, err := a.Seasons.ProposeRepair(ctx, head, id, seasons.Happening{Week: 2, Class: "fund-early"})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, proposal.After, proposal.Broken-1e-9)
	same, err := a.Seasons.Season(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, page, same, "a proposal keeps nothing")
	_, err = a.Seasons.TakeSeasonRepair(ctx, head, id, seasons.Happening{Week: 2, Class: "fund-early", Why: "hall is let"})
	require.NoError(t, err)
	taken, err := a.Seasons.Season(ctx, head, id)
	require.NoError(t, err)
	assert.InDelta(t, proposal.After, taken.Line.Coverage, 1e-9, "what was shown is what is kept")
	week, err := a.Classes.Week(ctx, head, new(calendar.MustDay("2026-12-01")), false)
	require.NoError(t, err)
	for _, d := range week {
		for _, c := range d.Classes {
			if strings.HasPrefix(c.Session, "fund-early") {
				assert.Equal(t, "closed", c.State)
			}
		}
	}
}

// A hold on one region leaves the drills that spare it, and no free rounds.
func TestARegionalHoldSparesDrillsOnly(t *testing.T) {
	testkit.NothingAtOnce(t)
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = testkit.Seconds(0.05), testkit.StepsAlone
	bundle, err := demo.Bundle()
	require.NoError(t, err)
	text, err := exchange.Lay(bundle, calendar.DayOf(now))
	require.NoError(t, err)
	b, err := exchange.Read(text)
	require.NoError(t, err)
	i := slices.IndexFunc(b.People, func(p academy.Person) bool { return p.ID == "oren-vask" })
	b.People[i].Holds = []safety.Hold{{Regions: []safety.Region{"knee"}, From: calendar.DayOf(now) - 3}}
	_, err = a.Academies.Import(t.Context(), b)
	require.NoError(t, err)
	ctx := t.Context()
	for unit, out := range map[string]string{"u-half-guard": "", "u-base": "held: it loads the knee"} {
		_, err = a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: unit, Kind: "teach"}}})
		require.NoError(t, err)
		for _, student := range []string{"oren-vask", "pilar-dunmore", "yara-quill", "tam-ellery"} {
			require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, student, "", ""))
		}
		require.NoError(t, a.Classes.Pair(ctx, head, tonight, classes.MakeRotation{Odd: "coach", Mix: "any"}))
		page, err := a.Classes.Session(ctx, head, tonight)
		require.NoError(t, err)
		j := slices.IndexFunc(page.Here, func(x classes.Attendee) bool { return x.ID == "oren-vask" })
		assert.Equal(t, out, page.Here[j].Out.String(), unit)
		assert.Equal(t, out != "", strings.Contains(page.Here[j].Instead.String(), "keep the tally"), "%s: what he can do instead", unit)
		in := make([]bool, len(page.Rotation.Rounds))
		for k, round := range page.Rotation.Rounds {
			for _, group := range round.Groups {
				for _, x := range group {
					in[k] = in[k] || x.ID == "oren-vask"
				}
			}
		}
		assert.Equal(t, out == "", in[0], "%s: in the first drill", unit)
		assert.False(t, in[len(in)-1], "%s: not in the last live round", unit)
		assert.False(t, page.Rotation.Stale)
	}
}
