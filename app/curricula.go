package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/validation"
)

// CurriculumLine is a curriculum as a list shows one.
type CurriculumLine struct {
	ID       string `json:"id"`
	Ladder   string `json:"ladder"`
	LadderID string `json:"ladder_id"`
	Rank     string `json:"rank"`
	RankID   string `json:"rank_id"`
	Belt     string `json:"belt"`
	State    string `json:"state" enum:"draft,published,retired"`
	Version  int    `json:"version"`
	Count    int    `json:"count"`
	Students int    `json:"students" doc:"Who works on it"`
	Blocks   int    `json:"blocks" doc:"Findings that keep it from being published"`
	Findings int    `json:"findings" doc:"All that are not accepted"`
}

// Curricula lists them by ladder, rank and version.
func (a *App) Curricula(ctx context.Context, u User) ([]CurriculumLine, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []CurriculumLine{}
	for _, l := range f.Ladders {
		for _, r := range l.Ranks {
			var here []curriculum.Curriculum
			for _, c := range f.Curricula {
				if c.Ladder == l.ID && c.Rank == r.ID {
					here = append(here, c)
				}
			}
			slices.SortStableFunc(here, func(x, y curriculum.Curriculum) int { return cmp.Compare(x.Version, y.Version) })
			for _, c := range here {
				all = append(all, f.curriculumLine(c))
			}
		}
	}
	slices.SortStableFunc(all, func(x, y CurriculumLine) int { return cmp.Compare(x.Ladder, y.Ladder) })
	return all, nil
}

func (f *snapshot) curriculumLine(c curriculum.Curriculum) CurriculumLine {
	l := f.Ladders[c.Ladder]
	line := CurriculumLine{ID: c.ID, Ladder: l.Name, LadderID: l.ID, State: c.State, Version: c.Version, Count: len(c.Requirements)}
	if i := l.Position(c.Rank); i >= 0 {
		line.Rank, line.RankID, line.Belt = l.Ranks[i].Name, c.Rank, l.Ranks[i].Belt
	}
	line.Students = len(f.worksOn(c.ID))
	for _, x := range f.audit(c) {
		if x.Accepted != "" {
			continue
		}
		line.Findings++
		if x.Severity == curriculum.Blocks {
			line.Blocks++
		}
	}
	return line
}

// worksOn lists the students whose next rank is asked by a curriculum.
func (f *snapshot) worksOn(id string) []academy.Person {
	var all []academy.Person
	for _, p := range f.Students() {
		if asked, _, ok := f.CurriculumFor(p); ok && asked.ID == id {
			all = append(all, p)
		}
	}
	return all
}

// audit judges a curriculum; the answer is kept until something changes.
func (f *snapshot) audit(c curriculum.Curriculum) []curriculum.Finding {
	compute := func() judgedCurriculum {
		supply := f.supply(c)
		found := curriculum.Case{Curriculum: c, All: f.Curricula, Ladder: f.Ladders[c.Ladder], Library: f.Library, Gates: f.Settings.Gates, Musts: f.Settings.Musts, Supply: &supply}.Audit()
		if found == nil {
			found = []curriculum.Finding{}
		}
		return judgedCurriculum{c, found}
	}
	if had := state.Remember(f.Snapshot, auditOf(c.ID), compute); sameRequirements(had.of, c) {
		return had.found
	}
	return compute().found
}

// auditOf names what is remembered of a curriculum.
type auditOf string

type judgedCurriculum struct {
	of    curriculum.Curriculum
	found []curriculum.Finding
}

// sameRequirements says whether two are one and the same list in memory.
func sameRequirements(a, b curriculum.Curriculum) bool {
	same := len(a.Requirements) == len(b.Requirements) && len(a.Accepted) == len(b.Accepted)
	return same && (len(a.Requirements) == 0 || &a.Requirements[0] == &b.Requirements[0]) && (len(a.Accepted) == 0 || &a.Accepted[0] == &b.Accepted[0])
}

// reviewShare is the part of the teaching that is taught again: the spacing's
// reviews at a third of the time each, of which a typical student meets half.
const reviewShare = 0.35

