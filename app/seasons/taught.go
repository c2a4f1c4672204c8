package seasons

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/say"
	"vereda/core/season"
)

// TaughtPage is a season's plan against what its classes reached, week by week.
type TaughtPage struct {
	Weeks  []TaughtWeek `json:"weeks"`
	Totals TaughtTotals `json:"totals" doc:"Of the classes that are over"`
}

// TaughtWeek is one week of it.
type TaughtWeek struct {
	Week   int          `json:"week"`
	Start  calendar.Day `json:"start"`
	Lines  []TaughtLine `json:"lines" doc:"The classes that were planned or held, those to come left out"`
	Totals TaughtTotals `json:"totals"`
}

// TaughtTotals counts planned units by what became of them.
type TaughtTotals struct {
	Planned  int `json:"planned"`
	Whole    int `json:"whole" doc:"Every technique reached, in full"`
	Part     int `json:"part" doc:"Some of it reached"`
	Not      int `json:"not"`
	Unknown  int `json:"unknown" doc:"The class was not reported"`
	Besides  int `json:"besides" doc:"Taught without being planned"`
	Reported int `json:"reported" doc:"Classes reported"`
	Classes  int `json:"classes" doc:"Classes that are over"`
}

// TaughtLine is one class on one day.
type TaughtLine struct {
	start   string
	Session string       `json:"session"`
	Class   string       `json:"class"`
	On      calendar.Day `json:"on"`
	Lead    string       `json:"lead"`
	Planned string       `json:"planned,omitempty" doc:"Who the plan had lead it, where somebody else did"`
	Units   []TaughtUnit `json:"units"`
	Here    int          `json:"here"`
	Closed  string       `json:"closed,omitempty"`
}

// TaughtUnit is one unit and what became of it.
type TaughtUnit struct {
	Unit    string       `json:"unit"`
	Name    string       `json:"name"`
	Kind    string       `json:"kind" enum:"teach,review"`
	Reached string       `json:"reached" enum:"whole,part,not,unknown,besides"`
	Short   say.Sentence `json:"short,omitempty" doc:"What of it was not reached, in words"`
}

// Taught compares a season's plan, as it was published last, with the reports of its classes.
func (a *Service) Taught(ctx context.Context, u state.User, id string) (TaughtPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TaughtPage{}, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return TaughtPage{}, err
	}
	page := TaughtPage{Weeks: []TaughtWeek{}}
	for w := 1; w <= s.Weeks; w++ {
		week := TaughtWeek{Week: w, Start: s.Start + calendar.Day(7*(w-1)), Lines: []TaughtLine{}}
		if week.Start > f.Today() {
			break
		}
		for _, c := range f.Classes {
			if line, ok := f.taughtLine(s, w, c); ok {
				week.Totals.count(line)
				week.Lines = append(week.Lines, line)
			}
		}
		slices.SortStableFunc(week.Lines, func(a, b TaughtLine) int {
			return cmp.Or(cmp.Compare(a.On, b.On), cmp.Compare(a.start, b.start))
		})
		page.Totals.add(week.Totals)
		page.Weeks = append(page.Weeks, week)
	}
	return page, nil
}

func (t *TaughtTotals) add(o TaughtTotals) {
	t.Planned, t.Whole, t.Part, t.Not, t.Unknown = t.Planned+o.Planned, t.Whole+o.Whole, t.Part+o.Part, t.Not+o.Not, t.Unknown+o.Unknown
	t.Besides, t.Reported, t.Classes = t.Besides+o.Besides, t.Reported+o.Reported, t.Classes+o.Classes
}

func (t *TaughtTotals) count(l TaughtLine) {
	if l.Closed != "" {
		return
	}
	t.Classes++
	known := len(l.Units) == 0
	for _, u := range l.Units {
		switch u.Reached {
		case "whole":
			t.Whole++
		case "part":
			t.Part++
		case "not":
			t.Not++
		case "besides":
			t.Besides++
		default:
			t.Unknown++
		}
		known = known || u.Reached != "unknown"
		if u.Reached != "besides" {
			t.Planned++
		}
	}
	if known {
		t.Reported++
	}
}

// taughtLine is a class of a week that is over, with its plan and its report.
func (f *snapshot) taughtLine(s academy.Season, week int, c academy.Class) (TaughtLine, bool) {
	on := s.DayOf(week, c)
	held := f.Session(c.ID, on)
	report, reported := f.ReportOf(held)
	if on > f.Today() || on == f.Today() && !reported || on >= s.Start+calendar.Day(7*s.Weeks) {
		return TaughtLine{}, false
	}
	if !c.Meets(on) && !reported {
		return TaughtLine{}, false
	}
	line := TaughtLine{Session: academy.Occurrence(c.ID, on), start: c.On(on).Start, Class: c.Name, On: on, Units: []TaughtUnit{}, Here: len(held.Here())}
	if why, closed := s.Closed(week, c.ID); closed && !reported {
		line.Closed = cmp.Or(why, "closed")
		return line, true
	}
	var items []season.Item
	planned := ""
	if plan := s.Stands(); plan != nil {
		if x, ok := plan.Find(week, c.ID); ok {
			items, planned = x.Items, x.Lead
		}
	}
	if line.Lead = f.NameOf(planned); reported {
		line.Lead = f.NameOf(report.Lead)
		if planned != "" && planned != report.Lead {
			line.Planned = f.NameOf(planned)
		}
	}
	told := map[string]bool{} // techniques of planned units
	for _, it := range items {
		unit, _ := f.Unit(it.Unit)
		u := TaughtUnit{Unit: it.Unit, Name: unit.Name, Kind: string(it.Kind), Reached: "unknown"}
		if reported {
			u.Reached, u.Short = f.howFar(unit.Techniques, report.ClassReport)
		} else if s.Missed(week, c.ID, it.Unit) {
			u.Reached = "not"
		}
		for _, t := range unit.Techniques {
			told[t] = true
		}
		line.Units = append(line.Units, u)
	}
	if reported {
		line.Units = append(line.Units, f.besides(told, report.ClassReport)...)
	}
	return line, len(line.Units) > 0 || reported
}

// howFar says how much of some techniques a report has, and what is short of them.
func (f *snapshot) howFar(techniques []string, r academy.ClassReport) (how string, short say.Sentence) {
	whole, any := true, false
	var missing []say.Sentence
	for _, t := range techniques {
		i := slices.IndexFunc(r.Items, func(it ledger.Item) bool { return it.Technique == t })
		if i < 0 || r.Items[i].Reached == "not" {
			whole, missing = false, append(missing, say.F("%s not reached", f.Library.Name(t)))
			continue
		}
		any = true
		if r.Items[i].Reached == "part" {
			whole, missing = false, append(missing, say.F("%s in part", f.Library.Name(t)))
		}
		if r.Items[i].OneSide {
			whole, missing = false, append(missing, say.F("%s on one side", f.Library.Name(t)))
		}
	}
	switch {
	case whole:
		return "whole", ""
	case any:
		return "part", say.Join("; ", missing...)
	}
	return "not", ""
}

// besides lists what a report has that was not planned: by unit where one holds it, else by technique.
func (f *snapshot) besides(told map[string]bool, r academy.ClassReport) []TaughtUnit {
	var all []TaughtUnit
	for _, it := range r.Items {
		if told[it.Technique] || it.Reached == "not" {
			continue
		}
		told[it.Technique] = true
		u := TaughtUnit{Unit: it.Technique, Name: f.Library.Name(it.Technique), Kind: it.Kind, Reached: "besides"}
		all = append(all, u)
	}
	return all
}
