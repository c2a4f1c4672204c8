package curricula

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// Curricula lists them by ladder, rank and version.
func (a *Service) Curricula(ctx context.Context, u state.User) ([]state.CurriculumLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	return f.CurriculumLines(), nil
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
	m := Matrix{Kinds: curriculum.RequiredCellKinds(), Rows: []MatrixRow{}}
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
	below := f.AskedUpTo(c)
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
	for _, x := range f.Audit(c) {
		if x.Kind != curriculum.EmptyCell || x.Accepted != "" {
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
	Cut      []state.Named     `json:"cut" doc:"The smallest cut that makes it fit"`
	CutBy    float64           `json:"cut_by"`
	Summary  say.Sentence      `json:"summary"`
}

func (f *snapshot) timePage(c curriculum.Curriculum) TimePage {
	s := f.Supply(c)
	b := curriculum.Balance(c, f.Library, s)
	p := TimePage{Needed: b.Needed, Offered: b.Offered, Supply: s, Families: []FamilyTime{}, Cut: []state.Named{}, CutBy: b.CutBy}
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
		p.Cut = append(p.Cut, state.Named{ID: id, Name: f.Library.Name(id)})
	}
	p.Summary = say.F("%d teaching minutes a week reach a typical student of this rank (classes open to them × their chance of coming), for %d weeks. A requirement takes its teaching minutes (× 1.4 for both sides), repetitions of both partners on each side (met 8, drilled 30, passed 50), checks of 2 minutes a side, rounds of 12 for live, and %d %% of teaching and drilling again as review.", int(math.Round(s.MinutesPerWeek)), int(math.Round(s.Weeks)), int(math.Round(100*s.ReviewShare)))
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
	Technique string       `json:"technique"`
	Name      string       `json:"name"`
	Why       say.Sentence `json:"why"`
	Moves     int          `json:"moves" doc:"Places up (minus) or down from where it stands now"`
}

// OrderPage is the proposed order and the units it makes.
type OrderPage struct {
	Steps  []OrderStep    `json:"steps"`
	Same   bool           `json:"same" doc:"The requirements stand in that order already"`
	Broken []say.Sentence `json:"broken" doc:"What the present order breaks"`
	Groups []GroupLine    `json:"groups" doc:"Units, from the order the requirements stand in"`
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
	Line         state.CurriculumLine    `json:"line"`
	Requirements []state.RequirementLine `json:"requirements"`
	Findings     []curriculum.Finding    `json:"findings"`
	Matrix       Matrix                  `json:"matrix"`
	Time         TimePage                `json:"time"`
	Order        OrderPage               `json:"order"`
	Addable      []state.TechniqueLine   `json:"addable" doc:"What is not required here yet"`
	Frozen       say.Sentence            `json:"frozen,omitempty" doc:"Why it cannot be changed"`
	TakesBack    bool                    `json:"takes_back" doc:"It is published and nobody works on it yet: it can be a draft again"`
	Rungs        []curriculum.Rung       `json:"rungs"`
}

// Curriculum shows one curriculum with its audit.
func (a *Service) Curriculum(ctx context.Context, u state.User, id string) (CurriculumPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return CurriculumPage{}, err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return CurriculumPage{}, err
	}
	line := f.CurriculumLine(c)
	page := CurriculumPage{Line: line, Requirements: []state.RequirementLine{}, Findings: f.Audit(c), Matrix: f.matrix(c), Time: f.timePage(c), Order: f.orderPage(c), Addable: []state.TechniqueLine{}, Frozen: frozen(c), TakesBack: c.State == "published" && line.Students == 0, Rungs: curriculum.Rungs[1:]}
	for _, r := range c.Requirements {
		page.Requirements = append(page.Requirements, f.RequirementLine(r))
	}
	for _, t := range f.Library.Techniques() {
		if _, in := c.Serves(t.ID); !in {
			page.Addable = append(page.Addable, f.TechniqueLine(t))
		}
	}
	return page, nil
}

// frozen says why a curriculum cannot be changed; empty when it can.
func frozen(c curriculum.Curriculum) say.Sentence {
	if c.State == "draft" {
		return ""
	}
	return say.F("It is %s: students work on it as it is. Make a new version to change it.", say.Word(c.State))
}

