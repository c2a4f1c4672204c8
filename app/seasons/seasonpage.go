package seasons

import (
	"cmp"
	"context"
	"math"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/model"
	"vereda/core/season/repair"
)

// SeasonPage is a season as one picture: weeks across, classes down.
type SeasonPage struct {
	Line      SeasonLine        `json:"line"`
	Today     calendar.Day      `json:"today"`
	Weeks     []SeasonWeek      `json:"weeks"`
	Rows      []SeasonRow       `json:"rows"`
	Bound     float64           `json:"bound,omitempty" doc:"No plan can cover more; left out where what students have, or who comes, has changed since it was computed"`
	AsPlanned float64           `json:"as_planned,omitempty" doc:"The coverage that was computed when it was planned; left out where nobody computed it, as for a plan written elsewhere"`
	Explained Explained         `json:"explained"`
	Unplaced  []UnplacedLine    `json:"unplaced"`
	Students  []StudentShare    `json:"students" doc:"Mean chance covered of each student's open needs, least first"`
	Load      []LoadLine        `json:"load"`
	Areas     []string          `json:"areas"`
	Breaks    []BreachLine      `json:"breaks" doc:"Rules the plan breaks from today on"`
	Scores    []ScoreLine       `json:"scores" doc:"What counts besides coverage"`
	Published int               `json:"published" doc:"How often it was published"`
	Waiting   int               `json:"waiting" doc:"Classes changed since"`
	Closures  []academy.Closure `json:"closures"`
	Wanted    []WantedLine      `json:"wanted"`
	Dates     []DateLine        `json:"dates" doc:"In the order of the days"`
	Units     []state.Named     `json:"units" doc:"All there are"`
	Ways      []WayLine         `json:"ways" doc:"How each track is planned"`
	NoCoach   int               `json:"no_coach" doc:"Classes still to come that have nobody to lead them"`
}

// ScoreLine is one thing the goal full counts.
type ScoreLine struct {
	Name    string       `json:"name"`
	Value   float64      `json:"value" doc:"0 to 1"`
	Weight  float64      `json:"weight" doc:"A whole point of it is worth so many points of coverage"`
	Summary say.Sentence `json:"summary"`
}

// WantedLine is a unit wanted by a week.
type WantedLine struct {
	Unit string `json:"unit"`
	Name string `json:"name"`
	Week int    `json:"week"`
}

// WayLine is how a track is planned.
type WayLine struct {
	Track  string `json:"track"`
	Name   string `json:"name"`
	Mode   string `json:"mode"`
	School string `json:"school"`
}

// SeasonWeek is one week.
type SeasonWeek struct {
	Week   int            `json:"week"`
	Start  calendar.Day   `json:"start"`
	Closed string         `json:"closed,omitempty"`
	Dates  []say.Sentence `json:"dates,omitempty" required:"false" doc:"Names of its dates"`
}

// SeasonRow is one weekly class through the season.
type SeasonRow struct {
	Class string `json:"class"`
	Name  string `json:"name"`
	Track string `json:"track"`
	Day   int    `json:"day" doc:"Weekday, Monday is 1"`
	Start string `json:"start"`
	Cells []Cell `json:"cells"`
}

// Cell is one class in one week.
type Cell struct {
	Week   int              `json:"week"`
	Class  string           `json:"class"`
	On     calendar.Day     `json:"on"`
	State  string           `json:"state" enum:"planned,empty,closed,past"`
	Why    string           `json:"why,omitempty"`
	Lead   string           `json:"lead,omitempty" doc:"Initials"`
	LeadID string           `json:"lead_id,omitempty"`
	Items  []state.CellItem `json:"items"`
	Pinned bool             `json:"pinned,omitempty"`
	SameAs string           `json:"same_as,omitempty" doc:"An earlier class of the week that teaches exactly this, in a track where all do"`
	Breaks []say.Sentence   `json:"breaks,omitempty" doc:"Rules broken here"`
}

// Explained is what the coverage number is made of.
type Explained struct {
	Students int          `json:"students"`
	Needs    int          `json:"needs"`
	Need     float64      `json:"need" doc:"Exposures that count as covered"`
	Formula  say.Sentence `json:"formula"`
}

