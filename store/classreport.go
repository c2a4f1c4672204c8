package store

import (
	"context"
	"database/sql"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
)

var classReportKind = eventKind{
	tables: []table{
		{`INSERT INTO class_report (academy, seq, class, day, led_by, note) VALUES `, `(?,?,?,?,?,?)`},
		{`INSERT INTO class_report_item (academy, seq, n, technique, kind, reached, one_side, side, point) VALUES `, `(?,?,?,?,?,?,?,?,?)`},
		{`INSERT INTO class_report_fault (academy, seq, n, technique, fault, seen, tries) VALUES `, `(?,?,?,?,?,?,?)`},
		{`INSERT INTO class_report_makeup (academy, seq, makeup, n, student, technique, kind, reached, one_side, side, point) VALUES `, `(?,?,?,?,?,?,?,?,?,?,?)`},
	},
	rows: func(academyID string, e Event) ([][][]any, error) {
		class, _, err := academy.SplitOccurrence(e.Class)
		if err != nil {
			return nil, err
		}
		r, err := e.ClassReport()
		rows := [][][]any{{{academyID, e.Seq, class, e.Day.String(), r.Lead, r.Note}}, nil, nil, nil}
		for n, it := range r.Items {
			rows[1] = append(rows[1], []any{academyID, e.Seq, n, it.Technique, it.Kind, it.Reached, it.OneSide, it.Side, it.Point})
		}
		for n, x := range r.Faults {
			rows[2] = append(rows[2], []any{academyID, e.Seq, n, x.Technique, x.Fault, x.Seen, x.Tries})
		}
		for k, m := range r.Makeups {
			for n, it := range m.Items {
				for _, student := range m.People {
					rows[3] = append(rows[3], []any{academyID, e.Seq, k, n, student, it.Technique, it.Kind, it.Reached, it.OneSide, it.Side, it.Point})
				}
			}
		}
		return rows, err
	},
	read:  readReports,
	whole: wholeReports,
}

// Reported is a report as the log holds it; of two of one class the later one
// counts.
type Reported struct {
	Seq   int64
	Class string
	On    calendar.Day
	academy.ClassReport
}

func readReports(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Reported
	give := func(to Reader) {
		for _, r := range all {
			to.Reported(r)
		}
	}
	args := []any{academyID, part.after, part.upTo}
	const where = ` WHERE academy = ? AND seq > ? AND seq <= ? ORDER BY seq`
	at := map[int64]int{}
	err := rowsOf(ctx, q, `SELECT seq, class, DATEDIFF(day, '1970-01-01'), led_by, note FROM class_report`+where, args, func(scan func(...any) error) error {
		r := Reported{ClassReport: academy.ClassReport{Items: []ledger.Item{}, Faults: []academy.FaultCount{}}}
		err := scan(&r.Seq, &r.Class, &r.On, &r.Lead, &r.Note)
		at[r.Seq] = len(all)
		all = append(all, r)
		return err
	})
	if err != nil {
		return give, err
	}
	err = rowsOf(ctx, q, `SELECT seq, technique, kind, reached, one_side, side, point FROM class_report_item`+where+`, n`, args, func(scan func(...any) error) error {
		var seq int64
		var it ledger.Item
		err := scan(&seq, &it.Technique, &it.Kind, &it.Reached, &it.OneSide, &it.Side, &it.Point)
		r := &all[at[seq]]
		r.Items = append(r.Items, it)
		return err
	})
	if err != nil {
		return give, err
	}
	err = rowsOf(ctx, q, `SELECT seq, technique, fault, seen, tries FROM class_report_fault`+where+`, n`, args, func(scan func(...any) error) error {
		var seq int64
		var x academy.FaultCount
		err := scan(&seq, &x.Technique, &x.Fault, &x.Seen, &x.Tries)
		r := &all[at[seq]]
		r.Faults = append(r.Faults, x)
		return err
	})
	if err != nil {
		return give, err
	}
	return give, rowsOf(ctx, q, `SELECT `+makeupColumns+` FROM class_report_makeup x`+where+`, makeup, n, student`, args, func(scan func(...any) error) error {
		return scanMakeup(scan, func(seq int64) *academy.ClassReport { return &all[at[seq]].ClassReport })
	})
}

const makeupColumns = `x.seq, x.makeup, x.n, x.student, x.technique, x.kind, x.reached, x.one_side, x.side, x.point`

// scanMakeup puts a row into its report. Rows come by technique, so everybody is named once with the first.
func scanMakeup(scan func(...any) error, of func(seq int64) *academy.ClassReport) error {
	var seq int64
	var k, n int
	var student string
	var it ledger.Item
	if err := scan(&seq, &k, &n, &student, &it.Technique, &it.Kind, &it.Reached, &it.OneSide, &it.Side, &it.Point); err != nil {
		return err
	}
	r := of(seq)
	for len(r.Makeups) <= k {
		r.Makeups = append(r.Makeups, academy.Makeup{People: []string{}, Items: []ledger.Item{}})
	}
	m := &r.Makeups[k]
	if n == 0 {
		m.People = append(m.People, student)
	}
	if len(m.Items) <= n {
		m.Items = append(m.Items, it)
	}
	return nil
}

func wholeReports(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	type report struct {
		class string
		day   time.Time
		academy.ClassReport
	}
	all := map[int64]*report{}
	err := rowsOf(ctx, tx, `SELECT x.seq, x.class, x.day, x.led_by, x.note FROM class_report x`+join, args, func(scan func(...any) error) error {
		var seq int64
		r := report{ClassReport: academy.ClassReport{Items: []ledger.Item{}, Faults: []academy.FaultCount{}}}
		err := scan(&seq, &r.class, &r.day, &r.Lead, &r.Note)
		all[seq] = &r
		return err
	})
	if err != nil {
		return err
	}
	err = rowsOf(ctx, tx, `SELECT x.seq, x.technique, x.kind, x.reached, x.one_side, x.side, x.point FROM class_report_item x`+join+` ORDER BY x.seq, x.n`, args, func(scan func(...any) error) error {
		var seq int64
		var it ledger.Item
		err := scan(&seq, &it.Technique, &it.Kind, &it.Reached, &it.OneSide, &it.Side, &it.Point)
		all[seq].Items = append(all[seq].Items, it)
		return err
	})
	if err != nil {
		return err
	}
	err = rowsOf(ctx, tx, `SELECT x.seq, x.technique, x.fault, x.seen, x.tries FROM class_report_fault x`+join+` ORDER BY x.seq, x.n`, args, func(scan func(...any) error) error {
		var seq int64
		var f academy.FaultCount
		err := scan(&seq, &f.Technique, &f.Fault, &f.Seen, &f.Tries)
		all[seq].Faults = append(all[seq].Faults, f)
		return err
	})
	if err != nil {
		return err
	}
	err = rowsOf(ctx, tx, `SELECT `+makeupColumns+` FROM class_report_makeup x`+join+` ORDER BY x.seq, x.makeup, x.n, x.student`, args, func(scan func(...any) error) error {
		return scanMakeup(scan, func(seq int64) *academy.ClassReport { return &all[seq].ClassReport })
	})
	if err != nil {
		return err
	}
	for seq, r := range all {
		on := calendar.DayOf(r.day)
		if err := fill(seq, academy.Occurrence(r.class, on), "", r.day, r.ClassReport); err != nil {
			return err
		}
	}
	return nil
}
