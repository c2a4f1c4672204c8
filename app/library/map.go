package library

import (
	"context"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
)

// MapFilter says which techniques are on the map. What is empty lets all in.
type MapFilter struct {
	Curriculum string   `query:"curriculum" maxLength:"100" doc:"What this curriculum and those of the ranks below ask for"`
	Student    string   `query:"student" maxLength:"100" doc:"What this student has passed, on one side at least"`
	Context    string   `query:"context" enum:"gi,no-gi" doc:"What works with, or without, the jacket"`
	Part       string   `query:"part" enum:"attack,defend" doc:"What starts from this part of a position"`
	Kinds      []string `query:"kind" doc:"Kinds of techniques"`
	Of         string   `query:"of" maxLength:"100" doc:"Whose ways are drawn into the positions: a student, track/ and a track for those who train in it, or everybody"`
	Age        int      `query:"age" minimum:"0" maximum:"99" doc:"What the academy's gates allow at this age"`
}

// MapArrow is everything that leads from one place to another.
type MapArrow struct {
	From       library.Place  `json:"from"`
	To         *library.Place `json:"to,omitempty" doc:"Missing for finishes"`
	Techniques []string       `json:"techniques"`
}

// MapPage is the picture of positions and techniques with its report.
type MapPage struct {
	Layout     library.Layout     `json:"layout"`
	Arrows     []MapArrow         `json:"arrows"`
	Report     library.MapReport  `json:"report"`
	Names      map[string]string  `json:"names" doc:"Names of techniques"`
	Kinds      map[string]string  `json:"kinds" doc:"Kinds of techniques"`
	Places     map[string]string  `json:"places" doc:"Names of positions"`
	Curricula  []CurriculumChoice `json:"curricula"`
	Students   []state.Named      `json:"students" doc:"For those who may see them"`
	AllKinds   []string           `json:"all_kinds"`
	Filtered   bool               `json:"filtered"`
	OpensScore say.Sentence       `json:"opens_score"`
	Tracks     []state.Named      `json:"tracks"`
	Ways       []PositionWays     `json:"ways" doc:"Where the people asked about have a way, of the positions that have one at all"`
	WaysOf     int                `json:"ways_of" doc:"How many people they are"`
}

// PositionWays is in how many hands a position has a way out of it: something passed from it, on one side at least.
type PositionWays struct {
	Position string   `json:"position"`
	Attack   *float64 `json:"attack,omitempty" doc:"Share of the people; missing where nothing is taught from there"`
	Defend   *float64 `json:"defend,omitempty"`
}

// opensScore explains the ranking of what to teach next.
const opensScore say.Sentence = "4 points for each dead end it ends, 2 for each reaction it answers, 1 for a place not reached before; of equal ones the shorter to teach, its missing prerequisites included."

// allows makes the filter's question of one technique. next is the same question
// without what is known: of what may be learned next.
func (f *snapshot) allows(u state.User, m MapFilter) (keep, next func(library.Technique) bool, err error) {
	var in []func(library.Technique) bool
	if m.Context != "" {
		in = append(in, func(t library.Technique) bool {
			return t.Context == library.Both || string(t.Context) == m.Context
		})
	}
	if m.Part != "" {
		in = append(in, func(t library.Technique) bool { return t.From != nil && string(t.From.Part) == m.Part })
	}
	if len(m.Kinds) > 0 {
		in = append(in, func(t library.Technique) bool { return slices.Contains(m.Kinds, string(t.Kind)) })
	}
	if m.Age > 0 {
		in = append(in, func(t library.Technique) bool {
			return len(safety.GateRefusals(safety.Person{Age: m.Age, Rank: 99}, t.Load(), f.Settings.Gates)) == 0
		})
	}
	all := func(of []func(library.Technique) bool) func(library.Technique) bool {
		return func(t library.Technique) bool {
			return !slices.ContainsFunc(of, func(q func(library.Technique) bool) bool { return !q(t) })
		}
	}
	next = all(slices.Clone(in))
	if m.Curriculum != "" {
		c, err := f.FindCurriculum(m.Curriculum)
		if err != nil {
			return nil, nil, err
		}
		asked := f.AskedUpTo(c)
		in = append(in, func(t library.Technique) bool { return asked[t.ID] })
	}
	if m.Student != "" {
		if !u.Teaches() && !u.Sees(m.Student) {
			return nil, nil, state.NotFound("student", m.Student)
		}
		if p, ok := f.Person[m.Student]; !ok || !p.Student {
			return nil, nil, state.NotFound("student", m.Student)
		}
		holds := map[string]bool{}
		for _, s := range f.Standings(m.Student) {
			if s.Rung.Step() >= curriculum.Passed.Step() {
				holds[s.Technique] = true
			}
		}
		in = append(in, func(t library.Technique) bool { return holds[t.ID] })
	}
	return all(in), next, nil
}

