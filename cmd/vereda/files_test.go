package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/demo"
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

func bundleText(t *testing.T) string {
	t.Helper()
	text, err := demo.Bundle()
	require.NoError(t, err)
	return string(text)
}

func TestMapReportOnFiles(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, reportMap("-", "", strings.NewReader(bundleText(t)), &out))
	var r library.MapReport
	require.NoError(t, json.Unmarshal(out.Bytes(), &r))
	assert.Equal(t, 84, r.Places)
	assert.Contains(t, r.Dilemmas, []string{"cross-hook-stand", "cross-hook-back-tip"})
	assert.NotEmpty(t, r.Circuits)
	assert.Empty(t, r.Opens, "everything is on the map")
	out.Reset()
	require.NoError(t, reportMap("-", "blue-1", strings.NewReader(bundleText(t)), &out))
	require.NoError(t, json.Unmarshal(out.Bytes(), &r))
	assert.NotEmpty(t, r.Opens)
	assert.NotEmpty(t, r.Unanswered)

	var bad badInput
	require.ErrorAs(t, reportMap("-", "green-9", strings.NewReader(bundleText(t)), &out), &bad)
	assert.Contains(t, bad.Error(), `curricula: there is no "green-9"`)
	require.ErrorAs(t, reportMap("x.json", "", strings.NewReader("{}"), &out), &bad)
	err := reportMap("-", "", strings.NewReader(`{"format":"vereda-bundle/1","techniques":[{"id":"a"},{"id":"b"}]}`), &out)
	require.ErrorAs(t, err, &bad)
	assert.NotContains(t, err.Error(), "\n", "one line")
}

func TestAuditOnFiles(t *testing.T) {
	var out bytes.Buffer
	require.ErrorIs(t, auditBundle("-", "", strings.NewReader(bundleText(t)), &out), errBlocked, "the demo's draft holds blocking findings")
	var all auditAnswer
	require.NoError(t, json.Unmarshal(out.Bytes(), &all))
	assert.Len(t, all.Curricula, 11)
	for _, c := range all.Curricula {
		blocks := 0
		for _, f := range c.Findings {
			if f.Severity == curriculum.Blocks && f.Accepted == "" {
				blocks++
			}
		}
		if c.State == "published" {
			assert.Zero(t, blocks, "%s is published", c.ID)
		}
		if c.ID == "brown-2" {
			assert.Equal(t, all.Blocks, blocks, "the draft alone holds them")
		}
		assert.Positive(t, c.Minutes, c.ID)
	}
	out.Reset()
	require.NoError(t, auditBundle("-", "blue-1", strings.NewReader(bundleText(t)), &out))
	require.NoError(t, json.Unmarshal(out.Bytes(), &all))
	require.Len(t, all.Curricula, 1)
	assert.Equal(t, "blue-1", all.Curricula[0].ID)
	assert.Zero(t, all.Blocks)

	var bad badInput
	require.ErrorAs(t, auditBundle("-", "green-9", strings.NewReader(bundleText(t)), &out), &bad)
	assert.Contains(t, bad.Error(), `curricula: there is no "green-9"`)
	require.ErrorAs(t, auditBundle("x.json", "", strings.NewReader("{}"), &out), &bad)
	assert.NotErrorIs(t, bad, errBlocked)
}

// The schemas that are committed are what the types say.
func TestSchemasAreCurrent(t *testing.T) {
	for name, of := range schemas {
		want, err := schemaText(name, of)
		require.NoError(t, err)
		have, err := os.ReadFile("../../exchange/schema/" + name + ".json")
		require.NoError(t, err)
		assert.Equal(t, string(want), string(have), "%s: run make gen", name)
	}
}

// Whatever is thrown at the table's reader, it answers or says what is wrong in
// one line.
func FuzzCheckTable(f *testing.F) {
	f.Add(`{"cues":[{"id":"a","values":["x","y"]}],"rows":[{"id":"r","when":{"a":["x"]},"then":"t","priority":1}]}`)
	f.Add(`{"cues":[],"rows":[]}`)
	f.Fuzz(func(t *testing.T, in string) {
		var out bytes.Buffer
		err := checkTable("-", strings.NewReader(in), &out)
		if err == nil {
			var back tableAnswer
			require.NoError(t, json.Unmarshal(out.Bytes(), &back))
			return
		}
		var bad badInput
		require.ErrorAs(t, err, &bad)
	})
}

// The library that ships has nothing a careful reader calls impossible, unsafe or empty; what is left are answers that serve many forks.
func TestTheLibraryThatShipsIsReadCritically(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, checkLibrary("../../demo/library", &out))
	var r libraryReview
	require.NoError(t, json.Unmarshal(out.Bytes(), &r))
	assert.Greater(t, r.Techniques, 200)
	assert.Empty(t, r.Problems)
	for _, f := range r.Findings {
		assert.Equal(t, "answers too many", f.Code, "%s: %s", f.ID, f.What)
	}
	bundle := filepath.Join(t.TempDir(), "hall.json")
	require.NoError(t, os.WriteFile(bundle, []byte(bundleText(t)), 0o600))
	out.Reset()
	require.NoError(t, checkLibrary(bundle, &out))
	var whole libraryReview
	require.NoError(t, json.Unmarshal(out.Bytes(), &whole))
	assert.Equal(t, r.Techniques, whole.Techniques)

	var bad badInput
	require.ErrorAs(t, checkLibrary(t.TempDir(), &out), &bad)
	assert.Contains(t, bad.Error(), "there is no Markdown file in it")
	require.ErrorAs(t, checkLibrary("/nowhere", &out), &bad)
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "x.md"), []byte("---\nid: x\nname: [\n---\n"), 0o600))
	require.ErrorAs(t, checkLibrary(folder, &out), &bad)
	assert.Contains(t, bad.Error(), "x.md")
}
