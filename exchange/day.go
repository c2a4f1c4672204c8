package exchange

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"vereda/core/calendar"
)

var threeNumbers = regexp.MustCompile(`^(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})$`)

// LooseDay reads a day as lists have it: 2010-03-14, 14.3.2010, 14/03/2010, 3/14/2010, 14 Mar 2010, March 14, 2010. Which of day
// and month comes first is not guessed: 3/4/2010 is refused.
func LooseDay(text string) (calendar.Day, error) {
	text = strings.TrimSpace(text)
	if d, err := calendar.ParseDay(text); err == nil {
		return d, nil
	}
	if m := threeNumbers.FindStringSubmatch(text); m != nil {
		a, _ := strconv.Atoi(m[1])
		b, _ := strconv.Atoi(m[2])
		c, _ := strconv.Atoi(m[3])
		switch {
		case len(m[1]) == 4:
			return dayOf(text, a, b, c)
		case len(m[3]) != 4:
		case strings.Contains(text, "."), a > 12, a == b:
			return dayOf(text, c, b, a)
		case b > 12:
			return dayOf(text, c, a, b)
		default:
			return 0, fmt.Errorf("%.20q may be two days: write it as %04d-%02d-%02d or %04d-%02d-%02d", text, c, b, a, c, a, b)
		}
	}
	for _, layout := range []string{"2 Jan 2006", "2 January 2006", "Jan 2, 2006", "January 2, 2006", "2006-01-02 15:04:05", time.RFC3339} {
		if t, err := time.Parse(layout, text); err == nil {
			return calendar.ParseDay(t.Format("2006-01-02"))
		}
	}
	return 0, fmt.Errorf("%.40q is not a day such as 2010-03-14", text)
}

func dayOf(text string, year, month, day int) (calendar.Day, error) {
	d, err := calendar.ParseDay(fmt.Sprintf("%04d-%02d-%02d", year, month, day))
	if err != nil {
		return 0, fmt.Errorf("%.20q: there is no such day", text)
	}
	return d, nil
}
