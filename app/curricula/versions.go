package curricula

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// NewCurriculum begins a curriculum for a rank: empty, or as a new version of
// another one.
type NewCurriculum struct {
	Ladder string `json:"ladder" maxLength:"100"`
	Rank   string `json:"rank" maxLength:"100"`
	From   string `json:"from,omitempty" maxLength:"100" doc:"The curriculum it begins as"`
}

// BeginCurriculum makes a draft. Its identifier is the rank's with the version.
func (a *Service) BeginCurriculum(ctx context.Context, u state.User, n NewCurriculum) (id, change string, err error) {
	change, err = state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c := curriculum.Curriculum{Ladder: n.Ladder, Rank: n.Rank, Requirements: []curriculum.Requirement{}}
		if n.From != "" {
			from, err := f.FindCurriculum(n.From)
			if err != nil {
				return err
			}
			c = from
			c.Requirements = slices.Clone(from.Requirements)
		}
		l, ok := f.Ladders[c.Ladder]
		if !ok {
			return state.NotFound("ladder", c.Ladder)
		}
		at := l.Position(c.Rank)
		if at < 0 {
			return state.Invalid("rank", "%q is not a rank of %s: choose one of its ranks", c.Rank, l.Name)
		}
		c.State, c.Version = "draft", 1
		for _, had := range f.Curricula {
			if had.Ladder == c.Ladder && had.Rank == c.Rank {
				c.Version = max(c.Version, had.Version+1)
			}
		}
		c.ID = fmt.Sprintf("%s-%d", c.Rank, c.Version)
		for f.Version(documents.Curriculum, c.ID) > 0 { // another ladder may have a rank of that name
			c.ID = l.ID + "-" + c.ID
		}
		id = c.ID
		b.Summary = say.F("Began version %d of the curriculum for %s", c.Version, l.Ranks[at].Name)
		return b.Put(documents.Curriculum, c.ID, c)
	})
	return id, change, err
}

// Affected is one student whom a version concerns.
type Affected struct {
	Student string         `json:"student"`
	Name    string         `json:"name"`
	Now     say.Sentence   `json:"now" doc:"The version they work on"`
	Gains   []string       `json:"gains" doc:"What would be asked of them that is not now, and is not there yet"`
	Loses   []string       `json:"loses" doc:"What would not be asked any more"`
	Changes []say.Sentence `json:"changes" doc:"What would be asked at another rung or on other sides"`
	Before  float64        `json:"before" doc:"Share met now, 0 to 1"`
	After   float64        `json:"after" doc:"Share met on the other version"`
	Moved   bool           `json:"moved" doc:"They work on this version already"`
}

// VersionPage says what a version would mean to whom.
type VersionPage struct {
	Line     state.CurriculumLine `json:"line"`
	Against  say.Sentence         `json:"against,omitempty" doc:"The version it is compared with, and why that one"`
	Added    []string             `json:"added"`
	Removed  []string             `json:"removed"`
	Changed  []say.Sentence       `json:"changed"`
	Students []Affected           `json:"students" doc:"Everybody whose next rank it is"`
	Summary  say.Sentence         `json:"summary"`
}

// Version compares a curriculum with the one that counted before it and with what
// each student works on. Publishing moves nobody: students stay on the version
// they began with until they are moved.
func (a *Service) Version(ctx context.Context, u state.User, id string) (VersionPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return VersionPage{}, err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return VersionPage{}, err
	}
	p := VersionPage{Line: f.CurriculumLine(c), Added: []string{}, Removed: []string{}, Changed: []say.Sentence{}, Students: []Affected{}}
	if old, why := f.against(c); why != "" {
		p.Against = why
		p.Added, p.Removed, p.Changed = f.compare(old, c)
	}
	on := f.Today()
	stay := 0
	for _, s := range f.Students() {
		asked, next, ok := f.CurriculumFor(s)
		if s.Ladder != c.Ladder || next.ID != c.Rank || !ok {
			continue
		}
		x := Affected{Student: s.ID, Name: s.Name, Now: say.F("version %d, %s", asked.Version, say.Word(asked.State)), Moved: asked.ID == c.ID}
		x.Gains, x.Loses, x.Changes = f.compare(asked, c)
		now, then := f.ReadyFor(s, asked, on), f.ReadyFor(s, c, on)
		x.Before, x.After = now.Share, then.Share
		x.Gains = slices.DeleteFunc(x.Gains, func(name string) bool {
			return !slices.ContainsFunc(then.Missing, func(g ledger.Gap) bool { return g.Name == name })
		})
		if !x.Moved {
			stay++
		}
		p.Students = append(p.Students, x)
	}
	p.Summary = say.F("%d added, %d removed, %d changed. %d students work toward this rank; %d are on another version and stay there until they are moved.", len(p.Added), len(p.Removed), len(p.Changed), len(p.Students), stay)
	return p, nil
}

