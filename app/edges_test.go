package app_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	applibrary "vereda/app/library"
	"vereda/app/people"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/internal/testkit"
)

// What is remembered of somebody's health ends as the academy says: a hold that ended long ago is gone from the record, and one of the log says no more
// why it was. What is not over, or not over for long, stays.
func TestOldHoldsAreForgotten(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	today := calendar.DayOf(now)
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	_, err = a.State.Change(ctx, head, func(s *state.Snapshot, b *state.Change) error {
		b.Summary = "Holds"
		p, _ := s.Written("oren-vask")
		p.Holds = []safety.Hold{
			{Regions: []safety.Region{"neck"}, From: today - 90, ClearedOn: new(today - 30), Note: "long over"},
			{Regions: []safety.Region{"knee"}, From: today - 90, Note: "still there"},
		}
		return b.PutPerson(s, p)
	})
	require.NoError(t, err)
	page, err := a.Academies.Academy(ctx, head)
	require.NoError(t, err)
	page.Form.Numbers["notes_months"] = 6
	_, err = a.Academies.SaveSettings(ctx, head, page.Form, f.Version("settings", "settings"))
	require.NoError(t, err)
	notes := func() (all []string) {
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		p, _ := f.Written("oren-vask")
		for _, h := range p.Holds {
			all = append(all, h.Note)
		}
		return all
	}
	require.NoError(t, a.People.Forget(ctx))
	assert.Equal(t, []string{"long over", "still there"}, notes())
	*at = at.AddDate(0, 5, 2) // six months and a day after it ended
	require.NoError(t, a.People.Forget(ctx))
	assert.Equal(t, []string{"still there"}, notes())
}

// Somebody is noted for yesterday's class after today's check-ins began: everybody's chances know it at once, as whoever reads it all anew.
func TestAttendanceOfAnotherDayCountsAtOnce(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	day := f.Today() - 1
	hours := f.Classes[0].Hours
	hours.Weekday = day.Weekday()
	extra, _, err := a.Seasons.SaveClass(ctx, head, academy.Class{Name: "Extra", Track: f.Classes[0].Track, Hours: hours}, 0, "") // nobody reported it
	require.NoError(t, err)
	session := academy.Occurrence(extra, day)
	chances := func() string {
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		return fmt.Sprint(f.Chances(f.Today()))
	}
	for _, in := range [][2]string{{session, "pilar-dunmore"}, {tonight, "pilar-dunmore"}, {tonight, "tam-ellery"}, {session, "oren-vask"}, {tonight, "oren-vask"}, {session, "tam-ellery"}} {
		require.NoError(t, a.Classes.CheckIn(ctx, head, in[0], in[1], "", ""))
		held := chances()
		_, anew, _, err := a.State.Reprojected(ctx, head.Academy)
		require.NoError(t, err)
		require.Equal(t, fmt.Sprint(anew.Chances(anew.Today())), held, "%s in %s", in[1], in[0])
	}
}

// A stripe is no new rank: the time at the rank goes on, also when the record is written afterwards.
func TestAStripeKeepsTheTimeAtTheRank(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	since := func() calendar.Day {
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		return f.Person["oren-vask"].RankSince
	}
	_, err := a.People.Promote(ctx, head, nil, []people.RankDecision{{Student: "oren-vask", Outcome: academy.NextRank}})
	require.NoError(t, err)
	risen := calendar.DayOf(now)
	require.Equal(t, risen, since())
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	before, _ := f.Written("oren-vask")
	*at = at.AddDate(0, 2, 0)
	_, err = a.People.Promote(ctx, head, nil, []people.RankDecision{{Student: "oren-vask", Outcome: academy.Stripe}})
	require.NoError(t, err)
	assert.Equal(t, risen, since())
	_, err = a.Seasons.SaveCoach(ctx, head, "oren-vask", "", academy.Terms{Available: []string{}, Signoffs: []string{}, MaxPerWeek: 1}, f.Version("person", "oren-vask"))
	require.NoError(t, err) // it writes the record of the person as they are now
	assert.Equal(t, risen, since())
	f, err = a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	after, _ := f.Written("oren-vask")
	assert.Equal(t, before.RankSince, after.RankSince, "the record keeps what it says itself")
	assert.Equal(t, before.Rank, after.Rank)
}

