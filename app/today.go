package app

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"vereda/app/classes"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
)

// TodayPage is what needs a person now, and the week around it. Nothing of it is kept: it is computed from what is, and a line is gone once its matter is.
type TodayPage struct {
	On     calendar.Day  `json:"on"`
	Lines  []TodayLine   `json:"lines" doc:"The most pressing first"`
	Days   []TodayDay    `json:"days" doc:"The seven days from today on"`
	Season *TodaySeason  `json:"season,omitempty" doc:"The one that runs"`
	Later  []state.Named `json:"later" doc:"Seasons that are not begun"`
}

// TodayLine is one thing that needs a person, why, and what settles it.
type TodayLine struct {
	Area   string        `json:"area" enum:"Mat,Season,Ledger,People,Curricula,Library"`
	What   say.Sentence  `json:"what"`
	Why    say.Sentence  `json:"why"`
	Action say.Sentence  `json:"action" doc:"What settles it, as a button says it"`
	To     string        `json:"to" doc:"The page on which it is settled"`
	Due    *calendar.Day `json:"due,omitempty"`
	weight int
}

// TodayDay is a day with its classes.
type TodayDay struct {
	On      calendar.Day `json:"on"`
	Classes []TodayClass `json:"classes"`
}

// TodayClass is a class of the week.
type TodayClass struct {
	state.ClassSummary
	Expected float64 `json:"expected" doc:"People, by their chances of coming"`
}

// TodaySeason is the season that runs.
type TodaySeason struct {
	seasons.SeasonLine
	Week      int `json:"week"`
	Published int `json:"published" doc:"How often it was published; 0 while it is not"`
}

// snapshot is what is known of an academy, read across all of its areas.
type snapshot struct{ *state.Snapshot }

// desk gathers the lines of one page.
type desk struct {
	app  *App
	f    *snapshot
	u    state.User
	on   calendar.Day
	page TodayPage
}

// Days in the lines: with the day of the week where one may have been there.
const (
	longDay  say.Sentence = "Monday 2 January"
	shortDay say.Sentence = "2 January"
)

// How much a thing matters besides when it is due; a day off adds to it.
const (
	someoneIsHurt = 70
	classIsOpen   = 65
	planIsBroken  = 60
	recordIsOpen  = 50
	decisionWaits = 40
	worthLooking  = 20
)

func (d *desk) add(area string, weight int, due calendar.Day, what, why, action say.Sentence, to string) {
	x := TodayLine{Area: area, What: what, Why: why, Action: action, To: to, weight: weight}
	if due > 0 {
		x.Due = &due
		switch away := due - d.on; {
		case away <= 0:
			x.weight += 30
		case away <= 2:
			x.weight += 20
		case away <= 7:
			x.weight += 10
		}
	}
	d.page.Lines = append(d.page.Lines, x)
}

// Today is the first page of whoever works here: the head instructor sees all that waits, a coach what is theirs, the desk what the door needs.
func (a *App) Today(ctx context.Context, u state.User) (TodayPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TodayPage{}, err
	}
	d := &desk{app: a, f: f, u: u, on: f.Today()}
	d.page = TodayPage{On: d.on, Lines: []TodayLine{}, Days: []TodayDay{}, Later: []state.Named{}}
	if err := d.week(ctx); err != nil {
		return TodayPage{}, err
	}
	d.unreported()
	d.holds()
	if u.Is(state.Head, state.Desk) {
		d.guests()
		d.unknown()
	}
	if u.Is(state.Head, state.Coach) {
		if err := d.sticking(ctx); err != nil {
			return TodayPage{}, err
		}
	}
	if u.Is(state.Head) {
		for _, look := range []func(context.Context) error{d.season, d.ranks, d.fading, d.stopping, d.testDays} {
			if err := look(ctx); err != nil {
				return TodayPage{}, err
			}
		}
		d.drafts()
	} else if err := d.showSeason(ctx); err != nil {
		return TodayPage{}, err
	}
	slices.SortStableFunc(d.page.Lines, func(x, y TodayLine) int { return cmp.Compare(y.weight, x.weight) })
	return d.page, nil
}

// week lists the classes to come, and asks for what they miss.
func (d *desk) week(ctx context.Context) error {
	days, err := d.app.Classes.Week(ctx, d.u, &d.on, true)
	if err != nil {
		return err
	}
	chances, students := d.f.Chances(d.on), d.f.Students()
	running := slices.ContainsFunc(d.f.Seasons, func(s academy.Season) bool {
		return s.Stands() != nil && d.on >= s.Start && d.on < s.Start+calendar.Day(7*s.Weeks)
	})
	for _, day := range days {
		out := TodayDay{On: day.On, Classes: []TodayClass{}}
		for _, c := range day.Classes {
			class, _, _ := academy.SplitOccurrence(c.Session)
			expected := 0.0
			for _, p := range students { // in their order: sums of shares depend on it
				expected += chances[p.ID][class].Chance
			}
			out.Classes = append(out.Classes, TodayClass{c, expected})
			d.class(day, c, running)
		}
		d.page.Days = append(d.page.Days, out)
	}
	return nil
}