// supply is what the timetable offers a typical student who works toward a
// rank: the teaching minutes of the classes open to them, times the mean chance of
// coming of those who are there now (of everybody where nobody is).
func (f *snapshot) supply(c curriculum.Curriculum) curriculum.Supply {
	l := f.Ladders[c.Ladder]
	at := l.Position(c.Rank)
	s := curriculum.Supply{ReviewShare: reviewShare}
	if at < 0 {
		return s
	}
	s.Weeks = float64(l.Ranks[at].MinMonths) * 30.44 / 7
	chances := f.lastChances()
	sum, who := 0.0, 0
	for _, p := range f.Students() {
		if p.Ladder != l.ID || at > 0 && p.Rank != l.Ranks[at-1].ID {
			continue
		}
		who++
		for _, k := range f.Classes {
			sum += chances[p.ID][k.ID].Chance * float64(k.TeachMinutes)
		}
	}
	if who > 0 {
		s.MinutesPerWeek = sum / float64(who)
		return s
	}
	for _, k := range f.Classes {
		if t := f.Tracks[k.Track]; t.Audience == "all" || t.Audience == "" || t.Audience == l.Audience {
			s.MinutesPerWeek += 0.5 * float64(k.TeachMinutes)
		}
	}
	return s
}

// lastChances are everybody's chances of coming as of the newest report.
func (f *snapshot) lastChances() map[string]map[string]Chance {
	type newest struct{}
	return state.Remember(f.Snapshot, newest{}, func() map[string]map[string]Chance {
		var last calendar.Day
		for _, c := range f.Classes {
			sessions := f.SessionsOf(c.ID)
			for i := len(sessions) - 1; i >= 0; i-- {
				if sessions[i].Report != nil {
					last = max(last, sessions[i].On)
					break
				}
			}
		}
		return f.chances(last + 1)
	})
}

// RequirementLine is one requirement with what a reader wants to know of it.
type RequirementLine struct {
	curriculum.Requirement
	Name    string         `json:"name"`
	OrNames []string       `json:"or_names"`
	Kind    library.Kind   `json:"kind"`
	Family  library.Family `json:"family"`
	From    string         `json:"from,omitempty" doc:"The position it starts in"`
	Sided   bool           `json:"sided"`
	Minutes int            `json:"minutes" doc:"What it takes"`
}

func (f *snapshot) requirementLine(r curriculum.Requirement) RequirementLine {
	t, _ := f.Library.Technique(r.Technique)
	l := RequirementLine{Requirement: r, Name: f.Library.Name(r.Technique), OrNames: []string{}, Kind: t.Kind, Family: f.Library.Family(t), Sided: t.Taught != "", Minutes: curriculum.NeedsOf(r, f.Library, reviewShare).Minutes}
	if t.From != nil {
		l.From = t.From.Position
	}
	for _, o := range r.Or {
		l.OrNames = append(l.OrNames, f.Library.Name(o))
	}
	return l
}

// MatrixRow is one position of the position-by-kind picture of a rank.
type MatrixRow struct {
	Position string         `json:"position"`
	Name     string         `json:"name"`
	Family   library.Family `json:"family"`
	Cells    []MatrixCell   `json:"cells" doc:"One for each kind"`
}

// MatrixCell is what is required from one position of one kind.
type MatrixCell struct {
	Here  []string `json:"here" doc:"Required by this rank"`
	Below []string `json:"below" doc:"Required by a rank below"`
	Rung  string   `json:"rung,omitempty" doc:"The highest rung asked for here"`
	Could int      `json:"could" doc:"Techniques of the library that would go here"`
	Must  bool     `json:"must" doc:"Empty, and may not be: the family has nothing of this kind by this rank"`
}

// Matrix is the position-by-kind picture of a rank.
type Matrix struct {
	Kinds []library.Kind `json:"kinds"`
	Rows  []MatrixRow    `json:"rows"`
}

