package app_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	applibrary "vereda/app/library"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/exchange"
	"vereda/internal/testkit"
)

// The counts of a row are those of its student's own page, and every filter leaves whom it says.
func TestPositions(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	page, err := a.Students.Positions(ctx, head, students.PositionsFilter{})
	require.NoError(t, err)
	require.Len(t, page.Rows, 30)
	assert.True(t, slices.IsSortedFunc(page.Rows, func(x, y students.PositionRow) int { return y.Behind - x.Behind }), "who is most behind first")
	for _, row := range page.Rows {
		s, err := a.Students.StudentPage(ctx, head, row.ID)
		require.NoError(t, err)
		assert.Equal(t, len(s.Readiness.Missing), row.Behind, "%s: what is open is what is missing", row.Name)
		assert.InDelta(t, s.Readiness.Share, row.Share, 1e-12)
		for _, c := range row.Cells {
			require.Less(t, c.At, len(page.Positions))
			assert.True(t, c.There <= c.Of && c.Live <= c.Passed && c.Passed <= c.Drilled && c.Drilled <= c.Met && c.Met <= c.Of, "%+v", c)
		}
	}
	all := 0
	for _, rank := range page.Ranks {
		same, err := a.Students.Positions(ctx, head, students.PositionsFilter{Ladder: rank.Ladder, Rank: rank.ID})
		require.NoError(t, err)
		for _, r := range same.Rows {
			assert.Equal(t, rank.Name, r.Rank)
		}
		all += len(same.Rows)
	}
	assert.Equal(t, 30, all, "each has one rank")
	in := 0
	for _, track := range page.Tracks {
		for _, coach := range page.Coaches {
			both, err := a.Students.Positions(ctx, head, students.PositionsFilter{Track: track.ID, Coach: coach.ID})
			require.NoError(t, err)
			one, err := a.Students.Positions(ctx, head, students.PositionsFilter{Track: track.ID})
			require.NoError(t, err)
			assert.LessOrEqual(t, len(both.Rows), len(one.Rows))
			in += len(both.Rows)
		}
	}
	assert.Positive(t, in)
	minors, err := a.Students.Positions(ctx, head, students.PositionsFilter{AgeFrom: 1, AgeTo: 17})
	require.NoError(t, err)
	for _, r := range minors.Rows {
		assert.True(t, r.Minor, r.Name)
	}
	place := page.Positions[page.Rows[0].Cells[0].At]
	leaf, err := a.Students.Position(ctx, head, page.Rows[0].ID, place.ID)
	require.NoError(t, err)
	asked := 0
	for _, x := range leaf.Techniques {
		asked += len(x.Marks)
	}
	of := 0
	for _, c := range page.Rows[0].Cells {
		if c.At == page.Rows[0].Cells[0].At {
			of += c.Of
		}
	}
	assert.Equal(t, of, asked, "the leaf has what the cell counts")
	_, err = a.Students.Position(ctx, testkit.Users[state.Student], "pilar-dunmore", place.ID)
	var missing *state.NotFoundError
	assert.ErrorAs(t, err, &missing, "a student sees nobody else")
}

// A standing is explained by facts whose last one is where it stands.
func TestFactsLeadToTheStanding(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	kept, err := a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "oren-vask", Technique: "hip-escape", Side: library.Right, Observation: seen(a, t, "hip-escape", ledger.Shown)})
	require.NoError(t, err)
	require.True(t, kept.Verdict.Met)
	explained := 0
	s, err := a.Students.StudentPage(ctx, head, "oren-vask")
	require.NoError(t, err)
	for _, line := range s.Standing {
		for _, m := range line.Marks {
			page, err := a.Students.Facts(ctx, head, "oren-vask", line.ID, m.On)
			require.NoError(t, err)
			if len(page.Facts) == 0 {
				assert.EqualValues(t, "not met", m.Rung, line.Name)
				continue
			}
			explained++
			assert.Equal(t, m.Rung, page.Facts[len(page.Facts)-1].Rung, "%s %s", line.Name, m.On)
			assert.True(t, slices.IsSortedFunc(page.Facts, func(x, y students.FactLine) int { return int(x.On - y.On) }))
		}
	}
	assert.Greater(t, explained, 10)
	page, err := a.Students.Facts(ctx, head, "oren-vask", "hip-escape", library.Right)
	require.NoError(t, err)
	last := page.Facts[len(page.Facts)-1]
	assert.Equal(t, "check", last.Kind)
	require.NotEmpty(t, page.Curve)
	require.NotNil(t, page.DueOn)
	due := page.Standing
	assert.True(t, due.Due(*page.DueOn, ledger.DefaultStanding) && !due.Due(*page.DueOn-1, ledger.DefaultStanding), "the first day it is due on")
}

