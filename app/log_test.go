package app_test

import (
	"context"
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	applibrary "vereda/app/library"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/documents"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/internal/testkit"
)

// version is the one a record is at.
func version(t *testing.T, a *app.App, kind, id string) int {
	t.Helper()
	s, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	return s.Version(kind, id)
}

// second is another server on the same database, its clock off by so much.
func second(t *testing.T, a *app.App, off time.Duration) *app.App {
	b := app.New(a.State.Store, func() time.Time { return now.Add(off) }, time.UTC, testkit.Files(t))
	b.Seasons.Patience, b.Seasons.Stopwatch = 0.05, testkit.StepsAlone
	return b
}

// observed is a check of hip escapes in which every key point was seen, or none.
func observed(t *testing.T, a *app.App, seen ledger.Seen) students.KeepCheck {
	page, err := a.Students.CheckPage(t.Context(), head, "oren-vask", "knee-cut", "right")
	require.NoError(t, err)
	k := students.KeepCheck{Student: "oren-vask", Technique: "knee-cut", Side: "right", Observation: ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: 2}}
	for _, p := range page.Technique.KeyPoints {
		k.Observation.Points[p.ID] = seen
	}
	return k
}

func standing(t *testing.T, a *app.App) ledger.Standing {
	s, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	x, _ := s.Standing("oren-vask", "knee-cut", "right")
	return x
}

// Forty people at the door at once, on two servers, half of them tapping twice: all are in, once.
func TestAFullHallChecksIn(t *testing.T) {
	a := open(t)
	b := second(t, a, 0)
	page, err := a.Classes.Session(t.Context(), head, tonight)
	require.NoError(t, err)
	var wg sync.WaitGroup
	for i, p := range page.Others {
		for n, server := range []*app.App{a, b} {
			if n == 1 && i%2 == 0 {
				continue
			}
			wg.Go(func() {
				assert.NoError(t, server.Classes.CheckIn(context.Background(), head, tonight, p.ID, "", fmt.Sprint("tap-", i)), p.Name)
			})
		}
	}
	wg.Wait()
	for _, server := range []*app.App{a, b} {
		after, err := server.Classes.Session(t.Context(), head, tonight)
		require.NoError(t, err)
		assert.Len(t, after.Here, len(page.Here)+len(page.Others))
		noDifference(t, server)
	}
}

func TestACheckSentTwiceCountsOnce(t *testing.T) {
	a := open(t)
	b := second(t, a, 0)
	k := observed(t, a, ledger.Shown)
	k.ID = "phone-7"
	before := standing(t, a).Checks
	first, err := a.Students.KeepCheck(t.Context(), coach, k)
	require.NoError(t, err)
	for _, server := range []*app.App{a, b} {
		again, err := server.Students.KeepCheck(t.Context(), coach, k)
		require.NoError(t, err)
		assert.Equal(t, first, again, "the same answer")
		assert.Equal(t, before+1, standing(t, server).Checks)
		noDifference(t, server)
	}
	for name, change := range map[string]func(*students.KeepCheck){
		"another student": func(k *students.KeepCheck) { k.Student = "agathe-linden" },
		"another side":    func(k *students.KeepCheck) { k.Side = "left" },
		"other content":   func(k *students.KeepCheck) { k.Observation.CautionBroken = true },
		"another class":   func(k *students.KeepCheck) { k.Class = tonight },
	} {
		other := k
		change(&other)
		var conflict *state.ConflictError
		_, err := a.Students.KeepCheck(t.Context(), coach, other)
		require.ErrorAs(t, err, &conflict, name)
		assert.Contains(t, err.Error(), "has the identifier of another record")
	}
	assert.Equal(t, before+1, standing(t, a).Checks, "nothing of that was kept")
}

// A pass, and then a fail from a server whose clock is two seconds behind: the order
// is that of the log, on every server and after a rebuild.
func TestOrderIsTheLogsAndNoClocks(t *testing.T) {
	a := open(t)
	late := second(t, a, -2*time.Second)
	_, err := a.Students.KeepCheck(t.Context(), coach, observed(t, a, ledger.Shown))
	require.NoError(t, err)
	passed := standing(t, a)
	require.Equal(t, ledger.DefaultStanding.FirstHalfLife, passed.HalfLife)
	_, err = late.Students.KeepCheck(t.Context(), coach, observed(t, a, ledger.Missing))
	require.NoError(t, err)
	for _, server := range []*app.App{a, late, second(t, a, 0)} {
		assert.Equal(t, ledger.DefaultStanding.LeastHalfLife, standing(t, server).HalfLife, "passed first, failed then")
		noDifference(t, server)
	}
}

