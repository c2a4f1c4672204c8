package students

import (
	"context"
	"fmt"

	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/say"
	"vereda/exchange"
)

// StudentReport is where one student stands, as a document.
func (a *Service) StudentReport(ctx context.Context, u state.User, id string) (exchange.Report, error) {
	page, err := a.StudentPage(ctx, u, id)
	if err != nil {
		return exchange.Report{}, err
	}
	outlook, err := a.Outlook(ctx, u, id)
	if err != nil {
		return exchange.Report{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return exchange.Report{}, err
	}
	r := exchange.Report{Academy: f.Name, Title: page.Person.Name, Sub: fmt.Sprintf("%s since %s, %d classes", page.Person.Rank, page.Since.Words(), page.Classes), Made: f.Today(), Foot: "Evidence, not a decision: whether somebody is promoted is the head instructor's. " + state.Defers.String()}
	toward := exchange.ReportSection{Name: "Toward " + page.Next, Words: []string{fmt.Sprintf("%d of %d requirements are there, %s by weight.", page.Readiness.Met, page.Readiness.Of, state.Percent(page.Readiness.Share))}}
	if outlook.Likely.P10 != nil {
		words := "All of it likely from " + outlook.Likely.P10.Words()
		if outlook.Likely.P90 != nil {
			words += " to " + outlook.Likely.P90.Words()
		}
		toward.Words = append(toward.Words, words+" (eight runs of ten).")
	}
	for _, w := range page.Readiness.Waits {
		toward.Words = append(toward.Words, say.F("Waits for %s.", w).String())
	}
	if page.Next != "" {
		r.Sections = append(r.Sections, toward)
	}
	positions := exchange.ReportSection{Name: "By position", Head: []string{"Position", "", "There", "Required"}, Right: []bool{false, false, true, true}}
	for _, c := range page.Cells {
		positions.Rows = append(positions.Rows, []string{page.Positions[c.At].Name.String(), string(c.Part), fmt.Sprint(c.There), fmt.Sprint(c.Of)})
	}
	standing := exchange.ReportSection{Name: "Standing", Head: []string{"Technique", "Required", "Right or only side", "Left"}}
	for _, s := range page.Standing {
		row := []string{s.Name, s.Needs, "", ""}
		for i, m := range s.Marks[:min(2, len(s.Marks))] {
			if row[2+i] = string(m.Rung); m.Due {
				row[2+i] += ", due"
			}
		}
		standing.Rows = append(standing.Rows, row)
	}
	checks := exchange.ReportSection{Name: "Checks", Head: []string{"Day", "Technique", "Side", "Result", "By"}}
	for _, c := range page.Checks[:min(60, len(page.Checks))] {
		result := "not met"
		if c.Met {
			result = c.Rung
		}
		checks.Rows = append(checks.Rows, []string{c.On.String(), c.Name, string(c.Side), result, c.By})
	}
	r.Sections = append(r.Sections, positions, standing, checks)
	return r, nil
}

// RankReport is how far those who work on a curriculum are with it, as a document.
func (a *Service) RankReport(ctx context.Context, u state.User, id string) (exchange.Report, error) {
	page, err := a.Heat(ctx, u, id, PositionsFilter{})
	if err != nil {
		return exchange.Report{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return exchange.Report{}, err
	}
	r := exchange.Report{Academy: f.Name, Title: "Toward " + page.Curriculum.Rank, Sub: fmt.Sprintf("%s, version %d, %d students", page.Curriculum.Ladder, page.Curriculum.Version, len(page.Rows)), Made: f.Today(), Foot: state.Defers.String()}
	people := exchange.ReportSection{Name: "Students", Head: []string{"Name", "Rank", "There", "Required", "By weight"}, Right: []bool{false, false, true, true, true}}
	for _, row := range page.Rows {
		people.Rows = append(people.Rows, []string{row.Name, row.Rank, fmt.Sprint(row.Met), fmt.Sprint(row.Of), state.Percent(row.Share)})
	}
	asked := exchange.ReportSection{Name: "Requirements", Head: []string{"Technique", "Required", "Not met", "Met", "Drilled", "Passed", "Live", "Due"}, Right: []bool{false, false, true, true, true, true, true, true},
		Words: []string{"Sides of all students, at the rung each has come to."}}
	for i, q := range page.Requirements {
		counts, due := map[curriculum.Rung]int{}, 0
		for _, row := range page.Rows {
			for _, m := range row.Cells[i] {
				rung := m.Rung
				if rung == curriculum.Teaches {
					rung = curriculum.Live
				}
				if counts[rung]++; m.Due {
					due++
				}
			}
		}
		line := []string{q.Name, string(q.Rung)}
		for _, rung := range []curriculum.Rung{curriculum.NotMet, curriculum.Met, curriculum.Drilled, curriculum.Passed, curriculum.Live} {
			line = append(line, fmt.Sprint(counts[rung]))
		}
		asked.Rows = append(asked.Rows, append(line, fmt.Sprint(due)))
	}
	r.Sections = append(r.Sections, people, asked)
	return r, nil
}
