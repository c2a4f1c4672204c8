package seasons

import (
	"cmp"
	"context"
	"fmt"

	"vereda/app/state"
	"vereda/core/say"
	"vereda/exchange"
)

// reachedWords are what TaughtUnit.Reached says on paper.
var reachedWords = map[string]say.Sentence{"whole": "reached", "part": "in part", "not": "not reached", "unknown": "not reported", "besides": "not planned"}

// Report is a season's coverage and what was taught of it, as a document in a language.
func (a *Service) Report(ctx context.Context, u state.User, id string, in say.Language) (exchange.Report, error) {
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
	own := func(words ...say.Sentence) []string { return say.TextsIn(in, words) }
	r := exchange.Report{Academy: f.Name, Title: page.Line.Name, Sub: say.F("%s, %s to %s", say.N(page.Line.Weeks, "%d week", "%d weeks"), page.Line.Start, page.Line.End).In(in), Made: f.Today(), In: in, Foot: lineFormula.In(in)}
	cover := exchange.ReportSection{Name: own("Coverage")[0], Words: own(say.F("Expected of the plan as it is: %s.", state.Percent(page.Line.Coverage)))}
	if line.Published != nil {
		cover.Head, cover.Right = own("End of week", "As it was expected", "As it came", "From here", "Eight runs of ten"), []bool{true, true, true, true, true}
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
			row(w.Week)[3], row(w.Week)[4] = state.Percent(w.Mean), say.F("%s to %s", state.Percent(w.Low), state.Percent(w.High)).In(in)
		}
		for w := 0; w <= line.Weeks; w++ {
			if rows[w] != nil {
				cover.Rows = append(cover.Rows, rows[w])
			}
		}
	}
	held := exchange.ReportSection{Name: own("Plan and what was taught")[0], Head: own("Day", "Class", "Unit", "", "Led by", "Here"), Right: []bool{false, false, false, false, false, true}}
	for _, w := range taught.Weeks {
		for _, l := range w.Lines {
			for _, x := range l.Units {
				said := cmp.Or(x.Short, reachedWords[x.Reached])
				held.Rows = append(held.Rows, own(l.On.Say(), say.Raw(l.Class), say.F("%s %s", say.Word(x.Kind), x.Name), said, say.Raw(l.Lead), say.Raw(fmt.Sprint(l.Here))))
			}
		}
	}
	students := exchange.ReportSection{Name: own("Students")[0], Words: own("Mean chance that what their next rank still asks for is seen often enough, least first."), Head: own("Name", "Rank", "Chance"), Right: []bool{false, false, true}}
	for _, s := range page.Students {
		students.Rows = append(students.Rows, []string{s.Name, s.Rank, state.Percent(s.Mean)})
	}
	r.Sections = append(r.Sections, cover, held, students)
	return r, nil
}
