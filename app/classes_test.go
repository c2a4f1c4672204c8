package app_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/people"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/internal/testkit"
)

// Tonight's reaction rounds are drawn from the fork table tonight's technique belongs to, the same whenever one looks.
func TestReactionRoundsAreDrawn(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	f, err := state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	drawn := 0
	for _, unit := range f.Units {
		if !slices.Contains(unit.Tracks, "fundamentals") {
			continue
		}
		_, err := a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: unit.ID, Kind: "teach"}}})
		require.NoError(t, err)
		page, err := a.Classes.Session(ctx, head, tonight)
		require.NoError(t, err)
		again, err := a.Classes.Session(ctx, head, tonight)
		require.NoError(t, err)
		assert.Equal(t, page.Reactions, again.Reactions)
		for _, d := range page.Reactions {
			drawn++
			assert.Len(t, d.Calls, 6)
			table, ok := f.Library.ForkTable(d.Table)
			require.True(t, ok)
			assert.True(t, slices.ContainsFunc(table.Rows, func(r library.Row) bool { return f.Library.Name(r.Then) == d.Calls[0].Answer }))
		}
	}
	assert.Positive(t, drawn, "some unit of the demo belongs to a fork table")
}

// The clock runs on the server: whoever opens it later stands in the same second, and a refit gives what is left to what must be.
func TestTheClockRunsOnTheServer(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	_, err := a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	page, err := a.Classes.Clock(ctx, head, tonight)
	require.NoError(t, err)
	assert.False(t, page.Begun)
	require.NotEmpty(t, page.Stretches)
	turn := func(c classes.TurnClock) classes.ClockPage {
		t.Helper()
		require.NoError(t, a.Classes.Turn(ctx, head, tonight, c))
		page, err := a.Classes.Clock(ctx, head, tonight)
		require.NoError(t, err)
		return page
	}
	page = turn(classes.TurnClock{Do: "start"})
	assert.True(t, page.Running)
	*at = at.Add(95 * time.Second)
	page = turn(classes.TurnClock{Do: "stop"})
	assert.Equal(t, 95, page.Passed)
	*at = at.Add(time.Hour)
	page = turn(classes.TurnClock{Do: "start"})
	assert.Equal(t, 95, page.Passed, "it stood still meanwhile")
	page = turn(classes.TurnClock{Do: "jump", To: 1})
	assert.Equal(t, page.Stretches[0].Seconds, page.Passed)
	before := len(page.FellOut)
	page = turn(classes.TurnClock{Do: "refit", Minutes: 15, More: 3})
	whole, first := 0, 0
	for _, s := range page.Stretches {
		whole += s.Seconds
		if s.Segment == page.Stretches[0].Segment {
			first += s.Seconds
		}
	}
	assert.Equal(t, 15*60, whole, "fifteen minutes are left")
	assert.Equal(t, 3*60, first, "of them three for the segment at hand")
	assert.Greater(t, len(page.FellOut), before)
	assert.ErrorContains(t, a.Classes.Turn(ctx, head, tonight, classes.TurnClock{Do: "jump", To: 999}), "there are")
	page = turn(classes.TurnClock{Do: "reset"})
	assert.Zero(t, page.Passed)
	assert.False(t, page.Running)
}

func TestASheetIsChangedByHand(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	_, err := a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	first := page.Segments[0]
	change, err := a.Classes.EditSheet(ctx, head, tonight, classes.SheetEdits{Edits: []mat.SegmentEdit{{ID: first.ID, Minutes: first.Minutes + 3}, {ID: "situational", Dropped: true}, {ID: "close"}}, Order: []string{"close", first.ID}})
	require.NoError(t, err)
	page, err = a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.Equal(t, "close", page.Segments[0].ID)
	assert.Equal(t, first.Minutes+3, page.Segments[1].Minutes)
	assert.Len(t, page.Edits.Edits, 2, "what changes nothing is not kept")
	out := page.FellOut[len(page.FellOut)-1]
	assert.Equal(t, "situational", out.ID)
	assert.Equal(t, "Left out by hand.", out.Why.String())
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
	page, err = a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.Equal(t, first.ID, page.Segments[0].ID)
}

