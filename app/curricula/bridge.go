package curricula

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/safety"
)

// BridgePage is what those of one rank catch up when they move on to another ladder.
type BridgePage struct {
	Rank     string          `json:"rank"`
	Name     string          `json:"name"`
	Belt     string          `json:"belt"`
	To       string          `json:"to" doc:"Ladder and rank they come to"`
	Age      int             `json:"age" doc:"The age from which they move on"`
	Items    []BridgeLine    `json:"items" doc:"In the order the other ladder teaches them"`
	Students []BridgeStudent `json:"students" doc:"Who is near that age or past it, nearest first"`
}

// BridgeLine is one thing to catch up.
type BridgeLine struct {
	Technique string   `json:"technique"`
	Name      string   `json:"name"`
	Kind      string   `json:"kind"`
	Asked     string   `json:"asked" doc:"The rung that is asked there"`
	Had       string   `json:"had" doc:"The rung that was asked here at most"`
	By        string   `json:"by" doc:"The rank there that asks it"`
	From      int      `json:"from,omitempty" doc:"The academy does not teach it before this age"`
	Risks     []string `json:"risks"`
}

// BridgeStudent is somebody who will move on.
type BridgeStudent struct {
	ID      string       `json:"id"`
	Name    string       `json:"name"`
	On      calendar.Day `json:"on" doc:"When they come of that age"`
	Missing []string     `json:"missing" doc:"Techniques of the list in which they do not hold the rung yet"`
}

// nearAge is how long before they move on somebody begins with the list.
const nearAge = 12 // months

// Bridges lists, for each rank from which the rule of a ladder leads to another one, what is to be caught up and by whom.
func (a *Service) Bridges(ctx context.Context, u state.User, id string) ([]BridgePage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	l, ok := f.Ladders[id]
	if !ok {
		return nil, state.NotFound("ladder", id)
	}
	pages := []BridgePage{}
	if l.Onward == nil {
		return pages, nil
	}
	there, ok := f.Ladders[l.Onward.Ladder]
	if !ok {
		return pages, nil
	}
	for _, r := range l.Ranks {
		to, ok := l.Onward.Ranks[r.ID]
		if !ok {
			continue
		}
		items := curriculum.Bridge(curriculum.UpTo(l, r.ID, slices.Values(f.Curricula)), curriculum.UpTo(there, to, slices.Values(f.Curricula)), f.Library.Now)
		page := BridgePage{Rank: r.ID, Name: r.Name, Belt: r.Belt, To: there.Name + ", " + rankName(there, to), Age: l.Onward.Age, Items: []BridgeLine{}, Students: f.movers(l, r.ID, items)}
		for _, x := range items {
			page.Items = append(page.Items, f.bridgeLine(there, x))
		}
		pages = append(pages, page)
	}
	return pages, nil
}

func (f *snapshot) bridgeLine(there curriculum.Ladder, x curriculum.BridgeItem) BridgeLine {
	t, _ := f.Library.Technique(x.Technique)
	line := BridgeLine{Technique: x.Technique, Name: f.Library.Name(x.Technique), Kind: string(t.Kind), Asked: string(x.Rung), Had: string(x.Had), By: rankName(there, x.Rank), Risks: []string{}}
	for _, r := range t.Risks {
		line.Risks = append(line.Risks, string(r))
	}
	line.From, _ = safety.Limits(f.Settings.Gates, t.Load())
	return line
}

// movers are the students at a rank who are near the age of moving on or past it, each with what of the list they do not hold.
func (f *snapshot) movers(l curriculum.Ladder, rank string, items []curriculum.BridgeItem) []BridgeStudent {
	all := []BridgeStudent{}
	for _, p := range f.Students() {
		if p.Ladder != l.ID || p.Rank != rank || p.Birth == nil {
			continue
		}
		on := p.Birth.AddMonths(12 * l.Onward.Age)
		if on > f.Today().AddMonths(nearAge) {
			continue
		}
		all = append(all, BridgeStudent{p.ID, p.Name, on, f.notHeld(p, items)})
	}
	slices.SortFunc(all, func(a, b BridgeStudent) int { return cmp.Or(cmp.Compare(a.On, b.On), cmp.Compare(a.Name, b.Name)) })
	return all
}

// notHeld lists the items in which a student does not hold the rung that is asked, on every side that is.
func (f *snapshot) notHeld(p academy.Person, items []curriculum.BridgeItem) []string {
	missing := []string{}
	for _, x := range items {
		held := 0
		for _, id := range x.Options() {
			if f.holds(p.ID, id, x.Requirement) {
				held++
			}
		}
		if held < x.Count() {
			missing = append(missing, x.Technique)
		}
	}
	return missing
}

func (f *snapshot) holds(student, technique string, r curriculum.Requirement) bool {
	s, ok := f.Library.Sided(technique)
	if !ok {
		return false
	}
	held := 0
	for _, side := range s.Sides {
		if f.Rung(student, s.ID, side).Rung.Step() >= r.Rung.Step() {
			held++
		}
	}
	return held == len(s.Sides) || held > 0 && !r.BothSides
}
