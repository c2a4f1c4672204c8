package store_test

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/say"
	"vereda/internal/testkit"
	"vereda/store"
)

var at = time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC)

func twoAcademies(t *testing.T) *store.Store {
	s := testkit.New(t)
	require.NoError(t, s.CreateAcademy(t.Context(), "hall", "The Hall", at))
	require.NoError(t, s.CreateAcademy(t.Context(), "other", "Another", at))
	return s
}

func TestCommitIsAllOrNothing(t *testing.T) {
	s := twoAcademies(t)
	_, err := s.Commit(t.Context(), "hall", 0, store.Batch{By: "ines", At: at, Summary: "Broke", Writes: []store.Write{
		{Kind: "technique", ID: "a", Body: json.RawMessage(`{"id":"a"}`)}, {Kind: "technique", ID: "b", Body: json.RawMessage(`{not json`)}}})
	require.Error(t, err)
	c, err := s.Read(t.Context(), "hall", store.Contents{}, nobody{})
	require.NoError(t, err)
	assert.Empty(t, c.Documents)
	assert.Zero(t, c.Head.Revision)
	edits, err := s.Edits(t.Context(), "hall", 10)
	require.NoError(t, err)
	assert.Empty(t, edits)
}

func TestStaleChangesAreRefused(t *testing.T) {
	s := twoAcademies(t)
	write := func(revision int64, id string) error {
		_, err := s.Commit(t.Context(), "hall", revision, store.Batch{By: "ines", At: at, Writes: []store.Write{{Kind: "unit", ID: id, Body: json.RawMessage(`{}`)}}})
		return err
	}
	require.NoError(t, write(0, "a"))
	assert.ErrorIs(t, write(0, "b"), store.ErrStale)
	require.NoError(t, write(1, "b"))
}

// Two hundred changes of records from eight sides at once: each is kept once, none lost.
func TestConcurrentCommits(t *testing.T) {
	s := twoAcademies(t)
	var wg sync.WaitGroup
	for w := range 8 {
		wg.Go(func() {
			for i := range 25 {
				for {
					head, err := s.Head(context.Background(), "hall")
					if !assert.NoError(t, err) {
						return
					}
					_, err = s.Commit(context.Background(), "hall", head.Revision, store.Batch{By: "x", At: at, Writes: []store.Write{{Kind: "unit", ID: fmt.Sprint(w, ".", i), Body: raw(`{}`)}}})
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
	c, err := s.Read(t.Context(), "hall", store.Contents{}, nobody{})
	require.NoError(t, err)
	assert.Len(t, c.Documents, 200)
	assert.Equal(t, int64(200), c.Head.Revision)
}

func TestEditsRememberBeforeAndAfter(t *testing.T) {
	s := twoAcademies(t)
	for i, body := range []string{`{"v":1}`, `{"v":2}`, ""} {
		_, err := s.Commit(t.Context(), "hall", int64(i), store.Batch{By: "ines", At: at.Add(time.Duration(i) * time.Second), Summary: "Change", Writes: []store.Write{{Kind: "unit", ID: "a", Body: raw(body)}}})
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

func TestEveryTableHasAPrimaryKey(t *testing.T) {
	s := twoAcademies(t)
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

// nobody reads the log and keeps nothing of it.
type nobody struct{}

func (nobody) Attended(store.Attended)     {}
func (nobody) Reported(store.Reported)     {}
func (nobody) Promoted(store.Promoted)     {}
func (nobody) Held(store.Held)             {}
func (nobody) Cleared(store.Cleared)       {}
func (nobody) Checked(store.Checked)       {}
func (nobody) Placed(store.Placed)         {}
func (nobody) Tallied(store.Tallied)       {}
func (nobody) Forecasted(store.Forecasted) {}

// A version is never one that a record of the same name had before it was deleted.
func TestADeletedRecordNeverComesBackAtAnOldVersion(t *testing.T) {
	s := twoAcademies(t)
	seen := map[int]bool{}
	for i, body := range []string{`{"v":1}`, "", `{"v":2}`, `{"v":3}`} {
		_, err := s.Commit(t.Context(), "hall", int64(i), store.Batch{By: "ines", At: at, Writes: []store.Write{{Kind: "unit", ID: "a", Body: raw(body)}}})
		require.NoError(t, err)
		c, err := s.Read(t.Context(), "hall", store.Contents{}, nobody{})
		require.NoError(t, err)
		for _, d := range c.Documents {
			assert.False(t, seen[d.Version], "version %d was there before", d.Version)
			seen[d.Version] = true
		}
	}
	assert.Len(t, seen, 3)
}

// Undo, undo of the undo, and again: what stands is what was not undone last.
func TestTakingAnUndoBackMakesTheFirstChangeStand(t *testing.T) {
	s := twoAcademies(t)
	change := func(revision int64, says say.Sentence, undoes string) string {
		id, err := s.Commit(t.Context(), "hall", revision, store.Batch{By: "ines", At: at.Add(time.Duration(revision) * time.Second), Summary: says, Undoes: undoes, Writes: []store.Write{{Kind: "unit", ID: "a", Body: raw(fmt.Sprintf(`{"v":%d}`, revision))}}})
		require.NoError(t, err)
		return id
	}
	undone := func(id string) bool {
		e, err := s.Edit(t.Context(), "hall", id)
		require.NoError(t, err)
		return e.Undone
	}
	first := change(0, "First", "")
	undo := change(1, "Undid: First", first)
	assert.True(t, undone(first))
	again := change(2, "Undid: Undid: First", undo)
	assert.True(t, undone(undo))
	assert.False(t, undone(first), "it stands again")
	change(3, "Undid: Undid: Undid: First", again)
	assert.True(t, undone(again))
	assert.False(t, undone(undo), "the undo stands again")
}
