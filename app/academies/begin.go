package academies

import (
	"bytes"
	"cmp"
	"context"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/exchange"
)

// BeginStep is one part of beginning with an academy of one's own, in the order of the work.
type BeginStep struct {
	ID      string       `json:"id" enum:"library,ladders,curricula,timetable,people,coaches,attendance,season"`
	Name    say.Sentence `json:"name"`
	Done    bool         `json:"done"`
	Has     say.Sentence `json:"has" doc:"What is there"`
	Missing say.Sentence `json:"missing,omitempty" doc:"What the next step would need of this one"`
	Skips   bool         `json:"skips" doc:"The steps behind it go on without it"`
}

// BeginPage is where the beginning stands.
type BeginPage struct {
	Steps     []BeginStep      `json:"steps"`
	Families  []StarterFamily  `json:"families" doc:"Of the starter library"`
	Ladders   []state.Named    `json:"ladders" doc:"Starter ladders that are not here yet"`
	Curricula []StarterRank    `json:"curricula" doc:"First curricula that are not here yet"`
	Tracks    []state.Named    `json:"tracks"`
	Made      []MadeCurriculum `json:"made" doc:"Curricula here, to make units of"`
	Units     int              `json:"units"`
	Warnings  []say.Sentence   `json:"warnings" doc:"What gates keep out of tracks because of their least age"`
	Season    string           `json:"season,omitempty" doc:"The newest season"`
	Planned   bool             `json:"planned"`
	Tonight   string           `json:"tonight,omitempty" doc:"The next class that has something to teach: its sheet can be printed"`
}

// MadeCurriculum is a curriculum that is here. Until it is published nobody's next rank asks for it.
type MadeCurriculum struct {
	ID        string       `json:"id"`
	Name      say.Sentence `json:"name"`
	Published bool         `json:"published"`
}

// StarterFamily is one family of the starter library.
type StarterFamily struct {
	Family     library.Family `json:"family"`
	Techniques int            `json:"techniques"`
	Here       int            `json:"here" doc:"Of these, how many are here already"`
}

// StarterRank is a first curriculum to start from.
type StarterRank struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Size   int    `json:"size" doc:"Requirements whose techniques are here"`
	Ladder string `json:"ladder"`
}

// Begin says where the beginning stands.
func (a *Service) Begin(ctx context.Context, u state.User) (BeginPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return BeginPage{}, err
	}
	starter, err := a.starter()
	if err != nil {
		return BeginPage{}, err
	}
	p := BeginPage{Families: []StarterFamily{}, Ladders: []state.Named{}, Curricula: []StarterRank{}, Tracks: []state.Named{}, Made: []MadeCurriculum{}, Warnings: []say.Sentence{}, Units: len(f.Units)}
	for _, family := range library.Families {
		x := StarterFamily{Family: family}
		for id := range starter.chosen([]library.Family{family}, false) {
			x.Techniques++
			if _, ok := f.Library.Technique(id); ok {
				x.Here++
			}
		}
		if x.Techniques > 0 {
			p.Families = append(p.Families, x)
		}
	}
	for _, l := range starter.Ladders {
		if _, ok := f.Ladders[l.ID]; !ok {
			p.Ladders = append(p.Ladders, state.Named{ID: l.ID, Name: l.Name})
		}
	}
	for _, c := range starter.Curricula {
		l, ok := f.Ladders[c.Ladder]
		here := slices.ContainsFunc(f.Curricula, func(had curriculum.Curriculum) bool { return had.Ladder == c.Ladder && had.Rank == c.Rank })
		if i := l.Position(c.Rank); ok && !here && i >= 0 {
			if r := f.kept(c.Requirements); len(r) > 0 {
				p.Curricula = append(p.Curricula, StarterRank{c.ID, l.Ranks[i].Name, len(r), l.Name})
			}
		}
	}
	for _, t := range f.Tracks {
		p.Tracks = append(p.Tracks, state.Named{ID: t.ID, Name: t.Name})
		if w := f.GateWarning(t); w != "" {
			p.Warnings = append(p.Warnings, w)
		}
	}
	slices.SortFunc(p.Tracks, func(x, y state.Named) int { return cmp.Compare(x.Name, y.Name) })
	unknown := 0
	for _, x := range f.Students() {
		if x.Birth == nil {
			unknown++
		}
	}
	if unknown > 0 {
		p.Warnings = append(p.Warnings, say.F("%s without a birth date: they count as minors until it is known, pass no gate by age and are not planned for in classes with a least age.", count(unknown, "no students", "%d student", "%d students")))
	}
	for _, c := range f.Curricula {
		p.Made = append(p.Made, MadeCurriculum{c.ID, f.Set.Name(documents.Curriculum, c), c.State == "published"})
	}
	if n := len(f.Seasons); n > 0 {
		p.Season, p.Planned = f.Seasons[n-1].ID, f.Seasons[n-1].Plan != nil
	}
	for d := f.Today(); d < f.Today()+14 && p.Tonight == ""; d++ {
		for _, c := range f.ClassesOn(d) {
			if l := f.Lesson(f.SessionPlan(c, d).Items); len(l.Teach)+len(l.Review) > 0 {
				p.Tonight = academy.Occurrence(c.ID, d)
				break
			}
		}
	}
	p.Steps = f.steps(p)
	return p, nil
}

