package academy

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
)

// A class that is moved again and again is judged day by day against the plain list of what was said: the change that begins last, of those
// that were not replaced by one that begins no later.
func TestHoursOfEachDay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		hours := func(name string) Hours {
			return Hours{Weekday: rapid.IntRange(1, 7).Draw(t, name), Start: "18:00", Minutes: rapid.IntRange(60, 62).Draw(t, name+" minutes")}
		}
		c := Class{Hours: hours("at first")}
		var days [60]Hours // what each day has
		for d := range days {
			days[d] = c.Hours
		}
		first := 0
		if rapid.Bool().Draw(t, "begins") {
			first = rapid.IntRange(0, 20).Draw(t, "first day")
			c.From = new(tuesday + calendar.Day(first))
		}
		for range rapid.IntRange(0, 5).Draw(t, "moves") {
			from, to := rapid.IntRange(0, 59).Draw(t, "from"), hours("to")
			c = c.MovedOn(tuesday+calendar.Day(from), to)
			for d := from; d < len(days); d++ {
				days[d] = to
			}
		}
		var found []calendar.Day
		for d, want := range days {
			on := tuesday + calendar.Day(d)
			if d >= first {
				require.Equal(t, want, c.On(on).Hours, "day %d of %+v", d, c)
			}
			meets := d >= first && want.Weekday == on.Weekday()
			require.Equal(t, meets, c.Meets(on), "day %d of %+v", d, c)
			if meets {
				found = append(found, on)
			}
		}
		s := Season{Start: tuesday, Weeks: len(days) / 7}
		for w := 1; w <= s.Weeks; w++ {
			on := s.DayOf(w, c)
			require.Equal(t, w, s.WeekOf(on))
			any := false
			for _, d := range found {
				if s.WeekOf(d) == w && !any {
					require.Equal(t, d, on, "week %d of %+v", w, c)
					any = true
				}
			}
			require.Equal(t, any, s.Meets(w, c))
		}
	})
}

func TestDaysOfAClassAreChecked(t *testing.T) {
	r := &Records{Tracks: map[string]Track{"adults": {}}}
	good := Class{Name: "Evening", Track: "adults", Hours: Hours{Weekday: 2, Start: "18:00", Minutes: 60}}
	assert.Empty(t, r.CheckClass(good))
	moved := good.MovedOn(tuesday, Hours{Weekday: 4, Start: "18:00", Minutes: 60}).MovedOn(tuesday+14, good.Hours)
	assert.Empty(t, r.CheckClass(moved))
	assert.Len(t, moved.Before, 2)
	for field, change := range map[string]func(*Class){
		"until":             func(c *Class) { c.From, c.Until = new(tuesday), new(tuesday-1) },
		"before[1].last":    func(c *Class) { c.Before[1].Last = c.Before[0].Last },
		"before[0].last":    func(c *Class) { c.From = new(tuesday + 7) },
		"before[0].last ":   func(c *Class) { c.Before[0].Last = calendar.First - 1 },
		"before[0].weekday": func(c *Class) { c.Before[0].Weekday = 8 },
		"before[1].minutes": func(c *Class) { c.Before[1].Minutes = 5000 },
		"before[0].start":   func(c *Class) { c.Before[0].Start = "late" },
	} {
		c := moved
		c.Before = append([]PastHours{}, moved.Before...)
		change(&c)
		found := r.CheckClass(c)
		require.NotEmpty(t, found, field)
		assert.Equal(t, strings.TrimSpace(field), found[0].Field)
	}
}

// What a plan counts on: the weekday at its end, and never more minutes to teach than any of its weeks has.
func TestComingHours(t *testing.T) {
	c := Class{Hours: Hours{Weekday: 2, TeachMinutes: 20}}
	c = c.MovedOn(tuesday+14, Hours{Weekday: 4, TeachMinutes: 40})
	assert.Equal(t, Hours{Weekday: 4, TeachMinutes: 20}, c.Coming(tuesday, tuesday+28))
	assert.Equal(t, Hours{Weekday: 4, TeachMinutes: 40}, c.Coming(tuesday+14, tuesday+28))
	assert.Equal(t, Hours{Weekday: 2, TeachMinutes: 20}, c.Coming(tuesday, tuesday+13))
}

func TestWhoAClassIsFor(t *testing.T) {
	born := func(years int) Person { return Person{Birth: new(tuesday - calendar.Day(years*366))} }
	for name, x := range map[string]struct {
		track  Track
		who    Person
		ladder string
		want   string
	}{
		"a child among adults":             {Track{Audience: "adult"}, born(9), "youth", "on a youth ladder: these classes are for adults"},
		"a youth on the adults' ladder":    {Track{Audience: "adult"}, born(16), "adult", ""},
		"a child under the least age":      {Track{Audience: "all", MinAge: 12}, born(9), "youth", "9 years old: these classes are for 12 and over"},
		"as old as the least age":          {Track{Audience: "all", MinAge: 12}, Person{Birth: new(tuesday.AddMonths(-144))}, "youth", ""},
		"a day younger":                    {Track{Audience: "all", MinAge: 12}, Person{Birth: new(tuesday.AddMonths(-144) + 1)}, "youth", "11 years old: these classes are for 12 and over"},
		"an adult among children":          {Track{Audience: "youth"}, born(40), "adult", "an adult: these classes are for children and youths"},
		"nobody knows how old, of adults":  {Track{Audience: "youth"}, Person{}, "adult", ""},
		"an unknown age on a youth ladder": {Track{Audience: "adult"}, Person{}, "youth", "on a youth ladder: these classes are for adults"},
		"a class for all":                  {Track{Audience: "all"}, born(9), "youth", ""},
	} {
		assert.Equal(t, x.want, x.track.Outside(x.who, x.ladder, tuesday).String(), name)
	}
}