func TestACheckInThatWasTakenBackIsNotMadeAgainByAnOldTap(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	here := func() bool {
		p, err := a.Classes.Session(ctx, head, tonight)
		require.NoError(t, err)
		return slices.ContainsFunc(p.Here, func(x classes.Attendee) bool { return x.ID == "oren-vask" })
	}
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "tap"))
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "tap"), "sent again")
	require.NoError(t, a.Classes.CheckOut(ctx, head, tonight, "oren-vask", ""))
	assert.False(t, here())
	var conflict *state.ConflictError
	err := a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "tap")
	require.ErrorAs(t, err, &conflict)
	assert.Contains(t, err.Error(), "taken back since")
	assert.False(t, here())
	require.ErrorAs(t, a.Classes.CheckIn(ctx, head, tonight, "agathe-linden", "", "tap"), &conflict, "an identifier stands for one person")
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", "tap-2"))
	assert.True(t, here())
	var missing *state.NotFoundError
	require.NoError(t, a.Classes.CheckOut(ctx, head, tonight, "oren-vask", ""))
	require.ErrorAs(t, a.Classes.CheckOut(ctx, head, tonight, "oren-vask", ""), &missing)
}

// A check-in does not make the library be read again, nor anybody's standing but
// one's own be computed.
func TestACheckInCostsWhatIsNew(t *testing.T) {
	a := open(t)
	before, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	kept := before.Standings("agathe-linden")
	require.NotEmpty(t, kept)
	require.NoError(t, a.Classes.CheckIn(t.Context(), head, tonight, "oren-vask", "", ""))
	after, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	assert.Same(t, before.Set, after.Set, "records are those they were")
	assert.Equal(t, before.Revision, after.Revision)
	assert.Same(t, &kept[0], &after.Standings("agathe-linden")[0], "not computed anew")
	assert.NotContains(t, before.Session("fund-early", calendar.DayOf(now)).Here(), "oren-vask")
}

// What one server writes, another one shows at once; each holds its own projections.
func TestTwoServersShowTheSame(t *testing.T) {
	a := open(t)
	b := second(t, a, 0)
	_, err := b.People.People(t.Context(), head)
	require.NoError(t, err)
	require.NoError(t, a.Classes.CheckIn(t.Context(), head, tonight, "oren-vask", "", ""))
	require.NoError(t, a.Classes.Report(t.Context(), head, tonight, classes.SessionReport{Items: []ledger.Item{{Technique: "knee-cut", Kind: "teach", Reached: "all"}}, Note: "Left side not done"}))
	p, err := b.Classes.Session(t.Context(), head, tonight)
	require.NoError(t, err)
	require.NotNil(t, p.Recorded)
	assert.Equal(t, "Left side not done", p.Recorded.Note)
	assert.Positive(t, standing(t, b).Exposures)
	noDifference(t, b)
}

// Standings follow from the library as it is now: one that was brought in with
// a bundle counts beside the one that was there.
func TestAnImportUnderstandsTheLogWithTheWholeLibrary(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	own := library.Technique{Name: "Cellar stairs", Kind: "movement", Context: "both", Summary: "Down the stairs.", SecondsPerRep: 5, TeachMinutes: 5,
		KeyPoints: []library.KeyPoint{{ID: "k1", Cue: "Look down"}}}
	id, _, err := a.Library.AddTechnique(ctx, head, own)
	require.NoError(t, err)
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", ""))
	require.NoError(t, a.Classes.Report(ctx, head, tonight, classes.SessionReport{Items: []ledger.Item{{Technique: id, Kind: "teach", Reached: "all"}}}))
	s, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	had, ok := s.Standing("oren-vask", id, "")
	require.True(t, ok)
	testkit.LoadDemo(t, a, calendar.DayOf(now)) // its library does not know the stairs
	s, err = a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	has, ok := s.Standing("oren-vask", id, "")
	require.True(t, ok)
	assert.Equal(t, had, has)
	noDifference(t, a)
}

// Of two corrections of one event in a bundle neither is dropped in silence.
func TestABundleWithTwoCorrectionsOfOneEventIsRefused(t *testing.T) {
	a := open(t)
	b, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	i := slices.IndexFunc(b.Events, func(e academy.Event) bool { return e.Kind == academy.CheckEvent && e.Replaces == "" })
	for n := range 2 {
		e := b.Events[i]
		e.ID, e.Replaces = fmt.Sprint("correction-", n), b.Events[i].ID
		b.Events = append(b.Events, e)
	}
	_, err = a.Academies.Import(t.Context(), b)
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Contains(t, err.Error(), "was corrected before")
	after, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	assert.Len(t, after.Events, len(b.Events)-2, "all or nothing")
}