// UnplacedLine is a unit nobody will teach, and why.
type UnplacedLine struct {
	Unit string       `json:"unit"`
	Name string       `json:"name"`
	Why  say.Sentence `json:"why"`
}

// StudentShare is a student's part of the coverage.
type StudentShare struct {
	ID     string      `json:"id"`
	Name   string      `json:"name"`
	Belt   string      `json:"belt"`
	Rank   string      `json:"rank"`
	Mean   float64     `json:"mean"`
	Lowest []UnitShare `json:"lowest" doc:"The three units least likely to be met"`
}

// UnitShare is the chance covered of one unit.
type UnitShare struct {
	Name   string  `json:"name"`
	Chance float64 `json:"chance"`
}

// LoadLine is what one coach leads.
type LoadLine struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Classes int     `json:"classes"`
	Share   float64 `json:"share" doc:"Of all classes led"`
	Wanted  float64 `json:"wanted"`
	Most    int     `json:"most" doc:"In one week"`
	Limit   int     `json:"limit"`
	Weeks   []int   `json:"weeks" doc:"Classes led in each week"`
	Out     []int   `json:"out" doc:"Weeks they are away in"`
}

const coverageFormula say.Sentence = "For each student and each unit their next rank still asks for: the chance that, with what they had before, the classes they are likely to be in add up to enough exposures (teach 1, review ½; 2 to have met it, 3 to have drilled it). The number is the mean of these chances, weighted by the requirements."

// shown is a season as somebody may see it: the plan in the making is the head
// instructor's, a coach sees what was published.
func (f *snapshot) shown(u state.User, id string) (academy.Season, error) {
	s, err := f.FindSeason(id)
	if !u.Is(state.Head) && s.Published != nil {
		s.Plan, s.Pins = &s.Published.Plan, nil
	}
	return s, err
}

// Season shows a season.
func (a *Service) Season(ctx context.Context, u state.User, id string) (SeasonPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return SeasonPage{}, err
	}
	s, err := f.shown(u, id)
	if err != nil {
		return SeasonPage{}, err
	}
	page := SeasonPage{Today: f.Today(), Rows: []SeasonRow{}, Unplaced: []UnplacedLine{}, Students: []StudentShare{}, Load: []LoadLine{}, Areas: []string{}, Breaks: []BreachLine{}, Scores: []ScoreLine{}, Closures: s.Closures, Wanted: []WantedLine{}, Dates: f.dates(s), Ways: []WayLine{}, Units: []state.Named{},
		Line: SeasonLine{ID: s.ID, Name: s.Name, Start: s.Start, End: s.End(), Weeks: s.Weeks, Planned: s.Plan != nil}}
	p, _ := f.problem(s, page.Today)
	if s.Plan != nil {
		page.Breaks = f.breaksIn(p, *s.Plan)
		page.Scores = scoreLines(s.Plan.Scores)
		page.Waiting = len(f.unpublished(s))
	}
	if s.Published != nil {
		page.Published = s.Published.Number
	}
	for _, w := range s.Wanted {
		unit, _ := f.Unit(w.Unit)
		page.Wanted = append(page.Wanted, WantedLine{w.Unit, unit.Name, w.Week})
	}
	for _, x := range f.Units {
		page.Units = append(page.Units, state.Named{ID: x.ID, Name: x.Name})
	}
	for _, t := range p.Tracks {
		page.Ways = append(page.Ways, WayLine{t.ID, f.Tracks[t.ID].Name, t.Mode, t.School})
	}
	f.grid(&page, s)
	page.Explained = Explained{Students: len(p.Students), Need: f.Settings.SeasonNeed, Formula: coverageFormula}
	for _, st := range p.Students {
		page.Explained.Needs += len(st.Open)
	}
	if s.Plan == nil {
		return page, nil
	}
	for _, x := range s.Plan.Unplaced {
		unit, _ := f.Unit(x.Unit)
		page.Unplaced = append(page.Unplaced, UnplacedLine{x.Unit, unit.Name, say.Recall(x.Why, season.TooLong, season.NobodySignedOff, season.StandsOnNothing, state.NotForTrack)})
	}
	page.Line.Coverage, page.AsPlanned = f.shares(&page, p, *s.Plan), s.Plan.Coverage
	if math.Abs(page.Line.Coverage-page.AsPlanned) < sameCoverage {
		page.Bound = s.Plan.Bound
	}
	f.load(&page, p, *s.Plan)
	return page, nil
}

