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
	return []byte(cal.Serialize())
}

var icalDays = map[string]int{"MO": 1, "TU": 2, "WE": 3, "TH": 4, "FR": 5, "SA": 6, "SU": 7}

// ReadTimetableCalendar reads weekly classes from an iCalendar file: each event
// that recurs weekly is a class for each weekday it names, each other one counts once for its weekday. Events
// alike but for the date are one class. It says of what it leaves out, why.
func ReadTimetableCalendar(text []byte, zone *time.Location) (classes []academy.Class, left []string, err error) {
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
		start, err := e.GetStartAt()
		if err != nil || name == "" {
			left = append(left, fmt.Sprintf("event %d: it has no name or no start", i+1))
			continue
		}
		end, err := e.GetEndAt()
		if err != nil {
			end = start.Add(time.Hour)
			left = append(left, fmt.Sprintf("event %d, %s: it has no end; an hour is assumed", i+1, name))
		}
		start = start.In(zone)
		days := []int{(int(start.Weekday())+6)%7 + 1}
		rule := value(ics.ComponentPropertyRrule)
		if rule != "" && !strings.Contains(rule, "FREQ=WEEKLY") {
			left = append(left, fmt.Sprintf("event %d, %s: it does not recur weekly", i+1, name))
			continue
		}
		for _, part := range strings.Split(rule, ";") {
			if by, ok := strings.CutPrefix(part, "BYDAY="); ok {
				days = nil
				for _, d := range strings.Split(by, ",") {
					if n := icalDays[d]; n > 0 {
						days = append(days, n)
					}
				}
			}
		}
		for _, d := range days {
			c := academy.Class{Name: name, Weekday: d, Start: start.Format("15:04"), Minutes: int(end.Sub(start).Minutes()), Mat: value(ics.ComponentPropertyLocation)}
			if !slices.ContainsFunc(classes, func(had academy.Class) bool { return had == c }) {
				classes = append(classes, c)
			}
		}
	}
	return classes, left, nil
}
