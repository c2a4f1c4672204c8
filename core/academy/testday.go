package academy

import (
	"fmt"

	"vereda/core/calendar"
	"vereda/core/testday"
	"vereda/core/validation"
)

// TestDay is a day of tests: who is tested by whom, and the plan made of it.
type TestDay struct {
	ID        string          `json:"id"`
	Name      string          `json:"name"`
	On        calendar.Day    `json:"on"`
	Start     string          `json:"start" doc:"When it begins, 10:00"`
	Minutes   int             `json:"minutes" minimum:"1" maximum:"1440"`
	Change    int             `json:"change_minutes" minimum:"0" maximum:"120" doc:"Between two tests of one examiner"`
	Rest      int             `json:"rest_minutes" minimum:"0" maximum:"240" doc:"Of somebody tested before they are tested again"`
	Breaks    []testday.Break `json:"breaks" maxItems:"10" doc:"In minutes from the beginning"`
	Examiners []string        `json:"examiners" maxItems:"30"`
	People    []string        `json:"people" maxItems:"200" doc:"Who is tested"`
	Helpers   []string        `json:"helpers" maxItems:"200" doc:"Who only helps as a partner"`
	Plan      testday.Answer  `json:"plan,omitzero" required:"false" doc:"Made by the program"`
}

// CheckTestDay says what is wrong with a day of tests.
func (r *Records) CheckTestDay(d TestDay) []validation.Problem {
	var found validation.Found
	found.Name("name", d.Name, "day of tests")
	if !d.On.InBounds() {
		found.Bad("on", "%s is not between %s and %s", d.On, calendar.First, calendar.Last)
	}
	if !clockTime.MatchString(d.Start) {
		found.Bad("start", "%.20q is no time of the day: write it as 10:00", d.Start)
	}
	found.Between("minutes", d.Minutes, 1, 1440, "minutes")
	found.Between("change_minutes", d.Change, 0, 120, "minutes")
	found.Between("rest_minutes", d.Rest, 0, 240, "minutes")
	for i, b := range d.Breaks {
		if b.Start < 0 || b.End <= b.Start || b.End > 1440 {
			found.Bad(fmt.Sprintf("breaks[%d].end", i), "from %d to %d: it ends after it begins", b.Start, b.End)
		}
	}
	found.Count("examiners", len(d.Examiners), 30)
	found.Count("people", len(d.People), 200)
	found.Count("helpers", len(d.Helpers), 200)
	for field, ids := range map[string][]string{"examiners": d.Examiners, "people": d.People, "helpers": d.Helpers} {
		seen := map[string]bool{}
		for i, id := range ids {
			if !r.Happened(id) {
				found.Bad(fmt.Sprintf("%s[%d]", field, i), "%.64q is nobody here", id)
			}
			if seen[id] {
				found.Bad(fmt.Sprintf("%s[%d]", field, i), "%.64q is there twice", id)
			}
			seen[id] = true
		}
	}
	found.Count("plan.slots", len(d.Plan.Slots), 20_000)
	return found
}