// SetRequirement adds a requirement or changes the one for that technique.
func (a *Service) SetRequirement(ctx context.Context, u state.User, id string, r curriculum.Requirement) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		c.Requirements = slices.Clone(c.Requirements)
		says := say.F("Required %s, %s", f.Library.Name(r.Technique), r.Rung)
		i := slices.IndexFunc(c.Requirements, func(had curriculum.Requirement) bool { return had.Technique == r.Technique })
		if i >= 0 {
			c.Requirements[i] = r
		} else {
			i = len(c.Requirements)
			c.Requirements = append(c.Requirements, r)
		}
		for _, p := range c.Check(f.Ladders[c.Ladder], f.Library) {
			return c, "", state.OnlyField(&state.ValidationError{Problems: []validation.Problem{p}}, fmt.Sprintf("requirements[%d].", i))
		}
		return c, says, nil
	})
}

// MoveRequirement puts a requirement at another place in the order. An order in
// which something comes before what it stands on is refused.
func (a *Service) MoveRequirement(ctx context.Context, u state.User, id, technique string, to int) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		i := slices.IndexFunc(c.Requirements, func(r curriculum.Requirement) bool { return r.Technique == technique })
		if i < 0 {
			return c, "", state.NotFound("requirement", technique)
		}
		before := c.BreaksOrder(f.Library)
		moved := c.Requirements[i]
		c.Requirements = slices.Delete(slices.Clone(c.Requirements), i, i+1)
		to = max(0, min(to, len(c.Requirements)))
		c.Requirements = slices.Insert(c.Requirements, to, moved)
		for _, broken := range c.BreaksOrder(f.Library) {
			if !slices.Contains(before, broken) {
				return c, "", state.Invalid("to", "%s", broken)
			}
		}
		return c, say.F("Moved %s to place %d", f.Library.Name(technique), to+1), nil
	})
}

// TakeOrder puts the requirements into the proposed order.
func (a *Service) TakeOrder(ctx context.Context, u state.User, id string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		ordered := make([]curriculum.Requirement, 0, len(c.Requirements))
		for _, s := range c.Order(f.Library) {
			r, _ := c.Find(s.Technique)
			ordered = append(ordered, r)
		}
		c.Requirements = ordered
		return c, "Applied the proposed order", nil
	})
}

// RemoveRequirement takes a requirement out of a curriculum, its variants with it.
func (a *Service) RemoveRequirement(ctx context.Context, u state.User, id, technique string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		i := slices.IndexFunc(c.Requirements, func(r curriculum.Requirement) bool { return r.Technique == technique })
		if i < 0 {
			return c, "", state.NotFound("requirement", technique)
		}
		c.Requirements = slices.Delete(slices.Clone(c.Requirements), i, i+1)
		return c, say.F("Removed %s", f.Library.Name(technique)), nil
	})
}

// TakeRepair does what a finding of the audit proposes. The finding is looked
// up anew, so a repair that no longer applies is refused.
func (a *Service) TakeRepair(ctx context.Context, u state.User, id, finding string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		for _, x := range f.Audit(c) {
			if x.ID == finding && x.Repair != nil {
				return c.Take(*x.Repair), say.F("Repaired: %s", x.Repair.Summary), nil
			}
		}
		return c, "", state.Invalid("finding", "%q is not found any more: look at the audit again", finding)
	})
}

// AcceptFinding keeps a finding quiet, with the reason; an empty reason lets it
// speak again.
func (a *Service) AcceptFinding(ctx context.Context, u state.User, id, finding, reason string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		c.Accepted = slices.DeleteFunc(slices.Clone(c.Accepted), func(x curriculum.Acceptance) bool { return x.Finding == finding })
		if reason = strings.TrimSpace(reason); reason == "" {
			return c, "Withdrew an accepted finding", nil
		}
		for _, x := range f.Audit(c) {
			if x.ID != finding {
				continue
			}
			if x.Severity == curriculum.Blocks && x.Kind == curriculum.NotAllowed {
				return c, "", state.Invalid("reason", "%s A gate is the academy's to change, under Academy; it is not accepted away.", x.Cause)
			}
			c.Accepted = append(c.Accepted, curriculum.Acceptance{Finding: finding, Reason: reason, By: u.Person, On: f.Today()})
			return c, say.F("Accepted: %s", x.Cause), nil
		}
		return c, "", state.Invalid("finding", "%q is not found any more: look at the audit again", finding)
	})
}

func (a *Service) editCurriculum(ctx context.Context, u state.User, id string, edit func(*snapshot, curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error)) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, err := f.FindCurriculum(id)
		if err != nil {
			return err
		}
		if why := frozen(c); why != "" {
			return state.Invalid("state", "%s", why)
		}
		c, says, err := edit(f, c)
		if err != nil {
			return err
		}
		b.Summary = says
		return b.Put(documents.Curriculum, id, c)
	})
}
