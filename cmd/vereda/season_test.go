package main

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const twoWeeks = `{"weeks":3,
 "tracks":[{"id":"fund","mode":"split","school":"block","assumed":["u0"]}],
 "classes":[{"id":"mon18","track":"fund","weekday":1,"start":"18:00","teach_minutes":35}],
 "closures":[{"week":3}],
 "units":[{"id":"u0","tracks":["fund"],"minutes":10,"review_minutes":5,"area":"moves"},
  {"id":"u1","tracks":["fund"],"minutes":20,"review_minutes":8,"requires":["u0"],"area":"half-guard","signoff":"leg-attacks"}],
 "students":[{"id":"s1","chance":{"mon18":0.7},"open":[{"unit":"u1","need":2,"had":0.5,"weight":1}]}],
 "coaches":[{"id":"c1","available":["mon18"],"out":[],"signoffs":["leg-attacks"],"max_per_week":4,"share":0.2}],
 "fixed":FIXED,
 "spacing":{"weeks":[1,3,7],"tolerance":1},
 "goal":"coverage","seconds":0.1,"seed":1}`

func seasonText(fixed string) string { return strings.Replace(twoWeeks, "FIXED", fixed, 1) }

func TestSeasonPlanOnFiles(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, planSeason("-", strings.NewReader(seasonText("[]")), &out))
	var a seasonAnswer
	require.NoError(t, json.Unmarshal(out.Bytes(), &a))
	assert.InDelta(t, 0.49, a.Coverage, 1e-9, "1.5 exposures are missing: both evenings, 0.7 × 0.7")
	assert.InDelta(t, 0.49, a.Bound, 1e-9)
	assert.True(t, a.Proven)
	assert.Len(t, a.Placements, 2)
	require.NotEmpty(t, a.Reasons)
	assert.Equal(t, "u1", a.Reasons[0].Unit)
	assert.Contains(t, a.Scores, "spacing")

	plan := out.String()
	out.Reset()
	require.NoError(t, repairSeason("-", strings.NewReader(`{"season":`+seasonText("[]")+`,"plan":`+plan+`,"changes":[{"kind":"cancelled","week":2,"class":"mon18"}],"first_week":1}`), &out))
	var r repairAnswer
	require.NoError(t, json.Unmarshal(out.Bytes(), &r))
	require.Len(t, r.Changes, 1)
	assert.Equal(t, 2, r.Changes[0].Week)
	assert.Nil(t, r.Changes[0].After)
	assert.True(t, r.Fewest)
}

func TestSeasonConflictsAndBadInput(t *testing.T) {
	var out bytes.Buffer
	err := planSeason("-", strings.NewReader(seasonText(`[{"week":3,"class":"mon18","lead":"c1","items":[{"unit":"u1","kind":"teach"}]}]`)), &out)
	require.ErrorIs(t, err, errConflict)
	var c struct {
		Conflict []string `json:"conflict"`
		Smallest bool     `json:"smallest"`
	}
	require.NoError(t, json.Unmarshal(out.Bytes(), &c))
	assert.Equal(t, []string{"week 3, mon18 is fixed: teach u1, led by c1", "week 3: every class is closed"}, c.Conflict)
	assert.True(t, c.Smallest)

	for text, want := range map[string]string{
		strings.Replace(seasonText("[]"), `"weekday":1`, `"weekday":9`, 1): "classes[0].weekday: 9 is outside",
		`{"weeks":3,"wheels":4}`: "line 1",
		`{"weeks":`:              "line 1",
	} {
		var bad badInput
		require.ErrorAs(t, planSeason("x.json", strings.NewReader(text), &out), &bad, text) // x.json is not there
		require.ErrorAs(t, planSeason("-", strings.NewReader(text), &out), &bad, text)
		assert.Contains(t, bad.Error(), want)
		assert.NotContains(t, bad.Error(), "\n")
	}
	var bad badInput
	require.ErrorAs(t, repairSeason("-", strings.NewReader(`{"season":`+seasonText("[]")+`,"plan":{"placements":[]},"changes":[{"kind":"flood","week":1}],"first_week":1}`), &out), &bad)
	assert.Contains(t, bad.Error(), "changes[0]")
	require.ErrorAs(t, repairSeason("-", strings.NewReader(`{"season":`+seasonText("[]")+`,"plan":{"placements":[]},"changes":[],"first_week":0}`), &out), &bad)
	assert.Contains(t, bad.Error(), "first_week")
}
