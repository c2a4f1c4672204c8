package academy

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/validation"
)

// hall is a small academy in which every record below is right but for what a case spoils.
func hall() *Records {
	return &Records{
		Library:   library.New(nil, []library.Technique{{ID: "sweep", Name: "Sweep"}, {ID: "pass", Name: "Pass"}}),
		Ladders:   map[string]curriculum.Ladder{"adult": {ID: "adult", Name: "Adults", Ranks: []curriculum.Rank{{ID: "white", Name: "White"}, {ID: "blue", Name: "Blue"}}}},
		Tracks:    map[string]Track{"all": {ID: "all", Name: "All levels", Mode: "same", School: "free", Audience: "all"}},
		Classes:   []Class{{ID: "mon", Name: "Monday", Track: "all", Hours: Hours{Weekday: 1, Start: "18:30", Minutes: 60, TeachMinutes: 30}}},
		Units:     []Unit{{ID: "u", Name: "Sweeps", Techniques: []string{"sweep"}, Tracks: []string{"all"}, Minutes: 20, ReviewMinutes: 10}},
		Person:    map[string]Person{"oren": {ID: "oren", Name: "Oren Vask"}, "tam": {ID: "tam", Name: "Tam Ellery"}},
		People:    []Person{{ID: "oren", Name: "Oren Vask", Merged: []string{"oren-old"}}, {ID: "tam", Name: "Tam Ellery"}},
		Curricula: nil,
	}
}

// fields writes problems as "field: what", a line each.
func fields(found []validation.Problem) string {
	var lines []string
	for _, p := range found {
		lines = append(lines, p.Error())
	}
	return strings.Join(lines, "\n")
}

// requireProblem says that what was found names the field first and has the words in it; nothing where nothing is wanted.
func requireProblem(t *testing.T, name string, found []validation.Problem, want string) {
	t.Helper()
	if want == "" {
		assert.Empty(t, fields(found), name)
		return
	}
	assert.Contains(t, fields(found), want, name)
}

func TestATrackSaysWhatIsWrongWithIt(t *testing.T) {
	good := Track{ID: "all", Name: "All levels", Mode: "split", School: "spiral", Audience: "adult", Context: "gi", MinAge: 16, Assumed: []string{"u"}, Rules: season.Rules{MostUnits: 3, ReviewWeeks: []int{4}}}
	for name, c := range map[string]struct {
		spoil func(*Track)
		want  string
	}{
		"as it should be":             {func(*Track) {}, ""},
		"without a jacket or with":    {func(x *Track) { x.Context = "both" }, ""},
		"no context at all":           {func(x *Track) { x.Context = "" }, ""},
		"no name":                     {func(x *Track) { x.Name = "  " }, "name: "},
		"a name without an end":       {func(x *Track) { x.Name = strings.Repeat("x", 500) }, "name: "},
		"no mode":                     {func(x *Track) { x.Mode = "" }, "mode: "},
		"a mode nobody knows":         {func(x *Track) { x.Mode = "nonsense" }, `mode: "nonsense": choose same or split`},
		"a school nobody knows":       {func(x *Track) { x.School = "old" }, `school: "old": choose block, spiral or free`},
		"an audience nobody knows":    {func(x *Track) { x.Audience = "cats" }, `audience: "cats": choose all, adult or youth`},
		"a context nobody knows":      {func(x *Track) { x.Context = "mud" }, `context: "mud": choose gi, no-gi or both`},
		"from an age of minus one":    {func(x *Track) { x.MinAge = -1 }, "min_age: "},
		"from an age of a hundred":    {func(x *Track) { x.MinAge = 100 }, "min_age: "},
		"too many units":              {func(x *Track) { x.Rules.MostUnits = 61 }, "rules.most_units: "},
		"fewer than no new ones":      {func(x *Track) { x.Rules.MostNew = -1 }, "rules.most_new: "},
		"a main unit of a whole day":  {func(x *Track) { x.Rules.MainMinutes = 301 }, "rules.main_minutes: "},
		"taught again in two years":   {func(x *Track) { x.Rules.TeachGap = 104 }, "rules.teach_gap: "},
		"reviewed before it was seen": {func(x *Track) { x.Rules.ReviewGap = -2 }, "rules.review_gap: "},
		"an area without an end":      {func(x *Track) { x.Rules.AreaLeast = 3 }, "rules.area_most: "},
		"an area longer than it may":  {func(x *Track) { x.Rules.AreaLeast, x.Rules.AreaMost = 5, 3 }, "rules.area_least: 5 weeks at least are more than 3 at most"},
		"reviews in week nought":      {func(x *Track) { x.Rules.ReviewWeeks = []int{1, 0} }, "rules.review_weeks[1]: "},
		"knows what is not there":     {func(x *Track) { x.Assumed = []string{"u", "gone"} }, `assumed[1]: "gone" is not among the units`},
	} {
		x := good
		x.Assumed, x.Rules.ReviewWeeks = slices.Clone(good.Assumed), slices.Clone(good.Rules.ReviewWeeks)
		c.spoil(&x)
		requireProblem(t, name, hall().CheckTrack(x), c.want)
	}
}

