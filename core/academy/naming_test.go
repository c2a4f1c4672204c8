package academy

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestRenamed(t *testing.T) {
	for _, c := range []struct{ name, body, want string }{
		{"who leads", `{"id":"ed","lead":"ed","items":[{"unit":"ed","kind":"teach"}]}`, `{"id":"ed","items":[{"kind":"teach","unit":"ed"}],"lead":"gone-1"}`},
		{"rounds", `{"rounds":[{"groups":[["ed","eda"]],"coach":["ed"]}],"paired":["fred","ed"]}`, `{"paired":["fred","gone-1"],"rounds":[{"coach":["gone-1"],"groups":[["gone-1","eda"]]}]}`},
		{"stations", `{"stations":{"stations":[{"id":"ed","for":["ed"],"name":"ed"}],"by":"ed","coaches":["ed"]}}`, `{"stations":{"by":"ed","coaches":["gone-1"],"stations":[{"for":["gone-1"],"id":"ed","name":"ed"}]}}`},
		{"a note", `{"notes":[{"by":"ed","text":"ed \"ed\""}],"never_with":["ed"]}`, `{"never_with":["gone-1"],"notes":[{"by":"gone-1","text":"ed \"ed\""}]}`},
		{"a season", `{"chances":[{"student":"ed","class":"ed","chance":0.30}],"name":"ed"}`, `{"chances":[{"chance":0.30,"class":"ed","student":"gone-1"}],"name":"ed"}`},
		{"nobody", `{"name": "ed", "lead":"eda"}`, `{"name": "ed", "lead":"eda"}`},
	} {
		got, changed, err := Renamed([]byte(c.body), "ed", "gone-1")
		require.NoError(t, err, c.name)
		assert.Equal(t, c.want, string(got), c.name)
		assert.Equal(t, c.name != "nobody", changed, c.name)
	}
	_, _, err := Renamed([]byte(`{"lead":`), "ed", "gone-1")
	assert.Error(t, err)
}
