package store

import (
	"context"
	"database/sql"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
)

var tallyKind = eventKind{
	tables: []table{{`INSERT INTO tally (academy, seq, class, day, student, technique, point, fault, count, words) VALUES `, `(?,?,?,?,?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		class, _, err := academy.SplitOccurrence(e.Class)
		if err != nil {
			return nil, err
		}
		t, err := e.Tally()
		return [][][]any{{{academyID, e.Seq, class, e.Day.String(), e.Student, t.Technique, t.Point, t.Fault, t.Count, t.Words}}}, err
	},
	read:  readTallies,
	whole: wholeTallies,
}

// Tallied is a tally as the log holds it.
type Tallied struct {
	Seq     int64
	Class   string
	On      calendar.Day
	Student string // empty for the group
	By      string
	academy.Tally
}

func readTallies(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Tallied
	give := func(to Reader) {
		for _, t := range all {
			to.Tallied(t)
		}
	}
	return give, rowsOf(ctx, q, `SELECT x.seq, x.class, DATEDIFF(x.day, '1970-01-01'), x.student, e.recorded_by, x.technique, x.point, x.fault, x.count, x.words
		FROM tally x JOIN event e ON e.academy = x.academy AND e.seq = x.seq WHERE x.academy = ? AND x.seq > ? AND x.seq <= ? ORDER BY x.seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var t Tallied
		err := scan(&t.Seq, &t.Class, &t.On, &t.Student, &t.By, &t.Technique, &t.Point, &t.Fault, &t.Count, &t.Words)
		all = append(all, t)
		return err
	})
}

func wholeTallies(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.class, x.student, x.day, x.technique, x.point, x.fault, x.count, x.words FROM tally x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var class, student string
		var day time.Time
		var t academy.Tally
		if err := scan(&seq, &class, &student, &day, &t.Technique, &t.Point, &t.Fault, &t.Count, &t.Words); err != nil {
			return err
		}
		return fill(seq, academy.Occurrence(class, calendar.DayOf(day)), student, day, t)
	})
}
