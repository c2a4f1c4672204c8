package academy

import (
	"fmt"

	"vereda/core/rotation"
	"vereda/core/validation"
)

// Stations are what a class with stations was given, and who is where when.
type Stations struct {
	Stations []NamedStation     `json:"stations" maxItems:"20"`
	Coaches  []string           `json:"coaches" maxItems:"60" doc:"Who is here to lead one"`
	Minutes  int                `json:"minutes" minimum:"1" maximum:"300"`
	Change   int                `json:"change_minutes" minimum:"0" maximum:"30"`
	Groups   int                `json:"groups" minimum:"1" maximum:"20"`
	By       string             `json:"by" enum:"rank,size,mixed"`
	Plan     rotation.Stationed `json:"plan,omitzero" required:"false" doc:"Who is where when; made by the program"`
}

// NamedStation is a station with what is done there.
type NamedStation struct {
	rotation.Station
	Name   string `json:"name" maxLength:"200" doc:"The task: a drill, a reaction, checks, live rounds"`
	Makeup string `json:"makeup,omitempty" required:"false" maxLength:"100" doc:"The unit that those it is for catch up here"`
	Checks bool   `json:"checks,omitempty" required:"false" doc:"Checks are done here: the ledger says which, for each group"`
}

// problems says what is wrong with stations as they are written.
func (s Stations) problems() []validation.Problem {
	var found validation.Found
	found.Count("stations", len(s.Stations), rotation.MostStations)
	for i, x := range s.Stations {
		found.Name(fmt.Sprintf("stations[%d].name", i), x.Name, "station")
		found.Text(fmt.Sprintf("stations[%d].id", i), x.ID, validation.MostName)
		found.Count(fmt.Sprintf("stations[%d].for", i), len(x.For), MostMakeUp)
	}
	found.Count("coaches", len(s.Coaches), 60)
	found.Count("plan.visits", len(s.Plan.Visits), 500)
	return found
}
