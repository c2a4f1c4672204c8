package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"vereda/core/curriculum"
	"vereda/core/library"
)

// CurriculumLine is a curriculum as a list shows one.
type CurriculumLine struct {
	ID       string `json:"id"`
	Ladder   string `json:"ladder"`
	Rank     string `json:"rank"`
	RankID   string `json:"rank_id"`
	Belt     string `json:"belt"`
	State    string `json:"state"`
	Version  int    `json:"version"`
	Count    int    `json:"count"`
	Students int    `json:"students" doc:"Who works on it"`
	Blocks   int    `json:"blocks" doc:"Findings that keep it from being published"`
}

// Curricula lists them by ladder and rank.
func (a *App) Curricula(ctx context.Context, u User) ([]CurriculumLine, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []CurriculumLine{}
	for _, l := range f.ladders {
		for _, r := range l.Ranks {
			for _, c := range f.curricula {
				if c.Ladder == l.ID && c.Rank == r.ID {
					all = append(all, f.curriculumLine(c))
				}
			}
		}
	}
	slices.SortStableFunc(all, func(x, y CurriculumLine) int { return cmp.Compare(x.Ladder, y.Ladder) })
	return all, nil
}

func (f *facts) curriculumLine(c curriculum.Curriculum) CurriculumLine {
	l := f.ladders[c.Ladder]
	line := CurriculumLine{ID: c.ID, Ladder: l.Name, State: c.State, Version: c.Version, Count: len(c.Requirements)}
	if i := l.Position(c.Rank); i >= 0 {
		line.Rank, line.RankID, line.Belt = l.Ranks[i].Name, c.Rank, l.Ranks[i].Belt
	}
	for _, p := range f.students() {
		if asked, _, ok := f.asks(p); ok && asked.ID == c.ID {
			line.Students++
		}
	}
	for _, x := range f.audit(c) {
		if x.Severity == curriculum.Blocks {
			line.Blocks++
		}
	}
	return line
}

func (f *facts) audit(c curriculum.Curriculum) []curriculum.Finding {
	return curriculum.Audit(c, f.curricula, f.ladders[c.Ladder], f.lib, f.settings.Gates)
}

// RequirementLine is one requirement with what a reader wants to know of it.
type RequirementLine struct {
	curriculum.Requirement
	Name   string         `json:"name"`
	Kind   library.Kind   `json:"kind"`
	Family library.Family `json:"family"`
	Sided  bool           `json:"sided"`
}

// Matrix is the position-by-kind picture of a rank.
type Matrix struct {
	Families []library.Family `json:"families"`
	Kinds    []library.Kind   `json:"kinds"`
	Cells    [][]int          `json:"cells" doc:"Requirements per family and kind"`
}

// CurriculumPage is a curriculum as it is worked on.
type CurriculumPage struct {
	Line         CurriculumLine       `json:"line"`
	Requirements []RequirementLine    `json:"requirements"`
	Findings     []curriculum.Finding `json:"findings"`
	Matrix       Matrix               `json:"matrix"`
	Addable      []TechniqueLine      `json:"addable" doc:"What is not required here yet"`
}

// Curriculum shows one curriculum with its audit.
func (a *App) Curriculum(ctx context.Context, u User, id string) (CurriculumPage, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return CurriculumPage{}, err
	}
	c, err := f.curriculum(id)
	if err != nil {
		return CurriculumPage{}, err
	}
	page := CurriculumPage{Line: f.curriculumLine(c), Requirements: []RequirementLine{}, Findings: f.audit(c), Addable: []TechniqueLine{}}
	if page.Findings == nil {
		page.Findings = []curriculum.Finding{}
	}
	m := Matrix{Families: library.Families, Kinds: library.Kinds}
	m.Cells = make([][]int, len(m.Families))
	for i := range m.Cells {
		m.Cells[i] = make([]int, len(m.Kinds))
	}
	for _, r := range c.Requirements {
		t, _ := f.lib.Technique(r.Technique)
		family := f.lib.Family(t)
		page.Requirements = append(page.Requirements, RequirementLine{r, f.lib.Name(r.Technique), t.Kind, family, t.Taught != ""})
		if i, j := slices.Index(m.Families, family), slices.Index(m.Kinds, t.Kind); i >= 0 && j >= 0 {
			m.Cells[i][j]++
		}
	}
	page.Matrix = m
	for _, t := range f.lib.Techniques() {
		if _, in := c.Find(t.ID); !in {
			page.Addable = append(page.Addable, f.techniqueLine(t))
		}
	}
	return page, nil
}

// SetRequirement adds a requirement or changes the one for that technique.
func (a *App) SetRequirement(ctx context.Context, u User, id string, r curriculum.Requirement) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *facts, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		c.Requirements = slices.Clone(c.Requirements)
		says := "Required " + f.lib.Name(r.Technique) + ", " + string(r.Rung)
		if i := slices.IndexFunc(c.Requirements, func(had curriculum.Requirement) bool { return had.Technique == r.Technique }); i >= 0 {
			c.Requirements[i] = r
		} else {
			c.Requirements = append(c.Requirements, r)
		}
		i := slices.IndexFunc(c.Requirements, func(had curriculum.Requirement) bool { return had.Technique == r.Technique })
		for _, p := range c.Check(f.ladders[c.Ladder], f.lib) {
			return c, "", onlyField(&Refused{[]library.Problem{p}}, fmt.Sprintf("requirements[%d].", i))
		}
		return c, says, nil
	})
}

// RemoveRequirement takes a technique out of a curriculum.
func (a *App) RemoveRequirement(ctx context.Context, u User, id, technique string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *facts, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		if _, ok := c.Find(technique); !ok {
			return c, "", &Missing{"requirement", technique}
		}
		return c.Take(curriculum.Repair{Do: "remove", Technique: technique}), "Took out " + f.lib.Name(technique), nil
	})
}

// TakeRepair does what a finding of the audit proposes. The finding is looked
// up anew, so a repair that no longer applies is refused.
func (a *App) TakeRepair(ctx context.Context, u User, id, finding string) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *facts, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		for _, x := range f.audit(c) {
			if x.ID == finding && x.Repair != nil {
				return c.Take(*x.Repair), "Repaired: " + x.Repair.Says, nil
			}
		}
		return c, "", refuse("finding", "%q is not found any more: look at the audit again", finding)
	})
}

// Publish makes a draft the one that counts. The audit must hold nothing that
// blocks.
func (a *App) Publish(ctx context.Context, u User, id string, published bool) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *facts, c curriculum.Curriculum) (curriculum.Curriculum, string, error) {
		name := f.curriculumLine(c).Rank
		if !published {
			c.State = "draft"
			return c, "Took back the curriculum for " + name, nil
		}
		for _, x := range f.audit(c) {
			if x.Severity == curriculum.Blocks {
				return c, "", refuse("state", "%s Take the repair, or take the technique out, then publish.", x.Cause)
			}
		}
		c.State = "published"
		return c, "Published the curriculum for " + name, nil
	})
}

func (a *App) editCurriculum(ctx context.Context, u User, id string, edit func(*facts, curriculum.Curriculum) (curriculum.Curriculum, string, error)) (string, error) {
	return a.change(ctx, u, func(f *facts, b *batch) error {
		c, err := f.curriculum(id)
		if err != nil {
			return err
		}
		c, says, err := edit(f, c)
		if err != nil {
			return err
		}
		b.Says = says
		return b.put(docCurriculum, id, c)
	})
}
