package academies

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/season"
	"vereda/store"
)

// Setting is one number of the academy with where it comes from.
type Setting struct {
	Name    string `json:"name"`
	Value   string `json:"value"`
	Meaning string `json:"meaning"`
	Source  string `json:"source"`
}

// AcademyPage is the academy's own page.
type AcademyPage struct {
	Name     string             `json:"name"`
	Settings []Setting          `json:"settings"`
	Gates    []safety.Gate      `json:"gates"`
	Risks    []safety.Risk      `json:"risks"`
	Defers   string             `json:"defers"`
	Counts   []Setting          `json:"counts"`
	Broken   []documents.Broken `json:"broken" doc:"Records that cannot be read and were set aside, for the head instructor"`

	Form      SettingsForm `json:"form" doc:"What can be changed, as it is"`
	UsualForm SettingsForm `json:"usual_form" doc:"The same with the defaults"`
	Version   int          `json:"version"`

	RequiredCells []curriculum.RequiredCell `json:"required_cells" doc:"Cells of the position-by-kind matrix that may not be empty"`
	Usual         bool                      `json:"usual" doc:"The cells are the usual ones"`
	Families      []library.Family          `json:"families"`
	Kinds         []library.Kind            `json:"kinds"`
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
	num := func(x float64) string { return fmt.Sprintf("%g", x) }
	page := AcademyPage{Name: f.Name, Broken: broken, RequiredCells: s.RequiredCells, Usual: slices.Equal(s.RequiredCells, curriculum.DefaultRequiredCells), Families: library.Families, Kinds: curriculum.RequiredCellKinds(), Gates: s.Gates, Risks: safety.Risks, Defers: state.Defers, Settings: []Setting{
		{"Share to pass a check", state.Percent(s.Standard.PassShare), "Least score of the key points that are not gates; prompted counts half", "House standard"},
		{"Tries against live resistance", strconv.Itoa(s.Standard.LiveTries), "Fewer prove too little to judge", "House standard"},
		{"Share against live resistance", state.Percent(s.Standard.LiveDefault), "Least lower end of the 95 % interval of successes; lower for escapes and guard retention", "Wilson 1927"},
		{"Exposures that cover a unit", num(s.SeasonNeed), "In a season; a full teach is 1, a review ½", "House standard"},
		{"Exposures to be drilled", num(float64(ledger.DrilledAfter) / 2), "On each side", "House standard"},
		{"Spacing of reviews", spacingWords(s.Spacing.Weeks, s.Spacing.Tolerance), "Weeks after a unit was last seen", "House standard"},
		{"First half-life", num(ledger.FirstHalfLife) + " days", "After the first passed check; doubles on success, halves on failure, never under 14", "Half-life regression, Settles & Meeder 2016"},
		{"Due for a refresh below", state.Percent(ledger.DueBelow), "Estimated share still there", "House standard"},
		{"Weight of a visit", "half every 4 weeks", "How much an old visit counts toward the chance of the next", "Exponential smoothing"},
	}}
	page.Form, page.Version = formOf(s), f.Version(documents.Settings, "settings")
	page.UsualForm = formOf(academy.Settings{Zone: s.Zone, WeekStart: s.WeekStart, Gates: safety.UsualGates()}.WithDefaults())
	page.Counts = []Setting{
		{Name: "Positions", Value: strconv.Itoa(len(f.Library.Positions()))}, {Name: "Techniques", Value: strconv.Itoa(len(f.Library.Techniques()))},
		{Name: "Fork tables", Value: strconv.Itoa(len(f.Library.ForkTables()))}, {Name: "Students", Value: strconv.Itoa(len(f.Students()))}, {Name: "Classes recorded", Value: strconv.Itoa(f.ReportsKept())}, {Name: "Events on record", Value: strconv.Itoa(f.Events)}}
	return page, nil
}

func spacingWords(weeks []int, tolerance int) string {
	out := ""
	for i, w := range weeks {
		if i > 0 {
			out += ", "
		}
		out += strconv.Itoa(w)
	}
	return fmt.Sprintf("%s weeks, ± %d", out, tolerance)
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
		b.Summary = fmt.Sprintf("Set the cells that may not stay empty: %d", len(cells))
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
	PassShare    float64                  `json:"pass_share" minimum:"0" maximum:"1"`
	LiveTries    int                      `json:"live_tries" minimum:"1" maximum:"99"`
	LiveDefault  float64                  `json:"live_default" minimum:"0" maximum:"1"`
	LiveShare    map[library.Kind]float64 `json:"live_share"`
	SeasonNeed   float64                  `json:"season_need" minimum:"0.5" maximum:"20"`
	Spacing      []int                    `json:"spacing" minItems:"1" maxItems:"10"`
	Tolerance    int                      `json:"tolerance" minimum:"0" maximum:"20"`
	SecondFactor bool                     `json:"second_factor"`
	NotesMonths  int                      `json:"notes_months" minimum:"0" maximum:"240"`
	Gates        []safety.Gate            `json:"gates" maxItems:"200"`
}