// Map draws the map of what a filter lets in, and reports on it.
func (a *Service) Map(ctx context.Context, u state.User, m MapFilter) (MapPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return MapPage{}, err
	}
	keep, next, err := f.allows(u, m)
	if err != nil {
		return MapPage{}, err
	}
	graph := f.Library.Map(keep)
	var candidates []library.Technique
	for _, t := range f.Library.Techniques() {
		if next(t) {
			candidates = append(candidates, t)
		}
	}
	p := MapPage{Layout: f.Layout(), Arrows: []MapArrow{}, Report: graph.Report(candidates), Names: map[string]string{}, Kinds: map[string]string{}, Places: map[string]string{},
		Curricula: []CurriculumChoice{}, Students: []state.Named{}, AllKinds: []string{}, OpensScore: opensScore, Tracks: []state.Named{}}
	p.Filtered = m.Curriculum != "" || m.Student != "" || m.Context != "" || m.Part != "" || len(m.Kinds) > 0 || m.Age > 0
	for _, t := range f.Library.Techniques() {
		p.Names[t.ID], p.Kinds[t.ID] = t.Name, string(t.Kind)
	}
	for _, x := range f.Library.Positions() {
		p.Places[x.ID] = x.Name
	}
	p.Arrows = arrowsOf(f.Library, keep)
	if p.Ways, p.WaysOf, err = f.ways(u, m.Of, next); err != nil {
		return MapPage{}, err
	}
	for _, k := range library.Kinds {
		if k != library.Movement {
			p.AllKinds = append(p.AllKinds, string(k))
		}
	}
	if u.Teaches() {
		for _, t := range f.Snapshot.Tracks {
			p.Tracks = append(p.Tracks, state.Named{ID: t.ID, Name: t.Name})
		}
		slices.SortFunc(p.Tracks, func(a, b state.Named) int { return strings.Compare(a.Name, b.Name) })
	}
	for _, c := range f.Curricula {
		p.Curricula = append(p.Curricula, CurriculumChoice{c.ID, f.curriculumName(c)})
	}
	for _, s := range f.Students() {
		if u.Teaches() || u.Sees(s.ID) {
			p.Students = append(p.Students, state.Named{ID: s.ID, Name: s.Name})
		}
	}
	return p, nil
}

// trainLately is how far back somebody counts as training in a track, in days.
const trainLately = 84

// ways says, for each position and part from which something may be done, what share of some people have passed anything from there.
func (f *snapshot) ways(u state.User, of string, may func(library.Technique) bool) ([]PositionWays, int, error) {
	all := []PositionWays{}
	if of == "" {
		return all, 0, nil
	}
	var people []string
	track, byTrack := strings.CutPrefix(of, "track/")
	if !u.Teaches() && !u.Sees(of) {
		return nil, 0, state.NotFound("student", of)
	}
	for _, p := range f.Students() {
		in := of == "everybody" || p.ID == of
		if byTrack {
			in = slices.ContainsFunc(f.Visits(p.ID), func(v state.Visit) bool {
				c, ok := f.Class(v.Class)
				return ok && c.Track == track && v.On > f.Today()-trainLately
			})
		}
		if in {
			people = append(people, p.ID)
		}
	}
	if _, known := f.Snapshot.Tracks[track]; byTrack && !known || !byTrack && len(people) == 0 && of != "everybody" {
		return nil, 0, state.NotFound("student or track", of)
	}
	type place struct {
		position string
		part     library.Part
	}
	there, has := map[place]bool{}, map[place]int{}
	for _, t := range f.Library.Techniques() {
		if t.From != nil && may(t) {
			there[place{t.From.Position, t.From.Part}] = true
		}
	}
	for _, id := range people {
		mine := map[place]bool{}
		for _, s := range f.Standings(id) {
			t, ok := f.Library.Technique(s.Technique)
			if ok && t.From != nil && s.Rung.Step() >= curriculum.Passed.Step() && may(t) {
				mine[place{t.From.Position, t.From.Part}] = true
			}
		}
		for k := range mine {
			has[k]++
		}
	}
	for _, x := range f.Library.Positions() {
		w := PositionWays{Position: x.ID}
		share := func(part library.Part) *float64 {
			if !there[place{x.ID, part}] {
				return nil
			}
			s := float64(has[place{x.ID, part}]) / max(1, float64(len(people)))
			return &s
		}
		if w.Attack, w.Defend = share(library.Attack), share(library.Defend); w.Attack != nil || w.Defend != nil {
			all = append(all, w)
		}
	}
	return all, len(people), nil
}

// curriculumName is a curriculum as one is chosen from a list.
func (f *snapshot) curriculumName(c curriculum.Curriculum) say.Sentence {
	ladder := f.Ladders[c.Ladder]
	name := c.Rank
	if i := ladder.Position(c.Rank); i >= 0 {
		name = ladder.Ranks[i].Name
	}
	return say.F("%s, %s, version %d, %s", ladder.Name, name, c.Version, say.Word(c.State))
}

