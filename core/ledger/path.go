package ledger

import (
	"slices"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
)

// PathPoint is how far somebody was at the end of a day on the way to a curriculum.
type PathPoint struct {
	On    calendar.Day `json:"on"`
	Share float64      `json:"share" doc:"Weights of the requirements reached as they are required, none due for a refresh ÷ all weights, 0 to 1"`
	Met   float64      `json:"met" doc:"Weights of the requirements seen often enough to have been met on every side ÷ all weights, 0 to 1"`
}

// Path is how far somebody was at the end of each of some days, which ascend: the readiness of that day, by what had happened until then. The
// curriculum, the library and the rules are as they are. Costs the events once, and days × requirements.
func Path(lib *library.Library, c curriculum.Curriculum, who Candidate, attended []Attended, checked []Checked, days []calendar.Day) []PathPoint {
	type key struct {
		technique string
		side      library.Side
	}
	met := c
	met.Requirements = slices.Clone(c.Requirements)
	for i := range met.Requirements {
		met.Requirements[i].Rung = curriculum.Met
	}
	unfading := who.Rules
	unfading.DueBelow = 0
	who.Gates, who.Person.Holds = nil, nil // they keep from a class, and take nothing away
	standing := map[key]Standing{}
	path := make([]PathPoint, 0, len(days))
	until := func(day calendar.Day) { // all days before it are over
		for len(path) < len(days) && days[len(path)] < day {
			at := who
			at.On = days[len(path)]
			at.Standings = make([]Standing, 0, len(standing))
			for _, s := range standing {
				at.Standings = append(at.Standings, s)
			}
			p := PathPoint{On: at.On, Share: Ready(lib, c, at).Share}
			at.Rules = unfading
			p.Met = Ready(lib, met, at).Share
			path = append(path, p)
		}
	}
	project(lib, who.Rules, attended, checked, func(s step) {
		until(s.on)
		standing[key{s.after.Technique, s.after.Side}] = s.after
	})
	until(calendar.Last + 1)
	return path
}
