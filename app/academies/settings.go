package academies

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
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
