package seasons

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/repair"
	"vereda/core/season/rules"
)

// Trial is what a move by hand would lead to.
type Trial struct {
	Summary say.Sentence   `json:"summary" doc:"The move, as what would be done"`
	Done    say.Sentence   `json:"done" doc:"The same, as what was done"`
	Before  float64        `json:"before"`
	After   float64        `json:"after"`
	Breaks  []BreachLine   `json:"breaks" doc:"Rules broken afterwards that are not broken now"`
	Loses   []explain.Gain `json:"loses" doc:"Students by what they lose, most first: mean chance covered of their needs"`
	Gains   []explain.Gain `json:"gains"`
	Changes []ChangeLine   `json:"changes"`
}

// BreachLine is a broken rule with its place.
type BreachLine struct {
	Week  int          `json:"week"`
	Class string       `json:"class"`
	Name  string       `json:"name" doc:"Of the class"`
	Unit  string       `json:"unit,omitempty"`
	Rule  string       `json:"rule"`
	What  say.Sentence `json:"what"`
	Own   bool         `json:"own" doc:"A rule of the academy for its track: it is said, and does not keep the plan from being published"`
}

// TryMove says what a move by hand would lead to, and keeps nothing.
func (a *Service) TryMove(ctx context.Context, u state.User, id string, v repair.Move) (Trial, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Trial{}, err
	}
	s, p, moved, err := a.moved(f, id, v)
	if err != nil {
		return Trial{}, err
	}
	t := Trial{Summary: f.moveWords(s, v, false), Done: f.moveWords(s, v, true), Breaks: f.newBreaches(p, *s.Plan, moved), Changes: f.changeLines(s, repair.Diff(*s.Plan, moved)), Loses: []explain.Gain{}, Gains: []explain.Gain{}}
	var before, after []season.Covered
	t.Before, before = season.Coverage(p, s.Plan.Placements)
	t.After, after = season.Coverage(p, moved.Placements)
	for _, st := range p.Students {
		g := explain.Gain{Student: f.NameOf(st.ID), With: meanOf(before, st.ID), Without: meanOf(after, st.ID)}
		switch {
		case g.Without < g.With-0.0005:
			t.Loses = append(t.Loses, g)
		case g.Without > g.With+0.0005:
			t.Gains = append(t.Gains, g)
		}
	}
	slices.SortStableFunc(t.Loses, func(x, y explain.Gain) int { return cmp.Compare(x.Without-x.With, y.Without-y.With) })
	slices.SortStableFunc(t.Gains, func(x, y explain.Gain) int { return cmp.Compare(y.Without-y.With, x.Without-x.With) })
	return t, nil
}

func meanOf(all []season.Covered, student string) float64 {
	sum, weights := 0.0, 0.0
	for _, c := range all {
		if c.Student == student {
			sum += c.Weight * c.Chance
			weights += c.Weight
		}
	}
	return sum / max(weights, 1e-9)
}

// MakeMove keeps a move by hand, and pins the classes it was made in.
func (a *Service) MakeMove(ctx context.Context, u state.User, id string, v repair.Move) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s, _, moved, err := a.moved(f, id, v)
		if err != nil {
			return err
		}
		if v.To != nil && !slices.Contains(s.Pins, *v.To) {
			s.Pins = append(slices.Clone(s.Pins), *v.To)
		}
		s.Plan = asHeld(s, moved)
		b.Summary = f.moveWords(s, v, true)
		return b.Put(documents.Season, s.ID, s)
	})
}

func (a *Service) moved(f *snapshot, id string, v repair.Move) (academy.Season, season.Problem, season.Plan, error) {
	s, err := f.FindSeason(id)
	if err != nil {
		return s, season.Problem{}, season.Plan{}, err
	}
	if s.Plan == nil {
		return s, season.Problem{}, season.Plan{}, state.Invalid("season", "%s has no plan yet: press Plan first", s.Name)
	}
	for _, at := range []*repair.Spot{v.From, v.To} {
		if at == nil {
			continue
		}
		if c, ok := f.Class(at.Class); ok && s.DayOf(at.Week, c) < f.Today() {
			return s, season.Problem{}, season.Plan{}, state.Invalid("move", "%s on %s is over: what is past does not move", c.Name, s.DayOf(at.Week, c))
		}
	}
	p, left := f.problem(s, f.Today())
	p = unpinned(p)
	moved, err := repair.Moved(p, *s.Plan, v)
	if err != nil {
		return s, p, moved, state.Invalid("move", "%v", err)
	}
	moved.Unplaced = append(moved.Unplaced, left...)
	return s, p, moved, nil
}

