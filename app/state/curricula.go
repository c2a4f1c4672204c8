package state

import (
	"cmp"
	"slices"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
)

// CurriculumLine is a curriculum as a list shows one.
type CurriculumLine struct {
	ID       string `json:"id"`
	Ladder   string `json:"ladder"`
	LadderID string `json:"ladder_id"`
	Rank     string `json:"rank"`
	RankID   string `json:"rank_id"`
	Belt     string `json:"belt"`
	State    string `json:"state" enum:"draft,published,retired"`
	Version  int    `json:"version"`
	Count    int    `json:"count"`
	Students int    `json:"students" doc:"Who works on it"`
	Blocks   int    `json:"blocks" doc:"Findings that keep it from being published"`
	Findings int    `json:"findings" doc:"All that are not accepted"`
}

func (f *Snapshot) CurriculumLine(c curriculum.Curriculum) CurriculumLine {
	l := f.Ladders[c.Ladder]
	line := CurriculumLine{ID: c.ID, Ladder: l.Name, LadderID: l.ID, State: c.State, Version: c.Version, Count: len(c.Requirements)}
	if i := l.Position(c.Rank); i >= 0 {
		line.Rank, line.RankID, line.Belt = l.Ranks[i].Name, c.Rank, l.Ranks[i].Belt
	}
	line.Students = len(f.WorksOn(c.ID))
	for _, x := range f.Audit(c) {
		if x.Accepted != "" {
			continue
		}
		line.Findings++
		if x.Severity == curriculum.Blocks {
			line.Blocks++
		}
	}
	return line
}

// worksOn lists the students whose next rank is asked by a curriculum.
func (f *Snapshot) WorksOn(id string) []academy.Person {
	var all []academy.Person
	for _, p := range f.Students() {
		if asked, _, ok := f.CurriculumFor(p); ok && asked.ID == id {
			all = append(all, p)
		}
	}
	return all
}

// audit judges a curriculum; the answer is kept until something changes.
func (f *Snapshot) Audit(c curriculum.Curriculum) []curriculum.Finding {
	compute := func() judgedCurriculum {
		supply := f.Supply(c)
		found := curriculum.Case{Curriculum: c, All: f.Curricula, Ladder: f.Ladders[c.Ladder], Library: f.Library, Gates: f.Settings.Gates, RequiredCells: f.Settings.RequiredCells, Supply: &supply}.Audit()
		if found == nil {
			found = []curriculum.Finding{}
		}
		return judgedCurriculum{c, found}
	}
	if had := Remember(f, auditOf(c.ID), compute); sameRequirements(had.of, c) {
		return had.found
	}
	return compute().found
}

// auditOf names what is remembered of a curriculum.
type auditOf string

type judgedCurriculum struct {
	of    curriculum.Curriculum
	found []curriculum.Finding
}

// sameRequirements says whether two are one and the same list in memory.
func sameRequirements(a, b curriculum.Curriculum) bool {
	same := len(a.Requirements) == len(b.Requirements) && len(a.Accepted) == len(b.Accepted)
	return same && (len(a.Requirements) == 0 || &a.Requirements[0] == &b.Requirements[0]) && (len(a.Accepted) == 0 || &a.Accepted[0] == &b.Accepted[0])
}

// ReviewShare is the part of the teaching that is taught again: the spacing's
// reviews at a third of the time each, of which a typical student meets half.
const ReviewShare = 0.35

// supply is what the timetable offers a typical student who works toward a
// rank: the teaching minutes of the classes open to them, times the mean chance of
// coming of those who are there now (of everybody where nobody is).
func (f *Snapshot) Supply(c curriculum.Curriculum) curriculum.Supply {
	l := f.Ladders[c.Ladder]
	at := l.Position(c.Rank)
	s := curriculum.Supply{ReviewShare: ReviewShare}
	if at < 0 {
		return s
	}
	s.Weeks = float64(l.Ranks[at].MinMonths) * 30.44 / 7
	chances := f.LastChances()
	sum, who := 0.0, 0
	for _, p := range f.Students() {
		if p.Ladder != l.ID || at > 0 && p.Rank != l.Ranks[at-1].ID {
			continue
		}
		who++
		for _, k := range f.Classes {
			sum += chances[p.ID][k.ID].Chance * float64(k.TeachMinutes)
		}
	}
	if who > 0 {
		s.MinutesPerWeek = sum / float64(who)
		return s
	}
	for _, k := range f.Classes {
		if t := f.Tracks[k.Track]; k.Until == nil && (t.Audience == "all" || t.Audience == "" || t.Audience == l.Audience) {
			s.MinutesPerWeek += 0.5 * float64(k.TeachMinutes)
		}
	}
	return s
}

// lastChances are everybody's chances of coming as of the newest report.
func (f *Snapshot) LastChances() map[string]map[string]Chance {
	type newest struct{}
	return Remember(f, newest{}, func() map[string]map[string]Chance {
		var last calendar.Day
		for _, c := range f.Classes {
			sessions := f.SessionsOf(c.ID)
			for i := len(sessions) - 1; i >= 0; i-- {
				if sessions[i].Report != nil {
					last = max(last, sessions[i].On)
					break
				}
			}
		}
		return f.Chances(last + 1)
	})
}

// RequirementLine is one requirement with what a reader wants to know of it.
type RequirementLine struct {
	curriculum.Requirement
	Name    string         `json:"name"`
	OrNames []string       `json:"or_names"`
	Kind    library.Kind   `json:"kind"`
	Family  library.Family `json:"family"`
	From    string         `json:"from,omitempty" doc:"The position it starts in"`
	Sided   bool           `json:"sided"`
	Minutes int            `json:"minutes" doc:"What it takes"`
}

func (f *Snapshot) RequirementLine(r curriculum.Requirement) RequirementLine {
	t, _ := f.Library.Technique(r.Technique)
	l := RequirementLine{Requirement: r, Name: f.Library.Name(r.Technique), OrNames: []string{}, Kind: t.Kind, Family: f.Library.Family(t), Sided: t.Taught != "", Minutes: curriculum.NeedsOf(r, f.Library, ReviewShare).Minutes}
	if t.From != nil {
		l.From = t.From.Position
	}
	for _, o := range r.Or {
		l.OrNames = append(l.OrNames, f.Library.Name(o))
	}
	return l
}

// CurriculumLines lists the curricula by ladder, rank and version.
func (f *Snapshot) CurriculumLines() []CurriculumLine {
	all := []CurriculumLine{}
	for _, l := range f.Ladders {
		for _, r := range l.Ranks {
			var here []curriculum.Curriculum
			for _, c := range f.Curricula {
				if c.Ladder == l.ID && c.Rank == r.ID {
					here = append(here, c)
				}
			}
			slices.SortStableFunc(here, func(x, y curriculum.Curriculum) int { return cmp.Compare(x.Version, y.Version) })
			for _, c := range here {
				all = append(all, f.CurriculumLine(c))
			}
		}
	}
	slices.SortStableFunc(all, func(x, y CurriculumLine) int { return cmp.Compare(x.Ladder, y.Ladder) })
	return all
}
