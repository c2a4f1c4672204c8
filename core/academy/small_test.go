package academy

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/season"
	"vereda/core/testday"
)

func TestWhenAClassBegins(t *testing.T) {
	for start, want := range map[string]int{"00:00": 0, "09:05": 545, "18:30": 1110, "23:59": 1439, "": 0} {
		assert.Equal(t, want, Class{Hours: Hours{Start: start}}.Begins(), start)
	}
}

func TestTheClockOfAClass(t *testing.T) {
	at := time.Date(2026, 11, 24, 18, 30, 0, 0, time.UTC)
	three := []mat.Stretch{{Seconds: 60}, {Seconds: 30}, {Seconds: 90}}
	for name, c := range map[string]struct {
		clock  RunningClock
		now    time.Duration
		passed int
	}{
		"stopped, it stands":                   {RunningClock{Stretches: three, Passed: 40, At: at}, time.Hour, 40},
		"running, it goes on":                  {RunningClock{Stretches: three, Passed: 40, Running: true, At: at}, 25 * time.Second, 65},
		"parts of a second do not count":       {RunningClock{Stretches: three, Running: true, At: at}, 1999 * time.Millisecond, 1},
		"it ends with the class":               {RunningClock{Stretches: three, Passed: 170, Running: true, At: at}, time.Minute, 180},
		"a device behind the server is at 0":   {RunningClock{Stretches: three, Passed: 5, Running: true, At: at}, -time.Minute, 0},
		"without stretches nothing can pass":   {RunningClock{Passed: 9, Running: true, At: at}, time.Minute, 0},
		"turned past its end it is at the end": {RunningClock{Stretches: three, Passed: 999, At: at}, 0, 180},
	} {
		assert.Equal(t, c.passed, c.clock.PassedAt(at.Add(c.now)), name)
	}
	clock := RunningClock{Stretches: three}
	assert.Equal(t, 180, clock.Whole())
	for n, want := range []int{0, 60, 90, 180, 180} {
		assert.Equal(t, want, clock.Before(n), "before stretch %d", n)
	}
	for passed, want := range map[int]int{0: 0, 59: 0, 60: 1, 89: 1, 90: 2, 179: 2, 180: 2, 5000: 2} {
		assert.Equal(t, want, RunningClock{Stretches: three, Passed: passed}.Place(), "after %d seconds", passed)
	}
	assert.Zero(t, RunningClock{Passed: 10}.Place(), "no stretches at all")
}

// Wherever a clock stands, its place is the stretch that has begun and not ended.
func TestAClockStandsWhereItsSecondsSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var c RunningClock
		for range rapid.IntRange(1, 8).Draw(t, "stretches") {
			c.Stretches = append(c.Stretches, mat.Stretch{Seconds: rapid.IntRange(1, 300).Draw(t, "seconds")})
		}
		c.Passed = rapid.IntRange(0, c.Whole()-1).Draw(t, "passed")
		n := c.Place()
		require.LessOrEqual(t, c.Before(n), c.Passed)
		require.Greater(t, c.Before(n+1), c.Passed)
	})
}

func TestRoundsAreReadAsTheyWereEverWritten(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		want Rounds
	}{
		"as they are now":               {`[{"groups":[["a","b"]],"coach":["c"]}]`, Rounds{{Groups: [][]string{{"a", "b"}}, Coach: []string{"c"}}}},
		"without anybody at the coach":  {`[{"groups":[["a","b"]]}]`, Rounds{{Groups: [][]string{{"a", "b"}}, Coach: []string{}}}},
		"pairs with the odd one third":  {`[{"pairs":[["a","b"],["c","d"]],"odd":"e","third":1}]`, Rounds{{Groups: [][]string{{"a", "b"}, {"c", "d", "e"}}, Coach: []string{}}}},
		"pairs, the odd one with coach": {`[{"pairs":[["a","b"]],"odd":"e","third":-1}]`, Rounds{{Groups: [][]string{{"a", "b"}}, Coach: []string{"e"}}}},
		"a third that is not there":     {`[{"pairs":[["a","b"]],"odd":"e","third":7}]`, Rounds{{Groups: [][]string{{"a", "b"}}, Coach: []string{"e"}}}},
		"pairs kept apart":              {`[{"pairs":[["a","b"]],"apart":[["c","d"]]}]`, Rounds{{Groups: [][]string{{"a", "b"}}, Coach: []string{"c", "d"}}}},
		"nobody at all":                 {`[{}]`, Rounds{{Groups: [][]string{}, Coach: []string{}}}},
		"none":                          {`[]`, nil},
	} {
		var got Rounds
		require.NoError(t, json.Unmarshal([]byte(c.text), &got), name)
		assert.Equal(t, c.want, got, name)
	}
	var got Rounds
	assert.Error(t, json.Unmarshal([]byte(`{"groups":1}`), &got))
}