// A tap sent twice counts once; one taken back counts no more; what was noted for a person stays theirs.
func TestTallies(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	f, err := state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	unit, ok := f.Unit("u-half-guard")
	require.True(t, ok)
	technique, _ := f.Library.Technique(unit.Techniques[0])
	fault := ""
	for _, k := range technique.KeyPoints {
		for _, x := range k.Faults {
			fault = x.ID
		}
	}
	require.NotEmpty(t, fault)
	tap := func(id string, count int) classes.AddTally {
		return classes.AddTally{ID: id, Tally: academy.Tally{Technique: technique.ID, Fault: fault, Count: count}}
	}
	for range 2 {
		require.NoError(t, a.Classes.Tally(ctx, head, tonight, tap("tap-1", 1)))
	}
	require.NoError(t, a.Classes.Tally(ctx, head, tonight, tap("tap-2", 1)))
	require.NoError(t, a.Classes.Tally(ctx, head, tonight, tap("tap-3", -1)))
	var conflict *state.ConflictError
	require.ErrorAs(t, a.Classes.Tally(ctx, head, tonight, tap("tap-3", 1)), &conflict, "another tap under the same identifier")
	require.NoError(t, a.Classes.Tally(ctx, head, tonight, classes.AddTally{ID: "tap-4", Student: "oren-vask", Tally: academy.Tally{Technique: technique.ID, Words: "grip at the heel"}}))
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.Equal(t, []classes.FaultTally{{Technique: technique.ID, Fault: fault, Seen: 1}}, page.Tally)
	require.Len(t, page.Told, 1)
	assert.Equal(t, "grip at the heel", page.Told[0].Summary)
	own, err := a.Students.StudentPage(ctx, head, "oren-vask")
	require.NoError(t, err)
	require.NotEmpty(t, own.Told)
	assert.Equal(t, "grip at the heel", own.Told[0].Summary.String())
	for words, bad := range map[string]classes.AddTally{
		"is not in the library": {ID: "tap-5", Tally: academy.Tally{Technique: "nothing", Words: "x"}},
		"is not a fault of":     {ID: "tap-6", Tally: academy.Tally{Technique: technique.ID, Fault: "nothing"}},
		"say what was seen":     {ID: "tap-7", Tally: academy.Tally{Technique: technique.ID}},
	} {
		err := a.Classes.Tally(ctx, head, tonight, bad)
		assert.ErrorContains(t, err, words)
	}
	held, anew, gaps, err := a.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, gaps)
	assert.Empty(t, held.Differences(anew), "a rebuild finds the same")
}

// What a phone sends when the network is back may arrive twice.
func TestSentTwiceIsKeptOnce(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	for range 2 {
		require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "in-1"))
	}
	for range 2 {
		require.NoError(t, a.Classes.CheckOut(ctx, head, tonight, "oren-vask", "out-1"))
	}
	for range 2 {
		require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "in-2"))
	}
	report := classes.SessionReport{ID: "report-1", Items: []ledger.Item{{Technique: "knee-cut", Kind: "teach", Reached: "part"}}, Note: "as far as the knee"}
	for range 2 {
		require.NoError(t, a.Classes.Report(ctx, head, tonight, report))
	}
	again := report
	again.ID, again.Note = "report-2", "further than that"
	require.NoError(t, a.Classes.Report(ctx, head, tonight, again))
	require.NoError(t, a.Classes.Report(ctx, head, tonight, report), "the first one, late once more")
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.Len(t, page.Here, 1)
	assert.Equal(t, "further than that", page.Recorded.Note, "what came late does not take the place of what replaced it")
}

// Eight of twelve stands above one of one; what answers it stands beside it, and only the classes asked for count.
func TestStickingPoints(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	f, err := state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	knee, _ := f.Library.Technique("knee-cut")
	require.NotEmpty(t, knee.Forks)
	var often, once string
	for _, k := range knee.KeyPoints {
		for _, x := range k.Faults {
			if k.ID == knee.Forks[0].KeyPoint && often == "" {
				often = x.ID
			} else {
				once = x.ID
			}
		}
	}
	require.NotEmpty(t, often)
	require.NotEmpty(t, once)
	before, err := a.Classes.Sticking(ctx, head, classes.StickingFilter{Weeks: 1, Coach: "ines-falk"})
	require.NoError(t, err)
	require.NoError(t, a.Classes.Report(ctx, head, tonight, classes.SessionReport{Items: []ledger.Item{{Technique: "knee-cut", Kind: "teach", Reached: "all"}},
		Faults: []academy.FaultCount{{Technique: "knee-cut", Fault: once, Seen: 1, Tries: 1}, {Technique: "knee-cut", Fault: often, Seen: 8, Tries: 12}}}))
	page, err := a.Classes.Sticking(ctx, head, classes.StickingFilter{Weeks: 1, Coach: "ines-falk"})
	require.NoError(t, err)
	assert.Equal(t, before.Classes+1, page.Classes)
	var order []string
	for _, p := range page.Points {
		if p.Technique == "knee-cut" && (p.Fault == often || p.Fault == once) {
			order = append(order, p.Fault)
			if p.Fault == often {
				assert.Equal(t, 8, p.Seen)
				assert.InDelta(t, 0.3906, p.Low, 5e-4)
				assert.NotEmpty(t, p.Consequence)
				assert.NotEmpty(t, p.Answers, "the fork at that key point")
				assert.NotEmpty(t, p.Units)
			}
		}
	}
	assert.Equal(t, []string{often, once}, order)
	none, err := a.Classes.Sticking(ctx, head, classes.StickingFilter{Weeks: 1, Track: "nogi", Coach: "ines-falk"})
	require.NoError(t, err)
	for _, p := range none.Points {
		assert.False(t, p.Fault == often && p.Seen >= 8, "another track's")
	}
}

