package academy

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/season"
)

var tuesday = calendar.MustDay("2026-11-24")

// A class's day and its week lead back to each other, whatever day weeks start on.
func TestWeeksAndDaysOfASeason(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := Season{Start: tuesday + calendar.Day(rapid.IntRange(0, 400).Draw(t, "start")), Weeks: rapid.IntRange(1, 52).Draw(t, "weeks")}
		c := Class{Hours: Hours{Weekday: rapid.IntRange(1, 7).Draw(t, "weekday")}}
		week := rapid.IntRange(1, s.Weeks).Draw(t, "week")
		on := s.DayOf(week, c)
		require.Equal(t, c.Weekday, on.Weekday())
		require.Equal(t, week, s.WeekOf(on))
		require.Zero(t, s.WeekOf(s.Start-1))
		require.Zero(t, s.WeekOf(s.Start+calendar.Day(7*s.Weeks)))
	})
}

func TestOccurrencesNameAClassAndADay(t *testing.T) {
	class, on, err := SplitOccurrence(Occurrence("fund.early", tuesday))
	require.NoError(t, err)
	assert.Equal(t, "fund.early", class)
	assert.Equal(t, tuesday, on)
	for _, bad := range []string{"", "fund", "fund.2026-13-01", "fund.tomorrow"} {
		_, _, err := SplitOccurrence(bad)
		assert.Error(t, err, bad)
	}
}

func TestSeasonCheckNamesFieldAndMend(t *testing.T) {
	classes := []Class{{ID: "mon"}}
	assert.Empty(t, Season{Name: "Winter", Weeks: 6, Closures: []Closure{{Week: 3}, {Week: 6, Class: "mon"}}}.Check(classes))
	for field, s := range map[string]Season{
		"name":              {Name: "  ", Weeks: 6},
		"weeks":             {Name: "Winter"},
		"closures[0].week":  {Name: "Winter", Weeks: 2, Closures: []Closure{{Week: 3}}},
		"closures[0].class": {Name: "Winter", Weeks: 2, Closures: []Closure{{Week: 1, Class: "tue"}}},
	} {
		found := s.Check(classes)
		if assert.NotEmpty(t, found, field) {
			assert.Equal(t, field, found[0].Field)
		}
	}
}

func TestSettingsFillInWhatIsNotSet(t *testing.T) {
	s := Settings{}.WithDefaults()
	assert.Equal(t, 1, s.WeekStart)
	assert.Equal(t, ledger.DefaultStandard, s.Standard)
	assert.Equal(t, season.DefaultSpacing, s.Spacing)
	assert.Equal(t, 2.0, s.SeasonNeed)
	assert.NotNil(t, s.Gates)
	own := Settings{WeekStart: 7, SeasonNeed: 3}
	assert.Equal(t, 7, own.WithDefaults().WeekStart)
	assert.Equal(t, 3.0, own.WithDefaults().SeasonNeed)
}

func TestWhatACheckCountsAs(t *testing.T) {
	met := &ledger.Verdict{Met: true, Rung: curriculum.Live}
	not := &ledger.Verdict{}
	for name, c := range map[string]struct {
		body Check
		met  bool
		rung curriculum.Rung
	}{
		"as computed":               {Check{Verdict: met}, true, curriculum.Live},
		"not met":                   {Check{Verdict: not}, false, ""},
		"overruled to met":          {Check{Verdict: not, Overruled: &Overrule{Met: true}}, true, curriculum.Passed},
		"overruled to not met":      {Check{Verdict: met, Overruled: &Overrule{Met: false}}, false, curriculum.Live},
		"overruled, still the rung": {Check{Verdict: met, Overruled: &Overrule{Met: true}}, true, curriculum.Live},
	} {
		met, rung := c.body.Stands()
		assert.Equal(t, c.met, met, name)
		assert.Equal(t, c.rung, rung, name)
	}
}

func TestPeople(t *testing.T) {
	birth := calendar.MustDay("2008-11-25")
	p := Person{Name: "Åsa de  Vrij", Birth: &birth}
	assert.Equal(t, "ÅdV", p.Initials())
	assert.True(t, p.Minor(tuesday), "eighteen tomorrow")
	assert.False(t, p.Minor(tuesday+1))
	p.Birth = nil
	assert.True(t, p.Minor(tuesday), "of unknown age")
	_, known := p.Age(tuesday)
	assert.False(t, known)
}
