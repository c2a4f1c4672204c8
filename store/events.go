package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"

	"golang.org/x/sync/errgroup"
)

// Event is one thing that happened.
type Event = academy.Event

// UsedError says that an identifier was used before, for something else.
type UsedError struct{ ID string }

func (e *UsedError) Error() string {
	return fmt.Sprintf("the identifier %.64q was used before for another record: send this one under an identifier of its own", e.ID)
}

// ReplacedError says that an event was corrected before.
type ReplacedError struct {
	ID string // what was to be replaced
	By string // what replaced it first
}

func (e *ReplacedError) Error() string {
	return "that record was corrected before: correct the correction, or load it again"
}

// appended is what became of one event: its place in the log, and whether it
// was there already.
type appended struct {
	seq   int64
	again bool
}

// appendEvents adds events to an academy's log inside a transaction. Each
// is decided on its own: one that is there already is the same one sent again, and changes
// nothing; one whose identifier stands for something else, or that corrects what was
// corrected before, is refused. The lock on the log's row is held until the
// transaction ends, so that a sequence number is never seen before a lower one.
func appendEvents(ctx context.Context, tx *sql.Tx, academyID string, events []Event) ([]appended, []error, error) {
	var last int64
	err := tx.QueryRowContext(ctx, `SELECT last FROM event_log WHERE academy = ? FOR UPDATE`, academyID).Scan(&last)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrMissing
	}
	if err != nil {
		return nil, nil, err
	}
	known, err := knownEvents(ctx, tx, academyID, events)
	if err != nil {
		return nil, nil, err
	}
	out, refused := make([]appended, len(events)), make([]error, len(events))
	var fresh []Event
	replaces := map[string]sql.NullInt64{}
	for i, e := range events {
		if had, ok := known.byID[e.ID]; ok {
			out[i] = appended{had.Seq, true}
			if !sameEvent(had, e) {
				refused[i] = &UsedError{e.ID}
			}
			continue
		}
		if e.Replaces != "" {
			target, ok := known.byID[e.Replaces]
			switch by := known.replacedBy[e.Replaces]; {
			case !ok:
				refused[i] = fmt.Errorf("the event %.64q that is to be replaced: %w", e.Replaces, ErrMissing)
			case by != "":
				refused[i] = &ReplacedError{e.Replaces, by}
			}
			if refused[i] != nil {
				continue
			}
			replaces[e.ID] = sql.NullInt64{Int64: target.Seq, Valid: true}
			known.replacedBy[e.Replaces] = e.ID
		}
		last++
		e.Seq = last
		out[i].seq, known.byID[e.ID] = last, e
		fresh = append(fresh, e)
	}
	if len(fresh) == 0 {
		return out, refused, nil
	}
	if err := insertEvents(ctx, tx, academyID, fresh, replaces); err != nil {
		return nil, nil, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE event_log SET last = ? WHERE academy = ?`, last, academyID)
	return out, refused, err
}

// knownSet is what the log holds of what some new events speak of.
type knownSet struct {
	byID       map[string]Event
	replacedBy map[string]string
}

func knownEvents(ctx context.Context, tx *sql.Tx, academyID string, events []Event) (knownSet, error) {
	known := knownSet{map[string]Event{}, map[string]string{}}
	var ids []string
	for _, e := range events {
		ids = append(ids, e.ID)
		if e.Replaces != "" {
			ids = append(ids, e.Replaces)
		}
	}
	for some := range slices.Chunk(ids, atOnce) {
		args := []any{academyID}
		for _, id := range some {
			args = append(args, id)
		}
		in := `(?` + strings.Repeat(",?", len(some)-1) + `)`
		err := eachEvent(ctx, tx, academyID, ` AND e.id IN `+in, args[1:], func(e Event) error {
			known.byID[e.ID] = e
			return nil
		})
		if err != nil {
			return known, err
		}
		err = rowsOf(ctx, tx, `SELECT was.id, e.id FROM event was JOIN event e ON e.academy = was.academy AND e.replaces = was.seq WHERE was.academy = ? AND was.id IN `+in, args, func(scan func(...any) error) error {
			var was, by string
			err := scan(&was, &by)
			known.replacedBy[was] = by
			return err
		})
		if err != nil {
			return known, err
		}
	}
	return known, nil
}

// sameEvent says whether two events tell the same; who sent it and when may
// differ, and so may a verdict, which follows from what was seen.
func sameEvent(a, b Event) bool {
	if a.Kind != b.Kind || a.Day != b.Day || a.Student != b.Student || a.Class != b.Class || a.Replaces != b.Replaces {
		return false
	}
	if a.Kind == academy.CheckEvent {
		x, errX := a.Check()
		y, errY := b.Check()
		if errX != nil || errY != nil {
			return false
		}
		x.Verdict, y.Verdict, x.By, y.By = nil, nil, "", ""
		return sameAsJSON(x, y)
	}
	x, errX := normal(a)
	y, errY := normal(b)
	return errX == nil && errY == nil && sameAsJSON(x, y)
}

// normal is an event's body as its kind's type, empty lists as empty lists.
func normal(e Event) (any, error) {
	switch e.Kind {
	case academy.AttendanceEvent:
		return e.Attendance()
	case academy.ClassReportEvent:
		r, err := e.ClassReport()
		r.Items, r.Faults = append([]ledger.Item{}, r.Items...), append([]academy.FaultCount{}, r.Faults...)
		return r, err
	case academy.PlacementEvent:
		return e.Placement()
	}
	return e.Body, nil
}

func sameAsJSON(a, b any) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && string(x) == string(y)
}

// insertEvents writes events and what each kind has of its own, many rows in
// one statement.
func insertEvents(ctx context.Context, tx *sql.Tx, academyID string, events []Event, replaces map[string]sql.NullInt64) error {
	var heads, attended, reports, items, faults, checks, placements [][]any
	for _, e := range events {
		heads = append(heads, []any{academyID, e.Seq, e.ID, e.Kind, replaces[e.ID], e.RecordedAt.UTC(), e.RecordedBy})
		class := ""
		if e.Kind == academy.AttendanceEvent || e.Kind == academy.ClassReportEvent {
			var err error
			if class, _, err = academy.SplitOccurrence(e.Class); err != nil {
				return err
			}
		}
		switch e.Kind {
		case academy.AttendanceEvent:
			a, err := e.Attendance()
			if err != nil {
				return unreadable(e, err)
			}
			attended = append(attended, []any{academyID, e.Seq, class, e.Day.String(), e.Student, a.Present})
		case academy.ClassReportEvent:
			r, err := e.ClassReport()
			if err != nil {
				return unreadable(e, err)
			}
			reports = append(reports, []any{academyID, e.Seq, class, e.Day.String(), r.Lead, r.Note})
			for n, it := range r.Items {
				items = append(items, []any{academyID, e.Seq, n, it.Technique, it.Kind, it.Reached, it.OneSide})
			}
			for n, x := range r.Faults {
				faults = append(faults, []any{academyID, e.Seq, n, x.Technique, x.Fault, x.Seen, x.Tries})
			}
		case academy.CheckEvent:
			row, err := checkRow(academyID, e)
			if err != nil {
				return unreadable(e, err)
			}
			checks = append(checks, row)
		case academy.PlacementEvent:
			p, err := e.Placement()
			if err != nil {
				return unreadable(e, err)
			}
			placements = append(placements, []any{academyID, e.Seq, e.Student, e.Day.String(), p.From, p.To})
		default:
			return fmt.Errorf("event %q is of an unknown kind %q", e.ID, e.Kind)
		}
	}
	for _, t := range []struct {
		start, row string
		rows       [][]any
	}{
		{`INSERT INTO event (academy, seq, id, kind, replaces, recorded_at, recorded_by) VALUES `, `(?,?,?,?,?,?,?)`, heads},
		{`INSERT INTO attendance (academy, seq, class, day, student, present) VALUES `, `(?,?,?,?,?,?)`, attended},
		{`INSERT INTO class_report (academy, seq, class, day, led_by, note) VALUES `, `(?,?,?,?,?,?)`, reports},
		{`INSERT INTO class_report_item (academy, seq, n, technique, kind, reached, one_side) VALUES `, `(?,?,?,?,?,?,?)`, items},
		{`INSERT INTO class_report_fault (academy, seq, n, technique, fault, seen, tries) VALUES `, `(?,?,?,?,?,?,?)`, faults},
		{`INSERT INTO student_check (academy, seq, student, technique, side, day, class, coach, met, rung, observation, verdict, overruled) VALUES `, `(?,?,?,?,?,?,?,?,?,?,?,?,?)`, checks},
		{`INSERT INTO placement (academy, seq, student, day, from_curriculum, to_curriculum) VALUES `, `(?,?,?,?,?,?)`, placements},
	} {
		if err := insertMany(ctx, tx, t.start, t.row, ``, t.rows); err != nil {
			return fmt.Errorf("keeping events: %w", err)
		}
	}
	return nil
}

func unreadable(e Event, err error) error {
	return fmt.Errorf("the body of event %q cannot be read: %w", e.ID, err)
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

// Attended is what the log says of one student and one class; of two the later
// one counts.
type Attended struct {
	Seq            int64
	Class, Student string
	On             calendar.Day
	Present        bool
}

// Reported is a report as the log holds it; of two of one class the later one
// counts.
type Reported struct {
	Seq   int64
	Class string
	On    calendar.Day
	academy.ClassReport
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

// Placed is a placement as the log holds it; of two of one student the later one
// counts.
type Placed struct {
	Seq     int64
	Student string
	To      string
}

// Reader takes in the log, kind by kind, each in the order of the sequence.
type Reader interface {
	Attended(Attended)
	Reported(Reported)
	Checked(Checked)
	Placed(Placed)
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

var kindReaders = map[string]kindReader{
	academy.AttendanceEvent: readAttendance, academy.ClassReportEvent: readReports, academy.CheckEvent: readChecks, academy.PlacementEvent: readPlacements,
}

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
		give, err := kindReaders[kind](ctx, tx, academyID, part)
		if err != nil {
			return err
		}
		give(to)
	}
	return nil
}

// readWholeLog is readEvents from the beginning, each kind on a connection of its own: what is in the log up to a place
// never changes, so they need no common view of it. Attendances, of which there are most, are given on as they come.
func (s *Store) readWholeLog(ctx context.Context, academyID string, upTo int64, to Reader) error {
	group, ctx := errgroup.WithContext(ctx)
	give := make([]func(Reader), len(academy.EventKinds))
	for i, kind := range academy.EventKinds {
		give[i] = func(Reader) {}
		if kind == academy.AttendanceEvent {
			continue
		}
		group.Go(func() error {
			conn, err := s.DB.Conn(ctx)
			if err != nil {
				return err
			}
			defer conn.Close()
			give[i], err = kindReaders[kind](ctx, conn, academyID, span{0, upTo})
			return err
		})
	}
	conn, err := s.DB.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	if err := errors.Join(readSessions(ctx, conn, academyID, upTo, to.Attended), group.Wait()); err != nil {
		return err
	}
	for _, g := range give {
		g(to)
	}
	return nil
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

// readAttendance reads attendances one by one; readSessions reads all there are.
func readAttendance(ctx context.Context, q queryer, academyID string, part span) (func(Reader), error) {
	var all []Attended
	give := func(to Reader) {
		for _, a := range all {
			to.Attended(a)
		}
	}
	name := keptOnce()
	return give, rowsOf(ctx, q, `SELECT seq, class, DATEDIFF(day, '1970-01-01'), student, present FROM attendance WHERE academy = ? AND seq > ? AND seq <= ? ORDER BY seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var a Attended
		var class, student sql.RawBytes
		err := scan(&a.Seq, &class, &a.On, &student, &a.Present)
		a.Class, a.Student = name(class), name(student)
		all = append(all, a)
		return err
	})
}

