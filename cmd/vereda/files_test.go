package main

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTableCheckOnFiles(t *testing.T) {
	var out bytes.Buffer
	in := `{"cues":[{"id":"collar","values":["held","free"]},{"id":"partner","values":["sits","flat","tilts"]}],
		"rows":[{"id":"r1","when":{"collar":["held"]},"then":"knee-cut","priority":1},{"id":"r2","when":{"collar":["held"],"partner":["sits"]},"then":"knee-cut","priority":1},
		{"id":"r3","when":{"collar":["held"],"partner":["flat"]},"then":"snap-down","priority":2}]}`
	require.NoError(t, checkTable("-", strings.NewReader(in), &out))
	assert.JSONEq(t, `{"situations":6,"answered":3,"contradicted":0,"uncovered":[{"collar":["free"]}],"contradictions":[],"unreachable":["r3"],"redundant":["r2"],
		"minimal":[{"when":{"collar":["held"]},"then":"knee-cut"}],"minimal_exact":true}`, out.String())
	var back tableAnswer
	require.NoError(t, json.Unmarshal(out.Bytes(), &back))
}

func TestBadFilesAreNamedWithPlaceAndMend(t *testing.T) {
	for in, says := range map[string]string{
		"{\n\"cues\":[}":           "-: line 2: ",
		`{"cuse":[]}`:              `unknown field "cuse"`,
		`{"cues":[],"rows":[]} {}`: "something follows the document",
		`{"cues":[{"id":"a","values":[]}],"rows":[]}`:                                                         "cues[0].values: 0 values: a cue has 1 to 64",
		`{"cues":[{"id":"a","values":["x"]}],"rows":[{"id":"r","when":{"b":["x"]},"then":"t","priority":1}]}`: `rows[0].when: "b" is not a cue of this table`,
	} {
		err := checkTable("-", strings.NewReader(in), &bytes.Buffer{})
		var bad badInput
		require.ErrorAs(t, err, &bad, in)
		assert.Contains(t, err.Error(), says)
		assert.NotContains(t, err.Error(), "\n", "one line")
	}
	err := checkTable("/nowhere/table.json", nil, &bytes.Buffer{})
	assert.EqualError(t, err, "/nowhere/table.json: it cannot be opened: no such file or directory")
}
