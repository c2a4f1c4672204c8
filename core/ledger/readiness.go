package ledger

import (
	"slices"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
)

// Candidate is a student seen from the rank that comes next.
type Candidate struct {
	On        calendar.Day
	Since     calendar.Day // at the present rank since
	Classes   int          // classes attended at the present rank
	Age       int
	Next      curriculum.Rank
	Standings []Standing
	Person    safety.Person // for holds and gates
	Gates     []safety.Gate
	Rules     StandingRules // when something passed is due again
}

// Gap is one requirement, one side, that is not there yet.
type Gap struct {
	Technique string          `json:"technique"`
	Name      string          `json:"name"`
	Side      library.Side    `json:"side"`
	Has       curriculum.Rung `json:"has"`
	Needs     curriculum.Rung `json:"needs"`
	Due       bool            `json:"due,omitempty" doc:"Reached once, now due for a refresh"`
	InTheWay  []say.Sentence  `json:"in_the_way,omitempty" doc:"What must come first, or a hold"`
}

// Readiness says what stands between a student and the next rank. It is
// evidence: the decision is the head instructor's.
type Readiness struct {
	Rank    string         `json:"rank"`
	Met     int            `json:"met" doc:"Requirements reached on every side asked for, none due"`
	Of      int            `json:"of"`
	Share   float64        `json:"share" doc:"Weights of requirements met ÷ all weights, 0 to 1"`
	Missing []Gap          `json:"missing"`
	Waits   []say.Sentence `json:"waits" doc:"Time, classes and age still wanting"`
	Ready   bool           `json:"ready"`
}

// Ready compares a candidate with a curriculum. Costs requirements × sides.
func Ready(lib *library.Library, c curriculum.Curriculum, who Candidate) Readiness {
	type key struct {
		technique string
		side      library.Side
	}
	has := map[key]Standing{}
	for _, s := range who.Standings {
		has[key{s.Technique, s.Side}] = s
	}
	r := Readiness{Rank: c.Rank, Of: len(c.Requirements), Missing: []Gap{}, Waits: []say.Sentence{}}
	weights, met := 0.0, 0.0
	for _, q := range c.Requirements {
		var options [][]Gap // what is missing of each option, the nearest to whole first
		for _, id := range q.Options() {
			t, ok := lib.Technique(id)
			if !ok {
				continue
			}
			gaps := []Gap{}
			for _, side := range q.Sides(t) {
				s, touched := has[key{t.ID, side}]
				if !touched {
					s.Rung = curriculum.NotMet
				}
				if s.Reaches(q.Rung, who.On, who.Rules) {
					continue
				}
				gap := Gap{Technique: t.ID, Name: t.Name, Side: side, Has: s.Rung, Needs: q.Rung, Due: s.Rung.Step() >= q.Rung.Step()}
				for _, p := range t.Prerequisites {
					need, _ := lib.Technique(p.Technique)
					if low := has[key{p.Technique, firstSide(need)}]; low.Rung.Step() < curriculum.Met.Step() {
						gap.InTheWay = append(gap.InTheWay, say.F("first: %s", lib.Name(p.Technique)))
					}
				}
				for _, no := range safety.Refusals(who.Person, t.Load(), who.Gates, who.On) {
					gap.InTheWay = append(gap.InTheWay, no.Why)
				}
				gaps = append(gaps, gap)
			}
			options = append(options, gaps)
		}
		if len(options) == 0 {
			continue
		}
		slices.SortStableFunc(options, func(a, b []Gap) int { return len(a) - len(b) })
		missing := slices.Concat(options[:min(q.Count(), len(options))]...)
		r.Missing = append(r.Missing, missing...)
		weights += q.Weight
		if len(missing) == 0 {
			r.Met++
			met += q.Weight
		}
	}
	if weights > 0 {
		r.Share = met / weights
	}
	if from := who.Since.AddMonths(who.Next.MinMonths); who.On < from {
		r.Waits = append(r.Waits, say.F("time at the rank: %d months are over on %s", who.Next.MinMonths, from))
	}
	if who.Classes < who.Next.MinClasses {
		r.Waits = append(r.Waits, say.F("%d of %d classes", who.Classes, who.Next.MinClasses))
	}
	if who.Age < who.Next.MinAge {
		r.Waits = append(r.Waits, say.F("age %d of %d", who.Age, who.Next.MinAge))
	}
	r.Ready = len(r.Missing) == 0 && len(r.Waits) == 0
	return r
}

func firstSide(t library.Technique) library.Side { return t.Sides()[0] }