func (f *snapshot) matrix(c curriculum.Curriculum) Matrix {
	m := Matrix{Kinds: curriculum.MustKinds(), Rows: []MatrixRow{}}
	at := map[string]int{}
	for _, p := range f.Library.Positions() {
		row := MatrixRow{Position: p.ID, Name: p.Name, Family: p.Family}
		for range m.Kinds {
			row.Cells = append(row.Cells, MatrixCell{Here: []string{}, Below: []string{}})
		}
		at[p.ID] = len(m.Rows)
		m.Rows = append(m.Rows, row)
	}
	cell := func(t library.Technique) *MatrixCell {
		j := slices.Index(m.Kinds, t.Kind)
		if t.From == nil || j < 0 {
			return nil
		}
		return &m.Rows[at[t.From.Position]].Cells[j]
	}
	below := f.askedUpTo(c)
	here := map[string]curriculum.Requirement{}
	for _, r := range c.Requirements {
		for _, id := range r.Options() {
			here[id] = r
		}
	}
	for _, t := range f.Library.Techniques() {
		x := cell(t)
		if x == nil {
			continue
		}
		r, asked := here[t.ID]
		switch {
		case asked:
			x.Here = append(x.Here, t.Name)
			if r.Rung.Step() > curriculum.Rung(x.Rung).Step() {
				x.Rung = string(r.Rung)
			}
		case below[t.ID]:
			x.Below = append(x.Below, t.Name)
		default:
			x.Could++
		}
	}
	for _, x := range f.audit(c) {
		if x.Kind != curriculum.Hole || x.Accepted != "" {
			continue
		}
		for i := range m.Rows {
			for j, k := range m.Kinds {
				if string(m.Rows[i].Family)+", "+string(k) == x.Other {
					m.Rows[i].Cells[j].Must = true
				}
			}
		}
	}
	return m
}

// FamilyTime is the balance of one family of positions.
type FamilyTime struct {
	Family  string `json:"family"`
	Minutes int    `json:"minutes"`
}

// TimePage is what a curriculum takes against what is offered.
type TimePage struct {
	Needed   int               `json:"needed"`
	Offered  int               `json:"offered"`
	Supply   curriculum.Supply `json:"supply"`
	Families []FamilyTime      `json:"families"`
	Cut      []Named           `json:"cut" doc:"The smallest cut that makes it fit"`
	CutBy    float64           `json:"cut_by"`
	Says     string            `json:"says"`
}

func (f *snapshot) timePage(c curriculum.Curriculum) TimePage {
	s := f.supply(c)
	b := curriculum.Balance(c, f.Library, s)
	p := TimePage{Needed: b.Needed, Offered: b.Offered, Supply: s, Families: []FamilyTime{}, Cut: []Named{}, CutBy: b.CutBy}
	sums := map[string]int{}
	for _, n := range b.Each {
		sums[n.Family] += n.Minutes
	}
	for _, name := range append([]string{"movement"}, familyWords()...) {
		if sums[name] > 0 {
			p.Families = append(p.Families, FamilyTime{name, sums[name]})
		}
	}
	for _, id := range b.Cut {
		p.Cut = append(p.Cut, Named{id, f.Library.Name(id)})
	}
	p.Says = fmt.Sprintf("%.0f teaching minutes a week reach a typical student of this rank (classes open to them × their chance of coming), for %.0f weeks. A requirement takes its teaching minutes (× 1.4 for both sides), repetitions of both partners on each side (met 8, drilled 30, passed 50), checks of 2 minutes a side, rounds of 12 for live, and %.0f %% of teaching and drilling again as review.", s.MinutesPerWeek, s.Weeks, 100*s.ReviewShare)
	return p
}

func familyWords() []string {
	var all []string
	for _, f := range library.Families {
		all = append(all, string(f))
	}
	return all
}

// OrderStep is one step of the proposed teaching order.
type OrderStep struct {
	Technique string `json:"technique"`
	Name      string `json:"name"`
	Why       string `json:"why"`
	Moves     int    `json:"moves" doc:"Places up (minus) or down from where it stands now"`
}

// OrderPage is the proposed order and the units it makes.
type OrderPage struct {
	Steps  []OrderStep `json:"steps"`
	Same   bool        `json:"same" doc:"The requirements stand in that order already"`
	Broken []string    `json:"broken" doc:"What the present order breaks"`
	Groups []GroupLine `json:"groups" doc:"Units, from the order the requirements stand in"`
}

// GroupLine is a proposed unit with its names.
type GroupLine struct {
	curriculum.Group
	Names    []string `json:"names"`
	Moves    string   `json:"moves,omitempty" doc:"The movement's name"`
	Existing string   `json:"existing,omitempty" doc:"The unit that teaches exactly this already"`
}

