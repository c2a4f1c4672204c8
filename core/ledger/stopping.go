package ledger

import "math"

// Falling is a test of whether somebody comes less than they did.
type Falling struct {
	Recent  int     `json:"recent" doc:"Visits in the last weeks"`
	Before  int     `json:"before" doc:"In the weeks before those"`
	P       float64 `json:"p" doc:"How likely so few or fewer are, if nothing had changed"`
	Falling bool    `json:"falling"`
}

// Weeks that are compared, and what counts as falling.
const (
	RecentWeeks = 4
	BeforeWeeks = 12
	fallingP    = 0.05
	fallingMost = 0.6 // of the rate before
)

// Stopping compares the visits of the last weeks with those of the weeks before (the conditional test of two Poisson rates, Przyborowski and Wilenski 1940):
// if nothing changed, each of all the visits is a recent one with the chance of recent ÷ all weeks, and so few or fewer recent ones have the probability P.
// Somebody falls away where P is under 0.05 and the rate under six tenths of what it was.
func Stopping(recent, before int, recentWeeks, beforeWeeks float64) Falling {
	f := Falling{Recent: recent, Before: before, P: 1}
	n := recent + before
	if n == 0 || beforeWeeks <= 0 || recentWeeks <= 0 {
		return f
	}
	p := recentWeeks / (recentWeeks + beforeWeeks)
	f.P = 0
	for k := 0; k <= recent; k++ {
		f.P += math.Exp(logChoose(n, k) + float64(k)*math.Log(p) + float64(n-k)*math.Log(1-p))
	}
	f.P = min(1, f.P)
	f.Falling = f.P < fallingP && float64(recent)/recentWeeks < fallingMost*float64(before)/beforeWeeks
	return f
}

func logChoose(n, k int) float64 {
	a, _ := math.Lgamma(float64(n + 1))
	b, _ := math.Lgamma(float64(k + 1))
	c, _ := math.Lgamma(float64(n - k + 1))
	return a - b - c
}