// Five stations, three coaches, twenty-three people with two held and one late.
func TestStationsOfAClass(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	_, err := a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	f, err := state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	var here []string
	for _, p := range f.Students() {
		if p.Joined <= f.Today() && len(here) < 24 && p.ID != "wilma-etherton" {
			here = append(here, p.ID)
		}
	}
	require.Len(t, here, 24)
	for _, id := range here[:2] {
		require.NoError(t, a.People.Hold(ctx, head, id, people.NewHold{ID: "hold-" + id, Regions: []safety.Region{}, All: true}))
	}
	for _, id := range here[:23] {
		require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, id, "", ""))
	}
	var coaches []string
	signoff := ""
	for _, p := range f.Active() {
		if p.Coach != nil && len(coaches) < 3 {
			coaches = append(coaches, p.ID)
			if len(p.Coach.Signoffs) > 0 && signoff == "" {
				signoff = p.Coach.Signoffs[0]
			}
		}
	}
	require.Len(t, coaches, 3)
	require.NotEmpty(t, signoff)
	station := func(id, coach, sign string, after ...string) academy.NamedStation {
		return academy.NamedStation{Name: "Task " + id, Station: rotation.Station{ID: id, Minutes: 5, Coach: coach, Signoff: sign, After: after, Must: true}}
	}
	wanted := academy.Stations{Minutes: 45, Change: 1, Groups: 4, By: "mixed", Coaches: coaches, Stations: []academy.NamedStation{station("s1", "none", ""), station("s2", "any", ""), station("s3", "any", signoff, "s2"), station("s4", "any", ""), station("s5", "none", "")}}
	_, err = a.Classes.PlanStations(ctx, head, tonight, wanted)
	require.NoError(t, err)
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	placed := 0
	for _, g := range page.Stations.Rows {
		placed += len(g.People)
		assert.Len(t, g.Visits, 5)
		for _, p := range g.People {
			assert.NotContains(t, here[:2], p.ID, "held")
		}
	}
	assert.Equal(t, 21, placed)
	assert.False(t, page.Stations.Stale)
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, here[23], "", ""))
	page, err = a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.True(t, page.Stations.Stale, "one came late")
	wanted.Minutes = 20
	_, err = a.Classes.PlanStations(ctx, head, tonight, wanted)
	assert.ErrorContains(t, err, "these cannot all be: 20 minutes for 4 groups")
	change, err := a.Classes.ClearStations(ctx, head, tonight)
	require.NoError(t, err)
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
}

// A guest trains along: here, paired, and in nothing of the ledger, the plans or the roster; sent twice they are one.
func TestGuestsTrainAlong(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	desk := testkit.Users[state.Desk]
	g := classes.Guest{ID: "guest-of-tonight", Name: "Kaja Lind", Kind: "trial", Weight: 63}
	for range 2 {
		_, err := a.Classes.AddGuest(ctx, desk, tonight, g)
		require.NoError(t, err)
	}
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	require.Len(t, page.Here, 1)
	assert.Equal(t, "trial", page.Here[0].Guest)
	other := g
	other.Name = "Somebody else"
	_, err = a.Classes.AddGuest(ctx, desk, tonight, other)
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict)
	_, err = a.Classes.AddGuest(ctx, desk, "fund-late.2026-11-26", classes.Guest{ID: "guest-of-thursday", Name: "Too Soon", Kind: "visitor"})
	assert.ErrorContains(t, err, "has not begun")

	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", ""))
	require.NoError(t, a.Classes.Pair(ctx, head, tonight, classes.MakeRotation{Odd: "larger", Mix: "any"}))
	positions, err := a.Students.Positions(ctx, head, students.PositionsFilter{})
	require.NoError(t, err)
	assert.Len(t, positions.Rows, 30, "no student more")
	roster, err := a.People.Roster(ctx, head)
	require.NoError(t, err)
	assert.NotContains(t, string(roster), "Kaja Lind", "the roster would make a coach of them")
	_, err = a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: page.Here[0].ID, Technique: "hip-escape", Side: library.Right, Observation: seen(a, t, "hip-escape", ledger.Shown)})
	assert.Error(t, err, "nothing of the ledger is theirs")
	noDifference(t, a)
}

