package academies

import (
	"context"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// Setting is one of the academy's settings as a page shows it.
type Setting struct {
	Name    say.Sentence `json:"name"`
	Value   say.Sentence `json:"value"`
	Usual   say.Sentence `json:"usual" doc:"What it is where nothing else was set"`
	Range   say.Sentence `json:"range,omitempty"`
	Meaning say.Sentence `json:"meaning"`
	Source  say.Sentence `json:"source"`
}

// AcademyPage is the academy's own page.
type AcademyPage struct {
	Name     string             `json:"name"`
	Settings []Setting          `json:"settings"`
	Gates    []GateLine         `json:"gates"`
	Risks    []safety.Risk      `json:"risks"`
	Defers   say.Sentence       `json:"defers"`
	Counts   []say.Sentence     `json:"counts" doc:"How many of each it has"`
	Broken   []documents.Broken `json:"broken" doc:"Records that cannot be read and were set aside, for the head instructor"`

	Form       SettingsForm      `json:"form" doc:"What can be changed, as it is"`
	UsualForm  SettingsForm      `json:"usual_form" doc:"The same with the defaults"`
	Version    int               `json:"version"`
	Numbers    []academy.Number  `json:"numbers" doc:"The numbers of the form, with their bounds"`
	Segments   []mat.SegmentKind `json:"segments" doc:"Kinds of segments of a class, in their order"`
	Tracks     []state.Named     `json:"tracks"`
	Techniques []state.Named     `json:"techniques" doc:"Those that load something: a gate can be set for each"`

	RequiredCells []curriculum.RequiredCell `json:"required_cells" doc:"Cells of the position-by-kind matrix that may not be empty"`
	Usual         bool                      `json:"usual" doc:"The cells are the usual ones"`
	Families      []library.Family          `json:"families"`
	Kinds         []library.Kind            `json:"kinds"`
}

// GateLine is a gate in words.
type GateLine struct {
	Covers say.Sentence `json:"covers"`
	Loads  say.Sentence `json:"loads"`
	Age    say.Sentence `json:"age"`
	Rank   say.Sentence `json:"rank"`
	Escape say.Sentence `json:"escape" doc:"What an escape from it needs instead"`
	Tracks say.Sentence `json:"tracks"`
}

// Academy shows the academy's settings with their sources.
func (a *Service) Academy(ctx context.Context, u state.User) (AcademyPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return AcademyPage{}, err
	}
	s := f.Settings
	broken := []documents.Broken{}
	if u.Is(state.Head) {
		broken = append(broken, f.Broken...)
	}
	usual := academy.Settings{Zone: s.Zone, WeekStart: s.WeekStart, Gates: safety.UsualGates()}.WithDefaults()
	page := AcademyPage{Name: f.Name, Broken: broken, RequiredCells: s.RequiredCells, Usual: slices.Equal(s.RequiredCells, curriculum.DefaultRequiredCells), Families: library.Families, Kinds: curriculum.RequiredCellKinds(),
		Gates: f.gateLines(), Risks: safety.Risks, Defers: state.Defers, Settings: settingLines(s, usual), Form: formOf(s), UsualForm: formOf(usual), Version: f.Version(documents.Settings, "settings"),
		Numbers: academy.Numbers(), Segments: mat.SegmentKinds, Tracks: []state.Named{}, Techniques: []state.Named{}}
	for _, t := range f.Tracks {
		page.Tracks = append(page.Tracks, state.Named{ID: t.ID, Name: t.Name})
	}
	slices.SortFunc(page.Tracks, func(x, y state.Named) int { return strings.Compare(x.Name, y.Name) })
	for _, t := range f.Library.Techniques() {
		if len(t.Risks) > 0 {
			page.Techniques = append(page.Techniques, state.Named{ID: t.ID, Name: t.Name})
		}
	}
	page.Counts = []say.Sentence{say.N(len(f.Library.Positions()), "%d position", "%d positions"), say.N(len(f.Library.Techniques()), "%d technique", "%d techniques"),
		say.N(len(f.Library.ForkTables()), "%d fork table", "%d fork tables"), say.N(len(f.Students()), "%d student", "%d students"),
		say.N(f.ReportsKept(), "%d class recorded", "%d classes recorded"), say.N(f.Events, "%d event on record", "%d events on record")}
	return page, nil
}