// Whoever has all is there now; a plan brings the day nearer than none does.
func TestOutlook(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	list, err := a.Students.OutlookList(ctx, head)
	require.NoError(t, err)
	require.NotEmpty(t, list.Rows)
	within := 0
	for _, r := range list.Rows {
		if r.P10 != nil && r.P50 != nil && r.P90 != nil {
			within++
			assert.True(t, *r.P10 <= *r.P50 && *r.P50 <= *r.P90, r.Name)
		}
	}
	t.Logf("%d of %d within two years", within, len(list.Rows))
	assert.Positive(t, within)
	own, err := a.Students.Outlook(ctx, testkit.Users[state.Student], "oren-vask")
	require.NoError(t, err)
	assert.Equal(t, "Blue", own.Rank)
	assert.NotEmpty(t, own.Last)
	for _, g := range own.Forward {
		assert.Positive(t, g.Days)
		assert.NotEmpty(t, g.Summary)
	}
	_, err = a.Students.Outlook(ctx, testkit.Users[state.Student], "pilar-dunmore")
	assert.Error(t, err)
}

func TestGapsArePutIntoAClass(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	id, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now) - 1, Weeks: 4})
	require.NoError(t, err)
	_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.2))
	require.NoError(t, err)
	page, err := a.Students.Gaps(ctx, head)
	require.NoError(t, err)
	require.NotEmpty(t, page.Groups)
	assert.True(t, page.Proven)
	assert.Len(t, page.Groups, page.Bound)
	g := page.Groups[0]
	change, err := a.Classes.AddUnit(ctx, head, g.Session, g.Unit, "teach")
	require.NoError(t, err)
	class, err := a.Classes.Session(ctx, head, g.Session)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(class.Items, func(it state.CellItem) bool { return it.Unit == g.Unit }))
	_, err = a.Classes.AddUnit(ctx, head, g.Session, g.Unit, "teach")
	assert.ErrorContains(t, err, "in that class already")
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
}

// reportWithStation keeps a record of tonight's class in which somebody caught up the knee cut pass at a station of their own.
func reportWithStation(t *testing.T, a *app.App, who string) classes.SessionReport {
	t.Helper()
	ctx := t.Context()
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, who, "", ""))
	r := classes.SessionReport{Items: []ledger.Item{{Technique: "hip-escape", Kind: "teach", Reached: "all"}}, Faults: []academy.FaultCount{},
		Makeups: []academy.Makeup{{People: []string{who}, Items: []ledger.Item{{Technique: "knee-cut", Kind: "teach", Reached: "all"}}}}}
	require.NoError(t, a.Classes.Report(ctx, head, tonight, r))
	return r
}

