package app_test

import (
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/documents"
	"vereda/app/notify"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/season"
	"vereda/core/season/repair"
	"vereda/exchange"
	"vereda/internal/testkit"
	"vereda/standin/mail"
)

// laid is the demo with a planned season of six weeks.
func laid(t *testing.T) (*app.App, string) {
	t.Helper()
	a := open(t)
	id, err := a.Seasons.LaySeason(t.Context(), head, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now), Weeks: 6})
	require.NoError(t, err)
	_, err = a.Seasons.PlanSeason(t.Context(), head, id, testkit.Seconds(0.5))
	require.NoError(t, err)
	return a, id
}

func page(t *testing.T, a *app.App, id string) seasons.SeasonPage {
	t.Helper()
	p, err := a.Seasons.Season(t.Context(), head, id)
	require.NoError(t, err)
	return p
}

// readSeason is a season as the database has it now, with what stands around it.
func readSeason(t *testing.T, a *app.App, id string) (*state.Snapshot, academy.Season) {
	t.Helper()
	s, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	found, err := s.FindSeason(id)
	require.NoError(t, err)
	return s, found
}

func TestPlanningRunsByItselfAndCanBeStopped(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	stands, err := a.Seasons.Planning(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, "none", stands.State)
	require.NoError(t, a.Seasons.StartPlanning(ctx, head, id, 30))
	require.Eventually(t, func() bool {
		stands, err = a.Seasons.Planning(ctx, head, id)
		return err == nil && stands.State == "running" && stands.Coverage > 0
	}, 5*time.Second, 10*time.Millisecond, "it says where it stands")
	began := time.Now()
	require.NoError(t, a.Seasons.StopPlanning(ctx, head, id))
	a.Seasons.Wait()
	assert.Less(t, time.Since(began), 10*time.Second, "thirty seconds were asked for")
	stands, err = a.Seasons.Planning(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, "done", stands.State)
	require.NotEmpty(t, stands.Change)
	assert.InDelta(t, page(t, a, id).Line.Coverage, stands.Coverage, 1e-9, "the best so far is kept")
	_, err = a.State.Undo(ctx, head, stands.Change)
	require.NoError(t, err)

	// Nothing a person pinned moves when the season is planned again.
	at := repair.Spot{Week: 3, Class: "nogi-weekend"}
	before := page(t, a, id)
	_, err = a.Seasons.Pin(ctx, head, id, at, true)
	require.NoError(t, err)
	_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.2))
	require.NoError(t, err)
	cell := func(p seasons.SeasonPage) seasons.Cell {
		for _, r := range p.Rows {
			if r.Class == at.Class {
				return r.Cells[at.Week-1]
			}
		}
		return seasons.Cell{}
	}
	assert.Equal(t, cell(before).Items, cell(page(t, a, id)).Items)
	assert.True(t, cell(page(t, a, id)).Pinned)

	var missing *state.NotFoundError
	assert.ErrorAs(t, a.Seasons.StartPlanning(ctx, head, "nothing", 1), &missing)
}

// A server that stops ends what it plans with the best so far, within moments, and begins nothing new.
func TestPlanningsEndWithTheServer(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	require.NoError(t, a.Seasons.StartPlanning(ctx, head, id, 60))
	require.Eventually(t, func() bool {
		stands, err := a.Seasons.Planning(ctx, head, id)
		return err == nil && stands.State == "running" && stands.Coverage > 0
	}, 10*time.Second, 10*time.Millisecond)
	ended := make(chan struct{})
	go func() { a.Seasons.End(); close(ended) }()
	select {
	case <-ended:
	case <-time.After(20 * time.Second):
		t.Fatal("a minute was asked for, and it is planned to its end")
	}
	stands, err := a.Seasons.Planning(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, "done", stands.State, "what was found is kept")
	require.NoError(t, a.Seasons.StartPlanning(ctx, head, id, 60))
	a.Seasons.Wait()
	stands, err = a.Seasons.Planning(ctx, head, id)
	require.NoError(t, err)
	assert.NotEqual(t, "running", stands.State)
}

