package academy

import (
	"strings"

	"vereda/core/validation"
)

// Tally is what a coach saw while walking round: a fault of the group, once more or once less, or a correction for one person.
type Tally struct {
	Technique string `json:"technique"`
	Point     string `json:"point,omitempty" doc:"The key point it was seen at"`
	Fault     string `json:"fault,omitempty" doc:"The library's fault; empty for words of one's own"`
	Count     int    `json:"count" minimum:"-1" maximum:"1" doc:"1, or −1 to take one back; 0 for a correction alone"`
	Words     string `json:"words,omitempty" maxLength:"300" doc:"A correction for one person"`
}

// Problems says what is wrong with a tally in itself.
func (t Tally) Problems() []validation.Problem {
	var found validation.Found
	if t.Technique == "" {
		found.Bad("technique", "is empty: name what was seen")
	}
	found.Text("technique", t.Technique, validation.MostName)
	found.Text("point", t.Point, validation.MostName)
	found.Text("fault", t.Fault, validation.MostName)
	found.Text("words", t.Words, 300)
	found.Between("count", t.Count, -1, 1, "times")
	if t.Fault == "" && strings.TrimSpace(t.Words) == "" {
		found.Bad("words", "say what was seen: a fault of the library, or words")
	}
	return found
}