func TestAWeeklyClassSaysWhatIsWrongWithIt(t *testing.T) {
	good := hall().Classes[0]
	for name, c := range map[string]struct {
		spoil func(*Class)
		want  string
	}{
		"as it should be":           {func(*Class) {}, ""},
		"at midnight":               {func(x *Class) { x.Start = "00:00" }, ""},
		"teaches all the time":      {func(x *Class) { x.TeachMinutes = 60 }, ""},
		"no name":                   {func(x *Class) { x.Name = "" }, "name: "},
		"no track":                  {func(x *Class) { x.Track = "attic" }, `track: "attic" is not a track`},
		"on day nought":             {func(x *Class) { x.Weekday = 0 }, "weekday: 0 is outside 1 (Monday) to 7"},
		"on day eight":              {func(x *Class) { x.Weekday = 8 }, "weekday: 8 is outside"},
		"at half past nine, short":  {func(x *Class) { x.Start = "9:30" }, `start: "9:30" is not a time such as 18:30`},
		"at twenty-five":            {func(x *Class) { x.Start = "25:00" }, "start: "},
		"at sixty past":             {func(x *Class) { x.Start = "18:60" }, "start: "},
		"at a time in words":        {func(x *Class) { x.Start = "evening" }, "start: "},
		"a time and something":      {func(x *Class) { x.Start = "18:30 " }, "start: "},
		"of nine minutes":           {func(x *Class) { x.Minutes = 9; x.TeachMinutes = 5 }, "minutes: "},
		"of five hours and one":     {func(x *Class) { x.Minutes = 301 }, "minutes: "},
		"teaches longer than it is": {func(x *Class) { x.TeachMinutes = 61 }, "teach_minutes: 61 is outside 0 to the 60 minutes of the class"},
		"teaches less than nothing": {func(x *Class) { x.TeachMinutes = -1 }, "teach_minutes: "},
		"a mat with a long name":    {func(x *Class) { x.Mat = strings.Repeat("m", 1000) }, "mat: "},
	} {
		x := good
		c.spoil(&x)
		requireProblem(t, name, hall().CheckClass(x), c.want)
	}
}

