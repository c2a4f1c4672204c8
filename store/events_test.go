package store_test

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/store"
)

var tuesday = calendar.MustDay("2026-11-24")

func attendance(id, student string, present bool) store.Event {
	return store.Event{ID: id, Kind: academy.AttendanceEvent, Day: tuesday, Student: student, Class: academy.Occurrence("fund", tuesday), Body: raw(fmt.Sprintf(`{"present":%v}`, present)), RecordedAt: at, RecordedBy: "ines"}
}

func body(t *testing.T, x any) json.RawMessage {
	text, err := json.Marshal(x)
	require.NoError(t, err)
	return text
}

func log(t *testing.T, s *store.Store, id string) []store.Event {
	var all []store.Event
	require.NoError(t, s.Events(t.Context(), id, func(e store.Event) error {
		all = append(all, e)
		return nil
	}))
	return all
}

// Forty people at the door at once, half of their taps sent twice: nobody is refused,
// each is kept once, and the sequence has no gap.
func TestAFullHallIsRefusedNobody(t *testing.T) {
	s := twoAcademies(t)
	var wg sync.WaitGroup
	for i := range 40 {
		for range 1 + i%2 {
			wg.Go(func() {
				assert.NoError(t, s.Append(context.Background(), "hall", attendance(fmt.Sprint("tap-", i), fmt.Sprint("student-", i), true)))
			})
		}
	}
	wg.Wait()
	all := log(t, s, "hall")
	require.Len(t, all, 40)
	for i, e := range all {
		assert.Equal(t, int64(i+1), e.Seq)
	}
	head, err := s.Head(t.Context(), "hall")
	require.NoError(t, err)
	assert.Equal(t, store.Head{Revision: 0, Last: 40}, head, "records are as they were")
}

// Two servers append to one log: both have their own queue, neither loses anything.
func TestTwoServersAppend(t *testing.T) {
	s := twoAcademies(t)
	other := store.New(s.DB)
	var wg sync.WaitGroup
	for i, server := range []*store.Store{s, other} {
		for n := range 60 {
			wg.Go(func() {
				assert.NoError(t, server.Append(context.Background(), "hall", attendance(fmt.Sprint(i, ".", n), fmt.Sprint("student-", i, n), true)))
			})
		}
	}
	wg.Wait()
	all := log(t, s, "hall")
	require.Len(t, all, 120)
	for i, e := range all {
		assert.Equal(t, int64(i+1), e.Seq)
	}
}

// What one sender does wrong concerns nobody who is kept in the same moment.
func TestOneBadEventSpoilsNobodyElses(t *testing.T) {
	s := twoAcademies(t)
	require.NoError(t, s.Append(t.Context(), "hall", attendance("used", "oren", true)))
	var wg sync.WaitGroup
	for i := range 20 {
		wg.Go(func() {
			assert.NoError(t, s.Append(context.Background(), "hall", attendance(fmt.Sprint("good-", i), fmt.Sprint("student-", i), true)))
		})
		wg.Go(func() {
			var used *store.UsedError
			assert.ErrorAs(t, s.Append(context.Background(), "hall", attendance("used", "pilar", true)), &used)
		})
		wg.Go(func() {
			bad := attendance(fmt.Sprint("bad-", i), "oren", true)
			bad.Body = raw(`{"present":"no"}`)
			assert.Error(t, s.Append(context.Background(), "hall", bad))
		})
	}
	wg.Wait()
	assert.Len(t, log(t, s, "hall"), 21)
}

