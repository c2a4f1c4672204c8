// Package calendar holds the one notion of time the core needs: a day. The
// core has no clock; whoever calls it says what day it is.
package calendar

import (
	"time"

	"vereda/core/say"
)

// Day is a date without a time or a zone, counted in days since 1 January
// 1970. Days subtract and compare as numbers. Its text form is 2006-01-02.
type Day int

const layout = "2006-01-02"

// ParseDay reads a date such as "2026-11-24", between First and Last.
func ParseDay(text string) (Day, error) {
	t, err := time.Parse(layout, text)
	if err != nil {
		return 0, say.Errorf("%.40q is not a date: write year-month-day, such as 2026-11-24", text)
	}
	d := DayOf(t)
	if !d.InBounds() {
		return 0, say.Errorf("%s is not between %s and %s", text, First.String(), Last.String())
	}
	return d, nil
}

// MustDay is ParseDay for dates written in code.
func MustDay(text string) Day {
	d, err := ParseDay(text)
	if err != nil {
		panic(err)
	}
	return d
}

// DayOf is the date that t shows in its own zone.
func DayOf(t time.Time) Day {
	y, m, d := t.Date()
	return Day(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// Time is midnight UTC at the start of the day.
func (d Day) Time() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

func (d Day) String() string { return d.Time().Format(layout) }

// Words is the day as people say it: Wed 9 Dec 2026.
func (d Day) Words() string { return d.Time().Format("Mon 2 Jan 2006") }

// Say is the day as people say it, in the reader's language.
func (d Day) Say() say.Sentence { return say.Date(d.Time(), "Mon 2 Jan 2006") }

// As is the day in a layout of the package time, in the reader's language.
func (d Day) As(layout say.Sentence) say.Sentence { return say.Date(d.Time(), layout) }

// MarshalText writes the day as 2006-01-02.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (d *Day) UnmarshalText(text []byte) (err error) {
	*d, err = ParseDay(string(text))
	return err
}

// Weekday counts from Monday, 1, to Sunday, 7.
func (d Day) Weekday() int {
	if w := int(d.Time().Weekday()); w != 0 {
		return w
	}
	return 7
}

// WeekStart is the latest day not after d whose Weekday is first.
func (d Day) WeekStart(first int) Day { return d - Day((d.Weekday()-first+7)%7) }

// MonthsSince counts the whole months from an earlier day to d; a month is
// whole on the same day number, or on the last day of a shorter month.
func (d Day) MonthsSince(earlier Day) int {
	a, b := earlier.Time(), d.Time()
	months := (b.Year()-a.Year())*12 + int(b.Month()) - int(a.Month())
	lastOfMonth := b.AddDate(0, 0, 1).Month() != b.Month()
	if b.Day() < a.Day() && !lastOfMonth {
		months--
	}
	return months
}

// YearsSince counts whole years: an age, when earlier is a birthday.
func (d Day) YearsSince(earlier Day) int { return d.MonthsSince(earlier) / 12 }

// AddMonths is the same day number n months later, or the last day of that
// month when it is shorter.
func (d Day) AddMonths(n int) Day {
	t := d.Time()
	first := time.Date(t.Year(), t.Month()+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	return DayOf(first) + Day(min(t.Day(), last)-1)
}
