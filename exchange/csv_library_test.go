package exchange

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/library"
)

func TestALibraryAsCSV(t *testing.T) {
	read := ReadFolder([]TextFile{
		{"positions.csv", []byte("Name;Family;Also;Attacker;Defender\nClosed guard;guards;Guarda fechada; Below, legs locked;On top, straight back\nMount;pins;;On top;Elbows in\n")},
		{"techniques.csv", []byte("technique,type,starts,ends,description,gi,loads,teach minutes,steps\n" +
			"Hip bump sweep,Sweep,Closed guard,Mount,Sit up and over,,,6,Open the ankles; {Right} arm over\n" +
			"Straight arm lock,submission,Closed guard,,The arm across,,elbow,9,\n" +
			"Elbow escape,escape,Mount/defend,closed-guard,Elbow to knee,no,,,\n")},
	})
	positions, techniques, _, _, err := LibraryOf(read)
	require.NoError(t, err)
	require.Len(t, positions, 2)
	assert.Equal(t, library.Position{ID: "closed-guard", Name: "Closed guard", Family: "guards", Aliases: []string{"Guarda fechada"}, Attacker: "Below, legs locked", Defender: "On top, straight back"}, positions[0])
	require.Len(t, techniques, 3)
	lib := library.New(positions, techniques)
	for _, x := range techniques {
		for _, p := range lib.Check(x) {
			assert.True(t, p.Warn, "%s: %v", x.ID, p)
		}
	}
	bump, lock, escape := techniques[0], techniques[1], techniques[2]
	assert.Equal(t, &library.Place{Position: "mount", Part: library.Attack}, bump.To)
	assert.Equal(t, library.Text("{Right} arm over"), bump.KeyPoints[1].Cue)
	assert.Equal(t, 6, bump.TeachMinutes)
	assert.Equal(t, library.Right, bump.Taught)
	assert.True(t, lock.Finish)
	assert.Equal(t, "elbow", string(lock.Risks[0]))
	assert.Equal(t, &library.Place{Position: "mount", Part: library.Defend}, escape.From)
	assert.Equal(t, library.NoGi, escape.Context)

	for text, says := range map[string]string{
		"":                            "it is empty",
		"what,why\nx,y\n":             "no column is called name",
		"name,notes\nx,y\n":           "no column is called kind (techniques) or family (positions)",
		"name,kind\n":                 "there is no row",
		"name,kind,minutes\nx,y,ten":  `x.csv, line 2: minutes: "ten" is no whole number`,
		"name,kind,minutes\n,sweep,3": "x.csv, line 2: name: is empty",
	} {
		read := ReadFolder([]TextFile{{"x.csv", []byte(text)}})
		require.NotEmpty(t, read, text)
		require.NotEmpty(t, read[0].Wrong, text)
		assert.Contains(t, read[0].Wrong[0], says)
	}
}