func TestAPersonSaysWhatIsWrongWithThem(t *testing.T) {
	day := calendar.MustDay("2026-11-24")
	before := day - 1
	good := Person{ID: "pilar", Name: "Pilar Dunmore", Student: true, Ladder: "adult", Rank: "white", Weight: 62, Email: "pilar@lantern-street.example", Language: "pt-BR", Jacket: "gi",
		NeverWith: []string{"oren"}, Guardian: &Guardian{Name: "Ada Dunmore", Email: "ada@lantern-street.example", Phone: "+44 (0)20 55-12"},
		Notes: []Note{{Text: "Left-handed.", Readers: ForCoaches}}, Holds: []safety.Hold{{Regions: []safety.Region{"knee"}, From: day}},
		Coach: &Terms{Available: []string{"mon"}, Signoffs: []string{"throws"}, MaxPerWeek: 3, Share: 0.2, Out: []Span{{From: day, To: day}}}}
	for name, c := range map[string]struct {
		spoil func(*Person)
		want  string
	}{
		"as it should be":               {func(*Person) {}, ""},
		"nobody's student, no rank":     {func(x *Person) { x.Student, x.Ladder, x.Rank = false, "", "" }, ""},
		"weighs nothing that is known":  {func(x *Person) { x.Weight = 0 }, ""},
		"no name":                       {func(x *Person) { x.Name = "\t" }, "name: "},
		"a rank of another ladder":      {func(x *Person) { x.Rank = "orange" }, `rank: rank "orange" is not on ladder "adult"`},
		"a student without a rank":      {func(x *Person) { x.Ladder, x.Rank = "", "" }, "rank: "},
		"a guest of no kind":            {func(x *Person) { x.Guest = "ghost" }, `guest: "ghost": choose trial or visitor`},
		"weighs less than nothing":      {func(x *Person) { x.Weight = -1 }, "weight_kg: "},
		"weighs a ton":                  {func(x *Person) { x.Weight = 1000 }, "weight_kg: 1000 is outside 0 to 400 kg"},
		"weighs what is no number":      {func(x *Person) { x.Weight = math.NaN() }, "weight_kg: "},
		"never with themselves":         {func(x *Person) { x.NeverWith = []string{"pilar"} }, `never_with[0]: "pilar" is nobody else here`},
		"never with a stranger":         {func(x *Person) { x.NeverWith = []string{"oren", "zed"} }, `never_with[1]: "zed" is nobody else here`},
		"two addresses in one":          {func(x *Person) { x.Email = "a@b,c@d" }, `email: "a@b,c@d" is not one address`},
		"an address with a name":        {func(x *Person) { x.Email = "Pilar <p@x.example>" }, "email: "},
		"an address that ends in a dot": {func(x *Person) { x.Email = "p@x.example." }, "email: "},
		"a life in the body's words":    {func(x *Person) { x.Body = strings.Repeat("b", 100_000) }, "body: "},
		"a jacket of no kind":           {func(x *Person) { x.Jacket = "leather" }, `jacket: "leather": choose both, gi or no-gi`},
		"a language in words":           {func(x *Person) { x.Language = "Portuguese" }, `language: "Portuguese" is not a language such as en or pt-BR`},
		"a guardian without a name":     {func(x *Person) { x.Guardian.Name = "" }, "guardian.name: "},
		"a guardian's address":          {func(x *Person) { x.Guardian.Email = "ada at home" }, "guardian.email: "},
		"a guardian's number":           {func(x *Person) { x.Guardian.Phone = "ring twice" }, `guardian.phone: "ring twice" is not a telephone number`},
		"thirteen stripes":              {func(x *Person) { x.Stripes = 13 }, "stripes: "},
		"a note for everybody":          {func(x *Person) { x.Notes[0].Readers = "all" }, `notes[0].readers: "all": choose head, coaches or self`},
		"a note without an end":         {func(x *Person) { x.Notes[0].Text = strings.Repeat("n", 100_000) }, "notes[0].text: "},
		"a hold of nothing":             {func(x *Person) { x.Holds[0].Regions = nil }, "holds[0].regions: "},
		"a hold of a wing":              {func(x *Person) { x.Holds[0].Regions = []safety.Region{"wing"} }, "holds[0].regions[0]: "},
		"cleared before it was held":    {func(x *Person) { x.Holds[0].ClearedOn = &before }, "holds[0].cleared_on: "},
		"coaches what is not there":     {func(x *Person) { x.Coach.Available = []string{"attic"} }, `coach.available[0]: class "attic" is not in the timetable`},
		"back before they left":         {func(x *Person) { x.Coach.Out = []Span{{From: day, To: before}} }, "coach.out[0]: it ends"},
		"leads every class there is":    {func(x *Person) { x.Coach.MaxPerWeek = 41 }, "coach.max_per_week: "},
		"more than all of them":         {func(x *Person) { x.Coach.Share = 1.5 }, "coach.share: 1.5 is outside 0 to 1"},
		"a share that is no number":     {func(x *Person) { x.Coach.Share = math.NaN() }, "coach.share: "},
	} {
		x := good
		guardian, coach := *good.Guardian, *good.Coach
		x.Guardian, x.Coach = &guardian, &coach
		x.Notes, x.Holds = slices.Clone(good.Notes), slices.Clone(good.Holds)
		c.spoil(&x)
		requireProblem(t, name, hall().CheckPerson(x), c.want)
	}
}