func (f *snapshot) grid(page *SeasonPage, s academy.Season) {
	for w := 1; w <= s.Weeks; w++ {
		week := SeasonWeek{Week: w, Start: s.Start + calendar.Day(7*(w-1))}
		for _, c := range s.Closures {
			if c.Week == w && c.Class == "" {
				week.Closed = cmp.Or(c.Why, "closed")
			}
		}
		for _, d := range s.DatesOn(w) {
			week.Dates = append(week.Dates, say.F("%s, %s", d.Name, d.On))
		}
		page.Weeks = append(page.Weeks, week)
	}
	for _, c := range f.Classes {
		row := SeasonRow{Class: c.ID, Name: c.Name, Track: f.Tracks[c.Track].Name, Day: c.Weekday, Start: c.Start}
		for w := 1; w <= s.Weeks; w++ {
			cell := f.seasonCell(page, s, c, w)
			if f.Tracks[c.Track].Mode == "same" {
				cell.SameAs = sameAs(page.Rows, row.Track, cell)
			}
			row.Cells = append(row.Cells, cell)
		}
		page.Rows = append(page.Rows, row)
	}
}

// sameAs is the first class above, of the same track and week, that teaches the same.
func sameAs(above []SeasonRow, track string, cell Cell) string {
	for _, r := range above {
		if r.Track == track && len(cell.Items) > 0 && slices.Equal(r.Cells[cell.Week-1].Items, cell.Items) {
			return r.Class
		}
	}
	return ""
}

func (f *snapshot) seasonCell(page *SeasonPage, s academy.Season, c academy.Class, week int) Cell {
	cell := Cell{Week: week, Class: c.ID, On: s.DayOf(week, c), State: "empty", Items: []state.CellItem{}}
	if why, closed := s.Closed(week, c.ID); closed {
		cell.State, cell.Why = "closed", cmp.Or(why, "closed")
		return cell
	}
	if !c.Meets(cell.On) {
		cell.State, cell.Why = "closed", "not in the timetable"
		return cell
	}
	if s.Plan != nil {
		if x, ok := s.Plan.Find(week, c.ID); ok {
			cell = *f.cellOf(&x)
			cell.On, cell.State = s.DayOf(week, c), "planned"
			if x.Lead == "" && cell.On >= page.Today {
				page.NoCoach++
			}
			for _, it := range cell.Items {
				if !slices.Contains(page.Areas, it.Area) {
					page.Areas = append(page.Areas, it.Area)
				}
			}
		}
	}
	if cell.On < page.Today {
		cell.State = "past"
	}
	cell.Pinned = slices.Contains(s.Pins, repair.Spot{Week: week, Class: c.ID})
	for _, b := range page.Breaks {
		if b.Week == week && b.Class == c.ID {
			cell.Breaks = append(cell.Breaks, b.What)
		}
	}
	return cell
}

// scoreLines names what the goal full counts.
func scoreLines(scores map[string]float64) []ScoreLine {
	all := []ScoreLine{}
	for _, x := range []ScoreLine{
		{"spacing", 0, model.WeightSpacing, "Of the times a unit should come back to a track, the share that does"},
		{"school", 0, model.WeightSchool, "Of two weeks in a row, the share that stays in an area (block) or leaves it (spiral)"},
		{"focus", 0, model.WeightFocus, "Classes with at most three units"},
		{"continuity", 0, model.WeightContinuity, "Of two weeks in a row in one area, the share with the same coach"},
		{"fairness", 0, model.WeightFairness, "How close the coaches' shares of classes are to what was asked"},
	} {
		if v, ok := scores[x.Name]; ok {
			x.Value = v
			all = append(all, x)
		}
	}
	return all
}

