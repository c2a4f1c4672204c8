package documents_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/documents"
	"vereda/core/academy"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/store"
)

func document(t *testing.T, kind, id string, version int, value any) store.Document {
	body, err := json.Marshal(value)
	require.NoError(t, err)
	return store.Document{Kind: kind, ID: id, Version: version, Body: body}
}

func technique(id string, standsOn ...string) library.Technique {
	t := library.Technique{ID: id, Name: "The " + id, Kind: "movement"}
	for _, s := range standsOn {
		t.Prerequisites = append(t.Prerequisites, library.Prerequisite{Technique: s})
	}
	return t
}

// A record that cannot be read is set aside and named; the others are there.
func TestABrokenRecordIsSetAside(t *testing.T) {
	s := documents.NewSet([]store.Document{
		{Kind: documents.Season, ID: "old", Version: 3, Body: json.RawMessage(`{"id":"old","name":"Old","start":"0000-01-01","weeks":6}`)},
		{Kind: "poem", ID: "x", Version: 1, Body: json.RawMessage(`{}`)},
		document(t, documents.Track, "fund", 2, academy.Track{ID: "fund", Name: "Fundamentals"}),
	}, nil)
	assert.Contains(t, s.Tracks, "fund")
	assert.Empty(t, s.Seasons)
	require.Len(t, s.Broken, 2)
	assert.Equal(t, "old", s.Broken[0].ID)
	assert.Contains(t, s.Broken[0].Why, "not between 1900-01-01 and 2200-12-31")
	fixed := s.With(map[documents.Ref]any{{Kind: documents.Season, ID: "old"}: nil})
	assert.Len(t, fixed.Broken, 1, "deleted, it is not set aside any more")
}

func TestWhatIsTheSameIsNotReadAgain(t *testing.T) {
	first := documents.NewSet([]store.Document{document(t, documents.Technique, "hip", 1, technique("hip")), document(t, documents.Track, "fund", 2, academy.Track{ID: "fund"})}, nil)
	second := documents.NewSet([]store.Document{{Kind: documents.Technique, ID: "hip", Version: 1}, document(t, documents.Track, "fund", 3, academy.Track{ID: "fund", Name: "New"})}, first)
	assert.Same(t, first.Library, second.Library, "nothing of the library changed")
	assert.Equal(t, "New", second.Tracks["fund"].Name)
	assert.NotEqual(t, first.Fingerprint(documents.Track), second.Fingerprint(documents.Track))
	assert.Equal(t, first.Fingerprint(documents.Technique), second.Fingerprint(documents.Technique))
	third := documents.NewSet([]store.Document{{Kind: documents.Track, ID: "fund", Version: 3}}, second)
	_, there := third.Library.Technique("hip")
	assert.False(t, there, "a technique that was deleted is gone")
}

// Every kind says what it speaks of; what would hang in the air is named.
func TestWhatWouldHangInTheAir(t *testing.T) {
	s := documents.NewSet([]store.Document{
		document(t, documents.Technique, "hip", 1, technique("hip")),
		document(t, documents.Technique, "bridge", 1, technique("bridge", "hip")),
		document(t, documents.Unit, "u", 1, academy.Unit{ID: "u", Name: "Escapes", Techniques: []string{"bridge"}, Tracks: []string{"fund"}}),
		document(t, documents.Track, "fund", 1, academy.Track{ID: "fund", Name: "Fundamentals", Assumed: []string{"u"}}),
		document(t, documents.Class, "c", 1, academy.Class{ID: "c", Name: "Evening", Track: "fund"}),
		document(t, documents.Person, "tomas", 1, academy.Person{ID: "tomas", Name: "Tomas", Coach: &academy.Terms{Available: []string{"c"}}}),
	}, nil)
	ref := func(kind, id string) documents.Ref { return documents.Ref{Kind: kind, ID: id} }
	assert.Equal(t, []string{"The bridge"}, say.Texts(s.Uses(ref(documents.Technique, "hip"))))
	assert.Equal(t, []string{"Evening", "unit Escapes"}, say.Texts(s.Uses(ref(documents.Track, "fund"))))
	assert.Equal(t, []string{"Tomas"}, say.Texts(s.Uses(ref(documents.Class, "c"))))
	assert.Equal(t, []string{"Fundamentals"}, say.Texts(s.Uses(ref(documents.Unit, "u"))))
	for name, c := range map[string]struct {
		writes map[documents.Ref]any
		says   string
	}{
		"deleted while spoken of":    {map[documents.Ref]any{ref(documents.Technique, "hip"): nil}, "The bridge speaks of it now"},
		"both deleted":               {map[documents.Ref]any{ref(documents.Technique, "hip"): nil, ref(documents.Technique, "bridge"): technique("bridge")}, ""},
		"brought back to nothing":    {map[documents.Ref]any{ref(documents.Technique, "guard"): technique("guard", "gone")}, `speaks of the technique "gone", which is not there any more`},
		"brought back together":      {map[documents.Ref]any{ref(documents.Technique, "guard"): technique("guard", "gone"), ref(documents.Technique, "gone"): technique("gone")}, ""},
		"a class of no track":        {map[documents.Ref]any{ref(documents.Class, "d"): academy.Class{ID: "d", Name: "D", Track: "none"}}, `the track "none"`},
		"the last to speak goes too": {map[documents.Ref]any{ref(documents.Class, "c"): nil, ref(documents.Person, "tomas"): academy.Person{ID: "tomas", Name: "Tomas"}}, ""},
	} {
		err := s.Hanging(c.writes)
		if c.says == "" {
			assert.NoError(t, err, name)
			continue
		}
		assert.ErrorContains(t, err, c.says, name)
	}
	merged := s.With(map[documents.Ref]any{ref(documents.Technique, "hip"): nil, ref(documents.Technique, "shrimp"): library.Technique{ID: "shrimp", Name: "Shrimp", Formerly: []string{"hip"}}})
	assert.NoError(t, merged.Hanging(map[documents.Ref]any{ref(documents.Technique, "guard"): technique("guard", "hip")}), "merged, it is there under its new name")
}
