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
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
	"github.com/pressly/goose/v3"

	"vereda/core/academy"
	"vereda/core/calendar"
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
	files, err := goose.NewProvider(goose.DialectMySQL, db, sub())
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

// Read loads everything of one academy, from one consistent snapshot.
func (s *Store) Read(ctx context.Context, academy string) (Contents, error) {
	c := Contents{Standings: map[string][]ledger.Standing{}}
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
	err = each(ctx, tx, `SELECT kind, id, version, body FROM document WHERE academy = ? ORDER BY kind, id`, academy, func(scan func(...any) error) error {
		var d Document
		err := scan(&d.Kind, &d.ID, &d.Version, &d.Body)
		c.Documents = append(c.Documents, d)
		return err
	})
	if err != nil {
		return c, err
	}
	err = each(ctx, tx, `SELECT id, kind, day, student, class, COALESCE(replaces, ''), body, recorded_at, recorded_by FROM fact WHERE academy = ? ORDER BY recorded_at, id`, academy, func(scan func(...any) error) error {
		var f Fact
		var day time.Time
		err := scan(&f.ID, &f.Kind, &day, &f.Student, &f.Class, &f.Replaces, &f.Body, &f.RecordedAt, &f.RecordedBy)
		f.Day = calendar.DayOf(day)
		c.Facts = append(c.Facts, f)
		return err
	})
	if err != nil {
		return c, err
	}
	return c, each(ctx, tx, `SELECT student, body FROM standing WHERE academy = ?`, academy, func(scan func(...any) error) error {
		var student string
		var body json.RawMessage
		if err := scan(&student, &body); err != nil {
			return err
		}
		var all []ledger.Standing
		err := json.Unmarshal(body, &all)
		c.Standings[student] = all
		return err
	})
}

func each(ctx context.Context, tx *sql.Tx, query, academy string, row func(scan func(...any) error) error) error {
	rows, err := tx.QueryContext(ctx, query, academy)
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
	edit := Edit{ID: NewID(), Parts: []Part{}}
	for _, w := range b.Writes {
		part, err := write(ctx, tx, academy, w, b)
		if err != nil {
			return "", fmt.Errorf("keeping %s %s: %w", w.Kind, w.ID, err)
		}
		edit.Parts = append(edit.Parts, part)
	}
	for _, f := range b.Facts {
		_, err := tx.ExecContext(ctx, `INSERT INTO fact (academy, id, kind, day, student, class, replaces, body, recorded_at, recorded_by) VALUES (?,?,?,?,?,?,NULLIF(?, ''),?,?,?) ON DUPLICATE KEY UPDATE id = id`,
			academy, f.ID, f.Kind, f.Day.String(), f.Student, f.Class, f.Replaces, string(f.Body), f.RecordedAt, f.RecordedBy)
		if err != nil {
			return "", fmt.Errorf("keeping fact %s: %w", f.ID, err)
		}
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
		body, err := json.Marshal(edit.Parts)
		if err != nil {
			return "", err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO edit (academy, id, at, by_account, says, body, undoes) VALUES (?,?,?,?,?,?,NULLIF(?, ''))`,
			academy, edit.ID, b.At, b.By, b.Says, string(body), b.Undoes); err != nil {
			return "", err
		}
	}
	if b.Undoes != "" {
		if _, err := tx.ExecContext(ctx, `UPDATE edit SET undone = 1 WHERE academy = ? AND id = ?`, academy, b.Undoes); err != nil {
			return "", err
		}
	}
	return edit.ID, tx.Commit()
}

func write(ctx context.Context, tx *sql.Tx, academy string, w Write, b Batch) (Part, error) {
	part := Part{Kind: w.Kind, ID: w.ID, After: w.Body}
	err := tx.QueryRowContext(ctx, `SELECT body FROM document WHERE academy = ? AND kind = ? AND id = ?`, academy, w.Kind, w.ID).Scan(&part.Before)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return part, err
	}
	if w.Body == nil {
		_, err = tx.ExecContext(ctx, `DELETE FROM document WHERE academy = ? AND kind = ? AND id = ?`, academy, w.Kind, w.ID)
		return part, err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO document (academy, kind, id, version, body, changed_at, changed_by) VALUES (?,?,?,1,?,?,?)
		ON DUPLICATE KEY UPDATE version = version + 1, body = VALUES(body), changed_at = VALUES(changed_at), changed_by = VALUES(changed_by)`,
		academy, w.Kind, w.ID, string(w.Body), b.At, b.By)
	return part, err
}

// Edits lists the newest changes of an academy, newest first.
func (s *Store) Edits(ctx context.Context, academy string, limit int) ([]Edit, error) {
	return s.edits(ctx, `SELECT id, at, by_account, says, COALESCE(undoes, ''), undone, body FROM edit WHERE academy = ? ORDER BY at DESC, id DESC LIMIT ?`, academy, limit)
}

// Edit returns one change, or ErrMissing.
func (s *Store) Edit(ctx context.Context, academy, id string) (Edit, error) {
	found, err := s.edits(ctx, `SELECT id, at, by_account, says, COALESCE(undoes, ''), undone, body FROM edit WHERE academy = ? AND id = ?`, academy, id)
	if err != nil || len(found) == 0 {
		return Edit{}, errors.Join(err, ErrMissing)
	}
	return found[0], nil
}

func (s *Store) edits(ctx context.Context, query string, args ...any) ([]Edit, error) {
	rows, err := s.DB.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	all := []Edit{}
	for rows.Next() {
		var e Edit
		var body []byte
		if err := rows.Scan(&e.ID, &e.At, &e.By, &e.Says, &e.Undoes, &e.Undone, &body); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(body, &e.Parts); err != nil {
			return nil, err
		}
		all = append(all, e)
	}
	return all, rows.Err()
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

func sub() fs.FS {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	return files
}
