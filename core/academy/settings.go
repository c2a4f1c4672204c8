package academy

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"vereda/core/say"
	"vereda/core/validation"
)

// Number is one of the academy's numbers: what it means, what it may be, and where its default comes from.
type Number struct {
	Key     string       `json:"key"`
	Name    say.Sentence `json:"name"`
	Unit    say.Sentence `json:"unit,omitempty" doc:"% for a share that is kept as 0 to 1"`
	Least   float64      `json:"least"`
	Most    float64      `json:"most"`
	Step    float64      `json:"step"`
	Default float64      `json:"default"`
	Meaning say.Sentence `json:"meaning"`
	Source  say.Sentence `json:"source"`

	get func(*Settings) float64
	set func(*Settings, float64)
}

// Of is the number as the settings have it.
func (n Number) Of(s Settings) float64 { return n.get(&s) }

// Put sets the number.
func (n Number) Put(s *Settings, x float64) { n.set(s, x) }

// In writes a value with its unit.
func (n Number) In(x float64) say.Sentence {
	switch n.Unit {
	case "":
		return say.F("%g", x)
	case "%":
		return say.F("%g %%", n.shown(x))
	}
	return say.F("%g %s", x, n.Unit)
}

// shown is a value as it is written: a share in percent.
func (n Number) shown(x float64) float64 {
	if n.Unit == "%" {
		return math.Round(x*1000) / 10
	}
	return x
}

// Range writes what it may be: 1 to 99 tries.
func (n Number) Range() say.Sentence { return say.F("%g to %s", n.shown(n.Least), n.In(n.Most)) }

// check says whether a value is within the bounds.
func (n Number) check(found *validation.Found, x float64) {
	switch {
	case !(x >= n.Least && x <= n.Most):
		found.Bad("numbers."+n.Key, "%s: %s is outside %s", n.Name, n.In(x), n.Range())
	case n.Step >= 1 && x != math.Trunc(x):
		found.Bad("numbers."+n.Key, "%s: %g is not a whole number", n.Name, x)
	}
}

const house say.Sentence = "House standard"

// Numbers lists the academy's numbers in the order they are shown.
func Numbers() []Number { return slices.Clone(numbers) }

var numbers = withDefaults([]Number{
	number("pass_share", "Share to pass a check", "%", 0.05, 1, 0.01, "Least score of the key points that are no gates; prompted counts half", house, func(s *Settings) *float64 { return &s.Standard.PassShare }),
	count("live_tries", "Tries against live resistance", "tries", 1, 99, "Fewer prove too little to judge", house, func(s *Settings) *int { return &s.Standard.LiveTries }),
	number("live_default", "Share against live resistance", "%", 0, 1, 0.01, "Least lower end of the 95 % interval of successes, for kinds without a number of their own", "Wilson 1927", func(s *Settings) *float64 { return &s.Standard.LiveDefault }),
	number("season_need", "Exposures that cover a unit", "exposures", 0.5, 20, 0.5, "In a season; a full teach is 1, a review ½", house, func(s *Settings) *float64 { return &s.SeasonNeed }),
	number("drilled_after", "Exposures to be drilled", "exposures", 0.5, 20, 0.5, "On each side", house, func(s *Settings) *float64 { return &s.Standing.DrilledAfter }),
	number("first_half_life", "First half-life", "days", 1, 365, 0.5, "After the first success", "Half-life regression, Settles & Meeder 2016", func(s *Settings) *float64 { return &s.Standing.FirstHalfLife }),
	number("least_half_life", "Least half-life", "days", 1, 365, 0.5, "No failure takes it under this", house, func(s *Settings) *float64 { return &s.Standing.LeastHalfLife }),
	number("growth", "A success multiplies it by", "", 1, 5, 0.05, "The half-life, with each success after the first", "Half-life regression, Settles & Meeder 2016", func(s *Settings) *float64 { return &s.Standing.Growth }),
	number("shrink", "A failure multiplies it by", "", 0.1, 1, 0.05, "The half-life", "Half-life regression, Settles & Meeder 2016", func(s *Settings) *float64 { return &s.Standing.Shrink }),
	number("due_below", "Due for a refresh below", "%", 0.05, 0.95, 0.01, "Estimated share that is still there", house, func(s *Settings) *float64 { return &s.Standing.DueBelow }),
	number("check_minutes", "Minutes of a check", "minutes", 0.5, 10, 0.5, "For one side, so that those of an evening can be chosen", house, func(s *Settings) *float64 { return &s.CheckMinutes }),
	number("half_life_weeks", "A visit counts half after", "weeks", 0.5, 104, 0.5, "How much an old visit says of the next one", "Exponential smoothing", func(s *Settings) *float64 { return &s.Attendance.HalfLifeWeeks }),
	number("prior_weight", "Weight of the overall rate", "visits", 0.1, 50, 0.1, "The overall rate counts like so many fresh visits to a class", "Shrinkage toward the mean", func(s *Settings) *float64 { return &s.Attendance.PriorWeight }),
	count("tolerance", "Reviews, give or take", "weeks", 0, 20, "How far from its week a review may come", house, func(s *Settings) *int { return &s.Spacing.Tolerance }),
	count("notes_months", "Delete notes and ended holds after", "months", 0, 240, "0 keeps them; health is kept no longer than it is needed", "Data protection", func(s *Settings) *int { return &s.NotesMonths }),
})