// settingLines lists the settings with what they are and what they usually are.
func settingLines(s, usual academy.Settings) []Setting {
	lines := []Setting{}
	for _, n := range academy.Numbers() {
		lines = append(lines, Setting{n.Name, n.In(n.Of(s)), n.In(n.Default), n.Range(), n.Meaning, n.Source})
	}
	for _, kind := range slices.Sorted(maps.Keys(s.Standard.LiveShare)) {
		var share say.Sentence = "the share above"
		if x, ok := usual.Standard.LiveShare[kind]; ok {
			share = percent(x)
		}
		lines = append(lines, Setting{say.F("Live share: %s", say.Word(kind)), percent(s.Standard.LiveShare[kind]), share, say.F("%s to %s", percent(0), percent(1)), "The same for this kind alone: an escape that works one time in five is good work", "Wilson 1927"})
	}
	list := func(words []string) say.Sentence {
		if len(words) == 0 {
			return "none"
		}
		return say.F("%d: %s", len(words), say.Join(", ", say.Raws(words)...))
	}
	resistance := func(words []string) say.Sentence { return say.Join(", ", say.Words(words)...) }
	return append(lines,
		Setting{"Reviews after weeks", weeksWords(s.Spacing.Weeks), weeksWords(usual.Spacing.Weeks), "1 to 60", "Weeks after a unit was last seen", "House standard"},
		Setting{"Grades of resistance", resistance(s.Resistance), resistance(usual.Resistance), "", "The words for 0 to 4 in drills and checks", "House standard"},
		Setting{"Sign-offs", list(s.Signoffs), "none", "", "What a coach can be signed off to teach; units ask for one", "House standard"},
		Setting{"Second factor", yes(s.SecondFactor), "no", "", "Head instructors give a code besides their password", "House standard"})
}

func percent(share float64) say.Sentence { return say.Raw(state.Percent(share)) }

func yes(b bool) say.Sentence {
	if b {
		return "yes"
	}
	return "no"
}

func weeksWords(weeks []int) say.Sentence {
	words := make([]string, len(weeks))
	for i, w := range weeks {
		words[i] = strconv.Itoa(w)
	}
	return say.Raw(strings.Join(words, ", "))
}

func (f *snapshot) gateLines() []GateLine {
	lines := []GateLine{}
	for _, g := range f.Settings.Gates {
		l := GateLine{Covers: g.Class.Say(), Age: "any", Rank: "any", Escape: "the same", Tracks: "all"}
		if g.Technique != "" {
			l.Covers = say.Raw(f.Library.Name(g.Technique))
		}
		for _, r := range safety.Risks {
			if r.Class == g.Class {
				l.Loads = say.Join(", ", say.Words(r.Regions)...)
			}
		}
		rank := func(n int) say.Sentence {
			for _, ladder := range f.Ladders {
				if ladder.Audience == "adult" && (g.Ladder == "" || ladder.ID == g.Ladder) && n < len(ladder.Ranks) {
					return say.Raw(ladder.Ranks[n].Name)
				}
			}
			return say.F("%d", n+1)
		}
		if g.MinAge > 0 {
			l.Age = say.F("%d", g.MinAge)
		}
		if g.MinRank > 0 {
			l.Rank = rank(g.MinRank)
		}
		if g.EscapeAge != nil || g.EscapeRank != nil {
			var escape []say.Sentence
			if g.EscapeAge != nil {
				escape = append(escape, say.F("age %d", *g.EscapeAge))
			}
			if g.EscapeRank != nil {
				escape = append(escape, rank(*g.EscapeRank))
			}
			l.Escape = say.Join(", ", escape...)
		}
		if len(g.Tracks) > 0 {
			names := make([]string, len(g.Tracks))
			for i, t := range g.Tracks {
				names[i] = f.Tracks[t].Name
			}
			l.Tracks = say.Raw(strings.Join(names, ", "))
		}
		lines = append(lines, l)
	}
	return lines
}

// SetRequiredCells says which cells of the position-by-kind matrix may not be empty. Nil
// goes back to the usual ones; none at all is a choice too.
func (a *Service) SetRequiredCells(ctx context.Context, u state.User, cells []curriculum.RequiredCell) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if err := state.InvalidAll(curriculum.CheckRequiredCells(cells)); err != nil {
			return err
		}
		s := f.Settings
		s.RequiredCells = cells
		b.Summary = say.F("Set the cells that may not stay empty: %d", len(cells))
		if cells == nil {
			b.Summary = "Went back to the usual cells that may not stay empty"
		}
		return b.Put(documents.Settings, "settings", s)
	})
}

// SettingsForm is what of the settings a form holds.
type SettingsForm struct {
	Zone         string                   `json:"zone" maxLength:"64"`
	WeekStart    int                      `json:"week_start" minimum:"1" maximum:"7"`
	Numbers      map[string]float64       `json:"numbers" doc:"By key; one that is left out stays as it is"`
	LiveShare    map[library.Kind]float64 `json:"live_share"`
	Spacing      []int                    `json:"spacing" minItems:"1" maxItems:"10"`
	Resistance   []string                 `json:"resistance" minItems:"5" maxItems:"5"`
	Signoffs     []string                 `json:"signoffs" maxItems:"100"`
	SecondFactor bool                     `json:"second_factor"`
	Gates        []safety.Gate            `json:"gates" maxItems:"200"`
	Sheets       []academy.TrackSheet     `json:"sheets" maxItems:"100"`
}