func formOf(s academy.Settings) SettingsForm {
	return SettingsForm{s.Zone, s.WeekStart, s.Standard.PassShare, s.Standard.LiveTries, s.Standard.LiveDefault, s.Standard.LiveShare, s.SeasonNeed, s.Spacing.Weeks, s.Spacing.Tolerance, s.SecondFactor, s.NotesMonths, s.Gates}
}

func (x SettingsForm) onto(s academy.Settings) academy.Settings {
	s.Zone, s.WeekStart, s.SeasonNeed, s.SecondFactor, s.NotesMonths = x.Zone, x.WeekStart, x.SeasonNeed, x.SecondFactor, x.NotesMonths
	s.Standard = ledger.Standard{PassShare: x.PassShare, LiveTries: x.LiveTries, LiveDefault: x.LiveDefault, LiveShare: x.LiveShare}
	s.Spacing = season.Spacing{Weeks: x.Spacing, Tolerance: x.Tolerance}
	s.Gates = x.Gates
	return s
}

// TrySettings says what would move if the settings were these, and keeps nothing.
func (a *Service) TrySettings(ctx context.Context, u state.User, x SettingsForm) ([]string, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	s := x.onto(f.Settings)
	if err := state.InvalidAll(f.CheckSettings(s)); err != nil {
		return nil, err
	}
	return f.moves(s), nil
}

// moves says in words what another setting moves.
func (f *snapshot) moves(s academy.Settings) []string {
	says := []string{}
	add := func(format string, args ...any) { says = append(says, fmt.Sprintf(format, args...)) }
	was := f.Settings
	after := &snapshot{f.With(map[documents.Ref]any{{Kind: documents.Settings, ID: "settings"}: s})}
	on := f.Today()
	if !store.SameAsJSON(was.Gates, s.Gates) {
		opened, closed, touched := 0, 0, map[string]bool{}
		for _, p := range f.Students() {
			for _, t := range f.Library.Techniques() {
				if len(t.Risks) == 0 {
					continue
				}
				before, now := len(f.Refusals(p, t, on)) > 0, len(after.Refusals(p, t, on)) > 0
				if before != now {
					touched[p.ID] = true
					if now {
						closed++
					} else {
						opened++
					}
				}
			}
		}
		if opened+closed > 0 {
			add("For %d people something opens or closes: %d times a technique opens, %d times one closes.", len(touched), opened, closed)
		} else {
			add("For nobody who trains here does a technique open or close.")
		}
		for id, t := range f.Tracks {
			if w := after.GateWarning(t); w != f.GateWarning(f.Tracks[id]) {
				if w == "" {
					w = "All units of " + t.Name + " are open to it."
				}
				add("%s", w)
			}
		}
	}
	if !store.SameAsJSON(was.Standard, s.Standard) {
		add("Checks from now on are judged so; the %d that were kept stay as they were judged.", f.checksKept())
	}
	if was.SeasonNeed != s.SeasonNeed || !store.SameAsJSON(was.Spacing, s.Spacing) {
		add("The next planning counts so; plans that stand keep their number until they are planned again.")
	}
	if was.WeekStart != s.WeekStart {
		add("Weeks begin on another day, in the strip above and in the seasons to come.")
	}
	if was.Zone != s.Zone {
		add("It is %s there now.", f.Now().In(after.ZoneOf(s.Zone)).Format("15:04"))
	}
	if s.SecondFactor && !was.SecondFactor {
		add("Head instructors without a second factor are asked to set one up on their account's page.")
	}
	if s.NotesMonths != was.NotesMonths && s.NotesMonths > 0 {
		add("Notes and ended holds older than %d months are deleted tonight, and from then on each day. This cannot be undone.", s.NotesMonths)
	}
	return says
}

func (f *snapshot) checksKept() int {
	n := 0
	for range f.AllChecks {
		n++
	}
	return n
}

// SaveSettings keeps the settings; version is the one the form was opened at.
func (a *Service) SaveSettings(ctx context.Context, u state.User, x SettingsForm, version int) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if f.Version(documents.Settings, "settings") != version {
			return &state.ConflictError{Thing: "The settings"}
		}
		s := x.onto(f.Settings)
		if err := state.InvalidAll(f.CheckSettings(s)); err != nil {
			return err
		}
		b.Summary = "Changed the settings"
		return b.Put(documents.Settings, "settings", s)
	})
}
