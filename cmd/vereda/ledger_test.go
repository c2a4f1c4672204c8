package main

import (
	"bytes"
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestChecksOfTonightOnFiles(t *testing.T) {
	var out bytes.Buffer
	in := `{"minutes":12,"change_minutes":0.5,"coaches":[{"id":"c1","signoffs":["leg-attacks"]}],
		"candidates":[{"student":"s1","technique":"t1","side":"right","minutes":2,"value":0.8,"signoff":""},{"student":"s1","technique":"t2","side":"left","minutes":2,"value":0.5,"signoff":"neck"}],"most_per_student":2}`
	require.NoError(t, chooseChecks("-", strings.NewReader(in), &out))
	assert.JSONEq(t, `{"checks":[{"coach":"c1","student":"s1","technique":"t1","side":"right","start":0}],"value":0.8,"bound":0.8,"proven":true}`, withoutElapsed(t, out.String()))
	for bad, says := range map[string]string{
		`{"minutes":-1,"candidates":[]}`: `minutes: -1 is outside 0 to 480`,
		`{"minutes":9,"candidates":[{"student":"s","technique":"t","minutes":0,"value":1}]}`:           `candidates[0].minutes: 0 is outside more than 0`,
		`{"minutes":9,"candidates":[{"student":"s","technique":"t","minutes":2,"value":1,"worth":1}]}`: `unknown field "worth"`,
	} {
		assert.ErrorContains(t, chooseChecks("-", strings.NewReader(bad), &bytes.Buffer{}), says)
	}
}

func TestReadinessOnFiles(t *testing.T) {
	var out bytes.Buffer
	in := `{"today":"2026-11-24","earliest":"2026-11-24","needs":[{"id":"a","halves":2,"check":false}],"checks_per_visit":0.5,"pass_rate":0.8,
		"sessions":[{"on":"2026-11-24","class":"c","chance":0.5,"touches":[{"need":0,"halves":2}]},{"on":"2026-12-01","class":"c","chance":0.5,"touches":[{"need":0,"halves":2}]},{"on":"2026-12-08","class":"c","chance":0.9,"touches":[{"need":0,"halves":2}]}]}`
	require.NoError(t, foretell("-", strings.NewReader(in), &out))
	assert.JSONEq(t, `{"p10":"2026-11-24","p50":"2026-11-24","p90":"2026-12-08","within":0.975,"last":[{"id":"a","share":0.025}],"exact":true}`, withoutForward(t, out.String()))
	for bad, says := range map[string]string{
		strings.Replace(in, `"need":0`, `"need":3`, 1):                   `sessions[0].touches[0].need: `,
		strings.Replace(in, `"chance":0.5`, `"chance":1.5`, 1):           `sessions[0].chance: 1.5 is outside 0 to 1`,
		strings.Replace(in, `"on":"2026-12-08"`, `"on":"2026-11-30"`, 1): `sessions[2].on: `,
	} {
		assert.ErrorContains(t, foretell("-", strings.NewReader(bad), &bytes.Buffer{}), says)
	}
}

func withoutForward(t *testing.T, text string) string {
	var m map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &m))
	delete(m, "elapsed_ms")
	delete(m, "forward")
	m["within"] = math.Round(m["within"].(float64)*1e9) / 1e9
	for _, x := range m["last"].([]any) {
		l := x.(map[string]any)
		l["share"] = math.Round(l["share"].(float64)*1e9) / 1e9
	}
	out, err := json.Marshal(m)
	require.NoError(t, err)
	return string(out)
}

func TestRetentionAndTestDayOnFiles(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, fitRetention("-", strings.NewReader(`{"courses":[{"checks":[{"on":"2026-01-01","met":true},{"on":"2026-02-01","met":false}]}]}`), &out))
	var fit struct {
		Checks int  `json:"checks"`
		Enough bool `json:"enough_data"`
	}
	require.NoError(t, json.Unmarshal(out.Bytes(), &fit))
	assert.Equal(t, 1, fit.Checks)
	assert.False(t, fit.Enough)
	assert.ErrorContains(t, fitRetention("-", strings.NewReader(`{"courses":[{"checks":[{"on":"2026-02-01","met":true},{"on":"2026-01-01","met":false}]}]}`), &out), `courses[0].checks[1].on: `)
	out.Reset()
	require.NoError(t, planTestDay("-", strings.NewReader(`{"minutes":30,"change_minutes":1,"rest_minutes":2,"examiners":[{"id":"e","signoffs":[]}],"people":[{"id":"a","kg":70,"helps":true,"tests":[{"id":"t","minutes":4,"hard":1}]},{"id":"b","kg":75,"helps":true,"tests":[]}]}`), &out))
	assert.JSONEq(t, `{"slots":[{"person":"a","test":"t","examiner":"e","partner":"b","start":0,"end":4}],"end":4,"bound":4,"proven":true,"mean_gap_kg":5,"left_out":[]}`, out.String())
	assert.ErrorContains(t, planTestDay("-", strings.NewReader(`{"minutes":0,"examiners":[],"people":[]}`), &out), `minutes: `)
}