func TestAddresses(t *testing.T) {
	for text, want := range map[string]bool{
		"ines@lantern-street.example": true, "i.f+mat@x.example": true, "ó@casa.example": true, "a@b": true,
		"": false, "ines": false, "@x.example": false, "ines@": false, "a b@x.example": false, "a@b@c": false, "a@b,c@d": false, `"a"@b`: false, "a@-": false, "a@b ": false,
		strings.Repeat("a", 64) + "@x.example": true, strings.Repeat("a", 65) + "@x.example": false, "a@" + strings.Repeat("b", 300): false,
	} {
		assert.Equal(t, want, Address(text), "%q", text)
	}
}

func TestWhatWasDecidedForAClassSaysWhatIsWrongWithIt(t *testing.T) {
	good := ClassSession{ID: "mon.2026-11-23", Items: []season.Item{{Unit: "u", Kind: season.Teach}}, Sheet: []mat.SegmentEdit{{ID: "drill", Minutes: 12}}, Rounds: Rounds{{}, {}}, Run: 1,
		Stations: &Stations{Stations: []NamedStation{{Name: "Grips", Station: rotation.Station{ID: "s1", Minutes: 6}}}, Coaches: []string{}, Minutes: 30, Groups: 2, By: "mixed"}}
	for name, c := range map[string]struct {
		spoil func(*ClassSession)
		want  string
	}{
		"as it should be":          {func(*ClassSession) {}, ""},
		"nothing but its name":     {func(x *ClassSession) { *x = ClassSession{ID: x.ID} }, ""},
		"of no class":              {func(x *ClassSession) { x.ID = "attic.2026-11-23" }, "id: "},
		"of no day":                {func(x *ClassSession) { x.ID = "mon" }, "id: "},
		"a unit that is gone":      {func(x *ClassSession) { x.Items[0].Unit = "gone" }, `items[0].unit: there is no unit "gone"`},
		"neither taught nor again": {func(x *ClassSession) { x.Items[0].Kind = "shown" }, `items[0].kind: "shown": say teach or review`},
		"a segment of four hours":  {func(x *ClassSession) { x.Sheet[0].Minutes = 240 }, "sheet[0].minutes: "},
		"more rounds than there":   {func(x *ClassSession) { x.Run = 3 }, "run: 3 rounds cannot have been run: 2 were made"},
		"fewer than none":          {func(x *ClassSession) { x.Run = -1 }, "run: "},
		"a station without a name": {func(x *ClassSession) { x.Stations.Stations[0].Name = "" }, "stations.stations[0].name: "},
		"a station for a village":  {func(x *ClassSession) { x.Stations.Stations[0].For = make([]string, MostMakeUp+1) }, "stations.stations[0].for: "},
		"more stations than mats":  {func(x *ClassSession) { x.Stations.Stations = make([]NamedStation, rotation.MostStations+1) }, "stations"},
	} {
		x := good
		x.Items, x.Sheet = slices.Clone(good.Items), slices.Clone(good.Sheet)
		stations := *good.Stations
		stations.Stations = slices.Clone(good.Stations.Stations)
		x.Stations = &stations
		c.spoil(&x)
		requireProblem(t, name, hall().CheckSession(x), c.want)
	}
	assert.Nil(t, ClassSession{}.Makeups())
	good.Stations.Stations = append(good.Stations.Stations, NamedStation{Makeup: "u"})
	assert.Equal(t, []string{"u"}, good.Makeups())
}

