// Package curriculum holds what each rank asks for, and the audit that says
// where a curriculum does not hold together.
package curriculum

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/library"
	"vereda/core/safety"
)

// Rung is how far a student has come with a technique.
type Rung string

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

// Ladder is one sequence of ranks, for adults or for youth.
type Ladder struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Audience string `json:"audience" enum:"adult,youth"`
	Ranks    []Rank `json:"ranks"`
}

// Rank is one step of a ladder. The first is where everybody starts.
type Rank struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Belt       string `json:"belt" doc:"The colour word of the belt"`
	MinAge     int    `json:"min_age,omitempty"`
	MinMonths  int    `json:"min_months" doc:"Least months at the rank before"`
	MinClasses int    `json:"min_classes" doc:"Least classes at the rank before"`
}

// Position is the place of a rank on the ladder, 0 for the first; -1 when it is
// not on it.
func (l Ladder) Position(rank string) int {
	return slices.IndexFunc(l.Ranks, func(r Rank) bool { return r.ID == rank })
}

// Next is the rank after the given one.
func (l Ladder) Next(rank string) (Rank, bool) {
	if i := l.Position(rank); i >= 0 && i+1 < len(l.Ranks) {
		return l.Ranks[i+1], true
	}
	return Rank{}, false
}

// Curriculum is what one rank asks for.
type Curriculum struct {
	ID           string        `json:"id"`
	Ladder       string        `json:"ladder"`
	Rank         string        `json:"rank" doc:"The rank it leads to"`
	State        string        `json:"state" enum:"draft,published"`
	Version      int           `json:"version"`
	Requirements []Requirement `json:"requirements"`
}

// Requirement asks for one technique at one rung.
type Requirement struct {
	Technique string  `json:"technique"`
	Rung      Rung    `json:"rung" enum:"met,drilled,passed,live,teaches"`
	BothSides bool    `json:"both_sides"`
	Weight    float64 `json:"weight" minimum:"0.1" maximum:"10"`
}

