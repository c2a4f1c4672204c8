package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
)

// Contents is what an academy wrote, at one revision.
type Contents struct {
	Name      string
	Head      Head
	Erasures  int64 // people who were erased so far: when it grows, the log is not what it was
	Documents []Document
}

// Read loads what changed of one academy: the documents from one consistent view, as far as they
// are not in had already, and to the reader the events after had.
func (s *Store) Read(ctx context.Context, academy string, had Contents, to Reader) (Contents, error) {
	c := Contents{}
	whole := false
	err := s.view(ctx, func(tx *sql.Tx) error {
		err := tx.QueryRowContext(ctx, `SELECT a.name, a.erasures, a.revision, l.last FROM academy a JOIN event_log l ON l.academy = a.id WHERE a.id = ?`, academy).Scan(&c.Name, &c.Erasures, &c.Head.Revision, &c.Head.Last)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrMissing
		}
		if err != nil {
			return err
		}
		c.Documents = had.Documents
		if had.Head.Revision != c.Head.Revision || had.Documents == nil {
			if c.Documents, err = readDocuments(ctx, tx, academy, had); err != nil {
				return err
			}
		}
		whole = had.Head.Last == 0 && c.Head.Last > 0
		if !whole && c.Head.Last > had.Head.Last {
			return readEvents(ctx, tx, academy, span{had.Head.Last, c.Head.Last}, to)
		}
		return nil
	})
	if err == nil && whole {
		err = s.readWholeLog(ctx, academy, c.Head.Last, to)
	}
	return c, err
}

// readDocuments reads the documents written since had was read; all of them
// where had is empty or one was deleted since, which a count tells.
func readDocuments(ctx context.Context, tx *sql.Tx, academy string, had Contents) ([]Document, error) {
	var all []Document
	take := func(scan func(...any) error) error {
		var d Document
		var body []byte
		err := scan(&d.Kind, &d.ID, &d.Version, &body)
		d.Body = body
		all = append(all, d)
		return err
	}
	order := func(a, b Document) int { return cmp.Or(cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.ID, b.ID)) }
	if len(had.Documents) > 0 {
		if err := rowsOf(ctx, tx, `SELECT kind, id, version, body FROM document WHERE academy = ? AND version > ?`, []any{academy, had.Head.Revision}, take); err != nil {
			return nil, err
		}
		fresh := make(map[[2]string]bool, len(all))
		for _, d := range all {
			fresh[[2]string{d.Kind, d.ID}] = true
		}
		for _, d := range had.Documents {
			if !fresh[[2]string{d.Kind, d.ID}] {
				all = append(all, d)
			}
		}
		count := 0
		if err := tx.QueryRowContext(ctx, `SELECT COUNT(*) FROM document WHERE academy = ?`, academy).Scan(&count); err != nil {
			return nil, err
		}
		if count == len(all) {
			slices.SortFunc(all, order)
			return all, nil
		}
		all = nil
	}
	err := each(ctx, tx, `SELECT kind, id, version, body FROM document WHERE academy = ?`, academy, take)
	slices.SortFunc(all, order)
	return all, err
}

// Bodies reads some documents as they are kept now, by kind and identifier;
// one that is not there is left out.
func (s *Store) Bodies(ctx context.Context, academy string, keys [][2]string) (map[[2]string]json.RawMessage, error) {
	all := map[[2]string]json.RawMessage{}
	for some := range slices.Chunk(keys, atOnce) {
		args := []any{academy}
		for _, k := range some {
			args = append(args, k[0], k[1])
		}
		err := s.query(ctx, `SELECT kind, id, body FROM document WHERE academy = ? AND (kind, id) IN ((?,?)`+strings.Repeat(",(?,?)", len(some)-1)+`)`, args, func(rows *sql.Rows) error {
			var k [2]string
			var body []byte
			err := rows.Scan(&k[0], &k[1], &body)
			all[k] = body
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return all, nil
}

func rowsOf(ctx context.Context, tx queryer, query string, args []any, row func(scan func(...any) error) error) error {
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
