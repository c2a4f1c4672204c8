package app_test

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/documents"
	"vereda/app/people"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/exchange"
	"vereda/internal/testkit"
	"vereda/store"
)

// Whoever writes a record, it is judged where it is written: a choice of thousands of units once took all memory.
func TestEveryRecordIsJudgedWhereItIsWritten(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	var many []season.Item
	for range 5000 {
		many = append(many, season.Item{Unit: "u-half-guard", Kind: "teach"})
	}
	_, err := a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: many})
	assert.ErrorContains(t, err, "items: holds 5000 lines")
	_, err = a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: many[:2]})
	assert.ErrorContains(t, err, "once is enough")
	// Past every use case, straight into the ground.
	for kind, value := range map[string]any{
		documents.Session: academy.ClassSession{ID: tonight, Items: many},
		documents.Person:  academy.Person{ID: "somebody", Name: strings.Repeat("x", 500)},
		documents.Unit:    academy.Unit{ID: "u-none"},
		documents.Track:   academy.Track{ID: "none"},
	} {
		_, err := a.State.Change(t.Context(), head, func(_ *state.Snapshot, c *state.Change) error {
			c.Summary = "Wrote what cannot be"
			return c.Put(kind, "somebody", value)
		})
		var refused *state.ValidationError
		assert.ErrorAs(t, err, &refused, kind)
	}
	// What was chosen well is fitted in no time, however much it is.
	f, err := a.State.Read(t.Context(), head.Academy)
	require.NoError(t, err)
	c, _, err := f.FindSession(tonight)
	require.NoError(t, err)
	var some []season.Item
	for _, u := range f.Units {
		if len(some) < academy.MostInClass && slices.Contains(u.Tracks, c.Track) {
			some = append(some, season.Item{Unit: u.ID, Kind: "teach"})
		}
	}
	_, err = a.Classes.Choose(t.Context(), head, tonight, classes.SessionChoice{Items: some})
	require.NoError(t, err)
	began := time.Now()
	_, err = a.Classes.Clock(t.Context(), head, tonight)
	require.NoError(t, err)
	assert.Less(t, time.Since(began), 2*time.Second, "%d units", len(some))
}

// A roster of thousands of lines is read in moments, and one that no hall writes is refused before anything is compared.
func TestARosterHangsNobody(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	var b strings.Builder
	b.WriteString("name,belt\n")
	for i := range 3000 {
		fmt.Fprintf(&b, "Person%d Surname%d,white\n", i, i*7919%3000)
	}
	began := time.Now()
	p, err := a.People.PreviewRoster(t.Context(), head, exchange.TextFile{Name: "r.csv", Text: []byte(b.String())}, nil)
	require.NoError(t, err)
	assert.Len(t, p.Rows, 3000)
	t.Logf("3,000 lines: %v", time.Since(began))
	assert.Less(t, time.Since(began), 5*time.Second)
	for text, says := range map[string]string{
		"name\n" + strings.Repeat("x", 1<<20) + "\n":    "column 1 holds 1048576 characters",
		"name" + strings.Repeat(",y", 500) + "\nAda\n":  "it has 501 columns",
		"name\n" + strings.Repeat("Ada Lorne\n", 6000):  "it holds 6000 lines",
		"name\n" + strings.Repeat("Ada Lorne\n", 21000): "more than 20000 lines",
	} {
		_, err := a.People.PreviewRoster(t.Context(), head, exchange.TextFile{Name: "r.csv", Text: []byte(text)}, nil)
		assert.ErrorContains(t, err, says)
	}
}