// unpinned leaves of what is fixed what was held.
func unpinned(p season.Problem) season.Problem {
	p.Fixed = slices.DeleteFunc(slices.Clone(p.Fixed), func(x season.Placement) bool { return !x.Held })
	return p
}

// moveWords says a move, as what was done or what would be.
func (f *snapshot) moveWords(s academy.Season, v repair.Move, done bool) say.Sentence {
	at := func(x *repair.Spot) say.Sentence {
		c, _ := f.Class(x.Class)
		return say.F("%s on %s", c.Name, s.DayOf(x.Week, c))
	}
	unit, _ := f.Unit(v.Unit)
	switch {
	case v.Lead != "":
		return say.F(either(done, "Gave %s to %s", "Give %s to %s"), at(v.To), f.NameOf(v.Lead))
	case v.From != nil && v.To != nil:
		return say.F(either(done, "Moved %s from %s to %s", "Move %s from %s to %s"), unit.Name, at(v.From), at(v.To))
	case v.To != nil:
		return say.F("Put %s into %s", unit.Name, at(v.To))
	case v.From != nil:
		return say.F(either(done, "Removed %s from %s", "Remove %s from %s"), unit.Name, at(v.From))
	}
	return either(done, "Moved nothing", "Move nothing")
}

// newBreaches lists the rules a plan breaks that the one before it does not.
func (f *snapshot) newBreaches(p season.Problem, before, after season.Plan) []BreachLine {
	had := rules.Breaches(p, before.Placements)
	var fresh []rules.Breach
	for _, b := range rules.Breaches(p, after.Placements) {
		if !slices.Contains(had, b) {
			fresh = append(fresh, b)
		}
	}
	return f.breachLines(fresh)
}

func (f *snapshot) breachLines(found []rules.Breach) []BreachLine {
	all := []BreachLine{}
	for _, b := range found {
		c, _ := f.Class(b.Class)
		all = append(all, BreachLine{b.Week, b.Class, c.Name, b.Unit, b.Rule, b.What, b.Own})
	}
	return all
}

// Pin keeps a class as it is when the season is planned again, or lets it go.
func (a *Service) Pin(ctx context.Context, u state.User, id string, at repair.Spot, pinned bool) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		c, ok := f.Class(at.Class)
		if !ok || at.Week < 1 || at.Week > s.Weeks {
			return state.NotFound("class", at.Class)
		}
		s.Pins = slices.DeleteFunc(slices.Clone(s.Pins), func(p repair.Spot) bool { return p == at })
		b.Summary = say.F("Let %s on %s move again", c.Name, s.DayOf(at.Week, c))
		if pinned {
			s.Pins = append(s.Pins, at)
			b.Summary = say.F("Pinned %s on %s", c.Name, s.DayOf(at.Week, c))
		}
		return b.Put(documents.Season, s.ID, s)
	})
}

// MissesPage is who is likely to miss what.
type MissesPage struct {
	Units    []MissUnit    `json:"units" doc:"Least covered first"`
	Students []MissStudent `json:"students" doc:"Least covered first"`
}

// MissUnit is a unit somebody needs.
type MissUnit struct {
	Unit   string  `json:"unit"`
	Name   string  `json:"name"`
	Area   string  `json:"area"`
	Mean   float64 `json:"mean"`
	Needed int     `json:"needed" doc:"By how many students"`
}

// MissStudent is a student with the chance covered of every need.
type MissStudent struct {
	ID    string             `json:"id"`
	Name  string             `json:"name"`
	Belt  string             `json:"belt"`
	Rank  string             `json:"rank"`
	Mean  float64            `json:"mean"`
	Cells map[string]float64 `json:"cells" doc:"Unit: chance covered; left out where nothing is needed"`
}