// Find returns the requirement for a technique.
func (c Curriculum) Find(technique string) (Requirement, bool) {
	i := slices.IndexFunc(c.Requirements, func(r Requirement) bool { return r.Technique == technique })
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

// Severity orders findings.
type Severity string

// The severities, worst first.
const (
	Blocks  Severity = "blocks" // publishing waits for it
	Weakens Severity = "weakens"
	Notice  Severity = "notice"
)

// FindingKind says what is wrong.
type FindingKind string

// The kinds of findings.
const (
	PrerequisiteNowhere FindingKind = "prerequisite nowhere"
	PrerequisiteLate    FindingKind = "prerequisite late"
	NotAllowed          FindingKind = "not allowed"
	Duplicate           FindingKind = "duplicate"
	ForkUnanswered      FindingKind = "fork unanswered"
	Unknown             FindingKind = "unknown technique"
)

// Finding is one thing the audit found, with its cause and, where there is
// one, the repair.
type Finding struct {
	ID        string      `json:"id" doc:"The same finding has the same identifier in every audit"`
	Kind      FindingKind `json:"kind"`
	Severity  Severity    `json:"severity"`
	Technique string      `json:"technique" doc:"The requirement it is about"`
	Other     string      `json:"other,omitempty" doc:"The second technique in it"`
	Cause     string      `json:"cause"`
	Repair    *Repair     `json:"repair,omitempty"`
}

// Repair is one change that would settle a finding.
type Repair struct {
	Do        string `json:"do" enum:"add,remove"`
	Technique string `json:"technique"`
	Rung      Rung   `json:"rung,omitempty"`
	BothSides bool   `json:"both_sides,omitempty"`
	Says      string `json:"says" doc:"The repair in words, as on its button"`
}

// Audit finds where the curriculum of one rank does not hold together, worst
// first, then in the order of its requirements. all holds the curricula of the
// same ladder, of which c.Rank's is replaced by c. ages gives the youngest age
// at which the gates are judged.
//
// Costs requirements × prerequisites and forks.
func Audit(c Curriculum, all []Curriculum, ladder Ladder, lib *library.Library, gates []safety.Gate) []Finding {
	a := audit{c: c, ladder: ladder, lib: lib, at: ladder.Position(c.Rank), entry: map[string]int{}}
	for _, other := range all {
		if other.Ladder == c.Ladder && other.Rank != c.Rank {
			a.note(other)
		}
	}
	a.note(c)
	for _, r := range c.Requirements {
		t, ok := lib.Technique(r.Technique)
		if !ok {
			a.add(Finding{Kind: Unknown, Severity: Blocks, Technique: r.Technique,
				Cause:  fmt.Sprintf("%q is not in the library.", r.Technique),
				Repair: &Repair{Do: "remove", Technique: r.Technique, Says: "Take it out of this rank"}})
			continue
		}
		a.prerequisites(r, t)
		a.allowed(t, gates)
		a.forks(t)
		a.duplicates(r, t, all)
	}
	order := map[Severity]int{Blocks: 0, Weakens: 1, Notice: 2}
	slices.SortStableFunc(a.found, func(x, y Finding) int { return cmp.Compare(order[x.Severity], order[y.Severity]) })
	return a.found
}

type audit struct {
	c      Curriculum
	ladder Ladder
	lib    *library.Library
	at     int            // position of c's rank
	entry  map[string]int // technique: position of the first rank that asks for it
	found  []Finding
}

func (a *audit) note(c Curriculum) {
	at := a.ladder.Position(c.Rank)
	for _, r := range c.Requirements {
		if had, ok := a.entry[r.Technique]; !ok || at < had {
			a.entry[r.Technique] = at
		}
	}
}

func (a *audit) add(f Finding) {
	f.ID = string(f.Kind) + "/" + f.Technique + "/" + f.Other
	if !slices.ContainsFunc(a.found, func(had Finding) bool { return had.ID == f.ID }) {
		a.found = append(a.found, f)
	}
}

func (a *audit) prerequisites(r Requirement, t library.Technique) {
	for _, p := range t.Prerequisites {
		need, known := a.lib.Technique(p.Technique)
		if !known {
			continue // the library's own check reports it
		}
		entry, required := a.entry[need.ID]
		repair := &Repair{Do: "add", Technique: need.ID, Rung: least(r.Rung, Drilled), BothSides: need.Taught != "",
			Says: fmt.Sprintf("Require %s here, %s", need.Name, least(r.Rung, Drilled))}
		switch {
		case !required:
			a.add(Finding{Kind: PrerequisiteNowhere, Severity: Blocks, Technique: t.ID, Other: need.ID, Repair: repair,
				Cause: fmt.Sprintf("%s stands on %s, which no rank requires: %s", t.Name, need.Name, p.Reason.Read())})
		case entry > a.at:
			a.add(Finding{Kind: PrerequisiteLate, Severity: Blocks, Technique: t.ID, Other: need.ID, Repair: repair,
				Cause: fmt.Sprintf("%s stands on %s, which is asked for only at %s: %s", t.Name, need.Name, a.ladder.Ranks[entry].Name, p.Reason.Read())})
		}
	}
}

func (a *audit) allowed(t library.Technique, gates []safety.Gate) {
	age := 18
	if a.ladder.Audience == "youth" {
		age = 0
	}
	if a.at >= 0 && a.ladder.Ranks[a.at].MinAge > 0 {
		age = a.ladder.Ranks[a.at].MinAge
	}
	for _, refused := range safety.GateRefusals(age, a.at, t.Risks, gates) {
		a.add(Finding{Kind: NotAllowed, Severity: Blocks, Technique: t.ID,
			Cause:  fmt.Sprintf("%s is not allowed at this rank: %s.", t.Name, refused.Why),
			Repair: &Repair{Do: "remove", Technique: t.ID, Says: "Take it out of this rank"}})
	}
}

func (a *audit) forks(t library.Technique) {
	for _, f := range t.Forks {
		answer, known := a.lib.Technique(f.Answer)
		if !known {
			continue
		}
		if entry, required := a.entry[answer.ID]; !required || entry > a.at {
			a.add(Finding{Kind: ForkUnanswered, Severity: Notice, Technique: t.ID, Other: answer.ID,
				Cause: fmt.Sprintf("In %s: %s The answer, %s, is not required by then.", t.Name, f.Reaction.Read(), answer.Name),
				Repair: &Repair{Do: "add", Technique: answer.ID, Rung: Met, BothSides: false,
					Says: fmt.Sprintf("Require %s here, met", answer.Name)}})
		}
	}
}

func (a *audit) duplicates(r Requirement, t library.Technique, all []Curriculum) {
	for _, other := range all {
		at := a.ladder.Position(other.Rank)
		if other.Ladder != a.c.Ladder || at < 0 || at >= a.at {
			continue
		}
		if had, ok := other.Find(r.Technique); ok && had.Rung.Step() >= r.Rung.Step() && (had.BothSides || !r.BothSides) {
			a.add(Finding{Kind: Duplicate, Severity: Notice, Technique: t.ID,
				Cause:  fmt.Sprintf("%s is already asked for at %s, %s.", t.Name, a.ladder.Ranks[at].Name, had.Rung),
				Repair: &Repair{Do: "remove", Technique: t.ID, Says: "Take it out of this rank"}})
		}
	}
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
// repair's rung, never lowered.
func (c Curriculum) Take(r Repair) Curriculum {
	c.Requirements = slices.Clone(c.Requirements)
	i := slices.IndexFunc(c.Requirements, func(had Requirement) bool { return had.Technique == r.Technique })
	switch {
	case r.Do == "remove" && i >= 0:
		c.Requirements = slices.Delete(c.Requirements, i, i+1)
	case r.Do == "add" && i < 0:
		c.Requirements = append(c.Requirements, Requirement{Technique: r.Technique, Rung: r.Rung, BothSides: r.BothSides, Weight: 1})
	case r.Do == "add":
		if c.Requirements[i].Rung.Step() < r.Rung.Step() {
			c.Requirements[i].Rung = r.Rung
		}
		c.Requirements[i].BothSides = c.Requirements[i].BothSides || r.BothSides
	}
	return c
}

// Check says what is wrong with the curriculum as it is written, before any
// audit: unknown rungs, weights out of range, a technique named twice.
func (c Curriculum) Check(ladder Ladder, lib *library.Library) []library.Problem {
	var found []library.Problem
	bad := func(field, format string, args ...any) {
		found = append(found, library.Problem{Field: field, What: fmt.Sprintf(format, args...)})
	}
	if ladder.Position(c.Rank) < 0 {
		bad("rank", "%q is not a rank of %s: choose one of its ranks", c.Rank, ladder.Name)
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
		if r.Rung.Step() < 1 {
			bad(at+".rung", "%q is not a rung to ask for: choose met, drilled, passed, live or teaches", r.Rung)
		}
		if r.Weight < 0.1 || r.Weight > 10 {
			bad(at+".weight", "%g is outside 0.1 to 10", r.Weight)
		}
	}
	return found
}