func TestAnEventIsKeptOnceAndCorrectedOnce(t *testing.T) {
	s := twoAcademies(t)
	first := attendance("e1", "oren", true)
	require.NoError(t, s.Append(t.Context(), "hall", first))
	first.RecordedAt = at.Add(time.Hour)
	require.NoError(t, s.Append(t.Context(), "hall", first), "sent again, later")
	out := attendance("e2", "oren", false)
	out.Replaces = "e1"
	require.NoError(t, s.Append(t.Context(), "hall", out))
	require.NoError(t, s.Append(t.Context(), "hall", out), "sent again")
	second := attendance("e3", "oren", false)
	second.Replaces = "e1"
	var replaced *store.ReplacedError
	require.ErrorAs(t, s.Append(t.Context(), "hall", second), &replaced)
	assert.Equal(t, "e2", replaced.By)
	nowhere := attendance("e4", "oren", false)
	nowhere.Replaces = "e99"
	assert.ErrorIs(t, s.Append(t.Context(), "hall", nowhere), store.ErrMissing)
	assert.ErrorIs(t, s.Append(t.Context(), "nowhere", attendance("e5", "oren", true)), store.ErrMissing)

	// Two of which one cannot be kept: neither is.
	require.ErrorAs(t, s.Append(t.Context(), "hall", attendance("e6", "pilar", true), second), &replaced)
	all := log(t, s, "hall")
	require.Len(t, all, 2)
	assert.Equal(t, "e1", all[1].Replaces)
	assert.Equal(t, at, all[0].RecordedAt, "what was kept first stays")
	assert.Empty(t, log(t, s, "other"), "another academy sees nothing")
}

// Every kind comes back as it was sent, in its order, and narrowed to what is new.
// Who overruled or took back a check is in what it says: erased, nobody is.
func TestAnErasedCoachIsNobodyInWhatTheyOverruled(t *testing.T) {
	s := twoAcademies(t)
	check := func(id, replaces string, over *academy.Overrule) store.Event {
		return store.Event{ID: id, Replaces: replaces, Kind: academy.CheckEvent, Day: tuesday, Student: "oren", RecordedAt: at, RecordedBy: "tomas", Body: body(t, academy.Check{Technique: "x", Side: "left", Observation: ledger.Observation{Points: map[string]ledger.Seen{"k1": "seen"}, Partner: "tomas"}, Overruled: over, By: "tomas"})}
	}
	require.NoError(t, s.Append(t.Context(), "hall", check("c", "", nil), check("o", "c", &academy.Overrule{Reason: "it was her sister", By: "tomas", Withdrawn: true})))
	eraseIn(t, s, store.Erasure{IDs: []string{"tomas"}, Name: "Tomas", Nobody: "gone-1"})
	for _, id := range []string{"c", "o"} {
		e, err := s.EventByID(t.Context(), "hall", id)
		require.NoError(t, err)
		assert.NotContains(t, string(e.Body), "tomas")
		c, err := e.Check()
		require.NoError(t, err)
		assert.Equal(t, id == "o", c.Withdrawn())
	}
}

func eraseIn(t *testing.T, s *store.Store, x store.Erasure) {
	t.Helper()
	head, err := s.Head(t.Context(), "hall")
	require.NoError(t, err)
	_, err = s.Commit(t.Context(), "hall", head.Revision, store.Batch{By: "ines", At: at, Erase: &x})
	require.NoError(t, err)
}

