package curricula

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/exchange"
)

// RankSheet is what one rank asks for, both sides of each technique, to be
// printed: a booklet, or a test sheet.
func (a *Service) RankSheet(ctx context.Context, u state.User, id string, test bool) (exchange.RankSheet, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return exchange.RankSheet{}, err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return exchange.RankSheet{}, err
	}
	line := f.CurriculumLine(c)
	s := exchange.RankSheet{Academy: f.Name, Title: say.F("Curriculum for %s", line.Rank), Under: say.F("Version %d, %s, %d requirements", c.Version, say.Word(c.State), len(c.Requirements)), Test: test, Items: []exchange.SheetItem{}, Defers: state.Defers}
	if test {
		s.Title = say.F("Test sheet for %s", line.Rank)
	}
	for _, r := range c.Requirements {
		if test && r.Rung.Step() < curriculum.Passed.Step() {
			continue // what is met or drilled is counted, not tested
		}
		t, ok := f.Library.Technique(r.Technique)
		if !ok {
			continue
		}
		item := exchange.SheetItem{Name: t.Name, Asked: asks(r), Summary: t.On(t.Taught).Summary.Read(), Cautions: []say.Sentence{}, Sides: []exchange.SheetSide{}}
		if t.Caution != "" {
			item.Cautions = append(item.Cautions, say.Raw(t.Caution.Read()))
		}
		item.Cautions = append(item.Cautions, safety.Cautions(t.Risks)...)
		var or []string
		for _, o := range r.Or {
			or = append(or, f.Library.Name(o))
		}
		item.Or = strings.Join(or, ", ")
		for _, side := range r.Sides(t) {
			x := exchange.SheetSide{Side: say.Word(side), Points: []exchange.SheetPoint{}}
			for _, k := range t.On(side).KeyPoints {
				x.Points = append(x.Points, exchange.SheetPoint{Cue: string(k.Cue), Gate: k.Gate})
			}
			item.Sides = append(item.Sides, x)
		}
		s.Items = append(s.Items, item)
	}
	return s, nil
}

// requirementColumns are the columns of a list of requirements, with what else
// their headers may be called.
var requirementColumns = map[string][]string{
	"technique": {"id", "identifier"}, "name": {"technique name", "requirement"}, "rung": {"level", "asked"}, "sides": {"side", "both sides"}, "weight": {"points"}, "or": {"variants", "alternatives"}, "n": {"how many", "any"},
}

// RequirementsCSV writes a curriculum's requirements as CSV.
func (a *Service) RequirementsCSV(ctx context.Context, u state.User, id string) ([]byte, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return nil, err
	}
	rows := [][]string{{"technique", "name", "rung", "sides", "weight", "or", "n"}}
	for _, r := range c.Requirements {
		sides := "one"
		if r.BothSides {
			sides = "both"
		}
		rows = append(rows, []string{r.Technique, f.Library.Name(r.Technique), string(r.Rung), sides, strconv.FormatFloat(r.Weight, 'g', -1, 64), strings.Join(r.Or, " "), strconv.Itoa(r.Count())})
	}
	return exchange.WriteCSV(rows)
}

// CSVRow is one row of a list and what will happen to it.
type CSVRow struct {
	Line    int          `json:"line"`
	Name    string       `json:"name"`
	Summary say.Sentence `json:"summary"`
	Wrong   bool         `json:"wrong"`
}

// CSVPreview is what a list would do to a curriculum, row by row.
type CSVPreview struct {
	Rows    []CSVRow     `json:"rows"`
	Ready   bool         `json:"ready"`
	Summary say.Sentence `json:"summary"`
}

// PreviewRequirements says what a list of requirements would do. The list
// becomes the whole curriculum: what is not in it is taken out.
func (a *Service) PreviewRequirements(ctx context.Context, u state.User, id string, file exchange.TextFile) (CSVPreview, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return CSVPreview{}, err
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return CSVPreview{}, err
	}
	p, _ := f.readRequirements(c, file)
	return p, nil
}

// TakeRequirements makes a list the curriculum's requirements: all of it, or
// nothing while a row is wrong.
func (a *Service) TakeRequirements(ctx context.Context, u state.User, id string, file exchange.TextFile) (string, error) {
	return a.editCurriculum(ctx, u, id, func(f *snapshot, c curriculum.Curriculum) (curriculum.Curriculum, say.Sentence, error) {
		p, all := f.readRequirements(c, file)
		if !p.Ready {
			return c, "", state.Invalid("file", "%s", p.Summary)
		}
		c.Requirements = all
		return c, say.F("Imported the list %s", file.Name), nil
	})
}

