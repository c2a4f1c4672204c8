package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
)

var checkKind = eventKind{
	tables: []table{{`INSERT INTO student_check (academy, seq, student, technique, side, day, class, coach, met, rung, observation, verdict, overruled) VALUES `, `(?,?,?,?,?,?,?,?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		row, err := checkRow(academyID, e)
		return [][][]any{{row}}, err
	},
	read:  readChecks,
	whole: wholeChecks,
}

// Checked is a check as the log holds it.
type Checked struct {
	Seq            int64
	Replaces       int64 // the check it corrects, 0 for none
	ID             string
	Student, Class string
	On             calendar.Day
	Technique      string
	Side           library.Side
	Met            bool
	Rung           curriculum.Rung
	Overruled      *academy.Overrule
	By             string
}

func checkRow(academyID string, e Event) ([]any, error) {
	c, err := e.Check()
	if err != nil {
		return nil, err
	}
	met, rung := c.Stands()
	texts := [3]sql.NullString{}
	for i, part := range []any{c.Observation, c.Verdict, c.Overruled} {
		text, err := json.Marshal(part)
		if err != nil {
			return nil, err
		}
		texts[i] = sql.NullString{String: string(text), Valid: string(text) != "null"}
	}
	return []any{academyID, e.Seq, e.Student, c.Technique, c.Side, e.Day.String(), e.Class, c.By, met, rung, texts[0], texts[1], texts[2]}, nil
}

func readChecks(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Checked
	give := func(to Reader) {
		for _, c := range all {
			to.Checked(c)
		}
	}
	return give, rowsOf(ctx, q, `SELECT c.seq, COALESCE(e.replaces, 0), e.id, c.student, c.class, DATEDIFF(c.day, '1970-01-01'), c.technique, c.side, c.met, c.rung, c.overruled, c.coach
		FROM student_check c JOIN event e ON e.academy = c.academy AND e.seq = c.seq WHERE c.academy = ? AND c.seq > ? AND c.seq <= ? ORDER BY c.seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var c Checked
		var overruled []byte
		if err := scan(&c.Seq, &c.Replaces, &c.ID, &c.Student, &c.Class, &c.On, &c.Technique, &c.Side, &c.Met, &c.Rung, &overruled, &c.By); err != nil {
			return err
		}
		if len(overruled) > 0 {
			if err := json.Unmarshal(overruled, &c.Overruled); err != nil {
				return fmt.Errorf("check %q cannot be read: %w", c.ID, err)
			}
		}
		all = append(all, c)
		return nil
	})
}

func wholeChecks(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.student, x.class, x.day, x.technique, x.side, x.coach, x.observation, x.verdict, x.overruled FROM student_check x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var student, class string
		var day time.Time
		var c academy.Check
		var seen, verdict, overruled []byte
		if err := scan(&seq, &student, &class, &day, &c.Technique, &c.Side, &c.By, &seen, &verdict, &overruled); err != nil {
			return err
		}
		err := json.Unmarshal(seen, &c.Observation)
		if len(verdict) > 0 {
			err = errors.Join(err, json.Unmarshal(verdict, &c.Verdict))
		}
		if len(overruled) > 0 {
			err = errors.Join(err, json.Unmarshal(overruled, &c.Overruled))
		}
		return errors.Join(err, fill(seq, class, student, day, c))
	})
}

// Observed is a check with what was seen in it.
type Observed struct {
	Student, Technique, By string
	Side                   library.Side
	On                     calendar.Day
	Observation            ledger.Observation
}

// Observations lists the checks from a day on with what was seen in them, in their order; those that were corrected are left out for what corrected
// them, those taken back altogether. It reads every check of the time.
func (s *Store) Observations(ctx context.Context, academyID string, from calendar.Day) ([]Observed, error) {
	var all []Observed
	err := s.query(ctx, `SELECT x.student, x.technique, x.side, DATEDIFF(x.day, '1970-01-01'), x.coach, x.observation, x.overruled FROM student_check x
		WHERE x.academy = ? AND x.day >= ? AND NOT EXISTS (SELECT 1 FROM event e WHERE e.academy = x.academy AND e.replaces = x.seq) ORDER BY x.day, x.seq`, []any{academyID, from.String()}, func(rows *sql.Rows) error {
		var o Observed
		var text, overruled []byte
		if err := rows.Scan(&o.Student, &o.Technique, &o.Side, &o.On, &o.By, &text, &overruled); err != nil {
			return err
		}
		var c academy.Check
		if len(overruled) > 0 {
			if err := json.Unmarshal(overruled, &c.Overruled); err != nil {
				return fmt.Errorf("a check of %s cannot be read: %w", o.Student, err)
			}
		}
		if c.Withdrawn() {
			return nil
		}
		if err := json.Unmarshal(text, &o.Observation); err != nil {
			return fmt.Errorf("a check of %s cannot be read: %w", o.Student, err)
		}
		all = append(all, o)
		return nil
	})
	return all, err
}