// Erasing "ed" touches nobody whose name or identifier holds those letters.
func TestErasingTouchesNobodyElse(t *testing.T) {
	s := twoAcademies(t)
	ctx := t.Context()
	hold := func(id, student string) store.Event {
		return store.Event{ID: id, Kind: academy.HoldEvent, Day: tuesday, Student: student, RecordedAt: at, RecordedBy: "ines", Body: body(t, safety.Hold{Regions: []safety.Region{"knee"}, Note: "of " + student})}
	}
	clearance := func(id, hold, student string) store.Event {
		return store.Event{ID: id, Kind: academy.ClearanceEvent, Day: tuesday, Student: student, RecordedAt: at, RecordedBy: "ines", Body: body(t, academy.Clearance{Hold: hold})}
	}
	require.NoError(t, s.Append(ctx, "hall", hold("hold-fred", "fred"), hold("hold-ed", "ed"), clearance("cleared-fred", "hold-fred", "fred"), clearance("cleared-ed", "hold-ed", "ed"), attendance("in-needed", "fred", true), attendance("in-ed", "ed", true)))
	session := `{"id":"fund.2026-11-24","lead":"ed","items":[{"unit":"ed","kind":"teach"}],"paired":["ed","fred"]}`
	_, err := s.Commit(ctx, "hall", 0, store.Batch{By: "ines", At: at, Summary: say.F("Changed %s", "Edwina"), Writes: []store.Write{{Kind: "class session", ID: "fund.2026-11-24", Body: raw(session)}, {Kind: "unit", ID: "ed", Body: raw(`{"id":"ed"}`)}},
		Letters: []store.Letter{{ID: "l1", To: "coach@hall.example", Subject: "Your classes", Body: "Ed and Edwina work together", Made: at}, {ID: "l2", To: "ed@hall.example", Subject: "x", Body: "x", Made: at}}})
	require.NoError(t, err)
	_, err = s.Commit(ctx, "hall", 1, store.Batch{By: "ines", At: at, Summary: say.F("Changed %s", "Ed"), Writes: []store.Write{{Kind: "person", ID: "ed", Body: raw(`{"id":"ed"}`)}}})
	require.NoError(t, err)
	require.NoError(t, s.LogAccess(ctx, "hall", store.Access{At: at, Who: "Ines", What: store.ReadHealthNote + "Ed"}))
	require.NoError(t, s.LogAccess(ctx, "hall", store.Access{At: at, Who: "Ines", What: store.ReadHealthNote + "Edwina"}))
	eraseIn(t, s, store.Erasure{IDs: []string{"ed"}, Name: "Ed", Nobody: "gone-1", Emails: []string{"ed@hall.example"}})

	all := map[string]store.Event{}
	for _, e := range log(t, s, "hall") {
		all[e.ID] = e
	}
	for _, id := range []string{"hold-fred", "cleared-fred", "in-needed"} {
		assert.Equal(t, "fred", all[id].Student, id)
	}
	c, err := all["cleared-fred"].Clearance()
	require.NoError(t, err)
	assert.Equal(t, "hold-fred", c.Hold, "their hold is cleared still")
	assert.NotContains(t, all, "hold-ed")
	assert.NotContains(t, all, "in-ed")
	for _, e := range all {
		if e.Kind == academy.ClearanceEvent && e.Student == "gone-1" {
			c, err := e.Clearance()
			require.NoError(t, err)
			assert.Equal(t, "gone-1", all[c.Hold].Student, "and so is that of nobody")
		}
	}
	bodies, err := s.Bodies(ctx, "hall", [][2]string{{"class session", "fund.2026-11-24"}, {"unit", "ed"}})
	require.NoError(t, err)
	assert.JSONEq(t, `{"id":"fund.2026-11-24","lead":"gone-1","items":[{"unit":"ed","kind":"teach"}],"paired":["gone-1","fred"]}`, string(bodies[[2]string{"class session", "fund.2026-11-24"}]))
	assert.JSONEq(t, `{"id":"ed"}`, string(bodies[[2]string{"unit", "ed"}]), "a unit is nobody")
	letters, err := s.Letters(ctx, "hall", 10)
	require.NoError(t, err)
	require.Len(t, letters, 1)
	assert.Equal(t, "coach@hall.example", letters[0].To)
	edits, err := s.Edits(ctx, "hall", 10)
	require.NoError(t, err)
	var says []string
	for _, e := range edits {
		says = append(says, fmt.Sprint(e.Summary, " ", e.Undone))
	}
	assert.ElementsMatch(t, []string{"Changed Edwina false", "Changed somebody who was erased true"}, says)
	lines, err := s.AccessLog(ctx, "hall", 10)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{store.ReadHealthNote + "somebody who was erased", store.ReadHealthNote + "Edwina"}, []string{lines[0].What, lines[1].What})
}