// How often a check was not met counts since the last one that was, of one technique and side alone.
func TestChecksNotMetCountSinceTheLastThatWas(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	for i, x := range []struct {
		met  bool
		side library.Side
		want int // on the left
	}{{false, library.Left, 1}, {false, library.Right, 1}, {false, library.Left, 2}, {true, library.Left, 0}, {false, library.Left, 1}, {true, library.Right, 1}, {false, library.Left, 2}} {
		*at = at.Add(time.Minute)
		o := seen(a, t, "knee-cut", ledger.Shown)
		if !x.met {
			for k := range o.Points {
				o.Points[k] = ledger.Missing
			}
		}
		_, err := a.Students.KeepCheck(ctx, head, students.KeepCheck{ID: fmt.Sprint("k", i), Student: "agathe-linden", Technique: "knee-cut", Side: x.side, Class: tonight, Observation: o})
		require.NoError(t, err)
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		assert.Equal(t, x.want, f.FailedLately("agathe-linden", "knee-cut", library.Left), "after check %d", i)
	}
}

// What is planned while a class is reported is planned again on what that changed.
func TestAReportMeanwhileIsPlannedOn(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	searches := 0
	steps := a.Seasons.Stopwatch
	a.Seasons.Stopwatch = func() func() time.Duration {
		if searches++; searches == 1 {
			page, err := a.Classes.Session(ctx, head, tonight)
			require.NoError(t, err)
			r := classes.SessionReport{}
			for _, x := range page.Techniques {
				r.Items = append(r.Items, ledger.Item{Technique: x.ID, Kind: x.Kind, Reached: "not"})
			}
			require.NoError(t, a.Classes.Report(ctx, head, tonight, r))
		}
		return steps()
	}
	_, err := a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.05))
	require.NoError(t, err)
	assert.Equal(t, 2, searches)
}

// A coach gets no brief of a class that was held already today.
func TestNoBriefOfWhatWasHeld(t *testing.T) {
	testkit.NothingAtOnce(t)
	for _, held := range []bool{false, true} {
		s := testkit.New(t)
		a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t))
		a.Seasons.Patience, a.Seasons.Stopwatch = testkit.Seconds(0.05), testkit.StepsAlone
		testkit.LoadDemo(t, a, calendar.DayOf(now))
		ctx := t.Context()
		table, err := a.Seasons.Timetable(ctx, head)
		require.NoError(t, err)
		for _, c := range table.Coaches {
			_, err := a.Seasons.SaveCoach(ctx, head, c.ID, c.ID+"@hall.example", c.Terms, c.Version)
			require.NoError(t, err)
		}
		id, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now), Weeks: 4})
		require.NoError(t, err)
		_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.05))
		require.NoError(t, err)
		page, err := a.Classes.Session(ctx, head, tonight)
		require.NoError(t, err)
		require.NotEmpty(t, page.Techniques, "tonight has a plan")
		if held {
			require.NoError(t, a.Classes.Report(ctx, head, tonight, classes.SessionReport{Items: []ledger.Item{{Technique: page.Techniques[0].ID, Kind: page.Techniques[0].Kind, Reached: "all"}}}))
		}
		_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
		require.NoError(t, err)
		letters, err := s.Letters(ctx, head.Academy, 50)
		require.NoError(t, err)
		require.NotEmpty(t, letters)
		of := 0
		for _, l := range letters {
			whole, err := s.ClaimLetter(ctx, l.ID, now.AddDate(0, 0, 1), now.AddDate(0, 0, 2))
			require.NoError(t, err)
			of += strings.Count(string(whole.Attachment), page.Summary.Name+"</h1>")
		}
		assert.Equal(t, map[bool]int{false: 2, true: 1}[held], of, "of two weeks")
	}
}

