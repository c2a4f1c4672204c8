package store

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"strconv"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
)

var attendanceKind = eventKind{
	tables: []table{{`INSERT INTO attendance (academy, seq, class, day, student, present, part) VALUES `, `(?,?,?,?,?,?,?)`}},
	rows: func(academyID string, e Event) ([][][]any, error) {
		class, _, err := academy.SplitOccurrence(e.Class)
		if err != nil {
			return nil, err
		}
		a, err := e.Attendance()
		return [][][]any{{{academyID, e.Seq, class, e.Day.String(), e.Student, a.Present, a.Part}}}, err
	},
	read:  readAttendance,
	whole: wholeAttendance,
}

// Attended is what the log says of one student and one class; of two the later
// one counts.
type Attended struct {
	Seq            int64
	Class, Student string
	On             calendar.Day
	academy.Attendance
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
	return give, rowsOf(ctx, q, `SELECT seq, class, DATEDIFF(day, '1970-01-01'), student, present, part FROM attendance WHERE academy = ? AND seq > ? AND seq <= ? ORDER BY seq`, []any{academyID, part.after, part.upTo}, func(scan func(...any) error) error {
		var a Attended
		var class, student, part sql.RawBytes
		err := scan(&a.Seq, &class, &a.On, &student, &a.Present, &part)
		a.Class, a.Student, a.Part = name(class), name(student), name(part)
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
	return rowsOf(ctx, q, `SELECT class, DATEDIFF(day, '1970-01-01'), GROUP_CONCAT(seq, ' ', present, part, ' ', student ORDER BY seq SEPARATOR '`+between+`') FROM attendance FORCE INDEX (of_session) WHERE academy = ? AND seq <= ? GROUP BY day, class ORDER BY day, class`, []any{academyID, upTo}, func(scan func(...any) error) error {
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
			if err != nil || !ok || len(present) == 0 {
				return fmt.Errorf("the attendance of %s on %s cannot be read: %.80q", a.Class, on, entry)
			}
			a.Seq, a.Present, a.Part, a.Student = n, present[0] == '1', name(present[1:]), name(student)
			take(a)
		}
		return nil
	})
}

func wholeAttendance(ctx context.Context, tx *sql.Tx, join string, args []any, fill fillEvent) error {
	return rowsOf(ctx, tx, `SELECT x.seq, x.class, x.student, x.day, x.present, x.part FROM attendance x`+join, args, func(scan func(...any) error) error {
		var seq int64
		var class, student string
		var day time.Time
		var a academy.Attendance
		if err := scan(&seq, &class, &student, &day, &a.Present, &a.Part); err != nil {
			return err
		}
		return fill(seq, academy.Occurrence(class, calendar.DayOf(day)), student, day, a)
	})
}
