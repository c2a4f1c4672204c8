package ledger

import (
	"vereda/core/calendar"
	"vereda/core/library"
)

// Foretold is a range as it was foretold on a day, and what came of it.
type Foretold struct {
	Range Likely
	Share float64       // of the runs in which it was there by the last day that is known
	Came  *calendar.Day // nil while it has not come
}

// Backtest is how a number of ranges held. A range is judged when it was to end by the last day that is known, whether or not what it foretold has come: so which ranges are judged does
// not depend on what came.
type Backtest struct {
	Judged   int     `json:"judged" doc:"Ranges that were to end by now"`
	Within   int     `json:"within" doc:"What they foretold came within them"`
	Before   int     `json:"before" doc:"It came sooner"`
	After    int     `json:"after" doc:"It came later, or has not come"`
	All      int     `json:"all" doc:"Everything that was open, ranges that end later too"`
	Expected float64 `json:"expected" doc:"Of all, how many were to be there by now"`
	Came     int     `json:"came" doc:"And how many are"`
}

// Held is the share of the judged ranges that held; eight of ten are to.
func (b Backtest) Held() float64 {
	if b.Judged == 0 {
		return 0
	}
	return float64(b.Within) / float64(b.Judged)
}

// JudgeRanges holds ranges against what came by the last day that is known.
func JudgeRanges(all []Foretold, known calendar.Day) Backtest {
	b := Backtest{All: len(all)}
	for _, f := range all {
		b.Expected += f.Share
		came := f.Came != nil && *f.Came <= known
		if came {
			b.Came++
		}
		if f.Range.P10 == nil || f.Range.P90 == nil || *f.Range.P90 > known {
			continue
		}
		b.Judged++
		switch {
		case !came || *f.Came > *f.Range.P90:
			b.After++
		case *f.Came < *f.Range.P10:
			b.Before++
		default:
			b.Within++
		}
	}
	return b
}

// ForecastEach is Forecast, and says of each need besides when it will likely be there, from the same runs, and in which share of them by a day.
func ForecastEach(o Outlook, by calendar.Day) (whole Likely, ranges []Likely, shares []float64) {
	runs := o.runs()
	days := make([][]calendar.Day, len(o.Needs))
	for i := range days {
		days[i] = make([]calendar.Day, runs)
		for r := range runs {
			days[i][r] = never
		}
	}
	done, last := o.simulate(func(run, need int, on calendar.Day) { days[need][run] = on })
	whole, exact := o.exact()
	if !exact {
		whole = o.likely(done, last)
	}
	ranges, shares = make([]Likely, len(o.Needs)), make([]float64, len(o.Needs))
	for i := range days {
		n := 0
		for _, d := range days[i] {
			if d <= by {
				n++
			}
		}
		shares[i] = float64(n) / float64(runs)
		ranges[i] = rangeOf(days[i])
	}
	return whole, ranges, shares
}

// Reached is the day on which each technique and side came to each rung above the one it had before a day, from what happened from then on.
type Reached map[ReachedKey]calendar.Day

// ReachedKey is one technique on one side, at one step of the rungs.
type ReachedKey struct {
	Technique string
	Side      library.Side
	Step      int
}

// ReachedSince says when each rung was reached from a day on. Costs as Standings does.
func ReachedSince(lib *library.Library, rules StandingRules, attended []Attended, checked []Checked, since calendar.Day) Reached {
	days := Reached{}
	project(lib, rules, attended, checked, func(s step) {
		for rung := s.before.Rung.Step() + 1; rung <= s.after.Rung.Step(); rung++ {
			if s.on >= since {
				days[ReachedKey{s.after.Technique, s.after.Side, rung}] = s.on
			}
		}
	})
	return days
}

// Add puts two backtests together.
func (b Backtest) Add(c Backtest) Backtest {
	return Backtest{b.Judged + c.Judged, b.Within + c.Within, b.Before + c.Before, b.After + c.After, b.All + c.All, b.Expected + c.Expected, b.Came + c.Came}
}
