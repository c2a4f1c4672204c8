package exchange

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vereda/core/calendar"
)

func TestDaysAreReadAsListsHaveThem(t *testing.T) {
	for text, want := range map[string]string{
		"2010-03-14": "2010-03-14", "2010/3/4": "2010-03-04", "14.3.2010": "2010-03-14", "4.3.2010": "2010-03-04", "14/03/2010": "2010-03-14", "3/14/2010": "2010-03-14", "3/3/2010": "2010-03-03",
		"14 Mar 2010": "2010-03-14", "March 14, 2010": "2010-03-14", " 2010-03-14 ": "2010-03-14", "2010-03-14 18:30:00": "2010-03-14",
	} {
		got, err := LooseDay(text)
		assert.NoError(t, err, text)
		assert.Equal(t, want, got.String(), text)
	}
	for text, why := range map[string]string{"3/4/2010": "may be two days: write it as 2010-04-03 or 2010-03-04", "31.2.2010": "no such day", "14.3.10": "is not a day", "": "is not a day", "yesterday": "is not a day", "2010-13-01": "no such day", "1/1/0010": "no such day"} {
		_, err := LooseDay(text)
		assert.ErrorContains(t, err, why, text)
	}
	rapid.Check(t, func(t *rapid.T) {
		d := calendar.Day(rapid.IntRange(-20000, 40000).Draw(t, "day"))
		for _, layout := range []string{"2006-01-02", "2.1.2006", "02.01.2006", "2 Jan 2006", "January 2, 2006"} {
			got, err := LooseDay(d.Time().Format(layout))
			if err != nil || got != d {
				t.Fatalf("%s: %v, %v", d.Time().Format(layout), got, err)
			}
		}
	})
}