func TestAMoveByHandShowsWhatItBreaks(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	before := page(t, a, id)
	assert.Empty(t, before.Breaks)
	// The knee cut stands on the underhook, which stands on more: too early in week 1.
	v := repair.Move{Unit: "u-side-mount", Kind: season.Teach, To: &repair.Spot{Week: 1, Class: "fund-late"}}
	unit := ""
	for _, u := range before.Units {
		if strings.Contains(u.Name, "Side pin to mount") {
			unit = u.ID
		}
	}
	require.NotEmpty(t, unit)
	v.Unit = unit
	trial, err := a.Seasons.TryMove(ctx, head, id, v)
	require.NoError(t, err)
	require.NotEmpty(t, trial.Breaks)
	assert.Contains(t, trial.Summary.String(), "Put Side pin to mount into")
	assert.Equal(t, before, page(t, a, id), "a trial keeps nothing")
	change, err := a.Seasons.MakeMove(ctx, head, id, v)
	require.NoError(t, err)
	after := page(t, a, id)
	assert.NotEmpty(t, after.Breaks)
	assert.InDelta(t, trial.After, after.Line.Coverage, 1e-9)
	_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
	require.ErrorContains(t, err, "the plan breaks")
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
	assert.Equal(t, before, page(t, a, id))

	for _, bad := range []repair.Move{{Unit: "attic", To: v.To}, {Unit: unit, From: &repair.Spot{Week: 1, Class: "attic"}}, {Unit: unit, To: &repair.Spot{Week: 1, Class: "nogi-early"}}, {Lead: "attic", To: v.To}} {
		_, err := a.Seasons.TryMove(ctx, head, id, bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestHelpIsTheOneChangeItSays(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	misses, err := a.Seasons.Misses(ctx, head, id)
	require.NoError(t, err)
	require.NotEmpty(t, misses.Students)
	helped := 0
	for _, s := range misses.Students[:6] {
		h, err := a.Seasons.Help(ctx, head, id, s.ID, "")
		require.NoError(t, err)
		assert.InDelta(t, s.Mean, h.Before, 1e-9, s.Name)
		if !h.Found {
			continue
		}
		helped++
		change, err := a.Seasons.TakeHelp(ctx, head, id, s.ID, "")
		require.NoError(t, err)
		assert.InDelta(t, h.Coverage, page(t, a, id).Line.Coverage, 1e-9, s.Name)
		assert.Empty(t, page(t, a, id).Breaks)
		_, err = a.State.Undo(ctx, head, change)
		require.NoError(t, err)
	}
	assert.Positive(t, helped)
	h, err := a.Seasons.Help(ctx, head, id, "", misses.Units[len(misses.Units)-1].Unit)
	require.NoError(t, err)
	assert.InDelta(t, misses.Units[len(misses.Units)-1].Mean, h.Before, 1e-9)
}

func TestFourWaysAndTakingOne(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ways, err := a.Seasons.CompareWays(t.Context(), head, id, 0)
	require.NoError(t, err)
	require.Len(t, ways, 4)
	for _, w := range ways {
		assert.Positive(t, w.Coverage)
		assert.LessOrEqual(t, w.Coverage, w.Bound+1e-9)
		assert.False(t, w.Now, "the demo's tracks differ")
	}
	third, err := a.Seasons.CompareWays(t.Context(), head, id, 3)
	require.NoError(t, err)
	assert.Equal(t, ways[2:3], third, "one of them alone is the same")
	before := page(t, a, id)
	change, err := a.Seasons.TakeWay(t.Context(), head, id, "spiral", "split")
	require.NoError(t, err)
	for _, w := range page(t, a, id).Ways {
		assert.Equal(t, "spiral split", w.School+" "+w.Mode)
	}
	_, err = a.State.Undo(t.Context(), head, change)
	require.NoError(t, err)
	assert.Equal(t, before, page(t, a, id), "tracks and plan together")
}

func TestChancesSetByHandStand(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	sure := 1.0
	_, err := a.Seasons.SetChance(ctx, head, id, "oren-vask", "fund-early", &sure)
	require.NoError(t, err)
	all, err := a.Seasons.Chances(ctx, head, id)
	require.NoError(t, err)
	for _, s := range all.Students {
		for _, c := range s.Cells {
			assert.Equal(t, s.ID == "oren-vask" && c.Class == "fund-early", c.Set != nil)
		}
	}
	_, err = a.Seasons.SetChance(ctx, head, id, "oren-vask", "fund-early", nil)
	require.NoError(t, err)
	above := 1.5
	_, err = a.Seasons.SetChance(ctx, head, id, "oren-vask", "fund-early", &above)
	assert.ErrorContains(t, err, "outside 0 to 1")
	_, err = a.Seasons.SetChance(ctx, head, id, "oren-vask", "attic", &sure)
	assert.Error(t, err)
}

func TestRepairsOfEveryKind(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	before := page(t, a, id)
	unit := ""
	for _, u := range before.Unplaced {
		if strings.HasPrefix(u.Why.String(), "No minutes") {
			unit = u.Unit
		}
	}
	require.NotEmpty(t, unit)
	for name, h := range map[string]seasons.Happening{
		"a class":  {Kind: "cancelled", Week: 3, Class: "nogi-weekend"},
		"a week":   {Kind: "closed", Week: 4, Why: "winter fair"},
		"a coach":  {Kind: "coach_out", Week: 2, Weeks: 2, Coach: "ines-falk"},
		"a wanted": {Kind: "wanted", Week: 6, Unit: unit},
	} {
		t.Run(name, func(t *testing.T) {
			p, err := a.Seasons.ProposeRepair(ctx, head, id, h)
			require.NoError(t, err)
			change, err := a.Seasons.TakeSeasonRepair(ctx, head, id, h)
			require.NoError(t, err)
			after := page(t, a, id)
			assert.InDelta(t, p.After, after.Line.Coverage, 1e-9)
			assert.Empty(t, after.Breaks)
			assert.GreaterOrEqual(t, after.Line.Coverage, 0.99*p.Anew-1e-9)
			if h.Kind == "coach_out" {
				for _, l := range after.Load {
					if l.ID == h.Coach {
						assert.Equal(t, []int{2, 3}, l.Out)
						assert.Zero(t, l.Weeks[1]+l.Weeks[2])
					}
				}
			}
			if h.Kind == "wanted" {
				assert.Equal(t, unit, after.Wanted[0].Unit)
			}
			_, err = a.State.Undo(ctx, head, change)
			require.NoError(t, err)
			assert.Equal(t, before, page(t, a, id))
		})
	}
	for _, bad := range []seasons.Happening{{Kind: "flood", Week: 2}, {Kind: "coach_out", Week: 2, Coach: "attic"}, {Kind: "wanted", Week: 2, Unit: "attic"}, {Kind: "cancelled", Week: 2}, {Kind: "not_reached", Week: 5, Class: "fund-early", Unit: unit}, {Week: 40, Class: "fund-early"}} {
		_, err := a.Seasons.ProposeRepair(ctx, head, id, bad)
		assert.Error(t, err, "%+v", bad)
	}
}

// leadsOfWhatDiffers are the coaches who lead, before or after, a class that is otherwise in the plan than as it was published.
func leadsOfWhatDiffers(t *testing.T, a *app.App, id string) []string {
	t.Helper()
	_, s := readSeason(t, a, id)
	leads := map[string]bool{}
	for _, c := range repair.Diff(s.Published.Plan, *s.Plan) {
		for _, x := range []*season.Placement{c.Before, c.After} {
			if x != nil {
				leads[x.Lead] = true
			}
		}
	}
	delete(leads, "")
	return slices.Sorted(maps.Keys(leads))
}

func coachesOf(notices []seasons.Notice) (all []string) {
	for _, n := range notices {
		all = append(all, n.Coach)
	}
	slices.Sort(all)
	return all
}

func TestPublishingTellsWhoeverSomethingChangesFor(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	folder := t.TempDir()
	post, err := mail.Start(folder)
	require.NoError(t, err)
	defer post.Close()
	sender := notify.Start(a.State.Store, notify.Post{Addr: post.Addr(), From: "hall@lantern-street.example"}, time.Now)
	defer sender.Stop()
	a.Seasons.Outbox = sender
	ines := personPage(t, a, head, "ines-falk")
	ines.Fields.Language = "es"
	_, err = a.People.Save(ctx, head, "ines-falk", *ines.Fields, ines.Version)
	require.NoError(t, err)
	view, err := a.Seasons.PublishView(ctx, head, id)
	require.NoError(t, err)
	assert.Zero(t, view.Number)
	for _, n := range view.Notices {
		yours, tuya := strings.Contains(n.Text, "is yours"), strings.Contains(n.Text, "es tuya")
		assert.Equal(t, n.Coach == "ines-falk", tuya, "each is written to in their language: %s", n.Text)
		assert.NotEqual(t, tuya, yours)
	}
	done, err := a.Seasons.PublishSeason(ctx, head, id, 0)
	require.NoError(t, err)
	assert.Len(t, done.Told, len(view.Notices))
	letters, err := a.Seasons.Letters(ctx, head)
	require.NoError(t, err)
	assert.Len(t, letters, len(done.Told))
	assert.Eventually(t, func() bool {
		handed, err := mail.Letters(folder, 100)
		return err == nil && len(handed) == len(done.Told)
	}, 10*time.Second, 20*time.Millisecond, "the mail server was handed each")

	// A change is not seen by the mat before it is published.
	night, err := a.Classes.Session(ctx, head, "fund-early.2026-12-01")
	require.NoError(t, err)
	_, err = a.Seasons.TakeSeasonRepair(ctx, head, id, seasons.Happening{Kind: "coach_out", Week: 2, Coach: "ines-falk"})
	require.NoError(t, err)
	same, err := a.Classes.Session(ctx, head, "fund-early.2026-12-01")
	require.NoError(t, err)
	assert.Equal(t, night.Summary.Lead, same.Summary.Lead)
	p := page(t, a, id)
	require.Positive(t, p.Waiting)
	view, err = a.Seasons.PublishView(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, leadsOfWhatDiffers(t, a, id), coachesOf(view.Notices), "those it concerns, and only those")
	_, err = a.Seasons.PublishSeason(ctx, head, id, view.Version-1)
	var changed *state.ConflictError
	require.ErrorAs(t, err, &changed, "what was changed after it was looked at is not published unseen")
	again, err := a.Seasons.PublishSeason(ctx, head, id, view.Version)
	require.NoError(t, err)
	assert.Contains(t, again.Told, "Ines Falk")
	assert.Zero(t, page(t, a, id).Waiting)
	_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
	assert.ErrorContains(t, err, "nothing has changed since")

	path, err := a.Seasons.MakeFeed(ctx, head, "track", "no-gi")
	require.NoError(t, err)
	token := strings.TrimSuffix(strings.TrimPrefix(path, "/calendar/"), ".ics")
	text, err := a.Seasons.Calendar(ctx, token)
	require.NoError(t, err)
	assert.Contains(t, string(text), "SUMMARY:No-gi")
	assert.NotContains(t, string(text), "SUMMARY:Fundamentals")
	newer, err := a.Seasons.MakeFeed(ctx, head, "track", "no-gi")
	require.NoError(t, err)
	assert.NotEqual(t, path, newer)
	_, err = a.Seasons.Calendar(ctx, token)
	assert.Error(t, err, "the one before it has ended")
	_, err = a.Seasons.MakeFeed(ctx, head, "coach", "oren-vask")
	assert.Error(t, err, "a student has no calendar of a coach")
}

// A class that was held counts as what it reached, and what students had of it
// is in the ledger, not counted twice.
func TestWhatWasHeldCountsOnce(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	before := page(t, a, id)
	night, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	require.NotEmpty(t, night.Items)
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", ""))
	none := classes.SessionReport{Items: []ledger.Item{}, Faults: []academy.FaultCount{}}
	for _, x := range night.Techniques {
		none.Items = append(none.Items, ledger.Item{Technique: x.ID, Kind: "teach", Reached: "not"})
	}
	require.NoError(t, a.Classes.Report(ctx, head, tonight, none))
	after := page(t, a, id)
	require.Positive(t, len(after.Students))
	sum := func(p seasons.SeasonPage) (all float64) {
		for _, s := range p.Students {
			all += s.Mean
		}
		return all
	}
	assert.Less(t, sum(after), sum(before), "nothing was reached: nobody is likelier to have met it")
	_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.2))
	require.NoError(t, err, "and the season is planned on from there")

	coachPage, err := a.Seasons.Season(ctx, coach, id)
	require.NoError(t, err)
	assert.Equal(t, page(t, a, id).Line.Coverage, coachPage.Line.Coverage, "nothing is published yet: a coach sees the plan")
}

func TestTheTimetableIsWrittenAndBroughtIn(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	id, change, err := a.Seasons.SaveClass(ctx, head, academy.Class{Name: "Fundamentals, noon", Track: "fundamentals", Hours: academy.Hours{Weekday: 5, Start: "12:00", Minutes: 60, TeachMinutes: 30, Mat: "Mat one"}}, 0, "")
	require.NoError(t, err)
	assert.Equal(t, "fundamentals-noon", id)
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
	for field, c := range map[string]academy.Class{
		"name":          {Track: "no-gi", Hours: academy.Hours{Weekday: 1, Start: "18:00", Minutes: 60}},
		"track":         {Name: "x", Track: "attic", Hours: academy.Hours{Weekday: 1, Start: "18:00", Minutes: 60}},
		"weekday":       {Name: "x", Track: "no-gi", Hours: academy.Hours{Weekday: 8, Start: "18:00", Minutes: 60}},
		"start":         {Name: "x", Track: "no-gi", Hours: academy.Hours{Weekday: 1, Start: "25:00", Minutes: 60}},
		"minutes":       {Name: "x", Track: "no-gi", Hours: academy.Hours{Weekday: 1, Start: "18:00", Minutes: 5}},
		"teach_minutes": {Name: "x", Track: "no-gi", Hours: academy.Hours{Weekday: 1, Start: "18:00", Minutes: 60, TeachMinutes: 61}},
	} {
		_, _, err := a.Seasons.SaveClass(ctx, head, c, 0, "")
		var refused *state.ValidationError
		require.ErrorAs(t, err, &refused, field)
		assert.Equal(t, field, refused.Problems[0].Field)
	}
	_, err = a.Seasons.RemoveClass(ctx, head, "fund-early")
	assert.ErrorContains(t, err, "on record")
	// A coach who was to lead a class that goes is not left speaking of it, and has it again when it comes back.
	noon, _, err := a.Seasons.SaveClass(ctx, head, academy.Class{Name: "Open mat", Track: "no-gi", Hours: academy.Hours{Weekday: 7, Start: "12:00", Minutes: 60, TeachMinutes: 30, Mat: "Mat one"}}, 0, "")
	require.NoError(t, err)
	leads := func() bool {
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		return slices.Contains(f.Person["tomas-reyl"].Coach.Available, noon)
	}
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	terms := *f.Person["tomas-reyl"].Coach
	terms.Available = append(slices.Clone(terms.Available), noon)
	_, err = a.Seasons.SaveCoach(ctx, head, "tomas-reyl", "", terms, f.Version(documents.Person, "tomas-reyl"))
	require.NoError(t, err)
	require.True(t, leads())
	gone, err := a.Seasons.RemoveClass(ctx, head, noon)
	require.NoError(t, err)
	assert.False(t, leads())
	_, err = a.State.Undo(ctx, head, gone)
	require.NoError(t, err)
	assert.True(t, leads())
	_, err = a.Seasons.RemoveClass(ctx, head, noon)
	require.NoError(t, err)

	list := exchange.TextFile{Name: "week.csv", Text: []byte("class,track,day,time,length\nFundamentals early week,Fundamentals,Tue,9:30,60\nNo-gi noon,Attic,wed,12:00,60\nFundamentals,Fundamentals,fri,25:30,60\n")}
	p, err := a.Seasons.PreviewTimetable(ctx, head, list, "no-gi")
	require.NoError(t, err)
	require.Len(t, p.Rows, 3)
	assert.Empty(t, p.Rows[0].Wrong)
	assert.Contains(t, p.Rows[2].Wrong, "not a time")
	assert.Equal(t, academy.Class{Name: "Fundamentals early week", Track: "fundamentals", Hours: academy.Hours{Weekday: 2, Start: "09:30", Minutes: 60, TeachMinutes: 30}}, p.Rows[0].Class)
	assert.Contains(t, p.Rows[1].Wrong, `no track "Attic"`)
	_, err = a.Seasons.TakeTimetable(ctx, head, list, "no-gi")
	require.ErrorContains(t, err, "line 3", "all or nothing")
	page, err := a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	require.Len(t, page.Classes, 4)

	ical := exchange.TextFile{Name: "week.ics", Text: []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:No-gi noon\r\nDTSTART:20261124T120000Z\r\nDTEND:20261124T130000Z\r\nRRULE:FREQ=WEEKLY;BYDAY=TU,TH\r\nLOCATION:Mat two\r\nEND:VEVENT\r\nBEGIN:VEVENT\r\nUID:2\r\nSUMMARY:Grading\r\nDTSTART:20261128T120000Z\r\nDTEND:20261128T130000Z\r\nRRULE:FREQ=YEARLY\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")}
	for range 2 { // twice is the same as once
		_, err = a.Seasons.TakeTimetable(ctx, head, ical, "no-gi")
		require.NoError(t, err)
		page, err = a.Seasons.Timetable(ctx, head)
		require.NoError(t, err)
		require.Len(t, page.Classes, 6)
	}
	p, err = a.Seasons.PreviewTimetable(ctx, head, ical, "no-gi")
	require.NoError(t, err)
	assert.Contains(t, p.Left[0], "does not recur weekly")
	assert.Equal(t, "Is there already", p.Rows[0].Summary)
	_, err = a.Seasons.PreviewTimetable(ctx, head, exchange.TextFile{Name: "x.csv"}, "no-gi")
	assert.Error(t, err)

	_, _, err = a.Seasons.SaveTrack(ctx, head, academy.Track{Name: "Youth", Audience: "youth", Mode: "same", School: "block", MinAge: 8}, 0)
	require.NoError(t, err)
	_, _, err = a.Seasons.SaveTrack(ctx, head, academy.Track{Name: " "}, 0)
	assert.Error(t, err)
	_, err = a.Seasons.SaveCoach(ctx, head, "ines-falk", "ines@lantern-street.example", academy.Terms{Available: []string{"fund-early"}, Signoffs: []string{}, MaxPerWeek: 2, Share: 0.5, Out: []academy.Span{{From: 10, To: 9}}}, version(t, a, documents.Person, "ines-falk"))
	assert.ErrorContains(t, err, "before it starts")
	_, err = a.Seasons.SaveCoach(ctx, head, "ines-falk", "nowhere", academy.Terms{}, version(t, a, documents.Person, "ines-falk"))
	assert.ErrorContains(t, err, "is not one address")
}
