package academy

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/calendar"
	"vereda/core/season"
)

// A date counts on the weeks before its own, and keeps things out of the weeks its days before lie in.
func TestWhatADateAsks(t *testing.T) {
	s := Season{Start: 20_000 - calendar.Day(20_000%7), Weeks: 8}
	units := []season.Unit{{ID: "a"}, {ID: "b", Risky: true}}
	for _, x := range []struct {
		name              string
		date              SeasonDate
		day               int // of the season, from 0
		today             int
		wanted            []season.Wanted
		barred            []season.Barred
		first, last, upTo int
	}{
		{"on the first day of a week", SeasonDate{Seen: []string{"a"}}, 14, 0, []season.Wanted{{Unit: "a", Week: 2}}, nil, 2, 2, 2},
		{"in the middle of a week, for a track", SeasonDate{Seen: []string{"a"}, Kept: []string{"a"}, Track: "t"}, 17, 0, []season.Wanted{{Unit: "a", Track: "t", Week: 2}}, []season.Barred{{Unit: "a", Track: "t", From: 2, To: 3}}, 2, 3, 2},
		{"three weeks of calm", SeasonDate{Calm: true, Weeks: 3}, 28, 0, nil, []season.Barred{{Unit: "b", From: 2, To: 4}}, 2, 4, 4},
		{"on the first day of all", SeasonDate{Kept: []string{"a"}}, 0, 0, nil, nil, 0, 0, 0},
		{"its weeks are over, itself to come", SeasonDate{Seen: []string{"a"}, Kept: []string{"b"}}, 17, 15, nil, []season.Barred{{Unit: "b", From: 2, To: 3}}, 2, 3, 2},
		{"over", SeasonDate{Seen: []string{"a"}, Kept: []string{"b"}}, 17, 18, nil, nil, 2, 3, 2},
		{"after the season", SeasonDate{Seen: []string{"a"}}, 56, 0, nil, nil, 8, 8, -1},
	} {
		t.Run(x.name, func(t *testing.T) {
			x.date.On = s.Start + calendar.Day(x.day)
			s.Dates = []SeasonDate{x.date}
			wanted, barred := s.Asks(units, s.Start+calendar.Day(x.today))
			assert.Equal(t, x.wanted, wanted)
			assert.Equal(t, x.barred, barred)
			assert.Equal(t, x.upTo, x.date.By(s))
			if x.upTo >= 0 {
				from, to := x.date.Quiet(s)
				assert.Equal(t, []int{x.first, x.last}, []int{from, to})
			}
		})
	}
}
