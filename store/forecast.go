package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/season"
)

var forecastKind = eventKind{
	tables: []table{
		{`INSERT INTO forecast (academy, seq, season, day, number, weeks, begin_week, line) VALUES `, `(?,?,?,?,?,?,?,?)`},
		{`INSERT INTO forecast_asked (academy, seq, n, student, needs) VALUES `, `(?,?,?,?,?)`},
	},
	rows: func(academyID string, e Event) ([][][]any, error) {
		f, err := e.Forecast()
		if err != nil {
			return nil, err
		}
		line, err := json.Marshal(f.Line)
		rows := [][][]any{{{academyID, e.Seq, f.Season, e.Day.String(), f.Number, f.Weeks, f.Begin, line}}, nil}
		for n, a := range f.Asked {
			needs, wrong := json.Marshal(a.Needs)
			if wrong != nil {
				err = wrong
			}
			rows[1] = append(rows[1], []any{academyID, e.Seq, n, a.Student, needs})
		}
		return rows, err
	},
	read:  readForecasts,
	whole: wholeForecasts,
}

// Forecasted is a forecast as the log holds it: without what was asked of whom, which is much and seldom wanted (see Asked).
type Forecasted struct {
	Seq    int64
	Season string
	On     calendar.Day
	Number int
	Begin  int
	Line   []season.WeekCoverage
}

func readForecasts(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Forecasted
	give := func(to Reader) {
		for _, f := range all {
			to.Forecasted(f)
		}
	}
	return give, rowsOf(ctx, q, `SELECT seq, season, DATEDIFF(day, '1970-01-01'), number, begin_week, line FROM forecast WHERE academy = ? AND seq > ? AND seq <= ? ORDER BY seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var f Forecasted
		var line []byte
		if err := scan(&f.Seq, &f.Season, &f.On, &f.Number, &f.Begin, &line); err != nil {
			return err
		}
		all = append(all, f)
		return json.Unmarshal(line, &all[len(all)-1].Line)
	})
}

// Asked is what was asked of each student at the forecast at a place in the log.
func (s *Store) Asked(ctx context.Context, academyID string, seq int64) ([]academy.Asked, error) {
	var all []academy.Asked
	return all, rowsOf(ctx, s.DB, `SELECT student, needs FROM forecast_asked WHERE academy = ? AND seq = ? ORDER BY n`, []any{academyID, seq}, func(scan func(...any) error) error {
		var a academy.Asked
		var needs []byte
		if err := scan(&a.Student, &needs); err != nil {
			return err
		}
		all = append(all, a)
		return json.Unmarshal(needs, &all[len(all)-1].Needs)
	})
}

func wholeForecasts(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	type head struct {
		day time.Time
		academy.Forecast
	}
	heads := map[int64]*head{}
	err := rowsOf(ctx, tx, `SELECT x.seq, x.day, x.season, x.number, x.weeks, x.begin_week, x.line FROM forecast x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var h head
		var line []byte
		if err := scan(&seq, &h.day, &h.Season, &h.Number, &h.Weeks, &h.Begin, &line); err != nil {
			return err
		}
		heads[seq] = &h
		return json.Unmarshal(line, &h.Line)
	})
	if err != nil {
		return err
	}
	err = rowsOf(ctx, tx, `SELECT x.seq, x.student, x.needs FROM forecast_asked x`+join+` ORDER BY x.seq, x.n`, args, func(scan func(...any) error) error {
		var seq int64
		var a academy.Asked
		var needs []byte
		if err := scan(&seq, &a.Student, &needs); err != nil {
			return err
		}
		if err := json.Unmarshal(needs, &a.Needs); err != nil {
			return err
		}
		heads[seq].Asked = append(heads[seq].Asked, a)
		return nil
	})
	if err != nil {
		return err
	}
	for seq, h := range heads {
		if err := fill(seq, "", "", h.day, h.Forecast); err != nil {
			return err
		}
	}
	return nil
}