// against is the version a curriculum is compared with: for a draft the published one, which it would retire; for one that was published the other version
// that most students of the rank are on, or where there is none the one before it.
func (f *snapshot) against(c curriculum.Curriculum) (old curriculum.Curriculum, why say.Sentence) {
	if published, ok := f.publishedFor(c); ok {
		return published, say.F("Against version %d, which is published; publishing this one retires it.", published.Version)
	}
	most := 0
	for _, x := range f.Curricula {
		if x.Ladder != c.Ladder || x.Rank != c.Rank || x.ID == c.ID || x.State == "draft" {
			continue
		}
		if on := len(f.WorksOn(x.ID)); on > most || most == 0 && x.Version < c.Version && x.Version > old.Version {
			old, most = x, on
		}
	}
	switch {
	case most > 0:
		why = say.F("Against version %d, which %s.", old.Version, say.N(most, "%d student is on", "%d students are on"))
	case old.ID != "":
		why = say.F("Against version %d, the one before it.", old.Version)
	}
	return old, why
}

// publishedFor is the published curriculum of the same rank, another one than c.
func (f *snapshot) publishedFor(c curriculum.Curriculum) (best curriculum.Curriculum, ok bool) {
	for _, x := range f.Curricula {
		if x.Ladder == c.Ladder && x.Rank == c.Rank && x.ID != c.ID && x.State == "published" && x.Version > best.Version {
			best, ok = x, true
		}
	}
	return best, ok
}

// compare names what the second asks that the first does not, the other way
// round, and what it asks otherwise.
func (f *snapshot) compare(from, to curriculum.Curriculum) (added, removed []string, changed []say.Sentence) {
	added, removed, changed = []string{}, []string{}, []say.Sentence{}
	for _, r := range to.Requirements {
		had, ok := from.Find(r.Technique)
		switch {
		case !ok:
			added = append(added, f.Library.Name(r.Technique))
		case had.Rung != r.Rung || had.BothSides != r.BothSides || had.Count() != r.Count() || !sameSet(had.Or, r.Or):
			changed = append(changed, say.F("%s: %s → %s", f.Library.Name(r.Technique), asks(had), asks(r)))
		}
	}
	for _, r := range from.Requirements {
		if _, ok := to.Find(r.Technique); !ok {
			removed = append(removed, f.Library.Name(r.Technique))
		}
	}
	return added, removed, changed
}

func asks(r curriculum.Requirement) say.Sentence {
	words := []say.Sentence{say.Word(r.Rung)}
	if r.BothSides {
		words = append(words, "both sides")
	}
	if len(r.Or) > 0 {
		words = append(words, say.F("%d of %d", r.Count(), len(r.Options())))
	}
	return say.Join(", ", words...)
}

// Publish makes a draft the one that counts, or takes back a published one that
// nobody works on. The
// audit must hold nothing that blocks. The version published before is retired; who
// works on it stays on it.
func (a *Service) Publish(ctx context.Context, u state.User, id string, published bool) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, err := f.FindCurriculum(id)
		if err != nil {
			return err
		}
		name := f.CurriculumLine(c).Rank
		if !published {
			if who := f.WorksOn(id); len(who) > 0 {
				return state.Invalid("state", "%d students work on it, %s among them: it stays as it is for them. Make a new version to change it.", len(who), who[0].Name)
			}
			c.State = "draft"
			b.Summary = say.F("Withdrew the curriculum for %s", name)
			return b.Put(documents.Curriculum, id, c)
		}
		for _, x := range f.Audit(c) {
			if x.Severity == curriculum.Blocks && x.Accepted == "" {
				return state.Invalid("state", "%s Take the repair, or take the technique out, then publish.", x.Cause)
			}
		}
		b.Summary = say.F("Published the curriculum for %s, version %d", name, c.Version)
		for _, old := range f.Curricula {
			if old.Ladder != c.Ladder || old.Rank != c.Rank || old.ID == c.ID || old.State != "published" {
				continue
			}
			for _, p := range f.WorksOn(old.ID) {
				if p.Curriculum != old.ID && f.PlacedOn(p.ID) != old.ID {
					p.Curriculum = old.ID
					if err := b.PutPerson(f.Snapshot, p); err != nil {
						return err
					}
				}
			}
			old.State = "retired"
			if err := b.Put(documents.Curriculum, old.ID, old); err != nil {
				return err
			}
		}
		c.State = "published"
		return b.Put(documents.Curriculum, id, c)
	})
}

