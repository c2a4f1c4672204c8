package seasons

import (
	"context"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/season"
)

// mostSeasons are shown beside each other: about a year.
const mostSeasons = 4

// YearPage is the last four seasons, the next one among them, against what is required of those who train here.
type YearPage struct {
	Seasons []YearSeason `json:"seasons" doc:"By their start, four at most"`
	Ranks   []YearRank   `json:"ranks" doc:"The ranks somebody works toward, by ladder"`
	Unseen  int          `json:"unseen" doc:"Requirements that none of these seasons teaches or reviews"`
	Waiting int          `json:"waiting" doc:"Of them those somebody has still open"`
}

// YearSeason is one of them.
type YearSeason struct {
	ID    string       `json:"id"`
	Name  string       `json:"name"`
	Start calendar.Day `json:"start"`
	End   calendar.Day `json:"end"`
	State string       `json:"state" enum:"over,running,to come"`
}

// YearRank is what is required for one rank.
type YearRank struct {
	Curriculum string    `json:"curriculum"`
	Ladder     string    `json:"ladder"`
	Rank       string    `json:"rank"`
	Belt       string    `json:"belt"`
	Students   int       `json:"students" doc:"Who work toward it"`
	Unseen     int       `json:"unseen"`
	Rows       []YearRow `json:"rows" doc:"What nobody sees first, that which most have open before the rest; then in the order of the curriculum"`
}

// YearRow is one requirement; a variant of it counts as it does.
type YearRow struct {
	Technique string        `json:"technique"`
	Name      string        `json:"name"`
	Or        []string      `json:"or" doc:"Names of its variants"`
	Open      int           `json:"open" doc:"Students who work toward the rank and have it still open"`
	Seen      []YearSeen    `json:"seen" doc:"By season"`
	Unseen    bool          `json:"unseen"`
	Units     []state.Named `json:"units" doc:"Units that teach it or a variant; none: no plan can have it"`
}

// YearSeen is how often a season gives it, in classes of all tracks.
type YearSeen struct {
	Taught   int `json:"taught" doc:"Classes that taught it, in full or in part, as they were reported"`
	Reviewed int `json:"reviewed" doc:"The same of reviews"`
	Missed   int `json:"missed" doc:"Planned and not reached"`
	Planned  int `json:"planned" doc:"By the plan, in classes to come or not reported"`
}

func (y YearSeen) any() bool { return y.Taught+y.Reviewed+y.Planned > 0 }

func (y *YearSeen) add(o YearSeen) {
	y.Taught, y.Reviewed, y.Missed, y.Planned = y.Taught+o.Taught, y.Reviewed+o.Reviewed, y.Missed+o.Missed, y.Planned+o.Planned
}

// Year sets what is required beside what four seasons teach: what nobody will see for a year stands first.
// Costs classes × weeks of the seasons, and requirements × students.
func (a *Service) Year(ctx context.Context, u state.User) (YearPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return YearPage{}, err
	}
	page := YearPage{Seasons: []YearSeason{}, Ranks: []YearRank{}}
	all := f.Seasons[max(0, len(f.Seasons)-mostSeasons):]
	var given []map[string]YearSeen
	for _, s := range all {
		line := YearSeason{ID: s.ID, Name: s.Name, Start: s.Start, End: s.End(), State: "running"}
		switch {
		case line.End < f.Today():
			line.State = "over"
		case s.Start > f.Today():
			line.State = "to come"
		}
		page.Seasons = append(page.Seasons, line)
		given = append(given, f.gives(s))
	}
	for _, c := range f.asked() {
		r := f.yearRank(c, given)
		for _, row := range r.Rows {
			if row.Unseen && row.Open > 0 {
				page.Waiting++
			}
		}
		page.Unseen += r.Unseen
		page.Ranks = append(page.Ranks, r)
	}
	return page, nil
}