// Those who missed a unit catch it up at a station of their own while the others do what the class does: it counts for them, and for nobody else.
func TestAGroupCatchesUpAtAStation(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	exposures := func(student, technique string) float64 {
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		x, _ := f.Standing(student, technique, library.Right)
		return x.Exposures
	}
	page, err := a.Students.Gaps(ctx, head)
	require.NoError(t, err)
	require.NotEmpty(t, page.Groups)
	g := page.Groups[0]
	assert.Empty(t, g.Put)
	var who []string
	for _, p := range g.People {
		who = append(who, p.ID)
	}
	change, err := a.Classes.AddMakeup(ctx, head, g.Session, g.Unit, who)
	require.NoError(t, err)
	page, err = a.Students.Gaps(ctx, head)
	require.NoError(t, err)
	assert.Equal(t, "station", page.Groups[0].Put)
	class, err := a.Classes.Session(ctx, head, g.Session)
	require.NoError(t, err)
	require.Len(t, class.Makeups, 1)
	assert.Len(t, class.Makeups[0].People, len(who))
	assert.NotEmpty(t, class.Makeups[0].Techniques)
	require.True(t, class.Stations.Given)
	own := class.Stations.Stations.Stations[len(class.Stations.Stations.Stations)-1]
	assert.Equal(t, g.Unit, own.Makeup)
	instead := 0
	for _, s := range class.Stations.Stations.Stations {
		if slices.Contains(own.Instead, s.ID) {
			instead += s.Minutes
		}
	}
	assert.True(t, len(own.Instead) == 0 || own.Minutes <= instead+len(own.Instead)-1, "no longer than what it takes the place of: %d, %d", own.Minutes, instead)

	_, err = a.Classes.AddMakeup(ctx, head, g.Session, g.Unit, who)
	require.NoError(t, err, "put in again it is the same station")
	class, err = a.Classes.Session(ctx, head, g.Session)
	require.NoError(t, err)
	require.Len(t, class.Makeups, 1)
	_, err = a.Classes.AddMakeup(ctx, head, g.Session, "nothing", who)
	assert.ErrorContains(t, err, `there is no unit "nothing"`)
	_, err = a.Classes.AddMakeup(ctx, head, g.Session, g.Unit, []string{"nobody"})
	assert.ErrorContains(t, err, "people[0]")
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
	page, err = a.Students.Gaps(ctx, head)
	require.NoError(t, err)
	assert.Empty(t, page.Groups[0].Put)

	t.Log("The record counts for those who were there.")
	for _, id := range []string{"oren-vask", "pilar-dunmore"} {
		require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, id, "", ""))
	}
	before := map[string]float64{}
	for _, id := range []string{"oren-vask", "pilar-dunmore"} {
		for _, technique := range []string{"hip-escape", "knee-cut"} {
			before[id+technique] = exposures(id, technique)
		}
	}
	r := reportWithStation(t, a, "oren-vask")
	for at, want := range map[string]float64{"oren-vask hip-escape": 0.5, "oren-vask knee-cut": 1, "pilar-dunmore hip-escape": 1, "pilar-dunmore knee-cut": 0} {
		id, technique, _ := strings.Cut(at, " ")
		assert.InDelta(t, before[id+technique]+want, exposures(id, technique), 1e-9, at)
	}
	facts, err := a.Students.Facts(ctx, head, "oren-vask", "knee-cut", library.Right)
	require.NoError(t, err)
	last := facts.Facts[len(facts.Facts)-1]
	assert.Equal(t, "teach, reached, caught up at a station: counts 1", last.Summary.String())
	facts, err = a.Students.Facts(ctx, head, "oren-vask", "hip-escape", library.Right)
	require.NoError(t, err)
	assert.Contains(t, facts.Facts[len(facts.Facts)-1].Summary.String(), "catching up elsewhere meanwhile: counts ½")
	class, err = a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.Equal(t, r.Makeups, class.Recorded.Makeups)
	noDifference(t, a)

	t.Log("Who is nobody, or at two stations, is refused by name.")
	r.Makeups = append(r.Makeups, academy.Makeup{People: []string{"oren-vask", "nobody"}, Items: []ledger.Item{{Technique: "no-such", Kind: "teach", Reached: "all"}}})
	err = a.Classes.Report(ctx, head, tonight, r)
	for _, want := range []string{"Oren Vask was at another station already", `no student "nobody"`, `"no-such" is not in the library`} {
		assert.ErrorContains(t, err, want)
	}

	t.Log("It travels with the academy.")
	b, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	text, err := exchange.Write(b)
	require.NoError(t, err)
	assert.Contains(t, string(text), `"makeups"`)
	again, err := exchange.Read(text)
	require.NoError(t, err)
	again.Academy.ID = "elsewhere"
	_, err = a.Academies.Import(ctx, again)
	require.NoError(t, err)
	there, err := a.State.Read(ctx, "elsewhere")
	require.NoError(t, err)
	here, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	assert.Equal(t, here.Standings("oren-vask"), there.Standings("oren-vask"))
}

