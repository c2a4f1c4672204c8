package store

import (
	"context"
	"database/sql"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
)

var promotionKind = eventKind{
	tables: []table{{`INSERT INTO promotion (academy, seq, student, day, outcome, from_ladder, from_rank, ladder, to_rank, stripes, reason) VALUES `, `(?,?,?,?,?,?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		p, err := e.Promotion()
		return [][][]any{{{academyID, e.Seq, e.Student, e.Day.String(), p.Outcome, p.FromLadder, p.From, p.Ladder, p.To, p.Stripes, p.Reason}}}, err
	},
	read:  readPromotions,
	whole: wholePromotions,
}

// Promoted is a decision about a rank as the log holds it.
type Promoted struct {
	Seq      int64
	Replaces int64 // the decision it corrects, 0 for none
	ID       string
	Student  string
	On       calendar.Day
	By       string
	academy.Promotion
}

const promotionColumns = `x.outcome, x.from_ladder, x.from_rank, x.ladder, x.to_rank, x.stripes, x.reason`

func promotionTo(p *academy.Promotion) []any {
	return []any{&p.Outcome, &p.FromLadder, &p.From, &p.Ladder, &p.To, &p.Stripes, &p.Reason}
}

func readPromotions(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Promoted
	give := func(to Reader) {
		for _, p := range all {
			to.Promoted(p)
		}
	}
	return give, rowsOf(ctx, q, `SELECT x.seq, COALESCE(e.replaces, 0), e.id, x.student, DATEDIFF(x.day, '1970-01-01'), e.recorded_by, `+promotionColumns+`
		FROM promotion x JOIN event e ON e.academy = x.academy AND e.seq = x.seq WHERE x.academy = ? AND x.seq > ? AND x.seq <= ? ORDER BY x.seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var p Promoted
		err := scan(append([]any{&p.Seq, &p.Replaces, &p.ID, &p.Student, &p.On, &p.By}, promotionTo(&p.Promotion)...)...)
		all = append(all, p)
		return err
	})
}

func wholePromotions(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.student, x.day, `+promotionColumns+` FROM promotion x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var student string
		var day time.Time
		var p academy.Promotion
		if err := scan(append([]any{&seq, &student, &day}, promotionTo(&p)...)...); err != nil {
			return err
		}
		return fill(seq, "", student, day, p)
	})
}