func (d *desk) class(day classes.Day, c state.ClassSummary, running bool) {
	name := say.F("%s, %s %s", c.Name, when(day.On, d.on), c.Start)
	about := lower(c.Summary)
	switch {
	case c.State == "no coach" && d.u.Is(state.Head):
		d.add("Mat", classIsOpen, day.On, say.F("%s has no coach", name), say.F("It is to %s, and nobody is named to lead it.", about), "Name a coach", "/mat/"+c.Session)
	case c.State == "no coach" && d.u.Is(state.Coach):
		d.add("Mat", worthLooking, day.On, say.F("%s has no coach", name), say.F("It is to %s.", about), "Look at it", "/mat/"+c.Session)
	case c.State == "not planned" && (running && d.u.Is(state.Head) || day.On == d.on && d.u.Is(state.Head, state.Coach)):
		d.add("Mat", recordIsOpen, day.On, say.F("%s teaches nothing yet", name), "No plan has anything for it.", "Choose what it teaches", "/mat/"+c.Session)
	case c.Mine && c.State == "ready" && day.On <= d.on+1:
		d.add("Mat", classIsOpen, day.On, say.F("You lead %s", name), say.F("It is to %s.", about), "Open the brief", "/mat/"+c.Session)
	}
}

// when says a day as one does who stands a few days before it.
func when(day, on calendar.Day) say.Sentence {
	switch day - on {
	case 0:
		return "today at"
	case 1:
		return "tomorrow at"
	}
	return day.As("Monday")
}

func lower(s say.Sentence) say.Sentence {
	if s == "" {
		return "teach something"
	}
	return s.Lower()
}

// unreported are classes of the last two weeks of which nobody said what was taught.
func (d *desk) unreported() {
	if !d.u.Is(state.Head, state.Coach) {
		return
	}
	type open struct {
		session, name string
		on            calendar.Day
	}
	var all []open
	for on := d.on - 14; on < d.on; on++ {
		for _, c := range d.f.ClassesOn(on) {
			s := d.f.Summary(c, on, d.on, d.u)
			plan := d.f.SessionPlan(c, on)
			if s.State == "not recorded" && len(plan.Items) > 0 && (d.u.Is(state.Head) || s.Mine) {
				all = append(all, open{s.Session, c.Name, on})
			}
		}
	}
	if len(all) == 0 {
		return
	}
	first := all[0]
	what := say.F("%s of %s was not reported", first.name, first.on.As(longDay))
	if len(all) > 1 {
		what = say.F("%d classes were not reported, the first %s of %s", len(all), first.name, first.on.As(longDay))
	}
	d.add("Mat", recordIsOpen, d.on, what, "Until somebody says what was reached, the ledger goes by the plan and nobody’s standing moves.", "Report it", "/mat/"+first.session)
}

// holds are people held from something until a clinician clears them.
func (d *desk) holds() {
	for _, p := range d.f.Students() {
		for _, h := range p.Holds {
			if !h.Active(d.on) {
				continue
			}
			line := d.f.Line(p, d.u, d.on)
			since := int(d.on - h.From)
			what := say.F("%s is held", p.Name)
			if line.Held != "" {
				what = say.F("%s: %s", p.Name, line.Held)
			}
			why := say.F("Since %s. It ends with a clinician’s clearance, not with time.", h.From.As(shortDay))
			weight, action := worthLooking, say.Sentence("Look at it")
			if d.u.Is(state.Head) {
				action = "Enter the clearance"
				if since > 28 {
					weight = decisionWaits
					why = say.F("For %d weeks. Ask how it goes; it ends with a clinician’s clearance.", since/7)
				}
			}
			if since <= 7 {
				weight = someoneIsHurt
			}
			d.add("People", weight, 0, what, why, action, "/people/"+p.ID)
			break
		}
	}
}

// guests are people who came to try and were here in the last two weeks.
func (d *desk) guests() {
	for _, p := range d.f.Active() {
		if p.Guest != "trial" {
			continue
		}
		visits := d.f.Visits(p.ID)
		if n := len(visits); n > 0 && visits[n-1].On >= d.on-14 {
			d.add("People", decisionWaits, visits[n-1].On+3, say.F("%s came to try a class", p.Name), say.F("On %s, %s. Ask whether they stay.", visits[n-1].On.As(longDay), say.N(n, "%d class", "%d classes")), "Add them", "/people/"+p.ID)
		}
	}
}