// Two coaches who check the same are compared, key point by key point.
func TestAgreement(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	coach := testkit.Users[state.Coach]
	before, err := a.Students.Agreement(ctx, head, 4)
	require.NoError(t, err)
	gates := 0
	for n, student := range []string{"oren-vask", "pilar-dunmore", "tam-ellery", "nuno-harrow"} {
		o := seen(a, t, "hip-escape", ledger.Shown)
		_, err := a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: student, Technique: "hip-escape", Side: library.Right, Observation: o})
		require.NoError(t, err)
		p := seen(a, t, "hip-escape", ledger.Shown)
		if n < 2 { // the second coach sees the first gate otherwise
			technique, err := a.Library.Technique(ctx, head, "hip-escape", "")
			require.NoError(t, err)
			for _, k := range technique.Written.KeyPoints {
				if k.Gate {
					p.Points[k.ID] = ledger.Prompted
					gates++
					break
				}
			}
		}
		_, err = a.Students.KeepCheck(ctx, coach, students.KeepCheck{Student: student, Technique: "hip-escape", Side: library.Right, Observation: p})
		require.NoError(t, err)
	}
	require.Equal(t, 2, gates)
	page, err := a.Students.Agreement(ctx, head, 4)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, page.Checks, before.Checks+4)
	assert.Less(t, page.All.Same, 1.0)
	require.NotEmpty(t, page.Points)
	assert.True(t, page.Points[0].Gate, "gates first")
	assert.True(t, slices.ContainsFunc(page.Points, func(x students.PointAgreement) bool {
		return x.Gate && x.Different.String() == "prompted and seen 2 times"
	}), "%+v", page.Points)
	ours := slices.IndexFunc(page.Coaches, func(c students.CoachAgreement) bool { return c.A == "Ines Falk" && c.B == "Tomas Reyl" })
	require.GreaterOrEqual(t, ours, 0)
	assert.InDelta(t, 1-2/float64(page.Coaches[ours].Pairs), page.Coaches[ours].Same, 1e-9, "two of all were seen otherwise")
}

func TestFadingAndStopping(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	page, err := a.Students.Fading(ctx, head)
	require.NoError(t, err)
	sum := 0
	for _, r := range page.Rows {
		sum += r.Due
		for _, l := range r.Lowest {
			assert.Less(t, l.Share, 0.5)
		}
	}
	assert.Equal(t, page.Due, sum)
	if !page.Fit.Better {
		_, err = a.Students.UseFit(ctx, head)
		assert.Error(t, err, "nothing is taken that is not better")
	}
	stop, err := a.Students.Stopping(ctx, head)
	require.NoError(t, err)
	assert.Positive(t, stop.Looked)
	for _, r := range stop.Rows {
		assert.Less(t, r.P, 0.05)
	}
}

