package library

import (
	"fmt"
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/safety"
)

func at(position string, part Part) *Place { return &Place{position, part} }

func cut(id, name string, aliases ...string) Technique {
	return Technique{ID: id, Name: name, Aliases: aliases, Kind: "pass", From: at("split", Attack), To: at("side", Attack), Summary: "Cut the knee across the thigh with the underhook."}
}

func TestLikelyDuplicates(t *testing.T) {
	mount := Technique{ID: "arm-mount", Name: "Straight arm lock from mount", Aliases: []string{"Chave de braço"}, From: at("mount", Attack), Finish: true}
	k := New(nil, []Technique{cut("knee-cut", "Knee cut pass", "Knee slice"), mount, {ID: "hip-escape", Name: "Hip escape", Kind: Movement}}).Likeness()
	for name, x := range map[string]struct {
		t    Technique
		want string
	}{
		"by an alias":                            {cut("x", "Knee-slice pass"), "knee-cut"},
		"misspelt":                               {Technique{ID: "x", Name: "Straigth arm lock from mount", From: at("mount", Attack), Finish: true}, "arm-mount"},
		"by an alias in another language":        {Technique{ID: "x", Name: "Chave de braco da montada", Aliases: []string{"Chave de braco"}, From: at("mount", Attack), Finish: true}, "arm-mount"},
		"by content alone":                       {func() Technique { x := cut("x", "Through the middle"); return x }(), "knee-cut"},
		"the same lock elsewhere is another one": {Technique{ID: "x", Name: "Straight arm lock from closed guard", From: at("guard", Attack), Finish: true}, ""},
		"itself is not told":                     {cut("knee-cut", "Knee cut pass"), ""},
		"nothing alike":                          {Technique{ID: "x", Name: "Forward roll", Kind: Movement}, ""},
	} {
		found := k.Of(x.t)
		if x.want == "" {
			assert.Empty(t, found, name)
			continue
		}
		require.NotEmpty(t, found, name)
		assert.Equal(t, x.want, found[0].Technique, name)
		assert.NotEmpty(t, found[0].Why, name)
		assert.True(t, found[0].Score > 0 && found[0].Score <= 1, name)
	}
}

func TestMergeKeepsWhatEitherHad(t *testing.T) {
	keep := cut("knee-cut", "Knee cut pass", "Knee slice")
	keep.Risks = []safety.RiskClass{"elbow"}
	keep.KeyPoints = []KeyPoint{{ID: "under", Cue: "Underhook"}}
	keep.Forks = []Fork{{ID: "r1", KeyPoint: "under", Reaction: "They turn in.", Answer: "slice"}}
	drop := cut("slice", "Slice pass", "Knee Slice", "Cross-knee")
	drop.Formerly, drop.Risks = []string{"older"}, []safety.RiskClass{"elbow", "knee or ankle twisting"}
	drop.KeyPoints = []KeyPoint{{ID: "head", Cue: "Head down"}}
	drop.Prerequisites = []Prerequisite{{Technique: "knee-cut"}, {Technique: "hip-switch"}}
	m := Merge(keep, drop, []string{"key points", "stands on"})
	assert.Equal(t, []string{"Knee slice", "Slice pass", "Cross-knee"}, m.Aliases)
	assert.Equal(t, []string{"slice", "older"}, m.Formerly)
	assert.Equal(t, []safety.RiskClass{"elbow", "knee or ankle twisting"}, m.Risks)
	assert.Equal(t, "head", m.KeyPoints[0].ID)
	assert.Equal(t, Fork{ID: "r1", Reaction: "They turn in.", Answer: "knee-cut"}, m.Forks[0], "the key point is gone, and what was merged answers as itself")
	assert.Equal(t, []Prerequisite{{Technique: "hip-switch"}}, m.Prerequisites, "it does not stand on itself")
	assert.Equal(t, "under", keep.KeyPoints[0].ID, "the record it was made of stays as it is")
	assert.Equal(t, "under", keep.Forks[0].KeyPoint)
}

// Whatever spoke of a merged record speaks of the one it became.
func TestReferencesFollowAMerge(t *testing.T) {
	keep := Merge(cut("knee-cut", "Knee cut pass"), cut("slice", "Slice pass"), nil)
	other := Technique{ID: "other", Name: "Other", Forks: []Fork{{ID: "r", Answer: "slice"}}, Prerequisites: []Prerequisite{{Technique: "slice"}}}
	l := New(nil, []Technique{keep, other}).With([]VariantSet{{ID: "s", House: "slice", Variants: []Variant{{Technique: "slice"}}}}, []ForkTable{{ID: "t", Table: Table{Rows: []Row{{ID: "r", Then: "slice"}}}}})
	o, _ := l.Technique("other")
	assert.Equal(t, "knee-cut", o.Forks[0].Answer)
	assert.Equal(t, []string{"knee-cut"}, l.Needs("other"))
	assert.Equal(t, "knee-cut", l.VariantSets()[0].House)
	assert.Equal(t, "knee-cut", l.VariantSets()[0].Variants[0].Technique)
	assert.Equal(t, "knee-cut", l.ForkTables()[0].Rows[0].Then)
	assert.Equal(t, "slice", other.Forks[0].Answer, "what was given in stays as it is")
}

func TestOneLetterOffAgainstEditDistance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.StringMatching(`[abc]{0,6}`).Draw(t, "a"), rapid.StringMatching(`[abc]{0,6}`).Draw(t, "b")
		require.Equal(t, editDistance([]rune(a), []rune(b), 1) <= 1, oneLetterOff([]rune(a), []rune(b)))
	})
}

func BenchmarkDuplicates200In2000(b *testing.B) {
	r := rand.New(rand.NewSource(3))
	draw := func(n int, kind string) []Technique {
		var all []Technique
		for i := range n {
			text := ""
			for range 60 {
				text += fmt.Sprintf("word%d ", r.Intn(900))
			}
			all = append(all, Technique{ID: fmt.Sprint(kind, i), Name: fmt.Sprintf("name%d part%d", r.Intn(300), r.Intn(40)), From: at("p", Attack), Summary: Text(text)})
		}
		return all
	}
	l, incoming := New(nil, draw(2000, "t")), draw(200, "x")
	for b.Loop() {
		k := l.Likeness()
		for _, x := range incoming {
			k.Of(x)
		}
	}
}
