package store

import (
	"context"
	"database/sql"
	"time"

	"vereda/core/academy"
)

var placementKind = eventKind{
	tables: []table{{`INSERT INTO placement (academy, seq, student, day, from_curriculum, to_curriculum) VALUES `, `(?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		p, err := e.Placement()
		return [][][]any{{{academyID, e.Seq, e.Student, e.Day.String(), p.From, p.To}}}, err
	},
	read:  readPlacements,
	whole: wholePlacements,
}

// Placed is a placement as the log holds it; of two of one student the later one
// counts.
type Placed struct {
	Seq     int64
	Student string
	To      string
}

func readPlacements(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Placed
	give := func(to Reader) {
		for _, p := range all {
			to.Placed(p)
		}
	}
	return give, rowsOf(ctx, q, `SELECT seq, student, to_curriculum FROM placement WHERE academy = ? AND seq > ? AND seq <= ? ORDER BY seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var p Placed
		err := scan(&p.Seq, &p.Student, &p.To)
		all = append(all, p)
		return err
	})
}

func wholePlacements(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.student, x.day, x.from_curriculum, x.to_curriculum FROM placement x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var student string
		var day time.Time
		var p academy.Placement
		if err := scan(&seq, &student, &day, &p.From, &p.To); err != nil {
			return err
		}
		return fill(seq, "", student, day, p)
	})
}
