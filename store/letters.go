package store

import (
	"context"
	"database/sql"
	"strings"
	"time"
)

// Letter is one letter in the outbox.
type Letter struct {
	ID, Academy string
	To, Subject string
	Body        string
	AttachedAs  string // the name of a document that comes with it; empty for none
	Attachment  []byte
	State       string // waiting, sent, failed
	Tries       int
	Failure     string // why it was not taken the last time
	Made        time.Time
	Due         time.Time
	Sent        *time.Time
}

// States of a letter.
const (
	LetterWaiting = "waiting"
	LetterSent    = "sent"
	LetterFailed  = "failed"
)

func insertLetters(ctx context.Context, tx *sql.Tx, academy string, letters []Letter) error {
	rows := make([][]any, len(letters))
	for i, l := range letters {
		rows[i] = []any{academy, l.ID, l.To, l.Subject, l.Body, l.AttachedAs, l.Attachment, LetterWaiting, l.Made, l.Made}
	}
	return insertMany(ctx, tx, `INSERT INTO letter (academy, id, recipient, subject, body, attached_as, attachment, state, due_at, made_at) VALUES `, `(?,?,?,?,?,?,?,?,?,?)`, ``, rows)
}

const letterColumns = `academy, id, recipient, subject, body, attached_as, attachment, state, tries, failure, made_at, due_at, sent_at`

func scanLetter(scan func(...any) error) (Letter, error) {
	var l Letter
	err := scan(&l.Academy, &l.ID, &l.To, &l.Subject, &l.Body, &l.AttachedAs, &l.Attachment, &l.State, &l.Tries, &l.Failure, &l.Made, &l.Due, &l.Sent)
	return l, err
}

// Letters lists an academy's letters, newest first.
func (s *Store) Letters(ctx context.Context, academy string, limit int) ([]Letter, error) {
	all := []Letter{}
	columns := strings.Replace(letterColumns, "attachment,", "NULL,", 1) // a list needs no documents
	err := s.query(ctx, `SELECT `+columns+` FROM letter WHERE academy = ? ORDER BY made_at DESC, id DESC LIMIT ?`, []any{academy, limit}, func(rows *sql.Rows) error {
		l, err := scanLetter(rows.Scan)
		all = append(all, l)
		return err
	})
	return all, err
}

// ClaimLetter takes a letter that is due, of whatever academy, so that no other
// server hands it over meanwhile; ErrMissing when none is. A claim nobody settles by until is due again then.
func (s *Store) ClaimLetter(ctx context.Context, claim string, now, until time.Time) (Letter, error) {
	for {
		var academy, id string
		err := s.DB.QueryRowContext(ctx, `SELECT academy, id FROM letter WHERE state = ? AND due_at <= ? ORDER BY due_at LIMIT 1`, LetterWaiting, now).Scan(&academy, &id)
		if err == sql.ErrNoRows {
			return Letter{}, ErrMissing
		}
		if err != nil {
			return Letter{}, err
		}
		done, err := s.exec(ctx, `UPDATE letter SET claimed_by = ?, due_at = ?, tries = tries + 1 WHERE academy = ? AND id = ? AND state = ? AND due_at <= ?`, claim, until, academy, id, LetterWaiting, now)
		if err != nil {
			return Letter{}, err
		}
		if n, err := done.RowsAffected(); err != nil || n == 0 {
			continue // another server was quicker
		}
		return scanLetter(s.DB.QueryRowContext(ctx, `SELECT `+letterColumns+` FROM letter WHERE academy = ? AND id = ?`, academy, id).Scan)
	}
}

// SettleLetter says what became of a claimed letter: sent, due again, or failed for good.
func (s *Store) SettleLetter(ctx context.Context, claim string, l Letter) error {
	_, err := s.exec(ctx, `UPDATE letter SET state = ?, due_at = ?, failure = ?, sent_at = ?, claimed_by = NULL WHERE academy = ? AND id = ? AND claimed_by = ?`,
		l.State, l.Due, l.Failure, l.Sent, l.Academy, l.ID, claim)
	return err
}
