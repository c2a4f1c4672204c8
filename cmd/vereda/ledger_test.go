package main

import (
	"bytes"
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
