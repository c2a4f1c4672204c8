package seasons

import (
	"context"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/search"
)

// risky are the classes of which two in one evening are too many.
var risky = []safety.RiskClass{"neck or spine", "knee or ankle twisting"}

type kinship struct{}

// kin is what the library says of the units: which load a neck or twist a leg, and which belong together because one answers or prepares the other.
type kin struct {
	risky   map[string]bool
	related map[string][]string
	layers  map[string]int // lessons of the technique of it that has most
}

// relate tells the planner what the library says of the units. It costs the forks and prerequisites of all their techniques, once for each
// state of the records.
func (f *snapshot) relate(p *season.Problem) {
	k := state.Remember(f.Snapshot, kinship{}, f.kin)
	planned := map[string]bool{}
	for _, u := range p.Units {
		planned[u.ID] = true
	}
	for i, u := range p.Units {
		p.Units[i].Risky, p.Units[i].Layers = k.risky[u.ID], k.layers[u.ID]
		p.Units[i].Related = slices.DeleteFunc(slices.Clone(k.related[u.ID]), func(id string) bool { return !planned[id] })
	}
}

func (f *snapshot) kin() kin {
	k := kin{map[string]bool{}, map[string][]string{}, map[string]int{}}
	of := map[string][]string{} // technique: units that teach it
	for _, u := range f.Units {
		for _, t := range techniquesOf(u) {
			of[f.Library.Now(t)] = append(of[f.Library.Now(t)], u.ID)
		}
	}
	for _, u := range f.Units {
		for _, id := range techniquesOf(u) {
			t, ok := f.Library.Technique(id)
			if !ok {
				continue
			}
			k.risky[u.ID] = k.risky[u.ID] || slices.ContainsFunc(t.Risks, func(r safety.RiskClass) bool { return slices.Contains(risky, r) })
			k.layers[u.ID] = max(k.layers[u.ID], len(t.Layers))
			relate := func(technique string) {
				for _, other := range of[f.Library.Now(technique)] {
					if other != u.ID && !slices.Contains(k.related[u.ID], other) {
						k.related[u.ID] = append(k.related[u.ID], other)
					}
				}
			}
			for _, x := range t.Forks {
				if x.Answer != "" {
					relate(x.Answer)
				}
			}
			for _, x := range t.Prerequisites {
				relate(x.Technique)
			}
		}
	}
	return k
}

func techniquesOf(u academy.Unit) []string {
	if u.Movement == "" {
		return u.Techniques
	}
	return append(slices.Clone(u.Techniques), u.Movement)
}

// RuleCost is one rule of the tracks and what it costs.
type RuleCost struct {
	ID       string       `json:"id"`
	Words    say.Sentence `json:"words"`
	Tracks   []string     `json:"tracks" doc:"Names of the tracks that ask it"`
	Coverage float64      `json:"coverage" doc:"Found without it"`
	Cost     float64      `json:"cost" doc:"Coverage it costs, 0 to 1; under what a search of that length can tell apart it may be 0"`
}

// RuleCosts is what the rules of the tracks cost, each by itself.
type RuleCosts struct {
	Coverage float64    `json:"coverage" doc:"Found under all of them"`
	Free     float64    `json:"free" doc:"Found with none of them"`
	Seconds  float64    `json:"seconds" doc:"Searched for each"`
	Rules    []RuleCost `json:"rules"`
}

// costsWait is how long all searches of CostOfRules take together, in seconds, beside what is computed around them.
const costsWait = 0.8

