package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/safety"
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
			if !SameEvent(had, e) {
				refused[i] = &UsedError{e.ID}
			}
			continue
		}
		if e.Replaces != "" {
			target, ok := known.byID[e.Replaces]
			switch by := known.replacedBy[e.Replaces]; {
			case !ok:
				refused[i] = fmt.Errorf("the event %.64q that is to be replaced: %w", e.Replaces, ErrMissing)
			case target.Kind != e.Kind:
				refused[i] = fmt.Errorf("a %s cannot take the place of the %s %.64q: %w", e.Kind, target.Kind, e.Replaces, ErrMissing)
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
		err := eachEventBy(ctx, tx, byID, academyID, ` AND e.id IN `+in, args[1:], func(e Event) error {
			known.byID[e.ID] = e
			return nil
		})
		if err != nil {
			return known, err
		}
		err = rowsOf(ctx, tx, `SELECT was.id, e.id FROM event was`+byID+` JOIN event e ON e.academy = was.academy AND e.replaces = was.seq WHERE was.academy = ? AND was.id IN `+in, args, func(scan func(...any) error) error {
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

// SameEvent says whether two events tell the same; who sent it and when may
// differ, and so may a verdict, which follows from what was seen.
func SameEvent(a, b Event) bool {
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
		return SameAsJSON(x, y)
	}
	x, errX := normal(a)
	y, errY := normal(b)
	return errX == nil && errY == nil && SameAsJSON(x, y)
}

// normal is an event's body as its kind's type, empty lists as empty lists.
func normal(e Event) (any, error) {
	switch e.Kind {
	case academy.AttendanceEvent:
		return e.Attendance()
	case academy.ClassReportEvent:
		r, err := e.ClassReport()
		r.Items, r.Faults = append([]ledger.Item{}, r.Items...), append([]academy.FaultCount{}, r.Faults...)
		for i := range r.Makeups { // it is kept as who had what, so in no order of its own
			r.Makeups[i].People = slices.Sorted(slices.Values(r.Makeups[i].People))
		}
		return r, err
	case academy.PlacementEvent:
		return e.Placement()
	case academy.PromotionEvent:
		return e.Promotion()
	case academy.HoldEvent:
		h, err := e.Hold()
		h.Regions, h.From = append([]safety.Region{}, h.Regions...), e.Day
		return h, err
	case academy.ClearanceEvent:
		return e.Clearance()
	case academy.TallyEvent:
		return e.Tally()
	case academy.ForecastEvent:
		return e.Forecast()
	}
	return e.Body, nil
}

// SameAsJSON says whether two things would be written the same.
func SameAsJSON(a, b any) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && string(x) == string(y)
}

// insertEvents writes events and what each kind has of its own, many rows in
// one statement.
func insertEvents(ctx context.Context, tx *sql.Tx, academyID string, events []Event, replaces map[string]sql.NullInt64) error {
	var heads [][]any
	rows := map[table][][]any{}
	for _, e := range events {
		heads = append(heads, []any{academyID, e.Seq, e.ID, e.Kind, replaces[e.ID], e.RecordedAt.UTC(), e.RecordedBy})
		kind, ok := eventKinds[e.Kind]
		if !ok {
			return fmt.Errorf("event %q is of an unknown kind %q", e.ID, e.Kind)
		}
		own, err := kind.rows(academyID, e)
		if err != nil {
			return fmt.Errorf("the body of event %q cannot be read: %w", e.ID, err)
		}
		for i, t := range kind.tables {
			rows[t] = append(rows[t], own[i]...)
		}
	}
	if err := insertMany(ctx, tx, `INSERT INTO event (academy, seq, id, kind, replaces, recorded_at, recorded_by) VALUES `, `(?,?,?,?,?,?,?)`, ``, heads); err != nil {
		return fmt.Errorf("keeping events: %w", err)
	}
	for _, kind := range academy.EventKinds {
		for _, t := range eventKinds[kind].tables { // a report before its items, which refer to it
			if err := insertMany(ctx, tx, t.start, t.row, ``, rows[t]); err != nil {
				return fmt.Errorf("keeping events: %w", err)
			}
		}
	}
	return nil
}

// Events gives every event of an academy, whole, in its order.
func (s *Store) Events(ctx context.Context, academyID string, each func(Event) error) error {
	return s.view(ctx, func(tx *sql.Tx) error { return eachEvent(ctx, tx, academyID, ``, nil, each) })
}

// EventByID finds one event, or ErrMissing.
func (s *Store) EventByID(ctx context.Context, academyID, id string) (Event, error) {
	return s.oneEvent(ctx, academyID, ` AND e.id = ?`, id)
}

// EventAt finds the event at a place in the log, or ErrMissing.
func (s *Store) EventAt(ctx context.Context, academyID string, seq int64) (Event, error) {
	return s.oneEvent(ctx, academyID, ` AND e.seq = ?`, seq)
}

func (s *Store) oneEvent(ctx context.Context, academyID, where string, arg any) (found Event, err error) {
	got := false
	err = s.view(ctx, func(tx *sql.Tx) error {
		return eachEvent(ctx, tx, academyID, where, []any{arg}, func(e Event) error {
			found, got = e, true
			return nil
		})
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
	return eachEventBy(ctx, tx, "", academyID, where, args, each)
}

// byID has events looked up by their senders' identifiers: of some hundred at once the server would rather go through the whole log.
const byID = ` FORCE INDEX (sent_once)`

// eachEventBy is eachEvent with the index that events are looked up by.
func eachEventBy(ctx context.Context, tx *sql.Tx, index, academyID, where string, args []any, each func(Event) error) error {
	args = append([]any{academyID}, args...)
	var all []Event
	at, kinds := map[int64]int{}, map[string]bool{}
	err := rowsOf(ctx, tx, `SELECT e.seq, e.id, e.kind, COALESCE(r.id, ''), e.recorded_at, e.recorded_by FROM event e`+index+` LEFT JOIN event r ON r.academy = e.academy AND r.seq = e.replaces WHERE e.academy = ?`+where+` ORDER BY e.seq`, args, func(scan func(...any) error) error {
		var e Event
		err := scan(&e.Seq, &e.ID, &e.Kind, &e.Replaces, &e.RecordedAt, &e.RecordedBy)
		at[e.Seq], kinds[e.Kind] = len(all), true
		all = append(all, e)
		return err
	})
	if err != nil {
		return err
	}
	fill := func(seq int64, class, student string, day time.Time, body any) error {
		text, err := json.Marshal(body)
		e := &all[at[seq]]
		e.Class, e.Student, e.Day, e.Body = class, student, calendar.DayOf(day), text
		return err
	}
	join := ` JOIN event e` + index + ` ON e.academy = x.academy AND e.seq = x.seq WHERE e.academy = ?` + where
	for kind := range kinds {
		k, ok := eventKinds[kind]
		if !ok {
			return fmt.Errorf("the log holds events of an unknown kind %q", kind)
		}
		if err := k.whole(ctx, tx, join, args, fill); err != nil {
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
