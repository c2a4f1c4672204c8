package seasons

import (
	"context"
	"fmt"

	"vereda/app/state"
	"vereda/exchange"
)

// Report is a season's coverage and what was taught of it, as a document.
func (a *Service) Report(ctx context.Context, u state.User, id string) (exchange.Report, error) {
	page, err := a.Season(ctx, u, id)
	if err != nil {
		return exchange.Report{}, err
	}
	line, err := a.CoverageLine(ctx, u, id)
	if err != nil {
		return exchange.Report{}, err
	}
	taught, err := a.Taught(ctx, u, id)
	if err != nil {
		return exchange.Report{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return exchange.Report{}, err
	}
	r := exchange.Report{Academy: f.Name, Title: page.Line.Name, Sub: fmt.Sprintf("%d weeks, %s to %s", page.Line.Weeks, page.Line.Start.Words(), page.Line.End.Words()), Made: f.Today(), Foot: lineFormula.String()}
	cover := exchange.ReportSection{Name: "Coverage", Words: []string{"Expected of the plan as it is: " + state.Percent(page.Line.Coverage) + "."}}
	if line.Published != nil {
		cover.Head, cover.Right = []string{"End of week", "As it was expected", "As it came", "From here", "Eight runs of ten"}, []bool{true, true, true, true, true}
		rows := map[int][]string{}
		row := func(week int) []string {
			if rows[week] == nil {
				rows[week] = []string{fmt.Sprint(week), "", "", "", ""}
			}
			return rows[week]
		}
		for _, w := range line.Forecast {
			row(w.Week)[1] = state.Percent(w.Mean)
		}
		for _, w := range line.Happened {
			row(w.Week)[2] = state.Percent(w.Share)
		}
		for _, w := range line.From {
			row(w.Week)[3], row(w.Week)[4] = state.Percent(w.Mean), state.Percent(w.Low)+" to "+state.Percent(w.High)
		}
		for w := 0; w <= line.Weeks; w++ {
			if rows[w] != nil {
				cover.Rows = append(cover.Rows, rows[w])
			}
		}
	}
	held := exchange.ReportSection{Name: "Plan and what was taught", Head: []string{"Day", "Class", "Unit", "", "Led by", "Here"}, Right: []bool{false, false, false, false, false, true}}
	for _, w := range taught.Weeks {
		for _, l := range w.Lines {
			for _, x := range l.Units {
				said := x.Reached
				if x.Short != "" {
					said = x.Short.String()
				}
				held.Rows = append(held.Rows, []string{l.On.String(), l.Class, x.Kind + " " + x.Name, said, l.Lead, fmt.Sprint(l.Here)})
			}
		}
	}
	students := exchange.ReportSection{Name: "Students", Words: []string{"Mean chance that what their next rank still asks for is seen often enough, least first."}, Head: []string{"Name", "Rank", "Chance"}, Right: []bool{false, false, true}}
	for _, s := range page.Students {
		students.Rows = append(students.Rows, []string{s.Name, s.Rank, state.Percent(s.Mean)})
	}
	r.Sections = append(r.Sections, cover, held, students)
	return r, nil
}
