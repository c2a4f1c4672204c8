package store_test

import (
	"context"
	"encoding/json"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/store"
	"vereda/store/storetest"
)

var at = time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC)

func academy(t *testing.T) *store.Store {
	s := storetest.New(t)
	require.NoError(t, s.CreateAcademy(t.Context(), "hall", "The Hall", at))
	require.NoError(t, s.CreateAcademy(t.Context(), "other", "Another", at))
	return s
}

func TestCommitIsAllOrNothing(t *testing.T) {
	s := academy(t)
	_, err := s.Commit(t.Context(), "hall", 0, store.Batch{By: "ines", At: at, Says: "Broke", Writes: []store.Write{
		{Kind: "technique", ID: "a", Body: json.RawMessage(`{"id":"a"}`)}, {Kind: "technique", ID: "b", Body: json.RawMessage(`{not json`)}}})
	require.Error(t, err)
	c, err := s.Read(t.Context(), "hall")
	require.NoError(t, err)
	assert.Empty(t, c.Documents)
	assert.Zero(t, c.Revision)
	edits, err := s.Edits(t.Context(), "hall", 10)
	require.NoError(t, err)
	assert.Empty(t, edits)
}

func TestStaleChangesAreRefused(t *testing.T) {
	s := academy(t)
	write := func(revision int64, id string) error {
		_, err := s.Commit(t.Context(), "hall", revision, store.Batch{By: "ines", At: at, Writes: []store.Write{{Kind: "unit", ID: id, Body: json.RawMessage(`{}`)}}})
		return err
	}
	require.NoError(t, write(0, "a"))
	assert.ErrorIs(t, write(0, "b"), store.ErrStale)
	require.NoError(t, write(1, "b"))
}

// Two hundred changes from eight sides at once: each is kept once, none lost.
func TestConcurrentCommits(t *testing.T) {
	s := academy(t)
	var wg sync.WaitGroup
	for w := range 8 {
		wg.Go(func() {
			for i := range 25 {
				for {
					revision, err := s.Revision(context.Background(), "hall")
					if !assert.NoError(t, err) {
						return
					}
					_, err = s.Commit(context.Background(), "hall", revision, store.Batch{By: "x", At: at, Facts: []store.Fact{{ID: store.NewID(), Kind: "attendance", Day: calendar.DayOf(at), Student: string(rune('a' + w)), Class: string(rune('a' + i)), Body: json.RawMessage(`{}`), RecordedAt: at, RecordedBy: "x"}}})
					if err == nil {
						break
					}
					if !assert.ErrorIs(t, err, store.ErrStale) {
						return
					}
				}
			}
		})
	}
	wg.Wait()
	c, err := s.Read(t.Context(), "hall")
	require.NoError(t, err)
	assert.Len(t, c.Facts, 200)
	assert.Equal(t, int64(200), c.Revision)
}

func TestEditsRememberBeforeAndAfter(t *testing.T) {
	s := academy(t)
	for i, body := range []string{`{"v":1}`, `{"v":2}`, ""} {
		_, err := s.Commit(t.Context(), "hall", int64(i), store.Batch{By: "ines", At: at.Add(time.Duration(i) * time.Second), Says: "Change", Writes: []store.Write{{Kind: "unit", ID: "a", Body: raw(body)}}})
		require.NoError(t, err)
	}
	edits, err := s.Edits(t.Context(), "hall", 10)
	require.NoError(t, err)
	require.Len(t, edits, 3)
	newest, err := s.Edit(t.Context(), "hall", edits[0].ID)
	require.NoError(t, err)
	assert.JSONEq(t, `{"v":2}`, string(newest.Parts[0].Before), "newest first")
	assert.Empty(t, newest.Parts[0].After, "deleted")
	oldest, err := s.Edit(t.Context(), "hall", edits[2].ID)
	require.NoError(t, err)
	assert.Empty(t, oldest.Parts[0].Before, "made")
	_, err = s.Edit(t.Context(), "other", edits[0].ID)
	assert.ErrorIs(t, err, store.ErrMissing, "another academy's edit is not there")
}

func raw(text string) json.RawMessage {
	if text == "" {
		return nil
	}
	return json.RawMessage(text)
}

func TestFactsAreKeptOnceAndReplacedOnce(t *testing.T) {
	s := academy(t)
	fact := store.Fact{ID: "f1", Kind: "check", Day: calendar.MustDay("2026-11-24"), Student: "oren", Body: json.RawMessage(`{"x":1}`), RecordedAt: at, RecordedBy: "ines"}
	keep := func(revision int64, f store.Fact) error {
		_, err := s.Commit(t.Context(), "hall", revision, store.Batch{By: "ines", At: at, Facts: []store.Fact{f}, Standings: map[string][]ledger.Standing{"oren": {{Technique: "a", Rung: "met"}}}})
		return err
	}
	require.NoError(t, keep(0, fact))
	fact.Body = json.RawMessage(`{"x":2}`)
	require.NoError(t, keep(1, fact), "sent twice")
	correction := fact
	correction.ID, correction.Replaces = "f2", "f1"
	require.NoError(t, keep(2, correction))
	correction.ID = "f3"
	require.NoError(t, keep(3, correction), "a second correction of the same fact changes nothing")
	c, err := s.Read(t.Context(), "hall")
	require.NoError(t, err)
	require.Len(t, c.Facts, 2)
	assert.JSONEq(t, `{"x":1}`, string(c.Facts[0].Body), "what was kept first stays")
	assert.Equal(t, "f1", c.Facts[1].Replaces)
	assert.Equal(t, calendar.MustDay("2026-11-24"), c.Facts[0].Day)
	assert.Equal(t, "met", string(c.Standings["oren"][0].Rung))
	empty, err := s.Read(t.Context(), "other")
	require.NoError(t, err)
	assert.Empty(t, empty.Facts)
	_, err = s.Read(t.Context(), "nowhere")
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestEveryTableHasAPrimaryKey(t *testing.T) {
	s := academy(t)
	rows, err := s.DB.Query(`SELECT t.table_name FROM information_schema.tables t LEFT JOIN information_schema.table_constraints c
		ON c.table_schema = t.table_schema AND c.table_name = t.table_name AND c.constraint_type = 'PRIMARY KEY' WHERE t.table_schema = DATABASE() AND c.constraint_name IS NULL`)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		assert.Fail(t, "no primary key", name)
	}
}
