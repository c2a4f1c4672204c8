// Package curriculum holds what each rank asks for, and the audit that says
// where a curriculum does not hold together.
package curriculum

import (
	"fmt"
	"slices"

	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// Rung is how far a student has come with a technique.
type Rung string

// Say is the rung in the reader’s language.
func (x Rung) Say() say.Sentence { return say.Word(x) }

// The rungs.
const (
	NotMet  Rung = "not met"
	Met     Rung = "met"     // was on the mat when it was taught
	Drilled Rung = "drilled" // enough exposures
	Passed  Rung = "passed"  // a check met the house standard
	Live    Rung = "live"    // a check met it against live resistance
	Teaches Rung = "teaches" // can teach it back
)

// Rungs in order, lowest first.
var Rungs = []Rung{NotMet, Met, Drilled, Passed, Live, Teaches}

// Step is the place of a rung in Rungs; -1 for an unknown word.
func (r Rung) Step() int { return slices.Index(Rungs, r) }

// Curriculum is what one rank asks for.
type Curriculum struct {
	ID           string        `json:"id"`
	Ladder       string        `json:"ladder"`
	Rank         string        `json:"rank" doc:"The rank it leads to"`
	State        string        `json:"state" enum:"draft,published,retired"`
	Version      int           `json:"version"`
	Requirements []Requirement `json:"requirements" doc:"In the order they are taught"`
	Accepted     []Acceptance  `json:"accepted,omitempty" doc:"Findings of the audit that somebody accepted, with the reason"`
}

// CountsOver says which of two curricula of one rank counts: a published one
// before any other, then the newer one.
func (c Curriculum) CountsOver(other Curriculum) bool {
	if published := c.State == "published"; published != (other.State == "published") {
		return published
	}
	return c.Version > other.Version
}

// Acceptance keeps a finding quiet.
type Acceptance struct {
	Finding string       `json:"finding"`
	Reason  string       `json:"reason"`
	By      string       `json:"by"`
	On      calendar.Day `json:"on"`
}

// Requirement asks for one technique at one rung, or for any n of some
// variants.
type Requirement struct {
	Technique string   `json:"technique"`
	Or        []string `json:"or,omitempty" doc:"Variants that serve as well"`
	N         int      `json:"n,omitempty" minimum:"0" doc:"How many of the technique and its variants; 1 when left out"`
	Rung      Rung     `json:"rung" enum:"met,drilled,passed,live,teaches"`
	BothSides bool     `json:"both_sides"`
	Weight    float64  `json:"weight" minimum:"0.1" maximum:"10"`
}

// Options lists the techniques that serve, the first one first.
func (r Requirement) Options() []string { return append([]string{r.Technique}, r.Or...) }

// Count is how many of them are asked for.
func (r Requirement) Count() int { return max(1, r.N) }

// Find returns the requirement for a technique.
func (c Curriculum) Find(technique string) (Requirement, bool) {
	i := slices.IndexFunc(c.Requirements, func(r Requirement) bool { return r.Technique == technique })
	if i < 0 {
		return Requirement{}, false
	}
	return c.Requirements[i], true
}

// Serves returns the requirement that a technique serves, as itself or as a
// variant.
func (c Curriculum) Serves(technique string) (Requirement, bool) {
	i := slices.IndexFunc(c.Requirements, func(r Requirement) bool { return slices.Contains(r.Options(), technique) })
	if i < 0 {
		return Requirement{}, false
	}
	return c.Requirements[i], true
}

// Sides lists the sides on which the requirement asks for a technique.
func (r Requirement) Sides(t library.Technique) []library.Side {
	if r.BothSides {
		return t.Sides()
	}
	return t.Sides()[:1]
}

// without takes a technique out of some requirements: of variants the others
// stay.
func without(all []Requirement, technique string) []Requirement {
	var kept []Requirement
	for _, r := range all {
		options := slices.DeleteFunc(r.Options(), func(o string) bool { return o == technique })
		if len(options) == 0 {
			continue
		}
		if len(options) <= len(r.Or) {
			r.Technique, r.Or, r.N = options[0], options[1:], min(r.N, len(options))
		}
		kept = append(kept, r)
	}
	return kept
}

// least is the lower of two rungs.
func least(a, b Rung) Rung {
	if a.Step() < b.Step() {
		return a
	}
	return b
}

// Take applies a repair and returns the changed curriculum; the given one
// stays as it is. An added technique that is already there is raised to the
// repair's rung, never lowered; one that something here stands on goes in front of it.
func (c Curriculum) Take(r Repair) Curriculum {
	c.Requirements = slices.Clone(c.Requirements)
	at := func(technique string) int {
		return slices.IndexFunc(c.Requirements, func(had Requirement) bool { return had.Technique == technique })
	}
	for _, x := range r.Remove {
		c.Requirements = without(c.Requirements, x)
	}
	if i := at(r.Lower.Technique); i >= 0 && r.Lower.Rung != "" {
		c.Requirements[i].Rung = r.Lower.Rung
	}
	if i := at(r.Swap.From); i >= 0 && r.Swap.To != "" {
		if j := at(r.Swap.To); j >= 0 {
			c.Requirements = slices.Delete(c.Requirements, i, i+1)
		} else {
			c.Requirements[i].Technique = r.Swap.To
			c.Requirements[i].Or = slices.DeleteFunc(slices.Clone(c.Requirements[i].Or), func(o string) bool { return o == r.Swap.To })
		}
	}
	for _, x := range r.Add {
		i := at(x.Technique)
		if i >= 0 {
			if c.Requirements[i].Rung.Step() < x.Rung.Step() {
				c.Requirements[i].Rung = x.Rung
			}
			c.Requirements[i].BothSides = c.Requirements[i].BothSides || x.BothSides
			continue
		}
		i = len(c.Requirements)
		if j := at(x.Before); j >= 0 {
			i = j
		}
		c.Requirements = slices.Insert(c.Requirements, i, Requirement{Technique: x.Technique, Rung: x.Rung, BothSides: x.BothSides, Weight: 1})
	}
	return c
}

// Check says what is wrong with the curriculum as it is written, before any
// audit: unknown rungs, weights out of range, a technique named twice.
func (c Curriculum) Check(ladder Ladder, lib *library.Library) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if ladder.Position(c.Rank) < 0 {
		bad("rank", "%q is not a rank of %s: choose one of its ranks", c.Rank, ladder.Name)
	}
	if len(c.Requirements) > 2000 {
		bad("requirements", "%d: keep a curriculum under 2000", len(c.Requirements))
	}
	seen := map[string]bool{}
	for i, r := range c.Requirements {
		at := fmt.Sprintf("requirements[%d]", i)
		if _, ok := lib.Technique(r.Technique); !ok {
			bad(at+".technique", "%q is not in the library: add it there first or choose another", r.Technique)
		}
		if seen[r.Technique] {
			bad(at+".technique", "%s is already in this curriculum: change its rung there", lib.Name(r.Technique))
		}
		seen[r.Technique] = true
		for _, o := range r.Or {
			if _, ok := lib.Technique(o); !ok {
				bad(at+".or", "%q is not in the library: add it there first or choose another", o)
			}
			if o == r.Technique {
				bad(at+".or", "%s is the technique itself: take it out of its variants", lib.Name(o))
			}
		}
		if r.N < 0 || r.N > len(r.Options()) {
			bad(at+".n", "%d of %d: ask for as many as there are at most", r.N, len(r.Options()))
		}
		if r.Rung.Step() < 1 {
			bad(at+".rung", "%q is not a rung to ask for: choose met, drilled, passed, live or teaches", r.Rung)
		}
		if !(r.Weight >= 0.1 && r.Weight <= 10) {
			bad(at+".weight", "%g is outside 0.1 to 10", r.Weight)
		}
	}
	return found
}
