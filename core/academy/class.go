package academy

import (
	"fmt"
	"slices"

	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/validation"
)

// Class is one class of the weekly timetable, as it is now. What it was like before stays known: a class that moves to another weekday was
// held on the old one until then.
type Class struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Track string `json:"track"`
	Hours
	From   *calendar.Day `json:"from,omitempty" doc:"First day it may take place on; always there when left out"`
	Until  *calendar.Day `json:"until,omitempty" doc:"Last day it may take place on; without end when left out"`
	Before []PastHours   `json:"before,omitempty" required:"false" maxItems:"60" doc:"When and where it was before, the oldest first"`
}

// Outside says why somebody is not whom the classes of a track are for, empty where they are; audience is whom their ladder is for. Nobody is
// refused for it: whoever lets them in is to see it.
func (t Track) Outside(p Person, audience string, on calendar.Day) say.Sentence {
	age, known := p.Age(on)
	switch {
	case known && age < t.MinAge:
		return say.F("%d years old: these classes are for %d and over", age, t.MinAge)
	case t.Audience == "adult" && audience == "youth" && p.Minor(on):
		return "on a youth ladder: these classes are for adults"
	case t.Audience == "youth" && known && age >= 18:
		return "an adult: these classes are for children and youths"
	}
	return ""
}

// Hours are when, how long and where a weekly class is.
type Hours struct {
	Weekday      int    `json:"weekday" doc:"Monday is 1"`
	Start        string `json:"start" doc:"Hours and minutes, 18:00"`
	Minutes      int    `json:"minutes"`
	TeachMinutes int    `json:"teach_minutes" doc:"Of these, for teaching and drilling what the season plans"`
	Mat          string `json:"mat"`
}

// PastHours are the hours a class had until a day, that day included.
type PastHours struct {
	Hours
	Last calendar.Day `json:"last" doc:"Last day of these hours"`
}

// Begins is when the class begins, in minutes after midnight.
func (h Hours) Begins() int {
	var hour, minute int
	fmt.Sscanf(h.Start, "%d:%d", &hour, &minute)
	return hour*60 + minute
}

// On is the class with the hours it has on a day.
func (c Class) On(day calendar.Day) Class {
	for _, b := range c.Before {
		if day <= b.Last {
			c.Hours = b.Hours
			return c
		}
	}
	return c
}

// Meets says whether the timetable has the class on a day.
func (c Class) Meets(day calendar.Day) bool {
	return (c.From == nil || day >= *c.From) && (c.Until == nil || day <= *c.Until) && c.On(day).Weekday == day.Weekday()
}

// Ended says whether a day is after the last one of the class.
func (c Class) Ended(day calendar.Day) bool { return c.Until != nil && day > *c.Until }

// Coming are the hours a plan of some days counts on, first and last day included: the weekday it has at their end, and the least minutes to
// teach it has in them.
func (c Class) Coming(first, last calendar.Day) Hours {
	h := c.On(last).Hours
	for _, b := range c.Before {
		if b.Last >= first && b.Last < last {
			h.TeachMinutes = min(h.TeachMinutes, b.TeachMinutes)
		}
	}
	return h
}

// MovedOn is the class with other hours from a day on: those it has are kept for the days before. A change of what begins on that day, or
// later, is replaced by it.
func (c Class) MovedOn(from calendar.Day, to Hours) Class {
	then := c.On(from - 1).Hours
	c.Before = slices.DeleteFunc(slices.Clone(c.Before), func(b PastHours) bool { return b.Last >= from-1 })
	if c.Hours = to; then != to && (c.From == nil || *c.From < from) {
		c.Before = append(c.Before, PastHours{then, from - 1})
	}
	return c
}

// DayOf is the day of a class in a week of the season: the first on which the timetable has it, and the day of its hours where there is none.
func (s Season) DayOf(week int, c Class) calendar.Day {
	first := s.Start + calendar.Day(7*(week-1))
	by := func(h Hours) calendar.Day { return first + calendar.Day((h.Weekday-first.Weekday()+7)%7) }
	for _, b := range c.Before {
		if day := by(b.Hours); b.Last >= first && c.Meets(day) {
			return day
		}
	}
	return by(c.On(first + 6).Hours)
}

// Meets says whether the timetable has a class in a week of the season.
func (s Season) Meets(week int, c Class) bool { return c.Meets(s.DayOf(week, c)) }

// checkHours says what is wrong with when and where a class is.
func checkHours(found *validation.Found, at string, h Hours) {
	if h.Weekday < 1 || h.Weekday > 7 {
		found.Bad(at+"weekday", "%d is outside 1 (Monday) to 7", h.Weekday)
	}
	if !clockTime.MatchString(h.Start) {
		found.Bad(at+"start", "%.20q is not a time such as 18:30", h.Start)
	}
	found.Between(at+"minutes", h.Minutes, 10, 300, "minutes")
	if h.TeachMinutes < 0 || h.TeachMinutes > h.Minutes {
		found.Bad(at+"teach_minutes", "%d is outside 0 to the %d minutes of the class", h.TeachMinutes, h.Minutes)
	}
	found.Text(at+"mat", h.Mat, validation.MostName)
}

// checkDays says what is wrong with the days a class is there, and with the hours it had before.
func (c Class) checkDays(found *validation.Found) {
	if c.From != nil && c.Until != nil && *c.Until < *c.From {
		found.Bad("until", "%s is before its first day, %s", *c.Until, *c.From)
	}
	found.Count("before", len(c.Before), 60)
	for i, b := range c.Before {
		at := fmt.Sprintf("before[%d].", i)
		checkHours(found, at, b.Hours)
		if !b.Last.InBounds() {
			found.Bad(at+"last", "%s is not between %s and %s", b.Last, calendar.First, calendar.Last)
		}
		if i > 0 && b.Last <= c.Before[i-1].Last || c.From != nil && b.Last < *c.From {
			found.Bad(at+"last", "%s: the days follow each other, and none is before the first", b.Last)
		}
	}
}