// CostOfRules plans a season as its tracks ask, with none of their rules, and without each of them, and keeps nothing. Every one is searched for as
// long as the others and with the same seed.
func (a *Service) CostOfRules(ctx context.Context, u state.User, id string) (RuleCosts, error) {
	out := RuleCosts{Rules: []RuleCost{}}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return out, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return out, err
	}
	p, _ := f.problem(s, f.Today())
	find := func(change func(season.Rules) season.Rules) (float64, error) {
		q := p
		q.Tracks = slices.Clone(p.Tracks)
		for i := range q.Tracks {
			q.Tracks[i].Rules = change(q.Tracks[i].Rules)
		}
		plan, err := search.SolveWithin(q, a.Stopwatch(), func(search.Progress) bool { return ctx.Err() == nil })
		if err != nil {
			return 0, state.Invalid("plan", "%v", f.inWords(err))
		}
		return plan.Coverage, ctx.Err()
	}
	for _, t := range p.Tracks {
		for _, r := range t.Rules.Named() {
			i := slices.IndexFunc(out.Rules, func(x RuleCost) bool { return x.ID == r.ID })
			if i < 0 {
				i = len(out.Rules)
				out.Rules = append(out.Rules, RuleCost{ID: r.ID, Words: r.Words, Tracks: []string{}})
			} else if out.Rules[i].Words != r.Words {
				out.Rules[i].Words = say.F("%s; %s: %s", out.Rules[i].Words, f.Tracks[t.ID].Name, r.Words)
			}
			out.Rules[i].Tracks = append(out.Rules[i].Tracks, f.Tracks[t.ID].Name)
		}
	}
	// So long that all of them together are answered while somebody waits, as many at a time as there are processors.
	hands := runtime.GOMAXPROCS(0)
	p.Seconds, p.Goal = min(0.5, a.Patience, costsWait*float64(hands)/float64(len(out.Rules)+2)), "coverage"
	out.Seconds = p.Seconds
	var all errgroup.Group
	all.SetLimit(hands)
	found := func(to *float64, change func(season.Rules) season.Rules) {
		all.Go(func() (err error) {
			*to, err = find(change)
			return err
		})
	}
	found(&out.Coverage, func(r season.Rules) season.Rules { return r })
	found(&out.Free, func(season.Rules) season.Rules { return season.Rules{} })
	for i := range out.Rules {
		found(&out.Rules[i].Coverage, func(r season.Rules) season.Rules {
			for _, n := range r.Named() {
				if n.ID == out.Rules[i].ID {
					return n.Without
				}
			}
			return r
		})
	}
	if err := all.Wait(); err != nil {
		return out, err
	}
	out.Free = max(out.Free, out.Coverage)
	for i, x := range out.Rules {
		out.Rules[i].Cost = max(0, x.Coverage-out.Coverage)
	}
	return out, nil
}

// SeasonStory is a plan told track by track.
type SeasonStory struct {
	Tracks []TrackStory `json:"tracks"`
}

// TrackStory is the plan of one track as a coach would say it.
type TrackStory struct {
	ID    string              `json:"id"`
	Name  string              `json:"name"`
	Asks  []say.Sentence      `json:"asks" doc:"The rules it was planned under"`
	Line  []explain.Stretch   `json:"line"`
	Weeks []explain.WeekStory `json:"weeks"`
}

// Story tells the plan of a season.
func (a *Service) Story(ctx context.Context, u state.User, id string) (SeasonStory, error) {
	out := SeasonStory{Tracks: []TrackStory{}}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return out, err
	}
	s, err := f.shown(u, id)
	if err != nil {
		return out, err
	}
	if s.Plan == nil {
		return out, nil
	}
	p, _ := f.problem(s, f.Today())
	for i, x := range p.Classes {
		p.Classes[i].Weekday = max(1, x.Weekday)
	}
	for _, x := range explain.Tell(p, s.Plan.Placements) {
		if len(x.Line) == 0 {
			continue
		}
		for i, w := range x.Weeks {
			for _, d := range slices.Backward(s.DatesOn(w.Week)) {
				if d.Track == "" || d.Track == x.Track {
					x.Weeks[i].Says = say.F("%s on %s. %s", d.Name, d.On, x.Weeks[i].Says)
				}
			}
		}
		t := TrackStory{ID: x.Track, Name: f.Tracks[x.Track].Name, Asks: asks(f.Tracks[x.Track]), Line: x.Line, Weeks: x.Weeks}
		out.Tracks = append(out.Tracks, t)
	}
	return out, nil
}

// bar keeps a unit out of some weeks of a season.
func (f *snapshot) bar(m *mended, h Happening) error {
	unit, ok := f.Unit(h.Unit)
	if !ok {
		return state.Invalid("unit", "choose the unit that is kept out")
	}
	to := min(m.season.Weeks, h.Week+max(1, h.Weeks)-1)
	m.season.Barred = append(slices.Clone(m.season.Barred), season.Barred{Unit: h.Unit, Track: h.Track, From: h.Week, To: to})
	m.says = say.F("Kept %s out of week %d", unit.Name, h.Week)
	if to > h.Week {
		m.says = say.F("Kept %s out of weeks %d to %d", unit.Name, h.Week, to)
	}
	return nil
}
