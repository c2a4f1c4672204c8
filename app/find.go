package app

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/library"
	"vereda/core/say"
)

// Found is one thing that was looked for from anywhere.
type Found struct {
	Kind string       `json:"kind" enum:"page,person,class,technique,position,fork table,curriculum,season,unit"`
	Name say.Sentence `json:"name"`
	Note say.Sentence `json:"note,omitempty" doc:"What tells it from others of that name"`
	To   string       `json:"to"`
	Like float64      `json:"like" doc:"How alike it is to what was written, 0 to 1"`
}

// mostFound is how many things are shown: one who has not found it by then writes another letter.
const mostFound = 12

// place is a page or an action, by the names people have for it, and the operation one must be allowed for it.
type place struct {
	name, also say.Sentence
	to, needs  string
}

var places = []place{
	{"Today", "start, home, desk, what needs me", "/today", "today"},
	{"Library", "techniques", "/library", "list-techniques"},
	{"Positions", "", "/library/positions", "list-positions"},
	{"Fork tables", "decision tables", "/library/fork-tables", "list-fork-tables"},
	{"Variants", "house choice", "/library/variants", "list-variant-sets"},
	{"Map of positions", "chain finder, shortest chain", "/library/map", "get-map"},
	{"Import and export the library", "markdown, csv, bundle, backup", "/library/files", "export-folder"},
	{"Technique cards", "print cards", "/cards", "get-technique"},
	{"Curricula", "ranks, requirements, audit, belts", "/curricula", "list-curricula"},
	{"Season", "plan, planner, timetable", "/season", "list-seasons"},
	{"Plan a season", "new season", "/season", "lay-season"},
	{"Units", "", "/season?view=units", "list-units"},
	{"Timetable and coaches", "classes, tracks, weekly classes, rules of a track", "/season?view=timetable", "get-timetable"},
	{"Read the plan", "story, line of a track", "/season?view=story", "season-story"},
	{"Who misses what", "", "/season?view=misses", "who-misses-what"},
	{"Publish the season", "tell the coaches, calendar", "/season?view=publish", "preview-publishing"},
	{"Mat", "tonight, class, attendance, check in", "/mat", "week"},
	{"Run a class", "clock, phone", "/run", "get-class"},
	{"Ledger", "who passed what, standing", "/ledger", "ledger-positions"},
	{"Check a student", "make a check, test", "/check", "get-check"},
	{"Sticking points", "faults seen often", "/ledger/sticking-points", "sticking-points"},
	{"What fades", "refresh, half-life, retention", "/ledger?view=fading", "ledger-fading"},
	{"When they will be ready", "outlook, readiness", "/ledger?view=ready", "ledger-outlook"},
	{"Test days", "grading day, examiners", "/ledger?view=tests", "list-test-days"},
	{"People", "students, members, roster", "/people", "list-people"},
	{"Ranks to decide", "promotions, belts, certificates", "/people/promotions", "list-candidates"},
	{"Academy", "settings, gates, segments", "/academy", "get-academy"},
	{"Accounts", "roles, sign-ins, invitations, passwords", "/academy/accounts", "list-accounts"},
	{"Your account", "password, second factor, devices", "/account", "get-account"},
}

// Find looks for anything by its name or what people call it, misspelt too: pages, people, classes, techniques, positions, fork tables,
// curricula, seasons and units, as far as may says that one is allowed to see them. Pages are
// found by their names in the reader's language too. Costs names × words, some 2 ms for 245 techniques and 300 people.
func (a *App) Find(ctx context.Context, u state.User, query string, in say.Language, may func(operation string) bool) ([]Found, error) {
	found := []Found{}
	if strings.TrimSpace(library.Fold(query)) == "" {
		return found, nil
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	add := func(kind string, name, note say.Sentence, to string, worth float64, also ...string) {
		best := library.Matches(query, name.In(in))
		for _, x := range also {
			best = max(best, 0.98*library.Matches(query, x))
		}
		if best > 0 {
			found = append(found, Found{kind, name, note, to, best * worth})
		}
	}
	for _, p := range places {
		if may(p.needs) {
			also := append(strings.Split(p.also.In(in), ", "), p.name.String())
			add("page", p.name, "", p.to, 1, append(also, strings.Split(p.also.String(), ", ")...)...)
		}
	}
	if may("list-people") {
		for _, p := range f.Active() {
			add("person", say.Raw(p.Name), say.Raw(f.RankOf(p).Name), "/people/"+p.ID, 0.99, p.Called)
		}
	}
	if may("get-class") {
		for _, c := range f.Classes {
			on := f.Today()
			for !slices.ContainsFunc(f.ClassesOn(on), func(x academy.Class) bool { return x.ID == c.ID }) && on < f.Today()+7 {
				on++
			}
			add("class", say.Raw(c.Name), say.F("%s %s", on, c.Start), "/mat/"+academy.Occurrence(c.ID, on), 0.98, c.Name+" "+on.As("Monday").In(in), f.Tracks[c.Track].Name)
		}
	}
	if may("list-techniques") {
		for _, h := range f.Library.Search(query) {
			note := h.Technique.Kind.Say()
			if h.Matched != h.Technique.Name {
				note = say.F("%s, also %s", note, h.Matched)
			}
			found = append(found, Found{"technique", say.Raw(h.Technique.Name), note, "/library/" + h.Technique.ID, h.Score * 0.97})
		}
		for _, p := range f.Library.Positions() {
			add("position", say.Raw(p.Name), say.Word(p.Family), "/library/positions/"+p.ID, 0.96, p.Aliases...)
		}
		for _, t := range f.Library.ForkTables() {
			add("fork table", say.Raw(t.Name), "", "/library/fork-tables/"+t.ID, 0.9)
		}
	}
	if may("list-curricula") {
		for _, c := range f.CurriculumLines() {
			if c.State != "retired" {
				add("curriculum", say.Raw(c.Ladder+", "+c.Rank), say.Word(c.State), "/curricula/"+c.ID, 0.92, c.Rank)
			}
		}
	}
	if may("get-season") {
		for _, s := range f.Seasons {
			add("season", say.Raw(s.Name), s.Start.Say(), "/season/"+s.ID, 0.92)
		}
	}
	if may("list-units") {
		for _, x := range f.Units {
			add("unit", say.Raw(x.Name), say.Word(x.Area), "/season?view=units&unit="+x.ID, 0.88)
		}
	}
	slices.SortStableFunc(found, func(x, y Found) int { return cmp.Compare(y.Like, x.Like) })
	return found[:min(len(found), mostFound)], nil
}
