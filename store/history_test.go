package store_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/say"
	"vereda/store"
)

func TestHistoryOfOneDocument(t *testing.T) {
	s := twoAcademies(t)
	for i, body := range []string{`{"v":1}`, `{"v":2}`, ""} {
		_, err := s.Commit(t.Context(), "hall", int64(i), store.Batch{By: "ines", At: at.Add(time.Duration(i) * time.Second), Summary: say.F("Change %d", i),
			Writes: []store.Write{{Kind: "unit", ID: "a", Body: raw(body)}, {Kind: "unit", ID: "b", Body: raw(`{"other":true}`)}}})
		require.NoError(t, err)
	}
	states, err := s.History(t.Context(), "hall", "unit", "a", 10)
	require.NoError(t, err)
	require.Len(t, states, 3)
	assert.Empty(t, states[0].Body, "newest first: taken away")
	assert.JSONEq(t, `{"v":2}`, string(states[1].Body))
	assert.Equal(t, say.F("Change %d", 0), states[2].Edit.Summary, "kept so that it can be said in another language")
	assert.Equal(t, "ines", states[2].Edit.By)
	elsewhere, err := s.History(t.Context(), "other", "unit", "a", 10)
	require.NoError(t, err)
	assert.Empty(t, elsewhere)
}

// Hundreds of documents and events go in a few statements, and each is there.
func TestLargeBatch(t *testing.T) {
	s := twoAcademies(t)
	var b store.Batch
	b.By, b.At, b.Summary = "import", at, "Imported"
	for i := range 257 {
		b.Writes = append(b.Writes, store.Write{Kind: "technique", ID: fmt.Sprint("t", i), Body: raw(fmt.Sprintf(`{"n":%d}`, i))})
		b.Events = append(b.Events, store.Event{ID: fmt.Sprint("f", i), Kind: "check", Day: 20000, Student: "oren", Body: raw(`{"technique":"a","observation":{"points":{}}}`), RecordedAt: at})
	}
	_, err := s.Commit(t.Context(), "hall", 0, b)
	require.NoError(t, err)
	b.Writes[200].Body = raw(`{"n":-1}`)
	id, err := s.Commit(t.Context(), "hall", 1, b)
	require.NoError(t, err)
	c, err := s.Read(t.Context(), "hall", store.Contents{}, nobody{})
	require.NoError(t, err)
	assert.Len(t, c.Documents, 257)
	assert.Equal(t, int64(257), c.Head.Last, "an event sent twice is kept once")
	e, err := s.Edit(t.Context(), "hall", id)
	require.NoError(t, err)
	require.Len(t, e.Parts, 257)
	assert.Equal(t, "t200", e.Parts[200].ID)
	assert.JSONEq(t, `{"n":200}`, string(e.Parts[200].Before))
	assert.JSONEq(t, `{"n":-1}`, string(e.Parts[200].After))
}

// What was kept before there was a row for each part is there after the tables
// are brought up to date.
func TestOldEditsAreTakenOver(t *testing.T) {
	s := atVersion(t, 1)
	_, err := s.DB.Exec(`INSERT INTO edit (academy, id, at, by_account, says, body) VALUES ('hall', 'e1', ?, 'ines', 'Old', '[{"kind":"unit","id":"a","after":{"v":1}},{"kind":"unit","id":"b","before":{"w":[1,2]},"after":{"w":"é"}}]')`, at)
	require.NoError(t, err)
	interruptedEverywhere(t, s)
	e, err := s.Edit(t.Context(), "hall", "e1")
	require.NoError(t, err)
	require.Len(t, e.Parts, 2)
	assert.Empty(t, e.Parts[0].Before)
	assert.JSONEq(t, `{"v":1}`, string(e.Parts[0].After))
	assert.JSONEq(t, `{"w":[1,2]}`, string(e.Parts[1].Before))
	assert.JSONEq(t, `{"w":"é"}`, string(e.Parts[1].After))
}