// arrowsOf gathers the techniques that lead the same way.
func arrowsOf(lib *library.Library, keep func(library.Technique) bool) []MapArrow {
	all := []MapArrow{}
	at := map[string]int{}
	for _, t := range lib.Techniques() {
		if t.From == nil || t.To == nil && !t.Finish || !keep(t) {
			continue
		}
		key := t.From.Position + "/" + string(t.From.Part) + ">"
		if t.To != nil {
			key += t.To.Position + "/" + string(t.To.Part)
		}
		i, ok := at[key]
		if !ok {
			i = len(all)
			at[key] = i
			all = append(all, MapArrow{From: *t.From, To: t.To})
		}
		all[i].Techniques = append(all[i].Techniques, t.ID)
	}
	return all
}

// CurriculumChoice is a curriculum as one is chosen from a list.
type CurriculumChoice struct {
	ID   string       `json:"id"`
	Name say.Sentence `json:"name"`
}

// ChainPage is the shortest way from one place to another, or to a finish.
type ChainPage struct {
	Found   bool           `json:"found"`
	Steps   []ChainStep    `json:"steps"`
	Minutes int            `json:"minutes" doc:"To teach all of it"`
	Reached []say.Sentence `json:"reached" doc:"Places that can be reached, when the goal cannot"`
	Summary say.Sentence   `json:"summary"`
}

// ChainStep is one technique of a chain.
type ChainStep struct {
	Technique string       `json:"technique"`
	Name      string       `json:"name"`
	Kind      string       `json:"kind"`
	Minutes   int          `json:"minutes"`
	From      say.Sentence `json:"from"`
	To        say.Sentence `json:"to"`
	FromID    string       `json:"from_id"`
	ToID      string       `json:"to_id" doc:"Empty for a finish"`
	Side      string       `json:"side,omitempty" doc:"The side it is done on in this chain; empty when it has none"`
	Opens     string       `json:"opens" doc:"Its first key point, on that side"`
}

// placeOf reads position/part.
func (f *snapshot) placeOf(field, word string) (library.Place, error) {
	position, part, _ := strings.Cut(word, "/")
	p := library.Place{Position: position, Part: library.Part(part)}
	if _, ok := f.Library.Position(position); !ok {
		return p, state.Invalid(field, "position %q is not in the library: choose another", position)
	}
	if p.Part != library.Attack && p.Part != library.Defend {
		return p, state.Invalid(field, "%q is neither attack nor defend: write position/attack", part)
	}
	return p, nil
}

func (f *snapshot) placeName(p library.Place) say.Sentence {
	if p.Part == library.Attack {
		return say.F("%s, attacking", f.PositionName(p.Position))
	}
	return say.F("%s, defending", f.PositionName(p.Position))
}

// Chain finds the shortest way between two places on the filtered map. to is a
// place or the word finish; avoid lists techniques to leave out. Turned, every step is done on its other side: when the partner tilts the
// other way, the whole chain mirrors.
func (a *Service) Chain(ctx context.Context, u state.User, m MapFilter, from, to string, avoid []string, byMinutes, turned bool) (ChainPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ChainPage{}, err
	}
	keep, _, err := f.allows(u, m)
	if err != nil {
		return ChainPage{}, err
	}
	start, err := f.placeOf("from", from)
	if err != nil {
		return ChainPage{}, err
	}
	goal, name := library.Goal{Finish: to == "finish"}, say.Sentence("a finish")
	if !goal.Finish {
		if goal.Place, err = f.placeOf("to", to); err != nil {
			return ChainPage{}, err
		}
		name = f.placeName(goal.Place)
	}
	c, reached, ok := f.Library.Map(keep).Chain(start, goal, avoid, byMinutes)
	out := ChainPage{Found: ok, Steps: []ChainStep{}, Minutes: c.Minutes, Reached: []say.Sentence{}}
	if !ok {
		out.Summary = say.F("No chain leads from %s to %s on this map.", f.placeName(start), name)
		for _, p := range reached {
			out.Reached = append(out.Reached, f.placeName(p))
		}
		return out, nil
	}
	for i, id := range c.Steps {
		t, _ := f.Library.Technique(id)
		s := ChainStep{Technique: id, Name: t.Name, Kind: string(t.Kind), Minutes: t.TeachMinutes, From: f.placeName(c.Through[i]), FromID: c.Through[i].Position, To: "finish"}
		side := t.Taught
		if turned && side != "" {
			side = side.Other()
		}
		s.Side = string(side)
		if points := t.On(side).KeyPoints; len(points) > 0 {
			s.Opens = string(points[0].Cue)
		}
		if t.To != nil {
			s.To, s.ToID = f.placeName(*t.To), t.To.Position
		}
		out.Steps = append(out.Steps, s)
	}
	out.Summary = say.F("%d steps, %d minutes to teach.", len(out.Steps), out.Minutes)
	if len(out.Steps) == 1 {
		out.Summary = say.F("1 step, %d minutes to teach.", out.Minutes)
	}
	if len(out.Steps) == 0 {
		out.Summary = "You are there."
	}
	return out, nil
}