// A class that was moved to another weekday keeps the sessions it had, in the week, on its page, and
// in the ledger.
func TestAMovedClassKeepsItsPast(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	last := academy.Occurrence("fund-early", calendar.DayOf(now)-7)
	before, err := a.Classes.Session(ctx, head, last)
	require.NoError(t, err)
	require.NotNil(t, before.Recorded)
	table, err := a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	c := table.Classes[slices.IndexFunc(table.Classes, func(c seasons.ClassLine) bool { return c.ID == "fund-early" })]
	c.Weekday = c.Weekday%7 + 1
	_, _, err = a.Seasons.SaveClass(ctx, head, c.Class, c.Version, "")
	require.NoError(t, err)
	after, err := a.Classes.Session(ctx, head, last)
	require.NoError(t, err)
	assert.Equal(t, before.Recorded, after.Recorded)
	assert.Equal(t, before.Here, after.Here)
	week, err := a.Classes.Week(ctx, head, new(calendar.DayOf(now)-7), false)
	require.NoError(t, err)
	found := 0
	for _, d := range week {
		for _, x := range d.Classes {
			if x.Session == last {
				found++
				assert.Equal(t, "recorded", x.State)
			}
		}
	}
	assert.Equal(t, 1, found)
	var missing *state.NotFoundError
	_, err = a.Classes.Session(ctx, head, tonight)
	assert.ErrorAs(t, err, &missing, "it is not tonight any more, and nothing happened tonight")
	_, _, err = a.Seasons.SaveClass(ctx, head, c.Class, c.Version, "")
	var conflict *state.ConflictError
	assert.ErrorAs(t, err, &conflict, "saved on a version that is over")
}

// The note shown is the newest one, the same at every reading.
func TestTheLastNoteIsTheNewest(t *testing.T) {
	a := open(t)
	for range 20 {
		p, err := a.Classes.Session(t.Context(), head, tonight)
		require.NoError(t, err)
		again, err := a.Classes.Session(t.Context(), head, tonight)
		require.NoError(t, err)
		require.Equal(t, p.LastNote, again.LastNote)
		require.Equal(t, p.LastNoteBy, again.LastNoteBy)
	}
	nobody, err := a.Classes.Session(t.Context(), head, academy.Occurrence("fund-early", calendar.DayOf(now)+7))
	require.NoError(t, err)
	assert.Empty(t, nobody.Here)
	assert.Zero(t, nobody.Rotation.Fresh)
}

// P stands on Q; P is changed, deleted, and Q too: taking the deletion of P back alone
// would leave it standing on nothing.
func TestUndoLeavesNothingHanging(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	add := func(name string, on ...library.Prerequisite) string {
		id, _, err := a.Library.AddTechnique(ctx, head, library.Technique{Name: name, Kind: "movement", Context: "both", Summary: "Slow.", SecondsPerRep: 5, TeachMinutes: 5, KeyPoints: []library.KeyPoint{{ID: "k1", Cue: "Breathe"}}, Prerequisites: on})
		require.NoError(t, err)
		return id
	}
	q := add("Quiet step")
	p := add("Plain roll", library.Prerequisite{Technique: q, Reason: "It is the same weight."})
	page, err := a.Library.Technique(ctx, head, p, "")
	require.NoError(t, err)
	page.Written.Prerequisites = nil
	changed, err := a.Library.SaveTechnique(ctx, head, page.Written, page.Version)
	require.NoError(t, err)
	deleted, err := a.Library.DeleteRecord(ctx, head, applibrary.TechniqueRecord, q)
	require.NoError(t, err)
	_, err = a.State.Undo(ctx, head, changed)
	require.Error(t, err)
	assert.Contains(t, err.Error(), `speaks of the technique "quiet-step", which is not there any more. Bring that back first`)
	_, err = a.State.Undo(ctx, head, deleted)
	require.NoError(t, err)
	_, err = a.State.Undo(ctx, head, changed)
	require.NoError(t, err)
	_, err = a.Library.DeleteRecord(ctx, head, applibrary.TechniqueRecord, q)
	assert.Error(t, err, "it is spoken of again")
}