func TestQuizBoxesAreOnesOwn(t *testing.T) {
	s := twoAcademies(t)
	keep := func(person string, q store.QuizBox) {
		require.NoError(t, s.KeepQuizBox(t.Context(), "hall", person, "half", q, at))
	}
	keep("oren", store.QuizBox{Row: "r1", Box: 2, Asked: 1, Correct: 1, Spent: 1500 * time.Millisecond})
	keep("oren", store.QuizBox{Row: "r1", Box: 1, Asked: 2, Correct: 1, Spent: 2500 * time.Millisecond})
	keep("pilar", store.QuizBox{Row: "r1", Box: 5, Asked: 9, Correct: 9})
	boxes, err := s.QuizBoxes(t.Context(), "hall", "oren", "half")
	require.NoError(t, err)
	assert.Equal(t, []store.QuizBox{{Row: "r1", Box: 1, Asked: 2, Correct: 1, Spent: 2500 * time.Millisecond}}, boxes)
	other, err := s.QuizBoxes(t.Context(), "other", "oren", "half")
	require.NoError(t, err)
	assert.Empty(t, other)
}

// What was kept as facts before there was an event log is in the log afterwards, in the order of its clock.
func TestFactsBecomeEvents(t *testing.T) {
	s := atVersion(t, 3)
	insert := func(id, kind, student, class, replaces, body string, minute int) {
		_, err := s.DB.Exec(`INSERT INTO fact (academy, id, kind, day, student, class, replaces, body, recorded_at, recorded_by) VALUES ('hall', ?, ?, '2026-11-24', ?, ?, NULLIF(?, ''), ?, ?, 'ines')`, id, kind, student, class, replaces, body, at.Add(time.Duration(minute)*time.Minute))
		require.NoError(t, err)
	}
	insert("z", "attendance", "oren", "fund.2026-11-24", "", `{}`, 0)
	insert("v", "void", "oren", "fund.2026-11-24", "z", `{}`, 1)
	insert("t", "taught", "", "fund.2026-11-24", "", `{"lead":"tomas","items":[{"technique":"x","kind":"teach","reached":"all"},{"technique":"y","kind":"review","reached":"part","one_side":true}],"faults":[{"technique":"x","fault":"f","seen":1,"tries":2}],"note":"n"}`, 2)
	insert("c", "check", "oren", "", "", `{"technique":"x","side":"right","observation":{"points":{"k":"seen"},"caution_broken":false,"resistance":1},"verdict":{"rung":"passed","met":true,"score":1,"reasons":[]},"by":"tomas"}`, 3)
	insert("o", "check", "oren", "", "c", `{"technique":"x","side":"right","observation":{"points":{"k":"seen"},"caution_broken":false,"resistance":1},"verdict":{"rung":"passed","met":true,"score":1,"reasons":[]},"overruled":{"met":false,"reason":"no","by":"ines"},"by":"tomas"}`, 4)
	insert("m", "moved", "oren", "", "", `{"from":"a","to":"b"}`, 5)
	interruptedEverywhere(t, s)
	all := log(t, s, "hall")
	require.Len(t, all, 6)
	for i, e := range all {
		assert.Equal(t, int64(i+1), e.Seq)
		assert.Empty(t, e.Problems(), e.ID)
	}
	assert.Equal(t, "z", all[1].Replaces)
	assert.JSONEq(t, `{"present":false}`, string(all[1].Body))
	r, err := all[2].ClassReport()
	require.NoError(t, err)
	assert.True(t, r.Items[1].OneSide)
	assert.Equal(t, 2, r.Faults[0].Tries)
	var heard heard
	_, err = s.Read(t.Context(), "hall", store.Contents{}, &heard)
	require.NoError(t, err)
	assert.Contains(t, heard.said, "check o of 4 false passed")
	assert.Contains(t, heard.said, "check c of 0 true passed")
	require.NoError(t, s.Append(t.Context(), "hall", attendance("next", "pilar", true)))
	assert.Equal(t, int64(7), log(t, s, "hall")[6].Seq)
}