// What is written is read again as it was.
func TestRoundsComeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.StringMatching(`[a-z]{1,4}`)
		rounds := Rounds(rapid.SliceOfN(rapid.Custom(func(t *rapid.T) rotation.Round {
			return rotation.Round{Groups: rapid.SliceOfN(rapid.SliceOfN(name, 2, 4), 0, 4).Draw(t, "groups"), Coach: rapid.SliceOfN(name, 0, 2).Draw(t, "coach")}
		}), 1, 5).Draw(t, "rounds"))
		text, err := json.Marshal(rounds)
		require.NoError(t, err)
		var got Rounds
		require.NoError(t, json.Unmarshal(text, &got))
		again, err := json.Marshal(got)
		require.NoError(t, err)
		require.JSONEq(t, string(text), string(again))
	})
}

func TestATallySaysWhatIsWrongWithIt(t *testing.T) {
	good := Tally{Technique: "sweep", Point: "k1", Fault: "f1", Count: 1}
	for name, c := range map[string]struct {
		spoil func(*Tally)
		want  string
	}{
		"as it should be":                {func(*Tally) {}, ""},
		"one taken back":                 {func(x *Tally) { x.Count = -1 }, ""},
		"words alone":                    {func(x *Tally) { x.Fault, x.Count, x.Words = "", 0, "grip at the heel" }, ""},
		"of no technique":                {func(x *Tally) { x.Technique = "" }, "technique: is empty"},
		"neither a fault nor words":      {func(x *Tally) { x.Fault, x.Words = "", "  \n" }, "words: say what was seen"},
		"two at once":                    {func(x *Tally) { x.Count = 2 }, "count: "},
		"words without an end":           {func(x *Tally) { x.Words = strings.Repeat("a", 301) }, "words: "},
		"a fault without an end":         {func(x *Tally) { x.Fault = strings.Repeat("a", 500) }, "fault: "},
		"a key point without an end":     {func(x *Tally) { x.Point = strings.Repeat("a", 500) }, "point: "},
		"a technique without an end":     {func(x *Tally) { x.Technique = strings.Repeat("a", 500) }, "technique: "},
		"300 letters that are two bytes": {func(x *Tally) { x.Words = strings.Repeat("é", 300) }, ""},
	} {
		x := good
		c.spoil(&x)
		requireProblem(t, name, x.Problems(), c.want)
	}
}

func TestADayOfTestsSaysWhatIsWrongWithIt(t *testing.T) {
	day, err := calendar.ParseDay("2026-11-28")
	require.NoError(t, err)
	good := TestDay{Name: "November", On: day, Start: "10:00", Minutes: 180, Change: 1, Rest: 2, Breaks: []testday.Break{{Start: 60, End: 75}}, Examiners: []string{"oren"}, People: []string{"tam"}}
	for name, c := range map[string]struct {
		spoil func(*TestDay)
		want  string
	}{
		"as it should be":               {func(*TestDay) {}, ""},
		"nobody yet":                    {func(x *TestDay) { x.People, x.Examiners = nil, nil }, ""},
		"somebody who was merged":       {func(x *TestDay) { x.Helpers = []string{"oren-old"} }, ""},
		"no name":                       {func(x *TestDay) { x.Name = "" }, "name: "},
		"no day":                        {func(x *TestDay) { x.On = calendar.Last + 1 }, "on: "},
		"a time that is none":           {func(x *TestDay) { x.Start = "25:99" }, `start: "25:99" is no time of the day`},
		"no minutes":                    {func(x *TestDay) { x.Minutes = 0 }, "minutes: "},
		"two days":                      {func(x *TestDay) { x.Minutes = 2880 }, "minutes: "},
		"changing over for three hours": {func(x *TestDay) { x.Change = 180 }, "change_minutes: "},
		"a rest before the test":        {func(x *TestDay) { x.Rest = -1 }, "rest_minutes: "},
		"a break that ends first":       {func(x *TestDay) { x.Breaks = []testday.Break{{Start: 30, End: 40}, {Start: 75, End: 75}} }, "breaks[1].end: "},
		"a break before the day":        {func(x *TestDay) { x.Breaks = []testday.Break{{Start: -5, End: 5}} }, "breaks[0].end: "},
		"a break into the night":        {func(x *TestDay) { x.Breaks = []testday.Break{{Start: 0, End: 1441}} }, "breaks[0].end: "},
		"an examiner nobody knows":      {func(x *TestDay) { x.Examiners = []string{"oren", "ghost"} }, `examiners[1]: "ghost" is nobody here`},
		"somebody tested twice":         {func(x *TestDay) { x.People = []string{"tam", "tam"} }, `people[1]: "tam" is there twice`},
		"a helper nobody knows":         {func(x *TestDay) { x.Helpers = []string{"ghost"} }, `helpers[0]: "ghost" is nobody here`},
		"too many who examine":          {func(x *TestDay) { x.Examiners = make([]string, 31) }, "examiners: "},
		"too many who are tested":       {func(x *TestDay) { x.People = make([]string, 201) }, "people: "},
		"a plan without an end":         {func(x *TestDay) { x.Plan.Slots = make([]testday.Slot, 20_001) }, "plan.slots: "},
	} {
		x := good
		c.spoil(&x)
		requireProblem(t, name, hall().CheckTestDay(x), c.want)
	}
}

