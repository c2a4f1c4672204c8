package ledger

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/optimize"

	"vereda/core/calendar"
	"vereda/core/validation"
)

// Course is what happened to one student with one technique on one side: checks, and the classes that touched it, by day.
type Course struct {
	Checks    []CheckedOn    `json:"checks" doc:"By day"`
	Refreshed []calendar.Day `json:"refreshed,omitempty" required:"false" doc:"Days of classes that touched it, by day"`
}

// CheckedOn is one check.
type CheckedOn struct {
	On  calendar.Day `json:"on"`
	Met bool         `json:"met"`
}

// Curve is how fast things fade.
type Curve struct {
	First  float64 `json:"first" doc:"Half-life after the first success, days"`
	Growth float64 `json:"growth" doc:"What a further success multiplies it by"`
	Shrink float64 `json:"shrink" doc:"What a failure multiplies it by"`
}

// Score is how well a curve foretells checks.
type Score struct {
	LogLoss float64 `json:"log_loss" doc:"Mean of −ln of the chance given to what happened"`
	Brier   float64 `json:"brier" doc:"Mean square of the chance given less what happened, 0 or 1"`
}

// RetentionFit is a curve fitted to an academy's record beside the one it uses.
type RetentionFit struct {
	Default    Curve `json:"default"`
	Fitted     Curve `json:"fitted"`
	Checks     int   `json:"checks" doc:"That say something: after a success"`
	Held       int   `json:"held" doc:"Of them kept out of the fit: the newest"`
	OfDefault  Score `json:"of_default" doc:"On those"`
	OfFitted   Score `json:"of_fitted"`
	Better     bool  `json:"better" doc:"The fitted one foretells them better, by both"`
	EnoughData bool  `json:"enough_data"`
}

const (
	mostFitted   = 4000   // the newest
	fewestChecks = 60     // under which nothing is fitted
	heldShare    = 0.25   // of the checks, the newest, judge both curves
	pull         = 12.0   // toward the default: as if so many checks spoke for it, at a factor of e away
	least, most  = 3, 400 // days of a first half-life
)

// foretold is one check with what was known before it.
type foretold struct {
	on      calendar.Day
	met     bool
	days    float64 // since last fresh
	history []bool  // checks since the first success, met or not
}

// foretelling lists the checks that say something of fading: those after a first success.
func foretelling(courses []Course) []foretold {
	var all []foretold
	for _, c := range courses {
		var fresh calendar.Day
		var history []bool // after the first success
		passed := false
		refreshed := c.Refreshed
		for _, x := range c.Checks {
			for len(refreshed) > 0 && refreshed[0] <= x.On {
				if passed && refreshed[0] < x.On {
					fresh = max(fresh, refreshed[0])
				}
				refreshed = refreshed[1:]
			}
			if passed {
				all = append(all, foretold{on: x.On, met: x.Met, days: float64(x.On - fresh), history: slices.Clone(history)})
				history = append(history, x.Met)
			}
			if x.Met {
				passed, fresh = true, x.On
			}
		}
	}
	return all
}

// chance is what a curve gives a check to be met.
func (c Curve) chance(f foretold, floor float64) float64 {
	h := c.First
	for _, met := range f.history {
		if met {
			h = min(longestHalfLife, h*c.Growth)
		} else {
			h = max(floor, h*c.Shrink)
		}
	}
	return min(0.99, max(0.01, math.Pow(2, -f.days/h)))
}

func (c Curve) score(all []foretold, floor float64) Score {
	var s Score
	for _, f := range all {
		p := c.chance(f, floor)
		if f.met {
			s.LogLoss -= math.Log(p)
			s.Brier += square(1 - p)
		} else {
			s.LogLoss -= math.Log(1 - p)
			s.Brier += square(p)
		}
	}
	n := max(1, float64(len(all)))
	return Score{s.LogLoss / n, s.Brier / n}
}

// FitRetention fits half-life, growth and shrinking to the record, pulled toward the rules in use, on all but the newest quarter of the checks, and judges
// both curves by that quarter. It takes the checks × the steps of the search (Nelder and Mead 1965), at most 250, and at most 4000 checks.
func FitRetention(courses []Course, rules StandingRules) RetentionFit {
	all := foretelling(courses)
	slices.SortStableFunc(all, func(a, b foretold) int { return cmp.Compare(a.on, b.on) })
	all = all[max(0, len(all)-mostFitted):]
	fit := RetentionFit{Default: Curve{rules.FirstHalfLife, rules.growth(), rules.shrink()}, Checks: len(all)}
	fit.Fitted = fit.Default
	if len(all) < fewestChecks {
		return fit
	}
	fit.EnoughData = true
	fit.Held = int(float64(len(all)) * heldShare)
	train, held := all[:len(all)-fit.Held], all[len(all)-fit.Held:]
	at := func(x []float64) Curve {
		return Curve{First: fit.Default.First * math.Exp(x[0]), Growth: fit.Default.Growth * math.Exp(x[1]), Shrink: fit.Default.Shrink * math.Exp(x[2])}
	}
	loss := func(x []float64) float64 {
		c := at(x)
		away := 0.0
		for _, d := range x {
			away += d * d
		}
		if c.First < least || c.First > most || c.Growth < 1 || c.Growth > 5 || c.Shrink < 0.1 || c.Shrink > 1 {
			return 1e6 * (1 + away)
		}
		return float64(len(train))*c.score(train, rules.LeastHalfLife).LogLoss + pull/2*away
	}
	found, err := optimize.Minimize(optimize.Problem{Func: loss}, []float64{0, 0, 0}, &optimize.Settings{FuncEvaluations: 250}, &optimize.NelderMead{})
	if found != nil && (err == nil || found.F < loss([]float64{0, 0, 0})) && found.F < 1e5*float64(len(train)) {
		fit.Fitted = at(found.X)
	}
	fit.OfDefault, fit.OfFitted = fit.Default.score(held, rules.LeastHalfLife), fit.Fitted.score(held, rules.LeastHalfLife)
	fit.Better = fit.OfFitted.LogLoss < fit.OfDefault.LogLoss && fit.OfFitted.Brier < fit.OfDefault.Brier
	return fit
}

// CourseProblems says what is wrong with courses.
func CourseProblems(courses []Course) []validation.Problem {
	var found validation.Found
	found.Count("courses", len(courses), 200_000)
	for i, c := range courses {
		for j, x := range c.Checks {
			if !x.On.InBounds() || j > 0 && x.On < c.Checks[j-1].On {
				found.Bad(fmt.Sprintf("courses[%d].checks[%d].on", i, j), "%s: write the checks by day", x.On)
			}
		}
		for j, d := range c.Refreshed {
			if !d.InBounds() || j > 0 && d < c.Refreshed[j-1] {
				found.Bad(fmt.Sprintf("courses[%d].refreshed[%d]", i, j), "%s: write the days in their order", d)
			}
		}
	}
	return found
}