// Misses lists students by units.
func (a *Service) Misses(ctx context.Context, u state.User, id string) (MissesPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return MissesPage{}, err
	}
	s, err := f.shown(u, id)
	if err != nil {
		return MissesPage{}, err
	}
	page := MissesPage{Units: []MissUnit{}, Students: []MissStudent{}}
	if s.Plan == nil {
		return page, nil
	}
	p, _ := f.problem(s, f.Today())
	_, each := season.Coverage(p, s.Plan.Placements)
	sums := map[string][3]float64{}
	for _, st := range p.Students {
		person := f.Person[st.ID]
		rank := f.RankOf(person)
		line := MissStudent{ID: st.ID, Name: person.Name, Belt: rank.Belt, Rank: rank.Name, Mean: meanOf(each, st.ID), Cells: map[string]float64{}}
		for _, c := range each {
			if c.Student == st.ID {
				line.Cells[c.Unit] = c.Chance
				had := sums[c.Unit]
				sums[c.Unit] = [3]float64{had[0] + c.Weight*c.Chance, had[1] + c.Weight, had[2] + 1}
			}
		}
		page.Students = append(page.Students, line)
	}
	for _, unit := range f.Units {
		if x := sums[unit.ID]; x[1] > 0 {
			page.Units = append(page.Units, MissUnit{unit.ID, unit.Name, unit.Area, x[0] / x[1], int(x[2])})
		}
	}
	slices.SortStableFunc(page.Units, func(x, y MissUnit) int { return cmp.Compare(x.Mean, y.Mean) })
	slices.SortStableFunc(page.Students, func(x, y MissStudent) int { return cmp.Compare(x.Mean, y.Mean) })
	return page, nil
}

// HelpLine is the one change that would help a student or a unit most.
type HelpLine struct {
	Found    bool         `json:"found"`
	Summary  say.Sentence `json:"summary"`
	Move     *repair.Move `json:"move,omitempty" doc:"What would be put where; what goes for it is removed first"`
	Out      *repair.Move `json:"out,omitempty"`
	Before   float64      `json:"before"`
	After    float64      `json:"after"`
	Now      float64      `json:"now" doc:"Coverage of the season as it is"`
	Coverage float64      `json:"coverage" doc:"Coverage of the season afterwards"`
}

// Help finds the one change that would help a student, or a unit, most.
func (a *Service) Help(ctx context.Context, u state.User, id, student, unit string) (HelpLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return HelpLine{}, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return HelpLine{}, err
	}
	if s.Plan == nil {
		return HelpLine{}, state.Invalid("season", "%s has no plan yet: press Plan first", s.Name)
	}
	p, _ := f.problem(s, f.Today())
	h, ok := repair.Helps(p, *s.Plan, student, unit)
	line := HelpLine{Found: ok, Before: h.Before, After: h.After, Now: h.Now, Coverage: h.Coverage}
	if !ok {
		line.Summary = "No single change that keeps the rules would raise it."
		return line, nil
	}
	c, _ := f.Class(h.Class)
	in, _ := f.Unit(h.In.Unit)
	at := repair.Spot{Week: h.Week, Class: h.Class}
	line.Move = &repair.Move{Unit: h.In.Unit, Kind: h.In.Kind, To: &at}
	what := either(h.In.Kind == season.Review, "Review %s in %s on %s.", "Teach %s in %s on %s.")
	values := []any{in.Name, c.Name, s.DayOf(h.Week, c)}
	if h.Out != nil {
		out, _ := f.Unit(h.Out.Unit)
		line.Out = &repair.Move{Unit: h.Out.Unit, From: &at}
		what = either(h.In.Kind == season.Review, "Review %s in %s on %s instead of %s %s.", "Teach %s in %s on %s instead of %s %s.")
		values = append(values, say.Word(h.Out.Kind), out.Name)
	}
	line.Summary = say.F(what, values...)
	return line, nil
}

func either(first bool, a, b say.Sentence) say.Sentence {
	if first {
		return a
	}
	return b
}