func TestASeasonSaysWhatIsWrongWithIt(t *testing.T) {
	start := calendar.MustDay("2026-11-23")
	plan := func(all ...season.Placement) *season.Plan { return &season.Plan{Placements: all} }
	teach := []season.Item{{Unit: "u", Kind: season.Teach}}
	for name, c := range map[string]struct {
		season Season
		want   string
	}{
		"as it should be":             {Season{Name: "Winter", Start: start, Weeks: 4, Plan: plan(season.Placement{Week: 1, Class: "mon", Items: teach})}, ""},
		"before there were calendars": {Season{Name: "Winter", Start: calendar.First - 1, Weeks: 4}, "start: "},
		"past the last day":           {Season{Name: "Winter", Start: calendar.Last, Weeks: 4}, "start: "},
		"of no weeks":                 {Season{Name: "Winter", Start: start}, "weeks: "},
		"of a hundred weeks":          {Season{Name: "Winter", Start: start, Weeks: 100}, "weeks: "},
		"planned past its end":        {Season{Name: "Winter", Start: start, Weeks: 4, Plan: plan(season.Placement{Week: 5, Class: "mon"})}, "plan.placements[0].week: week 5 is not in a season of 4 weeks"},
		"a class planned twice":       {Season{Name: "Winter", Start: start, Weeks: 4, Plan: plan(season.Placement{Week: 1, Class: "mon"}, season.Placement{Week: 1, Class: "mon"})}, "plan.placements[1]: "},
		"neither taught nor again":    {Season{Name: "Winter", Start: start, Weeks: 4, Plan: plan(season.Placement{Week: 1, Class: "mon", Items: []season.Item{{Unit: "u", Kind: "shown"}}})}, "plan.placements[0].items[0].kind: "},
		"published past its end":      {Season{Name: "Winter", Start: start, Weeks: 4, Published: &Published{Plan: *plan(season.Placement{Week: 9, Class: "mon"})}}, "placements[0].week: "},
	} {
		requireProblem(t, name, hall().CheckSeason(c.season), c.want)
	}
}

func TestWhoAnEventCanBeOf(t *testing.T) {
	r := hall()
	for id, want := range map[string]bool{"oren": true, "oren-old": true, GonePrefix + "1": true, "zed": false, "": false} {
		assert.Equal(t, want, r.Happened(id), "%q", id)
	}
	_, ok := r.Class("mon")
	assert.True(t, ok)
	_, ok = r.Class("tue")
	assert.False(t, ok)
	_, ok = r.Unit("gone")
	assert.False(t, ok)
}

