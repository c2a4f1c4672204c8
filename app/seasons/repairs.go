package seasons

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/bound"
	"vereda/core/season/repair"
	"vereda/core/season/search"
)

// Happening is what makes a plan need mending.
type Happening struct {
	Kind  string `json:"kind,omitempty" enum:"cancelled,closed,coach_out,not_reached,wanted,barred,changed" doc:"cancelled when left out; changed: nothing more than what was set already, dates or people"`
	Week  int    `json:"week"`
	Weeks int    `json:"weeks,omitempty" minimum:"0" maximum:"60" doc:"coach_out and barred: how many weeks; 1 when left out"`
	Class string `json:"class,omitempty"`
	Coach string `json:"coach,omitempty"`
	Unit  string `json:"unit,omitempty"`
	Track string `json:"track,omitempty"`
	Why   string `json:"why,omitempty" maxLength:"200"`
}

// Proposal is a repair before it is taken.
type Proposal struct {
	What    Happening    `json:"what"`
	Summary say.Sentence `json:"summary"`
	Before  float64      `json:"before"`
	Broken  float64      `json:"broken" doc:"Coverage if nothing were repaired"`
	After   float64      `json:"after"`
	Anew    float64      `json:"anew" doc:"The best coverage found when everything that may move may change"`
	Fewest  bool         `json:"fewest" doc:"Proven: no plan within 1 % of the best changes fewer classes"`
	Changes []ChangeLine `json:"changes"`
	Dropped []string     `json:"dropped" doc:"Units that were not reached and have no room any more"`
}

// ChangeLine is one class before and after.
type ChangeLine struct {
	Week   int          `json:"week"`
	Class  string       `json:"class"`
	Name   string       `json:"name"`
	On     calendar.Day `json:"on"`
	Before *Cell        `json:"before,omitempty"`
	After  *Cell        `json:"after,omitempty"`
}

// ProposeRepair computes what would change, and keeps nothing.
func (a *Service) ProposeRepair(ctx context.Context, u state.User, id string, h Happening) (Proposal, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Proposal{}, err
	}
	m, err := a.mend(f, id, h)
	if err != nil {
		return Proposal{}, err
	}
	r := m.repaired
	p := Proposal{What: h, Summary: m.says, Before: r.Before, Broken: r.Broken, After: r.Plan.Coverage, Anew: max(r.Anew, r.Plan.Coverage), Fewest: r.Fewest, Changes: f.changeLines(m.season, r.Changes), Dropped: []string{}}
	for _, x := range r.Dropped {
		unit, _ := f.Unit(x.Unit)
		p.Dropped = append(p.Dropped, unit.Name+", "+f.Tracks[x.Track].Name)
	}
	return p, nil
}

func (f *snapshot) changeLines(s academy.Season, changes []repair.Change) []ChangeLine {
	all := []ChangeLine{}
	for _, x := range changes {
		class, _ := f.Class(x.Class)
		line := ChangeLine{x.Week, x.Class, class.Name, s.DayOf(x.Week, class), f.cellOf(x.Before), f.cellOf(x.After)}
		for _, c := range []*Cell{line.Before, line.After} {
			if c != nil {
				c.On = line.On
			}
		}
		all = append(all, line)
	}
	return all
}

// TakeSeasonRepair keeps a repair and what made it necessary, as one change.
func (a *Service) TakeSeasonRepair(ctx context.Context, u state.User, id string, h Happening) (string, error) {
	var m mended
	return a.keepPlanned(ctx, u, id, func(f *snapshot) (err error) {
		m, err = a.mend(f, id, h)
		return err
	}, func(f *snapshot, b *state.Change) error {
		m.season.Plan = asHeld(m.season, m.repaired.Plan)
		if b.Summary = m.says; h.Kind != "changed" {
			b.Summary = say.F("%s and repaired the plan", m.says)
		}
		if m.coach != nil {
			if err := b.PutPerson(f.Snapshot, *m.coach); err != nil {
				return err
			}
		}
		return b.Put(documents.Season, m.season.ID, m.season)
	})
}

// mended is a season after something happened, and its repaired plan.
type mended struct {
	season   academy.Season
	coach    *academy.Person // with the days they are out, when that is what happened
	says     say.Sentence
	repaired repair.Repaired
}

func (a *Service) mend(f *snapshot, id string, h Happening) (mended, error) {
	s, err := f.FindSeason(id)
	if err != nil {
		return mended{}, err
	}
	m := mended{season: s}
	if s.Plan == nil {
		return m, state.Invalid("season", "%s has no plan yet: press Plan first", s.Name)
	}
	if h.Week < 1 || h.Week > s.Weeks {
		return m, state.Invalid("week", "week %d is not in a season of %d weeks", h.Week, s.Weeks)
	}
	old := *s.Plan
	set := f
	var drop []repair.Disruption
	switch cmp.Or(h.Kind, "cancelled") {
	case "cancelled", "closed":
		err = a.close(f, &m, h)
	case "coach_out":
		if err = a.sendOut(f, &m, h); err == nil {
			set = &snapshot{f.With(map[documents.Ref]any{{Kind: documents.Person, ID: m.coach.ID}: *m.coach})}
		}
	case "not_reached":
		drop, err = a.unreached(f, &m, h)
	case "wanted":
		unit, ok := f.Unit(h.Unit)
		if !ok {
			err = state.Invalid("unit", "choose the unit that is wanted")
		}
		m.season.Wanted = append(slices.Clone(s.Wanted), season.Wanted{Unit: h.Unit, Track: h.Track, Week: h.Week})
		m.says = say.F("Wanted %s by week %d", unit.Name, h.Week)
	case "barred":
		err = f.bar(&m, h)
	case "changed":
		m.says = say.F("Repaired the plan of %s", s.Name)
	default:
		err = state.Invalid("kind", "%q: choose cancelled, closed, coach_out, not_reached, wanted, barred or changed", h.Kind)
	}
	if err != nil {
		return m, err
	}
	p, left := set.problem(m.season, f.Today())
	p, old, err = repair.Disrupted(p, old, drop)
	if err != nil {
		return m, state.Invalid("unit", "%v", err)
	}
	old.Bound = 0 // who comes may have changed since it was computed
	m.repaired, err = repair.Repair(p, old, max(1, s.WeekOf(f.Today())), drop...)
	if err != nil {
		return m, state.Invalid("plan", "%v", f.inWords(err))
	}
	m.repaired.Changes = slices.DeleteFunc(m.repaired.Changes, func(c repair.Change) bool {
		return slices.ContainsFunc(p.Fixed, func(x season.Placement) bool { return x.Held && x.Week == c.Week && x.Class == c.Class })
	})
	p.Seconds = 0.2
	m.repaired.Plan.Bound = bound.Of(p, m.repaired.Plan.Coverage)
	m.repaired.Plan.Unplaced = append(m.repaired.Plan.Unplaced, left...)
	return m, nil
}