func TestEveryKindOfEventComesBackAsItWasSent(t *testing.T) {
	s := twoAcademies(t)
	class := academy.Occurrence("fund", tuesday)
	sent := []store.Event{
		attendance("a", "oren", true),
		{ID: "r", Kind: academy.ClassReportEvent, Day: tuesday, Class: class, Body: body(t, academy.ClassReport{Lead: "tomas", Items: []ledger.Item{{Technique: "x", Kind: "teach", Reached: "part", OneSide: true, Side: library.Left}, {Technique: "y", Kind: "review", Reached: "not"}}, Faults: []academy.FaultCount{{Technique: "x", Fault: "f1", Seen: 3, Tries: 7}}, Note: "Ō — left side not done",
			Makeups: []academy.Makeup{{People: []string{"oren", "tam"}, Items: []ledger.Item{{Technique: "z", Kind: "teach", Reached: "all"}, {Technique: "w", Kind: "teach", Reached: "part", OneSide: true, Side: library.Right, Point: "k2"}}}, {People: []string{"pilar"}, Items: []ledger.Item{{Technique: "z", Kind: "teach", Reached: "not"}}}}})},
		{ID: "c", Kind: academy.CheckEvent, Day: tuesday, Student: "oren", Class: class, Body: body(t, academy.Check{Technique: "x", Side: "left", Observation: ledger.Observation{Points: map[string]ledger.Seen{"k1": "seen"}, Resistance: 2}, Verdict: &ledger.Verdict{Met: true, Rung: "passed", Score: 1, Reasons: []say.Sentence{}}, By: "tomas"})},
		{ID: "o", Kind: academy.CheckEvent, Day: tuesday, Student: "oren", Class: class, Replaces: "c", Body: body(t, academy.Check{Technique: "x", Side: "left", Observation: ledger.Observation{Points: map[string]ledger.Seen{"k1": "seen"}}, Overruled: &academy.Overrule{Met: false, Reason: "the gate was prompted", By: "ines"}, By: "tomas"})},
		{ID: "p", Kind: academy.PlacementEvent, Day: tuesday, Student: "oren", Body: body(t, academy.Placement{From: "blue-1", To: "blue-2"})},
		{ID: "f", Kind: academy.ForecastEvent, Day: tuesday, Body: body(t, academy.Forecast{Season: "winter", Number: 2, Weeks: 12, Begin: 11, Line: []season.WeekCoverage{{Week: 11, Mean: 0.25, Low: 0.2, High: 0.3}, {Week: 12, Mean: 0.5, Low: 0.4, High: 0.6}},
			Asked: []academy.Asked{{Student: "oren", Needs: []academy.AskedUnit{{Unit: "u", Need: 1.5, Had: 0.5, Weight: 2, Open: []academy.AskedSide{{Technique: "x", Side: library.Left, Had: 0.5, Rung: "met", Needs: "drilled"}}}}}, {Student: "tam", Needs: []academy.AskedUnit{}}}})},
	}
	for i := range sent {
		sent[i].RecordedAt, sent[i].RecordedBy = at, "ines"
		require.Empty(t, sent[i].Problems(), sent[i].ID)
	}
	require.NoError(t, s.Append(t.Context(), "hall", sent...))
	got := log(t, s, "hall")
	require.Len(t, got, len(sent))
	for i, e := range got {
		assert.Equal(t, int64(i+1), e.Seq)
		assert.JSONEq(t, string(sent[i].Body), string(e.Body), e.ID)
		e.Body, e.Seq = sent[i].Body, 0
		assert.Equal(t, sent[i], e)
	}
	one, err := s.EventByID(t.Context(), "hall", "o")
	require.NoError(t, err)
	assert.Equal(t, int64(4), one.Seq)
	by, err := s.ReplacedBy(t.Context(), "hall", 3)
	require.NoError(t, err)
	assert.Equal(t, "o", by)
	_, err = s.EventByID(t.Context(), "other", "o")
	assert.ErrorIs(t, err, store.ErrMissing)
	var heard heard
	c, err := s.Read(t.Context(), "hall", store.Contents{Head: store.Head{Last: 3}}, &heard)
	require.NoError(t, err)
	assert.Equal(t, int64(6), c.Head.Last)
	assert.Equal(t, []string{"check o of 3 false passed", "placed oren blue-2", "forecast winter 2 [{11 0.25 0.2 0.3} {12 0.5 0.4 0.6}]"}, heard.said)
}

type heard struct{ said []string }