// readSessions reads all attendances of an academy, a row for each session: by day, which is
// the order students' visits are kept in, and within a session by sequence, which is all that matters there.
func readSessions(ctx context.Context, q queryer, academyID string, upTo int64, take func(Attended)) error {
	name := keptOnce()
	if _, err := q.ExecContext(ctx, `SET SESSION group_concat_max_len = 16777216`); err != nil {
		return err
	}
	const between = "\x1f" // stands in no identifier: it cannot be shown
	return rowsOf(ctx, q, `SELECT class, DATEDIFF(day, '1970-01-01'), GROUP_CONCAT(seq, ' ', present, ' ', student ORDER BY seq SEPARATOR '`+between+`') FROM attendance FORCE INDEX (of_session) WHERE academy = ? AND seq <= ? GROUP BY day, class ORDER BY day, class`, []any{academyID, upTo}, func(scan func(...any) error) error {
		var class, all sql.RawBytes
		var on calendar.Day
		if err := scan(&class, &on, &all); err != nil {
			return err
		}
		a := Attended{Class: name(class), On: on}
		for entry := range bytes.SplitSeq(all, []byte(between)) {
			seq, rest, _ := bytes.Cut(entry, []byte(" "))
			present, student, ok := bytes.Cut(rest, []byte(" "))
			n, err := strconv.ParseInt(string(seq), 10, 64)
			if err != nil || !ok {
				return fmt.Errorf("the attendance of %s on %s cannot be read: %.80q", a.Class, on, entry)
			}
			a.Seq, a.Present, a.Student = n, string(present) == "1", name(student)
			take(a)
		}
		return nil
	})
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
	err = rowsOf(ctx, q, `SELECT seq, technique, kind, reached, one_side FROM class_report_item`+where+`, n`, args, func(scan func(...any) error) error {
		var seq int64
		var it ledger.Item
		err := scan(&seq, &it.Technique, &it.Kind, &it.Reached, &it.OneSide)
		r := &all[at[seq]]
		r.Items = append(r.Items, it)
		return err
	})
	if err != nil {
		return give, err
	}
	return give, rowsOf(ctx, q, `SELECT seq, technique, fault, seen, tries FROM class_report_fault`+where+`, n`, args, func(scan func(...any) error) error {
		var seq int64
		var x academy.FaultCount
		err := scan(&seq, &x.Technique, &x.Fault, &x.Seen, &x.Tries)
		r := &all[at[seq]]
		r.Faults = append(r.Faults, x)
		return err
	})
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

// Events gives every event of an academy, whole, in its order.
func (s *Store) Events(ctx context.Context, academyID string, each func(Event) error) error {
	tx, err := s.readOnly(ctx)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	return eachEvent(ctx, tx, academyID, ``, nil, each)
}

// EventByID finds one event, or ErrMissing.
func (s *Store) EventByID(ctx context.Context, academyID, id string) (Event, error) {
	return s.oneEvent(ctx, academyID, ` AND e.id = ?`, id)
}

// EventAt finds the event at a place in the log, or ErrMissing.
func (s *Store) EventAt(ctx context.Context, academyID string, seq int64) (Event, error) {
	return s.oneEvent(ctx, academyID, ` AND e.seq = ?`, seq)
}

func (s *Store) oneEvent(ctx context.Context, academyID, where string, arg any) (Event, error) {
	tx, err := s.readOnly(ctx)
	if err != nil {
		return Event{}, err
	}
	defer tx.Rollback()
	found, got := Event{}, false
	err = eachEvent(ctx, tx, academyID, where, []any{arg}, func(e Event) error {
		found, got = e, true
		return nil
	})
	if err == nil && !got {
		err = ErrMissing
	}
	return found, err
}

// ReplacedBy is the identifier of the event that corrects another one; empty
// when none does.
func (s *Store) ReplacedBy(ctx context.Context, academyID string, seq int64) (string, error) {
	var id string
	err := s.DB.QueryRowContext(ctx, `SELECT id FROM event WHERE academy = ? AND replaces = ?`, academyID, seq).Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return id, err
}

// eachEvent reads events whole, as they were sent: what the typed tables hold, as
// the body of its kind. where narrows the table e.
func eachEvent(ctx context.Context, tx *sql.Tx, academyID, where string, args []any, each func(Event) error) error {
	args = append([]any{academyID}, args...)
	var all []Event
	at := map[int64]int{}
	err := rowsOf(ctx, tx, `SELECT e.seq, e.id, e.kind, COALESCE(r.id, ''), e.recorded_at, e.recorded_by, COALESCE(a.class, ''), COALESCE(a.student, ''), a.day, COALESCE(a.present, FALSE)
		FROM event e LEFT JOIN event r ON r.academy = e.academy AND r.seq = e.replaces LEFT JOIN attendance a ON a.academy = e.academy AND a.seq = e.seq WHERE e.academy = ?`+where+` ORDER BY e.seq`, args, func(scan func(...any) error) error {
		var e Event
		var class string
		var day sql.NullTime
		var present bool
		if err := scan(&e.Seq, &e.ID, &e.Kind, &e.Replaces, &e.RecordedAt, &e.RecordedBy, &class, &e.Student, &day, &present); err != nil {
			return err
		}
		if day.Valid {
			e.Day = calendar.DayOf(day.Time)
			e.Class = academy.Occurrence(class, e.Day)
			e.Body = json.RawMessage(fmt.Sprintf(`{"present":%v}`, present))
		}
		at[e.Seq] = len(all)
		all = append(all, e)
		return nil
	})
	if err != nil {
		return err
	}
	kinds := map[string]bool{}
	for _, e := range all {
		kinds[e.Kind] = true
	}
	fill := func(seq int64, class, student string, day time.Time, body any) error {
		text, err := json.Marshal(body)
		e := &all[at[seq]]
		e.Class, e.Student, e.Day, e.Body = class, student, calendar.DayOf(day), text
		return err
	}
	join := ` JOIN event e ON e.academy = x.academy AND e.seq = x.seq WHERE e.academy = ?` + where
	if kinds[academy.ClassReportEvent] {
		if err := eachReport(ctx, tx, join, args, fill); err != nil {
			return err
		}
	}
	if kinds[academy.CheckEvent] {
		err = rowsOf(ctx, tx, `SELECT x.seq, x.student, x.class, x.day, x.technique, x.side, x.coach, x.observation, x.verdict, x.overruled FROM student_check x`+join, args, func(scan func(...any) error) error {
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
		if err != nil {
			return err
		}
	}
	if kinds[academy.PlacementEvent] {
		err = rowsOf(ctx, tx, `SELECT x.seq, x.student, x.day, x.from_curriculum, x.to_curriculum FROM placement x`+join, args, func(scan func(...any) error) error {
			var seq int64
			var student string
			var day time.Time
			var p academy.Placement
			if err := scan(&seq, &student, &day, &p.From, &p.To); err != nil {
				return err
			}
			return fill(seq, "", student, day, p)
		})
		if err != nil {
			return err
		}
	}
	for _, e := range all {
		if err := each(e); err != nil {
			return err
		}
	}
	return nil
}

func eachReport(ctx context.Context, tx *sql.Tx, join string, args []any, fill func(seq int64, class, student string, day time.Time, body any) error) error {
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
	err = rowsOf(ctx, tx, `SELECT x.seq, x.technique, x.kind, x.reached, x.one_side FROM class_report_item x`+join+` ORDER BY x.seq, x.n`, args, func(scan func(...any) error) error {
		var seq int64
		var it ledger.Item
		err := scan(&seq, &it.Technique, &it.Kind, &it.Reached, &it.OneSide)
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
	for seq, r := range all {
		on := calendar.DayOf(r.day)
		if err := fill(seq, academy.Occurrence(r.class, on), "", r.day, r.ClassReport); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) readOnly(ctx context.Context) (*sql.Tx, error) {
	return s.DB.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

// ReadPart gives a part of the log to a reader, event by event in each kind, and says how many
// events there are in it.
func (s *Store) ReadPart(ctx context.Context, academyID string, after, upTo int64, to Reader) (events int64, err error) {
	tx, err := s.readOnly(ctx)
	if err != nil {
		return 0, err
	}
	defer tx.Rollback()
	if err := tx.QueryRowContext(ctx, `SELECT COUNT(*) FROM event WHERE academy = ? AND seq > ? AND seq <= ?`, academyID, after, upTo).Scan(&events); err != nil {
		return 0, err
	}
	return events, readEvents(ctx, tx, academyID, span{after, upTo}, to)
}