// A list is taken whole or not at all, however long it is; and what was taken back since comes in anew.
func TestALongListIsTakenWhole(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	var b strings.Builder
	b.WriteString("student,date,class\n")
	lines, last := 0, ""
	for _, c := range f.Classes {
		on := f.Today() - 140
		for on.Weekday() != c.Weekday {
			on--
		}
		for week := range calendar.Day(45) {
			for _, p := range f.Students() {
				fmt.Fprintf(&b, "%s,%s,%s\n", p.ID, on-7*week, c.ID)
				lines++
				last = "past " + p.ID + " " + academy.Occurrence(c.ID, on-7*week)
			}
		}
	}
	require.Greater(t, lines, 5000)
	list := exchange.TextFile{Name: "l.csv", Text: []byte(b.String())}
	// The identifier of the last line stands for something else already: nothing of the list may stay.
	sum := sha256.Sum256([]byte(last))
	other, err := academy.NewEvent("past-"+hex.EncodeToString(sum[:12]), academy.AttendanceEvent, f.Today()-7, academy.Attendance{Present: true})
	require.NoError(t, err)
	other.Student, other.Class = "oren-vask", academy.Occurrence("fund-early", f.Today()-7)
	require.NoError(t, a.State.Record(ctx, head, other))
	f, err = a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	before := f.Events
	_, err = a.People.TakeAttendance(ctx, head, list)
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict)
	f, err = a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	assert.Equal(t, before, f.Events, "all of it or nothing")

	// A line that was taken in, taken back, and is taken in again.
	day := f.Today() - 700
	for day.Weekday() != 2 {
		day--
	}
	one := exchange.TextFile{Name: "l.csv", Text: fmt.Appendf(nil, "student,date,class\noren-vask,%s,fund-early\n", day)}
	for range 3 {
		n, err := a.People.TakeAttendance(ctx, head, one)
		require.NoError(t, err)
		assert.Equal(t, 1, n)
		f, err = a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		_, came := f.Session("fund-early", day).Came("oren-vask")
		assert.True(t, came, "said to be written, and written")
		require.NoError(t, a.Classes.CheckOut(ctx, head, academy.Occurrence("fund-early", day), "oren-vask", ""))
	}
}

// A check that was done without network belongs to its class's day, whenever it arrives: that day's holds judge it, and what is known fades from it.
func TestALateCheckBelongsToItsClass(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	today := calendar.DayOf(now)
	class := academy.Occurrence("fund-early", today-7)
	_, err := a.Students.KeepCheck(ctx, head, students.KeepCheck{ID: "late", Student: "oren-vask", Technique: "knee-cut", Side: "left", Class: class, Observation: seen(a, t, "knee-cut", ledger.Shown)})
	require.NoError(t, err)
	e, err := a.State.Store.EventByID(ctx, head.Academy, "late")
	require.NoError(t, err)
	assert.Equal(t, today-7, e.Day)
	// Held since: it was not then.
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{ID: "hold", All: true, Regions: []safety.Region{"knee"}}))
	_, err = a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "oren-vask", Technique: "knee-cut", Side: "right", Class: class, Observation: seen(a, t, "knee-cut", ledger.Shown)})
	require.NoError(t, err)
	_, err = a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "oren-vask", Technique: "knee-cut", Side: "left", Observation: seen(a, t, "knee-cut", ledger.Shown)})
	assert.ErrorContains(t, err, "may not be checked")
	_, err = a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "pilar-dunmore", Technique: "knee-cut", Side: "left", Class: academy.Occurrence("fund-early", today+7), Observation: seen(a, t, "knee-cut", ledger.Shown)})
	assert.ErrorContains(t, err, "still to come")

	// A hold takes the place of a hold of theirs, and of nothing else.
	for _, other := range []string{"late", "no-such-event"} {
		err = a.People.Hold(ctx, head, "oren-vask", people.NewHold{Replaces: other, Regions: []safety.Region{"neck"}})
		var missing *state.NotFoundError
		assert.ErrorAs(t, err, &missing, other)
	}
	assert.Error(t, a.People.Hold(ctx, head, "pilar-dunmore", people.NewHold{Replaces: "hold", Regions: []safety.Region{"neck"}}), "somebody else's")
	wrong, err := academy.NewEvent("x", academy.HoldEvent, today, safety.Hold{Regions: []safety.Region{"neck"}})
	require.NoError(t, err)
	wrong.Student, wrong.Replaces = "oren-vask", "late"
	assert.Error(t, a.State.Record(ctx, head, wrong), "nor past the use case")
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{ID: "hold-2", Replaces: "hold", Regions: []safety.Region{"neck"}, Note: "zwisted"}))

	// What the head instructor alone reads is not in what they or their guardian get.
	own, err := a.People.Data(ctx, testkit.Users[state.Student], "oren-vask")
	require.NoError(t, err)
	text, err := json.Marshal(own)
	require.NoError(t, err)
	assert.NotContains(t, string(text), "zwisted")
	all, err := a.People.Data(ctx, head, "oren-vask")
	require.NoError(t, err)
	text, err = json.Marshal(all)
	require.NoError(t, err)
	assert.Contains(t, string(text), "zwisted")
}

