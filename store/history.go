package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"
)

const editColumns = `e.id, e.at, e.by_account, e.says, COALESCE(e.undoes, ''), e.undone`

// Edits lists the newest changes of an academy, newest first, without their
// parts.
func (s *Store) Edits(ctx context.Context, academy string, limit int) ([]Edit, error) {
	all := []Edit{}
	err := s.query(ctx, `SELECT `+editColumns+` FROM edit e WHERE e.academy = ? ORDER BY e.at DESC, e.id DESC LIMIT ?`, []any{academy, limit}, func(rows *sql.Rows) error {
		var e Edit
		err := rows.Scan(&e.ID, &e.At, &e.By, &e.Summary, &e.Undoes, &e.Undone)
		all = append(all, e)
		return err
	})
	return all, err
}

// Edit returns one change with its parts, or ErrMissing.
func (s *Store) Edit(ctx context.Context, academy, id string) (Edit, error) {
	var e Edit
	err := s.DB.QueryRowContext(ctx, `SELECT `+editColumns+` FROM edit e WHERE e.academy = ? AND e.id = ?`, academy, id).Scan(&e.ID, &e.At, &e.By, &e.Summary, &e.Undoes, &e.Undone)
	if errors.Is(err, sql.ErrNoRows) {
		return e, ErrMissing
	}
	if err != nil {
		return e, err
	}
	e.Parts = []Part{}
	err = s.query(ctx, `SELECT kind, id, before_body, after_body FROM edit_part WHERE academy = ? AND edit = ? ORDER BY n`, []any{academy, id}, func(rows *sql.Rows) error {
		var p Part
		err := rows.Scan(&p.Kind, &p.ID, (*[]byte)(&p.Before), (*[]byte)(&p.After))
		e.Parts = append(e.Parts, p)
		return err
	})
	return e, err
}

// State is one state of a document: what an edit made of it. A missing body
// means that the edit took it away.
type State struct {
	Edit Edit
	Body json.RawMessage
}

// History lists the states of one document, newest first, at most limit.
func (s *Store) History(ctx context.Context, academy, kind, id string, limit int) ([]State, error) {
	all := []State{}
	err := s.query(ctx, `SELECT `+editColumns+`, p.after_body FROM edit_part p JOIN edit e ON e.academy = p.academy AND e.id = p.edit
		WHERE p.academy = ? AND p.kind = ? AND p.id = ? ORDER BY e.at DESC, e.id DESC LIMIT ?`, []any{academy, kind, id, limit}, func(rows *sql.Rows) error {
		var x State
		err := rows.Scan(&x.Edit.ID, &x.Edit.At, &x.Edit.By, &x.Edit.Summary, &x.Edit.Undoes, &x.Edit.Undone, (*[]byte)(&x.Body))
		all = append(all, x)
		return err
	})
	return all, err
}

// QuizBox is where one row of a fork table lies in somebody's card file.
type QuizBox struct {
	Row     string
	Box     int
	Asked   int
	Correct int
	Spent   time.Duration // over all answers
}

// QuizBoxes lists somebody's card file for one fork table.
func (s *Store) QuizBoxes(ctx context.Context, academy, person, table string) ([]QuizBox, error) {
	all := []QuizBox{}
	err := s.query(ctx, `SELECT row_id, box, asked, correct, total_ms FROM quiz_box WHERE academy = ? AND person = ? AND fork_table = ? ORDER BY row_id`, []any{academy, person, table}, func(rows *sql.Rows) error {
		var q QuizBox
		var ms int64
		err := rows.Scan(&q.Row, &q.Box, &q.Asked, &q.Correct, &ms)
		q.Spent = time.Duration(ms) * time.Millisecond
		all = append(all, q)
		return err
	})
	return all, err
}

// KeepQuizBox puts a row of a fork table into a box of somebody's card file.
func (s *Store) KeepQuizBox(ctx context.Context, academy, person, table string, q QuizBox, at time.Time) error {
	_, err := s.exec(ctx, `REPLACE INTO quiz_box (academy, person, fork_table, row_id, box, asked, correct, total_ms, last_at) VALUES (?,?,?,?,?,?,?,?,?)`,
		academy, person, table, q.Row, q.Box, q.Asked, q.Correct, q.Spent.Milliseconds(), at)
	return err
}

func (s *Store) query(ctx context.Context, query string, args []any, row func(*sql.Rows) error) error {
	rows, err := s.DB.QueryContext(ctx, query, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := row(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}