func TestSettingsSayWhatIsWrongWithThem(t *testing.T) {
	good := Settings{WeekStart: 1, Zone: "Europe/Lisbon", Spacing: season.Spacing{Weeks: []int{1, 3}, Tolerance: 1}, Resistance: []string{"still", "soft", "half", "hard", "live"}, Signoffs: []string{"throws"},
		Gates: []safety.Gate{{Class: "strangle", MinAge: 14}, {Technique: "sweep", Tracks: []string{"all"}, Ladder: "adult", MinRank: 1}}}
	for name, c := range map[string]struct {
		spoil func(*Settings)
		want  string
	}{
		"as it should be":              {func(*Settings) {}, ""},
		"all by default":               {func(x *Settings) { *x = Settings{} }, ""},
		"a week that begins on day 8":  {func(x *Settings) { x.WeekStart = 8 }, "week_start: 8 is outside 1 (Monday) to 7"},
		"a zone with a way out":        {func(x *Settings) { x.Zone = "../../etc/passwd" }, "zone: "},
		"the zone of whatever machine": {func(x *Settings) { x.Zone = "Local" }, `zone: "Local" is not a time zone such as Europe/Lisbon`},
		"a live share over all":        {func(x *Settings) { x.Standard.LiveShare = map[library.Kind]float64{"escape": 1.2} }, "standard.live_share.escape: 1.2 is outside 0 to 1"},
		"a half-life turned over":      {func(x *Settings) { x.Standing.LeastHalfLife, x.Standing.FirstHalfLife = 60, 21 }, "numbers.least_half_life: 60 days is longer than the first half-life of 21"},
		"reviews in week nought":       {func(x *Settings) { x.Spacing.Weeks = []int{0} }, "spacing.weeks[0]: "},
		"more reviews than weeks":      {func(x *Settings) { x.Spacing.Weeks = make([]int, 11) }, "spacing.weeks: "},
		"four grades of resistance":    {func(x *Settings) { x.Resistance = x.Resistance[:4] }, "resistance: 4 words: give one for each grade from 0 to 4"},
		"a grade without a word":       {func(x *Settings) { x.Resistance = []string{"still", "", "half", "hard", "live"} }, "resistance[1]: "},
		"a sign-off twice":             {func(x *Settings) { x.Signoffs = []string{"throws", "throws"} }, `signoffs[1]: "throws" is in the list twice`},
		"a gate of two things":         {func(x *Settings) { x.Gates = []safety.Gate{{Class: "strangle", Technique: "sweep"}} }, "gates[0]: names a technique and a risk class: make two gates of it"},
		"a gate of nothing":            {func(x *Settings) { x.Gates = []safety.Gate{{}} }, "gates[0].class: "},
		"a gate of a class unknown":    {func(x *Settings) { x.Gates = []safety.Gate{{Class: "tickling"}} }, `gates[0].class: "tickling" is not a risk class`},
		"a gate of what is gone":       {func(x *Settings) { x.Gates = []safety.Gate{{Technique: "gone"}} }, `gates[0].technique: "gone" is not in the library`},
		"a gate to no track":           {func(x *Settings) { x.Gates[1].Tracks = []string{"all", "attic"} }, `gates[1].tracks[1]: "attic" is not a track`},
		"a gate from a hundred years":  {func(x *Settings) { x.Gates[0].MinAge = 100 }, "gates[0].min_age: "},
		"a gate on no ladder":          {func(x *Settings) { x.Gates[1].Ladder = "rope" }, `gates[1].ladder: "rope" is not a ladder`},
		"a sheet for no track":         {func(x *Settings) { x.Sheets = []TrackSheet{{Track: "attic"}} }, `sheets[0].track: "attic" is not a track`},
		"two sheets for one":           {func(x *Settings) { x.Sheets = []TrackSheet{{Track: "all"}, {Track: "all"}} }, `sheets[1].track: "all" has two sheets`},
	} {
		x := good
		x.Gates = slices.Clone(good.Gates)
		c.spoil(&x)
		found := hall().CheckSettings(x)
		if c.want == "" {
			found = slices.DeleteFunc(found, func(p validation.Problem) bool { return strings.HasPrefix(p.Field, "sheets") })
		}
		requireProblem(t, name, found, c.want)
	}
}