func (f *snapshot) cellOf(x *season.Placement) *Cell {
	if x == nil {
		return nil
	}
	cell := &Cell{Week: x.Week, Class: x.Class, State: "planned", LeadID: x.Lead, Items: []state.CellItem{}}
	if p, ok := f.Person[x.Lead]; ok {
		cell.Lead = p.Initials()
	}
	for _, it := range x.Items {
		u, _ := f.Unit(it.Unit)
		cell.Items = append(cell.Items, state.CellItem{Unit: it.Unit, Name: u.Name, Kind: it.Kind, Area: u.Area})
	}
	return cell
}

// sameCoverage is how far what was computed when a season was planned may be off what is computed now: numbers are shown in whole per cent.
const sameCoverage = 0.0005

// shares is what each student is expected to be covered, and the coverage of all: by what they have and how often they come now.
func (f *snapshot) shares(page *SeasonPage, p season.Problem, plan season.Plan) float64 {
	covered, each := season.Coverage(p, plan.Placements)
	for _, st := range p.Students {
		person := f.Person[st.ID]
		rank := f.RankOf(person)
		line := StudentShare{ID: st.ID, Name: person.Name, Belt: rank.Belt, Rank: rank.Name, Mean: meanOf(each, st.ID), Lowest: []UnitShare{}}
		for _, c := range each {
			if c.Student == st.ID {
				u, _ := f.Unit(c.Unit)
				line.Lowest = append(line.Lowest, UnitShare{u.Name, c.Chance})
			}
		}
		slices.SortStableFunc(line.Lowest, func(a, b UnitShare) int { return cmp.Compare(a.Chance, b.Chance) })
		line.Lowest = line.Lowest[:min(3, len(line.Lowest))]
		page.Students = append(page.Students, line)
	}
	slices.SortStableFunc(page.Students, func(a, b StudentShare) int { return cmp.Compare(a.Mean, b.Mean) })
	return covered
}

func (f *snapshot) load(page *SeasonPage, problem season.Problem, plan season.Plan) {
	for _, p := range f.Active() {
		if p.Coach == nil {
			continue
		}
		l := LoadLine{ID: p.ID, Name: p.Name, Wanted: p.Coach.Share, Limit: p.Coach.MaxPerWeek}
		weekly := map[int]int{}
		l.Weeks, l.Out = make([]int, problem.Weeks), []int{}
		for _, c := range problem.Coaches {
			for _, o := range c.Out {
				if c.ID == p.ID && o.Class == "" {
					l.Out = append(l.Out, o.Week)
				}
			}
		}
		for _, x := range plan.Placements {
			if x.Lead == p.ID {
				l.Classes++
				weekly[x.Week]++
				l.Weeks[x.Week-1]++
				l.Most = max(l.Most, weekly[x.Week])
			}
		}
		if len(plan.Placements) > 0 {
			l.Share = float64(l.Classes) / float64(len(plan.Placements))
		}
		page.Load = append(page.Load, l)
	}
}

// WhyPage explains one placement.
type WhyPage struct {
	Cell     Cell       `json:"cell"`
	Class    string     `json:"class"`
	Track    string     `json:"track"`
	Start    string     `json:"start"`
	Lead     string     `json:"lead"`
	Minutes  int        `json:"minutes" doc:"Minutes its items take"`
	Of       int        `json:"of" doc:"Minutes for teaching in this class"`
	Items    []WhyItem  `json:"items"`
	Coverage float64    `json:"coverage"`
	Bound    float64    `json:"bound"`
	LeadWhy  []CoachWhy `json:"lead_why"`
	Expected float64    `json:"expected" doc:"How many students are expected that night"`
	Session  string     `json:"session" doc:"The occurrence"`
}

// WhyItem explains one unit of it.
type WhyItem struct {
	Unit       string         `json:"unit"`
	Name       string         `json:"name"`
	Kind       string         `json:"kind"`
	Techniques []state.Named  `json:"techniques"`
	WaitsFor   []StandLine    `json:"waits_for"`
	Opens      []string       `json:"opens"`
	Gains      []explain.Gain `json:"gains"`
	Worth      float64        `json:"worth"`
	Instead    say.Sentence   `json:"instead,omitempty"`
	InsteadGot float64        `json:"instead_coverage"`
}