func (f *snapshot) steps(p BeginPage) []BeginStep {
	techniques, students, coaches, ready := len(f.Library.Techniques()), len(f.Students()), 0, 0
	for _, x := range f.Active() {
		if x.Coach != nil {
			coaches++
			if len(x.Coach.Available) > 0 {
				ready++
			}
		}
	}
	visits := 0
	for s := range f.Sessions {
		visits += len(s.Here())
	}
	published := 0
	for _, c := range p.Made {
		if c.Published {
			published++
		}
	}
	wants := say.Sentence("The planner plans units, which are made of a curriculum. They need tracks, so the timetable may come first.")
	if len(p.Made) > 0 && published == 0 {
		wants = "A curriculum asks for something once it is published."
	}
	all := []BeginStep{
		{ID: "library", Name: "Library", Done: techniques > 0, Has: count(techniques, "no techniques", "%d technique", "%d techniques"), Missing: "A curriculum is made of techniques."},
		{ID: "ladders", Name: "Ladders", Done: len(f.Ladders) > 0, Has: count(len(f.Ladders), "no ladders", "%d ladder", "%d ladders"), Missing: "People stand on a ladder, and a curriculum is for one of its ranks."},
		{ID: "curricula", Name: "First curriculum and units", Done: published > 0 && len(f.Units) > 0, Has: say.F("%s, %d published, %s", count(len(f.Curricula), "no curricula", "%d curriculum", "%d curricula"), published, count(len(f.Units), "no units", "%d unit", "%d units")), Missing: wants},
		{ID: "timetable", Name: "Timetable", Done: len(f.Classes) > 0, Has: count(len(f.Classes), "no weekly classes", "%d weekly class", "%d weekly classes"), Missing: "A season is planned over the weekly classes."},
		{ID: "people", Name: "People", Done: students > 0, Has: count(students, "no students", "%d student", "%d students"), Missing: "The plan is made for who comes."},
		{ID: "coaches", Name: "Coaches", Done: ready > 0, Has: say.F("%s, %d with classes they can lead", count(coaches, "no coaches", "%d coach", "%d coaches"), ready), Missing: "Somebody leads each class: say who, when, and what they are signed off for."},
		{ID: "attendance", Name: "Past attendance", Done: visits > 0, Skips: true, Has: count(visits, "no visits", "%d visit", "%d visits"), Missing: "Without it the planner takes the same chance for everybody, until it has seen who comes."},
		{ID: "season", Name: "Plan the first season", Done: p.Planned, Has: count(len(f.Seasons), "no seasons", "%d season", "%d seasons")},
	}
	for i := range all {
		if all[i].Done {
			all[i].Missing = ""
		}
	}
	return all
}

// count is none, one or many of what is here, as a list of the beginning says it.
func count(n int, none, one, many say.Sentence) say.Sentence {
	if n == 0 {
		return none
	}
	return say.N(n, one, many)
}

// kept are the requirements whose techniques are here.
func (f *snapshot) kept(all []curriculum.Requirement) []curriculum.Requirement {
	here := func(id string) bool { _, ok := f.Library.Technique(id); return ok }
	out := []curriculum.Requirement{}
	for _, r := range all {
		if !here(r.Technique) {
			continue
		}
		r.Or = slices.DeleteFunc(slices.Clone(r.Or), func(id string) bool { return !here(id) })
		out = append(out, r)
	}
	return out
}

// starter is what ships to start from.
type starter struct {
	exchange.Bundle
	lib *library.Library
}

// starter is what ships, read once.
func (a *Service) starter() (starter, error) {
	a.readStarter.Do(func() {
		if a.Starter == nil {
			a.ships = starter{lib: library.New(nil, nil)}
			return
		}
		b, err := a.Starter()
		a.ships, a.shipsErr = starter{b, library.New(b.Positions, b.Techniques)}, err
	})
	return a.ships, a.shipsErr
}

// chosen are the techniques that start in a position of some families, and what these stand on when whole; movements belong to no
// position and are taken with what stands on them.
func (s starter) chosen(families []library.Family, whole bool) map[string]bool {
	of := map[string]library.Family{}
	for _, p := range s.Positions {
		of[p.ID] = p.Family
	}
	in := map[string]bool{}
	var add func(id string)
	add = func(id string) {
		t, ok := s.lib.Technique(id)
		if !ok || in[id] {
			return
		}
		in[id] = true
		if whole {
			for _, p := range t.Prerequisites {
				add(p.Technique)
			}
		}
	}
	for _, t := range s.Techniques {
		if t.From != nil && slices.Contains(families, of[t.From.Position]) {
			add(t.ID)
		}
	}
	return in
}