// Every number has bounds that hold its default, a meaning and a source; what is outside is told with the bounds, and what is put is what is read.
func TestTheAcademysNumbers(t *testing.T) {
	keys := map[string]bool{}
	for _, n := range Numbers() {
		assert.False(t, keys[n.Key], n.Key)
		keys[n.Key] = true
		for what, text := range map[string]say.Sentence{"name": n.Name, "meaning": n.Meaning, "source": n.Source} {
			assert.NotEmpty(t, text, "%s of %s", what, n.Key)
		}
		assert.True(t, n.Least <= n.Default && n.Default <= n.Most && n.Step > 0, n.Key)
		s := Settings{}.WithDefaults()
		for _, x := range []float64{n.Least, n.Most, n.Default} {
			n.Put(&s, x)
			assert.InDelta(t, x, n.Of(s), 1e-12, n.Key)
			var found validation.Found
			n.check(&found, x)
			assert.Empty(t, found, "%s at %g", n.Key, x)
		}
		for _, x := range []float64{n.Least - 1, n.Most + 1, math.NaN(), math.Inf(1)} {
			var found validation.Found
			n.check(&found, x)
			if assert.Len(t, found, 1, "%s at %g", n.Key, x) {
				assert.Equal(t, "numbers."+n.Key, found[0].Field)
				assert.Contains(t, found[0].What, n.Name)
			}
		}
		if n.Step >= 1 {
			var found validation.Found
			n.check(&found, n.Least+0.5)
			assert.Contains(t, fields(found), "is not a whole number", n.Key)
		}
		assert.Contains(t, n.Range().String(), " to ")
	}
	assert.Greater(t, len(keys), 12)
	share, _ := find(Numbers(), func(n Number) bool { return n.Key == "pass_share" })
	assert.Equal(t, "5 to 100 %", share.Range().String())
	assert.Equal(t, "80 %", share.In(0.8).String())
	days, _ := find(Numbers(), func(n Number) bool { return n.Key == "first_half_life" })
	assert.Equal(t, "21 days", days.In(21).String())
}

// Settings written down differ in the line that was changed, and in no other.
func TestSettingsAreReadBesideEachOther(t *testing.T) {
	usual := Settings{Zone: "UTC"}.WithDefaults()
	usual.Gates = []safety.Gate{{Class: "strangle", MinAge: 14}}
	base := usual.Lines()
	assert.Contains(t, base, "Time zone: UTC")
	assert.Contains(t, base, "Gate, strangle: from age 14, rank 1")
	escape, rank := 12, 2
	for name, c := range map[string]struct {
		change func(*Settings)
		line   string
	}{
		"zone":           {func(s *Settings) { s.Zone = "Europe/Lisbon" }, "Time zone: Europe/Lisbon"},
		"week":           {func(s *Settings) { s.WeekStart = 7 }, "First day of the week: 7 (Monday is 1)"},
		"a number":       {func(s *Settings) { s.SeasonNeed = 3 }, "Exposures that cover a unit: 3 exposures"},
		"spacing":        {func(s *Settings) { s.Spacing.Weeks = []int{2, 5} }, "Reviews after weeks: 2, 5"},
		"sign-offs":      {func(s *Settings) { s.Signoffs = []string{"throws", "leg attacks"} }, "Sign-offs: throws, leg attacks"},
		"second factor":  {func(s *Settings) { s.SecondFactor = !s.SecondFactor }, fmt.Sprintf("Second factor for head instructors: %t", !usual.SecondFactor)},
		"a gate's age":   {func(s *Settings) { s.Gates[0].MinAge = 16 }, "Gate, strangle: from age 16, rank 1"},
		"an escape's":    {func(s *Settings) { s.Gates[0].EscapeAge, s.Gates[0].EscapeRank = &escape, &rank }, "Gate, strangle: from age 14, rank 1, escapes from age 12, escapes from rank 3"},
		"a gate's track": {func(s *Settings) { s.Gates[0].Tracks = []string{"no-gi"} }, "Gate, strangle: from age 14, rank 1, in no-gi alone"},
	} {
		s := usual
		s.Gates = slices.Clone(usual.Gates)
		c.change(&s)
		var fresh []string
		for _, l := range s.Lines() {
			if !slices.Contains(base, l) {
				fresh = append(fresh, l)
			}
		}
		assert.Equal(t, []string{c.line}, fresh, name)
	}
}