// StandLine is something it stands on.
type StandLine struct {
	Name string `json:"name"`
	Week int    `json:"week" doc:"0 when the track is assumed to know it"`
}

// CoachWhy is a coach and why they do not lead.
type CoachWhy struct {
	ID   string       `json:"id"`
	Name string       `json:"name"`
	Why  say.Sentence `json:"why"`
}

// Why explains one class of a plan.
func (a *Service) Why(ctx context.Context, u state.User, id string, week int, class string) (WhyPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return WhyPage{}, err
	}
	s, err := f.shown(u, id)
	if err != nil {
		return WhyPage{}, err
	}
	c, ok := f.Class(class)
	if !ok || week < 1 || week > s.Weeks {
		return WhyPage{}, state.NotFound("class", class)
	}
	p, _ := f.problem(s, f.Today())
	dummy := SeasonPage{Today: f.Today()}
	if s.Plan != nil {
		dummy.Breaks = f.breaksIn(p, *s.Plan)
	}
	page := WhyPage{Cell: f.seasonCell(&dummy, s, c, week), Class: c.Name, Track: f.Tracks[c.Track].Name, Start: c.On(s.DayOf(week, c)).Start, Of: c.On(s.DayOf(week, c)).TeachMinutes, Items: []WhyItem{}, LeadWhy: []CoachWhy{}, Session: academy.Occurrence(class, s.DayOf(week, c))}
	for _, st := range p.Students {
		page.Expected += st.Chance[class]
	}
	if s.Plan == nil {
		return page, nil
	}
	page.Coverage, _ = season.Coverage(p, s.Plan.Placements)
	page.Bound = s.Plan.Bound
	page.Lead = f.NameOf(page.Cell.LeadID)
	for i, it := range page.Cell.Items {
		r, ok := explain.Why(p, *s.Plan, week, class, it.Unit)
		if !ok {
			continue
		}
		page.Items = append(page.Items, f.whyItem(it, r))
		unit, _ := f.Unit(it.Unit)
		page.Minutes += minutesOf(unit, it.Kind)
		if i == 0 {
			for _, o := range r.LeadWhy {
				page.LeadWhy = append(page.LeadWhy, CoachWhy{o.Coach, f.NameOf(o.Coach), cmp.Or(o.Why, "could; has led more for their share, or is needed elsewhere that week")})
			}
		}
	}
	return page, nil
}

func minutesOf(u academy.Unit, kind string) int {
	if kind == season.Review {
		return u.ReviewMinutes
	}
	return u.Minutes
}

func (f *snapshot) whyItem(it state.CellItem, r explain.Reason) WhyItem {
	unit, _ := f.Unit(it.Unit)
	w := WhyItem{Unit: it.Unit, Name: it.Name, Kind: it.Kind, Techniques: f.named(unit.Techniques), WaitsFor: []StandLine{}, Opens: []string{}, Gains: []explain.Gain{}, Worth: r.Worth}
	for _, x := range r.WaitsFor {
		u, _ := f.Unit(x.Unit)
		w.WaitsFor = append(w.WaitsFor, StandLine{u.Name, x.Week})
	}
	for _, x := range r.Opens {
		u, _ := f.Unit(x)
		w.Opens = append(w.Opens, u.Name)
	}
	for _, g := range r.Gains[:min(5, len(r.Gains))] {
		g.Student = f.NameOf(g.Student)
		w.Gains = append(w.Gains, g)
	}
	if r.Instead != nil {
		u, _ := f.Unit(r.Instead.Unit)
		w.Instead, w.InsteadGot = state.ItemWord(r.Instead.Kind, u.Name), r.Instead.Coverage
	}
	return w
}

func (f *snapshot) named(techniques []string) []state.Named {
	all := []state.Named{}
	for _, t := range techniques {
		all = append(all, state.Named{ID: t, Name: f.Library.Name(t)})
	}
	return all
}
