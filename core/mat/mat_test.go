package mat

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/library"
)

func TestRepetitions(t *testing.T) {
	for _, c := range []struct{ minutes, partners, sides, seconds, want int }{
		{8, 2, 2, 8, 13}, // (480 − 3·15) ÷ (4·8) = 13.6
		{8, 2, 1, 8, 29}, // (480 − 15) ÷ (2·8) = 29.06
		{8, 3, 2, 8, 8},  // a trio: (480 − 5·15) ÷ (6·8) = 8.4
		{1, 2, 2, 20, 0},
		{0, 2, 2, 8, 0},
	} {
		assert.Equal(t, c.want, Repetitions(c.minutes, c.partners, c.sides, c.seconds), "%+v", c)
	}
}

func TestFit(t *testing.T) {
	segments := []Segment{{ID: "warm", Rank: Must, Min: 5, Want: 8, Max: 10}, {ID: "review", Rank: Should, Min: 4, Want: 6, Max: 8}, {ID: "teach", Rank: Must, Min: 6, Want: 9, Max: 12}, {ID: "live", Rank: Could, Min: 5, Want: 10, Max: 20}}
	for _, c := range []struct {
		minutes int
		want    map[string]int
		short   int
	}{
		{60, map[string]int{"warm": 10, "review": 8, "teach": 12, "live": 20}, 0},
		{33, map[string]int{"warm": 8, "review": 6, "teach": 9, "live": 10}, 0},
		{20, map[string]int{"warm": 5, "review": 4, "teach": 6, "live": 5}, 0},
		{19, map[string]int{"warm": 7, "review": 4, "teach": 8}, 0},
		{11, map[string]int{"warm": 5, "teach": 6}, 0},
		{6, map[string]int{"warm": 3, "teach": 3}, 5},
	} {
		f := Fit(segments, c.minutes)
		got := map[string]int{}
		for _, s := range f.Segments {
			got[s.ID] = s.Minutes
		}
		assert.Equal(t, c.want, got, "%d minutes", c.minutes)
		assert.Equal(t, c.short, f.Short)
		assert.Len(t, f.FellOut, len(segments)-len(c.want))
	}
}

func TestFitKeepsItsPromises(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		segments := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Segment {
			low := rapid.IntRange(1, 10).Draw(t, "min")
			want := low + rapid.IntRange(0, 8).Draw(t, "want")
			return Segment{ID: "s", Rank: rapid.SampledFrom([]Rank{Must, Should, Could}).Draw(t, "rank"), Min: low, Want: want, Max: want + rapid.IntRange(0, 8).Draw(t, "max")}
		}), 1, 10).Draw(t, "segments")
		minutes := rapid.IntRange(0, 120).Draw(t, "minutes")
		f := Fit(segments, minutes)
		used, most := 0, 0
		for _, s := range f.Segments {
			used += s.Minutes
			most += s.Max
			require.LessOrEqual(t, s.Minutes, s.Max)
			if f.Short == 0 {
				require.GreaterOrEqual(t, s.Minutes, s.Min)
			}
		}
		require.Equal(t, f.Used, used)
		require.LessOrEqual(t, used, minutes)
		require.Equal(t, len(segments), len(f.Segments)+len(f.FellOut))
		for _, s := range f.FellOut {
			if f.Short == 0 {
				require.NotEqual(t, Must, s.Rank)
			}
			require.Zero(t, s.Minutes)
			require.NotEmpty(t, s.Why)
		}
		if f.Short > 0 {
			require.Equal(t, minutes, used, "short cells fill the minutes exactly")
		}
		if used < minutes && f.Short == 0 {
			require.Equal(t, most, used, "minutes are left only when nothing can take them")
		}
	})
}

func TestClockAddsUp(t *testing.T) {
	tech := library.Technique{ID: "x", Name: "Knee cut", Taught: library.Right, SecondsPerRep: 8, TeachMinutes: 6, Forks: []library.Fork{{}}}
	f := Fit(Outline(Lesson{Teach: []library.Technique{tech}}, DefaultSegments), 60)
	require.Equal(t, 60, f.Used)
	ticks := Clock(f, func(id string) (library.Technique, bool) { return tech, id == "x" })
	sum, turns := 0, map[string]int{}
	for _, k := range ticks {
		assert.Positive(t, k.Seconds)
		sum += k.Seconds
		if k.Segment == "drill-x" && !k.Rest {
			turns[k.Summary.String()] = k.Seconds
		}
	}
	assert.Equal(t, 3600, sum)
	require.Len(t, turns, 4)
	for says, s := range turns {
		assert.InDelta(t, turns["First partner, right"], s, 3, says)
	}
	drills, free := RoundsIn(ticks)
	assert.Equal(t, 2, drills, "the drill and its reaction")
	assert.Equal(t, ticks[len(ticks)-2].Round, drills+free, "all others are situational and live")
}

// However few minutes are left, the clock of what is refitted fills exactly them: five minutes
// are 300 seconds.
func TestTheClockFillsWhateverIsLeft(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var lesson Lesson
		known := map[string]library.Technique{}
		draw := func(n int, prefix string) (all []library.Technique) {
			for i := range n {
				x := library.Technique{ID: fmt.Sprint(prefix, i), Name: "Knee cut", SecondsPerRep: rapid.IntRange(2, 40).Draw(t, "seconds"), TeachMinutes: rapid.IntRange(1, 20).Draw(t, "teach"), Forks: []library.Fork{{}}}
				if rapid.Bool().Draw(t, "sided") {
					x.Taught = library.Right
				}
				known[x.ID] = x
				all = append(all, x)
			}
			return all
		}
		lesson.Teach, lesson.Review = draw(rapid.IntRange(0, 3).Draw(t, "teach"), "t"), draw(rapid.IntRange(0, 3).Draw(t, "review"), "r")
		segments := Outline(lesson, DefaultSegments)
		segments = segments[rapid.IntRange(0, len(segments)-1).Draw(t, "from"):]
		minutes := rapid.IntRange(0, 90).Draw(t, "minutes")
		f := Fit(segments, minutes)
		sum := 0
		for _, k := range Clock(f, func(id string) (library.Technique, bool) { x, ok := known[id]; return x, ok }) {
			require.Positive(t, k.Seconds, k.Summary)
			sum += k.Seconds
		}
		require.Equal(t, 60*f.Used, sum)
		require.LessOrEqual(t, sum, 60*minutes)
	})
}
