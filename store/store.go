// Package store keeps an academy in MariaDB.
//
// There are three kinds of rows. Documents are what the academy writes and may
// rewrite; every change of them is an Edit that can be undone. Facts are what
// happened: they are only added, and a correction names the fact it replaces.
// Standings follow from the facts and are kept for speed alone.
//
// Everything an academy changes goes through Commit, which takes the revision
// the change was computed from and refuses a stale one. So a change is decided
// on what is really there, on one server or several, without locks.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
	"github.com/pressly/goose/v3"

	"vereda/core/academy"
	"vereda/core/ledger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors a caller can match.
var (
	ErrStale   = errors.New("something was changed meanwhile")
	ErrMissing = errors.New("there is no such row")
)

// Store is safe for concurrent use.
type Store struct{ DB *sql.DB }

// Open connects to a server and brings its tables up to date.
func Open(ctx context.Context, dsn string) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	cfg.ParseTime, cfg.Loc = true, time.UTC
	cfg.Params = map[string]string{"time_zone": "'+00:00'", "sql_mode": "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'"}
	connector, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	db := sql.OpenDB(connector)
	db.SetMaxOpenConns(16)
	db.SetMaxIdleConns(16)
	files, err := goose.NewProvider(goose.DialectMySQL, db, Migrations())
	if err != nil {
		return nil, err
	}
	if _, err := files.Up(ctx); err != nil {
		db.Close()
		return nil, fmt.Errorf("bringing the tables up to date: %w", err)
	}
	return &Store{db}, nil
}

// Close ends all connections.
func (s *Store) Close() error { return s.DB.Close() }

// NewID makes an identifier; later ones sort later.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

// Document is one thing the academy wrote.
type Document struct {
	Kind    string          `json:"kind"`
	ID      string          `json:"id"`
	Version int             `json:"version"`
	Changed time.Time       `json:"changed"`
	Body    json.RawMessage `json:"body"`
}

// Write sets a document; a nil body deletes it.
type Write struct {
	Kind, ID string
	Body     json.RawMessage
}

// Edit is one change of documents by one person.
type Edit struct {
	ID     string    `json:"id"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Says   string    `json:"says"`
	Undoes string    `json:"undoes,omitempty"`
	Undone bool      `json:"undone"`
	Parts  []Part    `json:"parts"`
}

// Part is one document before and after; a missing body means it was not there.
type Part struct {
	Kind   string          `json:"kind"`
	ID     string          `json:"id"`
	Before json.RawMessage `json:"before,omitempty"`
	After  json.RawMessage `json:"after,omitempty"`
}

// Fact is one thing that happened.
type Fact = academy.Fact

// Contents is everything an academy holds at one revision.
type Contents struct {
	Name      string
	Revision  int64
	Documents []Document
	Facts     []Fact
	Standings map[string][]ledger.Standing
	kept      map[string]string // student: the standing as it is written in its row
}

// Revision tells whether Contents read earlier are still true.
func (s *Store) Revision(ctx context.Context, academy string) (int64, error) {
	var r int64
	err := s.DB.QueryRowContext(ctx, `SELECT revision FROM academy WHERE id = ?`, academy).Scan(&r)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, ErrMissing
	}
	return r, err
}

func each(ctx context.Context, tx *sql.Tx, query, academy string, row func(scan func(...any) error) error) error {
	return rowsOf(ctx, tx, query, []any{academy}, row)
}

// Batch is one change of an academy: all of it is kept or none.
type Batch struct {
	By        string // account
	At        time.Time
	Says      string // what the edit did, in a person's words; empty keeps no edit
	Undoes    string // the edit this one takes back
	Writes    []Write
	Facts     []Fact // a fact whose identifier is already there is left as it is
	Standings map[string][]ledger.Standing
}

// Commit keeps a batch computed from the given revision and returns the new
// edit's identifier. ErrStale means the academy changed since: read again,
// compute again. A conflict with another server of a cluster counts as stale.
func (s *Store) Commit(ctx context.Context, academy string, revision int64, b Batch) (string, error) {
	id, err := s.commit(ctx, academy, revision, b)
	var broken *mysql.MySQLError
	if errors.As(err, &broken) && (broken.Number == 1213 || broken.Number == 1205) { // deadlock, certification, lock wait
		return "", ErrStale
	}
	return id, err
}

func (s *Store) commit(ctx context.Context, academy string, revision int64, b Batch) (string, error) {
	tx, err := s.DB.BeginTx(ctx, nil)
	if err != nil {
		return "", err
	}
	defer tx.Rollback()
	done, err := tx.ExecContext(ctx, `UPDATE academy SET revision = revision + 1 WHERE id = ? AND revision = ?`, academy, revision)
	if err != nil {
		return "", err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return "", errors.Join(err, ErrStale)
	}
	edit := Edit{ID: NewID()}
	if edit.Parts, err = writeAll(ctx, tx, academy, b); err != nil {
		return "", err
	}
	facts := make([][]any, len(b.Facts))
	for i, f := range b.Facts {
		facts[i] = []any{academy, f.ID, f.Kind, f.Day.String(), f.Student, f.Class, f.Replaces, string(f.Body), f.RecordedAt, f.RecordedBy}
	}
	err = insertMany(ctx, tx, `INSERT INTO fact (academy, id, kind, day, student, class, replaces, body, recorded_at, recorded_by) VALUES `, `(?,?,?,?,?,?,NULLIF(?, ''),?,?,?)`, ` ON DUPLICATE KEY UPDATE id = id`, facts)
	if err != nil {
		return "", fmt.Errorf("keeping facts: %w", err)
	}
	for student, all := range b.Standings {
		body, err := json.Marshal(all)
		if err != nil {
			return "", err
		}
		if _, err := tx.ExecContext(ctx, `REPLACE INTO standing (academy, student, body) VALUES (?,?,?)`, academy, student, string(body)); err != nil {
			return "", fmt.Errorf("keeping the standing of %s: %w", student, err)
		}
	}
	if b.Says != "" {
		if err := keepEdit(ctx, tx, academy, edit, b); err != nil {
			return "", fmt.Errorf("keeping the edit %q: %w", b.Says, err)
		}
	}
	if b.Undoes != "" {
		if _, err := tx.ExecContext(ctx, `UPDATE edit SET undone = 1 WHERE academy = ? AND id = ?`, academy, b.Undoes); err != nil {
			return "", err
		}
	}
	return edit.ID, tx.Commit()
}

// keepEdit keeps who changed what: the edit, and each document before and after.
func keepEdit(ctx context.Context, tx *sql.Tx, academy string, edit Edit, b Batch) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO edit (academy, id, at, by_account, says, undoes) VALUES (?,?,?,?,?,NULLIF(?, ''))`, academy, edit.ID, b.At, b.By, b.Says, b.Undoes)
	if err != nil {
		return err
	}
	parts := make([][]any, len(edit.Parts))
	for n, p := range edit.Parts {
		parts[n] = []any{academy, edit.ID, n, p.Kind, p.ID, string(p.Before), string(p.After)}
	}
	return insertMany(ctx, tx, `INSERT INTO edit_part (academy, edit, n, kind, id, before_body, after_body) VALUES `, `(?,?,?,?,?,NULLIF(?, ''),NULLIF(?, ''))`, ``, parts)
}

