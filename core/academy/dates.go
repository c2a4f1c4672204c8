package academy

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/calendar"
	"vereda/core/season"
	"vereda/core/validation"
)

// SeasonDate is a day that a season works toward, or around: a grading day, a competition, a seminar, a guest coach.
type SeasonDate struct {
	ID    string       `json:"id"`
	Kind  string       `json:"kind" enum:"grading,competition,seminar,guest"`
	Name  string       `json:"name" maxLength:"120"`
	On    calendar.Day `json:"on"`
	Track string       `json:"track,omitempty" doc:"Whose it is; all tracks' when left out"`
	Seen  []string     `json:"seen,omitempty" required:"false" maxItems:"100" doc:"Units that must be taught in a week before it"`
	// Kept out of the weeks before: what must not be new then, or what a guest will show.
	Kept    []string `json:"kept,omitempty" required:"false" maxItems:"100" doc:"Units that are not in the weeks before it"`
	Calm    bool     `json:"calm,omitempty" doc:"Nothing that loads a neck or twists a leg in the weeks before it"`
	Weeks   int      `json:"weeks,omitempty" minimum:"0" maximum:"12" doc:"How many weeks before it that is; 1 when left out"`
	Classes []string `json:"classes,omitempty" required:"false" maxItems:"200" doc:"Weekly classes it takes the place of in its week"`
}

// DateKinds are the kinds of dates there are, in words.
var DateKinds = map[string]string{"grading": "grading day", "competition": "competition", "seminar": "seminar", "guest": "guest coach"}

// By is the last week a date can count on: the one before it. What is taught earlier in its own week is not counted on, since a class may
// come after it.
func (d SeasonDate) By(s Season) int { return s.WeekOf(d.On) - 1 }

// Quiet are the weeks in which the days before a date lie, first and last; 0 where there are none.
func (d SeasonDate) Quiet(s Season) (from, to int) {
	if to = s.WeekOf(d.On - 1); to == 0 {
		return 0, 0
	}
	return max(1, s.WeekOf(max(s.Start, d.On-calendar.Day(7*max(1, d.Weeks))))), to
}

// Asks is what the dates still to come ask of the plan of a season, among these units. What would have to be taught in weeks that are over is
// not asked any more: no plan could.
func (s Season) Asks(units []season.Unit, today calendar.Day) (wanted []season.Wanted, barred []season.Barred) {
	for _, d := range s.Dates {
		if s.WeekOf(d.On) == 0 || d.On < today {
			continue
		}
		from, to := d.Quiet(s)
		for _, u := range units {
			if slices.Contains(d.Seen, u.ID) && d.By(s) > 0 && d.By(s) >= s.WeekOf(today) {
				wanted = append(wanted, season.Wanted{Unit: u.ID, Track: d.Track, Week: d.By(s)})
			}
			if to > 0 && (slices.Contains(d.Kept, u.ID) || d.Calm && u.Risky) {
				barred = append(barred, season.Barred{Unit: u.ID, Track: d.Track, From: from, To: to})
			}
		}
	}
	return wanted, barred
}

// DatesOn are the dates of a week, in the order of the days.
func (s Season) DatesOn(week int) []SeasonDate {
	all := slices.DeleteFunc(slices.Clone(s.Dates), func(d SeasonDate) bool { return s.WeekOf(d.On) != week })
	slices.SortStableFunc(all, func(a, b SeasonDate) int { return cmp.Compare(a.On, b.On) })
	return all
}

// checkDates says what is wrong with the dates of a season.
func (s Season) checkDates(classes []Class, found *validation.Found) {
	found.Count("dates", len(s.Dates), 60)
	for i, d := range s.Dates {
		at := fmt.Sprintf("dates[%d].", i)
		found.Name(at+"name", d.Name, "date")
		if DateKinds[d.Kind] == "" {
			found.Bad(at+"kind", "%q: choose grading, competition, seminar or guest", d.Kind)
		}
		if week := s.WeekOf(d.On); week == 0 {
			found.Bad(at+"on", "%s is not in the season, which runs from %s to %s", d.On, s.Start, s.End())
		} else if len(d.Seen) > 0 && week == 1 {
			found.Bad(at+"on", "%s is in the first week: nothing can be taught in a week before it", d.On)
		}
		if slices.ContainsFunc(s.Dates[:i], func(o SeasonDate) bool { return o.ID == d.ID }) || d.ID == "" {
			found.Bad(at+"id", "each date has an identifier of its own")
		}
		found.Between(at+"weeks", d.Weeks, 0, 12, "weeks")
		for _, c := range d.Classes {
			if !slices.ContainsFunc(classes, func(k Class) bool { return k.ID == c }) {
				found.Bad(at+"classes", "class %q is not in the timetable", c)
			}
		}
	}
}