func (a *Service) close(f *snapshot, m *mended, h Happening) error {
	s := m.season
	if h.Class == "" && h.Kind != "closed" {
		return state.Invalid("class", "choose the class that is cancelled")
	}
	classes := f.Classes
	if h.Class != "" {
		class, ok := f.Class(h.Class)
		if !ok {
			return state.NotFound("class", h.Class)
		}
		classes = []academy.Class{class}
	}
	for _, class := range classes {
		on := s.DayOf(h.Week, class)
		if h.Class != "" && !class.Meets(on) {
			return state.Invalid("week", "%s is not in the timetable in week %d", class.Name, h.Week)
		}
		if h.Class != "" && on < f.Today() {
			return state.Invalid("week", "%s on %s is over: it cannot be cancelled any more", class.Name, on)
		}
		if f.Reported(class.ID, on) {
			return state.Invalid("week", "%s on %s was held and recorded: it cannot be cancelled any more", class.Name, on)
		}
		if slices.ContainsFunc(s.Shut(), func(k academy.Closure) bool { return k.Week == h.Week && (k.Class == "" || k.Class == h.Class) }) {
			return state.Invalid("week", "%s is closed in week %d already", class.Name, h.Week)
		}
		m.says = say.F("Cancelled %s on %s", class.Name, on)
	}
	if h.Class == "" {
		m.says = say.F("Closed week %d", h.Week)
	}
	m.season.Closures = append(slices.Clone(s.Closures), academy.Closure{Week: h.Week, Class: h.Class, Why: h.Why})
	return nil
}

// sendOut takes a coach out for some weeks from a week on.
func (a *Service) sendOut(f *snapshot, m *mended, h Happening) error {
	person, ok := f.Person[h.Coach]
	if !ok || person.Coach == nil {
		return state.Invalid("coach", "choose the coach who is away")
	}
	weeks := max(1, h.Weeks)
	from := m.season.Start + calendar.Day(7*(h.Week-1))
	terms := *person.Coach
	terms.Out = append(slices.Clone(terms.Out), academy.Span{From: from, To: from + calendar.Day(7*weeks-1)})
	person.Coach = &terms
	m.coach = &person
	m.says = say.F("Removed %s from week %d", person.Name, h.Week)
	if weeks > 1 {
		m.says = say.F("Removed %s from weeks %d to %d", person.Name, h.Week, h.Week+weeks-1)
	}
	return nil
}

// unreached takes a unit out of a class that was held without reaching it.
func (a *Service) unreached(f *snapshot, m *mended, h Happening) ([]repair.Disruption, error) {
	class, ok := f.Class(h.Class)
	if !ok {
		return nil, state.NotFound("class", h.Class)
	}
	unit, _ := f.Unit(h.Unit)
	on := m.season.DayOf(h.Week, class)
	if on > f.Today() {
		return nil, state.Invalid("week", "%s on %s is still to come: move the unit instead", class.Name, on)
	}
	if !m.season.Missed(h.Week, h.Class, h.Unit) {
		m.season.Unreached = append(slices.Clone(m.season.Unreached), academy.Unreached{Spot: repair.Spot{Week: h.Week, Class: h.Class}, Unit: h.Unit})
	}
	m.says = say.F("Noted that %s on %s did not reach %s", class.Name, on, unit.Name)
	return []repair.Disruption{{Kind: "not_reached", Week: h.Week, Class: h.Class, Unit: h.Unit}}, nil
}

// inWords is an error of the planner with the academy's names in place of identifiers.
func (f *snapshot) inWords(err error) string {
	var conflict *search.Conflict
	if !errors.As(err, &conflict) {
		return err.Error()
	}
	names := map[string]string{}
	for _, u := range f.Units {
		names[u.ID] = u.Name
	}
	for _, c := range f.Classes {
		names[c.ID] = c.Name
	}
	for _, t := range f.Tracks {
		names[t.ID] = t.Name
	}
	for _, p := range f.Active() {
		names[p.ID] = p.Name
	}
	said := make([]string, len(conflict.Conditions))
	for i, c := range conflict.Conditions {
		words := strings.Fields(c)
		for k, w := range words {
			bare := strings.TrimRight(w, ",:")
			if n, ok := names[bare]; ok {
				words[k] = n + w[len(bare):]
			}
		}
		said[i] = strings.Join(words, " ")
	}
	return "these cannot all be kept: " + strings.Join(said, "; ")
}
