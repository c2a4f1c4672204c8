package students

import (
	"cmp"
	"context"
	"math"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
)

// FadingPage is what fades: what is due, the classes that would refresh it, and how well the curve foretells the academy's own checks.
type FadingPage struct {
	Due     int                 `json:"due" doc:"Techniques and sides of all students"`
	Classes []FadingClass       `json:"classes" doc:"Classes of the next two weeks, with what is due and would be refreshed"`
	Rows    []FadingRow         `json:"rows" doc:"Students, most due first"`
	Fit     ledger.RetentionFit `json:"fit"`
	InUse   ledger.Curve        `json:"in_use"`
	Formula say.Sentence        `json:"formula"`
}

// FadingClass is a class to come.
type FadingClass struct {
	Session string      `json:"session"`
	Name    string      `json:"name"`
	On      string      `json:"on"`
	Lines   []FadingDue `json:"lines"`
}

// FadingDue is one technique with for whom it is due.
type FadingDue struct {
	Technique string        `json:"technique"`
	Name      string        `json:"name"`
	People    []state.Named `json:"people"`
}

// FadingRow is one student.
type FadingRow struct {
	state.PersonLine
	Due    int          `json:"due"`
	Lowest []FadingLine `json:"lowest" doc:"The five that faded most"`
}

// FadingLine is one technique and side.
type FadingLine struct {
	Technique string       `json:"technique"`
	Name      string       `json:"name"`
	Side      library.Side `json:"side"`
	Share     float64      `json:"share" doc:"Estimate of what is still there"`
}

const fadingFormula say.Sentence = "2^(−t/h): t days since the last success or class that touched it, h a half-life that each success multiplies and each failure shrinks (half-life regression, Settles & Meeder 2016). The fitted numbers are pulled toward those in use, as if twelve checks spoke for them, and judged by the newest quarter of the checks, which the fit has not seen."

const fadingAhead = 14 // days

// Fading shows what fades.
func (a *Service) Fading(ctx context.Context, u state.User) (FadingPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return FadingPage{}, err
	}
	on := f.Today()
	page := FadingPage{Classes: []FadingClass{}, Rows: []FadingRow{}, Formula: fadingFormula, Fit: f.retentionFit()}
	page.InUse = page.Fit.Default
	due := map[string][]state.Named{}
	for _, p := range f.Students() {
		row := FadingRow{PersonLine: f.Line(p, u, on), Lowest: []FadingLine{}}
		seen := map[string]bool{}
		for _, s := range f.Standings(p.ID) {
			if !s.Due(on, f.Settings.Standing) {
				continue
			}
			row.Due++
			row.Lowest = append(row.Lowest, FadingLine{s.Technique, f.Library.Name(s.Technique), s.Side, s.Retention(on)})
			if !seen[s.Technique] {
				seen[s.Technique] = true
				due[s.Technique] = append(due[s.Technique], state.Named{ID: p.ID, Name: p.Name})
			}
		}
		if row.Due == 0 {
			continue
		}
		slices.SortStableFunc(row.Lowest, func(a, b FadingLine) int { return cmp.Compare(a.Share, b.Share) })
		row.Lowest = row.Lowest[:min(5, len(row.Lowest))]
		page.Due += row.Due
		page.Rows = append(page.Rows, row)
	}
	slices.SortStableFunc(page.Rows, func(a, b FadingRow) int { return cmp.Compare(b.Due, a.Due) })
	chances := f.Chances(on)
	for day := on; day < on+fadingAhead; day++ {
		for _, c := range f.ClassesOn(day) {
			l := f.Lesson(f.SessionPlan(c, day).Items)
			x := FadingClass{Session: academy.Occurrence(c.ID, day), Name: c.Name, On: day.String(), Lines: []FadingDue{}}
			for _, t := range append(l.Teach, l.Review...) {
				line := FadingDue{Technique: t.ID, Name: t.Name, People: []state.Named{}}
				for _, p := range due[t.ID] {
					if chances[p.ID][c.ID].Chance >= likelyThere {
						line.People = append(line.People, p)
					}
				}
				if len(line.People) > 0 {
					x.Lines = append(x.Lines, line)
				}
			}
			if len(x.Lines) > 0 {
				page.Classes = append(page.Classes, x)
			}
		}
	}
	return page, nil
}

// likelyThere is the chance from which somebody counts as coming to a class.
const likelyThere = 0.3

