// Package store keeps an academy in MariaDB.
//
// There are two kinds of rows. Documents are what the academy writes and may
// rewrite; every change of them is an Edit that can be undone. Events are what
// happened: they are only added, in one sequence per academy, and a correction names the event it replaces.
// What follows from the events is projected from them by whoever reads, and never kept.
//
// Documents go through Commit, which takes the revision
// the change was computed from and refuses a stale one. So a change is decided
// on what is really there, on one server or several, without locks. Events go
// through Append, which refuses nobody because of somebody else.
package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"vereda/core/say"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
)

// Errors a caller can match.
var (
	ErrStale   = errors.New("something was changed meanwhile")
	ErrMissing = errors.New("there is no such row")
)

// Store is safe for concurrent use.
type Store struct {
	DB        *sql.DB
	turns     sync.Map      // academy: *appendTurn
	wholeLogs chan struct{} // one for each log that is read whole
}

// New is a Store on a database whose tables are up to date.
func New(db *sql.DB) *Store { return &Store{DB: db, wholeLogs: make(chan struct{}, wholeLogs)} }

// OldSchemaError says that the tables are older than the program.
type OldSchemaError struct{ Has, Wants int64 }

func (e *OldSchemaError) Error() string {
	return fmt.Sprintf("the database is at version %d and this program needs %d: run vereda migrate once, then start again", e.Has, e.Wants)
}

// NewSchemaError says that the tables are newer than the program.
type NewSchemaError struct{ Has, Knows int64 }

func (e *NewSchemaError) Error() string {
	return fmt.Sprintf("the database is at version %d and this program knows %d: a newer one has brought it up to date. Use that one, or a backup from before", e.Has, e.Knows)
}

// Open connects to a server. Tables that are older than the program are an
// *OldSchemaError: of several servers started at once none changes them under the others. Newer ones are a *NewSchemaError.
func Open(ctx context.Context, dsn string) (*Store, error) {
	s, err := connect(dsn)
	if err != nil {
		return nil, err
	}
	has, wants, err := newMigration(s.DB).version(ctx)
	if err != nil {
		s.Close()
		return nil, fmt.Errorf("the database cannot be asked for its version: %w", err)
	}
	if has < wants {
		s.Close()
		return nil, &OldSchemaError{has, wants}
	}
	if has > wants {
		s.Close()
		return nil, &NewSchemaError{has, wants}
	}
	return s, nil
}

// Migrate connects to a server and brings its tables up to date. Interrupted at any moment, it goes on the next time.
func Migrate(ctx context.Context, dsn string) (*Store, error) {
	s, err := connect(dsn)
	if err != nil {
		return nil, err
	}
	m := newMigration(s.DB)
	has, wants, err := m.version(ctx)
	if err == nil && has > wants {
		err = &NewSchemaError{has, wants}
	}
	if err == nil && has < wants {
		err = m.migrate(ctx, 0)
	}
	if err != nil {
		s.Close()
		return nil, fmt.Errorf("bringing the tables up to date: %w", err)
	}
	return s, nil
}

func connect(dsn string) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	cfg.ParseTime, cfg.Loc, cfg.InterpolateParams = true, time.UTC, true
	if cfg.Timeout == 0 {
		cfg.Timeout = 5 * time.Second
	}
	cfg.Params = map[string]string{"time_zone": "'+00:00'", "sql_mode": "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'"}
	connector, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	db := sql.OpenDB(connector)
	db.SetMaxOpenConns(16)
	db.SetMaxIdleConns(16)
	return New(db), nil
}

// Close ends all connections.
func (s *Store) Close() error { return s.DB.Close() }

// NewID makes an identifier; later ones sort later.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

// Document is one thing the academy wrote.
type Document struct {
	Kind    string          `json:"kind"`
	ID      string          `json:"id"`
	Version int             `json:"version"` // the academy's revision it was written at
	Body    json.RawMessage `json:"body"`
}

// Write sets a document; a nil body deletes it.
type Write struct {
	Kind, ID string
	Body     json.RawMessage
}