func number(key string, name, unit say.Sentence, least, most, step float64, meaning, source say.Sentence, at func(*Settings) *float64) Number {
	return Number{Key: key, Name: name, Unit: unit, Least: least, Most: most, Step: step, Meaning: meaning, Source: source,
		get: func(s *Settings) float64 { return *at(s) }, set: func(s *Settings, x float64) { *at(s) = x }}
}

func count(key string, name, unit say.Sentence, least, most float64, meaning, source say.Sentence, at func(*Settings) *int) Number {
	return Number{Key: key, Name: name, Unit: unit, Least: least, Most: most, Step: 1, Meaning: meaning, Source: source,
		get: func(s *Settings) float64 { return float64(*at(s)) }, set: func(s *Settings, x float64) { *at(s) = int(x) }}
}

func withDefaults(all []Number) []Number {
	usual := Settings{}.WithDefaults()
	for i := range all {
		all[i].Default = all[i].Of(usual)
	}
	return all
}

// Lines writes the settings down, a line for each, for reading one state beside another.
func (s Settings) Lines() []string {
	s = s.WithDefaults()
	lines := []string{"Time zone: " + s.Zone, fmt.Sprintf("First day of the week: %d (Monday is 1)", s.WeekStart)}
	add := func(format string, args ...any) { lines = append(lines, fmt.Sprintf(format, args...)) }
	for _, n := range numbers {
		add("%s: %s", n.Name, n.In(n.Of(s)))
	}
	kinds := make([]string, 0, len(s.Standard.LiveShare))
	for k := range s.Standard.LiveShare {
		kinds = append(kinds, string(k))
	}
	slices.Sort(kinds)
	for _, k := range kinds {
		for kind, share := range s.Standard.LiveShare {
			if string(kind) == k {
				add("Share against live resistance, %s: %.0f %%", k, share*100)
			}
		}
	}
	add("Reviews after weeks: %s", strings.Trim(strings.ReplaceAll(fmt.Sprint(s.Spacing.Weeks), " ", ", "), "[]"))
	add("Grades of resistance: %s", strings.Join(s.Resistance, ", "))
	add("Sign-offs: %s", strings.Join(s.Signoffs, ", "))
	add("Second factor for head instructors: %t", s.SecondFactor)
	for _, t := range s.Sheets {
		for _, r := range t.Segments {
			track := t.Track
			if track == "" {
				track = "all tracks"
			}
			add("Segments, %s: %s %s, least %d, wanted %d, most %d", track, r.Kind, r.Rank, r.Min, r.Want, r.Max)
		}
	}
	for _, g := range s.Gates {
		what := string(g.Class)
		if g.Technique != "" {
			what = g.Technique
		}
		line := fmt.Sprintf("Gate, %s: from age %d, rank %d", what, g.MinAge, g.MinRank+1)
		if g.EscapeAge != nil {
			line += fmt.Sprintf(", escapes from age %d", *g.EscapeAge)
		}
		if g.EscapeRank != nil {
			line += fmt.Sprintf(", escapes from rank %d", *g.EscapeRank+1)
		}
		if len(g.Tracks) > 0 {
			line += ", in " + strings.Join(g.Tracks, ", ") + " alone"
		}
		lines = append(lines, line)
	}
	for _, c := range s.RequiredCells {
		add("Required cell: %v", c)
	}
	return lines
}
