package app_test

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/season"
	"vereda/exchange"
	"vereda/internal/testkit"
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