// A planning that was overtaken while it ran keeps nothing.
func TestAnOvertakenPlanningKeepsNothing(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	s := a.State.Store
	require.NoError(t, s.BeginPlanning(ctx, head.Academy, "autumn", store.Planning{Run: "one", State: "running"}))
	require.NoError(t, s.BeginPlanning(ctx, head.Academy, "autumn", store.Planning{Run: "two", State: "running"}))
	before, err := s.Head(ctx, head.Academy)
	require.NoError(t, err)
	_, err = a.State.Change(ctx, head, func(f *state.Snapshot, c *state.Change) error {
		c.Summary, c.Also = "Planned", func(act *store.Act) error { return act.StillPlanning("autumn", "one") }
		return c.Put(documents.Unit, f.Units[0].ID, f.Units[0])
	})
	assert.ErrorIs(t, err, store.ErrOvertaken)
	after, err := s.Head(ctx, head.Academy)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	assert.NoError(t, s.Act(ctx, head.Academy, func(act *store.Act) error { return act.StillPlanning("autumn", "two") }))
}

// Who left does not train here any more; and two records of one person who were both in a class keep the whole of it.
func TestWhoIsCheckedIn(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	_, err := a.People.Archive(ctx, head, []string{"oren-vask"}, true)
	require.NoError(t, err)
	assert.ErrorContains(t, a.Classes.CheckIn(ctx, head, tonight, "oren-vask", "", ""), "bring them back first")
	_, err = a.People.Archive(ctx, head, []string{"oren-vask"}, false)
	require.NoError(t, err)

	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	var keep, drop string
	for _, p := range f.Students() {
		if p.Coach == nil && p.ID != "oren-vask" && p.Joined <= f.Today() {
			keep, drop = p.ID, keep
		}
	}
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, keep, "", ""))
	require.NoError(t, a.Classes.CheckIn(ctx, head, tonight, drop, academy.CameLate, ""))
	_, err = a.People.Merge(ctx, head, keep, drop)
	require.NoError(t, err)
	f, err = a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	// A child in an adults' class is let in, and whoever looks is told.
	table, err := a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	for _, track := range table.Tracks {
		if track.ID == "fundamentals" {
			track.MinAge = 90
			_, _, err = a.Seasons.SaveTrack(ctx, head, track.Track, track.Version)
			require.NoError(t, err)
		}
	}
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	for _, p := range slices.Concat(page.Here, page.Others) {
		if p.ID == keep || p.ID == "oren-vask" {
			assert.Contains(t, p.Outside.String(), "these classes are for 90 and over", p.Name)
		}
	}
	here, came := f.Session("fund-early", f.Today()).Came(keep)
	require.True(t, came)
	assert.Empty(t, here.Part, "all of it, as one of the two says")
	held, anew, _, err := a.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, held.Differences(anew))
}

// A class that began before midnight runs on after it; fifteen minutes after its beginning is not late, sixteen are.
func TestTheDoorAtTheEdges(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	_, err := a.State.Change(ctx, head, func(f *state.Snapshot, c *state.Change) error {
		k, _ := f.Class("fund-early")
		k.Start, k.Minutes, k.TeachMinutes = "23:30", 60, min(k.TeachMinutes, 60)
		c.Summary = "Moved it into the night"
		return c.Put(documents.Class, k.ID, k)
	})
	require.NoError(t, err)
	door, err := a.Classes.AddDoor(ctx, head, "front")
	require.NoError(t, err)
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	var people []string
	for _, p := range f.Students() {
		if p.Joined <= f.Today() {
			people = append(people, p.ID)
		}
	}
	begin := time.Date(2026, 11, 24, 23, 30, 0, 0, time.UTC)
	for i, c := range []struct {
		after   time.Duration
		summary string
		part    string
	}{
		{-46 * time.Minute, "no class now", ""}, {-45 * time.Minute, "here", ""}, {15 * time.Minute, "here", ""}, {16 * time.Minute, "here", academy.CameLate},
		{50 * time.Minute, "here", academy.CameLate}, {59 * time.Minute, "here", academy.CameLate}, {60 * time.Minute, "no class now", ""},
	} {
		*at = begin.Add(c.after)
		got, err := a.Classes.Tap(ctx, door.Key, people[i])
		require.NoError(t, err)
		assert.Equal(t, c.summary, got.Summary, "%v after", c.after)
		f, err := a.State.Read(ctx, head.Academy)
		require.NoError(t, err)
		here, came := f.Session("fund-early", calendar.DayOf(begin)).Came(people[i])
		assert.Equal(t, c.summary == "here", came, "%v after", c.after)
		assert.Equal(t, c.part, here.Part, "%v after", c.after)
	}
}
