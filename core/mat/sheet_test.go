package mat

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/library"
	"vereda/core/say"
)

// The judge of the dynamic program: try every way to give the segments their minutes.
func TestFitAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		segments := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Segment {
			low := rapid.IntRange(1, 4).Draw(t, "min")
			want := low + rapid.IntRange(0, 3).Draw(t, "want")
			return Segment{Rank: rapid.SampledFrom([]Rank{Must, Should, Could}).Draw(t, "rank"), Min: low, Want: want, Max: want + rapid.IntRange(0, 2).Draw(t, "max")}
		}), 1, 5).Draw(t, "segments")
		minutes := rapid.IntRange(0, 25).Draw(t, "minutes")
		least := 0
		for i := range segments {
			segments[i].ID = string(rune('a' + i))
			if segments[i].Rank == Must {
				least += segments[i].Min
			}
		}
		if least > minutes {
			t.Skip("shortened, not fitted")
		}
		var best worth
		found := false
		var try func(i, left int, so worth)
		try = func(i, left int, so worth) {
			if i == len(segments) {
				if !found || best.less(so) {
					best, found = so, true
				}
				return
			}
			s := segments[i]
			if s.Rank != Must {
				try(i+1, left, so.plus(worthOf(s, 0)))
			}
			for m := s.Min; m <= s.Max && m <= left; m++ {
				try(i+1, left-m, so.plus(worthOf(s, m)))
			}
		}
		try(0, minutes, worth{})
		f := Fit(segments, minutes)
		var got worth
		for _, s := range f.Segments {
			got = got.plus(worthOf(s, s.Minutes))
		}
		for _, s := range f.FellOut {
			got = got.plus(worthOf(s, 0))
		}
		require.Equal(t, best, got)
		// What it would take is true: with so many minutes more it is in, with one less it is not.
		for _, s := range f.FellOut {
			require.Positive(t, s.Needs)
			require.True(t, keeps(Fit(segments, minutes+s.Needs), s.ID), "%d more minutes keep %s", s.Needs, s.ID)
			require.False(t, keeps(Fit(segments, minutes+s.Needs-1), s.ID), "%d are the fewest", s.Needs)
		}
	})
}

func keeps(f Fitted, id string) bool {
	return slices.ContainsFunc(f.Segments, func(s Segment) bool { return s.ID == id })
}

func TestWhatFellOutSaysWhatItWouldTake(t *testing.T) {
	f := Fit([]Segment{{ID: "warm", Name: "Warm up", Rank: Must, Min: 5, Want: 8, Max: 10}, {ID: "review", Name: "Review", Rank: Should, Min: 4, Want: 6, Max: 8},
		{ID: "teach", Name: "Teach", Rank: Must, Min: 6, Want: 9, Max: 12}, {ID: "live", Name: "Live", Rank: Could, Min: 6, Want: 10, Max: 20}}, 18)
	require.Len(t, f.FellOut, 1)
	assert.Equal(t, "live", f.FellOut[0].ID)
	assert.Equal(t, 3, f.FellOut[0].Needs, "5 + 4 + 6 + 6 are 21")
	assert.Equal(t, []string{"Review"}, say.Texts(f.FellOut[0].Instead))
}

func TestEditedByHand(t *testing.T) {
	segments := []Segment{{ID: "warm", Rank: Must, Min: 5, Want: 8, Max: 10}, {ID: "review", Rank: Should, Min: 4, Want: 6, Max: 8}, {ID: "teach", Rank: Must, Min: 6, Want: 9, Max: 12}, {ID: "live", Rank: Could, Min: 5, Want: 10, Max: 20}}
	in, dropped := Edited(segments, []SegmentEdit{{ID: "live", Minutes: 15}, {ID: "review", Dropped: true}, {ID: "gone", Minutes: 4}}, []string{"warm", "live", "review"})
	require.Len(t, dropped, 1)
	assert.Equal(t, "review", dropped[0].ID)
	ids := []string{}
	for _, s := range in {
		ids = append(ids, s.ID)
	}
	assert.Equal(t, []string{"warm", "live", "teach"}, ids, "what the order does not name stays behind the one it stood behind")
	f := Fit(in, 30)
	for _, s := range f.Segments {
		if s.ID == "live" {
			assert.Equal(t, 15, s.Minutes)
		}
	}
	assert.Equal(t, 30, f.Used)
	same, none := Edited(segments, nil, nil)
	assert.Equal(t, segments, same)
	assert.Empty(t, none)
}

func TestOutlineFollowsTheRules(t *testing.T) {
	tech := library.Technique{ID: "x", Name: "Knee cut", Taught: library.Right, SecondsPerRep: 8, TeachMinutes: 9, Forks: []library.Fork{{}}}
	rules := append([]SegmentRule{}, DefaultSegments...)
	for i := range rules {
		switch rules[i].Kind {
		case "live":
			rules[i].Rank = Never
		case "teach":
			rules[i].Min, rules[i].Want, rules[i].Max = 50, 100, 150
		}
	}
	kinds := map[string]Segment{}
	for _, s := range Outline(Lesson{Teach: []library.Technique{tech}}, rules) {
		kinds[s.Kind] = s
	}
	assert.NotContains(t, kinds, "live")
	assert.Equal(t, [3]int{5, 9, 14}, [3]int{kinds["teach"].Min, kinds["teach"].Want, kinds["teach"].Max})
	assert.GreaterOrEqual(t, Repetitions(kinds["drill"].Want, 2, 2, 8), 8)
	assert.Less(t, Repetitions(kinds["drill"].Want-1, 2, 2, 8), 8)
	assert.Empty(t, CheckSegments(DefaultSegments))
	assert.NotEmpty(t, CheckSegments(rules[1:]), "a kind is missing")
	rules[0].Min = 99
	assert.NotEmpty(t, CheckSegments(rules))
}

func BenchmarkFit(b *testing.B) {
	tech := func(id string) library.Technique {
		return library.Technique{ID: id, Name: id, Taught: library.Right, SecondsPerRep: 8, TeachMinutes: 9, Forks: []library.Fork{{}}}
	}
	segments := Outline(Lesson{Teach: []library.Technique{tech("a"), tech("b"), tech("c")}, Review: []library.Technique{tech("d"), tech("e")}}, DefaultSegments)
	for b.Loop() {
		Fit(segments, 90)
	}
}