// unknown are students whose age nobody wrote down: they count as minors until somebody does.
func (d *desk) unknown() {
	var all []string
	first := ""
	for _, p := range d.f.Students() {
		if p.Birth == nil {
			all = append(all, p.Name)
			first = cmp.Or(first, p.ID)
		}
	}
	if len(all) > 0 {
		d.add("People", worthLooking, 0, say.F("No date of birth: %s", few(all)), "Until it is known they are treated as minors, with all gates closed.", "Ask and write it down", "/people/"+first)
	}
}

// few names some of a list and counts the rest.
func few(all []string) say.Sentence { return say.Few(say.Raws(all), 3) }

// sticking are faults that a class after class shows.
func (d *desk) sticking(ctx context.Context) error {
	page, err := d.app.Classes.Sticking(ctx, d.u, classes.StickingFilter{})
	if err != nil {
		return err
	}
	for i, p := range page.Points {
		if i == 2 || p.Low < 0.25 {
			break
		}
		d.add("Ledger", worthLooking, 0, say.F("%s: %s", p.Name, strings.TrimSuffix(p.What, ".")), say.F("Seen in %d of %d tries in the classes since %s. %s", p.Seen, p.Tries, page.From.As(shortDay), p.Correction), "Put it into a class", "/ledger/sticking-points")
	}
	return nil
}

// showSeason finds the season that runs.
func (d *desk) showSeason(ctx context.Context) error {
	all, err := d.app.Seasons.Seasons(ctx, d.u)
	if err != nil {
		return err
	}
	for _, s := range all {
		switch {
		case d.on >= s.Start && d.on <= s.End && d.page.Season == nil:
			full, err := d.f.FindSeason(s.ID)
			if err != nil {
				return err
			}
			d.page.Season = &TodaySeason{SeasonLine: s, Week: full.WeekOf(d.on)}
			if full.Published != nil {
				d.page.Season.Published = full.Published.Number
			}
		case s.Start > d.on:
			d.page.Later = append(d.page.Later, state.Named{ID: s.ID, Name: s.Name})
		}
	}
	return nil
}

// season asks what its plan needs: broken rules, changes nobody was told of, what was not reached, what comes after it.
func (d *desk) season(ctx context.Context) error {
	if err := d.showSeason(ctx); err != nil {
		return err
	}
	s := d.page.Season
	if s == nil {
		if len(d.page.Later) == 0 {
			d.add("Season", decisionWaits, 0, "No season runs", "Classes teach what is chosen for each by hand, and nothing says who will miss what.", "Make a season", "/season")
		}
		return nil
	}
	to := "/season/" + s.ID
	if !s.Planned {
		d.add("Season", planIsBroken, d.on, say.F("%s has no plan", s.Name), "It has begun, and no class knows what it teaches.", "Plan it", to)
		return nil
	}
	page, err := d.app.Seasons.Season(ctx, d.u, s.ID)
	if err != nil {
		return err
	}
	hard := slices.DeleteFunc(slices.Clone(page.Breaks), func(b seasons.BreachLine) bool { return b.Own })
	if len(hard) > 0 {
		d.add("Season", planIsBroken, d.on, say.F("The plan of %s breaks %s", s.Name, say.N(len(hard), "%d rule", "%d rules")), say.F("The first in week %d, %s: %s", hard[0].Week, hard[0].Name, hard[0].What), "Fix it", to)
	}
	switch {
	case page.Published == 0:
		d.add("Season", planIsBroken, d.on, say.F("%s is not published", s.Name), "It runs, and no coach was given it.", "Publish it", to+"?view=publish")
	case page.Waiting > 0:
		d.add("Season", decisionWaits, d.on, say.N(page.Waiting, "%d class differs from what the coaches have", "%d classes differ from what the coaches have"), "The plan was changed since it was published.", "Publish the changes", to+"?view=publish")
	}
	if err := d.unreached(ctx, s, to); err != nil {
		return err
	}
	if left := s.End - d.on; left <= 21 && len(d.page.Later) == 0 {
		d.add("Season", decisionWaits, s.End, say.F("%s ends on %s", s.Name, s.End.As(shortDay)), "Nothing is planned after it.", "Make the next season", "/season")
	}
	return nil
}

