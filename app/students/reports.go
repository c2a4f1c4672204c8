package students

import (
	"context"
	"fmt"

	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/say"
	"vereda/exchange"
)

// StudentReport is where one student stands, as a document in a language.
func (a *Service) StudentReport(ctx context.Context, u state.User, id string, in say.Language) (exchange.Report, error) {
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
	own := func(words ...say.Sentence) []string { return say.TextsIn(in, words) }
	r := exchange.Report{Academy: f.Name, Title: page.Person.Name, Made: f.Today(), In: in,
		Sub:  say.F("%s since %s, %s", page.Person.Rank, page.Since, say.N(page.Classes, "%d class", "%d classes")).In(in),
		Foot: say.Join(" ", "Evidence, not a decision: whether somebody is promoted is the head instructor's.", state.Defers).In(in)}
	toward := []say.Sentence{say.F("%d of %d requirements are there, %.0f %% by weight.", page.Readiness.Met, page.Readiness.Of, 100*page.Readiness.Share)}
	if p10, p90 := outlook.Likely.P10, outlook.Likely.P90; p10 != nil && p90 != nil {
		toward = append(toward, say.F("All of it likely from %s to %s (eight runs of ten).", *p10, *p90))
	} else if p10 != nil {
		toward = append(toward, say.F("All of it likely from %s on.", *p10))
	}
	for _, w := range page.Readiness.Waits {
		toward = append(toward, say.F("Waits for %s.", w))
	}
	if page.Next != "" {
		r.Sections = append(r.Sections, exchange.ReportSection{Name: say.F("Toward %s", page.Next).In(in), Words: own(toward...)})
	}
	positions := exchange.ReportSection{Name: own("By position")[0], Head: own("Position", "", "There", "Required"), Right: []bool{false, false, true, true}}
	for _, c := range page.Cells {
		positions.Rows = append(positions.Rows, own(page.Positions[c.At].Name, say.Word(c.Part), say.Raw(fmt.Sprint(c.There)), say.Raw(fmt.Sprint(c.Of))))
	}
	standing := exchange.ReportSection{Name: own("Standing")[0], Head: own("Technique", "Required", "Right or only side", "Left")}
	for _, s := range page.Standing {
		row := []say.Sentence{say.Raw(s.Name), say.Word(s.Needs), "", ""}
		for i, m := range s.Marks[:min(2, len(s.Marks))] {
			if row[2+i] = say.Word(m.Rung); m.Due {
				row[2+i] = say.F("%s, due", m.Rung)
			}
		}
		standing.Rows = append(standing.Rows, own(row...))
	}
	checks := exchange.ReportSection{Name: own("Checks")[0], Head: own("Day", "Technique", "Side", "Result", "By")}
	for _, c := range page.Checks[:min(60, len(page.Checks))] {
		result := say.Sentence("not yet")
		if c.Met {
			result = say.Word(c.Rung)
		}
		checks.Rows = append(checks.Rows, own(c.On.Say(), say.Raw(c.Name), say.Word(c.Side), result, say.Raw(c.By)))
	}
	r.Sections = append(r.Sections, positions, standing, checks)
	return r, nil
}

// RankReport is how far those who work on a curriculum are with it, as a document in a language.
func (a *Service) RankReport(ctx context.Context, u state.User, id string, in say.Language) (exchange.Report, error) {
	page, err := a.Heat(ctx, u, id, PositionsFilter{})
	if err != nil {
		return exchange.Report{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return exchange.Report{}, err
	}
	own := func(words ...say.Sentence) []string { return say.TextsIn(in, words) }
	r := exchange.Report{Academy: f.Name, Title: say.F("Toward %s", page.Curriculum.Rank).In(in), Made: f.Today(), In: in, Foot: state.Defers.In(in),
		Sub: say.F("%s, version %d, %s", page.Curriculum.Ladder, page.Curriculum.Version, say.N(len(page.Rows), "%d student", "%d students")).In(in)}
	people := exchange.ReportSection{Name: own("Students")[0], Head: own("Name", "Rank", "There", "Required", "By weight"), Right: []bool{false, false, true, true, true}}
	for _, row := range page.Rows {
		people.Rows = append(people.Rows, []string{row.Name, row.Rank, fmt.Sprint(row.Met), fmt.Sprint(row.Of), state.Percent(row.Share)})
	}
	asked := exchange.ReportSection{Name: own("Requirements")[0], Head: own("Technique", "Required", "Not met", "Met", "Drilled", "Passed", "Live", "Due"), Right: []bool{false, false, true, true, true, true, true, true},
		Words: own("Sides of all students, at the rung each has come to.")}
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
		line := []string{q.Name, say.Word(q.Rung).In(in)}
		for _, rung := range []curriculum.Rung{curriculum.NotMet, curriculum.Met, curriculum.Drilled, curriculum.Passed, curriculum.Live} {
			line = append(line, fmt.Sprint(counts[rung]))
		}
		asked.Rows = append(asked.Rows, append(line, fmt.Sprint(due)))
	}
	r.Sections = append(r.Sections, people, asked)
	return r, nil
}