// Who has nobody near their weight tonight is named; whoever is within a fifth of somebody, or of somebody whose weight nobody knows, is not.
func TestWhoHasNobodyOfTheirSize(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	who := []string{"oren-vask", "pilar-dunmore", "tam-ellery"}
	for _, id := range who {
		require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, id, "", ""))
	}
	for name, x := range map[string]struct {
		kg   [3]float64
		want []string
	}{
		"one alone":               {[3]float64{100, 60, 62}, []string{"oren-vask"}},
		"just near enough":        {[3]float64{72, 60, 60}, []string{}},
		"a little too far":        {[3]float64{72.1, 60, 60}, []string{"oren-vask"}},
		"a weight nobody knows":   {[3]float64{100, 0, 60}, []string{}},
		"everybody by themselves": {[3]float64{100, 60, 40}, []string{"oren-vask", "pilar-dunmore", "tam-ellery"}},
	} {
		_, err := a.State.Change(ctx, head, func(s *state.Snapshot, b *state.Change) error {
			b.Summary = "Weights"
			for i, id := range who {
				p, _ := s.Written(id)
				p.Weight = x.kg[i]
				if err := b.PutPerson(s, p); err != nil {
					return err
				}
			}
			return nil
		})
		require.NoError(t, err)
		page, err := a.Classes.Session(ctx, head, tonight)
		require.NoError(t, err)
		require.Len(t, page.Here, 3)
		got := []string{}
		for _, s := range page.Care.Sizes {
			got = append(got, s.ID)
		}
		assert.ElementsMatch(t, x.want, got, name)
	}
}

// A group by age holds those of these ages, both ends included, and nobody whose age is unknown; the map with or without the jacket what goes with it.
func TestFiltersLeaveWhatTheySay(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	_, err := a.State.Change(ctx, head, func(s *state.Snapshot, b *state.Change) error {
		b.Summary = "A birth nobody knows"
		p, _ := s.Written("oren-vask")
		p.Birth = nil
		return b.PutPerson(s, p)
	})
	require.NoError(t, err)
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	all, err := a.Students.Positions(ctx, head, students.PositionsFilter{})
	require.NoError(t, err)
	require.True(t, slices.ContainsFunc(all.Rows, func(r students.PositionRow) bool { return r.ID == "oren-vask" }), "a group without an age has everybody")
	ages := map[string]int{}
	for _, r := range all.Rows {
		if age, known := f.Person[r.ID].Age(f.Today()); known {
			ages[r.ID] = age
		}
	}
	require.NotEmpty(t, ages)
	for _, limits := range [][2]int{{0, 0}, {30, 0}, {0, 30}, {20, 40}} {
		for shift := -1; shift <= 1; shift++ {
			x := students.PositionsFilter{AgeFrom: limits[0], AgeTo: limits[1]}
			if x.AgeFrom > 0 {
				x.AgeFrom += shift
			}
			if x.AgeTo > 0 {
				x.AgeTo += shift
			}
			page, err := a.Students.Positions(ctx, head, x)
			require.NoError(t, err)
			want, got := []string{}, []string{}
			for _, r := range all.Rows {
				age, known := ages[r.ID]
				if (x.AgeFrom == 0 || known && age >= x.AgeFrom) && (x.AgeTo == 0 || known && age <= x.AgeTo) {
					want = append(want, r.ID)
				}
			}
			for _, r := range page.Rows {
				got = append(got, r.ID)
			}
			assert.ElementsMatch(t, want, got, "%+v", x)
		}
	}
	exact := 0 // somebody is exactly as old as a limit
	for _, age := range ages {
		page, err := a.Students.Positions(ctx, head, students.PositionsFilter{AgeFrom: age, AgeTo: age})
		require.NoError(t, err)
		exact += len(page.Rows)
	}
	assert.GreaterOrEqual(t, exact, len(ages))
	for _, context := range []string{"gi", "no-gi"} {
		page, err := a.Library.Map(ctx, head, applibrary.MapFilter{Context: context})
		require.NoError(t, err)
		shown := 0
		for _, arrow := range page.Arrows {
			for _, id := range arrow.Techniques {
				x, _ := f.Library.Technique(id)
				shown++
				assert.True(t, x.Context == library.Both || string(x.Context) == context, "%s with %s", id, context)
			}
		}
		assert.Positive(t, shown)
	}
}