// unreached are units that a class was to teach, did not reach, and that no class to come teaches again.
func (d *desk) unreached(ctx context.Context, s *TodaySeason, to string) error {
	taught, err := d.app.Seasons.Taught(ctx, d.u, s.ID)
	if err != nil {
		return err
	}
	if n := taught.Totals.Not; n > 0 {
		d.add("Season", recordIsOpen, 0, say.N(n, "%d planned unit was not reached this season", "%d planned units were not reached this season"), "The plan goes on as if they had been taught, until it is repaired.", "See which, and repair", to+"?view=taught")
	}
	return nil
}

// ranks are those who have all that their next rank asks, and those whose age moves them on.
func (d *desk) ranks(ctx context.Context) error {
	all, err := d.app.People.Candidates(ctx, d.u)
	if err != nil {
		return err
	}
	var ready []say.Sentence
	for _, c := range all {
		if c.Readiness.Ready && c.Next != "" && c.Person.Held == "" {
			ready = append(ready, say.F("%s for %s", c.Person.Name, c.Next))
		}
		if c.Onward != nil {
			d.add("People", decisionWaits, d.on, say.F("%s has come of age to move on", c.Person.Name), say.F("By the rule of their ladder to %s. The bridge list says what they were never asked.", c.Onward.Summary), "See the bridge list", d.bridge(c.Person.Ladder))
		}
	}
	if len(ready) > 0 {
		d.add("People", decisionWaits, 0, say.F("Ready for the next rank: %s", say.Few(ready, 3)), "All that is asked is there, with the time and the classes. The decision is yours.", "Decide", "/people/promotions")
	}
	return nil
}

// bridge is the page with what those of a ladder catch up.
func (d *desk) bridge(ladder string) string {
	for _, c := range d.f.CurriculumLines() {
		if c.LadderID == ladder {
			return "/curricula/" + c.ID + "?view=ladder"
		}
	}
	return "/curricula"
}

func (d *desk) fading(ctx context.Context) error {
	page, err := d.app.Students.Fading(ctx, d.u)
	if err != nil || page.Due == 0 {
		return err
	}
	most := map[string]int{}
	for _, r := range page.Rows {
		for _, l := range r.Lowest {
			most[l.Name]++
		}
	}
	names := make([]string, 0, len(most))
	for n := range most {
		names = append(names, n)
	}
	slices.SortFunc(names, func(a, b string) int { return cmp.Or(most[b]-most[a], strings.Compare(a, b)) })
	d.add("Ledger", worthLooking, 0, say.N(page.Due, "%d standing is due for a refresh", "%d standings are due for a refresh"), say.F("What fades most: %s.", few(names)), "See by class to come", "/ledger?view=fading")
	return nil
}

func (d *desk) stopping(ctx context.Context) error {
	page, err := d.app.Students.Stopping(ctx, d.u)
	if err != nil || len(page.Rows) == 0 {
		return err
	}
	var names []string
	for _, r := range page.Rows {
		names = append(names, r.Name)
	}
	d.add("People", decisionWaits, 0, say.F("Comes less than before: %s", few(names)), "Against their own past, more than chance explains. A word now is worth more than one in spring.", "See how much less", "/ledger?view=stopping")
	return nil
}

func (d *desk) testDays(ctx context.Context) error {
	all, err := d.app.Students.TestDays(ctx, d.u)
	if err != nil {
		return err
	}
	for _, x := range all {
		switch {
		case x.On >= d.on && x.On <= d.on+14:
			d.add("Ledger", decisionWaits, x.On, say.F("%s is on %s", x.Name, x.On.As(longDay)), say.F("%s, %s.", say.N(x.People, "%d person", "%d people"), say.N(x.Tests, "%d test", "%d tests")), "Print the sheets", "/ledger?view=tests&day="+x.ID)
		case x.On < d.on && x.On >= d.on-14 && x.Done > 0:
			d.add("People", decisionWaits, x.On, say.F("%s is over", x.Name), say.F("%d of %d tests were checked.", x.Done, x.Tests), "Decide the ranks", "/people/promotions")
		}
	}
	return nil
}

// drafts are curricula that wait to be published.
func (d *desk) drafts() {
	for _, c := range d.f.CurriculumLines() {
		if c.State != "draft" {
			continue
		}
		why, action := say.Sentence("The audit has nothing against it."), say.Sentence("Publish it")
		if c.Blocks > 0 {
			why = say.N(c.Blocks, "The audit names %d thing that keeps it from being published.", "The audit names %d things that keep it from being published.")
			action = "See the audit"
		}
		d.add("Curricula", worthLooking, 0, say.F("%s %s, version %d, is a draft", c.Ladder, c.Rank, c.Version), why, action, "/curricula/"+c.ID)
	}
}