// Edit is one change of documents by one person.
type Edit struct {
	ID      string       `json:"id"`
	At      time.Time    `json:"at"`
	By      string       `json:"by"`
	Summary say.Sentence `json:"summary"`
	Undoes  string       `json:"undoes,omitempty"`
	Undone  bool         `json:"undone"`
	Parts   []Part       `json:"parts"`
}

// Part is one document before and after; a missing body means it was not there.
type Part struct {
	Kind   string          `json:"kind"`
	ID     string          `json:"id"`
	Before json.RawMessage `json:"before,omitempty"`
	After  json.RawMessage `json:"after,omitempty"`
}

// Head is how far an academy's documents and events have come.
type Head struct {
	Revision int64 // of the documents
	Last     int64 // the newest event's place in the log
}

// Head tells whether what was read earlier is still all there is.
func (s *Store) Head(ctx context.Context, academy string) (Head, error) {
	var h Head
	err := s.DB.QueryRowContext(ctx, `SELECT a.revision, l.last FROM academy a JOIN event_log l ON l.academy = a.id WHERE a.id = ?`, academy).Scan(&h.Revision, &h.Last)
	if errors.Is(err, sql.ErrNoRows) {
		return h, ErrMissing
	}
	return h, err
}

// Heads tells how far each of some academies has come, in one query.
func (s *Store) Heads(ctx context.Context, academies []string) (map[string]Head, error) {
	all := map[string]Head{}
	for some := range slices.Chunk(academies, 1000) {
		args := make([]any, len(some))
		for i, a := range some {
			args[i] = a
		}
		err := s.query(ctx, `SELECT a.id, a.revision, l.last FROM academy a JOIN event_log l ON l.academy = a.id WHERE a.id IN (?`+strings.Repeat(",?", len(some)-1)+`)`, args, func(rows *sql.Rows) error {
			var id string
			var h Head
			err := rows.Scan(&id, &h.Revision, &h.Last)
			all[id] = h
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return all, nil
}

func each(ctx context.Context, tx *sql.Tx, query, academy string, row func(scan func(...any) error) error) error {
	return rowsOf(ctx, tx, query, []any{academy}, row)
}

// Batch is one change of an academy: all of it is kept or none.
type Batch struct {
	By      string // account
	At      time.Time
	Summary say.Sentence // what the edit did, in a person's words; empty keeps no edit
	Undoes  string       // the edit this one takes back
	Letters []Letter     // to be handed over, once the rest is kept
	Create  string       // the name of the academy, where this is the first batch of a new one
	Writes  []Write
	Events  []Event // one that is there already, sent again, changes nothing
	Erase   *Erasure
	Also    func(*Act) error // what is done to accounts with the rest; it may run again
}

// Commit keeps a batch computed from the given revision and returns the new
// edit's identifier. ErrStale means the academy changed since: read again,
// compute again. A conflict with another server of a cluster counts as stale.
func (s *Store) Commit(ctx context.Context, academy string, revision int64, b Batch) (string, error) {
	id, err := s.commit(ctx, academy, revision, b)
	if inTheWay(err) {
		return "", ErrStale
	}
	return id, err
}

func (s *Store) commit(ctx context.Context, academy string, revision int64, b Batch) (string, error) {
	edit := Edit{ID: NewID()}
	err := s.once(ctx, nil, func(tx *sql.Tx) error { return commitIn(ctx, tx, academy, revision, b, &edit) })
	if err != nil {
		return "", err
	}
	return edit.ID, nil
}

func commitIn(ctx context.Context, tx *sql.Tx, academy string, revision int64, b Batch, edit *Edit) error {
	if b.Create != "" {
		if err := createAcademy(ctx, tx, academy, b.Create, b.At); err != nil {
			return err
		}
	}
	done, err := tx.ExecContext(ctx, `UPDATE academy SET revision = revision + 1 WHERE id = ? AND revision = ?`, academy, revision)
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrStale)
	}
	if edit.Parts, err = writeAll(ctx, tx, academy, revision+1, b); err != nil {
		return err
	}
	if len(b.Events) > 0 {
		_, refused, err := appendEvents(ctx, tx, academy, b.Events)
		if err := errors.Join(append(refused, err)...); err != nil {
			return err
		}
	}
	if err := insertLetters(ctx, tx, academy, b.Letters); err != nil {
		return fmt.Errorf("keeping letters: %w", err)
	}
	if b.Summary != "" {
		if err := keepEdit(ctx, tx, academy, *edit, b); err != nil {
			return fmt.Errorf("keeping the edit %q: %w", b.Summary, err)
		}
	}
	if b.Erase != nil {
		if err := erase(ctx, tx, academy, revision+1, *b.Erase); err != nil {
			return err
		}
	}
	if b.Also != nil {
		if err := b.Also(&Act{ctx, tx, academy}); err != nil {
			return err
		}
	}
	if b.Undoes != "" {
		if _, err := tx.ExecContext(ctx, `UPDATE edit SET undone = 1 WHERE academy = ? AND id = ?`, academy, b.Undoes); err != nil {
			return err
		}
		// Taking an undo back makes what it had undone stand again.
		if _, err := tx.ExecContext(ctx, `UPDATE edit e JOIN edit u ON u.academy = e.academy AND u.undoes = e.id SET e.undone = 0 WHERE u.academy = ? AND u.id = ?`, academy, b.Undoes); err != nil {
			return err
		}
	}
	return nil
}

// keepEdit keeps who changed what: the edit, and each document before and after.
func keepEdit(ctx context.Context, tx *sql.Tx, academy string, edit Edit, b Batch) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO edit (academy, id, at, by_account, says, undoes) VALUES (?,?,?,?,?,NULLIF(?, ''))`, academy, edit.ID, b.At, b.By, b.Summary, b.Undoes)
	if err != nil {
		return err
	}
	parts := make([][]any, len(edit.Parts))
	for n, p := range edit.Parts {
		parts[n] = []any{academy, edit.ID, n, p.Kind, p.ID, string(p.Before), string(p.After)}
	}
	return insertMany(ctx, tx, `INSERT INTO edit_part (academy, edit, n, kind, id, before_body, after_body) VALUES `, `(?,?,?,?,?,NULLIF(?, ''),NULLIF(?, ''))`, ``, parts)
}

// How many rows one statement asks for, and how many it writes.
const (
	atOnce     = 100
	rowsAtOnce = 400
)

// insertMany inserts rows, many in one statement.
func insertMany(ctx context.Context, tx *sql.Tx, start, row, end string, rows [][]any) error {
	for some := range slices.Chunk(rows, rowsAtOnce) {
		if _, err := tx.ExecContext(ctx, start+row+strings.Repeat(","+row, len(some)-1)+end, slices.Concat(some...)...); err != nil {
			return err
		}
	}
	return nil
}

// writeAll writes a batch's documents and returns each before and after.
func writeAll(ctx context.Context, tx *sql.Tx, academy string, version int64, b Batch) ([]Part, error) {
	parts := make([]Part, len(b.Writes))
	at := map[[2]string]int{}
	var rows [][]any
	for i, w := range b.Writes {
		parts[i] = Part{Kind: w.Kind, ID: w.ID, After: w.Body}
		at[[2]string{w.Kind, w.ID}] = i
		if w.Body != nil {
			rows = append(rows, []any{academy, w.Kind, w.ID, version, string(w.Body), b.At, b.By})
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
	err := insertMany(ctx, tx, `INSERT INTO document (academy, kind, id, version, body, changed_at, changed_by) VALUES `, `(?,?,?,?,?,?,?)`,
		` ON DUPLICATE KEY UPDATE version = VALUES(version), body = VALUES(body), changed_at = VALUES(changed_at), changed_by = VALUES(changed_by)`, rows)
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
	return s.transact(ctx, func(tx *sql.Tx) error { return createAcademy(ctx, tx, id, name, at) })
}

func createAcademy(ctx context.Context, tx *sql.Tx, id, name string, at time.Time) error {
	if _, err := tx.ExecContext(ctx, `INSERT INTO academy (id, name, created_at) VALUES (?,?,?)`, id, name, at); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO event_log (academy) VALUES (?)`, id)
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