// MoveStudents puts students on a version of their next rank's curriculum. Each
// move is an event of the ledger.
func (a *Service) MoveStudents(ctx context.Context, u state.User, id string, students []string) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return err
	}
	if c.State == "draft" {
		return state.Invalid("state", "a draft is nobody's yet: publish it, then move students")
	}
	if len(students) == 0 {
		return state.Invalid("students", "nobody is named: choose one or more")
	}
	var events []academy.Event
	for _, s := range students {
		p, ok := f.Person[s]
		asked, next, asksAny := f.CurriculumFor(p)
		if !ok || !p.Student {
			return state.NotFound("student", s)
		}
		if p.Ladder != c.Ladder || !asksAny || next.ID != c.Rank {
			return state.Invalid("students", "%s does not work toward this rank", p.Name)
		}
		if asked.ID == c.ID {
			continue
		}
		e, err := academy.NewEvent(store.NewID(), academy.PlacementEvent, f.Today(), academy.Placement{From: asked.ID, To: c.ID})
		if err != nil {
			return err
		}
		e.Student = s
		events = append(events, e)
	}
	return a.State.Record(ctx, u, events...)
}

// LadderCell is where one technique enters a ladder and to which rung it rises.
type LadderCell struct {
	Rung  string `json:"rung,omitempty"`
	Rises bool   `json:"rises" doc:"Required at a lower rung before"`
}

// LadderRow is one technique across the ranks of a ladder.
type LadderRow struct {
	Technique string         `json:"technique"`
	Name      string         `json:"name"`
	Kind      library.Kind   `json:"kind"`
	Family    library.Family `json:"family"`
	Cells     []LadderCell   `json:"cells" doc:"One for each rank"`
	Enters    int            `json:"enters"`
}

// LadderPage is a whole ladder at a glance.
type LadderPage struct {
	Ladder curriculum.Ladder `json:"ladder"`
	Rows   []LadderRow       `json:"rows"`
	Counts []int             `json:"counts" doc:"Requirements of each rank"`
}

// Ladders lists the ladders by name.
func (a *Service) Ladders(ctx context.Context, u state.User) ([]LadderLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []LadderLine{}
	for _, l := range f.Ladders {
		line := LadderLine{Ladder: l, Version: f.Version(documents.Ladder, l.ID), Moves: []OnwardLine{}}
		for _, p := range f.Students() {
			if p.Ladder != l.ID {
				continue
			}
			line.Students++
			if to, rank, ok := l.Moves(p.Rank, state.AgeOn(p, f.Today())); ok && u.Is(state.Head, state.Coach) { // a minor's name to those who decide
				there := f.Ladders[to]
				line.Moves = append(line.Moves, OnwardLine{p.ID, p.Name, say.F("%s, by the rule to %s, %s", p.Name, there.Name, rankName(there, rank))})
			}
		}
		all = append(all, line)
	}
	slices.SortFunc(all, func(x, y LadderLine) int { return strings.Compare(x.Name, y.Name) })
	return all, nil
}

func rankName(l curriculum.Ladder, rank string) string {
	if i := l.Position(rank); i >= 0 {
		return l.Ranks[i].Name
	}
	return rank
}

// LadderLine is a ladder with who is on it.
type LadderLine struct {
	curriculum.Ladder
	Version  int          `json:"version"`
	Students int          `json:"students"`
	Moves    []OnwardLine `json:"moves" doc:"Who has come of age to move on"`
}

// OnwardLine is one student who has come of age to move on to another ladder.
type OnwardLine struct {
	Student string       `json:"student"`
	Name    string       `json:"name"`
	Summary say.Sentence `json:"summary"`
}

// MoveOn is a decision about a rank, so it is corrected by another one and not undone. It puts a student on the ladder and the rank that the rule of their ladder
// says. They begin with the version that is published there.
func (a *Service) MoveOn(ctx context.Context, u state.User, student string) (string, error) {
	_, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, ok := f.Person[student]
		if !ok || !p.Student {
			return state.NotFound("student", student)
		}
		from := f.Ladders[p.Ladder]
		to, rank, ok := from.Moves(p.Rank, state.AgeOn(p, f.Today()))
		if !ok {
			return state.Invalid("student", "%s stays on %s: its rule moves nobody of that rank and age", p.Name, from.Name)
		}
		there := f.Ladders[to]
		if there.Position(rank) < 0 {
			return state.Invalid("student", "%s has no rank %q any more: fix the rule of %s first", to, rank, from.Name)
		}
		e, err := academy.NewEvent(store.NewID(), academy.PromotionEvent, f.Today(), academy.Promotion{Outcome: academy.NextRank, FromLadder: p.Ladder, From: p.Rank, Ladder: to, To: rank})
		if err != nil {
			return err
		}
		e.Student = p.ID
		b.Record(e)
		b.Summary = say.F("Moved %s on to %s, %s", p.Name, there.Name, rankName(there, rank))
		if p.Curriculum == "" {
			return nil
		}
		p.Curriculum = ""
		return b.PutPerson(f.Snapshot, p)
	})
	return "", err
}