func (f *snapshot) readRequirements(c curriculum.Curriculum, file exchange.TextFile) (CSVPreview, []curriculum.Requirement) {
	p := CSVPreview{Rows: []CSVRow{}}
	s, err := exchange.ReadCSV(file.Name, file.Text, requirementColumns)
	if err == nil && !s.Has("technique") && !s.Has("name") {
		err = exchange.Problems{file.Name + ": line 1: no column is called technique or name: give each row its technique"}
	}
	if err != nil {
		p.Summary = say.OfError(err)
		return p, nil
	}
	wrong := 0
	next := curriculum.Curriculum{Ladder: c.Ladder, Rank: c.Rank}
	for _, row := range s.Rows {
		r, says := f.requirementRow(s, row)
		line := CSVRow{Line: row.Line, Name: f.Library.Name(r.Technique), Summary: says}
		if says == "" {
			before := len(next.Check(f.Ladders[c.Ladder], f.Library))
			next.Requirements = append(next.Requirements, r)
			if found := next.Check(f.Ladders[c.Ladder], f.Library); len(found) > before {
				line.Summary = found[len(found)-1].What
				next.Requirements = next.Requirements[:len(next.Requirements)-1]
			}
		}
		if line.Wrong = line.Summary != ""; line.Wrong {
			wrong++
		} else if had, ok := c.Find(r.Technique); !ok {
			line.Summary = say.F("Added: %s", asks(r))
		} else if asks(had) == asks(r) && had.Weight == r.Weight {
			line.Summary = "As it is"
		} else {
			line.Summary = say.F("%s → %s", asks(had), asks(r))
		}
		p.Rows = append(p.Rows, line)
	}
	for _, had := range c.Requirements {
		if _, stays := next.Find(had.Technique); !stays {
			p.Rows = append(p.Rows, CSVRow{Name: f.Library.Name(had.Technique), Summary: "Removed: it is not in the list"})
		}
	}
	p.Ready = wrong == 0 && len(next.Requirements) > 0
	switch {
	case wrong > 0:
		p.Summary = say.F("%d of %d rows are wrong: fix them in the list; nothing is imported until then.", wrong, len(s.Rows))
	case len(next.Requirements) == 0:
		p.Summary = say.F("%s: there is no row under the header.", file.Name)
	default:
		p.Summary = say.F("%d requirements, in the order of the list.", len(next.Requirements))
	}
	return p, next.Requirements
}

// requirementRow reads one row; says is what is wrong with it.
func (f *snapshot) requirementRow(s exchange.Sheet, row exchange.SheetRow) (r curriculum.Requirement, says say.Sentence) {
	r = curriculum.Requirement{Technique: s.Get(row, "technique"), Rung: curriculum.Rung(strings.ToLower(s.Get(row, "rung"))), Weight: 1, BothSides: true}
	if _, ok := f.Library.Technique(r.Technique); !ok {
		name := s.Get(row, "name")
		if name == "" {
			name = r.Technique
		}
		hits := f.Library.Search(name)
		i := slices.IndexFunc(hits, func(h library.Hit) bool { return library.Fold(h.Matched) == library.Fold(name) })
		switch {
		case i >= 0:
			r.Technique = hits[i].Technique.ID
		case len(hits) > 0 && name != "":
			return r, say.F("no technique is called %q: is it %s?", name, hits[0].Technique.Name)
		default:
			return r, say.F("no technique is called %q: add it to the library first", name)
		}
	}
	r.Technique = f.Library.Now(r.Technique)
	if r.Rung == "" {
		r.Rung = curriculum.Passed
	}
	switch side := strings.ToLower(s.Get(row, "sides")); side {
	case "", "both", "yes", "2":
	case "one", "no", "1":
		r.BothSides = false
	default:
		return r, say.F("sides %q: write both or one", side)
	}
	if w := s.Get(row, "weight"); w != "" {
		weight, err := strconv.ParseFloat(strings.ReplaceAll(w, ",", "."), 64)
		if err != nil {
			return r, say.F("weight %q is not a number", w)
		}
		r.Weight = weight
	}
	r.Or = strings.Fields(s.Get(row, "or"))
	if len(r.Or) == 0 {
		r.Or = nil
	}
	if n := s.Get(row, "n"); n != "" && n != "1" {
		count, err := strconv.Atoi(n)
		if err != nil {
			return r, say.F("n %q is not a number", n)
		}
		r.N = count
	}
	return r, ""
}
