package library

import (
	"encoding/json"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAPatternIsWrittenAsAnObject(t *testing.T) {
	p := Pattern{{"hand", []string{"in"}}, {"posture", []string{"low", "high"}}}
	text, err := json.Marshal(p)
	require.NoError(t, err)
	assert.JSONEq(t, `{"hand":["in"],"posture":["low","high"]}`, string(text))
	var again Pattern
	require.NoError(t, json.Unmarshal([]byte(`{"posture":["low","high"],"hand":["in"]}`), &again))
	assert.Equal(t, p, again, "its cues by name, however they were written")
	assert.Error(t, json.Unmarshal([]byte(`{"hand":"in"}`), &again))
}

// What comes over in a merge is one section and nothing beside it; what the merged record does not have any more is not pointed at.
func TestSectionsAreTakenOneByOne(t *testing.T) {
	full := func(id, mark string) Technique {
		x := Text(mark)
		return Technique{ID: id, Name: mark, Summary: x, Kind: Kind(mark), From: &Place{Position: mark}, To: &Place{Position: mark}, Context: Context(mark), ContextNote: x, Caution: x,
			KeyPoints: []KeyPoint{{ID: mark, Cue: x}}, Forks: []Fork{{ID: mark, KeyPoint: mark, BackTo: mark}}, Prerequisites: []Prerequisite{{Technique: mark}}, Bodies: []BodyNote{{}},
			Questions: []Text{x}, Layers: []Layer{{Lesson: x}}, Drills: []Drill{{ID: mark}}, Drawings: []Drawing{{KeyPoint: mark}}, Media: []Attachment{{File: mark, KeyPoint: mark}}}
	}
	read := map[string]func(Technique) any{
		"summary": func(t Technique) any { return t.Summary }, "way": func(t Technique) any { return []any{t.Kind, t.From, t.To} }, "jacket": func(t Technique) any { return string(t.Context) + string(t.ContextNote) },
		"caution": func(t Technique) any { return t.Caution }, "key points": func(t Technique) any { return t.KeyPoints }, "forks": func(t Technique) any { return len(t.Forks) }, "stands on": func(t Technique) any { return t.Prerequisites },
		"bodies": func(t Technique) any { return t.Bodies }, "questions": func(t Technique) any { return t.Questions }, "layers": func(t Technique) any { return t.Layers },
		"drills": func(t Technique) any { return t.Drills }, "drawings": func(t Technique) any { return len(t.Drawings) },
	}
	for section := range read {
		keep, from := full("keep", "old"), full("drop", "new")
		if section == "forks" || section == "drawings" || section == "bodies" {
			from.Forks, from.Drawings, from.Bodies = nil, nil, nil
		}
		keep.takeSection(section, from)
		for other, read := range read {
			want := read(full("keep", "old"))
			if other == section {
				want = read(from)
			}
			assert.Equal(t, want, read(keep), "%s taken: %s", section, other)
		}
	}
	same := full("keep", "old")
	same.takeSection("no such section", full("drop", "new"))
	assert.Equal(t, full("keep", "old"), same)
}

func TestATableIsFoundByItsIdentifier(t *testing.T) {
	l := New(nil, nil).With(nil, []ForkTable{{ID: "b", Name: "Beta"}, {ID: "a", Name: "Alpha"}})
	got, ok := l.ForkTable("b")
	assert.True(t, ok)
	assert.Equal(t, "Beta", got.Name)
	_, ok = l.ForkTable("c")
	assert.False(t, ok)
}

// Where there are too many places for the exact assignment, each takes the best slot that is left: every slot once, and the first one its best.
func TestQueuingGivesEverySlotOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 9).Draw(t, "places")
		slots := n + rapid.IntRange(0, 3).Draw(t, "slots to spare")
		costs := make([][]float64, n)
		for i := range costs {
			costs[i] = rapid.SliceOfN(rapid.Float64Range(0, 100), slots, slots).Draw(t, "costs")
		}
		given := queueUp(costs)
		sorted := slices.Sorted(slices.Values(given))
		require.Equal(t, sorted, slices.Compact(slices.Clone(sorted)), "no slot twice")
		for i, slot := range given {
			best := math.Inf(1)
			for s, c := range costs[i] {
				if !slices.Contains(given[:i], s) {
					best = min(best, c)
				}
			}
			require.Equal(t, best, costs[i][slot], "place %d", i)
		}
	})
}
