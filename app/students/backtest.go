package students

import (
	"context"
	"slices"
	"sync"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/say"
)

// Bounds of how far back is looked, in weeks.
const (
	backtestFirst = 4
	backtestLast  = 26
)

// BacktestPage is how the ranges of an earlier day held.
type BacktestPage struct {
	From     calendar.Day    `json:"from" doc:"As of this day"`
	Students int             `json:"students"`
	Needs    ledger.Backtest `json:"needs" doc:"What a next rank asks, technique by technique and side by side"`
	Ranks    ledger.Backtest `json:"ranks" doc:"All a next rank asks"`
	Formula  say.Sentence    `json:"formula"`
}

const backtestFormula say.Sentence = "As of that day, with what was known and published then, a range was foretold for everything that was open. Judged are the ranges that were to end by today, whether or not what they foretold has come, so that which are judged does not depend on it: eight of ten are to hold. Beside it stands how much was to be there by now, by the shares of the runs, and how much is. Students who were promoted or tested outside of a class since are left out: neither is foretold."

// Backtest holds what was foretold some weeks ago against what came.
func (a *Service) Backtest(ctx context.Context, u state.User, weeks int) (BacktestPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return BacktestPage{}, err
	}
	if weeks < backtestFirst || weeks > backtestLast {
		return BacktestPage{}, state.Invalid("weeks", "%d: say %d to %d", weeks, backtestFirst, backtestLast)
	}
	return f.backtest(weeks), nil
}

func (f *snapshot) backtest(weeks int) BacktestPage {
	today := f.Today()
	from := today - calendar.Day(7*weeks)
	type key struct { // by the reports: one check more changes little
		from calendar.Day
		last int64
	}
	return state.Remember(f.Snapshot, key{from, f.LastReport}, func() BacktestPage {
		page := BacktestPage{From: from, Formula: backtestFormula}
		then := &snapshot{f.AsPublished(from)}
		then.coming(from) // once, for all
		then.Chances(from)
		then.checkHabits(from)
		var people []academy.Person
		for _, p := range f.Students() {
			tested := slices.ContainsFunc(f.Checks(p.ID), func(c state.Checked) bool { return c.On >= from && c.Class == "" })
			if p.Joined < from && p.RankSince < from && !tested {
				people = append(people, p)
			}
		}
		type foretold struct{ needs, rank []ledger.Foretold }
		each := make([]foretold, len(people))
		var all sync.WaitGroup
		const hands = 2
		for h := range hands {
			all.Go(func() {
				for i := h; i < len(people); i += hands {
					each[i].needs, each[i].rank = f.foretold(then, people[i], from, today)
				}
			})
		}
		all.Wait()
		var needs, ranks []ledger.Foretold
		for _, x := range each {
			needs, ranks = append(needs, x.needs...), append(ranks, x.rank...)
			if len(x.needs) > 0 {
				page.Students++
			}
		}
		// Today itself is not over: what is known ends yesterday.
		page.Needs, page.Ranks = ledger.JudgeRanges(needs, today-1), ledger.JudgeRanges(ranks, today-1)
		return page
	})
}

// foretold is what was foretold of one student on a day, and what came of it.
func (f *snapshot) foretold(then *snapshot, p academy.Person, from, today calendar.Day) (needs, rank []ledger.Foretold) {
	o, nowhere, ok := then.outlook(p, from)
	if !ok || len(o.Needs) == 0 {
		return nil, nil
	}
	o.Runs = listRuns
	all, ranges, shares := ledger.ForecastEach(o, today-1)
	reached := f.ReachedSince(p.ID, from)
	asked := map[string]ledger.ReachedKey{}
	for _, g := range then.Readiness(p, from).Missing {
		asked[needID(g.Technique, g.Side)] = ledger.ReachedKey{Technique: g.Technique, Side: g.Side, Step: g.Needs.Step()}
	}
	whole := from // the day on which all was there
	for i, n := range o.Needs {
		one := ledger.Foretold{Range: ranges[i], Share: shares[i]}
		if on, ok := reached[asked[n.ID]]; ok {
			one.Came = &on
			whole = max(whole, on)
		} else {
			whole = calendar.Last
		}
		needs = append(needs, one)
	}
	if len(nowhere) == 0 && o.Earliest <= from && o.Classes >= o.MinClasses {
		one := ledger.Foretold{Range: all}
		if whole < calendar.Last {
			one.Came = &whole
		}
		rank = append(rank, one)
	}
	return needs, rank
}
