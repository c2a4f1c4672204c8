package store_test

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/internal/testkit"
	"vereda/store"
)

func never(int64, int) error { return nil }

// atVersion is a database whose tables are of an earlier version, with an academy.
func atVersion(t *testing.T, version int64) *store.Store {
	t.Helper()
	s, err := store.ConnectTo(testkit.Empty(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, store.MigrateTo(t.Context(), s.DB, version, never))
	_, err = s.DB.Exec(`INSERT INTO academy (id, name, created_at) VALUES ('hall', 'Hall', ?)`, at)
	require.NoError(t, err)
	return s
}

// interruptedEverywhere brings tables up to date with an interruption after every statement, before it is known that it was done: each
// is done twice. It says how many there were.
func interruptedEverywhere(t *testing.T, s *store.Store) int {
	t.Helper()
	here := errors.New("interrupted here")
	been := map[[2]int64]bool{}
	for n := 0; ; n++ {
		require.Less(t, n, 1000)
		err := store.MigrateTo(t.Context(), s.DB, 0, func(version int64, step int) error {
			if at := [2]int64{version, int64(step)}; !been[at] {
				been[at] = true
				return here
			}
			return nil
		})
		if err == nil {
			has, wants, err := store.VersionOf(t.Context(), s.DB)
			require.NoError(t, err)
			require.Equal(t, wants, has)
			return len(been)
		}
		require.ErrorIs(t, err, here)
	}
}

// A first start that is interrupted at any statement goes on the next time.
func TestAnInterruptedFirstStartGoesOn(t *testing.T) {
	s, err := store.ConnectTo(testkit.Empty(t))
	require.NoError(t, err)
	defer s.Close()
	n := interruptedEverywhere(t, s)
	assert.Greater(t, n, 60)
	require.NoError(t, s.CreateAcademy(t.Context(), "hall", "Hall", at))
	require.NoError(t, s.Append(t.Context(), "hall", attendance("a", "oren", true)))
	// And one that was ended while the table of versions was made.
	dsn := testkit.Empty(t)
	other, err := store.ConnectTo(dsn)
	require.NoError(t, err)
	defer other.Close()
	_, err = other.DB.Exec(`CREATE TABLE goose_db_version (id SERIAL NOT NULL, version_id BIGINT NOT NULL, is_applied BOOLEAN NOT NULL, tstamp TIMESTAMP NULL DEFAULT NOW(), PRIMARY KEY (id))`)
	require.NoError(t, err)
	whole, err := store.Migrate(t.Context(), dsn)
	require.NoError(t, err)
	whole.Close()
}

// Of several programs started at once one changes the tables and the others wait for it; given up at any moment, what began is finished.
func TestSeveralStartAtOnce(t *testing.T) {
	dsn := testkit.Empty(t)
	var wg sync.WaitGroup
	for range 4 {
		wg.Go(func() {
			s, err := store.Migrate(context.Background(), dsn)
			if assert.NoError(t, err) {
				s.Close()
			}
		})
	}
	wg.Wait()
	dsn = testkit.Empty(t)
	var given atomic.Int32
	for n := 0; ; n++ {
		require.Less(t, n, 200)
		ctx, cancel := context.WithTimeout(t.Context(), time.Duration(20+7*n)*time.Millisecond)
		s, err := store.Migrate(ctx, dsn)
		cancel()
		if err == nil {
			s.Close()
			break
		}
		given.Add(1)
	}
	t.Logf("given up %d times", given.Load())
	assert.Positive(t, given.Load())
}

// A program older than the tables refuses in words.
func TestNewerTablesAreRefused(t *testing.T) {
	dsn := testkit.Empty(t)
	s, err := store.Migrate(t.Context(), dsn)
	require.NoError(t, err)
	_, err = s.DB.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (999, TRUE)`)
	require.NoError(t, err)
	s.Close()
	var newer *store.NewSchemaError
	_, err = store.Open(t.Context(), dsn)
	assert.ErrorAs(t, err, &newer)
	_, err = store.Migrate(t.Context(), dsn)
	assert.ErrorAs(t, err, &newer)
	assert.ErrorContains(t, err, "a newer one has brought it up to date")
}

func TestStatementsOf(t *testing.T) {
	got := store.StatementsOf("-- why\nCREATE TABLE a (\n  x INT -- of x; y\n);\n\nUPDATE a SET x = 1;\n-- end\n")
	require.Len(t, got, 2)
}