// asked are the curricula somebody works on, by ladder and rank.
func (f *snapshot) asked() (all []curriculum.Curriculum) {
	seen := map[string]bool{}
	for _, p := range f.Students() {
		if c, _, ok := f.CurriculumFor(p); ok && !seen[c.ID] {
			seen[c.ID] = true
			all = append(all, c)
		}
	}
	slices.SortFunc(all, func(x, y curriculum.Curriculum) int {
		if by := strings.Compare(f.Ladders[x.Ladder].Name, f.Ladders[y.Ladder].Name); by != 0 {
			return by
		}
		if by := f.Ladders[x.Ladder].Position(x.Rank) - f.Ladders[y.Ladder].Position(y.Rank); by != 0 {
			return by
		}
		return strings.Compare(x.ID, y.ID)
	})
	return all
}

// gives counts how often a season gives each technique: as its classes were reported, and else as they are planned.
func (f *snapshot) gives(s academy.Season) map[string]YearSeen {
	given := map[string]YearSeen{}
	count := func(technique string, one YearSeen) {
		had := given[technique]
		had.add(one)
		given[technique] = had
	}
	for week := 1; week <= s.Weeks; week++ {
		for _, c := range f.Classes {
			if report, ok := f.ReportOf(f.Session(c.ID, s.DayOf(week, c))); ok {
				for _, it := range report.Items {
					switch {
					case it.Reached == "not":
						count(it.Technique, YearSeen{Missed: 1})
					case it.Kind == season.Review:
						count(it.Technique, YearSeen{Reviewed: 1})
					default:
						count(it.Technique, YearSeen{Taught: 1})
					}
				}
				continue
			}
			plan := s.Stands()
			if _, closed := s.Closed(week, c.ID); closed || plan == nil || !s.Meets(week, c) {
				continue
			}
			x, _ := plan.Find(week, c.ID)
			for _, it := range x.Items {
				unit, _ := f.Unit(it.Unit)
				for _, t := range unit.Techniques {
					count(t, YearSeen{Planned: 1})
				}
			}
		}
	}
	return given
}

// teach are the units that teach any of some techniques.
func (f *snapshot) teach(techniques []string) []state.Named {
	all := []state.Named{}
	for _, x := range f.Units {
		if slices.ContainsFunc(x.Techniques, func(t string) bool { return slices.Contains(techniques, t) }) {
			all = append(all, state.Named{ID: x.ID, Name: x.Name})
		}
	}
	return all
}

func (f *snapshot) yearRank(c curriculum.Curriculum, given []map[string]YearSeen) YearRank {
	line := f.CurriculumLine(c)
	r := YearRank{Curriculum: c.ID, Ladder: line.Ladder, Rank: line.Rank, Belt: line.Belt, Rows: []YearRow{}}
	name := func(id string) string {
		t, _ := f.Library.Technique(id)
		return t.Name
	}
	open := map[string]int{}
	for _, p := range f.WorksOn(c.ID) {
		r.Students++
		missing := map[string]bool{}
		for _, g := range f.ReadyFor(p, c, f.Today()).Missing {
			missing[g.Technique] = true
		}
		for t := range missing {
			open[t]++
		}
	}
	for _, q := range c.Requirements {
		row := YearRow{Technique: q.Technique, Name: name(q.Technique), Or: []string{}, Seen: make([]YearSeen, len(given)), Unseen: true, Open: open[q.Technique], Units: f.teach(q.Options())}
		for _, t := range q.Options() {
			if t != q.Technique {
				row.Or = append(row.Or, name(t))
			}
			for i := range given {
				row.Seen[i].add(given[i][t])
			}
		}
		row.Unseen = !slices.ContainsFunc(row.Seen, YearSeen.any)
		if row.Unseen {
			r.Unseen++
		}
		r.Rows = append(r.Rows, row)
	}
	slices.SortStableFunc(r.Rows, func(x, y YearRow) int {
		switch {
		case x.Unseen != y.Unseen && x.Unseen:
			return -1
		case x.Unseen != y.Unseen:
			return 1
		case x.Unseen:
			return y.Open - x.Open
		}
		return 0
	})
	return r
}