// BeginLibrary brings the starter library in: the techniques of some families and what they stand on, with what speaks of them.
// What is here already stays as it is.
func (a *Service) BeginLibrary(ctx context.Context, u state.User, families []library.Family) (string, error) {
	s, err := a.starter()
	if err != nil {
		return "", err
	}
	in := s.chosen(families, true)
	if len(families) == len(library.Families) {
		for _, t := range s.Techniques {
			in[t.ID] = true // the movements too
		}
	}
	if len(in) == 0 {
		return "", state.Invalid("families", "none of them has a technique: choose at least one family")
	}
	for _, x := range s.Files {
		if _, err := a.Files.Put(u.Academy, bytes.NewReader(x.Content)); err != nil {
			return "", err
		}
	}
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		here := func(id string) bool { _, ok := f.Library.Technique(id); return ok || in[id] }
		places := map[string]bool{}
		added := 0
		put := func(kind, id string, value any) error {
			if f.Version(kind, id) > 0 {
				return nil
			}
			return b.Put(kind, id, value)
		}
		for _, t := range s.Techniques {
			if !in[t.ID] {
				continue
			}
			t = fitted(t, here)
			for _, r := range documents.References(documents.Technique, t) {
				if r.Kind == documents.Position {
					places[r.ID] = true
				}
			}
			if f.Version(documents.Technique, t.ID) == 0 {
				added++
			}
			if err := put(documents.Technique, t.ID, t); err != nil {
				return err
			}
		}
		for _, t := range s.Tables {
			t.Rows = slices.DeleteFunc(slices.Clone(t.Rows), func(r library.Row) bool { return !here(r.Then) })
			if len(t.Rows) < 2 {
				continue
			}
			places[t.At.Position] = true
			if err := put(documents.ForkTable, t.ID, t); err != nil {
				return err
			}
		}
		for _, v := range s.Sets {
			v.Variants = slices.DeleteFunc(slices.Clone(v.Variants), func(x library.Variant) bool { return !here(x.Technique) })
			if len(v.Variants) < 2 || v.House != "" && !here(v.House) {
				continue
			}
			if err := put(documents.VariantSet, v.ID, v); err != nil {
				return err
			}
		}
		for _, p := range s.Positions {
			if places[p.ID] || len(families) == len(library.Families) {
				if err := put(documents.Position, p.ID, p); err != nil {
					return err
				}
			}
		}
		if added == 0 {
			return state.Invalid("families", "all of it is here already")
		}
		b.Summary = say.F("Began with %d techniques of the starter library", added)
		return nil
	})
}

// fitted is a technique without what speaks of techniques that are not taken: a fork keeps its reaction and waits for an answer.
func fitted(t library.Technique, here func(string) bool) library.Technique {
	t.Forks, t.Prerequisites = slices.Clone(t.Forks), slices.Clone(t.Prerequisites)
	for i := range t.Forks {
		if t.Forks[i].Answer != "" && !here(t.Forks[i].Answer) {
			t.Forks[i].Answer = ""
		}
	}
	t.SavesFrom = slices.DeleteFunc(slices.Clone(t.SavesFrom), func(id string) bool { return !here(id) })
	t.Prerequisites = slices.DeleteFunc(t.Prerequisites, func(p library.Prerequisite) bool { return !here(p.Technique) })
	return t
}

// BeginLadders brings starter ladders in.
func (a *Service) BeginLadders(ctx context.Context, u state.User, ids []string) (string, error) {
	s, err := a.starter()
	if err != nil {
		return "", err
	}
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		var names []string
		coming := map[string]bool{}
		for _, id := range ids {
			coming[id] = true
		}
		for _, l := range s.Ladders {
			if _, had := f.Ladders[l.ID]; had || !coming[l.ID] {
				continue
			}
			if l.Onward != nil && !coming[l.Onward.Ladder] {
				if _, there := f.Ladders[l.Onward.Ladder]; !there {
					l.Onward = nil
				}
			}
			names = append(names, l.Name)
			if err := b.Put(documents.Ladder, l.ID, l); err != nil {
				return err
			}
		}
		if len(names) == 0 {
			return state.Invalid("ladders", "choose one that is not here yet")
		}
		b.Summary = say.N(len(names), "Began with %d ladder", "Began with %d ladders")
		return nil
	})
}

// BeginCurriculum brings a first curriculum in as a draft, as far as its techniques are here.
func (a *Service) BeginCurriculum(ctx context.Context, u state.User, id string) (string, error) {
	s, err := a.starter()
	if err != nil {
		return "", err
	}
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		i := slices.IndexFunc(s.Curricula, func(c curriculum.Curriculum) bool { return c.ID == id })
		if i < 0 {
			return state.NotFound("first curriculum", id)
		}
		c := s.Curricula[i]
		if f.Version(documents.Curriculum, c.ID) > 0 {
			return state.Invalid("id", "it is here already")
		}
		if f.Ladders[c.Ladder].Position(c.Rank) < 0 {
			return state.Invalid("id", "its ladder is not here: add it first")
		}
		c.Requirements = f.kept(c.Requirements)
		b.Summary = say.F("Began with %s", f.Set.Name(documents.Curriculum, c))
		return b.Put(documents.Curriculum, c.ID, c)
	})
}
