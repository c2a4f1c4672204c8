package state

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"vereda/store"
)

func TestHeldIsBounded(t *testing.T) {
	now := time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC)
	h := newHeld(100)
	k := func(revision int64) *known {
		return &known{snapshot: &Snapshot{Log: newLog()}, contents: store.Contents{Head: store.Head{Revision: revision}}}
	}
	h.put("a", k(1), 60, now)
	h.put("b", k(1), 60, now)
	assert.Nil(t, h.get("a", now), "asked for longest ago, it goes first")
	assert.NotNil(t, h.get("b", now))
	h.put("c", k(1), 500, now)
	assert.NotNil(t, h.get("c", now), "the one just asked for is held, however large")
	assert.Nil(t, h.get("b", now))
	h.put("c", k(3), 10, now)
	h.put("c", k(2), 10, now)
	assert.Equal(t, int64(3), h.get("c", now).contents.Head.Revision, "an older reading does not replace a newer one")
	h.put("d", k(1), 10, now)
	assert.NotNil(t, h.get("d", now.Add(mostIdle)))
	assert.Nil(t, h.get("c", now.Add(mostIdle)), "nobody asked for it")
	assert.Equal(t, int64(10), h.total)
	s := &State{held: h}
	ids, versions := s.InUse()
	assert.Equal(t, []string{"d"}, ids)
	assert.Equal(t, map[string]HeldVersion{"d": {Revision: 1}}, versions)
	assert.Nil(t, h.get("a", now.Add(mostIdle)))
}