// Late and early count a half less, and can be said afterwards; who left early is paired no more.
func TestLateAndEarly(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	_, err := a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	r := classes.SessionReport{}
	for _, x := range page.Techniques {
		r.Items = append(r.Items, ledger.Item{Technique: x.ID, Kind: x.Kind, Reached: "all"})
	}
	exposures := func(student string) float64 {
		s, err := a.Students.StudentPage(ctx, head, student)
		require.NoError(t, err)
		sum := 0.0
		for _, l := range s.Standing {
			sum += l.Exposures
		}
		return sum
	}
	before := exposures("oren-vask")
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "tap-1"))
	require.NoError(t, a.Classes.Report(ctx, head, tonight, r))
	whole := exposures("oren-vask") - before
	require.Positive(t, whole)
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", academy.CameLate, "tap-2"))
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", academy.CameLate, "tap-2"), "sent again")
	assert.InDelta(t, whole/2, exposures("oren-vask")-before, 1e-9)
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", academy.LeftEarly, ""))
	page, err = a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	assert.Equal(t, "left early", page.Here[0].Out.String())
	require.NoError(t, a.Classes.CheckOut(ctx, head, tonight, "oren-vask", ""))
	assert.InDelta(t, before, exposures("oren-vask"), 1e-9)
	noDifference(t, a)
}

// An incident is read by the head instructor and its writer; a coach keeps somebody out, and lets nobody back in.
func TestAnIncidentIsPrivateAndAHoldIsNotLoosened(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	x := classes.Incident{ID: "incident-1", Student: "oren-vask", Text: "Turned an ankle in the second round."}
	session := "nogi-early.2026-11-23"
	for range 2 {
		_, err := a.Classes.NoteIncident(ctx, coach, session, x)
		require.NoError(t, err)
	}
	notes := func(u state.User) int {
		p, err := a.People.Person(ctx, u, "oren-vask")
		require.NoError(t, err)
		n := 0
		for _, note := range p.Notes {
			if note.Text == x.Text {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 1, notes(head), "once")
	assert.Equal(t, 1, notes(coach), "who wrote it")
	assert.Zero(t, notes(testkit.Users[state.Assistant]))
	require.NoError(t, a.People.Hold(ctx, coach, "oren-vask", people.NewHold{ID: "hold-oren-1", All: true}))
	err := a.People.Hold(ctx, coach, "oren-vask", people.NewHold{ID: "hold-oren-2", NoLive: true, Replaces: "hold-oren-1"})
	var forbidden *state.ForbiddenError
	assert.ErrorAs(t, err, &forbidden)
	page, err := a.Students.StudentPage(ctx, head, "oren-vask")
	require.NoError(t, err)
	assert.Equal(t, "all partner drills", page.Person.Held.String())
}

// Who could be checked tonight, with reasons; those who are held are not, and the answer fits the minutes.
func TestChecksOfTonight(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	for _, id := range []string{"oren-vask", "pilar-dunmore", "tam-ellery", "gil-abernath", "matti-soren", "wilma-etherton"} {
		require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, id, "", ""))
	}
	page, err := a.Classes.Checks(ctx, head, tonight, 10, nil)
	require.NoError(t, err)
	require.NotEmpty(t, page.Suggested)
	assert.True(t, page.Proven)
	end := 0.0
	for _, c := range page.Suggested {
		assert.NotEqual(t, "wilma-etherton", c.Student, "held")
		assert.NotEmpty(t, c.Why)
		assert.GreaterOrEqual(t, c.Start, end-1e-9, "one after the other")
		end = c.Start + 1.5*float64(len(c.Sides))
		assert.True(t, slices.ContainsFunc(page.Forms, func(f classes.CheckForm) bool { return f.ID == c.Technique }), "the form is there")
	}
	assert.LessOrEqual(t, end, 10.0)
	for _, f := range page.Forms {
		for _, p := range f.Points {
			assert.Len(t, p.Cues, len(f.Sides), f.ID)
		}
	}
	short, err := a.Classes.Checks(ctx, head, tonight, 3, nil)
	require.NoError(t, err)
	assert.LessOrEqual(t, short.Value, page.Value)
}