func TestWhichPlanClassesGoBy(t *testing.T) {
	draft, given := &season.Plan{Coverage: 0.4}, season.Plan{Coverage: 0.5}
	assert.Nil(t, Season{}.Stands())
	assert.Empty(t, Season{}.Plans())
	assert.Same(t, draft, Season{Plan: draft}.Stands(), "the plan in the making while nothing was published")
	assert.Len(t, Season{Plan: draft}.Plans(), 1)
	both := Season{Plan: draft, Published: &Published{Plan: given}}
	assert.Equal(t, 0.5, both.Stands().Coverage, "what was published, whatever is tried since")
	assert.Len(t, both.Plans(), 2)
	assert.Len(t, Season{Published: &Published{Plan: given}}.Plans(), 1)
}

func TestWhatIsClosedAndWhy(t *testing.T) {
	s := Season{Closures: []Closure{{Week: 2, Why: "painting"}, {Week: 3, Class: "mon"}}}
	for name, c := range map[string]struct {
		week   int
		class  string
		why    string
		closed bool
	}{
		"a whole week":     {2, "mon", "painting", true},
		"one class of one": {3, "mon", "", true},
		"another class":    {3, "tue", "", false},
		"another week":     {1, "mon", "", false},
	} {
		why, closed := s.Closed(c.week, c.class)
		assert.Equal(t, c.closed, closed, name)
		assert.Equal(t, c.why, why, name)
	}
}

func TestHowTheClassesOfATrackAreDivided(t *testing.T) {
	own, all := []mat.SegmentRule{{Kind: "live"}}, []mat.SegmentRule{{Kind: "teach"}}
	s := Settings{Sheets: []TrackSheet{{Segments: all}, {Track: "youth", Segments: own}}}
	assert.Equal(t, own, s.SegmentRules("youth"))
	assert.Equal(t, all, s.SegmentRules("adults"), "as for all tracks where it has none of its own")
	assert.Equal(t, mat.DefaultSegments, Settings{}.SegmentRules("adults"))
}

func TestEventsCarryWhatHappened(t *testing.T) {
	day, err := calendar.ParseDay("2026-11-24")
	require.NoError(t, err)
	tally := Tally{Technique: "sweep", Fault: "f1", Count: 1}
	e, err := NewEvent("e1", TallyEvent, day, tally)
	require.NoError(t, err)
	got, err := e.Tally()
	require.NoError(t, err)
	assert.Equal(t, tally, got)
	assert.Equal(t, []any{"e1", TallyEvent, day}, []any{e.ID, e.Kind, e.Day})
	came, err := NewEvent("e2", AttendanceEvent, day, Attendance{Part: "late"})
	require.NoError(t, err)
	who, err := came.Attendance()
	require.NoError(t, err)
	assert.Equal(t, "late", who.Part)
	e.Body = json.RawMessage(`{"count":"many"}`)
	_, err = e.Tally()
	assert.Error(t, err, "a number that is none")
	_, err = NewEvent("e3", TallyEvent, day, func() {})
	assert.Error(t, err, "what cannot be written is no event")
}