// Attendance and checks go out as lists and come in again: into the same academy they add nothing.
func TestListsOfTheRecordGoOutAndComeIn(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	_, err := a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "oren-vask", Technique: "knee-cut", Side: library.Right, Observation: seen(a, t, "knee-cut", ledger.Shown)})
	require.NoError(t, err)
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "late", ""))
	visits, err := a.People.AttendanceCSV(ctx, head)
	require.NoError(t, err)
	assert.Contains(t, string(visits), "oren-vask,2026-11-24,fund-early,late")
	p, err := a.People.PreviewAttendance(ctx, head, exchange.TextFile{Name: "attendance.csv", Text: visits})
	require.NoError(t, err)
	assert.Zero(t, p.New+p.Wrong, p.Summary)
	checks, err := a.People.ChecksCSV(ctx, head)
	require.NoError(t, err)
	assert.Contains(t, string(checks), "oren-vask,2026-11-24,knee-cut,right,met,passed,ines-falk")
	p, err = a.People.PreviewChecks(ctx, head, exchange.TextFile{Name: "checks.csv", Text: checks})
	require.NoError(t, err)
	assert.Zero(t, p.New+p.Wrong, p.Summary)

	list := exchange.TextFile{Name: "old.csv", Text: []byte("student,date,technique,side,result,coach\nPilar Dunmore,2026-10-01,Knee cut pass,left,met,Tomas Reyl\nPilar Dunmore,2026-10-02,Knee cut pass,,met,\nPilar Dunmore,2026-10-02,Flying nothing,left,met,\nNobody,2026-10-02,Knee cut pass,left,met,\nPilar Dunmore,2026-10-02,Knee cut pass,left,maybe,\n")}
	p, err = a.People.PreviewChecks(ctx, head, list)
	require.NoError(t, err)
	assert.Equal(t, 1, p.New)
	require.Equal(t, 4, p.Wrong)
	for i, says := range []string{"write left or right", "is not in the library", "is nobody here", "say met or not met"} {
		assert.Contains(t, p.Rows[i].Wrong, says)
	}
	_, err = a.People.TakeChecks(ctx, head, list)
	require.Error(t, err, "all of it or nothing")
	list.Text = []byte("student,date,technique,side,result,coach\nPilar Dunmore,2026-10-01,Knee cut pass,left,met,Tomas Reyl\n")
	for range 2 {
		_, err = a.People.TakeChecks(ctx, head, list)
		require.NoError(t, err)
	}
	s, err := a.Students.Facts(ctx, head, "pilar-dunmore", "knee-cut", library.Left)
	require.NoError(t, err)
	n := 0
	for _, x := range s.Facts {
		if x.Kind == "check" && x.On == calendar.MustDay("2026-10-01") {
			n++
			assert.Equal(t, "Tomas Reyl", x.By)
		}
	}
	assert.Equal(t, 1, n)
	noDifference(t, a)
}

// The map says where a student, a track or everybody has a way, to those who may see them.
func TestWaysOnTheMap(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	none, err := a.Library.Map(ctx, head, applibrary.MapFilter{})
	require.NoError(t, err)
	assert.Empty(t, none.Ways)
	before, err := a.Library.Map(ctx, head, applibrary.MapFilter{Of: "oren-vask"})
	require.NoError(t, err)
	assert.Equal(t, 1, before.WaysOf)
	_, err = a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "oren-vask", Technique: "knee-cut", Side: library.Right, Observation: seen(a, t, "knee-cut", ledger.Shown)})
	require.NoError(t, err)
	technique, err := a.Library.Technique(ctx, head, "knee-cut", "")
	require.NoError(t, err)
	from := *technique.Written.From
	share := func(p applibrary.MapPage) float64 {
		for _, w := range p.Ways {
			if w.Position == from.Position && from.Part == library.Attack && w.Attack != nil {
				return *w.Attack
			}
		}
		return -1
	}
	after, err := a.Library.Map(ctx, head, applibrary.MapFilter{Of: "oren-vask"})
	require.NoError(t, err)
	assert.InDelta(t, 1, share(after), 1e-12)
	everybody, err := a.Library.Map(ctx, head, applibrary.MapFilter{Of: "everybody"})
	require.NoError(t, err)
	assert.Equal(t, 30, everybody.WaysOf)
	assert.True(t, share(everybody) >= 1.0/30 && share(everybody) <= 1)
	_, err = a.Library.Map(ctx, testkit.Users[state.Student], applibrary.MapFilter{Of: "everybody"})
	assert.Error(t, err)
	own, err := a.Library.Map(ctx, testkit.Users[state.Student], applibrary.MapFilter{Of: "oren-vask"})
	require.NoError(t, err)
	assert.NotEmpty(t, own.Ways)
	_, err = a.Library.Map(ctx, head, applibrary.MapFilter{Of: "track/nothing"})
	assert.Error(t, err)
}
