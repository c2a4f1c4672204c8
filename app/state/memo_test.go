package state

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/calendar"
)

// However many events pass and days are asked for, little is held; what is asked for again is right.
func TestAMemoHoldsLittle(t *testing.T) {
	s := &Snapshot{Log: newLog(), memo: &memo{}}
	computed := 0
	for i := range 10_000 {
		assert.Equal(t, i, Remember(s, i, func() int { computed++; return i }))
		assert.Equal(t, i, Remember(s, i, func() int { computed++; return -1 }))
	}
	assert.Equal(t, 10_000, computed)
	n := 0
	s.memo.Range(func(_, _ any) bool { n++; return true })
	assert.LessOrEqual(t, n, mostRemembered)
	for day := range calendar.Day(100) {
		past := s.AsOf(day)
		assert.Same(t, past, s.AsOf(day))
		assert.LessOrEqual(t, s.memo.pasts(), int64(pastSnapshots))
	}
	assert.Equal(t, int64(pastSnapshots), s.memo.pasts())
}

// What takes the place of itself is one thing, however often it does: it makes nothing else forgotten.
func TestWhatIsReplacedCountsOnce(t *testing.T) {
	s := &Snapshot{Log: newLog(), memo: &memo{}}
	computed := 0
	kept := func() int { return Remember(s, "kept", func() int { computed++; return 7 }) }
	for i := range 1000 {
		assert.Equal(t, i, RememberLast(s, "line", i, func() int { return i }))
		assert.Equal(t, 7, kept())
	}
	assert.Equal(t, 1, computed)
}