func (f *snapshot) orderPage(c curriculum.Curriculum) OrderPage {
	p := OrderPage{Steps: []OrderStep{}, Same: true, Broken: c.BreaksOrder(f.Library), Groups: []GroupLine{}}
	for i, s := range c.Order(f.Library) {
		at := slices.IndexFunc(c.Requirements, func(r curriculum.Requirement) bool { return r.Technique == s.Technique })
		p.Steps = append(p.Steps, OrderStep{s.Technique, f.Library.Name(s.Technique), s.Why, i - at})
		p.Same = p.Same && i == at
	}
	var stands []curriculum.Step
	for _, r := range c.Requirements {
		stands = append(stands, curriculum.Step{Technique: r.Technique})
	}
	for _, g := range c.Units(stands, f.Library) {
		l := GroupLine{Group: g, Names: []string{}}
		for _, id := range g.Techniques {
			l.Names = append(l.Names, f.Library.Name(id))
		}
		if g.Movement != "" {
			l.Moves = f.Library.Name(g.Movement)
		}
		for _, x := range f.Units {
			if sameSet(x.Techniques, g.Techniques) {
				l.Existing = x.Name
			}
		}
		p.Groups = append(p.Groups, l)
	}
	return p
}

func sameSet(a, b []string) bool {
	x, y := slices.Sorted(slices.Values(a)), slices.Sorted(slices.Values(b))
	return slices.Equal(x, y)
}

// CurriculumPage is a curriculum as it is worked on.
type CurriculumPage struct {
	Line         CurriculumLine       `json:"line"`
	Requirements []RequirementLine    `json:"requirements"`
	Findings     []curriculum.Finding `json:"findings"`
	Matrix       Matrix               `json:"matrix"`
	Time         TimePage             `json:"time"`
	Order        OrderPage            `json:"order"`
	Addable      []TechniqueLine      `json:"addable" doc:"What is not required here yet"`
	Frozen       string               `json:"frozen,omitempty" doc:"Why it cannot be changed"`
	TakesBack    bool                 `json:"takes_back" doc:"It is published and nobody works on it yet: it can be a draft again"`
	Rungs        []curriculum.Rung    `json:"rungs"`
}

// Curriculum shows one curriculum with its audit.
func (a *App) Curriculum(ctx context.Context, u User, id string) (CurriculumPage, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return CurriculumPage{}, err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return CurriculumPage{}, err
	}
	line := f.curriculumLine(c)
	page := CurriculumPage{Line: line, Requirements: []RequirementLine{}, Findings: f.audit(c), Matrix: f.matrix(c), Time: f.timePage(c), Order: f.orderPage(c), Addable: []TechniqueLine{}, Frozen: frozen(c), TakesBack: c.State == "published" && line.Students == 0, Rungs: curriculum.Rungs[1:]}
	for _, r := range c.Requirements {
		page.Requirements = append(page.Requirements, f.requirementLine(r))
	}
	for _, t := range f.Library.Techniques() {
		if _, in := c.Serves(t.ID); !in {
			page.Addable = append(page.Addable, f.techniqueLine(t))
		}
	}
	return page, nil
}

// frozen says why a curriculum cannot be changed; empty when it can.
func frozen(c curriculum.Curriculum) string {
	if c.State == "draft" {
		return ""
	}
	return "It is " + c.State + ": students work on it as it is. Make a new version to change it."
}

// SetRequirement adds a requirement or changes the one for that technique.
func (a *App) SetRequirement(ctx context.Context, u User, id string, r curriculum.Requirement) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		c.Requirements = slices.Clone(c.Requirements)
		says := "Required " + f.Library.Name(r.Technique) + ", " + string(r.Rung)
		i := slices.IndexFunc(c.Requirements, func(had curriculum.Requirement) bool { return had.Technique == r.Technique })
		if i >= 0 {
			c.Requirements[i] = r
		} else {
			i = len(c.Requirements)
			c.Requirements = append(c.Requirements, r)
		}
		for _, p := range c.Check(f.Ladders[c.Ladder], f.Library) {
			return c, "", onlyField(&ValidationError{Problems: []validation.Problem{p}}, fmt.Sprintf("requirements[%d].", i))
		}
		return c, says, nil
	})
}

