package app_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/ledger"
	"vereda/internal/testkit"
)

// What was foretold on earlier days of the demo's past held in about eight of ten, and about as much came as was to come.
func TestRangesHeldOnTheDemosPast(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, _ := lived(t)
	all := ledger.Backtest{}
	for _, weeks := range []int{4, 8, 12, 16, 20} {
		page, err := a.Students.Backtest(t.Context(), head, weeks)
		require.NoError(t, err)
		n := page.Needs
		t.Logf("%d weeks: %d students, judged %d, held %.0f %% (before %d, after %d); of %d open %.0f were to be there, %d are", weeks, page.Students, n.Judged, 100*n.Held(), n.Before, n.After, n.All, n.Expected, n.Came)
		assert.Greater(t, page.Students, 75)
		assert.Equal(t, n.Judged, n.Within+n.Before+n.After)
		all = all.Add(n)
	}
	t.Logf("together %.1f %% of %d held; %.0f were to be there, %d are", 100*all.Held(), all.Judged, all.Expected, all.Came)
	assert.InDelta(t, 0.8, all.Held(), 0.1, "eight of ten")
	assert.InDelta(t, 1, all.Expected/float64(all.Came), 0.25)
	_, err := a.Students.Backtest(t.Context(), head, 3)
	assert.ErrorContains(t, err, "say 4 to 26")
}
