package calendar

import "time"

// First and Last bound every date the job has: nobody alive was born before
// the one, and no plan reaches the other.
var (
	First = DayOf(time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC))
	Last  = DayOf(time.Date(2200, 12, 31, 0, 0, 0, 0, time.UTC))
)

// InBounds says whether a day lies within First and Last.
func (d Day) InBounds() bool { return d >= First && d <= Last }