// retentionFit fits the curve to the record, kept until something is known anew.
func (f *snapshot) retentionFit() ledger.RetentionFit {
	type key struct{ last int64 }
	return state.Remember(f.Snapshot, key{f.Last}, func() ledger.RetentionFit {
		return ledger.FitRetention(f.courses(), f.Settings.Standing)
	})
}

// courses are what happened to each student with each technique and side that was checked.
func (f *snapshot) courses() []ledger.Course {
	type key struct {
		technique string
		side      library.Side
	}
	var all []ledger.Course
	for _, p := range f.Students() {
		at := map[key]*ledger.Course{}
		var order []key
		for _, c := range f.Checks(p.ID) {
			k := key{f.Library.Now(c.Technique), c.Side}
			if at[k] == nil {
				at[k] = &ledger.Course{}
				order = append(order, k)
			}
			at[k].Checks = append(at[k].Checks, ledger.CheckedOn{On: c.On, Met: c.Met})
		}
		if len(order) == 0 {
			continue
		}
		for _, v := range f.Visits(p.ID) {
			r, ok := f.ReportOf(f.Session(v.Class, v.On))
			if !ok {
				continue
			}
			for _, had := range r.Had(p.ID, v.On, v.Part != "") {
				for _, it := range had.Items {
					t, ok := f.Library.Technique(f.Library.Now(it.Technique))
					if !ok || it.Exposure() == 0 {
						continue
					}
					for _, side := range it.Sides(t.Sides()) {
						if c := at[key{t.ID, side}]; c != nil {
							c.Refreshed = append(c.Refreshed, v.On)
						}
					}
				}
			}
		}
		for _, k := range order {
			slices.SortStableFunc(at[k].Checks, func(a, b ledger.CheckedOn) int { return cmp.Compare(a.On, b.On) })
			all = append(all, *at[k])
		}
	}
	return all
}

// UseFit puts the fitted curve into the settings: where it foretells the checks better, and the head instructor says so.
func (a *Service) UseFit(ctx context.Context, u state.User) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		fit := f.retentionFit()
		if !fit.EnoughData {
			return state.Invalid("fit", "there are %d checks that say something of fading: 60 are needed", fit.Checks)
		}
		if !fit.Better {
			return state.Invalid("fit", "the curve in use foretells the newest checks as well: there is nothing to gain")
		}
		s := f.Settings
		round := func(x, to float64) float64 { return math.Round(x/to) * to }
		s.Standing.FirstHalfLife = max(s.Standing.LeastHalfLife, round(fit.Fitted.First, 0.5))
		s.Standing.Growth, s.Standing.Shrink = round(fit.Fitted.Growth, 0.05), round(fit.Fitted.Shrink, 0.05)
		b.Summary = say.F("Applied the curve fitted to %d checks: half-life %g days, × %.2f with a success, × %.2f with a failure", fit.Checks, s.Standing.FirstHalfLife, s.Standing.Growth, s.Standing.Shrink)
		if err := state.InvalidAll(f.CheckSettings(s)); err != nil {
			return err
		}
		return b.Put(documents.Settings, "settings", s)
	})
}

// GapsPage is people with the same gap, gathered into as few groups as can be.
type GapsPage struct {
	Groups []GapGroup  `json:"groups"`
	Bound  int         `json:"bound" doc:"Fewer groups cannot do"`
	Proven bool        `json:"proven"`
	Nobody []GapNobody `json:"nobody" doc:"Who comes to no class in which it could be taught"`
	People int         `json:"people" doc:"Who missed something their next rank asks for"`
	Weeks  int         `json:"weeks" doc:"How far back was looked"`
}

// GapGroup is one unit in one class, for those who missed it.
type GapGroup struct {
	Unit    string        `json:"unit"`
	Name    string        `json:"name"`
	Class   string        `json:"class"`
	Where   string        `json:"where" doc:"The class, in words"`
	Session string        `json:"session" doc:"The next time it is held"`
	On      calendar.Day  `json:"on"`
	Minutes int           `json:"minutes" doc:"The unit takes"`
	Put     string        `json:"put,omitempty" enum:"unit,station" doc:"How it is in that class already"`
	People  []state.Named `json:"people"`
}

// GapNobody is somebody no class fits.
type GapNobody struct {
	Person string `json:"person"`
	Unit   string `json:"unit"`
}