// SaveLadder keeps a ladder; version 0 makes a new one. A rank that somebody
// holds, or that a curriculum is for, cannot go.
func (a *Service) SaveLadder(ctx context.Context, u state.User, l curriculum.Ladder, version int) (id, change string, err error) {
	if l.ID == "" {
		l.ID = library.Identifier(l.Name)
	}
	change, err = a.KeepRecord(ctx, u, documents.Ladder, l.ID, l.Name, version, l, func(f *state.Snapshot) []validation.Problem {
		found := l.Check(f.Ladders)
		need := func(rank, who string) {
			if l.Position(rank) < 0 {
				found = append(found, validation.Problem{Field: "ranks", What: say.F("%q cannot go: %s", rank, who)})
			}
		}
		for _, p := range f.People {
			if p.Ladder == l.ID {
				need(p.Rank, p.Name+" holds it")
			}
		}
		for _, c := range f.Curricula {
			if c.Ladder == l.ID {
				need(c.Rank, "there is a curriculum for it")
			}
		}
		return found
	})
	return l.ID, change, err
}

// LadderAtAGlance shows which technique enters where and rises to which rung.
func (a *Service) LadderAtAGlance(ctx context.Context, u state.User, id string) (LadderPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return LadderPage{}, err
	}
	l, ok := f.Ladders[id]
	if !ok {
		return LadderPage{}, state.NotFound("ladder", id)
	}
	page := LadderPage{Ladder: l, Rows: []LadderRow{}, Counts: make([]int, len(l.Ranks))}
	at := map[string]int{}
	for i, r := range l.Ranks {
		c, ok := f.current(l.ID, r.ID)
		if !ok {
			continue
		}
		page.Counts[i] = len(c.Requirements)
		for _, q := range c.Requirements {
			k, seen := at[q.Technique]
			if !seen {
				t, _ := f.Library.Technique(q.Technique)
				k = len(page.Rows)
				at[q.Technique] = k
				page.Rows = append(page.Rows, LadderRow{q.Technique, f.Library.Name(q.Technique), t.Kind, f.Library.Family(t), make([]LadderCell, len(l.Ranks)), i})
			}
			page.Rows[k].Cells[i] = LadderCell{string(q.Rung), seen}
		}
	}
	return page, nil
}

// current is the curriculum of a rank that counts: the newest published, or
// else the newest.
func (f *snapshot) current(ladder, rank string) (best curriculum.Curriculum, ok bool) {
	for _, c := range f.Curricula {
		if c.Ladder == ladder && c.Rank == rank && (!ok || c.CountsOver(best)) {
			best, ok = c, true
		}
	}
	return best, ok
}

// MakeUnits makes units of the order the requirements stand in, for what no
// unit teaches yet.
func (a *Service) MakeUnits(ctx context.Context, u state.User, id string, tracks []string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, err := f.FindCurriculum(id)
		if err != nil {
			return err
		}
		for _, t := range tracks {
			if _, ok := f.Tracks[t]; !ok {
				return state.NotFound("track", t)
			}
		}
		if len(tracks) == 0 {
			return state.Invalid("tracks", "none is named: say which tracks teach these units")
		}
		groups := f.orderPage(c).Groups
		names := make([]string, len(groups))
		made := 0
		for i, g := range groups {
			for _, x := range f.Units {
				if slices.ContainsFunc(x.Techniques, func(t string) bool { return slices.Contains(g.Techniques, t) }) {
					names[i] = x.ID
				}
			}
			if names[i] != "" {
				continue
			}
			names[i] = "u-" + g.Techniques[0]
			x := academy.Unit{ID: names[i], Name: f.Library.Name(g.Techniques[0]), Techniques: g.Techniques, Movement: g.Movement, Tracks: tracks, Minutes: g.Minutes, ReviewMinutes: g.Review, Area: g.Area}
			for _, j := range g.Requires {
				if names[j] != names[i] && !slices.Contains(x.Requires, names[j]) {
					x.Requires = append(x.Requires, names[j])
				}
			}
			made++
			if err := b.Put(documents.Unit, x.ID, x); err != nil {
				return err
			}
		}
		if made == 0 {
			return state.Invalid("curriculum", "every technique of it is in a unit already")
		}
		b.Summary = say.F("Made %d units for %s", made, f.CurriculumLine(c).Rank)
		return nil
	})
}
