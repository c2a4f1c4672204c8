package main

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestRotationOnFiles(t *testing.T) {
	var out bytes.Buffer
	in := `{"people":[{"id":"p1","kg":72,"rank":2,"helps":["p4"],"apart":["p4"],"held":false},{"id":"p2","kg":70},{"id":"p3","kg":90},{"id":"p4","kg":88},{"id":"p5","kg":60,"held":true}],
		"group_size":2,"rounds":2,"odd":"coach","mix":"any","met":[{"pair":["p1","p2"],"weeks_ago":1}],"ran":[[["p1","p3"],["p2","p4"]]],"seed":1}`
	require.NoError(t, rotate("-", strings.NewReader(in), &out))
	var a rotationAnswer
	require.NoError(t, json.Unmarshal(out.Bytes(), &a))
	require.Len(t, a.Rounds, 2)
	assert.Equal(t, [][]string{{"p1", "p3"}, {"p2", "p4"}}, a.Rounds[0].Groups, "what ran stays")
	assert.Equal(t, [][]string{{"p1", "p2"}, {"p3", "p4"}}, a.Rounds[1].Groups)
	assert.Equal(t, 0, a.Repeats)
	assert.InDelta(t, 2, a.MeanGapKg, 1e-9)
}

func TestStationsOnFiles(t *testing.T) {
	var out bytes.Buffer
	in := `{"people":[{"id":"p1"},{"id":"p2"},{"id":"p3"},{"id":"p4"}],"coaches":[{"id":"c1","signoffs":["legs"]}],
		"stations":[{"id":"s0","minutes":6,"must":true},{"id":"s1","minutes":6,"room":8,"coach":"any","signoff":"legs","after":["s0"],"must":true},{"id":"s2","minutes":30}],
		"minutes":20,"change_minutes":1,"groups":2,"by":"size"}`
	require.NoError(t, rotate("-", strings.NewReader(in), &out))
	assert.JSONEq(t, `{"groups":[["p1","p2"],["p3","p4"]],"left_out":["s2"],"idle_minutes":6,"idle_bound":0,"visits":[{"group":1,"station":"s0","start":0,"end":6},{"group":2,"station":"s0","start":6,"end":12},
		{"group":1,"station":"s1","coach":"c1","start":7,"end":13},{"group":2,"station":"s1","coach":"c1","start":13,"end":19}]}`, withoutElapsed(t, out.String()))
	out.Reset()
	err := rotate("-", strings.NewReader(strings.Replace(in, `"minutes":20`, `"minutes":15`, 1)), &out)
	require.ErrorIs(t, err, errConflict)
	assert.JSONEq(t, `{"conflict":["15 minutes for 2 groups","every group is at s0 for 6 minutes","every group is at s1 for 6 minutes","s1 comes after s0"]}`, out.String())
}

func withoutElapsed(t *testing.T, text string) string {
	var m map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &m))
	delete(m, "elapsed_ms")
	out, err := json.Marshal(m)
	require.NoError(t, err)
	return string(out)
}

func TestBadRotationsAreNamedWithPlaceAndMend(t *testing.T) {
	for in, says := range map[string]string{
		`{"people":[{"id":"a"},{"id":"a"}],"group_size":2,"rounds":1}`:                                              `people[1].id: "a" is there twice`,
		`{"people":[],"group_size":1,"rounds":1}`:                                                                   `group_size: `,
		`{"people":[],"group_size":2,"rounds":1,"odd":"out"}`:                                                       `odd: "out": say larger or coach`,
		`{"people":[{"id":"a"}],"group_size":2,"rounds":1,"met":[{"pair":["a","b"],"weeks_ago":1}]}`:                `met[0].pair[1]: "b" is not among the people`,
		`{"people":[],"coaches":[],"stations":[{"id":"s","minutes":5,"after":["t"]}],"minutes":9,"groups":1}`:       `stations[0].after[0]: "t" is not among the stations`,
		`{"people":[],"coaches":[],"stations":[{"id":"s","minutes":5,"coach":"c"}],"minutes":9,"groups":1}`:         `stations[0].coach: "c" is not among the coaches`,
		`{"people":[],"coaches":[],"stations":[],"minutes":9,"groups":1,"by":"given","given":[["x"]],"by2":"none"}`: `unknown field "by2"`,
	} {
		err := rotate("-", strings.NewReader(in), &bytes.Buffer{})
		var bad badInput
		require.ErrorAs(t, err, &bad, in)
		assert.Contains(t, err.Error(), says)
		assert.NotContains(t, err.Error(), "\n")
	}
}

func TestSheetFitOnFiles(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, fitSheet("-", strings.NewReader(`{"segments":[{"id":"warm","kind":"","name":"Warm","rank":"must","min":5,"want":8,"max":10,"minutes":0},{"id":"live","kind":"","name":"Live","rank":"if there is time","min":5,"want":10,"max":20,"minutes":0}],"minutes":9}`), &out))
	assert.Contains(t, out.String(), `"needs": 1`)
	err := fitSheet("-", strings.NewReader(`{"segments":[{"id":"warm","kind":"","name":"Warm","rank":"must","min":9,"want":8,"max":10,"minutes":0}],"minutes":9}`), &out)
	assert.ErrorContains(t, err, "they go upward")
}
