package curriculum

// The order a rank is taught in. What is hard is prerequisites: nothing before
// what it stands on. Among what may come next, the one that goes on with what was just
// taught comes first: the answer to a reaction to it, then the same family, then what
// is simpler. Ties fall to the order the requirements are written in, so the same curriculum
// gives the same order, and one requirement more moves little.

import (
	"slices"

	"vereda/core/library"
	"vereda/core/say"
)

// Step is one technique of a teaching order, and why it stands there.
type Step struct {
	Technique string       `json:"technique"`
	Why       say.Sentence `json:"why"`
}

// kindOrder is what is taught before what, all else equal: moving, then being
// safe, then holding, then attacking.
var kindOrder = []library.Kind{"movement", "escape", "guard retention", "control", "grip break", "entry", "takedown", "sweep", "pass", "pin change", "back take", "submission"}

// Order proposes an order for the requirements. A ring of prerequisites is cut where
// it is met first. Costs the square of the requirements.
func (c Curriculum) Order(lib *library.Library) []Step {
	in := map[string]bool{}
	for _, r := range c.Requirements {
		in[r.Technique] = true
	}
	var steps []Step
	placed := map[string]bool{}
	last := library.Technique{}
	for len(steps) < len(c.Requirements) {
		best, score, why := -1, -1<<30, say.Sentence("")
		for i, r := range c.Requirements {
			if placed[r.Technique] {
				continue
			}
			t, _ := lib.Technique(r.Technique)
			s, because := nextScore(last, t, lib)
			if waits(t, in, placed) {
				s -= 1 << 20 // only when nothing else is left: a ring
				because = "its prerequisites go round in a ring"
			}
			if s > score {
				best, score, why = i, s, because
			}
		}
		id := c.Requirements[best].Technique
		placed[id] = true
		last, _ = lib.Technique(id)
		steps = append(steps, Step{id, why})
	}
	return steps
}

func waits(t library.Technique, in, placed map[string]bool) bool {
	return slices.ContainsFunc(t.Prerequisites, func(p library.Prerequisite) bool {
		return in[p.Technique] && !placed[p.Technique] && p.Technique != t.ID
	})
}

func nextScore(last, t library.Technique, lib *library.Library) (score int, why say.Sentence) {
	kind := slices.Index(kindOrder, t.Kind)
	score, why = -4*kind-len(t.Layers), "the simplest that stands on nothing still to come"
	switch {
	case last.ID == "":
		why = "it stands on nothing else here"
	case slices.ContainsFunc(last.Forks, func(f library.Fork) bool { return f.Answer == t.ID }):
		return score + 60, say.F("it answers a reaction to %s", last.Name)
	case slices.ContainsFunc(t.Prerequisites, func(p library.Prerequisite) bool { return p.Technique == last.ID }):
		return score + 50, say.F("it stands on %s", last.Name)
	case last.To != nil && t.From != nil && *last.To == *t.From:
		return score + 30, say.F("it goes on where %s ends", last.Name)
	case lib.Family(last) != "" && lib.Family(last) == lib.Family(t):
		return score + 20, say.F("the same family as %s", last.Name)
	}
	return score, why
}

// BreaksOrder says what an order of the requirements breaks: a technique before
// what it stands on. Empty when nothing.
func (c Curriculum) BreaksOrder(lib *library.Library) []say.Sentence {
	at := map[string]int{}
	for i, r := range c.Requirements {
		at[r.Technique] = i
	}
	broken := []say.Sentence{}
	for i, r := range c.Requirements {
		t, _ := lib.Technique(r.Technique)
		for _, p := range t.Prerequisites {
			if j, in := at[p.Technique]; in && j > i {
				broken = append(broken, say.F("%s stands on %s: it cannot come before it", t.Name, lib.Name(p.Technique)))
			}
		}
	}
	return broken
}

// Group is a unit as it is proposed: one to three techniques that belong
// together, with the movement they stand on.
type Group struct {
	Name       string   `json:"name"`
	Techniques []string `json:"techniques"`
	Movement   string   `json:"movement,omitempty"`
	Minutes    int      `json:"minutes"`
	Review     int      `json:"review" doc:"Minutes to review it"`
	Area       string   `json:"area"`
	Requires   []int    `json:"requires" doc:"Groups before it that it stands on, counted from 0"`
}

// Limits of one unit.
const (
	mostInUnit   = 3
	longestUnit  = 34 // minutes
	practiceEach = 1.6
)

// Units groups an order into units: a technique joins the one before it when
// they are of one family and one goes on with the other, while the unit's minutes allow.
func (c Curriculum) Units(order []Step, lib *library.Library) []Group {
	groups := []Group{}
	where := map[string]int{}
	var last library.Technique
	for _, s := range order {
		t, ok := lib.Technique(s.Technique)
		if !ok {
			continue
		}
		minutes := int(float64(t.TeachMinutes)*(1+practiceEach) + 0.5)
		k := len(groups) - 1
		score, _ := nextScore(last, t, lib)
		base, _ := nextScore(library.Technique{}, t, lib)
		if k < 0 || lib.Family(last) != lib.Family(t) || score-base < 20 && t.Kind != library.Movement || len(groups[k].Techniques) == mostInUnit || groups[k].Minutes+minutes > longestUnit {
			groups = append(groups, Group{Name: t.Name, Area: areaOf(t, lib), Requires: []int{}})
			k++
		} else {
			groups[k].Name = lib.Name(groups[k].Techniques[0]) + " and what follows"
		}
		g := &groups[k]
		g.Techniques = append(g.Techniques, t.ID)
		g.Minutes += minutes
		g.Review = max(5, g.Minutes/3)
		where[t.ID] = k
		for _, p := range t.Prerequisites {
			need, _ := lib.Technique(p.Technique)
			if need.Kind == library.Movement && g.Movement == "" {
				g.Movement = need.ID
			}
			if j, taught := where[need.ID]; taught && j != k && !slices.Contains(g.Requires, j) {
				g.Requires = append(g.Requires, j)
			}
		}
		last = t
	}
	return groups
}

func areaOf(t library.Technique, lib *library.Library) string {
	if t.From == nil {
		return "movement"
	}
	return t.From.Position
}
