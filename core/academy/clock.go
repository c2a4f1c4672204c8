package academy

import (
	"time"

	"vereda/core/mat"
	"vereda/core/say"
)

// RunningClock is the clock of a class that began. How far it is follows from the time it was turned last.
type RunningClock struct {
	Stretches []mat.Stretch  `json:"stretches" maxItems:"1000"`
	FellOut   []say.Sentence `json:"fell_out,omitempty" maxItems:"60"`
	Running   bool           `json:"running"`
	Passed    int            `json:"passed" doc:"Seconds that had passed at the time at"`
	At        time.Time      `json:"at"`
}

// PassedAt is how many seconds have passed at a moment: never less than none, nor more than there are.
func (c RunningClock) PassedAt(now time.Time) int {
	passed := c.Passed
	if c.Running {
		passed += int(now.Sub(c.At) / time.Second)
	}
	return min(max(0, passed), c.Whole())
}

// Whole is how many seconds all stretches have.
func (c RunningClock) Whole() int { return c.Before(len(c.Stretches)) }

// Before is how many seconds pass before the n-th stretch begins, from 0.
func (c RunningClock) Before(n int) int {
	sum := 0
	for _, s := range c.Stretches[:min(n, len(c.Stretches))] {
		sum += s.Seconds
	}
	return sum
}

// Place is the stretch it stands in.
func (c RunningClock) Place() int {
	for i := range c.Stretches {
		if c.Passed < c.Before(i+1) {
			return i
		}
	}
	return max(0, len(c.Stretches)-1)
}
