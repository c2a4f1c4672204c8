package store

import (
	"context"
	"database/sql"
	"time"

	"golang.org/x/sync/errgroup"

	"vereda/core/academy"
)

// Each kind of event has tables of its own, and a file of its own that says how it is written, how the log's
// readers get it, and how it is made whole again, as it was sent. A new kind is a file, a line here and a migration.

// eventKind is how one kind of events is kept.
type eventKind struct {
	tables []table
	// rows are what one event adds to each of the tables.
	rows func(academyID string, e Event) ([][][]any, error)
	read kindReader
	// whole gives back the events that join chooses, as the body of the kind.
	whole func(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error
}

// table is the start of an insertion and a row of it.
type table struct{ start, row string }

// fillEvent takes what the tables of a kind hold of the event at a place in the log.
type fillEvent func(seq int64, class, student string, day time.Time, body any) error

var eventKinds = map[string]eventKind{
	academy.AttendanceEvent:  attendanceKind,
	academy.ClassReportEvent: classReportKind,
	academy.CheckEvent:       checkKind,
	academy.PlacementEvent:   placementKind,
	academy.PromotionEvent:   promotionKind,
	academy.HoldEvent:        holdKind,
	academy.ClearanceEvent:   clearanceKind,
	academy.TallyEvent:       tallyKind,
	academy.ForecastEvent:    forecastKind,
}

// Reader takes in the log, kind by kind, each in the order of the sequence.
type Reader interface {
	Attended(Attended)
	Reported(Reported)
	Checked(Checked)
	Placed(Placed)
	Promoted(Promoted)
	Held(Held)
	Cleared(Cleared)
	Tallied(Tallied)
	Forecasted(Forecasted)
}

// span is a part of the log: after one place, up to another.
type span struct{ after, upTo int64 }

// queryer asks: a transaction, or a connection.
type queryer interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// kindReader reads one kind of events and gives what it read to whoever asks then.
type kindReader func(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error)

// readEvents gives a part of the log to a reader. Costs what is new.
func readEvents(ctx context.Context, tx *sql.Tx, academyID string, part span, to Reader) error {
	kinds := map[string]bool{}
	err := rowsOf(ctx, tx, `SELECT DISTINCT kind FROM event WHERE academy = ? AND seq > ? AND seq <= ?`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var kind string
		err := scan(&kind)
		kinds[kind] = true
		return err
	})
	if err != nil {
		return err
	}
	for _, kind := range academy.EventKinds {
		if !kinds[kind] {
			continue
		}
		give, err := eventKinds[kind].read(ctx, tx, academyID, part)
		if err != nil {
			return err
		}
		give(to)
	}
	return nil
}

// How many logs are read whole at the same time, and on how many connections each: together fewer than there are, so that what is
// asked meanwhile is answered. Others wait, holding nothing.
const (
	wholeLogs       = 2
	wholeLogReaders = 5
)

// readWholeLog is readEvents from the beginning, several kinds at a time, each on a connection of its own: what is in the log up to a place
// never changes, so they need no common view of it. Attendances, of which there are most, are given on as they come. Nobody
// holds a connection here while waiting for another.
func (s *Store) readWholeLog(ctx context.Context, academyID string, upTo int64, to Reader) error {
	select {
	case s.wholeLogs <- struct{}{}:
		defer func() { <-s.wholeLogs }()
	case <-ctx.Done():
		return ctx.Err()
	}
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(wholeLogReaders)
	give := make([]func(Reader), len(academy.EventKinds))
	group.Go(func() error {
		return s.onOne(ctx, func(conn *sql.Conn) error { return readSessions(ctx, conn, academyID, upTo, to.Attended) })
	})
	for i, kind := range academy.EventKinds {
		give[i] = func(Reader) {}
		if kind == academy.AttendanceEvent {
			continue
		}
		group.Go(func() error {
			return s.onOne(ctx, func(conn *sql.Conn) (err error) {
				give[i], err = eventKinds[kind].read(ctx, conn, academyID, span{0, upTo})
				return err
			})
		})
	}
	if err := group.Wait(); err != nil {
		return err
	}
	for _, g := range give {
		g(to)
	}
	return nil
}

// onOne runs do on one connection.
func (s *Store) onOne(ctx context.Context, do func(*sql.Conn) error) error {
	conn, err := s.DB.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return do(conn)
}

// ReadPart gives a part of the log to a reader, event by event in each kind, and says how many
// events there are in it.
func (s *Store) ReadPart(ctx context.Context, academyID string, after, upTo int64, to Reader) (events int64, err error) {
	err = s.view(ctx, func(tx *sql.Tx) error {
		if err := tx.QueryRowContext(ctx, `SELECT COUNT(*) FROM event WHERE academy = ? AND seq > ? AND seq <= ?`, academyID, after, upTo).Scan(&events); err != nil {
			return err
		}
		return readEvents(ctx, tx, academyID, span{after, upTo}, to)
	})
	return events, err
}

// keptOnce makes strings of bytes, the same ones once.
func keptOnce() func([]byte) string {
	names := map[string]string{}
	return func(raw []byte) string {
		if had, ok := names[string(raw)]; ok {
			return had
		}
		s := string(raw)
		names[s] = s
		return s
	}
}
