package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/safety"
)

var holdKind = eventKind{
	tables: []table{{`INSERT INTO hold (academy, seq, student, day, regions, everything, no_live, note) VALUES `, `(?,?,?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		h, err := e.Hold()
		regions := make([]string, len(h.Regions))
		for i, r := range h.Regions {
			regions[i] = string(r)
		}
		return [][][]any{{{academyID, e.Seq, e.Student, e.Day.String(), strings.Join(regions, ","), h.All, h.NoLive, h.Note}}}, err
	},
	read:  readHolds,
	whole: wholeHolds,
}

var clearanceKind = eventKind{
	tables: []table{{`INSERT INTO clearance (academy, seq, student, day, hold, clinician) VALUES `, `(?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		c, err := e.Clearance()
		return [][][]any{{{academyID, e.Seq, e.Student, e.Day.String(), c.Hold, c.Clinician}}}, err
	},
	read:  readClearances,
	whole: wholeClearances,
}

// Held is a hold as the log holds it.
type Held struct {
	Seq      int64
	Replaces string // the hold it corrects, empty for none
	Student  string
	By       string
	safety.Hold
}

// Cleared is a clearance as the log holds it.
type Cleared struct {
	Seq     int64
	Student string
	On      calendar.Day
	By      string
	academy.Clearance
}

func regionsOf(list string) []safety.Region {
	regions := []safety.Region{}
	for _, r := range parts(list) {
		regions = append(regions, safety.Region(r))
	}
	return regions
}

func readHolds(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Held
	give := func(to Reader) {
		for _, h := range all {
			to.Held(h)
		}
	}
	return give, rowsOf(ctx, q, `SELECT x.seq, COALESCE(r.id, ''), e.id, x.student, DATEDIFF(x.day, '1970-01-01'), e.recorded_by, x.regions, x.everything, x.no_live, x.note
		FROM hold x JOIN event e ON e.academy = x.academy AND e.seq = x.seq LEFT JOIN event r ON r.academy = e.academy AND r.seq = e.replaces WHERE x.academy = ? AND x.seq > ? AND x.seq <= ? ORDER BY x.seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var h Held
		var regions string
		err := scan(&h.Seq, &h.Replaces, &h.ID, &h.Student, &h.From, &h.By, &regions, &h.All, &h.NoLive, &h.Note)
		h.Regions = regionsOf(regions)
		all = append(all, h)
		return err
	})
}

func wholeHolds(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.student, x.day, x.regions, x.everything, x.no_live, x.note FROM hold x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var student, regions string
		var day time.Time
		var h safety.Hold
		if err := scan(&seq, &student, &day, &regions, &h.All, &h.NoLive, &h.Note); err != nil {
			return err
		}
		h.Regions, h.From = regionsOf(regions), calendar.DayOf(day)
		return fill(seq, "", student, day, h)
	})
}

func readClearances(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Cleared
	give := func(to Reader) {
		for _, c := range all {
			to.Cleared(c)
		}
	}
	return give, rowsOf(ctx, q, `SELECT x.seq, x.student, DATEDIFF(x.day, '1970-01-01'), e.recorded_by, x.hold, x.clinician
		FROM clearance x JOIN event e ON e.academy = x.academy AND e.seq = x.seq WHERE x.academy = ? AND x.seq > ? AND x.seq <= ? ORDER BY x.seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var c Cleared
		err := scan(&c.Seq, &c.Student, &c.On, &c.By, &c.Hold, &c.Clinician)
		all = append(all, c)
		return err
	})
}

func wholeClearances(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.student, x.day, x.hold, x.clinician FROM clearance x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var student string
		var day time.Time
		var c academy.Clearance
		if err := scan(&seq, &student, &day, &c.Hold, &c.Clinician); err != nil {
			return err
		}
		return fill(seq, "", student, day, c)
	})
}
