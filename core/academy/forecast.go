package academy

import (
	"fmt"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/season"
	"vereda/core/validation"
)

// Forecast is what a plan was expected to cover when it was published, and what was asked then. It stays as it was said, however ranks,
// curricula and units change afterwards, so that what happened can be compared with it.
type Forecast struct {
	Season string                `json:"season"`
	Number int                   `json:"number" doc:"How often the season was published, this one counted"`
	Weeks  int                   `json:"weeks"`
	Begin  int                   `json:"begin" doc:"The last week that was over"`
	Line   []season.WeekCoverage `json:"line" doc:"Expected by the end of each week, from that one on"`
	Asked  []Asked               `json:"asked"`
}

// Asked is what a student's next rank asked of the units of a season.
type Asked struct {
	Student string      `json:"student"`
	Needs   []AskedUnit `json:"needs"`
}

// AskedUnit is a unit a student still had to meet, and what of it was open.
type AskedUnit struct {
	Unit   string      `json:"unit"`
	Need   float64     `json:"need" doc:"Exposures in all"`
	Had    float64     `json:"had"`
	Weight float64     `json:"weight"`
	Open   []AskedSide `json:"open"`
}

// AskedSide is a technique on a side, where it stood and where it had to come.
type AskedSide struct {
	Technique string          `json:"technique"`
	Side      library.Side    `json:"side,omitempty"`
	Had       float64         `json:"had"`
	Rung      curriculum.Rung `json:"rung"`
	Needs     curriculum.Rung `json:"needs"`
}

// Limits of a forecast.
const (
	mostAsked      = 5000 // students
	mostAskedUnits = 2000 // of one
)

// Problems says what is wrong with a forecast in itself.
func (f Forecast) Problems() []validation.Problem {
	var found validation.Found
	if f.Season == "" {
		found.Bad("season", "is empty: name the season")
	}
	found.Between("number", f.Number, 1, 100_000, "")
	found.Between("weeks", f.Weeks, 1, longestSeason, "weeks")
	found.Between("begin", f.Begin, 0, f.Weeks, "weeks")
	found.Count("line", len(f.Line), longestSeason+1)
	found.Count("asked", len(f.Asked), mostAsked)
	for i, a := range f.Asked {
		at := fmt.Sprintf("asked[%d]", i)
		if a.Student == "" {
			found.Bad(at+".student", "is missing")
		}
		found.Count(at+".needs", len(a.Needs), mostAskedUnits)
		for j, n := range a.Needs {
			if !(n.Need >= 0 && n.Need <= 1000 && n.Had >= 0 && n.Had <= 1000 && n.Weight >= 0 && n.Weight <= 1e6) {
				found.Bad(fmt.Sprintf("%s.needs[%d]", at, j), "has a number that is out of bounds")
			}
			found.Count(fmt.Sprintf("%s.needs[%d].open", at, j), len(n.Open), 100)
		}
	}
	return found
}

// Forecast reads the body of a forecast.
func (e Event) Forecast() (Forecast, error) { return bodyOf[Forecast](e) }