// TakeHelp makes that change.
func (a *Service) TakeHelp(ctx context.Context, u state.User, id, student, unit string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		if s.Plan == nil {
			return state.Invalid("season", "%s has no plan yet: press Plan first", s.Name)
		}
		p, left := f.problem(s, f.Today())
		h, ok := repair.Helps(p, *s.Plan, student, unit)
		if !ok {
			return state.Invalid("plan", "no single change that keeps the rules would help")
		}
		at := repair.Spot{Week: h.Week, Class: h.Class}
		plan := *s.Plan
		if h.Out != nil {
			if plan, err = repair.Moved(unpinned(p), plan, repair.Move{Unit: h.Out.Unit, From: &at}); err != nil {
				return state.Invalid("plan", "%v", err)
			}
		}
		if plan, err = repair.Moved(unpinned(p), plan, repair.Move{Unit: h.In.Unit, Kind: h.In.Kind, To: &at}); err != nil {
			return state.Invalid("plan", "%v", err)
		}
		plan.Unplaced = append(plan.Unplaced, left...)
		s.Plan = asHeld(s, plan)
		name := f.NameOf(student)
		if unit != "" {
			x, _ := f.Unit(unit)
			name = x.Name
		}
		b.Summary = say.F("Changed the plan for %s", name)
		return b.Put(documents.Season, s.ID, s)
	})
}

// ChancesPage is who comes to what, estimated and as set by hand.
type ChancesPage struct {
	Classes  []state.Named `json:"classes"`
	Students []ChancesLine `json:"students"`
	Formula  say.Sentence  `json:"formula"`
}

// ChancesLine is one student's chances.
type ChancesLine struct {
	ID    string           `json:"id"`
	Name  string           `json:"name"`
	Cells []AdjustedChance `json:"cells" doc:"In the order of the classes"`
}

// AdjustedChance is an estimate and what was set instead.
type AdjustedChance struct {
	state.Chance
	Set *float64 `json:"set,omitempty"`
}

const chanceFormula say.Sentence = "(a + Σ w·came) / (a + b + Σ w) over the classes held while they were enrolled; a visit counts half for every four weeks of its age; a and b come from their overall rate, drawn toward the academy's. What you set stands instead, for this season."

// Chances lists every student's chance of being in each weekly class.
func (a *Service) Chances(ctx context.Context, u state.User, id string) (ChancesPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ChancesPage{}, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return ChancesPage{}, err
	}
	page := ChancesPage{Classes: []state.Named{}, Students: []ChancesLine{}, Formula: chanceFormula}
	for _, c := range f.Classes {
		page.Classes = append(page.Classes, state.Named{ID: c.ID, Name: c.Name})
	}
	all := f.Chances(min(f.Today(), s.Start+calendar.Day(7*s.Weeks)))
	for _, person := range f.Students() {
		line := ChancesLine{ID: person.ID, Name: person.Name, Cells: []AdjustedChance{}}
		for _, c := range f.Classes {
			x := AdjustedChance{Chance: all[person.ID][c.ID]}
			for _, set := range s.Chances {
				if set.Student == person.ID && set.Class == c.ID {
					x.Set = &set.Chance
				}
			}
			line.Cells = append(line.Cells, x)
		}
		page.Students = append(page.Students, line)
	}
	return page, nil
}

// SetChance sets a student's chance for a season by hand; without one the
// estimate stands again.
func (a *Service) SetChance(ctx context.Context, u state.User, id, student, class string, chance *float64) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		c, ok := f.Class(class)
		person, known := f.Person[student]
		if !ok || !known {
			return state.NotFound("student or class", student+" "+class)
		}
		if chance != nil && !(*chance >= 0 && *chance <= 1) {
			return state.Invalid("chance", "%g is outside 0 to 1", *chance)
		}
		s.Chances = slices.DeleteFunc(slices.Clone(s.Chances), func(x academy.SetChance) bool { return x.Student == student && x.Class == class })
		b.Summary = say.F("Went back to the estimate for %s in %s", person.Name, c.Name)
		if chance != nil {
			s.Chances = append(s.Chances, academy.SetChance{Student: student, Class: class, Chance: *chance})
			b.Summary = say.F("Set the chance of %s in %s to %.0f %%", person.Name, c.Name, 100**chance)
		}
		return b.Put(documents.Season, s.ID, s)
	})
}
