package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"vereda/core/calendar"
	"vereda/core/ledger"
)

// Read loads everything of one academy, from one consistent snapshot.
func (s *Store) Read(ctx context.Context, academy string) (Contents, error) {
	return s.ReadSince(ctx, academy, Contents{})
}

// ReadSince is Read for somebody who read before: what has not changed since is
// taken over from had and not fetched again. A document is the same when its version and the
// time of its last change are; a fact is never changed, so one that is known
// is the same.
func (s *Store) ReadSince(ctx context.Context, academy string, had Contents) (Contents, error) {
	c := Contents{Standings: map[string][]ledger.Standing{}, kept: map[string]string{}}
	tx, err := s.DB.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return c, err
	}
	defer tx.Rollback()
	err = tx.QueryRowContext(ctx, `SELECT name, revision FROM academy WHERE id = ?`, academy).Scan(&c.Name, &c.Revision)
	if errors.Is(err, sql.ErrNoRows) {
		return c, ErrMissing
	}
	if err != nil {
		return c, err
	}
	if c.Documents, err = readDocuments(ctx, tx, academy, had.Documents); err != nil {
		return c, err
	}
	if c.Facts, err = readFacts(ctx, tx, academy, had.Facts); err != nil {
		return c, err
	}
	return c, each(ctx, tx, `SELECT student, body FROM standing WHERE academy = ?`, academy, func(scan func(...any) error) error {
		var student, body string
		if err := scan(&student, &body); err != nil {
			return err
		}
		c.kept[student] = body
		if had.kept[student] == body {
			c.Standings[student] = had.Standings[student]
			return nil
		}
		var all []ledger.Standing
		err := json.Unmarshal([]byte(body), &all)
		c.Standings[student] = all
		return err
	})
}

func readDocuments(ctx context.Context, tx *sql.Tx, academy string, had []Document) ([]Document, error) {
	known := make(map[[2]string]Document, len(had))
	for _, d := range had {
		known[[2]string{d.Kind, d.ID}] = d
	}
	var all []Document
	fetch := map[[2]string]int{}
	err := each(ctx, tx, `SELECT kind, id, version, changed_at FROM document WHERE academy = ? ORDER BY kind, id`, academy, func(scan func(...any) error) error {
		var d Document
		if err := scan(&d.Kind, &d.ID, &d.Version, &d.Changed); err != nil {
			return err
		}
		key := [2]string{d.Kind, d.ID}
		if k, ok := known[key]; ok && k.Version == d.Version && k.Changed.Equal(d.Changed) {
			d.Body = k.Body
		} else {
			fetch[key] = len(all)
		}
		all = append(all, d)
		return nil
	})
	if err != nil || len(fetch) == 0 {
		return all, err
	}
	take := func(scan func(...any) error) error {
		var kind, id string
		var body []byte
		if err := scan(&kind, &id, &body); err != nil {
			return err
		}
		if at, ok := fetch[[2]string{kind, id}]; ok {
			all[at].Body = body
		}
		return nil
	}
	if len(fetch) > len(all)/2 {
		return all, each(ctx, tx, `SELECT kind, id, body FROM document WHERE academy = ?`, academy, take)
	}
	keys := make([][2]string, 0, len(fetch))
	for k := range fetch {
		keys = append(keys, k)
	}
	for some := range slices.Chunk(keys, atOnce) {
		args := []any{academy}
		for _, k := range some {
			args = append(args, k[0], k[1])
		}
		if err := rowsOf(ctx, tx, `SELECT kind, id, body FROM document WHERE academy = ? AND (kind, id) IN ((?,?)`+strings.Repeat(",(?,?)", len(some)-1)+`)`, args, take); err != nil {
			return nil, err
		}
	}
	return all, nil
}

const factColumns = `id, kind, day, student, class, COALESCE(replaces, ''), body, recorded_at, recorded_by`

func readFacts(ctx context.Context, tx *sql.Tx, academy string, had []Fact) ([]Fact, error) {
	var all []Fact
	take := func(scan func(...any) error) error {
		var f Fact
		var day time.Time
		err := scan(&f.ID, &f.Kind, &day, &f.Student, &f.Class, &f.Replaces, &f.Body, &f.RecordedAt, &f.RecordedBy)
		f.Day = calendar.DayOf(day)
		all = append(all, f)
		return err
	}
	if len(had) == 0 {
		return all, each(ctx, tx, `SELECT `+factColumns+` FROM fact WHERE academy = ? ORDER BY recorded_at, id`, academy, take)
	}
	count := 0
	if err := tx.QueryRowContext(ctx, `SELECT COUNT(*) FROM fact WHERE academy = ?`, academy).Scan(&count); err != nil || count == len(had) {
		return had, err
	}
	known := make(map[string]bool, len(had))
	for _, f := range had {
		known[f.ID] = true
	}
	var fresh []any
	err := each(ctx, tx, `SELECT id FROM fact WHERE academy = ?`, academy, func(scan func(...any) error) error {
		var id string
		err := scan(&id)
		if !known[id] {
			fresh = append(fresh, id)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	for some := range slices.Chunk(fresh, atOnce) {
		if err := rowsOf(ctx, tx, `SELECT `+factColumns+` FROM fact WHERE academy = ? AND id IN (?`+strings.Repeat(",?", len(some)-1)+`)`, append([]any{academy}, some...), take); err != nil {
			return nil, err
		}
	}
	all = append(slices.Clone(had), all...)
	slices.SortStableFunc(all, func(a, b Fact) int { return cmp.Or(a.RecordedAt.Compare(b.RecordedAt), cmp.Compare(a.ID, b.ID)) })
	return all, nil
}

func rowsOf(ctx context.Context, tx *sql.Tx, query string, args []any, row func(scan func(...any) error) error) error {
	rows, err := tx.QueryContext(ctx, query, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := row(rows.Scan); err != nil {
			return err
		}
	}
	return rows.Err()
}