// atOnce is how many rows go in one statement.
const atOnce = 100

// insertMany inserts rows, many in one statement.
func insertMany(ctx context.Context, tx *sql.Tx, start, row, end string, rows [][]any) error {
	for some := range slices.Chunk(rows, atOnce) {
		if _, err := tx.ExecContext(ctx, start+row+strings.Repeat(","+row, len(some)-1)+end, slices.Concat(some...)...); err != nil {
			return err
		}
	}
	return nil
}

// writeAll writes a batch's documents and returns each before and after.
func writeAll(ctx context.Context, tx *sql.Tx, academy string, b Batch) ([]Part, error) {
	parts := make([]Part, len(b.Writes))
	at := map[[2]string]int{}
	var rows [][]any
	for i, w := range b.Writes {
		parts[i] = Part{Kind: w.Kind, ID: w.ID, After: w.Body}
		at[[2]string{w.Kind, w.ID}] = i
		if w.Body != nil {
			rows = append(rows, []any{academy, w.Kind, w.ID, string(w.Body), b.At, b.By})
		}
	}
	if err := readBefore(ctx, tx, academy, parts, at); err != nil {
		return nil, err
	}
	for _, w := range b.Writes {
		if w.Body != nil {
			continue
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM document WHERE academy = ? AND kind = ? AND id = ?`, academy, w.Kind, w.ID); err != nil {
			return nil, fmt.Errorf("taking %s %s out: %w", w.Kind, w.ID, err)
		}
	}
	err := insertMany(ctx, tx, `INSERT INTO document (academy, kind, id, version, body, changed_at, changed_by) VALUES `, `(?,?,?,1,?,?,?)`,
		` ON DUPLICATE KEY UPDATE version = version + 1, body = VALUES(body), changed_at = VALUES(changed_at), changed_by = VALUES(changed_by)`, rows)
	if err != nil {
		return nil, fmt.Errorf("keeping documents: %w", err)
	}
	return parts, nil
}

// readBefore fills in what the documents were before.
func readBefore(ctx context.Context, tx *sql.Tx, academy string, parts []Part, at map[[2]string]int) error {
	for some := range slices.Chunk(parts, atOnce) {
		args := []any{academy}
		for _, p := range some {
			args = append(args, p.Kind, p.ID)
		}
		err := rowsOf(ctx, tx, `SELECT kind, id, body FROM document WHERE academy = ? AND (kind, id) IN ((?,?)`+strings.Repeat(",(?,?)", len(some)-1)+`)`, args, func(scan func(...any) error) error {
			var kind, id string
			var body []byte
			err := scan(&kind, &id, &body)
			parts[at[[2]string{kind, id}]].Before = body
			return err
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// CreateAcademy adds an empty academy.
func (s *Store) CreateAcademy(ctx context.Context, id, name string, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO academy (id, name, created_at) VALUES (?,?,?)`, id, name, at)
	return err
}

// Academies lists the identifiers of all academies on the server; for the
// program's own commands, never for a request.
func (s *Store) Academies(ctx context.Context) ([]string, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT id FROM academy ORDER BY id`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []string
	for rows.Next() {
		var id string
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		all = append(all, id)
	}
	return all, rows.Err()
}

// Migrations are the files that bring the tables up to date.
func Migrations() fs.FS {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	return files
}