func (h *heard) Attended(a store.Attended) { h.said = append(h.said, "attended "+a.Student) }
func (h *heard) Reported(r store.Reported) { h.said = append(h.said, "reported "+r.Class) }
func (h *heard) Checked(c store.Checked) {
	h.said = append(h.said, fmt.Sprintf("check %s of %d %v %s", c.ID, c.Replaces, c.Met, "passed"))
}
func (h *heard) Promoted(p store.Promoted) {
	h.said = append(h.said, fmt.Sprintf("promoted %s %s %s", p.Student, p.Outcome, p.To))
}
func (h *heard) Held(x store.Held) {
	h.said = append(h.said, fmt.Sprintf("held %s %v from %s", x.Student, x.Regions, x.From))
}
func (h *heard) Cleared(c store.Cleared) { h.said = append(h.said, "cleared "+c.Student+" of "+c.Hold) }
func (h *heard) Tallied(t store.Tallied) { h.said = append(h.said, "tallied "+t.Technique+" "+t.Fault) }
func (h *heard) Forecasted(f store.Forecasted) {
	h.said = append(h.said, fmt.Sprintf("forecast %s %d %v", f.Season, f.Number, f.Line))
}
func (h *heard) Placed(p store.Placed) { h.said = append(h.said, "placed "+p.Student+" "+p.To) }

// The first reading of a log, session by session, tells what reading it event by event tells.
func TestReadingAWholeLogIsReadingItPieceByPiece(t *testing.T) {
	s := twoAcademies(t)
	var events []store.Event
	for i := range 60 {
		on := tuesday + calendar.Day(i%3)
		e := attendance(fmt.Sprint("e", i), fmt.Sprint("student 1 of ", i%7), i%5 != 4)
		e.Day, e.Class = on, academy.Occurrence(fmt.Sprint("class-", i%2), on)
		events = append(events, e)
	}
	require.NoError(t, s.Append(t.Context(), "hall", attendance("first", "oren", true)))
	require.NoError(t, s.Append(t.Context(), "hall", events...))
	var whole, pieces attended
	_, err := s.Read(t.Context(), "hall", store.Contents{}, &whole)
	require.NoError(t, err)
	_, err = s.Read(t.Context(), "hall", store.Contents{Head: store.Head{Last: 1}}, &pieces)
	require.NoError(t, err)
	assert.Len(t, whole.all, 61)
	slices.SortFunc(whole.all, func(a, b store.Attended) int { return int(a.Seq - b.Seq) })
	assert.Equal(t, whole.all[1:], pieces.all)
	assert.Equal(t, store.Attended{Seq: 1, Class: "fund", Student: "oren", On: tuesday, Attendance: academy.Attendance{Present: true}}, whole.all[0])
}

type attended struct {
	nobody
	all []store.Attended
}

func (h *attended) Attended(a store.Attended) { h.all = append(h.all, a) }

// However many read whole logs at once, nobody holds a connection while waiting for another: as many as there are connections
// once waited for each other for ever.
func TestManyWholeLogsAtOnce(t *testing.T) {
	s := twoAcademies(t)
	const many = 40
	for i := range many {
		id := fmt.Sprint("hall-", i)
		require.NoError(t, s.CreateAcademy(t.Context(), id, id, time.Now()))
		require.NoError(t, s.Append(t.Context(), id, attendance("a", "oren", true), attendance("b", "pilar", true)))
	}
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	var wg sync.WaitGroup
	for i := range many {
		wg.Go(func() {
			var heard counting
			c, err := s.Read(ctx, fmt.Sprint("hall-", i), store.Contents{}, &heard)
			assert.NoError(t, err)
			assert.Equal(t, int64(2), c.Head.Last)
			assert.Equal(t, 2, heard.attended)
		})
		wg.Go(func() { // what is asked meanwhile is answered
			_, err := s.Head(ctx, "hall")
			assert.NoError(t, err)
		})
	}
	wg.Wait()
}

// counting is a reader that counts attendances.
type counting struct{ attended int }

func (c *counting) Attended(store.Attended)   { c.attended++ }
func (*counting) Reported(store.Reported)     {}
func (*counting) Checked(store.Checked)       {}
func (*counting) Placed(store.Placed)         {}
func (*counting) Promoted(store.Promoted)     {}
func (*counting) Held(store.Held)             {}
func (*counting) Cleared(store.Cleared)       {}
func (*counting) Tallied(store.Tallied)       {}
func (*counting) Forecasted(store.Forecasted) {}