func formOf(s academy.Settings) SettingsForm {
	x := SettingsForm{Zone: s.Zone, WeekStart: s.WeekStart, Numbers: map[string]float64{}, LiveShare: s.Standard.LiveShare, Spacing: s.Spacing.Weeks,
		Resistance: s.Resistance, Signoffs: append([]string{}, s.Signoffs...), SecondFactor: s.SecondFactor, Gates: s.Gates, Sheets: s.Sheets}
	for _, n := range academy.Numbers() {
		x.Numbers[n.Key] = n.Of(s)
	}
	return x
}

// onto gives the settings as the form has them, or what of it cannot be.
func (x SettingsForm) onto(s academy.Settings) (academy.Settings, error) {
	s.Zone, s.WeekStart, s.SecondFactor = x.Zone, x.WeekStart, x.SecondFactor
	s.Standard.LiveShare, s.Spacing.Weeks = x.LiveShare, x.Spacing
	s.Resistance, s.Signoffs, s.Gates, s.Sheets = x.Resistance, x.Signoffs, x.Gates, x.Sheets
	var found validation.Found
	known := map[string]bool{}
	for _, n := range academy.Numbers() {
		known[n.Key] = true
		if v, ok := x.Numbers[n.Key]; ok {
			if n.Step >= 1 && v != math.Trunc(v) {
				found.Bad("numbers."+n.Key, "%s: %g is not a whole number", n.Name, v)
			}
			if v == 0 && n.Least > 0 { // nought would mean the default
				found.Bad("numbers."+n.Key, "%s: 0 is outside %s", n.Name, n.Range())
			}
			n.Put(&s, v)
		}
	}
	for key := range x.Numbers {
		if !known[key] {
			found.Bad("numbers."+key, "there is no such number")
		}
	}
	if _, err := time.LoadLocation(x.Zone); err != nil {
		found.Bad("zone", "%.64q is not a time zone such as Europe/Lisbon", x.Zone)
	}
	return s, state.InvalidAll(found)
}

// TrySettings says what would move if the settings were these, and keeps nothing.
func (a *Service) TrySettings(ctx context.Context, u state.User, x SettingsForm) ([]say.Sentence, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	s, err := x.onto(f.Settings)
	if err != nil {
		return nil, err
	}
	if err := state.InvalidAll(f.CheckSettings(s)); err != nil {
		return nil, err
	}
	return f.moves(s), nil
}

// SaveSettings keeps the settings; version is the one the form was opened at.
func (a *Service) SaveSettings(ctx context.Context, u state.User, x SettingsForm, version int) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if f.Version(documents.Settings, "settings") != version {
			return &state.ConflictError{Thing: "The settings"}
		}
		s, err := x.onto(f.Settings)
		if err != nil {
			return err
		}
		if err := state.InvalidAll(f.CheckSettings(s)); err != nil {
			return err
		}
		b.Summary = "Changed the settings"
		return b.Put(documents.Settings, "settings", s)
	})
}

// moves says in words what another setting moves.
func (f *snapshot) moves(s academy.Settings) []say.Sentence {
	says := []say.Sentence{}
	add := func(format say.Sentence, args ...any) { says = append(says, say.F(format, args...)) }
	was := f.Settings
	after := &snapshot{f.With(map[documents.Ref]any{{Kind: documents.Settings, ID: "settings"}: s})}
	if !store.SameAsJSON(was.Gates, s.Gates) {
		says = append(says, f.gatesMove(after)...)
	}
	if !store.SameAsJSON(was.Standard, s.Standard) {
		add("Checks from now on are judged so; the %d that were kept stay as they were judged.", f.checksKept())
	}
	if was.Standing != s.Standing {
		says = append(says, f.standingsMove(after)...)
	}
	if was.Attendance != s.Attendance {
		says = append(says, f.chancesMove(after))
	}
	if was.SeasonNeed != s.SeasonNeed || !store.SameAsJSON(was.Spacing, s.Spacing) {
		add("The next planning counts so; plans that stand keep their number until they are planned again.")
	}
	if !store.SameAsJSON(was.Sheets, s.Sheets) {
		n, of := f.sheetsMove(after)
		add("Of the %d classes of the next seven days that have something to teach, %d get other minutes.", of, n)
	}
	if !slices.Equal(was.Resistance, s.Resistance) {
		add("Drills and checks read so, those on record too: the grades stay the same.")
	}
	for _, word := range was.Signoffs {
		if n := f.signoffUsed(word); n > 0 && !slices.Contains(s.Signoffs, word) {
			add("%d units or coaches go by the sign-off %q: it stays with them until they are changed.", n, word)
		}
	}
	if was.WeekStart != s.WeekStart {
		add("Weeks begin on another day, in the strip above and in the seasons to come.")
	}
	if was.Zone != s.Zone {
		add("It is %s there now.", f.Now().In(after.ZoneOf(s.Zone)).Format("15:04"))
	}
	if s.SecondFactor && !was.SecondFactor {
		add("Head instructors without a second factor set one up before they go on.")
	}
	if s.NotesMonths != was.NotesMonths && s.NotesMonths > 0 {
		add("Notes and ended holds older than %d months are deleted tonight, and from then on each day. This cannot be undone.", s.NotesMonths)
	}
	return says
}

