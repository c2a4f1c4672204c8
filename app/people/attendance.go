package people

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/exchange"
)

var attendanceColumns = map[string][]string{
	"student": {"student", "name", "member", "full name", "person"}, "day": {"day", "date", "on"}, "class": {"class", "session", "course"}, "time": {"time", "start", "at"}, "track": {"track"}, "part": {"part", "late", "early"},
}

// AttendanceRow is one row of past attendance and what will become of it.
type AttendanceRow struct {
	Line    int          `json:"line"`
	Student string       `json:"student"`
	Class   say.Sentence `json:"class"`
	Summary say.Sentence `json:"summary"`
	Wrong   say.Sentence `json:"wrong,omitempty" doc:"Why not, and the fix"`
	event   academy.Event
	had     bool
}

// AttendancePreview is what a list of past attendance would bring.
type AttendancePreview struct {
	Rows    []AttendanceRow `json:"rows" doc:"The first hundred, those that are wrong before the others"`
	Summary say.Sentence    `json:"summary"`
	New     int             `json:"new"`
	Had     int             `json:"had"`
	Wrong   int             `json:"wrong"`
	Ready   bool            `json:"ready"`
	events  []academy.Event
}

// PreviewAttendance says what a list of past attendance would bring: a line for each student and class. Nothing is written.
func (a *Service) PreviewAttendance(ctx context.Context, u state.User, file exchange.TextFile) (AttendancePreview, error) {
	return a.previewList(ctx, u, file, attendanceList)
}

func (a *Service) previewList(ctx context.Context, u state.User, file exchange.TextFile, of eventList) (AttendancePreview, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return AttendancePreview{}, err
	}
	return f.readList(ctx, file, of)
}

// TakeAttendance keeps a list of past attendance: all of it or nothing. Taken again it adds nothing.
func (a *Service) TakeAttendance(ctx context.Context, u state.User, file exchange.TextFile) (int, error) {
	return a.takeList(ctx, u, file, attendanceList)
}

func (a *Service) takeList(ctx context.Context, u state.User, file exchange.TextFile, of eventList) (int, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return 0, err
	}
	p, err := f.readList(ctx, file, of)
	if err != nil {
		return 0, err
	}
	for _, r := range p.Rows {
		if r.Wrong != "" {
			return 0, state.Invalid("file", "line %d: %s", r.Line, r.Wrong)
		}
	}
	// In one transaction: MostRows of them take some seconds.
	return p.New, a.Record(ctx, u, p.events...)
}

// eventList is a kind of list of past events.
type eventList struct {
	columns map[string][]string
	need    []string
	says    string // its columns, in words
	row     func(f *snapshot, s exchange.Sheet, r exchange.SheetRow, byName map[string][]academy.Person) AttendanceRow
}

var attendanceList = eventList{attendanceColumns, []string{"student", "day"}, "student, date and class (or time)", (*snapshot).attendanceRow}

