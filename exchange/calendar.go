package exchange

import (
	"fmt"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"vereda/core/academy"
	"vereda/core/calendar"
)

// Calendar is classes as iCalendar (RFC 5545) has them.
type Calendar struct {
	Name   string
	Zone   *time.Location
	Made   time.Time
	Events []Event
}

// Event is one class on one day.
type Event struct {
	ID           string
	On           calendar.Day
	Hour, Minute int
	Minutes      int
	Title        string
	Place        string
	Notes        string
	Revision     int
}

// Write writes the calendar; times are in UTC, so that no program has to know
// the zone.
func (c Calendar) Write() []byte {
	cal := ics.NewCalendarFor("vereda")
	cal.SetMethod(ics.MethodPublish)
	cal.SetName(c.Name)
	cal.SetXWRCalName(c.Name)
	for _, e := range c.Events {
		y, m, d := e.On.Time().Date()
		start := time.Date(y, m, d, e.Hour, e.Minute, 0, 0, c.Zone)
		v := cal.AddEvent(e.ID)
		v.SetDtStampTime(c.Made)
		v.SetStartAt(start)
		v.SetEndAt(start.Add(time.Duration(e.Minutes) * time.Minute))
		v.SetSummary(e.Title)
		v.SetLocation(e.Place)
		v.SetDescription(e.Notes)
		v.SetSequence(e.Revision)
	}
	return []byte(cal.Serialize(ics.WithNewLineWindows))
}

var icalDays = map[string]int{"MO": 1, "TU": 2, "WE": 3, "TH": 4, "FR": 5, "SA": 6, "SU": 7}

// ReadTimetableCalendar reads weekly classes from an iCalendar file: each event
// that recurs every week is a class for each weekday it names, each other one counts once for its weekday. Events
// alike but for the date are one class. A rule's weekdays are those of the event's own zone; the
// classes are in the academy's. It says of what it leaves out, why: today is what has ended by then.
func ReadTimetableCalendar(text []byte, zone *time.Location, today calendar.Day) (classes []academy.Class, left []string, err error) {
	cal, err := ics.ParseCalendar(strings.NewReader(string(text)))
	if err != nil {
		return nil, nil, fmt.Errorf("this is not an iCalendar file (%v): export the calendar again", err)
	}
	for i, e := range cal.Events() {
		value := func(p ics.ComponentProperty) string {
			if x := e.GetProperty(p); x != nil {
				return x.Value
			}
			return ""
		}
		name := value(ics.ComponentPropertySummary)
		leave := func(why string) { left = append(left, fmt.Sprintf("event %d, %s: %s", i+1, name, why)) }
		start, err := e.GetStartAt()
		if err != nil || name == "" {
			left = append(left, fmt.Sprintf("event %d: it has no name or no start", i+1))
			continue
		}
		end, err := e.GetEndAt()
		if err != nil {
			end = start.Add(time.Hour)
			leave("it has no end; an hour is assumed")
		}
		length := int(end.Sub(start).Minutes())
		if at := e.GetProperty(ics.ComponentPropertyDtStart); !strings.HasSuffix(at.Value, "Z") && at.ICalParameters["TZID"] == nil {
			// Without a zone it is the time on the academy's clock.
			start = time.Date(start.Year(), start.Month(), start.Day(), start.Hour(), start.Minute(), 0, 0, zone)
		}
		rule, why := readRule(value(ics.ComponentPropertyRrule), zone, today)
		if why != "" {
			leave(why)
			continue
		}
		here := start.In(zone)
		days := []int{calendar.DayOf(here).Weekday()}
		if rule.days != nil {
			shift := int(calendar.DayOf(here) - calendar.DayOf(start))
			days = nil
			for _, d := range rule.days {
				days = append(days, (d-1+shift+7)%7+1)
			}
		}
		for _, d := range days {
			c := academy.Class{Name: name, Hours: academy.Hours{Weekday: d, Start: here.Format("15:04"), Minutes: length, Mat: value(ics.ComponentPropertyLocation)}}
			if !slices.ContainsFunc(classes, func(had academy.Class) bool { return had.Name == c.Name && had.Hours == c.Hours }) {
				classes = append(classes, c)
			}
		}
	}
	return classes, left, nil
}

// weeklyRule is a recurrence of every week: on which weekdays of the event's own
// zone, nil for that of its start.
type weeklyRule struct{ days []int }

// readRule reads a recurrence rule; why says what keeps it from being a weekly class.
func readRule(rule string, zone *time.Location, today calendar.Day) (r weeklyRule, why string) {
	if rule == "" {
		return r, ""
	}
	parts := map[string]string{}
	for _, part := range strings.Split(rule, ";") {
		k, v, _ := strings.Cut(part, "=")
		parts[strings.ToUpper(k)] = strings.ToUpper(v)
	}
	if parts["FREQ"] != "WEEKLY" {
		return r, "it does not recur weekly"
	}
	if n := parts["INTERVAL"]; n != "" && n != "1" {
		return r, fmt.Sprintf("it recurs every %s weeks, and a timetable is of every week: add it by hand, or close the weeks between", n)
	}
	if until := parts["UNTIL"]; until != "" {
		end, err := time.Parse("20060102", until[:min(8, len(until))])
		if at, errAt := time.Parse("20060102T150405Z", until); errAt == nil {
			end, err = at.In(zone), nil
		}
		if err != nil {
			return r, fmt.Sprintf("its end %q cannot be read", until)
		}
		if calendar.DayOf(end) < today {
			return r, "it ended on " + calendar.DayOf(end).Words()
		}
	}
	if days := parts["BYDAY"]; days != "" {
		for _, d := range strings.Split(days, ",") {
			n := icalDays[d]
			if n == 0 {
				return r, fmt.Sprintf("%q is not a weekday", d)
			}
			r.days = append(r.days, n)
		}
	}
	return r, ""
}