func (f *snapshot) gatesMove(after *snapshot) (says []say.Sentence) {
	opened, closed, touched, on := 0, 0, map[string]bool{}, f.Today()
	for _, p := range f.Students() {
		for _, t := range f.Library.Techniques() {
			if len(t.Risks) == 0 {
				continue
			}
			before, now := len(f.Refusals(p, t, on)) > 0, len(after.Refusals(p, t, on)) > 0
			if before == now {
				continue
			}
			touched[p.ID] = true
			if now {
				closed++
			} else {
				opened++
			}
		}
	}
	if opened+closed > 0 {
		says = append(says, say.F("For %d people something opens or closes: %d times a technique opens, %d times one closes.", len(touched), opened, closed))
	} else {
		says = append(says, "For nobody who trains here does a technique open or close.")
	}
	for _, t := range f.Tracks {
		if w := after.GateWarning(t); w != f.GateWarning(t) {
			if w == "" {
				w = say.F("All units of %s are open to it.", t.Name)
			}
			says = append(says, w)
		}
	}
	slices.SortFunc(says[1:], func(a, b say.Sentence) int { return strings.Compare(a.String(), b.String()) })
	return says
}

// standingsMove counts what students' standings and what is due would become.
func (f *snapshot) standingsMove(after *snapshot) []say.Sentence {
	on, changed, people, due, notDue := f.Today(), 0, 0, map[string]bool{}, map[string]bool{}
	for _, p := range f.Students() {
		before, now := f.Standings(p.ID), after.Standings(p.ID)
		had := changed
		for i := range now {
			if before[i].Rung != now[i].Rung {
				changed++
			}
			switch was, is := before[i].Due(on, f.Settings.Standing), now[i].Due(on, after.Settings.Standing); {
			case is && !was:
				due[p.ID] = true
			case was && !is:
				notDue[p.ID] = true
			}
		}
		if changed > had {
			people++
		}
	}
	return []say.Sentence{say.F("%d standings of %d people change.", changed, people), say.F("%d people have something that becomes due for a refresh; %d have something that is due no longer.", len(due), len(notDue))}
}

// chancesMove says how far the chances of coming would move.
func (f *snapshot) chancesMove(after *snapshot) say.Sentence {
	before, now := f.Chances(f.Today()), after.Chances(f.Today())
	people, most := 0, 0.0
	for student, classes := range before {
		far := 0.0
		for class, c := range classes {
			far = max(far, math.Abs(c.Chance-now[student][class].Chance))
		}
		if far >= 0.05 {
			people++
		}
		most = max(most, far)
	}
	return say.F("For %d people a chance of coming to a class moves by 5 points or more; the farthest by %.0f.", people, most*100)
}

// sheetsMove counts the classes of the next seven days whose minutes would be others.
func (f *snapshot) sheetsMove(after *snapshot) (changed, of int) {
	for day := range 7 {
		on := f.Today() + calendar.Day(day)
		for _, c := range f.ClassesOn(on) {
			n := f.SessionPlan(c, on)
			if len(n.Items) == 0 || n.Closed != "" {
				continue
			}
			of++
			if !store.SameAsJSON(f.Sheet(n, c), after.Sheet(n, c)) {
				changed++
			}
		}
	}
	return changed, of
}

func (f *snapshot) signoffUsed(word string) int {
	n := 0
	for _, u := range f.Units {
		if u.Signoff == word {
			n++
		}
	}
	for _, p := range f.Active() {
		if p.Coach != nil && slices.Contains(p.Coach.Signoffs, word) {
			n++
		}
	}
	return n
}

func (f *snapshot) checksKept() int {
	n := 0
	for range f.AllChecks {
		n++
	}
	return n
}