func (f *snapshot) readList(ctx context.Context, file exchange.TextFile, of eventList) (AttendancePreview, error) {
	p := AttendancePreview{Rows: []AttendanceRow{}}
	s, err := exchange.ReadCSV(file.Name, file.Text, of.columns)
	if err != nil {
		return p, state.Invalid("file", "%v", err)
	}
	for _, column := range of.need {
		if !s.Has(column) {
			return p, state.Invalid("file", "%s: no column is called %s: the columns are %s", file.Name, column, of.says)
		}
	}
	byName := map[string][]academy.Person{}
	for _, x := range f.People {
		byName[library.Fold(x.Name)] = append(byName[library.Fold(x.Name)], x)
		byName[x.ID] = append(byName[x.ID], x)
	}
	seen := map[string]bool{}
	var rows []AttendanceRow
	for _, r := range s.Rows {
		if err := ctx.Err(); err != nil {
			return p, err
		}
		row := of.row(f, s, r, byName)
		if row.Wrong == "" && (seen[row.event.ID] || row.had) {
			row.Summary = "Is here already"
			p.Had++
		} else if row.Wrong == "" {
			p.New++
			p.events = append(p.events, row.event)
		} else {
			p.Wrong++
		}
		seen[row.event.ID] = true
		rows = append(rows, row)
	}
	slices.SortStableFunc(rows, func(x, y AttendanceRow) int { return cmp.Compare(btoi(x.Wrong == ""), btoi(y.Wrong == "")) })
	p.Rows = rows[:min(100, len(rows))]
	p.Ready = p.Wrong == 0 && p.New > 0
	p.Summary = say.F("%d new, %d here already, %d wrong", p.New, p.Had, p.Wrong)
	return p, nil
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// rowOf finds the student and the day of a row.
func (f *snapshot) rowOf(s exchange.Sheet, r exchange.SheetRow, byName map[string][]academy.Person) (row AttendanceRow, p academy.Person, on calendar.Day) {
	row = AttendanceRow{Line: r.Line, Student: s.Get(r, "student")}
	found := byName[library.Fold(row.Student)]
	if len(found) == 0 {
		found = byName[row.Student]
	}
	on, err := exchange.LooseDay(s.Get(r, "day"))
	switch {
	case len(found) == 0:
		row.Wrong = say.F("%.80q is nobody here: add them first, or write the name as it is there", row.Student)
	case len(found) > 1:
		row.Wrong = say.F("there are %d people called %.80s: write the identifier instead", len(found), row.Student)
	case err != nil:
		row.Wrong = say.OfError(err)
	case on > f.Today():
		row.Wrong = say.F("%s is still to come", on)
	}
	if row.Wrong != "" {
		return row, p, on
	}
	row.Student = found[0].Name
	return row, found[0], on
}

func (f *snapshot) attendanceRow(s exchange.Sheet, r exchange.SheetRow, byName map[string][]academy.Person) AttendanceRow {
	row, p, on := f.rowOf(s, r, byName)
	if row.Wrong != "" {
		return row
	}
	c, why := f.classOf(s.Get(r, "class"), s.Get(r, "time"), s.Get(r, "track"), on)
	if row.Wrong = why; why != "" {
		return row
	}
	row.Class = say.F("%s, %s", c.Name, on)
	row.Summary = "Adds it"
	session := academy.Occurrence(c.ID, on)
	_, row.had = f.Session(c.ID, on).Came(p.ID)
	// One identifier for one student, class and day: the same list sent twice is one. Where the attendance was taken back since, it is a
	// new one.
	told := "past " + p.ID + " " + session
	if gone := f.Session(c.ID, on).TakenBack(p.ID); gone > 0 {
		told = fmt.Sprint(told, " after ", gone)
	}
	sum := sha256.Sum256([]byte(told))
	e, err := academy.NewEvent("past-"+hex.EncodeToString(sum[:12]), academy.AttendanceEvent, on, academy.Attendance{Present: true, Part: partOf(s.Get(r, "part"))})
	if err != nil {
		row.Wrong = say.OfError(err)
		return row
	}
	e.Student, e.Class = p.ID, session
	row.event = e
	return row
}

// classOf finds the weekly class of a row: by its name, or by the weekday and what is told of the time and the track.
func (f *snapshot) classOf(name, start, track string, on calendar.Day) (academy.Class, say.Sentence) {
	var there []academy.Class
	for _, c := range f.Classes {
		if !c.Meets(on) {
			continue
		}
		c = c.On(on)
		if name != "" && library.Fold(name) != library.Fold(c.Name) && name != c.ID {
			continue
		}
		if start != "" && strings.TrimPrefix(strings.TrimSpace(start), "0") != strings.TrimPrefix(c.Start, "0") {
			continue
		}
		if track != "" && library.Fold(track) != library.Fold(f.Tracks[c.Track].Name) && track != c.Track {
			continue
		}
		there = append(there, c)
	}
	told := strings.TrimSpace(name + " " + start + " " + track)
	switch {
	case len(there) == 1:
		return there[0], ""
	case len(there) == 0:
		return academy.Class{}, say.F("no class %.80q on %s in the timetable: write its name as it is there", told, weekdays[on.Weekday()-1])
	}
	return academy.Class{}, say.F("%d classes on %s would fit: add a column with the class or its time", len(there), weekdays[on.Weekday()-1])
}

var weekdays = []say.Sentence{"Mondays", "Tuesdays", "Wednesdays", "Thursdays", "Fridays", "Saturdays", "Sundays"}