// A record that was deleted and made again is at a version no form still carries.
func TestAStaleFormDoesNotOverwriteWhatWasMadeAgain(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	p := library.Position{Name: "Ledge pin", Family: "pins", Attacker: "Above.", Defender: "Below."}
	id, _, err := a.Library.SavePosition(ctx, head, p, 0)
	require.NoError(t, err)
	stale := version(t, a, documents.Position, id)
	_, err = a.Library.DeleteRecord(ctx, head, applibrary.PositionRecord, id)
	require.NoError(t, err)
	_, _, err = a.Library.SavePosition(ctx, head, p, 0)
	require.NoError(t, err)
	p.ID, p.Attacker = id, "On top."
	_, _, err = a.Library.SavePosition(ctx, head, p, stale)
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict)
}

func TestANameInAnyScriptGetsAnIdentifier(t *testing.T) {
	a := open(t)
	seen := map[string]bool{}
	for _, name := range []string{"大外刈", "Бросок через спину", "Ōsoto hook", "袈裟固"} {
		id, _, err := a.Library.AddTechnique(t.Context(), head, library.Technique{Name: name, Kind: "movement", Context: "both", Summary: "Slow.", SecondsPerRep: 5, TeachMinutes: 5, KeyPoints: []library.KeyPoint{{ID: "k1", Cue: "Breathe"}}})
		require.NoError(t, err, name)
		assert.NotEmpty(t, id)
		assert.False(t, seen[id])
		seen[id] = true
		found, err := a.Library.Techniques(t.Context(), head, name)
		require.NoError(t, err)
		require.NotEmpty(t, found)
		assert.Equal(t, name, found[0].Name)
	}
	id, _, err := a.Seasons.SaveTrack(t.Context(), head, academy.Track{Name: "子供", Audience: "youth", Mode: "same", School: "free"}, 0)
	require.NoError(t, err)
	assert.NotEmpty(t, id)
}

// Nobody without a date of birth passes a gate of age.
func TestAnUnknownAgePassesNoGate(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	b, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	i := slices.IndexFunc(b.People, func(p academy.Person) bool { return p.ID == "oren-vask" })
	b.People[i].Birth = nil
	_, err = a.Academies.Import(ctx, b)
	require.NoError(t, err)
	page, err := a.Students.CheckPage(ctx, head, "oren-vask", "ankle-lock", "right")
	require.NoError(t, err)
	assert.True(t, page.Student.Minor, "treated as a minor")
	require.NotEmpty(t, page.Refused)
	assert.Contains(t, page.Refused[0].Why.String(), "from age 16")
}

// An academy with a zone of its own has its own today.
func TestEachAcademyHasItsOwnToday(t *testing.T) {
	s := testkit.New(t)
	late := time.Date(2026, 11, 24, 23, 30, 0, 0, time.UTC)
	a := app.New(s, func() time.Time { return late }, time.UTC, testkit.Files(t))
	testkit.LoadDemo(t, a, calendar.DayOf(late))
	b, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	b.Settings.Zone = "Pacific/Auckland"
	_, err = a.Academies.Import(t.Context(), b)
	require.NoError(t, err)
	x, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	assert.Equal(t, calendar.MustDay("2026-11-25"), x.Today())
	assert.Equal(t, "Pacific/Auckland", x.Zone.String())
}

// A rebuild that finds nothing would also find nothing where something is: what a hand changes
// in the log under a server is reported.
func TestARebuildSeesWhatIsDifferent(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	noDifference(t, a)
	_, err := a.State.Store.DB.Exec(`UPDATE attendance SET present = 1 - present WHERE academy = ? ORDER BY seq LIMIT 1`, head.Academy)
	require.NoError(t, err)
	r, err := a.Academies.Rebuild(ctx, head.Academy)
	require.NoError(t, err)
	assert.NotEmpty(t, r.Different)
	_, err = a.State.Store.DB.Exec(`UPDATE attendance SET present = 1 - present WHERE academy = ? ORDER BY seq LIMIT 1`, head.Academy)
	require.NoError(t, err)
	noDifference(t, a)
	_, err = a.State.Store.DB.Exec(`DELETE FROM attendance WHERE academy = ? ORDER BY seq LIMIT 1`, head.Academy)
	require.NoError(t, err)
	_, err = a.State.Store.DB.Exec(`DELETE FROM event WHERE academy = ? AND seq = 1`, head.Academy)
	require.NoError(t, err)
	r, err = a.Academies.Rebuild(ctx, head.Academy)
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(r.Different), "the log holds")
}
