package state

import (
	"cmp"
	"slices"

	"vereda/core/academy"
	"vereda/core/calendar"
)

// AsPublished is the snapshot as of a day with the seasons alone that were published by then: what a forecast of that day had to go by.
func (s *Snapshot) AsPublished(day calendar.Day) *Snapshot {
	was := s.AsOf(day)
	type key struct{}
	return Remember(was, key{}, func() *Snapshot {
		then, set := *was, *was.Set
		set.Seasons = slices.DeleteFunc(slices.Clone(was.Seasons), func(x academy.Season) bool {
			return x.Published == nil || !x.Published.On.Before(day.Time())
		})
		then.Set, then.memo = &set, &memo{}
		return &then
	})
}

// AsOf is the snapshot with nothing in its log from a day on: what was known of who came, what was reached and what was checked before it. The
// records are as they are. Costs the checks, and one step for each student and class: their visits and sessions are shared.
func (s *Snapshot) AsOf(day calendar.Day) *Snapshot {
	type at struct {
		day    calendar.Day
		checks int64
	}
	// Who was in what is remembered anew when that changes; checks are not, so those of the past are asked.
	checks := int64(0)
	for c := range s.AllChecks {
		if c.On < day {
			checks += c.Seq
		}
	}
	return RememberLast(s, slotOf(day), at{day, checks}, func() *Snapshot {
		l := *s.Log
		l.students, l.classes = make(map[string]*studentLog, len(s.students)), make(map[string]*classLog, len(s.classes))
		l.reports = &reportIndex{}
		for id, was := range s.students {
			n, _ := slices.BinarySearchFunc(was.visits, day, func(v Visit, on calendar.Day) int { return cmp.Compare(v.On, on) })
			one := &studentLog{visits: was.visits[:n:n]} // a log that was shown is never changed, so its days are shared
			for _, c := range was.checks {
				if c.On < day {
					one.checks = append(one.checks, c)
				}
			}
			l.students[id] = one
		}
		for id, was := range s.classes {
			n, _ := was.find(day)
			l.classes[id] = &classLog{sessions: was.sessions[:n:n]}
		}
		after := *s
		after.Log, after.memo = &l, &memo{}
		return &after
	})
}