// MoveRequirement puts a requirement at another place in the order. An order in
// which something comes before what it stands on is refused.
func (a *App) MoveRequirement(ctx context.Context, u User, id, technique string, to int) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		i := slices.IndexFunc(c.Requirements, func(r curriculum.Requirement) bool { return r.Technique == technique })
		if i < 0 {
			return c, "", notFound("requirement", technique)
		}
		before := c.BreaksOrder(f.Library)
		moved := c.Requirements[i]
		c.Requirements = slices.Delete(slices.Clone(c.Requirements), i, i+1)
		to = max(0, min(to, len(c.Requirements)))
		c.Requirements = slices.Insert(c.Requirements, to, moved)
		for _, broken := range c.BreaksOrder(f.Library) {
			if !slices.Contains(before, broken) {
				return c, "", invalid("to", "%s", broken)
			}
		}
		return c, fmt.Sprintf("Moved %s to place %d", f.Library.Name(technique), to+1), nil
	})
}

// TakeOrder puts the requirements into the proposed order.
func (a *App) TakeOrder(ctx context.Context, u User, id string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		ordered := make([]curriculum.Requirement, 0, len(c.Requirements))
		for _, s := range c.Order(f.Library) {
			r, _ := c.Find(s.Technique)
			ordered = append(ordered, r)
		}
		c.Requirements = ordered
		return c, "Took the proposed order", nil
	})
}

// RemoveRequirement takes a requirement out of a curriculum, its variants with it.
func (a *App) RemoveRequirement(ctx context.Context, u User, id, technique string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		i := slices.IndexFunc(c.Requirements, func(r curriculum.Requirement) bool { return r.Technique == technique })
		if i < 0 {
			return c, "", notFound("requirement", technique)
		}
		c.Requirements = slices.Delete(slices.Clone(c.Requirements), i, i+1)
		return c, "Took out " + f.Library.Name(technique), nil
	})
}

// TakeRepair does what a finding of the audit proposes. The finding is looked
// up anew, so a repair that no longer applies is refused.
func (a *App) TakeRepair(ctx context.Context, u User, id, finding string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		for _, x := range f.audit(c) {
			if x.ID == finding && x.Repair != nil {
				return c.Take(*x.Repair), "Repaired: " + x.Repair.Says, nil
			}
		}
		return c, "", invalid("finding", "%q is not found any more: look at the audit again", finding)
	})
}

// AcceptFinding keeps a finding quiet, with the reason; an empty reason lets it
// speak again.
func (a *App) AcceptFinding(ctx context.Context, u User, id, finding, reason string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		c.Accepted = slices.DeleteFunc(slices.Clone(c.Accepted), func(x curriculum.Acceptance) bool { return x.Finding == finding })
		if reason = strings.TrimSpace(reason); reason == "" {
			return c, "Took back an accepted finding", nil
		}
		for _, x := range f.audit(c) {
			if x.ID != finding {
				continue
			}
			if x.Severity == curriculum.Blocks && x.Kind == curriculum.NotAllowed {
				return c, "", invalid("reason", "%s A gate is the academy's to change, under Academy; it is not accepted away.", x.Cause)
			}
			c.Accepted = append(c.Accepted, curriculum.Acceptance{Finding: finding, Reason: reason, By: u.Person, On: f.Today()})
			return c, "Accepted: " + x.Cause, nil
		}
		return c, "", invalid("finding", "%q is not found any more: look at the audit again", finding)
	})
}

func (a *App) editCurriculum(ctx context.Context, u User, id string, edit func(*snapshot, curriculum.Curriculum) (curriculum.Curriculum, string, error)) (string, error) {
	return a.change(ctx, u, func(f *snapshot, b *state.Change) error {
		c, err := f.FindCurriculum(id)
		if err != nil {
			return err
		}
		if why := frozen(c); why != "" {
			return invalid("state", "%s", why)
		}
		c, says, err := edit(f, c)
		if err != nil {
			return err
		}
		b.Says = cutTo(says, 300)
		return b.Put(documents.Curriculum, id, c)
	})
}

// cutTo shortens what an edit says to what its row holds.
func cutTo(says string, most int) string {
	if r := []rune(says); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return says
}
